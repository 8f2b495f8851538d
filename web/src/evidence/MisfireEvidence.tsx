import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useMisfires } from "../api/recordings";
import { Waiting } from "../app/Waiting";
import { whole } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { MisfireMapGrid } from "./MisfireMapGrid";
import { OverTime } from "./OverTime";

/** Misfires of a recording: at which speed and load, or when. */
export function MisfireEvidence({ id, name, what }: { id: number; name: string; what: "map" | "time" }) {
  const misfires = useMisfires(id);
  if (misfires.isPending) return <Waiting what="the misfires" />;
  if (misfires.error) return <ProblemNote error={misfires.error} retry={() => misfires.refetch()} />;
  if (!misfires.data)
    return (
      <Typography color="text.secondary">
        Engine speed or the counter of a cylinder was not recorded, so nothing can be counted.
      </Typography>
    );
  const { counts, result, map } = misfires.data;
  return (
    <Box>
      <Typography sx={{ fontSize: "1.15rem", fontWeight: 600 }}>{result.says}</Typography>
      <Typography variant="body2" color="text.secondary">
        {whole(result.total_misfires)} misfires over {whole(counts.revolutions)} revolutions. {result.next}
        {counts.notes.length > 0 && ` Noticed: ${counts.notes.join("; ")}.`}
      </Typography>
      {what === "time" ? (
        <OverTime misfires={misfires.data} name={name} />
      ) : map ? (
        <MisfireMapGrid map={map} cylinders={misfires.data.cylinders} name={name} />
      ) : (
        <Typography sx={{ my: 2 }}>Load was not recorded, so there is no map.</Typography>
      )}
    </Box>
  );
}
