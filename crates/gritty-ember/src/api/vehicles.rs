//! The workshop's vehicles.

use actix_web::{HttpResponse, get, post, web};
use ember_core::vehicle::Vehicle;
use ember_store::StoredVehicle;

use super::{Problem, Workshop, body, in_store};

/// All vehicles, by fleet number.
#[utoipa::path(get, path = "/api/vehicles", responses((status = 200, body = Vec<StoredVehicle>)))]
#[get("/api/vehicles")]
pub async fn list(workshop: web::Data<Workshop>) -> Result<web::Json<Vec<StoredVehicle>>, Problem> {
    Ok(web::Json(in_store(&workshop, |store| store.vehicles()).await?))
}

/// Adds a vehicle with its engine.
#[utoipa::path(post, path = "/api/vehicles", request_body = Vehicle,
    responses((status = 201, body = StoredVehicle), (status = 422, body = Problem)))]
#[post("/api/vehicles")]
pub async fn add(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<HttpResponse, Problem> {
    let vehicle: Vehicle = body(&bytes)?;
    let stored = in_store(&workshop, move |store| store.add_vehicle(&vehicle)).await?;
    Ok(HttpResponse::Created().json(stored))
}
