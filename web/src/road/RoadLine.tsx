import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { Link } from "react-router";
import type { JobView, Station } from "../api/types";
import { heat } from "../app/heat";
import { FIGURES } from "../app/theme";
import { km, sure, whole } from "../app/words";

/** The odometer line: codes, swaps, repairs, and the clean distance with the confidence that grows on it. */
export function RoadLine({ job }: { job: JobView }) {
  const { palette } = useTheme();
  const { road, proof, repair } = job.state;
  const stops = road.stations;
  const confidence = proof?.result?.confidence;
  return (
    <Box
      component="section"
      aria-label="Road"
      tabIndex={0}
      sx={{ borderTop: 1, borderColor: "divider", mt: 1, pt: 0.75, overflowX: "auto", flexShrink: 0 }}
    >
      <Box component="ol" sx={{ display: "flex", listStyle: "none", m: 0, p: 0, minWidth: "fit-content" }}>
        {stops.length === 0 && (
          <Box component="li" sx={{ color: "text.secondary", py: 1 }}>
            The road begins at {km(road.to_km)}. Codes, swaps, repairs and clean distance will stand here.
          </Box>
        )}
        {stops.map((stop) => {
          const { clean, to_next_km: toNext } = stop;
          return (
            <Box component="li" key={stop.km} sx={{ flex: toNext != null ? 1 : "0 0 auto", minWidth: 118 }}>
              <Box sx={{ display: "flex", alignItems: "center", height: 22 }}>
                <StopMark station={stop} />
                {toNext != null && (
                  <>
                    <Box
                      sx={{
                        flex: 1,
                        height: clean ? 8 : 0,
                        borderTop: clean ? 0 : `3px solid ${palette.divider}`,
                        bgcolor: clean && confidence != null ? heat(confidence) : "transparent",
                        border: clean ? `1px solid ${palette.iron.line}` : undefined,
                      }}
                    />
                    <Box sx={{ px: 0.5, fontSize: "0.82rem", color: "text.secondary", whiteSpace: "nowrap" }}>
                      {km(toNext)}
                    </Box>
                    <Box sx={{ width: 10, borderTop: `3px solid ${palette.divider}` }} />
                  </>
                )}
              </Box>
              <Box sx={{ fontFamily: FIGURES, fontSize: "0.85rem", fontWeight: 600 }}>
                {stop.up_to_km > stop.km ? `${whole(stop.km)}–${whole(stop.up_to_km)}` : whole(stop.km)}
              </Box>
              <Box sx={{ fontSize: "0.85rem", lineHeight: 1.2, pr: 1 }}>
                {stop.lines.map((line) => (
                  <Box key={line}>{line}</Box>
                ))}
              </Box>
            </Box>
          );
        })}
        {proof?.result && repair && (
          <Box component="li" sx={{ pl: 2, minWidth: 170, alignSelf: "center" }}>
            <Box component={Link} to={`/jobs/${job.id}/proof`} sx={{ color: "inherit" }}>
              <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 600, fontSize: "1.2rem" }}>
                {sure(proof.result.confidence)}
              </Box>{" "}
              sure it is gone
            </Box>
            <Box sx={{ fontSize: "0.9rem", color: "text.secondary" }}>
              {km(repair.clean_km)} clean
              {proof.further_km ? `, ${km(Math.ceil(proof.further_km))} to go` : ""}
            </Box>
          </Box>
        )}
      </Box>
    </Box>
  );
}

/** The shape of the weightiest thing that happened there; the words beneath say the rest. */
function StopMark({ station }: { station: Station }) {
  const { palette } = useTheme();
  const ink = palette.text.primary;
  const shape = {
    fitted: <rect x="3" y="3" width="14" height="14" fill={ink} />,
    swap: (
      <path d="M2 7 H14 M10 3 L15 7 L10 11 M18 13 H6 M10 9 L5 13 L10 17" fill="none" stroke={ink} strokeWidth="2" />
    ),
    codes: <path d="M10 1.5 L18.5 10 L10 18.5 L1.5 10 Z" fill={ink} />,
    fault: <path d="M2 18 L6 5 L10 12 L14 3 L18 18 Z" fill={ink} />,
    counted: <path d="M3 17 V11 H6 V17 Z M8.5 17 V3 H11.5 V17 Z M14 17 V13 H17 V17 Z" fill={ink} />,
    cleared: <path d="M10 2.5 L17.5 10 L10 17.5 L2.5 10 Z" fill="none" stroke={ink} strokeWidth="2" />,
    clean: <circle cx="10" cy="10" r="6.5" fill="none" stroke={ink} strokeWidth="3" />,
  }[station.kind];
  return (
    <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true" style={{ marginRight: 4, flexShrink: 0 }}>
      {shape}
    </svg>
  );
}
