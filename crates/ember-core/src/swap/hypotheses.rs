//! The hypotheses after a swap, weighed against what the drive showed.

use std::collections::BTreeSet;

use super::evidence::{CellCodes, CellCounts, Evidence, Measure};
use super::moves::CheckedMove;
use super::{Hypothesis, PlaceName, Position, SwapResult, Verdict};
use crate::engine::Ignition;
use crate::knowledge::{Knowledge, SwapKnowledge};
use crate::rates::RatePrior;

/// A hypothesis by its faulty cells, before it is weighed.
struct Possible {
    what: Verdict,
    part: Option<(String, Option<String>)>,
    cells: BTreeSet<usize>,
    prior: f64,
}

/// One suspect cell, or the two that one coil feeds when both misfire.
struct Suspect {
    cell: usize,
    group: BTreeSet<usize>,
    /// Events per exposure before; `None` when only codes are known.
    rate: Option<f64>,
}

pub(super) fn judge(
    position: &Position,
    moves: &[CheckedMove],
    before: &Evidence,
    after: &Evidence,
    cleared_between: bool,
    knowledge: &Knowledge,
) -> SwapResult {
    let measure = after.measure.or(before.measure);
    let mut result = SwapResult {
        verdict: Verdict::Undecided,
        part: None,
        variant: None,
        cylinder_now: None,
        place_now: None,
        suspect: None,
        hypotheses: Vec::new(),
        decided: false,
        more_revolutions: None,
        more_km: None,
        more_attempts: None,
        warnings: Vec::new(),
        next: String::new(),
    };
    let suspect = find_suspect(position, moves, before, &mut result.warnings);
    result.suspect = suspect.as_ref().map(|s| position.name(s.cell));
    if !cleared_between {
        result.verdict = Verdict::Void;
        result.next = "The codes were not cleared between the two drives, so what is stored now may be from before. \
            Save the codes, clear them, drive again under the conditions of the fault, and enter what comes back."
            .into();
        return result;
    }
    let Some(suspect) = suspect else {
        result.next = "No single place stands out before the swap among those that a part left. \
            Count longer before moving anything, and move the part of the place that misfires most."
            .into();
        return result;
    };

    let weigher = Weigher::new(position, &suspect, measure, after, knowledge);
    let possible = possibilities(position, moves, &suspect, &knowledge.swap);
    let outcome = weigher.outcome(&possible, 1.0);
    result.hypotheses = listed(position, &possible, &outcome.probabilities);
    let leader = &possible[outcome.leader];
    let alike: Vec<&Possible> = possible.iter().filter(|p| p.what == leader.what && p.cells == leader.cells).collect();
    result.decided = outcome.decided;
    if outcome.decided {
        result.verdict = leader.what;
        if leader.what == Verdict::Moved {
            (result.part, result.variant) = leader.part.clone().map_or((None, None), |(p, v)| (Some(p), v));
        }
    } else if let Some(more) = weigher.more(&possible) {
        match measure {
            Some(Measure::Km) => result.more_km = Some(more),
            Some(Measure::Attempts) => result.more_attempts = Some(more),
            _ => result.more_revolutions = Some(more),
        }
    }
    if leader.what == Verdict::Moved && (outcome.decided || outcome.settled_place) {
        match leader.cells.first().map(|&cell| position.name(cell)) {
            Some(PlaceName::Cylinder(cylinder)) => result.cylinder_now = Some(cylinder),
            Some(PlaceName::Named(name)) => result.place_now = Some(name),
            None => {}
        }
    }
    result.next = words(position, &result, leader, &alike, outcome.settled_place, measure);
    result
}

fn find_suspect(
    position: &Position,
    moves: &[CheckedMove],
    before: &Evidence,
    warnings: &mut Vec<String>,
) -> Option<Suspect> {
    let left: BTreeSet<usize> = moves.iter().map(|m| m.from).collect();
    let (cell, rate) = if let Some(counts) = &before.counts {
        let most = left.iter().map(|&c| counts.events[c]).fold(0.0, f64::max);
        let overall = counts.events.iter().copied().fold(0.0, f64::max);
        if overall > most {
            let worst = counts.events.iter().position(|&k| k == overall).unwrap_or_default();
            warnings.push(format!("{} had the most before, and no part was taken from it", position.name(worst)));
        }
        let mut leaders: Vec<usize> = left.iter().copied().filter(|&c| counts.events[c] == most).collect();
        // Two that share a coil are one suspect, not a tie.
        if let ([a, b], Some(engine)) = (leaders.as_slice(), position.engine())
            && engine.ignition == Ignition::PairedCoils
            && engine.cylinder(*a as u8 + 1).shares_coil_with.contains(&(*b as u8 + 1))
        {
            leaders.truncate(1);
        }
        let &[cell] = leaders.as_slice() else { return None };
        if most == 0.0 {
            return None;
        }
        (cell, Some(most / counts.exposure))
    } else {
        let codes = before.codes.as_ref()?;
        let coded: Vec<usize> = left.intersection(&codes.named).copied().collect();
        let &[cell] = coded.as_slice() else { return None };
        (cell, None)
    };
    let mut group = BTreeSet::from([cell]);
    if let Some(engine) = position.engine()
        && engine.ignition == Ignition::PairedCoils
    {
        for &mate in &engine.cylinder(cell as u8 + 1).shares_coil_with {
            let mate = usize::from(mate) - 1;
            let ill = match (&before.counts, &before.codes) {
                (Some(counts), _) => counts.events[mate] * 2.0 >= counts.events[cell],
                (None, Some(codes)) => codes.named.contains(&mate),
                (None, None) => false,
            };
            if ill {
                group.insert(mate);
            }
        }
    }
    if let (Some(counts), Some(rate)) = (&before.counts, rate) {
        for receiver in moves.iter().filter(|m| group.contains(&m.from)).map(|m| m.to) {
            if !group.contains(&receiver) && counts.events[receiver] / counts.exposure > 0.3 * rate {
                warnings.push(format!("{} was not healthy itself before it received a part", position.name(receiver)));
            }
        }
    }
    Some(Suspect { cell, group, rate })
}

fn possibilities(
    position: &Position,
    moves: &[CheckedMove],
    suspect: &Suspect,
    knowledge: &SwapKnowledge,
) -> Vec<Possible> {
    let taken: Vec<&CheckedMove> = moves.iter().filter(|m| m.from == suspect.cell).collect();
    let receivers: BTreeSet<usize> = taken.iter().map(|m| m.to).collect();
    let weights: f64 = taken.iter().map(|m| knowledge.part_weight(&m.part)).sum();
    let mut list: Vec<Possible> = taken
        .iter()
        .map(|m| {
            let mut cells = BTreeSet::from([m.to]);
            // A coil that feeds two cylinders takes both with it.
            if suspect.group.len() > 1
                && m.part == "coil"
                && let Some(engine) = position.engine()
            {
                cells.extend(engine.cylinder(m.to as u8 + 1).shares_coil_with.iter().map(|&c| usize::from(c) - 1));
            }
            Possible {
                what: Verdict::Moved,
                part: Some((m.part.clone(), m.variant.clone())),
                cells,
                prior: knowledge.outcome_weight("moved") * knowledge.part_weight(&m.part) / weights,
            }
        })
        .collect();
    let plain = |what, cells, prior| Possible { what, part: None, cells, prior };
    list.push(plain(Verdict::Stayed, suspect.group.clone(), knowledge.outcome_weight("stayed")));
    list.push(plain(Verdict::Gone, BTreeSet::new(), knowledge.outcome_weight("gone")));
    let elsewhere: Vec<usize> =
        (0..position.count()).filter(|c| !receivers.contains(c) && !suspect.group.contains(c)).collect();
    for &cell in &elsewhere {
        let prior = knowledge.outcome_weight("elsewhere") / elsewhere.len() as f64;
        list.push(plain(Verdict::Elsewhere, BTreeSet::from([cell]), prior));
    }
    let involved: Vec<usize> = std::iter::once(suspect.cell).chain(receivers).collect();
    let pairs: Vec<BTreeSet<usize>> = involved
        .iter()
        .enumerate()
        .flat_map(|(i, &a)| involved[i + 1..].iter().map(move |&b| BTreeSet::from([a, b])))
        .filter(|pair| !list.iter().any(|p| p.cells == *pair))
        .collect();
    let each = knowledge.outcome_weight("mixed") / pairs.len().max(1) as f64;
    list.extend(pairs.into_iter().map(|pair| plain(Verdict::Mixed, pair, each)));
    list
}

struct Outcome {
    probabilities: Vec<f64>,
    leader: usize,
    /// The place is beyond doubt, though more than one part may have brought the fault there.
    settled_place: bool,
    decided: bool,
}

struct Weigher<'a> {
    cells: usize,
    after: &'a Evidence,
    faulty: RatePrior,
    background: RatePrior,
    /// Events per exposure that a faulty cell is expected to show.
    expected: f64,
    least_events: f64,
    measure: Option<Measure>,
    knowledge: &'a SwapKnowledge,
}

impl<'a> Weigher<'a> {
    fn new(
        position: &Position,
        suspect: &Suspect,
        measure: Option<Measure>,
        after: &'a Evidence,
        knowledge: &'a Knowledge,
    ) -> Self {
        let expected = suspect.rate.unwrap_or(knowledge.misfire.fault_rate.mean);
        let swap = &knowledge.swap;
        let (background, least_events) = match position {
            Position::Cylinders(_) => (knowledge.misfire.background_rate.prior(), swap.decision.misfires),
            Position::Named(_) => {
                let share = &swap.background_share;
                (RatePrior::new(share.shape, share.share * expected), swap.decision.occurrences)
            }
        };
        Weigher {
            cells: position.count(),
            after,
            faulty: RatePrior::new(swap.faulty_rate.shape, expected),
            background,
            expected,
            least_events,
            measure,
            knowledge: swap,
        }
    }

    /// Weighs all, as if the drive after had been `times` as long with the same rates.
    fn outcome(&self, possible: &[Possible], times: f64) -> Outcome {
        let ln_weights: Vec<f64> = possible
            .iter()
            .map(|p| {
                p.prior.ln()
                    + match (&self.after.counts, &self.after.codes) {
                        (Some(counts), _) => self.ln_counts(counts, &p.cells, times),
                        (None, Some(codes)) => self.ln_codes(codes, &p.cells),
                        (None, None) => 0.0,
                    }
            })
            .collect();
        let best = ln_weights.iter().copied().fold(f64::MIN, f64::max);
        let sum: f64 = ln_weights.iter().map(|w| (w - best).exp()).sum();
        let probabilities: Vec<f64> = ln_weights.iter().map(|w| (w - best).exp() / sum).collect();
        let leader = probabilities
            .iter()
            .enumerate()
            .max_by(|a, b| a.1.total_cmp(b.1).then(b.0.cmp(&a.0)))
            .map_or(0, |(index, _)| index);
        let first = &possible[leader];
        let together: f64 = possible
            .iter()
            .zip(&probabilities)
            .filter(|(p, _)| p.what == first.what && p.cells == first.cells)
            .map(|(_, probability)| probability)
            .sum();
        let rule = &self.knowledge.decision;
        let seen = match &self.after.counts {
            None => true,
            Some(counts) if first.cells.is_empty() => self.expected * counts.exposure * times >= self.least_events,
            Some(counts) => first.cells.iter().map(|&c| counts.events[c]).sum::<f64>() * times >= self.least_events,
        };
        let settled_place = seen && together >= rule.probability;
        let shared_by_parts = possible.iter().filter(|p| p.what == Verdict::Moved && p.cells == first.cells).count()
            > 1
            && first.what == Verdict::Moved;
        Outcome {
            decided: settled_place && !shared_by_parts && probabilities[leader] >= rule.probability,
            settled_place,
            leader,
            probabilities,
        }
    }

    fn ln_counts(&self, counts: &CellCounts, faulty: &BTreeSet<usize>, times: f64) -> f64 {
        let exposure = counts.exposure * times;
        let mut ln = 0.0;
        let (mut rest_k, mut rest_n) = (0.0, 0.0);
        for (cell, events) in counts.events.iter().enumerate() {
            if faulty.contains(&cell) {
                ln += self.faulty.ln_marginal(events * times, exposure);
            } else {
                rest_k += events * times;
                rest_n += exposure;
            }
        }
        if rest_n > 0.0 {
            ln += self.background.ln_marginal(rest_k, rest_n);
        }
        ln
    }

    fn ln_codes(&self, codes: &CellCodes, faulty: &BTreeSet<usize>) -> f64 {
        let d = &self.knowledge.detection;
        let chance = |sets: f64, is_set: bool| if is_set { sets.ln() } else { (1.0 - sets).ln() };
        let random = if faulty.is_empty() { d.random_without } else { d.random_with_fault };
        chance(random, codes.random)
            + (0..self.cells)
                .map(|cell| {
                    chance(if faulty.contains(&cell) { d.faulty } else { d.healthy }, codes.named.contains(&cell))
                })
                .sum::<f64>()
    }

    /// How much more of the same drive would decide it, in the measure of the counts, rounded up.
    fn more(&self, possible: &[Possible]) -> Option<f64> {
        let counts = self.after.counts.as_ref()?;
        let decides = |times: f64| self.outcome(possible, times).decided;
        let reach = self.knowledge.reach.times;
        let mut high = 1.0;
        while !decides(high) {
            if high >= reach {
                return None;
            }
            high = (high * 1.25_f64).min(reach);
        }
        let mut low = (high / 1.25).max(1.0);
        for _ in 0..40 {
            let middle = 0.5 * (low + high);
            if decides(middle) { high = middle } else { low = middle }
        }
        // Firings are half the revolutions.
        let of_exposure = if self.measure == Some(Measure::Revolutions) { 2.0 } else { 1.0 };
        Some(((high - 1.0) * counts.exposure * of_exposure).ceil())
    }
}

fn listed(position: &Position, possible: &[Possible], probabilities: &[f64]) -> Vec<Hypothesis> {
    let mut list: Vec<Hypothesis> = possible
        .iter()
        .zip(probabilities)
        .map(|(p, &probability)| {
            let (part, variant) = p.part.clone().map_or((None, None), |(part, variant)| (Some(part), variant));
            Hypothesis {
                what: p.what,
                part,
                variant,
                places: p.cells.iter().map(|&cell| position.name(cell)).collect(),
                probability,
            }
        })
        .collect();
    list.sort_by(|a, b| b.probability.total_cmp(&a.probability));
    list
}

fn words(
    position: &Position,
    result: &SwapResult,
    leader: &Possible,
    alike: &[&Possible],
    settled_place: bool,
    measure: Option<Measure>,
) -> String {
    let suspect = result.suspect.as_ref().map(ToString::to_string).unwrap_or_default();
    let now = leader.cells.iter().map(|&c| position.name(c).to_string()).collect::<Vec<_>>().join(" and ");
    if !result.decided {
        if settled_place && alike.len() > 1 {
            let parts = alike
                .iter()
                .filter_map(|p| p.part.as_ref().map(|(part, _)| part.as_str()))
                .collect::<Vec<_>>()
                .join(" and ");
            return format!(
                "The fault went to {now}, and so did more than one part ({parts}). Put one of them back, clear, and drive once more."
            );
        }
        let noun = measure.map_or("a longer drive", Measure::noun);
        let more = result.more_revolutions.or(result.more_km).or(result.more_attempts);
        return match more {
            Some(more) => format!("Not clear yet. About {more:.0} more {noun} like these would decide it."),
            None => {
                "Not clear, and more of the same drive would not decide it. Drive under the conditions in which the \
                fault appeared, or count instead of reading codes only."
                    .into()
            }
        };
    }
    match leader.what {
        Verdict::Moved => {
            let part = leader.part.as_ref().map(|(part, variant)| match variant {
                Some(variant) => format!("{variant} {part}"),
                None => part.clone(),
            });
            let part = part.unwrap_or_default();
            format!("The fault went from {suspect} to {now} with the {part}: replace that {part}, then prove it.")
        }
        Verdict::Stayed => format!(
            "The fault stayed on {suspect}: the parts that were moved away are cleared. Next: what is still there - \
             wiring, the parts not moved, compression."
        ),
        Verdict::Gone => {
            "The fault shows nowhere: a poor connection that the handling mended, or an intermittent fault. \
            No part is condemned and nothing is proven. Look at the connectors that were handled, and drive until the \
            silence means something."
                .into()
        }
        Verdict::Elsewhere => format!(
            "The fault is on {now}, where no suspect part went: something was disturbed during the work, or it is another fault. \
             Check the connections of {now}."
        ),
        Verdict::Mixed => format!(
            "The fault is on {now} together: two faults, or a part that harms what it touches. Take them one at a time."
        ),
        Verdict::Void | Verdict::Undecided => String::new(),
    }
}
