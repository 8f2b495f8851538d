import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import { useYard } from "../api/queries";
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
