import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useAdapters, useConnect } from "../api/link";
import { asProblem } from "../api/problem";
import type { JobView } from "../api/types";
import { FIGURES } from "../app/theme";
import { ProblemNote } from "../fields/ProblemNote";
import { useDraft } from "../fields/useDraft";

/** Choosing the adapter: one that is known, or an address. */
export function Connect({ job }: { job: JobView }) {
  const adapters = useAdapters();
  const connect = useConnect(job.id);
  const [{ address }, change] = useDraft("adapter", { address: "" });
  const own = adapters.data?.filter((one) => one.fleet_no === job.vehicle.fleet_no) ?? [];
  const problem = connect.error ? asProblem(connect.error) : null;
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 2, maxWidth: 640, my: 2 }}>
      <Typography>
        Ignition on, adapter in the socket. Nobody under the bonnet while outputs are driven; engine running only with
        extraction.
      </Typography>
      {own.map((adapter) => (
        <Button
          key={adapter.address}
          variant="contained"
          size="large"
          sx={{ minHeight: 56, justifyContent: "space-between" }}
          disabled={connect.isPending}
          onClick={() => connect.mutate(adapter.address)}
        >
          <span>Connect to {adapter.fleet_no}, simulated</span>
          <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 400 }}>
            {adapter.address}
          </Box>
        </Button>
      ))}
      <Box
        component="form"
        onSubmit={(event) => {
          event.preventDefault();
          connect.mutate(address);
        }}
        sx={{ display: "flex", gap: 1, alignItems: "flex-start" }}
      >
        <TextField
          label="Address of another adapter"
          placeholder="127.0.0.1:35000"
          value={address}
          onChange={(event) => change({ address: event.target.value })}
          error={Boolean(problem?.reasonFor("address"))}
          helperText={problem?.reasonFor("address") ?? "Address and port, frames as text, one a line"}
        />
        <Button type="submit" variant="outlined" color="inherit" disabled={!address.trim() || connect.isPending}>
          Connect
        </Button>
      </Box>
      {!problem?.reasonFor("address") && <ProblemNote error={connect.error} />}
    </Box>
  );
}
