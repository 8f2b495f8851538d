import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

export function NotHere({ what }: { what: string }) {
  return (
    <Box sx={{ p: 4, maxWidth: 520 }}>
      <Typography variant="h1">There is no such {what}</Typography>
      <Typography sx={{ my: 2 }}>The address may be mistyped, or it was made on another data folder.</Typography>
      <Button variant="contained" component={Link} to="/">
        To the yard
      </Button>
    </Box>
  );
}
