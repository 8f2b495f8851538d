//! What one drive showed at each position: counts over an exposure, or codes.

use std::collections::{BTreeMap, BTreeSet};

use super::{Position, SwapSide};
use crate::codes;
use crate::misfire::Counts;
use crate::refusal::{Refusal, above_zero, whole_count};

/// What counts are counted over.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Measure {
    Revolutions,
    Km,
    Attempts,
}

impl Measure {
    pub fn noun(self) -> &'static str {
        match self {
            Measure::Revolutions => "revolutions",
            Measure::Km => "kilometres",
            Measure::Attempts => "attempts",
        }
    }
}

/// Events at each position over a common exposure (firings, kilometres or attempts).
#[derive(Debug, Clone, PartialEq)]
pub(super) struct CellCounts {
    pub exposure: f64,
    pub events: Vec<f64>,
}

/// Which positions the codes name.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct CellCodes {
    pub named: BTreeSet<usize>,
    /// A code for misfires that names no cylinder.
    pub random: bool,
}

#[derive(Debug, Clone, PartialEq)]
pub(super) struct Evidence {
    pub measure: Option<Measure>,
    pub counts: Option<CellCounts>,
    pub codes: Option<CellCodes>,
}

impl Evidence {
    pub fn new(position: &Position, side: &SwapSide) -> Result<Evidence, Refusal> {
        match position {
            Position::Cylinders(engine) => {
                for (given, name) in [
                    (side.occurrences.is_some(), "occurrences"),
                    (side.km.is_some(), "km"),
                    (side.attempts.is_some(), "attempts"),
                ] {
                    if given {
                        return Err(Refusal::new(
                            name,
                            "belongs to named places; cylinders are counted over revolutions",
                        ));
                    }
                }
                let counts = match (side.revolutions, &side.misfires) {
                    (Some(revolutions), Some(misfires)) => {
                        let counts = Counts::new(engine, revolutions, misfires)?;
                        Some(CellCounts { exposure: counts.firings, events: counts.misfires })
                    }
                    (None, Some(_)) => {
                        return Err(Refusal::new("revolutions", "is missing: a count means nothing without them"));
                    }
                    (Some(revolutions), None) => {
                        above_zero("revolutions", revolutions)?;
                        return Err(Refusal::new("misfires", "is missing"));
                    }
                    (None, None) => None,
                };
                let codes = side.codes.as_deref().map(|list| named_cylinders(position, list)).transpose()?;
                if counts.is_none() && codes.is_none() {
                    return Err(Refusal::new("misfires", "is missing: give counts over revolutions, or the codes"));
                }
                Ok(Evidence { measure: counts.as_ref().map(|_| Measure::Revolutions), counts, codes })
            }
            Position::Named(places) => {
                if side.revolutions.is_some() || side.misfires.is_some() || side.codes.is_some() {
                    return Err(Refusal::new("occurrences", "named places take occurrences over km or attempts"));
                }
                let (measure, exposure) = match (side.km, side.attempts) {
                    (Some(km), None) => (Measure::Km, above_zero("km", km)?),
                    (None, Some(attempts)) => (Measure::Attempts, above_zero("attempts", attempts)?),
                    (Some(_), Some(_)) => return Err(Refusal::new("attempts", "give km or attempts, not both")),
                    (None, None) => {
                        return Err(Refusal::new("km", "is missing: over how many km or attempts was watched"));
                    }
                };
                let occurrences = side.occurrences.as_ref().ok_or_else(|| Refusal::new("occurrences", "is missing"))?;
                let events = events(places, occurrences, measure, exposure)?;
                Ok(Evidence { measure: Some(measure), counts: Some(CellCounts { exposure, events }), codes: None })
            }
        }
    }
}

fn events(
    places: &[String],
    occurrences: &BTreeMap<String, f64>,
    measure: Measure,
    exposure: f64,
) -> Result<Vec<f64>, Refusal> {
    for (name, &count) in occurrences {
        let field = format!("occurrences.{name}");
        if !places.iter().any(|place| place == name.trim()) {
            return Err(Refusal::new(field, "is not one of the places"));
        }
        let count = whole_count(&field, count)?;
        if measure == Measure::Attempts && count > exposure {
            return Err(Refusal::new(field, format!("{count} times in {exposure} attempts cannot be")));
        }
    }
    places
        .iter()
        .map(|place| {
            occurrences.iter().find(|(name, _)| name.trim() == place).map(|(_, &count)| count).ok_or_else(|| {
                Refusal::new(format!("occurrences.{place}"), "this place is left out; write 0 if nothing occurred")
            })
        })
        .collect()
}

/// The cylinders that the codes name. A coil letter is not taken for a cylinder: makers letter their coils as they like.
fn named_cylinders(position: &Position, list: &[String]) -> Result<CellCodes, Refusal> {
    let mut found = CellCodes { named: BTreeSet::new(), random: false };
    for (index, text) in list.iter().enumerate() {
        let code = codes::Code::parse(text).map_err(|reason| Refusal::new(format!("codes[{index}]"), reason))?;
        found.random |= code.is_random_misfire();
        if let Some(cylinder) = code.cylinder() {
            let cell = position
                .cell(&super::PlaceName::Cylinder(cylinder))
                .map_err(|reason| Refusal::new(format!("codes[{index}]"), reason))?;
            found.named.insert(cell);
        }
    }
    Ok(found)
}
