import type { Suspect } from "../api/types";

/** A place as one says it; the engine and its unit need no saying. */
export const atPlace = (target: string): string => (target === "engine" || target === "engine unit" ? "" : target);

export const suspectName = (suspect: Pick<Suspect, "name" | "target">): string =>
  [suspect.name, atPlace(suspect.target)].filter(Boolean).join(", ");

export const outcomeName = (outcome: string): string => outcome.replaceAll("-", " ");

/** Decibans with their sign; the words stand beside them. */
export const decibans = (value: number): string => `${value > 0 ? "+" : "−"}${Math.abs(value).toFixed(1)}`;

export const SCHOOL: Record<string, string> = {
  "least-cost": "Least cost",
  "swap-first": "Swap first",
  "measure-first": "Measure first",
  "fit-usual": "Fit the usual part",
  "smoke-first": "Smoke first",
  "smoke-last": "Smoke last",
};

/** A condition of the book in words. */
export const conditionName = (condition: string): string =>
  condition.replace("has=", "").replace("=", ": ").replaceAll("|", " or ").replaceAll("-", " ");
