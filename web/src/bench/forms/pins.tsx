import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { PinRole } from "../../api/bench";
import { Choice } from "../Choice";
import { Connector, type Shape } from "../Connector";
import { fieldsOf } from "../fieldsOf";
import type { BenchFieldsProps, BenchForm } from "../form";
import { Grid } from "../Grid";
import { Instrument } from "../Instrument";
import { KeptChoice } from "../KeptChoice";

interface Pin {
  volt: string;
  lowest: string;
  highest: string;
  ohm: string;
  pierced: boolean;
  role: "" | PinRole;
  name: string;
  wire: string;
}

const EMPTY: Pin = { volt: "", lowest: "", highest: "", ohm: "", pierced: false, role: "", name: "", wire: "" };

interface PinsValue {
  connector: string;
  shape: Shape;
  pins: Record<string, Pin>;
  chosen: number;
  battery: string;
  positive: string;
  negative: string;
  opening: string;
  instrument: string;
}

const ROLES = [
  ["", "not known"],
  ["reference", "5 V reference"],
  ["signal", "signal"],
  ["ground", "ground"],
  ["feed", "battery feed"],
  ["motor-drive", "motor drive"],
  ["open", "open"],
] as const;

const MOST_PINS = 60;

function Shaped({ value, change }: Pick<BenchFieldsProps<PinsValue>, "value" | "change">) {
  const set = (part: Partial<Shape>) => change({ shape: { ...value.shape, ...part } });
  const whole = (text: string, most: number) => Math.min(most, Math.max(1, Number.parseInt(text, 10) || 1));
  return (
    <Grid columns={5}>
      <TextField
        label="Pins"
        type="number"
        value={value.shape.pins}
        onChange={(event) => set({ pins: whole(event.target.value, MOST_PINS) })}
        slotProps={{ htmlInput: { min: 1, max: MOST_PINS } }}
      />
      <TextField
        label="Rows"
        type="number"
        value={value.shape.rows}
        onChange={(event) => set({ rows: whole(event.target.value, 6) })}
        slotProps={{ htmlInput: { min: 1, max: 6 } }}
      />
      <Choice
        label="Pin 1, from the pins"
        value={value.shape.first}
        onValue={(first) => set({ first: first as Shape["first"] })}
        options={[
          ["left", "left"],
          ["right", "right"],
        ]}
      />
      <Choice
        label="Rows are counted"
        value={value.shape.counting}
        onValue={(counting) => set({ counting: counting as Shape["counting"] })}
        options={[
          ["same-way", "one way"],
          ["back-and-forth", "to and fro"],
        ]}
      />
      <Choice
        label="Seen from"
        value={value.shape.side}
        onValue={(side) => set({ side: side as Shape["side"] })}
        options={[
          ["pins", "the pins"],
          ["wires", "the wires"],
        ]}
      />
    </Grid>
  );
}

function Fields({ value, change, job, result, refused }: BenchFieldsProps<PinsValue>) {
  const pin = value.pins[value.chosen] ?? EMPTY;
  const set = (part: Partial<Pin>) => change({ pins: { ...value.pins, [value.chosen]: { ...pin, ...part } } });
  const of = fieldsOf(value, change, refused);
  const ofPin = fieldsOf(pin, set, refused);
  const numbers = Array.from({ length: value.shape.pins }, (_, index) => index + 1);
  // The refusal counts the pins that were read, in their order.
  const place = readPins(value).indexOf(value.chosen);
  const chosen = result?.figures.find((one) => one.label === `pin ${value.chosen}`);
  const body = {
    shape: value.shape,
    expected: numbers
      .filter((one) => value.pins[one]?.role)
      .map((one) => ({
        pin: one,
        role: value.pins[one]?.role,
        name: value.pins[one]?.name,
        wire: value.pins[one]?.wire,
      })),
    motor: { positive: value.positive, negative: value.negative },
  };
  return (
    <>
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "flex-start" }}>
        <TextField
          label="Connector"
          value={value.connector}
          onChange={(event) => change({ connector: event.target.value })}
          error={Boolean(refused("connector"))}
          helperText={refused("connector") ?? " "}
          sx={{ maxWidth: "16rem" }}
        />
        <KeptChoice
          job={job}
          kind="connector"
          label="Described before"
          name={value.connector}
          body={body}
          onTaken={(connector, kept) =>
            change({
              connector,
              shape: kept.shape,
              pins: Object.fromEntries(
                kept.expected.map((one) => [
                  one.pin,
                  { ...EMPTY, role: one.role ?? "", name: one.name ?? "", wire: one.wire ?? "" },
                ]),
              ),
              positive: kept.motor.positive,
              negative: kept.motor.negative,
            })
          }
        />
        <Instrument
          fleetNo={job.vehicle.fleet_no}
          question={{ read: "pins", connector: value.connector }}
          label="Simulated meter"
          onAnswer={(answer) =>
            change({
              instrument: answer.instrument,
              pins: {
                ...value.pins,
                ...Object.fromEntries(
                  answer.pins.map((one) => [
                    one.pin,
                    {
                      ...(value.pins[one.pin] ?? EMPTY),
                      volt: String(one.volt),
                      ohm: one.ground_ohm == null ? "" : String(one.ground_ohm),
                    },
                  ]),
                ),
              },
            })
          }
        />
      </Box>
      <Shaped value={value} change={change} />
      <Connector
        shape={value.shape}
        chosen={value.chosen}
        onChosen={(next) => change({ chosen: next })}
        pins={numbers.map((one) => {
          const shown = value.pins[one];
          const judged = result?.figures.find((figure) => figure.label === `pin ${one}`);
          const reading = shown?.lowest && shown.highest ? `${shown.lowest}…${shown.highest}` : (shown?.volt ?? "");
          return {
            pin: one,
            reading: reading === "" ? (shown?.ohm ? `${shown.ohm} Ω` : "") : `${reading} V`,
            says: judged?.says ?? (shown?.role ? `${shown.role} expected` : ""),
            verdict: judged?.verdict,
          };
        })}
      />
      <Box component="section" aria-label={`Pin ${value.chosen}`}>
        <Typography variant="h2" component="h3" sx={{ mb: 1 }}>
          Pin {value.chosen}
          {chosen ? `: ${chosen.says}` : ""}
        </Typography>
        <Grid columns={4}>
          {ofPin.quantity("volt", "Key on", "voltage", `readings[${place}].volt`)}
          {ofPin.quantity("lowest", "It swings from", "voltage", `readings[${place}].swings_v`)}
          {ofPin.quantity("highest", "to", "voltage", "")}
          {ofPin.quantity(
            "ohm",
            "To the body, key off",
            "resistance",
            `readings[${place}].ground_ohm`,
            "tells a ground from an open wire",
          )}
          <Choice
            label="It should be"
            value={pin.role}
            onValue={(role) => set({ role: role as Pin["role"] })}
            options={ROLES}
          />
          {ofPin.words("name", "For", "")}
          {ofPin.words("wire", "Wire", "")}
          <FormControlLabel
            control={<Checkbox checked={pin.pierced} onChange={(event) => set({ pierced: event.target.checked })} />}
            label="wire pierced"
          />
        </Grid>
      </Box>
      <Box component="section" aria-label="A motor's drive">
        <Typography variant="h2" component="h3" sx={{ mb: 1 }}>
          A motor, told to open
        </Typography>
        <Grid columns={4}>
          <Choice
            label="Positive pin"
            value={value.positive}
            onValue={(positive) => change({ positive })}
            options={[["", "no motor"], ...numbers.map((one) => [String(one), String(one)] as const)]}
          />
          <Choice
            label="Negative pin"
            value={value.negative}
            onValue={(negative) => change({ negative })}
            options={[["", "no motor"], ...numbers.map((one) => [String(one), String(one)] as const)]}
            refused={refused("motor.negative_pin")}
          />
          {of.quantity("opening", "From - to + it shows", "voltage", "motor.opening_v")}
          {of.quantity("battery", "Battery meanwhile", "voltage", "battery_v", "12.5 V if left out")}
        </Grid>
      </Box>
    </>
  );
}

const readPins = (value: PinsValue): number[] =>
  Array.from({ length: value.shape.pins }, (_, index) => index + 1).filter((one) => {
    const pin = value.pins[one];
    return pin && [pin.volt, pin.lowest, pin.ohm].some((text) => text.trim() !== "");
  });

export const pinsForm: BenchForm<PinsValue> = {
  id: "pins",
  title: "Pins",
  first: () => ({
    connector: "crank sensor plug",
    shape: { pins: 3, rows: 1, counting: "same-way", first: "left", side: "pins" },
    pins: {},
    chosen: 1,
    battery: "",
    positive: "",
    negative: "",
    opening: "",
    instrument: "",
  }),
  Fields,
  reading: async (value, read) => {
    const list = readPins(value);
    const motor = value.positive && value.negative && value.opening.trim() !== "";
    if (list.length === 0 && !motor) return null;
    const volt = (text: string, field: string) => read.optional(text, "voltage", field);
    return {
      bench: "pins",
      connector: value.connector,
      pins: {
        readings: await Promise.all(
          list.map(async (number, index) => {
            const pin = value.pins[number] ?? EMPTY;
            const at = `readings[${index}]`;
            const low = await volt(pin.lowest, `${at}.swings_v`);
            const high = await volt(pin.highest, `${at}.swings_v`);
            // Over the range: no way to the body at all.
            const open = /^\s*(ol|∞)/i.test(pin.ohm);
            return {
              pin: number,
              volt: await volt(pin.volt, `${at}.volt`),
              swings_v: low == null || high == null ? null : [low, high],
              ground_ohm: open ? 1e9 : await read.optional(pin.ohm, "resistance", `${at}.ground_ohm`),
              pierced: pin.pierced,
            };
          }),
        ),
        expected: Object.entries(value.pins)
          .filter(([number, pin]) => pin.role !== "" && Number(number) <= value.shape.pins)
          .map(([number, pin]) => ({ pin: Number(number), role: pin.role as PinRole, name: pin.name, wire: pin.wire })),
        motor: motor
          ? {
              positive_pin: Number(value.positive),
              negative_pin: Number(value.negative),
              opening_v: await read.number(value.opening, "voltage", "motor.opening_v"),
            }
          : null,
        battery_v: await volt(value.battery, "battery_v"),
      },
    };
  },
  instrument: (value) => value.instrument,
};
