import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Link, useParams, useSearchParams } from "react-router";
import { useJob } from "../api/queries";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { Cautions, useAcknowledged } from "../entry/Cautions";
import { Tabs } from "../fields/Tabs";
import { DecideTab } from "./DecideTab";
import { DriveTab } from "./DriveTab";
import { LearnTab } from "./LearnTab";
import { NumbersTab } from "./NumbersTab";
import { OffTab } from "./OffTab";
import { TightenTab } from "./TightenTab";

const TABS = [
  ["off", "Off and on", OffTab],
  ["buy", "What to buy", DecideTab],
  ["tighten", "Tighten", TightenTab],
  ["numbers", "Numbers", NumbersTab],
  ["learn", "Learn again", LearnTab],
  ["drive", "Drive to prove", DriveTab],
] as const;

/** The repair of a job: what to buy, what is off, how it is tightened, what is learnt again, the drive that proves it. */
export default function RepairView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  const [query, setQuery] = useSearchParams();
  const cautions = job.data?.state.cautions.fitted ?? [];
  const acknowledged = useAcknowledged(id, cautions);
  if (job.isPending) return <Waiting what="the repair" />;
  if (!job.data) return <NotHere what="job" />;
  const [name, , Tab] = TABS.find(([one]) => one === query.get("do")) ?? TABS[0];
  return (
    <Screen
      title={`${job.data.vehicle.fleet_no}: the repair`}
      back="Back to the job"
      backTo={`/jobs/${id}`}
      actions={
        job.data.state.repair && (
          <Button component={Link} to={`/jobs/${id}/proof`} variant="outlined" color="inherit">
            Proof
          </Button>
        )
      }
    >
      <Box sx={{ display: "flex", mb: 1.5 }}>
        <Tabs
          label="Parts of the repair"
          options={TABS.map(([one, title]) => [one, title] as const)}
          chosen={name}
          onChosen={(one) => setQuery({ do: one }, { replace: true })}
        />
      </Box>
      {(name === "off" || name === "tighten") && !acknowledged.all && (
        <Box sx={{ mb: 1.5 }}>
          <Cautions cautions={cautions} acknowledged={acknowledged} />
        </Box>
      )}
      <Tab key={name} job={job.data} />
    </Screen>
  );
}
