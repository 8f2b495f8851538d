import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { OffShown } from "../api/repair";
import type { JobView } from "../api/types";
import { useDraft } from "../fields/useDraft";
import { fromTorque, noTorque } from "./stages";
import { TightenWalk } from "./TightenWalk";
import { TorqueFields } from "./TorqueFields";
import { useTorque } from "./useTorque";
import { Write } from "./Write";

interface Props {
  job: JobView;
  shown: OffShown;
  /** The last off is offered first. */
  first: boolean;
}

/** One thing that is off, and the way back on. */
export function BackOn({ job, shown, first }: Props) {
  const { item } = shown;
  const [open, setOpen] = useState(false);
  const name = `${item.count && item.count > 1 ? `${item.count} × ` : ""}${item.what}`;
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", pt: 1 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        {item.photo != null && (
          <a href={`/api/photos/${item.photo}`} target="_blank" rel="noreferrer">
            <img src={`/api/photos/${item.photo}/thumbnail`} alt={`How ${name} was`} height={44} />
          </a>
        )}
        <Box sx={{ flex: 1 }}>
          <Box sx={{ fontWeight: 600, fontSize: first ? "1.2rem" : "1.05rem" }}>{name}</Box>
          <Box sx={{ color: "text.secondary" }}>
            {[
              shown.wants,
              item.renew ? "new" : "",
              item.lies ? `lies: ${item.lies}` : "",
              item.setting ? `it was: ${item.setting}` : "",
            ]
              .filter(Boolean)
              .join(" · ")}
          </Box>
        </Box>
        <Button
          variant={first ? "contained" : "outlined"}
          color={first ? "primary" : "inherit"}
          aria-expanded={open}
          aria-label={`${name} is back`}
          onClick={() => setOpen(!open)}
        >
          It is back
        </Button>
      </Box>
      {open && <Back job={job} shown={shown} onClose={() => setOpen(false)} />}
    </Box>
  );
}

function Back({ job, shown, onClose }: { job: JobView; shown: OffShown; onClose: () => void }) {
  const { item } = shown;
  const [{ renewed, reason, done, torque }, change, forget] = useDraft(
    `job-${job.id}.on.${shown.entry}.${shown.index}`,
    {
      renewed: false,
      reason: "",
      done: 0,
      torque: item.tighten ? fromTorque(item.tighten) : noTorque,
    },
  );
  const read = useTorque(torque);
  const wantsNew = item.renew || (item.tighten?.single_use ?? false);
  const all = read.result && done >= read.result.steps.length;
  return (
    <Box sx={{ bgcolor: "background.paper", p: 2, mt: 1, display: "flex", flexDirection: "column", gap: 1.25 }}>
      {wantsNew && (
        <FormControlLabel
          control={<Checkbox checked={renewed} onChange={(_e, is) => change({ renewed: is })} />}
          label={`New ${item.what} used. It is never used twice`}
        />
      )}
      {item.tighten && (
        <>
          <TorqueFields
            value={torque}
            change={(part) => change({ torque: { ...torque, ...part } })}
            refused={(...fields) => read.problem?.reasonFor(...fields)}
          />
          {read.problem && (
            <Typography color="error" role="alert">
              {read.problem.errors.map((one) => one.reason).join("; ")}
            </Typography>
          )}
          {read.result?.warnings.map((one) => (
            <Typography key={one} sx={{ fontWeight: 600 }}>
              {one}
            </Typography>
          ))}
          {read.result && <TightenWalk result={read.result} done={done} onDone={(next) => change({ done: next })} />}
        </>
      )}
      {((wantsNew && !renewed) || (item.tighten && !all)) && (
        <TextField
          label="If not: why"
          value={reason}
          onChange={(event) => change({ reason: event.target.value })}
          helperText="It stands on the report."
        />
      )}
      <Write
        job={job}
        words={`${item.what} is back`}
        finding={() => ({
          kind: "on",
          items: [
            {
              entry: shown.entry,
              index: shown.index,
              renewed,
              reason,
              tightened: Boolean(all),
              wrench: torque.wrench,
            },
          ],
        })}
        onWritten={() => {
          forget();
          onClose();
        }}
      />
    </Box>
  );
}
