import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { Measurement } from "../../api/bench";
import { fieldsOf } from "../fieldsOf";
import type { BenchFieldsProps, BenchForm } from "../form";
import { Grid } from "../Grid";
import { OneOf } from "../OneOf";

interface MoreValue {
  what: "continuity" | "diode" | "marks";
  between: string;
  display: string;
  limit: string;
  leads: string;
  diode: string;
  forward: string;
  reverse: string;
  ring: "" | "yes" | "no";
  teeth: string;
  marks: { name: string; off: string }[];
}

function Fields({ value, change, refused }: BenchFieldsProps<MoreValue>) {
  const of = fieldsOf(value, change, refused);
  const mark = (index: number, part: Partial<MoreValue["marks"][number]>) =>
    change({ marks: value.marks.map((one, place) => (place === index ? { ...one, ...part } : one)) });
  return (
    <>
      <OneOf
        label="What is looked at"
        options={[
          ["continuity", "A way through?"],
          ["diode", "Diode"],
          ["marks", "Timing marks"],
        ]}
        chosen={value.what}
        onChosen={(what) => change({ what })}
      />
      {value.what === "continuity" && (
        <Grid columns={2}>
          {of.words("between", "Between", "between", "unit pin 12 and sensor pin 2")}
          {of.words("display", "The display shows", "display", "0.4, OL")}
          {of.quantity("limit", "Through means at most", "resistance", "limit_ohm")}
          {of.quantity("leads", "Leads held together", "resistance", "leads_ohm")}
        </Grid>
      )}
      {value.what === "diode" && (
        <>
          <Grid columns={3}>
            {of.words("diode", "Which", "reading.of", "across the relay's winding")}
            {of.words("forward", "Red lead away from the ring", "forward_v", "0.58, or OL", "volts on the diode range")}
            {of.words("reverse", "Red lead on the ring", "reverse_v", "OL")}
          </Grid>
          <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", flexWrap: "wrap" }}>
            <span>Does its ring lie on the supply's side?</span>
            <OneOf
              label="Side of the ring"
              options={[
                ["yes", "yes, it blocks"],
                ["no", "no"],
              ]}
              chosen={value.ring}
              onChosen={(ring) => change({ ring })}
              onNone={() => change({ ring: "" })}
            />
          </Box>
        </>
      )}
      {value.what === "marks" && (
        <>
          {value.marks.map((one, index) => {
            const ofMark = fieldsOf(one, (part) => mark(index, part), refused);
            return (
              <Grid
                // biome-ignore lint/suspicious/noArrayIndexKey: its name is being typed.
                key={index}
                columns={2}
              >
                {ofMark.words("name", "Mark", `marks[${index}].name`, "intake cam, bank 1")}
                {ofMark.words(
                  "off",
                  "Stands off by, teeth",
                  `marks[${index}].off_teeth`,
                  "0, +1 late, -0,5 early",
                  "late is +, the crank on its mark",
                )}
              </Grid>
            );
          })}
          <Grid columns={2}>
            {of.quantity("teeth", "Teeth of a cam's wheel", "count", "cam_teeth")}
            <Button
              color="inherit"
              onClick={() => change({ marks: [...value.marks, { name: "", off: "" }] })}
              sx={{ height: 44 }}
            >
              Another mark
            </Button>
          </Grid>
        </>
      )}
    </>
  );
}

export const moreForm: BenchForm<MoreValue> = {
  id: "more",
  title: "More",
  first: () => ({
    what: "continuity",
    between: "",
    display: "",
    limit: "1",
    leads: "",
    diode: "",
    forward: "",
    reverse: "",
    ring: "",
    teeth: "40",
    marks: [{ name: "cam", off: "" }],
  }),
  Fields,
  reading: async (value, read): Promise<Measurement | null> => {
    if (value.what === "continuity") {
      if (value.display.trim() === "") return null;
      return {
        bench: "continuity",
        between: value.between,
        display: value.display,
        limit_ohm: await read.number(value.limit, "resistance", "limit_ohm"),
        leads_ohm: (await read.optional(value.leads, "resistance", "leads_ohm")) ?? 0,
      };
    }
    if (value.what === "diode") {
      if (value.forward.trim() === "" || value.reverse.trim() === "") return null;
      const over = (text: string) => /^\s*(ol|∞)\s*$/i.test(text);
      const volt = async (text: string, field: string) => (over(text) ? null : read.number(text, "voltage", field));
      return {
        bench: "diode",
        of: value.diode,
        reading: {
          forward_v: await volt(value.forward, "forward_v"),
          reverse_v: await volt(value.reverse, "reverse_v"),
          ring_on_supply: value.ring === "" ? null : value.ring === "yes",
        },
      };
    }
    const filled = value.marks.filter((one) => one.off.trim() !== "");
    if (filled.length === 0) return null;
    return {
      bench: "marks",
      marks: {
        cam_teeth: await read.number(value.teeth, "count", "cam_teeth"),
        marks: await Promise.all(
          filled.map(async (one, index) => ({
            name: one.name,
            off_teeth: await read.number(one.off, "number", `marks[${index}].off_teeth`),
          })),
        ),
      },
    };
  },
  instrument: (value) => (value.what === "marks" ? "straight edge" : ""),
};
