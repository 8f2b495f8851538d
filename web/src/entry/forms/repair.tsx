import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { historyQuery } from "../../api/depot";
import type { Finding, FindingOf, JobView } from "../../api/types";
import { km } from "../../app/words";
import { Choice } from "../../bench/Choice";
import { fieldsOf } from "../../bench/fieldsOf";
import { Grid } from "../../bench/Grid";
import { OneOf } from "../../bench/OneOf";
import { corrected, type EntryForm, type FieldsProps } from "../form";

interface OldPartValue {
  fitted: string;
  found: FindingOf<"old-part">["found"];
  how: string;
  why_failed: string;
  before_here: "" | "yes" | "no";
}

function OldPartFields({ value, change, job, refused }: FieldsProps<OldPartValue>) {
  const of = fieldsOf(value, change, refused);
  const fitted = job.state.fitted.map(
    (one) => [String(one.entry), `${one.part}${one.cylinder ? ` ${one.cylinder}` : ""}, entry ${one.entry}`] as const,
  );
  return (
    <>
      <Choice
        label="The part that came out for"
        value={value.fitted}
        onValue={(entry) => change({ fitted: entry })}
        options={fitted}
        refused={refused("fitted")}
        helper={fitted.length === 0 ? "no part was fitted on this job yet" : " "}
      />
      <Typography>Tested or opened: what is it?</Typography>
      <OneOf
        label="What the old part is"
        options={[
          ["faulty", "Faulty"],
          ["good", "Good: the verdict is open again"],
          ["cannot-tell", "Cannot be told"],
        ]}
        chosen={value.found}
        onChosen={(found) => change({ found })}
      />
      {of.words("how", "How, and what was seen", "how", "cracked across the insulator")}
      {of.words("why_failed", "Why did it fail?", "why_failed", "oil in the well, heat, chafing, a worn neighbour")}
      <Typography>Has it failed at this place before?</Typography>
      <Before job={job} entry={Number(value.fitted)} />
      <OneOf
        label="Failed here before"
        options={[
          ["yes", "Yes"],
          ["no", "No"],
        ]}
        chosen={value.before_here}
        onChosen={(before_here) => change({ before_here })}
        onNone={() => change({ before_here: "" })}
      />
    </>
  );
}

/** What this vehicle's earlier jobs replaced at the same place. */
function Before({ job, entry }: { job: JobView; entry: number }) {
  const history = useQuery(historyQuery(job.vehicle.id));
  const fitted = job.state.fitted.find((one) => one.entry === entry);
  const earlier = (history.data?.jobs ?? [])
    .filter((one) => one.job !== job.id)
    .flatMap((one) => one.fitted)
    .filter((part) => part.part === fitted?.part && (part.cylinder ?? null) === (fitted?.cylinder ?? null));
  return (
    <Typography variant="body2" color="text.secondary">
      {earlier.length === 0
        ? "No earlier job of this vehicle replaced it there."
        : `Replaced there at ${earlier.map((part) => km(part.odometer_km)).join(", ")}.`}
    </Typography>
  );
}

export const oldPartForm: EntryForm<OldPartValue> = {
  first: (job, request) => {
    const old = corrected(request, "old-part");
    const before = old?.before_here;
    return {
      fitted: String(old?.fitted ?? job.state.fitted.at(-1)?.entry ?? ""),
      found: old?.found ?? "faulty",
      how: old?.how ?? "",
      why_failed: old?.why_failed ?? "",
      before_here: before == null ? "" : before ? "yes" : "no",
    };
  },
  Fields: OldPartFields,
  finding: async (value) => ({
    kind: "old-part",
    fitted: Number(value.fitted),
    found: value.found,
    how: value.how,
    why_failed: value.why_failed,
    before_here: value.before_here === "" ? null : value.before_here === "yes",
  }),
};

interface StartedValue {
  text: string;
  stood: string;
  anyway: string;
}

function StartedFields({ value, change, job, refused }: FieldsProps<StartedValue>) {
  const of = fieldsOf(value, change, refused);
  const { bench_out: list } = job.state;
  return (
    <>
      {list.holds_start && (
        <Box role="alert" sx={{ border: 1, borderColor: "divider", p: 1.5 }}>
          <strong>Do not start it yet.</strong> {list.says}
        </Box>
      )}
      {of.words("text", "Leaks, noises, lights", "text", "no leak, idle rough for a minute, then steady")}
      {of.quantity("stood", "Hours it had stood", "number", "stood_h", "eight or more make a cold start")}
      {list.holds_start && of.words("anyway", "Started all the same: why", "anyway", "", "It stands on the report.")}
    </>
  );
}

export const startedForm: EntryForm<StartedValue> = {
  first: (_job, request) => {
    const old = corrected(request, "started");
    return { text: old?.text ?? "", stood: old?.stood_h == null ? "" : String(old.stood_h), anyway: old?.anyway ?? "" };
  },
  Fields: StartedFields,
  finding: async (value, read) => ({
    kind: "started",
    text: value.text,
    anyway: value.anyway,
    stood_h: await read.optional(value.stood, "number", "stood_h"),
  }),
};

type Scale = FindingOf<"ran">["scale"];
const SCALES: [Scale, string][] = [
  ["starts", "starts"],
  ["cold-starts", "cold starts"],
  ["hours", "hours"],
  ["weeks", "weeks"],
  ["revolutions", "revolutions"],
  ["km", "kilometres"],
];

interface WatchedValue {
  scale: Scale;
  watched: string;
  occurrences: string;
  text: string;
}

export const watchedForm: EntryForm<WatchedValue> = {
  first: (_job, request) => {
    const old = corrected(request, "watched");
    return {
      scale: old?.scale ?? "starts",
      watched: old ? String(old.watched) : "",
      occurrences: old?.occurrences.join("; ") ?? "",
      text: old?.text ?? "",
    };
  },
  Fields: ({ value, change, refused }: FieldsProps<WatchedValue>) => {
    const of = fieldsOf(value, change, refused);
    return (
      <>
        <Typography color="text.secondary">
          Before the repair: over how much it was watched, and where in that it came. Kilometres belong to the
          complaint.
        </Typography>
        <OneOf label="Counted in" options={SCALES} chosen={value.scale} onChosen={(scale) => change({ scale })} />
        {of.quantity("watched", `Watched over so many ${value.scale.replace("-", " ")}`, "number", "watched")}
        {of.words("occurrences", "It came at", "occurrences", "3; 9; 14", "counted from the start of the watch")}
        {of.words("text", "Remark", "text")}
      </>
    );
  },
  finding: async (value, read) => {
    const occurrences: number[] = [];
    for (const one of value.occurrences.split(/[;\s]+/).filter(Boolean))
      occurrences.push(await read.number(one, "number", "occurrences"));
    return {
      kind: "watched",
      scale: value.scale,
      watched: await read.number(value.watched, "number", "watched"),
      occurrences,
      text: value.text,
    };
  },
};

interface RanValue {
  scale: Scale;
  clean: string;
  told: boolean;
  text: string;
}

export const ranForm: EntryForm<RanValue> = {
  first: (_job, request) => {
    const old = corrected(request, "ran");
    return {
      scale: old?.scale ?? "weeks",
      clean: old ? String(old.clean) : "",
      told: old?.told ?? false,
      text: old?.text ?? "",
    };
  },
  Fields: ({ value, change, refused }: FieldsProps<RanValue>) => {
    const of = fieldsOf(value, change, refused);
    return (
      <>
        <Typography color="text.secondary">Since the repair, without the fault.</Typography>
        <OneOf label="Counted in" options={SCALES} chosen={value.scale} onChosen={(scale) => change({ scale })} />
        {of.quantity("clean", `So many ${value.scale.replace("-", " ")} more`, "number", "clean")}
        <FormControlLabel
          control={<Checkbox checked={value.told} onChange={(_e, told) => change({ told })} />}
          label="The owner says so: an owner does not notice everything, so it counts for less"
        />
        {of.words("text", "Remark", "text")}
      </>
    );
  },
  finding: async (value, read) => ({
    kind: "ran",
    scale: value.scale,
    clean: await read.number(value.clean, "number", "clean"),
    told: value.told,
    text: value.text,
  }),
};

interface ProvokedValue {
  how: string;
  hits: string;
  attempts: string;
}

export const provokedForm: EntryForm<ProvokedValue> = {
  first: (_job, request) => {
    const old = corrected(request, "provoked");
    return { how: old?.how ?? "", hits: old ? String(old.hits) : "", attempts: old ? String(old.attempts) : "" };
  },
  Fields: ({ value, change, refused }: FieldsProps<ProvokedValue>) => {
    const of = fieldsOf(value, change, refused);
    return (
      <>
        {of.words("how", "How it was provoked", "how", "water mist on the connectors, warm-air gun at the sensor")}
        <Grid columns={2}>
          {of.quantity("hits", "It came so many times", "count", "hits")}
          {of.quantity("attempts", "in so many attempts", "count", "attempts")}
        </Grid>
      </>
    );
  },
  finding: async (value, read) => ({
    kind: "provoked",
    how: value.how,
    hits: await read.number(value.hits, "count", "hits"),
    attempts: await read.number(value.attempts, "count", "attempts"),
  }),
};

interface OdometerValue {
  reads: string;
}

export const odometerForm: EntryForm<OdometerValue> = {
  first: (_job, request) => {
    const old = corrected(request, "odometer-replaced");
    return { reads: old ? String(old.reads_km) : "" };
  },
  Fields: ({ value, change, refused }: FieldsProps<OdometerValue>) => {
    const of = fieldsOf(value, change, refused);
    return (
      <>
        <Typography color="text.secondary">
          The reading below is the last of the old odometer. Distances are carried on from it.
        </Typography>
        {of.quantity("reads", "The new odometer reads (km, or write mi)", "distance", "reads_km")}
      </>
    );
  },
  finding: async (value, read) => ({
    kind: "odometer-replaced",
    reads_km: await read.number(value.reads, "distance", "reads_km"),
  }),
};

/** An entry with figures of its own screen: it is withdrawn and made again there, never typed over here. */
export const keptForm: EntryForm<{ kept: string }> = {
  first: (_job, request) => ({ kept: JSON.stringify(request.corrects?.finding ?? null) }),
  Fields: () => (
    <Typography color="text.secondary">
      What was written there is changed by withdrawing it and entering it again on its own screen. Only the odometer and
      the name can be corrected here.
    </Typography>
  ),
  finding: async ({ kept }) => JSON.parse(kept) as Finding,
};
