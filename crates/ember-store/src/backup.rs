//! Copies of a data folder, made while it is in use, and brought back.

use std::fs::{self, File, TryLockError};
use std::path::{Path, PathBuf};
use std::time::Duration;

use rusqlite::backup::{Backup, StepResult};
use rusqlite::{Connection, OpenFlags, params};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::StoreError;
use crate::schema::migrations;

pub(crate) const DATABASE: &str = "gritty-ember.sqlite";
const LOCK: &str = "in-use";
/// What a copy calls itself (`PRAGMA application_id`): "GEmb".
const APPLICATION: i32 = 0x4745_6d62;
/// Pages between two breaths: some 1 MB.
const PAGES: i32 = 256;
/// Steps after which what was copied is brought to the disk.
const STEPS_UNTIL_ON_DISK: u32 = 2;
const BREATH: Duration = Duration::from_millis(2);

/// A data folder is used by one server at a time. Released when dropped, also by a crash.
#[derive(Debug)]
pub struct FolderLock {
    _file: File,
}

impl FolderLock {
    /// # Errors
    /// Another server uses the folder; it cannot be made or written.
    pub fn take(folder: &Path) -> Result<FolderLock, StoreError> {
        fs::create_dir_all(folder)?;
        let file = File::options().create(true).truncate(false).write(true).open(folder.join(LOCK))?;
        match file.try_lock() {
            Ok(()) => Ok(FolderLock { _file: file }),
            Err(TryLockError::WouldBlock) => Err(StoreError::InUse(folder.to_path_buf())),
            Err(TryLockError::Error(error)) => Err(error.into()),
        }
    }
}

/// What a copy holds.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct BackupReport {
    pub bytes: u64,
    pub vehicles: i64,
    pub jobs: i64,
    pub entries: i64,
    pub photographs: i64,
    /// The folder's other files that went along.
    pub files: Vec<String>,
}

/// Copies a data folder into one file, which is a SQLite database with the folder's other files in a table of its own.
///
/// The copy is of one moment: a reader's view of the write-ahead log, which holds up no writer. It is written beside
/// its place and put there only when it is whole and has been looked through.
///
/// # Errors
/// The folder holds no data; the place is taken or cannot be written; the disk is full. Nothing is left behind then.
pub fn back_up(folder: &Path, to: &Path, files: &[&str]) -> Result<BackupReport, StoreError> {
    let source_path = folder.join(DATABASE);
    if !source_path.is_file() {
        return Err(StoreError::NoData(folder.to_path_buf()));
    }
    if to.exists() {
        return Err(StoreError::Taken(to.to_path_buf()));
    }
    let beside = beside(to);
    let made = copy(&source_path, &beside, folder, files);
    if made.is_err() {
        // A full disk must not be left fuller.
        let _ = fs::remove_file(&beside);
    }
    let report = made.map_err(|error| not_written(to, error))?;
    fs::rename(&beside, to)?;
    Ok(report)
}

/// A failure of the disk, told with the file that it struck.
fn not_written(path: &Path, error: StoreError) -> StoreError {
    use rusqlite::ErrorCode::{DiskFull, SystemIoFailure};
    let reason = match &error {
        StoreError::Database(cause) if matches!(cause.sqlite_error_code(), Some(DiskFull | SystemIoFailure)) => {
            cause.to_string()
        }
        StoreError::Folder(cause) => cause.to_string(),
        _ => return error,
    };
    StoreError::NotWritten { path: path.to_path_buf(), reason }
}

fn beside(path: &Path) -> PathBuf {
    let mut name = path.file_name().unwrap_or_default().to_owned();
    name.push(".part");
    path.with_file_name(name)
}

fn copy(source: &Path, to: &Path, folder: &Path, files: &[&str]) -> Result<BackupReport, StoreError> {
    let _ = fs::remove_file(to);
    let source = Connection::open_with_flags(source, OpenFlags::SQLITE_OPEN_READ_WRITE)?;
    source.busy_timeout(Duration::from_secs(5))?;
    // One moment for all steps: with a reader's transaction open, no write begins the copying anew.
    source.execute_batch("BEGIN; SELECT count(*) FROM sqlite_schema;")?;
    let mut target = Connection::open(to)?;
    {
        let backup = Backup::new(&source, &mut target)?;
        let written = File::open(to)?;
        for step in 1_u32.. {
            match backup.step(PAGES)? {
                StepResult::Done => break,
                StepResult::More => {
                    // Brought to the disk as it goes: two gigabytes in one go at the end would keep every writer waiting.
                    if step.is_multiple_of(STEPS_UNTIL_ON_DISK) {
                        written.sync_data()?;
                    }
                    std::thread::sleep(BREATH);
                }
                // Somebody is just folding the log in.
                _ => std::thread::sleep(Duration::from_millis(20)),
            }
        }
    }
    source.execute_batch("COMMIT")?;
    // A copy is one file: its log is folded in.
    target.pragma_update(None, "journal_mode", "DELETE")?;
    target.pragma_update(None, "application_id", APPLICATION)?;
    target
        .execute_batch("CREATE TABLE folder_file (name TEXT PRIMARY KEY, body BLOB NOT NULL) STRICT, WITHOUT ROWID;")?;
    let mut taken = Vec::new();
    for name in files {
        match fs::read(folder.join(name)) {
            Ok(body) => {
                target.execute("INSERT INTO folder_file (name, body) VALUES (?1, ?2)", params![name, body])?;
                taken.push((*name).to_owned());
            }
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => {}
            Err(error) => return Err(error.into()),
        }
    }
    sound(&target)?;
    let count = |what: &str| target.query_row(&format!("SELECT count(*) FROM {what}"), [], |row| row.get(0));
    let report = BackupReport {
        bytes: 0,
        vehicles: count("vehicle")?,
        jobs: count("job")?,
        entries: count("entry")?,
        photographs: count("photo")?,
        files: taken,
    };
    target.close().map_err(|(_, error)| error)?;
    File::open(to)?.sync_all()?;
    Ok(BackupReport { bytes: fs::metadata(to)?.len(), ..report })
}

/// Looks a database through.
///
/// # Errors
/// The first thing that SQLite finds wrong.
fn sound(connection: &Connection) -> Result<(), StoreError> {
    let found: String = connection.query_row("PRAGMA integrity_check(1)", [], |row| row.get(0))?;
    if found != "ok" {
        return Err(StoreError::Damaged(found));
    }
    let broken: i64 = connection.query_row("SELECT count(*) FROM pragma_foreign_key_check", [], |row| row.get(0))?;
    if broken > 0 {
        return Err(StoreError::Damaged(format!("{broken} rows belong to nothing")));
    }
    Ok(())
}

/// Looks a data folder through.
///
/// # Errors
/// There is no data; something in it is damaged.
pub fn check(folder: &Path) -> Result<(), StoreError> {
    let path = folder.join(DATABASE);
    if !path.is_file() {
        return Err(StoreError::NoData(folder.to_path_buf()));
    }
    let connection = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_WRITE)?;
    sound(&connection)
}

/// Brings a copy back into a folder that is empty or does not exist.
///
/// # Errors
/// The file is no copy of this program, is damaged, or was made by a newer version; the folder holds data already, which
/// is left alone; the disk does not take it.
pub fn restore(from: &Path, folder: &Path) -> Result<BackupReport, StoreError> {
    if !from.is_file() {
        return Err(StoreError::NotABackup(from.to_path_buf()));
    }
    let copy = Connection::open_with_flags(from, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
    let application: i32 = copy
        .query_row("PRAGMA application_id", [], |row| row.get(0))
        .map_err(|_| StoreError::NotABackup(from.to_path_buf()))?;
    if application != APPLICATION {
        return Err(StoreError::NotABackup(from.to_path_buf()));
    }
    let version: i64 = copy.query_row("PRAGMA user_version", [], |row| row.get(0))?;
    let known = crate::schema::VERSION;
    if version > known {
        return Err(StoreError::Newer { version, known });
    }
    sound(&copy)?;
    let _lock = FolderLock::take(folder)?;
    if folder.join(DATABASE).exists() {
        return Err(StoreError::Taken(folder.join(DATABASE)));
    }
    let count = |what: &str| copy.query_row(&format!("SELECT count(*) FROM {what}"), [], |row| row.get(0));
    let photographs = if version >= 3 { count("photo")? } else { 0 };
    let (vehicles, jobs, entries) = (count("vehicle")?, count("job")?, count("entry")?);
    let mut files = Vec::new();
    let target = folder.join(DATABASE);
    let part = beside(&target);
    let brought = (|| {
        fs::copy(from, &part)?;
        {
            let mut connection = Connection::open(&part)?;
            connection.execute_batch("DROP TABLE folder_file; PRAGMA application_id = 0;")?;
            migrations().to_latest(&mut connection)?;
        }
        let mut statement = copy.prepare("SELECT name, body FROM folder_file")?;
        let mut rows = statement.query([])?;
        while let Some(row) = rows.next()? {
            let (name, body): (String, Vec<u8>) = (row.get(0)?, row.get(1)?);
            // A name out of a file that anybody may have made must not lead out of the folder.
            if Path::new(&name).components().count() != 1 || name.starts_with('.') {
                return Err(StoreError::NotABackup(from.to_path_buf()));
            }
            fs::write(folder.join(&name), body)?;
            files.push(name);
        }
        fs::rename(&part, &target)?;
        Ok(())
    })();
    if brought.is_err() {
        let _ = fs::remove_file(&part);
    }
    brought.map_err(|error| not_written(&target, error))?;
    Ok(BackupReport { bytes: fs::metadata(&target)?.len(), vehicles, jobs, entries, photographs, files })
}
