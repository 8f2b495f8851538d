import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import type { Range } from "./useRange";

interface Props {
  range: Range;
  fetching: boolean;
  /** Places behind the point of a second. */
  places: number;
  children?: ReactNode;
}

/** Closer, further, earlier, later: the same on every screen with time across it. */
export function RangeButtons({ range, fetching, places, children }: Props) {
  const { asked, from, to, span } = range;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}>
      {children}
      <Button color="inherit" onClick={() => range.scale(0.5)}>
        Closer
      </Button>
      <Button color="inherit" onClick={() => range.scale(2)} disabled={!asked}>
        Further
      </Button>
      <Button color="inherit" onClick={() => range.shift(-0.5)} disabled={!asked || from <= 0}>
        Earlier
      </Button>
      <Button color="inherit" onClick={() => range.shift(0.5)} disabled={!asked || to >= span}>
        Later
      </Button>
      <Button color="inherit" onClick={range.all} disabled={!asked}>
        All of it
      </Button>
      <Typography color="text.secondary" role="status">
        {from.toFixed(places)} to {to.toFixed(places)} s{fetching ? " …" : ""}
      </Typography>
    </Box>
  );
}
