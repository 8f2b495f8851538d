import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { faultQuery } from "../api/queries";
import { NotHere } from "../app/NotHere";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { minutes, sure, whole } from "../app/words";
import { conditionName, outcomeName } from "../suspects/names";
import { OwnFigure } from "./OwnFigure";

/** One fault: what it shows, which tests read that, what it costs, and the workshop's own figures for it. */
export default function FaultPage() {
  const { id = "" } = useParams();
  const page = useQuery(faultQuery(id));
  if (page.isPending) return <Waiting what="the fault" />;
  if (!page.data) return <NotHere what="fault" />;
  const fault = page.data;
  return (
    <Screen title={fault.name} back="Back to the book" backTo="/book">
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1.7fr 1fr" }, gap: 4 }}>
        <Box
          component="table"
          sx={{
            borderSpacing: 0,
            width: "100%",
            "& td, & th": {
              py: 0.6,
              pr: 1.5,
              verticalAlign: "top",
              borderBottom: 1,
              borderColor: "divider",
              textAlign: "left",
              lineHeight: 1.25,
            },
          }}
        >
          <thead>
            <tr>
              <th scope="col">Shows</th>
              <th scope="col">In so many cars</th>
              <th scope="col">Because</th>
              <th scope="col">Read by</th>
            </tr>
          </thead>
          <tbody>
            {fault.shows.map((shown) => (
              <tr key={shown.sign}>
                <td>{shown.sign}</td>
                <td>
                  {shown.states
                    .filter((one) => one.chance > 1.3 * one.sound || shown.states.length === 1)
                    .map((one) => (
                      <Box key={one.state} sx={{ whiteSpace: "nowrap" }}>
                        {shown.kind === "found" ? `${outcomeName(one.state)} ` : ""}
                        <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 600 }}>
                          {sure(one.chance)}
                        </Box>{" "}
                        <Box component="span" sx={{ color: "text.secondary" }}>
                          else {sure(one.sound)}
                        </Box>
                      </Box>
                    ))}
                </td>
                <td>{shown.because}</td>
                <td>
                  {shown.tests.map((test) => (
                    <Button
                      key={test.id}
                      component={Link}
                      to={`/book/tests/${test.id}`}
                      color="inherit"
                      size="small"
                      sx={{
                        display: "block",
                        px: 0,
                        py: 0.25,
                        textAlign: "left",
                        lineHeight: 1.15,
                        textDecoration: "underline",
                      }}
                    >
                      {test.name}
                    </Button>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
        <Box sx={{ display: "flex", flexDirection: "column", gap: 2 }}>
          <OwnFigure
            what="rates"
            id={fault.id}
            label="How often it comes, among ten thousand jobs"
            book={fault.rate}
            own={fault.own_rate ?? null}
            because={fault.rate_because}
          />
          <OwnFigure
            what="prices"
            id={fault.id}
            label="Parts for its repair, in money"
            book={fault.repair.money}
            own={fault.own_price ?? null}
            because={fault.repair.because}
          />
          <Typography>
            To mend it: {minutes(fault.repair.minutes)}
            {fault.opens.length > 0 ? `, behind ${fault.opens.join(" and ")}` : ""}; parts{" "}
            {whole(fault.own_price ?? fault.repair.money)}.
          </Typography>
          {fault.need && <Typography>Takes away: {fault.need}.</Typography>}
          {fault.fits.length > 0 && (
            <Typography color="text.secondary">
              Only on vehicles with {fault.fits.map(conditionName).join(" and ")}.
            </Typography>
          )}
        </Box>
      </Box>
    </Screen>
  );
}
