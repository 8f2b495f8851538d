import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import type { WaitingFor, YardJob } from "../api/types";
import { Glow } from "../app/Glow";
import { FIGURES } from "../app/theme";
import { km, minutes, moment, plural, sure } from "../app/words";

const WAITS: Record<WaitingFor, string> = {
  reading: "waits for a reading",
  decision: "waits for a decision",
  work: "work to do",
  drive: "waits for a drive",
  part: "waits for a part",
  "clean-distance": "owes clean distance",
  cold: "waits until it is cold",
  nothing: "done",
};

/** One job as a line that can be read from two metres. The whole line leads to the job. */
export function YardRow({ job }: { job: YardJob }) {
  return (
    <Box
      component={Link}
      to={`/jobs/${job.id}`}
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "1fr", md: "5.2rem 1.05fr 1.5fr 15rem" },
        columnGap: 2.5,
        alignItems: "center",
        color: "inherit",
        textDecoration: "none",
        borderTop: 1,
        borderColor: "divider",
        py: 1.75,
        px: 1,
        "&:hover": { bgcolor: "background.paper" },
      }}
    >
      <Box sx={{ fontFamily: FIGURES, fontSize: "1.35rem", fontWeight: 600 }}>{job.fleet_no}</Box>
      <Box>
        <Box sx={{ fontWeight: 600, fontSize: "1.1rem" }}>{job.vehicle}</Box>
        <Box sx={{ color: "text.secondary" }}>{job.complaint}</Box>
      </Box>
      <Box>
        <Typography component="div" sx={{ color: "text.secondary", fontSize: "0.92rem" }}>
          {WAITS[job.waiting_for]}
          {job.next_minutes > 0 && ` · ${minutes(job.next_minutes)}`}
          {job.further_km != null && ` · ${km(Math.ceil(job.further_km))} to go`}
          {job.cold_at && ` · cold from ${moment(job.cold_at)}`}
          {job.off > 0 && ` · ${plural(job.off, "thing")} off the car`}
        </Typography>
        <Box sx={{ fontWeight: 600, fontSize: "1.2rem", lineHeight: 1.2 }}>{job.next}</Box>
      </Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.5 }}>
        {job.sure != null && <Glow likelihood={job.sure} size={40} />}
        <Box>
          {job.sure != null && (
            <Box sx={{ fontFamily: FIGURES, fontSize: "1.2rem", fontWeight: 600 }}>{sure(job.sure)}</Box>
          )}
          <Box sx={{ color: "text.secondary", fontSize: "0.92rem", lineHeight: 1.2 }}>
            {job.sure_of || "nothing known yet"}
          </Box>
          <Box sx={{ color: "text.secondary", fontSize: "0.85rem" }}>
            {km(job.odometer_km)} · {moment(job.last_at)}
          </Box>
        </Box>
      </Box>
    </Box>
  );
}
