//! Reading and writing the store.

use std::path::Path;
use std::sync::{Mutex, MutexGuard, PoisonError};

use ember_core::trail::{self, Entry, NewEntry};
use ember_core::vehicle::Vehicle;
use jiff::Timestamp;
use rusqlite::{Connection, OptionalExtension, Row, Transaction, TransactionBehavior, params};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::error::StoreError;
use crate::schema::migrations;
use crate::search::index;

/// A vehicle with its number in the store.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct StoredVehicle {
    pub id: i64,
    #[serde(flatten)]
    pub vehicle: Vehicle,
}

/// A job without its trail.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct JobRecord {
    pub id: i64,
    pub vehicle_id: i64,
    /// RFC 3339 in UTC.
    pub opened_at: String,
}

/// A job as it is opened: a vehicle and the first entry of its trail.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewJob {
    pub vehicle_id: i64,
    pub first: NewEntry,
    /// Any text that is different for every job; the same again gives the same job.
    pub request_key: String,
}

/// One data folder. Calls may come from any thread; they take turns.
pub struct Store {
    connection: Mutex<Connection>,
}

impl Store {
    /// Opens the store in a folder, which is made if it does not exist, and brings its tables up to date.
    ///
    /// # Errors
    /// The folder cannot be made; the file is no database; a migration fails.
    pub fn open(folder: &Path) -> Result<Store, StoreError> {
        std::fs::create_dir_all(folder)?;
        Store::with(Connection::open(folder.join(crate::backup::DATABASE))?)
    }

    /// A store that lives as long as the process.
    ///
    /// # Errors
    /// As [`Store::open`].
    pub fn in_memory() -> Result<Store, StoreError> {
        Store::with(Connection::open_in_memory()?)
    }

    fn with(mut connection: Connection) -> Result<Store, StoreError> {
        connection.pragma_update(None, "journal_mode", "WAL")?;
        // FULL: an acknowledged entry is on the disk, not only in the system's memory.
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "foreign_keys", true)?;
        connection.busy_timeout(std::time::Duration::from_secs(5))?;
        migrations().to_latest(&mut connection)?;
        let store = Store { connection: Mutex::new(connection) };
        store.index_missing()?;
        Ok(store)
    }

    pub(crate) fn lock(&self) -> MutexGuard<'_, Connection> {
        // A panic in another call leaves no half-written state behind: its transaction was rolled back.
        self.connection.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// All vehicles, by fleet number.
    ///
    /// # Errors
    /// The database fails.
    pub fn vehicles(&self) -> Result<Vec<StoredVehicle>, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached("SELECT id, body FROM vehicle ORDER BY fleet_no")?;
        let rows = statement.query_map([], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?)))?;
        rows.map(|row| {
            let (id, body) = row?;
            Ok(StoredVehicle { id, vehicle: serde_json::from_str(&body)? })
        })
        .collect()
    }

    /// # Errors
    /// There is no such vehicle; the database fails.
    pub fn vehicle(&self, id: i64) -> Result<StoredVehicle, StoreError> {
        vehicle(&self.lock(), id)
    }

    /// Adds a vehicle.
    ///
    /// # Errors
    /// The vehicle is refused, or its fleet number is taken.
    pub fn add_vehicle(&self, new: &Vehicle) -> Result<StoredVehicle, StoreError> {
        new.checked()?;
        let connection = self.lock();
        let taken: bool = connection
            .prepare_cached("SELECT EXISTS (SELECT 1 FROM vehicle WHERE fleet_no = ?1)")?
            .query_row([new.fleet_no.trim()], |row| row.get(0))?;
        if taken {
            let reason = format!("{} is another vehicle already", new.fleet_no.trim());
            return Err(ember_core::refusal::Refusal::new("fleet_no", reason).into());
        }
        connection.execute(
            "INSERT INTO vehicle (fleet_no, body) VALUES (?1, ?2)",
            params![new.fleet_no.trim(), serde_json::to_string(new)?],
        )?;
        Ok(StoredVehicle { id: connection.last_insert_rowid(), vehicle: new.clone() })
    }

    /// All jobs, the newest first.
    ///
    /// # Errors
    /// The database fails.
    pub fn jobs(&self) -> Result<Vec<JobRecord>, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached("SELECT id, vehicle_id, opened_at FROM job ORDER BY id DESC")?;
        let rows = statement.query_map([], job_record)?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// A job with its vehicle and its whole trail, all of one moment.
    ///
    /// # Errors
    /// There is no such job; the database fails.
    pub fn job(&self, id: i64) -> Result<(JobRecord, StoredVehicle, Vec<Entry>), StoreError> {
        let mut connection = self.lock();
        let transaction = connection.transaction()?;
        let record = job(&transaction, id)?;
        let vehicle = vehicle(&transaction, record.vehicle_id)?;
        let entries = entries(&transaction, id)?;
        Ok((record, vehicle, entries))
    }

    /// Opens a job with the first entry of its trail, both or neither.
    ///
    /// # Errors
    /// No such vehicle; the entry is refused; the database fails.
    pub fn open_job(&self, new: &NewJob, at: Timestamp) -> Result<JobRecord, StoreError> {
        let mut connection = self.lock();
        let transaction = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let known: Option<JobRecord> = transaction
            .prepare_cached("SELECT id, vehicle_id, opened_at FROM job WHERE request_key = ?1")?
            .query_row([&new.request_key], job_record)
            .optional()?;
        if let Some(known) = known {
            return Ok(known);
        }
        let of = vehicle(&transaction, new.vehicle_id)?.vehicle;
        let engine = of.checked()?;
        trail::check(&engine, &[], &new.first).map_err(|refusal| refusal.within("first"))?;
        transaction.execute(
            "INSERT INTO job (vehicle_id, opened_at, request_key) VALUES (?1, ?2, ?3)",
            params![new.vehicle_id, at.to_string(), new.request_key],
        )?;
        let id = transaction.last_insert_rowid();
        insert(&transaction, id, 1, &new.first, at, &format!("{}/first", new.request_key))?;
        index(&transaction, id, &of, &entries(&transaction, id)?)?;
        let record = job(&transaction, id)?;
        transaction.commit()?;
        Ok(record)
    }

    /// Adds an entry to a job's trail.
    ///
    /// `seen` is the number of entries that the writer has seen. If the trail has grown since, nothing is written.
    /// The same entry again under the same `request_key` gives the one that it made the first time; another entry under
    /// that key is told that the trail has grown.
    ///
    /// # Errors
    /// No such job; a stale view; a refused entry; the database fails.
    pub fn append(
        &self,
        job_id: i64,
        new: &NewEntry,
        seen: u32,
        request_key: &str,
        at: Timestamp,
    ) -> Result<Entry, StoreError> {
        let mut connection = self.lock();
        let transaction = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        let record = job(&transaction, job_id)?;
        let trail = entries(&transaction, job_id)?;
        let known: Option<u32> = transaction
            .prepare_cached("SELECT number FROM entry WHERE job_id = ?1 AND request_key = ?2")?
            .query_row(params![job_id, request_key], |row| row.get(0))
            .optional()?;
        let now = trail.len() as u32;
        if let Some(entry) = known.and_then(|number| trail.iter().find(|entry| entry.number == number)) {
            // The same request again, or other words under its key: those were not written, and must not pass for it.
            let same =
                entry.finding == new.finding && entry.odometer_km == new.odometer_km && entry.replaces == new.replaces;
            return if same { Ok(entry.clone()) } else { Err(StoreError::Stale { seen, now }) };
        }
        if seen != now {
            return Err(StoreError::Stale { seen, now });
        }
        let of = vehicle(&transaction, record.vehicle_id)?.vehicle;
        trail::check(&of.checked()?, &trail, new)?;
        insert(&transaction, job_id, now + 1, new, at, request_key)?;
        let entry = Entry {
            number: now + 1,
            at: at.to_string(),
            odometer_km: new.odometer_km,
            author: new.author.clone(),
            replaces: new.replaces,
            finding: new.finding.clone(),
        };
        let grown: Vec<Entry> = trail.into_iter().chain([entry.clone()]).collect();
        index(&transaction, job_id, &of, &grown)?;
        transaction.commit()?;
        Ok(entry)
    }
}

pub(crate) fn job_record(row: &Row<'_>) -> rusqlite::Result<JobRecord> {
    Ok(JobRecord { id: row.get(0)?, vehicle_id: row.get(1)?, opened_at: row.get(2)? })
}

pub(crate) fn job(connection: &Connection, id: i64) -> Result<JobRecord, StoreError> {
    connection
        .prepare_cached("SELECT id, vehicle_id, opened_at FROM job WHERE id = ?1")?
        .query_row([id], job_record)
        .optional()?
        .ok_or(StoreError::NotFound { what: "job", id })
}

pub(crate) fn vehicle(connection: &Connection, id: i64) -> Result<StoredVehicle, StoreError> {
    let body: String = connection
        .prepare_cached("SELECT body FROM vehicle WHERE id = ?1")?
        .query_row([id], |row| row.get(0))
        .optional()?
        .ok_or(StoreError::NotFound { what: "vehicle", id })?;
    Ok(StoredVehicle { id, vehicle: serde_json::from_str(&body)? })
}

pub(crate) fn entries(connection: &Connection, job_id: i64) -> Result<Vec<Entry>, StoreError> {
    let mut statement = connection.prepare_cached(
        "SELECT number, at, odometer_km, author, replaces, finding FROM entry WHERE job_id = ?1 ORDER BY number",
    )?;
    let mut rows = statement.query([job_id])?;
    let mut list = Vec::new();
    while let Some(row) = rows.next()? {
        list.push(Entry {
            number: row.get(0)?,
            at: row.get(1)?,
            odometer_km: row.get(2)?,
            author: row.get(3)?,
            replaces: row.get(4)?,
            finding: serde_json::from_str(&row.get::<_, String>(5)?)?,
        });
    }
    Ok(list)
}

pub(crate) fn insert(
    transaction: &Transaction<'_>,
    job_id: i64,
    number: u32,
    new: &NewEntry,
    at: Timestamp,
    request_key: &str,
) -> Result<(), StoreError> {
    let finding = serde_json::to_value(&new.finding)?;
    let kind = finding["kind"].as_str().unwrap_or_default().to_owned();
    transaction.execute(
        "INSERT INTO entry (job_id, number, at, odometer_km, author, replaces, kind, finding, request_key)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
        params![
            job_id,
            number,
            at.to_string(),
            new.odometer_km,
            new.author.trim(),
            new.replaces,
            kind,
            finding.to_string(),
            request_key
        ],
    )?;
    Ok(())
}
