//! What was measured on a job, judged as the bench judges it now, and what measuring has left to be put right.

use super::Ground;
use crate::bench::{MeasuredShown, PutRight};
use crate::suspects::FindingInput;
use crate::suspects::test_belongs;
use crate::trail::{Entry, Finding};

/// Every measurement that counts, with its verdict. One that the book no longer understands is left out.
pub(super) fn measured_shown(ground: &Ground<'_>) -> Vec<MeasuredShown> {
    ground
        .standing
        .iter()
        .filter_map(|entry| match &entry.finding {
            Finding::Measured(measured) => {
                let result = measured.judge(ground.engine, ground.knowledge).ok()?;
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

impl Ground<'_> {
    /// What a measurement says of the suspects of this car, with its entry.
    pub(super) fn evidence_of(&self, entry: &Entry) -> Vec<(u32, FindingInput)> {
        let Finding::Measured(measured) = &entry.finding else { return Vec::new() };
        let Ok(result) = measured.judge(self.engine, self.knowledge) else { return Vec::new() };
        let belongs = |finding: &FindingInput| test_belongs(self.vehicle, self.engine, &self.knowledge.book, &finding.test);
        result.evidence.into_iter().filter(belongs).map(|finding| (entry.number, finding)).collect()
    }
}
