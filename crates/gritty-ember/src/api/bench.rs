//! The bench: what can be measured, what a reading would say before it counts, what is kept of a vehicle, and the
//! simulated instruments.

use std::sync::atomic::{AtomicU64, Ordering};

use actix_web::{HttpResponse, get, post, put, web};
use ember_core::bench::{BenchChoices, BenchResult, Measured};
use ember_core::job::judged_on;
use ember_core::refusal::Refusal;
use ember_sim::SimError;
use ember_sim::instruments::{Instruments, SimAnswer, SimQuestion};
use ember_store::KeptForVehicle;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Problem, Workshop, body, in_store};

/// Parts, circuits and hoses that can be chosen.
#[utoipa::path(get, operation_id = "bench_choices", path = "/api/bench", responses((status = 200, body = BenchChoices)))]
#[get("/api/bench")]
pub async fn choices(workshop: web::Data<Workshop>) -> web::Json<BenchChoices> {
    web::Json(ember_core::bench::choices(workshop.knowledge))
}

/// What a reading says, before it stands on the trail. Nothing is kept.
#[utoipa::path(post, operation_id = "bench_judge", path = "/api/jobs/{id}/bench", params(("id" = i64, Path)), request_body = Measured,
    responses((status = 200, body = BenchResult), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/bench")]
pub async fn judge(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<web::Json<BenchResult>, Problem> {
    let id = *id;
    let measured: Measured = body(&bytes)?;
    let (_, vehicle, _) = in_store(&workshop, move |store| store.job(id)).await?;
    let vehicle = &vehicle.vehicle;
    Ok(web::Json(judged_on(&measured, vehicle, &vehicle.checked()?, workshop.knowledge)?))
}

/// Something to be kept of a vehicle.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ToKeep {
    /// `connector`, `circuit`, `hoses` or `bench-out`.
    pub kind: String,
    pub name: String,
    pub body: serde_json::Value,
}

const KINDS: [&str; 4] = ["bench-out", "circuit", "connector", "hoses"];
/// A connector of a hundred pins with its wires fits many times.
const LARGEST_KEPT: usize = 64 * 1024;

/// What is kept of a vehicle for measuring it.
#[utoipa::path(get, operation_id = "bench_kept", path = "/api/vehicles/{id}/bench", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<KeptForVehicle>), (status = 404, body = Problem)))]
#[get("/api/vehicles/{id}/bench")]
pub async fn kept(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    Ok(HttpResponse::Ok().json(in_store(&workshop, move |store| store.kept_for_vehicle(id)).await?))
}

/// Keeps a connector, a circuit or a map of hoses of a vehicle.
#[utoipa::path(put, operation_id = "bench_keep", path = "/api/vehicles/{id}/bench", params(("id" = i64, Path)), request_body = ToKeep,
    responses((status = 200, body = Vec<KeptForVehicle>), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[put("/api/vehicles/{id}/bench")]
pub async fn keep(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let keep: ToKeep = body(&bytes)?;
    ember_core::vehicle::line("name", &keep.name)?;
    if !KINDS.contains(&keep.kind.as_str()) {
        return Err(Refusal::new("kind", format!("must be one of {}", KINDS.join(", "))).into());
    }
    if keep.body.to_string().len() > LARGEST_KEPT {
        return Err(Refusal::new("body", format!("is larger than {} kB", LARGEST_KEPT / 1024)).into());
    }
    let list = in_store(&workshop, move |store| {
        store.keep_for_vehicle(id, &keep.kind, keep.name.trim(), &keep.body)?;
        store.kept_for_vehicle(id)
    })
    .await?;
    Ok(HttpResponse::Ok().json(list))
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SimulatedInstruments {
    /// Whether the simulated instruments can be held to this vehicle.
    pub here: bool,
}

/// Whether simulated instruments stand at this vehicle.
#[utoipa::path(get, operation_id = "bench_simulated", path = "/api/instruments/{fleet_no}", params(("fleet_no" = String, Path)),
    responses((status = 200, body = SimulatedInstruments)))]
#[get("/api/instruments/{fleet_no}")]
pub async fn simulated(workshop: web::Data<Workshop>, fleet_no: web::Path<String>) -> web::Json<SimulatedInstruments> {
    web::Json(SimulatedInstruments { here: workshop.simulated && Instruments::at(&fleet_no, 0).is_ok() })
}

/// Reads a simulated instrument at a simulated car.
#[utoipa::path(post, operation_id = "bench_read_simulated", path = "/api/instruments/{fleet_no}", params(("fleet_no" = String, Path)),
    request_body = SimQuestion, responses((status = 200, body = SimAnswer), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/api/instruments/{fleet_no}")]
pub async fn read_simulated(
    workshop: web::Data<Workshop>,
    fleet_no: web::Path<String>,
    bytes: web::Bytes,
) -> Result<web::Json<SimAnswer>, Problem> {
    let question: SimQuestion = body(&bytes)?;
    only_simulated(&workshop)?;
    let mut instruments = Instruments::at(&fleet_no, next_seed()).map_err(not_simulated)?;
    Ok(web::Json(instruments.ask(&question).map_err(not_simulated)?))
}

pub(super) fn only_simulated(workshop: &Workshop) -> Result<(), Problem> {
    if workshop.simulated {
        return Ok(());
    }
    Err(Problem::not_found("simulated instruments come with the demonstration only".into()))
}

pub(super) fn not_simulated(error: SimError) -> Problem {
    match error {
        SimError::UnknownVehicle(_) => Problem::not_found(error.to_string()),
        SimError::DoesNotFit(reason) => Refusal::new("read", reason).into(),
        other => Problem::internal(other.to_string()),
    }
}

/// Every reading is a little different from the one before.
pub(super) fn next_seed() -> u64 {
    static READINGS: AtomicU64 = AtomicU64::new(1);
    READINGS.fetch_add(1, Ordering::Relaxed)
}
