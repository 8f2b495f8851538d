import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { Move } from "../../api/types";
import { asExchanges, asMoves, inWords, withExchange } from "../../block/exchange";
import { corrected, type EntryForm, type FieldsProps } from "../form";

interface MovedValue {
  moves: Move[];
  put_back: boolean;
  text: string;
}

function Fields({ value, change, job, refused }: FieldsProps<MovedValue>) {
  const exchanges = asExchanges(value.moves);
  const { swappable, engine } = job.state;
  const [added, setAdded] = useState({ part: swappable[0] ?? "coil", a: 1, b: Math.min(2, engine.cylinders) });
  const numbers = engine.places.map((place) => place.cylinder);
  const pick = (label: string, chosen: number, set: (cylinder: number) => void) => (
    <TextField select label={label} value={chosen} onChange={(event) => set(Number(event.target.value))}>
      {numbers.map((cylinder) => (
        <MenuItem key={cylinder} value={cylinder}>
          {cylinder}
        </MenuItem>
      ))}
    </TextField>
  );
  return (
    <>
      {exchanges.length === 0 ? (
        <Typography color="text.secondary">
          Nothing is moved yet. Add what changed places, or drag the tags on the block.
        </Typography>
      ) : (
        <Box component="ul" aria-label="Parts that changed places" sx={{ m: 0, p: 0, listStyle: "none" }}>
          {exchanges.map((one) => (
            <Box
              component="li"
              key={inWords(one)}
              sx={{ display: "flex", alignItems: "center", fontSize: "1.15rem", fontWeight: 600 }}
            >
              <Box sx={{ flex: 1 }}>{inWords(one)}</Box>
              <Button color="inherit" onClick={() => change({ moves: asMoves(exchanges.filter((e) => e !== one)) })}>
                Remove
              </Button>
            </Box>
          ))}
        </Box>
      )}
      {refused("moves", "to", "from", "part", "to_variant") && (
        <Typography color="error">{refused("moves", "to", "from", "part", "to_variant")}</Typography>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "1.4fr 1fr 1fr auto", gap: 1, alignItems: "center" }}>
        <TextField
          select
          label="Part"
          value={added.part}
          onChange={(event) => setAdded({ ...added, part: event.target.value })}
        >
          {swappable.map((part) => (
            <MenuItem key={part} value={part}>
              {part}
            </MenuItem>
          ))}
        </TextField>
        {pick("of cylinder", added.a, (a) => setAdded({ ...added, a }))}
        {pick("with", added.b, (b) => setAdded({ ...added, b }))}
        <Button
          variant="outlined"
          disabled={added.a === added.b}
          onClick={() => change({ moves: asMoves(withExchange(exchanges, { ...added, variant: null })) })}
        >
          Add
        </Button>
      </Box>
      <FormControlLabel
        control={<Checkbox checked={value.put_back} onChange={(event) => change({ put_back: event.target.checked })} />}
        label="Only put back where they belong: not a test"
      />
      <TextField
        label="What was seen while they were out"
        value={value.text}
        onChange={(event) => change({ text: event.target.value })}
        multiline
        helperText={refused("text") ?? " "}
      />
    </>
  );
}

export const movedForm: EntryForm<MovedValue> = {
  first: (_job, request) => {
    const old = corrected(request, "moved");
    return { moves: old?.moves ?? request.moves ?? [], put_back: old?.put_back ?? false, text: old?.text ?? "" };
  },
  Fields,
  finding: async (value) => ({ kind: "moved", ...value }),
};
