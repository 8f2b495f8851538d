import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import { asProblem } from "../api/problem";

interface Props {
  error: unknown;
  retry?: () => void;
}

/** What went wrong and what to do, in the place where it happened. */
export function ProblemNote({ error, retry }: Props) {
  if (!error) return null;
  const problem = asProblem(error);
  const fields = problem.errors.map((one) => `${one.field}: ${one.reason}`).join("; ");
  return (
    <Alert
      severity="error"
      variant="outlined"
      icon={false}
      action={
        retry ? (
          <Button color="inherit" onClick={retry}>
            Try again
          </Button>
        ) : undefined
      }
    >
      {problem.kind === "refused" && fields ? `Not taken: ${fields}` : problem.message}
    </Alert>
  );
}
