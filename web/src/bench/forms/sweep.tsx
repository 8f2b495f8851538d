import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { capturesQuery, type SweepPoint, travelOf, travelQuery } from "../../api/bench";
import { asProblem } from "../../api/problem";
import { useRecordings } from "../../api/recordings";
import { reader } from "../../entry/form";
import { ProblemNote } from "../../fields/ProblemNote";
import { QuantityField } from "../../fields/QuantityField";
import { useSettled } from "../../fields/useSettled";
import { Choice } from "../Choice";
import { fieldsOf } from "../fieldsOf";
import type { BenchFieldsProps, BenchForm } from "../form";
import { Grid } from "../Grid";
import { OneOf } from "../OneOf";
import { SweepPlot } from "../SweepPlot";

interface SweepValue {
  of: string;
  from: "hand" | "recorded";
  text: string;
  /** What was taken out of a recording or a capture, and where it stands. */
  points: SweepPoint[];
  source: string;
  span: string;
}

const OF = [
  ["throttle", "Throttle"],
  ["pedal", "Pedal"],
  ["actuator position", "Actuator's position"],
  ["another sensor", "Another sensor"],
] as const;

function Recorded({ value, change, job }: Pick<BenchFieldsProps<SweepValue>, "value" | "change" | "job">) {
  const queries = useQueryClient();
  const recordings = useRecordings(job.id);
  const captures = useQuery(capturesQuery(job.id));
  const [from, setFrom] = useState("");
  const [channel, setChannel] = useState("");
  const [position, setPosition] = useState("");
  const [second, setSecond] = useState("");
  const [begin, setBegin] = useState("");
  const [end, setEnd] = useState("");
  const [failed, setFailed] = useState<unknown>(null);
  const sources = [
    ...(recordings.data ?? []).map((one) => ({
      id: `recordings ${one.id}`,
      name: one.name,
      channels: one.about.channels.map((channel) => [channel.name, channel.name.replaceAll("_", " ")] as const),
    })),
    ...(captures.data ?? []).map((one) => ({
      id: `captures ${one.id}`,
      name: one.name,
      channels: one.about.channels.map((channel) => [channel.name, channel.name] as const),
    })),
  ];
  const source = sources.find((one) => one.id === from);
  const take = async () => {
    setFailed(null);
    try {
      const read = reader(queries);
      const [kind, id] = from.split(" ");
      const points = await travelOf(kind as "recordings" | "captures", Number(id), {
        channel,
        position: position || undefined,
        second: second || undefined,
        from_s: (await read.optional(begin, "time", "from_s")) ?? undefined,
        to_s: (await read.optional(end, "time", "to_s")) ?? undefined,
      });
      change({ points, source: source?.name ?? "" });
    } catch (error) {
      setFailed(error);
    }
  };
  if (sources.length === 0)
    return <Typography color="text.secondary">This job has no recording and no capture yet.</Typography>;
  const channels = source?.channels ?? [];
  return (
    <>
      <Grid columns={3}>
        <Choice
          label="Out of"
          value={from}
          onValue={setFrom}
          options={sources.map((one) => [one.id, one.name] as const)}
        />
        <Choice label="Value" value={channel} onValue={setChannel} options={channels} />
        <Choice
          label="Position, if recorded"
          value={position}
          onValue={setPosition}
          options={[["", "none"], ...channels]}
        />
        <Choice label="Second track" value={second} onValue={setSecond} options={[["", "none"], ...channels]} />
        <QuantityField label="From" dimension="time" value={begin} onValue={setBegin} helperText="the beginning" />
        <QuantityField label="To" dimension="time" value={end} onValue={setEnd} helperText="the end" />
      </Grid>
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "center" }}>
        <Button variant="outlined" color="inherit" disabled={!channel} onClick={take}>
          Take this stretch
        </Button>
        {value.points.length > 0 && (
          <span>
            {value.points.length} points out of {value.source}
          </span>
        )}
      </Box>
      <ProblemNote error={failed} />
    </>
  );
}

function Fields({ value, change, job, result, refused }: BenchFieldsProps<SweepValue>) {
  const of = fieldsOf(value, change, refused);
  const typed = useQuery(travelQuery(useSettled(value.text)));
  const points = value.from === "hand" ? (typed.data ?? []) : value.points;
  return (
    <>
      <Grid>
        <Choice label="What was moved" value={value.of} onValue={(of) => change({ of })} options={OF} />
        {of.quantity("span", "It should reach, end to end", "voltage", "expected_span")}
      </Grid>
      <OneOf
        label="Where the travel comes from"
        options={[
          ["hand", "Written by hand"],
          ["recorded", "Out of a recording"],
        ]}
        chosen={value.from}
        onChosen={(from) => change({ from })}
      />
      {value.from === "hand" ? (
        <TextField
          label="One line for each place: position, value, and a second track if there is one"
          placeholder={"0  0,52\n10  0,91\n20  1,33"}
          multiline
          minRows={4}
          maxRows={7}
          value={value.text}
          onChange={(event) => change({ text: event.target.value })}
          error={typed.isError}
          helperText={
            typed.isError
              ? asProblem(typed.error).errors[0]?.reason
              : (refused("points") ?? "or the values alone, one a line, moved evenly")
          }
        />
      ) : (
        <Recorded value={value} change={change} job={job} />
      )}
      {points.length > 1 && <SweepPlot points={points} marks={result?.marks ?? []} />}
      <Typography variant="body2" color="text.secondary">
        Move it slowly, there and back. The value must follow without steps, dead spots or drop-outs, and return.
      </Typography>
    </>
  );
}

export const sweepForm: BenchForm<SweepValue> = {
  id: "sweep",
  title: "Sweep",
  first: () => ({ of: "throttle", from: "hand", text: "", points: [], source: "", span: "" }),
  Fields,
  reading: async (value, read) => {
    if (value.from === "hand" && value.text.trim() === "") return null;
    const points = value.from === "hand" ? await read.travel(value.text) : value.points;
    if (points.length === 0) return null;
    return {
      bench: "sweep",
      of: value.of,
      sweep: { points, expected_span: await read.optional(value.span, "voltage", "expected_span") },
    };
  },
  instrument: (value) => (value.from === "recorded" ? value.source : ""),
};
