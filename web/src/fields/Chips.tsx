import Box from "@mui/material/Box";
import Button from "@mui/material/Button";

interface Props {
  label: string;
  options: readonly string[];
  chosen: string[];
  onChosen: (chosen: string[]) => void;
}

/** Words to tick with a greasy thumb. Chosen ones are filled and say so to a screen reader. */
export function Chips({ label, options, chosen, onChosen }: Props) {
  const all = [...options, ...chosen.filter((word) => !options.includes(word))];
  return (
    <Box role="group" aria-label={label} sx={{ display: "flex", flexWrap: "wrap", gap: 0.75 }}>
      {all.map((word) => {
        const on = chosen.includes(word);
        return (
          <Button
            key={word}
            variant={on ? "contained" : "outlined"}
            aria-pressed={on}
            onClick={() => onChosen(on ? chosen.filter((one) => one !== word) : [...chosen, word])}
            sx={{ px: 1.5 }}
          >
            {word}
          </Button>
        );
      })}
    </Box>
  );
}
