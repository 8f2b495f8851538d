import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { Measurement } from "../../api/bench";
import { QuantityField } from "../../fields/QuantityField";
import { Choice } from "../Choice";
import { fieldsOf } from "../fieldsOf";
import type { BenchFieldsProps, BenchForm } from "../form";
import { Grid } from "../Grid";
import { Instrument } from "../Instrument";
import { OneOf } from "../OneOf";

interface Rod {
  turns: string;
  rest: string;
  full: string;
}

interface VacuumValue {
  what: "hold" | "rod";
  held: string;
  readings: { second: string; pressure: string }[];
  limit: string;
  rods: Rod[];
  restLow: string;
  restHigh: string;
  fullLow: string;
  fullHigh: string;
  vacuum: string;
  length: string;
  instrument: string;
}

const HELD = [
  ["vacuum actuator", "vacuum actuator"],
  ["hose to the actuator", "hose to the actuator"],
  ["fuel rail", "fuel pressure"],
  ["intake", "intake"],
  ["something else", "something else"],
] as const;

function Hold({ value, change, job, refused }: BenchFieldsProps<VacuumValue>) {
  const of = fieldsOf(value, change, refused);
  const set = (index: number, part: Partial<VacuumValue["readings"][number]>) =>
    change({ readings: value.readings.map((one, place) => (place === index ? { ...one, ...part } : one)) });
  return (
    <>
      <Grid columns={3}>
        <Choice label="What should hold" value={value.held} onValue={(held) => change({ held })} options={HELD} />
        {of.quantity(
          "limit",
          "It may lose, % a minute",
          "percent",
          "limit_pct_per_min",
          "the book's figure if left out",
        )}
        <Instrument
          fleetNo={job.vehicle.fleet_no}
          question={{ read: "hold" }}
          label="Simulated hand pump"
          onAnswer={(answer) =>
            change({
              instrument: answer.instrument,
              readings: answer.hold.map((one) => ({ second: String(one.time_s), pressure: String(one.kpa) })),
            })
          }
        />
      </Grid>
      <Box component="ol" aria-label="Readings in time" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {value.readings.map((one, index) => (
          <Box
            component="li"
            // biome-ignore lint/suspicious/noArrayIndexKey: readings have no name but their place.
            key={index}
            sx={{ display: "flex", gap: 1.5, maxWidth: "30rem", mt: 1 }}
          >
            <QuantityField
              label={index === 0 ? "At the start" : "after"}
              dimension="time"
              value={one.second}
              onValue={(second) => set(index, { second })}
              refused={refused(`readings[${index}].time_s`)}
              helperText="seconds, or write min"
            />
            <QuantityField
              label="The gauge shows"
              dimension="pressure"
              value={one.pressure}
              onValue={(pressure) => set(index, { pressure })}
              refused={refused(`readings[${index}].kpa`, `readings[${index}]`)}
              helperText="kPa, or write mmHg, bar, inHg"
            />
          </Box>
        ))}
      </Box>
      <Box>
        <Button color="inherit" onClick={() => change({ readings: [...value.readings, { second: "", pressure: "" }] })}>
          And later
        </Button>
      </Box>
    </>
  );
}

function RodFields({ value, change, job, refused }: BenchFieldsProps<VacuumValue>) {
  const set = (index: number, part: Partial<Rod>) =>
    change({ rods: value.rods.map((one, place) => (place === index ? { ...one, ...part } : one)) });
  const of = fieldsOf(value, change, refused);
  const ofRod = (one: Rod, index: number) => fieldsOf(one, (part) => set(index, part), refused);
  const last = value.rods[value.rods.length - 1];
  return (
    <>
      <Grid columns={4}>
        {of.quantity("restLow", "Window at rest, from", "voltage", "windows.rest")}
        {of.quantity("restHigh", "to", "voltage", "windows.rest")}
        {of.quantity("fullLow", "At full travel, from", "voltage", "windows.full")}
        {of.quantity("fullHigh", "to", "voltage", "windows.full")}
        {of.quantity("vacuum", "Vacuum applied", "pressure", "vacuum_kpa", "kPa, or write mmHg, bar, inHg")}
        {of.quantity("length", "Rod as it was found", "length", "rod_mm", "mm, before it is moved")}
      </Grid>
      <Box component="ol" aria-label="Settings of the rod" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {value.rods.map((one, index) => (
          <Box
            component="li"
            // biome-ignore lint/suspicious/noArrayIndexKey: settings have no name but their place.
            key={index}
            sx={{ display: "flex", gap: 1.5, mt: 1 }}
          >
            {index === 0 ? (
              <Box sx={{ width: "100%", pt: 1.25 }}>as it was found</Box>
            ) : (
              ofRod(one, index).words("turns", "Turned to", `rods[${index}].turns`, "0.5, -1", "turns from there")
            )}
            {ofRod(one, index).quantity("rest", "At rest", "voltage", `rods[${index}].rest_v`)}
            {ofRod(one, index).quantity("full", "At full travel", "voltage", `rods[${index}].full_v`)}
          </Box>
        ))}
      </Box>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Button
          color="inherit"
          variant="outlined"
          onClick={() => change({ rods: [...value.rods, { turns: "", rest: "", full: "" }] })}
        >
          The rod was turned
        </Button>
        <Instrument
          fleetNo={job.vehicle.fleet_no}
          question={{ read: "rod", turns: Number(last?.turns.replace(",", ".")) || 0 }}
          label="Simulated meter at the last setting"
          onAnswer={(answer) => {
            set(value.rods.length - 1, { rest: String(answer.rest_v ?? ""), full: String(answer.full_v ?? "") });
            change({ instrument: answer.instrument });
          }}
        />
      </Box>
    </>
  );
}

function Fields(props: BenchFieldsProps<VacuumValue>) {
  const { value, change } = props;
  return (
    <>
      <OneOf
        label="What is judged"
        options={[
          ["hold", "Does it hold?"],
          ["rod", "Rod and windows"],
        ]}
        chosen={value.what}
        onChosen={(what) => change({ what })}
      />
      {value.what === "hold" ? <Hold {...props} /> : <RodFields {...props} />}
      {value.what === "rod" && (
        <Typography variant="body2" color="text.secondary">
          The position's signal must lie in its window at both ends. The rod is measured before it is moved; a mechanism
          under spring load feels seized until it is unloaded.
        </Typography>
      )}
    </>
  );
}

export const vacuumForm: BenchForm<VacuumValue> = {
  id: "vacuum",
  title: "Vacuum, rod",
  first: () => ({
    what: "hold",
    held: "vacuum actuator",
    readings: [
      { second: "0", pressure: "" },
      { second: "60", pressure: "" },
    ],
    limit: "",
    rods: [{ turns: "0", rest: "", full: "" }],
    restLow: "",
    restHigh: "",
    fullLow: "",
    fullHigh: "",
    vacuum: "",
    length: "",
    instrument: "",
  }),
  Fields,
  reading: async (value, read): Promise<Measurement | null> => {
    if (value.what === "hold") {
      const filled = value.readings.filter((one) => one.pressure.trim() !== "");
      if (filled.length < 2) return null;
      return {
        bench: "hold",
        hold: {
          what: value.held,
          readings: await Promise.all(
            filled.map(async (one, index) => ({
              time_s: await read.number(one.second, "time", `readings[${index}].time_s`),
              kpa: await read.number(one.pressure, "pressure", `readings[${index}].kpa`),
            })),
          ),
          limit_pct_per_min: await read.optional(value.limit, "percent", "limit_pct_per_min"),
          gauge_kpa: null,
        },
      };
    }
    const filled = value.rods.filter((one) => one.rest.trim() !== "" || one.full.trim() !== "");
    if (filled.length === 0) return null;
    const volt = (text: string, field: string) => read.number(text, "voltage", field);
    const vacuum = await read.optional(value.vacuum, "pressure", "vacuum_kpa");
    return {
      bench: "rod",
      rod_mm: await read.optional(value.length, "length", "rod_mm"),
      actuator: {
        windows: {
          rest: [await volt(value.restLow, "windows.rest"), await volt(value.restHigh, "windows.rest")],
          full: [await volt(value.fullLow, "windows.full"), await volt(value.fullHigh, "windows.full")],
        },
        vacuum_kpa: vacuum,
        readings: await Promise.all(
          filled.map(async (one, index) => ({
            turns: await read.number(one.turns, "number", `rods[${index}].turns`),
            rest_v: await volt(one.rest, `rods[${index}].rest_v`),
            full_v: await volt(one.full, `rods[${index}].full_v`),
          })),
        ),
      },
    };
  },
  instrument: (value) => value.instrument,
};
