import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { Finding } from "../../api/types";
import { corrected, type EntryForm, type FieldsProps } from "../form";

interface TextValue {
  text: string;
}

/** A kind of entry that is one text. */
function textForm(
  kind: Finding["kind"],
  label: string,
  explains: string,
  field: string,
  finding: (text: string) => Finding,
  rows = 2,
): EntryForm<TextValue> {
  return {
    first: (_job, request) => {
      const old = corrected(request, kind) as unknown as Record<string, unknown> | null;
      return { text: typeof old?.[field] === "string" ? (old[field] as string) : "" };
    },
    Fields: ({ value, change, refused }: FieldsProps<TextValue>) => (
      <>
        {explains && <Typography color="text.secondary">{explains}</Typography>}
        <TextField
          label={label}
          value={value.text}
          onChange={(event) => change({ text: event.target.value })}
          multiline
          minRows={rows}
          maxRows={12}
          error={Boolean(refused(field))}
          helperText={refused(field) ?? " "}
        />
      </>
    ),
    finding: async (value) => finding(value.text),
  };
}

export const clearedForm = textForm(
  "cleared",
  "Remark",
  "Write this down once the codes and freeze frames are saved and the memory is cleared.",
  "text",
  (text) => ({ kind: "cleared", text }),
);
export const driveForm = textForm(
  "drive",
  "Where and how it was driven",
  "The odometer below is the reading up to which no misfire was felt.",
  "conditions",
  (conditions) => ({ kind: "drive", conditions }),
);
export const occurredForm = textForm(
  "occurred",
  "How it showed",
  "The fault was felt at the reading below.",
  "text",
  (text) => ({ kind: "occurred", text }),
);
export const noteForm = textForm("note", "Note", "", "text", (text) => ({ kind: "note", text }), 5);
export const closedForm = textForm(
  "closed",
  "Seen and left alone",
  "Leaks, worn parts, anything the owner should know of. It stands on the report.",
  "left_alone",
  (left_alone) => ({ kind: "closed", left_alone }),
  3,
);
export const reopenedForm = textForm("reopened", "Why", "", "why", (why) => ({ kind: "reopened", why }));
export const withdrawnForm = textForm(
  "withdrawn",
  "Why",
  "The entry stays on the trail and counts no more.",
  "why",
  (why) => ({
    kind: "withdrawn",
    why,
  }),
);
