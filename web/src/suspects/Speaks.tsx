import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import type { Suspect } from "../api/types";
import { FIGURES } from "../app/theme";
import { minutes, whole } from "../app/words";
import { decibans } from "./names";

/** What speaks for and against one suspect, the strongest first. */
export function Speaks({ suspect, most = 99 }: { suspect: Suspect; most?: number }) {
  return (
    <Box sx={{ pl: 1, pb: 1 }}>
      {suspect.speaks.length === 0 && (
        <Typography variant="body2" color="text.secondary">
          Nothing found so far speaks of it either way.
        </Typography>
      )}
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {suspect.speaks.length > 0 && (
          <Box component="li" sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
            In decibans, for (+) and against (−):
          </Box>
        )}
        {suspect.speaks.slice(0, most).map((one) => (
          <Box
            component="li"
            key={`${one.test}-${one.findings.join()}-${one.says}`}
            sx={{ display: "grid", gridTemplateColumns: "3.4rem 1fr", columnGap: 1, py: 0.25, lineHeight: 1.25 }}
          >
            <Box sx={{ fontFamily: FIGURES, textAlign: "right" }}>{decibans(one.decibans)}</Box>
            <Box>
              {one.says}
              <Box component="span" sx={{ color: "text.secondary" }}>
                {" "}
                {one.words}
              </Box>
            </Box>
          </Box>
        ))}
      </Box>
      {suspect.leaves_unexplained.length > 0 && (
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          Would not explain: {suspect.leaves_unexplained.join(", ")}.
        </Typography>
      )}
      {suspect.repair && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 0.25 }}>
          To mend it: {minutes(suspect.repair.minutes)} with the check, parts {whole(suspect.repair.money)}.
        </Typography>
      )}
      {suspect.fault !== "not-in-the-book" && (
        <Button component={Link} to={`/book/faults/${suspect.fault}`} color="inherit" size="small" sx={{ px: 0 }}>
          Read it in the book
        </Button>
      )}
    </Box>
  );
}
