import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useKeepCapture, type WaveformAsk } from "../api/bench";
import { asProblem } from "../api/problem";
import type { JobView } from "../api/types";
import { usePreferences } from "../app/preferences";
import { Grid } from "../bench/Grid";
import { NotTaken } from "../entry/EntryFrame";
import { reader } from "../entry/form";
import { WhereAndWho } from "../entry/WhereAndWho";
import { requestKey } from "../fields/requestKey";
import { useDraft } from "../fields/useDraft";

interface Props {
  job: JobView;
  capture: number;
  ask: WaveformAsk;
  disabled: boolean;
}

/** What a capture says goes to the trail, with the instrument and the conditions. */
export function KeepReading({ job, capture, ask, disabled }: Props) {
  const queries = useQueryClient();
  const preferences = usePreferences();
  const keep = useKeepCapture(job.id, capture);
  const go = useNavigate();
  const [value, change, forget] = useDraft(`capture-${capture}.keep`, {
    odometer: String(job.state.odometer_km),
    instrument: "scope",
    conditions: "",
    text: "",
    key: requestKey(),
  });
  const [failed, setFailed] = useState<unknown>(null);
  const problem = failed ? asProblem(failed) : null;
  const save = async () => {
    setFailed(null);
    try {
      await keep.mutateAsync({
        ask,
        odometer_km: await reader(queries).number(value.odometer, "distance", "odometer_km"),
        author: preferences.author,
        instrument: value.instrument,
        conditions: value.conditions,
        text: value.text,
        seen: job.entries.length,
        request_key: value.key,
      });
      forget();
      go(`/jobs/${job.id}`);
    } catch (error) {
      if (asProblem(error).kind === "stale") change({ key: requestKey() });
      setFailed(error);
    }
  };
  return (
    <Box component="section" aria-label="Onto the trail">
      <Grid columns={2}>
        <TextField
          label="Scope and probe"
          value={value.instrument}
          onChange={(event) => change({ instrument: event.target.value })}
          error={Boolean(problem?.reasonFor("instrument"))}
          helperText={problem?.reasonFor("instrument") ?? " "}
        />
        <TextField
          label="Conditions"
          placeholder="warm, at idle"
          value={value.conditions}
          onChange={(event) => change({ conditions: event.target.value })}
        />
        <WhereAndWho
          job={job}
          odometer={value.odometer}
          onOdometer={(odometer) => change({ odometer })}
          problem={problem}
        />
      </Grid>
      <NotTaken problem={problem} />
      <Button
        variant="contained"
        size="large"
        fullWidth
        disabled={disabled || keep.isPending}
        onClick={save}
        sx={{ minHeight: 52 }}
      >
        {keep.isPending ? "Writing …" : "Put it on the trail"}
      </Button>
    </Box>
  );
}
