import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { useAskLink, useLink, usePart } from "../api/link";
import { useJob } from "../api/queries";
import type { JobView, LinkStatus } from "../api/types";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { ProblemNote } from "../fields/ProblemNote";
import { Tabs } from "../fields/Tabs";
import { Connect } from "./Connect";
import { Gauges } from "./Gauges";
import { Outputs } from "./Outputs";
import { Recorder } from "./Recorder";
import { ScanPanel } from "./ScanPanel";

/** At the car: the link to its units, what they say, live data, and outputs that can be driven. */
export default function LinkView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  const link = useLink(id);
  if (job.isPending || link.isPending) return <Waiting what="the link" />;
  if (!job.data) return <NotHere what="job" />;
  if (!link.data) return <ProblemNote error={link.error} retry={() => link.refetch()} />;
  return <AtTheCar job={job.data} link={link.data} lost={link.isError} />;
}

type Panel = "scan" | "live" | "outputs";

function AtTheCar({ job, link, lost }: { job: JobView; link: LinkStatus; lost: boolean }) {
  const [panel, setPanel] = useState<Panel>("scan");
  const part = usePart(job.id);
  const ask = useAskLink(job.id);
  const trying = link.activity.doing === "connecting" || link.activity.doing === "trying-again";
  const panels: [Panel, string][] = [
    ["scan", "Units and codes"],
    ["live", "Live data"],
    ["outputs", "Drive outputs"],
  ];
  return (
    <Screen
      title={`${job.vehicle.fleet_no}: at the car`}
      back="Back to the job"
      backTo={`/jobs/${job.id}`}
      actions={
        link.connected && (
          <Button color="inherit" variant="outlined" onClick={() => part.mutate()} disabled={part.isPending}>
            Part from the car
          </Button>
        )
      }
    >
      {lost && (
        <Alert severity="warning" variant="outlined" icon={false} role="status" sx={{ mb: 1 }}>
          The server does not answer: what stands here is the last it said.
        </Alert>
      )}
      <LinkLine link={link} />
      {link.problem && (
        <Alert severity="warning" variant="outlined" icon={false} role="status" sx={{ my: 1 }}>
          {link.problem}
        </Alert>
      )}
      <ProblemNote error={ask.error ?? part.error} />
      {!link.connected && !trying ? (
        <>
          <Connect job={job} />
          {link.scan && <ScanPanel job={job} link={link} ask={ask.mutate} />}
          {link.recording && <Recorder job={job} link={link} ask={ask.mutate} />}
        </>
      ) : (
        <>
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 1.5 }}>
            <Tabs label="At the car" options={panels} chosen={panel} onChosen={setPanel} />
            {link.simulated && (
              <Button
                variant="outlined"
                color="inherit"
                aria-pressed={link.driving}
                disabled={!link.connected}
                onClick={() => ask.mutate({ what: "driver", drive: !link.driving })}
              >
                {link.driving ? "Simulated driver: park" : "Simulated driver: drive the loop"}
              </Button>
            )}
          </Box>
          {panel === "scan" && <ScanPanel job={job} link={link} ask={ask.mutate} />}
          {panel === "live" && (
            <>
              <Recorder job={job} link={link} ask={ask.mutate} />
              <Gauges link={link} ask={ask.mutate} />
            </>
          )}
          {panel === "outputs" && <Outputs link={link} ask={ask.mutate} />}
        </>
      )}
      {link.notes.length > 0 && (
        <Box component="section" aria-label="On the line" sx={{ mt: 2 }}>
          <Typography variant="h2">On the line</Typography>
          {link.notes.slice(-6).map((note, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: notes may repeat, and are only ever added at the end.
            <Typography key={index} variant="body2" color="text.secondary">
              {note}
            </Typography>
          ))}
        </Box>
      )}
      <Typography variant="body2" color="text.secondary" sx={{ mt: 2 }}>
        A file instead of a car?{" "}
        <Box component={Link} to={`/jobs/${job.id}/log`} sx={{ color: "text.primary" }}>
          Read a log or a capture
        </Box>
        .
      </Typography>
    </Screen>
  );
}

/** In one line: to what it is linked, and what it does. */
function LinkLine({ link }: { link: LinkStatus }) {
  const { activity } = link;
  const doing =
    activity.doing === "scanning"
      ? `reading ${activity.unit}, unit ${activity.done + 1} of ${activity.of}`
      : activity.doing === "trying-again"
        ? `the link dropped; try ${activity.attempt}`
        : {
            nothing: link.connected ? "linked, at rest" : "no link",
            connecting: "connecting",
            clearing: "clearing",
            watching: "watching live data",
            recording: "recording",
          }[activity.doing];
  return (
    <Box role="status" sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "baseline" }}>
      <Box sx={{ fontSize: "1.2rem", fontWeight: 700 }}>{doing}</Box>
      {link.address && <Box sx={{ fontFamily: FIGURES }}>{link.address}</Box>}
      {link.connected && <Box>{link.long_identifiers ? "29-bit identifiers" : "11-bit identifiers"}</Box>}
      {link.drops > 0 && <Box>dropped {link.drops} times</Box>}
      {link.rubbish > 0 && <Box>{link.rubbish} lines were rubbish and were not used</Box>}
    </Box>
  );
}
