import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Typography from "@mui/material/Typography";
import type { FindingKind } from "../api/types";
import { KIND } from "../job/describe";

const SEARCH: FindingKind[] = ["tested", "scan", "counts", "cleared", "moved", "need", "watched", "provoked", "limits"];
const REPAIR: FindingKind[] = [
  "fitted",
  "old-part",
  "started",
  "drive",
  "occurred",
  "ran",
  "same-reading",
  "parked",
  "odometer-replaced",
  "note",
  "closed",
];
const CLOSED: FindingKind[] = ["note", "occurred", "ran", "reopened"];

const GROUPS = [
  ["The search", SEARCH],
  ["The repair and its proof", REPAIR],
] as const;

interface Props {
  open: boolean;
  closed: boolean;
  onClose: () => void;
  onKind: (kind: FindingKind) => void;
}

/** What can be added to the trail. */
export function KindMenu({ open, closed, onClose, onKind }: Props) {
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="kinds-title" maxWidth="sm" fullWidth>
      <DialogTitle id="kinds-title">Add to the trail</DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1 }}>
        {(closed ? [["", CLOSED] as const] : GROUPS).map(([title, kinds], group) => (
          <Box key={title} role="group" aria-label={title || "Kinds of entry"}>
            {title && <Typography variant="h2">{title}</Typography>}
            <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 1, mt: 0.5 }}>
              {kinds.map((kind, index) => (
                <Button
                  key={kind}
                  variant="outlined"
                  autoFocus={group === 0 && index === 0}
                  onClick={() => onKind(kind)}
                  sx={{ minHeight: 48, lineHeight: 1.15 }}
                >
                  {KIND[kind]}
                </Button>
              ))}
            </Box>
          </Box>
        ))}
      </DialogContent>
    </Dialog>
  );
}
