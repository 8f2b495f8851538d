import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useLink } from "../api/link";
import { type RelearnStep, repairChoicesQuery } from "../api/repair";
import type { JobView } from "../api/types";
import { FIGURES } from "../app/theme";
import { Chips } from "../fields/Chips";
import { useDraft } from "../fields/useDraft";
import { Write } from "./Write";

/** What the engine learns again after the work, each with its timer, and which self-tests have run since. */
export function LearnTab({ job }: { job: JobView }) {
  const choices = useQuery(repairChoicesQuery);
  const none: { ready: string[]; not_ready: string[] } = { ready: [], not_ready: [] };
  const [monitors, change, forget] = useDraft(`job-${job.id}.monitors`, none);
  const link = useLink(job.id);
  // Shown only until it stands among the chips.
  const said = link.data?.scan?.units.find((unit) => unit.self_tests)?.self_tests;
  const read = said && (same(said.ready, monitors.ready) && same(said.not_ready, monitors.not_ready) ? null : said);
  const diesel = job.state.engine.fuel === "diesel";
  const names = (diesel ? choices.data?.self_tests_compression : choices.data?.self_tests_spark) ?? [];
  const steps = choices.data?.relearn ?? [];
  const done = new Set(
    job.entries.flatMap((entry) =>
      entry.finding.kind === "relearned" && job.state.standing.includes(entry.number) ? [entry.finding.step] : [],
    ),
  );
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1fr) minmax(0, 1fr)" }, gap: 3 }}>
      <Box component="section" aria-label="Learning again">
        <Typography variant="h2">Learning again</Typography>
        {steps.map((step) => (
          <Step key={step.name} job={job} step={step} done={done.has(step.name)} />
        ))}
      </Box>
      <Box component="section" aria-label="Self-tests" sx={{ display: "flex", flexDirection: "column", gap: 1 }}>
        <Typography variant="h2">Self-tests since the codes were cleared</Typography>
        <Typography color="text.secondary">
          Clearing sets all of them back. Until they have run, the car may fail an inspection.
        </Typography>
        {read && (
          <Button variant="outlined" color="inherit" onClick={() => change({ ...read })} sx={{ alignSelf: "start" }}>
            Take what the car said at the last scan
          </Button>
        )}
        <Typography>Ready</Typography>
        <Chips
          label="Ready"
          options={names}
          chosen={monitors.ready}
          onChosen={(ready) => change({ ready, not_ready: monitors.not_ready.filter((one) => !ready.includes(one)) })}
        />
        <Typography>Not ready yet</Typography>
        <Chips
          label="Not ready yet"
          options={names}
          chosen={monitors.not_ready}
          onChosen={(not_ready) =>
            change({ not_ready, ready: monitors.ready.filter((one) => !not_ready.includes(one)) })
          }
        />
        <Write
          job={job}
          disabled={monitors.ready.length + monitors.not_ready.length === 0}
          finding={() => ({ kind: "readiness", ...monitors })}
          onWritten={() => {
            forget();
            change(none);
          }}
        />
      </Box>
    </Box>
  );
}

const same = (one: string[], other: string[]) =>
  one.length === other.length && one.every((name) => other.includes(name));

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

function Step({ job, step, done }: { job: JobView; step: RelearnStep; done: boolean }) {
  // The time at which it was begun outlives a reload.
  const [{ begun }, change, forget] = useDraft<{ begun: number | null }>(`job-${job.id}.learn.${step.name}`, {
    begun: null,
  });
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (begun === null) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [begun]);
  const passed = begun === null ? 0 : Math.max(0, (now - begun) / 1000);
  const left = Math.max(0, step.seconds - passed);
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", py: 1.25 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
        <Box sx={{ flex: 1 }}>
          <Box sx={{ fontWeight: 600, fontSize: "1.1rem" }}>
            {step.title} {done && "– done"}
          </Box>
          <Box sx={{ color: "text.secondary" }}>{step.how}</Box>
        </Box>
        <Box sx={{ fontFamily: FIGURES, fontSize: "1.5rem" }} role="timer" aria-label={`${step.title}, time left`}>
          {clock(left)}
        </Box>
        {begun === null ? (
          <Button variant="outlined" color="inherit" onClick={() => change({ begun: Date.now() })}>
            Begin
          </Button>
        ) : (
          <Button
            color="inherit"
            onClick={() => {
              forget();
              change({ begun: null });
            }}
          >
            Stop
          </Button>
        )}
      </Box>
      {begun !== null && (
        <Write
          job={job}
          words={
            left > 0
              ? `Write down after ${clock(passed)} – it takes ${clock(step.seconds)}`
              : "It has learnt: write it down"
          }
          finding={() => ({ kind: "relearned", step: step.name, seconds: Math.floor(passed), text: "" })}
          onWritten={() => {
            forget();
            change({ begun: null });
          }}
        />
      )}
    </Box>
  );
}
