import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { Link } from "react-router";

interface Props {
  title: string;
  back: string;
  backTo: string;
  actions?: ReactNode;
  children: ReactNode;
}

/** A screen beside the job: its title, what can be done there, and the way back. */
export function Screen({ title, back, backTo, actions, children }: Props) {
  return (
    <Box sx={{ px: 3, py: 1.5, maxWidth: 1500, width: "100%", mx: "auto" }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1.5, mb: 1 }}>
        <Typography variant="h1" sx={{ flex: 1, minWidth: "12rem" }}>
          {title}
        </Typography>
        {actions}
        <Button component={Link} to={backTo} variant="outlined" color="inherit">
          {back}
        </Button>
      </Box>
      {children}
    </Box>
  );
}
