import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { corrected, type EntryForm, type FieldsProps } from "../form";

interface LimitsValue {
  alone: boolean;
  cannot: string;
  minutes_left: string;
  school: "least-cost" | "swap-first" | "measure-first" | "fit-usual" | "smoke-first" | "smoke-last";
}

function Fields({ value, change, refused }: FieldsProps<LimitsValue>) {
  return (
    <>
      <Button
        variant={value.alone ? "contained" : "outlined"}
        aria-pressed={value.alone}
        onClick={() => change({ alone: !value.alone })}
      >
        Alone, no helper
      </Button>
      <TextField
        label="Minutes until it must be back"
        value={value.minutes_left}
        onChange={(event) => change({ minutes_left: event.target.value })}
        error={Boolean(refused("minutes_left"))}
        helperText={refused("minutes_left") ?? "empty: no hurry"}
      />
      <TextField
        label="Tests and tools that are not to be had here"
        value={value.cannot}
        onChange={(event) => change({ cannot: event.target.value })}
        error={Boolean(refused("cannot"))}
        helperText={refused("cannot") ?? "divided by semicolons, as the book calls them: smoke machine"}
      />
    </>
  );
}

export const limitsForm: EntryForm<LimitsValue> = {
  first: (job, request) => {
    const old = corrected(request, "limits") ?? job.state.suspects?.limits;
    return {
      alone: old?.alone ?? false,
      cannot: (old?.cannot ?? []).join("; "),
      minutes_left: old?.minutes_left == null ? "" : String(old.minutes_left),
      school: old?.school ?? "least-cost",
    };
  },
  Fields,
  finding: async (value, read) => ({
    kind: "limits",
    alone: value.alone,
    cannot: value.cannot
      .split(";")
      .map((one) => one.trim())
      .filter(Boolean),
    minutes_left: await read.optional(value.minutes_left, "duration", "minutes_left"),
    school: value.school,
  }),
};
