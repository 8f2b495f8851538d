import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import type { Channel, Layout } from "../api/types";
import { FIGURES } from "../app/theme";

interface Props {
  layout: Layout;
  channels: Channel[];
  sample: string[][];
  onLayout: (layout: Layout) => void;
}

const SEPARATORS: Record<string, string> = { ",": "comma", ";": "semicolon", "\t": "tab", "|": "bar" };

const TIMES: Record<Layout["time"], string> = {
  seconds: "seconds",
  milliseconds: "milliseconds",
  microseconds: "microseconds",
  clock: "clock time",
};

/** Which column is which channel, guessed and to be corrected. */
export function Columns({ layout, channels, sample, onLayout }: Props) {
  const change = (index: number, part: Partial<Layout["columns"][number]>) =>
    onLayout({
      ...layout,
      columns: layout.columns.map((column, i) => (i === index ? { ...column, ...part } : column)),
    });
  const kept = layout.columns.filter((column) => column.channel && column.channel !== "time").length;
  const head = { textAlign: "left", fontWeight: 600, color: "text.secondary", pr: 2, pb: 0.5 } as const;
  return (
    <Box sx={{ my: 1 }}>
      <Typography>
        {kept} of {layout.columns.length} columns are known. Separator: {SEPARATORS[layout.separator]}; headings in line{" "}
        {layout.heading_line}.
      </Typography>
      <Box sx={{ overflowX: "auto" }}>
        <Box component="table" aria-label="Columns of the file" sx={{ borderCollapse: "collapse", mt: 1 }}>
          <thead>
            <tr>
              {["Heading", "First values", "Kept as", "Unit in the file", ""].map((name) => (
                <Box component="th" scope="col" key={name} sx={head}>
                  {name || <span style={{ position: "absolute", clip: "rect(0 0 0 0)" }}>note</span>}
                </Box>
              ))}
            </tr>
          </thead>
          <tbody>
            {layout.columns.map((column, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: headings may repeat; a column's place is its name.
              <Box component="tr" key={index} sx={{ borderTop: 1, borderColor: "divider" }}>
                <Box component="th" scope="row" sx={{ textAlign: "left", pr: 2, fontWeight: 600 }}>
                  {column.heading}
                </Box>
                <Box
                  component="td"
                  sx={{ fontFamily: FIGURES, pr: 2, whiteSpace: "nowrap", maxWidth: "16rem", overflow: "hidden" }}
                >
                  {sample
                    .map((row) => row[index] || "–")
                    .slice(0, 3)
                    .join("  ")}
                </Box>
                <Box component="td" sx={{ py: 0.5, pr: 1 }}>
                  <TextField
                    select
                    value={column.channel ?? ""}
                    onChange={(event) => change(index, { channel: event.target.value || null, note: "" })}
                    slotProps={{ htmlInput: { "aria-label": `${column.heading} is kept as` } }}
                    sx={{ width: 260 }}
                  >
                    <MenuItem value="">left out</MenuItem>
                    <MenuItem value="time">time</MenuItem>
                    {channels.map((channel) => (
                      <MenuItem key={channel.name} value={channel.name}>
                        {channel.label}
                      </MenuItem>
                    ))}
                  </TextField>
                </Box>
                <Box component="td" sx={{ py: 0.5, pr: 1 }}>
                  {column.channel === "time" ? (
                    <TextField
                      select
                      value={layout.time}
                      onChange={(event) => onLayout({ ...layout, time: event.target.value as Layout["time"] })}
                      slotProps={{ htmlInput: { "aria-label": "Unit of the time" } }}
                      sx={{ width: 150 }}
                    >
                      {Object.entries(TIMES).map(([name, label]) => (
                        <MenuItem key={name} value={name}>
                          {label}
                        </MenuItem>
                      ))}
                    </TextField>
                  ) : (
                    column.channel && (
                      <TextField
                        value={column.unit ?? ""}
                        placeholder={channels.find((one) => one.name === column.channel)?.unit}
                        onChange={(event) => change(index, { unit: event.target.value })}
                        slotProps={{ htmlInput: { "aria-label": `Unit of ${column.heading}` } }}
                        sx={{ width: 150 }}
                      />
                    )
                  )}
                </Box>
                <Box component="td" sx={{ color: "text.secondary" }}>
                  {column.note}
                </Box>
              </Box>
            ))}
          </tbody>
        </Box>
      </Box>
    </Box>
  );
}
