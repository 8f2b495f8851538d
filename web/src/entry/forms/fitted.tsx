import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { FindingOf } from "../../api/types";
import { Choice } from "../../bench/Choice";
import { Chips } from "../../fields/Chips";
import { QuantityField } from "../../fields/QuantityField";
import { corrected, type EntryForm, type FieldsProps } from "../form";

interface FittedValue {
  part: string;
  variant: string;
  cylinder: string;
  part_number: string;
  cost: string;
  minutes: string;
  old_part: string;
  source: string;
  supplier: string;
  checked: string[];
}

const CHECKS: Record<string, NonNullable<FindingOf<"fitted">["checked"]>[number]> = {
  "the right number": "number",
  "its connector fits": "connector",
  "seals came with it": "seals",
  "measured and good": "measured",
};
const SOURCES = [
  ["", "not noted"],
  ["original", "new, from the maker"],
  ["other-make", "new, other make"],
  ["rebuilt", "rebuilt unit"],
  ["kit", "repair kit"],
  ["component", "the part itself repaired"],
] as const;

function Fields({ value, change, job, refused }: FieldsProps<FittedValue>) {
  return (
    <>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1.5 }}>
        <TextField
          label="Part"
          value={value.part}
          onChange={(event) => change({ part: event.target.value })}
          error={Boolean(refused("part"))}
          helperText={refused("part") ?? job.state.swappable.join(", ")}
        />
        <TextField
          select
          label="Cylinder"
          value={value.cylinder}
          onChange={(event) => change({ cylinder: event.target.value })}
          helperText={refused("cylinder") ?? " "}
        >
          <MenuItem value="">none</MenuItem>
          {job.state.engine.places.map((place) => (
            <MenuItem key={place.cylinder} value={String(place.cylinder)}>
              {place.cylinder}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          label="Part number"
          value={value.part_number}
          onChange={(event) => change({ part_number: event.target.value })}
          helperText=" "
        />
        {job.state.engine.coils_per_cylinder === 2 && (
          <TextField
            select
            label="Which of the two"
            value={value.variant}
            onChange={(event) => change({ variant: event.target.value })}
          >
            <MenuItem value="upper">upper</MenuItem>
            <MenuItem value="lower">lower</MenuItem>
          </TextField>
        )}
        <QuantityField
          label="Cost of the part"
          dimension="money"
          value={value.cost}
          onValue={(cost) => change({ cost })}
          refused={refused("cost")}
        />
        <QuantityField
          label="Time (min, or write h)"
          dimension="duration"
          value={value.minutes}
          onValue={(minutes) => change({ minutes })}
          refused={refused("minutes")}
        />
        <TextField
          label="From whom"
          value={value.supplier}
          onChange={(event) => change({ supplier: event.target.value })}
          helperText={refused("supplier") ?? " "}
        />
        <Choice label="What it is" value={value.source} onValue={(source) => change({ source })} options={SOURCES} />
      </Box>
      <Typography>Looked at before it went in</Typography>
      <Chips
        label="Looked at before it went in"
        options={Object.keys(CHECKS)}
        chosen={value.checked}
        onChosen={(checked) => change({ checked })}
      />
      <TextField
        label="What the old part shows, once it is out"
        value={value.old_part}
        onChange={(event) => change({ old_part: event.target.value })}
        multiline
        minRows={3}
        helperText={refused("old_part") ?? "If it is good, the verdict is open again: say so."}
      />
    </>
  );
}

const text = (value: number | null | undefined) => (value == null ? "" : String(value));

export const fittedForm: EntryForm<FittedValue> = {
  first: (_job, request) => {
    const old = corrected(request, "fitted");
    return {
      part: old?.part ?? request.part ?? "",
      variant: old?.variant ?? request.variant ?? "",
      cylinder: text(old ? old.cylinder : request.cylinder),
      part_number: old?.part_number ?? "",
      cost: text(old?.cost),
      minutes: text(old?.minutes),
      old_part: old?.old_part ?? "",
      source: old?.source ?? "",
      supplier: old?.supplier ?? "",
      checked: Object.keys(CHECKS).filter((words) => (old?.checked ?? []).some((one) => one === CHECKS[words])),
    };
  },
  Fields,
  finding: async (value, read) => ({
    kind: "fitted",
    part: value.part.trim().toLowerCase(),
    variant: value.variant || null,
    cylinder: value.cylinder ? Number(value.cylinder) : null,
    part_number: value.part_number,
    cost: await read.optional(value.cost, "money", "cost"),
    minutes: await read.optional(value.minutes, "duration", "minutes"),
    old_part: value.old_part,
    source: (value.source || null) as FindingOf<"fitted">["source"],
    supplier: value.supplier,
    checked: value.checked.flatMap((words) => CHECKS[words] ?? []),
  }),
};
