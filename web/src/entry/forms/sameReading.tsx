import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, client } from "../../api/client";
import { useRecordings } from "../../api/recordings";
import { Choice } from "../../bench/Choice";
import { fieldsOf } from "../../bench/fieldsOf";
import { Grid } from "../../bench/Grid";
import { ProblemNote } from "../../fields/ProblemNote";
import { corrected, type EntryForm, type FieldsProps } from "../form";

interface Value {
  what: string;
  unit: string;
  wanted: string;
  got: string;
  conditions: string;
}

/** What is asked for and what comes, by the names of their channels. */
const PAIRS: [string, string, string][] = [
  ["rail_request", "rail_pressure", "fuel rail pressure"],
  ["requested_boost", "actual_boost", "charge pressure"],
  ["vane_request", "vane_position", "vane position"],
];

function Fields({ value, change, job, refused }: FieldsProps<Value>) {
  const of = fieldsOf(value, change, refused);
  const before = job.state.proof?.readings.filter((one) => one.after == null) ?? [];
  return (
    <>
      <Typography color="text.secondary">
        A reading under load that is taken before the repair and again after it, under the same conditions.
        {before[0] && ` Before: ${before[0].what}, ${before[0].before} of ${before[0].wanted} ${before[0].unit}.`}
      </Typography>
      <FromRecording job={job.id} onRead={change} />
      {of.words("what", "What", "what", "fuel rail pressure at the top of the climb")}
      <Grid columns={3}>
        {of.quantity("wanted", "Asked for", "number", "wanted")}
        {of.quantity("got", "Came", "number", "got")}
        {of.words("unit", "Unit", "unit", "bar")}
      </Grid>
      {of.words("conditions", "Conditions", "conditions", "the climb to the mast, loaded")}
    </>
  );
}

/** The reading out of a recording: the means while most was asked for. */
function FromRecording({ job, onRead }: { job: number; onRead: (part: Partial<Value>) => void }) {
  const recordings = useRecordings(job);
  const queries = useQueryClient();
  const [chosen, setChosen] = useState("");
  const list = (recordings.data ?? []).flatMap((one) =>
    PAIRS.filter(([wanted, got]) => [wanted, got].every((name) => one.about.channels.some((c) => c.name === name))).map(
      ([wanted, got, words]) => [`${one.id}/${wanted}/${got}`, `${one.name}: ${words}`] as const,
    ),
  );
  const [id, wanted, got] = chosen.split("/");
  const read = useQuery({
    queryKey: ["full-request", chosen],
    queryFn: async () => {
      const found = await answer(
        client.GET("/api/recordings/{id}/full-request", {
          params: { path: { id: Number(id) }, query: { wanted: wanted ?? "", got: got ?? "" } },
        }),
      );
      onRead({
        what: found.what,
        unit: found.unit,
        wanted: found.reading.wanted.toFixed(0),
        got: found.reading.got.toFixed(0),
        conditions: `while most was asked for, ${found.reading.seconds.toFixed(0)} s`,
      });
      return found;
    },
    enabled: chosen !== "",
    retry: false,
  });
  if (list.length === 0) return null;
  return (
    <>
      <Choice
        label="Out of a recording"
        value={chosen}
        onValue={(one) => {
          queries.removeQueries({ queryKey: ["full-request", one] });
          setChosen(one);
        }}
        options={[["", "typed by hand"], ...list]}
      />
      <ProblemNote error={read.error} />
    </>
  );
}

export const sameReadingForm: EntryForm<Value> = {
  first: (job, request) => {
    const old = corrected(request, "same-reading");
    const open = job.state.proof?.readings.find((one) => one.after == null);
    return {
      what: old?.what ?? open?.what ?? "",
      unit: old?.unit ?? open?.unit ?? "",
      wanted: old ? String(old.wanted) : "",
      got: old ? String(old.got) : "",
      conditions: old?.conditions ?? open?.conditions ?? "",
    };
  },
  Fields,
  finding: async (value, read) => ({
    kind: "same-reading",
    what: value.what,
    unit: value.unit,
    wanted: await read.number(value.wanted, "number", "wanted"),
    got: await read.number(value.got, "number", "got"),
    conditions: value.conditions,
  }),
};
