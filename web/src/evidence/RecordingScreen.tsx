import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useParams, useSearchParams } from "react-router";
import { asProblem } from "../api/problem";
import { useJob } from "../api/queries";
import { useRecording } from "../api/recordings";
import type { RecordingView } from "../api/types";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { moment, plural, whole } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { Tabs } from "../fields/Tabs";
import { BoostEvidence } from "./BoostEvidence";
import { KeepRecording } from "./KeepRecording";
import { MisfireEvidence } from "./MisfireEvidence";
import { Traces } from "./Traces";
import { TrimsEvidence } from "./TrimsEvidence";

const VIEWS = [
  ["traces", "Traces"],
  ["map", "Where it misses"],
  ["time", "When it misses"],
  ["trims", "Trims"],
  ["boost", "Charge pressure"],
] as const;
type ViewName = (typeof VIEWS)[number][0];

/** One recording and the evidence in it. */
export default function RecordingScreen() {
  const id = Number(useParams().id);
  const recording = useRecording(id);
  if (recording.isPending) return <Waiting what="the recording" />;
  if (recording.data) return <Evidence recording={recording.data} />;
  if (asProblem(recording.error).status === 404) return <NotHere what="recording" />;
  return <ProblemNote error={recording.error} retry={() => recording.refetch()} />;
}

/** Which evidence a recording can hold, by its channels. */
function holds(recording: RecordingView): ViewName[] {
  const has = (name: string) => recording.channels.some((channel) => channel.name === name);
  const list: ViewName[] = ["traces"];
  if (has("misfires_1") && has("engine_speed")) list.push(...(has("load") ? (["map"] as const) : []), "time");
  if (has("short_trim_1") && has("airflow")) list.push("trims");
  if (has("requested_boost")) list.push("boost");
  return list;
}

/** Where a result is drawn. */
function viewOf(kind: RecordingView["results"][number]["kind"], possible: ViewName[]): ViewName {
  if (kind !== "misfires") return kind;
  return possible.includes("map") ? "map" : "time";
}

function Evidence({ recording }: { recording: RecordingView }) {
  const [query, setQuery] = useSearchParams();
  const job = useJob(recording.job_id);
  const possible = holds(recording);
  const wanted = query.get("view") as ViewName | null;
  // The view that answers most comes first: that of a fault which is decided.
  const telling = recording.results.find((result) => result.decided && result.fault) ?? recording.results[0];
  const best: ViewName = telling ? viewOf(telling.kind, possible) : "traces";
  const view = wanted && possible.includes(wanted) ? wanted : best;
  const { about } = recording;
  return (
    <Screen
      title={`${recording.fleet_no}: ${recording.name}`}
      back="Back to the job"
      backTo={`/jobs/${recording.job_id}`}
      actions={
        <Button component="a" href={`/api/recordings/${recording.id}/channels.csv`} color="inherit" variant="outlined">
          Channels as CSV
        </Button>
      }
    >
      <Typography color="text.secondary">
        {moment(recording.made_at)}, {Math.round((about.to_s - about.from_s) / 6) / 10} min, {whole(about.samples)}{" "}
        samples, {plural(recording.channels.length, "channel")}
        {recording.entry != null && `, entry ${recording.entry} of the trail`}
      </Typography>
      {job.data && recording.entry == null && (
        <KeepRecording
          job={job.data}
          recording={recording.id}
          odometer={job.data.state.odometer_km}
          onKept={() => {}}
        />
      )}
      {(about.notes ?? []).length > 0 && (
        <Alert severity="info" variant="outlined" icon={false} sx={{ my: 1 }}>
          {(about.notes ?? []).slice(0, 4).join("; ")}
          {(about.notes ?? []).length > 4 && `; and ${(about.notes ?? []).length - 4} more notes`}
        </Alert>
      )}
      <Box sx={{ display: "flex", my: 1 }}>
        <Tabs
          label="Evidence"
          options={VIEWS.filter(([name]) => possible.includes(name))}
          chosen={view}
          onChosen={(name) => setQuery({ view: name }, { replace: true })}
        />
      </Box>
      {view === "traces" && <Traces recording={recording} />}
      {view === "map" && <MisfireEvidence id={recording.id} name={recording.name} what="map" />}
      {view === "time" && <MisfireEvidence id={recording.id} name={recording.name} what="time" />}
      {view === "trims" && <TrimsEvidence id={recording.id} name={recording.name} />}
      {view === "boost" && <BoostEvidence id={recording.id} name={recording.name} />}
    </Screen>
  );
}
