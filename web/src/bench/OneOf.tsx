import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";

interface Props<N extends string> {
  label: string;
  options: readonly (readonly [N, string])[];
  chosen: N | "";
  onChosen: (name: N) => void;
  /** Whether a second touch takes the choice back. */
  onNone?: () => void;
}

/** One of a few, all in sight, for a thumb in a glove. */
export function OneOf<N extends string>({ label, options, chosen, onChosen, onNone }: Props<N>) {
  return (
    <ToggleButtonGroup
      exclusive
      aria-label={label}
      value={chosen}
      onChange={(_event, name: N | null) => (name ? onChosen(name) : onNone?.())}
      sx={{ flexWrap: "wrap" }}
    >
      {options.map(([name, text]) => (
        <ToggleButton
          key={name}
          value={name}
          sx={{ px: 1.5, lineHeight: 1.15, "&:not(.Mui-selected)": { color: "text.primary" } }}
        >
          {text}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}
