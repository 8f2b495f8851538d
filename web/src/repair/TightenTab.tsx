import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { JobView } from "../api/types";
import { NotJudged } from "../bench/NotJudged";
import { useDraft } from "../fields/useDraft";
import { noTorque } from "./stages";
import { TightenWalk } from "./TightenWalk";
import { TorqueFields } from "./TorqueFields";
import { useTorque } from "./useTorque";
import { Write } from "./Write";

/** Anything that is tightened by stages and was not on the list of what is off. */
export function TightenTab({ job }: { job: JobView }) {
  const first = { what: "", torque: noTorque, done: 0, renewed: false, reason: "" };
  const [value, change, forget] = useDraft(`job-${job.id}.tighten`, first);
  const read = useTorque(value.torque);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1fr) minmax(0, 1fr)" }, gap: 3 }}>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1 }}>
        <TextField
          label="What is tightened"
          placeholder="plug of cylinder 2"
          value={value.what}
          onChange={(event) => change({ what: event.target.value })}
        />
        <TorqueFields
          value={value.torque}
          change={(part) => change({ torque: { ...value.torque, ...part }, done: 0 })}
          refused={(...fields) => read.problem?.reasonFor(...fields)}
        />
        {value.torque.single_use && (
          <FormControlLabel
            control={<Checkbox checked={value.renewed} onChange={(_e, renewed) => change({ renewed })} />}
            label="New ones are fitted"
          />
        )}
        {value.torque.single_use && !value.renewed && (
          <TextField
            label="If not: why"
            value={value.reason}
            onChange={(event) => change({ reason: event.target.value })}
          />
        )}
        <Typography color="text.secondary">
          Threads are started by hand, dry unless the maker says otherwise. The maker's figure comes before any other.
        </Typography>
      </Box>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
        {read.problem && <NotJudged title="It cannot be tightened like that" problem={read.problem} />}
        {read.result?.warnings.map((one) => (
          <Typography key={one} sx={{ fontWeight: 600 }}>
            {one}
          </Typography>
        ))}
        {read.result ? (
          <TightenWalk result={read.result} done={value.done} onDone={(done) => change({ done })} />
        ) : (
          !read.problem && (
            <Typography color="text.secondary">Write the stages: the fasteners are walked through here.</Typography>
          )
        )}
        {read.result && read.input && value.done >= read.result.steps.length && (
          <Write
            job={job}
            disabled={value.what.trim() === ""}
            finding={() => {
              const { input } = read;
              return input
                ? { kind: "tightened", what: value.what, torque: input, renewed: value.renewed, reason: value.reason }
                : null;
            }}
            onWritten={() => {
              forget();
              change(first);
            }}
          />
        )}
      </Box>
    </Box>
  );
}
