//! What people write, understood before it counts: codes and quantities.

use actix_web::{post, web};
use ember_core::circuit::sweep::{SweepPoint, travel};
use ember_core::codes::{CodeReading, read_codes};
use ember_core::quantity::{Dimension, Quantity, understand};
use serde::Deserialize;
use utoipa::ToSchema;

use super::{Problem, Workshop, body};

#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Written {
    pub text: String,
}

#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct QuantityWritten {
    pub text: String,
    pub dimension: Dimension,
}

/// Reads trouble codes out of typed or pasted text.
#[utoipa::path(post, operation_id = "read_codes", path = "/api/read/codes", request_body = Written, responses((status = 200, body = CodeReading)))]
#[post("/api/read/codes")]
pub async fn codes(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<web::Json<CodeReading>, Problem> {
    let written: Written = body(&bytes)?;
    Ok(web::Json(read_codes(&written.text, &workshop.knowledge.codes)))
}

/// Reads a quantity with its unit.
#[utoipa::path(post, operation_id = "read_quantity", path = "/api/read/quantity", request_body = QuantityWritten,
    responses((status = 200, body = Quantity), (status = 422, body = Problem)))]
#[post("/api/read/quantity")]
pub async fn quantity(bytes: web::Bytes) -> Result<web::Json<Quantity>, Problem> {
    let written: QuantityWritten = body(&bytes)?;
    Ok(web::Json(understand(&written.text, written.dimension)?))
}

/// Reads a travel that was written by hand: position, value and second track, a line for each place.
#[utoipa::path(post, operation_id = "read_travel", path = "/api/read/travel", request_body = Written,
    responses((status = 200, body = Vec<SweepPoint>), (status = 422, body = Problem)))]
#[post("/api/read/travel")]
pub async fn travel_written(bytes: web::Bytes) -> Result<web::Json<Vec<SweepPoint>>, Problem> {
    let written: Written = body(&bytes)?;
    Ok(web::Json(travel(&written.text)?))
}
