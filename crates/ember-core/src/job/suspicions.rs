//! What a job's trail says of its suspects: every entry that says anything becomes a finding.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Ground, MisfireShown, Repair, SwapShown};
use crate::bench::MeasuredShown;
use crate::codes::{Code, CodeStatus, ReadCode};
use crate::engine::Injection;
use crate::misfire::CylinderRate;
use crate::suspects::memory::WorkshopOwn;
use crate::suspects::schools::School;
use crate::suspects::target::Target;
use crate::suspects::{
    ComplaintInput, ComplaintParts, Depth, FindingInput, Replaced, SuspectVehicle, SuspectsInput, SuspectsResult,
    suspects_to,
};
use crate::swap::{PlaceName, SwapResult, Verdict};
use crate::trail::Finding;

/// Under which limits the work goes on: the last entry about them counts.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Limits {
    /// Nobody is there to help.
    pub alone: bool,
    /// Tests that cannot be made here, and tools that are not there.
    pub cannot: Vec<String>,
    /// Minutes until the car must be back, as they were when this was written; tests since then are taken off.
    pub minutes_left: Option<f64>,
    pub school: School,
}

/// The suspects of a job, with what they were reckoned from.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SuspectsShown {
    pub result: SuspectsResult,
    /// For each finding the entry it comes from.
    pub entries: Vec<u32>,
    /// What is off the car now.
    pub off: Vec<String>,
    pub limits: Limits,
}

/// Suspects fainter than this are not carried along with a job.
const FAINT: f64 = 0.002;

/// A finding with the entry that it comes from.
type From = (u32, FindingInput);

/// Reckons the suspects of a job. `None` where the book refuses what stands on the trail, which only a trail from
/// another workshop with another book can bring about: its findings are then left out one by one.
pub(super) fn suspects_shown(
    ground: &Ground<'_>,
    misfire: Option<&MisfireShown>,
    swaps: &[SwapShown],
    repair: Option<&Repair>,
    measured: &[MeasuredShown],
    own: &WorkshopOwn,
    depth: Depth,
) -> Option<SuspectsShown> {
    let mut found: Vec<From> = Vec::new();
    for entry in &ground.standing {
        match &entry.finding {
            Finding::Tested { test, target, outcome, .. } => {
                found.push((entry.number, FindingInput::sure(test, target.clone(), outcome)));
            }
            Finding::Measured(_) => {
                let shown = measured.iter().filter(|shown| shown.entry == entry.number);
                found.extend(shown.flat_map(|one| &one.result.evidence).map(|one| (entry.number, one.clone())));
            }
            Finding::Recording { results, .. } => {
                found.extend(results.iter().flat_map(|r| &r.evidence).map(|one| (entry.number, one.clone())));
            }
            _ => {}
        }
    }
    found.extend(of_codes(ground));
    found.extend(of_counts(ground, misfire));
    found.extend(swaps.iter().flat_map(of_swap));
    let limits = limits(ground);
    let mut input = SuspectsInput {
        vehicle: SuspectVehicle {
            engine: ground.vehicle.engine.clone(),
            fleet_no: ground.vehicle.fleet_no.clone(),
            name: ground.vehicle.name.clone(),
            has: ground.vehicle.has.clone(),
            lacks: ground.vehicle.lacks.clone(),
            access_minutes: ground.vehicle.access_minutes.clone(),
            covers: ground.vehicle.covers.clone(),
            parts: Vec::new(),
            note: String::new(),
        },
        complaint: complaint(ground),
        findings: Vec::new(),
        replaced: replaced(ground, repair),
        off: off(ground),
        cannot: limits.cannot.clone(),
        alone: limits.alone,
        minutes_left: limits.minutes_left,
        school: limits.school,
        workshop: own.clone(),
    };
    let mut entries = Vec::with_capacity(found.len());
    for (entry, finding) in &found {
        entries.push(*entry);
        input.findings.push(finding.clone());
    }
    loop {
        match suspects_to(&input, ground.knowledge, depth) {
            Ok(mut result) => {
                result.suspects.retain(|suspect| suspect.present >= FAINT || !suspect.speaks.is_empty());
                return Some(SuspectsShown { result, entries, off: input.off, limits });
            }
            Err(refusal) => {
                let index = refusal
                    .field
                    .strip_prefix("findings[")
                    .and_then(|rest| rest.split(']').next())
                    .and_then(|number| number.parse::<usize>().ok());
                match index {
                    Some(index) if index < input.findings.len() => {
                        input.findings.remove(index);
                        entries.remove(index);
                    }
                    _ if refusal.field.starts_with("replaced") && !input.replaced.is_empty() => {
                        input.replaced.clear();
                    }
                    _ => return None,
                }
            }
        }
    }
}

fn limits(ground: &Ground<'_>) -> Limits {
    let mut limits = Limits::default();
    for entry in &ground.standing {
        match &entry.finding {
            Finding::Limits(now) => limits = now.clone(),
            Finding::Tested { test, .. } => {
                if let (Some(left), Some(test)) = (limits.minutes_left.as_mut(), ground.knowledge.book.test(test)) {
                    *left = (*left - test.minutes).max(0.0);
                }
            }
            _ => {}
        }
    }
    limits
}

fn complaint(ground: &Ground<'_>) -> ComplaintInput {
    let mut parts = ComplaintParts::default();
    for entry in &ground.standing {
        if let Finding::Complaint { symptoms, circumstances, history, .. } = &entry.finding {
            // Chips and the technician's own words alike; what the book does not know says nothing.
            parts.said.extend(symptoms.iter().chain(circumstances).chain(history).cloned());
        }
    }
    ComplaintInput::Full(parts)
}

/// What is off the car: what the tests since it last ran on the road had to open.
fn off(ground: &Ground<'_>) -> Vec<String> {
    let mut off = BTreeSet::new();
    let mut at_km = 0.0;
    for entry in &ground.standing {
        if entry.odometer_km > at_km {
            // It was driven, so it was closed.
            off.clear();
            at_km = entry.odometer_km;
        }
        if let Finding::Tested { test, target, .. } = &entry.finding
            && let Some(test) = ground.knowledge.book.test(test)
        {
            for name in &test.opens {
                match (name.as_str(), target) {
                    ("cylinder-top", target) => off.extend(
                        target
                            .cylinders(ground.engine)
                            .iter()
                            .map(|c| format!("cylinder-top {c}"))
                            .chain(
                                ground
                                    .vehicle
                                    .covers
                                    .iter()
                                    .filter(|cover| {
                                        cover.cylinders.iter().any(|c| target.cylinders(ground.engine).contains(c))
                                    })
                                    .map(|cover| cover.name.clone()),
                            )
                            .collect::<Vec<_>>(),
                    ),
                    _ => {
                        off.insert(name.clone());
                    }
                }
            }
        }
    }
    off.into_iter().collect()
}

fn replaced(ground: &Ground<'_>, repair: Option<&Repair>) -> Vec<Replaced> {
    // Only parts after which the fault came back, or whose predecessor was good, are known not to be to blame.
    let open = repair.is_some_and(|repair| repair.came_back.is_none() && repair.old_part_good.is_none());
    let last = repair.map(|repair| repair.entry);
    ground
        .standing
        .iter()
        .filter(|entry| !(open && Some(entry.number) == last))
        .filter_map(|entry| match &entry.finding {
            Finding::Fitted { part, cylinder, .. } => {
                Some(Replaced { what: part.clone(), target: cylinder.map(Target::Cylinder) })
            }
            _ => None,
        })
        .collect()
}

/// Whether a unit is the engine's.
fn of_the_engine(unit: &str) -> bool {
    unit.is_empty() || unit.to_lowercase().contains("engine")
}

fn of_codes(ground: &Ground<'_>) -> Vec<From> {
    if ground.engine.injection == Injection::Carburettor {
        return Vec::new();
    }
    let mut yes: Vec<(u32, &str, Target, String)> = Vec::new();
    let mut read_in = None;
    for entry in &ground.standing {
        let Finding::Scan { units_read, codes, .. } = &entry.finding else { continue };
        if units_read.iter().any(|unit| of_the_engine(unit)) {
            read_in = Some(entry.number);
        }
        for read in codes.iter().filter(|read| counts_now(read)) {
            let Ok(code) = Code::parse(&read.code) else { continue };
            for (test, target) in ground.knowledge.code_tests.tests_of(&code.to_string(), ground.engine) {
                if !yes.iter().any(|(_, known, at, _)| *known == test && *at == target) {
                    yes.push((entry.number, test, target, code.to_string()));
                }
            }
        }
    }
    let mut list: Vec<From> = yes
        .iter()
        .map(|(entry, test, target, code)| {
            let name = ground.knowledge.book.test(test).map_or(*test, |test| test.name.as_str());
            let mut finding = FindingInput::sure(test, target.clone(), "yes");
            finding.says = Some(format!("{code} stored: {}", name.to_lowercase()));
            (*entry, finding)
        })
        .collect();
    // What a reading of the engine's unit does not show was not stored.
    if let Some(entry) = read_in {
        for (test, target) in ground.knowledge.code_tests.all_on(ground.engine) {
            if !yes.iter().any(|(_, known, at, _)| *known == test && *at == target) {
                list.push((entry, FindingInput::sure(test, target, "no")));
            }
        }
    }
    list
}

fn counts_now(read: &ReadCode) -> bool {
    read.status != Some(CodeStatus::History)
}

/// The counts before anything was moved say which cylinder misses; those after a swap are the swap's.
fn of_counts(ground: &Ground<'_>, misfire: Option<&MisfireShown>) -> Vec<From> {
    let Some(shown) = misfire.filter(|shown| shown.when == "before any move") else {
        return first_counts(ground);
    };
    let entry = shown.entries.first().copied().unwrap_or_default();
    shown.result.cylinders.iter().map(|rate| (entry, of_rate(rate))).collect()
}

fn first_counts(ground: &Ground<'_>) -> Vec<From> {
    let Some(phase) = ground.phases.first() else { return Vec::new() };
    let Some(counts) = &phase.counts else { return Vec::new() };
    let result = crate::misfire::of_counts(ground.engine, counts, &phase.windows, ground.knowledge);
    let entry = phase.count_entries.first().copied().unwrap_or_default();
    result.cylinders.iter().map(|rate| (entry, of_rate(rate))).collect()
}

/// How likely the counter's figures are with and without a fault at this cylinder: the odds that the counts give it,
/// over the odds before them.
fn of_rate(rate: &CylinderRate) -> FindingInput {
    const BEFORE: f64 = 0.15;
    let p = rate.probability.clamp(1e-4, 1.0 - 1e-4);
    FindingInput::soft(
        "misfire-count",
        Target::Cylinder(rate.cylinder),
        format!("Cylinder {}: {:.2} % misfires", rate.cylinder, rate.rate_pct),
        &[("misses", p / BEFORE), ("clean", (1.0 - p) / (1.0 - BEFORE))],
    )
}

/// A swap says of each part that left the suspect whether the fault went with it.
fn of_swap(shown: &SwapShown) -> Vec<From> {
    let Some(result) = shown.result.as_ref().filter(|result| !result.hypotheses.is_empty()) else {
        return Vec::new();
    };
    let Some(PlaceName::Cylinder(suspect)) = result.suspect else { return Vec::new() };
    let moved: Vec<&str> = shown
        .moves
        .iter()
        .filter(|one| one.from == PlaceName::Cylinder(suspect))
        .map(|one| one.part.as_str())
        .filter(|part| ["coil", "plug", "lead", "injector", "glow-plug"].contains(part))
        .collect();
    moved.into_iter().map(|part| (shown.entry, of_part(result, part, suspect))).collect()
}

fn of_part(result: &SwapResult, part: &str, suspect: u8) -> FindingInput {
    let sum = |wanted: &dyn Fn(Verdict, Option<&str>) -> bool| -> f64 {
        result.hypotheses.iter().filter(|h| wanted(h.what, h.part.as_deref())).map(|h| h.probability).sum()
    };
    let moved = sum(&|what, with| what == Verdict::Moved && with == Some(part));
    // The fault that went with another part stayed behind when this one left.
    let stayed = sum(&|what, with| what == Verdict::Stayed || (what == Verdict::Moved && with != Some(part)));
    let gone = sum(&|what, _| what == Verdict::Gone);
    let elsewhere = sum(&|what, _| matches!(what, Verdict::Elsewhere | Verdict::Mixed));
    FindingInput::soft(
        &format!("{part}-swap"),
        Target::Cylinder(suspect),
        format!("Swap of the {part} from cylinder {suspect}"),
        &[("moved", moved), ("stayed", stayed), ("gone", gone), ("elsewhere", elsewhere)],
    )
}
