import Box from "@mui/material/Box";
import { Link } from "react-router";
import type { ProofShown } from "../api/types";
import { FIGURES } from "../app/theme";
import { sure, whole } from "../app/words";

/** What besides kilometres speaks for the repair: other scales, attempts to bring it on, readings, the drive. */
export function OtherProofs({ proof, job }: { proof: ProofShown; job: number }) {
  const lines: { name: string; says: string; sure: string }[] = [
    ...proof.scales.map((one) => ({
      name: one.unit,
      says: `${Number(one.clean.toFixed(1))} ${one.unit} without it, after ${one.occurrences} in ${whole(one.watched)}${
        one.told > 0 ? `; ${Number(one.told.toFixed(1))} of them told by the owner, which count for less` : ""
      }${one.result && one.result.further_for_95 > 0 ? `; 95 % after ${whole(Math.ceil(one.result.further_for_95))} more` : ""}`,
      sure: one.result ? sure(one.result.confidence) : (one.refused?.reason ?? ""),
    })),
    ...(proof.provoked
      ? [{ name: "attempts", says: proof.provoked.says, sure: `${sure(proof.provoked.silence_by_chance)} by chance` }]
      : []),
    ...proof.readings.map((one) => ({
      name: "reading",
      says: one.says,
      sure: one.mended == null ? "" : one.mended ? "as it should be" : "still short",
    })),
  ];
  if (lines.length === 0 && !proof.drive) return null;
  return (
    <Box component="section" aria-label="Besides kilometres" sx={{ my: 1 }}>
      {lines.map((line) => (
        <Box
          key={`${line.name} ${line.says}`}
          sx={{
            display: "grid",
            gridTemplateColumns: { xs: "1fr", md: "8rem 1fr 12rem" },
            gap: 1,
            borderTop: 1,
            borderColor: "divider",
            py: 0.75,
          }}
        >
          <Box sx={{ fontWeight: 600 }}>{line.name}</Box>
          <Box>{line.says}</Box>
          <Box sx={{ fontFamily: FIGURES, textAlign: { md: "right" } }}>{line.sure}</Box>
        </Box>
      ))}
      {proof.drive && (
        <Box sx={{ borderTop: 1, borderColor: "divider", py: 0.75 }}>
          <Link to={`/jobs/${job}/repair?do=drive`} style={{ color: "inherit" }}>
            {proof.drive.says}
          </Link>{" "}
          By the map alone {sure(proof.drive.confidence)}.
        </Box>
      )}
    </Box>
  );
}
