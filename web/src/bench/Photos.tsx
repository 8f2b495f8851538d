import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { photosQuery, useTakePhoto } from "../api/bench";
import { ProblemNote } from "../fields/ProblemNote";

interface Props {
  job: number;
  /** What the photographs show. */
  of: string;
  chosen: number[];
  onChosen: (photos: number[]) => void;
}

/** Photographs of one thing: taken, shown small, opened large. Where they were taken is not kept. */
export function Photos({ job, of, chosen, onChosen }: Props) {
  const photos = useQuery(photosQuery(job));
  const take = useTakePhoto(job);
  const [open, setOpen] = useState<number | null>(null);
  const add = (file: File) =>
    take.mutate(
      { file, name: `${of}: ${file.name}`.slice(0, 120) },
      { onSuccess: (photo) => onChosen([...chosen, photo.id]) },
    );
  const name = (id: number) => photos.data?.find((one) => one.id === id)?.name ?? of;
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, alignItems: "center" }}>
        {chosen.map((id) => (
          <Button key={id} onClick={() => setOpen(id)} sx={{ p: 0.25, minWidth: 44 }} aria-label={`Open ${name(id)}`}>
            <img
              src={`/api/photos/${id}/thumbnail`}
              alt={name(id)}
              style={{ height: 72, maxWidth: 108, objectFit: "cover" }}
            />
          </Button>
        ))}
        <Button
          component="label"
          variant="text"
          color="inherit"
          disabled={take.isPending}
          aria-label={`Photograph of ${of}`}
        >
          {take.isPending ? "Sending …" : "Photo"}
          <input
            type="file"
            hidden
            accept="image/jpeg,image/png,image/webp"
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) add(file);
              event.target.value = "";
            }}
          />
        </Button>
      </Box>
      <ProblemNote error={take.error} />
      <Dialog
        open={open !== null}
        onClose={() => setOpen(null)}
        maxWidth="lg"
        aria-label={open === null ? of : name(open)}
      >
        <DialogContent>
          {open !== null && (
            <img src={`/api/photos/${open}`} alt={name(open)} style={{ maxWidth: "100%", maxHeight: "75vh" }} />
          )}
          {open !== null && (
            <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
              <Button variant="contained" onClick={() => setOpen(null)}>
                Close
              </Button>
              <Button
                color="inherit"
                onClick={() => {
                  onChosen(chosen.filter((one) => one !== open));
                  setOpen(null);
                }}
              >
                Leave it out here
              </Button>
            </Box>
          )}
        </DialogContent>
      </Dialog>
    </Box>
  );
}
