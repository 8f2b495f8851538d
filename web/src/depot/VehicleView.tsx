import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { historyQuery, type JobSummary } from "../api/depot";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { day, km, plural } from "../app/words";

/** The history of one vehicle as a line along its odometer: what it had each time, and what was replaced when. */
export default function VehicleView() {
  const id = Number(useParams().id);
  const history = useQuery(historyQuery(id));
  if (history.isPending) return <Waiting what="the vehicle's history" />;
  if (!history.data) return <NotHere what="vehicle" />;
  const { vehicle, jobs } = history.data;
  const parts = jobs.flatMap((job) => job.fitted.map((part) => ({ ...part, job: job.job })));
  return (
    <Screen title={`${vehicle.fleet_no} ${vehicle.name}`} back="Back to the yard" backTo="/">
      {vehicle.note && <Typography color="text.secondary">{vehicle.note}</Typography>}
      {jobs.length === 0 ? (
        <Typography color="text.secondary">This vehicle has not been in with a complaint yet.</Typography>
      ) : (
        <Line jobs={jobs} />
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1.3fr 1fr" }, gap: 4, mt: 2 }}>
        <Box component="section" aria-label="Jobs">
          <Typography variant="h2">{plural(jobs.length, "job")}</Typography>
          {[...jobs].reverse().map((job) => (
            <Box
              key={job.job}
              component={Link}
              to={`/jobs/${job.job}`}
              sx={{
                display: "block",
                color: "inherit",
                textDecoration: "none",
                borderTop: 1,
                borderColor: "divider",
                py: 1,
              }}
            >
              <Box sx={{ display: "flex", gap: 1 }}>
                <Box sx={{ flex: 1, fontWeight: 600 }}>{job.cause || job.complaint}</Box>
                <Box sx={{ fontFamily: FIGURES }}>{km(job.from_km)}</Box>
              </Box>
              <Box sx={{ color: "text.secondary" }}>
                {day(job.opened_at)}, {job.closed_at ? "closed" : "still open"}
                {job.cause && `: ${job.complaint}`}
                {job.codes.length > 0 && ` · ${job.codes.join(", ")}`}
                {job.came_back && " · it came back"}
              </Box>
            </Box>
          ))}
        </Box>
        <Box component="section" aria-label="Replaced">
          <Typography variant="h2">What was replaced when</Typography>
          {parts.length === 0 && <Typography color="text.secondary">Nothing yet.</Typography>}
          {parts.map((part) => (
            <Box key={`${part.job}.${part.entry}`} sx={{ borderTop: 1, borderColor: "divider", py: 0.75 }}>
              <Box sx={{ display: "flex", gap: 1 }}>
                <Box sx={{ flex: 1, fontWeight: 600 }}>
                  {part.part}
                  {part.cylinder ? ` at cylinder ${part.cylinder}` : ""}
                </Box>
                <Box sx={{ fontFamily: FIGURES }}>{km(part.odometer_km)}</Box>
              </Box>
              <Box sx={{ color: "text.secondary" }}>
                {[
                  day(part.at),
                  part.number,
                  part.supplier,
                  part.needed === false ? "was not needed" : part.needed ? "was needed" : "",
                  part.came_back ? "it came back" : "",
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </Box>
            </Box>
          ))}
        </Box>
      </Box>
      <Button
        component={Link}
        to={`/find?words=${encodeURIComponent(vehicle.fleet_no)}&within=vehicle`}
        color="inherit"
      >
        Find in these jobs
      </Button>
    </Screen>
  );
}

function Line({ jobs }: { jobs: JobSummary[] }) {
  const { palette } = useTheme();
  const from = Math.min(...jobs.map((job) => job.from_km));
  const to = Math.max(...jobs.map((job) => job.to_km));
  const x = (at: number) => 30 + (940 * (at - from)) / Math.max(1, to - from);
  return (
    <svg viewBox="0 0 1000 110" style={{ width: "100%" }} role="img" aria-label="Jobs and parts along the odometer">
      <line x1="20" x2="980" y1="60" y2="60" stroke={palette.divider} strokeWidth="3" />
      {jobs.map((job, index) => (
        <g key={job.job}>
          <line
            x1={x(job.from_km)}
            x2={Math.max(x(job.to_km), x(job.from_km) + 6)}
            y1="60"
            y2="60"
            stroke={palette.text.primary}
            strokeWidth="9"
          />
          {job.fitted.map((part) => (
            <rect
              key={part.entry}
              x={x(part.odometer_km) - 6}
              y="42"
              width="12"
              height="12"
              fill={part.needed === false ? "none" : palette.text.primary}
              stroke={palette.text.primary}
              strokeWidth="2"
            />
          ))}
          <text
            x={Math.min(x(job.from_km), 780)}
            y={index % 2 === 0 ? 28 : 92}
            fontSize="16"
            fill={palette.text.primary}
          >
            {job.cause || job.complaint.split(",")[0]}
          </text>
          <text
            x={Math.min(x(job.from_km), 860)}
            y={index % 2 === 0 ? 12 : 107}
            fontSize="12"
            fill={palette.text.secondary}
          >
            {km(job.from_km)}
          </text>
        </g>
      ))}
    </svg>
  );
}
