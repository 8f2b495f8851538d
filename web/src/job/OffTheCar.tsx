import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import type { JobView } from "../api/types";

/** What is off the car: the engine is not started before it is back. */
export function OffTheCar({ job }: { job: JobView }) {
  const { off, renew } = job.state.bench_out;
  if (off.length === 0) return null;
  return (
    <Box component="section" aria-label="Off the car" sx={{ borderLeft: 6, borderColor: "text.primary", pl: 1.5 }}>
      <Typography variant="h2">Off the car: do not start it</Typography>
      <Box
        component={Link}
        to={`/jobs/${job.id}/repair?do=off`}
        sx={{ color: "inherit", display: "block", minHeight: 44, py: 0.5 }}
      >
        {off
          .slice(0, 5)
          .map((one) => `${one.item.count && one.item.count > 1 ? `${one.item.count} × ` : ""}${one.item.what}`)
          .join(", ")}
        {off.length > 5 && ` and ${off.length - 5} more`}
      </Box>
      {renew.length > 0 && <Box sx={{ color: "text.secondary" }}>New ones needed: {renew.join(", ")}</Box>}
    </Box>
  );
}
