import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import type { JobView, NextTest } from "../api/types";
import { FIGURES } from "../app/theme";
import { minutes, whole } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { atPlace, SCHOOL } from "./names";
import { useQuickEntry } from "./useTested";

interface Props {
  job: JobView;
  onTest: (test: NextTest) => void;
}

const title = (test: NextTest) => [test.name, atPlace(test.target)].filter(Boolean).join(", ");

/** What else could be tested now, what each would save, and what other schools would need on this very job. */
export function OtherTests({ job, onTest }: Props) {
  const shown = job.state.suspects;
  const { write, error } = useQuickEntry(job);
  if (!shown) return null;
  const { result, limits } = shown;
  const now = job.state.next.test;
  const others = result.next.filter((test) => test.test !== now?.test || test.target !== now?.target).slice(0, 6);
  const limit = (part: Partial<typeof limits>) => write({ kind: "limits", ...limits, ...part }).catch(() => undefined);
  return (
    <Box sx={{ mt: 1 }}>
      {others.map((test) => (
        <Button
          key={`${test.test} ${test.target}`}
          color="inherit"
          fullWidth
          onClick={() => onTest(test)}
          sx={{ display: "flex", gap: 1, textAlign: "left", lineHeight: 1.15, px: 0.5 }}
        >
          <Box sx={{ flex: 1 }}>{title(test)}</Box>
          <Box sx={{ fontFamily: FIGURES, whiteSpace: "nowrap" }}>{minutes(test.minutes)}</Box>
          <Box sx={{ fontFamily: FIGURES, whiteSpace: "nowrap", minWidth: "6.2rem", textAlign: "right" }}>
            {test.expected_saving >= 0 ? "saves" : "costs"} {whole(Math.abs(test.expected_saving))}
          </Box>
        </Button>
      ))}
      {result.schools.length > 1 && (
        <Box component="table" sx={{ width: "100%", mt: 1, borderSpacing: 0, "& td, & th": { py: 0.35, pr: 1 } }}>
          <Box component="caption" sx={{ textAlign: "left", color: "text.secondary", pb: 0.5 }}>
            What each school may be expected to need from here
          </Box>
          <thead>
            <tr>
              {["School", "Begins with", "min", "money"].map((name) => (
                <Box
                  component="th"
                  key={name}
                  scope="col"
                  sx={{ textAlign: "left", fontWeight: 400, color: "text.secondary" }}
                >
                  {name}
                </Box>
              ))}
            </tr>
          </thead>
          <tbody>
            {result.schools.map((one) => (
              <tr key={one.school}>
                <td>
                  <Button
                    size="small"
                    variant={limits.school === one.school ? "contained" : "text"}
                    color="inherit"
                    aria-pressed={limits.school === one.school}
                    onClick={() => limit({ school: one.school })}
                    sx={{ px: 0.75, textAlign: "left", lineHeight: 1.1 }}
                  >
                    {SCHOOL[one.school]}
                  </Button>
                </td>
                <Box component="td" sx={{ lineHeight: 1.15, fontSize: "0.92rem" }}>
                  {one.first}
                </Box>
                <Box component="td" sx={{ fontFamily: FIGURES }}>
                  {whole(one.minutes)}
                </Box>
                <Box component="td" sx={{ fontFamily: FIGURES }}>
                  {whole(one.cost)}
                </Box>
              </tr>
            ))}
          </tbody>
        </Box>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.75, mt: 1 }}>
        <Button
          size="small"
          variant={limits.alone ? "contained" : "outlined"}
          color="inherit"
          aria-pressed={limits.alone}
          onClick={() => limit({ alone: !limits.alone })}
        >
          Alone, no helper
        </Button>
        {[30, 60, 120].map((left) => (
          <Button
            key={left}
            size="small"
            variant="outlined"
            color="inherit"
            onClick={() => limit({ minutes_left: left })}
          >
            {minutes(left)} left
          </Button>
        ))}
        {now && (
          <Button
            size="small"
            variant="outlined"
            color="inherit"
            onClick={() => limit({ cannot: [...(limits.cannot ?? []), now.test] })}
          >
            Cannot do that test here
          </Button>
        )}
        {(limits.minutes_left != null || (limits.cannot ?? []).length > 0) && (
          <Button size="small" color="inherit" onClick={() => limit({ minutes_left: null, cannot: [] })}>
            Lift the limits
          </Button>
        )}
        <Button size="small" color="inherit" component={Link} to={`/jobs/${job.id}/suspects`}>
          All suspects
        </Button>
      </Box>
      {limits.minutes_left != null && (
        <Typography variant="body2" color="text.secondary">
          {minutes(limits.minutes_left)} left: longer tests are not offered.
        </Typography>
      )}
      {(limits.cannot ?? []).length > 0 && (
        <Typography variant="body2" color="text.secondary">
          Cannot be done here: {(limits.cannot ?? []).join(", ")}.
        </Typography>
      )}
      {shown.off.length > 0 && (
        <Typography variant="body2" color="text.secondary">
          Off now, so quick to reach: {shown.off.join(", ")}.
        </Typography>
      )}
      <ProblemNote error={error} />
    </Box>
  );
}
