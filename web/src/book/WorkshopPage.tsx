import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { bookQuery, ownQuery, useChangeOwn, useVehicles } from "../api/queries";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { percent } from "../app/words";
import { reader } from "../entry/form";
import { ProblemNote } from "../fields/ProblemNote";

/** What this workshop knows beside the book: its hour's price, usual suspects, and what closed jobs have taught. */
export default function WorkshopPage() {
  const own = useQuery(ownQuery);
  const book = useQuery(bookQuery);
  const vehicles = useVehicles();
  const queries = useQueryClient();
  const change = useChangeOwn();
  const [hour, setHour] = useState("");
  const [usual, setUsual] = useState({ fault: "", vehicle: "", cases: "5", because: "" });
  const [failed, setFailed] = useState<unknown>(null);
  if (own.isPending || book.isPending) return <Waiting what="what the workshop knows" />;
  if (!own.data || !book.data) return <NotHere what="page" />;
  const page = own.data;
  const kept = page.own;
  const put = (part: Partial<typeof kept>) => change.mutateAsync({ ...kept, ...part }).catch(setFailed);
  const name = (id: string) => book.data.faults.find((fault) => fault.id === id)?.name ?? id;
  const models = [...new Set((vehicles.data ?? []).map((one) => one.name))];
  const add = async () => {
    setFailed(null);
    try {
      const cases = await reader(queries).number(usual.cases, "money", "cases");
      await put({
        usual: [
          ...(kept.usual ?? []),
          { fault: usual.fault, cases, vehicle: usual.vehicle || null, because: usual.because },
        ],
      });
      setUsual({ fault: "", vehicle: "", cases: "5", because: "" });
    } catch (error) {
      setFailed(error);
    }
  };
  const setLabour = async () => {
    setFailed(null);
    try {
      await put({ labour_per_hour: await reader(queries).number(hour, "money", "labour_per_hour") });
      setHour("");
    } catch (error) {
      setFailed(error);
    }
  };
  return (
    <Screen title="What this workshop knows" back="Back to the book" backTo="/book">
      {page.broken && (
        <Alert severity="warning" variant="outlined" icon={false} sx={{ mb: 2 }}>
          The workshop's own file is not used, and the built-in book counts: {page.broken}. Mend it or move it away,
          then start again. Nothing of it was changed.
        </Alert>
      )}
      <ProblemNote error={failed} />
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1fr" }, gap: 4 }}>
        <Box component="section" aria-label="Usual suspects">
          <Typography variant="h2">Usual suspects</Typography>
          <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
            Worth knowing, and no proof. Each counts as so many cases of the workshop's own, added to the book's rates.
          </Typography>
          {(kept.usual ?? []).length === 0 && <Typography color="text.secondary">None written down yet.</Typography>}
          {(kept.usual ?? []).map((one, index) => (
            <Box
              key={`${one.fault} ${one.vehicle} ${one.because}`}
              sx={{ display: "flex", gap: 1, alignItems: "center" }}
            >
              <Box sx={{ flex: 1, lineHeight: 1.25 }}>
                {name(one.fault)}, {one.vehicle ?? "every vehicle"}: {one.cases} cases
                {one.because ? ` (${one.because})` : ""}
              </Box>
              <Button
                color="inherit"
                onClick={() => put({ usual: (kept.usual ?? []).filter((_, place) => place !== index) })}
              >
                Take it back
              </Button>
            </Box>
          ))}
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1, mt: 1.5 }}>
            <TextField
              select
              label="Fault"
              value={usual.fault}
              onChange={(event) => setUsual({ ...usual, fault: event.target.value })}
            >
              {book.data.faults.map((fault) => (
                <MenuItem key={fault.id} value={fault.id}>
                  {fault.name}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              select
              label="Vehicle"
              value={usual.vehicle}
              onChange={(event) => setUsual({ ...usual, vehicle: event.target.value })}
              slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
            >
              <MenuItem value="">every vehicle</MenuItem>
              {models.map((model) => (
                <MenuItem key={model} value={model}>
                  {model}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              label="Worth so many cases"
              value={usual.cases}
              onChange={(event) => setUsual({ ...usual, cases: event.target.value })}
            />
            <TextField
              label="Who says so"
              value={usual.because}
              onChange={(event) => setUsual({ ...usual, because: event.target.value })}
            />
          </Box>
          <Button variant="outlined" color="inherit" disabled={usual.fault === ""} onClick={add} sx={{ mt: 1 }}>
            Write it down
          </Button>
        </Box>
        <Box sx={{ display: "flex", flexDirection: "column", gap: 2.5 }}>
          <Box component="section" aria-label="Learnt from closed jobs">
            <Typography variant="h2">Learnt from closed jobs</Typography>
            {page.learnt.length === 0 && (
              <Typography color="text.secondary">
                No job is closed with its repair proven yet. Nothing is learnt from a repair that is not.
              </Typography>
            )}
            {page.learnt.map((one) => (
              <Box key={one.job} sx={{ display: "flex", gap: 1, alignItems: "center" }}>
                <Box sx={{ flex: 1, lineHeight: 1.25 }}>
                  Job {one.job}, {one.fleet_no}: {one.name}
                  {one.counts ? "" : " (does not count)"}
                </Box>
                <Button
                  color="inherit"
                  onClick={() =>
                    put({
                      unlearnt_jobs: one.counts
                        ? [...(kept.unlearnt_jobs ?? []), one.job]
                        : (kept.unlearnt_jobs ?? []).filter((job) => job !== one.job),
                    })
                  }
                >
                  {one.counts ? "Take it back" : "Let it count"}
                </Button>
              </Box>
            ))}
          </Box>
          {page.bent.length > 0 && (
            <Box component="section" aria-label="What that does">
              <Typography variant="h2">What that does to the rates</Typography>
              {page.bent.map((one) => (
                <Box key={one.fault} sx={{ display: "flex", gap: 1 }}>
                  <Box sx={{ flex: 1 }}>{one.name}</Box>
                  <Box sx={{ fontFamily: FIGURES }}>
                    {percent(one.book_pct)} → {percent(one.here_pct)}
                  </Box>
                </Box>
              ))}
            </Box>
          )}
          <Box component="section" aria-label="Backup">
            <Typography variant="h2">Backup</Typography>
            <Typography color="text.secondary">
              Everything in one file: jobs, recordings, captures, photographs, and what stands on this page. It can be
              made while others work.
            </Typography>
            <Button component="a" href="/api/backup" variant="outlined" color="inherit" sx={{ mt: 0.5 }}>
              Make a backup now
            </Button>
          </Box>
          <Box component="section" aria-label="An hour's work">
            <Typography variant="h2">An hour's work: {page.labour_per_hour}</Typography>
            <Box sx={{ display: "flex", gap: 1, alignItems: "center", mt: 0.5 }}>
              <TextField
                size="small"
                label="Money for an hour"
                value={hour}
                onChange={(event) => setHour(event.target.value)}
              />
              <Button variant="outlined" color="inherit" disabled={hour.trim() === ""} onClick={setLabour}>
                Keep it
              </Button>
            </Box>
          </Box>
        </Box>
      </Box>
    </Screen>
  );
}
