//! The one error of the core: an input that cannot be reckoned with, by field and reason.

use serde::Serialize;
use utoipa::ToSchema;

/// A refused input: which field, and what is wrong with it.
///
/// The field is a path as a person would point at it (`engine.firing_order`, `misfires.3`). The reason is one
/// sentence without a full stop that can stand alone beside the field on a screen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema, thiserror::Error)]
#[error("{field}: {reason}")]
pub struct Refusal {
    pub field: String,
    pub reason: String,
}

impl Refusal {
    pub fn new(field: impl Into<String>, reason: impl Into<String>) -> Self {
        Refusal { field: field.into(), reason: reason.into() }
    }

    /// The same refusal, seen from one level further out: `firing_order` becomes `engine.firing_order`.
    pub fn within(self, outer: &str) -> Self {
        let field = if self.field.is_empty() { outer.to_owned() } else { format!("{outer}.{}", self.field) };
        Refusal { field, ..self }
    }
}

/// A whole number of events that arrived as a JSON number.
///
/// Errors: not finite, negative, or not whole. Counts are read as numbers and checked here, so that `2.5` gets
/// a sentence and not a parser's complaint about types.
pub fn whole_count(field: &str, value: f64) -> Result<f64, Refusal> {
    if !value.is_finite() {
        return Err(Refusal::new(field, "must be a finite number"));
    }
    if value < 0.0 {
        return Err(Refusal::new(field, format!("a count cannot be negative, and this is {value}")));
    }
    if value.fract() != 0.0 {
        return Err(Refusal::new(field, format!("a count is a whole number, and this is {value}")));
    }
    Ok(value)
}

/// An amount that must be above zero and finite.
pub fn above_zero(field: &str, value: f64) -> Result<f64, Refusal> {
    if !value.is_finite() {
        return Err(Refusal::new(field, "must be a finite number"));
    }
    if value <= 0.0 {
        return Err(Refusal::new(field, format!("must be above zero, and this is {value}")));
    }
    Ok(value)
}
