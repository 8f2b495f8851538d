import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import { QuantityField } from "../fields/QuantityField";

const KNOWN = { given: "as given", recorded: "as recorded", assumed: "assumed: not recorded" } as const;

export interface Typed {
  ambient: string;
  intake: string;
}

interface Props {
  value: Typed;
  onValue: (value: Typed) => void;
  ambient: { kpa: number; known: keyof typeof KNOWN };
  intake?: { c: number; known: keyof typeof KNOWN };
}

/** The air around the car, on which a figure depends: known, or asked for. */
export function Surroundings({ value, onValue, ambient, intake }: Props) {
  return (
    <Box sx={{ display: "flex", gap: 1.5 }}>
      <QuantityField
        label="Ambient pressure"
        dimension="pressure"
        value={value.ambient}
        onValue={(text) => onValue({ ...value, ambient: text })}
        helperText={`${ambient.kpa.toFixed(1)} kPa, ${KNOWN[ambient.known]}`}
        sx={{ maxWidth: 220 }}
      />
      {intake && (
        <TextField
          label="Intake air, °C"
          value={value.intake}
          onChange={(event) => onValue({ ...value, intake: event.target.value })}
          helperText={`${intake.c.toFixed(0)} °C, ${KNOWN[intake.known]}`}
          error={value.intake.trim() !== "" && !Number.isFinite(Number(value.intake.replace(",", ".")))}
          sx={{ maxWidth: 220 }}
        />
      )}
    </Box>
  );
}
