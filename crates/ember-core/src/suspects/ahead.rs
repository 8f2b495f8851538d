//! Looking ahead: what a repair by trial would cost from here, and what each test would save of that.

use super::book::{Book, MOST_STATES};
use super::cost::Cost;
use super::evidence::{ByState, Group};
use super::posterior::{Hypothesis, Suspicion};
use crate::engine::Engine;

/// The most outcomes of a test.
pub type Row = [f64; MOST_STATES];

/// What the future is reckoned from: the hypotheses that matter, and what mending each would cost.
pub struct Ahead<'a> {
    pub book: &'a Book,
    pub engine: &'a Engine,
    pub groups: &'a [Group],
    pub suspicions: &'a [Suspicion],
    pub hypotheses: Vec<Hypothesis>,
    /// For each suspicion the repair that mends it: a new plug mends the worn one as well as the cracked one.
    pub mended_by: Vec<u16>,
    /// What each repair costs.
    pub repairs: Vec<Cost>,
    /// Handing the car over when trying has to end.
    pub hand_over: Cost,
}

/// A test that could be made, with the chance of each outcome under each hypothesis.
pub struct Prospect {
    pub test: usize,
    pub place: u8,
    pub cost: Cost,
    pub outcomes: usize,
    pub rows: Vec<Row>,
}

/// What a test is worth.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Worth {
    /// What it saves of the expected cost of repair, less its own cost, in money.
    pub saving: f64,
    /// What it saves before its own cost.
    pub gross: f64,
    /// How much it tells of the cause, in bits.
    pub bits: f64,
    /// What is to be paid from here if it is made.
    pub after: f64,
}

impl Ahead<'_> {
    /// The chance of each outcome of a test at a place, for each hypothesis; `None` if no hypothesis that matters
    /// shows the sign there, so that the test can tell nothing.
    pub fn rows(&self, test: usize, place: u8) -> Option<Vec<Row>> {
        let sign = self.book.tests[test].sign;
        let per = self.book.signs[sign].per;
        let bit = 1u16 << place;
        // Which suspicions reach the sign here, and with which of their signs.
        let mut touched: Vec<Option<usize>> = vec![None; self.suspicions.len()];
        let mut any = false;
        for hypothesis in &self.hypotheses {
            for index in hypothesis.faults.iter().flatten().map(|&i| i as usize) {
                let instance = &self.suspicions[index].instance;
                if touched[index].is_none() && instance.target.reach(per, self.engine) & bit != 0 {
                    touched[index] =
                        self.book.faults[instance.fault].shows.binary_search_by_key(&sign, |shown| shown.sign).ok();
                    any |= touched[index].is_some();
                }
            }
        }
        if !any {
            return None;
        }
        let group = self.groups.iter().find(|group| group.sign == sign);
        let here = group.and_then(|group| group.at(place));
        let table = &self.book.tests[test].table;
        let states = self.book.signs[sign].states.len();
        let read = |chance: &[f64]| {
            let mut row: Row = [0.0; MOST_STATES];
            let total: f64 = chance.iter().sum();
            for (state, p) in chance.iter().enumerate().take(states) {
                for (outcome, q) in table[state].iter().enumerate() {
                    row[outcome] += p / total * q;
                }
            }
            row
        };
        let weighed = |chance: &[f64], by: Option<&ByState>| {
            let mut result = [0.0; MOST_STATES];
            for (state, p) in chance.iter().enumerate() {
                result[state] = p * by.map_or(1.0, |by| by[state]);
            }
            result
        };
        let sound = read(&weighed(&self.book.signs[sign].sound, here)[..states]);
        // A fault that shows alike at all its cylinders was seen here when it was seen there.
        let seen = |index: usize| {
            let instance = &self.suspicions[index].instance;
            let fault = &self.book.faults[instance.fault];
            match (group, fault.varies) {
                (Some(group), false) => group.shared(instance.target.reach(per, self.engine) & group.observed),
                (Some(_), true) => here.copied().unwrap_or([1.0; MOST_STATES]),
                (None, _) => [1.0; MOST_STATES],
            }
        };
        let one = |index: usize, shown: usize| {
            let chance = &self.book.faults[self.suspicions[index].instance.fault].shows[shown].chance;
            weighed(chance, Some(&seen(index)))
        };
        let singles: Vec<Option<Row>> = touched
            .iter()
            .enumerate()
            .map(|(index, shown)| shown.map(|shown| read(&one(index, shown)[..states])))
            .collect();
        Some(
            self.hypotheses
                .iter()
                .map(|hypothesis| {
                    let list: Vec<(usize, usize)> = hypothesis
                        .faults
                        .iter()
                        .flatten()
                        .filter_map(|&i| touched[i as usize].map(|shown| (i as usize, shown)))
                        .collect();
                    match list.as_slice() {
                        [] if hypothesis.faults[0].is_none() => self.average(&singles, &sound),
                        [] => sound,
                        &[(index, _)] => singles[index].unwrap_or(sound),
                        &[(a, shown_a), (b, shown_b), ..] => {
                            let (p, q) = (one(a, shown_a), one(b, shown_b));
                            let (p_all, q_all): (f64, f64) = (p.iter().sum(), q.iter().sum());
                            let mut worse = [0.0; MOST_STATES];
                            for (s, x) in p.iter().enumerate().take(states) {
                                for (t, y) in q.iter().enumerate().take(states) {
                                    worse[s.max(t)] += x * y / (p_all * q_all);
                                }
                            }
                            read(&worse[..states])
                        }
                    }
                })
                .collect(),
        )
    }

    /// What a car whose fault is not in the book would show: what the cars of the book show on the whole.
    fn average(&self, singles: &[Option<Row>], sound: &Row) -> Row {
        let mut row = [0.0; MOST_STATES];
        let mut weight = 0.0;
        for (suspicion, single) in self.suspicions.iter().zip(singles) {
            weight += suspicion.instance.weight;
            for (sum, value) in row.iter_mut().zip(single.as_ref().unwrap_or(sound)) {
                *sum += suspicion.instance.weight * value;
            }
        }
        row.map(|value| value / weight)
    }

    /// The repairs that mend a hypothesis, each once.
    fn mending(&self, hypothesis: &Hypothesis) -> impl Iterator<Item = usize> + use<> {
        let of = |fault: Option<u16>| fault.map(|index| self.mended_by[index as usize] as usize);
        let (first, second) = (of(hypothesis.faults[0]), of(hypothesis.faults[1]));
        first.into_iter().chain(second.filter(|repair| Some(*repair) != first))
    }

    /// The cost of trying repairs in the order of probability to cost, each with a check, until the car runs; given
    /// up, at the point where that is cheapest, by handing the car over. `work` then holds the order.
    ///
    /// `probabilities` belong to the hypotheses and need not sum to one: the result is for their sum.
    pub fn trial(&self, probabilities: &[f64], work: &mut Work) -> f64 {
        let n = self.repairs.len();
        work.present.clear();
        work.present.resize(n, 0.0);
        for (hypothesis, p) in self.hypotheses.iter().zip(probabilities) {
            for repair in self.mending(hypothesis) {
                work.present[repair] += p;
            }
        }
        let total: f64 = probabilities.iter().sum();
        let least = total * FAINT;
        work.order.clear();
        work.order.extend((0..n as u16).filter(|&i| work.present[i as usize] > least));
        let (present, repairs) = (&work.present, &self.repairs);
        let worth = |i: u16| present[i as usize] / repairs[i as usize].total.max(1e-9);
        work.order.sort_unstable_by(|&a, &b| {
            worth(b).total_cmp(&worth(a)).then(present[b as usize].total_cmp(&present[a as usize])).then(a.cmp(&b))
        });
        work.rank.clear();
        work.rank.resize(n, usize::MAX);
        for (rank, &index) in work.order.iter().enumerate() {
            work.rank[index as usize] = rank;
        }
        // Which share each repair ends, and what mending it costs by itself: a hypothesis ends with its last fault.
        work.ended.clear();
        work.ended.resize(work.order.len(), (0.0, 0.0));
        let mut open = (0.0, 0.0);
        for (hypothesis, p) in self.hypotheses.iter().zip(probabilities) {
            let mut last = 0;
            let mut own = 0.0;
            for repair in self.mending(hypothesis) {
                last = last.max(work.rank[repair]);
                own += self.repairs[repair].total;
            }
            open.0 += p;
            open.1 += p * own;
            if hypothesis.faults[0].is_some() && last < work.order.len() {
                work.ended[last].0 += p;
                work.ended[last].1 += p * own;
            }
        }
        // Whoever hands over after k repairs has paid them, the handing over, and then what mends the car.
        let (mut spent, mut paid) = (0.0, 0.0);
        let mut best = open.0 * self.hand_over.total + open.1;
        work.stop = 0;
        for (rank, &index) in work.order.iter().enumerate() {
            spent += self.repairs[index as usize].total;
            let (share, own) = work.ended[rank];
            paid += share * spent;
            open.0 -= share;
            open.1 -= own;
            let stopped_here = paid + open.0.max(0.0) * (spent + self.hand_over.total) + open.1.max(0.0);
            if stopped_here < best {
                best = stopped_here;
                work.stop = rank + 1;
            }
        }
        best
    }

    /// Minutes and money of the trial that `work` holds, for the same probabilities.
    pub fn spent_on_trial(&self, probabilities: &[f64], work: &Work) -> Cost {
        let mut so_far = Vec::with_capacity(work.stop + 1);
        let mut sum = Cost::default();
        so_far.push(sum);
        for &index in &work.order[..work.stop] {
            sum = sum.and(&self.repairs[index as usize], 1.0);
            so_far.push(sum);
        }
        let mut expected = Cost::default();
        for (hypothesis, &p) in self.hypotheses.iter().zip(probabilities) {
            let last = self.mending(hypothesis).map(|repair| work.rank[repair]).max().unwrap_or(usize::MAX);
            if last < work.stop {
                expected = expected.and(&so_far[last + 1], p);
                continue;
            }
            expected = expected.and(&so_far[work.stop], p).and(&self.hand_over, p);
            for repair in self.mending(hypothesis) {
                expected = expected.and(&self.repairs[repair], p);
            }
        }
        expected
    }

    /// What a test is worth where the hypotheses stand at `probabilities`, which sum to `total`, and a trial would
    /// cost `now`. All amounts are for that sum.
    pub fn worth(&self, prospect: &Prospect, probabilities: &[f64], now: f64, work: &mut Work) -> Worth {
        let total: f64 = probabilities.iter().sum();
        let mut sums = [0.0; MOST_STATES];
        for (p, row) in probabilities.iter().zip(&prospect.rows) {
            for (sum, chance) in sums.iter_mut().zip(row) {
                *sum += p * chance;
            }
        }
        let bits = bits(prospect, probabilities, &sums, total);
        let cost = prospect.cost.total * total;
        // What tells next to nothing changes no decision and saves nothing.
        if bits < self.book.figures.useful.value {
            return Worth { saving: -cost, gross: 0.0, bits, after: now + cost };
        }
        let mut after = 0.0;
        let mut branch = std::mem::take(&mut work.branch);
        for outcome in 0..prospect.outcomes {
            if sums[outcome] > total * 1e-9 {
                branch.clear();
                branch.extend(probabilities.iter().zip(&prospect.rows).map(|(p, row)| p * row[outcome]));
                after += self.trial(&branch, work);
            }
        }
        work.branch = branch;
        Worth { saving: now - after - cost, gross: now - after, bits, after: after + cost }
    }
}

/// How much an outcome tells of the hypotheses, on average, in bits.
fn bits(prospect: &Prospect, probabilities: &[f64], sums: &Row, total: f64) -> f64 {
    let mut bits = 0.0;
    for (p, row) in probabilities.iter().zip(&prospect.rows) {
        if *p < total * 1e-4 {
            continue;
        }
        for outcome in 0..prospect.outcomes {
            if row[outcome] > 0.0 {
                bits += p / total * row[outcome] * (row[outcome] * total / sums[outcome]).log2();
            }
        }
    }
    bits.max(0.0)
}

/// What mends only suspects fainter than this is not tried.
const FAINT: f64 = 1e-4;

/// Room that is used again and again, and the last trial in it.
#[derive(Default)]
pub struct Work {
    present: Vec<f64>,
    rank: Vec<usize>,
    ended: Vec<(f64, f64)>,
    branch: Vec<f64>,
    /// Repairs in the order in which they would be tried ...
    pub order: Vec<u16>,
    /// ... and how many of them, before the car is handed over.
    pub stop: usize,
}
