import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import type { JobView } from "../api/types";
import { Glow } from "../app/Glow";
import { FIGURES } from "../app/theme";
import { sure } from "../app/words";

/** The suspects: how bright an ember glows is how likely it is. */
export function Embers({ job }: { job: JobView }) {
  const { embers, misfire, swap_in_force: swap, repair } = job.state;
  const verdict = swap?.result;
  return (
    <Box component="section" aria-label="Embers">
      <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          What it may be
        </Typography>
        {misfire && (
          <Button component={Link} to={`/jobs/${job.id}/counts`} color="inherit" size="small">
            The counts
          </Button>
        )}
      </Box>
      {verdict && (
        <Typography sx={{ fontWeight: 600 }}>
          Swap: {verdict.verdict}
          {verdict.decided ? ", decided" : ""}
        </Typography>
      )}
      {verdict?.warnings.map((warning) => (
        <Typography key={warning} variant="body2">
          Mind: {warning}.
        </Typography>
      ))}
      {embers.length === 0 && (
        <Typography color="text.secondary" sx={{ py: 1 }}>
          {repair?.part
            ? `Out: the ${repair.part} was replaced. What counts now is the proof.`
            : "Cold: nothing has been counted yet. Read the codes, then count misfires per cylinder."}
        </Typography>
      )}
      {embers.slice(0, 6).map((ember) => (
        <Box key={ember.what} sx={{ display: "flex", alignItems: "center", gap: 1, py: 0.5 }} title={ember.because}>
          <Glow likelihood={ember.probability} size={26} />
          <Box sx={{ flex: 1, lineHeight: 1.2 }}>{ember.what}</Box>
          <Box sx={{ fontFamily: FIGURES, fontWeight: 600 }}>{sure(ember.probability)}</Box>
        </Box>
      ))}
      {misfire && !verdict && !repair && (
        <Typography variant="body2" color="text.secondary">
          {misfire.result.says} {misfire.outdated ? "Counted before the last change." : ""}
        </Typography>
      )}
    </Box>
  );
}
