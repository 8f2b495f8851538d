import Box from "@mui/material/Box";
import type { CounterReading } from "../../api/types";
import { FIGURES } from "../../app/theme";
import { plural, whole } from "../../app/words";

/** What was understood of a file, before it is kept. */
export function ReadingShown({ reading, source }: { reading: CounterReading; source: string }) {
  const used = reading.columns.filter((column) => column.used_as !== "not used");
  const unused = reading.columns.filter((column) => column.used_as === "not used");
  return (
    <Box
      component="section"
      aria-label="What was understood of the file"
      sx={{ borderLeft: 4, borderColor: "divider", pl: 1.5, fontSize: "0.95rem" }}
    >
      <Box sx={{ fontWeight: 600 }}>
        {source}: {reading.kind === "log" ? "a log" : "a table"} of {plural(reading.rows, "row")}, divided by{" "}
        {reading.separator}, decimal {reading.decimal}
        {reading.duration_s != null && `, ${whole(reading.duration_s / 60)} min`}
      </Box>
      <Box sx={{ fontFamily: FIGURES, my: 0.5 }}>
        {Object.entries(reading.misfires)
          .map(([cylinder, count]) => `${cylinder}: ${whole(count)}`)
          .join("   ")}
        {reading.revolutions != null && `   in ${whole(reading.revolutions)} rev`}
      </Box>
      <Box sx={{ color: "text.secondary" }}>
        {used.map((column) => `${column.heading} = ${column.used_as}`).join("; ")}
        {unused.length > 0 && `; not used: ${unused.map((column) => column.heading).join(", ")}`}
      </Box>
      {reading.revolutions == null && (
        <Box sx={{ fontWeight: 600 }}>The file does not say over how many revolutions: type them below.</Box>
      )}
      {reading.notes.map((note) => (
        <Box key={note}>{note}</Box>
      ))}
    </Box>
  );
}
