import type { ReactNode } from "react";
import type { BenchChoices, BenchResult, CylinderReading, Measurement } from "../api/bench";
import type { JobView } from "../api/types";
import type { Reader } from "../entry/form";

export interface BenchFieldsProps<F> {
  value: F;
  change: (part: Partial<F>) => void;
  job: JobView;
  choices: BenchChoices;
  /** What the reading says so far. */
  result: BenchResult | undefined;
  /** The server's reason for a field, by the end of its path. */
  refused: (...fields: string[]) => string | undefined;
}

/** One kind of measuring: how it is filled in, and the reading that it makes. */
export interface BenchForm<F extends object> {
  id: string;
  title: string;
  first: (job: JobView, choices: BenchChoices) => F;
  Fields: (props: BenchFieldsProps<F>) => ReactNode;
  /** Null while too little is filled in for a reading. */
  reading: (value: F, read: Reader, choices: BenchChoices, job: JobView) => Promise<Measurement | null>;
  /** The instrument, where it is not typed. */
  instrument: (value: F) => string;
  /** Whether there is anything to be put on the trail; left out: whenever there is a reading. */
  savable?: (value: F) => boolean;
  /** Whether this car has what is measured here; left out: every car does. */
  fits?: (job: JobView) => boolean;
  target?: (value: F) => string | null;
}

/** Texts by cylinder, as forms keep them. */
export type ByCylinder = Record<string, string>;

export const cylindersOf = (job: JobView): number[] => job.state.engine.places.map((place) => place.cylinder);

/** A cylinder of which nothing is read yet. */
export const unread = (cylinder: number): CylinderReading => ({
  cylinder,
  value: null,
  wet: null,
  ohm: null,
  open: false,
  seconds: null,
  heard_at: null,
  spark: null,
  face: null,
  gap_mm: null,
  tightness: null,
  photos: [],
});
