//! What can go wrong with the store.

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
    #[error("the data folder cannot be used: {0}")]
    Folder(#[from] std::io::Error),
    #[error("the database failed: {0}")]
    Database(#[from] rusqlite::Error),
    #[error("the database cannot be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
    #[error("a stored entry cannot be read: {0}")]
    Stored(#[from] serde_json::Error),
}
