//! Of what is called 80 % likely, four in five must be so: cars are drawn from the book's own rates and answer tests as
//! its tables say, and what was thought of them is counted.

use crate::suspects::cases;
use ember_core::engine::Engine;
use ember_core::knowledge::Knowledge;
use ember_core::suspects::book::{Per, SignKind};
use ember_core::suspects::target::Target;
use ember_core::suspects::{ComplaintParts, Depth, FindingInput, NOT_IN_THE_BOOK, SuspectsInput, suspects_to};
use rand::prelude::*;
use rand_chacha::ChaCha8Rng;

/// What is wrong with a drawn car: nothing stands for a fault that is not in the book.
type Faults = Vec<(usize, Target)>;

struct Drawing<'a> {
    engine: &'a Engine,
    /// Every fault that the car can have, with its weight.
    all: Vec<(usize, Target, f64)>,
    rng: ChaCha8Rng,
}

impl Drawing<'_> {
    fn one(&mut self) -> (usize, Target) {
        let mut left = self.rng.random::<f64>() * self.all.iter().map(|(.., w)| w).sum::<f64>();
        for (fault, target, weight) in &self.all {
            left -= weight;
            if left <= 0.0 {
                return (*fault, target.clone());
            }
        }
        let (fault, target, _) = self.all.last().unwrap();
        (*fault, target.clone())
    }

    fn faults(&mut self) -> Faults {
        let figures = &Knowledge::built_in().book.figures;
        let roll = self.rng.random::<f64>();
        if roll < figures.not_in_the_book.value {
            Vec::new()
        } else if roll < figures.not_in_the_book.value + figures.two_faults.value {
            loop {
                let (a, b) = (self.one(), self.one());
                if a != b {
                    return vec![a, b];
                }
            }
        } else {
            vec![self.one()]
        }
    }

    fn of(&mut self, chance: &[f64]) -> usize {
        let mut left = self.rng.random::<f64>();
        for (index, p) in chance.iter().enumerate() {
            left -= p;
            if left <= 0.0 {
                return index;
            }
        }
        chance.len() - 1
    }

    /// The state in which a car shows a sign at a place: the worst of what its faults make of it. A strange fault shows
    /// each sign as some car of the book does.
    fn state(&mut self, faults: &Faults, sign: usize, at: &Target) -> usize {
        let book = &Knowledge::built_in().book;
        let drawn = if faults.is_empty() { vec![self.one()] } else { faults.clone() };
        let per = book.signs[sign].per;
        let reaches = |fault_at: &Target| match (per, at) {
            (Per::Cylinder, Target::Cylinder(c)) => fault_at.cylinders(self.engine).contains(c),
            (Per::Bank, Target::Bank(b)) => {
                let bank = &self.engine.banks[usize::from(*b) - 1];
                fault_at.cylinders(self.engine).iter().any(|c| bank.contains(c))
            }
            _ => true,
        };
        let chances: Vec<Vec<f64>> = drawn
            .iter()
            .filter(|(_, fault_at)| reaches(fault_at))
            .filter_map(|(fault, _)| {
                book.faults[*fault].shows.iter().find(|shown| shown.sign == sign).map(|shown| shown.chance.clone())
            })
            .collect();
        match chances.as_slice() {
            [] => self.of(&book.signs[sign].sound),
            some => some.iter().map(|chance| self.of(chance)).max().unwrap(),
        }
    }
}

#[test]
fn of_what_is_called_eighty_percent_likely_four_in_five_are_so() {
    let knowledge = Knowledge::built_in();
    let book = &knowledge.book;
    let vehicles = cases::vehicles();
    let mut called: Vec<(f64, bool)> = Vec::new();
    for (seed, name) in ["i4-port", "i4-diesel", "i4-points"].into_iter().enumerate() {
        let engine = Engine::new(&vehicles[name]).unwrap();
        let nothing = cases::input(cases::car(&vehicles[name]), ComplaintParts::default());
        let before = suspects_to(&nothing, knowledge, Depth::Suspects).unwrap();
        let all = before
            .suspects
            .iter()
            .filter(|s| s.fault != NOT_IN_THE_BOOK)
            .map(|s| (book.faults.iter().position(|f| f.id == s.fault).unwrap(), s.target.clone(), s.before))
            .collect();
        let mut drawing = Drawing { engine: &engine, all, rng: ChaCha8Rng::seed_from_u64(40 + seed as u64) };
        // Tests that this car has: those that are not refused.
        let tests: Vec<usize> = (0..book.tests.len())
            .filter(|&index| {
                let test = &book.tests[index];
                let mut input = nothing.clone();
                let target = match test.per {
                    Per::Cylinder => Target::Cylinder(1),
                    Per::Bank => Target::Bank(1),
                    _ => Target::Engine,
                };
                input.findings = vec![found(&test.id, &target, &test.outcomes[0].id)];
                book.signs[test.sign].kind == SignKind::Found && suspects_to(&input, knowledge, Depth::Suspects).is_ok()
            })
            .collect();
        for _ in 0..700 {
            let faults = drawing.faults();
            let input = drawn_case(&mut drawing, &nothing, &faults, &tests);
            let result = suspects_to(&input, knowledge, Depth::Suspects).unwrap();
            for suspect in result.suspects.iter().take(4) {
                let there = match suspect.fault.as_str() {
                    NOT_IN_THE_BOOK => faults.is_empty(),
                    id => faults.iter().any(|(f, at)| book.faults[*f].id == id && *at == suspect.target),
                };
                called.push((suspect.present, there));
            }
        }
    }
    for (low, high) in [(0.05, 0.2), (0.2, 0.4), (0.4, 0.6), (0.6, 0.72), (0.72, 0.88), (0.88, 0.96), (0.96, 1.01)] {
        let (said, is, n) = tally(&called, low, high);
        println!("{low:.2}-{high:.2}: called {:.1} %, is so {:.1} % of {n}", 100.0 * said, 100.0 * is);
    }
    let (said, is, n) = tally(&called, 0.72, 0.88);
    assert!(n >= 100, "only {n} were called so");
    assert!((said - 0.8).abs() < 0.02, "the calls between 72 and 88 % have a mean of {said}");
    assert!((0.75..=0.85).contains(&is), "of what is called {said:.3} likely {is:.3} is so");
    let (said, is, _) = tally(&called, 0.2, 0.6);
    assert!((said - is).abs() < 0.06, "of what is called {said:.3} likely {is:.3} is so");
    let (said, is, _) = tally(&called, 0.96, 1.01);
    assert!((said - is).abs() < 0.03, "of what is called {said:.3} likely {is:.3} is so");
}

fn tally(called: &[(f64, bool)], low: f64, high: f64) -> (f64, f64, usize) {
    let within: Vec<&(f64, bool)> = called.iter().filter(|(p, _)| (low..high).contains(p)).collect();
    let n = within.len().max(1) as f64;
    let said = within.iter().map(|(p, _)| p).sum::<f64>() / n;
    let is = within.iter().filter(|(_, there)| *there).count() as f64 / n;
    (said, is, within.len())
}

fn found(test: &str, target: &Target, outcome: &str) -> FindingInput {
    cases::finding(test, &target.to_string(), outcome)
}

/// What is told of a drawn car, and what tests taken at random find on it, each sign read once.
fn drawn_case(drawing: &mut Drawing<'_>, nothing: &SuspectsInput, faults: &Faults, tests: &[usize]) -> SuspectsInput {
    let book = &Knowledge::built_in().book;
    let mut input = nothing.clone();
    for test in book.tests.iter().filter(|test| book.signs[test.sign].kind == SignKind::Symptom) {
        if test.id == "engine-light" && drawing.engine.injection == ember_core::engine::Injection::Carburettor {
            continue;
        }
        let state = drawing.state(faults, test.sign, &Target::Engine);
        let outcome = drawing.of(&test.table[state]);
        input.findings.push(found(&test.id, &Target::Engine, &test.outcomes[outcome].id));
    }
    // Which tests are made must not depend on what is wrong, or the choice itself would tell.
    for _ in 0..70 {
        let test = &book.tests[*tests.choose(&mut drawing.rng).unwrap()];
        let at = match test.per {
            Per::Cylinder => Target::Cylinder(drawing.rng.random_range(1..=drawing.engine.cylinders)),
            Per::Bank => Target::Bank(drawing.rng.random_range(1..=drawing.engine.banks.len() as u8)),
            _ => Target::Engine,
        };
        if input.findings.iter().any(|f| book.test(&f.test).is_some_and(|other| other.sign == test.sign)) {
            continue;
        }
        let state = drawing.state(faults, test.sign, &at);
        let outcome = drawing.of(&test.table[state]);
        input.findings.push(found(&test.id, &at, &test.outcomes[outcome].id));
    }
    input
}
