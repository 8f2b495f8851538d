//! A whole job out and in, as one JSON document.

use std::collections::BTreeMap;

use actix_web::{HttpResponse, get, post, web};
use ember_core::refusal::Refusal;
use ember_core::trail::FileKind;
use ember_formats::bundle::{Bundle, BundledCapture, BundledPhoto, BundledRecording, FORMAT, base64_of};
use ember_store::{BroughtCapture, BroughtJob, BroughtPhoto, BroughtRecording, Store, StoreError, TimeMark};
use serde::Deserialize;
use utoipa::IntoParams;

use super::jobs::{JobView, load};
use super::{Problem, Workshop, in_store};

/// The largest bundle that is taken: a job with several hours of recordings.
pub const LARGEST: usize = 512 * 1024 * 1024;

/// What goes along.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct Along {
    #[serde(default = "yes")]
    pub photos: bool,
    #[serde(default = "yes")]
    pub captures: bool,
    /// Who the vehicle belongs to, and notes about it.
    #[serde(default = "yes")]
    pub owner: bool,
}

fn yes() -> bool {
    true
}

/// The job as a bundle.
#[utoipa::path(get, operation_id = "bundles_out", path = "/api/jobs/{id}/bundle", params(("id" = i64, Path), Along),
    responses((status = 200, body = Bundle), (status = 404, body = Problem)))]
#[get("/api/jobs/{id}/bundle")]
pub async fn out(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    along: web::Query<Along>,
) -> Result<HttpResponse, Problem> {
    let (id, along) = (*id, along.into_inner());
    let bundle = in_store(&workshop, move |store| bundled(store, id, along)).await?;
    let name = format!("{}-job-{id}.json", bundle.vehicle.fleet_no.replace(|c: char| !c.is_ascii_alphanumeric(), "-"));
    let written = web::block(move || bundle.written())
        .await
        .map_err(|_| Problem::internal("the writing was interrupted".into()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(("content-disposition", format!("attachment; filename=\"{name}\"")))
        .body(written))
}

/// Files are numbered from 1 in their order, so that a job is the same document wherever it is kept.
fn bundled(store: &Store, id: i64, along: Along) -> Result<Bundle, StoreError> {
    let (record, vehicle, mut entries) = store.job(id)?;
    let mut numbers = BTreeMap::new();
    let mut recordings = Vec::new();
    for (number, stored) in (1..).zip(store.recordings(id)?) {
        numbers.insert((FileKind::Recording, stored.id), number);
        let recording = store.load_recording(stored.id, None)?;
        recordings.push(BundledRecording {
            marks: stored.about.marks.iter().map(|m| (m.time_s, m.label.clone())).collect(),
            notes: stored.about.notes.clone(),
            ..BundledRecording::new(number, &stored.name, &stored.made_at, &recording)
        });
    }
    let mut captures = Vec::new();
    if along.captures {
        for (number, stored) in (1..).zip(store.captures(id)?) {
            numbers.insert((FileKind::Capture, stored.id), number);
            let capture = store.load_capture(stored.id, None)?;
            captures.push(BundledCapture::new(number, &stored.name, &stored.made_at, &capture, stored.about.notes));
        }
    }
    let mut photos = Vec::new();
    if along.photos {
        for (number, stored) in (1..).zip(store.photos(id)?) {
            numbers.insert((FileKind::Photo, stored.id), number);
            photos.push(BundledPhoto {
                id: number,
                picture: base64_of(&store.photo_bytes(stored.id, false)?),
                thumbnail: base64_of(&store.photo_bytes(stored.id, true)?),
                name: stored.name,
                made_at: stored.made_at,
                width: stored.width,
                height: stored.height,
            });
        }
    }
    for entry in &mut entries {
        entry.finding.renumber(&mut |kind, number| numbers.get(&(kind, number)).copied());
    }
    let mut vehicle = store.origin(id)?.unwrap_or(vehicle.vehicle);
    if !along.owner {
        vehicle.owner.clear();
        vehicle.note.clear();
    }
    Ok(Bundle {
        format: FORMAT.into(),
        vehicle,
        opened_at: record.opened_at,
        entries,
        recordings,
        captures,
        photos,
        seal: String::new(),
    })
}

/// Brings a bundle back as a job.
#[utoipa::path(post, operation_id = "bundles_back", path = "/api/bundles", request_body = Bundle,
    responses((status = 201, body = JobView), (status = 422, body = Problem)))]
#[post("")]
pub async fn back(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<HttpResponse, Problem> {
    let brought = web::block(move || brought(Bundle::read(&bytes)?))
        .await
        .map_err(|_| Problem::internal("the reading was interrupted".into()))??;
    let record = in_store(&workshop, move |store| store.bring_back(&brought)).await?;
    Ok(HttpResponse::Created().json(load(&workshop, record.id).await?))
}

fn brought(bundle: Bundle) -> Result<BroughtJob, Refusal> {
    let recording = |one: &BundledRecording| {
        Ok(BroughtRecording {
            id: one.id,
            name: one.name.clone(),
            made_at: one.made_at.clone(),
            recording: one.recording()?,
            marks: one.marks.iter().map(|(t, label)| TimeMark { time_s: *t, label: label.clone() }).collect(),
            notes: one.notes.clone(),
        })
    };
    let capture = |one: &BundledCapture| {
        Ok(BroughtCapture {
            id: one.id,
            name: one.name.clone(),
            made_at: one.made_at.clone(),
            capture: one.capture()?,
            notes: one.notes.clone(),
        })
    };
    let photo = |one: &BundledPhoto| {
        let (picture, thumbnail) = one.pictures()?;
        Ok(BroughtPhoto {
            id: one.id,
            name: one.name.clone(),
            made_at: one.made_at.clone(),
            width: one.width,
            height: one.height,
            picture,
            thumbnail,
        })
    };
    Ok(BroughtJob {
        recordings: bundle.recordings.iter().map(recording).collect::<Result<_, Refusal>>()?,
        captures: bundle.captures.iter().map(capture).collect::<Result<_, Refusal>>()?,
        photos: bundle.photos.iter().map(photo).collect::<Result<_, Refusal>>()?,
        vehicle: bundle.vehicle,
        opened_at: bundle.opened_at,
        entries: bundle.entries,
    })
}
