import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link, useNavigate } from "react-router";
import { useYard } from "../api/queries";
import { useBringBack } from "../api/recordings";
import { Waiting } from "../app/Waiting";
import { ProblemNote } from "../fields/ProblemNote";
import { YardRow } from "./YardRow";

/** The jobs: what each waits for, the next move, how sure. */
export function Yard() {
  const yard = useYard();
  if (yard.isPending) return <Waiting what="the yard" />;
  const open = (yard.data ?? []).filter((job) => !job.closed);
  const closed = (yard.data ?? []).filter((job) => job.closed);
  return (
    <Box sx={{ px: 3, py: 2.5, maxWidth: 1280, width: "100%", mx: "auto" }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, mb: 2 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Yard
        </Typography>
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
      {closed.length > 0 && (
        <>
          <Typography variant="h2" sx={{ mt: 4, mb: 0.5, color: "text.secondary" }}>
            Closed
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
