import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { ApiProblem } from "../api/problem";

/** In the place of a verdict: why there is none yet. */
export function NotJudged({ title, problem }: { title: string; problem: ApiProblem }) {
  return (
    <Box component="section" aria-label="Verdict" sx={{ bgcolor: "background.paper", px: 2, py: 1.5 }}>
      <Typography variant="h2">{title}</Typography>
      <Typography role="alert">
        {problem.errors.length ? problem.errors.map((one) => one.reason).join("; ") : problem.message}
      </Typography>
    </Box>
  );
}
