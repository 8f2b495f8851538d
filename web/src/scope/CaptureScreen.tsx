import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { choicesQuery, type StoredCapture, useCapture, useCaptureTrace, useWaveform } from "../api/bench";
import { asProblem } from "../api/problem";
import { useJob } from "../api/queries";
import type { JobView } from "../api/types";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { moment, whole } from "../app/words";
import { cylindersOf } from "../bench/form";
import { MARK, WORD } from "../bench/marks";
import { NotJudged } from "../bench/NotJudged";
import { Cautions, useAcknowledged } from "../entry/Cautions";
import { reader } from "../entry/form";
import { columnsOfScreen, Lanes } from "../evidence/Lanes";
import { RangeButtons } from "../evidence/RangeButtons";
import { useRange } from "../evidence/useRange";
import { ProblemNote } from "../fields/ProblemNote";
import { useDraft } from "../fields/useDraft";
import { useSettled } from "../fields/useSettled";
import { AskFields } from "./AskFields";
import { type AskValue, asAsk, firstAsk } from "./ask";
import { KeepReading } from "./KeepReading";
import { OverlayPlot } from "./OverlayPlot";
import { WaveFigures } from "./WaveFigures";

/** One capture: what it shows, read for what is asked of it. */
export default function CaptureScreen() {
  const id = Number(useParams().id);
  const capture = useCapture(id);
  if (capture.isPending) return <Waiting what="the capture" />;
  if (capture.data) return <OfJob key={id} capture={capture.data} />;
  if (asProblem(capture.error).status === 404) return <NotHere what="capture" />;
  return <ProblemNote error={capture.error} retry={() => capture.refetch()} />;
}

function OfJob({ capture }: { capture: StoredCapture }) {
  const job = useJob(capture.job_id);
  if (job.data) return <Read capture={capture} job={job.data} />;
  if (job.isPending) return <Waiting what="the job" />;
  return <ProblemNote error={job.error} retry={() => job.refetch()} />;
}

function Read({ capture, job }: { capture: StoredCapture; job: JobView }) {
  const queries = useQueryClient();
  const choices = useQuery(choicesQuery);
  const { about } = capture;
  const [value, change] = useDraft<AskValue>(`capture-${capture.id}`, firstAsk(capture));
  const settled = useSettled(JSON.stringify(value), 300);
  const ask = useQuery({
    queryKey: ["ask", capture.id, settled],
    queryFn: () => asAsk(JSON.parse(settled), reader(queries)),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const read = useWaveform(capture.id, ask.data ?? null);
  const failed = ask.error ?? read.error;
  const problem = failed ? asProblem(failed) : null;
  const range = useRange(about.step_s * about.samples, about.step_s * 20);
  const trace = useCaptureTrace(capture.id, range.asked?.[0] ?? null, range.asked?.[1] ?? null, columnsOfScreen());
  const named = new Map(about.channels.map((one) => [one.name, { label: one.name, unit: one.unit }]));
  const unit = about.channels.find((one) => one.name === value.signals[0]?.channel)?.unit ?? "";
  const result = read.data && !problem ? read.data : null;
  const cautions = choices.data?.cautions.scope ?? [];
  const acknowledged = useAcknowledged(job.id, cautions);
  const kept = job.entries.findLast((one) => {
    const reading = one.finding.kind === "measured" ? one.finding.reading : null;
    return reading?.bench === "waveform" && reading.capture === capture.id;
  });
  return (
    <Screen
      title={`${job.vehicle.fleet_no}: ${capture.name}`}
      back="All captures"
      backTo={`/jobs/${job.id}/scope`}
      actions={
        <Button component="a" href={`/api/captures/${capture.id}/samples.csv`} color="inherit" variant="outlined">
          Samples as CSV
        </Button>
      }
    >
      <Typography color="text.secondary">
        {moment(capture.made_at)}, {whole(about.samples)} samples, {whole(1 / about.step_s)} a second
        {kept && `, entry ${kept.number} of the trail`}
      </Typography>
      {about.notes.length > 0 && (
        <Alert severity="info" variant="outlined" icon={false} sx={{ my: 1 }}>
          {about.notes.join("; ")}
        </Alert>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1.35fr) minmax(0, 1fr)" }, gap: 3 }}>
        <Box sx={{ minWidth: 0 }}>
          <RangeButtons range={range} fetching={trace.isFetching} places={4} />
          <ProblemNote error={trace.error} retry={() => trace.refetch()} />
          {trace.data && <Lanes trace={trace.data} named={named} range={range} least={70} most={130} besides={560} />}
          {result && <OverlayPlot result={result} unit={unit} name={capture.name} />}
        </Box>
        <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", gap: 1.5 }}>
          <AskFields
            capture={capture}
            cylinders={cylindersOf(job)}
            fleetNo={job.vehicle.fleet_no}
            value={value}
            change={change}
            refused={(...fields) => problem?.reasonFor(...fields)}
          />
          {problem && <NotJudged title="Not read yet" problem={problem} />}
          {result && (
            <Box component="section" aria-label="Verdict" sx={{ bgcolor: "background.paper", px: 2, py: 1.5 }}>
              <Typography variant="h1" component="p" role="status" sx={{ fontSize: "2rem" }}>
                <span aria-hidden="true">{MARK[result.verdict]} </span>
                {WORD[result.verdict]}
              </Typography>
              <Typography sx={{ lineHeight: 1.3, mb: 0.5 }}>{result.says}</Typography>
              {result.notes.map((note) => (
                <Typography key={note} color="text.secondary">
                  {note}
                </Typography>
              ))}
              <WaveFigures result={result} />
              {result.cam && (
                <Typography sx={{ mt: 0.5 }}>
                  Cam edges at {result.cam.edges_deg.map((deg) => deg.toFixed(1)).join(", ")} °
                </Typography>
              )}
            </Box>
          )}
          <Cautions cautions={cautions} acknowledged={acknowledged} />
          {result && ask.data && (
            <KeepReading job={job} capture={capture.id} ask={ask.data} disabled={!acknowledged.all} />
          )}
        </Box>
      </Box>
    </Screen>
  );
}
