import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link, useParams } from "react-router";
import { useJob } from "../api/queries";
import { Glow } from "../app/Glow";
import { NotHere } from "../app/NotHere";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { percent, sure, whole } from "../app/words";
import { RateBar } from "../block/RateBar";

/** The counts in full: every rate with its interval, and the patterns that they speak for. */
export default function CountsView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  if (job.isPending) return <Waiting what="the counts" />;
  if (!job.data) return <NotHere what="job" />;
  const { misfire } = job.data.state;
  const highest = Math.max(0.1, ...(misfire?.result.cylinders.map((one) => one.high_pct) ?? []));
  const cell = { py: 0.75, px: 1, borderTop: 1, borderColor: "divider" } as const;
  const figure = {
    ...cell,
    fontFamily: FIGURES,
    textAlign: "right",
    fontSize: "1.1rem",
    whiteSpace: "nowrap",
  } as const;
  return (
    <Box sx={{ px: 3, py: 2, maxWidth: 1280, width: "100%", mx: "auto" }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, mb: 1 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          {job.data.vehicle.fleet_no}: misfire counts
        </Typography>
        <Button component={Link} to={`/jobs/${id}`} variant="outlined" color="inherit">
          Back to the job
        </Button>
      </Box>
      {!misfire ? (
        <Typography color="text.secondary">Nothing has been counted on this job yet.</Typography>
      ) : (
        <>
          <Typography>
            Counted {misfire.when}, over {whole(misfire.revolutions)} revolutions (
            {misfire.entries.length === 1 ? "entry" : "entries"} {misfire.entries.join(", ")}).{" "}
            {misfire.outdated && "Something was changed since. "}
            <strong>{misfire.result.says}</strong>{" "}
            {(misfire.when === "before any move" || !misfire.result.decided) && misfire.result.next}
          </Typography>
          <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1.35fr 1fr" }, gap: 4, mt: 2 }}>
            <Box>
              <Box component="table" sx={{ borderCollapse: "collapse", width: "100%" }}>
                <caption style={{ textAlign: "left", paddingBottom: 4 }}>Rates with their 95 % interval</caption>
                <thead>
                  <tr>
                    {["Cylinder", "Firings", "Misfires", "Rate", "Interval", "", "At fault"].map((heading) => (
                      <Box
                        component="th"
                        key={heading || "bar"}
                        scope="col"
                        sx={{ textAlign: "right", fontWeight: 600, color: "text.secondary", px: 1 }}
                      >
                        {heading || <span style={{ position: "absolute", clip: "rect(0 0 0 0)" }}>bar</span>}
                      </Box>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {misfire.result.cylinders.map((one) => (
                    <tr key={one.cylinder}>
                      <Box component="th" scope="row" sx={{ ...figure, fontWeight: 600 }}>
                        {one.cylinder}
                      </Box>
                      <Box component="td" sx={figure}>
                        {whole(one.firings)}
                      </Box>
                      <Box component="td" sx={figure}>
                        {whole(one.misfires)}
                      </Box>
                      <Box component="td" sx={{ ...figure, fontWeight: 600 }}>
                        {percent(one.rate_pct)}
                      </Box>
                      <Box component="td" sx={{ ...figure, fontSize: "0.9rem" }}>
                        {percent(one.low_pct).replace(" %", "")} – {percent(one.high_pct)}
                      </Box>
                      <Box component="td" sx={cell}>
                        <RateBar rate={one} highest={highest} />
                      </Box>
                      <Box component="td" sx={figure}>
                        {sure(one.probability)}
                      </Box>
                    </tr>
                  ))}
                </tbody>
              </Box>
              <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
                Whole engine {percent(misfire.result.total_rate_pct)}. A four-stroke cylinder fires every second
                revolution. The bars share a square-root scale up to {percent(highest)}.
              </Typography>
            </Box>
            <Box component="section" aria-label="Patterns">
              <Typography variant="h2">Which cylinders, in which pattern</Typography>
              {misfire.result.patterns.slice(0, 10).map((pattern) => (
                <Box
                  key={`${pattern.kind}${pattern.cylinders.join()}`}
                  sx={{ display: "flex", alignItems: "center", gap: 1, py: 0.4 }}
                >
                  <Glow likelihood={pattern.probability} size={24} />
                  <Box sx={{ flex: 1 }}>
                    {pattern.kind.replaceAll("-", " ")}
                    {pattern.cylinders.length > 0 &&
                      ` ${(pattern.groups ?? [pattern.cylinders]).map((group) => group.join(", ")).join(" against ")}`}
                  </Box>
                  <Box sx={{ fontFamily: FIGURES, fontWeight: 600 }}>{sure(pattern.probability)}</Box>
                </Box>
              ))}
              <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
                Patterns over the same cylinders cannot be told apart by counts; how often each occurs ranks them.
              </Typography>
            </Box>
          </Box>
        </>
      )}
    </Box>
  );
}
