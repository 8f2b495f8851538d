import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { BenchResult, Judged, PointKind } from "../../api/bench";
import { Glow } from "../../app/Glow";
import { sure } from "../../app/words";
import { QuantityField } from "../../fields/QuantityField";
import { Choice } from "../Choice";
import { fieldsOf } from "../fieldsOf";
import type { BenchFieldsProps, BenchForm } from "../form";
import { Grid } from "../Grid";
import { Instrument } from "../Instrument";
import { KeptChoice } from "../KeptChoice";
import { MARK, WORD } from "../marks";
import { OneOf } from "../OneOf";

interface Point {
  name: string;
  kind: PointKind;
  wire: string;
  volt: string;
  expected: string;
  seen: "" | Judged;
  pierced: boolean;
}

interface Share {
  circuit: string;
  point: string;
  works: "" | "yes" | "no";
}

interface PathValue {
  circuit: string;
  /** Under which name it is kept with the vehicle. */
  name: string;
  points: Point[];
  shares: Share[];
  battery: string;
  /** The point that is open for its details. */
  open: number | null;
  instrument: string;
}

const KINDS = [
  ["feed", "feed"],
  ["fuse", "fuse"],
  ["relay", "relay"],
  ["joint", "joint"],
  ["part", "part"],
  ["unit", "control unit"],
  ["ground", "ground"],
] as const;

const isNext = (point: Point, result: BenchResult | undefined) => result?.next === `measure at ${point.name}`;

const fresh = (name: string, kind: PointKind, wire = ""): Point => ({
  name,
  kind,
  wire,
  volt: "",
  expected: "",
  seen: "",
  pierced: false,
});

function Fields({ value, change, job, choices, result, refused }: BenchFieldsProps<PathValue>) {
  const of = fieldsOf(value, change, refused);
  const set = (index: number, part: Partial<Point>) =>
    change({ points: value.points.map((one, place) => (place === index ? { ...one, ...part } : one)) });
  const take = (circuit: string) => {
    const known = choices.circuits.find((one) => one.id === circuit);
    change({
      circuit,
      name: known?.name ?? "",
      points: known?.points.map((point) => fresh(point.name, point.kind)) ?? [],
      shares: [],
      open: null,
    });
  };
  const body = {
    points: value.points.map(({ name, kind, wire, expected }) => ({ name, kind, wire, expected })),
    shares: value.shares.map(({ circuit, point }) => ({ circuit, point })),
  };
  return (
    <>
      <Grid columns={3}>
        <Choice
          label="Circuit"
          value={value.circuit}
          onValue={take}
          options={choices.circuits.map((one) => [one.id, one.name] as const)}
          refused={refused("circuit")}
        />
        {of.words("name", "Called", "")}
        {of.quantity("battery", "Battery meanwhile", "voltage", "battery_v", "12.5 V if left out")}
      </Grid>
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "flex-start", mt: -1 }}>
        <KeptChoice
          job={job}
          kind="circuit"
          label="Described before"
          name={value.name}
          body={body}
          onTaken={(name, kept) =>
            change({
              name,
              points: kept.points.map((one) => ({ ...fresh(one.name, one.kind, one.wire), expected: one.expected })),
              shares: kept.shares.map((one) => ({ ...one, works: "" as const })),
              open: null,
            })
          }
        />
        <Instrument
          fleetNo={job.vehicle.fleet_no}
          question={{ read: "path", circuit: value.circuit }}
          label="Simulated meter at the next point"
          onAnswer={(answer) => {
            const asked = value.points.findIndex((one) => isNext(one, result));
            const at = asked >= 0 ? asked : value.points.findIndex((one) => one.volt.trim() === "");
            if (at < 0) return;
            set(at, { volt: String(answer.values[at] ?? "") });
            change({ instrument: answer.instrument });
          }}
        />
      </Box>
      <Box component="ol" aria-label="The path from feed to ground" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {value.points.map((point, index) => (
          <PointRow
            // biome-ignore lint/suspicious/noArrayIndexKey: a point is its place on the path, its name is being typed.
            key={index}
            point={point}
            last={index === value.points.length - 1}
            next={isNext(point, result)}
            likelihood={result?.verdict === "bad" ? (result.marks[index]?.likelihood ?? 0) : 0}
            verdict={result?.figures.find((one) => one.label === point.name)?.verdict}
            open={value.open === index}
            onOpen={() => change({ open: value.open === index ? null : index })}
            set={(part) => set(index, part)}
            refused={(name) => refused(`points[${index}].${name}`)}
            onGone={() => change({ points: value.points.filter((_, place) => place !== index), open: null })}
          />
        ))}
      </Box>
      <Box>
        <Button
          color="inherit"
          onClick={() => change({ points: [...value.points, fresh("", "joint")], open: value.points.length })}
        >
          A further point
        </Button>
      </Box>
      <Shares value={value} change={change} refused={refused} />
    </>
  );
}

interface RowProps {
  point: Point;
  last: boolean;
  next: boolean;
  likelihood: number;
  verdict: Judged | undefined;
  open: boolean;
  onOpen: () => void;
  set: (part: Partial<Point>) => void;
  refused: (name: string) => string | undefined;
  onGone: () => void;
}

function PointRow({ point, last, next, likelihood, verdict, open, onOpen, set, refused, onGone }: RowProps) {
  const named = point.name || "new point";
  const ofPoint = fieldsOf(point, set, (...names) => refused(names[0] ?? ""));
  return (
    <Box
      component="li"
      aria-current={next ? "step" : undefined}
      sx={{
        display: "grid",
        gridTemplateColumns: "34px minmax(0, 1fr) 9.5rem 44px",
        columnGap: 1,
        alignItems: "start",
        pt: 0.75,
        bgcolor: next ? "background.paper" : undefined,
      }}
    >
      <Box sx={{ alignSelf: "stretch", position: "relative", display: "flex", justifyContent: "center", pt: 1 }}>
        {!last && (
          <Box sx={{ position: "absolute", top: 22, bottom: -22, width: 3, bgcolor: "divider" }} aria-hidden="true" />
        )}
        <Box sx={{ position: "relative", zIndex: 1, bgcolor: "background.default", borderRadius: "50%", height: 26 }}>
          {likelihood > 0.005 ? (
            <Glow likelihood={likelihood} size={26} />
          ) : (
            <Box
              sx={{
                width: 26,
                height: 26,
                border: 2,
                borderColor: "text.secondary",
                borderRadius: "50%",
                textAlign: "center",
                lineHeight: "22px",
                fontSize: "0.95rem",
              }}
            >
              {verdict ? MARK[verdict] : ""}
            </Box>
          )}
        </Box>
      </Box>
      <Box sx={{ pt: 0.75, lineHeight: 1.2 }}>
        <Box sx={{ fontWeight: 600 }}>
          {named}
          {next && " – measure here next"}
        </Box>
        <Box sx={{ color: "text.secondary", fontSize: "0.92rem" }}>
          {[
            KINDS.find(([id]) => id === point.kind)?.[1],
            point.wire && `then ${point.wire}`,
            point.pierced && "pierced",
            likelihood > 0.005 && `${sure(likelihood)} of the suspicion`,
          ]
            .filter(Boolean)
            .join(" · ")}
        </Box>
        {open && (
          <Box sx={{ my: 1 }}>
            <Grid columns={2}>
              {ofPoint.words("name", "Name", "name")}
              <Choice
                label="It is a"
                value={point.kind}
                onValue={(kind) => set({ kind: kind as PointKind })}
                options={KINDS}
              />
              {ofPoint.words("wire", "Wire from here on", "", "red/white 1.5")}
              {ofPoint.quantity(
                "expected",
                "Should show",
                "voltage",
                "expected_v",
                "the battery, or nothing behind the load",
              )}
            </Grid>
            <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1 }}>
              <OneOf
                label={`Seen at ${named}`}
                options={[
                  ["good", "seen good"],
                  ["bad", "seen bad"],
                ]}
                chosen={point.seen === "cannot-tell" ? "" : point.seen}
                onChosen={(seen) => set({ seen })}
                onNone={() => set({ seen: "" })}
              />
              <FormControlLabel
                control={
                  <Checkbox checked={point.pierced} onChange={(event) => set({ pierced: event.target.checked })} />
                }
                label="wire pierced here"
              />
              <Button color="inherit" onClick={onGone}>
                Take it off the path
              </Button>
            </Box>
          </Box>
        )}
      </Box>
      <QuantityField
        label={`At ${named}`}
        dimension="voltage"
        value={point.volt}
        onValue={(volt) => set({ volt })}
        refused={refused("volt")}
        slotProps={{ inputLabel: { shrink: true } }}
        helperText={verdict ? WORD[verdict] : " "}
      />
      <Button
        color="inherit"
        aria-expanded={open}
        aria-label={`Details of ${named}`}
        onClick={onOpen}
        sx={{ minWidth: 44 }}
      >
        {open ? "▴" : "▾"}
      </Button>
    </Box>
  );
}

function Shares({ value, change, refused }: Pick<BenchFieldsProps<PathValue>, "value" | "change" | "refused">) {
  const set = (index: number, part: Partial<Share>) =>
    change({ shares: value.shares.map((one, place) => (place === index ? { ...one, ...part } : one)) });
  return (
    <Box component="section" aria-label="Circuits on the same feed">
      <Typography variant="h2" component="h3">
        On the same feed
      </Typography>
      {value.shares.map((share, index) => (
        <Box
          // biome-ignore lint/suspicious/noArrayIndexKey: its name is being typed.
          key={index}
          sx={{ display: "flex", gap: 1, alignItems: "flex-start", flexWrap: "wrap", mt: 1 }}
        >
          <TextField
            label="Another circuit"
            value={share.circuit}
            onChange={(event) => set(index, { circuit: event.target.value })}
            sx={{ maxWidth: "12rem" }}
          />
          <Box sx={{ width: "13rem" }}>
            <Choice
              label="They part behind"
              value={share.point}
              onValue={(point) => set(index, { point })}
              options={value.points.filter((one) => one.name).map((one) => [one.name, one.name] as const)}
              refused={refused(`shares[${index}].point`)}
            />
          </Box>
          <OneOf
            label={`Does ${share.circuit || "it"} work?`}
            options={[
              ["yes", "works"],
              ["no", "lost too"],
            ]}
            chosen={share.works}
            onChosen={(works) => set(index, { works })}
            onNone={() => set(index, { works: "" })}
          />
          <Button
            color="inherit"
            onClick={() => change({ shares: value.shares.filter((_, place) => place !== index) })}
          >
            Remove
          </Button>
        </Box>
      ))}
      <Button
        color="inherit"
        onClick={() =>
          change({ shares: [...value.shares, { circuit: "", point: value.points[0]?.name ?? "", works: "" }] })
        }
      >
        Another circuit on this feed
      </Button>
    </Box>
  );
}

export const pathForm: BenchForm<PathValue> = {
  id: "path",
  title: "Path",
  first: (_job, choices) => {
    const known = choices.circuits.find((one) => one.id === "crank-sensor") ?? choices.circuits[0];
    return {
      circuit: known?.id ?? "",
      name: known?.name ?? "",
      points: known?.points.map((point) => fresh(point.name, point.kind)) ?? [],
      shares: [],
      battery: "",
      open: null,
      instrument: "",
    };
  },
  Fields,
  reading: async (value, read) => {
    return {
      bench: "path",
      circuit: value.circuit,
      path: {
        points: await Promise.all(
          value.points.map(async (one, index) => ({
            name: one.name,
            kind: one.kind,
            wire: one.wire,
            volt: await read.optional(one.volt, "voltage", `points[${index}].volt`),
            expected_v: await read.optional(one.expected, "voltage", `points[${index}].expected_v`),
            seen: one.seen || null,
            pierced: one.pierced,
          })),
        ),
        shares: value.shares
          .filter((one) => one.circuit.trim() !== "")
          .map((one) => ({
            circuit: one.circuit,
            point: one.point,
            works: one.works === "" ? null : one.works === "yes",
          })),
        battery_v: await read.optional(value.battery, "voltage", "battery_v"),
      },
    };
  },
  instrument: (value) => value.instrument,
  // Untouched, it says where to measure first.
  savable: (value) =>
    value.points.some((one) => one.volt.trim() !== "" || one.seen !== "") ||
    value.shares.some((one) => one.works !== ""),
};
