import type { OffItem } from "../api/repair";

/** Words that give a kind away, so that a line typed in a hurry needs no further touch. */
const KINDS: [OffItem["kind"], RegExp][] = [
  ["connector", /\b(connector|plug connection|multiplug|terminal)/i],
  ["hose", /\b(hose|pipe|line|duct|tube)/i],
  ["clip", /\b(clip|clamp|tie)/i],
  ["seal", /\b(seal|gasket|o-ring|washer)/i],
  ["fastener", /\b(bolts?|screws?|nuts?|studs?)\b/i],
  ["fluid", /\b(oil|coolant|fuel|fluid)\b/i],
  ["cover", /\b(cover|lid|panel|shield)/i],
];

/** A line as it is typed: `4 manifold bolts`, `coolant drained`. */
export function fromLine(line: string): OffItem {
  const counted = line.trim().match(/^(\d+)\s*[x×]?\s+(.+)$/);
  const words = (counted?.[2] ?? line).trim();
  const how: [OffItem["how"], RegExp][] = [
    ["drained", /\bdrained\b/i],
    ["lost", /\b(lost|spilt|spilled)\b/i],
    ["loosened", /\bloosened\b/i],
    ["pried", /\bpried\b/i],
    ["dropped", /\bdropped\b/i],
    ["broken", /\b(broken|snapped)\b/i],
    ["disabled", /\b(disabled|switched off)\b/i],
  ];
  const found = how.find(([, word]) => word.test(words));
  const what = (found ? words.replace(found[1], "") : words).replace(/\s+/g, " ").trim();
  const kind = KINDS.find(([, word]) => word.test(what))?.[0] ?? "part";
  return {
    what,
    kind,
    how: found?.[0] ?? "removed",
    count: counted?.[1] ? Number(counted[1]) : null,
    renew: kind === "seal",
    lies: "",
    setting: "",
    tighten: null,
    photo: null,
  };
}

export const KIND_WORDS: [NonNullable<OffItem["kind"]>, string][] = [
  ["part", "part"],
  ["cover", "cover"],
  ["fastener", "fastener"],
  ["hose", "hose"],
  ["clip", "clip"],
  ["connector", "connector"],
  ["seal", "seal"],
  ["fluid", "fluid"],
];

export const HOW_WORDS: [NonNullable<OffItem["how"]>, string][] = [
  ["removed", "off"],
  ["loosened", "only loosened"],
  ["pried", "pried aside"],
  ["drained", "drained"],
  ["lost", "some ran out"],
  ["dropped", "dropped"],
  ["broken", "broken"],
  ["disabled", "switched off"],
];
