import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useCallback, useMemo, useRef, useState } from "react";
import { useTrace } from "../api/recordings";
import type { Channel, RecordingView } from "../api/types";
import { Chips } from "../fields/Chips";
import { ProblemNote } from "../fields/ProblemNote";
import { Lane, type LaneHandle } from "./Lane";

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
  const span = recording.about.to_s - recording.about.from_s;
  const [range, setRange] = useState<[number, number] | null>(null);
  const [choosing, setChoosing] = useState(false);
  const columns = Math.min(1600, Math.max(300, Math.round(window.innerWidth - 280)));
  const trace = useTrace(recording.id, chosen, range?.[0] ?? null, range?.[1] ?? null, columns);
  const lanes = useRef(new Map<string, LaneHandle>());
  const [from, to] = range ?? [0, span];

  // One cursor for all lanes: moved without a render, or it would not keep up with the hand.
  const follow = useCallback((seconds: number | null) => {
    for (const lane of lanes.current.values()) lane.cursor(seconds);
  }, []);
  const zoom = useCallback(
    (a: number, b: number) => {
      const low = Math.max(0, Math.min(a, b));
      const high = Math.min(span, Math.max(a, b));
      if (high - low > 0.05) setRange([low, high]);
    },
    [span],
  );
  const shift = (share: number) => {
    const width = to - from;
    const low = Math.min(Math.max(0, from + share * width), span - width);
    setRange([low, low + width]);
  };
  const scale = (factor: number) => {
    const middle = (from + to) / 2;
    const width = Math.min(span, (to - from) * factor);
    const low = Math.min(Math.max(0, middle - width / 2), span - width);
    setRange(width >= span ? null : [low, low + width]);
  };
  const byName = useMemo(() => new Map(recording.channels.map((one) => [one.name, one])), [recording.channels]);
  const marks = recording.about.marks ?? [];

  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}>
        <Button variant="outlined" color="inherit" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
          Channels: {chosen.length} of {names.length}
        </Button>
        <Button color="inherit" onClick={() => scale(0.5)}>
          Closer
        </Button>
        <Button color="inherit" onClick={() => scale(2)} disabled={!range}>
          Further
        </Button>
        <Button color="inherit" onClick={() => shift(-0.5)} disabled={!range || from <= 0}>
          Earlier
        </Button>
        <Button color="inherit" onClick={() => shift(0.5)} disabled={!range || to >= span}>
          Later
        </Button>
        <Button color="inherit" onClick={() => setRange(null)} disabled={!range}>
          All of it
        </Button>
        <Typography color="text.secondary" role="status">
          {from.toFixed(1)} to {to.toFixed(1)} s{trace.isFetching ? " …" : ""}
        </Typography>
      </Box>
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
      {trace.data?.channels.map((thinned, index, all) => {
        const channel = byName.get(thinned.channel) as Channel | undefined;
        if (!channel || !trace.data) return null;
        return (
          <Lane
            key={thinned.channel}
            ref={(handle) => {
              if (handle) lanes.current.set(thinned.channel, handle);
              else lanes.current.delete(thinned.channel);
            }}
            channel={channel}
            time={trace.data.time_s}
            thinned={thinned}
            from={from}
            to={to}
            marks={marks}
            height={Math.max(58, Math.min(130, (window.innerHeight - 290) / Math.max(1, all.length)))}
            times={index === all.length - 1}
            onCursor={follow}
            onZoom={zoom}
          />
        );
      })}
      {marks.length > 0 && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
          Codes came: {marks.map((mark) => `${mark.label} at ${mark.time_s.toFixed(0)} s`).join(", ")}
        </Typography>
      )}
    </Box>
  );
}
