import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import type { TorqueResult } from "../api/repair";
import { FIGURES } from "../app/theme";

interface Props {
  result: TorqueResult;
  /** How many steps are done. */
  done: number;
  onDone: (done: number) => void;
}

/** The fasteners where they lie, walked through one by one: which is next, to which stage, in which order. */
export function TightenWalk({ result, done, onDone }: Props) {
  const { palette } = useTheme();
  const step = result.steps[done];
  const stage = step && step.stage > 0 ? result.stages[step.stage - 1] : undefined;
  const inThisStage = result.steps.slice(0, done).filter((one) => one.stage === step?.stage);
  const tight = new Set(inThisStage.map((one) => one.fastener));
  const place = (fastener: number) => result.order.indexOf(fastener) + 1;
  return (
    <Box component="section" aria-label="Tightening, step by step">
      <Typography sx={{ fontWeight: 600, fontSize: "1.15rem" }} aria-live="polite">
        {step
          ? `${step.stage === 0 ? "By hand" : `Stage ${step.stage}: ${stage?.says}`} – fastener ${step.fastener}`
          : "All fasteners are through all stages."}
      </Typography>
      {stage?.torque_nm != null && (
        <Typography variant="body2" color="text.secondary" sx={{ fontFamily: FIGURES }}>
          {stage.torque_nm.toFixed(1)} N·m = {stage.torque_lb_ft?.toFixed(1)} lb·ft = {stage.torque_lb_in?.toFixed(0)}{" "}
          lb·in
        </Typography>
      )}
      <svg viewBox="-4 -4 108 84" style={{ width: "100%", maxHeight: 300 }} role="img" aria-label={result.says}>
        {result.order.slice(1).map((fastener, index) => {
          const [a, b] = [
            result.spots.find((s) => s.fastener === result.order[index]),
            result.spots.find((s) => s.fastener === fastener),
          ];
          if (!a || !b) return null;
          return (
            <line
              key={fastener}
              x1={a.x * 100}
              y1={a.y * 70}
              x2={b.x * 100}
              y2={b.y * 70}
              stroke={palette.divider}
              strokeWidth="0.5"
              strokeDasharray="1.5 1.5"
            />
          );
        })}
        {result.spots.map((spot) => {
          const next = spot.fastener === step?.fastener;
          const isTight = tight.has(spot.fastener) || !step;
          return (
            <g key={spot.fastener} transform={`translate(${spot.x * 100} ${spot.y * 70})`}>
              {/* The head of a bolt: six-sided; filled once it is through this stage, ringed when it is next. */}
              <polygon
                points="5,0 2.5,4.33 -2.5,4.33 -5,0 -2.5,-4.33 2.5,-4.33"
                fill={isTight ? palette.text.primary : palette.background.paper}
                stroke={palette.text.primary}
                strokeWidth={next ? 1.4 : 0.5}
              />
              {next && <circle r="7" fill="none" stroke={palette.text.primary} strokeWidth="0.9" />}
              <text
                textAnchor="middle"
                dominantBaseline="central"
                fontSize="4.6"
                fontWeight={next ? 700 : 400}
                fill={isTight ? palette.background.default : palette.text.primary}
              >
                {spot.fastener}
              </text>
              <text textAnchor="middle" y="10.5" fontSize="3.4" fill={palette.text.secondary}>
                {place(spot.fastener)}.
              </text>
            </g>
          );
        })}
      </svg>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button
          variant="contained"
          size="large"
          disabled={!step}
          onClick={() => onDone(done + 1)}
          sx={{ flex: 1, minHeight: 52 }}
        >
          {step ? `Fastener ${step.fastener} is done` : "Done"}
        </Button>
        <Button color="inherit" variant="outlined" disabled={done === 0} onClick={() => onDone(done - 1)}>
          One back
        </Button>
        {step && (
          <Button
            color="inherit"
            variant="outlined"
            onClick={() => onDone(result.steps.findLastIndex((one) => one.stage === step.stage) + 1)}
          >
            All of this stage
          </Button>
        )}
      </Box>
      <Typography variant="body2" color="text.secondary" sx={{ mt: 0.5 }}>
        {done} of {result.steps.length} steps
      </Typography>
    </Box>
  );
}
