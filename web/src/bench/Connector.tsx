import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { Judged } from "../api/bench";
import { FIGURES } from "../app/theme";
import { MARK } from "./marks";

export interface Shape {
  pins: number;
  rows: number;
  /** Rows are counted each from the same end, or back and forth. */
  counting: "same-way" | "back-and-forth";
  /** Where pin 1 is, as it is looked at. */
  first: "left" | "right";
  /** Drawn as seen from the pins, or from where the wires go in: its mirror image. */
  side: "pins" | "wires";
}

export interface PinShown {
  pin: number;
  reading: string;
  says: string;
  verdict: Judged | undefined;
}

/** Where each pin lies in the picture: its row and its column. */
export function placesOf(shape: Shape): { pin: number; row: number; column: number }[] {
  const columns = Math.ceil(shape.pins / shape.rows);
  // From the other side everything is mirrored, the numbers stay with their pins.
  const leftward = (shape.first === "right") !== (shape.side === "wires");
  return Array.from({ length: shape.pins }, (_, index) => {
    const row = Math.floor(index / columns);
    const along = index % columns;
    const turned = shape.counting === "back-and-forth" && row % 2 === 1;
    const column = turned !== leftward ? columns - 1 - along : along;
    return { pin: index + 1, row, column };
  });
}

interface Props {
  shape: Shape;
  pins: PinShown[];
  chosen: number | null;
  onChosen: (pin: number) => void;
}

/** A connector as it is looked at, each pin a button with what was read and whether that is right. */
export function Connector({ shape, pins, chosen, onChosen }: Props) {
  const { palette } = useTheme();
  const columns = Math.ceil(shape.pins / shape.rows);
  return (
    <Box
      role="group"
      aria-label={`Connector with ${shape.pins} pins, seen from the ${shape.side === "pins" ? "pins" : "wires"}`}
      sx={{
        display: "grid",
        gridTemplateColumns: `repeat(${columns}, minmax(52px, 96px))`,
        gridTemplateRows: `repeat(${shape.rows}, 64px)`,
        gap: 0.75,
        p: 1.25,
        width: "fit-content",
        maxWidth: "100%",
        overflowX: "auto",
        bgcolor: palette.iron.main,
        color: palette.iron.ink,
        border: 2,
        borderColor: palette.iron.line,
        borderRadius: shape.side === "pins" ? "10px 10px 22px 22px" : "22px 22px 10px 10px",
      }}
    >
      {placesOf(shape).map(({ pin, row, column }) => {
        const shown = pins.find((one) => one.pin === pin);
        return (
          <Box
            component="button"
            type="button"
            key={pin}
            onClick={() => onChosen(pin)}
            aria-pressed={chosen === pin}
            aria-label={`Pin ${pin}${shown?.reading ? `, ${shown.reading}` : ""}${shown?.says ? `, ${shown.says}` : ""}`}
            sx={{
              gridRow: row + 1,
              gridColumn: column + 1,
              font: "inherit",
              color: "inherit",
              bgcolor: "transparent",
              border: chosen === pin ? 3 : 1,
              borderStyle: shown?.verdict === "bad" ? "dashed" : "solid",
              borderColor: chosen === pin || shown?.verdict === "bad" ? palette.iron.ink : palette.iron.line,
              borderRadius: 1,
              lineHeight: 1.1,
              p: 0.25,
              cursor: "pointer",
            }}
          >
            <Box sx={{ fontWeight: 700 }}>
              {shown?.verdict && <span aria-hidden="true">{MARK[shown.verdict]} </span>}
              {pin}
            </Box>
            <Box sx={{ fontFamily: FIGURES, fontSize: "0.95rem" }}>{shown?.reading || "–"}</Box>
          </Box>
        );
      })}
    </Box>
  );
}
