import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useRef } from "react";
import { useBoost } from "../api/recordings";
import type { BoostOfRecording } from "../api/types";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { plural } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { SavePlot } from "../fields/SavePlot";
import { Plot, path } from "./Plot";
import { Surroundings } from "./Surroundings";
import { useSurroundings } from "./useSurroundings";

const VERDICT: Record<BoostOfRecording["result"]["verdict"], string> = {
  follows: "It follows",
  leak: "Charge air escapes",
  "constant-offset": "Off by the same everywhere",
  "sticking-vanes": "Vanes or their drive stick",
  "no-response": "It does not answer",
  "cannot-tell": "It cannot be told",
};

/** Requested against actual charge pressure, with the verdict and what to look at first. */
export function BoostEvidence({ id, name }: { id: number; name: string }) {
  const [typed, setTyped, given] = useSurroundings();
  const boost = useBoost(id, given);
  if (boost.isPending) return <Waiting what="the charge pressure" />;
  if (!boost.data)
    return boost.error ? (
      <ProblemNote error={boost.error} retry={() => boost.refetch()} />
    ) : (
      <Typography color="text.secondary">No requested and actual charge pressure was recorded.</Typography>
    );
  const { result } = boost.data;
  const figures: [string, string][] = [];
  const put = (label: string, value: number | null | undefined, places: number, unit: string) => {
    if (value != null) figures.push([label, `${value.toFixed(places)} ${unit}`]);
  };
  put("actual less requested, steady", result.error_kpa?.value, 0, "kPa");
  put("of a change it follows", result.gain && result.gain.value * 100, 0, "%");
  put("nine tenths after", result.rise_s, 1, "s");
  put("beyond the request", result.overshoot_kpa, 0, "kPa");
  put("of the asked vane travel made", result.vane_gain && result.vane_gain.value * 100, 0, "%");
  return (
    <Box
      sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1.75fr) minmax(20rem, 1fr)" }, gap: 3 }}
    >
      <BoostPlot boost={boost.data} name={name} />
      <Box>
        <Box data-verdict={result.verdict} sx={{ fontSize: "1.9rem", fontWeight: 700, lineHeight: 1.1 }}>
          {VERDICT[result.verdict]}
        </Box>
        <Box sx={{ color: "text.secondary", mb: 1 }}>
          {result.decided ? "decided" : "not decided"}, from{" "}
          {plural(result.steady.length, "steady stretch", "steady stretches")} and {plural(result.steps.length, "rise")}
        </Box>
        <Typography sx={{ fontSize: "1.1rem", fontWeight: 600 }}>{result.says}</Typography>
        <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 3, rowGap: 1, my: 1.5 }}>
          {figures.map(([label, value]) => (
            <Box key={label}>
              <Box sx={{ fontFamily: FIGURES, fontSize: "1.4rem", fontWeight: 600 }}>{value}</Box>
              <Box sx={{ color: "text.secondary" }}>{label}</Box>
            </Box>
          ))}
        </Box>
        {result.look_first.length > 0 && (
          <>
            <Typography variant="h2">Look here first</Typography>
            <Box component="ol" sx={{ mt: 0.5, pl: 2.5 }}>
              {result.look_first.map((look) => (
                <li key={look}>{look}</li>
              ))}
            </Box>
          </>
        )}
        <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
          {result.next}
        </Typography>
        <Surroundings
          value={typed}
          onValue={setTyped}
          ambient={{ kpa: boost.data.ambient_kpa, known: boost.data.ambient_known }}
        />
        <ProblemNote error={boost.error} />
      </Box>
    </Box>
  );
}

function BoostPlot({ boost, name }: { boost: BoostOfRecording; name: string }) {
  const plot = useRef<HTMLDivElement>(null);
  const { palette } = useTheme();
  const { series, result } = boost;
  const first = series[0]?.time_s ?? 0;
  const last = series.at(-1)?.time_s ?? 1;
  const highest = Math.max(...series.map((one) => Math.max(one.requested_kpa, one.actual_kpa)));
  const at = (time: number) => {
    const near = series.reduce((a, b) => (Math.abs(b.time_s - time) < Math.abs(a.time_s - time) ? b : a));
    return `${near.time_s.toFixed(1)} s: requested ${near.requested_kpa.toFixed(0)} kPa, actual ${near.actual_kpa.toFixed(0)} kPa${near.rpm == null ? "" : `, ${near.rpm.toFixed(0)} rpm`}`;
  };
  return (
    <Box>
      <Plot
        ref={plot}
        label={`Requested and actual charge pressure over time. ${result.says}`}
        x={{ label: "time, s", from: first, to: last }}
        y={{ label: "charge pressure, kPa absolute", from: 90, to: highest }}
        height={440}
        at={at}
      >
        {({ x, y }) => (
          <>
            {result.steady.map((stretch) => (
              <rect
                key={stretch.from_s}
                x={x(Math.max(first, stretch.from_s))}
                width={Math.max(1, x(stretch.to_s) - x(stretch.from_s))}
                y={382}
                height={7}
                fill={palette.text.secondary}
              />
            ))}
            <path
              d={path(series.map((one) => [x(one.time_s), y(one.actual_kpa)]))}
              fill="none"
              stroke={palette.text.primary}
              strokeWidth={1.5}
            />
            <path
              d={path(series.map((one) => [x(one.time_s), y(one.requested_kpa)]))}
              fill="none"
              stroke={palette.text.secondary}
              strokeWidth={3}
              strokeDasharray="6 4"
            />
          </>
        )}
      </Plot>
      <Typography variant="body2" color="text.secondary">
        Dashed: requested. Full: actual. Bars at the foot: stretches in which the request was steady.
      </Typography>
      <SavePlot
        plot={plot}
        name={`${name}-boost`}
        rows={[
          ["time_s", "requested_kpa", "actual_kpa", "rpm"],
          ...series.map((one) => [one.time_s, one.requested_kpa, one.actual_kpa, one.rpm ?? ""]),
        ]}
      />
    </Box>
  );
}
