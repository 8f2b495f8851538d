import { DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import Box from "@mui/material/Box";
import { useEffect, useState } from "react";
import type { CylinderState, Engine, TaggedPart } from "../api/types";
import { FIGURES } from "../app/theme";
import { Cylinder } from "./Cylinder";
import { type Exchange, placeAfter } from "./exchange";

interface Props {
  engine: Engine;
  /** What is known of each cylinder; without it, only the engine is drawn. */
  cylinders?: CylinderState[];
  planned?: Exchange[];
  /** A part was put on another cylinder. */
  onExchange?: (exchange: Exchange) => void;
}

const bare = (engine: Engine): CylinderState[] =>
  engine.places.map((place) => ({ cylinder: place.cylinder, bank: place.bank, row: place.row, parts: [] }));

/** The engine seen from above as it stands in the car, front up, every cylinder where it is. */
export function Block({ engine, cylinders = bare(engine), planned = [], onExchange }: Props) {
  const [held, setHeld] = useState<TaggedPart | null>(null);
  const [said, setSaid] = useState("");
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const banks = engine.arrangement === "inline" ? 1 : engine.banks.length;
  const highest = Math.max(0.1, ...cylinders.map((one) => one.rate?.high_pct ?? 0));

  const put = (part: TaggedPart, cylinder: number) => {
    setHeld(null);
    const from = placeAfter(part, planned);
    if (cylinder === from) return setSaid(`${part.tag} stays`);
    setSaid(`${part.tag} and the ${part.part} of cylinder ${cylinder} change places`);
    onExchange?.({ part: part.part, variant: part.variant ?? null, a: from, b: cylinder });
  };
  const dropped = (event: DragEndEvent) => {
    const part = event.active.data.current?.part as TaggedPart | undefined;
    if (part && event.over) put(part, Number(event.over.id));
  };

  useEffect(() => {
    if (!held) return;
    const press = (event: KeyboardEvent) => {
      const cylinder = Number(event.key);
      if (event.key === "Escape") setHeld(null);
      else if (cylinder >= 1 && cylinder <= engine.cylinders) put(held, cylinder);
      else return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  });

  return (
    <DndContext sensors={sensors} onDragEnd={dropped} onDragStart={() => setHeld(null)}>
      <Box component="section" aria-label="The block, seen from above, front up">
        <Box sx={{ display: "flex", color: "text.secondary", fontSize: "0.9rem", mb: 0.5 }}>
          {(banks > 1 ? engine.banks : [[]]).map((bank, index) => (
            <Box key={bank[0] ?? 0} sx={{ flex: 1 }}>
              {index === 0 && "▲ front of engine"}
              {banks > 1 && `${index === 0 ? " · " : ""}bank ${index + 1}`}
            </Box>
          ))}
        </Box>
        <Box
          sx={{
            display: "grid",
            gridTemplateColumns: `repeat(${banks}, minmax(0, 1fr))`,
            columnGap: engine.arrangement === "flat" ? 3 : 1,
            rowGap: 0.25,
          }}
        >
          {cylinders.map((state) => (
            <Box
              key={state.cylinder}
              sx={{
                gridColumn: banks === 1 ? 1 : state.bank,
                gridRow: banks === 1 ? positionInRow(engine, state.cylinder) : state.row,
                // One bank of a vee stands a little behind the other.
                mt: banks > 1 && engine.arrangement === "vee" && state.bank === 2 ? 1.25 : 0,
              }}
            >
              <Cylinder
                state={state}
                parts={cylinders
                  .flatMap((one) => one.parts)
                  .filter(unique)
                  .filter((part) => placeAfter(part, planned) === state.cylinder)}
                shared={state.parts.filter((part) => part.cylinder !== state.cylinder)}
                planned={planned}
                held={held}
                fires={firesWhen(engine, state.cylinder)}
                wide={banks === 1}
                highest={highest}
                onHold={(part) => {
                  setHeld(held?.tag === part.tag ? null : part);
                  setSaid(
                    held?.tag === part.tag
                      ? `${part.tag} left where it is`
                      : `${part.tag} taken up: press the number of a cylinder`,
                  );
                }}
                onPut={(cylinder) => held && put(held, cylinder)}
                movable={Boolean(onExchange)}
              />
            </Box>
          ))}
        </Box>
        <Box
          sx={{ mt: 0.5, color: "text.secondary", fontSize: "0.95rem", display: "flex", gap: 1, minHeight: "1.6em" }}
        >
          <span>fires</span>
          <Box component="span" sx={{ fontFamily: FIGURES, color: "text.primary", fontWeight: 600 }}>
            {engine.firing_order.join(" – ")}
          </Box>
          <Box role="status" sx={{ flex: 1, textAlign: "right", fontWeight: 600, color: "text.primary" }}>
            {said}
          </Box>
        </Box>
      </Box>
    </DndContext>
  );
}

const ORDINALS = ["1st", "2nd", "3rd"];

/** When a cylinder fires, so that a firing order typed wrong is seen on the drawing. */
function firesWhen(engine: Engine, cylinder: number): string {
  const position = engine.firing_order.indexOf(cylinder);
  const angle = engine.places.find((place) => place.cylinder === cylinder)?.fires_at_deg ?? 0;
  return `fires ${ORDINALS[position] ?? `${position + 1}th`}, at ${Math.round(angle)}°`;
}

const unique = (part: TaggedPart, index: number, all: TaggedPart[]) =>
  all.findIndex((one) => one.tag === part.tag) === index;

/** In one row, cylinders stand in the order of their banks from the front. */
const positionInRow = (engine: Engine, cylinder: number) => engine.banks.flat().indexOf(cylinder) + 1;
