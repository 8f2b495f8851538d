import TextField from "@mui/material/TextField";
import type { ApiProblem } from "../api/problem";
import type { JobView } from "../api/types";
import { usePreferences } from "../app/preferences";
import { km } from "../app/words";
import { QuantityField } from "../fields/QuantityField";

interface Props {
  job: JobView;
  odometer: string;
  onOdometer: (text: string) => void;
  problem: ApiProblem | null;
}

/** At which reading an entry is written, and who signs it. */
export function WhereAndWho({ job, odometer, onOdometer, problem }: Props) {
  const preferences = usePreferences();
  return (
    <>
      <QuantityField
        label="Odometer (km, or write mi)"
        dimension="distance"
        value={odometer}
        onValue={onOdometer}
        refused={problem?.reasonFor("odometer_km")}
        helperText={`last ${km(job.state.odometer_km)}`}
      />
      <TextField
        label="Signed"
        value={preferences.author}
        onChange={(event) => preferences.set({ author: event.target.value })}
        error={Boolean(problem?.reasonFor("author"))}
        helperText={problem?.reasonFor("author") ?? " "}
      />
    </>
  );
}
