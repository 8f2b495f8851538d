//! What tests of readings share: a door by its name, and parts of an input put in the place of others.

use ember_core::knowledge::Knowledge;
use ember_core::reckon::{ReckonError, reckon};
use ember_core::refusal::Refusal;
use serde_json::Value;

/// Asks a door.
#[allow(dead_code, reason = "each test uses its part of these")]
pub fn door(name: &str, input: &Value) -> Result<Value, Refusal> {
    reckon(name, input, Knowledge::built_in()).map_err(|error| match error {
        ReckonError::Refused(refusal) => refusal,
        other => panic!("{other}"),
    })
}

#[allow(dead_code, reason = "each test uses its part of these")]
/// An input with parts of it in the place of others, by their JSON pointer.
pub fn with(mut input: Value, changes: &[(&str, Value)]) -> Value {
    for (pointer, value) in changes {
        let (parent, name) = pointer.rsplit_once('/').unwrap();
        let parent = input.pointer_mut(parent).unwrap_or_else(|| panic!("nothing at {pointer}"));
        match name.parse::<usize>() {
            Ok(index) if parent.is_array() => parent[index] = value.clone(),
            _ => parent[name] = value.clone(),
        }
    }
    input
}

#[allow(dead_code, reason = "each test uses its part of these")]
pub fn number(value: &Value) -> f64 {
    value.as_f64().unwrap_or_else(|| panic!("{value} is no number"))
}
