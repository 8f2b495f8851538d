//! Jobs: the yard, opening one, its state, and new entries on its trail.

use actix_web::{HttpResponse, get, post, web};
use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

use ember_core::job::{Effect, JobState, effects_since, job_state_of};
use ember_core::knowledge::Knowledge;
use ember_core::suspects::Depth;
use ember_core::suspects::memory::WorkshopOwn;
use ember_core::trail::{Entry, NewEntry};
use ember_core::trail_words::{EntryWords, trail_words};
use ember_core::vehicle::Vehicle;
use ember_store::{JobRecord, NewJob, StoredVehicle};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::cards::{JobCard, YardJob, card, freshen, keep_card, made_with};
use super::knowledge::{learnt, with_learnt};
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
    /// The entries in words, by their numbers.
    pub words: BTreeMap<u32, EntryWords>,
}

/// The yard: open jobs, and those closed last.
#[derive(Debug, Serialize, ToSchema)]
pub struct Yard {
    pub open: Vec<YardJob>,
    pub open_count: usize,
    pub closed: Vec<YardJob>,
    pub closed_count: usize,
    /// Some of it is still being reckoned: ask again soon.
    pub refreshing: bool,
}

/// How many open and closed jobs the yard shows at once.
const OPEN_SHOWN: usize = 100;
const CLOSED_SHOWN: usize = 20;

#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct YardFrom {
    /// How many open jobs to leave out, the newest first.
    #[serde(default)]
    pub from: usize,
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

/// A state is some hundred kilobytes: more jobs than a workshop has in its hands at once.
const MOST_KEPT: usize = 64;

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
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if all.len() >= MOST_KEPT && !all.contains_key(&job) {
            all.pop_first();
        }
        all.insert(job, kept);
        Ok((state, effects))
    }
}

pub(super) async fn load(workshop: &web::Data<Workshop>, id: i64) -> Result<JobView, Problem> {
    let (record, vehicle, entries) = in_store(workshop, move |store| store.job(id)).await?;
    let taught = learnt(workshop).await?;
    let own = with_learnt(workshop, &taught, Some(id));
    let (state, effects) = workshop.reckoned.state(id, &vehicle.vehicle, &entries, own, workshop.knowledge)?;
    if in_store(workshop, move |store| store.card(id)).await?.is_none() {
        let with = made_with(workshop, &taught);
        keep_card(workshop, card(workshop, &record, &vehicle, &entries, &state, &with)).await?;
    }
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
    let words = trail_words(&entries, knowledge);
    JobView { id: record.id, opened_at: record.opened_at, vehicle, entries, state, effects, words }
}

/// The yard, the newest jobs first, with what each waits for.
#[utoipa::path(get, path = "/api/yard", params(YardFrom), responses((status = 200, body = Yard)))]
#[get("/api/yard")]
pub async fn yard(workshop: web::Data<Workshop>, query: web::Query<YardFrom>) -> Result<web::Json<Yard>, Problem> {
    let refreshing = freshen(&workshop).await?;
    let from = query.from;
    let (of_open, of_closed, (open_count, closed_count)) = in_store(&workshop, move |store| {
        Ok((store.cards(false, from, OPEN_SHOWN)?, store.cards(true, 0, CLOSED_SHOWN)?, store.card_counts()?))
    })
    .await?;
    let read = |bodies: Vec<String>| {
        bodies.iter().map(|body| Ok(JobCard::read(body)?.yard)).collect::<Result<Vec<_>, Problem>>()
    };
    Ok(web::Json(Yard { open: read(of_open)?, open_count, closed: read(of_closed)?, closed_count, refreshing }))
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
