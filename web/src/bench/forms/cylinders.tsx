import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { CylinderReading, Measurement } from "../../api/bench";
import type { Dimension, JobView } from "../../api/types";
import { QuantityField } from "../../fields/QuantityField";
import { Choice } from "../Choice";
import { fieldsOf } from "../fieldsOf";
import { type BenchFieldsProps, type BenchForm, type ByCylinder, cylindersOf, unread } from "../form";
import { Grid } from "../Grid";
import { Instrument } from "../Instrument";
import { OneOf } from "../OneOf";

type Of = Exclude<Extract<Measurement, { bench: "cylinders" }>["cylinders"]["of"], "plug">;
type Heard = NonNullable<CylinderReading["heard_at"]>;
type Spark = NonNullable<CylinderReading["spark"]>;

interface CylindersValue {
  of: Of;
  value: ByCylinder;
  wet: ByCylinder;
  ohm: ByCylinder;
  seconds: ByCylinder;
  heard: ByCylinder;
  spark: ByCylinder;
  least: string;
  keyOff: "" | "yes" | "no";
  instrument: string;
}

const KINDS = [
  ["compression", "Compression"],
  ["relative-compression", "Relative"],
  ["leak-down", "Leak-down"],
  ["spark", "Spark"],
  ["glow-plug", "Glow plugs"],
] as const;

const HEARD = [
  ["", "not heard"],
  ["intake", "at the intake"],
  ["exhaust", "at the exhaust"],
  ["crankcase", "in the crankcase"],
  ["coolant", "in the coolant"],
  ["neighbour", "at the neighbour"],
] as const;

/** Which columns a kind has: the field, what stands over it, its dimension. */
const COLUMNS: Record<Of, readonly (readonly ["value" | "wet" | "ohm" | "seconds", string, Dimension])[]> = {
  compression: [
    ["value", "dry", "pressure"],
    ["wet", "with oil", "pressure"],
  ],
  "relative-compression": [["value", "of the best, %", "percent"]],
  "leak-down": [["value", "lost, %", "percent"]],
  spark: [],
  "glow-plug": [
    ["value", "draws", "current"],
    ["ohm", "to ground", "resistance"],
    ["seconds", "glows after", "time"],
  ],
};

/** Under which name a cylinder's text is kept: what was written of one kind is none of another's. */
const at = (value: CylindersValue, cylinder: number) => `${value.of} ${cylinder}`;

const kindsOf = (job: JobView) =>
  KINDS.filter(([of]) => (job.state.engine.fuel === "diesel" ? of !== "spark" : of !== "glow-plug"));

function Fields({ value, change, job, result, refused }: BenchFieldsProps<CylindersValue>) {
  const of = fieldsOf(value, change, refused);
  const columns = COLUMNS[value.of];
  const says = (cylinder: number) => result?.figures.find((one) => one.label === `cylinder ${cylinder}`)?.says;
  const set = (name: "value" | "wet" | "ohm" | "seconds" | "heard" | "spark", cylinder: number, text: string) =>
    change({ [name]: { ...value[name], [at(value, cylinder)]: text } });
  return (
    <>
      <OneOf label="What is compared" options={kindsOf(job)} chosen={value.of} onChosen={(of) => change({ of })} />
      {value.of === "spark" && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, flexWrap: "wrap" }}>
          <span>A lone spark as the key goes off?</span>
          <OneOf
            label="Spark at key-off"
            options={[
              ["yes", "spark"],
              ["no", "none"],
            ]}
            chosen={value.keyOff}
            onChosen={(keyOff) => change({ keyOff })}
            onNone={() => change({ keyOff: "" })}
          />
        </Box>
      )}
      {value.of === "spark" && value.keyOff !== "" ? (
        <Typography color="text.secondary">
          Judged by the spark at key-off alone. Touch it again to judge cylinders.
        </Typography>
      ) : (
        <Box component="ol" aria-label="Cylinders" sx={{ listStyle: "none", m: 0, p: 0 }}>
          {cylindersOf(job).map((cylinder) => (
            <Box
              component="li"
              key={cylinder}
              sx={{
                display: "flex",
                gap: 1.5,
                alignItems: "flex-start",
                flexWrap: { xs: "wrap", md: "nowrap" },
                mt: 1,
              }}
            >
              <Box sx={{ fontWeight: 700, fontSize: "1.4rem", width: "1.6rem", pt: 0.5 }}>{cylinder}</Box>
              {columns.map(([name, label, dimension]) => (
                <QuantityField
                  key={name}
                  label={`Cylinder ${cylinder}, ${label}`}
                  dimension={dimension}
                  value={value[name][at(value, cylinder)] ?? ""}
                  onValue={(text) => set(name, cylinder, text)}
                  refused={refused(`c${cylinder}.${name}`)}
                  sx={{ maxWidth: "12.5rem" }}
                />
              ))}
              {value.of === "leak-down" && (
                <Choice
                  label="Heard"
                  value={value.heard[at(value, cylinder)] ?? ""}
                  onValue={(text) => set("heard", cylinder, text)}
                  options={HEARD}
                />
              )}
              {value.of === "spark" && (
                <OneOf
                  label={`Spark at cylinder ${cylinder}`}
                  options={[
                    ["strong", "strong, blue"],
                    ["weak", "weak, yellow"],
                    ["none", "none"],
                  ]}
                  chosen={(value.spark[at(value, cylinder)] as Spark) ?? ""}
                  onChosen={(seen) => set("spark", cylinder, seen)}
                  onNone={() => set("spark", cylinder, "")}
                />
              )}
              <Box sx={{ flex: 1, pt: 1, color: "text.secondary", lineHeight: 1.2, minWidth: "6rem", mb: 1.5 }}>
                {says(cylinder) ?? ""}
              </Box>
            </Box>
          ))}
        </Box>
      )}
      {value.of === "compression" && (
        <Grid columns={3}>
          {of.quantity("least", "The maker allows at least", "pressure", "spec_low", "kPa, or write bar or psi")}
          <Instrument
            fleetNo={job.vehicle.fleet_no}
            question={{ read: "compression" }}
            label="Simulated gauge"
            onAnswer={(answer) =>
              change({
                instrument: answer.instrument,
                value: Object.fromEntries(answer.values.map((kpa, index) => [at(value, index + 1), String(kpa)])),
              })
            }
          />
        </Grid>
      )}
    </>
  );
}

export const cylindersForm: BenchForm<CylindersValue> = {
  id: "cylinders",
  title: "Cylinders",
  first: () => ({
    of: "compression",
    value: {},
    wet: {},
    ohm: {},
    seconds: {},
    heard: {},
    spark: {},
    least: "",
    keyOff: "",
    instrument: "",
  }),
  Fields,
  reading: async (value, read, _choices, job): Promise<Measurement | null> => {
    if (value.of === "spark" && value.keyOff !== "") return { bench: "key-off-spark", spark: value.keyOff === "yes" };
    const readings: CylinderReading[] = [];
    for (const cylinder of cylindersOf(job)) {
      const reading = unread(cylinder);
      let any = false;
      for (const [name, , dimension] of COLUMNS[value.of]) {
        const text = value[name][at(value, cylinder)] ?? "";
        if (text.trim() === "") continue;
        any = true;
        if (name === "ohm" && /^\s*ol/i.test(text)) reading.open = true;
        else reading[name] = await read.number(text, dimension, `c${cylinder}.${name}`);
      }
      if (value.of === "leak-down" && value.heard[at(value, cylinder)])
        reading.heard_at = value.heard[at(value, cylinder)] as Heard;
      if (value.of === "spark" && value.spark[at(value, cylinder)]) {
        reading.spark = value.spark[at(value, cylinder)] as Spark;
        any = true;
      }
      if (any) readings.push(reading);
    }
    if (readings.length === 0) return null;
    const least = value.of === "compression" ? await read.optional(value.least, "pressure", "spec_low") : null;
    return { bench: "cylinders", cylinders: { of: value.of, readings, spec_low: least, spec_high: null } };
  },
  instrument: (value) => (value.of === "compression" ? value.instrument : ""),
};
