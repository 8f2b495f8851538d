//! The suspects of one car before anything was found: every fault of the book at every place where it can sit.

use std::collections::BTreeMap;

use super::book::Book;
use super::fits::Car;
use super::memory::WorkshopCase;
use super::target::Target;
use crate::engine::Engine;

/// A fault at a place.
#[derive(Debug, Clone, PartialEq)]
pub struct Instance {
    pub fault: usize,
    pub target: Target,
    /// How much it weighs before any finding; the weights of a car sum to one.
    pub weight: f64,
}

/// Which faults a car can have, with their weights.
///
/// The weight is the fault's rate × how far the car fits × the workshop's own history. History is counted in cases:
/// the book's rates stand for `figures.history` cases of the workshop's own, so a workshop with a few cases bends
/// them and one with many outweighs them (the mean of a Dirichlet distribution with those pseudo-counts).
pub fn instances(book: &Book, car: &Car<'_>, rates: &BTreeMap<String, f64>, history: &[WorkshopCase]) -> Vec<Instance> {
    let mut list: Vec<Instance> = Vec::new();
    for (fault, entry) in book.faults.iter().enumerate() {
        let fit = car.meets(&entry.fits);
        if fit > 0.0 {
            // The workshop's own rate, where it has one; nothing is impossible.
            let rate = rates.get(&entry.id).copied().unwrap_or(entry.rate).max(1e-3) * fit;
            list.extend(Target::all(entry.per, car.engine).into_iter().map(|target| Instance {
                fault,
                target,
                weight: rate,
            }));
        }
    }
    let total: f64 = list.iter().map(|one| one.weight).sum();
    let mut of_fault: BTreeMap<usize, f64> = BTreeMap::new();
    for one in &mut list {
        one.weight /= total;
        *of_fault.entry(one.fault).or_default() += one.weight;
    }
    let mut cases: BTreeMap<usize, f64> = BTreeMap::new();
    for case in history {
        if let Some(&fault) = book.fault_index.get(&case.fault)
            && of_fault.contains_key(&fault)
        {
            *cases.entry(fault).or_default() += case.cases;
        }
    }
    let counted: f64 = cases.values().sum();
    if counted > 0.0 {
        let strength = book.figures.history.value;
        for one in &mut list {
            let share = of_fault[&one.fault];
            let bent = (share * strength + cases.get(&one.fault).copied().unwrap_or_default()) / (strength + counted);
            one.weight *= bent / share;
        }
    }
    list
}

/// How much a test belongs to this car: nought if it does not.
pub fn belongs(book: &Book, car: &Car<'_>, test: usize) -> bool {
    car.meets(&book.tests[test].fits) > 0.0
}

/// The places at which a test can be made.
pub fn places(book: &Book, test: usize, engine: &Engine) -> Vec<Target> {
    Target::all(book.tests[test].per, engine)
}
