import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { ChartsReferenceLine } from "@mui/x-charts/ChartsReferenceLine";
import { LineChart } from "@mui/x-charts/LineChart";
import { useRef } from "react";
import type { ProofShown } from "../api/types";
import { km, whole } from "../app/words";
import { SavePlot } from "../fields/SavePlot";

interface Props {
  proof: ProofShown;
  /** Clean distance so far. */
  now: number;
  /** What a saved file is called. */
  name: string;
}

/** Confidence against clean distance, with where the car stands now and what counts as enough. */
export function ProofCurve({ proof, now, name }: Props) {
  const plot = useRef<HTMLDivElement>(null);
  const { palette } = useTheme();
  const { result } = proof;
  if (!result) return null;
  const label = { fill: palette.text.primary, fontSize: 14 };
  return (
    <>
      <Box
        ref={plot}
        sx={{ height: 380 }}
        role="img"
        aria-label={`Confidence against clean distance: ${(result.confidence * 100).toFixed(1)} percent after ${whole(now)} km`}
      >
        <LineChart
          skipAnimation
          margin={{ right: 40, top: 30 }}
          xAxis={[
            {
              data: result.curve.map((point) => point.after),
              scaleType: "linear",
              label: "km driven without it since the repair",
              min: 0,
              height: 56,
              max: result.curve.at(-1)?.after,
              valueFormatter: (value: number) => whole(value),
            },
          ]}
          yAxis={[
            {
              label: "sure that it is gone, %",
              max: 100,
              min: Math.min(90, Math.floor((result.curve[0]?.confidence ?? 0) * 10) * 10),
              width: 60,
            },
          ]}
          series={[
            {
              data: result.curve.map((point) => point.confidence * 100),
              showMark: false,
              color: palette.text.primary,
              curve: "linear",
              valueFormatter: (value) => (value == null ? "" : `${value.toFixed(1)} %`),
            },
          ]}
          hideLegend
        >
          <ChartsReferenceLine
            y={proof.enough_at * 100}
            label={`${proof.enough_at * 100} % counts as enough`}
            labelAlign="start"
            labelStyle={label}
            lineStyle={{ stroke: palette.text.secondary, strokeDasharray: "6 4" }}
          />
          <ChartsReferenceLine
            x={now}
            label={`now: ${km(now)}`}
            labelAlign="end"
            labelStyle={label}
            lineStyle={{ stroke: palette.text.primary, strokeWidth: 2 }}
          />
        </LineChart>
      </Box>
      <SavePlot
        plot={plot}
        name={name}
        rows={[["km_since_repair", "confidence"], ...result.curve.map((point) => [point.after, point.confidence])]}
      />
    </>
  );
}
