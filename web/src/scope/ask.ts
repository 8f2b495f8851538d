import type { StoredCapture, WaveformAsk, WaveformKind } from "../api/bench";
import type { Reader } from "../entry/form";

/** What is asked of a capture, as it is typed. */
export interface AskValue {
  of: WaveformKind;
  /** Which channels hold the signal, and whose it is. */
  signals: { channel: string; cylinder: string }[];
  sync: string;
  syncCylinder: string;
  second: string;
  supply: string;
  /** Angles, with spaces between. */
  reference: string;
}

export const KINDS: readonly (readonly [WaveformKind, string])[] = [
  ["coil-current", "current of a coil"],
  ["ignition-voltage", "ignition voltage"],
  ["injector-current", "current of an injector"],
  ["injector-voltage", "voltage of an injector"],
  ["motor-drive", "drive of a motor"],
  ["cranking-current", "current of the starter"],
  ["crank-and-cam", "crank and cam"],
];

/** What stands in a channel's name for each kind; the first that is there is the guess. */
const SPELT: readonly (readonly [RegExp, WaveformKind])[] = [
  [/starter|crank.*current/i, "cranking-current"],
  [/crank/i, "crank-and-cam"],
  [/injector.*(volt|\(v\))/i, "injector-voltage"],
  [/injector/i, "injector-current"],
  [/secondary|kv|ignition|primary.*volt/i, "ignition-voltage"],
  [/coil|primary/i, "coil-current"],
  [/motor|drive|throttle/i, "motor-drive"],
];

/** A first guess by the channels' names, to be corrected by whoever clamped the scope on. */
export function firstAsk(capture: StoredCapture): AskValue {
  const names = capture.about.channels.map((one) => one.name);
  const guess = SPELT.find(([spelt]) => spelt.test(names[0] ?? ""))?.[1] ?? "coil-current";
  const find = (spelt: RegExp) => names.find((name) => spelt.test(name)) ?? "";
  const sync = find(/sync|trigger/i);
  const beside = guess === "crank-and-cam" ? find(/cam/i) : guess === "motor-drive" ? find(/position/i) : "";
  const own = names.filter((name) => name !== sync && name !== beside && sameSort(name, names[0] ?? ""));
  return {
    of: guess,
    signals: (own.length ? own : names.slice(0, 1)).map((channel) => ({
      channel,
      cylinder: own.length > 1 ? (/\d+/.exec(channel)?.[0] ?? "") : "",
    })),
    sync,
    syncCylinder: "",
    second: beside,
    supply: "",
    reference: "",
  };
}

/** `coil 1` and `coil 2` are signals of one sort; `injector current` and `injector voltage` are not. */
const sameSort = (a: string, b: string) => a.replace(/\d+/, "") === b.replace(/\d+/, "");

/** What is asked, as the server takes it. */
export async function asAsk(value: AskValue, read: Reader): Promise<WaveformAsk | null> {
  const signals = value.signals.filter((one) => one.channel !== "");
  if (signals.length === 0) return null;
  const angles = value.reference.split(/[\s;]+/).filter(Boolean);
  const turning = value.of === "crank-and-cam";
  return {
    of: value.of,
    signals: signals.map((one) => ({ channel: one.channel, cylinder: one.cylinder ? Number(one.cylinder) : null })),
    sync: turning ? null : value.sync || null,
    sync_cylinder: value.syncCylinder ? Number(value.syncCylinder) : null,
    second: turning || value.of === "motor-drive" ? value.second || null : null,
    supply_v: value.of === "coil-current" ? await read.optional(value.supply, "voltage", "supply_v") : null,
    reference_deg: turning ? await Promise.all(angles.map((one) => read.number(one, "number", "reference_deg"))) : [],
  };
}
