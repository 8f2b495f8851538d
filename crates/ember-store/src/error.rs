//! What can go wrong with the store.

use std::path::PathBuf;

use ember_core::refusal::Refusal;

#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// There is no such vehicle or job.
    #[error("there is no {what} {id}")]
    NotFound { what: &'static str, id: i64 },
    /// The entry cannot be taken as it is.
    #[error(transparent)]
    Refused(#[from] Refusal),
    /// Somebody else wrote meanwhile.
    #[error("the trail has grown to {now} entries since {seen} were seen")]
    Stale { seen: u32, now: u32 },
    #[error("{0} is used by another Gritty Ember. Stop that one first, or take another folder")]
    InUse(PathBuf),
    #[error("{0} holds no data of Gritty Ember")]
    NoData(PathBuf),
    #[error("{0} is there already, and nothing was written over it")]
    Taken(PathBuf),
    #[error("{0} is no backup of Gritty Ember")]
    NotABackup(PathBuf),
    #[error(
        "the backup was made by a newer version (its tables are {version}, this program knows {known}). Nothing was changed"
    )]
    Newer { version: i64, known: i64 },
    /// A disk that is full, that went away, or on which files may not grow so long.
    #[error("{path} cannot be written ({reason}). Is there room on that disk? What was written of it is removed again")]
    NotWritten { path: PathBuf, reason: String },
    #[error("the data is damaged: {0}")]
    Damaged(String),
    #[error("the data folder cannot be used: {0}")]
    Folder(#[from] std::io::Error),
    #[error("the database failed: {0}")]
    Database(#[from] rusqlite::Error),
    #[error("the database cannot be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
    #[error("a stored entry cannot be read: {0}")]
    Stored(#[from] serde_json::Error),
}
