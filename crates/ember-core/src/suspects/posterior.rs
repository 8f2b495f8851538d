//! How likely each suspect is, alone or together with another, after what was found.

use super::book::Book;
use super::evidence::{Group, Touch, both, touches};
use super::prior::Instance;
use crate::engine::Engine;

/// A suspect with what speaks for and against it.
#[derive(Debug, Clone)]
pub struct Suspicion {
    pub instance: Instance,
    pub touches: Vec<Touch>,
    /// Logarithm of how much likelier all findings are with it than on a sound car.
    pub log_ratio: f64,
    /// That it is there and nothing else is.
    pub alone: f64,
    /// That it is there, alone or with another.
    pub present: f64,
    /// Its share of the verdict: a pair's is halved between its two, so that the shares of all sum to one.
    pub share: f64,
}

/// One or two faults that would explain the car; none stands for something that is not in the book.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hypothesis {
    pub faults: [Option<u16>; 2],
    pub probability: f64,
}

/// What is thought of a car after all findings.
#[derive(Debug, Clone)]
pub struct Posterior {
    pub suspicions: Vec<Suspicion>,
    /// Every hypothesis that matters, the likeliest first. Their probabilities are of the whole, so they sum to a
    /// little less than one where the tail was cut off.
    pub hypotheses: Vec<Hypothesis>,
    pub two_faults: f64,
    pub not_in_the_book: f64,
}

/// Hypotheses below this share of the likeliest are left out of the list that looks ahead.
const TAIL: f64 = 1e-5;
/// Pairs that cannot come within so many powers of e of the leader are not reckoned out: ten thousand of them would not
/// move any figure that is shown.
const OUT_OF_REACH: f64 = 16.0;
/// The most hypotheses that look ahead: with more, the tests that matter come out the same.
const MOST_AHEAD: usize = 320;

/// Bayes over single faults, all pairs, and something that is not in the book.
///
/// `direct` is the logarithm of a likelihood for each instance, from findings that speak of faults themselves.
///
/// Two faults meet on a car as often as the book's `two_faults` says, in proportion to the product of their weights.
/// What is not in the book shows each sign as the cars of the workshop do on the whole, one sign by itself: a fault
/// of the book that agrees with the findings beats it, one that does not falls behind it.
pub fn posterior(book: &Book, engine: &Engine, instances: &[Instance], groups: &[Group], direct: &[f64]) -> Posterior {
    within_reach(book, engine, instances, groups, direct, OUT_OF_REACH)
}

fn within_reach(
    book: &Book,
    engine: &Engine,
    instances: &[Instance],
    groups: &[Group],
    direct: &[f64],
    reach: f64,
) -> Posterior {
    let mut suspicions: Vec<Suspicion> = instances
        .iter()
        .enumerate()
        .map(|(index, instance)| {
            let touches = touches(book, engine, groups, instance);
            let log_ratio = touches.iter().map(|touch| touch.ratio.ln()).sum::<f64>()
                + direct.get(index).copied().unwrap_or_default();
            Suspicion { instance: instance.clone(), touches, log_ratio, alone: 0.0, present: 0.0, share: 0.0 }
        })
        .collect();
    let two = book.figures.two_faults.value;
    let strange = book.figures.not_in_the_book.value;
    let one = 1.0 - two - strange;
    let squares: f64 = instances.iter().map(|i| i.weight * i.weight).sum();
    // The weights sum to one, so all pairs together weigh (1 - squares) / 2.
    let pair_scale = if squares < 1.0 { (2.0 * two / (1.0 - squares)).ln() } else { f64::NEG_INFINITY };

    let singles: Vec<f64> = suspicions.iter().map(|s| one.ln() + s.instance.weight.ln() + s.log_ratio).collect();
    let unknown = strange.ln() + log_of_the_strange(groups.len(), &suspicions);
    let mut peak = singles.iter().copied().fold(unknown, f64::max);

    let n = suspicions.len();
    // What two faults can gain over the product of their ratios: a sign that speaks against both speaks only once.
    let against: Vec<f64> =
        suspicions.iter().map(|s| s.touches.iter().map(|touch| (-touch.ratio.ln()).max(0.0)).sum()).collect();
    let alone: Vec<f64> = suspicions.iter().map(|s| s.instance.weight.ln() + s.log_ratio).collect();
    let mut pairs: Vec<(u16, u16, f64)> = Vec::new();
    for a in 0..n {
        for b in a + 1..n {
            let log = pair_scale + alone[a] + alone[b];
            if log + against[a].min(against[b]) < peak - reach {
                continue;
            }
            let log = log + overlap(book, groups, &suspicions[a], &suspicions[b]);
            peak = peak.max(log);
            pairs.push((a as u16, b as u16, log));
        }
    }

    let mut total = (unknown - peak).exp();
    let singles: Vec<f64> = singles.iter().map(|log| (log - peak).exp()).collect();
    total += singles.iter().sum::<f64>();
    for (.., log) in &mut pairs {
        *log = (*log - peak).exp();
        total += *log;
    }
    let not_in_the_book = (unknown - peak).exp() / total;
    let mut hypotheses = vec![Hypothesis { faults: [None, None], probability: not_in_the_book }];
    for (index, (suspicion, single)) in suspicions.iter_mut().zip(&singles).enumerate() {
        suspicion.alone = single / total;
        suspicion.present = suspicion.alone;
        suspicion.share = suspicion.alone;
        hypotheses.push(Hypothesis { faults: [Some(index as u16), None], probability: suspicion.alone });
    }
    let mut two_faults = 0.0;
    for (a, b, weight) in pairs {
        let probability = weight / total;
        two_faults += probability;
        for index in [a, b] {
            suspicions[index as usize].present += probability;
            suspicions[index as usize].share += 0.5 * probability;
        }
        if probability > TAIL {
            hypotheses.push(Hypothesis { faults: [Some(a), Some(b)], probability });
        }
    }
    hypotheses.retain(|h| h.probability > TAIL || h.faults[0].is_none());
    hypotheses.sort_by(|a, b| b.probability.total_cmp(&a.probability).then(a.faults.cmp(&b.faults)));
    hypotheses.truncate(MOST_AHEAD);
    Posterior { suspicions, hypotheses, two_faults, not_in_the_book }
}

/// What has to be added to the two faults' own ratios where both show a sign that was read.
fn overlap(book: &Book, groups: &[Group], a: &Suspicion, b: &Suspicion) -> f64 {
    let (mut left, mut right) = (a.touches.iter().peekable(), b.touches.iter().peekable());
    let (mut product, mut log) = (1.0, 0.0);
    while let (Some(one), Some(other)) = (left.peek(), right.peek()) {
        match one.group.cmp(&other.group) {
            std::cmp::Ordering::Less => _ = left.next(),
            std::cmp::Ordering::Greater => _ = right.next(),
            std::cmp::Ordering::Equal => {
                let group = &groups[one.group as usize];
                let together = match group.yes_or_no {
                    // By far the commonest: one reading of a sign that is there or not.
                    Some((no, yes)) => yes + (no - yes) * one.calm * other.calm,
                    None => both(book, group, (a, one), (b, other)),
                };
                product *= together * one.inverse * other.inverse;
                // One logarithm for many signs, taken before the product leaves the range of numbers.
                if !(1e-150..1e150).contains(&product) {
                    log += product.ln();
                    product = 1.0;
                }
                left.next();
                right.next();
            }
        }
    }
    log + product.ln()
}

/// The logarithm of the likelihood of all findings for a car whose fault is not in the book: for each sign the mean
/// over the suspects before any finding.
fn log_of_the_strange(groups: usize, suspicions: &[Suspicion]) -> f64 {
    let mut mean = vec![1.0; groups];
    for suspicion in suspicions {
        for touch in &suspicion.touches {
            mean[touch.group as usize] += suspicion.instance.weight * (touch.ratio - 1.0);
        }
    }
    mean.iter().map(|value: &f64| value.ln()).sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::engine::EngineDescription;
    use crate::knowledge::Knowledge;
    use crate::suspects::evidence::{Observation, groups};
    use crate::suspects::fits::Car;
    use crate::suspects::prior::instances;
    use std::collections::BTreeMap;

    fn four() -> Engine {
        let description: EngineDescription = serde_json::from_value(serde_json::json!({
            "cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "injection": "port"
        }))
        .unwrap();
        Engine::new(&description).unwrap()
    }

    /// What an outcome of a test says.
    fn observed(book: &Book, test: &str, place: u8, outcome: &str) -> Observation {
        let index = book.test_index[test];
        let entry = &book.tests[index];
        let column = entry.outcome(outcome).unwrap();
        let mut by_state = [0.0; super::super::book::MOST_STATES];
        for (state, row) in entry.table.iter().enumerate() {
            by_state[state] = row[column];
        }
        Observation { test: index, place, by_state }
    }

    fn thought(findings: &[(&str, u8, &str)], reach: f64) -> Posterior {
        let book = &Knowledge::built_in().book;
        let engine = four();
        let car = Car { engine: &engine, has: &[], lacks: &[], equipment: &book.equipment };
        let instances = instances(book, &car, &BTreeMap::new(), &[]);
        let list: Vec<Observation> = findings.iter().map(|(t, p, o)| observed(book, t, *p, o)).collect();
        within_reach(book, &engine, &instances, &groups(book, &list), &[], reach)
    }

    const FINDINGS: [(&str, u8, &str); 7] = [
        ("misfire", 0, "yes"),
        ("rough-idle", 0, "yes"),
        ("misfire-count", 2, "misses"),
        ("misfire-count", 0, "clean"),
        ("coil-swap", 2, "stayed"),
        ("trims-read", 0, "lean-at-idle"),
        ("smoke-intake", 0, "leaks"),
    ];

    #[test]
    fn pairs_that_are_left_out_as_out_of_reach_would_have_changed_no_figure_that_is_shown() {
        for known in 1..=FINDINGS.len() {
            let (cut, whole) = (thought(&FINDINGS[..known], OUT_OF_REACH), thought(&FINDINGS[..known], f64::INFINITY));
            for (one, other) in cut.suspicions.iter().zip(&whole.suspicions) {
                assert!((one.present - other.present).abs() < 1e-3, "{known}: {} and {}", one.present, other.present);
            }
            assert!((cut.two_faults - whole.two_faults).abs() < 2e-3, "{known}");
        }
    }

    #[test]
    fn without_any_finding_everything_is_as_the_book_has_it() {
        let figures = &Knowledge::built_in().book.figures;
        let nothing = thought(&[], f64::INFINITY);
        assert!((nothing.two_faults - figures.two_faults.value).abs() < 1e-6, "{}", nothing.two_faults);
        assert!((nothing.not_in_the_book - figures.not_in_the_book.value).abs() < 1e-6);
        let single = 1.0 - figures.two_faults.value - figures.not_in_the_book.value;
        for suspicion in &nothing.suspicions {
            assert!((suspicion.alone - single * suspicion.instance.weight).abs() < 1e-9);
        }
    }

    #[test]
    fn the_hypotheses_that_look_ahead_hold_nine_tenths_of_the_weight_even_where_many_pairs_would_do() {
        let after = thought(&FINDINGS, OUT_OF_REACH);
        let held: f64 = after.hypotheses.iter().map(|h| h.probability).sum();
        assert!(held > 0.9, "{held}");
        assert!(after.hypotheses.len() <= MOST_AHEAD);
        assert!(after.hypotheses.windows(2).all(|pair| pair[0].probability >= pair[1].probability));
    }
}
