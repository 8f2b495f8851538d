//! Findings as likelihoods: for each sign, how well what was found agrees with each of its states.

use std::collections::BTreeMap;

use super::book::{Book, MOST_STATES};
use super::posterior::Suspicion;
use super::prior::Instance;
use crate::engine::Engine;

/// A likelihood for each state of a sign; what lies beyond the sign's states is nought.
pub type ByState = [f64; MOST_STATES];

/// One finding that can be reckoned with: a test at a place of its sign, and how likely what was found is under each
/// state of the sign.
#[derive(Debug, Clone, PartialEq)]
pub struct Observation {
    pub test: usize,
    /// 0 for the engine, else the cylinder's or bank's number less one.
    pub place: u8,
    pub by_state: ByState,
}

/// What is known of one sign.
#[derive(Debug, Clone)]
pub struct Group {
    pub sign: usize,
    /// The places at which it was read, as bits.
    pub observed: u16,
    places: Vec<(u8, ByState)>,
    /// For each place read: how likely what was found is on a car without a fault that concerns it.
    sound: Vec<f64>,
    /// Logarithm of what all likelihoods of the sign were divided by.
    pub scale: f64,
    /// For a sign of two states that was read at one place: the likelihoods of both, against a sound car.
    pub yes_or_no: Option<(f64, f64)>,
}

impl Group {
    /// The product over the places of a mask, for a state that they share.
    pub fn shared(&self, mask: u16) -> ByState {
        let mut product = [1.0; MOST_STATES];
        for (place, by_state) in &self.places {
            if mask & (1 << place) != 0 {
                for (one, value) in product.iter_mut().zip(by_state) {
                    *one *= value;
                }
            }
        }
        product
    }

    /// How likely what was found at the places of a mask is on a sound car.
    pub fn sound(&self, mask: u16) -> f64 {
        self.places.iter().zip(&self.sound).filter(|((place, _), _)| mask & (1 << place) != 0).map(|(_, s)| s).product()
    }

    pub fn at(&self, place: u8) -> Option<&ByState> {
        self.places.iter().find(|(one, _)| *one == place).map(|(_, by_state)| by_state)
    }

    pub fn each(&self, mask: u16) -> impl Iterator<Item = &(u8, ByState)> {
        self.places.iter().filter(move |(place, _)| mask & (1 << place) != 0)
    }
}

/// All findings of a job, sign by sign.
///
/// Findings that a test repeated at the same place are not independent: n of them weigh as 1 + r (n − 1) would, with
/// r the book's `repeat`, each bearing the same part. The order of the findings does not matter.
pub fn groups(book: &Book, observations: &[Observation]) -> Vec<Group> {
    let mut by_test: BTreeMap<(usize, u8, usize), Vec<&ByState>> = BTreeMap::new();
    for one in observations {
        by_test.entry((book.tests[one.test].sign, one.place, one.test)).or_default().push(&one.by_state);
    }
    let mut by_sign: BTreeMap<usize, BTreeMap<u8, ByState>> = BTreeMap::new();
    let mut scales: BTreeMap<usize, f64> = BTreeMap::new();
    for ((sign, place, _), mut list) in by_test {
        list.sort_by(|a, b| a.partial_cmp(b).unwrap_or(std::cmp::Ordering::Equal));
        let n = list.len() as f64;
        let weight = (1.0 + book.figures.repeat.value * (n - 1.0)) / n;
        let into = by_sign.entry(sign).or_default().entry(place).or_insert([1.0; MOST_STATES]);
        let states = book.signs[sign].states.len();
        for (state, value) in into.iter_mut().enumerate() {
            if state < states {
                *value *= (weight * list.iter().map(|l| l[state].ln()).sum::<f64>()).exp();
            } else {
                *value = 0.0;
            }
        }
        // Only ratios count: scaled so that the best state has one, nothing underflows however often it was read.
        let best = into.iter().copied().fold(0.0, f64::max);
        for value in into.iter_mut() {
            *value /= best;
        }
        *scales.entry(sign).or_default() += best.ln();
    }
    by_sign
        .into_iter()
        .map(|(sign, places)| {
            let places: Vec<(u8, ByState)> = places.into_iter().collect();
            let prior = &book.signs[sign].sound;
            let sound: Vec<f64> = places.iter().map(|(_, l)| prior.iter().zip(l).map(|(p, l)| p * l).sum()).collect();
            let yes_or_no = match (places.as_slice(), prior.len()) {
                ([(_, by_state)], 2) => Some((by_state[0] / sound[0], by_state[1] / sound[0])),
                _ => None,
            };
            Group {
                sign,
                observed: places.iter().fold(0, |bits, (place, _)| bits | 1 << place),
                sound,
                yes_or_no,
                places,
                scale: scales[&sign],
            }
        })
        .collect()
}

/// How one suspect stands to one sign that was read.
#[derive(Debug, Clone, Copy)]
pub struct Touch {
    pub group: u16,
    /// Which of the fault's signs it is.
    pub shown: u16,
    /// The places read that the fault reaches, as bits.
    pub reached: u16,
    /// How much likelier what was found is with this fault than on a car without one.
    pub ratio: f64,
    pub inverse: f64,
    /// The chance of the sign's sound state.
    pub calm: f64,
}

fn dot(chance: &[f64], by_state: &ByState) -> f64 {
    chance.iter().zip(by_state).map(|(p, l)| p * l).sum()
}

/// Every sign read that a suspect's fault shows, in the order of the groups.
pub fn touches(book: &Book, engine: &Engine, groups: &[Group], instance: &Instance) -> Vec<Touch> {
    let fault = &book.faults[instance.fault];
    let mut list = Vec::new();
    // Both are sorted by sign.
    let mut shows = fault.shows.iter().enumerate().peekable();
    for (index, group) in groups.iter().enumerate() {
        while shows.next_if(|(_, shown)| shown.sign < group.sign).is_some() {}
        let Some((shown_index, shown)) = shows.next_if(|(_, shown)| shown.sign == group.sign) else { continue };
        let reached = instance.target.reach(book.signs[group.sign].per, engine) & group.observed;
        if reached == 0 {
            continue;
        }
        let likelihood = if fault.varies {
            group.each(reached).map(|(_, l)| dot(&shown.chance, l)).product()
        } else {
            dot(&shown.chance, &group.shared(reached))
        };
        let ratio = likelihood / group.sound(reached);
        list.push(Touch {
            group: index as u16,
            shown: shown_index as u16,
            reached,
            ratio,
            inverse: 1.0 / ratio,
            calm: shown.chance[0],
        });
    }
    list
}

/// How much likelier what was found of one sign is with two faults that both show it than on a sound car. Of two
/// states the worse one shows.
pub fn both(book: &Book, group: &Group, a: (&Suspicion, &Touch), b: (&Suspicion, &Touch)) -> f64 {
    let (fault_a, fault_b) = (&book.faults[a.0.instance.fault], &book.faults[b.0.instance.fault]);
    let (chance_a, chance_b) = (&fault_a.shows[a.1.shown as usize].chance, &fault_b.shows[b.1.shown as usize].chance);
    let common = a.1.reached & b.1.reached;
    let (only_a, only_b) = (a.1.reached & !common, b.1.reached & !common);
    let all = a.1.reached | b.1.reached;
    if common == 0 {
        return a.1.ratio * b.1.ratio;
    }
    if fault_a.varies || fault_b.varies {
        let likelihood: f64 = group
            .each(all)
            .map(|(place, l)| match 1 << place {
                bit if bit & common != 0 => worse(chance_a, chance_b, l),
                bit if bit & only_a != 0 => dot(chance_a, l),
                _ => dot(chance_b, l),
            })
            .product();
        return likelihood / group.sound(all);
    }
    if only_a == 0 && only_b == 0 {
        return worse(chance_a, chance_b, &group.shared(common)) / group.sound(all);
    }
    let (alone_a, alone_b, together) = (group.shared(only_a), group.shared(only_b), group.shared(common));
    let mut likelihood = 0.0;
    for (state_a, p) in chance_a.iter().enumerate() {
        for (state_b, q) in chance_b.iter().enumerate() {
            likelihood += p * q * alone_a[state_a] * alone_b[state_b] * together[state_a.max(state_b)];
        }
    }
    likelihood / group.sound(all)
}

/// The likelihood under the worse of two independent states: P(worse ≤ s) = F(s) G(s).
fn worse(a: &[f64], b: &[f64], by_state: &ByState) -> f64 {
    let (mut f, mut g, mut last, mut sum) = (0.0, 0.0, 0.0, 0.0);
    for (state, (p, q)) in a.iter().zip(b).enumerate() {
        f += p;
        g += q;
        sum += (f * g - last) * by_state[state];
        last = f * g;
    }
    sum
}
