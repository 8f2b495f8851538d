import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { BenchFigure } from "../api/bench";
import { FIGURES } from "../app/theme";
import { MARK, WORD } from "./marks";

/** A figure with four digits at most that carry something, thousands apart. */
export function figure(value: number): string {
  const size = Math.abs(value);
  const places = size >= 1000 ? 0 : size >= 100 ? 1 : size >= 10 ? 2 : 3;
  const text = value.toFixed(places);
  const plain = text.includes(".") ? text.replace(/\.?0+$/, "") : text;
  return plain.replace(/\B(?=(\d{3})+(?!\d)(?=\.|$))/g, "\u202f");
}

interface Scale {
  from: number;
  to: number;
}

/** One scale for figures that share a unit, so that they can be compared by eye. */
function scaleOf(list: BenchFigure[]): Scale {
  const ends = list
    .flatMap((one) => [one.value, one.low, one.high, one.should_low, one.should_high])
    .filter((end): end is number => end != null && Number.isFinite(end));
  const low = Math.min(...ends);
  const high = Math.max(...ends);
  const room = (high - low || Math.abs(high) || 1) * 0.12;
  return { from: low - room, to: high + room };
}

/** Readings with their doubt over what they should be. */
export function Bands({ figures }: { figures: BenchFigure[] }) {
  const units = [...new Set(figures.map((one) => one.unit))];
  // Where one of them has a range, all of its unit are drawn, so that they can be compared by eye.
  const drawn = new Set(figures.filter((one) => ranged(one)).map((one) => one.unit));
  const scales = new Map(units.map((unit) => [unit, scaleOf(figures.filter((one) => one.unit === unit))]));
  return (
    <Box component="ul" aria-label="Figures" sx={{ listStyle: "none", m: 0, p: 0 }}>
      {figures.map((one) => (
        <Band key={one.label} one={one} scale={scales.get(one.unit) as Scale} drawn={drawn.has(one.unit)} />
      ))}
    </Box>
  );
}

const ranged = (one: BenchFigure) =>
  [one.low, one.should_low, one.should_high].some((end) => end != null) && one.value != null;

function Band({ one, scale, drawn }: { one: BenchFigure; scale: Scale; drawn: boolean }) {
  const { palette } = useTheme();
  const at = (value: number) => `${(100 * (value - scale.from)) / (scale.to - scale.from)}%`;
  const from = one.should_low ?? scale.from;
  const to = one.should_high ?? scale.to;
  const wanted = one.should_low != null || one.should_high != null;
  const doubt =
    one.low != null && one.high != null && one.value != null && one.high > one.low
      ? ` (${figure(one.low)} to ${figure(one.high)})`
      : "";
  const should =
    one.should_low != null && one.should_high != null
      ? `should be ${figure(one.should_low)} to ${figure(one.should_high)}`
      : one.should_low != null
        ? `at least ${figure(one.should_low)}`
        : one.should_high != null
          ? `at most ${figure(one.should_high)}`
          : "";
  return (
    <Box component="li" sx={{ py: 0.5 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 1.5, alignItems: "baseline" }}>
        <Box component="span" sx={{ minWidth: "6.5rem", fontWeight: 600 }}>
          {one.label}
        </Box>
        <Box component="span" sx={{ fontFamily: FIGURES, fontSize: "1.15rem", fontWeight: 600 }}>
          {one.value == null ? "–" : `${figure(one.value)} ${one.unit}`}
        </Box>
        <Box component="span" sx={{ fontFamily: FIGURES, color: "text.secondary" }}>
          {doubt}
        </Box>
        <Box component="span" sx={{ color: "text.secondary" }}>
          {should}
        </Box>
        {one.verdict !== "cannot-tell" && (
          <span>
            <span aria-hidden="true">{MARK[one.verdict]} </span>
            {WORD[one.verdict]}
          </span>
        )}
        {one.says && (
          <Box component="span" sx={{ color: "text.secondary" }}>
            {one.says}
          </Box>
        )}
      </Box>
      {one.value != null && drawn && (
        <Box aria-hidden="true" sx={{ position: "relative", height: 16, my: 0.25, bgcolor: "background.default" }}>
          {wanted && (
            <Box
              sx={{
                position: "absolute",
                left: at(from),
                width: `calc(${at(to)} - ${at(from)})`,
                top: 0,
                bottom: 0,
                border: 1,
                borderColor: "text.secondary",
                background: `repeating-linear-gradient(135deg, transparent 0 5px, ${palette.divider} 5px 7px)`,
              }}
            />
          )}
          {one.low != null && one.high != null && (
            <Box
              sx={{
                position: "absolute",
                left: at(one.low),
                width: `calc(${at(one.high)} - ${at(one.low)})`,
                minWidth: 3,
                top: 4,
                bottom: 4,
                bgcolor: "text.primary",
                opacity: 0.75,
              }}
            />
          )}
          <Box
            sx={{
              position: "absolute",
              left: at(one.value),
              ml: "-1.5px",
              width: 3,
              top: 0,
              bottom: 0,
              bgcolor: "text.primary",
            }}
          />
        </Box>
      )}
    </Box>
  );
}
