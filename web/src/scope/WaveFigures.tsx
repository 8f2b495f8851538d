import Box from "@mui/material/Box";
import type { WaveformResult } from "../api/bench";
import { FIGURES } from "../app/theme";
import { figure } from "../bench/Bands";

/** Every figure with its spread, and cylinder by cylinder; the odd ones are marked. */
export function WaveFigures({ result }: { result: WaveformResult }) {
  const cylinders = [...new Set(result.figures.flatMap((one) => Object.keys(one.cylinders)))].sort(
    (a, b) => Number(a) - Number(b),
  );
  const odd = (name: string, cylinder: string) =>
    result.odd.some((one) => one.figure === name && one.cylinder === Number(cylinder));
  const cell = { px: 1, py: 0.4, textAlign: "right", fontFamily: FIGURES, whiteSpace: "nowrap" } as const;
  return (
    <Box sx={{ overflowX: "auto" }}>
      <Box component="table" aria-label="Figures of the capture" sx={{ borderCollapse: "collapse", width: "100%" }}>
        <thead>
          <tr>
            <Box component="th" scope="col" sx={{ textAlign: "left", fontWeight: 400, color: "text.secondary" }}>
              the middle one, from least to most
            </Box>
            <Box component="th" scope="col" sx={{ ...cell, fontWeight: 400, color: "text.secondary" }}>
              of all
            </Box>
            {cylinders.map((one) => (
              <Box component="th" scope="col" key={one} sx={cell}>
                {one}
              </Box>
            ))}
          </tr>
        </thead>
        <tbody>
          {result.figures.map((one) => (
            <Box component="tr" key={one.name} sx={{ borderTop: 1, borderColor: "divider" }}>
              <Box component="th" scope="row" sx={{ textAlign: "left", fontWeight: 600, py: 0.4, lineHeight: 1.15 }}>
                {one.label}
              </Box>
              <Box component="td" sx={{ ...cell, lineHeight: 1.15 }}>
                <Box sx={{ fontWeight: 600, fontSize: "1.1rem" }}>
                  {figure(one.median)} {one.unit}
                </Box>
                {one.most > one.least && (
                  <Box sx={{ color: "text.secondary", fontSize: "0.85rem" }}>
                    {figure(one.least)} … {figure(one.most)}
                  </Box>
                )}
              </Box>
              {cylinders.map((cylinder) => {
                const value = one.cylinders[cylinder];
                const apart = odd(one.name, cylinder);
                return (
                  <Box
                    component="td"
                    key={cylinder}
                    sx={{ ...cell, fontWeight: apart ? 700 : 400, textDecoration: apart ? "underline" : "none" }}
                  >
                    {value == null ? "" : figure(value)}
                    {apart && " ✗"}
                  </Box>
                );
              })}
            </Box>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
