import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { StoredVehicle } from "../api/types";
import { FIGURES } from "../app/theme";

interface Props {
  vehicles: StoredVehicle[];
  chosen: number | "new" | null;
  onChoose: (vehicle: number | "new") => void;
}

/** The depot's vehicles by the number on the door, and the way to another one. */
export function VehicleChoice({ vehicles, chosen, onChoose }: Props) {
  return (
    <Box
      role="group"
      aria-label="Vehicle"
      sx={{ display: "grid", gridTemplateColumns: chosen === "new" ? "repeat(4, 1fr)" : "1fr 1fr", gap: 0.75 }}
    >
      {vehicles.map((one) => (
        <Button
          key={one.id}
          variant={chosen === one.id ? "contained" : "outlined"}
          aria-pressed={chosen === one.id}
          onClick={() => onChoose(one.id)}
          sx={{
            justifyContent: "flex-start",
            textAlign: "left",
            gap: 1,
            lineHeight: 1.15,
            minHeight: chosen === "new" ? 44 : 52,
            px: 1.25,
          }}
        >
          <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 600, whiteSpace: "nowrap" }}>
            {one.fleet_no}
          </Box>
          {/* While another vehicle is described, its drawing needs the room. */}
          {chosen !== "new" && (
            <Box component="span" sx={{ fontWeight: 400 }}>
              {one.name}
            </Box>
          )}
        </Button>
      ))}
      <Button
        variant={chosen === "new" ? "contained" : "outlined"}
        aria-pressed={chosen === "new"}
        onClick={() => onChoose("new")}
        sx={{ minHeight: chosen === "new" ? 44 : 52, lineHeight: 1.1 }}
      >
        Another vehicle
      </Button>
    </Box>
  );
}
