import type { Entry, FindingKind, Refusal } from "../api/types";
import { km } from "../app/words";

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
  "old-part": "Old part looked into",
  decided: "Decided what to buy",
  off: "Taken off",
  on: "Back on",
  tightened: "Tightened",
  coded: "Numbers written",
  relearned: "Learnt again",
  readiness: "Self-tests",
  started: "Engine started",
  parked: "Left to go cold",
  watched: "How often it came",
  ran: "Ran without it",
  provoked: "Tried to bring it on",
  "same-reading": "Reading to compare",
  "odometer-replaced": "Odometer replaced",
};

export const headline = (entry: Entry): string =>
  `${entry.number} · ${KIND[entry.finding.kind]} · ${km(entry.odometer_km)}`;

export const reasons = (refusals: Refusal[]): string => refusals.map((one) => `${one.field}: ${one.reason}`).join("; ");
