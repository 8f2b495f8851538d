import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import type { Measurement } from "../../api/bench";
import { QuantityField } from "../../fields/QuantityField";
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
          <TextField
            label="Between"
            placeholder="unit pin 12 and sensor pin 2"
            value={value.between}
            onChange={(event) => change({ between: event.target.value })}
            error={Boolean(refused("between"))}
            helperText={refused("between") ?? " "}
          />
          <TextField
            label="The display shows"
            placeholder="0.4, OL"
            value={value.display}
            onChange={(event) => change({ display: event.target.value })}
            error={Boolean(refused("display"))}
            helperText={refused("display") ?? " "}
          />
          <QuantityField
            label="Through means at most"
            dimension="resistance"
            value={value.limit}
            onValue={(limit) => change({ limit })}
            refused={refused("limit_ohm")}
          />
          <QuantityField
            label="Leads held together"
            dimension="resistance"
            value={value.leads}
            onValue={(leads) => change({ leads })}
            refused={refused("leads_ohm")}
          />
        </Grid>
      )}
      {value.what === "diode" && (
        <>
          <Grid columns={3}>
            <TextField
              label="Which"
              placeholder="across the relay's winding"
              value={value.diode}
              onChange={(event) => change({ diode: event.target.value })}
              error={Boolean(refused("reading.of"))}
              helperText={refused("reading.of") ?? " "}
            />
            <TextField
              label="Red lead away from the ring"
              placeholder="0.58, or OL"
              value={value.forward}
              onChange={(event) => change({ forward: event.target.value })}
              error={Boolean(refused("forward_v"))}
              helperText={refused("forward_v") ?? "volts on the diode range"}
            />
            <TextField
              label="Red lead on the ring"
              placeholder="OL"
              value={value.reverse}
              onChange={(event) => change({ reverse: event.target.value })}
              error={Boolean(refused("reverse_v"))}
              helperText={refused("reverse_v") ?? " "}
            />
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
          {value.marks.map((one, index) => (
            <Grid
              // biome-ignore lint/suspicious/noArrayIndexKey: its name is being typed.
              key={index}
              columns={2}
            >
              <TextField
                label="Mark"
                placeholder="intake cam, bank 1"
                value={one.name}
                onChange={(event) => mark(index, { name: event.target.value })}
                error={Boolean(refused(`marks[${index}].name`))}
                helperText={refused(`marks[${index}].name`) ?? " "}
              />
              <TextField
                label="Stands off by, teeth"
                placeholder="0, +1 late, -0,5 early"
                value={one.off}
                onChange={(event) => mark(index, { off: event.target.value })}
                error={Boolean(refused(`marks[${index}].off_teeth`))}
                helperText={refused(`marks[${index}].off_teeth`) ?? "late is +, the crank on its mark"}
              />
            </Grid>
          ))}
          <Grid columns={2}>
            <QuantityField
              label="Teeth of a cam's wheel"
              dimension="count"
              value={value.teeth}
              onValue={(teeth) => change({ teeth })}
              refused={refused("cam_teeth")}
            />
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
