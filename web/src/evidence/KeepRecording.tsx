import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asProblem } from "../api/problem";
import { useKeep } from "../api/recordings";
import type { JobView } from "../api/types";
import { usePreferences } from "../app/preferences";
import { km } from "../app/words";
import { reader } from "../entry/form";
import { ProblemNote } from "../fields/ProblemNote";
import { QuantityField } from "../fields/QuantityField";
import { requestKey } from "../fields/requestKey";
import { useDraft } from "../fields/useDraft";

interface Props {
  job: JobView;
  recording: number;
  /** What the odometer likely shows after it. */
  odometer: number;
  onKept: () => void;
}

/** Puts a recording on the trail: where the odometer stands, and how it was driven. */
export function KeepRecording({ job, recording, odometer, onKept }: Props) {
  const { author } = usePreferences();
  const queries = useQueryClient();
  const keep = useKeep(recording, job.id);
  const [failed, setFailed] = useState<unknown>(null);
  const [value, change, forget] = useDraft(`recording-${recording}`, {
    odometer: odometer.toFixed(0),
    conditions: "",
    key: requestKey(),
  });
  const standing = job.entries.find(
    (entry) => entry.finding.kind === "recording" && entry.finding.recording === recording,
  );
  if (standing) return <Box sx={{ my: 1, fontWeight: 600 }}>On the trail as entry {standing.number}.</Box>;
  const problem = failed ? asProblem(failed) : null;
  const save = async () => {
    setFailed(null);
    try {
      const odometer_km = await reader(queries).number(value.odometer, "distance", "odometer_km");
      await keep.mutateAsync({
        odometer_km,
        author,
        conditions: value.conditions,
        seen: job.entries.length,
        request_key: value.key,
      });
      forget();
      onKept();
    } catch (error) {
      setFailed(error);
    }
  };
  return (
    <Box
      component="form"
      aria-label="Put it on the trail"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "1fr", md: "14rem 1fr auto" },
        gap: 1.5,
        my: 1,
        alignItems: "start",
      }}
    >
      <QuantityField
        label="Odometer after it"
        dimension="distance"
        value={value.odometer}
        onValue={(text) => change({ odometer: text })}
        refused={problem?.reasonFor("odometer_km")}
        helperText={`last ${km(job.state.odometer_km)}`}
      />
      <TextField
        label="How it was driven"
        placeholder="loop with the hill, warm"
        value={value.conditions}
        onChange={(event) => change({ conditions: event.target.value })}
      />
      <Button type="submit" variant="contained" size="large" disabled={keep.isPending}>
        Put it on the trail
      </Button>
      <Box sx={{ gridColumn: "1 / -1" }}>
        {problem && !problem.reasonFor("odometer_km") && <ProblemNote error={failed} />}
      </Box>
    </Box>
  );
}
