import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { repairChoicesQuery } from "../api/repair";
import { Choice } from "../bench/Choice";
import { Grid } from "../bench/Grid";
import { OneOf } from "../bench/OneOf";
import type { TorqueText } from "./stages";

interface Props {
  value: TorqueText;
  change: (part: Partial<TorqueText>) => void;
  refused: (...fields: string[]) => string | undefined;
  wrench?: boolean;
}

/** Stages, fasteners and the wrench. */
export function TorqueFields({ value, change, refused, wrench = true }: Props) {
  const choices = useQuery(repairChoicesQuery);
  const typical = value.stages.trim() === "";
  const stagesRefused = refused("stages", "torque", "angle_deg");
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 0.75 }}>
      <TextField
        label="The maker's stages, with their units"
        placeholder="8 N·m; 20 N·m; 90°"
        value={value.stages}
        onChange={(event) => change({ stages: event.target.value })}
        error={Boolean(stagesRefused)}
        helperText={
          stagesRefused ??
          "one after the other, with ; between: a torque (N·m, lb ft, lb in, kgf m), an angle, or slacken"
        }
      />
      {typical && (
        <Grid columns={2}>
          <Choice
            label="No specification? The thread"
            value={value.thread}
            onValue={(thread) => change({ thread })}
            options={[["", "none"], ...(choices.data?.threads ?? []).map((one) => [one, one] as const)]}
            refused={refused("thread")}
            helper="a typical figure, and marked as such"
          />
          <Choice
            label="Cut into"
            value={value.into}
            onValue={(into) => change({ into: into as TorqueText["into"] })}
            options={[
              ["steel", "steel or iron"],
              ["aluminium", "aluminium"],
            ]}
          />
        </Grid>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "start" }}>
        <TextField
          label="Fasteners"
          value={value.count}
          onChange={(event) => change({ count: event.target.value })}
          error={Boolean(refused("fasteners"))}
          helperText={refused("fasteners") ?? " "}
          sx={{ width: 110 }}
        />
        {value.count.trim() !== "1" && (
          <OneOf
            label="How they lie"
            options={[
              ["cover", "over an area"],
              ["circle", "on a circle"],
              ["row", "in a row"],
            ]}
            chosen={value.pattern}
            onChosen={(pattern) => change({ pattern })}
          />
        )}
        {value.count.trim() !== "1" && value.pattern === "cover" && (
          <TextField
            label="Rows"
            value={value.rows}
            onChange={(event) => change({ rows: event.target.value })}
            error={Boolean(refused("rows"))}
            helperText={refused("rows") ?? " "}
            sx={{ width: 90 }}
          />
        )}
        <Button
          variant={value.single_use ? "contained" : "outlined"}
          color={value.single_use ? "primary" : "inherit"}
          aria-pressed={value.single_use}
          onClick={() => change({ single_use: !value.single_use })}
          sx={{ height: 44 }}
        >
          Single use
        </Button>
      </Box>
      {wrench && (
        <Grid columns={3}>
          <TextField
            label="Torque wrench"
            placeholder="half-inch click"
            value={value.wrench}
            onChange={(event) => change({ wrench: event.target.value })}
            error={Boolean(refused("wrench.name"))}
            helperText={refused("wrench.name") ?? " "}
          />
          <TextField
            label="reads from"
            placeholder="10 N·m"
            value={value.low}
            onChange={(event) => change({ low: event.target.value })}
            error={Boolean(refused("low"))}
            helperText={refused("low") ?? " "}
          />
          <TextField
            label="up to"
            placeholder="50 N·m"
            value={value.high}
            onChange={(event) => change({ high: event.target.value })}
            error={Boolean(refused("high", "high_nm"))}
            helperText={refused("high", "high_nm") ?? " "}
          />
        </Grid>
      )}
    </Box>
  );
}
