//! Reports of a job: as JSON, as Markdown, as PDF.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, get, web};
use ember_core::report::{Reader, Report, ReportGround, report};
use ember_formats::report as set;
use serde::Deserialize;
use utoipa::IntoParams;

use super::jobs::load;
use super::{Problem, Workshop, in_store};

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct For {
    /// `owner` or `technician`.
    #[serde(default = "owner")]
    pub reader: Reader,
}

fn owner() -> Reader {
    Reader::Owner
}

async fn made(workshop: &web::Data<Workshop>, id: i64, reader: Reader) -> Result<(Report, String), Problem> {
    let job = load(workshop, id).await?;
    let photos: Vec<i64> = in_store(workshop, move |store| store.photos(id)).await?.iter().map(|one| one.id).collect();
    let ground = ReportGround {
        vehicle: &job.vehicle.vehicle,
        job: id,
        opened_at: &job.opened_at,
        entries: &job.entries,
        state: &job.state,
        effects: &job.effects,
        photos: &photos,
        knowledge: workshop.knowledge,
    };
    let fleet: String =
        job.vehicle.vehicle.fleet_no.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let whose = match reader {
        Reader::Owner => "owner",
        Reader::Technician => "technician",
    };
    Ok((report(&ground, reader), format!("{fleet}-job-{id}-{whose}")))
}

/// The report, as JSON.
#[utoipa::path(get, operation_id = "reports_show", path = "/api/jobs/{id}/report", params(("id" = i64, Path), For),
    responses((status = 200, body = Report), (status = 404, body = Problem)))]
#[get("/api/jobs/{id}/report")]
pub async fn show(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    query: web::Query<For>,
) -> Result<web::Json<Report>, Problem> {
    Ok(web::Json(made(&workshop, *id, query.reader).await?.0))
}

/// The report, as Markdown.
#[utoipa::path(get, operation_id = "reports_markdown", path = "/api/jobs/{id}/report.md", params(("id" = i64, Path), For),
    responses((status = 200, content_type = "text/markdown"), (status = 404, body = Problem)))]
#[get("/api/jobs/{id}/report.md")]
pub async fn markdown(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    query: web::Query<For>,
) -> Result<HttpResponse, Problem> {
    let (report, name) = made(&workshop, *id, query.reader).await?;
    Ok(HttpResponse::Ok()
        .content_type("text/markdown; charset=utf-8")
        .insert_header(("content-disposition", format!("attachment; filename=\"{name}.md\"")))
        .body(set::markdown(&report)))
}

/// The report, as PDF.
#[utoipa::path(get, operation_id = "reports_pdf", path = "/api/jobs/{id}/report.pdf", params(("id" = i64, Path), For),
    responses((status = 200, content_type = "application/pdf"), (status = 404, body = Problem)))]
#[get("/api/jobs/{id}/report.pdf")]
pub async fn pdf(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    query: web::Query<For>,
) -> Result<HttpResponse, Problem> {
    let (report, name) = made(&workshop, *id, query.reader).await?;
    let number = *id;
    let pictures: BTreeMap<i64, Vec<u8>> = match query.reader {
        Reader::Owner => BTreeMap::new(),
        Reader::Technician => {
            in_store(&workshop, move |store| {
                store.photos(number)?.iter().map(|one| Ok((one.id, store.photo_bytes(one.id, false)?))).collect()
            })
            .await?
        }
    };
    let bytes = web::block(move || set::pdf(&report, |photo| pictures.get(&photo).cloned()))
        .await
        .map_err(|_| Problem::internal("the setting was interrupted".into()))?
        .map_err(|error| Problem::internal(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/pdf")
        .insert_header(("content-disposition", format!("inline; filename=\"{name}.pdf\"")))
        .body(bytes))
}
