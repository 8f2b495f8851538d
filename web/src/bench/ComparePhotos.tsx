import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import { useState } from "react";

interface Props {
  /** What each group shows, and its photographs. */
  groups: { name: string; photos: number[] }[];
}

/** Photographs of like things side by side, so that the odd one is seen. */
export function ComparePhotos({ groups }: Props) {
  const [open, setOpen] = useState(false);
  const shown = groups.filter((one) => one.photos.length > 0);
  if (shown.length < 2) return null;
  return (
    <>
      <Button variant="outlined" color="inherit" onClick={() => setOpen(true)} sx={{ alignSelf: "flex-start" }}>
        Compare the photographs
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="xl" aria-label="Photographs side by side">
        <DialogContent>
          <Box
            sx={{
              display: "grid",
              gridTemplateColumns: `repeat(${Math.min(4, shown.length)}, minmax(0, 1fr))`,
              gap: 1.5,
            }}
          >
            {shown.map((one) => (
              <Box key={one.name}>
                <Box sx={{ fontWeight: 700 }}>{one.name}</Box>
                {one.photos.map((photo) => (
                  <img key={photo} src={`/api/photos/${photo}`} alt={one.name} style={{ width: "100%" }} />
                ))}
              </Box>
            ))}
          </Box>
          <Button variant="contained" onClick={() => setOpen(false)} sx={{ mt: 1.5 }}>
            Close
          </Button>
        </DialogContent>
      </Dialog>
    </>
  );
}
