import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { ResistanceInput, SimAnswer } from "../../api/bench";
import type { Reader } from "../../entry/form";
import { QuantityField } from "../../fields/QuantityField";
import { Choice } from "../Choice";
import { fieldsOf } from "../fieldsOf";
import { type BenchFieldsProps, type BenchForm, cylindersOf } from "../form";
import { Grid } from "../Grid";
import { Instrument } from "../Instrument";
import { accuracyOf, FIRST_METER, MeterChoice, type MeterValue, meterOf } from "../MeterChoice";
import { OneOf } from "../OneOf";

interface OhmValue extends MeterValue {
  part: string;
  cylinder: string;
  /** Measured at its own pins, or through the harness. */
  how: "itself" | "harness";
  displays: string[];
  /** What a known-good part shows alone, the loom alone, and both together. */
  alone: string;
  loom: string;
  both: string;
  multiplier: string;
  range: string;
  leads: string;
  temperature: string;
  temperatureError: string;
  against: "spec" | "sisters";
  given: "range" | "nominal";
  low: string;
  high: string;
  nominal: string;
  tolerance: string;
  at: string;
  twice: boolean;
  low2: string;
  high2: string;
  nominal2: string;
  at2: string;
  source: string;
  sisters: string[];
}

const RANGES = [
  ["1", "ohm"],
  ["1000", "k"],
  ["1000000", "M"],
] as const;

function Displays({ value, change, refused }: Pick<BenchFieldsProps<OhmValue>, "value" | "change" | "refused">) {
  const set = (index: number, text: string) =>
    change({ displays: value.displays.map((one, place) => (place === index ? text : one)) });
  return (
    <Box>
      <Grid columns={4}>
        {value.displays.map((text, index) => (
          <TextField
            // biome-ignore lint/suspicious/noArrayIndexKey: readings have no name but their place.
            key={index}
            label={index === 0 ? "The display shows" : `and then ${index + 1}`}
            placeholder="3.27, 1.2k, OL"
            value={text}
            onChange={(event) => set(index, event.target.value)}
            error={Boolean(index === 0 && refused("display", "display[0]"))}
            helperText={(index === 0 && refused("display", "display[0]")) || " "}
          />
        ))}
        <Button color="inherit" onClick={() => change({ displays: [...value.displays, ""] })} sx={{ height: 44 }}>
          It wanders: again
        </Button>
      </Grid>
    </Box>
  );
}

function Figure({ value, change, refused }: Pick<BenchFieldsProps<OhmValue>, "value" | "change" | "refused">) {
  const of = fieldsOf(value, change, refused);
  const range = value.given === "range";
  return (
    <Box>
      <Grid columns={3}>
        {range ? (
          <>
            {of.quantity("low", "From", "resistance", "spec.low_ohm")}
            {of.quantity("high", "To", "resistance", "spec.high_ohm")}
          </>
        ) : (
          <>
            {of.quantity("nominal", "Value", "resistance", "spec.nominal_ohm")}
            {of.quantity("tolerance", "± %", "percent", "tolerance_pct")}
          </>
        )}
        {of.quantity("at", "given for", "temperature", "spec.at_c")}
        {value.twice && range && of.quantity("low2", "and from", "resistance", "second.low_ohm")}
        {value.twice && range && of.quantity("high2", "to", "resistance", "second.high_ohm")}
        {value.twice && !range && of.quantity("nominal2", "and value", "resistance", "second.nominal_ohm")}
        {value.twice && of.quantity("at2", "given for", "temperature", "second.at_c")}
      </Grid>
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "flex-start" }}>
        {of.words("source", "Where the figure comes from", "", "maker's manual, label")}
        <Button color="inherit" onClick={() => change({ twice: !value.twice })} sx={{ whiteSpace: "nowrap" }}>
          {value.twice ? "At one temperature" : "At two temperatures"}
        </Button>
      </Box>
    </Box>
  );
}

function Sisters({ value, change, job, refused }: BenchFieldsProps<OhmValue>) {
  const sisters = value.sisters.length ? value.sisters : [""];
  const set = (index: number, text: string) =>
    change({ sisters: sisters.map((one, place) => (place === index ? text : one)) });
  return (
    <Box>
      <Grid columns={4}>
        {sisters.map((text, index) => (
          <QuantityField
            // biome-ignore lint/suspicious/noArrayIndexKey: sisters have no name but their place.
            key={index}
            label={`Sister ${index + 1}`}
            dimension="resistance"
            value={text}
            onValue={(next) => set(index, next)}
            refused={index === 0 ? refused("sisters", "sisters[0]") : undefined}
          />
        ))}
        <Button color="inherit" onClick={() => change({ sisters: [...sisters, ""] })} sx={{ height: 44 }}>
          One more
        </Button>
      </Grid>
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", flexWrap: "wrap" }}>
        <Instrument
          fleetNo={job.vehicle.fleet_no}
          question={{ read: "sisters", part: value.part }}
          label="Read the sisters with the simulated meter"
          onAnswer={(answer) => {
            const own = Number(value.cylinder || "1") - 1;
            change({ sisters: answer.values.filter((_, index) => index !== own).map(String) });
          }}
        />
        <Typography variant="body2" color="text.secondary">
          The same part of the other cylinders, less the leads, as warm as this one.
        </Typography>
      </Box>
    </Box>
  );
}

function Fields(props: BenchFieldsProps<OhmValue>) {
  const { value, change, job, choices, refused } = props;
  const of = fieldsOf(value, change, refused);
  const part = choices.parts.find((one) => one.id === value.part);
  const shown = (answer: SimAnswer) =>
    change({
      displays: answer.display.map(String),
      multiplier: String(answer.range_multiplier),
      temperature: answer.part_c == null ? value.temperature : String(answer.part_c),
      ...meterOf(answer),
    });
  const harness = value.how === "harness";
  return (
    <>
      <Grid columns={3}>
        <Choice
          label="Part"
          value={value.part}
          onValue={(next) => change({ part: next, sisters: [] })}
          options={choices.parts.map((one) => [one.id, one.name] as const)}
          refused={refused("part")}
        />
        {part?.per_cylinder && (
          <Choice
            label="Cylinder"
            value={value.cylinder}
            onValue={(cylinder) => change({ cylinder })}
            options={[["", "one for all"], ...cylindersOf(job).map((one) => [String(one), String(one)] as const)]}
            refused={refused("target")}
          />
        )}
        <Choice
          label="Measured"
          value={value.how}
          onValue={(how) => change({ how: how as OhmValue["how"] })}
          options={[
            ["itself", "at its own pins"],
            ["harness", "a known-good part through the loom"],
          ]}
        />
      </Grid>
      {part && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: -2.5 }}>
          {part.because}
        </Typography>
      )}
      {harness ? (
        <Grid columns={3}>
          {of.words("alone", "The part alone", "alone.display", "leave out what was not measured")}
          {of.words("loom", "The loom alone", "loom.display")}
          {of.words("both", "Both, from the unit's end", "both.display")}
        </Grid>
      ) : (
        <Displays value={value} change={change} refused={refused} />
      )}
      <Grid columns={4}>
        <Choice
          label="The dial counts in"
          value={value.multiplier}
          onValue={(multiplier) => change({ multiplier })}
          options={RANGES}
          refused={refused("range_multiplier")}
        />
        {of.quantity("range", "Its range ends at", "resistance", "range_max_ohm", "if it has ranges")}
        {of.quantity("leads", "Leads held together", "resistance", "leads_ohm")}
        {of.quantity("temperature", "The part is at", "temperature", "part_c")}
      </Grid>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        <Instrument
          fleetNo={job.vehicle.fleet_no}
          question={{ read: "leads" }}
          label="Simulated leads"
          onAnswer={(answer) => change({ leads: String(answer.display[0] ?? "") })}
        />
        {!harness && (
          <Instrument
            fleetNo={job.vehicle.fleet_no}
            question={{
              read: "resistance",
              part: value.part,
              cylinder: value.cylinder ? Number(value.cylinder) : null,
            }}
            label="Simulated meter"
            onAnswer={shown}
          />
        )}
      </Box>
      <MeterChoice
        value={value}
        change={change}
        onLeads={(leads) => change({ leads })}
        choices={choices}
        refused={refused}
      />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5 }}>
        {!harness && (
          <OneOf
            label="Judged by"
            options={[
              ["spec", "By the maker's figure"],
              ["sisters", "By its sisters"],
            ]}
            chosen={value.against}
            onChosen={(against) => change({ against })}
          />
        )}
        {(value.against === "spec" || harness) && (
          <OneOf
            label="How the figure is given"
            options={[
              ["range", "from … to"],
              ["nominal", "one value ± %"],
            ]}
            chosen={value.given}
            onChosen={(given) => change({ given })}
          />
        )}
      </Box>
      {value.against === "spec" || harness ? (
        <Figure value={value} change={change} refused={refused} />
      ) : (
        <Sisters {...props} />
      )}
    </>
  );
}

async function input(value: OhmValue, display: string[], copper: boolean, read: Reader): Promise<ResistanceInput> {
  const at = (text: string, field: string) => read.optional(text, "temperature", field);
  const ohm = (text: string, field: string) => read.optional(text, "resistance", field);
  const range = value.given === "range";
  const spec = async (low: string, high: string, nominal: string, when: string, field: string) => ({
    low_ohm: range ? await ohm(low, `${field}.low_ohm`) : null,
    high_ohm: range ? await ohm(high, `${field}.high_ohm`) : null,
    nominal_ohm: range ? null : await ohm(nominal, `${field}.nominal_ohm`),
    tolerance_pct: range ? null : await read.optional(value.tolerance, "percent", `${field}.tolerance_pct`),
    at_c: await at(when, `${field}.at_c`),
    second: null,
    source: value.source,
  });
  const bySpec = value.against === "spec" || value.how === "harness";
  const sisters = value.sisters.filter((text) => text.trim() !== "");
  return {
    display: display.length === 1 ? (display[0] as string) : display,
    range_multiplier: Number(value.multiplier),
    leads_ohm: (await ohm(value.leads, "leads_ohm")) ?? 0,
    part_c: await at(value.temperature, "part_c"),
    part_c_error: (await at(value.temperatureError, "part_c_error")) ?? 0,
    meter: await accuracyOf(value, read),
    conductor: copper ? "copper" : "none",
    range_max_ohm: await ohm(value.range, "range_max_ohm"),
    spec: bySpec
      ? {
          ...(await spec(value.low, value.high, value.nominal, value.at, "spec")),
          second: value.twice ? await spec(value.low2, value.high2, value.nominal2, value.at2, "spec.second") : null,
        }
      : null,
    sisters: bySpec
      ? null
      : await Promise.all(sisters.map((text, index) => read.number(text, "resistance", `sisters[${index}]`))),
  };
}

export const ohmForm: BenchForm<OhmValue> = {
  id: "ohm",
  title: "Ohm",
  first: (_job, choices) => ({
    ...FIRST_METER,
    part: choices.parts[0]?.id ?? "",
    cylinder: "1",
    how: "itself",
    displays: [""],
    alone: "",
    loom: "",
    both: "",
    multiplier: "1",
    range: "",
    leads: "",
    temperature: "",
    temperatureError: "",
    against: "spec",
    given: "range",
    low: "",
    high: "",
    nominal: "",
    tolerance: "",
    at: "20",
    twice: false,
    low2: "",
    high2: "",
    nominal2: "",
    at2: "",
    source: "",
    sisters: [],
  }),
  Fields,
  reading: async (value, read, choices) => {
    const copper = choices.parts.find((one) => one.id === value.part)?.conductor === "copper";
    if (value.how === "harness") {
      const of = async (text: string) => (text.trim() === "" ? null : input(value, [text], copper, read));
      const [alone, loom, both] = [await of(value.alone), await of(value.loom), await of(value.both)];
      if (!alone && !loom && !both) return null;
      return { bench: "substitution", part: value.part, alone, loom, both };
    }
    const shown = value.displays.map((text) => text.trim()).filter(Boolean);
    if (shown.length === 0) return null;
    return { bench: "resistance", part: value.part, reading: await input(value, shown, copper, read) };
  },
  instrument: (value) => value.meter,
  target: (value) => (value.cylinder ? `cylinder ${value.cylinder}` : null),
};
