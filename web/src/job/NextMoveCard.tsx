import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { JobView, Move, NextMove, NextTest, SwapPlan } from "../api/types";
import { Glow } from "../app/Glow";
import { FIGURES } from "../app/theme";
import { minutes, sure } from "../app/words";
import { Cautions, useAcknowledged } from "../entry/Cautions";
import { OtherTests } from "../suspects/OtherTests";
import { Outcomes } from "../suspects/Outcomes";

export type Answer = NextMove["answer"];

/** What the one button says, by the kind of entry that answers the step. */
const ANSWER: Record<Answer, string> = {
  scan: "Enter the codes",
  tested: "Something else was found",
  counts: "Enter the counts",
  cleared: "Codes are cleared",
  moved: "Parts are moved",
  fitted: "Part is fitted",
  drive: "Driven without misfire",
  need: "Enter what was found",
  note: "Write a note",
  complaint: "Complete the complaint",
  on: "Go to what is off",
  started: "It was started",
  closed: "Close the job",
  reopened: "Open it again",
};

interface Props {
  job: JobView;
  onAnswer: (answer: Answer, moves?: Move[]) => void;
  /** Opens the sheet for a test, with what is known of it. */
  onTest: (test: NextTest, outcome?: string) => void;
}

/** The test with the best value now: why, what each outcome means, cautions, and one touch to enter the result. */
export function NextMoveCard({ job, onAnswer, onTest }: Props) {
  const { next } = job.state;
  const [others, setOthers] = useState(false);
  const tests = !job.state.closed && (job.state.suspects?.result.next.length ?? 0) > 0;
  const acknowledged = useAcknowledged(job.id, next.cautions);
  return (
    <Box component="section" aria-label="Next move" sx={{ bgcolor: "background.paper", px: 2, py: 1.5 }}>
      <Box sx={{ display: "flex", gap: 2, color: "text.secondary", mb: 0.5 }}>
        <Box sx={{ flex: 1 }}>Next move</Box>
        {next.minutes > 0 && <Box sx={{ fontFamily: FIGURES, color: "text.primary" }}>{minutes(next.minutes)}</Box>}
      </Box>
      <Typography variant="h1">{next.title}</Typography>
      <Typography sx={{ mt: 0.5, lineHeight: 1.35 }}>{next.why}</Typography>
      {next.step === "swap" && job.state.plan && <PlanDetails plan={job.state.plan} />}
      {next.sure != null && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 1, mt: 1 }}>
          <Glow likelihood={next.sure} size={26} />
          <span>
            <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 600, fontSize: "1.15rem" }}>
              {sure(next.sure)}
            </Box>{" "}
            {next.sure_of}
          </span>
        </Box>
      )}
      {next.test && (
        <Outcomes
          job={job}
          test={next.test}
          disabled={!acknowledged.all}
          onMore={(outcome) => next.test && onTest(next.test, outcome)}
        />
      )}
      <Button
        variant={next.test ? "text" : "contained"}
        color={next.test ? "inherit" : "primary"}
        size="large"
        fullWidth
        onClick={() => (next.test ? onTest(next.test) : onAnswer(next.answer, next.moves))}
        sx={next.test ? { mt: 0.5 } : { mt: 1.5, minHeight: 56, fontSize: "1.2rem" }}
      >
        {next.test ? "Enter it with a note" : ANSWER[next.answer]}
      </Button>
      {next.answer === "drive" && (
        <Button fullWidth color="inherit" onClick={() => onAnswer("counts")} sx={{ mt: 0.5 }}>
          Counters were read too: enter the counts
        </Button>
      )}
      {(next.alternatives.length > 0 || tests) && (
        <Box sx={{ mt: 0.5 }}>
          <Button color="inherit" aria-expanded={others} onClick={() => setOthers(!others)}>
            {others ? "Hide the other ways" : "Other ways"}
          </Button>
          {others &&
            next.alternatives.map((one) => (
              <Box key={one.title} sx={{ py: 0.5, borderTop: 1, borderColor: "divider" }}>
                <Button
                  color="inherit"
                  sx={{ px: 0, textAlign: "left" }}
                  onClick={() => onAnswer(one.answer, one.moves)}
                >
                  {one.title}
                  {one.minutes != null && ` (${minutes(one.minutes)})`}
                </Button>
                <Typography variant="body2">{one.why}</Typography>
              </Box>
            ))}
          {others && tests && <OtherTests job={job} onTest={onTest} />}
        </Box>
      )}
      {next.outcomes.length > 0 && (
        <Box
          component="dl"
          sx={{
            m: 0,
            mt: 1.5,
            display: "grid",
            gridTemplateColumns: "auto 1fr",
            columnGap: 1.5,
            rowGap: 0.5,
            lineHeight: 1.25,
            fontSize: "0.95rem",
          }}
        >
          {next.outcomes.map((one) => (
            <Box key={one.outcome} sx={{ display: "contents" }}>
              <Box component="dt" sx={{ fontWeight: 600, maxWidth: "10.5rem" }}>
                {one.outcome}
              </Box>
              <Box component="dd" sx={{ m: 0 }}>
                {one.means}
              </Box>
            </Box>
          ))}
        </Box>
      )}
      {next.cautions.length > 0 && (
        <Box sx={{ mt: 1.5, fontSize: "0.95rem" }}>
          <Cautions cautions={next.cautions} acknowledged={acknowledged} />
        </Box>
      )}
      {next.tools.length > 0 && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 0.75 }}>
          At hand: {next.tools.join(", ")}
        </Typography>
      )}
    </Box>
  );
}

/** What the plan takes off first, and which cylinders and parts it leaves out and why. */
function PlanDetails({ plan }: { plan: SwapPlan }) {
  const left = plan.ruled_out.map((one) => `${one.part ?? `cylinder ${one.cylinder}`}: ${one.why}`);
  const lines = [
    plan.covers_off.length > 0 ? `Off first: ${plan.covers_off.join(", ")}` : "",
    left.length > 0 ? `Left out: ${left.join("; ")}` : "",
    plan.later.length > 0 ? `For another drive: ${plan.later.join(", ")}` : "",
  ].filter(Boolean);
  return lines.map((line) => (
    <Typography key={line} variant="body2" sx={{ mt: 0.25, color: "text.secondary" }}>
      {line}
    </Typography>
  ));
}
