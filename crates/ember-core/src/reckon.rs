//! The doors: every computation by its name, from JSON to JSON.

use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::bench::resistance::resistance;
use crate::boost::{actuator, boost};
use crate::circuit::circuit;
use crate::codes::codes_json;
use crate::coding::coding;
use crate::decide::decide;
use crate::engine::{Engine, EngineDescription};
use crate::frames::frames;
use crate::knowledge::Knowledge;
use crate::misfire::misfire;
use crate::proof::proof_json;
use crate::refusal::Refusal;
use crate::suspects::suspects;
use crate::swap::plan::swap_plan;
use crate::swap::swap;
use crate::torque::torque;
use crate::trims::trims;
use crate::waveform::waveform_door;

/// The names of all computations, in the order of the alphabet.
pub const NAMES: [&str; 17] = [
    "actuator",
    "boost",
    "circuit",
    "codes",
    "coding",
    "decide",
    "engine",
    "frames",
    "misfire",
    "proof",
    "resistance",
    "suspects",
    "swap",
    "swap-plan",
    "torque",
    "trims",
    "waveform",
];

/// Why a computation gave nothing.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ReckonError {
    #[error("name: there is no computation {0}; there are {names}", names = NAMES.join(", "))]
    UnknownName(String),
    #[error(transparent)]
    Refused(#[from] Refusal),
}

/// Runs the computation `name` on `input`.
///
/// # Errors
/// An unknown name; input of the wrong shape, by field; whatever the computation itself refuses.
///
/// ```
/// use ember_core::{knowledge::Knowledge, reckon::reckon};
///
/// let input = serde_json::json!({
///     "engine": {"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]},
///     "revolutions": 36000, "misfires": {"1": 0, "2": 270, "3": 1},
/// });
/// let result = reckon("misfire", &input, Knowledge::built_in()).unwrap();
/// assert_eq!(result["patterns"][0]["kind"], "single");
/// assert_eq!(result["patterns"][0]["cylinders"], serde_json::json!([2]));
/// ```
pub fn reckon(name: &str, input: &Value, knowledge: &Knowledge) -> Result<Value, ReckonError> {
    Ok(match name {
        "actuator" => written(&actuator(&read(input)?)?),
        "boost" => written(&boost(&read(input)?, knowledge)?),
        "circuit" => written(&circuit(&read(input)?, &knowledge.bench)?),
        "codes" => codes_json(input, &knowledge.codes)?,
        "coding" => written(&coding(&read(input)?, knowledge)?),
        "decide" => written(&decide(&read(input)?, knowledge)?),
        "engine" => written(&Engine::new(&read::<EngineDescription>(input)?)?),
        "frames" => written(&frames(&read(input)?, knowledge)?),
        "misfire" => written(&misfire(&read(input)?, knowledge)?),
        "proof" => proof_json(input, knowledge)?,
        "resistance" => written(&resistance(&read(input)?, &knowledge.bench)?),
        "suspects" => written(&suspects(&read(input)?, knowledge)?),
        "swap" => written(&swap(&read(input)?, knowledge)?),
        "swap-plan" => written(&swap_plan(&read(input)?, knowledge)?),
        "torque" => written(&torque(&read(input)?, knowledge)?),
        "trims" => written(&trims(&read(input)?, knowledge)?),
        "waveform" => written(&waveform_door(&read(input)?, &knowledge.bench)?),
        other => return Err(ReckonError::UnknownName(other.to_owned())),
    })
}

/// Reads a typed input and names the field that does not fit.
pub fn read<T: DeserializeOwned>(input: &Value) -> Result<T, Refusal> {
    serde_path_to_error::deserialize(input).map_err(|error| {
        let path = error.path().to_string();
        let reason = error.into_inner().to_string();
        // serde says "missing field `x`" at the object that lacks it: the field is x.
        let named = reason
            .strip_prefix("missing field `")
            .or_else(|| reason.strip_prefix("unknown field `"))
            .and_then(|rest| rest.split('`').next());
        let field = match (path.as_str(), named) {
            (".", Some(name)) => name.to_owned(),
            (path, Some(name)) if !path.ends_with(name) => format!("{path}.{name}"),
            (".", None) => "input".to_owned(),
            (path, _) => path.to_owned(),
        };
        let reason = if reason.starts_with("missing field") { "is missing".to_owned() } else { reason };
        Refusal::new(field, reason)
    })
}

fn written<T: Serialize>(result: &T) -> Value {
    serde_json::to_value(result).unwrap_or(Value::Null)
}
