import Box from "@mui/material/Box";
import type { SxProps, Theme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import type { FormEvent, ReactNode } from "react";
import type { ApiProblem } from "../api/problem";

interface FrameProps {
  onSave: () => void;
  sx: SxProps<Theme>;
  children: ReactNode;
}

/** A form whose checking is the server's, not the browser's. */
export function EntryFrame({ onSave, sx, children }: FrameProps) {
  return (
    <Box
      component="form"
      noValidate
      onSubmit={(event: FormEvent) => {
        event.preventDefault();
        onSave();
      }}
      sx={sx}
    >
      {children}
    </Box>
  );
}

/** Why an entry was not taken, beside the button that tried. */
export function NotTaken({ problem }: { problem: ApiProblem | null }) {
  if (!problem) return null;
  return (
    <Typography role="alert" color="error" sx={{ mb: 1, fontWeight: 600 }}>
      {problem.kind === "refused"
        ? `Not taken yet. ${problem.errors.map((one) => one.reason).join("; ")}.`
        : problem.message}
    </Typography>
  );
}
