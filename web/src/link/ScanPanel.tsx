import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useSaveScan } from "../api/link";
import { useAppend } from "../api/queries";
import type { JobView, LinkRequest, LinkStatus } from "../api/types";
import { usePreferences } from "../app/preferences";
import { FIGURES } from "../app/theme";
import { ProblemNote } from "../fields/ProblemNote";
import { requestKey } from "../fields/requestKey";
import { Frozen } from "../units/Frozen";
import { Units } from "../units/Units";

interface Props {
  job: JobView;
  link: LinkStatus;
  ask: (request: LinkRequest) => void;
}

/** Reading all units, saving what they say, and only then clearing it. */
export function ScanPanel({ job, link, ask }: Props) {
  const { author } = usePreferences();
  const save = useSaveScan(job.id);
  const { scan } = link;
  const scanning = link.activity.doing === "scanning";
  const unsaved = scan && !scanning && scan.saved_as == null && scan.units.length > 0;
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1.5 }}>
        {scanning ? (
          <Button variant="contained" size="large" onClick={() => ask({ what: "stop-scan" })}>
            Stop the scan
          </Button>
        ) : (
          <Button
            variant={unsaved ? "outlined" : "contained"}
            color={unsaved ? "inherit" : "primary"}
            size="large"
            disabled={!link.connected}
            onClick={() => ask({ what: "scan" })}
          >
            {scan ? "Scan all units again" : "Scan all units"}
          </Button>
        )}
        {unsaved && (
          <Button
            variant="contained"
            size="large"
            disabled={save.isPending}
            onClick={() =>
              save.mutate({
                number: scan.number,
                odometer_km: job.state.odometer_km,
                author,
                seen: job.entries.length,
                request_key: requestKey(),
              })
            }
          >
            Write the scan on the trail
          </Button>
        )}
        {scan?.saved_as != null && <Typography>Saved as entry {scan.saved_as}.</Typography>}
        {scan?.identification && (
          <Typography color="text.secondary">
            identification <span style={{ fontFamily: FIGURES }}>{scan.identification}</span>
          </Typography>
        )}
      </Box>
      <ProblemNote error={save.error} />
      {!scan && !scanning && (
        <Typography color="text.secondary">
          Every unit is read, not only the engine's: an engine fault drags codes into other units, and an unread unit is
          not a clean one.
        </Typography>
      )}
      {scan && scan.saved_as == null && <JustRead scan={scan} />}
      {scan?.saved_as != null && (
        <>
          <Clear job={job} link={link} ask={ask} />
          {job.state.units && <Units overview={job.state.units} />}
        </>
      )}
      {!scan && job.state.units && <Units overview={job.state.units} />}
    </Box>
  );
}

/** The scan as it comes, before it is on the trail. */
function JustRead({ scan }: { scan: NonNullable<LinkStatus["scan"]> }) {
  return (
    <Box component="section" aria-label="Just read">
      {scan.units.map((unit) => (
        <Box
          key={`${unit.number}-${unit.name}`}
          sx={{ display: "grid", gridTemplateColumns: "9rem 1fr", gap: 2, py: 1, borderTop: 1, borderColor: "divider" }}
        >
          <Box>
            <Box sx={{ fontSize: "1.15rem", fontWeight: 700 }}>{unit.name}</Box>
            <Box sx={{ color: "text.secondary" }}>{unit.read ? "read" : "not read"}</Box>
          </Box>
          <Box>
            {!unit.read && <Typography sx={{ fontWeight: 600 }}>{unit.why}</Typography>}
            {unit.read && unit.codes.length === 0 && <Typography color="text.secondary">no codes</Typography>}
            {unit.codes.map((code) => (
              <Box key={code.code} sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
                <Box sx={{ fontFamily: FIGURES, fontSize: "1.2rem", fontWeight: 600 }}>{code.code}</Box>
                <Box>{code.status}</Box>
                <Frozen values={code.freeze ?? []} code={code.code} />
              </Box>
            ))}
            {unit.self_tests && (
              <Typography variant="body2">
                {unit.self_tests.not_ready.length === 0
                  ? "Self-tests: all have run"
                  : `Self-tests that have not run yet: ${unit.self_tests.not_ready.join(", ")}`}
              </Typography>
            )}
            {unit.monitors.some((one) => one.cylinder != null && one.test === "0C") && (
              <Typography variant="body2">
                Misfires counted this drive:{" "}
                <span style={{ fontFamily: FIGURES }}>
                  {unit.monitors
                    .filter((one) => one.cylinder != null && one.test === "0C")
                    .map((one) => `${one.cylinder}: ${one.value}`)
                    .join("  ")}
                </span>
              </Typography>
            )}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** Clearing, with what it costs, and only after the scan was saved. */
function Clear({ job, link, ask }: Props) {
  const { author } = usePreferences();
  const append = useAppend(job.id);
  const [known, setKnown] = useState(false);
  const [asked, setAsked] = useState(false);
  const { scan } = link;
  if (!scan) return null;
  const written = job.entries.some((entry) => entry.finding.kind === "cleared" && entry.number > (scan.saved_as ?? 0));
  if (scan.cleared)
    return (
      <Box sx={{ my: 1.5 }}>
        <Typography sx={{ fontWeight: 600 }}>
          Cleared. Now run it, then scan again: at once is a hard fault, after a drive is real but conditional, not at
          all was stale.
        </Typography>
        {!written && (
          <Button
            variant="contained"
            disabled={append.isPending}
            onClick={() =>
              append.mutate({
                entry: {
                  odometer_km: job.state.odometer_km,
                  author,
                  replaces: null,
                  finding: { kind: "cleared", text: `Saved as entry ${scan.saved_as} first.` },
                },
                seen: job.entries.length,
                request_key: requestKey(),
              })
            }
          >
            Write the clearing on the trail
          </Button>
        )}
        <ProblemNote error={append.error} />
      </Box>
    );
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", my: 1.5 }}>
      <FormControlLabel
        control={<Checkbox checked={known} onChange={(event) => setKnown(event.target.checked)} />}
        label="Clearing resets the emission readiness monitors, and the freeze frames are gone from the car."
      />
      <Button
        variant="outlined"
        color="inherit"
        disabled={!known || asked || !link.connected}
        onClick={() => {
          setAsked(true);
          ask({ what: "clear" });
        }}
      >
        Clear all units
      </Button>
    </Box>
  );
}
