import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { BenchChoices } from "../../api/bench";
import type { JobView } from "../../api/types";
import { ProblemNote } from "../../fields/ProblemNote";
import { outcomeName } from "../../suspects/names";
import { useQuickEntry } from "../../suspects/useTested";
import { Choice } from "../Choice";
import type { BenchFieldsProps, BenchForm } from "../form";
import { type Hose, HoseMap } from "../HoseMap";
import { KeptChoice } from "../KeptChoice";
import { OneOf } from "../OneOf";

interface AirValue {
  map: string;
  name: string;
  places: Hose[];
  chosen: number;
}

const asHoses = (names: string[]): Hose[] => names.map((name) => ({ name, state: "not-seen", note: "" }));

function Fields({ value, change, job, choices, refused }: BenchFieldsProps<AirValue>) {
  const [further, setFurther] = useState("");
  const chosen = value.places[value.chosen];
  const set = (part: Partial<Hose>) =>
    change({ places: value.places.map((one, place) => (place === value.chosen ? { ...one, ...part } : one)) });
  return (
    <>
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "flex-start" }}>
        <Box sx={{ width: "15rem" }}>
          <Choice
            label="The way of the air"
            value={value.map}
            onValue={(map) => change({ map, places: asHoses(choices.hoses[map] ?? []), chosen: 0 })}
            options={[
              ["none", "without a charger"],
              ["charged", "with a charger"],
            ]}
            refused={refused("map")}
          />
        </Box>
        <TextField
          label="Called"
          value={value.name}
          onChange={(event) => change({ name: event.target.value })}
          sx={{ maxWidth: "14rem" }}
        />
        <KeptChoice
          job={job}
          kind="hoses"
          label="Described before"
          name={value.name}
          body={{ map: value.map, places: value.places.map((one) => one.name) }}
          onTaken={(name, kept) => change({ name, map: kept.map, places: asHoses(kept.places), chosen: 0 })}
        />
      </Box>
      <HoseMap hoses={value.places} chosen={value.chosen} onChosen={(index) => change({ chosen: index })} />
      {chosen && (
        <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "flex-start" }}>
          <Box sx={{ fontWeight: 600, pt: 1.25, minWidth: "9rem" }}>{chosen.name}</Box>
          <OneOf
            label={`Smoke at ${chosen.name}`}
            options={[
              ["tight", "no smoke"],
              ["leaks", "smoke comes out"],
            ]}
            chosen={chosen.state === "not-seen" ? "" : chosen.state}
            onChosen={(state) => {
              // A tight one asks for the next; a leak may want its words first.
              const places = value.places.map((one, place) => (place === value.chosen ? { ...one, state } : one));
              const next = places.findIndex((one, place) => place > value.chosen && one.state === "not-seen");
              change({ places, chosen: state === "tight" && next >= 0 ? next : value.chosen });
            }}
            onNone={() => set({ state: "not-seen" })}
          />
          <TextField
            label="Where exactly"
            value={chosen.note}
            onChange={(event) => set({ note: event.target.value })}
            sx={{ maxWidth: "16rem" }}
          />
        </Box>
      )}
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "flex-start" }}>
        <TextField
          label="A further place"
          value={further}
          onChange={(event) => setFurther(event.target.value)}
          sx={{ maxWidth: "16rem" }}
        />
        <Button
          color="inherit"
          variant="outlined"
          disabled={further.trim() === ""}
          onClick={() => {
            change({ places: [...value.places, ...asHoses([further.trim()])] });
            setFurther("");
          }}
        >
          Add it
        </Button>
      </Box>
      {job.state.engine.charging !== "none" && <Walk job={job} choices={choices} />}
    </>
  );
}

/** The usual suspects of a lost charge pressure, the cheapest look first; each outcome goes to the trail at a touch. */
function Walk({ job, choices }: { job: JobView; choices: BenchChoices }) {
  const { write, isPending, error } = useQuickEntry(job);
  const came = (test: string) => {
    const finding = job.entries.findLast((one) => one.finding.kind === "tested" && one.finding.test === test)?.finding;
    return finding?.kind === "tested" ? finding.outcome : null;
  };
  const next = choices.walk.findIndex((one) => came(one.test) === null);
  return (
    <Box component="section" aria-label="Walk along the charge side">
      <Typography variant="h2" component="h3">
        Too little or too much charge pressure: the walk, cheapest look first
      </Typography>
      <ProblemNote error={error} />
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {choices.walk.map((one, index) => {
          const found = came(one.test);
          return (
            <Box
              component="li"
              key={one.test}
              aria-current={index === next ? "step" : undefined}
              sx={{ py: 0.75, px: 1, bgcolor: index === next ? "background.paper" : undefined }}
            >
              <Box sx={{ fontWeight: 600 }}>
                {index + 1}. {one.step}
                {found && ` – ${outcomeName(found)}`}
              </Box>
              <Box sx={{ color: "text.secondary", fontSize: "0.92rem" }}>{one.because}</Box>
              {index === next && (
                <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 0.5 }}>
                  {one.outcomes.map((outcome) => (
                    <Button
                      key={outcome}
                      variant="outlined"
                      color="inherit"
                      disabled={isPending}
                      onClick={() =>
                        write({ kind: "tested", test: one.test, target: "engine", outcome, text: "" }).catch(() => {})
                      }
                    >
                      {outcomeName(outcome)}
                    </Button>
                  ))}
                </Box>
              )}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}

export const airForm: BenchForm<AirValue> = {
  id: "air",
  title: "Air",
  first: (job, choices) => {
    const map = job.state.engine.charging === "none" ? "none" : "charged";
    return { map, name: "intake", places: asHoses(choices.hoses[map] ?? []), chosen: 0 };
  },
  Fields,
  reading: async (value) => {
    if (value.places.every((one) => one.state === "not-seen")) return null;
    return { bench: "hoses", map: value.map, places: value.places };
  },
  instrument: () => "smoke",
};
