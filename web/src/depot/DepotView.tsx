import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { depotQuery, type Share } from "../api/depot";
import { Screen } from "../app/Screen";
import { FIGURES } from "../app/theme";
import { Waiting } from "../app/Waiting";
import { whole } from "../app/words";
import { ProblemNote } from "../fields/ProblemNote";

/** The depot's figures: right first time, comebacks, what each cause costs, parts fitted in vain. */
export default function DepotView() {
  const depot = useQuery(depotQuery);
  if (depot.isPending) return <Waiting what="the depot's figures" />;
  if (!depot.data) return <ProblemNote error={depot.error} retry={() => depot.refetch()} />;
  const { right_first_time, comebacks, causes, parts, suppliers, says, jobs, closed } = depot.data;
  return (
    <Screen
      title="The depot's figures"
      back="Back to the yard"
      backTo="/"
      actions={
        <Button component={Link} to="/find" variant="outlined" color="inherit">
          Find a job
        </Button>
      }
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 5, rowGap: 1, my: 1 }}>
        <Figure label="jobs" value={whole(jobs)} />
        <Figure label="of them closed" value={whole(closed)} />
        <ShareFigure label="right first time" share={right_first_time} />
        <ShareFigure label="came back" share={comebacks} />
      </Box>
      <Typography sx={{ fontWeight: 600, mb: 2 }}>{says}</Typography>
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1fr" }, gap: 4 }}>
        <Rows
          title="What each cause costs"
          empty="No job is closed with its cause written down yet."
          head={["cause", "jobs", "minutes", "parts"]}
          rows={causes.map((one) => [one.cause, whole(one.jobs), whole(one.minutes), one.cost.toFixed(2)])}
        />
        <Box>
          <Rows
            title="Fitted and not needed"
            empty="No part is known to have been fitted in vain."
            head={["part", "in vain", "of fitted", "cost"]}
            rows={parts.map((one) => [one.part, whole(one.not_needed), whole(one.fitted), one.cost.toFixed(2)])}
          />
          <Rows
            title="Parts by supplier"
            empty="No part on any trail names its supplier yet."
            head={["supplier", "fitted", "came back"]}
            rows={suppliers.map((one) => [one.supplier, whole(one.fitted), whole(one.came_back)])}
          />
        </Box>
      </Box>
    </Screen>
  );
}

function Figure({ label, value, doubt }: { label: string; value: string; doubt?: string }) {
  return (
    <Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "2rem", fontWeight: 600, lineHeight: 1.1 }}>{value}</Box>
      <Box sx={{ color: "text.secondary" }}>{label}</Box>
      {doubt && <Box sx={{ color: "text.secondary", fontSize: "0.9rem" }}>{doubt}</Box>}
    </Box>
  );
}

function ShareFigure({ label, share }: { label: string; share: Share | null | undefined }) {
  if (!share) return <Figure label={label} value="–" doubt="nothing to count yet" />;
  return (
    <Figure
      label={`${label}: ${share.count} of ${share.of}`}
      value={`${share.pct.toFixed(0)} %`}
      doubt={`truly ${share.low_pct.toFixed(0)} to ${share.high_pct.toFixed(0)} %`}
    />
  );
}

function Rows({ title, empty, head, rows }: { title: string; empty: string; head: string[]; rows: string[][] }) {
  return (
    <Box component="section" aria-label={title} sx={{ mb: 3 }}>
      <Typography variant="h2">{title}</Typography>
      {rows.length === 0 ? (
        <Typography color="text.secondary">{empty}</Typography>
      ) : (
        <Table size="small">
          <TableHead>
            <TableRow>
              {head.map((one, index) => (
                <TableCell key={one} align={index === 0 ? "left" : "right"}>
                  {one}
                </TableCell>
              ))}
            </TableRow>
          </TableHead>
          <TableBody>
            {rows.map((row) => (
              <TableRow key={row[0]}>
                {row.map((cell, index) => (
                  <TableCell
                    // biome-ignore lint/suspicious/noArrayIndexKey: cells stand under their heads.
                    key={index}
                    align={index === 0 ? "left" : "right"}
                    sx={{ fontFamily: index === 0 ? undefined : FIGURES, fontSize: "1rem" }}
                  >
                    {cell}
                  </TableCell>
                ))}
              </TableRow>
            ))}
          </TableBody>
        </Table>
      )}
    </Box>
  );
}
