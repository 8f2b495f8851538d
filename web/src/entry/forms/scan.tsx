import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { answer, client } from "../../api/client";
import { codesQuery } from "../../api/queries";
import type { FindingOf } from "../../api/types";
import { FIGURES } from "../../app/theme";
import { Chips } from "../../fields/Chips";
import { useSettled } from "../../fields/useSettled";
import { corrected, type EntryForm, type FieldsProps, refusal } from "../form";

interface ScanValue {
  text: string;
  tool: string;
  read: string[];
  unread: string[];
  /** The codes of the entry that is corrected: what a tool read with them stays with them. */
  before: FindingOf<"scan">["codes"];
}

const UNITS = ["engine", "gearbox", "brakes", "body", "display", "steering"];

function Fields({ value, change, refused }: FieldsProps<ScanValue>) {
  const text = useSettled(value.text);
  const reading = useQuery(codesQuery(text));
  return (
    <>
      <TextField
        autoFocus
        label="Codes, as the tool shows them"
        placeholder="P0302 stored; P0300 pending"
        value={value.text}
        onChange={(event) => change({ text: event.target.value })}
        multiline
        minRows={2}
        error={Boolean(refused("codes"))}
        helperText={refused("codes") ?? "Typed or pasted, any separator. Leave it empty if there were none."}
        slotProps={{ htmlInput: { style: { fontFamily: FIGURES } } }}
      />
      {value.text.trim() !== "" && reading.data && (
        <Box component="ul" aria-label="Codes understood" sx={{ m: 0, p: 0, listStyle: "none" }}>
          {reading.data.meanings.map((meaning, index) => (
            <Box component="li" key={meaning.code} sx={{ py: 0.25 }}>
              <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 600 }}>
                {meaning.code}
              </Box>{" "}
              {reading.data.codes[index]?.status ?? "status not given"} – {meaning.text}.{" "}
              <Box component="span" sx={{ color: "text.secondary" }}>
                It cannot tell {meaning.cannot_tell}
              </Box>
            </Box>
          ))}
          {[...reading.data.not_understood, ...reading.data.notes].map((note) => (
            <Box component="li" key={note} sx={{ fontWeight: 600 }}>
              {note}
            </Box>
          ))}
        </Box>
      )}
      <TextField
        label="Read with"
        value={value.tool}
        onChange={(event) => change({ tool: event.target.value })}
        error={Boolean(refused("tool"))}
        helperText={refused("tool") ?? "Tools word one code differently."}
      />
      <Box>
        <Box sx={{ mb: 0.5, color: refused("units_read") ? "error.main" : "text.secondary" }}>
          {refused("units_read") ?? "Units that answered"}
        </Box>
        <Chips
          label="Units that answered"
          options={UNITS}
          chosen={value.read}
          onChosen={(read) => change({ read, unread: value.unread.filter((one) => !read.includes(one)) })}
        />
      </Box>
      <Box>
        <Box sx={{ mb: 0.5, color: "text.secondary" }}>
          Units that could not be reached: an unread unit is not a clean one
        </Box>
        <Chips
          label="Units that could not be reached"
          options={UNITS}
          chosen={value.unread}
          onChosen={(unread) => change({ unread, read: value.read.filter((one) => !unread.includes(one)) })}
        />
      </Box>
    </>
  );
}

export const scanForm: EntryForm<ScanValue> = {
  first: (job, request) => {
    const old = corrected(request, "scan");
    const last = job.entries.findLast((entry) => entry.finding.kind === "scan")?.finding;
    const tool = last?.kind === "scan" ? last.tool : "";
    return {
      text: old?.codes.map((code) => `${code.code} ${code.status ?? ""}`.trim()).join("; ") ?? "",
      tool: old?.tool ?? tool,
      read: old?.units_read ?? ["engine"],
      unread: old?.units_unread ?? [],
      before: old?.codes ?? [],
    };
  },
  Fields,
  finding: async (value) => {
    const reading =
      value.text.trim() === "" ? null : await answer(client.POST("/api/read/codes", { body: { text: value.text } }));
    const lost = reading?.not_understood[0];
    if (lost) throw refusal("codes", lost);
    if (reading && reading.codes.length === 0)
      throw refusal("codes", "no code was found in this text; empty it if there were none");
    return {
      kind: "scan",
      tool: value.tool,
      units_read: value.read,
      units_unread: value.unread,
      codes: (reading?.codes ?? []).map((code) => {
        const known = value.before.find((one) => one.code === code.code);
        return known ? { ...known, status: code.status } : code;
      }),
    };
  },
};
