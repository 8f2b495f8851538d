import type { TorqueInput } from "../api/repair";

/** How something is tightened, as it is typed. */
export interface TorqueText {
  /** `8 N·m, 20 N·m, 90°`: stages by commas. */
  stages: string;
  thread: string;
  into: "steel" | "aluminium";
  count: string;
  pattern: "circle" | "cover" | "row";
  rows: string;
  single_use: boolean;
  wrench: string;
  low: string;
  high: string;
}

export const noTorque: TorqueText = {
  stages: "",
  thread: "",
  into: "steel",
  count: "1",
  pattern: "cover",
  rows: "2",
  single_use: false,
  wrench: "",
  low: "",
  high: "",
};

const nothing = { torque: null, torque_nm: null, angle_deg: null, slacken: false };

/** A stage as it is written: with a degree sign an angle, `slacken` a slackening, anything else a torque. */
function stage(text: string): NonNullable<TorqueInput["stages"]> {
  const trimmed = text.trim();
  if (trimmed === "") return [];
  if (/^slack/i.test(trimmed)) return [{ ...nothing, slacken: true }];
  const angle = trimmed.match(/^\+?\s*(\d+(?:[.,]\d+)?)\s*(?:°|deg|degrees)$/i);
  if (angle?.[1]) return [{ ...nothing, angle_deg: Number(angle[1].replace(",", ".")) }];
  return [{ ...nothing, torque: trimmed }];
}

const number = (text: string) => Number(text.replace(",", "."));

/** The input of the reckoning, with the wrench where its range is known; null while nothing is written. */
export function asTorque(text: TorqueText, range?: { low_nm: number; high_nm: number }): TorqueInput | null {
  if (text.stages.trim() === "" && text.thread === "") return null;
  const stages = text.stages.split(/[;,](?!\d)/).flatMap(stage);
  return {
    stages,
    source: stages.length === 0 ? "typical" : "maker",
    thread: stages.length === 0 ? text.thread : "",
    into: text.into,
    fasteners: number(text.count) || 0,
    pattern: text.pattern,
    rows: number(text.rows) || 0,
    single_use: text.single_use,
    loosening: false,
    ...(range ? { wrench: { name: text.wrench.trim() || "the wrench", ...range } } : {}),
  };
}

/** As somebody would have typed it. */
export function fromTorque(input: TorqueInput): TorqueText {
  const stages = (input.stages ?? []).map((one) =>
    one.slacken
      ? "slacken"
      : one.angle_deg != null
        ? `${one.angle_deg}°`
        : (one.torque ?? (one.torque_nm == null ? "" : `${one.torque_nm} N·m`)),
  );
  return {
    ...noTorque,
    stages: stages.join("; "),
    thread: input.thread ?? "",
    into: input.into ?? "steel",
    count: String(input.fasteners ?? 1),
    pattern: input.pattern ?? "circle",
    rows: String(input.rows ?? 2),
    single_use: input.single_use ?? false,
  };
}
