import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import { Chips } from "../../fields/Chips";
import { QuantityField } from "../../fields/QuantityField";
import { corrected, type EntryForm, type FieldsProps, type Reader } from "../form";

export interface ComplaintValue {
  symptoms: string[];
  circumstances: string[];
  history: string[];
  observed_from: string;
  /** Readings, one after the other. */
  occurrences: string;
  text: string;
}

// Words of the book, in the order in which they are asked for. It knows many others, and the sheet keeps any.
const SYMPTOMS = [
  "misfire",
  "rough idle",
  "loss of power",
  "limp-home",
  "stalls",
  "does not crank",
  "will not start",
  "starts and dies",
  "starts hard when cold",
  "starts hard when hot",
  "hunts",
  "hesitates",
  "will not rev",
  "backfires",
  "engine light",
  "black smoke",
  "white smoke",
  "blue smoke",
  "uses more fuel",
  "smells of fuel",
  "hisses",
  "rattles",
];
const CIRCUMSTANCES = [
  "cold",
  "hot",
  "wet",
  "idle",
  "cruise",
  "under load",
  "high revs",
  "comes and goes",
  "came suddenly",
  "getting worse",
  "after standing",
  "on bumps",
];
const HISTORY = [
  "new plugs",
  "fuel parts fitted",
  "intake work",
  "cam drive work",
  "electrical work",
  "pressure wash",
  "ford",
  "just refuelled",
  "jump start",
  "stood long",
  "part of another make",
  "service overdue",
];

export const FIRST_COMPLAINT: ComplaintValue = {
  symptoms: [],
  circumstances: [],
  history: [],
  observed_from: "",
  occurrences: "",
  text: "",
};

export function ComplaintFields({ value, change, refused }: Omit<FieldsProps<ComplaintValue>, "job">) {
  return (
    <>
      <Box>
        <Box sx={{ mb: 0.5, color: refused("symptoms") ? "error.main" : "text.secondary" }}>
          {refused("symptoms") ?? "What it does"}
        </Box>
        <Chips
          label="What it does"
          options={SYMPTOMS}
          chosen={value.symptoms}
          onChosen={(symptoms) => change({ symptoms })}
        />
      </Box>
      <Box>
        <Box sx={{ mb: 0.5, color: "text.secondary" }}>When it does it</Box>
        <Chips
          label="When it does it"
          options={CIRCUMSTANCES}
          chosen={value.circumstances}
          onChosen={(circumstances) => change({ circumstances })}
        />
      </Box>
      <Box>
        <Box sx={{ mb: 0.5, color: "text.secondary" }}>What went before</Box>
        <Chips
          label="What went before"
          options={HISTORY}
          chosen={value.history ?? []}
          onChosen={(history) => change({ history })}
        />
      </Box>
      <TextField
        label="In the driver's words; and what was done to it just before"
        value={value.text}
        onChange={(event) => change({ text: event.target.value })}
        multiline
        minRows={2}
        helperText={refused("text") ?? " "}
      />
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1.6fr", gap: 1.5 }}>
        <QuantityField
          label="Watched since (km)"
          dimension="distance"
          value={value.observed_from}
          onValue={(observed_from) => change({ observed_from })}
          refused={refused("observed_from_km")}
          helperText="the last reading at which it was surely sound"
        />
        <TextField
          label="Noticed at (km readings)"
          value={value.occurrences}
          onChange={(event) => change({ occurrences: event.target.value })}
          error={Boolean(refused("occurrences_km"))}
          helperText={refused("occurrences_km") ?? "divided by semicolons; the proof is reckoned from them"}
        />
      </Box>
    </>
  );
}

/** The finding that the fields make. */
export async function complaintFinding(value: ComplaintValue, read: Reader) {
  const occurrences: number[] = [];
  for (const text of value.occurrences.split(/[;\n]/).filter((one) => one.trim() !== "")) {
    occurrences.push(await read.number(text, "distance", "occurrences_km"));
  }
  return {
    kind: "complaint" as const,
    symptoms: value.symptoms,
    circumstances: value.circumstances,
    history: value.history ?? [],
    observed_from_km: await read.optional(value.observed_from, "distance", "observed_from_km"),
    occurrences_km: occurrences,
    text: value.text,
  };
}

export const complaintForm: EntryForm<ComplaintValue> = {
  first: (job, request) => {
    const old =
      corrected(request, "complaint") ?? job.entries.find((entry) => entry.finding.kind === "complaint")?.finding;
    if (old?.kind !== "complaint") return FIRST_COMPLAINT;
    return {
      symptoms: old.symptoms,
      circumstances: old.circumstances ?? [],
      history: old.history ?? [],
      observed_from: old.observed_from_km == null ? "" : String(old.observed_from_km),
      occurrences: (old.occurrences_km ?? []).join("; "),
      text: old.text ?? "",
    };
  },
  Fields: ComplaintFields,
  finding: complaintFinding,
};
