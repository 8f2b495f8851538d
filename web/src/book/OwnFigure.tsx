import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ownQuery, useChangeOwn } from "../api/queries";
import { FIGURES } from "../app/theme";
import { reader } from "../entry/form";
import { ProblemNote } from "../fields/ProblemNote";

interface Props {
  what: "rates" | "prices" | "minutes";
  id: string;
  label: string;
  book: number;
  own: number | null;
  because: string;
}

/** A figure of the book, with its reason, and the workshop's own in its place where it has one. */
export function OwnFigure({ what, id, label, book, own, because }: Props) {
  const queries = useQueryClient();
  const workshop = useQuery(ownQuery);
  const change = useChangeOwn();
  const [typed, setTyped] = useState("");
  const [failed, setFailed] = useState<unknown>(null);
  const put = async (value: number | null) => {
    if (!workshop.data) return;
    const figures = { ...workshop.data.own[what] };
    if (value === null) delete figures[id];
    else figures[id] = value;
    await change.mutateAsync({ ...workshop.data.own, [what]: figures });
    setTyped("");
  };
  const save = async () => {
    setFailed(null);
    try {
      await put(await reader(queries).number(typed, what === "minutes" ? "duration" : "money", label));
    } catch (error) {
      setFailed(error);
    }
  };
  return (
    <Box
      component="form"
      aria-label={label}
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <Typography>
        {label}:{" "}
        <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 600, fontSize: "1.15rem" }}>
          {own ?? book}
        </Box>
        {own !== null && ` here, ${book} in the book`}
      </Typography>
      <Typography variant="body2" color="text.secondary">
        {because}
      </Typography>
      {workshop.data?.broken ? (
        <Typography variant="body2">Cannot be changed: {workshop.data.broken}</Typography>
      ) : (
        <Box sx={{ display: "flex", gap: 1, mt: 0.75, alignItems: "center" }}>
          <TextField
            size="small"
            label="This workshop's own"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            sx={{ width: "11rem" }}
          />
          <Button type="submit" variant="outlined" color="inherit" disabled={typed.trim() === "" || change.isPending}>
            Keep it
          </Button>
          {own !== null && (
            <Button color="inherit" onClick={() => put(null).catch(setFailed)}>
              Back to the book's
            </Button>
          )}
        </Box>
      )}
      <ProblemNote error={failed ?? change.error} />
    </Box>
  );
}
