import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import type { JobView, LinkRequest, LinkStatus } from "../api/types";
import { FIGURES } from "../app/theme";
import { whole } from "../app/words";
import { KeepRecording } from "../evidence/KeepRecording";

interface Props {
  job: JobView;
  link: LinkStatus;
  ask: (request: LinkRequest) => void;
}

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

/** Recording a drive: begin, pause, end, and put it on the trail. One drives, another watches. */
export function Recorder({ job, link, ask }: Props) {
  const { recording } = link;
  if (!recording)
    return (
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
        <Button
          variant="contained"
          size="large"
          disabled={!link.connected}
          onClick={() => ask({ what: "record", name: `${job.vehicle.fleet_no} drive` })}
        >
          Record a drive
        </Button>
        <Typography color="text.secondary">
          Idle, a steady cruise and a long climb each tell something else. One drives, another watches the data.
        </Typography>
      </Box>
    );
  return (
    <Box component="section" aria-label="Recording">
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
        <Box sx={{ fontFamily: FIGURES, fontSize: "2rem", fontWeight: 600 }}>{clock(recording.seconds)}</Box>
        <Box>
          {whole(recording.samples)} samples, {recording.distance_km.toFixed(1)} km
        </Box>
        {!recording.ended && (
          <>
            <Button
              variant="outlined"
              color="inherit"
              aria-pressed={recording.paused}
              onClick={() => ask({ what: "pause", on: !recording.paused })}
            >
              {recording.paused ? "Go on" : "Pause"}
            </Button>
            <Button variant="contained" size="large" onClick={() => ask({ what: "end-recording" })}>
              End the recording
            </Button>
          </>
        )}
        {recording.ended && (
          <>
            <Button component={Link} to={`/recordings/${recording.recording}`} variant="outlined" color="inherit">
              Look at it
            </Button>
            <Button color="inherit" onClick={() => ask({ what: "let-go" })}>
              Record another
            </Button>
          </>
        )}
      </Box>
      {recording.ended && (
        <KeepRecording
          job={job}
          recording={recording.recording}
          odometer={job.state.odometer_km + recording.distance_km}
          onKept={() => {}}
        />
      )}
    </Box>
  );
}
