import type { Entry, Finding, FindingKind, Refusal } from "../api/types";
import { km, whole } from "../app/words";
import { asExchanges, inWords } from "../block/exchange";

/** What a kind of entry is called. */
export const KIND: Record<FindingKind, string> = {
  complaint: "Complaint",
  scan: "Codes read",
  cleared: "Codes cleared",
  counts: "Misfires counted",
  recording: "Recorded",
  moved: "Parts moved",
  fitted: "New part fitted",
  drive: "Driven clean",
  occurred: "It came",
  tested: "Tested",
  measured: "Measured",
  righted: "Put right",
  limits: "Limits of the work",
  need: "Need checked",
  note: "Note",
  closed: "Job closed",
  reopened: "Job opened again",
  withdrawn: "Withdrawn",
};

/** An entry's content in a line or two. */
export function describe(finding: Finding, names: Record<string, string> = {}): string {
  switch (finding.kind) {
    case "complaint":
      return sentences([
        [...finding.symptoms, ...(finding.circumstances ?? []), ...(finding.history ?? [])].join(", "),
        finding.text,
        finding.occurrences_km?.length ? `Noticed at ${finding.occurrences_km.map(whole).join(", ")} km` : "",
      ]);
    case "scan": {
      const codes = finding.codes.length
        ? finding.codes.map((code) => `${code.code}${code.status ? ` ${code.status}` : ""}`).join(", ")
        : "no codes";
      const unread = finding.units_unread?.length ? `; not reached: ${finding.units_unread.join(", ")}` : "";
      return `${codes} (${finding.tool}; read: ${finding.units_read.join(", ")}${unread})`;
    }
    case "counts": {
      const counts = Object.entries(finding.misfires)
        .map(([cylinder, count]) => `${cylinder}: ${whole(count)}`)
        .join("  ");
      return `${counts} over ${whole(finding.revolutions)} revolutions${finding.conditions ? `, ${finding.conditions}` : ""}${finding.source ? ` (${finding.source})` : ""}`;
    }
    case "recording":
      return sentences([
        `${finding.name}, ${(finding.span_s / 60).toFixed(1)} min${finding.conditions ? `, ${finding.conditions}` : ""}`,
        ...(finding.results ?? []).map((result) => result.says),
      ]);
    case "moved":
      return `${finding.put_back ? "put back: " : ""}${asExchanges(finding.moves).map(inWords).join(", ")}${finding.text ? `. ${finding.text}` : ""}`;
    case "fitted":
      return sentences([
        `${finding.variant ? `${finding.variant} ` : ""}${finding.part}${finding.cylinder ? ` at cylinder ${finding.cylinder}` : ""}`,
        finding.part_number,
        finding.old_part ? `Old part: ${finding.old_part}` : "",
      ]);
    case "tested":
      return sentences([
        `${names[finding.test] ?? inTheTradesWords(finding.test)}${finding.target === "engine" ? "" : `, ${finding.target}`}: ${inTheTradesWords(finding.outcome)}`,
        finding.text,
      ]);
    case "measured":
      return sentences([
        `${finding.instrument}${finding.conditions ? `, ${finding.conditions}` : ""}`,
        finding.place === "before-fitting" ? "the new part, before fitting" : "",
        finding.place === "removed" ? "the old part, taken out" : "",
        finding.text,
      ]);
    case "righted":
      return finding.what;
    case "limits":
      return (
        sentences([
          finding.alone ? "alone" : "",
          finding.minutes_left == null ? "" : `${whole(finding.minutes_left)} minutes left`,
          finding.cannot?.length ? `not here: ${finding.cannot.join(", ")}` : "",
          finding.school && finding.school !== "least-cost" ? inTheTradesWords(finding.school) : "",
        ]) || "none"
      );
    case "need":
      return `${finding.need}: ${finding.state} (${finding.how})`;
    case "drive":
      return finding.conditions || "no misfire felt";
    case "closed":
      return finding.left_alone ? `Seen and left alone: ${finding.left_alone}` : "";
    case "reopened":
    case "withdrawn":
      return finding.why;
    default:
      return finding.text ?? "";
  }
}

const inTheTradesWords = (id: string): string => id.replaceAll("-", " ");

/** Sentences one after the other, each with one full stop. */
const sentences = (list: (string | undefined)[]) =>
  list
    .map((one) => (one ?? "").trim().replace(/\.$/, ""))
    .filter(Boolean)
    .join(". ");

export const headline = (entry: Entry): string =>
  `${entry.number} · ${KIND[entry.finding.kind]} · ${km(entry.odometer_km)}`;

export const reasons = (refusals: Refusal[]): string => refusals.map((one) => `${one.field}: ${one.reason}`).join("; ");
