import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import { asProblem } from "../api/problem";
import { useWrite } from "../api/repair";
import type { Finding, JobView } from "../api/types";
import { NotTaken } from "../entry/EntryFrame";
import { WhereAndWho } from "../entry/WhereAndWho";

interface Props {
  job: JobView;
  /** What is put on the trail; null while there is nothing to write. May read what was typed first. */
  finding: () => Finding | null | Promise<Finding | null>;
  words?: string;
  disabled?: boolean;
  onWritten: () => void;
}

/** Signs a finding and puts it on the trail. What was not taken stays where it is, with the reason. */
export function Write({ job, finding, words = "Put it on the trail", disabled, onWritten }: Props) {
  const write = useWrite(job);
  const [odometer, setOdometer] = useState(String(job.state.odometer_km));
  const [failed, setFailed] = useState<unknown>(null);
  const problem = failed ? asProblem(failed) : null;
  const save = async () => {
    setFailed(null);
    try {
      const found = await finding();
      if (!found) return;
      await write.mutateAsync({ finding: found, odometer });
      onWritten();
    } catch (error) {
      setFailed(error);
    }
  };
  return (
    <Box sx={{ pt: 1 }}>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", columnGap: 1.5 }}>
        <WhereAndWho job={job} odometer={odometer} onOdometer={setOdometer} problem={problem} />
      </Box>
      <NotTaken problem={problem} />
      <Button
        variant="contained"
        size="large"
        fullWidth
        disabled={disabled || write.isPending}
        onClick={save}
        sx={{ minHeight: 52 }}
      >
        {write.isPending ? "Writing …" : words}
      </Button>
    </Box>
  );
}
