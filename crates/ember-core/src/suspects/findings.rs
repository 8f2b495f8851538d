//! Findings as somebody hands them in, checked against the book and the car.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::book::{Book, MOST_STATES, Per, SignKind};
use super::evidence::Observation;
use super::fits::Car;
use super::prior::{Instance, belongs, places};
use super::target::Target;
use super::words::{nearest, symptoms_in};
use crate::engine::Engine;
use crate::refusal::Refusal;

/// A test with what came of it: an outcome, or how likely what was found is under each outcome.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FindingInput {
    /// The name of a test in the book, or of a symptom, a circumstance or something that went before.
    pub test: String,
    /// `engine`, `bank 1`, `cylinder 3`, `cylinders 1 and 4`, or the number of a cylinder.
    #[serde(default)]
    pub target: Option<Target>,
    #[serde(default)]
    pub outcome: Option<String>,
    /// For a finding that is not sure: a likelihood for each outcome of the test (left out: nought), or for each fault
    /// (`coil-breaks-down`, `coil-breaks-down@cylinder 3`; left out: as likely as the mean).
    #[serde(default)]
    pub likelihood: Option<BTreeMap<String, f64>>,
    /// In what words it is to be told; left out: the test's.
    #[serde(default)]
    pub says: Option<String>,
}

impl FindingInput {
    /// An outcome of a test.
    pub fn sure(test: &str, target: Target, outcome: &str) -> FindingInput {
        FindingInput {
            test: test.into(),
            target: Some(target),
            outcome: Some(outcome.into()),
            likelihood: None,
            says: None,
        }
    }

    /// How likely what was found is under each outcome of a test; what stands for the same outcome is added up.
    pub fn soft(test: &str, target: Target, says: String, likelihood: &[(&str, f64)]) -> FindingInput {
        let mut outcomes: BTreeMap<String, f64> = BTreeMap::new();
        for (outcome, l) in likelihood {
            *outcomes.entry((*outcome).to_owned()).or_default() += l;
        }
        FindingInput {
            test: test.into(),
            target: Some(target),
            outcome: None,
            likelihood: Some(outcomes),
            says: Some(says),
        }
    }
}

/// What is complained of: words, a list of names, or all of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged, expecting = "words, a list of symptoms, or symptoms with circumstances and history")]
pub enum ComplaintInput {
    Words(String),
    List(Vec<String>),
    Full(ComplaintParts),
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct ComplaintParts {
    pub symptoms: Vec<String>,
    pub circumstances: Vec<String>,
    /// What was done to the car, or happened to it, before.
    pub history: Vec<String>,
    /// Words of any of the three kinds; what the book does not know is told and left out.
    pub said: Vec<String>,
    pub text: String,
}

impl Default for ComplaintInput {
    fn default() -> Self {
        ComplaintInput::List(Vec::new())
    }
}

/// A finding that was understood.
#[derive(Debug, Clone)]
pub struct Known {
    pub test: usize,
    pub target: Target,
    /// None for a finding that is not sure.
    pub outcome: Option<usize>,
    pub says: String,
    pub evidence: Evidence,
}

#[derive(Debug, Clone)]
pub enum Evidence {
    Sign(Observation),
    /// Logarithms of likelihoods, for each instance.
    Faults(Vec<f64>),
}

/// What a finding is checked against.
pub struct Ground<'a> {
    pub book: &'a Book,
    pub engine: &'a Engine,
    pub car: &'a Car<'a>,
    pub instances: &'a [Instance],
}

/// No single finding may exclude a fault for good.
const LEAST: f64 = 1e-6;

impl Ground<'_> {
    /// Checks one finding.
    ///
    /// # Errors
    /// A test, target, outcome or fault that does not exist or does not belong to this car; neither or both of outcome
    /// and likelihood; likelihoods that are no numbers, below nought, or all nought.
    pub fn understood(&self, finding: &FindingInput) -> Result<Known, Refusal> {
        let Some(&test) = self.book.test_index.get(finding.test.trim()) else {
            let near = nearest(self.book, &finding.test);
            let reason = format!("there is no test {}; perhaps {}", finding.test, near.join(", "));
            return Err(Refusal::new("test", reason));
        };
        let entry = &self.book.tests[test];
        if !belongs(self.book, self.car, test) {
            let asks: Vec<String> = entry.fits.iter().map(ToString::to_string).collect();
            let reason = format!("{} is no test for this vehicle: it asks for {}", entry.id, asks.join(", "));
            return Err(Refusal::new("test", reason));
        }
        let (target, place) = self.place(test, finding.target.as_ref())?;
        let states = self.book.signs[entry.sign].states.len();
        match (&finding.outcome, &finding.likelihood) {
            (Some(name), None) => {
                let Some(outcome) = entry.outcome(name.trim()) else {
                    let known: Vec<&str> = entry.outcomes.iter().map(|one| one.id.as_str()).collect();
                    let reason = format!("{} has no outcome {name}; it has {}", entry.id, known.join(", "));
                    return Err(Refusal::new("outcome", reason));
                };
                let mut by_state = [0.0; MOST_STATES];
                for (state, value) in by_state.iter_mut().enumerate().take(states) {
                    *value = entry.table[state][outcome];
                }
                let says = finding.says.clone().unwrap_or_else(|| self.words(test, &target, outcome));
                let evidence = Evidence::Sign(Observation { test, place, by_state });
                Ok(Known { test, target, outcome: Some(outcome), says, evidence })
            }
            (None, Some(likelihood)) => {
                let evidence = self.soft(test, place, likelihood).map_err(|r| r.within("likelihood"))?;
                let says = finding.says.clone().unwrap_or_else(|| self.at(&entry.name, &target));
                Ok(Known { test, target, outcome: None, says, evidence })
            }
            (Some(_), Some(_)) => Err(Refusal::new("outcome", "give an outcome or a likelihood, not both")),
            (None, None) => Err(Refusal::new("outcome", "what came of it?")),
        }
    }

    fn place(&self, test: usize, target: Option<&Target>) -> Result<(Target, u8), Refusal> {
        let per = self.book.tests[test].per;
        let all = places(self.book, test, self.engine);
        let refused = |reason: String| Refusal::new("target", reason);
        let target = match (target, per) {
            (_, Per::Engine) | (None, _) if all.len() == 1 => all[0].clone(),
            (None, Per::Bank) => return Err(refused("which bank?".into())),
            (None, _) => return Err(refused("which cylinder?".into())),
            // A bank's reading is named by any of its cylinders, too.
            (Some(Target::Cylinder(cylinder)), Per::Bank) => {
                match self.engine.banks.iter().position(|bank| bank.contains(cylinder)) {
                    Some(bank) => Target::Bank(bank as u8 + 1),
                    None => return Err(refused(format!("the engine has no cylinder {cylinder}"))),
                }
            }
            (Some(target), _) if all.contains(target) => target.clone(),
            // One of two cylinders that share a part stands for the part.
            (Some(Target::Cylinders(a, _)), Per::Cylinder) if *a <= self.engine.cylinders => Target::Cylinder(*a),
            (Some(target), _) => {
                let words: Vec<String> = all.iter().map(ToString::to_string).collect();
                return Err(refused(format!("{target} is not on this vehicle; there are {}", words.join(", "))));
            }
        };
        let place = match target {
            Target::Cylinder(n) | Target::Bank(n) => n - 1,
            _ => 0,
        };
        Ok((target, place))
    }

    fn soft(&self, test: usize, place: u8, likelihood: &BTreeMap<String, f64>) -> Result<Evidence, Refusal> {
        let entry = &self.book.tests[test];
        for (name, value) in likelihood {
            if !value.is_finite() || *value < 0.0 {
                return Err(Refusal::new(name.clone(), "must be a number, nought or more"));
            }
        }
        let best = likelihood.values().copied().fold(0.0, f64::max);
        if best <= 0.0 {
            return Err(Refusal::new("", "is nought for everything: then it cannot have been found"));
        }
        if likelihood.keys().all(|name| entry.outcome(name).is_some()) {
            let mut by_state = [0.0; MOST_STATES];
            for (state, row) in entry.table.iter().enumerate() {
                by_state[state] = likelihood
                    .iter()
                    .filter_map(|(name, l)| entry.outcome(name).map(|outcome| (l / best).max(LEAST) * row[outcome]))
                    .sum();
            }
            return Ok(Evidence::Sign(Observation { test, place, by_state }));
        }
        let mut list = vec![None; self.instances.len()];
        for (name, value) in likelihood {
            let (fault, at) = match name.split_once('@') {
                Some((fault, at)) => (fault, Some(Target::parse(at).map_err(|r| Refusal::new(name.clone(), r))?)),
                None => (name.as_str(), None),
            };
            let Some(&index) = self.book.fault_index.get(fault) else {
                let known: Vec<&str> = entry.outcomes.iter().map(|one| one.id.as_str()).collect();
                let reason = format!("is neither a fault nor an outcome of {} ({})", entry.id, known.join(", "));
                return Err(Refusal::new(name.clone(), reason));
            };
            let mut any = false;
            for (slot, instance) in list.iter_mut().zip(self.instances) {
                if instance.fault == index && at.as_ref().is_none_or(|at| *at == instance.target) {
                    *slot = Some((value / best).max(LEAST).ln());
                    any = true;
                }
            }
            if !any {
                return Err(Refusal::new(name.clone(), "is no fault that this vehicle can have there"));
            }
        }
        // What nothing is said of is as likely as the mean of what something is said of.
        let given: Vec<f64> = list.iter().flatten().map(|log: &f64| log.exp()).collect();
        let mean = (given.iter().sum::<f64>() / given.len() as f64).ln();
        Ok(Evidence::Faults(list.into_iter().map(|log| log.unwrap_or(mean)).collect()))
    }

    fn at(&self, words: &str, target: &Target) -> String {
        match target {
            Target::Engine => words.to_owned(),
            target => format!("{words}, {target}"),
        }
    }

    fn words(&self, test: usize, target: &Target, outcome: usize) -> String {
        let entry = &self.book.tests[test];
        if self.book.signs[entry.sign].kind != SignKind::Found {
            return if outcome == 1 { entry.name.clone() } else { format!("no {}", entry.name) };
        }
        let what = entry.outcomes[outcome].id.replace('-', " ");
        format!("{}: {what}", self.at(&entry.name, target))
    }

    /// What a complaint says: what it mentions, and, less surely, what it does not mention.
    ///
    /// What stands among `findings` already is left to them. Of circumstances and of what went before nothing is
    /// concluded where none is mentioned at all: then nobody asked.
    ///
    /// # Errors
    /// A name in a list that is no symptom, circumstance or history.
    pub fn complained(
        &self,
        complaint: &ComplaintInput,
        findings: &[Known],
    ) -> Result<(Vec<Known>, Vec<String>), Refusal> {
        let mut strange = Vec::new();
        let mut mentioned: Vec<usize> = Vec::new();
        let mut take = |field: &str, names: &[String], strict: bool| {
            for (index, name) in names.iter().enumerate() {
                match symptoms_in(self.book, name).as_slice() {
                    [] if strict => {
                        let near = nearest(self.book, name);
                        let field = format!("{field}[{index}]");
                        let reason = format!("{name} is no symptom or circumstance; perhaps {}", near.join(", "));
                        return Err(Refusal::new(field, reason));
                    }
                    [] => strange.push(name.clone()),
                    some => mentioned.extend(some),
                }
            }
            Ok(())
        };
        match complaint {
            ComplaintInput::Words(text) => take("", std::slice::from_ref(text), false)?,
            ComplaintInput::List(list) => take("", list, true)?,
            ComplaintInput::Full(parts) => {
                take("symptoms", &parts.symptoms, true)?;
                take("circumstances", &parts.circumstances, true)?;
                take("history", &parts.history, true)?;
                take("said", &parts.said, false)?;
                if !parts.text.trim().is_empty() {
                    take("text", std::slice::from_ref(&parts.text), false)?;
                }
            }
        }
        let asked = |kind: SignKind| {
            kind == SignKind::Symptom
                || mentioned.iter().any(|&t| self.book.signs[self.book.tests[t].sign].kind == kind)
        };
        let any = !mentioned.is_empty();
        let mut list = Vec::new();
        for (test, entry) in self.book.tests.iter().enumerate() {
            let kind = self.book.signs[entry.sign].kind;
            let here = belongs(self.book, self.car, test);
            if kind == SignKind::Found
                || !here
                || !any
                || !asked(kind)
                || findings.iter().any(|known| known.test == test)
            {
                continue;
            }
            let outcome = usize::from(mentioned.contains(&test));
            let mut by_state = [0.0; MOST_STATES];
            for (state, value) in by_state.iter_mut().enumerate().take(2) {
                *value = entry.table[state][outcome];
            }
            let says = if outcome == 1 { entry.name.clone() } else { format!("not mentioned: {}", entry.name) };
            let evidence = Evidence::Sign(Observation { test, place: 0, by_state });
            list.push(Known { test, target: Target::Engine, outcome: Some(outcome), says, evidence });
        }
        Ok((list, strange))
    }
}

/// Adds up what findings say of faults themselves.
pub fn direct(known: &[Known], instances: usize) -> Vec<f64> {
    let mut sum = vec![0.0; instances];
    for one in known {
        if let Evidence::Faults(list) = &one.evidence {
            for (total, value) in sum.iter_mut().zip(list) {
                *total += value;
            }
        }
    }
    sum
}

/// What findings say of signs.
pub fn observations(known: &[Known]) -> Vec<Observation> {
    known
        .iter()
        .filter_map(|one| match &one.evidence {
            Evidence::Sign(observation) => Some(observation.clone()),
            Evidence::Faults(_) => None,
        })
        .collect()
}
