import { useTheme } from "@mui/material/styles";
import type { PlugFace as Face } from "../api/bench";

const NAMES: Record<Face, string> = {
  normal: "Normal",
  "as-new": "As new",
  wet: "Wet",
  sooty: "Sooty",
  "white-ash": "White ash",
  oily: "Oily",
  worn: "Worn",
  broken: "Broken",
  bridged: "Bridged",
};

export const faceName = (face: Face): string => NAMES[face];

/** How each face differs from the sound one: tone of the insulator's foot, deposits, the electrodes' shape. */
const LOOKS: Record<
  Face,
  {
    foot: string;
    ring: string;
    deposit?: "soot" | "ash" | "oil" | "drops";
    gap: number;
    side: "whole" | "worn" | "broken" | "bridged";
  }
> = {
  normal: { foot: "#c9a884", ring: "#7d746b", gap: 9, side: "whole" },
  "as-new": { foot: "#f6f3ec", ring: "#a9a39b", gap: 9, side: "whole" },
  wet: { foot: "#b59f86", ring: "#5d554e", deposit: "drops", gap: 9, side: "whole" },
  sooty: { foot: "#2b2725", ring: "#1f1b19", deposit: "soot", gap: 9, side: "whole" },
  "white-ash": { foot: "#efe9dd", ring: "#bdb4a6", deposit: "ash", gap: 9, side: "whole" },
  oily: { foot: "#4a3b28", ring: "#33281b", deposit: "oil", gap: 9, side: "whole" },
  worn: { foot: "#bfa283", ring: "#7d746b", gap: 17, side: "worn" },
  broken: { foot: "#c9a884", ring: "#7d746b", gap: 9, side: "broken" },
  bridged: { foot: "#8d7a66", ring: "#5d554e", gap: 9, side: "bridged" },
};

/** A plug's end from the side, drawn: shell and thread, the insulator's foot, the middle electrode and the hook above. */
export function PlugFace({ face, size = 84 }: { face: Face; size?: number }) {
  const { palette } = useTheme();
  const look = LOOKS[face];
  const line = palette.text.primary;
  const tip = 52;
  const hook = tip - look.gap;
  return (
    <svg
      viewBox="0 0 100 120"
      width={size}
      height={size * 1.2}
      role="img"
      aria-label={`Plug: ${NAMES[face].toLowerCase()}`}
    >
      <rect x="24" y="74" width="52" height="42" fill={look.ring} stroke={line} strokeWidth="1.5" />
      {[82, 90, 98, 106].map((y) => (
        <line key={y} x1="24" x2="76" y1={y} y2={y + 4} stroke={line} strokeWidth="1.2" />
      ))}
      <path d="M38 74 L43 58 H57 L62 74 Z" fill={look.foot} stroke={line} strokeWidth="1.5" />
      <path
        d={look.side === "worn" ? "M47 58 V54 Q50 50 53 55 V58 Z" : `M46.5 58 V${tip} H53.5 V58 Z`}
        fill={palette.text.secondary}
        stroke={line}
        strokeWidth="1"
      />
      {look.side === "broken" ? (
        <path d="M68 74 V52 L64 47 L68 44 L63 40" fill="none" stroke={line} strokeWidth="7" />
      ) : (
        <path
          d={`M70 74 V${hook - 2} Q70 ${hook - 8} 63 ${hook - 8} H${look.side === "worn" ? 49 : 44}`}
          fill="none"
          stroke={line}
          strokeWidth={look.side === "worn" ? 5 : 7}
        />
      )}
      {look.side === "broken" && <path d="M43 64 L48 61 L46 68 L52 66" fill="none" stroke={line} strokeWidth="1.5" />}
      {look.side === "bridged" && <path d={`M46 ${tip + 2} Q50 ${hook - 6} 55 ${tip + 1} Z`} fill={line} />}
      {look.deposit === "soot" &&
        [30, 37, 44, 51, 58, 65, 71].map((x, index) => (
          <circle
            key={x}
            cx={x}
            cy={70 + (index % 3) * 3}
            r="3.4"
            fill="#15110f"
            stroke={palette.text.secondary}
            strokeWidth="0.6"
          />
        ))}
      {look.deposit === "ash" &&
        [32, 40, 47, 54, 61, 68].map((x, index) => (
          <path
            key={x}
            d={`M${x} 74 l3 -${6 + (index % 3) * 3} l4 ${4 + (index % 2) * 3} Z`}
            fill="#fbf8f1"
            stroke={line}
            strokeWidth="0.8"
          />
        ))}
      {look.deposit === "oil" && (
        <path
          d="M28 74 Q34 66 41 70 Q50 62 58 70 Q66 65 72 74 V88 Q66 94 62 84 Q56 98 50 84 Q43 92 38 84 Q32 90 28 82 Z"
          fill="#1c140b"
          stroke={line}
          strokeWidth="1"
          opacity="0.92"
        />
      )}
      {look.deposit === "drops" &&
        [
          [34, 84],
          [44, 70],
          [56, 66],
          [63, 88],
          [50, 92],
        ].map(([x = 0, y = 0]) => (
          <path
            key={x}
            d={`M${x} ${y - 5} Q${x + 4} ${y + 1} ${x} ${y + 3} Q${x - 4} ${y + 1} ${x} ${y - 5} Z`}
            fill={palette.background.paper}
            stroke={line}
            strokeWidth="1.2"
          />
        ))}
    </svg>
  );
}
