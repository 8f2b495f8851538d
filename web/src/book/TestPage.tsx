import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { testQuery } from "../api/queries";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { sure } from "../app/words";
import { conditionName, outcomeName } from "../suspects/names";
import { OwnFigure } from "./OwnFigure";

/** One test: how it is made, what its outcomes mean, and how well it reads. */
export default function TestPage() {
  const { id = "" } = useParams();
  const page = useQuery(testQuery(id));
  if (page.isPending) return <Waiting what="the test" />;
  if (!page.data) return <NotHere what="test" />;
  const test = page.data;
  const cell = { py: 0.6, pr: 1.5, verticalAlign: "top", borderBottom: 1, borderColor: "divider", textAlign: "left" };
  return (
    <Screen title={test.name} back="Back to the book" backTo="/book">
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1.7fr 1fr" }, gap: 4 }}>
        <Box>
          <Typography sx={{ mb: 1 }}>{test.how}</Typography>
          {test.cautions.map((caution) => (
            <Typography key={caution} sx={{ fontWeight: 600, lineHeight: 1.3 }}>
              {caution}
            </Typography>
          ))}
          <Typography variant="h2" sx={{ mt: 2 }}>
            What each outcome means
          </Typography>
          <Box
            component="dl"
            sx={{ m: 0, display: "grid", gridTemplateColumns: "auto 1fr", columnGap: 2, rowGap: 0.75 }}
          >
            {test.outcomes.map((one) => (
              <Box key={one.id} sx={{ display: "contents" }}>
                <Box component="dt" sx={{ fontWeight: 600 }}>
                  {outcomeName(one.id)}
                </Box>
                <Box component="dd" sx={{ m: 0 }}>
                  {one.means}
                  {one.proves.length > 0 && ` Proves: ${one.proves.join(", ")}.`}
                  {one.lacks.length > 0 && ` Lacking: ${one.lacks.join(", ")}.`}
                </Box>
              </Box>
            ))}
          </Box>
          <Typography variant="h2" sx={{ mt: 2 }}>
            How well it reads
          </Typography>
          <Box component="table" sx={{ borderSpacing: 0, "& td, & th": cell }}>
            <thead>
              <tr>
                <th scope="col">If it is</th>
                {test.outcomes.map((one) => (
                  <th key={one.id} scope="col">
                    {outcomeName(one.id)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {test.table.map((row) => (
                <tr key={row.state}>
                  <th scope="row">{outcomeName(row.state)}</th>
                  {row.chances.map((chance, index) => (
                    <Box component="td" key={test.outcomes[index]?.id} sx={{ fontFamily: FIGURES }}>
                      {sure(chance)}
                    </Box>
                  ))}
                </tr>
              ))}
            </tbody>
          </Box>
          <Typography variant="body2" color="text.secondary" sx={{ mt: 0.5 }}>
            {test.table_because}
          </Typography>
        </Box>
        <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
          <OwnFigure
            what="minutes"
            id={test.id}
            label="Minutes it takes"
            book={test.minutes}
            own={test.own_minutes ?? null}
            because={test.minutes_because}
          />
          {test.opens.length > 0 && <Typography>Comes off first: {test.opens.join(", ")}.</Typography>}
          {test.tools.length > 0 && <Typography>At hand: {test.tools.join(", ")}.</Typography>}
          {test.people > 1 && <Typography>Takes {test.people} people.</Typography>}
          {test.fits.length > 0 && (
            <Typography color="text.secondary">
              Only on vehicles with {test.fits.map(conditionName).join(" and ")}.
            </Typography>
          )}
          <Typography variant="h2">Faults that it reads</Typography>
          <Box>
            {test.faults.map((fault) => (
              <Button
                key={fault.id}
                component={Link}
                to={`/book/faults/${fault.id}`}
                color="inherit"
                sx={{ display: "block", px: 0, textAlign: "left", lineHeight: 1.15 }}
              >
                {fault.name}
              </Button>
            ))}
          </Box>
        </Box>
      </Box>
    </Screen>
  );
}
