import Typography from "@mui/material/Typography";

export function Waiting({ what }: { what: string }) {
  return (
    <Typography role="status" color="text.secondary" sx={{ p: 4 }}>
      Fetching {what} …
    </Typography>
  );
}
