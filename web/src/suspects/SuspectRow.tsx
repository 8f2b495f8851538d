import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useState } from "react";
import type { Suspect } from "../api/types";
import { Glow } from "../app/Glow";
import { FIGURES } from "../app/theme";
import { sure } from "../app/words";
import { suspectName } from "./names";
import { Speaks } from "./Speaks";

/** One suspect: how likely, and on a touch what speaks for and against it. */
export function SuspectRow({
  suspect,
  most,
  open: first = false,
}: {
  suspect: Suspect;
  most?: number;
  open?: boolean;
}) {
  const [open, setOpen] = useState(first);
  return (
    <Box component="li">
      <ButtonBase
        onClick={() => setOpen(!open)}
        aria-expanded={open}
        sx={{
          width: "100%",
          minHeight: 44,
          display: "flex",
          alignItems: "center",
          gap: 1,
          textAlign: "left",
          "&:hover": { bgcolor: "background.paper" },
        }}
      >
        <Glow likelihood={suspect.present} size={26} />
        <Box sx={{ flex: 1, lineHeight: 1.2 }}>{suspectName(suspect)}</Box>
        <Box sx={{ fontFamily: FIGURES, fontWeight: 600 }}>{sure(suspect.present)}</Box>
        <Box aria-hidden="true" sx={{ width: "1rem", color: "text.secondary" }}>
          {open ? "−" : "+"}
        </Box>
      </ButtonBase>
      {open && <Speaks suspect={suspect} most={most} />}
    </Box>
  );
}
