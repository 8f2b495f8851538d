import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type Exchange, inWords } from "../block/exchange";

interface Props {
  planned: Exchange[];
  onRemove: (exchange: Exchange) => void;
  onWrite: () => void;
}

/** The moves made on the block and not yet on the trail. */
export function Planned({ planned, onRemove, onWrite }: Props) {
  if (planned.length === 0) return null;
  return (
    <Box
      component="section"
      aria-label="Planned moves"
      sx={{ display: "flex", flexWrap: "wrap", gap: 0.75, alignItems: "center", mb: 1 }}
    >
      {planned.map((one) => (
        <Button
          key={inWords(one)}
          variant="outlined"
          onClick={() => onRemove(one)}
          aria-label={`Take back ${inWords(one)}`}
        >
          {inWords(one)} ×
        </Button>
      ))}
      <Button variant="contained" onClick={onWrite}>
        Write these moves
      </Button>
    </Box>
  );
}
