import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { keptQuery, useKeepForVehicle } from "../api/bench";
import type { JobView } from "../api/types";
import { ProblemNote } from "../fields/ProblemNote";
import { Choice } from "./Choice";

interface Props<B> {
  job: JobView;
  kind: "connector" | "circuit" | "hoses" | "bench-out";
  label: string;
  /** Under which name it would be kept, and what would be. */
  name: string;
  body: B;
  onTaken: (name: string, body: B) => void;
  /** Whether there is anything to be kept; left out: always. */
  canKeep?: boolean;
}

/** What was described of this vehicle before, taken up again or kept. */
export function KeptChoice<B>({ job, kind, label, name, body, onTaken, canKeep = true }: Props<B>) {
  const kept = useQuery(keptQuery(job.vehicle.id));
  const keep = useKeepForVehicle(job.vehicle.id);
  const list = (kept.data ?? []).filter((one) => one.kind === kind);
  return (
    <>
      {list.length > 0 && (
        <Box sx={{ width: "15rem" }}>
          <Choice
            label={label}
            value=""
            onValue={(chosen) => {
              const found = list.find((one) => one.name === chosen);
              if (found) onTaken(found.name, found.body as B);
            }}
            options={list.map((one) => [one.name, one.name] as const)}
          />
        </Box>
      )}
      {canKeep && (
        <Button
          color="inherit"
          variant="outlined"
          disabled={name.trim() === "" || keep.isPending}
          onClick={() => keep.mutate({ kind, name: name.trim(), body })}
          sx={{ height: 44, whiteSpace: "nowrap" }}
        >
          {keep.isSuccess ? "Kept with the vehicle" : "Keep with the vehicle"}
        </Button>
      )}
      <ProblemNote error={kept.error ?? keep.error} />
    </>
  );
}
