//! Captures of a scope: taken from files, drawn without losing a needle, and read for what they say.

use std::sync::Arc;

use actix_web::{HttpResponse, get, post, web};
use ember_core::bench::{Measured, MeasuredWhere, Measurement};
use ember_core::recording::Thinned;
use ember_core::refusal::Refusal;
use ember_core::trail::{Finding, NewEntry};
use ember_core::waveform::{WaveformAsk, WaveformResult, waveform};
use ember_formats::waveform::{self as files, CsvWaveReader, WaveLimits, WaveOptions, WaveRead};
use ember_sim::instruments::{SimProbe, capture};
use ember_store::StoredCapture;
use jiff::Timestamp;
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};

use super::bench::{next_seed, not_simulated, only_simulated};
use super::imports::next_chunk;
use super::jobs::{JobView, load};
use super::recordings::Trace;
use super::{Problem, Workshop, body, in_store};

/// The largest file: ten million rows of four channels with long numbers.
const LARGEST: usize = 900 * 1024 * 1024;
/// A WAV is gathered whole, a table is read as it comes.
const LARGEST_WAV: usize = 600 * 1024 * 1024;
const PIECE: usize = 8 << 20;
const MOST_COLUMNS: usize = 4000;

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct CaptureAs {
    /// The file's name.
    pub name: String,
    /// What the file does not say of itself, as JSON: `{"rate_hz": 48000, "scales": {"channel 1": {"factor": 100, "unit": "A"}}}`.
    pub options: Option<String>,
}

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct Stretch {
    /// The channels' places in the capture, from 0, with commas between them; left out: all.
    pub channels: Option<String>,
    pub from_s: Option<f64>,
    pub to_s: Option<f64>,
    pub columns: Option<usize>,
}

#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Probe {
    pub probe: SimProbe,
}

/// The captures of a job.
#[utoipa::path(get, operation_id = "captures_list", path = "/api/jobs/{id}/captures", params(("id" = i64, Path)),
    responses((status = 200, body = Vec<StoredCapture>)))]
#[get("/api/jobs/{id}/captures")]
pub async fn list(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    Ok(HttpResponse::Ok().json(in_store(&workshop, move |store| store.captures(id)).await?))
}

/// What has come of the file so far.
enum Coming {
    Nothing,
    Wav(Vec<u8>),
    Table(Box<CsvWaveReader>),
}

impl Coming {
    fn push(self, piece: Vec<u8>, options: &WaveOptions) -> Result<Coming, Refusal> {
        Ok(match self {
            Coming::Nothing if files::is_wav(&piece) => Coming::Wav(piece),
            Coming::Nothing => {
                let mut reader = CsvWaveReader::new(options);
                reader.push(&piece)?;
                Coming::Table(Box::new(reader))
            }
            Coming::Wav(mut bytes) => {
                if bytes.len() + piece.len() > LARGEST_WAV {
                    return Err(Refusal::new("file", format!("is larger than {} MB", LARGEST_WAV >> 20)));
                }
                bytes.extend(piece);
                Coming::Wav(bytes)
            }
            Coming::Table(mut reader) => {
                reader.push(&piece)?;
                Coming::Table(reader)
            }
        })
    }

    fn finish(self, options: &WaveOptions) -> Result<WaveRead, Refusal> {
        match self {
            Coming::Nothing => Err(Refusal::new("file", "is empty")),
            Coming::Wav(bytes) => files::read_wav(&bytes, options),
            Coming::Table(reader) => reader.finish(),
        }
    }
}

/// Reads a capture from a CSV or a WAV and keeps it.
#[utoipa::path(post, operation_id = "captures_take", path = "/api/jobs/{id}/captures", params(("id" = i64, Path), CaptureAs),
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 201, body = StoredCapture), (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/captures")]
pub async fn take(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    query: web::Query<CaptureAs>,
    mut payload: web::Payload,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let query = query.into_inner();
    ember_core::vehicle::line("name", &query.name)?;
    let mut options = match &query.options {
        None => WaveOptions::default(),
        Some(text) => {
            let value = serde_json::from_str(text)
                .map_err(|error| Problem::bad_request(format!("the options are no JSON: {error}")))?;
            ember_core::reckon::read(&value).map_err(|refusal| refusal.within("options"))?
        }
    };
    in_store(&workshop, move |store| store.job(id)).await?;
    let figures = &workshop.knowledge.bench.waveform;
    options.limits = Some(WaveLimits { samples: figures.limit_samples, channels: figures.limit_channels });
    let options = Arc::new(options);
    let mut coming = Coming::Nothing;
    let mut gathered: Vec<u8> = Vec::with_capacity(PIECE);
    let mut received = 0;
    let mut refused: Option<Refusal> = None;
    loop {
        let chunk = next_chunk(&mut payload).await;
        let last = chunk.is_none();
        if let Some(chunk) = chunk {
            let chunk = chunk.map_err(|e| Problem::bad_request(format!("the file did not arrive whole: {e}")))?;
            received += chunk.len();
            if received > LARGEST && refused.is_none() {
                refused = Some(Refusal::new("file", format!("is larger than {} MB", LARGEST >> 20)));
            }
            // What is refused is still taken off the line, so that the answer is heard.
            if refused.is_none() {
                gathered.extend_from_slice(&chunk);
            }
        }
        if refused.is_none() && !gathered.is_empty() && (gathered.len() >= PIECE || last) {
            let piece = std::mem::take(&mut gathered);
            let with = Arc::clone(&options);
            let read = web::block(move || coming.push(piece, &with)).await;
            match read.map_err(|_| Problem::internal("the reading was interrupted".into()))? {
                Ok(further) => coming = further,
                Err(refusal) => {
                    refused = Some(refusal);
                    coming = Coming::Nothing;
                }
            }
        }
        if last {
            break;
        }
    }
    if let Some(refusal) = refused {
        return Err(if received > LARGEST { Problem::too_large(refusal) } else { refusal.into() });
    }
    let read = web::block(move || coming.finish(&options))
        .await
        .map_err(|_| Problem::internal("the reading was interrupted".into()))??;
    let stored = in_store(&workshop, move |store| {
        store.add_capture(id, &query.name, &read.capture, read.notes, Timestamp::now())
    })
    .await?;
    Ok(HttpResponse::Created().json(stored))
}

/// Captures something with the simulated scope.
#[utoipa::path(post, operation_id = "captures_simulate", path = "/api/jobs/{id}/captures/simulated", params(("id" = i64, Path)),
    request_body = Probe, responses((status = 201, body = StoredCapture), (status = 404, body = Problem)))]
#[post("/api/jobs/{id}/captures/simulated")]
pub async fn simulate(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let Probe { probe } = body(&bytes)?;
    only_simulated(&workshop)?;
    let (_, vehicle, _) = in_store(&workshop, move |store| store.job(id)).await?;
    let engine = vehicle.vehicle.checked()?;
    let fleet_no = vehicle.vehicle.fleet_no.clone();
    let captured = web::block(move || capture(&fleet_no, &engine, probe, next_seed()))
        .await
        .map_err(|_| Problem::internal("the capture was interrupted".into()))?
        .map_err(not_simulated)?;
    let name = serde_json::to_value(probe).ok().and_then(|v| v.as_str().map(|s| s.replace('-', " ")));
    let name = format!("{}, simulated", name.unwrap_or_default());
    let stored =
        in_store(&workshop, move |store| store.add_capture(id, &name, &captured, Vec::new(), Timestamp::now())).await?;
    Ok(HttpResponse::Created().json(stored))
}

/// One capture.
#[utoipa::path(get, operation_id = "captures_show", path = "/api/captures/{id}", params(("id" = i64, Path)),
    responses((status = 200, body = StoredCapture), (status = 404, body = Problem)))]
#[get("/api/captures/{id}")]
pub async fn show(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    Ok(HttpResponse::Ok().json(in_store(&workshop, move |store| store.capture(id)).await?))
}

/// Channels between two times, thinned to the columns of a screen without losing a needle.
#[utoipa::path(get, operation_id = "captures_trace", path = "/api/captures/{id}/trace", params(("id" = i64, Path), Stretch),
    responses((status = 200, body = Trace), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/api/captures/{id}/trace")]
pub async fn trace(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    look: web::Query<Stretch>,
) -> Result<web::Json<Trace>, Problem> {
    let id = *id;
    let look = look.into_inner();
    let stored = in_store(&workshop, move |store| store.capture(id)).await?;
    let (from_s, to_s) = (look.from_s.unwrap_or(0.0), look.to_s.unwrap_or(stored.span_s()));
    if !(from_s.is_finite() && to_s.is_finite() && from_s < to_s) {
        return Err(Refusal::new("from_s", "must lie before to_s").into());
    }
    let columns = look.columns.unwrap_or(1200).clamp(10, MOST_COLUMNS);
    let wanted: Vec<usize> = match &look.channels {
        None => (0..stored.about.channels.len()).collect(),
        Some(text) => text.split(',').filter_map(|n| n.trim().parse().ok()).collect(),
    };
    if wanted.iter().any(|&index| index >= stored.about.channels.len()) {
        return Err(Refusal::new("channels", "there is no such channel").into());
    }
    let channels = in_store(&workshop, move |store| {
        wanted
            .into_iter()
            .map(|index| {
                let (low, high) = store.capture_extremes(id, index, from_s, to_s, columns)?;
                let ends = |values: &[f32], pick: fn(f32, f32) -> f32| values.iter().copied().reduce(pick);
                Ok(Thinned {
                    channel: stored.about.channels[index].name.clone(),
                    least: ends(&low, f32::min),
                    most: ends(&high, f32::max),
                    low: low.into_iter().map(Some).collect(),
                    high: high.into_iter().map(Some).collect(),
                })
            })
            .collect::<Result<Vec<_>, _>>()
    })
    .await?;
    // A short stretch has fewer samples than the screen has columns.
    let drawn = channels.iter().map(|one| one.low.len()).max().unwrap_or(0);
    let time_s = (0..drawn).map(|at| from_s + (to_s - from_s) * (at as f64 + 0.5) / drawn as f64).collect();
    Ok(web::Json(Trace { from_s, to_s, time_s, channels }))
}

/// Reads a capture for what is asked of it. Nothing is put on the trail.
#[utoipa::path(post, operation_id = "captures_analyse", path = "/api/captures/{id}/read", params(("id" = i64, Path)), request_body = WaveformAsk,
    responses((status = 200, body = WaveformResult), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/api/captures/{id}/read")]
pub async fn analyse(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<web::Json<WaveformResult>, Problem> {
    let ask: WaveformAsk = body(&bytes)?;
    Ok(web::Json(read(&workshop, *id, ask).await?.1))
}

/// A capture with what it says.
async fn read(
    workshop: &web::Data<Workshop>,
    id: i64,
    ask: WaveformAsk,
) -> Result<(StoredCapture, WaveformResult), Problem> {
    let named = ask.signals.iter().map(|s| s.channel.clone()).chain(ask.sync.clone()).chain(ask.second.clone());
    let names: Vec<String> = named.collect();
    let (stored, vehicle, capture) = in_store(workshop, move |store| {
        let stored = store.capture(id)?;
        let (_, vehicle, _) = store.job(stored.job_id)?;
        Ok((stored, vehicle, store.load_capture(id, Some(&names))?))
    })
    .await?;
    let engine = vehicle.vehicle.checked()?;
    let knowledge = workshop.knowledge;
    let result = web::block(move || waveform(&capture, &ask, &engine, &knowledge.bench))
        .await
        .map_err(|_| Problem::internal("the reading was interrupted".into()))??;
    Ok((stored, result))
}

/// Puts what a capture says on the trail.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeepReading {
    pub ask: WaveformAsk,
    pub odometer_km: f64,
    pub author: String,
    /// Which scope, and which probe or clamp.
    pub instrument: String,
    #[serde(default)]
    pub conditions: String,
    #[serde(default)]
    pub text: String,
    #[serde(default)]
    pub place: MeasuredWhere,
    pub seen: u32,
    pub request_key: String,
}

/// Reads a capture once more and puts what it says on the trail.
#[utoipa::path(post, operation_id = "captures_keep", path = "/api/captures/{id}/keep", params(("id" = i64, Path)), request_body = KeepReading,
    responses((status = 201, body = JobView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/api/captures/{id}/keep")]
pub async fn keep(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    let id = *id;
    let keep: KeepReading = body(&bytes)?;
    let (stored, result) = read(&workshop, id, keep.ask.clone()).await?;
    let job = stored.job_id;
    let finding = Finding::Measured(Box::new(Measured {
        reading: Measurement::Waveform {
            capture: id,
            name: stored.name,
            ask: keep.ask,
            verdict: result.verdict,
            right: result.right,
            says: result.says,
            figures: result.figures,
            odd: result.odd,
        },
        target: None,
        place: keep.place,
        instrument: keep.instrument,
        conditions: keep.conditions,
        text: keep.text,
    }));
    let entry = NewEntry { odometer_km: keep.odometer_km, author: keep.author, replaces: None, finding };
    in_store(&workshop, move |store| store.append(job, &entry, keep.seen, &keep.request_key, Timestamp::now())).await?;
    Ok(HttpResponse::Created().json(load(&workshop, job).await?))
}

/// All samples of a capture as CSV.
#[utoipa::path(get, operation_id = "captures_csv", path = "/api/captures/{id}/samples.csv", params(("id" = i64, Path)),
    responses((status = 200, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/api/captures/{id}/samples.csv")]
pub async fn csv(workshop: web::Data<Workshop>, id: web::Path<i64>) -> Result<HttpResponse, Problem> {
    let id = *id;
    let (stored, capture) =
        in_store(&workshop, move |store| Ok((store.capture(id)?, store.load_capture(id, None)?))).await?;
    let text = web::block(move || {
        let mut text = Vec::new();
        files::write(&capture, &mut text).map(|()| text)
    })
    .await
    .map_err(|_| Problem::internal("the writing was interrupted".into()))?
    .map_err(|error| Problem::internal(error.to_string()))?;
    let safe = |c: char| if c.is_ascii_alphanumeric() || "-.".contains(c) { c } else { '_' };
    let name: String = stored.name.chars().map(safe).collect();
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header(("content-disposition", format!("attachment; filename=\"{name}.samples.csv\"")))
        .body(text))
}
