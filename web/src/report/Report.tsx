import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import { useJob } from "../api/queries";
import type { Finding, FindingOf, JobView } from "../api/types";
import { NotHere } from "../app/NotHere";
import { Waiting } from "../app/Waiting";
import { day, km, percent, plural, sure, whole } from "../app/words";

/** One page for the owner: what was found, what proved it, what was fitted, how sure it is. */
export default function Report() {
  const id = Number(useParams().id);
  const job = useJob(id);
  if (job.isPending) return <Waiting what="the report" />;
  if (!job.data) return <NotHere what="job" />;
  return (
    <Box sx={{ px: 3, py: 2, maxWidth: 860, width: "100%", mx: "auto", "@media print": { p: 0, maxWidth: "none" } }}>
      <Box sx={{ display: "flex", gap: 1, mb: 2, "@media print": { display: "none" } }}>
        <Button component={Link} to={`/jobs/${id}`} variant="outlined" color="inherit">
          Back to the job
        </Button>
        <Button variant="contained" onClick={() => window.print()}>
          Print
        </Button>
        <Button component="a" href={`/api/jobs/${id}/bundle`} color="inherit">
          Take the whole job along (JSON)
        </Button>
      </Box>
      <Page job={job.data} />
    </Box>
  );
}

function Page({ job }: { job: JobView }) {
  const standing = job.entries.filter((entry) => job.state.standing.includes(entry.number));
  const of = <K extends Finding["kind"]>(kind: K) =>
    standing.filter((entry) => entry.finding.kind === kind).map((entry) => entry.finding as FindingOf<K>);
  const complaint = of("complaint")[0];
  const fitted = of("fitted");
  const left = of("closed").at(-1)?.left_alone;
  const { misfire, swap_in_force: swap, repair, proof, next, closed, spent } = job.state;
  const { put_right } = job.state;
  const measured = job.state.measured.filter((one) => one.result.verdict === "bad");
  const recorded = (job.state.recordings.at(-1)?.results ?? [])
    .filter((result) => result.decided && result.fault)
    .map((result) => result.says)
    .join(" ");
  const verdict = swap?.result?.decided ? swap.result : undefined;
  return (
    <Box
      component="article"
      sx={{
        bgcolor: "#fffdf8",
        color: "#201a15",
        p: 5,
        fontSize: "1.02rem",
        "@media print": { p: 0, fontSize: "11pt", bgcolor: "#fff" },
      }}
    >
      <Box sx={{ display: "flex", borderBottom: "3px solid #201a15", pb: 1, mb: 1.5, alignItems: "end" }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">{job.vehicle.name}</Typography>
          <div>
            No. {job.vehicle.fleet_no} · job {job.id} · {km(job.state.odometer_km)}
          </div>
        </Box>
        <Box sx={{ textAlign: "right" }}>
          <div>{day(job.opened_at)}</div>
          <div>{closed ? "closed" : "still open"}</div>
        </Box>
      </Box>
      <Part title="The complaint">
        {complaint && [...complaint.symptoms, ...(complaint.circumstances ?? [])].join(", ")}. {complaint?.text}
      </Part>
      <Part title="What was found">
        {verdict?.verdict === "moved" && verdict.part
          ? `The ${verdict.part} of ${place(verdict.suspect)} carried the fault: moved to cylinder ${verdict.cylinder_now}, it took the misfire along.`
          : (verdict?.next ?? (recorded || misfire?.result.says) ?? "Nothing has been proven yet.")}{" "}
        {fitted
          .map((part) => part.old_part)
          .filter(Boolean)
          .join(" ")}
        {measured.slice(-4).map((one) => (
          <div key={one.entry}>
            {one.result.title}: {one.result.word}. {one.result.says}
          </div>
        ))}
        {put_right.length > 0 && <strong>Still to be put right: {put_right.map((one) => one.what).join("; ")}.</strong>}
      </Part>
      <Part title="What proves it">
        {verdict?.decided
          ? `A swap test: like parts changed places between cylinders, the fault memory was cleared, and the car was driven again. ${sure(verdict.hypotheses[0]?.probability ?? 0)} sure.`
          : "No test has decided it yet."}{" "}
        {misfire && misfire.when === "after the repair" && (
          <>
            After the repair: {plural(misfire.result.total_misfires, "misfire")} on all cylinders in{" "}
            {whole(misfire.revolutions)} revolutions ({percent(misfire.result.total_rate_pct)}).
          </>
        )}
      </Part>
      <Part title="What was fitted">
        {fitted.length === 0
          ? "Nothing yet."
          : fitted.map((part, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: parts have no name of their own and never change places.
              <div key={index}>
                New {part.part}
                {part.cylinder && ` at cylinder ${part.cylinder}`}
                {part.part_number && `, number ${part.part_number}`}
                {part.cost != null && `: ${part.cost.toFixed(2)}`}
                {part.minutes != null && `, ${whole(part.minutes)} minutes`}
              </div>
            ))}
        {(spent.parts_cost > 0 || spent.fitting_minutes > 0) && (
          <strong>
            In all {spent.parts_cost.toFixed(2)} in parts and {whole(spent.fitting_minutes)} minutes for fitting.
          </strong>
        )}
      </Part>
      <Part title="Is it really fixed?">
        {proof?.result && repair ? (
          <>
            <strong>{sure(proof.result.confidence)} sure</strong> after {km(repair.clean_km)} without it; before, it had
            come {proof.occurrences_km.length} times in {km(proof.watched_km)}.{" "}
            {proof.enough
              ? "That counts as proven."
              : `Please drive ${km(Math.ceil(proof.further_km ?? 0))} more and report any misfire: until then it is likely, and not proven.`}
          </>
        ) : repair?.came_back ? (
          "No: it came back after the repair."
        ) : (
          `Not yet. Next: ${next.title}.`
        )}
      </Part>
      <Part title="Also seen and left alone">{left || "Nothing."}</Part>
      <Box sx={{ mt: 2, pt: 1, borderTop: "1px solid #b9ae9e", fontSize: "0.9rem" }}>
        Written by {[...new Set(standing.map((entry) => entry.author))].join(" and ")} with Gritty Ember. Local law and
        the maker's instructions come first.
      </Box>
    </Box>
  );
}

const place = (suspect: unknown) =>
  typeof suspect === "number" ? `cylinder ${suspect}` : String(suspect ?? "the suspect");

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box component="section" sx={{ mb: 1.5 }}>
      <Typography variant="h2" sx={{ mb: 0.25 }}>
        {title}
      </Typography>
      <Box>{children}</Box>
    </Box>
  );
}
