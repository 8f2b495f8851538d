import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import FormControlLabel from "@mui/material/FormControlLabel";
import { usePreferences } from "./preferences";
import { useShortcutList } from "./shortcuts";
import { FIGURES } from "./theme";

/** Every key that does something on the screen behind it. */
export function KeyList({ open, onClose }: { open: boolean; onClose: () => void }) {
  const list = useShortcutList();
  const { keys, set } = usePreferences();
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="keys-title" maxWidth="sm" fullWidth>
      <DialogTitle id="keys-title">Keys on this screen</DialogTitle>
      <DialogContent>
        <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "3rem 1fr", rowGap: 0.75, m: 0 }}>
          {list.map((one) => (
            <Box key={one.key + one.does} sx={{ display: "contents" }}>
              <Box component="dt" sx={{ fontFamily: FIGURES, fontWeight: 600 }}>
                {one.key}
              </Box>
              <Box component="dd" sx={{ m: 0 }}>
                {one.does}
              </Box>
            </Box>
          ))}
        </Box>
        <Box component="p" sx={{ color: "text.secondary" }}>
          On the engine: Tab to a part and press Enter to take it up, then the number of a cylinder (or Tab and Enter)
          to put it down, Escape to leave it. With the mouse or a finger: drag it, or tap the part and then the
          cylinder.
        </Box>
        <FormControlLabel
          control={<Checkbox checked={keys} onChange={(event) => set({ keys: event.target.checked })} />}
          label="Single keys act as shortcuts"
        />
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
