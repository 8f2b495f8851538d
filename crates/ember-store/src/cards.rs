//! Jobs boiled down, kept beside them: a card for each, made anew after every entry. Nothing rests on a card: whatever it
//! holds follows from the trail, and one that is missing is made again.

use rusqlite::{OptionalExtension, params};

use crate::error::StoreError;
use crate::store::Store;

/// A job's card. What it says is the caller's.
#[derive(Debug, Clone, PartialEq)]
pub struct Card {
    pub job: i64,
    /// How long the trail was.
    pub entries: usize,
    pub closed: bool,
    /// The fault that the job has proven.
    pub fault: Option<String>,
    /// With which knowledge it was made: another makes it stale.
    pub made_with: String,
    pub body: String,
}

/// What jobs have proven, for the workshop's memory.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ProvenJob {
    pub job: i64,
    pub fleet_no: String,
    pub vehicle: String,
    pub fault: String,
}

impl Store {
    /// Keeps a card, unless the trail has grown since it was made.
    ///
    /// # Errors
    /// The database fails.
    pub fn put_card(&self, card: &Card) -> Result<(), StoreError> {
        self.lock()
            .prepare_cached(
                "INSERT OR REPLACE INTO job_card (job_id, closed, fault, made_with, body)
                 SELECT ?1, ?3, ?4, ?5, ?6
                 WHERE (SELECT max(number) FROM entry WHERE job_id = ?1) = ?2",
            )?
            .execute(params![card.job, card.entries as i64, card.closed, card.fault, card.made_with, card.body])?;
        Ok(())
    }

    /// Jobs without a card, the newest first.
    ///
    /// # Errors
    /// The database fails.
    pub fn jobs_without_card(&self, most: usize) -> Result<Vec<i64>, StoreError> {
        self.numbers(
            "SELECT id FROM job WHERE NOT EXISTS (SELECT 1 FROM job_card WHERE job_id = id) ORDER BY id DESC LIMIT ?1",
            params![most as i64],
        )
    }

    /// Open jobs whose cards were made with other knowledge than this.
    ///
    /// # Errors
    /// The database fails.
    pub fn jobs_with_stale_card(&self, made_with: &str, most: usize) -> Result<Vec<i64>, StoreError> {
        self.numbers(
            "SELECT job_id FROM job_card WHERE closed = 0 AND made_with <> ?1 ORDER BY job_id DESC LIMIT ?2",
            params![made_with, most as i64],
        )
    }

    fn numbers(&self, sql: &str, values: &[&dyn rusqlite::ToSql]) -> Result<Vec<i64>, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached(sql)?;
        let rows = statement.query_map(values, |row| row.get(0))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Cards of open or of closed jobs, the newest first.
    ///
    /// # Errors
    /// The database fails.
    pub fn cards(&self, closed: bool, from: usize, most: usize) -> Result<Vec<String>, StoreError> {
        let connection = self.lock();
        let mut statement = connection
            .prepare_cached("SELECT body FROM job_card WHERE closed = ?1 ORDER BY job_id DESC LIMIT ?3 OFFSET ?2")?;
        let rows = statement.query_map(params![closed, from as i64, most as i64], |row| row.get(0))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// How many jobs are open and closed, by their cards.
    ///
    /// # Errors
    /// The database fails.
    pub fn card_counts(&self) -> Result<(usize, usize), StoreError> {
        let connection = self.lock();
        let count = |closed: bool| {
            connection
                .prepare_cached("SELECT count(*) FROM job_card WHERE closed = ?1")?
                .query_row([closed], |row| row.get::<_, i64>(0))
        };
        Ok((count(false)? as usize, count(true)? as usize))
    }

    /// All cards, or those of one vehicle, the oldest job first.
    ///
    /// # Errors
    /// The database fails.
    pub fn all_cards(&self, vehicle: Option<i64>) -> Result<Vec<String>, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached(
            "SELECT body FROM job_card JOIN job ON job.id = job_id
             WHERE ?1 IS NULL OR vehicle_id = ?1 ORDER BY job_id",
        )?;
        let rows = statement.query_map([vehicle], |row| row.get(0))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// # Errors
    /// The database fails.
    pub fn card(&self, job: i64) -> Result<Option<String>, StoreError> {
        Ok(self
            .lock()
            .prepare_cached("SELECT body FROM job_card WHERE job_id = ?1")?
            .query_row([job], |row| row.get(0))
            .optional()?)
    }

    /// What closed jobs have proven.
    ///
    /// # Errors
    /// The database fails.
    pub fn proven_jobs(&self) -> Result<Vec<ProvenJob>, StoreError> {
        let connection = self.lock();
        let mut statement = connection.prepare_cached(
            "SELECT job_id, fleet_no, json_extract(vehicle.body, '$.name'), fault
             FROM job_card JOIN job ON job.id = job_id JOIN vehicle ON vehicle.id = vehicle_id
             WHERE fault IS NOT NULL ORDER BY job_id DESC",
        )?;
        let rows = statement.query_map([], |row| {
            Ok(ProvenJob { job: row.get(0)?, fleet_no: row.get(1)?, vehicle: row.get(2)?, fault: row.get(3)? })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }
}
