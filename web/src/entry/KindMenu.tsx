import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import type { FindingKind } from "../api/types";
import { KIND } from "../job/describe";

const OPEN: FindingKind[] = [
  "tested",
  "scan",
  "counts",
  "cleared",
  "moved",
  "fitted",
  "drive",
  "occurred",
  "need",
  "limits",
  "note",
  "closed",
];
const CLOSED: FindingKind[] = ["note", "occurred", "reopened"];

interface Props {
  open: boolean;
  closed: boolean;
  onClose: () => void;
  onKind: (kind: FindingKind) => void;
}

/** What can be added to the trail. */
export function KindMenu({ open, closed, onClose, onKind }: Props) {
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="kinds-title" maxWidth="xs" fullWidth>
      <DialogTitle id="kinds-title">Add to the trail</DialogTitle>
      <DialogContent sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
        {(closed ? CLOSED : OPEN).map((kind, index) => (
          <Button
            key={kind}
            variant="outlined"
            autoFocus={index === 0}
            onClick={() => onKind(kind)}
            sx={{ minHeight: 52 }}
          >
            {KIND[kind]}
          </Button>
        ))}
      </DialogContent>
    </Dialog>
  );
}
