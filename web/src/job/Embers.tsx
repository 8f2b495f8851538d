import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import type { JobView } from "../api/types";
import { SuspectRow } from "../suspects/SuspectRow";

/** The suspects: how bright an ember glows is how likely it is. */
export function Embers({ job }: { job: JobView }) {
  const { suspects, misfire, swap_in_force: swap, repair } = job.state;
  const out = Boolean(repair?.part) && !repair?.came_back;
  const glowing = suspects?.result.suspects.some((one) => one.speaks.length > 0) ?? false;
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
        <Button component={Link} to={`/jobs/${job.id}/suspects`} color="inherit" size="small">
          All, and why
        </Button>
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
      {out && (
        <Typography color="text.secondary" sx={{ py: 1 }}>
          Out: the {repair?.part} was replaced. What counts now is the proof.
        </Typography>
      )}
      {!out && !glowing && (
        <Typography color="text.secondary" sx={{ py: 1 }}>
          Cold: nothing has been found yet that tells the suspects apart.
        </Typography>
      )}
      {!out && glowing && (
        <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
          {suspects?.result.suspects.slice(0, 6).map((suspect) => (
            <SuspectRow key={`${suspect.fault} ${suspect.target}`} suspect={suspect} most={6} />
          ))}
        </Box>
      )}
      {!out && suspects?.result.contradictions[0] && (
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          {suspects.result.contradictions[0].says}.
        </Typography>
      )}
      {misfire && !verdict && !repair && (
        <Typography variant="body2" color="text.secondary">
          {misfire.result.says} {misfire.outdated ? "Counted before the last change." : ""}
        </Typography>
      )}
    </Box>
  );
}
