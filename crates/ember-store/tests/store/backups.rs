//! A data folder copied while it is in use, brought back, and locked.

use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread;
use std::time::{Duration, Instant};

use ember_core::trail::NewEntry;
use ember_store::{FolderLock, NewJob, Store, StoreError, back_up, check, restore};
use jiff::Timestamp;
use rstest::rstest;
use serde_json::json;
use tempfile::{TempDir, tempdir};

fn entry(text: &str) -> NewEntry {
    let finding = serde_json::from_value(json!({"kind": "note", "text": text})).unwrap();
    NewEntry { odometer_km: 1.0, author: "Ines".into(), replaces: None, finding }
}

/// A folder with one job, a photograph and the workshop's own file.
fn filled() -> (TempDir, Store) {
    let folder = tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let vehicle = serde_json::from_value(json!({"fleet_no": "W-03", "name": "Brannock Pip",
        "engine": {"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}}))
    .unwrap();
    let vehicle_id = store.add_vehicle(&vehicle).unwrap().id;
    store
        .open_job(&NewJob { vehicle_id, first: entry("begins"), request_key: "a".into() }, Timestamp::UNIX_EPOCH)
        .unwrap();
    store.add_photo(1, "plug", (2, 2), &[0xff, 0xd8, 1], &[0xff, 0xd8, 2], Timestamp::UNIX_EPOCH).unwrap();
    std::fs::write(folder.path().join("workshop.toml"), "labour_per_hour = 70\n").unwrap();
    (folder, store)
}

fn names(folder: &Path) -> Vec<String> {
    let mut list: Vec<String> =
        std::fs::read_dir(folder).unwrap().map(|one| one.unwrap().file_name().into_string().unwrap()).collect();
    list.sort();
    list
}

#[test]
fn a_backup_made_in_use_comes_back_with_photographs_and_the_workshops_own_file() {
    let (folder, store) = filled();
    let out = tempdir().unwrap();
    let file = out.path().join("copy");
    let report = back_up(folder.path(), &file, &["workshop.toml", "not-there.toml"]).unwrap();
    assert_eq!(
        (report.jobs, report.entries, report.photographs, report.files.as_slice()),
        (1, 1, 1, &["workshop.toml".to_owned()][..])
    );
    store.append(1, &entry("after the backup"), 1, "later", Timestamp::UNIX_EPOCH).unwrap();
    let back = out.path().join("back");
    restore(&file, &back).unwrap();
    let again = Store::open(&back).unwrap();
    assert_eq!(again.job(1).unwrap().2.len(), 1, "it is of one moment");
    assert_eq!(again.photo_bytes(1, false).unwrap(), [0xff, 0xd8, 1]);
    assert_eq!(std::fs::read_to_string(back.join("workshop.toml")).unwrap(), "labour_per_hour = 70\n");
    check(&back).unwrap();
    assert_eq!(names(out.path()), ["back", "copy"], "nothing half-made is left");
}

#[test]
fn writing_goes_on_while_a_backup_runs() {
    let (folder, store) = filled();
    // Some thirty megabytes, so that the copying takes many steps.
    for number in 0..30 {
        store.add_photo(1, &format!("{number}"), (2, 2), &vec![7u8; 1 << 20], &[1], Timestamp::UNIX_EPOCH).unwrap();
    }
    let out = tempdir().unwrap();
    let done = AtomicBool::new(false);
    let written = thread::scope(|scope| {
        let writer = scope.spawn(|| {
            let mut written = 0u32;
            while !done.load(Ordering::Acquire) {
                store
                    .append(1, &entry("meanwhile"), 1 + written, &format!("w{written}"), Timestamp::UNIX_EPOCH)
                    .unwrap();
                written += 1;
            }
            written
        });
        back_up(folder.path(), &out.path().join("copy"), &[]).unwrap();
        done.store(true, Ordering::Release);
        writer.join().unwrap()
    });
    assert!(written > 1, "the writer was held up: {written} entries");
    restore(&out.path().join("copy"), &out.path().join("back")).unwrap();
}

#[test]
fn a_place_that_is_taken_is_not_written_over() {
    let (folder, _store) = filled();
    let out = tempdir().unwrap();
    let file = out.path().join("copy");
    std::fs::write(&file, "mine").unwrap();
    assert!(matches!(back_up(folder.path(), &file, &[]), Err(StoreError::Taken(_))));
    assert_eq!(std::fs::read_to_string(&file).unwrap(), "mine");
}

#[test]
fn a_backup_that_cannot_be_written_leaves_nothing_behind() {
    let (folder, store) = filled();
    let out = tempdir().unwrap();
    assert!(back_up(folder.path(), &out.path().join("no/such/folder/copy"), &[]).is_err());
    // The other file cannot be read as one: found only after the copying.
    std::fs::create_dir(folder.path().join("a-folder")).unwrap();
    assert!(back_up(folder.path(), &out.path().join("copy"), &["a-folder"]).is_err());
    assert!(names(out.path()).is_empty());
    assert_eq!(store.job(1).unwrap().2.len(), 1);
}

#[test]
fn a_restore_does_not_touch_a_folder_with_data() {
    let (folder, _store) = filled();
    let out = tempdir().unwrap();
    back_up(folder.path(), &out.path().join("copy"), &[]).unwrap();
    let error = restore(&out.path().join("copy"), folder.path()).unwrap_err();
    assert!(matches!(error, StoreError::Taken(_)), "{error}");
}

#[rstest]
#[case::text(b"no database at all".as_slice())]
#[case::nothing(b"".as_slice())]
fn what_is_no_backup_is_refused(#[case] bytes: &[u8]) {
    let out = tempdir().unwrap();
    std::fs::write(out.path().join("copy"), bytes).unwrap();
    let error = restore(&out.path().join("copy"), &out.path().join("back")).unwrap_err();
    assert!(matches!(error, StoreError::NotABackup(_)), "{error}");
    assert!(matches!(restore(&out.path().join("missing"), &out.path().join("back")), Err(StoreError::NotABackup(_))));
    assert!(!out.path().join("back/gritty-ember.sqlite").exists());
}

/// A copy changed by another program.
fn changed(by: &str) -> (TempDir, std::path::PathBuf) {
    let (folder, store) = filled();
    let out = tempdir().unwrap();
    let file = out.path().join("copy");
    back_up(folder.path(), &file, &["workshop.toml"]).unwrap();
    drop(store);
    let connection = rusqlite::Connection::open(&file).unwrap();
    connection.execute_batch(by).unwrap();
    (out, file)
}

#[test]
fn a_backup_of_a_newer_version_is_told_apart_and_left_alone() {
    let (out, file) = changed("PRAGMA user_version = 99;");
    let error = restore(&file, &out.path().join("back")).unwrap_err();
    assert!(matches!(error, StoreError::Newer { version: 99, .. }), "{error}");
}

#[test]
fn a_file_name_in_a_backup_does_not_lead_out_of_the_folder() {
    let (out, file) = changed("UPDATE folder_file SET name = '../stray';");
    assert!(matches!(restore(&file, &out.path().join("back")), Err(StoreError::NotABackup(_))));
    assert!(!out.path().join("stray").exists() && !out.path().join("back/gritty-ember.sqlite").exists());
}

#[test]
fn a_damaged_backup_is_refused() {
    let (out, file) = changed("PRAGMA foreign_keys = OFF; DELETE FROM vehicle;");
    let error = restore(&file, &out.path().join("back")).unwrap_err();
    assert!(matches!(error, StoreError::Damaged(_)), "{error}");
}

#[test]
fn one_folder_is_used_by_one_server_and_free_again_after_it() {
    let folder = tempdir().unwrap();
    let first = FolderLock::take(folder.path()).unwrap();
    assert!(matches!(FolderLock::take(folder.path()), Err(StoreError::InUse(_))));
    drop(first);
    let asked = Instant::now();
    FolderLock::take(folder.path()).unwrap();
    assert!(asked.elapsed() < Duration::from_secs(5));
}
