import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { reportQuery } from "../api/report";
import { NotHere } from "../app/NotHere";
import { Waiting } from "../app/Waiting";
import { Tabs } from "../fields/Tabs";
import { Page } from "./Page";

/** The report: for the owner on one page, for the technician in full; on the screen, on paper, as a file. */
export default function Report() {
  const id = Number(useParams().id);
  const [query, setQuery] = useSearchParams();
  const reader = query.get("for") === "technician" ? "technician" : "owner";
  const report = useQuery(reportQuery(id, reader));
  const [taking, setTaking] = useState(false);
  if (report.isPending) return <Waiting what="the report" />;
  if (!report.data) return <NotHere what="job" />;
  const file = (kind: string) => `/api/jobs/${id}/report${kind}?reader=${reader}`;
  return (
    <Box
      sx={{
        px: 3,
        py: 2,
        maxWidth: 1180,
        width: "100%",
        mx: "auto",
        "@media print": { p: 0, maxWidth: "none" },
      }}
    >
      <Box
        sx={{
          display: "flex",
          flexWrap: "wrap",
          gap: 1,
          mb: 2,
          alignItems: "center",
          "@media print": { display: "none" },
        }}
      >
        <Button component={Link} to={`/jobs/${id}`} variant="outlined" color="inherit">
          Back to the job
        </Button>
        <Tabs
          label="For whom"
          options={[
            ["owner", "For the owner"],
            ["technician", "For the technician"],
          ]}
          chosen={reader}
          onChosen={(one) => setQuery({ for: one }, { replace: true })}
        />
        <Button variant="contained" onClick={() => window.print()}>
          Print
        </Button>
        <Button component="a" href={file(".pdf")} target="_blank" color="inherit" variant="outlined">
          PDF
        </Button>
        <Button component="a" href={file(".md")} color="inherit" variant="outlined">
          Markdown
        </Button>
        <Button component="a" href={file("")} target="_blank" color="inherit" variant="outlined">
          JSON
        </Button>
        <Button color="inherit" aria-expanded={taking} onClick={() => setTaking(!taking)}>
          Take the whole job along
        </Button>
      </Box>
      {taking && <TakeAlong job={id} />}
      <Box sx={{ maxWidth: reader === "owner" ? 860 : "none", mx: "auto" }}>
        <Page report={report.data} />
      </Box>
    </Box>
  );
}

/** The job as a file for another workshop, and what of it goes along. */
function TakeAlong({ job }: { job: number }) {
  const [along, setAlong] = useState({ photos: true, captures: true, owner: true });
  const choices = [
    ["photos", "with photographs"],
    ["captures", "with the scope's captures"],
    ["owner", "with the owner's name and notes"],
  ] as const;
  return (
    <Box
      component="section"
      aria-label="Take the job along"
      sx={{
        display: "flex",
        flexWrap: "wrap",
        alignItems: "center",
        gap: 1,
        mb: 2,
        "@media print": { display: "none" },
      }}
    >
      {choices.map(([name, words]) => (
        <FormControlLabel
          key={name}
          control={<Checkbox checked={along[name]} onChange={(_e, is) => setAlong({ ...along, [name]: is })} />}
          label={words}
        />
      ))}
      <Button
        component="a"
        variant="outlined"
        color="inherit"
        href={`/api/jobs/${job}/bundle?${new URLSearchParams(Object.entries(along).map(([k, v]) => [k, String(v)]))}`}
      >
        Save it as a file (JSON)
      </Button>
    </Box>
  );
}
