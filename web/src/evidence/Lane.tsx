import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { type Ref, useEffect, useImperativeHandle, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import type { Channel, Trace } from "../api/types";
import { FIGURES } from "../app/theme";

export interface LaneHandle {
  /** Puts the cursor to a time, or takes it away. */
  cursor: (seconds: number | null) => void;
}

interface Props {
  ref: Ref<LaneHandle>;
  channel: Pick<Channel, "label" | "unit">;
  time: number[];
  thinned: Trace["channels"][number];
  from: number;
  to: number;
  marks: { time_s: number; label: string }[];
  height: number;
  /** Whether the times stand under it: they do under the lowest lane. */
  times: boolean;
  onCursor: (seconds: number | null) => void;
  onZoom: (from: number, to: number) => void;
}

const written = (value: number | null | undefined): string => {
  if (value == null) return "–";
  const size = Math.abs(value);
  return value.toFixed(size >= 1000 ? 0 : size >= 10 ? 1 : 2);
};

/** One channel: a line from its lowest to its highest value in each column, and the figure under the cursor. */
export function Lane({ ref, channel, time, thinned, from, to, marks, height, times, onCursor, onZoom }: Props) {
  const { palette, typography } = useTheme();
  const frame = useRef<HTMLDivElement>(null);
  const figure = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const latest = useRef({ marks, onCursor, onZoom });
  latest.current = { marks, onCursor, onZoom };
  const data = useRef<uPlot.AlignedData>([[], [], []]);
  data.current = [time, thinned.high, thinned.low];
  const range = useRef<[number, number]>([from, to]);
  range.current = [from, to];

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const font = `13px ${typography.fontFamily}`;
    const axis = {
      stroke: palette.text.secondary,
      font,
      grid: { stroke: palette.divider, width: 1 },
      ticks: { show: false },
    };
    const made = new uPlot(
      {
        width: element.clientWidth,
        height: height + (times ? 18 : 0),
        legend: { show: false },
        cursor: { y: false, drag: { x: true, y: false, setScale: false }, points: { show: false } },
        scales: { x: { time: false, range: () => range.current } },
        axes: [
          {
            ...axis,
            size: times ? 24 : 6,
            values: (_, ticks) => ticks.map((tick) => (times ? `${Number(tick.toFixed(5))} s` : "")),
          },
          { ...axis, size: 58, space: 18 },
        ],
        series: [
          {},
          { stroke: palette.text.primary, width: 1.5, spanGaps: true },
          { stroke: palette.text.primary, width: 1.5, spanGaps: true },
        ],
        bands: [{ series: [1, 2], fill: palette.text.secondary }],
        hooks: {
          setCursor: [
            (self) => {
              if (self.cursor.event) {
                const { left } = self.cursor;
                latest.current.onCursor(left == null || left < 0 ? null : self.posToVal(left, "x"));
              }
            },
          ],
          setSelect: [
            (self) => {
              const { left, width } = self.select;
              if (width < 4) return;
              latest.current.onZoom(self.posToVal(left, "x"), self.posToVal(left + width, "x"));
              self.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
            },
          ],
          draw: [
            (self) => {
              const { ctx, bbox } = self;
              ctx.save();
              ctx.strokeStyle = palette.text.primary;
              ctx.fillStyle = palette.text.primary;
              ctx.font = `${13 * devicePixelRatio}px ${typography.fontFamily}`;
              ctx.textAlign = "left";
              ctx.setLineDash([6, 4]);
              for (const mark of latest.current.marks) {
                const x = self.valToPos(mark.time_s, "x", true);
                if (x < bbox.left || x > bbox.left + bbox.width) continue;
                ctx.beginPath();
                ctx.moveTo(x, bbox.top);
                ctx.lineTo(x, bbox.top + bbox.height);
                ctx.stroke();
                ctx.fillText(mark.label, x + 4, bbox.top + 13 * devicePixelRatio);
              }
              ctx.restore();
            },
          ],
        },
      },
      data.current,
      element,
    );
    plot.current = made;
    const watch = new ResizeObserver(() =>
      made.setSize({ width: element.clientWidth, height: height + (times ? 18 : 0) }),
    );
    watch.observe(element);
    return () => {
      watch.disconnect();
      made.destroy();
      plot.current = null;
    };
  }, [height, times, palette, typography.fontFamily]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the data are kept in a reference for the plot's own redraws.
  useEffect(() => {
    plot.current?.setData(data.current);
  }, [time, thinned, from, to]);

  useImperativeHandle(
    ref,
    () => ({
      cursor: (seconds) => {
        const self = plot.current;
        if (!self || !figure.current) return;
        if (seconds == null) {
          self.setCursor({ left: -10, top: -10 }, false);
          figure.current.textContent = `${written(thinned.least)} … ${written(thinned.most)}`;
          return;
        }
        self.setCursor({ left: self.valToPos(seconds, "x"), top: 0 }, false);
        const index = self.valToIdx(seconds);
        const low = thinned.low[index];
        const high = thinned.high[index];
        figure.current.textContent =
          low == null || low === high ? written(low ?? null) : `${written(low)} … ${written(high)}`;
      },
    }),
    [thinned],
  );

  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "11rem 1fr", alignItems: "center" }}>
      <Box>
        <Box sx={{ lineHeight: 1.15 }}>{channel.label}</Box>
        <Box sx={{ display: "flex", gap: 0.75, alignItems: "baseline" }}>
          <Box ref={figure} sx={{ fontFamily: FIGURES, fontWeight: 600, fontSize: "1.05rem", whiteSpace: "nowrap" }}>
            {written(thinned.least)} … {written(thinned.most)}
          </Box>
          <Box sx={{ color: "text.secondary" }}>{channel.unit}</Box>
        </Box>
      </Box>
      <Box
        ref={frame}
        role="img"
        aria-label={`${channel.label} over time, from ${written(thinned.least)} to ${written(thinned.most)} ${channel.unit}`}
        sx={{ minWidth: 0, overflow: "hidden", ".u-select": { background: palette.action.selected } }}
      />
    </Box>
  );
}
