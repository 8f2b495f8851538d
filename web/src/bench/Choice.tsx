import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";

interface Props {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onValue: (value: string) => void;
  helper?: string;
  refused?: string;
}

/** One of several, from a list that opens. */
export function Choice({ label, value, options, onValue, helper = " ", refused }: Props) {
  const none = options.some(([id]) => id === "");
  return (
    <TextField
      select
      label={label}
      value={options.some(([id]) => id === value) ? value : ""}
      onChange={(event) => onValue(event.target.value)}
      error={Boolean(refused)}
      helperText={refused ?? helper}
      // What stands for none has its word too.
      slotProps={none ? { select: { displayEmpty: true }, inputLabel: { shrink: true } } : undefined}
    >
      {options.map(([id, name]) => (
        <MenuItem key={id} value={id} sx={{ minHeight: 44 }}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
}
