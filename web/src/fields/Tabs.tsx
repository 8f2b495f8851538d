import Box from "@mui/material/Box";
import Button from "@mui/material/Button";

interface Props<N extends string> {
  label: string;
  /** Name and what stands on the tab. */
  options: readonly (readonly [N, string])[];
  chosen: N;
  onChosen: (name: N) => void;
}

/** Views of one thing, one of them shown. */
export function Tabs<N extends string>({ label, options, chosen, onChosen }: Props<N>) {
  return (
    <Box role="tablist" aria-label={label} sx={{ display: "flex", flexWrap: "wrap", gap: 1, flex: 1 }}>
      {options.map(([name, text]) => (
        <Button
          key={name}
          role="tab"
          aria-selected={chosen === name}
          variant={chosen === name ? "contained" : "outlined"}
          color={chosen === name ? "primary" : "inherit"}
          onClick={() => onChosen(name)}
        >
          {text}
        </Button>
      ))}
    </Box>
  );
}
