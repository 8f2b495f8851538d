import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { Block } from "../api/report";
import { FIGURES } from "../app/theme";

/** One piece of a report's section. */
export function BlockShown({ block }: { block: Block }) {
  switch (block.block) {
    case "text":
      return <Box sx={{ fontWeight: block.strong ? 700 : 400, whiteSpace: "pre-wrap" }}>{block.text}</Box>;
    case "list":
      return (
        <Box component="ul" sx={{ m: 0, pl: 2.5 }}>
          {block.items.map((item) => (
            <li key={item}>{item}</li>
          ))}
        </Box>
      );
    case "table":
      return (
        <Box tabIndex={0} role="region" aria-label={block.head.join(", ")} sx={{ overflowX: "auto" }}>
          <Box component="table" sx={{ borderCollapse: "collapse", width: "100%", fontSize: "0.92rem" }}>
            <thead>
              <tr>
                {block.head.map((one) => (
                  <Box
                    component="th"
                    key={one}
                    sx={{ textAlign: "left", borderBottom: 2, borderColor: "text.primary", pr: 1.5, py: 0.25 }}
                  >
                    {one}
                  </Box>
                ))}
              </tr>
            </thead>
            <tbody>
              {block.rows.map((row, index) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own and keep their order.
                <tr key={index}>
                  {row.map((cell, at) => (
                    <Box
                      component="td"
                      // biome-ignore lint/suspicious/noArrayIndexKey: cells stand under their heads.
                      key={at}
                      sx={{ verticalAlign: "top", borderBottom: 1, borderColor: "divider", pr: 1.5, py: 0.4 }}
                    >
                      {cell}
                    </Box>
                  ))}
                </tr>
              ))}
            </tbody>
          </Box>
        </Box>
      );
    case "curve":
      return <Curve block={block} />;
    case "bars":
      return <Bars block={block} />;
    case "photos":
      return (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          {block.photos.map((photo) => (
            <img
              key={photo}
              src={`/api/photos/${photo}`}
              alt={`Number ${photo} of the job`}
              style={{ maxWidth: "48%" }}
            />
          ))}
        </Box>
      );
  }
}

/** Where the lines of a plot's axis lie: the figures are the server's, the lines are the drawing's. */
function ticks(low: number, high: number): number[] {
  const rough = Math.max(1e-9, (high - low) / 6);
  const decade = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((factor) => factor * decade).find((one) => one >= rough) ?? rough;
  const first = Math.ceil(low / step);
  return Array.from({ length: Math.floor(high / step) - first + 1 }, (_one, index) => (first + index) * step);
}

function Curve({ block }: { block: Extract<Block, { block: "curve" }> }) {
  const { palette } = useTheme();
  const xs = block.points.map((point) => point.across);
  const ys = block.points.map((point) => point.up);
  const [left, right, top, bottom] = [44, 690, 24, 200];
  const [first, last] = [Math.min(...xs), Math.max(...xs)];
  const low = Math.floor(Math.min(...ys, block.level ?? 100) / 10) * 10;
  const high = Math.ceil(Math.max(...ys, block.level ?? 0) / 10) * 10;
  const x = (value: number) => left + ((right - left) * (value - first)) / Math.max(1e-9, last - first);
  const y = (value: number) => bottom - ((bottom - top) * (value - low)) / Math.max(1e-9, high - low);
  return (
    <Box sx={{ my: 0.5 }}>
      <Box sx={{ fontWeight: 600 }}>{block.title}</Box>
      <svg
        viewBox="0 0 720 240"
        style={{ width: "100%" }}
        role="img"
        aria-label={`${block.title}, ${block.up} against ${block.across}`}
      >
        {ticks(low, high).map((at) => (
          <g key={at}>
            <line x1={left} x2={right} y1={y(at)} y2={y(at)} stroke={palette.divider} strokeWidth="0.6" />
            <text x={left - 6} y={y(at) + 4} textAnchor="end" fontSize="12" fill={palette.text.secondary}>
              {at.toFixed(0)}
            </text>
          </g>
        ))}
        {ticks(first, last).map((at) => (
          <text key={at} x={x(at)} y={bottom + 16} textAnchor="middle" fontSize="12" fill={palette.text.secondary}>
            {at.toFixed(0)}
          </text>
        ))}
        <text x={right} y={bottom + 34} textAnchor="end" fontSize="12" fill={palette.text.secondary}>
          {block.across}
        </text>
        <text x={4} y={14} fontSize="12" fill={palette.text.secondary}>
          {block.up}
        </text>
        {block.level != null && (
          <line
            x1={left}
            x2={right}
            y1={y(block.level)}
            y2={y(block.level)}
            stroke={palette.text.secondary}
            strokeDasharray="6 4"
          />
        )}
        <polyline
          points={block.points.map((point) => `${x(point.across)},${y(point.up)}`).join(" ")}
          fill="none"
          stroke={palette.text.primary}
          strokeWidth="2"
        />
        {block.marks.map(({ across: at, words }) => (
          <g key={words}>
            <line x1={x(at)} x2={x(at)} y1={top} y2={bottom} stroke={palette.text.primary} strokeWidth="1.5" />
            <text x={x(at) + 5} y={bottom - 8} fontSize="13" fontWeight="600" fill={palette.text.primary}>
              {words}
            </text>
          </g>
        ))}
      </svg>
    </Box>
  );
}

function Bars({ block }: { block: Extract<Block, { block: "bars" }> }) {
  const { palette } = useTheme();
  const most = Math.max(1e-9, ...block.bars.map((bar) => Math.max(bar.high, bar.value)));
  const part = (value: number) => (100 * value) / most;
  const short = (value: number) => (value === 0 || value >= 0.1 ? value.toFixed(2) : value.toFixed(4));
  return (
    <Box sx={{ my: 0.5 }}>
      <Box sx={{ fontWeight: 600 }}>{block.title}</Box>
      {block.bars.map((bar) => (
        <Box
          key={bar.name}
          sx={{ display: "grid", gridTemplateColumns: "6rem 1fr 15rem", gap: 1, alignItems: "center" }}
        >
          <span>{bar.name}</span>
          <svg viewBox="0 0 100 6" preserveAspectRatio="none" style={{ width: "100%", height: 14 }} aria-hidden="true">
            <rect x="0" y="1" width={part(bar.value)} height="4" fill={palette.text.secondary} />
            <line
              x1={part(bar.low)}
              x2={part(bar.high)}
              y1="3"
              y2="3"
              stroke={palette.text.primary}
              strokeWidth="0.8"
            />
          </svg>
          <Box sx={{ fontFamily: FIGURES, fontSize: "0.9rem" }}>
            {short(bar.value)} {block.unit} ({short(bar.low)} to {short(bar.high)})
          </Box>
        </Box>
      ))}
    </Box>
  );
}
