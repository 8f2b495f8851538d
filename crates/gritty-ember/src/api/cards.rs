//! Cards of jobs: what the yard, the search and the depot's figures show of a job without reckoning it anew.

use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};
use std::sync::atomic::Ordering;

use actix_web::web;
use ember_core::depot::{JobSummary, summary};
use ember_core::job::{JobState, WaitingFor, job_state_of, proven_cause};
use ember_core::suspects::Depth;
use ember_core::trail::Entry;
use ember_store::{Card, JobRecord, Store, StoredVehicle};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::knowledge::{LearntCase, learnt, with_learnt};
use super::{Problem, Workshop, in_store};

/// Cards that are made while somebody waits; more are made behind their back.
const WHILE_WAITING: usize = 16;
/// Cards between two looks at the database.
const AT_ONCE: usize = 64;

/// A job as the yard shows it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct YardJob {
    pub id: i64,
    pub fleet_no: String,
    pub vehicle: String,
    pub complaint: String,
    pub waiting_for: WaitingFor,
    pub next: String,
    pub next_minutes: f64,
    /// How sure the job is of `sure_of`, 0 to 1.
    pub sure: Option<f64>,
    pub sure_of: String,
    pub odometer_km: f64,
    /// Distance still to drive without the fault, when that is what it waits for.
    pub further_km: Option<f64>,
    /// When it will be cold, if it was left for that.
    pub cold_at: Option<String>,
    /// How many things are off the car.
    pub off: usize,
    pub last_at: String,
    pub closed: bool,
}

/// What a card holds.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct JobCard {
    pub yard: YardJob,
    pub summary: JobSummary,
}

impl JobCard {
    pub fn read(body: &str) -> Result<JobCard, Problem> {
        serde_json::from_str(body).map_err(|error| Problem::internal(format!("a card cannot be read: {error}")))
    }
}

/// With which knowledge states are reckoned now, as a short word.
pub(super) fn made_with(workshop: &Workshop, taught: &[LearntCase]) -> String {
    let mut hasher = DefaultHasher::new();
    serde_json::to_string(&workshop.own.now().own).unwrap_or_default().hash(&mut hasher);
    for case in taught {
        (&case.fault, case.job, case.counts).hash(&mut hasher);
    }
    format!("{} {:016x}", env!("CARGO_PKG_VERSION"), hasher.finish())
}

pub(super) fn card(
    workshop: &Workshop,
    record: &JobRecord,
    vehicle: &StoredVehicle,
    entries: &[Entry],
    state: &JobState,
    made_with: &str,
) -> Card {
    let knowledge = workshop.knowledge;
    let may_teach = state.closed && state.proof.as_ref().is_some_and(|proof| proof.enough);
    let fault = may_teach.then(|| proven_cause(&vehicle.vehicle, entries, knowledge)).flatten();
    let summary = summary(record.id, &vehicle.vehicle, &record.opened_at, entries, state, fault.clone(), knowledge);
    let yard = in_the_yard(record, vehicle, entries, state, &summary);
    Card {
        job: record.id,
        entries: entries.len(),
        closed: state.closed,
        fault,
        made_with: made_with.to_owned(),
        body: serde_json::to_string(&JobCard { yard, summary }).unwrap_or_default(),
    }
}

fn in_the_yard(
    record: &JobRecord,
    vehicle: &StoredVehicle,
    entries: &[Entry],
    state: &JobState,
    summary: &JobSummary,
) -> YardJob {
    let cold_at = state.soaking.as_ref().and_then(|soaking| {
        let since: jiff::Timestamp = soaking.since.parse().ok()?;
        let wait = jiff::SignedDuration::try_from_secs_f64(3600.0 * soaking.hours).ok()?;
        Some(since.checked_add(wait).ok()?.to_string())
    });
    YardJob {
        id: record.id,
        fleet_no: vehicle.vehicle.fleet_no.clone(),
        vehicle: vehicle.vehicle.name.clone(),
        complaint: summary.complaint.clone(),
        waiting_for: state.waiting_for,
        next: state.next.title.clone(),
        next_minutes: state.next.minutes,
        sure: state.next.sure,
        sure_of: state.next.sure_of.clone(),
        odometer_km: state.odometer_km,
        further_km: state
            .proof
            .as_ref()
            .and_then(|proof| proof.further_km)
            .filter(|_| state.waiting_for == WaitingFor::CleanDistance),
        cold_at,
        off: state.bench_out.off.len(),
        last_at: entries.last().map(|entry| entry.at.clone()).unwrap_or_default(),
        closed: state.closed,
    }
}

/// Keeps the card of a job whose state was just reckoned, where it has none.
pub(super) async fn keep_card(workshop: &web::Data<Workshop>, card: Card) -> Result<(), Problem> {
    in_store(workshop, move |store| store.put_card(&card)).await
}

/// Makes the cards that are missing: a few at once, many behind the back of whoever asks. Whether some are still missing or
/// were made with other knowledge.
pub async fn freshen(workshop: &web::Data<Workshop>) -> Result<bool, Problem> {
    // Cards that were missing may have taught something, which makes others stale: then once more.
    for _ in 0..2 {
        if due(workshop, WHILE_WAITING + 1).await?.len() > WHILE_WAITING {
            behind_the_back(workshop);
            return Ok(true);
        }
        round(workshop, WHILE_WAITING).await?;
    }
    Ok(false)
}

fn behind_the_back(workshop: &web::Data<Workshop>) {
    if workshop.refreshing.swap(true, Ordering::AcqRel) {
        return;
    }
    let workshop = workshop.clone();
    actix_web::rt::spawn(async move {
        // What goes wrong here goes wrong again, and is told, where somebody asks for the job itself.
        while matches!(round(&workshop, AT_ONCE).await, Ok(true)) {}
        workshop.refreshing.store(false, Ordering::Release);
    });
}

/// Jobs whose cards are to be made: those without one, and then those that were made with other knowledge.
async fn due(workshop: &web::Data<Workshop>, most: usize) -> Result<Vec<i64>, Problem> {
    let with = made_with(workshop, &learnt(workshop).await?);
    in_store(workshop, move |store| {
        let missing = store.jobs_without_card(most)?;
        if missing.is_empty() { store.jobs_with_stale_card(&with, most) } else { Ok(missing) }
    })
    .await
}

/// Makes some of the cards that are due, with what is known at its beginning. Whether there were any.
async fn round(workshop: &web::Data<Workshop>, most: usize) -> Result<bool, Problem> {
    let jobs = due(workshop, most).await?;
    let any = !jobs.is_empty();
    let taught = learnt(workshop).await?;
    let with = made_with(workshop, &taught);
    for id in jobs {
        let own = with_learnt(workshop, &taught, Some(id));
        let (shared, with) = (workshop.clone(), with.clone());
        in_store(workshop, move |store: &Store| {
            let (record, vehicle, entries) = store.job(id)?;
            let state = job_state_of(&vehicle.vehicle, &entries, shared.knowledge, &own, Some(Depth::Next))?;
            store.put_card(&card(&shared, &record, &vehicle, &entries, &state, &with))
        })
        .await?;
    }
    Ok(any)
}
