//! The API under `/api`, and the OpenAPI document that is made from its types.

mod backups;
mod bench;
pub mod bundles;
mod captures;
pub mod cards;
mod depot;
mod imports;
pub mod jobs;
pub mod knowledge;
pub mod links;
pub mod logs;
mod photos;
mod problem;
mod reading;
mod reckoning;
pub mod recordings;
mod repairs;
mod reports;
mod travel;
mod vehicles;

use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use actix_web::{HttpResponse, web};
use ember_core::knowledge::Knowledge;
use ember_core::reckon::read;
use ember_store::{Store, StoreError};
use serde::de::DeserializeOwned;
use utoipa::OpenApi;

pub use problem::Problem;

use crate::own_book::OwnBook;

/// What every handler works with.
pub struct Workshop {
    pub store: Arc<Store>,
    pub knowledge: &'static Knowledge,
    pub links: links::Links,
    pub imports: logs::Imports,
    pub lately: recordings::Lately,
    /// Whether simulated instruments stand beside the simulated cars.
    pub simulated: bool,
    pub own: OwnBook,
    /// Whether cards are being made behind the back of whoever asks.
    pub refreshing: AtomicBool,
    pub reckoned: jobs::Reckoned,
    /// The data folder.
    pub folder: PathBuf,
}

/// The largest JSON body: a long note and a long log's windows fit several times.
const LARGEST_JSON: usize = 2 * 1024 * 1024;

#[derive(OpenApi)]
#[openapi(
    info(title = "Gritty Ember", description = "Jobs, their trails, and the reckoning behind them."),
    paths(
        jobs::yard,
        jobs::open,
        jobs::show,
        jobs::append,
        vehicles::list,
        knowledge::find,
        knowledge::list_book,
        knowledge::read_fault,
        knowledge::read_test,
        knowledge::show,
        knowledge::change,
        reckoning::suspects,
        vehicles::add,
        imports::counters,
        reading::codes,
        reading::quantity,
        reckoning::names,
        reckoning::engine,
        reckoning::misfire,
        reckoning::swap,
        reckoning::swap_plan,
        reckoning::proof,
        reckoning::codes,
        links::adapters,
        links::show,
        links::connect,
        links::part,
        links::request,
        links::save_scan,
        logs::look,
        logs::progress,
        logs::import,
        recordings::list,
        recordings::show,
        recordings::trace,
        recordings::misfires,
        recordings::trims,
        recordings::boost,
        recordings::csv,
        recordings::keep,
        bundles::out,
        bundles::back,
        reckoning::trims,
        reckoning::boost,
        reckoning::actuator,
        reckoning::frames,
        bench::choices,
        bench::judge,
        bench::kept,
        bench::keep,
        bench::simulated,
        bench::read_simulated,
        captures::list,
        captures::take,
        captures::simulate,
        captures::show,
        captures::trace,
        captures::analyse,
        captures::csv,
        captures::keep,
        travel::of_recording,
        travel::of_capture,
        reading::travel_written,
        photos::list,
        photos::take,
        photos::picture,
        photos::thumbnail,
        reckoning::resistance,
        reckoning::circuit,
        reckoning::waveform,
        reckoning::torque,
        reckoning::decide,
        reckoning::coding,
        repairs::choices,
        repairs::drive,
        repairs::compare,
        reports::show,
        reports::markdown,
        reports::pdf,
        depot::search,
        depot::figures,
        depot::history,
        backups::make,
    ),
    components(schemas(Problem, ember_core::report::Reader, ember_store::SearchIn))
)]
struct Document;

/// The OpenAPI document as JSON.
pub fn document() -> String {
    Document::openapi().to_pretty_json().unwrap_or_default()
}

async fn openapi() -> HttpResponse {
    HttpResponse::Ok().content_type("application/json").body(document())
}

pub fn routes(config: &mut web::ServiceConfig) {
    config
        .app_data(web::PayloadConfig::new(LARGEST_JSON))
        .service(web::resource("/api/openapi.json").route(web::get().to(openapi)))
        .service(jobs::yard)
        .service(jobs::open)
        .service(jobs::show)
        .service(jobs::append)
        .service(knowledge::find)
        .service(knowledge::list_book)
        .service(knowledge::read_fault)
        .service(knowledge::read_test)
        .service(knowledge::show)
        .service(knowledge::change)
        .service(reckoning::suspects)
        .service(vehicles::list)
        .service(vehicles::add)
        .service(imports::counters)
        .service(reading::codes)
        .service(reading::quantity)
        .service(reckoning::names)
        .service(reckoning::engine)
        .service(reckoning::misfire)
        .service(reckoning::swap)
        .service(reckoning::swap_plan)
        .service(reckoning::proof)
        .service(reckoning::codes)
        .service(links::adapters)
        .service(links::show)
        .service(links::connect)
        .service(links::part)
        .service(links::request)
        .service(links::save_scan)
        .service(logs::look)
        .service(logs::progress)
        .service(logs::import)
        .service(recordings::list)
        .service(recordings::show)
        .service(recordings::trace)
        .service(recordings::misfires)
        .service(recordings::trims)
        .service(recordings::boost)
        .service(recordings::csv)
        .service(recordings::keep)
        .service(bundles::out)
        .service(reckoning::trims)
        .service(reckoning::boost)
        .service(reckoning::actuator)
        .service(reckoning::frames)
        .service(bench::choices)
        .service(bench::judge)
        .service(bench::kept)
        .service(bench::keep)
        .service(bench::simulated)
        .service(bench::read_simulated)
        .service(captures::list)
        .service(captures::simulate)
        .service(captures::show)
        .service(captures::trace)
        .service(captures::analyse)
        .service(captures::csv)
        .service(captures::keep)
        .service(travel::of_recording)
        .service(travel::of_capture)
        .service(reading::travel_written)
        .service(photos::list)
        .service(photos::picture)
        .service(photos::thumbnail)
        .service(reckoning::resistance)
        .service(reckoning::circuit)
        .service(reckoning::waveform)
        .service(reckoning::torque)
        .service(reckoning::decide)
        .service(reckoning::coding)
        .service(repairs::choices)
        .service(repairs::drive)
        .service(repairs::compare)
        .service(reports::show)
        .service(reports::markdown)
        .service(reports::pdf)
        .service(depot::search)
        .service(depot::figures)
        .service(depot::history)
        .service(backups::make)
        .service(captures::take)
        .service(photos::take)
        .service(web::scope("/api/bundles").app_data(web::PayloadConfig::new(bundles::LARGEST)).service(bundles::back))
        .service(web::resource("/api/reckon/{name}").route(web::post().to(reckoning::unknown)));
}

/// Reads a JSON body and names the field that does not fit.
fn body<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, Problem> {
    let value: serde_json::Value =
        serde_json::from_slice(bytes).map_err(|error| Problem::bad_request(format!("the body is no JSON: {error}")))?;
    Ok(read(&value)?)
}

/// Runs a call to the store away from the threads that answer requests.
async fn in_store<T: Send + 'static>(
    workshop: &web::Data<Workshop>,
    call: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
) -> Result<T, Problem> {
    let store = Arc::clone(&workshop.store);
    match web::block(move || call(&store)).await {
        Ok(result) => Ok(result?),
        Err(_) => Err(Problem::internal("the call was interrupted".into())),
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    /// Two handlers of one name would share one type on the other side, and only one of them would be right.
    #[test]
    fn every_operation_of_the_api_has_a_name_of_its_own() {
        let document: serde_json::Value = serde_json::from_str(&super::document()).unwrap();
        let mut seen = BTreeSet::new();
        for (path, methods) in document["paths"].as_object().unwrap() {
            for operation in methods.as_object().unwrap().values() {
                let id = operation["operationId"].as_str().unwrap();
                assert!(seen.insert(id.to_owned()), "{id} at {path} stands there twice");
            }
        }
        assert!(seen.len() > 30, "{} operations", seen.len());
    }
}
