import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Measurement } from "../../api/bench";
import { Choice } from "../Choice";
import { fieldsOf } from "../fieldsOf";
import type { BenchFieldsProps, BenchForm } from "../form";
import { Grid } from "../Grid";
import { Instrument } from "../Instrument";
import { accuracyIfAny, FIRST_METER, MeterChoice, type MeterValue } from "../MeterChoice";
import { OneOf } from "../OneOf";

type Point = Extract<Measurement, { bench: "voltages" }>["reading"]["point"];

interface VoltsValue extends MeterValue {
  what: "voltages" | "drop" | "current";
  circuit: string;
  point: Point;
  off: string;
  on: string;
  crank: string;
  run: string;
  battery: string;
  batteryCrank: string;
  drop: string;
  current: string;
  full: string;
  limit: string;
  of: string;
  ampere: string;
  lowA: string;
  highA: string;
}

const POINTS = [
  ["battery", "the battery's posts"],
  ["switched-feed", "a feed with the key"],
  ["lasting-feed", "a feed that is always there"],
  ["cranking-feed", "a feed only while it cranks"],
  ["ground", "a ground"],
] as const;

function Fields({ value, change, job, choices, refused }: BenchFieldsProps<VoltsValue>) {
  const of = fieldsOf(value, change, refused);
  return (
    <>
      <OneOf
        label="What is read"
        options={[
          ["voltages", "Voltages by the key"],
          ["drop", "Voltage lost under load"],
          ["current", "Current"],
        ]}
        chosen={value.what}
        onChosen={(what) => change({ what })}
      />
      {value.what !== "current" && (
        <Grid>
          <Choice
            label="Circuit"
            value={value.circuit}
            onValue={(circuit) => change({ circuit })}
            options={choices.circuits.map((one) => [one.id, one.name] as const)}
            refused={refused("circuit")}
          />
          {value.what === "voltages" && (
            <Choice
              label="Measured at"
              value={value.point}
              onValue={(point) => change({ point: point as Point })}
              options={POINTS}
            />
          )}
        </Grid>
      )}
      {value.what === "voltages" && (
        <>
          <Grid columns={4}>
            {of.quantity("off", "Key off", "voltage", "off_v")}
            {of.quantity("on", "Key on", "voltage", "on_v")}
            {of.quantity("crank", "Cranking", "voltage", "crank_v")}
            {of.quantity("run", "Running", "voltage", "run_v")}
            {value.point !== "battery" &&
              of.quantity("battery", "Battery, key on", "voltage", "battery_v", "12.5 V if left out")}
            {value.point !== "battery" &&
              of.quantity("batteryCrank", "Battery, cranking", "voltage", "battery_crank_v")}
          </Grid>
          <Box>
            <Instrument
              fleetNo={job.vehicle.fleet_no}
              question={{ read: "battery" }}
              label="Simulated meter at the battery"
              onAnswer={(answer) =>
                change(
                  value.point === "battery" ? { on: String(answer.values[0]) } : { battery: String(answer.values[0]) },
                )
              }
            />
          </Box>
          <Typography variant="body2" color="text.secondary">
            Against the battery's negative post, with the load connected. A feed that is there while it cranks and gone
            when the key springs back is the running feed: series resistor, switch, or what lies before them.
          </Typography>
        </>
      )}
      {value.what === "drop" && (
        <Grid columns={4}>
          {of.quantity("drop", "Lost along it", "voltage", "drop_v")}
          {of.quantity("current", "while there flow", "current", "current_a")}
          {of.quantity("limit", "At most", "voltage", "limit_v")}
          {of.quantity("full", "at", "current", "full_current_a", "the working current")}
        </Grid>
      )}
      {value.what === "current" && (
        <Grid columns={4}>
          {of.words("of", "Of what", "reading.of", "fuel pump")}
          {of.quantity("ampere", "Flows", "current", "ampere")}
          {of.quantity("lowA", "At least", "current", "low_a")}
          {of.quantity("highA", "At most", "current", "high_a")}
        </Grid>
      )}
      {value.what !== "voltages" && <MeterChoice value={value} change={change} choices={choices} refused={refused} />}
    </>
  );
}

export const voltsForm: BenchForm<VoltsValue> = {
  id: "volts",
  title: "Volt",
  first: (_job, choices) => ({
    ...FIRST_METER,
    what: "voltages",
    circuit: choices.circuits[0]?.id ?? "",
    point: "switched-feed",
    off: "",
    on: "",
    crank: "",
    run: "",
    battery: "",
    batteryCrank: "",
    drop: "",
    current: "",
    full: "",
    limit: "",
    of: "",
    ampere: "",
    lowA: "",
    highA: "",
  }),
  Fields,
  reading: async (value, read): Promise<Measurement | null> => {
    const volt = (text: string, field: string) => read.optional(text, "voltage", field);
    const ampere = (text: string, field: string) => read.optional(text, "current", field);
    if (value.what === "voltages") {
      if ([value.off, value.on, value.crank, value.run].every((text) => text.trim() === "")) return null;
      return {
        bench: "voltages",
        circuit: value.circuit,
        reading: {
          point: value.point,
          off_v: await volt(value.off, "off_v"),
          on_v: await volt(value.on, "on_v"),
          crank_v: await volt(value.crank, "crank_v"),
          run_v: await volt(value.run, "run_v"),
          battery_v: await volt(value.battery, "battery_v"),
          battery_crank_v: await volt(value.batteryCrank, "battery_crank_v"),
        },
      };
    }
    const meter = await accuracyIfAny(value, read);
    if (value.what === "drop") {
      if (value.drop.trim() === "") return null;
      return {
        bench: "drop",
        circuit: value.circuit,
        reading: {
          drop_v: await read.number(value.drop, "voltage", "drop_v"),
          current_a: await read.number(value.current, "current", "current_a"),
          full_current_a: await ampere(value.full, "full_current_a"),
          limit_v: await read.number(value.limit, "voltage", "limit_v"),
          meter,
        },
      };
    }
    if (value.ampere.trim() === "") return null;
    return {
      bench: "current",
      of: value.of,
      ampere: await read.number(value.ampere, "current", "ampere"),
      low_a: await ampere(value.lowA, "low_a"),
      high_a: await ampere(value.highA, "high_a"),
      meter,
    };
  },
  instrument: (value) => (value.what === "voltages" ? "" : value.meter),
};
