import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { foundQuery, testQuery } from "../../api/queries";
import type { JobView } from "../../api/types";
import { ProblemNote } from "../../fields/ProblemNote";
import { useSettled } from "../../fields/useSettled";
import { outcomeName } from "../../suspects/names";
import { corrected, type EntryForm, type FieldsProps, refusal } from "../form";

interface TestedValue {
  words: string;
  test: string;
  target: string;
  outcome: string;
  text: string;
}

/** Where a test can be made on this engine. */
function places(per: string, job: JobView): string[] {
  const { engine } = job.state;
  if (per === "cylinder") return Array.from({ length: engine.cylinders }, (_, index) => `cylinder ${index + 1}`);
  if (per === "bank") return engine.banks.map((_, index) => `bank ${index + 1}`);
  return ["engine"];
}

function Fields({ value, change, job, refused }: FieldsProps<TestedValue>) {
  const words = useSettled(value.words, 150);
  const found = useQuery(foundQuery(words));
  const test = useQuery(testQuery(value.test));
  const at = test.data ? places(test.data.per, job) : [];
  return (
    <>
      <TextField
        autoFocus={value.test === ""}
        label="What was tested or found, in your words"
        placeholder="weak spark cylinder 3"
        value={value.words}
        onChange={(event) => change({ words: event.target.value })}
        error={Boolean(refused("test"))}
        helperText={refused("test") ?? "a test, a sign, or what was done to the car before"}
      />
      <ProblemNote error={found.error} />
      {words.trim() !== "" && found.data && (
        <Box
          component="ul"
          aria-label="Found in the book"
          sx={{ listStyle: "none", m: 0, p: 0, maxHeight: 260, overflowY: "auto" }}
        >
          {found.data
            .filter((hit) => hit.kind !== "fault")
            .slice(0, 9)
            .map((hit) => (
              <li key={hit.id}>
                <Button
                  fullWidth
                  color="inherit"
                  variant={hit.id === value.test ? "contained" : "text"}
                  onClick={() =>
                    change({
                      test: hit.id,
                      target: hit.target ?? "",
                      outcome: hit.outcome ?? (hit.kind === "test" ? "" : "yes"),
                    })
                  }
                  sx={{ justifyContent: "flex-start", textAlign: "left", lineHeight: 1.15 }}
                >
                  {hit.name}
                  {hit.outcome ? `: ${outcomeName(hit.outcome)}` : ""}
                  {hit.target ? `, ${hit.target}` : ""}
                </Button>
              </li>
            ))}
          {found.data.filter((hit) => hit.kind !== "fault").length === 0 && (
            <Typography color="text.secondary">The book has no test of these words. Write it as a note.</Typography>
          )}
        </Box>
      )}
      {test.data && (
        <>
          <Typography variant="h2">{test.data.name}</Typography>
          {at.length > 1 && (
            <TextField
              select
              label="Where"
              value={at.includes(value.target) ? value.target : ""}
              onChange={(event) => change({ target: event.target.value })}
              error={Boolean(refused("target"))}
              helperText={refused("target") ?? " "}
            >
              {at.map((place) => (
                <MenuItem key={place} value={place}>
                  {place}
                </MenuItem>
              ))}
            </TextField>
          )}
          <ToggleButtonGroup
            exclusive
            orientation="vertical"
            aria-label="What came of it"
            value={value.outcome}
            onChange={(_event, outcome) => outcome && change({ outcome })}
          >
            {test.data.outcomes.map((one) => (
              <ToggleButton
                key={one.id}
                value={one.id}
                sx={{ justifyContent: "flex-start", textAlign: "left", textTransform: "none", lineHeight: 1.2 }}
              >
                <span>
                  <b>{outcomeName(one.id)}</b>
                  {one.means ? ` ${one.means}` : ""}
                </span>
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          {refused("outcome") && <Typography color="error">{refused("outcome")}</Typography>}
          <Typography variant="body2" color="text.secondary">
            {test.data.how}
          </Typography>
          {test.data.cautions.map((caution) => (
            <Typography key={caution} variant="body2" sx={{ fontWeight: 600 }}>
              {caution}
            </Typography>
          ))}
        </>
      )}
      <TextField
        label="What else was seen or read"
        value={value.text}
        onChange={(event) => change({ text: event.target.value })}
        multiline
        minRows={2}
        helperText={refused("text") ?? " "}
      />
    </>
  );
}

export const testedForm: EntryForm<TestedValue> = {
  first: (_job, request) => {
    const old = corrected(request, "tested");
    return {
      words: "",
      test: old?.test ?? request.test ?? "",
      target: old?.target ?? request.target ?? "",
      outcome: old?.outcome ?? request.outcome ?? "",
      text: old?.text ?? "",
    };
  },
  Fields,
  finding: async (value) => {
    if (value.test === "") throw refusal("test", "look for the test first and touch it");
    if (value.outcome === "") throw refusal("outcome", "what came of it?");
    return {
      kind: "tested",
      test: value.test,
      target: value.target || "engine",
      outcome: value.outcome,
      text: value.text,
    };
  },
};
