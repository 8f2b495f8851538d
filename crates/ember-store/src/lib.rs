//! The store: vehicles, jobs and their trails in one SQLite file.
//!
//! A trail only grows. The database itself refuses to change or remove an entry, so that a slip in the code cannot
//! rewrite what was seen. Writing is acknowledged once it is on the disk (write-ahead log, `synchronous = FULL`).

mod backup;
mod brought;
mod captures;
mod cards;
mod error;
mod photos;
mod recordings;
mod schema;
mod search;
mod store;
mod vehicle_bench;

pub use backup::{BackupReport, FolderLock, back_up, check, restore};
pub use brought::{BroughtCapture, BroughtJob, BroughtPhoto};
pub use captures::{CaptureAbout, CaptureColumn, StoredCapture};
pub use cards::{Card, ProvenJob};
pub use error::StoreError;
pub use photos::StoredPhoto;
pub use recordings::{BroughtRecording, ChannelCount, RecordingAbout, StoredRecording, TimeMark};
pub use search::{Found, MOST_FOUND, SearchIn};
pub use store::{JobRecord, NewJob, Store, StoredVehicle};
pub use vehicle_bench::KeptForVehicle;
