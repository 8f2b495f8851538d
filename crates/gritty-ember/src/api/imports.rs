//! Files that are read and shown before anything is kept.

use actix_web::{post, web};
use ember_core::refusal::Refusal;
use ember_formats::counters::{self as counter_files, CounterReading, LARGEST};
use serde::Deserialize;
use utoipa::IntoParams;

use super::Problem;

/// Past this even the rest of an oversized upload is not listened to.
const PATIENCE: usize = 16 * LARGEST;

#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct ForEngine {
    /// How many cylinders the engine has.
    pub cylinders: u8,
}

/// Reads misfire counters from a CSV file. Nothing is kept: the answer says what was understood.
#[utoipa::path(post, path = "/api/imports/counters", params(ForEngine), request_body(content = String, content_type = "text/csv"),
    responses((status = 200, body = CounterReading), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/api/imports/counters")]
pub async fn counters(
    query: web::Query<ForEngine>,
    mut payload: web::Payload,
) -> Result<web::Json<CounterReading>, Problem> {
    let mut bytes = Vec::new();
    let mut received = 0usize;
    // A browser that is cut off in the middle of sending shows no answer at all, so the rest is let run out.
    while let Some(chunk) = next_chunk(&mut payload).await {
        let chunk = chunk.map_err(|error| Problem::bad_request(format!("the file did not arrive whole: {error}")))?;
        received += chunk.len();
        if received > PATIENCE {
            break;
        }
        if received <= LARGEST {
            bytes.extend_from_slice(&chunk);
        }
    }
    if received > LARGEST {
        let (megabytes, most) = (received / 1_048_576, LARGEST / 1_048_576);
        let reason =
            format!("is {megabytes} MB or more; at most {most} MB are read. Cut the log to the drive in question");
        return Err(Problem::too_large(Refusal::new("file", reason)));
    }
    let cylinders = query.cylinders;
    match web::block(move || counter_files::read(&bytes, cylinders)).await {
        Ok(read) => Ok(web::Json(read?)),
        Err(_) => Err(Problem::internal("the import was interrupted".into())),
    }
}

pub(super) async fn next_chunk(
    payload: &mut web::Payload,
) -> Option<Result<web::Bytes, actix_web::error::PayloadError>> {
    use futures_core::Stream;
    std::future::poll_fn(|context| std::pin::Pin::new(&mut *payload).poll_next(context)).await
}
