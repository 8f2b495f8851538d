import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { UnitCode, UnitsOverview } from "../api/types";
import { FIGURES } from "../app/theme";
import { Frozen } from "./Frozen";

const ROLE: Record<UnitCode["role"], string> = { cause: "cause", echo: "echo", own: "by itself" };
const RETURNED: Record<UnitCode["returned"], string> = {
  "not-known": "",
  "at-once": "back at once",
  "after-drive": "back after the drive",
  "not-back": "not back",
  new: "new since clearing",
};

/** Every unit with its codes: which are causes, which only echo, and in which order to work. */
export function Units({ overview }: { overview: UnitsOverview }) {
  return (
    <Box component="section" aria-label="Units">
      <Typography sx={{ fontSize: "1.15rem", fontWeight: 600 }}>{overview.says}</Typography>
      <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
        Read with {overview.tool}, entry {overview.scan_entry}
        {overview.compared_with != null && `, compared with entry ${overview.compared_with} from before the clearing`}.{" "}
        {overview.order_because}
      </Typography>
      {overview.units.map((unit) => (
        <Box
          key={unit.unit}
          sx={{
            display: "grid",
            gridTemplateColumns: "3.5rem 9rem 1fr",
            gap: 2,
            py: 1,
            borderTop: 1,
            borderColor: "divider",
            alignItems: "baseline",
          }}
        >
          <Box sx={{ fontFamily: FIGURES, fontSize: "1.5rem", fontWeight: 600 }}>
            {unit.work != null && <span title="place in the order of the work">{unit.work}.</span>}
          </Box>
          <Box>
            <Box sx={{ fontSize: "1.15rem", fontWeight: 700 }}>{unit.unit}</Box>
            {!unit.read && <Box sx={{ fontWeight: 600 }}>not read</Box>}
          </Box>
          <Box>
            {unit.codes.length === 0 && (
              <Box sx={{ color: "text.secondary" }}>
                {unit.read ? "no codes" : "An unread unit is not a clean one."}
              </Box>
            )}
            {unit.codes.map((code) => (
              <Box key={code.code} sx={{ mb: 0.5, color: code.returned === "not-back" ? "text.secondary" : undefined }}>
                <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 1.5, alignItems: "center" }}>
                  <Box sx={{ fontFamily: FIGURES, fontSize: "1.2rem", fontWeight: 600 }}>{code.code}</Box>
                  <Box
                    sx={{
                      border: 1,
                      borderStyle: code.role === "cause" && code.returned !== "not-back" ? "solid" : "dashed",
                      borderColor: "text.secondary",
                      px: 0.75,
                      fontWeight: code.role === "cause" && code.returned !== "not-back" ? 700 : 400,
                    }}
                  >
                    {code.returned === "not-back" ? "stale" : ROLE[code.role]}
                  </Box>
                  {code.returned !== "not-known" && <Box sx={{ fontWeight: 600 }}>{RETURNED[code.returned]}</Box>}
                  <Box sx={{ color: "text.secondary" }}>{code.status ?? "status not given"}</Box>
                  <Box>{code.text}</Box>
                  <Frozen values={code.freeze ?? []} code={code.code} />
                </Box>
                {code.because && (
                  <Typography variant="body2" color="text.secondary">
                    {code.because}
                  </Typography>
                )}
              </Box>
            ))}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
