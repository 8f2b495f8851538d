import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { asProblem } from "../api/problem";
import { ownQuery, useChangeOwn } from "../api/queries";
import { type DecideInput, type DecideResult, decideQuery, type Offer, repairChoicesQuery } from "../api/repair";
import type { JobView } from "../api/types";
import { FIGURES } from "../app/theme";
import { sure } from "../app/words";
import { Choice } from "../bench/Choice";
import { Grid } from "../bench/Grid";
import { NotJudged } from "../bench/NotJudged";
import { reader } from "../entry/form";
import { ProblemNote } from "../fields/ProblemNote";
import { QuantityField } from "../fields/QuantityField";
import { useDraft } from "../fields/useDraft";
import { useSettled } from "../fields/useSettled";
import { Write } from "./Write";

interface OfferText {
  source: Offer["source"];
  supplier: string;
  price: string;
  sold_by: string;
  deposit: string;
  days: string;
}

const noOffer: OfferText = { source: "original", supplier: "", price: "", sold_by: "1", deposit: "", days: "" };

/** What to buy: each offer as one, pair or set, with what it costs in the end. */
export function DecideTab({ job }: { job: JobView }) {
  const queries = useQueryClient();
  const choices = useQuery(repairChoicesQuery);
  const own = useQuery(ownQuery);
  const keep = useChangeOwn();
  const leading = job.state.suspects?.result.suspects[0];
  const first = {
    part: job.state.next.part ?? leading?.part ?? "",
    probability: leading ? (leading.present * 100).toFixed(0) : "50",
    alike: "1",
    way: "unknown",
    minutes: leading?.repair ? leading.repair.minutes.toFixed(0) : "30",
    each: "0",
    day: "0",
    hands_in: true,
    offers: [noOffer, { ...noOffer, source: "other-make" as const }],
    chosen: "",
    text: "",
  };
  const [value, change, forget] = useDraft(`job-${job.id}.decide`, first);
  const settled = useSettled(JSON.stringify([value, choices.data?.labour_per_hour]), 350);
  const input = useQuery({
    queryKey: ["decide-typed", settled, job.state.bench_out.renew],
    queryFn: async (): Promise<DecideInput> => {
      const read = reader(queries);
      const offers: Offer[] = [];
      for (const [index, one] of value.offers.entries()) {
        if (one.price.trim() === "") continue;
        offers.push({
          part: value.part,
          source: one.source,
          supplier: one.supplier.trim(),
          price: await read.number(one.price, "money", `offers[${index}].price`),
          sold_by: await read.number(one.sold_by || "1", "count", `offers[${index}].sold_by`),
          deposit: (await read.optional(one.deposit, "money", `offers[${index}].deposit`)) ?? 0,
          days: (await read.optional(one.days, "number", `offers[${index}].days`)) ?? 0,
        });
      }
      return {
        part: value.part,
        probability: (await read.number(value.probability, "percent", "probability")) / 100,
        alike: await read.number(value.alike, "count", "alike"),
        way: value.way,
        minutes: await read.number(value.minutes, "duration", "minutes"),
        minutes_each_more: (await read.optional(value.each, "duration", "minutes_each_more")) ?? 0,
        labour_per_hour: choices.data?.labour_per_hour ?? 0,
        day_costs: (await read.optional(value.day, "money", "day_costs")) ?? 0,
        hands_in_old: value.hands_in,
        offers,
        suppliers: choices.data?.suppliers ?? [],
        renew: job.state.bench_out.renew,
      };
    },
    enabled: choices.isSuccess,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const ready = input.data && input.data.offers.length > 0 ? input.data : null;
  const result = useQuery(decideQuery(ready));
  const error = input.error ?? result.error;
  const problem = error ? asProblem(error) : null;
  const refused = (...fields: string[]) => problem?.reasonFor(...fields);
  const put = (index: number, part: Partial<OfferText>) =>
    change({ offers: value.offers.map((one, at) => (at === index ? { ...one, ...part } : one)) });
  const known = (choices.data?.offers ?? []).filter((one) => one.part === value.part);
  const quantity = (
    name: "probability" | "alike" | "minutes" | "each" | "day",
    label: string,
    dimension: "percent" | "count" | "duration" | "money",
    field: string,
  ) => (
    <QuantityField
      label={label}
      dimension={dimension}
      value={value[name]}
      onValue={(text) => change({ [name]: text })}
      refused={refused(field)}
    />
  );
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1fr) minmax(0, 1fr)" }, gap: 3 }}>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 0.5 }}>
        <Grid columns={3}>
          <TextField
            label="Part"
            value={value.part}
            onChange={(event) => change({ part: event.target.value })}
            error={Boolean(refused("part"))}
            helperText={refused("part") ?? " "}
          />
          {quantity("probability", "How likely it is to blame", "percent", "probability")}
          <Choice
            label="The way it failed"
            value={value.way}
            onValue={(way) => change({ way })}
            options={(choices.data?.ways ?? []).map((one) => [one.id, one.name] as const)}
          />
          {quantity("alike", "Like it on this engine", "count", "alike")}
          {quantity("minutes", "Minutes to renew one", "duration", "minutes")}
          {quantity("each", "and each one more", "duration", "minutes_each_more")}
          {quantity("day", "A day off the road costs", "money", "day_costs")}
          <FormControlLabel
            control={<Checkbox checked={value.hands_in} onChange={(_e, hands_in) => change({ hands_in })} />}
            label="old part handed in"
          />
        </Grid>
        {value.offers.map((one, index) => (
          <Box
            // biome-ignore lint/suspicious/noArrayIndexKey: offers have no name of their own and keep their order.
            key={index}
            component="fieldset"
            sx={{ border: 0, borderTop: 1, borderColor: "divider", m: 0, p: 0, pt: 1 }}
          >
            <Box component="legend" sx={{ position: "absolute", left: -9999 }}>
              Offer {index + 1}
            </Box>
            <Grid columns={3}>
              <Choice
                label="What"
                value={one.source}
                onValue={(source) => put(index, { source: source as Offer["source"] })}
                options={(choices.data?.sources ?? []).map((s) => [s.id, s.name] as const)}
              />
              <TextField
                label="From whom"
                value={one.supplier}
                onChange={(event) => put(index, { supplier: event.target.value })}
              />
              <QuantityField
                label="Price"
                dimension="money"
                value={one.price}
                onValue={(price) => put(index, { price })}
                refused={refused(`offers[${index}].price`)}
              />
              <QuantityField
                label="Sold by the"
                dimension="count"
                value={one.sold_by}
                onValue={(sold_by) => put(index, { sold_by })}
                refused={refused(`offers[${index}].sold_by`)}
              />
              <QuantityField
                label="Deposit on the old one"
                dimension="money"
                value={one.deposit}
                onValue={(deposit) => put(index, { deposit })}
                refused={refused(`offers[${index}].deposit`)}
              />
              <QuantityField
                label="Here in days"
                dimension="number"
                value={one.days}
                onValue={(days) => put(index, { days })}
                refused={refused(`offers[${index}].days`)}
              />
            </Grid>
          </Box>
        ))}
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          <Button variant="outlined" color="inherit" onClick={() => change({ offers: [...value.offers, noOffer] })}>
            Another offer
          </Button>
          {known.length > 0 && (
            <Button
              variant="outlined"
              color="inherit"
              onClick={() =>
                change({
                  offers: known.map((one) => ({
                    source: one.source,
                    supplier: one.supplier ?? "",
                    price: String(one.price),
                    sold_by: String(one.sold_by ?? 1),
                    deposit: one.deposit ? String(one.deposit) : "",
                    days: one.days ? String(one.days) : "",
                  })),
                })
              }
            >
              Prices as last time
            </Button>
          )}
          {ready && own.data && (
            <Button
              color="inherit"
              disabled={keep.isPending}
              onClick={() => {
                const others = (own.data.own.offers ?? []).filter((one) => one.part !== value.part);
                keep.mutate(
                  { ...own.data.own, offers: [...others, ...ready.offers] },
                  { onSuccess: () => queries.invalidateQueries({ queryKey: ["repair-choices"] }) },
                );
              }}
            >
              {keep.isSuccess ? "Prices are kept" : "Keep these prices"}
            </Button>
          )}
        </Box>
        <ProblemNote error={keep.error} />
      </Box>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
        {problem ? (
          <NotJudged title="Not weighed yet" problem={problem} />
        ) : ready && result.data ? (
          <Weighed
            result={result.data}
            probability={ready.probability}
            chosen={value.chosen}
            onChosen={(chosen) => change({ chosen })}
          />
        ) : (
          <Typography color="text.secondary">Write a price: what each offer costs in the end stands here.</Typography>
        )}
        {ready && result.data && (
          <Write
            job={job}
            words="Decide and order"
            disabled={value.chosen === ""}
            finding={() => ({
              kind: "decided",
              input: ready,
              chosen: value.chosen,
              ordered: result.data.order,
              text: value.text,
            })}
            onWritten={() => {
              forget();
              change(first);
            }}
          />
        )}
      </Box>
    </Box>
  );
}

interface WeighedProps {
  result: DecideResult;
  probability: number;
  chosen: string;
  onChosen: (name: string) => void;
}

function Weighed({ result, probability, chosen, onChosen }: WeighedProps) {
  return (
    <Box component="section" aria-label="Weighed" sx={{ bgcolor: "background.paper", px: 2, py: 1.5 }}>
      <Typography sx={{ fontWeight: 600, fontSize: "1.15rem" }}>{result.says}</Typography>
      <Typography variant="body2" color="text.secondary">
        With {sure(probability)} that this part is to blame.
      </Typography>
      {result.options.slice(0, 6).map((one) => (
        <Box key={one.name} sx={{ borderTop: 1, borderColor: "divider", py: 0.75 }}>
          <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
            <Button
              variant={chosen === one.name ? "contained" : "outlined"}
              color={chosen === one.name ? "primary" : "inherit"}
              aria-pressed={chosen === one.name}
              onClick={() => onChosen(one.name)}
              sx={{ flex: 1, justifyContent: "flex-start", textAlign: "left" }}
            >
              {one.name}
            </Button>
            <Box sx={{ fontFamily: FIGURES, fontSize: "1.25rem", fontWeight: 600 }}>{one.expected.toFixed(0)}</Box>
          </Box>
          <Typography variant="body2" color="text.secondary">
            {one.outlay.toFixed(2)} over the counter; comes back {one.comeback_pct.toFixed(1)} %; a wrong guess loses{" "}
            {one.wrong_guess_loses.toFixed(0)}
            {chosen === one.name && (
              <> – {one.shares.map((share) => `${share.what} ${share.money.toFixed(0)}`).join(", ")}</>
            )}
          </Typography>
        </Box>
      ))}
      {result.not_offered.map((one) => (
        <Typography key={one.name} variant="body2" sx={{ mt: 0.5 }}>
          Not offered: {one.name}. {one.why}
        </Typography>
      ))}
      <Typography variant="h2" sx={{ mt: 1 }}>
        To order before teardown
      </Typography>
      <Box component="ul" sx={{ m: 0, pl: 2.5 }}>
        {result.order.map((line) => (
          <li key={line.what}>
            {line.count} × {line.what}
            {line.supplier && ` from ${line.supplier}`}
          </li>
        ))}
      </Box>
    </Box>
  );
}
