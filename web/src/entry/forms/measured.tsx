import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { FindingOf } from "../../api/types";
import { corrected, type EntryForm, type FieldsProps, refusal } from "../form";

interface MeasuredValue {
  instrument: string;
  conditions: string;
  place: NonNullable<FindingOf<"measured">["place"]>;
  text: string;
  /** The reading itself, which is not rewritten here. */
  reading: FindingOf<"measured"> | null;
}

function Fields({ value, change, refused }: FieldsProps<MeasuredValue>) {
  return (
    <>
      <Typography>
        A wrong figure is withdrawn, and measured again at the bench. What stands around it can be corrected here.
      </Typography>
      <TextField
        label="Instrument"
        value={value.instrument}
        onChange={(event) => change({ instrument: event.target.value })}
        error={Boolean(refused("instrument"))}
        helperText={refused("instrument") ?? " "}
      />
      <TextField
        select
        label="The part was"
        value={value.place}
        onChange={(event) => change({ place: event.target.value as MeasuredValue["place"] })}
        helperText=" "
      >
        <MenuItem value="in-place">in its place</MenuItem>
        <MenuItem value="before-fitting">new, not fitted yet</MenuItem>
        <MenuItem value="removed">the old one, out</MenuItem>
      </TextField>
      <TextField
        label="Conditions"
        value={value.conditions}
        onChange={(event) => change({ conditions: event.target.value })}
        helperText=" "
      />
      <TextField
        label="What else was seen"
        value={value.text}
        onChange={(event) => change({ text: event.target.value })}
        multiline
        minRows={2}
      />
    </>
  );
}

export const measuredForm: EntryForm<MeasuredValue> = {
  first: (_job, request) => {
    const old = corrected(request, "measured");
    return {
      instrument: old?.instrument ?? "",
      conditions: old?.conditions ?? "",
      place: old?.place ?? "in-place",
      text: old?.text ?? "",
      reading: old,
    };
  },
  Fields,
  finding: async ({ reading, ...words }) => {
    if (!reading) throw refusal("reading", "measure it at the bench");
    return { ...reading, ...words };
  },
};
