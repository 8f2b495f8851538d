import type { FindingKind } from "../../api/types";
import type { EntryForm } from "../form";
import { complaintForm } from "./complaint";
import { countsForm } from "./counts";
import { fittedForm } from "./fitted";
import { limitsForm } from "./limits";
import { measuredForm } from "./measured";
import { movedForm } from "./moved";
import { needForm } from "./need";
import { recordingForm } from "./recording";
import { keptForm, odometerForm, oldPartForm, provokedForm, ranForm, startedForm, watchedForm } from "./repair";
import { sameReadingForm } from "./sameReading";
import { scanForm } from "./scan";
import { testedForm } from "./tested";
import {
  clearedForm,
  closedForm,
  driveForm,
  noteForm,
  occurredForm,
  parkedForm,
  reopenedForm,
  rightedForm,
  withdrawnForm,
} from "./texts";

// biome-ignore lint/suspicious/noExplicitAny: each form has fields of its own; the sheet only carries them.
const FORMS: Record<FindingKind, EntryForm<any>> = {
  complaint: complaintForm,
  scan: scanForm,
  cleared: clearedForm,
  counts: countsForm,
  recording: recordingForm,
  moved: movedForm,
  fitted: fittedForm,
  drive: driveForm,
  occurred: occurredForm,
  tested: testedForm,
  measured: measuredForm,
  righted: rightedForm,
  limits: limitsForm,
  need: needForm,
  note: noteForm,
  closed: closedForm,
  reopened: reopenedForm,
  withdrawn: withdrawnForm,
  "old-part": oldPartForm,
  started: startedForm,
  parked: parkedForm,
  watched: watchedForm,
  ran: ranForm,
  provoked: provokedForm,
  "same-reading": sameReadingForm,
  "odometer-replaced": odometerForm,
  decided: keptForm,
  off: keptForm,
  on: keptForm,
  tightened: keptForm,
  coded: keptForm,
  relearned: keptForm,
  readiness: keptForm,
};

export const formOf = (kind: FindingKind) => FORMS[kind];
