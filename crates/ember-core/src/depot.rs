//! What a depot learns from its jobs: each job boiled down, the history of a vehicle, and the figures over all.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decide::SupplierRecord;
use crate::job::JobState;
use crate::knowledge::Knowledge;
use crate::proportion::jeffreys;
use crate::trail::{Entry, Finding, effective};
use crate::trail_words::{describe, kind};
use crate::vehicle::Vehicle;

/// A part that was fitted on a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PartFitted {
    pub entry: u32,
    pub at: String,
    pub odometer_km: f64,
    pub part: String,
    pub cylinder: Option<u8>,
    pub number: String,
    pub supplier: String,
    pub cost: Option<f64>,
    pub came_back: bool,
    pub needed: Option<bool>,
}

/// A job boiled down to what is asked of many.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct JobSummary {
    pub job: i64,
    pub fleet_no: String,
    pub vehicle: String,
    pub opened_at: String,
    /// When it was closed, if it is closed now.
    pub closed_at: Option<String>,
    pub from_km: f64,
    pub to_km: f64,
    pub complaint: String,
    pub codes: Vec<String>,
    /// What it was: as the technician closed it, or else what was proven.
    pub cause: String,
    /// The fault of the book that a closed job has proven.
    pub proven_fault: Option<String>,
    pub fitted: Vec<PartFitted>,
    pub came_back: bool,
    /// Closed with every part needed and nothing come back; null while that is open.
    pub right_first_time: Option<bool>,
    /// Minutes of the tests made and the parts fitted.
    pub minutes: f64,
    pub cost: f64,
}

/// Boils a job down. `proven_fault` is what [`crate::job::proven_cause`] says of it.
pub fn summary(
    job: i64,
    vehicle: &Vehicle,
    opened_at: &str,
    entries: &[Entry],
    state: &JobState,
    proven_fault: Option<String>,
    knowledge: &Knowledge,
) -> JobSummary {
    let standing = effective(entries);
    let complaint = standing.iter().find_map(|entry| match &entry.finding {
        Finding::Complaint { symptoms, circumstances, text, .. } => {
            let said: Vec<&str> = symptoms.iter().chain(circumstances).map(String::as_str).collect();
            Some(if said.is_empty() { text.clone() } else { said.join(", ") })
        }
        _ => None,
    });
    let codes: BTreeSet<String> = standing
        .iter()
        .filter_map(|entry| match &entry.finding {
            Finding::Scan { codes, .. } => Some(codes.iter().map(|code| code.code.clone())),
            _ => None,
        })
        .flatten()
        .collect();
    let closing = standing.iter().rev().find(|entry| matches!(entry.finding, Finding::Closed { .. }));
    let closing = closing.filter(|_| state.closed);
    let written = closing.and_then(|entry| match &entry.finding {
        Finding::Closed { cause, .. } if !cause.trim().is_empty() => Some(cause.clone()),
        _ => None,
    });
    let named = |fault: &String| knowledge.book.fault(fault).map(|fault| fault.name.clone());
    let cause = written.or_else(|| proven_fault.as_ref().and_then(named)).unwrap_or_default();
    let fitted: Vec<PartFitted> = standing
        .iter()
        .filter_map(|entry| {
            let Finding::Fitted { part, cylinder, part_number, supplier, cost, .. } = &entry.finding else {
                return None;
            };
            let shown = state.fitted.iter().find(|shown| shown.entry == entry.number);
            Some(PartFitted {
                entry: entry.number,
                at: entry.at.clone(),
                odometer_km: entry.odometer_km,
                part: part.clone(),
                cylinder: *cylinder,
                number: part_number.clone(),
                supplier: supplier.clone(),
                cost: *cost,
                came_back: shown.is_some_and(|shown| shown.came_back.is_some()),
                needed: shown.and_then(|shown| shown.needed),
            })
        })
        .collect();
    let came_back =
        fitted.iter().any(|part| part.came_back) || state.repair.as_ref().is_some_and(|r| r.came_back.is_some());
    let unneeded = fitted.iter().any(|part| part.needed == Some(false));
    let tested: f64 = standing
        .iter()
        .filter_map(|entry| match &entry.finding {
            Finding::Tested { test, .. } => knowledge.book.test(test).map(|test| test.minutes),
            _ => None,
        })
        .sum();
    JobSummary {
        job,
        fleet_no: vehicle.fleet_no.clone(),
        vehicle: vehicle.name.clone(),
        opened_at: opened_at.to_owned(),
        closed_at: closing.map(|entry| entry.at.clone()),
        from_km: standing.first().map_or(0.0, |entry| entry.odometer_km),
        to_km: standing.last().map_or(0.0, |entry| entry.odometer_km),
        complaint: complaint.unwrap_or_default(),
        codes: codes.into_iter().collect(),
        cause,
        proven_fault,
        right_first_time: if came_back || unneeded {
            Some(false)
        } else {
            (state.closed && !fitted.is_empty()).then_some(true)
        },
        came_back,
        fitted,
        minutes: tested + state.spent.fitting_minutes,
        cost: state.spent.parts_cost,
    }
}

/// What of a job can be searched for, by where it stands.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct JobText {
    pub vehicle: String,
    pub codes: String,
    pub parts: String,
    pub cause: String,
    pub words: String,
}

/// The words of a job. Corrected and withdrawn entries are left out.
pub fn job_text(vehicle: &Vehicle, entries: &[Entry], knowledge: &Knowledge) -> JobText {
    let mut text =
        JobText { vehicle: format!("{} {} {}", vehicle.fleet_no, vehicle.name, vehicle.note), ..JobText::default() };
    for entry in effective(entries) {
        match &entry.finding {
            Finding::Scan { codes, .. } => {
                for code in codes {
                    add(&mut text.codes, &code.code);
                }
            }
            Finding::Fitted { part, part_number, supplier, variant, .. } => {
                add(
                    &mut text.parts,
                    &format!("{} {part} {part_number} {supplier}", variant.clone().unwrap_or_default()),
                );
            }
            Finding::OldPart { why_failed, .. } => add(&mut text.cause, why_failed),
            Finding::Closed { cause, .. } => add(&mut text.cause, cause),
            _ => {}
        }
        add(&mut text.words, kind(&entry.finding));
        add(&mut text.words, &describe(&entry.finding, knowledge));
    }
    text
}

fn add(text: &mut String, more: &str) {
    let more = more.trim();
    if !more.is_empty() {
        if !text.is_empty() {
            text.push('\n');
        }
        text.push_str(more);
    }
}

/// A share with the interval that its count allows.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Share {
    pub count: usize,
    pub of: usize,
    pub pct: f64,
    pub low_pct: f64,
    pub high_pct: f64,
}

impl Share {
    fn new(count: usize, of: usize) -> Option<Share> {
        if of == 0 {
            return None;
        }
        let (low, high) = jeffreys(count as f64, of as f64);
        Some(Share { count, of, pct: 100.0 * count as f64 / of as f64, low_pct: 100.0 * low, high_pct: 100.0 * high })
    }
}

/// What a cause cost, over its jobs.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CauseFigures {
    pub cause: String,
    pub jobs: usize,
    /// Means over the jobs.
    pub minutes: f64,
    pub cost: f64,
}

/// A part that was fitted and not needed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PartFigures {
    pub part: String,
    pub fitted: usize,
    pub not_needed: usize,
    /// What the unneeded ones cost.
    pub cost: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DepotFigures {
    pub jobs: usize,
    pub closed: usize,
    /// Of the jobs of which it is known.
    pub right_first_time: Option<Share>,
    pub comebacks: Option<Share>,
    /// The commonest first.
    pub causes: Vec<CauseFigures>,
    /// Those most often fitted in vain first.
    pub parts: Vec<PartFigures>,
    pub suppliers: Vec<SupplierRecord>,
    pub says: String,
}

/// The figures over jobs.
pub fn depot_figures(jobs: &[JobSummary]) -> DepotFigures {
    let closed = jobs.iter().filter(|job| job.closed_at.is_some()).count();
    let known: Vec<bool> = jobs.iter().filter_map(|job| job.right_first_time).collect();
    let repaired: Vec<&JobSummary> = jobs.iter().filter(|job| !job.fitted.is_empty()).collect();
    let mut causes: BTreeMap<&str, (usize, f64, f64)> = BTreeMap::new();
    for job in jobs.iter().filter(|job| !job.cause.is_empty()) {
        let sum = causes.entry(&job.cause).or_default();
        *sum = (sum.0 + 1, sum.1 + job.minutes, sum.2 + job.cost);
    }
    let mut causes: Vec<CauseFigures> = causes
        .into_iter()
        .map(|(cause, (jobs, minutes, cost))| CauseFigures {
            cause: cause.to_owned(),
            jobs,
            minutes: minutes / jobs as f64,
            cost: cost / jobs as f64,
        })
        .collect();
    causes.sort_by(|a, b| b.jobs.cmp(&a.jobs).then(a.cause.cmp(&b.cause)));
    let mut parts: BTreeMap<&str, PartFigures> = BTreeMap::new();
    let mut suppliers: BTreeMap<&str, SupplierRecord> = BTreeMap::new();
    for part in jobs.iter().flat_map(|job| &job.fitted) {
        let figures = parts.entry(&part.part).or_insert_with(|| PartFigures {
            part: part.part.clone(),
            fitted: 0,
            not_needed: 0,
            cost: 0.0,
        });
        figures.fitted += 1;
        if part.needed == Some(false) {
            figures.not_needed += 1;
            figures.cost += part.cost.unwrap_or_default();
        }
        if !part.supplier.is_empty() {
            let record = suppliers.entry(&part.supplier).or_insert_with(|| SupplierRecord {
                supplier: part.supplier.clone(),
                fitted: 0.0,
                came_back: 0.0,
            });
            record.fitted += 1.0;
            // A part that was not to blame says nothing of who sold it.
            record.came_back += f64::from(u8::from(part.came_back && part.needed != Some(false)));
        }
    }
    let mut parts: Vec<PartFigures> = parts.into_values().filter(|part| part.not_needed > 0).collect();
    parts.sort_by(|a, b| b.not_needed.cmp(&a.not_needed).then(b.cost.total_cmp(&a.cost)).then(a.part.cmp(&b.part)));
    let right_first_time = Share::new(known.iter().filter(|right| **right).count(), known.len());
    let says = match &right_first_time {
        None => "No repaired job is closed yet: there is nothing to count.".into(),
        Some(share) if share.of < 10 => format!(
            "Right first time {} of {}. So few say little: the true share may lie anywhere from {:.0} to {:.0} %.",
            share.count, share.of, share.low_pct, share.high_pct
        ),
        Some(share) => format!(
            "Right first time {} of {}: {:.0} % ({:.0} to {:.0} %).",
            share.count, share.of, share.pct, share.low_pct, share.high_pct
        ),
    };
    DepotFigures {
        jobs: jobs.len(),
        closed,
        right_first_time,
        comebacks: Share::new(repaired.iter().filter(|job| job.came_back).count(), repaired.len()),
        causes,
        parts,
        suppliers: suppliers.into_values().collect(),
        says,
    }
}
