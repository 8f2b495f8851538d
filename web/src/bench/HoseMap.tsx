import Box from "@mui/material/Box";
import type { Measurement } from "../api/bench";

export type Hose = Required<Extract<Measurement, { bench: "hoses" }>["places"][number]>;

interface Props {
  hoses: Hose[];
  chosen: number;
  onChosen: (index: number) => void;
}

const SHOWN = { "not-seen": "not looked at", tight: "tight", leaks: "leaks" } as const;

/** The way of the air, hose by hose; a leaking one stands open and smokes. */
export function HoseMap({ hoses, chosen, onChosen }: Props) {
  return (
    <Box
      component="ol"
      aria-label="The way of the air"
      sx={{ listStyle: "none", m: 0, p: 0, display: "flex", flexWrap: "wrap", rowGap: 1.5 }}
    >
      {hoses.map((hose, index) => (
        <Box component="li" key={hose.name} sx={{ display: "flex", alignItems: "center" }}>
          <Box
            component="button"
            type="button"
            aria-pressed={index === chosen}
            aria-label={`${hose.name}: ${SHOWN[hose.state]}`}
            onClick={() => onChosen(index)}
            sx={{
              font: "inherit",
              color: "inherit",
              bgcolor: hose.state === "tight" ? "background.paper" : "transparent",
              border: index === chosen ? 3 : 2,
              borderColor: index === chosen || hose.state === "leaks" ? "text.primary" : "text.secondary",
              borderStyle: hose.state === "tight" ? "solid" : "dashed",
              borderRadius: "18px",
              minHeight: 52,
              width: "8.6rem",
              px: 1,
              lineHeight: 1.1,
              cursor: "pointer",
            }}
          >
            <Box>{hose.name}</Box>
            <Box sx={{ fontSize: "0.85rem", color: hose.state === "leaks" ? "text.primary" : "text.secondary" }}>
              {hose.state === "leaks" ? "≋ leaks ≋" : SHOWN[hose.state]}
            </Box>
          </Box>
          {index < hoses.length - 1 && (
            <Box
              aria-hidden="true"
              sx={{ width: 18, height: 10, borderTop: 2, borderBottom: 2, borderColor: "text.secondary" }}
            />
          )}
        </Box>
      ))}
    </Box>
  );
}
