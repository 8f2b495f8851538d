import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { MisfireMap } from "../api/types";
import { heat, inkOnHeat } from "../app/heat";
import { FIGURES } from "../app/theme";
import { percent, whole } from "../app/words";
import { SaveRows } from "../fields/SavePlot";

interface Props {
  map: MisfireMap;
  cylinders: number;
  name: string;
}

/** Speed across, load upwards. A cell glows by the chance that a firing misses there; an empty one was not driven. */
export function MisfireMapGrid({ map, cylinders, name }: Props) {
  const { palette } = useTheme();
  const [cylinder, setCylinder] = useState(map.worst_cylinder ?? 1);
  const index = cylinder - 1;
  const heights = map.cells.map((cell) => cell.load);
  const driven = new Set(map.cells.map((cell) => cell.speed));
  const speeds = map.speed_edges_rpm.slice(0, -1).map((_, i) => i);
  // Columns beyond the fastest that was driven would only be empty.
  const last = Math.max(...driven) + 1;
  const shownSpeeds = speeds.filter((i) => i <= last);
  const loads = map.load_edges_pct
    .slice(0, -1)
    .map((_, i) => i)
    .filter((i) => i >= Math.min(...heights) && i <= Math.max(...heights))
    .reverse();
  const highest = Math.max(...map.cells.map((cell) => cell.rate_pct[index] ?? 0), 1e-9);
  const at = (speed: number, load: number) => map.cells.findIndex((one) => one.speed === speed && one.load === load);
  const hatch = `repeating-linear-gradient(135deg, transparent 0 7px, ${palette.divider} 7px 8px)`;
  const head = { fontWeight: 400, color: "text.secondary", fontFamily: FIGURES, fontSize: "0.9rem", p: 0.25 } as const;
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 1, alignItems: "center" }}>
        <Box sx={{ color: "text.secondary" }}>Cylinder</Box>
        {Array.from({ length: cylinders }, (_, i) => i + 1).map((one) => (
          <Button
            key={one}
            variant={one === cylinder ? "contained" : "outlined"}
            color={one === cylinder ? "primary" : "inherit"}
            aria-pressed={one === cylinder}
            onClick={() => setCylinder(one)}
            sx={{ minWidth: 44 }}
          >
            {one}
          </Button>
        ))}
        <Typography sx={{ ml: 1, fontWeight: 600 }}>{map.says}</Typography>
      </Box>
      <Box
        component="table"
        aria-label={`Misfires of cylinder ${cylinder} by speed and load`}
        sx={{ borderCollapse: "separate", borderSpacing: 3, tableLayout: "fixed", width: "100%" }}
      >
        <tbody>
          {loads.map((load) => (
            <tr key={load}>
              <Box component="th" scope="row" sx={{ ...head, width: "5.5rem", textAlign: "right", pr: 1 }}>
                {map.load_edges_pct[load]}–{map.load_edges_pct[load + 1]} %
              </Box>
              {shownSpeeds.map((speed) => {
                const place = at(speed, load);
                const cell = map.cells[place];
                if (!cell)
                  return (
                    <Box
                      component="td"
                      key={speed}
                      sx={{ height: 56, background: hatch, border: 1, borderColor: "divider", textAlign: "center" }}
                    >
                      <Box component="span" sx={{ position: "absolute", clip: "rect(0 0 0 0)" }}>
                        not driven
                      </Box>
                    </Box>
                  );
                const rate = cell.rate_pct[index] ?? 0;
                const share = rate / highest;
                const lit = map.worst_cylinder === cylinder && map.lit.includes(place);
                return (
                  <Box
                    component="td"
                    key={speed}
                    data-lit={lit || undefined}
                    title={`${percent(cell.low_pct[index] ?? 0)} to ${percent(cell.high_pct[index] ?? 0)}; ${whole(cell.misfires[index] ?? 0)} misfires in ${whole(cell.firings)} firings, ${whole(cell.seconds)} s`}
                    sx={{
                      height: 56,
                      textAlign: "center",
                      background: heat(share),
                      color: inkOnHeat(share),
                      outline: lit ? `3px solid ${palette.text.primary}` : undefined,
                      lineHeight: 1.15,
                    }}
                  >
                    <Box sx={{ fontFamily: FIGURES, fontWeight: 600, fontSize: "1.05rem" }}>{percent(rate)}</Box>
                    <Box sx={{ fontSize: "0.85rem" }}>
                      ≤ {percent(cell.high_pct[index] ?? 0)} · {whole(cell.firings)}
                    </Box>
                  </Box>
                );
              })}
            </tr>
          ))}
          <tr>
            <Box component="th" scope="row" sx={{ ...head, textAlign: "right", pr: 1 }}>
              rpm
            </Box>
            {shownSpeeds.map((speed) => (
              <Box component="th" scope="col" key={speed} sx={head}>
                {map.speed_edges_rpm[speed]}–{map.speed_edges_rpm[speed + 1]}
              </Box>
            ))}
          </tr>
        </tbody>
      </Box>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center" }}>
        <Typography variant="body2" color="text.secondary" sx={{ flex: 1 }}>
          Load upwards, speed across. In each cell: the share of firings that missed, its upper 95 % limit, and the
          firings it rests on. Framed: more than elsewhere, beyond doubt. Hatched cells were not driven: unknown, not
          clean.
          {map.unplaced_misfires > 0 && ` ${whole(map.unplaced_misfires)} misfires have no place on the map.`}
        </Typography>
        <SaveRows
          name={`${name}-map`}
          rows={[
            [
              "speed_from_rpm",
              "speed_to_rpm",
              "load_from_pct",
              "load_to_pct",
              "cylinder",
              "firings",
              "misfires",
              "rate_pct",
              "low_pct",
              "high_pct",
            ],
            ...map.cells.flatMap((cell) =>
              cell.misfires.map((count, i) => [
                map.speed_edges_rpm[cell.speed] ?? 0,
                map.speed_edges_rpm[cell.speed + 1] ?? 0,
                map.load_edges_pct[cell.load] ?? 0,
                map.load_edges_pct[cell.load + 1] ?? 0,
                i + 1,
                cell.firings,
                count,
                cell.rate_pct[i] ?? 0,
                cell.low_pct[i] ?? 0,
                cell.high_pct[i] ?? 0,
              ]),
            ),
          ]}
        />
      </Box>
    </Box>
  );
}
