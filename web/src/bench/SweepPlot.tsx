import { useTheme } from "@mui/material/styles";
import { useRef } from "react";
import type { BenchMark, SweepPoint } from "../api/bench";
import { Plot, path } from "../evidence/Plot";
import { SavePlot } from "../fields/SavePlot";
import { figure } from "./Bands";

/** The value over the travel, with each flaw where it is. */
export function SweepPlot({ points, marks }: { points: SweepPoint[]; marks: BenchMark[] }) {
  const { palette } = useTheme();
  const plot = useRef<HTMLDivElement>(null);
  const placed = points.every((one) => one.position != null);
  const at = (one: SweepPoint, index: number) => (placed ? (one.position as number) : index + 1);
  const xs = points.map(at);
  const ys = points.flatMap((one) => (one.second == null ? [one.value] : [one.value, one.second]));
  const near = (x: number) =>
    points.reduce(
      (best, _, index) => (Math.abs((xs[index] ?? 0) - x) < Math.abs((xs[best] ?? 0) - x) ? index : best),
      0,
    );
  const said = marks.slice(0, 12);
  return (
    <>
      <Plot
        ref={plot}
        label={`Value over the travel, ${points.length} points. ${said.map((mark) => `Point ${mark.at + 1} ${mark.says}`).join(". ")}`}
        x={{ label: placed ? "position" : "point", from: Math.min(...xs), to: Math.max(...xs) }}
        y={{ label: "value", from: Math.min(...ys), to: Math.max(...ys) }}
        height={300}
        at={(x) => {
          const index = near(x);
          const one = points[index] as SweepPoint;
          return `${placed ? "position" : "point"} ${figure(xs[index] ?? 0)}: ${figure(one.value)}${one.second == null ? "" : `, second track ${figure(one.second)}`}`;
        }}
      >
        {({ x, y }) => (
          <>
            {points.some((one) => one.second != null) && (
              <path
                d={path(points.map((one, index) => [x(at(one, index)), y(one.second ?? one.value)]))}
                fill="none"
                stroke={palette.text.secondary}
                strokeWidth={2}
                strokeDasharray="6 4"
              />
            )}
            <path
              d={path(points.map((one, index) => [x(at(one, index)), y(one.value)]))}
              fill="none"
              stroke={palette.text.primary}
              strokeWidth={2}
            />
            {said.map((mark) => {
              const one = points[mark.at];
              if (!one) return null;
              const [cx, cy] = [x(at(one, mark.at)), y(one.value)];
              return (
                <g key={`${mark.at} ${mark.says}`}>
                  <circle cx={cx} cy={cy} r={8} fill="none" stroke={palette.text.primary} strokeWidth={2.5} />
                  <text
                    x={Math.min(cx + 12, 560)}
                    y={cy < 60 ? cy + 24 : cy + (mark.at % 2 ? 22 : -10)}
                    fill={palette.text.primary}
                    fontSize={14}
                  >
                    {mark.says}
                  </text>
                </g>
              );
            })}
          </>
        )}
      </Plot>
      <SavePlot
        plot={plot}
        name="sweep"
        rows={[
          ["position", "value", "second"],
          ...points.map((one, index) => [at(one, index), one.value, one.second ?? ""]),
        ]}
      />
    </>
  );
}
