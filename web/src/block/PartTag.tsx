import { useDraggable } from "@dnd-kit/core";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import type { TaggedPart } from "../api/types";
import { FIGURES } from "../app/theme";

interface Props {
  part: TaggedPart;
  held: boolean;
  /** It sits here only in the plan. */
  planned: boolean;
  movable: boolean;
  onHold: () => void;
}

/** The tag on a part. It stays with the part wherever it goes; away from home it is underlined and says so. */
export function PartTag({ part, held, planned, movable, onHold }: Props) {
  const { palette } = useTheme();
  const { setNodeRef, listeners, transform, isDragging } = useDraggable({
    id: part.tag,
    data: { part },
    disabled: !movable,
  });
  const away = part.cylinder !== part.home;
  const kind = `${part.variant ? `${part.variant} ` : ""}${part.part}`;
  const where = planned ? "planned here" : away ? `came from cylinder ${part.home}` : part.new ? "new" : "at home";
  return (
    <ButtonBase
      ref={setNodeRef}
      {...listeners}
      onClick={movable ? onHold : undefined}
      disabled={!movable}
      aria-label={`${kind} ${part.tag}, ${where}`}
      aria-pressed={movable ? held : undefined}
      title={`${kind}: ${where}`}
      sx={{
        minWidth: 48,
        height: 44,
        px: 0.75,
        display: "flex",
        flexDirection: "column",
        lineHeight: 1,
        touchAction: "none",
        border: `1.5px ${planned ? "dashed" : "solid"} ${held || away || planned ? palette.text.primary : palette.divider}`,
        // A tag has one cut corner, like a tag on a wire.
        clipPath: "polygon(9px 0, 100% 0, 100% 100%, 0 100%, 0 9px)",
        bgcolor: held ? "primary.main" : "background.paper",
        color: held ? "primary.contrastText" : "text.primary",
        cursor: movable ? "grab" : "default",
        transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined,
        zIndex: isDragging ? 5 : undefined,
        "&.Mui-focusVisible": { outline: `3px solid ${palette.text.primary}`, clipPath: "none" },
      }}
    >
      <span
        style={{ fontFamily: FIGURES, fontWeight: 600, fontSize: "1rem", textDecoration: away ? "underline" : "none" }}
      >
        {part.tag}
      </span>
      <span style={{ fontSize: "0.78rem", marginTop: 2 }}>{part.new ? `new ${part.part}` : part.part}</span>
    </ButtonBase>
  );
}
