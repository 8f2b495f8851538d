//! A whole job out and in, as one JSON document.

use actix_web::{HttpResponse, get, post, web};
use ember_formats::bundle::{Bundle, BundledRecording, FORMAT};
use ember_store::{BroughtRecording, TimeMark};

use super::jobs::{JobView, load};
use super::{Problem, Workshop, in_store};

/// The largest bundle that is taken: a job with several hours of recordings.
pub const LARGEST: usize = 512 * 1024 * 1024;

/// The job as a bundle.
#[utoipa::path(get, operation_id = "bundles_out", path = "/api/jobs/{id}/bundle", params(("id" = i64, Path)),
    responses((status = 200, body = Bundle), (status = 404, body = Problem)))]
#[get("/api/jobs/{id}/bundle")]
pub async fn out(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    let bundle = in_store(&workshop, move |store| {
        let (record, vehicle, entries) = store.job(id)?;
        let mut recordings = Vec::new();
        for stored in store.recordings(id)? {
            let recording = store.load_recording(stored.id, None)?;
            recordings.push(BundledRecording {
                marks: stored.about.marks.iter().map(|m| (m.time_s, m.label.clone())).collect(),
                notes: stored.about.notes.clone(),
                ..BundledRecording::new(stored.id, &stored.name, &stored.made_at, &recording)
            });
        }
        Ok(Bundle { format: FORMAT.into(), vehicle: vehicle.vehicle, opened_at: record.opened_at, entries, recordings })
    })
    .await?;
    let name = format!("{}-job-{id}.json", bundle.vehicle.fleet_no.replace(|c: char| !c.is_ascii_alphanumeric(), "-"));
    Ok(HttpResponse::Ok()
        .insert_header(("content-disposition", format!("attachment; filename=\"{name}\"")))
        .json(bundle))
}

/// Brings a bundle back as a job.
#[utoipa::path(post, operation_id = "bundles_back", path = "/api/bundles", request_body = Bundle,
    responses((status = 201, body = JobView), (status = 422, body = Problem)))]
#[post("")]
pub async fn back(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<HttpResponse, Problem> {
    let bundle = web::block(move || Bundle::read(&bytes))
        .await
        .map_err(|_| Problem::internal("the reading was interrupted".into()))??;
    let record = in_store(&workshop, move |store| {
        let recordings = bundle
            .recordings
            .iter()
            .map(|one| {
                Ok(BroughtRecording {
                    id: one.id,
                    name: one.name.clone(),
                    made_at: one.made_at.clone(),
                    recording: one.recording()?,
                    marks: one.marks.iter().map(|(t, label)| TimeMark { time_s: *t, label: label.clone() }).collect(),
                    notes: one.notes.clone(),
                })
            })
            .collect::<Result<Vec<_>, ember_core::refusal::Refusal>>()?;
        store.bring_back(&bundle.vehicle, &bundle.opened_at, &bundle.entries, &recordings)
    })
    .await?;
    Ok(HttpResponse::Created().json(load(&workshop, record.id).await?))
}
