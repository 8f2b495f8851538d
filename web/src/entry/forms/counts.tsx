import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { asProblem } from "../../api/problem";
import { readCounters } from "../../api/queries";
import type { CounterReading } from "../../api/types";
import { Chips } from "../../fields/Chips";
import { QuantityField } from "../../fields/QuantityField";
import { corrected, type EntryForm, type FieldsProps } from "../form";
import { ReadingShown } from "./ReadingShown";

interface CountsValue {
  revolutions: string;
  misfires: Record<string, string>;
  conditions: string[];
  /** The file as it was understood, while its figures are unchanged. */
  reading: CounterReading | null;
  source: string;
}

const CONDITIONS = ["idle", "cruise", "under load", "cold", "hot", "wet"];

function Fields({ value, change, job, refused }: FieldsProps<CountsValue>) {
  const file = useRef<HTMLInputElement>(null);
  const cylinders = job.state.engine.cylinders;
  const read = useMutation({
    mutationFn: (chosen: File) => readCounters(chosen, cylinders),
    onSuccess: (reading, chosen) =>
      change({
        reading,
        source: chosen.name,
        revolutions: reading.revolutions == null ? value.revolutions : String(reading.revolutions),
        misfires: Object.fromEntries(Object.entries(reading.misfires).map(([c, k]) => [c, String(k)])),
      }),
  });
  const typed = (part: Partial<CountsValue>) =>
    change({ ...part, reading: null, source: value.reading ? `${value.source}, changed by hand` : value.source });
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1.5 }}>
        <Button variant="outlined" onClick={() => file.current?.click()} disabled={read.isPending}>
          {read.isPending ? "Reading the file …" : "Take them from a file"}
        </Button>
        <Box component="span" sx={{ color: "text.secondary" }}>
          CSV: a table or a log. Or type them below.
        </Box>
        <input
          ref={file}
          type="file"
          accept=".csv,.txt,.tsv,text/csv"
          aria-label="File with counters"
          hidden
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) read.mutate(chosen);
          }}
        />
      </Box>
      {read.isError && (
        <Box role="alert" sx={{ color: "error.main", fontWeight: 600 }}>
          {asProblem(read.error)
            .errors.map((one) => `${one.field}: ${one.reason}`)
            .join("; ") || asProblem(read.error).message}
        </Box>
      )}
      {value.reading && <ReadingShown reading={value.reading} source={value.source} />}
      <QuantityField
        autoFocus
        label="Crankshaft revolutions counted over"
        dimension="count"
        value={value.revolutions}
        onValue={(revolutions) => typed({ revolutions })}
        refused={refused("revolutions")}
        helperText="Minutes times engine speed; 12k is 12 000"
      />
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(120px, 1fr))", columnGap: 1.5 }}>
        {job.state.engine.places.map((place) => (
          <QuantityField
            key={place.cylinder}
            label={`Cylinder ${place.cylinder}`}
            dimension="count"
            value={value.misfires[place.cylinder] ?? ""}
            onValue={(text) => typed({ misfires: { ...value.misfires, [place.cylinder]: text } })}
            refused={refused(`misfires.${place.cylinder}`)}
          />
        ))}
      </Box>
      <Chips
        label="Conditions"
        options={CONDITIONS}
        chosen={value.conditions}
        onChosen={(conditions) => change({ conditions })}
      />
      <TextField
        label="Where these figures come from"
        value={value.source}
        onChange={(event) => change({ source: event.target.value })}
        helperText={refused("source") ?? " "}
      />
    </>
  );
}

export const countsForm: EntryForm<CountsValue> = {
  first: (_job, request) => {
    const old = corrected(request, "counts");
    return {
      revolutions: old ? String(old.revolutions) : "",
      misfires: Object.fromEntries(Object.entries(old?.misfires ?? {}).map(([c, k]) => [c, String(k)])),
      conditions: old?.conditions ? [old.conditions] : [],
      reading: null,
      source: old?.source ?? "",
    };
  },
  Fields,
  finding: async (value, read) => {
    const misfires: Record<string, number> = {};
    for (const [cylinder, text] of Object.entries(value.misfires)) {
      if (text.trim() !== "") misfires[cylinder] = await read.number(text, "count", `misfires.${cylinder}`);
    }
    return {
      kind: "counts",
      revolutions: await read.number(value.revolutions, "count", "revolutions"),
      misfires,
      windows: value.reading?.windows ?? [],
      conditions: value.conditions.join(", "),
      source: value.source,
    };
  },
};
