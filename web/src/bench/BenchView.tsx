import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { type BenchChoices, choicesQuery, judgeReading, type Measured } from "../api/bench";
import { asProblem } from "../api/problem";
import { useAppend, useJob } from "../api/queries";
import type { JobView } from "../api/types";
import { NotHere } from "../app/NotHere";
import { usePreferences } from "../app/preferences";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { Cautions, useAcknowledged } from "../entry/Cautions";
import { NotTaken } from "../entry/EntryFrame";
import { reader } from "../entry/form";
import { WhereAndWho } from "../entry/WhereAndWho";
import { requestKey } from "../fields/requestKey";
import { Tabs } from "../fields/Tabs";
import { useDraft } from "../fields/useDraft";
import { useSettled } from "../fields/useSettled";
import { Choice } from "./Choice";
import type { BenchForm } from "./form";
import { FORMS } from "./forms";
import { NotJudged } from "./NotJudged";
import { Verdict } from "./Verdict";

/** The bench of a job: one kind of measuring at a time, judged while it is typed. */
export default function BenchView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  const choices = useQuery(choicesQuery);
  const [query, setQuery] = useSearchParams();
  if (job.isPending || choices.isPending) return <Waiting what="the bench" />;
  if (!job.data || !choices.data) return <NotHere what="job" />;
  const forms = FORMS.filter((one) => one.fits?.(job.data) ?? true);
  const form = forms.find((one) => one.id === query.get("with")) ?? forms[0];
  if (!form) return null;
  return (
    <Screen
      title={`${job.data.vehicle.fleet_no}: at the bench`}
      back="Back to the job"
      backTo={`/jobs/${id}`}
      actions={
        <Button component={Link} to={`/jobs/${id}/scope`} variant="outlined" color="inherit">
          Scope
        </Button>
      }
    >
      <Box sx={{ display: "flex", mb: 1.5 }}>
        <Tabs
          label="What is measured"
          options={forms.map((one) => [one.id, one.title] as const)}
          chosen={form.id}
          onChosen={(name) => setQuery({ with: name }, { replace: true })}
        />
      </Box>
      <Bench key={form.id} job={job.data} form={form} choices={choices.data} />
    </Screen>
  );
}

interface Common {
  odometer: string;
  conditions: string;
  place: string;
  instrument: string;
  text: string;
  key: string;
}

// biome-ignore lint/suspicious/noExplicitAny: each form has fields of its own; the bench only carries them.
function Bench({ job, form, choices }: { job: JobView; form: BenchForm<any>; choices: BenchChoices }) {
  const queries = useQueryClient();
  const preferences = usePreferences();
  const append = useAppend(job.id);
  const go = useNavigate();
  const name = `job-${job.id}.bench.${form.id}`;
  const [value, change, forget] = useDraft<Record<string, unknown>>(name, form.first(job, choices));
  const [common, changeCommon, forgetCommon] = useDraft<Common>(`${name}.common`, {
    odometer: String(job.state.odometer_km),
    conditions: "",
    place: "in-place",
    instrument: "",
    text: "",
    key: requestKey(),
  });
  const [failed, setFailed] = useState<unknown>(null);
  const cautions = choices.cautions[form.id] ?? [];
  const acknowledged = useAcknowledged(job.id, cautions);

  const measured = async (): Promise<Measured | null> => {
    const reading = await form.reading(value, reader(queries), choices, job);
    if (!reading) return null;
    return {
      reading,
      target: form.target?.(value) ?? null,
      place: common.place as Measured["place"],
      instrument: form.instrument(value) || common.instrument.trim() || "by eye and hand",
      conditions: common.conditions,
      text: common.text,
    };
  };
  const settled = useSettled(JSON.stringify([value, common.place]), 350);
  const judged = useQuery({
    queryKey: ["judged", job.id, form.id, settled],
    queryFn: async () => {
      const reading = await measured();
      return reading ? await judgeReading(job.id, reading) : null;
    },
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const problem = judged.error ? asProblem(judged.error) : null;
  const saveProblem = failed ? asProblem(failed) : null;
  const refused = (...fields: string[]) => problem?.reasonFor(...fields);
  const save = async () => {
    setFailed(null);
    try {
      const reading = await measured();
      if (!reading) return;
      const odometer_km = await reader(queries).number(common.odometer, "distance", "odometer_km");
      const finding = { kind: "measured" as const, ...reading };
      await append.mutateAsync({
        entry: { odometer_km, author: preferences.author, replaces: null, finding },
        seen: job.entries.length,
        request_key: common.key,
      });
      forget();
      forgetCommon();
      go(`/jobs/${job.id}`);
    } catch (error) {
      if (asProblem(error).kind === "stale") changeCommon({ key: requestKey() });
      setFailed(error);
    }
  };
  const { Fields } = form;
  const result = judged.data ?? undefined;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1.25fr) minmax(0, 1fr)" }, gap: 3 }}>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5, minWidth: 0 }}>
        <Fields value={value} change={change} job={job} choices={choices} result={result} refused={refused} />
      </Box>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5, minWidth: 0 }}>
        {result ? (
          <Verdict result={result} />
        ) : problem ? (
          <NotJudged title="Not judged yet" problem={problem} />
        ) : (
          <Box component="section" aria-label="Verdict" sx={{ bgcolor: "background.paper", px: 2, py: 1.5 }}>
            <Typography color="text.secondary">
              Write down what the instrument shows. The verdict comes while you write.
            </Typography>
          </Box>
        )}
        <Cautions cautions={cautions} acknowledged={acknowledged} />
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", columnGap: 1.5, rowGap: 0.75 }}>
          <Choice
            label="The part is"
            value={common.place}
            onValue={(place) => changeCommon({ place })}
            options={[
              ["in-place", "in its place"],
              ["before-fitting", "new, not fitted yet"],
              ["removed", "the old one, out"],
            ]}
          />
          <TextField
            label="Conditions"
            placeholder="warm, after the climb"
            value={common.conditions}
            onChange={(event) => changeCommon({ conditions: event.target.value })}
          />
          <WhereAndWho
            job={job}
            odometer={common.odometer}
            onOdometer={(odometer) => changeCommon({ odometer })}
            problem={saveProblem}
          />
          <TextField
            label="Instrument"
            placeholder={form.instrument(value) || "by eye and hand"}
            value={form.instrument(value) || common.instrument}
            disabled={form.instrument(value) !== ""}
            onChange={(event) => changeCommon({ instrument: event.target.value })}
          />
          <TextField
            label="What else was seen"
            value={common.text}
            onChange={(event) => changeCommon({ text: event.target.value })}
          />
        </Box>
        <NotTaken problem={saveProblem} />
        <Button
          variant="contained"
          size="large"
          disabled={!result || !(form.savable?.(value) ?? true) || append.isPending || !acknowledged.all}
          onClick={save}
          sx={{ minHeight: 52 }}
        >
          {append.isPending ? "Writing …" : "Put it on the trail"}
        </Button>
        {!acknowledged.all && (
          <Typography variant="body2" color="text.secondary">
            Tick the cautions above first.
          </Typography>
        )}
      </Box>
    </Box>
  );
}
