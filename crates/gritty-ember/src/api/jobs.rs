//! Jobs: the yard, opening one, its state, and new entries on its trail.

use actix_web::{HttpResponse, get, post, web};
use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

use ember_core::job::{Effect, JobState, WaitingFor, effects_since, job_state_of};
use ember_core::knowledge::Knowledge;
use ember_core::suspects::Depth;
use ember_core::suspects::memory::WorkshopOwn;
use ember_core::trail::{Entry, Finding, NewEntry};
use ember_core::vehicle::Vehicle;
use ember_store::{JobRecord, NewJob, StoredVehicle};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::knowledge::{learnt, own_for, with_learnt};
use super::{Problem, Workshop, body, in_store};

/// A job with everything that is known of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct JobView {
    pub id: i64,
    pub opened_at: String,
    pub vehicle: StoredVehicle,
    /// The whole trail, corrected and withdrawn entries too.
    pub entries: Vec<Entry>,
    pub state: JobState,
    /// What each entry did to what is thought of the job.
    pub effects: Vec<Effect>,
    /// What the tests on the trail are called.
    pub test_names: BTreeMap<String, String>,
}

/// A job as the yard shows it.
#[derive(Debug, Serialize, ToSchema)]
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
    pub last_at: String,
    pub closed: bool,
}

/// A new entry with what its writer had seen.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Addition {
    pub entry: NewEntry,
    /// How many entries the writer had seen. If there are more, nothing is written.
    pub seen: u32,
    /// Any text that is different for every entry; the same again gives the same entry.
    pub request_key: String,
}

/// States of jobs as they were last reckoned. A state follows from the trail, the vehicle and what the workshop knows, so
/// it is kept only as long as none of them has changed.
#[derive(Default)]
pub struct Reckoned(Mutex<BTreeMap<i64, Kept>>);

/// The length of the trail, what the workshop knew, and what followed.
type Kept = (usize, WorkshopOwn, JobState, Vec<Effect>);

impl Reckoned {
    fn state(
        &self,
        job: i64,
        vehicle: &Vehicle,
        entries: &[Entry],
        own: WorkshopOwn,
        knowledge: &Knowledge,
    ) -> Result<(JobState, Vec<Effect>), Problem> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner).get(&job).cloned();
        let (known, told) = match kept.filter(|(_, with, ..)| *with == own) {
            Some((length, _, state, effects)) if length == entries.len() => return Ok((state, effects)),
            // A trail only grows: what its first entries did stays as it was.
            Some((length, _, _, effects)) if length < entries.len() => (length, effects),
            _ => (0, Vec::new()),
        };
        let state = job_state_of(vehicle, entries, knowledge, &own, Some(Depth::Schools))?;
        let effects = effects_since(vehicle, entries, knowledge, &own, known, told)?;
        let kept = (entries.len(), own, state.clone(), effects.clone());
        self.0.lock().unwrap_or_else(PoisonError::into_inner).insert(job, kept);
        Ok((state, effects))
    }
}

pub(super) async fn load(workshop: &web::Data<Workshop>, id: i64) -> Result<JobView, Problem> {
    let (record, vehicle, entries) = in_store(workshop, move |store| store.job(id)).await?;
    let own = own_for(workshop, Some(id)).await?;
    let (state, effects) = workshop.reckoned.state(id, &vehicle.vehicle, &entries, own, workshop.knowledge)?;
    Ok(job_view(record, vehicle, entries, state, effects, workshop.knowledge))
}

fn job_view(
    record: JobRecord,
    vehicle: StoredVehicle,
    entries: Vec<Entry>,
    state: JobState,
    effects: Vec<Effect>,
    knowledge: &Knowledge,
) -> JobView {
    let name = |entry: &Entry| match &entry.finding {
        Finding::Tested { test, .. } => Some((test.clone(), knowledge.book.test(test)?.name.clone())),
        _ => None,
    };
    let test_names = entries.iter().filter_map(name).collect();
    JobView { id: record.id, opened_at: record.opened_at, vehicle, entries, state, effects, test_names }
}

/// All jobs, the newest first, with what each waits for.
#[utoipa::path(get, path = "/api/yard", responses((status = 200, body = Vec<YardJob>)))]
#[get("/api/yard")]
pub async fn yard(workshop: web::Data<Workshop>) -> Result<web::Json<Vec<YardJob>>, Problem> {
    let all = in_store(&workshop, |store| {
        store.jobs()?.into_iter().map(|job| store.job(job.id)).collect::<Result<Vec<_>, _>>()
    })
    .await?;
    let taught = learnt(&workshop).await?;
    let mut jobs = Vec::with_capacity(all.len());
    for (record, vehicle, entries) in all {
        let own = with_learnt(&workshop, &taught, Some(record.id));
        let (state, effects) =
            workshop.reckoned.state(record.id, &vehicle.vehicle, &entries, own, workshop.knowledge)?;
        jobs.push(in_the_yard(job_view(record, vehicle, entries, state, effects, workshop.knowledge)));
    }
    Ok(web::Json(jobs))
}

fn in_the_yard(job: JobView) -> YardJob {
    let standing = |entry: &&Entry| job.state.standing.contains(&entry.number);
    let complaint = job.entries.iter().filter(standing).find_map(|entry| match &entry.finding {
        Finding::Complaint { symptoms, text, .. } if symptoms.is_empty() => Some(text.clone()),
        Finding::Complaint { symptoms, circumstances, .. } => {
            Some(symptoms.iter().chain(circumstances).cloned().collect::<Vec<_>>().join(", "))
        }
        _ => None,
    });
    YardJob {
        id: job.id,
        fleet_no: job.vehicle.vehicle.fleet_no,
        vehicle: job.vehicle.vehicle.name,
        complaint: complaint.unwrap_or_default(),
        waiting_for: job.state.waiting_for,
        next: job.state.next.title,
        next_minutes: job.state.next.minutes,
        sure: job.state.next.sure,
        sure_of: job.state.next.sure_of,
        odometer_km: job.state.odometer_km,
        further_km: job
            .state
            .proof
            .and_then(|proof| proof.further_km)
            .filter(|_| job.state.waiting_for == WaitingFor::CleanDistance),
        last_at: job.entries.last().map(|entry| entry.at.clone()).unwrap_or_default(),
        closed: job.state.closed,
    }
}

/// Opens a job with its complaint.
#[utoipa::path(post, path = "/api/jobs", request_body = NewJob,
    responses((status = 201, body = JobView), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs")]
pub async fn open(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<HttpResponse, Problem> {
    let new: NewJob = body(&bytes)?;
    let record = in_store(&workshop, move |store| store.open_job(&new, Timestamp::now())).await?;
    Ok(HttpResponse::Created().json(load(&workshop, record.id).await?))
}

/// One job with its trail and its state.
#[utoipa::path(get, path = "/api/jobs/{id}", params(("id" = i64, Path)),
    responses((status = 200, body = JobView), (status = 404, body = Problem)))]
#[get("/api/jobs/{id}")]
pub async fn show(workshop: web::Data<Workshop>, id: web::Path<String>) -> Result<web::Json<JobView>, Problem> {
    Ok(web::Json(load(&workshop, job_number(&id)?).await?))
}

/// Adds an entry to a job's trail and answers with the job as it then is.
#[utoipa::path(post, path = "/api/jobs/{id}/entries", params(("id" = i64, Path)), request_body = Addition,
    responses((status = 201, body = JobView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/entries")]
pub async fn append(
    workshop: web::Data<Workshop>,
    id: web::Path<String>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    let id = job_number(&id)?;
    let addition: Addition = body(&bytes)?;
    in_store(&workshop, move |store| {
        store.append(id, &addition.entry, addition.seen, &addition.request_key, Timestamp::now())
    })
    .await
    .map_err(|problem| seen_from_outside(problem, "entry"))?;
    Ok(HttpResponse::Created().json(load(&workshop, id).await?))
}

/// Field names as they stand in the request: the entry's fields lie under `entry`.
fn seen_from_outside(mut problem: Problem, outer: &str) -> Problem {
    problem.errors = problem.errors.into_iter().map(|refusal| refusal.within(outer)).collect();
    problem
}

fn job_number(text: &str) -> Result<i64, Problem> {
    text.parse().map_err(|_| Problem::not_found(format!("there is no job {text}")))
}
