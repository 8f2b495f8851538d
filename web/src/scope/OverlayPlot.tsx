import { useTheme } from "@mui/material/styles";
import { useRef } from "react";
import type { WaveformResult } from "../api/bench";
import { figure } from "../bench/Bands";
import { Plot, path } from "../evidence/Plot";
import { SavePlot } from "../fields/SavePlot";

/** Told apart by their strokes; the odd one out is the thick one. */
const STROKES = ["", "10 4", "3 3", "12 4 3 4", "1 4", "18 4", "6 2 2 2", "2 6"];

/** Keys in a row, and where each stands in the drawing. */
const KEYS = 4;
const keyAt = (index: number) => ({ left: 84 + (index % KEYS) * 184, top: 30 + Math.floor(index / KEYS) * 19 });

/** One typical event of each cylinder, laid over each other. */
export function OverlayPlot({ result, unit, name }: { result: WaveformResult; unit: string; name: string }) {
  const { palette } = useTheme();
  const plot = useRef<HTMLDivElement>(null);
  const { overlays, overlay_s } = result;
  if (overlays.length === 0 || overlay_s.length < 2) return null;
  const ms = overlay_s.map((second) => second * 1e3);
  const all = overlays.flatMap((one) => one.values);
  // Room for the key above the lines.
  const rows = overlays.length > 1 ? Math.ceil(overlays.length / KEYS) : 0;
  const room = 0.09 * rows * (Math.max(...all) - Math.min(0, ...all));
  const odd = new Set(result.odd.map((one) => one.cylinder));
  const said = (cylinder: number | null | undefined, channel: string) =>
    cylinder == null ? channel : `cylinder ${cylinder}${odd.has(cylinder) ? ", the odd one" : ""}`;
  return (
    <>
      <Plot
        ref={plot}
        label={`One event of each laid over the others: ${overlays.map((one) => said(one.cylinder, one.channel)).join("; ")}`}
        x={{ label: "from its beginning, ms", from: ms[0] ?? 0, to: ms[ms.length - 1] ?? 1 }}
        y={{ label: unit || "value", from: Math.min(0, ...all), to: Math.max(...all) + room }}
        height={300}
        at={(x) => {
          const index = ms.reduce(
            (best, at, place) => (Math.abs(at - x) < Math.abs((ms[best] ?? 0) - x) ? place : best),
            0,
          );
          const values = overlays.map((one) => `${one.cylinder ?? one.channel}: ${figure(one.values[index] ?? 0)}`);
          return `${figure(ms[index] ?? 0)} ms: ${values.join("  ")} ${unit}`;
        }}
      >
        {({ x, y }) => (
          <>
            {overlays.map((one, index) => (
              <path
                key={`${one.cylinder} ${one.channel}`}
                d={path(one.values.map((value, at) => [x(ms[at] ?? 0), y(value)]))}
                fill="none"
                stroke={one.cylinder != null && odd.has(one.cylinder) ? palette.text.primary : palette.text.secondary}
                strokeWidth={one.cylinder != null && odd.has(one.cylinder) ? 4 : 2}
                strokeDasharray={STROKES[index % STROKES.length]}
              />
            ))}
            {overlays.length > 1 &&
              overlays.map((one, index) => (
                <g key={`key ${one.cylinder} ${one.channel}`}>
                  <line
                    x1={keyAt(index).left}
                    x2={keyAt(index).left + 40}
                    y1={keyAt(index).top - 5}
                    y2={keyAt(index).top - 5}
                    stroke={
                      one.cylinder != null && odd.has(one.cylinder) ? palette.text.primary : palette.text.secondary
                    }
                    strokeWidth={one.cylinder != null && odd.has(one.cylinder) ? 4 : 2}
                    strokeDasharray={STROKES[index % STROKES.length]}
                  />
                  <text x={keyAt(index).left + 48} y={keyAt(index).top} fontSize={14} fill={palette.text.primary}>
                    {said(one.cylinder, one.channel)}
                  </text>
                </g>
              ))}
          </>
        )}
      </Plot>
      <SavePlot
        plot={plot}
        name={`${name}-overlaid`}
        rows={[
          ["ms", ...overlays.map((one) => said(one.cylinder, one.channel))],
          ...ms.map((at, index) => [at, ...overlays.map((one) => one.values[index] ?? "")]),
        ]}
      />
    </>
  );
}
