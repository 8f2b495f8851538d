//! The proof against a population: of the cars that drove until the proof said 95 % and 99 % without the fault, that
//! share must truly be mended.

use ember_core::knowledge::Knowledge;
use ember_core::proof::{ProofInput, proof};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rstest::rstest;

const CARS: usize = 10_000;

/// A fault that comes along the road: the expected number up to x is `level` (x / T)^shape, T the distance watched.
struct Fault {
    level: f64,
    shape: f64,
}

struct Car {
    mended: bool,
    prior_fixed: f64,
    occurrences: Vec<f64>,
    /// Where after the repair the fault would next come, if it was not mended.
    next_after: f64,
}

const WATCHED: f64 = 1000.0;

fn poisson(rng: &mut ChaCha8Rng, mean: f64) -> usize {
    let mut waited = 0.0;
    (0..)
        .find(|_| {
            waited -= (1.0 - rng.random::<f64>()).ln();
            waited > mean
        })
        .unwrap_or(0)
}

impl Fault {
    /// How often a fault comes is not known beforehand, over a wide range of magnitudes; only cars that came in with 2 to
    /// 8 occurrences are looked at.
    fn seen(rng: &mut ChaCha8Rng, shape: f64) -> (Fault, usize) {
        loop {
            let level = (rng.random_range((0.05_f64).ln()..(60.0_f64).ln())).exp();
            let count = poisson(rng, level);
            if (2..=8).contains(&count) {
                return (Fault { level, shape }, count);
            }
        }
    }

    fn times(&self, rng: &mut ChaCha8Rng, count: usize) -> Vec<f64> {
        (0..count).map(|_| WATCHED * (1.0 - rng.random::<f64>()).powf(1.0 / self.shape)).collect()
    }

    /// The distance from T to the next time: where the expected number has grown by a unit exponential.
    fn next(&self, rng: &mut ChaCha8Rng) -> f64 {
        let more = -(1.0 - rng.random::<f64>()).ln();
        WATCHED * ((1.0 + more / self.level).powf(1.0 / self.shape) - 1.0)
    }
}

fn population(seed: u64, shape_of: impl Fn(&mut ChaCha8Rng) -> f64) -> Vec<Car> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    (0..CARS)
        .map(|_| {
            let shape = shape_of(&mut rng);
            let (fault, count) = Fault::seen(&mut rng, shape);
            let prior_fixed = [0.3, 0.5, 0.6, 0.7][rng.random_range(0..4)];
            Car {
                mended: rng.random::<f64>() < prior_fixed,
                prior_fixed,
                occurrences: fault.times(&mut rng, count),
                next_after: fault.next(&mut rng),
            }
        })
        .collect()
}

/// The share that is truly mended among the cars that reached the given confidence in silence, in percent.
fn truth_when_reached(cars: &[Car], reached: impl Fn(&ember_core::proof::ProofResult) -> f64) -> f64 {
    let (mut silent, mut mended) = (0.0, 0.0);
    for car in cars {
        let input = ProofInput {
            observed_from: 0.0,
            occurrences: car.occurrences.clone(),
            repaired: WATCHED,
            clean_until: WATCHED,
            prior_fixed: car.prior_fixed,
        };
        let result = proof(&input, Knowledge::built_in()).unwrap();
        let distance = reached(&result);
        if car.mended {
            mended += 1.0;
            silent += 1.0;
        } else if car.next_after > distance {
            silent += 1.0;
        }
    }
    100.0 * mended / silent
}

#[rstest]
fn what_is_called_95_or_99_percent_sure_is_so_in_a_mixed_population(#[values(1, 2, 3)] seed: u64) {
    let cars = population(seed, |rng| if rng.random() { 1.0 } else { rng.random_range(1.5..3.0) });
    let (at_95, at_99) = (
        truth_when_reached(&cars, |result| result.reached_95_after),
        truth_when_reached(&cars, |result| result.reached_99_after),
    );
    assert!((at_95 - 95.0).abs() < 2.0, "stated 95 %, true {at_95:.2} %");
    assert!((at_99 - 99.0).abs() < 2.0, "stated 99 %, true {at_99:.2} %");
}

/// Where the rule does not hold as well: a fault that worsens steeply is proven gone sooner than the proof says, one
/// that came steadily by chance at shortening intervals is stated too surely. Both are said in the documentation.
#[rstest]
#[case::only_steady(1.0, 93.0, 96.5)]
#[case::steeply_worsening(3.0, 94.0, 100.0)]
fn in_a_population_of_one_kind_the_truth_at_95_percent_stays_within(
    #[case] shape: f64,
    #[case] least: f64,
    #[case] most: f64,
) {
    let cars = population(4, |_| shape);
    let truth = truth_when_reached(&cars, |result| result.reached_95_after);
    assert!((least..=most).contains(&truth), "true {truth:.2} %");
}
