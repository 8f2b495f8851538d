import type { Move, PlaceName, TaggedPart } from "../api/types";

/** Two like parts that change places: what a person does with one pull. On the trail it is two moves. */
export interface Exchange {
  part: string;
  variant: string | null;
  a: number;
  b: number;
}

export const asMoves = (exchanges: Exchange[]): Move[] =>
  exchanges.flatMap(({ part, variant, a, b }) => [
    { part, from: a, to: b, variant, to_variant: variant },
    { part, from: b, to: a, variant, to_variant: variant },
  ]);

const number = (place: PlaceName): number | null => (typeof place === "number" ? place : null);

/** The exchanges that a list of moves consists of; a ring of three or more keeps its moves one by one. */
export function asExchanges(moves: Move[]): Exchange[] {
  const found: Exchange[] = [];
  for (const move of moves) {
    const [from, to] = [number(move.from), number(move.to)];
    if (from === null || to === null) continue;
    const known = found.some(
      (one) => one.part === move.part && one.variant === (move.variant ?? null) && one.a === to && one.b === from,
    );
    if (!known) found.push({ part: move.part, variant: move.variant ?? null, a: from, b: to });
  }
  return found;
}

export const inWords = (one: Exchange): string =>
  `${one.variant ? `${one.variant} ` : ""}${one.part} ${one.a} ↔ ${one.b}`;

/** Adds an exchange; parts of it that were to move elsewhere stay where they are after all. */
export function withExchange(list: Exchange[], added: Exchange): Exchange[] {
  const touches = (one: Exchange) =>
    one.part === added.part &&
    one.variant === added.variant &&
    [one.a, one.b].some((cylinder) => cylinder === added.a || cylinder === added.b);
  const undone = list.some((one) => touches(one) && [one.a, one.b].every((c) => c === added.a || c === added.b));
  const rest = list.filter((one) => !touches(one));
  return undone ? rest : [...rest, added];
}

/** Where a part would sit once the planned exchanges are made. */
export function placeAfter(part: TaggedPart, exchanges: Exchange[]): number {
  const one = exchanges.find(
    (e) =>
      e.part === part.part && e.variant === (part.variant ?? null) && (e.a === part.cylinder || e.b === part.cylinder),
  );
  if (!one) return part.cylinder;
  return one.a === part.cylinder ? one.b : one.a;
}
