import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useRef } from "react";
import { useTrims } from "../api/recordings";
import type { TrimsOfRecording } from "../api/types";
import { Glow } from "../app/Glow";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { sure } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { SavePlot } from "../fields/SavePlot";
import { Plot, path } from "./Plot";
import { Surroundings } from "./Surroundings";
import { useSurroundings } from "./useSurroundings";

/** Trims of each bank against air flow, the fitted curve with its doubt, and the hole that would explain them. */
export function TrimsEvidence({ id, name }: { id: number; name: string }) {
  const [typed, setTyped, given] = useSurroundings();
  const trims = useTrims(id, given);
  if (trims.isPending) return <Waiting what="the trims" />;
  if (!trims.data)
    return trims.error ? (
      <ProblemNote error={trims.error} retry={() => trims.refetch()} />
    ) : (
      <Typography color="text.secondary">
        No steady stretch of warm, closed-loop running was recorded. Let it idle for a minute, hold a cruise, and climb.
      </Typography>
    );
  const { result } = trims.data;
  return (
    <Box
      sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1.75fr) minmax(20rem, 1fr)" }, gap: 3 }}
    >
      <TrimsPlot trims={trims.data} name={name} />
      <Box>
        <Hole trims={trims.data} />
        <Typography sx={{ fontSize: "1.15rem", fontWeight: 600, my: 1 }}>{result.says}</Typography>
        {result.warnings.map((warning) => (
          <Typography key={warning} sx={{ fontWeight: 600, mb: 0.5 }}>
            {warning}
          </Typography>
        ))}
        <Typography variant="h2" sx={{ mt: 1 }}>
          What it speaks for
        </Typography>
        {result.signatures.slice(0, 4).map((one) => (
          <Box key={`${one.kind}${one.banks.join()}`} sx={{ display: "flex", gap: 1, py: 0.4, alignItems: "center" }}>
            <Glow likelihood={one.probability} size={24} />
            <Box sx={{ flex: 1 }}>
              {one.kind.replaceAll("-", " ")}
              {one.banks.length === 1 && result.banks.length > 1 && ` on bank ${one.banks[0]}`}
            </Box>
            <Box sx={{ fontFamily: FIGURES, fontWeight: 600 }}>{sure(one.probability)}</Box>
          </Box>
        ))}
        <Typography variant="body2" color="text.secondary" sx={{ my: 1 }}>
          {result.next}
        </Typography>
        <Surroundings
          value={typed}
          onValue={setTyped}
          ambient={{ kpa: result.ambient_kpa, known: trims.data.ambient_known }}
          intake={{ c: result.intake_c, known: trims.data.intake_known }}
        />
        <ProblemNote error={trims.error} />
      </Box>
    </Box>
  );
}

function Hole({ trims }: { trims: TrimsOfRecording }) {
  const { result } = trims;
  const big = { fontFamily: FIGURES, fontSize: "2.4rem", fontWeight: 600, lineHeight: 1.1 } as const;
  // A curve may fit a whiff of air to what is ordinary: a hole is shown large only where it explains the trims.
  if (result.leak_mm == null || result.signatures[0]?.kind !== "unmetered-air")
    return (
      <Box>
        <Box sx={big}>no leak stands out</Box>
        {result.leak_mm_high != null && (
          <Box sx={{ color: "text.secondary" }}>a hole above {result.leak_mm_high.toFixed(1)} mm would have shown</Box>
        )}
      </Box>
    );
  return (
    <Box data-leak={result.leak_mm}>
      <Box sx={big}>{result.leak_mm.toFixed(1)} mm</Box>
      <Box sx={{ color: "text.secondary" }}>
        equivalent hole, {result.leak_mm_low?.toFixed(2)} to {result.leak_mm_high?.toFixed(2)} mm;{" "}
        {result.leak_gps?.toFixed(2)} g/s past the meter
      </Box>
    </Box>
  );
}

function TrimsPlot({ trims, name }: { trims: TrimsOfRecording; name: string }) {
  const plot = useRef<HTMLDivElement>(null);
  const { palette } = useTheme();
  const { points, result } = trims;
  const total = (point: (typeof points)[number]) =>
    ((1 + point.short_pct / 100) * (1 + (point.long_pct ?? 0) / 100) - 1) * 100;
  const flows = points.map((point) => point.airflow_gps);
  const values = points.map(total);
  // Banks are told by their sign, not by colour: a ring and a cross.
  const mark = (bank: number, x: number, y: number) =>
    bank === 1 ? (
      <circle cx={x} cy={y} r={4.5} fill="none" stroke={palette.text.primary} strokeWidth={1.6} />
    ) : (
      <path d={`M${x - 4} ${y}h8M${x} ${y - 4}v8`} stroke={palette.text.secondary} strokeWidth={1.6} />
    );
  const at = (flow: number) =>
    result.banks
      .filter((bank) => bank.curve.length > 0)
      .map((bank) => {
        const near = bank.curve.reduce((a, b) =>
          Math.abs(b.airflow_gps - flow) < Math.abs(a.airflow_gps - flow) ? b : a,
        );
        return `bank ${bank.bank} at ${near.airflow_gps.toFixed(1)} g/s: ${near.trim_pct.toFixed(1)} % (${near.low_pct.toFixed(1)} to ${near.high_pct.toFixed(1)})`;
      })
      .join("    ");
  return (
    <Box>
      <Plot
        ref={plot}
        label={`Trims against air flow. ${result.says}`}
        x={{ label: "air flow, g/s", from: Math.min(...flows) * 0.9, to: Math.max(...flows) * 1.1, log: true }}
        y={{ label: "short and long trim together, %", from: Math.min(-5, ...values), to: Math.max(5, ...values) }}
        height={440}
        at={at}
      >
        {({ x, y }) => (
          <>
            <line x1={64} x2={806} y1={y(0)} y2={y(0)} stroke={palette.text.secondary} />
            {points.map((point, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: points have no name and never change places.
              <g key={index} opacity={0.75}>
                {mark(point.bank, x(point.airflow_gps), y(total(point)))}
              </g>
            ))}
            {result.banks.map((bank) => {
              const last = bank.curve[0];
              if (!last) return null;
              const band = [
                ...bank.curve.map((one) => [x(one.airflow_gps), y(one.high_pct)] as [number, number]),
                ...[...bank.curve].reverse().map((one) => [x(one.airflow_gps), y(one.low_pct)] as [number, number]),
              ];
              return (
                <g key={bank.bank}>
                  <path d={`${path(band)}Z`} fill={palette.text.secondary} opacity={0.25} />
                  <path
                    d={path(bank.curve.map((one) => [x(one.airflow_gps), y(one.trim_pct)]))}
                    fill="none"
                    stroke={palette.text.primary}
                    strokeWidth={2.5}
                    strokeDasharray={bank.bank === 1 ? undefined : "8 5"}
                  />
                  <text
                    x={x(last.airflow_gps) + 6}
                    y={y(last.trim_pct) - 10}
                    fill={palette.text.primary}
                    fontSize={15}
                    fontWeight={700}
                  >
                    bank {bank.bank}
                  </text>
                </g>
              );
            })}
          </>
        )}
      </Plot>
      <Typography variant="body2" color="text.secondary">
        Each mark is a steady stretch of some seconds: rings are bank 1, crosses bank 2. The bands hold the curves with
        95 %.
      </Typography>
      <SavePlot
        plot={plot}
        name={`${name}-trims`}
        rows={[
          ["bank", "airflow_gps", "rpm", "load_pct", "map_kpa", "short_pct", "long_pct"],
          ...points.map((point) => [
            point.bank,
            point.airflow_gps,
            point.rpm ?? "",
            point.load_pct ?? "",
            point.map_kpa ?? "",
            point.short_pct,
            point.long_pct ?? 0,
          ]),
        ]}
      />
    </Box>
  );
}
