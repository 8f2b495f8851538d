import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { MisfiresOfRecording } from "../api/types";
import { heat, inkOnHeat } from "../app/heat";
import { FIGURES } from "../app/theme";
import { sure, whole } from "../app/words";
import { SaveRows } from "../fields/SavePlot";

/** Counts in windows of time, a row for each cylinder: groups that take turns show here and nowhere else. */
export function OverTime({ misfires, name }: { misfires: MisfiresOfRecording; name: string }) {
  const { counts, result, cylinders } = misfires;
  const first = result.patterns[0];
  // Cylinders that take turns stand together.
  const order = first?.groups ? first.groups.flat() : Array.from({ length: cylinders }, (_, i) => i + 1);
  const most = Math.max(1, ...counts.windows.flatMap((one) => Object.values(one.misfires)));
  if (counts.windows.length === 0)
    return <Typography sx={{ my: 2 }}>The course over time cannot be told: see what was noticed.</Typography>;
  return (
    <Box sx={{ my: 1 }}>
      <Box sx={{ overflowX: "auto" }}>
        <Box
          component="table"
          aria-label="Misfires in windows of time"
          sx={{ borderCollapse: "separate", borderSpacing: 3, tableLayout: "fixed", minWidth: "100%" }}
        >
          <tbody>
            {order.map((cylinder) => (
              <tr key={cylinder}>
                <Box component="th" scope="row" sx={{ width: "6.5rem", textAlign: "right", pr: 1, fontWeight: 600 }}>
                  cylinder {cylinder}
                </Box>
                {counts.windows.map((window, index) => {
                  const count = window.misfires[String(cylinder)] ?? 0;
                  return (
                    <Box
                      component="td"
                      key={counts.begins_s[index]}
                      sx={{
                        height: 44,
                        minWidth: 44,
                        textAlign: "center",
                        fontFamily: FIGURES,
                        fontWeight: 600,
                        background: heat(count / most),
                        color: inkOnHeat(count / most),
                      }}
                    >
                      {whole(count)}
                    </Box>
                  );
                })}
                <Box
                  component="td"
                  sx={{ fontFamily: FIGURES, textAlign: "right", pl: 1, width: "5rem", fontSize: "1.1rem" }}
                >
                  {whole(counts.misfires[String(cylinder)] ?? 0)}
                </Box>
              </tr>
            ))}
            <tr>
              <Box
                component="th"
                scope="row"
                sx={{ color: "text.secondary", fontWeight: 400, textAlign: "right", pr: 1 }}
              >
                from min
              </Box>
              {counts.begins_s.map((begin) => (
                <Box component="th" scope="col" key={begin} sx={{ color: "text.secondary", fontWeight: 400 }}>
                  {(begin / 60).toFixed(0)}
                </Box>
              ))}
              <Box component="th" scope="col" sx={{ color: "text.secondary", fontWeight: 400, textAlign: "right" }}>
                in all
              </Box>
            </tr>
          </tbody>
        </Box>
      </Box>
      <Typography sx={{ mt: 1 }}>
        {result.patterns.slice(0, 3).map((pattern) => (
          <span key={`${pattern.kind}${pattern.cylinders.join()}`}>
            {pattern.kind.replaceAll("-", " ")}{" "}
            {(pattern.groups ?? [pattern.cylinders]).map((group) => group.join(", ")).join(" against ")}{" "}
            <strong style={{ fontFamily: FIGURES }}>{sure(pattern.probability)}</strong>
            {"   "}
          </span>
        ))}
      </Typography>
      <Typography variant="body2" color="text.secondary">
        Windows of {counts.window_s.toFixed(0)} s. The totals at the right hide who took a turn.
      </Typography>
      <SaveRows
        name={`${name}-over-time`}
        rows={[
          ["from_s", "revolutions", ...order.map((one) => `cylinder_${one}`)],
          ...counts.windows.map((window, index) => [
            counts.begins_s[index] ?? 0,
            window.revolutions,
            ...order.map((one) => window.misfires[String(one)] ?? 0),
          ]),
        ]}
      />
    </Box>
  );
}
