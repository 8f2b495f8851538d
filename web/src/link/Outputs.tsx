import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { LinkRequest, LinkStatus, OutputState } from "../api/types";
import { FIGURES } from "../app/theme";

/** Driving one output and seeing what it does: an output that obeys here but not the car points at the control. */
export function Outputs({ link, ask }: { link: LinkStatus; ask: (request: LinkRequest) => void }) {
  const [known, setKnown] = useState(false);
  if (link.outputs.length === 0)
    return (
      <Typography color="text.secondary">The outputs of this car are not known here, so none can be driven.</Typography>
    );
  const request = link.live.find((one) => one.channel === "vane_request");
  const position = link.live.find((one) => one.channel === "vane_position");
  return (
    <Box>
      <FormControlLabel
        control={<Checkbox checked={known} onChange={(event) => setKnown(event.target.checked)} />}
        label="Hands, tools and hair are clear of the throttle, the turbocharger, belts and fans; nobody touches the ignition. The car stands, wheels chocked."
      />
      {request && position && (
        <Typography sx={{ mb: 1 }}>
          The car itself asks the vanes for{" "}
          <strong style={{ fontFamily: FIGURES }}>{request.value.toFixed(0)} %</strong> and they stand at{" "}
          <strong style={{ fontFamily: FIGURES }}>{position.value.toFixed(0)} %</strong>. What obeys here and not there
          has a fault in its control or its wiring.
        </Typography>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1fr" }, columnGap: 4 }}>
        {link.outputs.map((output) => (
          <OutputRow key={output.identifier} output={output} able={known && link.connected} ask={ask} />
        ))}
      </Box>
    </Box>
  );
}

function OutputRow({ output, able, ask }: { output: OutputState; able: boolean; ask: (request: LinkRequest) => void }) {
  const [to, setTo] = useState(50);
  const drive = (value: number | null) => ask({ what: "drive", identifier: output.identifier, to: value });
  const reported = output.reported;
  const says =
    output.refused != null
      ? `refused: ${output.refused}`
      : reported == null
        ? ""
        : output.position
          ? `driven to ${output.driven == null ? "nothing" : `${output.driven.toFixed(0)} %`}, stands at ${reported.toFixed(0)} %`
          : reported > 0
            ? "current in the circuit"
            : "no current in the circuit";
  return (
    <Box
      role="group"
      aria-label={output.name}
      sx={{
        display: "flex",
        flexWrap: "wrap",
        gap: 1,
        alignItems: "center",
        py: 0.5,
        borderTop: 1,
        borderColor: "divider",
      }}
    >
      <Box sx={{ fontWeight: 600, width: "8rem" }}>{output.name}</Box>
      {output.position && (
        <Slider
          aria-label={`${output.name}, percent`}
          value={to}
          onChange={(_, value) => setTo(value as number)}
          valueLabelDisplay="auto"
          sx={{ width: 140, mx: 1.5 }}
        />
      )}
      <Button variant="outlined" color="inherit" disabled={!able} onClick={() => drive(output.position ? to : 100)}>
        {output.position ? `Drive to ${to} %` : "Drive"}
      </Button>
      {output.driven != null && (
        <Button color="inherit" onClick={() => drive(null)}>
          Let go
        </Button>
      )}
      <Box role="status" sx={{ flexBasis: "100%" }}>
        {says}
      </Box>
    </Box>
  );
}
