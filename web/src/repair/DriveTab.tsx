import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { type DriveShown, driveQuery } from "../api/repair";
import type { JobView } from "../api/types";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { sure } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";

/** Which cells of speed and load to drive, and for how long, to prove the repair; ticked off while they are driven. */
export function DriveTab({ job }: { job: JobView }) {
  const drive = useQuery(driveQuery(job.id));
  if (drive.isPending) return <Waiting what="the drive plan" />;
  if (!drive.data) return <ProblemNote error={drive.error} retry={() => drive.refetch()} />;
  const { plan } = drive.data;
  if (!plan)
    return (
      <Typography color="text.secondary">
        {job.state.repair
          ? "No recording from before the repair shows where it misfired, so there is no map to drive by. Kilometres, starts and attempts count instead: see the proof."
          : "Nothing was repaired yet. Once it is, the map of where it misfired says what to drive, and for how long."}
      </Typography>
    );
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1.4fr) minmax(0, 1fr)" }, gap: 3 }}>
      <CellMap shown={drive.data} />
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1.25 }}>
        <Box sx={{ fontFamily: FIGURES, fontSize: "1.7rem", fontWeight: 600 }}>{sure(plan.confidence)}</Box>
        <Typography sx={{ fontWeight: 600, fontSize: "1.15rem" }}>{plan.says}</Typography>
        {drive.data.not_on_trail > 0 && (
          <Typography color="text.secondary">
            Counts what was recorded since and is not on the trail yet. Put it there, so that it stays.
          </Typography>
        )}
        <Box component="ol" sx={{ m: 0, pl: 2.5 }}>
          {plan.cells.slice(0, 8).map((cell) => (
            <li key={`${cell.speed}-${cell.load}`}>
              {range(drive.data.speed_edges_rpm, cell.speed)} rpm at {range(drive.data.load_edges_pct, cell.load)} %
              load: <strong>{cell.minutes > 0 ? `${Math.ceil(cell.minutes)} min to drive` : "✓ driven enough"}</strong>
              {cell.driven_minutes > 0 && cell.minutes > 0 && `, ${cell.driven_minutes.toFixed(1)} min are`}
              {cell.episodes > 0 && ` – came here ${cell.episodes} times`}
            </li>
          ))}
        </Box>
        <Typography color="text.secondary">One drives, another watches the data.</Typography>
        <Button component={Link} to={`/jobs/${job.id}/link`} variant="outlined" color="inherit">
          {drive.data.recording ? "Recording at the car" : "Go to the car and record"}
        </Button>
      </Box>
    </Box>
  );
}

const range = (edges: number[], at: number) => `${edges[at]}–${edges[at + 1]}`;

function CellMap({ shown }: { shown: DriveShown }) {
  const { palette } = useTheme();
  const { plan, speed_edges_rpm: speeds, load_edges_pct: loads, now } = shown;
  const cell = (speed: number, load: number) => plan?.cells.find((one) => one.speed === speed && one.load === load);
  const [w, h, left, bottom] = [62, 52, 46, 34];
  const [across, up] = [speeds.length - 1, loads.length - 1];
  return (
    <svg
      viewBox={`0 0 ${left + across * w + 4} ${up * h + bottom + 4}`}
      style={{ width: "100%" }}
      role="img"
      aria-label="Speed and load cells to drive"
    >
      {Array.from({ length: up }, (_u, load) =>
        Array.from({ length: across }, (_a, speed) => {
          const one = cell(speed, load);
          const open = (one?.minutes ?? 0) > 0;
          const here = now?.speed === speed && now?.load === load;
          const [x, y] = [left + speed * w, (up - 1 - load) * h + 2];
          return (
            <g key={`${speeds[speed]}-${loads[load]}`}>
              <rect
                x={x + 1}
                y={y + 1}
                width={w - 2}
                height={h - 2}
                fill={one && !open ? palette.action.selected : palette.background.paper}
                stroke={here ? palette.text.primary : open ? palette.text.secondary : palette.divider}
                strokeWidth={here ? 4 : open ? 2 : 0.6}
                strokeDasharray={open && !here ? "6 3" : undefined}
              />
              {one && (
                <text x={x + w / 2} y={y + h / 2 + 6} textAnchor="middle" fontSize="17" fill={palette.text.primary}>
                  {open ? `${Math.ceil(one.minutes)} min` : "✓"}
                </text>
              )}
              {one && one.episodes > 0 && (
                <text x={x + w - 6} y={y + 14} textAnchor="end" fontSize="11" fill={palette.text.secondary}>
                  {one.episodes}×
                </text>
              )}
            </g>
          );
        }),
      )}
      {speeds.map((edge, index) => (
        <text
          key={edge}
          x={left + index * w}
          y={up * h + 18}
          textAnchor={index === 0 ? "start" : "middle"}
          fontSize="12"
          fill={palette.text.primary}
        >
          {edge}
        </text>
      ))}
      <text x={left + across * w} y={up * h + 33} textAnchor="end" fontSize="12" fill={palette.text.secondary}>
        engine speed, rpm
      </text>
      {loads.map((edge, index) => (
        <text
          key={edge}
          x={left - 5}
          y={(up - index) * h + 6}
          textAnchor="end"
          fontSize="12"
          fill={palette.text.primary}
        >
          {edge}
        </text>
      ))}
      <text
        x="11"
        y={(up * h) / 2}
        transform={`rotate(-90 11 ${(up * h) / 2})`}
        textAnchor="middle"
        fontSize="12"
        fill={palette.text.secondary}
      >
        load, %
      </text>
    </svg>
  );
}
