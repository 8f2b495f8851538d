import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link, useParams } from "react-router";
import { useJob } from "../api/queries";
import type { ProofShown } from "../api/types";
import { Glow } from "../app/Glow";
import { NotHere } from "../app/NotHere";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { km, sure, whole } from "../app/words";
import { reasons } from "../job/describe";
import { OtherProofs } from "./OtherProofs";
import { ProofCurve } from "./ProofCurve";

/** How sure it is that the fault is gone, and how far the car must still run clean. */
export default function ProofView() {
  const id = Number(useParams().id);
  const job = useJob(id);
  if (job.isPending) return <Waiting what="the proof" />;
  if (!job.data) return <NotHere what="job" />;
  const { proof, repair } = job.data.state;
  return (
    <Box sx={{ px: 3, py: 2, maxWidth: 1280, width: "100%", mx: "auto" }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, mb: 1 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          {job.data.vehicle.fleet_no}: is it really fixed?
        </Typography>
        <Button component={Link} to={`/jobs/${id}/repair?do=drive`} variant="outlined" color="inherit">
          Drive to prove
        </Button>
        <Button component={Link} to={`/jobs/${id}`} variant="outlined" color="inherit">
          Back to the job
        </Button>
      </Box>
      {!proof || !repair ? (
        <Typography color="text.secondary">
          Nothing was repaired on this job yet, so there is nothing to prove.
        </Typography>
      ) : (
        <>
          {!proof.result && (
            <Typography sx={{ my: 2, fontWeight: 600 }}>
              No proof can be reckoned: {proof.refused ? reasons([proof.refused]) : ""}.
            </Typography>
          )}
          {proof.confidence != null && (
            <Box sx={{ display: "flex", alignItems: "center", gap: 2, my: 1 }}>
              <Glow likelihood={proof.confidence} size={56} />
              <Box>
                <Box sx={{ fontFamily: FIGURES, fontSize: "2rem", fontWeight: 600, lineHeight: 1.1 }}>
                  {sure(proof.confidence)}
                </Box>
                <Box sx={{ color: "text.secondary" }}>
                  sure that it is gone, by {proof.rests_on}
                  {proof.enough ? ": that counts as proven" : `; ${sure(proof.enough_at)} counts as enough`}
                </Box>
              </Box>
            </Box>
          )}
          {repair.old_part_good && (
            <Typography sx={{ fontWeight: 600 }}>
              The old part was good (entry {repair.old_part_good}): the verdict is open again, and silence proves less.
            </Typography>
          )}
          <OtherProofs proof={proof} job={id} />
          {proof.result && <Figures proof={proof} cleanKm={repair.clean_km} />}
          {proof.result && (
            <ProofCurve proof={proof} now={repair.clean_km} name={`proof-${job.data.vehicle.fleet_no}`} />
          )}
          <Typography variant="body2" color="text.secondary">
            {`Noticed at ${proof.occurrences_km.map(whole).join(", ")} km, watched since ${km(proof.observed_from_km)}; repaired at ${km(proof.repaired_km)}, clean until ${km(proof.clean_until_km)}. `}
            Before any distance the repair counts as {sure(repair.prior_fixed)} sure: {repair.prior_because}
          </Typography>
        </>
      )}
    </Box>
  );
}

function Figures({ proof, cleanKm }: { proof: ProofShown; cleanKm: number }) {
  const { result } = proof;
  if (!result) return null;
  const figures: [string, string][] = [
    ...(result.confidence === proof.confidence
      ? []
      : [["sure by kilometres alone", sure(result.confidence)] as [string, string]]),
    ["clean so far", km(cleanKm)],
    [
      proof.further_km ? "more for 95 %" : "95 % was reached after",
      km(proof.further_km ? Math.ceil(result.further_for_95) : result.reached_95_after),
    ],
    [
      result.further_for_99 > 0 ? "more for 99 %" : "99 % was reached after",
      km(result.further_for_99 > 0 ? Math.ceil(result.further_for_99) : result.reached_99_after),
    ],
    ["such a silence by chance", sure(result.silence_by_chance)],
  ];
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 4, rowGap: 1, alignItems: "center", my: 1 }}>
        {figures.map(([label, value]) => (
          <Box key={label}>
            <Box sx={{ fontFamily: FIGURES, fontSize: "1.7rem", fontWeight: 600, lineHeight: 1.1 }}>{value}</Box>
            <Box sx={{ color: "text.secondary" }}>{label}</Box>
          </Box>
        ))}
      </Box>
      <Typography>
        {result.says}
        {result.trend === "worsening" && ` Shape ${result.shape.toFixed(2)}: above 1 it came ever more often.`}
      </Typography>
    </>
  );
}
