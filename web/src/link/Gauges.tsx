import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { LinkRequest, LinkStatus, LiveValue } from "../api/types";
import { usePreferences } from "../app/preferences";
import { FIGURES } from "../app/theme";
import { Chips } from "../fields/Chips";

/** What is worth a large figure when nothing was chosen. */
const FIRST = [
  "engine_speed",
  "load",
  "airflow",
  "coolant",
  "short_trim_1",
  "short_trim_2",
  "requested_boost",
  "actual_boost",
  "vehicle_speed",
  "battery",
  "manifold_pressure",
];
const LARGE = 8;

const places = (value: LiveValue) => (value.unit === "rpm" || value.unit === "" || value.unit === "km/h" ? 0 : 1);

/** Live figures, large enough to be read from two metres. */
export function Gauges({ link, ask }: { link: LinkStatus; ask: (request: LinkRequest) => void }) {
  const { gauges, set } = usePreferences();
  const [choosing, setChoosing] = useState(false);
  const watching = link.activity.doing === "watching" || link.activity.doing === "recording";
  const chosen = gauges.filter((name) => link.live.some((one) => one.channel === name));
  const wanted = chosen.length > 0 ? chosen : FIRST;
  const shown = wanted
    .map((name) => link.live.find((one) => one.channel === name))
    .filter((one): one is LiveValue => one !== undefined)
    .slice(0, LARGE);
  const label = (name: string) => link.live.find((one) => one.channel === name)?.label ?? name;
  return (
    <Box>
      <Box sx={{ display: "flex", gap: 1, my: 1 }}>
        <Button
          variant={watching ? "outlined" : "contained"}
          color={watching ? "inherit" : "primary"}
          disabled={!link.connected || link.activity.doing === "recording"}
          onClick={() => ask({ what: "watch", on: !watching })}
        >
          {watching ? "Stop watching" : "Watch live data"}
        </Button>
        {link.live.length > 0 && (
          <Button color="inherit" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
            Choose figures
          </Button>
        )}
      </Box>
      {choosing && (
        <Chips
          label="Figures"
          options={link.live.map((one) => one.label)}
          chosen={shown.map((one) => one.label)}
          onChosen={(labels) =>
            set({ gauges: link.live.filter((one) => labels.includes(one.label)).map((one) => one.channel) })
          }
        />
      )}
      {link.live.length === 0 ? (
        <Typography color="text.secondary">
          {watching ? "Waiting for the first values …" : "No values yet: watch, or record a drive."}
        </Typography>
      ) : (
        <Box
          component="section"
          aria-label="Live figures"
          sx={{ display: "grid", gridTemplateColumns: { xs: "1fr 1fr", md: "repeat(4, 1fr)" }, gap: 2, mt: 1 }}
        >
          {shown.map((one) => (
            <Box key={one.channel} sx={{ borderTop: 2, borderColor: "text.primary", pt: 0.5 }}>
              <Box sx={{ fontSize: "1.1rem" }}>{label(one.channel)}</Box>
              <Box
                sx={{
                  fontFamily: FIGURES,
                  fontWeight: 600,
                  fontSize: "clamp(2.6rem, 5.2vw, 4.6rem)",
                  lineHeight: 1.05,
                }}
              >
                {one.value.toFixed(places(one))}
              </Box>
              <Box sx={{ display: "flex", justifyContent: "space-between", fontSize: "1.05rem" }}>
                <span>{one.unit || "count"}</span>
                <Box component="span" sx={{ color: "text.secondary", fontFamily: FIGURES }}>
                  {one.least.toFixed(places(one))} … {one.most.toFixed(places(one))}
                </Box>
              </Box>
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}
