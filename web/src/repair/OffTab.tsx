import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { OffItem } from "../api/repair";
import type { JobView } from "../api/types";
import { KeptChoice } from "../bench/KeptChoice";
import { useDraft } from "../fields/useDraft";
import { BackOn } from "./BackOn";
import { fromLine } from "./guess";
import { OffLine } from "./OffLine";
import { Write } from "./Write";

/** What comes off, in order, and what is off now, the last off first: so it goes back. */
export function OffTab({ job }: { job: JobView }) {
  const [{ items, line }, change, forget] = useDraft<{ items: OffItem[]; line: string }>(`job-${job.id}.off`, {
    items: [],
    line: "",
  });
  const [template, setTemplate] = useState("");
  const { bench_out: list, put_right } = job.state;
  const add = () => {
    if (line.trim() === "") return;
    const more = line.split(/[,;]/).filter((one) => one.trim() !== "");
    change({ items: [...items, ...more.map(fromLine)], line: "" });
  };
  const put = (index: number, part: Partial<OffItem>) =>
    change({ items: items.map((one, at) => (at === index ? { ...one, ...part } : one)) });
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1fr) minmax(0, 1fr)" }, gap: 3 }}>
      <Box component="section" aria-label="Taking off" sx={{ display: "flex", flexDirection: "column", gap: 1.25 }}>
        <Typography variant="h2">Taking off</Typography>
        <Box
          component="form"
          onSubmit={(event) => {
            event.preventDefault();
            add();
          }}
          sx={{ display: "flex", gap: 1 }}
        >
          <TextField
            label="What comes off"
            placeholder="4 manifold bolts, vacuum hose, coolant drained"
            value={line}
            onChange={(event) => change({ line: event.target.value })}
            helperText="Enter after each; several with commas. A number first counts them."
          />
          <Button type="submit" variant="outlined" color="inherit" sx={{ height: 44 }}>
            Add
          </Button>
        </Box>
        {items.map((item, index) => (
          <OffLine
            // biome-ignore lint/suspicious/noArrayIndexKey: lines have no name of their own and keep their order.
            key={index}
            job={job}
            item={item}
            onChange={(part) => put(index, part)}
            onRemove={() => change({ items: items.filter((_one, at) => at !== index) })}
          />
        ))}
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "start" }}>
          {items.length > 0 && (
            <TextField
              label="Name of this list"
              placeholder="intake manifold off"
              value={template}
              onChange={(event) => setTemplate(event.target.value)}
              sx={{ width: 200 }}
            />
          )}
          <KeptChoice
            job={job}
            kind="bench-out"
            label="As it came off before"
            name={template}
            body={items}
            canKeep={items.length > 0}
            onTaken={(_name, kept) => change({ items: [...items, ...kept] })}
          />
        </Box>
        {items.length > 0 && (
          <Write
            job={job}
            words={`Write down ${items.length === 1 ? "one thing" : `${items.length} things`} as off`}
            finding={() => ({ kind: "off", items })}
            onWritten={() => {
              forget();
              change({ items: [], line: "" });
            }}
          />
        )}
      </Box>
      <Box
        component="section"
        aria-label="Off the car now"
        sx={{ display: "flex", flexDirection: "column", gap: 1.25 }}
      >
        <Typography variant="h2">Off the car now</Typography>
        {list.holds_start ? (
          <Box role="status" sx={{ borderLeft: 6, borderColor: "text.primary", pl: 1.5, py: 0.5 }}>
            <strong>Do not start the engine yet.</strong> {list.says}
          </Box>
        ) : (
          <Typography color="text.secondary">{list.says}</Typography>
        )}
        {list.renew.length > 0 && (
          <Typography>
            Have new before it goes back: <strong>{list.renew.join(", ")}</strong>
          </Typography>
        )}
        {list.off.map((shown, index) => (
          <BackOn key={`${shown.entry}.${shown.index}`} job={job} shown={shown} first={index === 0} />
        ))}
        {list.start_is_due &&
          put_right.map((one) => (
            <Typography key={one.what}>Still to be put right: {one.what} (on the job's page)</Typography>
          ))}
      </Box>
    </Box>
  );
}
