//! Ways through a case: following the next move, or a fixed order of tests.

use std::collections::BTreeMap;

use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::suspects::book::{Per, Test};
use ember_core::suspects::target::Target;
use ember_core::suspects::{ActKind, Depth, FindingInput, Replaced, SuspectsInput, suspects_to};

use super::cases::{Written, car, finding, input};

/// A case as something that answers tests.
pub struct Car<'a> {
    case: &'a Written,
    engine: Engine,
    description: &'a EngineDescription,
    causes: Vec<(usize, Target)>,
}

/// What a way through a case took.
#[derive(Debug, Clone, Copy, Default)]
pub struct Way {
    pub minutes: f64,
    pub tests: usize,
    /// Parts fitted in vain.
    pub in_vain: usize,
    pub reached: bool,
}

/// A cause counts as reached when it leads with this much.
const SURE: f64 = 0.8;
/// After so many steps nobody goes on.
const MOST: usize = 60;

impl<'a> Car<'a> {
    pub fn new(case: &'a Written, vehicles: &'a BTreeMap<String, EngineDescription>) -> Car<'a> {
        let book = &Knowledge::built_in().book;
        let description = &vehicles[&case.vehicle];
        let causes = case
            .cause
            .iter()
            .map(|cause| {
                let (fault, target) = cause.split_once('@').unwrap();
                let index = book.faults.iter().position(|f| f.id == fault).unwrap();
                (index, Target::parse(target).unwrap())
            })
            .collect();
        Car { case, engine: Engine::new(description).unwrap(), description, causes }
    }

    fn start(&self) -> SuspectsInput {
        input(car(self.description), self.case.complaint())
    }

    /// What a test finds: what the case says, else the likeliest outcome on a car with this cause.
    fn answer(&self, test: &Test, target: &Target) -> FindingInput {
        let written =
            self.case.findings.iter().find(|[id, at, _]| {
                *id == test.id && (test.per == Per::Engine || Target::parse(at).unwrap() == *target)
            });
        if let Some([_, _, outcome]) = written {
            return finding(&test.id, &target.to_string(), outcome);
        }
        let book = &Knowledge::built_in().book;
        let sign = &book.signs[test.sign];
        let here = |at: &Target| match (test.per, target) {
            (Per::Cylinder, Target::Cylinder(c)) => at.cylinders(&self.engine).contains(c),
            (Per::Bank, Target::Bank(b)) => {
                at.cylinders(&self.engine).iter().any(|c| self.engine.banks[usize::from(*b) - 1].contains(c))
            }
            _ => true,
        };
        let shown = self.causes.iter().filter(|(_, at)| here(at)).find_map(|(fault, _)| {
            book.faults[*fault].shows.iter().find(|shown| shown.sign == test.sign).map(|shown| &shown.chance)
        });
        let chance = shown.unwrap_or(&sign.sound);
        let of = |outcome: usize| chance.iter().zip(&test.table).map(|(p, row)| p * row[outcome]).sum::<f64>();
        let best = (0..test.outcomes.len()).max_by(|&a, &b| of(a).total_cmp(&of(b))).unwrap();
        finding(&test.id, &target.to_string(), &test.outcomes[best].id)
    }

    /// Whether the leading suspects are the causes, surely enough.
    fn reached(&self, result: &ember_core::suspects::SuspectsResult) -> bool {
        self.case.cause.iter().all(|cause| {
            result.suspects[..self.case.cause.len()]
                .iter()
                .any(|s| s.present >= SURE && format!("{}@{}", s.fault, s.target) == *cause)
        })
    }

    /// Does what the next move says until the cause is reached or mended.
    pub fn by_next_move(&self) -> Way {
        let book = &Knowledge::built_in().book;
        let mut input = self.start();
        let mut way = Way::default();
        for _ in 0..MOST {
            let result = suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap();
            if self.reached(&result) {
                way.reached = true;
                return way;
            }
            match result.act.act {
                ActKind::Test => {
                    let next = &result.next[0];
                    way.minutes += next.minutes;
                    way.tests += 1;
                    input.findings.push(self.answer(book.test(&next.test).unwrap(), &next.target));
                }
                ActKind::Repair => {
                    let fault = book.fault(&result.act.what).unwrap();
                    // The part that is fitted mends whatever was wrong with the one that came out.
                    let mends = |(cause, at): &(usize, Target)| {
                        let cause = &book.faults[*cause];
                        *at == result.act.target
                            && (cause.id == fault.id || (cause.part.is_some() && cause.part == fault.part))
                    };
                    if self.causes.iter().any(mends) {
                        way.reached = true;
                        return way;
                    }
                    way.minutes += fault.repair.minutes + book.figures.check.value;
                    way.in_vain += 1;
                    let replaced = Replaced { what: fault.id.clone(), target: Some(result.act.target.clone()) };
                    // The same twice: the book has nothing more to say.
                    if input.replaced.contains(&replaced) {
                        break;
                    }
                    input.replaced.push(replaced);
                }
                ActKind::HandOver => break,
            }
        }
        way.minutes += book.figures.hand_over.value;
        way
    }

    /// Makes the tests of a fixed order, each only where the cause sits, until the cause is reached. That is more than a
    /// fixed order could know, and counts in its favour.
    pub fn by_fixed_order(&self, order: &[usize]) -> Way {
        let knowledge = Knowledge::built_in();
        let book = &knowledge.book;
        let mut input = self.start();
        let mut way = Way::default();
        let mut scanned = false;
        for &index in order {
            let test = &book.tests[index];
            let cylinder = self.causes[0].1.cylinders(&self.engine)[0];
            let target = match test.per {
                Per::Cylinder => Target::Cylinder(cylinder),
                Per::Bank => {
                    let bank = self.engine.banks.iter().position(|bank| bank.contains(&cylinder)).unwrap();
                    Target::Bank(bank as u8 + 1)
                }
                _ => Target::Engine,
            };
            let mut with = input.clone();
            with.findings.push(self.answer(test, &target));
            // A test that this vehicle does not have is passed over.
            let Ok(result) = suspects_to(&with, knowledge, Depth::Suspects) else { continue };
            let free = test.together.as_deref() == Some("scan") && std::mem::replace(&mut scanned, true);
            let opens: f64 = test.opens.iter().map(|name| book.access[name].minutes).sum();
            way.minutes += if free { 0.0 } else { test.minutes + opens };
            way.tests += 1;
            input = with;
            if self.reached(&result) {
                way.reached = true;
                return way;
            }
        }
        way.minutes += book.figures.hand_over.value;
        way
    }
}

/// Fixed orders that somebody might go by.
pub fn fixed_orders() -> Vec<(&'static str, Vec<usize>)> {
    use ember_core::suspects::book::TestKind::{Ask, Look, Measure, Provoke, Read, Smoke, Swap};
    let book = &Knowledge::built_in().book;
    let all: Vec<usize> = (0..book.tests.len()).filter(|&i| book.tests[i].kind != Ask).collect();
    let by = |key: &dyn Fn(usize) -> f64| {
        let mut list = all.clone();
        list.sort_by(|&a, &b| key(a).total_cmp(&key(b)));
        list
    };
    let minutes = |i: usize| {
        let test = &book.tests[i];
        test.minutes + test.opens.iter().map(|name| book.access[name].minutes).sum::<f64>()
    };
    let turn = |i: usize, kinds: &[ember_core::suspects::book::TestKind]| {
        1000.0 * kinds.iter().position(|kind| *kind == book.tests[i].kind).unwrap_or(9) as f64 + minutes(i)
    };
    let codes_first = |i: usize| {
        let scan = book.tests[i].together.as_deref() == Some("scan");
        minutes(i) + if scan { -1000.0 } else { 0.0 }
    };
    // How often a fault shows something else than a sound car to this test, weighed by how often the fault comes.
    let telling = |i: usize| {
        let test = &book.tests[i];
        let shown = |fault: &ember_core::suspects::book::Fault| {
            fault.shows.iter().find(|s| s.sign == test.sign).map_or(0.0, |s| 1.0 - s.chance[0])
        };
        let sum: f64 = book.faults.iter().map(|fault| fault.rate * shown(fault)).sum();
        -sum / (minutes(i) + 1.0)
    };
    vec![
        ("cheapest first", by(&minutes)),
        ("codes, then cheapest first", by(&codes_first)),
        ("codes, look, read, measure, provoke, swap", by(&|i| turn(i, &[Read, Look, Measure, Provoke, Smoke, Swap]))),
        ("look, read, swap, measure", by(&|i| turn(i, &[Look, Read, Swap, Measure, Provoke, Smoke]))),
        ("most often telling for its minutes", by(&telling)),
    ]
}
