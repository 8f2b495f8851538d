import { useTheme } from "@mui/material/styles";
import { heat } from "./heat";

/** An ember: how bright it glows is how likely something is. The number always stands beside it. */
export function Glow({ likelihood, size = 28 }: { likelihood: number; size?: number }) {
  const { palette } = useTheme();
  const core = 3 + 4.5 * likelihood;
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden="true" style={{ flexShrink: 0 }}>
      <path
        d="M16 1.5 L25 4.5 L30.5 12 L29.5 22 L22 29.5 L12 30.5 L4 25 L1.5 15 L5 6.5 Z"
        fill={palette.iron.main}
        stroke={palette.iron.line}
      />
      <path d="M16 4 L23.5 6.5 L28 12.6 L27 21 L21 27 L12.6 28 L6 23.5 L4 15 L7 8 Z" fill={heat(likelihood * 0.42)} />
      <path
        d="M16 7.5 L21.5 9 L24.8 14 L23.8 19.6 L19.5 24 L13.4 24.2 L8.8 20.6 L7.6 14.4 L10.4 9.6 Z"
        fill={heat(likelihood * 0.72)}
      />
      <circle cx="16" cy="16" r={core} fill={heat(likelihood)} />
    </svg>
  );
}
