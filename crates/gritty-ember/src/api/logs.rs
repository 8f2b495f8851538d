//! Logs and captures from files: looked at first, then streamed into a recording, with progress, until cancelled.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use actix_web::{HttpResponse, get, post, web};
use ember_core::recording::{Channel, Recording};
use ember_core::refusal::Refusal;
use ember_formats::capture::{CaptureReader, is_capture};
use ember_formats::log::{HEAD, Layout, LogReader, RowNote};
use ember_store::{RecordingAbout, Store, StoredRecording};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::imports::next_chunk;
use super::{Problem, Workshop, in_store};

/// Bytes that are gathered before they are read away from the threads that answer.
const PIECE: usize = 4 << 20;

/// Progress of the imports that run, by the key their sender chose.
#[derive(Default)]
pub struct Imports(Mutex<BTreeMap<String, ImportProgress>>);

impl Imports {
    fn set(&self, key: &str, now: Option<ImportProgress>) {
        let mut running = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        match now {
            Some(now) => running.insert(key.to_owned(), now),
            None => running.remove(key),
        };
    }
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, ToSchema)]
pub struct ImportProgress {
    pub bytes: u64,
    pub rows: u64,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LogKind {
    Table,
    Capture,
}

/// What a file's beginning was understood as, before anything is kept.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LogLook {
    pub kind: LogKind,
    /// For a table: its layout, as the last file with these headings was read, or guessed.
    pub layout: Option<Layout>,
    pub remembered: bool,
    /// A pressure above ambient is among the columns: the ambient pressure must be given.
    pub needs_ambient: bool,
    /// The channels to choose from.
    pub channels: Vec<Channel>,
    /// The first rows, cell by cell.
    pub sample: Vec<Vec<String>>,
}

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct ImportAs {
    /// The file's name.
    pub name: String,
    /// Any text by which the progress can be asked for.
    pub key: String,
    /// For a table: the layout as JSON, as shown or corrected.
    pub layout: Option<String>,
    /// The ambient pressure in kPa, for pressures above it.
    pub ambient_kpa: Option<f64>,
}

/// A recording that came from a file.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Imported {
    pub recording: StoredRecording,
    pub rows: u64,
    pub left_out: u64,
    pub notes: Vec<RowNote>,
    pub more_notes: u64,
    /// Codes that a capture held.
    pub codes: Vec<String>,
    /// Faults in a capture's framing.
    pub faults: Vec<String>,
}

/// Looks at the beginning of a file and says what it is taken for. Nothing is kept.
#[utoipa::path(post, operation_id = "logs_look", path = "/api/imports/look", request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 200, body = LogLook), (status = 422, body = Problem)))]
#[post("/api/imports/look")]
pub async fn look(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<web::Json<LogLook>, Problem> {
    let book = &workshop.knowledge.channels;
    let channels: Vec<Channel> = book.all().cloned().collect();
    let head = &bytes[..bytes.len().min(HEAD)];
    if is_capture(head) {
        return Ok(web::Json(LogLook {
            kind: LogKind::Capture,
            layout: None,
            remembered: false,
            needs_ambient: false,
            channels,
            sample: Vec::new(),
        }));
    }
    let mut layout = Layout::guess(head, book)?;
    let headings = layout.fingerprint();
    let earlier = in_store(&workshop, move |store| store.column_map(&headings)).await?;
    let earlier: Option<Layout> = earlier.and_then(|text| serde_json::from_str(&text).ok());
    if let Some(earlier) = &earlier {
        layout.remember(earlier);
    }
    let sample = layout.sample(head, 4);
    Ok(web::Json(LogLook {
        kind: LogKind::Table,
        needs_ambient: layout.needs_ambient(),
        remembered: earlier.is_some(),
        layout: Some(layout),
        channels,
        sample,
    }))
}

/// How far an import has come; zero when none of this key runs.
#[utoipa::path(get, operation_id = "logs_progress", path = "/api/imports/{key}", params(("key" = String, Path)),
    responses((status = 200, body = ImportProgress)))]
#[get("/api/imports/{key}")]
pub async fn progress(workshop: web::Data<Workshop>, key: web::Path<String>) -> web::Json<ImportProgress> {
    let running = workshop.imports.0.lock().unwrap_or_else(PoisonError::into_inner);
    web::Json(running.get(key.as_str()).cloned().unwrap_or_default())
}

/// Either reader, with the recording that it fills.
enum Filling {
    Table(Box<LogReader>),
    Capture(Box<CaptureReader<'static>>),
}

struct Import {
    /// Taken out at the end.
    filling: Option<Filling>,
    store: Arc<Store>,
    id: i64,
    part: u32,
    rows: u64,
    /// Set once the recording is complete; otherwise dropping throws it away.
    done: bool,
}

impl Drop for Import {
    fn drop(&mut self) {
        if !self.done {
            // Cancelled, refused or cut off: nothing half-read is left behind.
            let _ = self.store.discard_recording(self.id);
        }
    }
}

fn write<'a>(
    store: &Store,
    id: i64,
    part: &mut u32,
    time_s: &[f64],
    columns: impl Iterator<Item = (&'a str, &'a [f32])>,
) -> Result<(), Refusal> {
    store.add_part(id, *part, time_s, columns).map_err(|error| Refusal::new("file", error.to_string()))?;
    *part += 1;
    Ok(())
}

fn write_whole(store: &Store, id: i64, part: &mut u32, recording: &Recording) -> Result<(), Refusal> {
    let columns = recording.channels.iter().map(|(name, values)| (name.as_str(), values.as_slice()));
    write(store, id, part, &recording.time_s, columns)
}

impl Import {
    fn push(&mut self, piece: &[u8]) -> Result<(), Refusal> {
        let Import { filling, store, id, part, rows, .. } = self;
        match filling {
            None => Ok(()),
            Some(Filling::Table(reader)) => reader.push(piece, &mut |block| {
                *rows += block.time_s.len() as u64;
                write(store, *id, part, block.time_s, block.columns())
            }),
            Some(Filling::Capture(reader)) => {
                reader.push(piece);
                *rows = reader.frames();
                match reader.take_block() {
                    Some(block) => write_whole(store, *id, part, &block),
                    None => Ok(()),
                }
            }
        }
    }

    fn finish(mut self) -> Result<Imported, Problem> {
        let (store, id, mut part) = (Arc::clone(&self.store), self.id, self.part);
        let part = &mut part;
        let imported = match self.filling.take() {
            None => return Err(Problem::internal("the import has ended already".into())),
            Some(Filling::Table(reader)) => {
                let summary = reader.finish(&mut |block| write(&store, id, part, block.time_s, block.columns()))?;
                let span = (summary.from_s, summary.to_s);
                let notes = summary.notes.iter().map(|n| format!("row {}: {}", n.row, n.what)).collect();
                Imported {
                    recording: complete(&store, id, span, summary.rows, summary.channels, notes)?,
                    rows: summary.rows,
                    left_out: summary.left_out,
                    notes: summary.notes,
                    more_notes: summary.more_notes,
                    codes: Vec::new(),
                    faults: Vec::new(),
                }
            }
            Some(Filling::Capture(reader)) => {
                let (rest, summary) = reader.finish()?;
                if summary.rows == 0 {
                    let what = "holds frames but no live data that can be drawn. Use the read command for its codes";
                    return Err(Refusal::new("file", what).into());
                }
                if !rest.is_empty() {
                    write_whole(&store, id, part, &rest)?;
                }
                let told = summary.faults.iter().take(30);
                let faults: Vec<String> = told.map(|f| format!("at {:.3} s, {}: {}", f.time_s, f.id, f.what)).collect();
                let span = (summary.from_s, summary.to_s);
                Imported {
                    recording: complete(&store, id, span, summary.rows, summary.channels, faults.clone())?,
                    rows: summary.rows,
                    left_out: 0,
                    notes: summary.notes,
                    more_notes: summary.more_notes,
                    codes: summary.units.iter().flat_map(|u| u.codes.iter().map(|c| c.code.clone())).collect(),
                    faults,
                }
            }
        };
        self.done = true;
        Ok(imported)
    }
}

/// Completes the recording with what was read of the file.
fn complete(
    store: &Store,
    id: i64,
    (from_s, to_s): (f64, f64),
    samples: u64,
    channels: Vec<(String, u64)>,
    notes: Vec<String>,
) -> Result<StoredRecording, Problem> {
    let channels = channels.into_iter().map(Into::into).collect();
    store.complete_recording(id, &RecordingAbout { from_s, to_s, samples, channels, marks: Vec::new(), notes })?;
    Ok(store.recording(id)?)
}

/// Reads a file into a recording of a job while it arrives. To cancel, stop sending.
#[utoipa::path(post, operation_id = "logs_import", path = "/api/jobs/{id}/logs", params(("id" = i64, Path), ImportAs),
    request_body(content = String, content_type = "application/octet-stream"),
    responses((status = 201, body = Imported), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/api/jobs/{id}/logs")]
pub async fn import(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    query: web::Query<ImportAs>,
    mut payload: web::Payload,
) -> Result<HttpResponse, Problem> {
    let job = *id;
    let query = query.into_inner();
    ember_core::vehicle::line("name", &query.name)?;
    let ambient = query.ambient_kpa.unwrap_or(101.325);
    if !(50.0..=110.0).contains(&ambient) {
        return Err(Refusal::new("ambient_kpa", "must lie between 50 and 110").into());
    }
    let knowledge = workshop.knowledge;
    let layout: Option<Layout> = match &query.layout {
        Some(text) => {
            let value = serde_json::from_str(text)
                .map_err(|error| Problem::bad_request(format!("the layout is no JSON: {error}")))?;
            Some(ember_core::reckon::read(&value).map_err(|refusal| refusal.within("layout"))?)
        }
        None => None,
    };
    let filling = match &layout {
        Some(layout) => {
            if layout.needs_ambient() && query.ambient_kpa.is_none() {
                let what = "must be given: a column holds a pressure above ambient";
                return Err(Refusal::new("ambient_kpa", what).into());
            }
            let reader = LogReader::new(layout, &knowledge.channels, ambient).map_err(|r| r.within("layout"))?;
            Filling::Table(Box::new(reader))
        }
        None => Filling::Capture(Box::new(CaptureReader::new(knowledge))),
    };
    let name = query.name.clone();
    let recording = in_store(&workshop, move |store| store.begin_recording(job, &name, Timestamp::now())).await?;
    let mut import = Import {
        filling: Some(filling),
        store: Arc::clone(&workshop.store),
        id: recording,
        part: 0,
        rows: 0,
        done: false,
    };
    let mut gathered: Vec<u8> = Vec::with_capacity(PIECE);
    let mut bytes = 0u64;
    workshop.imports.set(&query.key, Some(ImportProgress::default()));
    let outcome = loop {
        let chunk = next_chunk(&mut payload).await;
        let last = chunk.is_none();
        match chunk {
            Some(Ok(chunk)) => {
                bytes += chunk.len() as u64;
                gathered.extend_from_slice(&chunk);
            }
            Some(Err(error)) => break Err(Problem::bad_request(format!("the file did not arrive whole: {error}"))),
            None => {}
        }
        if gathered.len() >= PIECE || last {
            let piece = std::mem::take(&mut gathered);
            let read = web::block(move || {
                let result = import.push(&piece);
                (import, result)
            });
            let Ok((back, result)) = read.await else {
                break Err(Problem::internal("the import was interrupted".into()));
            };
            import = back;
            workshop.imports.set(&query.key, Some(ImportProgress { bytes, rows: import.rows }));
            if let Err(refusal) = result {
                break Err(refusal.into());
            }
        }
        if last {
            break match web::block(move || import.finish()).await {
                Ok(imported) => imported,
                Err(_) => Err(Problem::internal("the import was interrupted".into())),
            };
        }
    };
    workshop.imports.set(&query.key, None);
    let imported = outcome?;
    if let Some(layout) = layout {
        let text = serde_json::to_string(&layout).unwrap_or_default();
        in_store(&workshop, move |store| store.remember_column_map(&layout.fingerprint(), &text)).await?;
    }
    Ok(HttpResponse::Created().json(imported))
}
