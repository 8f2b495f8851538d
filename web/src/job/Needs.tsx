import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import type { NeedShown } from "../api/types";

const MARK = { proven: "✓", missing: "✗", unknown: "?" } as const;
const WORD = { proven: "proven", missing: "missing", unknown: "not known" } as const;

/** What the engine needs: told by mark and word, never by colour alone. */
export function Needs({ needs, onCheck }: { needs: NeedShown[]; onCheck: (need: NeedShown) => void }) {
  return (
    <Box component="section" aria-label="Needs" sx={{ display: "flex", gap: 0.5 }}>
      {needs.map((one) => (
        <ButtonBase
          key={one.need}
          onClick={() => onCheck(one)}
          title={one.because}
          sx={{
            flex: one.name.length > 6 ? 1.35 : 1,
            minHeight: 48,
            flexDirection: "column",
            borderTop: 3,
            borderTopStyle: one.state === "unknown" ? "dotted" : "solid",
            borderColor: one.state === "unknown" ? "divider" : "text.primary",
            "&:hover": { bgcolor: "background.paper" },
          }}
        >
          <Box component="span" sx={{ fontWeight: 600 }}>
            {one.name}
          </Box>
          <Box component="span" sx={{ fontSize: "0.85rem", color: "text.secondary", whiteSpace: "nowrap" }}>
            <span aria-hidden="true">{MARK[one.state]} </span>
            {WORD[one.state]}
          </Box>
        </ButtonBase>
      ))}
    </Box>
  );
}
