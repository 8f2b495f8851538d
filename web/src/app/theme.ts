import "@fontsource/archivo-narrow/400.css";
import "@fontsource/archivo-narrow/600.css";
import "@fontsource/archivo-narrow/700.css";
import "@fontsource/ibm-plex-mono/400.css";
import "@fontsource/ibm-plex-mono/600.css";
import { createTheme, type Theme } from "@mui/material/styles";

export const FIGURES = '"IBM Plex Mono", ui-monospace, monospace';
const LABELS = '"Archivo Narrow", "Arial Narrow", sans-serif';

declare module "@mui/material/styles" {
  interface Palette {
    /** The iron of bores and rails, and what lies on it. */
    iron: { main: string; line: string; ink: string };
  }
  interface PaletteOptions {
    iron?: { main: string; line: string; ink: string };
  }
}

/** `bay` is soot and ash for the workshop, `paper` is charcoal on paper for the sun and for print. */
export type ThemeName = "bay" | "paper";

const tones = {
  bay: {
    ground: "#15110f",
    raised: "#211b17",
    line: "#4a4038",
    ink: "#f1e9df",
    quiet: "#b9aca0",
    action: "#ece2d4",
    onAction: "#1b1512",
    iron: { main: "#0c0908", line: "#5d5148", ink: "#f1e9df" },
  },
  paper: {
    ground: "#f3eee4",
    raised: "#fffcf5",
    line: "#b9ae9e",
    ink: "#221c17",
    quiet: "#5c5248",
    action: "#2c241e",
    onAction: "#fffaf0",
    iron: { main: "#2b2420", line: "#7b6f63", ink: "#fff6e8" },
  },
} as const;

export function emberTheme(name: ThemeName): Theme {
  const tone = tones[name];
  return createTheme({
    palette: {
      mode: name === "bay" ? "dark" : "light",
      background: { default: tone.ground, paper: tone.raised },
      text: { primary: tone.ink, secondary: tone.quiet },
      primary: { main: tone.action, contrastText: tone.onAction },
      divider: tone.line,
      error: { main: name === "bay" ? "#f0b4a0" : "#8a2a12" },
      iron: tone.iron,
    },
    shape: { borderRadius: 3 },
    typography: {
      fontFamily: LABELS,
      fontSize: 15,
      h1: { fontSize: "1.7rem", fontWeight: 700, lineHeight: 1.15 },
      h2: { fontSize: "1.05rem", fontWeight: 700, letterSpacing: "0.02em" },
      body2: { fontSize: "0.95rem" },
      button: { textTransform: "none", fontWeight: 600, fontSize: "1rem" },
    },
    components: {
      MuiButtonBase: {
        defaultProps: { disableRipple: true },
        styleOverrides: { root: { fontFamily: LABELS, fontSize: "1rem" } },
      },
      MuiButton: {
        defaultProps: { disableElevation: true },
        styleOverrides: {
          root: { minHeight: 44, borderRadius: 3, "&.Mui-focusVisible": { outline: "3px solid", outlineOffset: 2 } },
        },
      },
      MuiIconButton: { styleOverrides: { root: { minWidth: 44, minHeight: 44 } } },
      MuiToggleButton: {
        styleOverrides: {
          root: {
            minHeight: 44,
            textTransform: "none",
            "&.Mui-selected, &.Mui-selected:hover": { backgroundColor: tone.action, color: tone.onAction },
          },
        },
      },
      MuiTextField: { defaultProps: { size: "small", fullWidth: true } },
      MuiOutlinedInput: { styleOverrides: { root: { minHeight: 44 } } },
      MuiCheckbox: { styleOverrides: { root: { minWidth: 44, minHeight: 44 } } },
      MuiPaper: { styleOverrides: { root: { backgroundImage: "none" } } },
      MuiLink: { defaultProps: { color: "inherit" } },
      MuiCssBaseline: {
        styleOverrides: {
          ":focus-visible": { outline: `3px solid ${tone.ink}`, outlineOffset: 2 },
          "@media print": { "@page": { size: "A4", margin: "14mm" }, body: { background: "#fff" } },
          "@media (prefers-reduced-motion: reduce)": {
            "*": { transition: "none !important", animation: "none !important" },
          },
        },
      },
    },
  });
}
