//! What was measured on a job, judged as the bench judges it now, and what measuring has left to be put right.

use super::Ground;
use crate::bench::{BenchResult, Measured, MeasuredShown, PutRight};
use crate::engine::Engine;
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::suspects::FindingInput;
use crate::suspects::test_belongs;
use crate::trail::{Entry, Finding};
use crate::vehicle::Vehicle;

/// Every measurement that counts, with its verdict. One that the book no longer understands is left out.
pub(super) fn measured_shown(ground: &Ground<'_>) -> Vec<MeasuredShown> {
    ground
        .standing
        .iter()
        .filter_map(|entry| match &entry.finding {
            Finding::Measured(measured) => {
                let result = judged_on(measured, ground.vehicle, ground.engine, ground.knowledge).ok()?;
                Some(MeasuredShown { entry: entry.number, result })
            }
            _ => None,
        })
        .collect()
}

/// What measuring has done to the car, less what was put right since.
pub(super) fn put_right(ground: &Ground<'_>, measured: &[MeasuredShown]) -> Vec<PutRight> {
    measured
        .iter()
        .flat_map(|shown| shown.result.put_right.iter().map(|what| PutRight { entry: shown.entry, what: what.clone() }))
        .filter(|one| {
            !ground.standing.iter().any(|entry| match &entry.finding {
                Finding::Righted { what } => entry.number > one.entry && *what == one.what,
                _ => false,
            })
        })
        .collect()
}

/// Judges a measurement of a vehicle: what it says of the suspects is left to the tests that this vehicle can have.
///
/// # Errors
/// As [`Measured::judge`].
pub fn judged_on(
    measured: &Measured,
    vehicle: &Vehicle,
    engine: &Engine,
    knowledge: &Knowledge,
) -> Result<BenchResult, Refusal> {
    let mut result = measured.judge(engine, knowledge)?;
    result.evidence.retain(|finding| test_belongs(vehicle, engine, &knowledge.book, &finding.test));
    Ok(result)
}

impl Ground<'_> {
    /// What a measurement says of the suspects of this car, with its entry.
    pub(super) fn evidence_of(&self, entry: &Entry) -> Vec<(u32, FindingInput)> {
        let Finding::Measured(measured) = &entry.finding else { return Vec::new() };
        let result = judged_on(measured, self.vehicle, self.engine, self.knowledge);
        result.map_or_else(|_| Vec::new(), |one| one.evidence.into_iter().map(|f| (entry.number, f)).collect())
    }
}
