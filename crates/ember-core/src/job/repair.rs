//! The repair, and the proof that it was the right one.

use serde::Serialize;
use utoipa::ToSchema;

use super::phases::Opening;
use super::proofs::{self, ProvokedShown, ReadingPair};
use super::{Ground, SwapShown};
use crate::codes::{Code, CodeStatus, ReadCode};
use crate::misfire::{self, Counts};
use crate::proof::{DrivePlan, ProofInput, ProofResult, ScaleProof, proof};
use crate::refusal::Refusal;
use crate::swap::Verdict;
use crate::trail::{Entry, Finding, OldPartFound};

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
    /// The entry that says that the old part is good: then the verdict is open again.
    pub old_part_good: Option<u32>,
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
    /// The same along other scales than kilometres.
    pub scales: Vec<ScaleProof>,
    pub provoked: Option<ProvokedShown>,
    pub readings: Vec<ReadingPair>,
    /// The drive that would prove it, where a map shows where it lived.
    pub drive: Option<DrivePlan>,
    /// How sure it is that the fault is gone, by all of these; null when nothing can be reckoned.
    pub confidence: Option<f64>,
    /// Which of them it rests on.
    pub rests_on: String,
}

/// A part that was fitted, and what became of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FittedShown {
    pub entry: u32,
    pub part: String,
    pub cylinder: Option<u8>,
    /// The entry in which the fault showed again with this part in.
    pub came_back: Option<u32>,
    /// Whether it had to be renewed: by its predecessor, or by what came after. Null where nothing tells.
    pub needed: Option<bool>,
}

/// Every part fitted on the job.
pub(super) fn fitted_shown(ground: &Ground<'_>, proven: bool) -> Vec<FittedShown> {
    let is_fitted = |entry: &&&Entry| matches!(entry.finding, Finding::Fitted { .. });
    let last = ground.standing.iter().filter(is_fitted).map(|entry| entry.number).next_back();
    let mut list = Vec::new();
    for (at, entry) in ground.standing.iter().enumerate() {
        let Finding::Fitted { part, cylinder, .. } = &entry.finding else { continue };
        let until_next = ground.standing[at + 1..].iter().take_while(|later| !is_fitted(later)).count();
        let came_back = first_recurrence(ground, at, at + 1 + until_next);
        let old = old_part(ground, at, entry.number).map(|(_, found)| found);
        let needed = match old {
            Some(OldPartFound::Faulty) => Some(true),
            Some(OldPartFound::Good) => Some(false),
            _ if came_back.is_some() => Some(false),
            _ if proven && Some(entry.number) == last => Some(true),
            _ => None,
        };
        list.push(FittedShown { entry: entry.number, part: part.clone(), cylinder: *cylinder, came_back, needed });
    }
    list
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
    let came_back = first_recurrence(ground, at, ground.standing.len());
    let clean_until_km = later
        .iter()
        .filter(|entry| matches!(entry.finding, Finding::Drive { .. } | Finding::Counts { .. } | Finding::Scan { .. }))
        .map(|entry| entry.odometer_km)
        .fold(opened_by.odometer_km, f64::max);
    let old_part_good = old_part(ground, at, opened_by.number)
        .filter(|(_, found)| *found == OldPartFound::Good)
        .map(|(entry, _)| entry);
    // The new part cured nothing that its predecessor had: only the handling can have.
    let prior = ground.knowledge.proof.prior.get(if old_part_good.is_some() { "handled" } else { prior })?;
    Some(Repair {
        entry: opened_by.number,
        part,
        cylinder,
        repaired_km: opened_by.odometer_km,
        clean_until_km,
        clean_km: clean_until_km - opened_by.odometer_km,
        cleared: later.iter().any(|entry| matches!(entry.finding, Finding::Cleared { .. })),
        came_back,
        old_part_good,
        prior_fixed: prior.fixed,
        prior_because: prior.because.clone(),
    })
}

/// The first entry after the repair, and before another, that shows the fault again.
fn first_recurrence(ground: &Ground<'_>, repaired_at: usize, until: usize) -> Option<u32> {
    ground.standing[repaired_at + 1..until]
        .iter()
        .enumerate()
        .find(|(index, entry)| shows_fault(ground, entry) || same_codes(ground, repaired_at, *index, entry))
        .map(|(_, entry)| entry.number)
}

/// What the part turned out to be that came out for the one fitted in an entry, as it was last said, and where.
fn old_part(ground: &Ground<'_>, fitted_at: usize, number: u32) -> Option<(u32, OldPartFound)> {
    ground.standing[fitted_at + 1..].iter().rev().find_map(|later| match &later.finding {
        Finding::OldPart { fitted, found, .. } if *fitted == number => Some((later.number, *found)),
        _ => None,
    })
}

/// Whether a scan, read after the codes were cleared since the repair, shows a code that was stored before it.
fn same_codes(ground: &Ground<'_>, repaired_at: usize, index: usize, entry: &Entry) -> bool {
    let Finding::Scan { codes, .. } = &entry.finding else { return false };
    let between = &ground.standing[repaired_at + 1..repaired_at + 1 + index];
    let live = |code: &ReadCode| code.status != Some(CodeStatus::History);
    between.iter().any(|e| matches!(e.finding, Finding::Cleared { .. }))
        && codes.iter().filter(|code| live(code)).any(|now| {
            ground.standing[..repaired_at].iter().any(|before| match &before.finding {
                Finding::Scan { codes, .. } => codes.iter().any(|then| live(then) && then.code == now.code),
                _ => false,
            })
        })
}

/// Whether an entry after the repair shows that the fault is still there.
fn shows_fault(ground: &Ground<'_>, entry: &Entry) -> bool {
    match &entry.finding {
        Finding::Occurred { .. } => true,
        Finding::Provoked { hits, .. } => *hits > 0.0,
        Finding::SameReading { what, wanted, got, .. } => {
            let within = ground.knowledge.proof.same_reading.within_pct;
            // A reading that lacked something before and lacks it still.
            proofs::falls_short(*wanted, *got, within)
                && ground.standing.iter().take_while(|e| e.number != entry.number).any(|e| {
                    matches!(&e.finding, Finding::SameReading { what: before, wanted, got, .. }
                        if before == what && proofs::falls_short(*wanted, *got, within))
                })
        }
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
    let provoked = proofs::provoked(ground, repair);
    let readings = proofs::readings(ground, repair);
    let by_readings = proofs::readings_silence(ground, repair, &readings);
    // Attempts and readings first: what they say holds on every scale.
    let prior_fixed = proofs::after_attempts(repair.prior_fixed, provoked.as_ref(), by_readings);
    let input = ProofInput {
        observed_from,
        occurrences: occurrences.clone(),
        repaired: repair.repaired_km,
        clean_until: repair.clean_until_km,
        prior_fixed,
    };
    let enough_at = ground.knowledge.proof.enough.confidence;
    let (result, refused) = match (repair.came_back, proof(&input, ground.knowledge)) {
        (Some(entry), _) => (None, Some(Refusal::new("clean_until", format!("the fault came back, entry {entry}")))),
        (None, Ok(result)) => (Some(result), None),
        (None, Err(refusal)) => (None, Some(refusal)),
    };
    let back = repair.came_back.is_some();
    let scales = if back { Vec::new() } else { proofs::scales(ground, repair, prior_fixed) };
    let drive = if back { None } else { proofs::drive(ground, repair, prior_fixed, enough_at) };
    let tried = provoked.as_ref().is_some_and(|shown| shown.attempts_after > 0.0) || by_readings < 1.0;
    let (confidence, rests_on) = if back {
        (None, String::new())
    } else {
        overall(repair, result.as_ref(), occurrences.len(), &scales, drive.as_ref(), tried.then_some(prior_fixed))
    };
    ProofShown {
        observed_from_km: observed_from,
        watched_km: repair.repaired_km - observed_from,
        occurrences_km: occurrences,
        repaired_km: repair.repaired_km,
        clean_until_km: repair.clean_until_km,
        enough: confidence.is_some_and(|confidence| confidence >= enough_at),
        enough_at,
        further_km: result.as_ref().map(|r| r.further_for_enough),
        result,
        refused,
        scales,
        provoked,
        readings,
        drive,
        confidence,
        rests_on,
    }
}

/// One silence seen along several scales is one silence: it counts once, on the scale on which the fault was seen most
/// often, and of two alike on the one that is less sure. Where a map shows where it lived and that was driven since, only
/// that counts: silence elsewhere says nothing.
fn overall(
    repair: &Repair,
    km: Option<&ProofResult>,
    seen: usize,
    scales: &[ScaleProof],
    drive: Option<&DrivePlan>,
    tried: Option<f64>,
) -> (Option<f64>, String) {
    if let Some(plan) = drive.filter(|plan| plan.cells.iter().any(|cell| cell.driven_minutes > 0.0)) {
        return (Some(plan.confidence), "the drive through the cells where it lived".into());
    }
    let of_km = km.map(|result| (seen, result.confidence, format!("{:.0} km without it", repair.clean_km)));
    let of_scales = scales.iter().filter_map(|one| {
        let words = format!("{} {} without it", short(one.clean), one.unit);
        one.result.as_ref().map(|result| (one.occurrences, result.confidence, words))
    });
    let leading = of_km.into_iter().chain(of_scales).max_by(|a, b| a.0.cmp(&b.0).then(b.1.total_cmp(&a.1)));
    match (leading, tried) {
        (Some((_, confidence, words)), Some(_)) => (Some(confidence), format!("attempts and readings, and {words}")),
        (Some((_, confidence, words)), None) => (Some(confidence), words),
        (None, Some(confidence)) => (Some(confidence), "attempts and readings".into()),
        (None, None) => (None, String::new()),
    }
}

/// At most one decimal.
fn short(value: f64) -> String {
    let text = format!("{value:.1}");
    text.trim_end_matches(".0").to_owned()
}
