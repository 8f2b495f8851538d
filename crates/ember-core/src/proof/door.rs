//! The proof's JSON: the same figures on whichever scale the field names carry.

use serde::de::DeserializeOwned;
use serde_json::{Map, Value, json};

use super::{Cell, ProofInput, checked_prior, confident, map_silence, proof, provoked_silence};
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;

/// The scales along which occurrences may be noted, as the ending of the field names.
const SCALES: [&str; 4] = ["km", "h", "rev", "starts"];
const ALONG_A_SCALE: [&str; 4] = ["observed_from", "occurrences", "repaired", "clean_until"];

/// Reads the input with its units, reckons, and writes the output with the same unit in its names.
///
/// Three shapes: along a scale (`observed_from_km`, `occurrences_km`, `repaired_km`, `clean_until_km`; likewise `_h`,
/// `_rev`, `_starts`), by provocation (`provoked_before`, `attempts_before`, `attempts_after`), or with a map of
/// where it misfired (`cells`). Each with `prior_fixed`.
///
/// # Errors
/// What [`proof`], [`provoked_silence`] and [`map_silence`] refuse; mixed scales; fields that are unknown or missing.
pub fn proof_json(input: &Value, knowledge: &Knowledge) -> Result<Value, Refusal> {
    let fields = input.as_object().ok_or_else(|| Refusal::new("", "the input must be a JSON object"))?;
    let prior = checked_prior(number(fields, "prior_fixed")?)?;
    if fields.contains_key("cells") {
        only(fields, &["cells", "prior_fixed"])?;
        let cells: Vec<Cell> = typed(&fields["cells"], "cells")?;
        return Ok(silent(prior, map_silence(&cells)?));
    }
    if fields.contains_key("provoked_before") || fields.contains_key("attempts_before") {
        only(fields, &["provoked_before", "attempts_before", "attempts_after", "prior_fixed"])?;
        let silence = provoked_silence(
            number(fields, "provoked_before")?,
            number(fields, "attempts_before")?,
            number(fields, "attempts_after")?,
        )?;
        return Ok(silent(prior, silence));
    }
    let scale = scale_of(fields)?;
    let named = |name: &str| format!("{name}_{scale}");
    let known: Vec<String> = ALONG_A_SCALE.iter().map(|name| named(name)).chain(["prior_fixed".into()]).collect();
    only(fields, &known.iter().map(String::as_str).collect::<Vec<_>>())?;
    let occurrences = named("occurrences");
    let list = fields.get(&occurrences).ok_or_else(|| Refusal::new(&occurrences, "is missing"))?;
    let read = ProofInput {
        observed_from: number(fields, &named("observed_from"))?,
        occurrences: typed(list, &occurrences)?,
        repaired: number(fields, &named("repaired"))?,
        clean_until: number(fields, &named("clean_until"))?,
        prior_fixed: prior,
    };
    let result = proof(&read, knowledge).map_err(|refusal| {
        let with_unit = ALONG_A_SCALE.contains(&refusal.field.as_str());
        Refusal { field: if with_unit { named(&refusal.field) } else { refusal.field }, ..refusal }
    })?;
    Ok(json!({
        "trend": result.trend,
        "shape": result.shape,
        "silence_by_chance": result.silence_by_chance,
        "confidence": result.confidence,
        named("further_for_95"): result.further_for_95,
        named("further_for_99"): result.further_for_99,
        named("reached_95_after"): result.reached_95_after,
        named("reached_99_after"): result.reached_99_after,
        "says": result.says,
    }))
}

fn silent(prior: f64, silence: f64) -> Value {
    json!({ "silence_by_chance": silence, "confidence": confident(prior, silence) })
}

fn typed<T: DeserializeOwned>(value: &Value, field: &str) -> Result<T, Refusal> {
    serde_path_to_error::deserialize(value).map_err(|error| {
        let inner = error.path().to_string();
        let field = match inner.as_str() {
            "." => field.to_owned(),
            path if path.starts_with('[') => format!("{field}{path}"),
            path => format!("{field}.{path}"),
        };
        Refusal::new(field, error.into_inner().to_string())
    })
}

fn number(fields: &Map<String, Value>, name: &str) -> Result<f64, Refusal> {
    let value = fields.get(name).ok_or_else(|| Refusal::new(name, "is missing"))?;
    value.as_f64().ok_or_else(|| Refusal::new(name, format!("must be a number, and this is {value}")))
}

fn only(fields: &Map<String, Value>, known: &[&str]) -> Result<(), Refusal> {
    match fields.keys().find(|name| !known.contains(&name.as_str())) {
        None => Ok(()),
        Some(name) => Err(Refusal::new(name, format!("is not known here; known are {}", known.join(", ")))),
    }
}

/// The one scale that all fields agree on.
fn scale_of(fields: &Map<String, Value>) -> Result<&'static str, Refusal> {
    let scale_in = |name: &str| {
        ALONG_A_SCALE
            .iter()
            .find_map(|stem| name.strip_prefix(stem)?.strip_prefix('_'))
            .and_then(|ending| SCALES.into_iter().find(|scale| *scale == ending))
    };
    let mut found: Option<(&'static str, &String)> = None;
    for name in fields.keys() {
        if let Some(scale) = scale_in(name) {
            match found {
                Some((first, other)) if first != scale => {
                    return Err(Refusal::new(name, format!("{other} is on another scale: all must be in one unit")));
                }
                _ => found = Some((scale, name)),
            }
        }
    }
    found.map(|(scale, _)| scale).ok_or_else(|| {
        Refusal::new(
            "observed_from_km",
            "is missing: give observed_from, occurrences, repaired and clean_until in _km, _h, _rev or _starts",
        )
    })
}
