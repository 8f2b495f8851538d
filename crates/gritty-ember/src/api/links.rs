//! Links: each job's connection to its car, over an adapter on a TCP port.

use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::sync::{Mutex, MutexGuard, PoisonError};

use actix_web::{HttpResponse, delete, get, post, web};
use ember_core::trail::{Finding, NewEntry};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Problem, Workshop, body, in_store};
use crate::link::{Activity, Command, LinkStatus, Session};

/// An adapter that is known: a simulated car that runs inside the server.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct KnownAdapter {
    pub fleet_no: String,
    pub address: String,
    /// What is wrong with the simulated car, for the list of adapters.
    pub faults: String,
}

/// The sessions of all jobs, and the adapters that are known.
#[derive(Default)]
pub struct Links {
    sessions: Mutex<BTreeMap<i64, Session>>,
    pub adapters: Vec<KnownAdapter>,
}

impl Links {
    pub fn with(known: Vec<KnownAdapter>) -> Links {
        Links { sessions: Mutex::default(), adapters: known }
    }

    /// What the link of a job shows, if it has one.
    pub fn status_of(&self, job: i64) -> Option<LinkStatus> {
        self.lock().get(&job).map(Session::status)
    }

    fn lock(&self) -> MutexGuard<'_, BTreeMap<i64, Session>> {
        self.sessions.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Connect {
    /// Address and port, `127.0.0.1:35000`.
    pub address: String,
}

/// What to do with the link.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(tag = "what", rename_all = "kebab-case", deny_unknown_fields)]
pub enum LinkRequest {
    Scan,
    StopScan,
    /// Clears the codes of all units. Refused until the last scan was written on the trail.
    Clear,
    Watch {
        on: bool,
    },
    Record {
        name: String,
    },
    Pause {
        on: bool,
    },
    EndRecording,
    /// Lets go of an ended recording.
    LetGo,
    /// Drives an output; `to` in percent, null lets it go.
    Drive {
        identifier: u16,
        to: Option<f64>,
    },
    /// Tells a simulated car's driver to drive or to park.
    Driver {
        drive: bool,
    },
}

#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SaveScan {
    pub number: u32,
    pub odometer_km: f64,
    pub author: String,
    pub seen: u32,
    pub request_key: String,
}

/// Adapters that are known on this machine.
#[utoipa::path(get, operation_id = "links_adapters", path = "/api/adapters", responses((status = 200, body = Vec<KnownAdapter>)))]
#[get("/api/adapters")]
pub async fn adapters(workshop: web::Data<Workshop>) -> HttpResponse {
    HttpResponse::Ok().json(&workshop.links.adapters)
}

fn status_of(workshop: &Workshop, job: i64) -> Option<LinkStatus> {
    workshop.links.lock().get(&job).map(Session::status)
}

fn no_link() -> Problem {
    Problem::conflict("no-link", "There is no link", "This job has no link to a car: connect first".into())
}

/// The link of a job; not connected when none was made.
#[utoipa::path(get, operation_id = "links_show", path = "/api/jobs/{id}/link", params(("id" = i64, Path)),
    responses((status = 200, body = LinkStatus)))]
#[get("/api/jobs/{id}/link")]
pub async fn show(workshop: web::Data<Workshop>, id: web::Path<i64>) -> web::Json<LinkStatus> {
    web::Json(status_of(&workshop, *id).unwrap_or_default())
}

/// Connects a job to its car.
#[utoipa::path(post, operation_id = "links_connect", path = "/api/jobs/{id}/link", params(("id" = i64, Path)), request_body = Connect,
    responses((status = 200, body = LinkStatus), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/link")]
pub async fn connect(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<web::Json<LinkStatus>, Problem> {
    let id = *id;
    let wanted: Connect = body(&bytes)?;
    let address: SocketAddr =
        wanted.address.trim().parse().map_err(|_| {
            ember_core::refusal::Refusal::new("address", "is no address with a port, like 127.0.0.1:35000")
        })?;
    let (_, vehicle, _) = in_store(&workshop, move |store| store.job(id)).await?;
    let known = workshop.links.adapters.iter().find(|a| a.address == address.to_string());
    let profile = ember_sim::profile(&vehicle.vehicle.fleet_no).ok().filter(|_| address.ip().is_loopback());
    let outputs = profile.as_ref().map(ember_sim::outputs).unwrap_or_default();
    let mut sessions = workshop.links.lock();
    if let Some(session) = sessions.get(&id)
        && session.status().connected
    {
        return Err(Problem::conflict(
            "busy",
            "There is a link already",
            "This job is connected: part from that first".into(),
        ));
    }
    let session = Session::begin(
        id,
        address,
        known.is_some() || profile.is_some(),
        &outputs,
        workshop.store.clone(),
        workshop.knowledge,
    );
    let status = session.status();
    sessions.insert(id, session);
    Ok(web::Json(status))
}

/// Parts from the car. A recording that runs is ended and kept.
#[utoipa::path(delete, operation_id = "links_part", path = "/api/jobs/{id}/link", params(("id" = i64, Path)),
    responses((status = 200, body = LinkStatus)))]
#[delete("/api/jobs/{id}/link")]
pub async fn part(workshop: web::Data<Workshop>, id: web::Path<i64>) -> web::Json<LinkStatus> {
    if let Some(session) = workshop.links.lock().get(&*id) {
        session.ask(Command::Close);
    }
    web::Json(status_of(&workshop, *id).unwrap_or_default())
}

/// Asks something of the link. What becomes of it shows in the link's status.
#[utoipa::path(post, operation_id = "links_request", path = "/api/jobs/{id}/link/requests", params(("id" = i64, Path)), request_body = LinkRequest,
    responses((status = 202, body = LinkStatus), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/link/requests")]
pub async fn request(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let wanted: LinkRequest = body(&bytes)?;
    let (_, _, entries) = in_store(&workshop, move |store| store.job(id)).await?;
    let sessions = workshop.links.lock();
    let session = sessions.get(&id).ok_or_else(no_link)?;
    let status = session.status();
    // A recording can be ended while the link is being tried again.
    let without = matches!(wanted, LinkRequest::LetGo | LinkRequest::EndRecording | LinkRequest::Pause { .. });
    if !status.connected && !without {
        return Err(no_link());
    }
    let scanning = matches!(status.activity, Activity::Scanning { .. });
    let command = match wanted {
        LinkRequest::StopScan => Command::StopScan,
        _ if scanning => {
            let detail = "A scan runs: let it end, or stop it first".into();
            return Err(Problem::conflict("busy", "A scan runs", detail));
        }
        LinkRequest::Scan => {
            // Units that any earlier scan of this job knew of.
            let expected = entries
                .iter()
                .filter_map(|entry| match &entry.finding {
                    Finding::Scan { units_read, units_unread, .. } => {
                        Some(units_read.iter().chain(units_unread).cloned())
                    }
                    _ => None,
                })
                .flatten()
                .collect();
            Command::Scan { expected }
        }
        LinkRequest::Clear => {
            let saved = status.scan.as_ref().is_some_and(|scan| scan.complete && scan.saved_as.is_some());
            if !saved {
                let detail = "Scan, and write the scan down with its freeze frames: clearing destroys them".into();
                return Err(Problem::conflict("not-saved", "Not saved yet", detail));
            }
            Command::Clear
        }
        LinkRequest::Watch { on } => Command::Watch(on),
        LinkRequest::Record { name } => {
            ember_core::vehicle::line("name", &name)?;
            if status.recording.is_some_and(|recording| !recording.ended) {
                return Err(Problem::conflict("busy", "A recording runs", "End the running recording first".into()));
            }
            Command::Record { name }
        }
        LinkRequest::Pause { on } => Command::Pause(on),
        LinkRequest::EndRecording => Command::EndRecording,
        LinkRequest::LetGo => Command::LetGo,
        LinkRequest::Drive { identifier, to } => {
            if to.is_some_and(|to| !(0.0..=100.0).contains(&to)) {
                return Err(ember_core::refusal::Refusal::new("to", "must lie between 0 and 100 %").into());
            }
            if !status.outputs.iter().any(|output| output.identifier == identifier) {
                return Err(ember_core::refusal::Refusal::new("identifier", "is no output of this car").into());
            }
            Command::Drive { identifier, to }
        }
        LinkRequest::Driver { drive } => Command::TellDriver(drive),
    };
    session.ask(command);
    Ok(HttpResponse::Accepted().json(session.status()))
}

/// Writes the link's last scan on the trail, codes with their freeze frames and units with whether they were read.
#[utoipa::path(post, operation_id = "links_save_scan", path = "/api/jobs/{id}/link/scan", params(("id" = i64, Path)), request_body = SaveScan,
    responses((status = 201, body = super::jobs::JobView), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/link/scan")]
pub async fn save_scan(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let save: SaveScan = body(&bytes)?;
    let status = status_of(&workshop, id).ok_or_else(no_link)?;
    let scan = status.scan.filter(|scan| scan.number == save.number).ok_or_else(|| {
        Problem::conflict("stale", "Another scan was made", "There is a newer scan: look at that one".into())
    })?;
    let names = |read: bool| scan.units.iter().filter(|u| u.read == read).map(|u| u.name.clone()).collect();
    let entry = NewEntry {
        odometer_km: save.odometer_km,
        author: save.author,
        replaces: None,
        finding: Finding::Scan {
            tool: format!("link to {}", status.address),
            units_read: names(true),
            units_unread: names(false),
            codes: scan.units.iter().flat_map(|u| u.codes.clone()).collect(),
        },
    };
    let written =
        in_store(&workshop, move |store| store.append(id, &entry, save.seen, &save.request_key, Timestamp::now()))
            .await?;
    if let Some(session) = workshop.links.lock().get(&id) {
        session.scan_saved(save.number, written.number);
    }
    Ok(HttpResponse::Created().json(super::jobs::load(&workshop, id).await?))
}
