//! Problem details (RFC 9457): every error of the API, with the fields it is about.

use std::fmt;

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use ember_core::reckon::ReckonError;
use ember_core::refusal::Refusal;
use ember_store::StoreError;
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Problem {
    /// A short name of the kind of problem, as a relative reference: `refused`, `stale`, `not-found`.
    #[serde(rename = "type")]
    pub kind: String,
    pub title: String,
    pub status: u16,
    pub detail: String,
    /// The fields that were refused, and why.
    pub errors: Vec<Refusal>,
    /// For a stale view: how many entries the trail has now.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub now: Option<u32>,
}

impl Problem {
    fn new(status: StatusCode, kind: &str, title: &str, detail: String) -> Problem {
        Problem {
            kind: kind.into(),
            title: title.into(),
            status: status.as_u16(),
            detail,
            errors: Vec::new(),
            now: None,
        }
    }

    pub fn bad_request(detail: String) -> Problem {
        Problem::new(StatusCode::BAD_REQUEST, "bad-request", "This cannot be read", detail)
    }

    pub fn forbidden(detail: String) -> Problem {
        Problem::new(StatusCode::FORBIDDEN, "forbidden", "Not from there", detail)
    }

    pub fn not_found(detail: String) -> Problem {
        Problem::new(StatusCode::NOT_FOUND, "not-found", "Not here", detail)
    }

    pub fn too_large(refusal: Refusal) -> Problem {
        let problem = Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", refusal.to_string());
        Problem { errors: vec![refusal], ..problem }
    }

    pub fn conflict(kind: &str, title: &str, detail: String) -> Problem {
        Problem::new(StatusCode::CONFLICT, kind, title, detail)
    }

    pub fn no_room(detail: String) -> Problem {
        Problem::new(StatusCode::INSUFFICIENT_STORAGE, "no-backup", "No backup was made", detail)
    }

    pub fn internal(detail: String) -> Problem {
        Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "internal", "The server failed", detail)
    }

    /// The problem as an answer.
    pub fn answer(&self) -> HttpResponse {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        HttpResponse::build(status)
            .content_type("application/problem+json")
            .body(serde_json::to_string(self).unwrap_or_default())
    }
}

impl fmt::Display for Problem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.title, self.detail)
    }
}

impl ResponseError for Problem {
    fn status_code(&self) -> StatusCode {
        StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR)
    }

    fn error_response(&self) -> HttpResponse {
        self.answer()
    }
}

impl From<Refusal> for Problem {
    fn from(refusal: Refusal) -> Problem {
        let problem = Problem::new(
            StatusCode::UNPROCESSABLE_ENTITY,
            "refused",
            "This cannot be taken as it is",
            refusal.to_string(),
        );
        Problem { errors: vec![refusal], ..problem }
    }
}

impl From<ReckonError> for Problem {
    fn from(error: ReckonError) -> Problem {
        match error {
            ReckonError::Refused(refusal) => refusal.into(),
            ReckonError::UnknownName(_) => Problem::not_found(error.to_string()),
        }
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Problem {
        match error {
            StoreError::NotFound { .. } => Problem::not_found(error.to_string()),
            StoreError::Refused(refusal) => refusal.into(),
            StoreError::Stale { seen, now } => {
                let more = now.saturating_sub(seen);
                let detail = format!(
                    "{more} entries were added to this job meanwhile. Nothing of yours is lost: look at them, then save again"
                );
                let problem = Problem::new(StatusCode::CONFLICT, "stale", "Somebody else wrote meanwhile", detail);
                Problem { now: Some(now), ..problem }
            }
            other => Problem::internal(other.to_string()),
        }
    }
}
