import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { asProblem } from "../api/problem";
import { engineQuery, useAddVehicle, useOpenJob, useVehicles } from "../api/queries";
import { usePreferences } from "../app/preferences";
import { Waiting } from "../app/Waiting";
import { Block } from "../block/Block";
import { EntryFrame, NotTaken } from "../entry/EntryFrame";
import { reader, refusal } from "../entry/form";
import { ComplaintFields, type ComplaintValue, complaintFinding, FIRST_COMPLAINT } from "../entry/forms/complaint";
import { ProblemNote } from "../fields/ProblemNote";
import { QuantityField } from "../fields/QuantityField";
import { requestKey } from "../fields/requestKey";
import { useDraft } from "../fields/useDraft";
import { EngineForm, type EngineValue, engineOf, FIRST_ENGINE } from "./EngineForm";
import { VehicleChoice } from "./VehicleChoice";

interface Choice {
  /** A vehicle of the depot, or `new`. */
  vehicle: number | "new" | null;
  odometer: string;
  key: string;
}

/** A job is started here in under a minute: which vehicle, what it does. */
export function NewJob() {
  const vehicles = useVehicles();
  const preferences = usePreferences();
  const queries = useQueryClient();
  const go = useNavigate();
  const addVehicle = useAddVehicle();
  const openJob = useOpenJob();
  const [choice, choose, forgetChoice] = useDraft<Choice>("new-job", {
    vehicle: null,
    odometer: "",
    key: requestKey(),
  });
  const [complaint, changeComplaint, forgetComplaint] = useDraft<ComplaintValue>("new-job.complaint", FIRST_COMPLAINT);
  const [engine, changeEngine, forgetEngine] = useDraft<EngineValue>("new-job.engine", FIRST_ENGINE);
  const [failed, setFailed] = useState<unknown>(null);
  const problem = failed ? asProblem(failed) : null;
  const refused = (...fields: string[]) => problem?.reasonFor(...fields);

  const known = vehicles.data?.find((one) => one.id === choice.vehicle);
  const described = choice.vehicle === "new" ? engineOf(engine) : (known?.engine ?? null);
  const drawn = useQuery(engineQuery(described));

  if (vehicles.isPending) return <Waiting what="the vehicles" />;

  const save = async () => {
    setFailed(null);
    try {
      if (choice.vehicle === null) throw refusal("vehicle", "choose the vehicle first");
      const read = reader(queries);
      const odometer_km = await read.number(choice.odometer, "distance", "odometer_km");
      const finding = await complaintFinding(complaint, read);
      let vehicle_id = choice.vehicle;
      if (vehicle_id === "new") {
        const added = await addVehicle.mutateAsync({
          fleet_no: engine.fleet_no,
          name: engine.name,
          engine: engineOf(engine),
        });
        vehicle_id = added.id;
        choose({ vehicle: added.id });
      }
      const job = await openJob.mutateAsync({
        vehicle_id,
        first: { odometer_km, author: preferences.author, replaces: null, finding },
        request_key: choice.key,
      });
      forgetChoice();
      forgetComplaint();
      forgetEngine();
      go(`/jobs/${job.id}`);
    } catch (error) {
      setFailed(error);
    }
  };

  return (
    <EntryFrame onSave={save} sx={{ px: 3, py: 2, maxWidth: 1280, width: "100%", mx: "auto" }}>
      <Typography variant="h1" sx={{ mb: 1.5 }}>
        New job
      </Typography>
      <ProblemNote error={vehicles.error} retry={() => vehicles.refetch()} />
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1.15fr" }, gap: 4 }}>
        <Box>
          <Typography variant="h2" sx={{ mb: 0.75 }}>
            Which vehicle
          </Typography>
          <VehicleChoice
            vehicles={vehicles.data ?? []}
            chosen={choice.vehicle}
            onChoose={(vehicle) => choose({ vehicle })}
          />
          {refused("vehicle") && <Typography color="error">{refused("vehicle")}</Typography>}
          {choice.vehicle === "new" && <EngineForm value={engine} change={changeEngine} refused={refused} />}
          {described && drawn.isError && (
            <Typography role="alert" color="error" sx={{ fontWeight: 600, my: 1 }}>
              {asProblem(drawn.error)
                .errors.map((one) => `${one.field.replaceAll("_", " ")}: ${one.reason}`)
                .join("; ") || asProblem(drawn.error).message}
            </Typography>
          )}
          {drawn.data && !drawn.isError && (
            <Box sx={{ mt: 1.5, maxWidth: 420 }}>
              <Block engine={drawn.data} />
            </Box>
          )}
        </Box>
        <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
          <Typography variant="h2">The complaint</Typography>
          <ComplaintFields value={complaint} change={changeComplaint} refused={refused} />
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1.5 }}>
            <QuantityField
              label="Odometer now (km, or write mi)"
              dimension="distance"
              value={choice.odometer}
              onValue={(odometer) => choose({ odometer })}
              refused={refused("odometer_km")}
            />
            <TextField
              label="Signed"
              value={preferences.author}
              onChange={(event) => preferences.set({ author: event.target.value })}
              error={Boolean(refused("author"))}
              helperText={refused("author") ?? " "}
            />
          </Box>
          <NotTaken problem={problem} />
          <Button
            type="submit"
            variant="contained"
            size="large"
            disabled={openJob.isPending}
            sx={{ minHeight: 56, fontSize: "1.15rem" }}
          >
            {openJob.isPending ? "Opening …" : "Open the job"}
          </Button>
        </Box>
      </Box>
    </EntryFrame>
  );
}
