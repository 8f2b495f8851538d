import { useTheme } from "@mui/material/styles";
import type { CylinderRate } from "../api/types";

/**
 * A rate with its interval on a scale that all cylinders of the block share. The scale is a square root, so that a
 * small rate beside a large one can still be seen.
 */
export function RateBar({ rate, highest }: { rate: CylinderRate; highest: number }) {
  const { palette } = useTheme();
  const at = (pct: number) => 2 + 112 * Math.sqrt(Math.max(0, pct) / highest);
  return (
    <svg
      width="116"
      height="12"
      viewBox="0 0 116 12"
      role="img"
      aria-label={`95 in 100: ${rate.low_pct.toFixed(4)} to ${rate.high_pct.toFixed(4)} percent`}
    >
      <line x1="2" y1="6" x2="114" y2="6" stroke={palette.divider} />
      <line
        x1={at(rate.low_pct)}
        y1="6"
        x2={Math.max(at(rate.high_pct), at(rate.low_pct) + 1.5)}
        y2="6"
        stroke={palette.text.primary}
        strokeWidth="4"
      />
      <line
        x1={at(rate.rate_pct)}
        y1="0.5"
        x2={at(rate.rate_pct)}
        y2="11.5"
        stroke={palette.text.primary}
        strokeWidth="2"
      />
    </svg>
  );
}
