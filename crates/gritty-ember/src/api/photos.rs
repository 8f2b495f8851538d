//! Photographs of a job.

use actix_web::{HttpResponse, get, post, web};
use ember_store::StoredPhoto;
use jiff::Timestamp;
use serde::Deserialize;
use utoipa::IntoParams;

use super::imports::next_chunk;
use super::{Problem, Workshop, in_store};
use crate::photo::{LARGEST, photo, too_large};

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct PhotoName {
    /// What it shows.
    pub name: String,
}

/// The photographs of a job.
#[utoipa::path(get, operation_id = "photos_list", path = "/api/jobs/{id}/photos", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<StoredPhoto>)))]
#[get("/api/jobs/{id}/photos")]
pub async fn list(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    Ok(HttpResponse::Ok().json(in_store(&workshop, move |store| store.photos(id)).await?))
}

/// Takes a photograph: JPEG, PNG or WebP up to 15 MB. What stands beside its points in the file is not kept.
#[utoipa::path(post, operation_id = "photos_take", path = "/api/jobs/{id}/photos", params(("id" = i64, Path), PhotoName),
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 201, body = StoredPhoto), (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/photos")]
pub async fn take(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    query: web::Query<PhotoName>,
    mut payload: web::Payload,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let name = query.into_inner().name;
    ember_core::vehicle::line("name", &name)?;
    let mut bytes = Vec::new();
    let mut received = 0;
    while let Some(chunk) = next_chunk(&mut payload).await {
        let chunk = chunk.map_err(|error| Problem::bad_request(format!("the file did not arrive whole: {error}")))?;
        received += chunk.len();
        if received <= LARGEST {
            bytes.extend_from_slice(&chunk);
        } else {
            // What comes after is taken off the line and forgotten, so that the answer is heard.
            bytes = Vec::new();
        }
    }
    if received > LARGEST {
        return Err(Problem::too_large(too_large()));
    }
    let kept = web::block(move || photo(&bytes))
        .await
        .map_err(|_| Problem::internal("the reading was interrupted".into()))??;
    let stored = in_store(&workshop, move |store| {
        store.add_photo(id, &name, (kept.width, kept.height), &kept.picture, &kept.thumbnail, Timestamp::now())
    })
    .await?;
    Ok(HttpResponse::Created().json(stored))
}

async fn bytes_of(workshop: &web::Data<Workshop>, id: i64, small: bool) -> Result<HttpResponse, Problem> {
    let bytes = in_store(workshop, move |store| store.photo_bytes(id, small)).await?;
    Ok(HttpResponse::Ok()
        .content_type("image/jpeg")
        // A photograph never changes.
        .insert_header(("cache-control", "private, max-age=31536000, immutable"))
        .body(bytes))
}

/// A photograph as JPEG.
#[utoipa::path(get, operation_id = "photos_picture", path = "/api/photos/{id}", params(("id" = i64, Path)),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem)))]
#[get("/api/photos/{id}")]
pub async fn picture(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    bytes_of(&workshop, *id, false).await
}

/// A photograph's thumbnail as JPEG.
#[utoipa::path(get, operation_id = "photos_thumbnail", path = "/api/photos/{id}/thumbnail", params(("id" = i64, Path)),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem)))]
#[get("/api/photos/{id}/thumbnail")]
pub async fn thumbnail(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    bytes_of(&workshop, *id, true).await
}
