import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { asProblem } from "../api/problem";
import { useJob } from "../api/queries";
import type { JobView } from "../api/types";
import { NotHere } from "../app/NotHere";
import { useShortcuts } from "../app/shortcuts";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { km } from "../app/words";
import { Block } from "../block/Block";
import { asMoves, type Exchange, withExchange } from "../block/exchange";
import { EntrySheet, type SheetRequest } from "../entry/EntrySheet";
import { KindMenu } from "../entry/KindMenu";
import { ProblemNote } from "../fields/ProblemNote";
import { useDraft } from "../fields/useDraft";
import { RoadLine } from "../road/RoadLine";
import { Embers } from "./Embers";
import { Needs } from "./Needs";
import { type Answer, NextMoveCard } from "./NextMoveCard";
import { OffTheCar } from "./OffTheCar";
import { Planned } from "./Planned";
import { PutRight } from "./PutRight";
import { Trail } from "./Trail";

/** The working place of one job. */
export function Job() {
  const { id } = useParams();
  const number = Number(id);
  const job = useJob(number);
  if (!Number.isInteger(number) || (job.isError && asProblem(job.error).status === 404)) return <NotHere what="job" />;
  if (job.data) return <JobBench key={number} job={job.data} lost={job.isError} />;
  if (job.isError)
    return (
      <Box sx={{ p: 4 }}>
        <ProblemNote error={job.error} retry={() => job.refetch()} />
      </Box>
    );
  return <Waiting what="the job" />;
}

function JobBench({ job, lost }: { job: JobView; lost: boolean }) {
  const go = useNavigate();
  const [sheet, setSheet] = useState<SheetRequest | null>(null);
  const [choosing, setChoosing] = useState(false);
  const [{ planned }, plan, forgetPlan] = useDraft<{ planned: Exchange[] }>(`job-${job.id}.planned`, { planned: [] });
  const { state } = job;

  const writePlanned = () => setSheet({ kind: "moved", moves: asMoves(planned), fromPlan: true });
  const answer = (kind: Answer, moves = state.next.moves) => {
    setChoosing(false);
    if (kind === "on") return go(`/jobs/${job.id}/repair?do=off`);
    // What was moved on the block is what was moved on the engine.
    if (kind === "moved" && planned.length > 0) return writePlanned();
    setSheet({
      kind,
      moves,
      part: state.next.part ?? undefined,
      variant: state.next.variant ?? undefined,
      cylinder: state.next.cylinder ?? undefined,
      fromNext: kind === state.next.answer,
    });
  };
  useShortcuts([
    { key: "n", does: "answer the next move", run: () => answer(state.next.answer) },
    { key: "a", does: "add to the trail", run: () => setChoosing(true) },
    { key: "s", does: "enter codes", run: () => answer("scan") },
    { key: "m", does: "enter misfire counts", run: () => answer("counts") },
    { key: "w", does: "write the planned moves", run: () => planned.length > 0 && writePlanned() },
    { key: "o", does: "open the report for the owner", run: () => go(`/jobs/${job.id}/report`) },
    { key: "p", does: "open the proof", run: () => go(`/jobs/${job.id}/proof`) },
    { key: "l", does: "link to the car", run: () => go(`/jobs/${job.id}/link`) },
    { key: "f", does: "read a log from a file", run: () => go(`/jobs/${job.id}/log`) },
    { key: "u", does: "open the units", run: () => go(`/jobs/${job.id}/units`) },
    { key: "x", does: "enter a finding by the trade's words", run: () => setSheet({ kind: "tested" }) },
    { key: "e", does: "open all suspects", run: () => go(`/jobs/${job.id}/suspects`) },
    { key: "b", does: "measure at the bench", run: () => go(`/jobs/${job.id}/bench`) },
    { key: "r", does: "open the repair", run: () => go(`/jobs/${job.id}/repair`) },
    { key: "k", does: "open the scope's captures", run: () => go(`/jobs/${job.id}/scope`) },
    { key: "c", does: "open the counts", run: () => go(`/jobs/${job.id}/counts`) },
  ]);

  return (
    <Box sx={{ display: "flex", flexDirection: "column", px: 2, pt: 1, pb: 1, height: { md: "calc(100vh - 49px)" } }}>
      <Box sx={{ display: "flex", flexWrap: { xs: "wrap", md: "nowrap" }, alignItems: "center", gap: 1.5, mb: 0.75 }}>
        <Box
          component={Link}
          to={`/vehicles/${job.vehicle.id}`}
          title="What this vehicle had before"
          sx={{ fontFamily: FIGURES, fontSize: "1.35rem", fontWeight: 600, color: "inherit", py: 1 }}
        >
          {job.vehicle.fleet_no}
        </Box>
        <Box sx={{ fontSize: "1.15rem", fontWeight: 600, flex: 1, lineHeight: 1.15 }}>
          {job.vehicle.name}
          {job.vehicle.note && (
            <Box
              component="span"
              sx={{
                display: { xs: "none", md: "inline" },
                fontWeight: 400,
                color: "text.secondary",
                fontSize: "0.95rem",
                ml: 1,
              }}
            >
              {job.vehicle.note}
            </Box>
          )}
        </Box>
        <Box sx={{ fontFamily: FIGURES, fontSize: "1.1rem", whiteSpace: "nowrap" }}>{km(state.odometer_km)}</Box>
        <Button component={Link} to={`/jobs/${job.id}/link`} color="inherit" variant="outlined">
          At the car
        </Button>
        <Button component={Link} to={`/jobs/${job.id}/bench`} color="inherit" variant="outlined">
          Bench
        </Button>
        <Button component={Link} to={`/jobs/${job.id}/repair`} color="inherit" variant="outlined">
          Repair
        </Button>
        {state.units && (
          <Button component={Link} to={`/jobs/${job.id}/units`} color="inherit" variant="outlined">
            Units
          </Button>
        )}
        {state.repair && (
          <Button component={Link} to={`/jobs/${job.id}/proof`} color="inherit" variant="outlined">
            Proof
          </Button>
        )}
        <Button component={Link} to={`/jobs/${job.id}/report`} color="inherit" variant="outlined">
          Report
        </Button>
      </Box>
      {lost && <ProblemNote error={asProblem(null)} />}
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "1fr", md: "minmax(0, 27rem) minmax(0, 1fr) minmax(0, 22rem)" },
          gridTemplateRows: { md: "minmax(0, 1fr)" },
          gap: 2.5,
          flex: 1,
          minHeight: 0,
        }}
      >
        <Box sx={{ overflowY: { md: "auto" }, minHeight: 0, display: "flex", flexDirection: "column", gap: 1 }}>
          <Block
            engine={state.engine}
            cylinders={state.cylinders}
            planned={planned}
            onExchange={(exchange) => plan({ planned: withExchange(planned, exchange) })}
          />
          <Planned
            planned={planned}
            onRemove={(gone) => plan({ planned: planned.filter((one) => one !== gone) })}
            onWrite={writePlanned}
          />
          <Needs needs={state.needs} onCheck={(need) => setSheet({ kind: "need", need: need.need })} />
          <PutRight job={job} />
          <Embers job={job} />
        </Box>
        <Box
          sx={{
            order: { xs: -1, md: 0 },
            overflowY: { md: "auto" },
            minHeight: 0,
            display: "flex",
            flexDirection: "column",
            gap: 2,
          }}
        >
          <OffTheCar job={job} />
          <NextMoveCard
            job={job}
            onAnswer={answer}
            onTest={(test, outcome) =>
              setSheet({ kind: "tested", test: test.test, target: test.target, outcome, fromNext: true })
            }
          />
        </Box>
        <Box sx={{ minHeight: 0 }}>
          <Trail
            job={job}
            onAdd={() => setChoosing(true)}
            onCorrect={(entry) => setSheet({ kind: entry.finding.kind, corrects: entry })}
          />
        </Box>
      </Box>
      <RoadLine job={job} />
      <KindMenu
        open={choosing}
        closed={state.closed}
        onClose={() => setChoosing(false)}
        onKind={(kind) => answer(kind as Answer, [])}
      />
      {sheet && (
        <EntrySheet
          key={`${sheet.kind}-${sheet.corrects?.number ?? "new"}`}
          job={job}
          request={sheet}
          onClose={() => setSheet(null)}
          onWithdraw={(entry) => setSheet({ kind: "withdrawn", corrects: entry })}
          onSaved={() => {
            if (sheet.kind === "moved") {
              forgetPlan();
              plan({ planned: [] });
            }
            setSheet(null);
          }}
        />
      )}
    </Box>
  );
}
