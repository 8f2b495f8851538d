//! Recordings in the store: written in parts as they come, read by the channel.

use std::collections::BTreeMap;

use ember_core::recording::Recording;
use jiff::Timestamp;
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::error::StoreError;
use crate::store::{Store, job};

/// The name under which the times stand among the channels.
const TIME: &str = "";

/// Something that happened at a moment of a recording.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TimeMark {
    pub time_s: f64,
    pub label: String,
}

/// A channel of a recording and how many values were taken of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ChannelCount {
    pub name: String,
    pub values: u64,
}

impl From<(String, u64)> for ChannelCount {
    fn from((name, values): (String, u64)) -> ChannelCount {
        ChannelCount { name, values }
    }
}

/// What is known of a complete recording besides its channels.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RecordingAbout {
    pub from_s: f64,
    pub to_s: f64,
    pub samples: u64,
    pub channels: Vec<ChannelCount>,
    /// Codes as they came.
    #[serde(default)]
    pub marks: Vec<TimeMark>,
    /// What was noticed while it was read or recorded.
    #[serde(default)]
    pub notes: Vec<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct StoredRecording {
    pub id: i64,
    pub job_id: i64,
    pub name: String,
    pub made_at: String,
    pub about: RecordingAbout,
}

/// A recording that comes with a job from elsewhere, under the number it had there.
#[derive(Debug, Clone, PartialEq)]
pub struct BroughtRecording {
    pub id: i64,
    pub name: String,
    pub made_at: String,
    pub recording: Recording,
    pub marks: Vec<TimeMark>,
    pub notes: Vec<String>,
}

impl Store {
    /// Begins a recording on a job and gives its number.
    ///
    /// # Errors
    /// There is no such job; the database fails.
    pub fn begin_recording(&self, job_id: i64, name: &str, at: Timestamp) -> Result<i64, StoreError> {
        let connection = self.lock();
        job(&connection, job_id)?;
        connection.execute(
            "INSERT INTO recording (job_id, name, made_at) VALUES (?1, ?2, ?3)",
            params![job_id, name, at.to_string()],
        )?;
        Ok(connection.last_insert_rowid())
    }

    /// Adds a part: times, and channels with as many values.
    ///
    /// # Errors
    /// The database fails.
    pub fn add_part<'a>(
        &self,
        id: i64,
        part: u32,
        time_s: &[f64],
        columns: impl Iterator<Item = (&'a str, &'a [f32])>,
    ) -> Result<(), StoreError> {
        let mut connection = self.lock();
        let transaction = connection.transaction()?;
        insert_part(&transaction, id, part, time_s, columns)?;
        transaction.commit()?;
        Ok(())
    }

    /// Completes a recording; from then on it is never changed.
    ///
    /// # Errors
    /// The database fails.
    pub fn complete_recording(&self, id: i64, about: &RecordingAbout) -> Result<(), StoreError> {
        self.lock()
            .execute("UPDATE recording SET about = ?2 WHERE id = ?1", params![id, serde_json::to_string(about)?])?;
        Ok(())
    }

    /// Throws away a recording that was not completed.
    ///
    /// # Errors
    /// The recording is complete; the database fails.
    pub fn discard_recording(&self, id: i64) -> Result<(), StoreError> {
        let mut connection = self.lock();
        let transaction = connection.transaction()?;
        transaction.execute("DELETE FROM recording_part WHERE recording_id = ?1", [id])?;
        transaction.execute("DELETE FROM recording WHERE id = ?1", [id])?;
        transaction.commit()?;
        Ok(())
    }

    /// Throws away what was begun and not completed: a server that was stopped left it behind.
    ///
    /// # Errors
    /// The database fails.
    pub fn discard_unfinished(&self) -> Result<usize, StoreError> {
        let unfinished: Vec<i64> = {
            let connection = self.lock();
            let mut statement = connection.prepare("SELECT id FROM recording WHERE about IS NULL")?;
            let rows = statement.query_map([], |row| row.get(0))?;
            rows.collect::<Result<_, _>>()?
        };
        for &id in &unfinished {
            self.discard_recording(id)?;
        }
        Ok(unfinished.len())
    }

    /// The complete recordings of a job, the oldest first.
    ///
    /// # Errors
    /// The database fails.
    pub fn recordings(&self, job_id: i64) -> Result<Vec<StoredRecording>, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached(
            "SELECT id, job_id, name, made_at, about FROM recording
             WHERE job_id = ?1 AND about IS NOT NULL ORDER BY id",
        )?;
        let mut rows = statement.query([job_id])?;
        let mut list = Vec::new();
        while let Some(row) = rows.next()? {
            list.push(stored(row)?);
        }
        Ok(list)
    }

    /// Numbers and times of a job's recordings, the one that is still being made too, and whether each is complete.
    ///
    /// # Errors
    /// The database fails.
    pub fn recordings_with_unfinished(&self, job_id: i64) -> Result<Vec<(i64, String, bool)>, StoreError> {
        let connection = self.lock();
        let mut statement = connection
            .prepare_cached("SELECT id, made_at, about IS NOT NULL FROM recording WHERE job_id = ?1 ORDER BY id")?;
        let rows = statement.query_map([job_id], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// # Errors
    /// There is no such recording, or it is not complete; the database fails.
    pub fn recording(&self, id: i64) -> Result<StoredRecording, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached(
            "SELECT id, job_id, name, made_at, about FROM recording WHERE id = ?1 AND about IS NOT NULL",
        )?;
        let mut rows = statement.query([id])?;
        match rows.next()? {
            Some(row) => stored(row),
            None => Err(StoreError::NotFound { what: "recording", id }),
        }
    }

    /// The columns of a recording, all or only some channels.
    ///
    /// # Errors
    /// The database fails.
    pub fn load_recording(&self, id: i64, only: Option<&[String]>) -> Result<Recording, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached(
            "SELECT part, bytes FROM recording_part WHERE recording_id = ?1 AND channel = ?2 ORDER BY part",
        )?;
        let mut time_s: Vec<f64> = Vec::new();
        let mut begins: BTreeMap<u32, (usize, usize)> = BTreeMap::new();
        let mut rows = statement.query(params![id, TIME])?;
        while let Some(row) = rows.next()? {
            let bytes = row.get_ref(1)?.as_blob().unwrap_or_default();
            let begin = time_s.len();
            time_s.extend(bytes.chunks_exact(8).map(|b| f64::from_le_bytes(b.try_into().unwrap_or_default())));
            begins.insert(row.get(0)?, (begin, time_s.len()));
        }
        drop(rows);
        let names: Vec<String> = match only {
            Some(names) => names.to_vec(),
            None => {
                let mut statement = connection.prepare_cached(
                    "SELECT DISTINCT channel FROM recording_part WHERE recording_id = ?1 AND channel <> ?2",
                )?;
                let rows = statement.query_map(params![id, TIME], |row| row.get(0))?;
                rows.collect::<Result<_, _>>()?
            }
        };
        let mut channels = BTreeMap::new();
        for name in names {
            let mut values = Vec::new();
            let mut rows = statement.query(params![id, name])?;
            while let Some(row) = rows.next()? {
                if values.is_empty() {
                    values = vec![f32::NAN; time_s.len()];
                }
                let Some(&(begin, end)) = begins.get(&row.get(0)?) else { continue };
                let bytes = row.get_ref(1)?.as_blob().unwrap_or_default();
                for (place, b) in values[begin..end].iter_mut().zip(bytes.chunks_exact(4)) {
                    *place = f32::from_le_bytes(b.try_into().unwrap_or_default());
                }
            }
            if !values.is_empty() {
                channels.insert(name, values);
            }
        }
        Ok(Recording { time_s, channels })
    }

    /// How the columns of files with these headings were understood the last time, as JSON.
    ///
    /// # Errors
    /// The database fails.
    pub fn column_map(&self, headings: &str) -> Result<Option<String>, StoreError> {
        Ok(self
            .lock()
            .prepare_cached("SELECT layout FROM column_map WHERE headings = ?1")?
            .query_row([headings], |row| row.get(0))
            .optional()?)
    }

    /// # Errors
    /// The database fails.
    pub fn remember_column_map(&self, headings: &str, layout: &str) -> Result<(), StoreError> {
        self.lock().execute(
            "INSERT INTO column_map (headings, layout) VALUES (?1, ?2)
             ON CONFLICT (headings) DO UPDATE SET layout = excluded.layout",
            params![headings, layout],
        )?;
        Ok(())
    }
}

fn stored(row: &rusqlite::Row<'_>) -> Result<StoredRecording, StoreError> {
    Ok(StoredRecording {
        id: row.get(0)?,
        job_id: row.get(1)?,
        name: row.get(2)?,
        made_at: row.get(3)?,
        about: serde_json::from_str(&row.get::<_, String>(4)?)?,
    })
}

fn insert_part<'a>(
    connection: &Connection,
    id: i64,
    part: u32,
    time_s: &[f64],
    columns: impl Iterator<Item = (&'a str, &'a [f32])>,
) -> Result<(), StoreError> {
    let mut statement = connection
        .prepare_cached("INSERT INTO recording_part (recording_id, part, channel, bytes) VALUES (?1, ?2, ?3, ?4)")?;
    let times: Vec<u8> = time_s.iter().flat_map(|t| t.to_le_bytes()).collect();
    statement.execute(params![id, part, TIME, times])?;
    for (name, values) in columns {
        // A channel of which nothing was taken in this part needs no room.
        if values.iter().all(|v| v.is_nan()) {
            continue;
        }
        let bytes: Vec<u8> = values.iter().flat_map(|v| v.to_le_bytes()).collect();
        statement.execute(params![id, part, name, bytes])?;
    }
    Ok(())
}

/// A whole recording at once, within a transaction of the caller.
pub(crate) fn insert_whole(
    connection: &Connection,
    job_id: i64,
    brought: &BroughtRecording,
) -> Result<i64, StoreError> {
    let recording = &brought.recording;
    let count = |values: &Vec<f32>| values.iter().filter(|v| !v.is_nan()).count() as u64;
    let about = RecordingAbout {
        from_s: recording.time_s.first().copied().unwrap_or(0.0),
        to_s: recording.time_s.last().copied().unwrap_or(0.0),
        samples: recording.len() as u64,
        channels: recording.channels.iter().map(|(name, values)| (name.clone(), count(values)).into()).collect(),
        marks: brought.marks.clone(),
        notes: brought.notes.clone(),
    };
    connection.execute(
        "INSERT INTO recording (job_id, name, made_at, about) VALUES (?1, ?2, ?3, ?4)",
        params![job_id, brought.name, brought.made_at, serde_json::to_string(&about)?],
    )?;
    let id = connection.last_insert_rowid();
    let columns = recording.channels.iter().map(|(name, values)| (name.as_str(), values.as_slice()));
    insert_part(connection, id, 0, &recording.time_s, columns)?;
    Ok(id)
}
