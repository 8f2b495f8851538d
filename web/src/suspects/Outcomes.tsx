import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { JobView, NextTest } from "../api/types";
import { FIGURES } from "../app/theme";
import { sure } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { outcomeName } from "./names";
import { useQuickEntry } from "./useTested";

interface Props {
  job: JobView;
  test: NextTest;
  /** Cautions that have to be ticked first. */
  disabled?: boolean;
  onMore: (outcome: string) => void;
}

/** The outcomes of a test, each entered at one touch: how likely it is, what it means and who would lead then. */
export function Outcomes({ job, test, disabled, onMore }: Props) {
  const { write, isPending, error } = useQuickEntry(job);
  return (
    <Box role="group" aria-label={`What came of it: ${test.name}`} sx={{ mt: 1.25 }}>
      {test.outcomes.map((one) => (
        <Box
          key={one.outcome}
          sx={{ display: "grid", gridTemplateColumns: "9.5rem 1fr", columnGap: 1.25, alignItems: "center", py: 0.4 }}
        >
          <Button
            variant="outlined"
            color="inherit"
            disabled={disabled || isPending}
            onClick={() =>
              write({
                kind: "tested",
                test: test.test,
                target: test.target,
                outcome: one.outcome,
                text: "",
              }).catch(() => undefined)
            }
            onContextMenu={(event) => {
              event.preventDefault();
              onMore(one.outcome);
            }}
            sx={{ minHeight: 48, lineHeight: 1.1, fontWeight: 600 }}
          >
            {outcomeName(one.outcome)}
          </Button>
          <Box sx={{ lineHeight: 1.22, fontSize: "0.95rem" }}>
            {one.means}{" "}
            <Box component="span" sx={{ color: "text.secondary" }}>
              Expected in {sure(one.probability)}; then {one.then.toLowerCase()}{" "}
              <Box component="span" sx={{ fontFamily: FIGURES }}>
                {sure(one.then_probability)}
              </Box>
              .
            </Box>
          </Box>
        </Box>
      ))}
      {disabled && <Box sx={{ color: "text.secondary", fontSize: "0.95rem" }}>Tick the cautions below first.</Box>}
      <ProblemNote error={error} />
    </Box>
  );
}
