import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useJob } from "../api/queries";
import { importLog, lookAtLog, useImportProgress, useRecordings } from "../api/recordings";
import type { Layout } from "../api/types";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { moment, whole } from "../app/words";
import { reader } from "../entry/form";
import { ProblemNote } from "../fields/ProblemNote";
import { QuantityField } from "../fields/QuantityField";
import { requestKey } from "../fields/requestKey";
import { Columns } from "./Columns";

const megabytes = (bytes: number) => (bytes / 1_048_576).toFixed(bytes < 10_485_760 ? 1 : 0);

/** A log or a capture from a file: what it is taken for, corrected by hand, and read with its progress. */
export default function LogView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  const recordings = useRecordings(id);
  const queries = useQueryClient();
  const go = useNavigate();
  const [file, setFile] = useState<File | null>(null);
  const [layout, setLayout] = useState<Layout | null>(null);
  const [ambient, setAmbient] = useState("");
  const [key, setKey] = useState(requestKey());
  const stop = useRef<AbortController | null>(null);
  const look = useMutation({
    mutationFn: lookAtLog,
    onSuccess: (seen) => setLayout(seen.layout ?? null),
  });
  const take = useMutation({
    mutationFn: async () => {
      if (!file) throw new Error("no file");
      const kpa = ambient.trim() === "" ? null : await reader(queries).number(ambient, "pressure", "ambient_kpa");
      stop.current = new AbortController();
      return importLog(id, file, key, layout, kpa, stop.current.signal);
    },
    onSuccess: (imported) => {
      queries.invalidateQueries({ queryKey: ["recordings", id] });
      go(`/recordings/${imported.recording.id}`);
    },
  });
  const progress = useImportProgress(key, take.isPending);
  if (job.isPending) return <Waiting what="the job" />;
  if (!job.data) return <NotHere what="job" />;
  const choose = (chosen: File) => {
    setFile(chosen);
    setLayout(null);
    setKey(requestKey());
    take.reset();
    look.mutate(chosen);
  };
  const sent = progress.data?.bytes ?? 0;
  return (
    <Screen title={`${job.data.vehicle.fleet_no}: a log from a file`} back="Back to the job" backTo={`/jobs/${id}`}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", my: 1 }}>
        <Button
          component="label"
          variant={file ? "outlined" : "contained"}
          color={file ? "inherit" : "primary"}
          size="large"
        >
          {file ? "Another file" : "Choose a log or a capture"}
          <input
            type="file"
            hidden
            accept=".csv,.txt,.tsv,.log,text/*"
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              if (chosen) choose(chosen);
              event.target.value = "";
            }}
          />
        </Button>
        {file && (
          <Typography>
            {file.name}, {megabytes(file.size)} MB
          </Typography>
        )}
      </Box>
      {!file && (
        <Typography color="text.secondary">
          CSV with a time and channels in any common shape, or CAN traffic as text, one frame a line.
        </Typography>
      )}
      {look.isPending && <Waiting what="the headings" />}
      <ProblemNote error={look.error} />
      {look.data && file && (
        <>
          {look.data.kind === "capture" && (
            <Typography>
              Taken for CAN traffic: live data become channels, codes and faults in the framing are shown.
            </Typography>
          )}
          {look.data.remembered && (
            <Alert severity="info" variant="outlined" icon={false}>
              A file with these headings was read before: its columns are taken as they were then.
            </Alert>
          )}
          {layout && (
            <Columns layout={layout} channels={look.data.channels} sample={look.data.sample} onLayout={setLayout} />
          )}
          {look.data.needs_ambient && (
            <Box sx={{ my: 1 }}>
              <QuantityField
                label="Ambient pressure"
                dimension="pressure"
                value={ambient}
                onValue={setAmbient}
                helperText="A column holds a pressure above ambient: what was the ambient pressure?"
                sx={{ maxWidth: 360 }}
              />
            </Box>
          )}
          <Box sx={{ display: "flex", gap: 1, alignItems: "center", my: 1.5 }}>
            {take.isPending ? (
              <>
                <Box sx={{ flex: 1 }}>
                  <LinearProgress
                    variant="determinate"
                    value={Math.min(100, (100 * sent) / Math.max(1, file.size))}
                    aria-label="Read so far"
                  />
                  <Typography role="status">
                    {megabytes(sent)} of {megabytes(file.size)} MB, {whole(progress.data?.rows ?? 0)} rows
                  </Typography>
                </Box>
                <Button variant="outlined" color="inherit" onClick={() => stop.current?.abort()}>
                  Stop
                </Button>
              </>
            ) : (
              <Button variant="contained" size="large" onClick={() => take.mutate()}>
                Read it
              </Button>
            )}
          </Box>
          <ProblemNote error={take.error} />
        </>
      )}
      {(recordings.data?.length ?? 0) > 0 && (
        <Box component="section" aria-label="Recordings of this job" sx={{ mt: 3 }}>
          <Typography variant="h2">Recordings of this job</Typography>
          {recordings.data?.map((one) => (
            <Box key={one.id} sx={{ py: 0.25 }}>
              <Button component={Link} to={`/recordings/${one.id}`} color="inherit" sx={{ textAlign: "left" }}>
                {one.name}, {moment(one.made_at)}, {whole(one.about.samples)} samples
              </Button>
            </Box>
          ))}
        </Box>
      )}
    </Screen>
  );
}
