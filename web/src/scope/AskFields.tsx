import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import type { StoredCapture, WaveformKind } from "../api/bench";
import { Choice } from "../bench/Choice";
import { Grid } from "../bench/Grid";
import { Instrument } from "../bench/Instrument";
import { QuantityField } from "../fields/QuantityField";
import { type AskValue, KINDS } from "./ask";

interface Props {
  capture: StoredCapture;
  cylinders: number[];
  fleetNo: string;
  value: AskValue;
  change: (part: Partial<AskValue>) => void;
  refused: (...fields: string[]) => string | undefined;
}

/** What the capture shows, which channel is which, and what stands beside it. */
export function AskFields({ capture, cylinders, fleetNo, value, change, refused }: Props) {
  const channels = capture.about.channels.map(
    (one) => [one.name, one.unit ? `${one.name}, ${one.unit}` : one.name] as const,
  );
  const none = [["", "none"], ...channels] as const;
  const numbers = [["", "all, in turn"], ...cylinders.map((one) => [String(one), `cylinder ${one}`] as const)] as const;
  const set = (index: number, part: Partial<AskValue["signals"][number]>) =>
    change({ signals: value.signals.map((one, place) => (place === index ? { ...one, ...part } : one)) });
  const turning = value.of === "crank-and-cam";
  const moving = value.of === "motor-drive";
  return (
    <Box>
      <Grid columns={2}>
        <Choice
          label="It shows the"
          value={value.of}
          onValue={(of) => change({ of: of as WaveformKind })}
          options={KINDS}
        />
        {!turning && !moving && (
          <Choice
            label="Pulse once in two turns"
            value={value.sync}
            onValue={(sync) => change({ sync })}
            options={none}
            refused={refused("sync")}
          />
        )}
        {(turning || moving) && (
          <Choice
            label={turning ? "The cam is" : "Position of what it moves"}
            value={value.second}
            onValue={(second) => change({ second })}
            options={none}
            refused={refused("second")}
          />
        )}
        {value.signals.map((one, index) => (
          <Box
            // biome-ignore lint/suspicious/noArrayIndexKey: a signal is its place in the list.
            key={index}
            sx={{ display: "contents" }}
          >
            <Choice
              label={turning ? "The crank is" : index === 0 ? "The signal is" : "and"}
              value={one.channel}
              onValue={(channel) => set(index, { channel })}
              options={none}
              refused={refused(`signals[${index}].channel`)}
            />
            {!turning && !moving ? (
              <Choice
                label="of"
                value={one.cylinder}
                onValue={(cylinder) => set(index, { cylinder })}
                options={numbers}
                refused={refused(`signals[${index}].cylinder`)}
              />
            ) : (
              <span />
            )}
          </Box>
        ))}
        {value.sync !== "" && !turning && !moving && (
          <Choice
            label="It pulses when there fires"
            value={value.syncCylinder}
            onValue={(syncCylinder) => change({ syncCylinder })}
            options={[
              ["", "the first of the order"],
              ...cylinders.map((one) => [String(one), `cylinder ${one}`] as const),
            ]}
            refused={refused("sync_cylinder")}
          />
        )}
        {value.of === "coil-current" && (
          <QuantityField
            label="At the coil while it charges"
            dimension="voltage"
            value={value.supply}
            onValue={(supply) => change({ supply })}
            refused={refused("supply_v")}
            helperText="for inductance and resistance"
          />
        )}
        {value.of === "coil-current" && (
          <Instrument
            fleetNo={fleetNo}
            question={{ read: "battery" }}
            label="Simulated meter at the coil"
            onAnswer={(answer) => change({ supply: String(answer.values[1] ?? "") })}
          />
        )}
        {turning && (
          <TextField
            label="Cam edges of a sound engine, °"
            placeholder="40 110 250"
            value={value.reference}
            onChange={(event) => change({ reference: event.target.value })}
            error={Boolean(refused("reference_deg"))}
            helperText={refused("reference_deg") ?? "crank degrees after the gap; as measured if left out"}
          />
        )}
      </Grid>
      {!turning && !moving && value.signals.length < capture.about.channels.length && (
        <Button
          color="inherit"
          size="small"
          onClick={() => change({ signals: [...value.signals, { channel: "", cylinder: "" }] })}
        >
          Another channel with such a signal
        </Button>
      )}
    </Box>
  );
}
