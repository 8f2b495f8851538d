//! Full-text search over all jobs (SQLite's FTS5).

use ember_core::depot::{JobText, job_text};
use ember_core::knowledge::Knowledge;
use ember_core::refusal::Refusal;
use ember_core::trail::Entry;
use ember_core::vehicle::Vehicle;
use rusqlite::{Connection, params};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::error::StoreError;
use crate::store::{Store, entries, job, vehicle};

/// Where to look.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SearchIn {
    #[default]
    Everything,
    Vehicle,
    Code,
    Part,
    Cause,
}

/// A job that was found.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Found {
    pub job: i64,
    /// Some words around what was found; what matches stands between `\u{2}` and `\u{3}`.
    pub snippet: String,
}

/// The most jobs that one search gives.
pub const MOST_FOUND: usize = 50;
/// A longer question is no question.
const LONGEST: usize = 200;

impl Store {
    /// Jobs that hold every word of the question, as a word or as the beginning of one. First those of whose vehicle,
    /// codes, parts or cause it is said, then those where it was written besides; the newest first in both.
    ///
    /// A rank by how rare a word is would have to visit every job that holds it: with a word of the trade, all of them.
    ///
    /// # Errors
    /// A question without a letter or a figure, or of more than 200 characters; the database fails.
    pub fn search(&self, question: &str, within: SearchIn) -> Result<Vec<Found>, StoreError> {
        let words = words(question)?;
        let connection = self.lock();
        let mut found: Vec<Found> = Vec::new();
        for columns in columns(within) {
            let missing = MOST_FOUND - found.len();
            let more = newest(&connection, &format!("{columns}({words})"))?;
            let more: Vec<Found> =
                more.into_iter().filter(|one| found.iter().all(|had| had.job != one.job)).take(missing).collect();
            found.extend(more);
            if found.len() == MOST_FOUND {
                break;
            }
        }
        Ok(found)
    }

    /// Writes the words of jobs that have none yet: those from before there was a search.
    ///
    /// # Errors
    /// The database fails.
    pub(crate) fn index_missing(&self) -> Result<(), StoreError> {
        let mut connection = self.lock();
        let missing: Vec<i64> = connection
            .prepare("SELECT id FROM job WHERE id NOT IN (SELECT rowid FROM job_text)")?
            .query_map([], |row| row.get(0))?
            .collect::<Result<_, _>>()?;
        if missing.is_empty() {
            return Ok(());
        }
        let transaction = connection.transaction()?;
        for id in missing {
            let record = job(&transaction, id)?;
            let of = vehicle(&transaction, record.vehicle_id)?;
            let trail = entries(&transaction, id)?;
            index(&transaction, id, &of.vehicle, &trail)?;
        }
        transaction.commit()?;
        Ok(())
    }
}

/// The words of a question in FTS5's own language: every word quoted, so that nothing typed is taken for an operator.
fn words(question: &str) -> Result<String, Refusal> {
    if question.chars().count() > LONGEST {
        return Err(Refusal::new("words", format!("is longer than {LONGEST} characters")));
    }
    // What a hyphen joins stands side by side, as in a fleet number; only its last piece may be a beginning.
    let words: Vec<String> = question
        .split(|c: char| !c.is_alphanumeric() && c != '-')
        .map(|word| word.split('-').filter(|piece| !piece.is_empty()).collect::<Vec<_>>().join(" "))
        .filter(|word| !word.is_empty())
        .map(|word| format!("\"{word}\"*"))
        .collect();
    if words.is_empty() {
        return Err(Refusal::new("words", "write a word, a code, a part or a fleet number"));
    }
    Ok(words.join(" AND "))
}

/// The columns to look in, one choice after the other.
fn columns(within: SearchIn) -> &'static [&'static str] {
    match within {
        SearchIn::Everything => &["{vehicle codes parts cause} : ", ""],
        SearchIn::Vehicle => &["vehicle : "],
        SearchIn::Code => &["codes : "],
        SearchIn::Part => &["parts : "],
        SearchIn::Cause => &["cause : "],
    }
}

/// The newest jobs that answer a question of FTS5.
fn newest(connection: &Connection, question: &str) -> Result<Vec<Found>, StoreError> {
    let mut statement = connection.prepare_cached(
        "SELECT rowid, snippet(job_text, -1, char(2), char(3), '…', 14) FROM job_text
         WHERE job_text MATCH ?1 ORDER BY rowid DESC LIMIT ?2",
    )?;
    let rows = statement
        .query_map(params![question, MOST_FOUND as i64], |row| Ok(Found { job: row.get(0)?, snippet: row.get(1)? }))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// Writes the words of a job anew.
pub(crate) fn index(connection: &Connection, job: i64, of: &Vehicle, trail: &[Entry]) -> Result<(), StoreError> {
    let JobText { vehicle, codes, parts, cause, words } = job_text(of, trail, Knowledge::built_in());
    connection.prepare_cached("DELETE FROM job_text WHERE rowid = ?1")?.execute([job])?;
    connection
        .prepare_cached(
            "INSERT INTO job_text (rowid, vehicle, codes, parts, cause, words) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
        )?
        .execute(params![job, vehicle, codes, parts, cause, words])?;
    Ok(())
}
