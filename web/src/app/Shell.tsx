import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import { Link, Outlet, useNavigate } from "react-router";
import { KeyList } from "./KeyList";
import { usePreferences } from "./preferences";
import { useShortcuts } from "./shortcuts";

/** The frame around every screen: where you are, light or dark, and the list of keys. */
export function Shell() {
  const { theme, set } = usePreferences();
  const [keysOpen, setKeysOpen] = useState(false);
  const go = useNavigate();
  const turn = () => set({ theme: theme === "bay" ? "paper" : "bay" });
  useShortcuts([
    { key: "?", does: "show this list of keys", run: () => setKeysOpen(true) },
    { key: "y", does: "go to the yard", run: () => go("/") },
    { key: "/", does: "find a job", run: () => go("/find") },
    { key: "d", does: "see the depot's figures", run: () => go("/depot") },
    { key: "j", does: "start a new job", run: () => go("/new") },
    { key: "b", does: "open the book of faults and tests", run: () => go("/book") },
    { key: "t", does: "turn to dark or light", run: turn },
  ]);
  return (
    <Box sx={{ minHeight: "100vh", display: "flex", flexDirection: "column" }}>
      <Box
        component="header"
        sx={{
          display: "flex",
          alignItems: "center",
          gap: { xs: 0, md: 1 },
          px: { xs: 1, md: 2 },
          "& .MuiButton-root": { minWidth: 44, px: { xs: 1, md: 2 } },
          minHeight: 48,
          borderBottom: 1,
          borderColor: "divider",
          "@media print": { display: "none" },
        }}
      >
        <Box
          component={Link}
          to="/"
          sx={{
            color: "inherit",
            textDecoration: "none",
            fontWeight: 700,
            fontSize: { xs: "0.95rem", md: "1.1rem" },
            lineHeight: 1.1,
            py: 1.25,
            pr: { xs: 0, md: 2 },
          }}
        >
          Gritty Ember
        </Box>
        <Button component={Link} to="/" color="inherit">
          Yard
        </Button>
        <Button component={Link} to="/new" color="inherit">
          New job
        </Button>
        <Button component={Link} to="/find" color="inherit">
          Find
        </Button>
        <Button component={Link} to="/book" color="inherit">
          Book
        </Button>
        <Box sx={{ flex: 1 }} />
        <Button color="inherit" onClick={turn}>
          {theme === "bay" ? "Paper" : "Bay"}
        </Button>
        <Button color="inherit" onClick={() => setKeysOpen(true)}>
          Keys ?
        </Button>
      </Box>
      <Box component="main" sx={{ flex: 1, display: "flex", flexDirection: "column", minHeight: 0 }}>
        <Outlet />
      </Box>
      <KeyList open={keysOpen} onClose={() => setKeysOpen(false)} />
    </Box>
  );
}
