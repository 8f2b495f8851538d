//! The patterns: ways to divide an engine's cylinders into faulty and healthy ones, weighed against the counts.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Counts, Pattern};
use crate::engine::{Engine, Ignition};
use crate::knowledge::MisfireKnowledge;
use crate::rates::{RatePrior, probability_greater};

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

/// A pattern before normalisation.
pub(super) struct Weighed {
    pub kind: PatternKind,
    pub cylinders: Vec<u8>,
    pub groups: Option<Vec<Vec<u8>>>,
    pub ln_weight: f64,
}

/// The prior of a kind, shared evenly by `instances` groups of that kind.
pub(super) fn ln_prior(kind: PatternKind, instances: f64, knowledge: &MisfireKnowledge) -> f64 {
    knowledge.patterns.get(kind.name()).map_or(f64::NEG_INFINITY, |p| (p.weight / instances).ln())
}

/// All patterns of totals, with their weights. Those that cannot matter are left out.
pub(super) fn weigh(engine: &Engine, counts: &Counts, knowledge: &MisfireKnowledge) -> Vec<Weighed> {
    let n = engine.cylinders;
    let everyone: Vec<u8> = engine.numbers().collect();
    let mut kinds: Vec<(PatternKind, Vec<Vec<u8>>)> =
        vec![(PatternKind::None, vec![Vec::new()]), (PatternKind::Single, engine.numbers().map(|c| vec![c]).collect())];
    if n > 1 {
        kinds.push((PatternKind::All, vec![everyone]));
        if engine.ignition == Ignition::PairedCoils {
            kinds.push((PatternKind::SharedCoil, engine.coil_pairs.clone()));
        }
        kinds.push((PatternKind::RunningMates, engine.running_mate_pairs()));
        kinds.push((PatternKind::Neighbours, engine.neighbour_pairs()));
        kinds.push((PatternKind::Consecutive, engine.consecutive_pairs()));
        if engine.banks.len() > 1 {
            let mut banks = engine.banks.clone();
            banks.iter_mut().for_each(|bank| bank.sort_unstable());
            kinds.push((PatternKind::Bank, banks));
        }
    }
    let named: BTreeSet<u32> = kinds.iter().flat_map(|(_, groups)| groups).map(|group| mask_of(group)).collect();
    let mut weigher = Weigher::new(counts, knowledge);
    let mut weighed = Vec::new();
    for (kind, groups) in &kinds {
        let prior = ln_prior(*kind, groups.len() as f64, knowledge);
        for group in groups {
            weigher.consider(*kind, mask_of(group), prior, &mut weighed);
        }
    }

    // `several`: every other group of two or more, each size as likely as another.
    let mut sets_of_size = vec![0.0; usize::from(n) + 1];
    let others = (1u32..1 << n).filter(|mask| mask.count_ones() >= 2 && !named.contains(mask));
    for mask in others.clone() {
        sets_of_size[mask.count_ones() as usize] += 1.0;
    }
    let sizes = sets_of_size.iter().filter(|&&sets| sets > 0.0).count() as f64;
    let priors: Vec<f64> =
        sets_of_size.iter().map(|sets| ln_prior(PatternKind::Several, sizes * sets, knowledge)).collect();
    let mut several: Vec<(f64, u32)> = others
        .map(|mask| {
            let prior = priors[mask.count_ones() as usize];
            (prior + weigher.ln_groups(mask), mask)
        })
        .collect();
    let best =
        weighed.iter().map(|w: &Weighed| w.ln_weight).chain(several.iter().map(|s| s.0)).fold(f64::MIN, f64::max);
    // 4 000 groups that each weigh less than e^-30 of the best add up to nothing; the rest need the exact figure.
    several.retain(|(ln_weight, _)| *ln_weight > best - 30.0);
    for (ln_weight, mask) in several {
        let ln_weight = ln_weight + weigher.ln_excess(mask);
        weighed.push(Weighed { kind: PatternKind::Several, cylinders: cylinders_of(mask), groups: None, ln_weight });
    }
    weighed
}

pub(super) fn mask_of(group: &[u8]) -> u32 {
    group.iter().fold(0, |mask, cylinder| mask | 1 << (cylinder - 1))
}

pub(super) fn cylinders_of(mask: u32) -> Vec<u8> {
    (1u8..=32).filter(|cylinder| mask >> (cylinder - 1) & 1 == 1).collect()
}

/// Weighs groups against one set of counts. What depends on a group's size alone is kept.
struct Weigher<'a> {
    counts: &'a Counts,
    fault: RatePrior,
    background: RatePrior,
    /// (size, misfires) of the last groups and their answer: many groups of an engine hold the same numbers.
    excess_known: std::collections::HashMap<(u32, u64), f64>,
}

impl<'a> Weigher<'a> {
    fn new(counts: &'a Counts, knowledge: &MisfireKnowledge) -> Self {
        Weigher {
            counts,
            fault: knowledge.fault_rate.prior(),
            background: knowledge.background_rate.prior(),
            excess_known: std::collections::HashMap::new(),
        }
    }

    /// Misfires and firings inside the group, then outside it.
    fn split(&self, mask: u32) -> (f64, f64, f64, f64) {
        let inside: f64 =
            self.counts.misfires.iter().enumerate().filter(|(i, _)| mask >> i & 1 == 1).map(|(_, k)| k).sum();
        let size = f64::from(mask.count_ones());
        let all = self.counts.misfires.len() as f64;
        (inside, size * self.counts.firings, self.counts.total() - inside, (all - size) * self.counts.firings)
    }

    fn ln_groups(&self, mask: u32) -> f64 {
        let (k_in, n_in, k_out, n_out) = self.split(mask);
        let mut ln = 0.0;
        if n_in > 0.0 {
            ln += self.fault.ln_marginal(k_in, n_in);
        }
        if n_out > 0.0 {
            ln += self.background.ln_marginal(k_out, n_out);
        }
        ln
    }

    /// The fault's rate must be above the background's: the posterior probability of that against the prior's.
    fn ln_excess(&mut self, mask: u32) -> f64 {
        let (k_in, n_in, k_out, n_out) = self.split(mask);
        if n_in == 0.0 || n_out == 0.0 {
            return 0.0;
        }
        let (fault, background) = (self.fault, self.background);
        *self.excess_known.entry((mask.count_ones(), k_in as u64)).or_insert_with(|| {
            let after = probability_greater((fault, k_in, n_in), (background, k_out, n_out));
            let before = probability_greater((fault, 0.0, 0.0), (background, 0.0, 0.0));
            (after / before).ln()
        })
    }

    fn consider(&mut self, kind: PatternKind, mask: u32, ln_prior: f64, into: &mut Vec<Weighed>) {
        let ln_weight = ln_prior + self.ln_groups(mask) + self.ln_excess(mask);
        into.push(Weighed { kind, cylinders: cylinders_of(mask), groups: None, ln_weight });
    }
}

/// Turns weights into probabilities, most likely first.
pub(super) fn normalised(weighed: Vec<Weighed>) -> Vec<Pattern> {
    let best = weighed.iter().map(|w| w.ln_weight).fold(f64::MIN, f64::max);
    let sum: f64 = weighed.iter().map(|w| (w.ln_weight - best).exp()).sum();
    let mut patterns: Vec<Pattern> = weighed
        .into_iter()
        .map(|w| Pattern {
            kind: w.kind,
            cylinders: w.cylinders,
            groups: w.groups,
            probability: (w.ln_weight - best).exp() / sum,
        })
        .collect();
    patterns.sort_by(|a, b| {
        b.probability.total_cmp(&a.probability).then(a.kind.cmp(&b.kind)).then_with(|| a.cylinders.cmp(&b.cylinders))
    });
    patterns
}
