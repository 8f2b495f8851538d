import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useState } from "react";
import type { CylinderReading, PlugFace as Face } from "../../api/bench";
import { QuantityField } from "../../fields/QuantityField";
import { Choice } from "../Choice";
import { ComparePhotos } from "../ComparePhotos";
import { fieldsOf } from "../fieldsOf";
import { type BenchFieldsProps, type BenchForm, cylindersOf, unread } from "../form";
import { Grid } from "../Grid";
import { Photos } from "../Photos";
import { faceName, PlugFace } from "../PlugFace";

interface Plug {
  face: "" | Face;
  gap: string;
  tightness: "" | NonNullable<CylinderReading["tightness"]>;
  photos: number[];
}

interface PlugsValue {
  plugs: Record<string, Plug>;
  least: string;
  most: string;
}

const EMPTY: Plug = { face: "", gap: "", tightness: "", photos: [] };
const TIGHTNESS = [
  ["", "not noted"],
  ["right", "as it should be"],
  ["loose", "loose"],
  ["very-tight", "very tight"],
] as const;

function Fields({ value, change, job, choices, result, refused }: BenchFieldsProps<PlugsValue>) {
  const of = fieldsOf(value, change, refused);
  const set = (cylinder: number, part: Partial<Plug>) =>
    change({ plugs: { ...value.plugs, [cylinder]: { ...(value.plugs[cylinder] ?? EMPTY), ...part } } });
  return (
    <>
      <Box
        component="ol"
        aria-label="Plugs side by side"
        sx={{
          listStyle: "none",
          m: 0,
          p: 0,
          display: "grid",
          gridTemplateColumns: "repeat(auto-fill, minmax(10.5rem, 1fr))",
          gap: 1.5,
        }}
      >
        {cylindersOf(job).map((cylinder) => {
          const plug = value.plugs[cylinder] ?? EMPTY;
          const judged = result?.figures.find((one) => one.label === `cylinder ${cylinder}`);
          return (
            <Box component="li" key={cylinder} aria-label={`Plug ${cylinder}`}>
              <Box sx={{ fontWeight: 700, fontSize: "1.2rem" }}>{cylinder}</Box>
              <FaceChoice
                cylinder={cylinder}
                face={plug.face}
                faces={choices.faces}
                onFace={(face) => set(cylinder, { face })}
              />
              <QuantityField
                label={`Gap of plug ${cylinder}`}
                dimension="length"
                value={plug.gap}
                onValue={(gap) => set(cylinder, { gap })}
                refused={refused(`c${cylinder}.gap_mm`)}
              />
              <Choice
                label="Sat"
                value={plug.tightness}
                onValue={(tightness) => set(cylinder, { tightness: tightness as Plug["tightness"] })}
                options={TIGHTNESS}
                helper={judged?.says ?? " "}
              />
              <Photos
                job={job.id}
                of={`plug ${cylinder}`}
                chosen={plug.photos}
                onChosen={(photos) => set(cylinder, { photos })}
              />
            </Box>
          );
        })}
      </Box>
      <ComparePhotos
        groups={cylindersOf(job).map((one) => ({ name: `Plug ${one}`, photos: value.plugs[one]?.photos ?? [] }))}
      />
      <Grid columns={3}>
        {of.quantity("least", "Gap should be from", "length", "spec_low")}
        {of.quantity("most", "to", "length", "spec_high")}
      </Grid>
    </>
  );
}

interface FaceProps {
  cylinder: number;
  face: "" | Face;
  faces: Face[];
  onFace: (face: Face) => void;
}

/** The drawing that looks most like the plug in the hand. */
function FaceChoice({ cylinder, face, faces, onFace }: FaceProps) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        variant="outlined"
        color="inherit"
        fullWidth
        aria-haspopup="menu"
        onClick={(event) => setAt(event.currentTarget)}
        aria-label={`Face of plug ${cylinder}: ${face ? faceName(face).toLowerCase() : "not chosen"}`}
        sx={{ flexDirection: "column", minHeight: 132, mb: 1.5 }}
      >
        {face && <PlugFace face={face} />}
        {face ? faceName(face) : "Which does it look like?"}
      </Button>
      <Menu
        anchorEl={at}
        open={at !== null}
        onClose={() => setAt(null)}
        slotProps={{ list: { sx: { display: "grid", gridTemplateColumns: "repeat(3, 1fr)" } } }}
      >
        {faces.map((one) => (
          <MenuItem
            key={one}
            selected={one === face}
            onClick={() => {
              onFace(one);
              setAt(null);
            }}
            sx={{ flexDirection: "column" }}
          >
            <PlugFace face={one} />
            {faceName(one)}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

export const plugsForm: BenchForm<PlugsValue> = {
  id: "plugs",
  title: "Plugs",
  first: () => ({ plugs: {}, least: "", most: "" }),
  Fields,
  reading: async (value, read, _choices, job) => {
    const readings: CylinderReading[] = [];
    for (const cylinder of cylindersOf(job)) {
      const plug = value.plugs[cylinder];
      if (!plug?.face) continue;
      readings.push({
        ...unread(cylinder),
        face: plug.face,
        gap_mm: await read.optional(plug.gap, "length", `c${cylinder}.gap_mm`),
        tightness: plug.tightness || null,
        photos: plug.photos,
      });
    }
    if (readings.length === 0) return null;
    return {
      bench: "cylinders",
      cylinders: {
        of: "plug",
        readings,
        spec_low: await read.optional(value.least, "length", "spec_low"),
        spec_high: await read.optional(value.most, "length", "spec_high"),
      },
    };
  },
  instrument: () => "",
  fits: (job) => job.state.engine.fuel !== "diesel",
};
