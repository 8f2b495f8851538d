import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { bookQuery, foundQuery } from "../api/queries";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { plural } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";
import { useSettled } from "../fields/useSettled";

/** The book of faults and tests: searched by the trade's words, or leafed through by family. */
export default function BookView() {
  const [words, setWords] = useState("");
  const settled = useSettled(words, 150);
  const book = useQuery(bookQuery);
  const found = useQuery(foundQuery(settled));
  if (book.isPending) return <Waiting what="the book" />;
  if (book.isError)
    return (
      <Screen title="The book" back="Back to the yard" backTo="/">
        <ProblemNote error={book.error} retry={() => book.refetch()} />
      </Screen>
    );
  const families = [...new Set(book.data.faults.map((fault) => fault.family))];
  return (
    <Screen
      title="The book"
      back="Back to the yard"
      backTo="/"
      actions={
        <Button component={Link} to="/book/workshop" variant="outlined" color="inherit">
          What this workshop knows
        </Button>
      }
    >
      <Typography color="text.secondary" sx={{ mb: 1 }}>
        {plural(book.data.faults.length, "fault")} and {plural(book.data.tests.length, "test")}, each figure with its
        reason. Cases are among ten thousand jobs, for one such part.
      </Typography>
      <TextField
        label="Search by the trade's words"
        placeholder="leak-off, no spark, egr"
        value={words}
        onChange={(event) => setWords(event.target.value)}
        sx={{ width: { xs: "100%", md: "32rem" }, mb: 1.5 }}
      />
      {settled.trim() !== "" ? (
        <Box component="ul" aria-label="Found in the book" sx={{ listStyle: "none", m: 0, p: 0 }}>
          {(found.data ?? [])
            .filter((hit) => hit.kind === "fault" || hit.kind === "test")
            .map((hit) => (
              <li key={`${hit.kind} ${hit.id}`}>
                <Button
                  component={Link}
                  to={`/book/${hit.kind}s/${hit.id}`}
                  color="inherit"
                  sx={{ textAlign: "left", lineHeight: 1.2 }}
                >
                  {hit.kind === "fault" ? "Fault" : "Test"}: {hit.name}
                </Button>
              </li>
            ))}
          {found.data && found.data.filter((hit) => hit.kind === "fault" || hit.kind === "test").length === 0 && (
            <Typography color="text.secondary">The book has nothing of these words.</Typography>
          )}
        </Box>
      ) : (
        <Box sx={{ columnWidth: "24rem", columnGap: 4 }}>
          {families.map((family) => (
            <Box key={family} component="section" aria-label={family} sx={{ mb: 2 }}>
              <Typography variant="h2" sx={{ textTransform: "capitalize" }}>
                {family}
              </Typography>
              {book.data.faults
                .filter((fault) => fault.family === family)
                .map((fault) => (
                  <Box key={fault.id} sx={{ display: "flex", alignItems: "center", breakInside: "avoid" }}>
                    <Button
                      component={Link}
                      to={`/book/faults/${fault.id}`}
                      color="inherit"
                      sx={{ flex: 1, justifyContent: "flex-start", textAlign: "left", lineHeight: 1.15, px: 0.5 }}
                    >
                      {fault.name}
                    </Button>
                    <Box sx={{ fontFamily: FIGURES, color: "text.secondary" }}>
                      {fault.own_rate ?? fault.rate}
                      {fault.own_rate != null ? " own" : ""}
                    </Box>
                  </Box>
                ))}
            </Box>
          ))}
        </Box>
      )}
    </Screen>
  );
}
