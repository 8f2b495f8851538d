//! Finding it again: the search over all jobs, a vehicle's history, the depot's figures.

use actix_web::{get, web};
use ember_core::depot::{DepotFigures, JobSummary, depot_figures};
use ember_store::{SearchIn, StoredVehicle};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::cards::{JobCard, YardJob, freshen};
use super::{Problem, Workshop, in_store};

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct Asked {
    /// Words, codes, parts, a fleet number; beginnings of words do.
    pub words: String,
    #[serde(default)]
    pub within: SearchIn,
}

/// A job that was found, with the words around what was found.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FoundJob {
    pub job: YardJob,
    pub cause: String,
    /// What matches stands between `\u{2}` and `\u{3}`.
    pub snippet: String,
}

/// Jobs that hold all the words, the best first; at most fifty.
#[utoipa::path(get, operation_id = "depot_search", path = "/api/search", params(Asked),
    responses((status = 200, body = Vec<FoundJob>), (status = 422, body = Problem)))]
#[get("/api/search")]
pub async fn search(
    workshop: web::Data<Workshop>,
    query: web::Query<Asked>,
) -> Result<web::Json<Vec<FoundJob>>, Problem> {
    freshen(&workshop).await?;
    let query = query.into_inner();
    let found = in_store(&workshop, move |store| {
        let found = store.search(&query.words, query.within)?;
        found.into_iter().map(|one| Ok((store.card(one.job)?, one.snippet))).collect::<Result<Vec<_>, _>>()
    })
    .await?;
    let shown = found.into_iter().filter_map(|(body, snippet)| {
        let card = JobCard::read(&body?);
        Some(card.map(|card| FoundJob { job: card.yard, cause: card.summary.cause, snippet }))
    });
    Ok(web::Json(shown.collect::<Result<_, _>>()?))
}

/// The figures over all jobs.
#[utoipa::path(get, operation_id = "depot_figures", path = "/api/depot", responses((status = 200, body = DepotFigures)))]
#[get("/api/depot")]
pub async fn figures(workshop: web::Data<Workshop>) -> Result<web::Json<DepotFigures>, Problem> {
    freshen(&workshop).await?;
    Ok(web::Json(depot_figures(&summaries(&workshop, None).await?)))
}

/// A vehicle with all its jobs.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct VehicleHistory {
    pub vehicle: StoredVehicle,
    /// The oldest first.
    pub jobs: Vec<JobSummary>,
}

/// The history of a vehicle: its jobs, what it was each time, and what was replaced when.
#[utoipa::path(get, operation_id = "depot_history", path = "/api/vehicles/{id}/history", params(("id" = i64, Path)),
    responses((status = 200, body = VehicleHistory), (status = 404, body = Problem)))]
#[get("/api/vehicles/{id}/history")]
pub async fn history(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<web::Json<VehicleHistory>, Problem> {
    let id = *id;
    freshen(&workshop).await?;
    let vehicle = in_store(&workshop, move |store| store.vehicle(id)).await?;
    Ok(web::Json(VehicleHistory { vehicle, jobs: summaries(&workshop, Some(id)).await? }))
}

async fn summaries(workshop: &web::Data<Workshop>, vehicle: Option<i64>) -> Result<Vec<JobSummary>, Problem> {
    let cards = in_store(workshop, move |store| store.all_cards(vehicle)).await?;
    cards.iter().map(|body| Ok(JobCard::read(body)?.summary)).collect()
}
