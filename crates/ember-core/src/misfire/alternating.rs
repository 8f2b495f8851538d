//! Groups that take turns to misfire. Totals show every cylinder alike; only windows of time tell.

use super::Counts;
use super::patterns::{PatternKind, Weighed, cylinders_of, ln_prior, mask_of};
use crate::engine::Engine;
use crate::knowledge::MisfireKnowledge;

/// In one window: whose turn it is.
#[derive(Clone, Copy, PartialEq)]
enum Turn {
    First,
    Second,
    Nobody,
}

/// Weighs the best division of the cylinders into two groups that take turns, if there is one.
///
/// In each window either group or neither is faulty (one in three each). Over all windows the faulty cells share
/// one rate and the healthy cells another, so the weight is comparable with the patterns of totals: what is left
/// out of their likelihood is the same constant. The division is read from the data, and pays for it by sharing the
/// kind's prior with every other division. Only the best assignment of turns is summed: a lower bound.
pub(super) fn weigh(engine: &Engine, windows: &[Counts], knowledge: &MisfireKnowledge) -> Option<Weighed> {
    let n = engine.cylinders;
    if n < 2 || windows.len() < 2 * knowledge.alternating.least_windows {
        return None;
    }
    let divisions = f64::from((1u32 << (n - 1)) - 1);
    let mut candidates = vec![mask_of(&divided_by_company(windows)?)];
    candidates.extend(engine.banks.iter().take(1).map(|bank| mask_of(bank)));
    candidates.push(mask_of(&engine.firing_order.iter().step_by(2).copied().collect::<Vec<_>>()));
    candidates.push(mask_of(&engine.firing_order[..engine.firing_order.len() / 2]));
    let everyone = (1u32 << n) - 1;
    candidates.retain(|&mask| mask != 0 && mask != everyone);
    let prior = ln_prior(PatternKind::Alternating, divisions, knowledge);
    let (mask, ln_weight) = candidates
        .into_iter()
        .filter_map(|mask| Some((mask, prior + ln_turns(mask, n, windows, knowledge)?)))
        .max_by(|a, b| a.1.total_cmp(&b.1))?;
    let mut groups = vec![cylinders_of(mask), cylinders_of(everyone & !mask)];
    groups.sort();
    Some(Weighed { kind: PatternKind::Alternating, mask: everyone, groups: Some(groups), ln_weight })
}

/// Cylinders that rise and fall with the one that misfires most, against the rest.
fn divided_by_company(windows: &[Counts]) -> Option<Vec<u8>> {
    let cylinders = windows.first()?.misfires.len();
    // Each window's counts less the window's own mean: what is left is who missed more than the others then.
    let centred: Vec<Vec<f64>> = windows
        .iter()
        .map(|window| {
            let mean = window.total() / cylinders as f64;
            window.misfires.iter().map(|k| k - mean).collect()
        })
        .collect();
    let variance = |c: usize| centred.iter().map(|w| w[c] * w[c]).sum::<f64>();
    let leader = (0..cylinders).max_by(|&a, &b| variance(a).total_cmp(&variance(b)).then(b.cmp(&a)))?;
    let with_leader = |c: usize| centred.iter().map(|w| w[c] * w[leader]).sum::<f64>();
    Some((0..cylinders).filter(|&c| with_leader(c) > 0.0).map(|c| c as u8 + 1).collect())
}

fn ln_turns(mask: u32, n: u8, windows: &[Counts], knowledge: &MisfireKnowledge) -> Option<f64> {
    let size_first = f64::from(mask.count_ones());
    let size_second = f64::from(n) - size_first;
    let (mut faulty_k, mut faulty_n, mut healthy_k, mut healthy_n) = (0.0, 0.0, 0.0, 0.0);
    let mut turns = [0usize; 2];
    let mut held = [0.0f64; 2];
    for window in windows {
        let first: f64 = window.misfires.iter().enumerate().filter(|(i, _)| mask >> i & 1 == 1).map(|(_, k)| k).sum();
        let second = window.total() - first;
        let (first_n, second_n) = (size_first * window.firings, size_second * window.firings);
        match turn(first / first_n, second / second_n, window, n, knowledge) {
            Turn::First => {
                (faulty_k, faulty_n) = (faulty_k + first, faulty_n + first_n);
                (healthy_k, healthy_n) = (healthy_k + second, healthy_n + second_n);
                turns[0] += 1;
                held[0] += first;
            }
            Turn::Second => {
                (faulty_k, faulty_n) = (faulty_k + second, faulty_n + second_n);
                (healthy_k, healthy_n) = (healthy_k + first, healthy_n + first_n);
                turns[1] += 1;
                held[1] += second;
            }
            Turn::Nobody => {
                (healthy_k, healthy_n) = (healthy_k + first + second, healthy_n + first_n + second_n);
            }
        }
    }
    let total = faulty_k + healthy_k;
    let rule = &knowledge.alternating;
    if turns.iter().any(|&t| t < rule.least_windows) || held.iter().any(|&k| k < rule.least_share * total) {
        return None;
    }
    Some(
        knowledge.fault_rate.prior().ln_marginal(faulty_k, faulty_n)
            + knowledge.background_rate.prior().ln_marginal(healthy_k, healthy_n)
            - windows.len() as f64 * 3.0_f64.ln(),
    )
}

fn turn(first: f64, second: f64, window: &Counts, n: u8, knowledge: &MisfireKnowledge) -> Turn {
    let quiet = window.total() <= 3.0 * knowledge.background_rate.mean * window.firings * f64::from(n);
    if quiet {
        Turn::Nobody
    } else if first >= second {
        Turn::First
    } else {
        Turn::Second
    }
}
