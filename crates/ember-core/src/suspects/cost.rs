//! What tests and repairs cost on this car, now: minutes, money, what has to come off first, and what may break.

use std::collections::{BTreeMap, BTreeSet};

use super::book::{Book, Fault, Test};
use super::target::Target;
use crate::engine::Engine;
use crate::swap::plan::Cover;

/// The part of a car's dismantling that belongs to one cylinder: its minutes are the vehicle's own where it knows them.
const CYLINDER_TOP: &str = "cylinder-top";

/// What time and parts cost in this workshop, and what is off this car.
#[derive(Debug, Clone)]
pub struct Prices<'a> {
    pub per_minute: f64,
    /// The workshop's own price of a fault's parts.
    pub parts: BTreeMap<String, f64>,
    /// The workshop's own minutes for a test.
    pub minutes: BTreeMap<String, f64>,
    pub off: BTreeSet<String>,
    pub access_minutes: Option<&'a BTreeMap<String, f64>>,
    pub covers: &'a [Cover],
    /// Groups of tests that were read already: another of the group costs no time.
    pub read: BTreeSet<String>,
}

/// Minutes and money of one piece of work; `total` in money with the labour.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Cost {
    pub minutes: f64,
    pub money: f64,
    pub total: f64,
}

impl Cost {
    /// This and another, which comes about with a chance.
    pub fn and(&self, other: &Cost, chance: f64) -> Cost {
        Cost {
            minutes: self.minutes + chance * other.minutes,
            money: self.money + chance * other.money,
            total: self.total + chance * other.total,
        }
    }
}

impl Prices<'_> {
    /// Minutes to reach what stands behind these accesses at a target, with what is off already.
    pub fn access(&self, book: &Book, opens: &[String], target: &Target, engine: &Engine) -> f64 {
        opens
            .iter()
            .filter(|name| !self.off.contains(*name))
            .map(|name| match (name.as_str(), target) {
                (CYLINDER_TOP, Target::Cylinder(_) | Target::Cylinders(..)) => {
                    self.cylinder_tops(book, &target.cylinders(engine))
                }
                _ => book.access.get(name).map_or(0.0, |item| item.minutes),
            })
            .sum()
    }

    fn cylinder_tops(&self, book: &Book, cylinders: &[u8]) -> f64 {
        let usual = book.access.get(CYLINDER_TOP).map_or(0.0, |item| item.minutes);
        let closed = |c: &&u8| !self.off.contains(&format!("{CYLINDER_TOP} {c}"));
        let own: f64 = cylinders
            .iter()
            .filter(closed)
            .map(|c| self.access_minutes.and_then(|m| m.get(&c.to_string()).copied()).unwrap_or(usual))
            .sum();
        let covers: f64 = self
            .covers
            .iter()
            .filter(|cover| !self.off.contains(&cover.name) && cover.cylinders.iter().any(|c| cylinders.contains(c)))
            .map(|cover| cover.minutes)
            .sum();
        own + covers
    }

    /// What making a test at a target costs now. The chance of damage counts with its cost.
    pub fn of_test(&self, book: &Book, test: &Test, target: &Target, engine: &Engine) -> Cost {
        let own = self.minutes.get(&test.id).copied().unwrap_or(test.minutes);
        let own = if test.together.as_ref().is_some_and(|group| self.read.contains(group)) { 0.0 } else { own };
        let minutes = own + self.access(book, &test.opens, target, engine);
        let risk = test.risk.as_ref().map_or(0.0, |(chance, cost, _)| chance * cost);
        let money = test.money + risk;
        Cost { minutes, money, total: minutes * self.per_minute + money }
    }

    /// What a repair costs, with the check whether it helped.
    pub fn of_repair(&self, book: &Book, fault: &Fault, target: &Target, engine: &Engine) -> Cost {
        let minutes = fault.repair.minutes + self.access(book, &fault.opens, target, engine) + book.figures.check.value;
        let money = self.parts.get(&fault.id).copied().unwrap_or(fault.repair.money);
        Cost { minutes, money, total: minutes * self.per_minute + money }
    }
}
