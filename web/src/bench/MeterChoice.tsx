import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { BenchChoices, MeterAccuracy, MeterProfile, SimAnswer } from "../api/bench";
import { ownQuery, useChangeOwn } from "../api/queries";
import { type Reader, reader, refusal } from "../entry/form";
import { ProblemNote } from "../fields/ProblemNote";
import { QuantityField } from "../fields/QuantityField";
import { Choice } from "./Choice";
import { Grid } from "./Grid";

/** A meter as forms keep it: what its data sheet says of the range in use. */
export interface MeterValue {
  meter: string;
  percent: string;
  digits: string;
  resolution: string;
}

export const FIRST_METER: MeterValue = { meter: "", percent: "", digits: "", resolution: "" };

/** What the data sheet says, read as people write it. A reading without its doubt is not judged. */
export async function accuracyOf(value: MeterValue, read: Reader) {
  if (value.resolution.trim() === "")
    throw refusal("meter.resolution", "which meter? Without its doubt nothing is judged");
  return {
    percent: (await read.optional(value.percent, "percent", "meter.percent")) ?? 0,
    digits: (await read.optional(value.digits, "number", "meter.digits")) ?? 0,
    resolution: await read.number(value.resolution, "number", "meter.resolution"),
  };
}

/** As [accuracyOf], where a reading may do without. */
export const accuracyIfAny = (value: MeterValue, read: Reader) =>
  value.resolution.trim() === "" ? Promise.resolve(null) : accuracyOf(value, read);

const filled = (name: string, { percent, digits, resolution }: MeterAccuracy): MeterValue => ({
  meter: name,
  percent: String(percent),
  digits: String(digits),
  resolution: String(resolution),
});

/** The simulated meter's own figures, where it gave some. */
export const meterOf = (answer: SimAnswer): Partial<MeterValue> =>
  answer.accuracy ? filled(answer.instrument, answer.accuracy) : { meter: answer.instrument };

interface Props {
  value: MeterValue;
  change: (part: Partial<MeterValue>) => void;
  /** Told what a chosen meter's leads have. */
  onLeads?: (ohm: string) => void;
  choices: BenchChoices;
  refused: (...fields: string[]) => string | undefined;
}

const OTHER = "another meter";

/** One of the workshop's meters, or the figures of another; a new one can be kept under its name. */
export function MeterChoice({ value, change, onLeads, choices, refused }: Props) {
  const own = useQuery(ownQuery);
  const keep = useChangeOwn();
  const queries = useQueryClient();
  const [failed, setFailed] = useState<unknown>(null);
  // A meter that is known takes one line; its figures open where they are to be written.
  const [open, setOpen] = useState(false);
  const meters = own.data?.own.meters ?? [];
  const mine = meters.some((one) => one.name === value.meter);
  // Where no data sheet is at hand, a meter is taken for a worse one than it is likely to be.
  const all = [...meters, ...choices.meters];
  const known = all.some((one) => one.name === value.meter);
  const choose = (name: string) => {
    setOpen(name === OTHER);
    const meter = all.find((one) => one.name === name);
    if (!meter) return change({ ...FIRST_METER });
    change(filled(name, meter.accuracy));
    if (meter.leads_ohm) onLeads?.(String(meter.leads_ohm));
  };
  const put = async (list: MeterProfile[]) => {
    if (!own.data) return;
    await keep.mutateAsync({ ...own.data.own, meters: list });
  };
  const add = async () => {
    setFailed(null);
    try {
      const accuracy = await accuracyOf(value, reader(queries));
      await put([...meters, { name: value.meter.trim(), accuracy, leads_ohm: 0 }]);
      setOpen(false);
    } catch (error) {
      setFailed(error);
    }
  };
  const folded = !open && (known || (value.meter !== "" && value.resolution !== ""));
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0 }}>
      <Grid columns={4}>
        <Choice
          label="Meter"
          value={known ? value.meter : OTHER}
          onValue={choose}
          options={[...all.map((one) => [one.name, one.name] as const), [OTHER, OTHER] as const]}
        />
        {folded ? (
          <Box sx={{ gridColumn: "span 3", display: "flex", alignItems: "center", gap: 1, height: 44 }}>
            <span>
              {known ? "" : `${value.meter}: `}± {value.percent || 0} % ± {value.digits || 0} digits of{" "}
              {value.resolution}
            </span>
            {mine ? (
              <Button
                size="small"
                color="inherit"
                onClick={() =>
                  put(meters.filter((one) => one.name !== value.meter)).then(() => setFailed(null), setFailed)
                }
              >
                Forget this meter
              </Button>
            ) : (
              !known && (
                <Button size="small" color="inherit" onClick={() => setOpen(true)}>
                  Change or keep it
                </Button>
              )
            )}
          </Box>
        ) : (
          <>
            <QuantityField
              label="± % of reading"
              dimension="percent"
              value={value.percent}
              onValue={(percent) => change({ percent })}
              refused={refused("meter.percent")}
            />
            <QuantityField
              label="± digits"
              dimension="number"
              value={value.digits}
              onValue={(digits) => change({ digits })}
              refused={refused("meter.digits")}
            />
            <TextField
              label="One digit is"
              value={value.resolution}
              onChange={(event) => change({ resolution: event.target.value })}
              error={Boolean(refused("meter.resolution"))}
              helperText={refused("meter.resolution") ?? "as displayed"}
            />
          </>
        )}
      </Grid>
      {!folded && (
        <Box sx={{ display: "flex", gap: 1.5, alignItems: "flex-start", mb: 1 }}>
          <TextField
            label="Name on it"
            value={value.meter}
            onFocus={() => setOpen(true)}
            onChange={(event) => change({ meter: event.target.value })}
            sx={{ maxWidth: "18rem" }}
          />
          <Button
            color="inherit"
            variant="outlined"
            disabled={value.meter.trim() === "" || keep.isPending || Boolean(own.data?.broken)}
            onClick={add}
          >
            Keep this meter for the workshop
          </Button>
        </Box>
      )}
      <ProblemNote error={failed} />
    </Box>
  );
}
