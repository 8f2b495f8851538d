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
import { scanForm } from "./scan";
import { testedForm } from "./tested";
import {
  clearedForm,
  closedForm,
  driveForm,
  noteForm,
  occurredForm,
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
};

export const formOf = (kind: FindingKind) => FORMS[kind];
