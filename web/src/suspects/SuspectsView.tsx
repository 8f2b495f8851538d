import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useParams } from "react-router";
import { useJob } from "../api/queries";
import type { JobView } from "../api/types";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { sure } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { atPlace, suspectName } from "./names";
import { SuspectRow } from "./SuspectRow";
import { useQuickEntry } from "./useTested";

/** All suspects of a job, with what speaks for and against each, and why it is not another. */
export default function SuspectsView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  if (job.isPending) return <Waiting what="the suspects" />;
  if (!job.data) return <NotHere what="job" />;
  return (
    <Screen title={`${job.data.vehicle.fleet_no}: suspects`} back="Back to the job" backTo={`/jobs/${id}`}>
      {job.data.state.suspects ? (
        <All job={job.data} />
      ) : (
        <Typography color="text.secondary">
          The book cannot reckon with this trail. Correct the complaint first.
        </Typography>
      )}
    </Screen>
  );
}

function All({ job }: { job: JobView }) {
  const [wanted, setWanted] = useState("");
  const shown = job.state.suspects;
  if (!shown) return null;
  const { result } = shown;
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = result.suspects.filter((one) => words.every((word) => suspectName(one).toLowerCase().includes(word)));
  const list = words.length > 0 ? fits : result.suspects.slice(0, 14);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1.25fr 1fr" }, gap: 4 }}>
      <Box>
        <TextField
          label="Why not …? Type a part or a fault"
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
          fullWidth
          sx={{ mb: 1 }}
        />
        {list.length === 0 && (
          <Typography color="text.secondary">
            Nothing of that name is left among the suspects: this vehicle cannot have it, or everything found speaks
            against it.
          </Typography>
        )}
        <Box component="ul" aria-label="Suspects" sx={{ listStyle: "none", m: 0, p: 0 }}>
          {list.map((one, index) => (
            <SuspectRow
              key={`${wanted} ${one.fault} ${one.target}`}
              suspect={one}
              open={words.length > 0 ? fits.length <= 2 : index < 2}
            />
          ))}
        </Box>
      </Box>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 2 }}>
        {result.contradictions.length > 0 && (
          <Box component="section" aria-label="Contradictions">
            <Typography variant="h2">What does not go together</Typography>
            {result.contradictions.map((one) => (
              <Typography key={one.says} sx={{ py: 0.5, lineHeight: 1.3 }}>
                {one.says}.
              </Typography>
            ))}
          </Box>
        )}
        <Questions job={job} />
        {result.two_faults >= 0.02 && (
          <Box component="section" aria-label="Two faults">
            <Typography variant="h2">Two faults at once: {sure(result.two_faults)}</Typography>
            {result.pairs.slice(0, 4).map((pair) => (
              <Typography key={pair.faults.join() + pair.targets.join()} sx={{ py: 0.25, lineHeight: 1.25 }}>
                {pair.names
                  .map((name, index) => [name, atPlace(pair.targets[index] ?? "")].filter(Boolean).join(", "))
                  .join(" and ")}
                : {sure(pair.probability)}
              </Typography>
            ))}
          </Box>
        )}
        {result.not_understood.length > 0 && (
          <Typography color="text.secondary">
            Words of the complaint that the book does not know: {result.not_understood.join(", ")}.
          </Typography>
        )}
        <Typography variant="body2" color="text.secondary">
          Ten decibans make a suspect ten times as likely, three double it. A finding is weighed after all the others,
          so two that say the same do not count twice. Shares come from the book's figures and this workshop's own; each
          stands in the book with its reason.
        </Typography>
      </Box>
    </Box>
  );
}

/** What could be asked, and answered at one touch. */
function Questions({ job }: { job: JobView }) {
  const { write, isPending, error } = useQuickEntry(job);
  const questions = job.state.suspects?.result.questions ?? [];
  if (questions.length === 0) return null;
  return (
    <Box component="section" aria-label="Questions that pay">
      <Typography variant="h2">Questions that pay</Typography>
      {questions.map((one) => (
        <Box key={one.test} sx={{ display: "flex", alignItems: "center", gap: 1, py: 0.25 }}>
          <Box sx={{ flex: 1 }}>{one.name}?</Box>
          {["yes", "no"].map((outcome) => (
            <Button
              key={outcome}
              variant="outlined"
              color="inherit"
              disabled={isPending}
              aria-label={`${one.name}: ${outcome}`}
              onClick={() =>
                write({ kind: "tested", test: one.test, target: "engine", outcome, text: "" }).catch(() => undefined)
              }
            >
              {outcome}
            </Button>
          ))}
        </Box>
      ))}
      <ProblemNote error={error} />
    </Box>
  );
}
