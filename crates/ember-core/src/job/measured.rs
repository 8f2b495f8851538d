//! What was measured on a job, judged as the bench judges it now, and what measuring has left to be put right.

use super::Ground;
use crate::bench::{BenchResult, Measured, MeasuredShown, MeasuredWhere, PutRight};
use crate::engine::Engine;
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::suspects::test_belongs;
use crate::trail::{Entry, Finding, Need, NeedState};
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
    let done = measured.iter().map(|shown| (shown.entry, shown.result.put_right.as_slice()));
    still_open(&ground.standing, done)
}

/// As the state of the job has it, for whoever only holds the trail.
pub(crate) fn put_right_of(standing: &[&Entry], engine: &Engine) -> Vec<PutRight> {
    let judged: Vec<(u32, BenchResult)> = standing
        .iter()
        .filter_map(|entry| match &entry.finding {
            Finding::Measured(measured) => Some((entry.number, measured.judge(engine, Knowledge::built_in()).ok()?)),
            _ => None,
        })
        .collect();
    still_open(standing, judged.iter().map(|(entry, result)| (*entry, result.put_right.as_slice())))
}

fn still_open<'a>(standing: &[&Entry], done: impl Iterator<Item = (u32, &'a [String])>) -> Vec<PutRight> {
    done.flat_map(|(entry, list)| list.iter().map(move |what| PutRight { entry, what: what.clone() }))
        .filter(|one| {
            !standing.iter().any(|entry| match &entry.finding {
                Finding::Righted { what } => entry.number > one.entry && *what == one.what,
                _ => false,
            })
        })
        .collect()
}

/// What a measurement says of a need of the engine.
pub(super) struct NeedMeasured {
    pub need: Need,
    pub state: NeedState,
    pub says: String,
    pub entry: u32,
}

/// The needs that measurements prove or show lacking: what they say with near certainty counts as the outcome of the
/// book's test. A new part before fitting and an old one on the bench say nothing of the engine as it stands.
pub(super) fn needs_measured(ground: &Ground<'_>, measured: &[MeasuredShown]) -> Vec<NeedMeasured> {
    let proves = ground.knowledge.bench.weight.proves;
    let in_place = |shown: &&MeasuredShown| {
        ground.standing.iter().any(|entry| {
            entry.number == shown.entry
                && matches!(&entry.finding, Finding::Measured(one) if one.place == MeasuredWhere::InPlace)
        })
    };
    let mut list = Vec::new();
    for shown in measured.iter().filter(in_place) {
        for finding in &shown.result.evidence {
            let Some(test) = ground.knowledge.book.test(&finding.test) else { continue };
            let likely = finding.likelihood.iter().flatten().find(|(_, share)| **share >= proves);
            let Some(outcome) = likely.and_then(|(name, _)| test.outcome(name)).map(|at| &test.outcomes[at]) else {
                continue;
            };
            for (needs, state) in [(&outcome.proves, NeedState::Proven), (&outcome.lacks, NeedState::Missing)] {
                list.extend(needs.iter().map(|&need| NeedMeasured {
                    need,
                    state,
                    says: finding.says.clone().unwrap_or_else(|| shown.result.says.clone()),
                    entry: shown.entry,
                }));
            }
        }
    }
    list
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
