import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link } from "react-router";
import type { BenchResult } from "../api/bench";
import type { Effect, Entry, JobView } from "../api/types";
import { Glow } from "../app/Glow";
import { FIGURES } from "../app/theme";
import { km, moment, sure } from "../app/words";
import { MARK } from "../bench/marks";

interface Props {
  job: JobView;
  onCorrect: (entry: Entry) => void;
  onAdd: () => void;
}

/** What was seen, measured, moved, cleared and driven, the latest first. Nothing is rewritten. */
export function Trail({ job, onCorrect, onAdd }: Props) {
  const standing = new Set(job.state.standing);
  const entries = [...job.entries].reverse();
  return (
    <Box
      component="section"
      aria-label="Trail"
      sx={{ display: "flex", flexDirection: "column", minHeight: 0, height: "100%" }}
    >
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          Trail
        </Typography>
        <Button variant="outlined" onClick={onAdd}>
          Add to the trail
        </Button>
      </Box>
      <Box
        component="ol"
        tabIndex={0}
        aria-label="Entries, the latest first"
        sx={{ listStyle: "none", m: 0, mt: 1, p: 0, overflowY: "auto", flex: 1, minHeight: 0 }}
      >
        {entries.map((entry) => (
          <TrailEntry
            key={entry.number}
            entry={entry}
            words={job.words[entry.number]}
            standing={standing.has(entry.number)}
            measured={job.state.measured.find((one) => one.entry === entry.number)?.result}
            effect={job.effects.find((effect) => effect.entry === entry.number)}
            onCorrect={() => onCorrect(entry)}
          />
        ))}
      </Box>
    </Box>
  );
}

interface EntryProps {
  entry: Entry;
  /** What the entry says. */
  words: { kind: string; text: string } | undefined;
  standing: boolean;
  /** What a measurement says as it is judged now. */
  measured: BenchResult | undefined;
  effect: Effect | undefined;
  onCorrect: () => void;
}

/** Beyond this a text is folded until somebody asks for it. */
const FOLD = 220;

function TrailEntry({ entry, words, standing, measured, effect, onCorrect }: EntryProps) {
  const [whole, setWhole] = useState(false);
  const text = words?.text ?? "";
  const reading = entry.finding.kind === "measured" ? entry.finding.reading : null;
  const capture = reading?.bench === "waveform" ? reading.capture : 0;
  const folded = text.length > FOLD && !whole;
  return (
    <Box component="li" sx={{ borderTop: 1, borderColor: "divider", py: 0.75, opacity: standing ? 1 : 0.72 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1 }}>
        <Box component="span" sx={{ fontFamily: FIGURES, color: "text.secondary", fontSize: "0.9rem" }}>
          {entry.number}
        </Box>
        <Box component="span" sx={{ fontWeight: 600, flex: 1 }}>
          {words?.kind}
          {entry.replaces != null && ` (corrects ${entry.replaces})`}
          {!standing && " – corrected, counts no more"}
        </Box>
        <Box component="span" sx={{ fontFamily: FIGURES, fontSize: "0.88rem" }}>
          {km(entry.odometer_km)}
        </Box>
      </Box>
      {measured && (
        <Box sx={{ lineHeight: 1.25 }}>
          <Box sx={{ fontWeight: 600 }}>
            {measured.title}: <span aria-hidden="true">{MARK[measured.verdict]} </span>
            {measured.word}
          </Box>
          {measured.says}
        </Box>
      )}
      {text && (
        <Box
          sx={{
            fontSize: "0.95rem",
            overflowWrap: "anywhere",
            whiteSpace: "pre-wrap",
            textDecoration: standing ? "none" : "line-through",
          }}
        >
          {folded ? `${text.slice(0, FOLD)} … ` : text}
          {text.length > FOLD && (
            <Button size="small" color="inherit" onClick={() => setWhole(!whole)} sx={{ textDecoration: "underline" }}>
              {whole ? "show less" : "show all"}
            </Button>
          )}
        </Box>
      )}
      {effect && standing && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 0.75, fontSize: "0.92rem" }}>
          <Glow likelihood={effect.sure} size={16} />
          <span>
            {effect.sure_of}: {effect.before != null && `${sure(effect.before)} → `}
            <strong>{sure(effect.sure)}</strong>
          </span>
        </Box>
      )}
      <Box sx={{ display: "flex", alignItems: "center", color: "text.secondary", fontSize: "0.85rem", minHeight: 28 }}>
        <Box sx={{ flex: 1 }}>
          {moment(entry.at)} · {entry.author}
        </Box>
        {entry.finding.kind === "recording" && (
          <Button
            component={Link}
            to={`/recordings/${entry.finding.recording}`}
            size="small"
            color="inherit"
            aria-label={`Open recording of entry ${entry.number}`}
            sx={{ my: -1, textDecoration: "underline" }}
          >
            Evidence
          </Button>
        )}
        {capture > 0 && (
          <Button
            component={Link}
            to={`/captures/${capture}`}
            size="small"
            color="inherit"
            aria-label={`Open capture of entry ${entry.number}`}
            sx={{ my: -1, textDecoration: "underline" }}
          >
            Capture
          </Button>
        )}
        {standing && (
          <Button
            size="small"
            color="inherit"
            onClick={onCorrect}
            aria-label={`Correct entry ${entry.number}`}
            sx={{ my: -1 }}
          >
            Correct
          </Button>
        )}
      </Box>
    </Box>
  );
}
