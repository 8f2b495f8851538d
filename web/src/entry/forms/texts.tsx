import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { Finding } from "../../api/types";
import type { EntryForm, FieldsProps, SheetRequest } from "../form";

interface TextValue {
  text: string;
}

interface OneTextProps extends FieldsProps<TextValue> {
  label: string;
  explains?: string;
  /** The field's name in the entry. */
  field: string;
  rows?: number;
}

/** The fields of an entry that is one text. */
function OneText({ value, change, refused, label, explains, field, rows = 2 }: OneTextProps) {
  return (
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
  );
}

type Fields = FieldsProps<TextValue>;

const ClearedFields = (props: Fields) => (
  <OneText
    {...props}
    label="Remark"
    explains="Write this down once the codes and freeze frames are saved and the memory is cleared."
    field="text"
  />
);
const DriveFields = (props: Fields) => (
  <OneText
    {...props}
    label="Where and how it was driven"
    explains="The odometer below is the reading up to which no misfire was felt."
    field="conditions"
  />
);
const OccurredFields = (props: Fields) => (
  <OneText {...props} label="How it showed" explains="The fault was felt at the reading below." field="text" />
);
const NoteFields = (props: Fields) => <OneText {...props} label="Note" field="text" rows={5} />;
const ParkedFields = (props: Fields) => (
  <OneText
    {...props}
    label="Where it stands"
    explains="Left to go cold: after eight hours a start counts as a cold one. The yard says when."
    field="text"
  />
);
const RightedFields = (props: Fields) => (
  <OneText {...props} label="What was put right" field="what" explains="Such as a pierced wire, sealed again." />
);
const ReopenedFields = (props: Fields) => <OneText {...props} label="Why" field="why" />;
const WithdrawnFields = (props: Fields) => (
  <OneText {...props} label="Why" explains="The entry stays on the trail and counts no more." field="why" />
);

/** The text of the corrected entry, if it is of the same kind. */
function oldText(request: SheetRequest, kind: Finding["kind"], field: string): string {
  const old = request.corrects?.finding;
  const text = old?.kind === kind ? (old as unknown as Record<string, unknown>)[field] : undefined;
  return typeof text === "string" ? text : "";
}

const first = (kind: Finding["kind"], field: string) => (_job: unknown, request: SheetRequest) => ({
  text: oldText(request, kind, field),
});

export const clearedForm: EntryForm<TextValue> = {
  first: first("cleared", "text"),
  Fields: ClearedFields,
  finding: async ({ text }) => ({ kind: "cleared", text }),
};
export const driveForm: EntryForm<TextValue> = {
  first: first("drive", "conditions"),
  Fields: DriveFields,
  finding: async ({ text }) => ({ kind: "drive", conditions: text }),
};
export const occurredForm: EntryForm<TextValue> = {
  first: first("occurred", "text"),
  Fields: OccurredFields,
  finding: async ({ text }) => ({ kind: "occurred", text }),
};
export const noteForm: EntryForm<TextValue> = {
  first: first("note", "text"),
  Fields: NoteFields,
  finding: async ({ text }) => ({ kind: "note", text }),
};
export const parkedForm: EntryForm<TextValue> = {
  first: first("parked", "text"),
  Fields: ParkedFields,
  finding: async ({ text }) => ({ kind: "parked", text }),
};

interface ClosedValue {
  cause: string;
  text: string;
}

export const closedForm: EntryForm<ClosedValue> = {
  first: (_job, request) => ({
    cause: oldText(request, "closed", "cause"),
    text: oldText(request, "closed", "left_alone"),
  }),
  Fields: ({ value, change, refused }: FieldsProps<ClosedValue>) => (
    <>
      <TextField
        label="What it was"
        placeholder="cracked plug insulator"
        value={value.cause}
        onChange={(event) => change({ cause: event.target.value })}
        helperText={refused("cause") ?? "In a few words: it is found again by them."}
      />
      <TextField
        label="Seen and left alone"
        value={value.text}
        onChange={(event) => change({ text: event.target.value })}
        multiline
        minRows={3}
        maxRows={12}
        helperText={
          refused("left_alone") ?? "Leaks, worn parts, anything the owner should know of. It stands on the report."
        }
      />
    </>
  ),
  finding: async ({ cause, text }) => ({ kind: "closed", cause, left_alone: text }),
};
export const rightedForm: EntryForm<TextValue> = {
  first: first("righted", "what"),
  Fields: RightedFields,
  finding: async ({ text }) => ({ kind: "righted", what: text }),
};
export const reopenedForm: EntryForm<TextValue> = {
  first: first("reopened", "why"),
  Fields: ReopenedFields,
  finding: async ({ text }) => ({ kind: "reopened", why: text }),
};
export const withdrawnForm: EntryForm<TextValue> = {
  first: first("withdrawn", "why"),
  Fields: WithdrawnFields,
  finding: async ({ text }) => ({ kind: "withdrawn", why: text }),
};
