//! What the screens of a repair need besides the trail: choices, the drive as it is ticked off, the same reading again.

use actix_web::{HttpResponse, get, web};
use ember_core::coding::RelearnStep;
use ember_core::decide::{Offer, Source, SupplierRecord};
use ember_core::depot::{JobSummary, depot_figures};
use ember_core::job::job_state_of;
use ember_core::proof::{DrivePlan, Scale};
use ember_core::recording::{FullRequest, full_request, misfire_map};
use ember_core::refusal::Refusal;
use ember_core::suspects::memory::WorkshopOwn;
use ember_core::trail::{Entry, Finding};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::cards::{JobCard, freshen};
use super::{Problem, Workshop, in_store};

/// A choice with its words.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Named {
    pub id: String,
    pub name: String,
}

/// What can be chosen while deciding, tightening, coding and proving.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RepairChoices {
    pub sources: Vec<SourceChoice>,
    /// Ways in which parts fail.
    pub ways: Vec<Named>,
    /// Threads with a typical figure.
    pub threads: Vec<String>,
    pub relearn: Vec<RelearnStep>,
    /// Self-tests that a car with spark ignition reports, and one with compression ignition.
    pub self_tests_spark: Vec<String>,
    pub self_tests_compression: Vec<String>,
    /// Numbers whose length is known.
    pub numbers: Vec<String>,
    pub scales: Vec<ScaleChoice>,
    /// What the workshop was offered before.
    pub offers: Vec<Offer>,
    /// How suppliers' parts did here.
    pub suppliers: Vec<SupplierRecord>,
    pub labour_per_hour: f64,
    pub soak_hours: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SourceChoice {
    pub id: Source,
    pub name: String,
    pub because: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ScaleChoice {
    pub id: Scale,
    pub name: String,
}

/// The choices, with the workshop's own prices and its suppliers' records.
#[utoipa::path(get, operation_id = "repairs_choices", path = "/api/repairs/choices",
    responses((status = 200, body = RepairChoices)))]
#[get("/api/repairs/choices")]
pub async fn choices(workshop: web::Data<Workshop>) -> Result<web::Json<RepairChoices>, Problem> {
    freshen(&workshop).await?;
    let cards = in_store(&workshop, |store| store.all_cards(None)).await?;
    let jobs =
        cards.iter().map(|body| Ok(JobCard::read(body)?.summary)).collect::<Result<Vec<JobSummary>, Problem>>()?;
    let knowledge = workshop.knowledge;
    let own = workshop.own.now().own;
    Ok(web::Json(RepairChoices {
        sources: knowledge
            .repair
            .sources
            .iter()
            .map(|(id, one)| SourceChoice { id: *id, name: one.name.clone(), because: one.because.clone() })
            .collect(),
        ways: knowledge.repair.ways.iter().map(|(id, name)| Named { id: id.clone(), name: name.clone() }).collect(),
        threads: knowledge.torque.typical.threads.iter().map(|one| one.thread.clone()).collect(),
        relearn: knowledge.coding.relearn.clone(),
        self_tests_spark: knowledge.parameters.self_tests.of(false),
        self_tests_compression: knowledge.parameters.self_tests.of(true),
        numbers: knowledge.coding.lengths.iter().map(|one| one.what.clone()).collect(),
        scales: Scale::ALL.into_iter().map(|id| ScaleChoice { id, name: id.unit().into() }).collect(),
        offers: own.offers,
        suppliers: depot_figures(&jobs).suppliers,
        labour_per_hour: own.labour_per_hour.unwrap_or(knowledge.book.figures.labour.value),
        soak_hours: knowledge.proof.soak.hours,
    }))
}

/// A cell of the map, by its speed and its load interval.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct CellNow {
    pub speed: usize,
    pub load: usize,
}

/// The drive that proves the repair, with the cell the car is in now.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DriveShown {
    /// Null where no map from before the repair is on the trail, or nothing was repaired.
    pub plan: Option<DrivePlan>,
    pub speed_edges_rpm: Vec<f64>,
    pub load_edges_pct: Vec<f64>,
    /// The cell the car is in, while it is watched.
    pub now: Option<CellNow>,
    /// Recordings since the repair that count here and are not on the trail yet.
    pub not_on_trail: usize,
    pub recording: bool,
}

/// The drive to come, ticked off by what was driven since: also by recordings that are not on the trail yet, and by the one
/// that is running.
#[utoipa::path(get, operation_id = "repairs_drive", path = "/api/jobs/{id}/drive", params(("id" = i64, Path)),
    responses((status = 200, body = DriveShown), (status = 404, body = Problem)))]
#[get("/api/jobs/{id}/drive")]
pub async fn drive(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<web::Json<DriveShown>, Problem> {
    let id = *id;
    let knowledge = workshop.knowledge;
    let link = workshop.links.status_of(id);
    let shown = in_store(&workshop, move |store| {
        let (_, vehicle, mut entries) = store.job(id)?;
        let engine = vehicle.vehicle.checked()?;
        let on_trail: Vec<i64> = entries
            .iter()
            .filter_map(|entry| match &entry.finding {
                Finding::Recording { recording, .. } => Some(*recording),
                _ => None,
            })
            .collect();
        let repaired_at =
            entries.iter().rev().find(|e| matches!(e.finding, Finding::Fitted { .. })).map(|e| e.at.clone());
        let mut not_on_trail = 0;
        for (recording, made_at, _) in store.recordings_with_unfinished(id)? {
            let after = repaired_at.as_ref().is_some_and(|at| later(&made_at, at));
            if on_trail.contains(&recording) || !after {
                continue;
            }
            let Some(map) = misfire_map(&engine, &store.load_recording(recording, None)?, &knowledge.evidence) else {
                continue;
            };
            not_on_trail += 1;
            // As if it stood on the trail already: nothing is written.
            let last = entries.last().cloned();
            entries.extend(last.map(|last| Entry {
                number: last.number + 1,
                replaces: None,
                finding: Finding::Recording {
                    recording,
                    name: String::new(),
                    span_s: 0.0,
                    samples: 0,
                    channels: Vec::new(),
                    conditions: String::new(),
                    results: Vec::new(),
                    cells: map.driven(),
                },
                ..last
            }));
        }
        let state = job_state_of(&vehicle.vehicle, &entries, knowledge, &WorkshopOwn::default(), None)?;
        Ok(DriveShown {
            plan: state.proof.and_then(|proof| proof.drive),
            speed_edges_rpm: knowledge.evidence.map.speed_edges_rpm.clone(),
            load_edges_pct: knowledge.evidence.map.load_edges_pct.clone(),
            now: None,
            not_on_trail,
            recording: false,
        })
    })
    .await?;
    let value = |name: &str| {
        link.as_ref().and_then(|status| status.live.iter().find(|one| one.channel == name)).map(|one| one.value)
    };
    let cell = |edges: &[f64], value: f64| {
        let at = edges.partition_point(|edge| *edge <= value);
        (at > 0 && at < edges.len()).then(|| at - 1)
    };
    let now = value("engine_speed").zip(value("load")).and_then(|(rpm, load)| {
        let speed = cell(&shown.speed_edges_rpm, rpm)?;
        Some(CellNow { speed, load: cell(&shown.load_edges_pct, load.min(99.99))? })
    });
    let recording = link.is_some_and(|status| status.recording.is_some_and(|one| !one.ended));
    Ok(web::Json(DriveShown { now, recording, ..shown }))
}

/// Whether one time lies after another; both as they are written in the store.
fn later(one: &str, other: &str) -> bool {
    let read = |text: &str| text.parse::<jiff::Timestamp>().ok();
    read(one).zip(read(other)).is_some_and(|(one, other)| one > other)
}

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct Compare {
    /// The channel that says what was asked for: `rail_request`.
    pub wanted: String,
    /// The channel that says what came: `rail_pressure`.
    pub got: String,
}

/// A reading out of a recording, to be taken again after the repair.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ComparedReading {
    pub what: String,
    pub unit: String,
    pub reading: FullRequest,
}

/// What a regulated value reached in a recording when most was asked of it.
#[utoipa::path(get, operation_id = "repairs_compare", path = "/api/recordings/{id}/full-request", params(("id" = i64, Path), Compare),
    responses((status = 200, body = ComparedReading), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/api/recordings/{id}/full-request")]
pub async fn compare(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    query: web::Query<Compare>,
) -> Result<HttpResponse, Problem> {
    let (id, query) = (*id, query.into_inner());
    let book = &workshop.knowledge.channels;
    let known = |field: &str, name: &str| {
        book.get(name).cloned().ok_or_else(|| Refusal::new(field, format!("there is no channel {name}")))
    };
    let got = known("got", &query.got)?;
    known("wanted", &query.wanted)?;
    let hold = workshop.knowledge.evidence.hold.seconds;
    let reading = in_store(&workshop, move |store| {
        store.recording(id)?;
        let names = [query.wanted.clone(), query.got.clone()];
        let recording = store.load_recording(id, Some(&names))?;
        full_request(&recording, &query.wanted, &query.got, hold).ok_or_else(|| {
            Refusal::new("wanted", "these two were not recorded together, or nothing was asked for").into()
        })
    })
    .await?;
    Ok(HttpResponse::Ok().json(ComparedReading { what: got.label, unit: got.unit, reading }))
}
