//! The patterns: ways to divide an engine's cylinders into faulty and healthy ones, weighed against the counts.

use std::collections::{BTreeSet, HashMap};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Counts, Pattern};
use crate::engine::{Engine, Ignition};
use crate::knowledge::MisfireKnowledge;
use crate::rates::{RatePrior, probability_greater, probability_greater_roughly};

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PatternKind {
    None,
    Single,
    SharedCoil,
    RunningMates,
    Neighbours,
    Consecutive,
    Bank,
    All,
    Several,
    Alternating,
}

impl PatternKind {
    pub const ALL: [PatternKind; 10] = [
        PatternKind::None,
        PatternKind::Single,
        PatternKind::SharedCoil,
        PatternKind::RunningMates,
        PatternKind::Neighbours,
        PatternKind::Consecutive,
        PatternKind::Bank,
        PatternKind::All,
        PatternKind::Several,
        PatternKind::Alternating,
    ];

    /// The name in JSON and in the knowledge file.
    pub fn name(self) -> &'static str {
        match self {
            PatternKind::None => "none",
            PatternKind::Single => "single",
            PatternKind::SharedCoil => "shared-coil",
            PatternKind::RunningMates => "running-mates",
            PatternKind::Neighbours => "neighbours",
            PatternKind::Consecutive => "consecutive",
            PatternKind::Bank => "bank",
            PatternKind::All => "all",
            PatternKind::Several => "several",
            PatternKind::Alternating => "alternating",
        }
    }

    /// What would show that it is this one and not another over the same cylinders.
    pub fn told_by(self) -> &'static str {
        match self {
            PatternKind::None => "Counts cannot name a cause that is not there: confirm the complaint on the road.",
            PatternKind::Single => "Move coil, plug and injector to other cylinders and see what follows.",
            PatternKind::SharedCoil => "Swap the coil with another: if both cylinders change with it, it is the coil.",
            PatternKind::RunningMates => "Look for crossed leads and compare the cam and crank signals.",
            PatternKind::Neighbours => "Measure the compression of both: a head gasket between them loses it on both.",
            PatternKind::Consecutive => {
                "Separate their leads and try in the dark or with a water mist: cross-fire shows."
            }
            PatternKind::Bank => "Check what the bank has of its own: cam timing, air, exhaust, supply, ground.",
            PatternKind::All => "Look at what all cylinders share: fuel pressure, air, timing, supply.",
            PatternKind::Several => "Compare the plugs of these cylinders side by side with the others.",
            PatternKind::Alternating => {
                "Compare the crank and cam signals: the control unit loses its place in the cycle."
            }
        }
    }
}

/// A pattern before normalisation. Cylinders are the bits of a mask, cylinder 1 the lowest: an engine with twelve has
/// some four thousand groups, and most of them are never shown.
pub(super) struct Weighed {
    pub kind: PatternKind,
    pub mask: u32,
    pub groups: Option<Vec<Vec<u8>>>,
    pub ln_weight: f64,
}

/// What all patterns together say.
pub(super) struct Weighing {
    /// The likeliest ones, most likely first; of the rest nobody reads.
    pub listed: Vec<Pattern>,
    /// The probability of each group of cylinders over all kinds, by its mask.
    pub by_group: Vec<f64>,
}

/// The prior of a kind, shared evenly by `instances` groups of that kind.
pub(super) fn ln_prior(kind: PatternKind, instances: f64, knowledge: &MisfireKnowledge) -> f64 {
    knowledge.patterns.get(kind.name()).map_or(f64::NEG_INFINITY, |p| (p.weight / instances).ln())
}

/// The patterns with a name, and their groups on this engine.
fn named_groups(engine: &Engine) -> Vec<(PatternKind, Vec<u32>)> {
    let masks = |groups: &[Vec<u8>]| groups.iter().map(|group| mask_of(group)).collect::<Vec<u32>>();
    let n = engine.cylinders;
    let mut kinds = vec![(PatternKind::None, vec![0]), (PatternKind::Single, (0..n).map(|bit| 1 << bit).collect())];
    if n > 1 {
        kinds.push((PatternKind::All, vec![(1 << n) - 1]));
        if engine.ignition == Ignition::PairedCoils {
            kinds.push((PatternKind::SharedCoil, masks(&engine.coil_pairs)));
        }
        kinds.push((PatternKind::RunningMates, masks(&engine.running_mate_pairs())));
        kinds.push((PatternKind::Neighbours, masks(&engine.neighbour_pairs())));
        kinds.push((PatternKind::Consecutive, masks(&engine.consecutive_pairs())));
        if engine.banks.len() > 1 {
            kinds.push((PatternKind::Bank, masks(&engine.banks)));
        }
    }
    kinds
}

/// All patterns of totals, with their weights. Those that cannot matter are left out.
pub(super) fn weigh(engine: &Engine, counts: &Counts, knowledge: &MisfireKnowledge) -> Vec<Weighed> {
    let n = engine.cylinders;
    let kinds = named_groups(engine);
    let named: BTreeSet<u32> = kinds.iter().flat_map(|(_, groups)| groups).copied().collect();
    let mut weigher = Weigher::new(counts, knowledge);
    let mut weighed = Vec::new();
    for (kind, groups) in kinds {
        let prior = ln_prior(kind, groups.len() as f64, knowledge);
        for mask in groups {
            let ln_weight = prior + weigher.ln_groups(mask) + weigher.ln_excess(mask, Exactness::Exact);
            weighed.push(Weighed { kind, mask, groups: None, ln_weight });
        }
    }

    // `several`: every other group of two or more, each size as likely as another.
    let mut sets_of_size = vec![0.0; usize::from(n) + 1];
    let others: Vec<u32> = (1u32..1 << n).filter(|mask| mask.count_ones() >= 2 && !named.contains(mask)).collect();
    for mask in &others {
        sets_of_size[mask.count_ones() as usize] += 1.0;
    }
    let sizes = sets_of_size.iter().filter(|&&sets| sets > 0.0).count() as f64;
    let priors: Vec<f64> =
        sets_of_size.iter().map(|sets| ln_prior(PatternKind::Several, sizes * sets, knowledge)).collect();
    let best = weighed.iter().map(|w| w.ln_weight).fold(f64::MIN, f64::max);
    for mask in others {
        let ln_weight = priors[mask.count_ones() as usize] + weigher.ln_groups(mask);
        // 4 000 groups that each weigh less than e^-30 of the best add up to nothing; what weighs less than is ever
        // shown needs its excess to a hundredth only.
        if ln_weight > best - 30.0 {
            let exactness = if ln_weight > best - 12.0 { Exactness::Exact } else { Exactness::Rough };
            let ln_weight = ln_weight + weigher.ln_excess(mask, exactness);
            weighed.push(Weighed { kind: PatternKind::Several, mask, groups: None, ln_weight });
        }
    }
    weighed
}

pub(super) fn mask_of(group: &[u8]) -> u32 {
    group.iter().fold(0, |mask, cylinder| mask | 1 << (cylinder - 1))
}

pub(super) fn cylinders_of(mask: u32) -> Vec<u8> {
    (1u8..=32).filter(|cylinder| mask >> (cylinder - 1) & 1 == 1).collect()
}

#[derive(Clone, Copy, PartialEq)]
enum Exactness {
    Exact,
    Rough,
}

/// Weighs groups against one set of counts. A group's weight follows from its size and its misfires alone, and many
/// groups of an engine hold the same numbers, so both parts of it are kept.
struct Weigher {
    /// The misfires of every group, by mask.
    inside: Vec<f64>,
    total: f64,
    firings: f64,
    cylinders: f64,
    fault: RatePrior,
    background: RatePrior,
    ln_excess_before: f64,
    groups_known: HashMap<(u32, u64), f64>,
    excess_known: HashMap<(u32, u64), f64>,
}

impl Weigher {
    fn new(counts: &Counts, knowledge: &MisfireKnowledge) -> Self {
        let (fault, background) = (knowledge.fault_rate.prior(), knowledge.background_rate.prior());
        let mut inside = vec![0.0; 1 << counts.misfires.len()];
        for mask in 1..inside.len() {
            let lowest = mask.trailing_zeros() as usize;
            inside[mask] = inside[mask & (mask - 1)] + counts.misfires[lowest];
        }
        Weigher {
            inside,
            total: counts.total(),
            firings: counts.firings,
            cylinders: counts.misfires.len() as f64,
            fault,
            background,
            ln_excess_before: probability_greater((fault, 0.0, 0.0), (background, 0.0, 0.0)).ln(),
            groups_known: HashMap::new(),
            excess_known: HashMap::new(),
        }
    }

    /// Misfires and firings inside the group, then outside it.
    fn split(&self, mask: u32) -> (f64, f64, f64, f64) {
        let inside = self.inside[mask as usize];
        let size = f64::from(mask.count_ones());
        (inside, size * self.firings, self.total - inside, (self.cylinders - size) * self.firings)
    }

    fn ln_groups(&mut self, mask: u32) -> f64 {
        let (k_in, n_in, k_out, n_out) = self.split(mask);
        let (fault, background) = (self.fault, self.background);
        *self.groups_known.entry((mask.count_ones(), k_in as u64)).or_insert_with(|| {
            let faulty = if n_in > 0.0 { fault.ln_marginal(k_in, n_in) } else { 0.0 };
            let healthy = if n_out > 0.0 { background.ln_marginal(k_out, n_out) } else { 0.0 };
            faulty + healthy
        })
    }

    /// The fault's rate must be above the background's: the posterior probability of that against the prior's.
    fn ln_excess(&mut self, mask: u32, exactness: Exactness) -> f64 {
        let (k_in, n_in, k_out, n_out) = self.split(mask);
        if n_in == 0.0 || n_out == 0.0 {
            return 0.0;
        }
        let (first, second) = ((self.fault, k_in, n_in), (self.background, k_out, n_out));
        let before = self.ln_excess_before;
        if exactness == Exactness::Rough {
            return probability_greater_roughly(first, second).ln() - before;
        }
        *self
            .excess_known
            .entry((mask.count_ones(), k_in as u64))
            .or_insert_with(|| probability_greater(first, second).ln() - before)
    }
}

/// Turns weights into probabilities, and lists the `most` likeliest that reach `least`.
pub(super) fn normalised(weighed: Vec<Weighed>, cylinders: u8, most: usize, least: f64) -> Weighing {
    let best = weighed.iter().map(|w| w.ln_weight).fold(f64::MIN, f64::max);
    let mut likely: Vec<(f64, Weighed)> = weighed.into_iter().map(|w| ((w.ln_weight - best).exp(), w)).collect();
    let sum: f64 = likely.iter().map(|(weight, _)| weight).sum();
    let mut by_group = vec![0.0; 1 << cylinders];
    for (weight, pattern) in &mut likely {
        *weight /= sum;
        by_group[pattern.mask as usize] += *weight;
    }
    likely.retain(|(probability, _)| *probability >= least);
    let order = |a: &(f64, Weighed), b: &(f64, Weighed)| {
        b.0.total_cmp(&a.0).then(a.1.kind.cmp(&b.1.kind)).then(a.1.mask.cmp(&b.1.mask))
    };
    if likely.len() > most {
        likely.select_nth_unstable_by(most, order);
        likely.truncate(most);
    }
    likely.sort_by(order);
    let listed = likely
        .into_iter()
        .map(|(probability, w)| Pattern {
            kind: w.kind,
            cylinders: cylinders_of(w.mask),
            groups: w.groups,
            probability,
        })
        .collect();
    Weighing { listed, by_group }
}
