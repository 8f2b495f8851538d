import Box from "@mui/material/Box";
import type { ReactNode } from "react";

/** Fields side by side, as many as there is room for. */
export function Grid({ columns = 2, children }: { columns?: number; children: ReactNode }) {
  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "1fr 1fr", md: `repeat(${columns}, minmax(0, 1fr))` },
        columnGap: 1.5,
        rowGap: 0.75,
      }}
    >
      {children}
    </Box>
  );
}
