import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { photosQuery } from "../api/bench";
import type { OffItem } from "../api/repair";
import type { JobView } from "../api/types";
import { Choice } from "../bench/Choice";
import { HOW_WORDS, KIND_WORDS } from "./guess";
import { asTorque, fromTorque, noTorque } from "./stages";
import { TorqueFields } from "./TorqueFields";
import { useTorque } from "./useTorque";

interface Props {
  job: JobView;
  item: OffItem;
  onChange: (part: Partial<OffItem>) => void;
  onRemove: () => void;
}

/** One thing that comes off: what it is, what was done to it, and what must be known to put it back. */
export function OffLine({ job, item, onChange, onRemove }: Props) {
  const [more, setMore] = useState(Boolean(item.tighten || item.setting || item.lies));
  const [torque, setTorque] = useState(
    item.tighten ? fromTorque(item.tighten) : { ...noTorque, count: String(item.count ?? 1) },
  );
  const photos = useQuery({ ...photosQuery(job.id), enabled: more });
  const read = useTorque(torque);
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", pt: 1 }}>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "1fr 1fr", md: "1.5fr 1fr 1fr auto auto auto" },
          columnGap: 1,
          alignItems: "start",
        }}
      >
        <TextField
          label={item.count ? `${item.count} ×` : "What"}
          value={item.what}
          onChange={(event) => onChange({ what: event.target.value })}
        />
        <Choice
          label="Kind"
          value={item.kind ?? "part"}
          onValue={(kind) => onChange({ kind: kind as OffItem["kind"] })}
          options={KIND_WORDS}
          helper=""
        />
        <Choice
          label="Done"
          value={item.how ?? "removed"}
          onValue={(how) => onChange({ how: how as OffItem["how"] })}
          options={HOW_WORDS}
          helper=""
        />
        <Button
          variant={item.renew ? "contained" : "outlined"}
          color={item.renew ? "primary" : "inherit"}
          aria-pressed={item.renew ?? false}
          aria-label={`New ${item.what} when it goes back`}
          onClick={() => onChange({ renew: !item.renew })}
          sx={{ height: 44 }}
        >
          New
        </Button>
        <Button color="inherit" onClick={() => setMore(!more)} aria-expanded={more} sx={{ height: 44 }}>
          More
        </Button>
        <Button color="inherit" onClick={onRemove} aria-label={`Strike ${item.what}`} sx={{ height: 44, minWidth: 44 }}>
          ×
        </Button>
      </Box>
      {more && (
        <Box sx={{ display: "flex", flexDirection: "column", gap: 1, pl: 1 }}>
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", columnGap: 1 }}>
            <TextField
              label="Where it lies"
              placeholder="tray 2"
              value={item.lies ?? ""}
              onChange={(event) => onChange({ lies: event.target.value })}
            />
            <TextField
              label="Measured before it was moved"
              placeholder="rod 41.5 mm"
              value={item.setting ?? ""}
              onChange={(event) => onChange({ setting: event.target.value })}
            />
          </Box>
          {(photos.data?.length ?? 0) > 0 && (
            <Choice
              label="Photograph"
              value={item.photo == null ? "" : String(item.photo)}
              onValue={(photo) => onChange({ photo: photo === "" ? null : Number(photo) })}
              options={[["", "none"], ...(photos.data ?? []).map((one) => [String(one.id), one.name] as const)]}
            />
          )}
          {(item.kind === "fastener" || item.tighten) && (
            <>
              <TorqueFields
                value={torque}
                wrench={false}
                change={(part) => {
                  const next = { ...torque, ...part };
                  setTorque(next);
                  onChange({ tighten: asTorque(next), ...(next.count ? { count: Number(next.count) || null } : {}) });
                }}
                refused={(...fields) => read.problem?.reasonFor(...fields)}
              />
              {read.result && <Box sx={{ color: "text.secondary" }}>{read.result.says}</Box>}
            </>
          )}
        </Box>
      )}
    </Box>
  );
}
