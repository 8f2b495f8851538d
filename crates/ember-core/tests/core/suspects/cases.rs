//! The written cases of `knowledge/cases`, as the tests use them.

use std::collections::BTreeMap;

use ember_core::engine::EngineDescription;
use ember_core::suspects::target::Target;
use ember_core::suspects::{ComplaintInput, ComplaintParts, FindingInput, SuspectVehicle, SuspectsInput};
use serde::Deserialize;

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Written {
    pub name: String,
    pub vehicle: String,
    /// `fault@target`; two for a car with two faults.
    pub cause: Vec<String>,
    pub symptoms: Vec<String>,
    pub circumstances: Vec<String>,
    pub history: Vec<String>,
    /// Test, target, outcome.
    pub findings: Vec<[String; 3]>,
}

#[derive(Deserialize)]
struct File {
    case: Vec<Written>,
}

pub fn all() -> Vec<Written> {
    let file: File = toml::from_str(include_str!("../../../../../knowledge/cases/cases.toml")).unwrap();
    file.case
}

pub fn vehicles() -> BTreeMap<String, EngineDescription> {
    toml::from_str(include_str!("../../../../../knowledge/cases/vehicles.toml")).unwrap()
}

pub fn car(engine: &EngineDescription) -> SuspectVehicle {
    serde_json::from_value(serde_json::json!({ "engine": engine })).unwrap()
}

pub fn input(vehicle: SuspectVehicle, complaint: ComplaintParts) -> SuspectsInput {
    let mut input: SuspectsInput =
        serde_json::from_value(serde_json::json!({ "vehicle": serde_json::to_value(&vehicle).unwrap() })).unwrap();
    input.complaint = ComplaintInput::Full(complaint);
    input
}

pub fn finding(test: &str, target: &str, outcome: &str) -> FindingInput {
    FindingInput {
        test: test.into(),
        target: Some(Target::parse(target).unwrap()),
        outcome: Some(outcome.into()),
        likelihood: None,
        says: None,
    }
}

impl Written {
    pub fn complaint(&self) -> ComplaintParts {
        ComplaintParts {
            symptoms: self.symptoms.clone(),
            circumstances: self.circumstances.clone(),
            history: self.history.clone(),
            ..ComplaintParts::default()
        }
    }

    /// The case with the first findings, as far as they are known.
    pub fn with_findings(&self, vehicles: &BTreeMap<String, EngineDescription>, known: usize) -> SuspectsInput {
        let mut input = input(car(&vehicles[&self.vehicle]), self.complaint());
        input.findings = self.findings[..known].iter().map(|[t, at, o]| finding(t, at, o)).collect();
        input
    }
}
