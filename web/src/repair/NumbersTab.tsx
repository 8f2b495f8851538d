import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { asProblem } from "../api/problem";
import { type CodedNumber, codingQuery } from "../api/repair";
import type { JobView } from "../api/types";
import { FIGURES } from "../app/theme";
import { NotJudged } from "../bench/NotJudged";
import { useDraft } from "../fields/useDraft";
import { useSettled } from "../fields/useSettled";
import { Write } from "./Write";

const FIELDS: [keyof CodedNumber & ("printed_old" | "stored_before" | "printed_new" | "read_back"), string][] = [
  ["printed_old", "printed on the old part"],
  ["stored_before", "stored in the unit before"],
  ["printed_new", "printed on the new part"],
  ["read_back", "read back after writing"],
];

const blank = (cylinder: number | null): CodedNumber => ({
  cylinder,
  printed_old: "",
  stored_before: "",
  printed_new: "",
  read_back: "",
});

/** Numbers that go into a control unit, per cylinder: the old part's against the stored one first, then read back. */
export function NumbersTab({ job }: { job: JobView }) {
  const first = { what: "injector trim code", length: "", numbers: [blank(job.state.repair?.cylinder ?? 1)] };
  const [value, change, forget] = useDraft(`job-${job.id}.numbers`, first);
  const length = value.length.trim() === "" ? null : Number(value.length);
  const filled = value.numbers.some((one) => FIELDS.some(([field]) => (one[field] ?? "") !== ""));
  const input = useSettled({ what: value.what, length, may_pad: true, numbers: value.numbers }, 300);
  const result = useQuery(codingQuery(filled ? input : null));
  const problem = result.error ? asProblem(result.error) : null;
  const put = (index: number, part: Partial<CodedNumber>) =>
    change({ numbers: value.numbers.map((one, at) => (at === index ? { ...one, ...part } : one)) });
  const used = value.numbers.map((one) => one.cylinder);
  const free = job.state.engine.places.map((place) => place.cylinder).find((one) => !used.includes(one));
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1.4fr) minmax(0, 1fr)" }, gap: 3 }}>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
        <Box sx={{ display: "grid", gridTemplateColumns: "2fr 1fr", gap: 1.5 }}>
          <TextField
            label="What number"
            value={value.what}
            onChange={(event) => change({ what: event.target.value })}
          />
          <TextField
            label="Its characters, if known"
            value={value.length}
            onChange={(event) => change({ length: event.target.value })}
            error={Boolean(problem?.reasonFor("length"))}
            helperText={problem?.reasonFor("length") ?? " "}
          />
        </Box>
        {value.numbers.map((one, index) => (
          <Box key={one.cylinder ?? "part"} sx={{ borderTop: 1, borderColor: "divider", pt: 1 }}>
            <Box sx={{ display: "flex", alignItems: "center", mb: 1 }}>
              <Typography variant="h2" sx={{ flex: 1 }}>
                Cylinder {one.cylinder}
              </Typography>
              {value.numbers.length > 1 && (
                <Button
                  color="inherit"
                  onClick={() => change({ numbers: value.numbers.filter((_n, at) => at !== index) })}
                >
                  Strike
                </Button>
              )}
            </Box>
            <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
              {FIELDS.map(([field, label]) => {
                const reason = problem?.reasonFor(`numbers[${index}].${field}`);
                return (
                  <TextField
                    key={field}
                    label={label}
                    value={one[field] ?? ""}
                    onChange={(event) => put(index, { [field]: event.target.value })}
                    error={Boolean(reason)}
                    helperText={reason ?? " "}
                    slotProps={{
                      htmlInput: { style: { fontFamily: FIGURES, fontSize: "1.1rem" }, autoComplete: "off" },
                    }}
                  />
                );
              })}
            </Box>
          </Box>
        ))}
        {free != null && (
          <Button
            variant="outlined"
            color="inherit"
            onClick={() => change({ numbers: [...value.numbers, blank(free)] })}
            sx={{ alignSelf: "start" }}
          >
            Another cylinder
          </Button>
        )}
      </Box>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
        {problem && <NotJudged title="Not compared yet" problem={problem} />}
        {!problem && result.data ? (
          <Box component="section" aria-label="Comparison" sx={{ bgcolor: "background.paper", px: 2, py: 1.5 }}>
            <Typography sx={{ fontWeight: 600, fontSize: "1.15rem" }}>{result.data.says}</Typography>
            {result.data.numbers.map((one) => (
              <Typography key={one.cylinder ?? "part"}>
                Cylinder {one.cylinder}: {one.says}
              </Typography>
            ))}
          </Box>
        ) : (
          !problem && (
            <Typography color="text.secondary">
              Copy the old part's printed number first: where it is the stored one, this is the right cylinder.
            </Typography>
          )
        )}
        <Write
          job={job}
          disabled={!filled || Boolean(problem)}
          finding={() => ({
            kind: "coded",
            input: { what: value.what, length, may_pad: true, numbers: value.numbers },
          })}
          onWritten={() => {
            forget();
            change(first);
          }}
        />
      </Box>
    </Box>
  );
}
