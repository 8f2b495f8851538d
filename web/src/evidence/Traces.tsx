import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMemo, useState } from "react";
import { useTrace } from "../api/recordings";
import type { RecordingView } from "../api/types";
import { Chips } from "../fields/Chips";
import { ProblemNote } from "../fields/ProblemNote";
import { columnsOfScreen, Lanes } from "./Lanes";
import { RangeButtons } from "./RangeButtons";
import { useRange } from "./useRange";

/** What is shown first, where it was recorded. */
const FIRST = [
  "engine_speed",
  "load",
  "airflow",
  "short_trim_1",
  "long_trim_1",
  "requested_boost",
  "actual_boost",
  "misfires_1",
];
const MOST = 10;

/** Channels over time, one lane each under one cursor. Drag across a lane to look closer. */
export function Traces({ recording }: { recording: RecordingView }) {
  const names = recording.channels.map((channel) => channel.name);
  const [chosen, setChosen] = useState(() => {
    const first = FIRST.filter((name) => names.includes(name)).slice(0, 6);
    return first.length > 0 ? first : names.slice(0, 6);
  });
  const range = useRange(recording.about.to_s - recording.about.from_s, 0.05);
  const [choosing, setChoosing] = useState(false);
  const trace = useTrace(recording.id, chosen, range.asked?.[0] ?? null, range.asked?.[1] ?? null, columnsOfScreen());
  const byName = useMemo(() => new Map(recording.channels.map((one) => [one.name, one])), [recording.channels]);
  const marks = recording.about.marks ?? [];

  return (
    <Box>
      <RangeButtons range={range} fetching={trace.isFetching} places={1}>
        <Button variant="outlined" color="inherit" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
          Channels: {chosen.length} of {names.length}
        </Button>
      </RangeButtons>
      {choosing && (
        <Box sx={{ mb: 1 }}>
          <Chips
            label="Channels"
            options={recording.channels.map((one) => one.label)}
            chosen={chosen.map((name) => byName.get(name)?.label ?? name)}
            onChosen={(labels) =>
              setChosen(
                recording.channels
                  .filter((one) => labels.includes(one.label))
                  .map((one) => one.name)
                  .slice(0, MOST),
              )
            }
          />
        </Box>
      )}
      <ProblemNote error={trace.error} retry={() => trace.refetch()} />
      {chosen.length === 0 && <Typography color="text.secondary">Choose a channel to see it.</Typography>}
      {trace.data && (
        <Lanes trace={trace.data} named={byName} range={range} marks={marks} least={58} most={130} besides={290} />
      )}
      {marks.length > 0 && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
          Codes came: {marks.map((mark) => `${mark.label} at ${mark.time_s.toFixed(0)} s`).join(", ")}
        </Typography>
      )}
    </Box>
  );
}
