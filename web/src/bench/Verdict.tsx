import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { BenchResult } from "../api/bench";
import { Bands } from "./Bands";
import { MARK } from "./marks";

/** What a reading says: the word first, large enough for two metres, then why, the figures, and what would help. */
export function Verdict({ result, figures = true }: { result: BenchResult; figures?: boolean }) {
  return (
    <Box component="section" aria-label="Verdict" sx={{ bgcolor: "background.paper", px: 2, py: 1.5 }}>
      <Box sx={{ color: "text.secondary" }}>{result.title}</Box>
      <Typography variant="h1" component="p" role="status" sx={{ fontSize: "2rem" }}>
        <span aria-hidden="true">{MARK[result.verdict]} </span>
        {result.word}
      </Typography>
      <Typography sx={{ lineHeight: 1.3, my: 0.5 }}>{result.says}</Typography>
      {result.next && <Typography sx={{ fontWeight: 600, my: 0.5 }}>Next: {result.next}</Typography>}
      {result.would_help.length > 0 && (
        <Typography color="text.secondary">It would help: {result.would_help.join("; ")}.</Typography>
      )}
      {figures && <Bands figures={result.figures} />}
      {result.put_right.length > 0 && (
        <Typography sx={{ mt: 0.5, fontWeight: 600 }}>
          To put right afterwards: {result.put_right.join("; ")}
        </Typography>
      )}
      {result.evidence.length > 0 && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 0.75 }}>
          It weighs among the suspects as much as its doubt allows.
        </Typography>
      )}
    </Box>
  );
}
