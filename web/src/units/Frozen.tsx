import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useId, useState } from "react";
import type { FrozenValue } from "../api/types";
import { FIGURES } from "../app/theme";

/** The values that were kept when a code was set, shown when asked for. */
export function Frozen({ values, code }: { values: FrozenValue[]; code: string }) {
  const [open, setOpen] = useState(false);
  const id = useId();
  if (values.length === 0) return null;
  return (
    <>
      <Button
        color="inherit"
        size="small"
        aria-expanded={open}
        aria-controls={id}
        aria-label={`Freeze frame of ${code}`}
        onClick={() => setOpen(!open)}
      >
        {open ? "Hide freeze frame" : "Freeze frame"}
      </Button>
      {open && (
        <Box
          id={id}
          component="dl"
          sx={{
            m: 0,
            width: "100%",
            display: "grid",
            gridTemplateColumns: "repeat(auto-fill, minmax(11rem, 1fr))",
            gap: 1,
          }}
        >
          {values.map((value) => (
            <Box key={value.name}>
              <Box component="dt" sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
                {value.name}
              </Box>
              <Box component="dd" sx={{ m: 0, fontFamily: FIGURES, fontSize: "1.1rem" }}>
                {value.value == null ? value.text : `${Number(value.value.toFixed(2))} ${value.unit}`}
              </Box>
            </Box>
          ))}
        </Box>
      )}
    </>
  );
}
