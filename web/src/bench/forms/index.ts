import type { BenchForm } from "../form";
import { airForm } from "./air";
import { cylindersForm } from "./cylinders";
import { moreForm } from "./more";
import { ohmForm } from "./ohm";
import { pathForm } from "./path";
import { pinsForm } from "./pins";
import { plugsForm } from "./plugs";
import { sweepForm } from "./sweep";
import { vacuumForm } from "./vacuum";
import { voltsForm } from "./volts";

// biome-ignore lint/suspicious/noExplicitAny: each form has fields of its own; the bench only carries them.
export const FORMS: BenchForm<any>[] = [
  ohmForm,
  voltsForm,
  pathForm,
  pinsForm,
  cylindersForm,
  plugsForm,
  sweepForm,
  vacuumForm,
  airForm,
  moreForm,
];
