import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { EngineDescription } from "../api/types";

/** An engine as it is typed; the server says whether it can be. */
export interface EngineValue {
  fleet_no: string;
  name: string;
  cylinders: string;
  arrangement: "inline" | "vee" | "flat" | "vr";
  firing_order: string;
  banks: string;
  fuel: "petrol" | "diesel" | "gas";
  ignition: "coil-per-cylinder" | "paired-coils" | "distributor" | "none";
  coils: string;
  injection: "carburettor" | "single-point" | "port" | "direct" | "common-rail" | "unit-pump";
}

export const FIRST_ENGINE: EngineValue = {
  fleet_no: "",
  name: "",
  cylinders: "4",
  arrangement: "inline",
  firing_order: "1-3-4-2",
  banks: "1-2-3-4",
  fuel: "petrol",
  ignition: "coil-per-cylinder",
  coils: "1",
  injection: "port",
};

const numbers = (text: string) => (text.match(/\d+/g) ?? []).map(Number);

/** The description as the API takes it. What is written wrong goes there as it is, to be refused with the reason. */
export const engineOf = (value: EngineValue): EngineDescription => ({
  cylinders: Math.min(255, Number.parseInt(value.cylinders, 10) || 0),
  firing_order: numbers(value.firing_order).map((one) => Math.min(255, one)),
  banks: value.banks
    .split(/[/;|]/)
    .filter((bank) => bank.trim() !== "")
    .map((bank) => numbers(bank).map((one) => Math.min(255, one))),
  arrangement: value.arrangement,
  fuel: value.fuel,
  ignition: value.ignition,
  coils_per_cylinder: Number(value.coils),
  injection: value.injection,
});

interface Props {
  value: EngineValue;
  change: (part: Partial<EngineValue>) => void;
  refused: (...fields: string[]) => string | undefined;
}

const CHOICES = {
  arrangement: ["inline", "vee", "flat", "vr"],
  fuel: ["petrol", "diesel", "gas"],
  ignition: ["coil-per-cylinder", "paired-coils", "distributor", "none"],
  coils: ["1", "2"],
  injection: ["carburettor", "single-point", "port", "direct", "common-rail", "unit-pump"],
} as const;

/** The engine of a vehicle that is not in the depot yet. It is drawn beneath while it is described. */
export function EngineForm({ value, change, refused }: Props) {
  const text = (name: keyof EngineValue, label: string, help = " ") => (
    <TextField
      label={label}
      value={value[name]}
      onChange={(event) => change({ [name]: event.target.value })}
      error={Boolean(refused(name))}
      helperText={refused(name) ?? help}
    />
  );
  const choice = (name: keyof typeof CHOICES, label: string) => (
    <TextField
      select
      label={label}
      value={value[name]}
      onChange={(event) => change({ [name]: event.target.value })}
      helperText=" "
    >
      {CHOICES[name].map((one) => (
        <MenuItem key={one} value={one}>
          {one.replaceAll("-", " ")}
        </MenuItem>
      ))}
    </TextField>
  );
  return (
    <Box sx={{ mt: 1.5, display: "grid", gridTemplateColumns: "1fr 1.5fr 1.1fr 0.7fr", columnGap: 1.25, rowGap: 0.75 }}>
      {text("fleet_no", "On the door")}
      <Box sx={{ gridColumn: "span 3" }}>{text("name", "What it is")}</Box>
      {text("cylinders", "Cylinders", "1 to 12")}
      <Box sx={{ gridColumn: "span 3" }}>{text("firing_order", "Firing order", "as cast on the engine: 1-3-4-2")}</Box>
      {choice("arrangement", "Arrangement")}
      <Box sx={{ gridColumn: "span 3" }}>
        {text("banks", "Banks, each from the front", "divided by a slash: 1-3-5 / 2-4-6")}
      </Box>
      {choice("fuel", "Fuel")}
      {choice("ignition", "Ignition")}
      {choice("injection", "Injection")}
      {value.ignition !== "none" && choice("coils", "Coils each")}
    </Box>
  );
}
