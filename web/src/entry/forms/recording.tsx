import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { FindingOf } from "../../api/types";
import { corrected, type EntryForm, type FieldsProps, refusal } from "../form";

interface RecordingValue {
  conditions: string;
  recording: FindingOf<"recording"> | null;
}

function Fields({ value, change, refused }: FieldsProps<RecordingValue>) {
  return (
    <>
      <Typography color="text.secondary">
        {value.recording
          ? "What was recorded stays as it is; how it was driven and the odometer can be put right."
          : "A recording is made at the car, or read from a file, and put on the trail there."}
      </Typography>
      <TextField
        label="How it was driven"
        value={value.conditions}
        onChange={(event) => change({ conditions: event.target.value })}
        error={Boolean(refused("conditions"))}
        helperText={refused("conditions") ?? " "}
      />
    </>
  );
}

/** A recording's entry can be corrected, not made here. */
export const recordingForm: EntryForm<RecordingValue> = {
  first: (_, request) => {
    const old = corrected(request, "recording");
    return { conditions: old?.conditions ?? "", recording: old };
  },
  Fields,
  finding: async (value) => {
    if (!value.recording) throw refusal("recording", "is made at the car or read from a file");
    return { ...value.recording, conditions: value.conditions };
  },
};
