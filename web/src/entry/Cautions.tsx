import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useState } from "react";
import type { Caution } from "../api/types";

interface Acknowledged {
  has: (name: string) => boolean;
  toggle: (name: string) => void;
  /** Every caution that must be acknowledged is. */
  all: boolean;
}

/** Which cautions were acknowledged on this job: each is asked for once. */
export function useAcknowledged(jobId: number, cautions: Caution[]): Acknowledged {
  const key = `gritty-ember.acknowledged.${jobId}`;
  const [names, setNames] = useState<string[]>(() => {
    try {
      return JSON.parse(localStorage.getItem(key) ?? "[]");
    } catch {
      return [];
    }
  });
  return {
    has: (name) => names.includes(name),
    toggle: (name) => {
      const next = names.includes(name) ? names.filter((one) => one !== name) : [...names, name];
      setNames(next);
      localStorage.setItem(key, JSON.stringify(next));
    },
    all: cautions.every((caution) => !caution.acknowledge || names.includes(caution.name)),
  };
}

/** The cautions of a step: short, and ticked off where a mistake can injure or lose something for good. */
export function Cautions({ cautions, acknowledged }: { cautions: Caution[]; acknowledged: Acknowledged }) {
  if (cautions.length === 0) return null;
  return (
    <Box
      component="section"
      aria-label="Cautions"
      sx={{ borderLeft: 4, borderColor: "text.primary", pl: 1.5, lineHeight: 1.25 }}
    >
      {cautions.map((caution) =>
        caution.acknowledge ? (
          <FormControlLabel
            key={caution.name}
            control={
              <Checkbox checked={acknowledged.has(caution.name)} onChange={() => acknowledged.toggle(caution.name)} />
            }
            label={caution.text}
            sx={{
              display: "flex",
              alignItems: "center",
              ".MuiFormControlLabel-label": { lineHeight: 1.2, fontSize: "inherit" },
            }}
          />
        ) : (
          <Box key={caution.name} sx={{ py: 0.25 }}>
            {caution.text}
          </Box>
        ),
      )}
    </Box>
  );
}
