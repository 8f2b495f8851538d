//! The repair, and the proof that it was the right one.

use serde::Serialize;
use utoipa::ToSchema;

use super::phases::Opening;
use super::{Ground, SwapShown};
use crate::codes::Code;
use crate::misfire::{self, Counts};
use crate::proof::{ProofInput, ProofResult, proof};
use crate::refusal::Refusal;
use crate::swap::Verdict;
use crate::trail::{Entry, Finding};

/// What was done to end the fault, and what came after it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Repair {
    pub entry: u32,
    /// Null when nothing was replaced and only the handling may have mended it.
    pub part: Option<String>,
    pub cylinder: Option<u8>,
    pub repaired_km: f64,
    /// The last reading up to which the car is known to have run clean.
    pub clean_until_km: f64,
    /// The distance run clean since.
    pub clean_km: f64,
    /// Codes were cleared after the repair.
    pub cleared: bool,
    /// The entry in which the fault showed again.
    pub came_back: Option<u32>,
    /// How sure the repair is before any distance, and why.
    pub prior_fixed: f64,
    pub prior_because: String,
}

/// The proof, or what is missing for one.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ProofShown {
    pub observed_from_km: f64,
    /// The distance over which it was watched before the repair.
    pub watched_km: f64,
    pub occurrences_km: Vec<f64>,
    pub repaired_km: f64,
    pub clean_until_km: f64,
    pub result: Option<ProofResult>,
    pub refused: Option<Refusal>,
    /// Whether the confidence is what counts as enough.
    pub enough: bool,
    /// The confidence that counts as enough.
    pub enough_at: f64,
    /// Distance still to drive for it.
    pub further_km: Option<f64>,
}

pub(super) fn last_repair(ground: &Ground<'_>, swaps: &[SwapShown]) -> Option<Repair> {
    let fitted = ground.phases.iter().rev().find(|p| matches!(p.opening, Opening::Fitted { .. }));
    let last_swap = swaps.last();
    let decided = last_swap.and_then(|s| s.result.as_ref()).filter(|r| r.decided);
    let (phase, part, cylinder, prior) = match fitted {
        Some(phase) => {
            let Opening::Fitted { part, cylinder, .. } = &phase.opening else { return None };
            let condemned = decided.is_some_and(|r| r.verdict == Verdict::Moved && r.part.as_deref() == Some(part));
            (phase, Some(part.clone()), *cylinder, if condemned { "moved" } else { "unproven" })
        }
        None => {
            let gone = decided.filter(|r| r.verdict == Verdict::Gone).and(last_swap)?;
            let phase = ground.phases.iter().find(|p| p.opened_by.is_some_and(|e| e.number == gone.entry))?;
            (phase, None, None, "handled")
        }
    };
    let opened_by = phase.opened_by?;
    let at = ground.standing.iter().position(|e| e.number == opened_by.number)?;
    let later = &ground.standing[at + 1..];
    let came_back = later.iter().find(|entry| shows_fault(ground, entry)).map(|entry| entry.number);
    let clean_until_km = later
        .iter()
        .filter(|entry| matches!(entry.finding, Finding::Drive { .. } | Finding::Counts { .. } | Finding::Scan { .. }))
        .map(|entry| entry.odometer_km)
        .fold(opened_by.odometer_km, f64::max);
    let prior = ground.knowledge.proof.prior.get(prior)?;
    Some(Repair {
        entry: opened_by.number,
        part,
        cylinder,
        repaired_km: opened_by.odometer_km,
        clean_until_km,
        clean_km: clean_until_km - opened_by.odometer_km,
        cleared: later.iter().any(|entry| matches!(entry.finding, Finding::Cleared { .. })),
        came_back,
        prior_fixed: prior.fixed,
        prior_because: prior.because.clone(),
    })
}

/// Whether an entry after the repair shows that the fault is still there.
fn shows_fault(ground: &Ground<'_>, entry: &Entry) -> bool {
    match &entry.finding {
        Finding::Occurred { .. } => true,
        Finding::Counts { revolutions, misfires, .. } => {
            Counts::new(ground.engine, *revolutions, misfires).is_ok_and(|counts| {
                let result = misfire::of_counts(ground.engine, &counts, &[], ground.knowledge);
                result.decided && !result.group.cylinders.is_empty()
            })
        }
        Finding::Scan { codes, .. } => codes
            .iter()
            .filter_map(|read| Code::parse(&read.code).ok())
            .any(|code| code.is_random_misfire() || (code.to_string().starts_with("P03") && code.cylinder().is_some())),
        _ => false,
    }
}

pub(super) fn proof_shown(ground: &Ground<'_>, repair: &Repair) -> ProofShown {
    let mut observed_from = None;
    let mut occurrences: Vec<f64> = Vec::new();
    for entry in ground.standing.iter().filter(|e| e.odometer_km <= repair.repaired_km) {
        match &entry.finding {
            Finding::Complaint { observed_from_km, occurrences_km, .. } => {
                observed_from = observed_from_km.or(observed_from);
                occurrences.extend(occurrences_km);
            }
            Finding::Occurred { .. } => occurrences.push(entry.odometer_km),
            _ => {}
        }
    }
    occurrences.sort_by(f64::total_cmp);
    // Without a start, the observation began with the first reading on the trail.
    let observed_from = observed_from.unwrap_or_else(|| ground.standing.first().map_or(0.0, |e| e.odometer_km));
    let input = ProofInput {
        observed_from,
        occurrences: occurrences.clone(),
        repaired: repair.repaired_km,
        clean_until: repair.clean_until_km,
        prior_fixed: repair.prior_fixed,
    };
    let enough_at = ground.knowledge.proof.enough.confidence;
    let (result, refused) = match (repair.came_back, proof(&input, ground.knowledge)) {
        (Some(entry), _) => (None, Some(Refusal::new("clean_until", format!("the fault came back, entry {entry}")))),
        (None, Ok(result)) => (Some(result), None),
        (None, Err(refusal)) => (None, Some(refusal)),
    };
    ProofShown {
        observed_from_km: observed_from,
        watched_km: repair.repaired_km - observed_from,
        occurrences_km: occurrences,
        repaired_km: repair.repaired_km,
        clean_until_km: repair.clean_until_km,
        enough: result.as_ref().is_some_and(|r| r.confidence >= enough_at),
        enough_at,
        further_km: result.as_ref().map(|r| r.further_for_enough),
        result,
        refused,
    }
}
