import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { type SearchIn, searchQuery } from "../api/depot";
import { asProblem } from "../api/problem";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { km, moment } from "../app/words";
import { OneOf } from "../bench/OneOf";
import { useSettled } from "../fields/useSettled";

const WITHIN: [SearchIn, string][] = [
  ["everything", "everywhere"],
  ["vehicle", "vehicle"],
  ["code", "code"],
  ["part", "part"],
  ["cause", "cause"],
];

/** Search over all jobs, open and closed, by any word that stands in them. */
export default function FindView() {
  const [query, setQuery] = useSearchParams();
  const [words, setWords] = useState(query.get("words") ?? "");
  const within = (WITHIN.find(([one]) => one === query.get("within"))?.[0] ?? "everything") as SearchIn;
  const settled = useSettled(words, 200);
  const found = useQuery(searchQuery(settled, within));
  useEffect(() => {
    setQuery(
      (now) => {
        if (settled === "") now.delete("words");
        else now.set("words", settled);
        return now;
      },
      { replace: true },
    );
  }, [settled, setQuery]);
  const problem = found.error ? asProblem(found.error) : null;
  const jobs = settled.trim() === "" ? [] : (found.data ?? []);
  return (
    <Screen
      title="Find a job"
      back="Back to the yard"
      backTo="/"
      actions={
        <Button component={Link} to="/depot" variant="outlined" color="inherit">
          The depot's figures
        </Button>
      }
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "start", mb: 1 }}>
        <TextField
          label="Words, a code, a part, a fleet number"
          autoFocus
          value={words}
          onChange={(event) => setWords(event.target.value)}
          error={problem !== null}
          helperText={problem?.errors[0]?.reason ?? problem?.message ?? "the beginning of a word is enough"}
          sx={{ flex: 1, minWidth: "18rem" }}
        />
        <OneOf
          label="Where to look"
          options={WITHIN}
          chosen={within}
          onChosen={(one) =>
            setQuery(
              (now) => {
                now.set("within", one);
                return now;
              },
              { replace: true },
            )
          }
        />
      </Box>
      <Box role="status" sx={{ color: "text.secondary", mb: 1 }}>
        {settled.trim() === ""
          ? "Everything that was ever written on a trail can be found here."
          : found.isSuccess && jobs.length === 0
            ? "No job holds all of these words."
            : found.isSuccess
              ? jobs.length === 50
                ? "The first 50 jobs. One more word leaves fewer."
                : `${jobs.length} ${jobs.length === 1 ? "job" : "jobs"}`
              : ""}
      </Box>
      {jobs.map((one) => (
        <Box
          key={one.job.id}
          component={Link}
          to={`/jobs/${one.job.id}`}
          sx={{
            display: "grid",
            gridTemplateColumns: { xs: "1fr", md: "5.5rem 1fr 1.6fr 12rem" },
            columnGap: 2,
            color: "inherit",
            textDecoration: "none",
            borderTop: 1,
            borderColor: "divider",
            py: 1.25,
            "&:hover": { bgcolor: "background.paper" },
          }}
        >
          <Box sx={{ fontFamily: FIGURES, fontSize: "1.25rem", fontWeight: 600 }}>{one.job.fleet_no}</Box>
          <Box>
            <Box sx={{ fontWeight: 600 }}>{one.job.vehicle}</Box>
            <Box sx={{ color: "text.secondary" }}>{one.job.complaint}</Box>
          </Box>
          <Box>
            {one.cause && <Box sx={{ fontWeight: 600 }}>{one.cause}</Box>}
            <Snippet text={one.snippet} />
          </Box>
          <Box sx={{ color: "text.secondary" }}>
            job {one.job.id}, {one.job.closed ? "closed" : "open"}
            <br />
            {km(one.job.odometer_km)} · {moment(one.job.last_at)}
          </Box>
        </Box>
      ))}
    </Screen>
  );
}

const MARKED = String.fromCharCode(2);

/** What was found, marked: the server puts a control character before and after it. */
function Snippet({ text }: { text: string }) {
  const parts = text.replaceAll(String.fromCharCode(3), MARKED).split(MARKED);
  return (
    <Box sx={{ whiteSpace: "pre-wrap", overflowWrap: "anywhere" }}>
      {parts.map((part, index) =>
        // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one text, which never change places.
        index % 2 === 1 ? <strong key={index}>{part}</strong> : <span key={index}>{part}</span>,
      )}
    </Box>
  );
}
