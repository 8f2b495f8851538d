import Box from "@mui/material/Box";
import { ThemeProvider } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";
import type { Report } from "../api/report";
import { emberTheme } from "../app/theme";
import { BlockShown } from "./BlockShown";

/** The report as it lies on paper, whatever the screen around it looks like. */
export function Page({ report }: { report: Report }) {
  const paper = useMemo(() => emberTheme("paper"), []);
  const [fleet, job, odometer, opened, state] = report.heads;
  return (
    <ThemeProvider theme={paper}>
      <Box
        component="article"
        sx={{
          bgcolor: "background.paper",
          color: "text.primary",
          p: 5,
          fontSize: "1.02rem",
          "@media print": { p: 0, fontSize: "11pt", bgcolor: "transparent" },
        }}
      >
        <Box sx={{ display: "flex", borderBottom: 3, borderColor: "text.primary", pb: 1, mb: 1.5, alignItems: "end" }}>
          <Box sx={{ flex: 1 }}>
            <Typography variant="h1">{report.title}</Typography>
            <div>{[fleet, job, odometer].join(" · ")}</div>
          </Box>
          <Box sx={{ textAlign: "right" }}>
            <div>{opened}</div>
            <div>{state}</div>
          </Box>
        </Box>
        {report.sections.map((section) => (
          <Box component="section" key={section.title} sx={{ mb: 1.5, breakInside: "avoid-page" }}>
            <Typography variant="h2" sx={{ mb: 0.25 }}>
              {section.title}
            </Typography>
            {section.blocks.map((block, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: blocks have no name of their own and keep their order.
              <BlockShown key={index} block={block} />
            ))}
          </Box>
        ))}
        <Box sx={{ mt: 2, pt: 1, borderTop: 1, borderColor: "divider", fontSize: "0.9rem" }}>{report.foot}</Box>
      </Box>
    </ThemeProvider>
  );
}
