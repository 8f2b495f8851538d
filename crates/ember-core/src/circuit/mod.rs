//! A circuit under the meter: its pins, its path, the voltage it loses, its diode, and the travel of what hangs on it.

pub mod diode;
pub mod path;
pub mod pins;
pub mod sweep;
pub mod voltage;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::bench::knowledge::BenchKnowledge;
use crate::refusal::Refusal;

use diode::{DiodeInput, DiodeResult, diode};
use path::{PathInput, PathResult, path};
use pins::{PinsInput, PinsResult, pins};
use sweep::{SweepInput, SweepResult, sweep};
use voltage::{DropInput, DropResult, VoltagesInput, VoltagesResult, drop_under_load, voltages};

/// What was measured of a circuit; at least one of these.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct CircuitInput {
    pub pins: Option<PinsInput>,
    pub path: Option<PathInput>,
    pub voltages: Option<VoltagesInput>,
    pub drop: Option<DropInput>,
    pub diode: Option<DiodeInput>,
    pub sweep: Option<SweepInput>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CircuitResult {
    pub pins: Option<PinsResult>,
    pub path: Option<PathResult>,
    pub voltages: Option<VoltagesResult>,
    pub drop: Option<DropResult>,
    pub diode: Option<DiodeResult>,
    pub sweep: Option<SweepResult>,
}

/// Judges whatever was measured of a circuit.
///
/// # Errors
/// Nothing was measured; whatever the pieces refuse, under their names.
pub fn circuit(input: &CircuitInput, knowledge: &BenchKnowledge) -> Result<CircuitResult, Refusal> {
    if *input == CircuitInput::default() {
        return Err(Refusal::new("pins", "nothing was measured: pins, path, voltages, drop, diode or sweep"));
    }
    fn part<I, O>(
        name: &str,
        input: Option<&I>,
        knowledge: &BenchKnowledge,
        judge: impl Fn(&I, &BenchKnowledge) -> Result<O, Refusal>,
    ) -> Result<Option<O>, Refusal> {
        input.map(|one| judge(one, knowledge).map_err(|refusal| refusal.within(name))).transpose()
    }
    Ok(CircuitResult {
        pins: part("pins", input.pins.as_ref(), knowledge, pins)?,
        path: part("path", input.path.as_ref(), knowledge, path)?,
        voltages: part("voltages", input.voltages.as_ref(), knowledge, voltages)?,
        drop: part("drop", input.drop.as_ref(), knowledge, drop_under_load)?,
        diode: part("diode", input.diode.as_ref(), knowledge, |one, _| diode(one))?,
        sweep: part("sweep", input.sweep.as_ref(), knowledge, sweep)?,
    })
}

/// A voltage that a vehicle's low-voltage net can have.
pub(crate) fn volt(field: &str, value: f64) -> Result<f64, Refusal> {
    if !value.is_finite() || !(-60.0..=60.0).contains(&value) {
        return Err(Refusal::new(field, "must lie between -60 and 60 V: high voltage is not measured here"));
    }
    Ok(value)
}

/// How a reading stands to what it should be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Judged {
    Good,
    Bad,
    CannotTell,
}
