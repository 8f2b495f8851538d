import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import {
  capturesQuery,
  type SimProbe,
  type StoredCapture,
  simulatedQuery,
  useSimulatedCapture,
  useTakeCapture,
} from "../api/bench";
import { useJob } from "../api/queries";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { Waiting } from "../app/Waiting";
import { moment, plural, whole } from "../app/words";
import { reader } from "../entry/form";
import { ProblemNote } from "../fields/ProblemNote";
import { QuantityField } from "../fields/QuantityField";

const PROBES: readonly (readonly [SimProbe, string])[] = [
  ["coil-current", "Coil current"],
  ["ignition-voltage", "Ignition voltage"],
  ["injector", "Injector"],
  ["motor-drive", "Motor drive"],
  ["cranking", "Cranking current"],
  ["crank-and-cam", "Crank and cam"],
];

interface Scale {
  channel: string;
  factor: string;
  unit: string;
}

/** Captures of a scope: taken from a file, or with the simulated scope where there is one. */
export default function ScopeView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  const captures = useQuery(capturesQuery(id));
  if (job.isPending || captures.isPending) return <Waiting what="the captures" />;
  if (!job.data) return <NotHere what="job" />;
  const fleetNo = job.data.vehicle.fleet_no;
  return (
    <Screen
      title={`${fleetNo}: scope`}
      back="Back to the job"
      backTo={`/jobs/${id}`}
      actions={
        <Button component={Link} to={`/jobs/${id}/bench`} variant="outlined" color="inherit">
          Bench
        </Button>
      }
    >
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1fr" }, gap: 4 }}>
        <Box>
          <FromFile job={id} />
          <Simulated job={id} fleetNo={fleetNo} />
        </Box>
        <Box component="section" aria-label="Captures of this job">
          <Typography variant="h2">Captures of this job</Typography>
          <ProblemNote error={captures.error} retry={() => captures.refetch()} />
          {captures.data?.length === 0 && (
            <Typography color="text.secondary">
              None yet. Clamp the scope on, save what it shows as CSV or WAV, and take the file here.
            </Typography>
          )}
          {captures.data?.map((one) => (
            <CaptureLine key={one.id} capture={one} />
          ))}
        </Box>
      </Box>
    </Screen>
  );
}

function CaptureLine({ capture }: { capture: StoredCapture }) {
  const { about } = capture;
  return (
    <Button
      component={Link}
      to={`/captures/${capture.id}`}
      color="inherit"
      fullWidth
      sx={{ justifyContent: "flex-start", textAlign: "left", py: 1, borderTop: 1, borderColor: "divider" }}
    >
      <Box>
        <Box>{capture.name}</Box>
        <Box sx={{ fontWeight: 400, color: "text.secondary" }}>
          {moment(capture.made_at)}, {(about.step_s * about.samples).toPrecision(3)} s, {whole(about.samples)} samples
          of {plural(about.channels.length, "channel")}
        </Box>
      </Box>
    </Button>
  );
}

function FromFile({ job }: { job: number }) {
  const take = useTakeCapture(job);
  const queries = useQueryClient();
  const go = useNavigate();
  const [rate, setRate] = useState("");
  const [scales, setScales] = useState<Scale[]>([]);
  const [failed, setFailed] = useState<unknown>(null);
  const [file, setFile] = useState<File | null>(null);
  const set = (index: number, part: Partial<Scale>) =>
    setScales(scales.map((one, place) => (place === index ? { ...one, ...part } : one)));
  const send = async (chosen: File) => {
    setFile(chosen);
    setFailed(null);
    try {
      const read = reader(queries);
      const rate_hz = rate.trim() === "" ? null : await read.number(rate, "number", "rate_hz");
      const given = scales.filter((one) => one.channel.trim() !== "");
      const pairs = await Promise.all(
        given.map(async (one) => [
          one.channel.trim(),
          { factor: await read.number(one.factor, "number", "factor"), unit: one.unit.trim() },
        ]),
      );
      const options = rate_hz == null && pairs.length === 0 ? null : { rate_hz, scales: Object.fromEntries(pairs) };
      const stored = await take.mutateAsync({ file: chosen, options });
      go(`/captures/${stored.id}`);
    } catch (error) {
      setFailed(error);
    }
  };
  return (
    <Box component="section" aria-label="A capture from a file">
      <Typography variant="h2">From a file</Typography>
      <Typography color="text.secondary" sx={{ mb: 1.5 }}>
        CSV with a time column and a column for each channel, or WAV. At most 16 million samples of 8 channels.
      </Typography>
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "center", mb: 1 }}>
        <Button component="label" variant="contained" size="large" disabled={take.isPending}>
          {take.isPending ? "Reading …" : "Choose a capture"}
          <input
            type="file"
            hidden
            accept=".csv,.txt,.tsv,.wav,text/*,audio/wav"
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              if (chosen) send(chosen);
              event.target.value = "";
            }}
          />
        </Button>
        {file && !take.isPending && Boolean(failed) && (
          <Button variant="outlined" color="inherit" onClick={() => send(file)}>
            Try {file.name} again
          </Button>
        )}
      </Box>
      <ProblemNote error={failed} />
      <QuantityField
        label="Samples a second, where the file has no time"
        dimension="number"
        value={rate}
        onValue={setRate}
        sx={{ maxWidth: "22rem" }}
      />
      {scales.map((one, index) => (
        <Box
          // biome-ignore lint/suspicious/noArrayIndexKey: its channel is being typed.
          key={index}
          sx={{ display: "flex", gap: 1, mb: 1 }}
        >
          <TextField
            label="Channel"
            placeholder="channel 1"
            value={one.channel}
            onChange={(event) => set(index, { channel: event.target.value })}
          />
          <TextField
            label="one unit is"
            placeholder="100"
            value={one.factor}
            onChange={(event) => set(index, { factor: event.target.value })}
          />
          <TextField
            label="of"
            placeholder="A"
            value={one.unit}
            onChange={(event) => set(index, { unit: event.target.value })}
          />
        </Box>
      ))}
      <Button color="inherit" onClick={() => setScales([...scales, { channel: "", factor: "", unit: "" }])}>
        A channel stands for something else (a clamp, a divider)
      </Button>
    </Box>
  );
}

function Simulated({ job, fleetNo }: { job: number; fleetNo: string }) {
  const there = useQuery(simulatedQuery(fleetNo));
  const capture = useSimulatedCapture(job);
  const go = useNavigate();
  if (!there.data?.here) return null;
  return (
    <Box component="section" aria-label="The simulated scope" sx={{ mt: 2 }}>
      <Typography variant="h2">With the simulated scope</Typography>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", mt: 1 }}>
        {PROBES.map(([probe, name]) => (
          <Button
            key={probe}
            variant="outlined"
            color="inherit"
            disabled={capture.isPending}
            onClick={() => capture.mutate(probe, { onSuccess: (stored) => go(`/captures/${stored.id}`) })}
          >
            {name}
          </Button>
        ))}
      </Box>
      <ProblemNote error={capture.error} />
    </Box>
  );
}
