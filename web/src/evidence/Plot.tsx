import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { scaleLinear, scaleLog } from "d3-scale";
import { type PointerEvent, type ReactNode, type Ref, useState } from "react";

const WIDTH = 820;
const MARGIN = { left: 64, right: 14, top: 12, bottom: 50 };

export interface Scales {
  x: (value: number) => number;
  y: (value: number) => number;
}

interface Props {
  ref?: Ref<HTMLDivElement>;
  label: string;
  x: { label: string; from: number; to: number; log?: boolean };
  y: { label: string; from: number; to: number };
  height?: number;
  /** What the cursor says at a place. */
  at?: (x: number) => string;
  children: (scales: Scales) => ReactNode;
}

/** Axes with units around whatever is drawn, and the figure under the cursor. */
export function Plot({ ref, label, x, y, height = 400, at, children }: Props) {
  const { palette, typography } = useTheme();
  const [cursor, setCursor] = useState<number | null>(null);
  const right = WIDTH - MARGIN.right;
  const bottom = height - MARGIN.bottom;
  const across = (x.log ? scaleLog() : scaleLinear()).domain([x.from, x.to]).range([MARGIN.left, right]);
  const up = scaleLinear().domain([y.from, y.to]).range([bottom, MARGIN.top]).nice();
  const text = { fill: palette.text.secondary, fontSize: 14, fontFamily: typography.fontFamily } as const;
  const follow = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const place = ((event.clientX - box.left) / box.width) * WIDTH;
    setCursor(place >= MARGIN.left && place <= right ? across.invert(place) : null);
  };
  const ticks = x.log ? across.ticks(8).filter((tick) => /^[125]/.test(tick.toPrecision(1))) : across.ticks(8);
  return (
    <Box ref={ref} sx={{ maxWidth: 1000 }}>
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        width="100%"
        role="img"
        aria-label={label}
        onPointerMove={follow}
        onPointerLeave={() => setCursor(null)}
      >
        {ticks.map((tick) => (
          <g key={tick}>
            <line x1={across(tick)} x2={across(tick)} y1={MARGIN.top} y2={bottom} stroke={palette.divider} />
            <text x={across(tick)} y={bottom + 18} textAnchor="middle" {...text}>
              {Number(tick.toPrecision(6))}
            </text>
          </g>
        ))}
        {up.ticks(6).map((tick) => (
          <g key={tick}>
            <line x1={MARGIN.left} x2={right} y1={up(tick)} y2={up(tick)} stroke={palette.divider} />
            <text x={MARGIN.left - 8} y={up(tick) + 5} textAnchor="end" {...text}>
              {tick}
            </text>
          </g>
        ))}
        <text x={(MARGIN.left + right) / 2} y={height - 8} textAnchor="middle" {...text} fill={palette.text.primary}>
          {x.label}
        </text>
        <text
          transform={`translate(16 ${(MARGIN.top + bottom) / 2}) rotate(-90)`}
          textAnchor="middle"
          {...text}
          fill={palette.text.primary}
        >
          {y.label}
        </text>
        {children({ x: (value) => across(value), y: (value) => up(value) })}
        {cursor !== null && (
          <line x1={across(cursor)} x2={across(cursor)} y1={MARGIN.top} y2={bottom} stroke={palette.text.primary} />
        )}
      </svg>
      <Box aria-live="off" sx={{ minHeight: "1.5em" }}>
        {cursor !== null && at ? at(cursor) : ""}
      </Box>
    </Box>
  );
}

/** Points as the `d` of a path. */
export const path = (points: [number, number][]): string =>
  points.map(([x, y], index) => `${index === 0 ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");
