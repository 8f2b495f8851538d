//! Jobs that come from another workshop, and how they went out.

use std::collections::BTreeMap;

use ember_core::refusal::Refusal;
use ember_core::trail::{self, Entry, FileKind, Finding, NewEntry};
use ember_core::vehicle::Vehicle;
use ember_core::waveform::Capture;
use jiff::Timestamp;
use rusqlite::{OptionalExtension, Transaction, TransactionBehavior, params};

use crate::captures::insert_capture;
use crate::error::StoreError;
use crate::recordings::{BroughtRecording, insert_whole};
use crate::search::index;
use crate::store::{JobRecord, Store, insert, job};

/// A capture as it comes, with the number under which the trail names it.
#[derive(Debug, Clone, PartialEq)]
pub struct BroughtCapture {
    pub id: i64,
    pub name: String,
    pub made_at: String,
    pub capture: Capture,
    pub notes: Vec<String>,
}

/// A photograph as it comes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BroughtPhoto {
    pub id: i64,
    pub name: String,
    pub made_at: String,
    pub width: u32,
    pub height: u32,
    pub picture: Vec<u8>,
    pub thumbnail: Vec<u8>,
}

/// A job as it comes.
#[derive(Debug, Clone, PartialEq)]
pub struct BroughtJob {
    pub vehicle: Vehicle,
    pub opened_at: String,
    pub entries: Vec<Entry>,
    pub recordings: Vec<BroughtRecording>,
    pub captures: Vec<BroughtCapture>,
    pub photos: Vec<BroughtPhoto>,
}

impl Store {
    /// The vehicle of a job as it is to go out: of a job that was brought, as it was described where it came from.
    ///
    /// # Errors
    /// The database fails.
    pub fn origin(&self, job_id: i64) -> Result<Option<Vehicle>, StoreError> {
        let body: Option<String> = self
            .lock()
            .prepare_cached("SELECT vehicle FROM job_origin WHERE job_id = ?1")?
            .query_row([job_id], |row| row.get(0))
            .optional()?;
        Ok(body.map(|body| serde_json::from_str(&body)).transpose()?)
    }

    /// Brings back a job that was taken along: its vehicle (the one with this fleet number, if there is one), its whole
    /// trail as it stands, and its recordings, whose numbers on the trail become their numbers here.
    ///
    /// # Errors
    /// The vehicle or an entry is refused; the same job is here already; the database fails.
    pub fn bring_back(&self, brought: &BroughtJob) -> Result<JobRecord, StoreError> {
        let BroughtJob { vehicle: bundled, opened_at, entries, .. } = brought;
        let engine = bundled.checked().map_err(|refusal| refusal.within("vehicle"))?;
        let refuse = |field: &str, reason: &str| StoreError::from(Refusal::new(field, reason));
        if entries.is_empty() {
            return Err(refuse("entries", "is empty"));
        }
        let mut connection = self.lock();
        let transaction = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let known: Option<(i64, String)> = transaction
            .prepare_cached("SELECT id, body FROM vehicle WHERE fleet_no = ?1")?
            .query_row([bundled.fleet_no.trim()], |row| Ok((row.get(0)?, row.get(1)?)))
            .optional()?;
        let vehicle_id = match known {
            Some((id, body)) => {
                let here: Vehicle = serde_json::from_str(&body)?;
                if here.checked().ok().as_ref() != Some(&engine) {
                    let reason = "is another vehicle here: its engine differs";
                    return Err(refuse("vehicle.fleet_no", reason));
                }
                id
            }
            None => {
                transaction.execute(
                    "INSERT INTO vehicle (fleet_no, body) VALUES (?1, ?2)",
                    params![bundled.fleet_no.trim(), serde_json::to_string(bundled)?],
                )?;
                transaction.last_insert_rowid()
            }
        };
        // The same job brought twice would stand in the yard twice.
        let key = format!("bundle {vehicle_id} {opened_at}");
        let here: bool = transaction
            .prepare_cached(
                "SELECT EXISTS (SELECT 1 FROM job WHERE request_key = ?1 OR (vehicle_id = ?2 AND opened_at = ?3))",
            )?
            .query_row(params![key, vehicle_id, opened_at], |row| row.get(0))?;
        if here {
            return Err(refuse("opened_at", "this job is here already"));
        }
        let _: Timestamp = opened_at.parse().map_err(|_| refuse("opened_at", "is no time"))?;
        transaction.execute(
            "INSERT INTO job (vehicle_id, opened_at, request_key) VALUES (?1, ?2, ?3)",
            params![vehicle_id, opened_at, key],
        )?;
        let id = transaction.last_insert_rowid();
        transaction.execute(
            "INSERT INTO job_origin (job_id, vehicle) VALUES (?1, ?2)",
            params![id, serde_json::to_string(bundled)?],
        )?;
        let renumbered = files(&transaction, id, brought)?;
        let mut so_far: Vec<Entry> = Vec::new();
        for (index, entry) in entries.iter().enumerate() {
            let within = |refusal: Refusal| refusal.within(&format!("entries[{index}]"));
            if entry.number as usize != index + 1 {
                return Err(within(Refusal::new("number", "the entries must stand in their order, from 1")).into());
            }
            let at: Timestamp = entry.at.parse().map_err(|_| within(Refusal::new("at", "is no time")))?;
            let mut finding = entry.finding.clone();
            finding.renumber(&mut |kind, number| renumbered.get(&(kind, number)).copied());
            if let Finding::Recording { recording: 0, .. } = finding {
                return Err(within(Refusal::new("finding.recording", "is not among the recordings")).into());
            }
            let new = NewEntry {
                odometer_km: entry.odometer_km,
                author: entry.author.clone(),
                replaces: entry.replaces,
                finding,
            };
            trail::check(&engine, &so_far, &new).map_err(within)?;
            insert(&transaction, id, entry.number, &new, at, &format!("{key}/{}", entry.number))?;
            so_far.push(Entry { finding: new.finding, ..entry.clone() });
        }
        index(&transaction, id, bundled, &so_far)?;
        let record = job(&transaction, id)?;
        transaction.commit()?;
        Ok(record)
    }
}

/// Keeps what comes with a job, and says which number each has here.
fn files(
    transaction: &Transaction<'_>,
    id: i64,
    brought: &BroughtJob,
) -> Result<BTreeMap<(FileKind, i64), i64>, StoreError> {
    let mut numbers = BTreeMap::new();
    for one in &brought.recordings {
        numbers.insert((FileKind::Recording, one.id), insert_whole(transaction, id, one)?);
    }
    for one in &brought.captures {
        let stored = insert_capture(transaction, id, &one.name, &one.capture, one.notes.clone(), &one.made_at)?;
        numbers.insert((FileKind::Capture, one.id), stored.id);
    }
    for one in &brought.photos {
        transaction.execute(
            "INSERT INTO photo (job_id, name, made_at, width, height, picture, thumbnail)
             VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
            params![id, one.name, one.made_at, one.width, one.height, one.picture, one.thumbnail],
        )?;
        numbers.insert((FileKind::Photo, one.id), transaction.last_insert_rowid());
    }
    Ok(numbers)
}
