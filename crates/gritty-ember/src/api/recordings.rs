//! Recordings: what they hold, what is drawn from them, and how they come onto the trail.

use std::sync::{Arc, Mutex, PoisonError};

use actix_web::{HttpResponse, get, post, web};
use ember_core::boost::{BoostResult, BoostSample, boost_samples};
use ember_core::engine::Engine;
use ember_core::misfire::MisfireResult;
use ember_core::recording::{
    Ambient, Channel, CountsOverTime, Known, MisfireMap, Recording, RecordingResult, Thinned, TrimsOfRecording,
    boost_of, misfire_map, misfires_of, results, thin, trims_of,
};
use ember_core::refusal::Refusal;
use ember_core::trail::{Finding, NewEntry};
use ember_store::StoredRecording;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::jobs::{JobView, load};
use super::{Problem, Workshop, body, in_store};

/// The last recording that was looked at, so that zooming does not read it anew. Longer ones are read by the channel.
#[derive(Default)]
pub struct Lately(Mutex<Option<(i64, Arc<Recording>)>>);

/// So many values are kept in memory: a two-hour log at 20 Hz with 60 channels.
const KEPT: u64 = 10_000_000;
/// So many columns are the most that a screen has use for.
const MOST_COLUMNS: usize = 8_000;

/// A recording with the channels it holds.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RecordingView {
    #[serde(flatten)]
    pub stored: StoredRecording,
    pub fleet_no: String,
    pub channels: Vec<Channel>,
    /// The entry under which it stands on the trail.
    pub entry: Option<u32>,
    /// What it says, in a line each.
    pub results: Vec<RecordingResult>,
}

#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct Look {
    /// Channel names, with commas between.
    pub channels: String,
    /// Seconds from the recording's beginning.
    pub from_s: Option<f64>,
    pub to_s: Option<f64>,
    /// Columns of the screen.
    pub columns: Option<usize>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Trace {
    pub from_s: f64,
    pub to_s: f64,
    /// The middle of each column, in seconds from the recording's beginning.
    pub time_s: Vec<f64>,
    pub channels: Vec<Thinned>,
}

#[derive(Debug, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct Surroundings {
    pub ambient_kpa: Option<f64>,
    pub intake_c: Option<f64>,
}

impl From<&Surroundings> for Ambient {
    fn from(given: &Surroundings) -> Ambient {
        Ambient { ambient_kpa: given.ambient_kpa, intake_c: given.intake_c }
    }
}

/// Misfires of a recording: over time, on the map, and what they say.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MisfiresOfRecording {
    pub counts: CountsOverTime,
    pub result: MisfireResult,
    /// Null when load was not recorded.
    pub map: Option<MisfireMap>,
    pub cylinders: u8,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BoostOfRecording {
    pub result: BoostResult,
    pub ambient_kpa: f64,
    pub ambient_known: Known,
    /// The series, at most some thousand moments of it, for drawing.
    pub series: Vec<BoostSample>,
}

/// Puts a recording on the trail.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Keep {
    pub odometer_km: f64,
    pub author: String,
    #[serde(default)]
    pub conditions: String,
    pub seen: u32,
    pub request_key: String,
}

async fn recording_of(
    workshop: &web::Data<Workshop>,
    id: i64,
    only: Option<Vec<String>>,
) -> Result<(StoredRecording, Arc<Recording>), Problem> {
    let stored = in_store(workshop, move |store| store.recording(id)).await?;
    let held = workshop.lately.0.lock().unwrap_or_else(PoisonError::into_inner).clone();
    if let Some((_, recording)) = held.filter(|(held, _)| *held == id) {
        return Ok((stored, recording));
    }
    let small = stored.about.samples.saturating_mul(stored.about.channels.len() as u64 + 2) <= KEPT;
    let only = if small { None } else { only };
    let recording = Arc::new(in_store(workshop, move |store| store.load_recording(id, only.as_deref())).await?);
    if small {
        *workshop.lately.0.lock().unwrap_or_else(PoisonError::into_inner) = Some((id, Arc::clone(&recording)));
    }
    Ok((stored, recording))
}

/// The recording with the engine of its job's vehicle; only the channels that the evidence needs.
async fn evidence_of(
    workshop: &web::Data<Workshop>,
    id: i64,
) -> Result<(StoredRecording, Arc<Recording>, Engine), Problem> {
    let (stored, recording) = recording_of(workshop, id, Some(needed())).await?;
    let job = stored.job_id;
    let (_, vehicle, _) = in_store(workshop, move |store| store.job(job)).await?;
    let engine = vehicle.vehicle.checked()?;
    Ok((stored, recording, engine))
}

fn needed() -> Vec<String> {
    let mut names: Vec<String> = [
        "engine_speed",
        "load",
        "airflow",
        "manifold_pressure",
        "closed_loop",
        "coolant",
        "ambient_pressure",
        "intake_air",
        "ambient_air",
        "short_trim_1",
        "short_trim_2",
        "long_trim_1",
        "long_trim_2",
        "requested_boost",
        "actual_boost",
        "vane_request",
        "vane_position",
    ]
    .map(str::to_owned)
    .into();
    names.extend((1..=ember_core::engine::MOST_CYLINDERS).map(|c| format!("misfires_{c}")));
    names
}

async fn reckoned<T: Send + 'static>(call: impl FnOnce() -> Result<T, Problem> + Send + 'static) -> Result<T, Problem> {
    web::block(call).await.map_err(|_| Problem::internal("the reckoning was interrupted".into()))?
}

/// The recordings of a job, those on the trail and those that wait to be put there.
#[utoipa::path(get, operation_id = "recordings_list", path = "/api/jobs/{id}/recordings", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<StoredRecording>)))]
#[get("/api/jobs/{id}/recordings")]
pub async fn list(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    Ok(HttpResponse::Ok().json(in_store(&workshop, move |store| store.recordings(id)).await?))
}

/// One recording.
#[utoipa::path(get, operation_id = "recordings_show", path = "/api/recordings/{id}", params(("id" = i64, Path)),
    responses((status = 200, body = RecordingView), (status = 404, body = Problem)))]
#[get("/api/recordings/{id}")]
pub async fn show(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<web::Json<RecordingView>, Problem> {
    let id = *id;
    let (_, recording, engine) = evidence_of(&workshop, id).await?;
    let knowledge = workshop.knowledge;
    let results = reckoned(move || Ok(results(&engine, &recording, knowledge))).await?;
    let (stored, (_, vehicle, entries)) = in_store(&workshop, move |store| {
        let stored = store.recording(id)?;
        let job = store.job(stored.job_id)?;
        Ok((stored, job))
    })
    .await?;
    let book = &workshop.knowledge.channels;
    let channels = stored.about.channels.iter().filter_map(|one| book.get(&one.name).cloned()).collect();
    let entry = entries.iter().find_map(|entry| match &entry.finding {
        Finding::Recording { recording, .. } if *recording == id => Some(entry.number),
        _ => None,
    });
    Ok(web::Json(RecordingView { stored, fleet_no: vehicle.vehicle.fleet_no, channels, entry, results }))
}

/// Channels between two times, thinned to the columns of a screen without losing a peak.
#[utoipa::path(get, operation_id = "recordings_trace", path = "/api/recordings/{id}/trace", params(("id" = i64, Path), Look),
    responses((status = 200, body = Trace), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/api/recordings/{id}/trace")]
pub async fn trace(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    look: web::Query<Look>,
) -> Result<web::Json<Trace>, Problem> {
    let names: Vec<String> =
        look.channels.split(',').map(str::trim).filter(|n| !n.is_empty()).map(str::to_owned).collect();
    let (_, recording) = recording_of(&workshop, *id, Some(names.clone())).await?;
    let zero = recording.time_s.first().copied().unwrap_or(0.0);
    let (from, to) = (look.from_s.unwrap_or(0.0), look.to_s.unwrap_or(recording.span_s()));
    if !(from.is_finite() && to.is_finite() && from < to) {
        return Err(Refusal::new("from_s", "must lie before to_s").into());
    }
    let columns = look.columns.unwrap_or(1200).clamp(10, MOST_COLUMNS);
    reckoned(move || {
        let channels = names
            .iter()
            .filter_map(|name| {
                Some(thin(name, &recording.time_s, recording.channel(name)?, zero + from, zero + to, columns))
            })
            .collect();
        let width = (to - from) / columns as f64;
        let time_s = (0..columns).map(|c| from + width * (c as f64 + 0.5)).collect();
        Ok(web::Json(Trace { from_s: from, to_s: to, time_s, channels }))
    })
    .await
}

/// The misfires of a recording; null when engine speed or a cylinder's counter was not recorded.
#[utoipa::path(get, operation_id = "recordings_misfires", path = "/api/recordings/{id}/misfires", params(("id" = i64, Path)),
    responses((status = 200, body = Option<MisfiresOfRecording>), (status = 404, body = Problem)))]
#[get("/api/recordings/{id}/misfires")]
pub async fn misfires(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
) -> Result<web::Json<Option<MisfiresOfRecording>>, Problem> {
    let (_, recording, engine) = evidence_of(&workshop, *id).await?;
    let knowledge = workshop.knowledge;
    reckoned(move || {
        Ok(web::Json(misfires_of(&engine, &recording, knowledge).map(|(counts, result)| MisfiresOfRecording {
            map: misfire_map(&engine, &recording, &knowledge.evidence),
            counts,
            result,
            cylinders: engine.cylinders,
        })))
    })
    .await
}

/// The trims of a recording; null where it holds no steady closed-loop stretch.
#[utoipa::path(get, operation_id = "recordings_trims", path = "/api/recordings/{id}/trims", params(("id" = i64, Path), Surroundings),
    responses((status = 200, body = Option<TrimsOfRecording>), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/api/recordings/{id}/trims")]
pub async fn trims(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    given: web::Query<Surroundings>,
) -> Result<web::Json<Option<TrimsOfRecording>>, Problem> {
    let (_, recording, engine) = evidence_of(&workshop, *id).await?;
    let knowledge = workshop.knowledge;
    let ambient = Ambient::from(&*given);
    reckoned(move || Ok(web::Json(trims_of(&engine, &recording, ambient, knowledge)?))).await
}

/// The charge pressure of a recording; null where no request was recorded.
#[utoipa::path(get, operation_id = "recordings_boost", path = "/api/recordings/{id}/boost", params(("id" = i64, Path), Surroundings),
    responses((status = 200, body = Option<BoostOfRecording>), (status = 404, body = Problem)))]
#[get("/api/recordings/{id}/boost")]
pub async fn boost(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    given: web::Query<Surroundings>,
) -> Result<web::Json<Option<BoostOfRecording>>, Problem> {
    let (_, recording, _) = evidence_of(&workshop, *id).await?;
    let knowledge = workshop.knowledge;
    let ambient = Ambient::from(&*given);
    if ambient.ambient_kpa.is_some_and(|kpa| !(50.0..=110.0).contains(&kpa)) {
        return Err(Refusal::new("ambient_kpa", "must lie between 50 and 110").into());
    }
    reckoned(move || {
        let Some(result) = boost_of(&recording, ambient, knowledge) else { return Ok(web::Json(None)) };
        let series = boost_samples(&recording, &knowledge.evidence);
        let every = series.len().div_ceil(3000).max(1);
        let (ambient_kpa, ambient_known, ..) = ambient.of(&recording);
        let zero = recording.time_s.first().copied().unwrap_or(0.0);
        let series = series.into_iter().step_by(every).map(|s| BoostSample { time_s: s.time_s - zero, ..s }).collect();
        Ok(web::Json(Some(BoostOfRecording { result, ambient_kpa, ambient_known, series })))
    })
    .await
}

/// All channels of a recording as CSV.
#[utoipa::path(get, operation_id = "recordings_csv", path = "/api/recordings/{id}/channels.csv", params(("id" = i64, Path)),
    responses((status = 200, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/api/recordings/{id}/channels.csv")]
pub async fn csv(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    let stored = in_store(&workshop, move |store| store.recording(id)).await?;
    let recording = in_store(&workshop, move |store| store.load_recording(id, None)).await?;
    let knowledge = workshop.knowledge;
    let text = reckoned(move || {
        let mut text = Vec::new();
        ember_formats::channels_out::write(&recording, &knowledge.channels, &mut text)
            .map_err(|error| Problem::internal(error.to_string()))?;
        Ok(text)
    })
    .await?;
    let name: String =
        stored.name.chars().map(|c| if c.is_ascii_alphanumeric() || c == '-' || c == '.' { c } else { '_' }).collect();
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header(("content-disposition", format!("attachment; filename=\"{name}.channels.csv\"")))
        .body(text))
}

/// Puts a recording on the trail with what it says, and its counts as an entry of their own.
#[utoipa::path(post, operation_id = "recordings_keep", path = "/api/recordings/{id}/keep", params(("id" = i64, Path)), request_body = Keep,
    responses((status = 201, body = JobView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/api/recordings/{id}/keep")]
pub async fn keep(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let keep: Keep = body(&bytes)?;
    let (stored, recording, engine) = evidence_of(&workshop, id).await?;
    let job = stored.job_id;
    let knowledge = workshop.knowledge;
    let findings = reckoned(move || Ok(findings(&stored, &recording, &engine, &keep.conditions, knowledge))).await?;
    in_store(&workshop, move |store| {
        let (_, _, entries) = store.job(job)?;
        let there =
            entries.iter().any(|e| matches!(&e.finding, Finding::Recording { recording, .. } if *recording == id));
        if there && !entries.is_empty() && keep.seen as usize == entries.len() {
            return Err(Refusal::new("recording", "stands on the trail already").into());
        }
        for (index, finding) in findings.into_iter().enumerate() {
            let entry =
                NewEntry { odometer_km: keep.odometer_km, author: keep.author.clone(), replaces: None, finding };
            let key = format!("{}/{index}", keep.request_key);
            store.append(job, &entry, keep.seen + index as u32, &key, Timestamp::now())?;
        }
        Ok(())
    })
    .await?;
    Ok(HttpResponse::Created().json(load(&workshop, job).await?))
}

/// What a recording puts on the trail: itself with its results, and its counts where it holds them.
pub fn findings(
    stored: &StoredRecording,
    recording: &Recording,
    engine: &Engine,
    conditions: &str,
    knowledge: &ember_core::knowledge::Knowledge,
) -> Vec<Finding> {
    let mut found = vec![Finding::Recording {
        recording: stored.id,
        name: stored.name.clone(),
        span_s: stored.about.to_s - stored.about.from_s,
        samples: stored.about.samples,
        channels: stored.about.channels.iter().map(|one| one.name.clone()).collect(),
        conditions: conditions.to_owned(),
        cells: misfire_map(engine, recording, &knowledge.evidence).map_or_else(Vec::new, |map| map.driven()),
        results: results(engine, recording, knowledge),
    }];
    if let Some((counts, _)) = misfires_of(engine, recording, knowledge) {
        found.push(Finding::Counts {
            // Rounded up: a recording that ends in the middle of a turn must not show more misfires than firings.
            revolutions: counts.revolutions.ceil(),
            misfires: counts.misfires,
            windows: counts.windows,
            conditions: conditions.to_owned(),
            source: format!("recording {}", stored.name),
        });
    }
    found
}
