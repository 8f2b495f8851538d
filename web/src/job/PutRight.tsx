import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { JobView } from "../api/types";
import { ProblemNote } from "../fields/ProblemNote";
import { useQuickEntry } from "../suspects/useTested";

/** What measuring has left behind on the car: it must be put right before the car leaves. */
export function PutRight({ job }: { job: JobView }) {
  const { write, isPending, error } = useQuickEntry(job);
  const list = job.state.put_right;
  if (list.length === 0) return null;
  return (
    <Box component="section" aria-label="To put right">
      <Typography variant="h2">To put right before it leaves</Typography>
      {list.map((one) => (
        <Box key={`${one.entry} ${one.what}`} sx={{ display: "flex", alignItems: "center", gap: 1 }}>
          <Box sx={{ flex: 1, lineHeight: 1.2 }}>{one.what}</Box>
          <Button
            variant="outlined"
            color="inherit"
            disabled={isPending}
            aria-label={`Done: ${one.what}`}
            onClick={() => write({ kind: "righted", what: one.what }).catch(() => {})}
          >
            Done
          </Button>
        </Box>
      ))}
      <ProblemNote error={error} />
    </Box>
  );
}
