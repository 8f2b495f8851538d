//! Captures of a scope in the store: whole columns, with a coarse picture of each for drawing.

use ember_core::waveform::{Capture, CaptureChannel};
use jiff::Timestamp;
use rusqlite::{Connection, Row, params};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::error::StoreError;
use crate::store::{Store, job};

/// Samples of which one least and one most are kept.
const COARSE: usize = 256;

#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct CaptureColumn {
    pub name: String,
    pub unit: String,
}

/// What is known of a capture besides its samples.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CaptureAbout {
    pub step_s: f64,
    pub samples: u64,
    pub channels: Vec<CaptureColumn>,
    /// What was noticed while it was read.
    pub notes: Vec<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct StoredCapture {
    pub id: i64,
    pub job_id: i64,
    pub name: String,
    pub made_at: String,
    pub about: CaptureAbout,
}

impl StoredCapture {
    pub fn span_s(&self) -> f64 {
        self.about.step_s * self.about.samples as f64
    }
}

impl Store {
    /// Keeps a capture of a job.
    ///
    /// # Errors
    /// There is no such job; the database fails.
    pub fn add_capture(
        &self,
        job_id: i64,
        name: &str,
        capture: &Capture,
        notes: Vec<String>,
        at: Timestamp,
    ) -> Result<StoredCapture, StoreError> {
        let mut connection = self.lock();
        job(&connection, job_id)?;
        let transaction = connection.transaction()?;
        let stored = insert_capture(&transaction, job_id, name, capture, notes, &at.to_string())?;
        transaction.commit()?;
        Ok(stored)
    }

    /// # Errors
    /// There is no such capture; the database fails.
    pub fn capture(&self, id: i64) -> Result<StoredCapture, StoreError> {
        let connection = self.lock();
        let mut statement =
            connection.prepare_cached("SELECT id, job_id, name, made_at, about FROM capture WHERE id = ?1")?;
        let mut rows = statement.query([id])?;
        match rows.next()? {
            Some(row) => stored(row),
            None => Err(StoreError::NotFound { what: "capture", id }),
        }
    }

    /// The captures of a job, the oldest first.
    ///
    /// # Errors
    /// The database fails.
    pub fn captures(&self, job_id: i64) -> Result<Vec<StoredCapture>, StoreError> {
        let connection = self.lock();
        job(&connection, job_id)?;
        let mut statement = connection
            .prepare_cached("SELECT id, job_id, name, made_at, about FROM capture WHERE job_id = ?1 ORDER BY id")?;
        let mut rows = statement.query([job_id])?;
        let mut list = Vec::new();
        while let Some(row) = rows.next()? {
            list.push(stored(row)?);
        }
        Ok(list)
    }

    /// A capture with all its samples, or with those of some channels only.
    ///
    /// # Errors
    /// There is no such capture; the database fails.
    pub fn load_capture(&self, id: i64, only: Option<&[String]>) -> Result<Capture, StoreError> {
        let about = self.capture(id)?.about;
        let connection = self.lock();
        let mut channels = Vec::new();
        for (index, column) in about.channels.iter().enumerate() {
            if only.is_some_and(|names| !names.contains(&column.name)) {
                continue;
            }
            let samples = connection
                .prepare_cached("SELECT samples FROM capture_channel WHERE capture_id = ?1 AND channel = ?2")?
                .query_row(params![id, index as i64], |row| Ok(floats(row.get_ref(0)?.as_blob()?)))?;
            channels.push(CaptureChannel { name: column.name.clone(), unit: column.unit.clone(), samples });
        }
        Ok(Capture { step_s: about.step_s, channels })
    }

    /// Least and most of a channel in each of `columns` equal stretches between two times. Only what is needed is read:
    /// of a long stretch the coarse picture, of a short one its own samples.
    ///
    /// # Errors
    /// There is no such capture; the database fails.
    pub fn capture_extremes(
        &self,
        id: i64,
        channel: usize,
        from_s: f64,
        to_s: f64,
        columns: usize,
    ) -> Result<(Vec<f32>, Vec<f32>), StoreError> {
        let about = self.capture(id)?.about;
        let count = about.samples as usize;
        let at = |time: f64| ((time / about.step_s).max(0.0) as usize).min(count);
        let (from, to) = (at(from_s), at(to_s).max(at(from_s) + 1).min(count));
        let connection = self.lock();
        let coarse_enough = (to.saturating_sub(from)) / columns.max(1) >= 2 * COARSE;
        let row_id: i64 = connection
            .prepare_cached("SELECT id FROM capture_channel WHERE capture_id = ?1 AND channel = ?2")?
            .query_row(params![id, channel as i64], |row| row.get(0))?;
        if coarse_enough {
            let pairs = read_part(&connection, "coarse", row_id, 2 * (from / COARSE), 2 * to.div_ceil(COARSE))?;
            Ok(thinned(&pairs, 2, columns, |pair| (pair[0], pair[1])))
        } else {
            let samples = read_part(&connection, "samples", row_id, from, to)?;
            Ok(thinned(&samples, 1, columns, |one| (one[0], one[0])))
        }
    }
}

fn stored(row: &Row<'_>) -> Result<StoredCapture, StoreError> {
    Ok(StoredCapture {
        id: row.get(0)?,
        job_id: row.get(1)?,
        name: row.get(2)?,
        made_at: row.get(3)?,
        about: serde_json::from_str(&row.get::<_, String>(4)?)?,
    })
}

/// Reads some floats of a blob without reading the whole.
fn read_part(connection: &Connection, column: &str, row: i64, from: usize, to: usize) -> Result<Vec<f32>, StoreError> {
    let blob = connection.blob_open("main", "capture_channel", column, row, true)?;
    let length = blob.len() / 4;
    let (from, to) = (from.min(length), to.min(length));
    let mut bytes = vec![0u8; 4 * (to - from)];
    blob.read_at_exact(&mut bytes, 4 * from)?;
    Ok(floats(&bytes))
}

/// Least and most of each column; where there are fewer items than columns, each column shows the one it lies in.
fn thinned(values: &[f32], width: usize, columns: usize, ends: impl Fn(&[f32]) -> (f32, f32)) -> (Vec<f32>, Vec<f32>) {
    let items = values.len() / width;
    if items == 0 {
        return (Vec::new(), Vec::new());
    }
    // A short stretch has no more columns than samples: none is drawn twice.
    let columns = columns.min(items);
    (0..columns)
        .map(|column| {
            let from = column * items / columns;
            let to = (column + 1) * items / columns;
            values[from * width..to * width]
                .chunks_exact(width)
                .map(&ends)
                .fold((f32::INFINITY, f32::NEG_INFINITY), |(low, high), (least, most)| (low.min(least), high.max(most)))
        })
        .unzip()
}

fn coarse(samples: &[f32]) -> Vec<f32> {
    samples
        .chunks(COARSE)
        .flat_map(|part| {
            let ends =
                part.iter().fold((f32::INFINITY, f32::NEG_INFINITY), |(low, high), &v| (low.min(v), high.max(v)));
            [ends.0, ends.1]
        })
        .collect()
}

fn bytes_of(values: &[f32]) -> Vec<u8> {
    values.iter().flat_map(|value| value.to_le_bytes()).collect()
}

fn floats(bytes: &[u8]) -> Vec<f32> {
    bytes.chunks_exact(4).map(|b| f32::from_le_bytes(b.try_into().unwrap_or_default())).collect()
}

/// Keeps a capture with its channels.
pub(crate) fn insert_capture(
    connection: &Connection,
    job_id: i64,
    name: &str,
    capture: &Capture,
    notes: Vec<String>,
    at: &str,
) -> Result<StoredCapture, StoreError> {
    let columns = |channel: &CaptureChannel| CaptureColumn { name: channel.name.clone(), unit: channel.unit.clone() };
    let about = CaptureAbout {
        step_s: capture.step_s,
        samples: capture.samples() as u64,
        channels: capture.channels.iter().map(columns).collect(),
        notes,
    };
    connection.execute(
        "INSERT INTO capture (job_id, name, made_at, about) VALUES (?1, ?2, ?3, ?4)",
        params![job_id, name, at, serde_json::to_string(&about)?],
    )?;
    let id = connection.last_insert_rowid();
    for (index, channel) in capture.channels.iter().enumerate() {
        connection.execute(
            "INSERT INTO capture_channel (capture_id, channel, coarse, samples) VALUES (?1, ?2, ?3, ?4)",
            params![id, index as i64, bytes_of(&coarse(&channel.samples)), bytes_of(&channel.samples)],
        )?;
    }
    Ok(StoredCapture { id, job_id, name: name.into(), made_at: at.to_owned(), about })
}
