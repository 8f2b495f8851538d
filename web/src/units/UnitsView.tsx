import Typography from "@mui/material/Typography";
import { useParams } from "react-router";
import { useJob } from "../api/queries";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { Units } from "./Units";

/** The units of the last scan on a screen of their own. */
export default function UnitsView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  if (job.isPending) return <Waiting what="the units" />;
  if (!job.data) return <NotHere what="job" />;
  return (
    <Screen title={`${job.data.vehicle.fleet_no}: units`} back="Back to the job" backTo={`/jobs/${id}`}>
      {job.data.state.units ? (
        <Units overview={job.data.state.units} />
      ) : (
        <Typography color="text.secondary">No unit was read on this job yet.</Typography>
      )}
    </Screen>
  );
}
