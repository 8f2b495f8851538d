import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Drawer from "@mui/material/Drawer";
import Typography from "@mui/material/Typography";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asProblem } from "../api/problem";
import { useAppend } from "../api/queries";
import type { Entry, JobView, NewEntry } from "../api/types";
import { usePreferences } from "../app/preferences";
import { requestKey } from "../fields/requestKey";
import { useDraft } from "../fields/useDraft";
import { headline, KIND } from "../job/describe";
import { Cautions, useAcknowledged } from "./Cautions";
import { EntryFrame, NotTaken } from "./EntryFrame";
import { type EntryForm, reader, type SheetRequest } from "./form";
import { formOf } from "./forms";
import { WhereAndWho } from "./WhereAndWho";

export type { SheetRequest } from "./form";

interface Props {
  job: JobView;
  request: SheetRequest;
  onClose: () => void;
  onSaved: () => void;
  /** The corrected entry is to count for nothing instead. */
  onWithdraw: (entry: Entry) => void;
}

interface Common {
  odometer: string;
  key: string;
  /** How many entries were on the trail when the form was last shown to its writer. */
  seen: number;
}

/** The sheet on which an entry is written. What is typed stays until it is acknowledged, whatever happens. */
export function EntrySheet({ job, request, onClose, onSaved, onWithdraw }: Props) {
  const preferences = usePreferences();
  const queries = useQueryClient();
  const append = useAppend(job.id);
  const form = formOf(request.kind) as EntryForm<Record<string, unknown>>;
  const name = `job-${job.id}.${request.kind}.${request.corrects?.number ?? "new"}`;
  const first = form.first(job, request);
  // Moves and parts that the next move or the block proposes are newer than an old draft; all else is kept by kind.
  const proposed =
    (request.kind === "moved" || request.kind === "fitted" || request.kind === "tested") &&
    (request.fromPlan || request.fromNext);
  const proposal = JSON.stringify([
    request.moves ?? [],
    request.part,
    request.cylinder,
    request.test,
    request.target,
    request.outcome,
  ]);
  const [value, change, forget] = useDraft(proposed ? `${name}.${proposal}` : name, first);
  const [common, changeCommon, forgetCommon] = useDraft<Common>(`${name}.common`, {
    odometer: String(request.corrects?.odometer_km ?? job.state.odometer_km),
    key: requestKey(),
    seen: job.entries.length,
  });
  const [failed, setFailed] = useState<unknown>(null);
  const cautions = job.state.cautions[request.kind] ?? [];
  const acknowledged = useAcknowledged(job.id, cautions);
  const problem = failed ? asProblem(failed) : null;
  const newer = job.entries.filter((entry) => entry.number > common.seen);
  const { Fields } = form;

  const save = async () => {
    setFailed(null);
    try {
      const read = reader(queries);
      const odometer_km = await read.number(common.odometer, "distance", "odometer_km");
      const finding = await form.finding(value, read);
      const entry: NewEntry = {
        odometer_km,
        author: preferences.author,
        replaces: request.corrects?.number ?? null,
        finding,
      };
      await append.mutateAsync({ entry, seen: job.entries.length, request_key: common.key });
      forget();
      forgetCommon();
      onSaved();
    } catch (error) {
      // The trail has grown, perhaps by this very entry, whose answer was lost: the next try is a request of its own.
      if (asProblem(error).kind === "stale") changeCommon({ key: requestKey() });
      setFailed(error);
    }
  };
  const leave = () => {
    changeCommon({ seen: job.entries.length });
    onClose();
  };

  return (
    <Drawer
      anchor="right"
      open
      onClose={leave}
      slotProps={{
        paper: { role: "dialog", "aria-label": KIND[request.kind], sx: { width: { xs: "100%", sm: 580 } } },
      }}
    >
      <EntryFrame onSave={save} sx={{ display: "flex", flexDirection: "column", height: "100%" }}>
        <Box sx={{ px: 3, pt: 2 }}>
          <Typography variant="h1">
            {request.corrects && request.kind !== "withdrawn" ? `Correct: ${KIND[request.kind]}` : KIND[request.kind]}
          </Typography>
          {request.corrects && (
            <Typography variant="body2" color="text.secondary">
              Entry {request.corrects.number} stays on the trail, and what you write here counts in its place.
            </Typography>
          )}
        </Box>
        <Box sx={{ px: 3, py: 1.5, flex: 1, overflowY: "auto", display: "flex", flexDirection: "column", gap: 1.5 }}>
          <Cautions cautions={cautions} acknowledged={acknowledged} />
          {newer.length > 0 && (
            <Alert severity="info" variant="outlined" icon={false} role="status">
              Somebody else wrote meanwhile:{" "}
              {newer
                .map((entry) => `${headline(entry)} (${entry.author}): ${job.words[entry.number]?.text ?? ""}`)
                .join("; ")}
              . Nothing of yours is lost.
            </Alert>
          )}
          <Fields value={value} change={change} job={job} refused={(...fields) => problem?.reasonFor(...fields)} />
        </Box>
        <Box sx={{ px: 3, pt: 1.5, pb: 1.5, borderTop: 1, borderColor: "divider" }}>
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1.5 }}>
            <WhereAndWho
              job={job}
              odometer={common.odometer}
              onOdometer={(odometer) => changeCommon({ odometer })}
              problem={problem}
            />
          </Box>
          <NotTaken problem={problem} />
          <Box sx={{ display: "flex", gap: 1 }}>
            <Button
              type="submit"
              variant="contained"
              size="large"
              disabled={append.isPending || !acknowledged.all}
              sx={{ flex: 1, minHeight: 52 }}
            >
              {append.isPending ? "Writing …" : "Write it down"}
            </Button>
            {request.corrects && request.kind !== "withdrawn" && (
              <Button color="inherit" size="large" onClick={() => request.corrects && onWithdraw(request.corrects)}>
                Withdraw it
              </Button>
            )}
            <Button color="inherit" size="large" onClick={leave}>
              Later
            </Button>
          </Box>
          {!acknowledged.all && (
            <Typography variant="body2" color="text.secondary" sx={{ mt: 0.5 }}>
              Tick the cautions above first.
            </Typography>
          )}
        </Box>
      </EntryFrame>
    </Drawer>
  );
}
