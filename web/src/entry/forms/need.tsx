import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import type { NeedShown } from "../../api/types";
import { corrected, type EntryForm, type FieldsProps } from "../form";

interface NeedValue {
  need: NeedShown["need"];
  state: NeedShown["state"];
  how: string;
}

function Fields({ value, change, job, refused }: FieldsProps<NeedValue>) {
  return (
    <>
      <ToggleButtonGroup
        exclusive
        fullWidth
        aria-label="Which need"
        value={value.need}
        onChange={(_event, need) => need && change({ need })}
      >
        {job.state.needs.map((one) => (
          <ToggleButton key={one.need} value={one.need}>
            {one.name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <ToggleButtonGroup
        exclusive
        fullWidth
        aria-label="What was found"
        value={value.state}
        onChange={(_event, state) => state && change({ state })}
      >
        <ToggleButton value="proven">✓ proven</ToggleButton>
        <ToggleButton value="missing">✗ missing</ToggleButton>
        <ToggleButton value="unknown">? not known</ToggleButton>
      </ToggleButtonGroup>
      <TextField
        autoFocus
        label="How it was checked, and where"
        placeholder="spark tester at cylinder 3: strong and blue"
        value={value.how}
        onChange={(event) => change({ how: event.target.value })}
        error={Boolean(refused("how"))}
        helperText={refused("how") ?? "A spark or pulse that is there is not yet at the right time."}
      />
      <Typography variant="body2" color="text.secondary">
        {job.state.needs.find((one) => one.need === value.need)?.because}
      </Typography>
    </>
  );
}

export const needForm: EntryForm<NeedValue> = {
  first: (_job, request) => {
    const old = corrected(request, "need");
    return { need: old?.need ?? request.need ?? "spark", state: old?.state ?? "proven", how: old?.how ?? "" };
  },
  Fields,
  finding: async (value) => ({ kind: "need", ...value }),
};
