import { useDroppable } from "@dnd-kit/core";
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import type { CylinderState, TaggedPart } from "../api/types";
import { heat, inkOnHeat } from "../app/heat";
import { FIGURES } from "../app/theme";
import { percent, sure } from "../app/words";
import { type Exchange, placeAfter } from "./exchange";
import { PartTag } from "./PartTag";
import { RateBar } from "./RateBar";

interface Props {
  state: CylinderState;
  parts: TaggedPart[];
  /** Parts that sit elsewhere and serve this cylinder too: the other half of a paired coil. */
  shared: TaggedPart[];
  planned: Exchange[];
  held: TaggedPart | null;
  /** In words, when it fires. */
  fires: string;
  wide: boolean;
  highest: number;
  movable: boolean;
  onHold: (part: TaggedPart) => void;
  onPut: (cylinder: number) => void;
}

/** One bore: its number, its glow, its rate with the doubt, and the parts that sit in it now. */
export function Cylinder({ state, parts, shared, planned, held, fires, wide, highest, movable, onHold, onPut }: Props) {
  const { palette } = useTheme();
  const { setNodeRef, isOver } = useDroppable({ id: state.cylinder });
  const likelihood = state.likelihood ?? 0;
  const known = state.likelihood != null;
  const bore = (
    <Box
      sx={{
        width: 52,
        height: 52,
        borderRadius: "50%",
        flexShrink: 0,
        display: "grid",
        placeItems: "center",
        fontFamily: FIGURES,
        fontWeight: 600,
        fontSize: "1.5rem",
        bgcolor: known ? heat(likelihood) : palette.iron.main,
        color: known ? inkOnHeat(likelihood) : palette.iron.ink,
        border: `4px solid ${palette.iron.line}`,
        outline: held || isOver ? `2px dashed ${palette.text.primary}` : "none",
        outlineOffset: 2,
      }}
    >
      {state.cylinder}
    </Box>
  );
  const label = known
    ? `Cylinder ${state.cylinder}: at fault ${sure(likelihood)}, rate ${percent(state.rate?.rate_pct ?? 0)}`
    : `Cylinder ${state.cylinder}`;
  return (
    <Box
      ref={setNodeRef}
      data-cylinder={state.cylinder}
      sx={{
        display: "grid",
        gridTemplateColumns: wide ? "60px 8.2rem 1fr" : "60px 1fr",
        alignItems: "center",
        columnGap: 1,
        rowGap: 0.5,
        py: 0.25,
        px: 0.5,
        bgcolor: isOver ? "background.paper" : "transparent",
      }}
    >
      {held ? (
        <ButtonBase
          onClick={() => onPut(state.cylinder)}
          aria-label={`Put ${held.tag} on cylinder ${state.cylinder}`}
          sx={{ borderRadius: "50%" }}
        >
          {bore}
        </ButtonBase>
      ) : (
        <Box role="img" aria-label={label}>
          {bore}
        </Box>
      )}
      <Box sx={{ minWidth: 0 }}>
        {state.rate ? (
          <>
            <Box sx={{ fontFamily: FIGURES, fontSize: "1.25rem", fontWeight: 600, lineHeight: 1.1 }}>
              {percent(state.rate.rate_pct)}
            </Box>
            <RateBar rate={state.rate} highest={highest} />
            <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", color: "text.secondary", whiteSpace: "nowrap" }}>
              {percent(state.rate.low_pct).replace(" %", "")} – {percent(state.rate.high_pct)}
            </Box>
          </>
        ) : (
          <Box sx={{ color: "text.secondary", fontSize: "0.9rem" }}>{movable ? "not counted" : fires}</Box>
        )}
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, gridColumn: wide ? "auto" : "1 / -1" }}>
        {parts.map((part) => (
          <PartTag
            key={part.tag}
            part={part}
            held={held?.tag === part.tag}
            planned={placeAfter(part, planned) !== part.cylinder}
            movable={movable}
            onHold={() => onHold(part)}
          />
        ))}
        {shared.map((part) => (
          <Box
            key={part.tag}
            component="span"
            sx={{ alignSelf: "center", fontSize: "0.85rem", color: "text.secondary" }}
          >
            {part.tag} feeds it too
          </Box>
        ))}
      </Box>
    </Box>
  );
}
