import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useYard } from "../api/queries";
import { useBringBack } from "../api/recordings";
import { Waiting } from "../app/Waiting";
import { ProblemNote } from "../fields/ProblemNote";
import { YardRow } from "./YardRow";

/** As many open jobs as the server shows at once. */
const PAGE = 100;

/** The jobs: what each waits for, the next move, how sure. */
export function Yard() {
  const [from, setFrom] = useState(0);
  const yard = useYard(from);
  if (yard.isPending) return <Waiting what="the yard" />;
  const { open = [], closed = [], open_count = 0, closed_count = 0, refreshing = false } = yard.data ?? {};
  return (
    <Box sx={{ px: 3, py: 2.5, maxWidth: 1280, width: "100%", mx: "auto" }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, mb: 2 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Yard
        </Typography>
        <Button component={Link} to="/depot" color="inherit">
          The depot's figures
        </Button>
        <BringBack />
        <Button variant="contained" component={Link} to="/new">
          New job
        </Button>
      </Box>
      <ProblemNote error={yard.error} retry={() => yard.refetch()} />
      {yard.data && open.length === 0 && (
        <Typography sx={{ py: 4, color: "text.secondary" }}>
          Nothing stands in the yard. Start a job when a vehicle comes in with a complaint.
        </Typography>
      )}
      {open.map((job) => (
        <YardRow key={job.id} job={job} />
      ))}
      {(from > 0 || open_count > from + open.length) && (
        <Box sx={{ display: "flex", gap: 1, alignItems: "center", py: 1 }}>
          <Box sx={{ flex: 1 }}>
            {from + 1} to {from + open.length} of {open_count} open jobs
          </Box>
          <Button
            color="inherit"
            variant="outlined"
            disabled={from === 0}
            onClick={() => setFrom(Math.max(0, from - PAGE))}
          >
            Newer
          </Button>
          <Button
            color="inherit"
            variant="outlined"
            disabled={open_count <= from + open.length}
            onClick={() => setFrom(from + PAGE)}
          >
            Older
          </Button>
        </Box>
      )}
      {refreshing && (
        <Typography role="status" color="text.secondary">
          Some jobs are still being reckoned; they will stand here in a moment.
        </Typography>
      )}
      {closed.length > 0 && (
        <>
          <Typography variant="h2" sx={{ mt: 4, mb: 0.5, color: "text.secondary" }}>
            Closed{closed_count > closed.length && `: the last ${closed.length} of ${closed_count}`}
          </Typography>
          {closed.map((job) => (
            <YardRow key={job.id} job={job} />
          ))}
        </>
      )}
    </Box>
  );
}

/** A job that was taken along as a file comes back with its trail and its recordings. */
function BringBack() {
  const bring = useBringBack();
  const go = useNavigate();
  return (
    <>
      <ProblemNote error={bring.error} />
      <Button component="label" color="inherit" disabled={bring.isPending}>
        {bring.isPending ? "Bringing it back …" : "Bring a job back"}
        <input
          type="file"
          hidden
          accept=".json,application/json"
          aria-label="A job as a file"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) bring.mutate(file, { onSuccess: (job) => go(`/jobs/${job.id}`) });
            event.target.value = "";
          }}
        />
      </Button>
    </>
  );
}
