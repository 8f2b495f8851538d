//! What the store promises of a trail: it only grows, nothing is lost, nothing is half-written.

use ember_core::trail::{Finding, NewEntry};
use ember_core::vehicle::Vehicle;
use ember_store::{NewJob, Store, StoreError};
use jiff::Timestamp;
use rstest::{fixture, rstest};
use serde_json::json;
use tempfile::TempDir;

struct Yard {
    folder: TempDir,
    store: Store,
    job: i64,
}

fn vehicle() -> Vehicle {
    serde_json::from_value(json!({
        "fleet_no": "W-07", "name": "Hollin Fell patrol estate",
        "engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]},
    }))
    .unwrap()
}

fn entry(odometer_km: f64, finding: serde_json::Value) -> NewEntry {
    NewEntry { odometer_km, author: "Ada".into(), replaces: None, finding: serde_json::from_value(finding).unwrap() }
}

fn note(odometer_km: f64, text: &str) -> NewEntry {
    entry(odometer_km, json!({"kind": "note", "text": text}))
}

fn complaint() -> NewEntry {
    entry(84_000.0, json!({"kind": "complaint", "symptoms": ["misfire"]}))
}

#[fixture]
fn yard() -> Yard {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let vehicle_id = store.add_vehicle(&vehicle()).unwrap().id;
    let new = NewJob { vehicle_id, first: complaint(), request_key: "first job".into() };
    let job = store.open_job(&new, Timestamp::now()).unwrap().id;
    Yard { folder, store, job }
}

impl Yard {
    fn add(&self, new: &NewEntry, seen: u32, key: &str) -> Result<u32, StoreError> {
        self.store.append(self.job, new, seen, key, Timestamp::now()).map(|entry| entry.number)
    }

    fn numbers(&self) -> Vec<u32> {
        self.store.job(self.job).unwrap().2.iter().map(|entry| entry.number).collect()
    }
}

#[rstest]
fn an_entry_comes_back_as_it_was_written_after_the_store_is_opened_again(yard: Yard) {
    let text = format!("<script>alert(1)</script> {}", "soot ".repeat(20_000));
    yard.add(&note(84_010.0, &text), 1, "a").unwrap();
    drop(yard.store);
    let again = Store::open(yard.folder.path()).unwrap();
    let (_, _, entries) = again.job(yard.job).unwrap();
    assert_eq!(entries[1].finding, Finding::Note { text });
    assert_eq!(entries[1].odometer_km, 84_010.0);
}

#[rstest]
fn the_second_write_on_a_stale_view_is_told_so_and_writes_nothing(yard: Yard) {
    yard.add(&note(84_001.0, "first tablet"), 1, "a").unwrap();
    let stale = yard.add(&note(84_002.0, "second tablet"), 1, "b").unwrap_err();
    assert!(matches!(stale, StoreError::Stale { seen: 1, now: 2 }), "{stale}");
    assert_eq!(yard.numbers(), [1, 2]);
    assert_eq!(yard.add(&note(84_002.0, "second tablet"), 2, "b").unwrap(), 3);
}

#[rstest]
fn the_same_request_twice_makes_one_entry(yard: Yard) {
    let first = yard.add(&note(84_001.0, "once"), 1, "key").unwrap();
    let again = yard.add(&note(84_001.0, "once"), 1, "key").unwrap();
    assert_eq!((first, again, yard.numbers()), (2, 2, vec![1, 2]));
}

#[rstest]
fn other_words_under_a_used_key_are_not_taken_for_written(yard: Yard) {
    yard.add(&note(84_001.0, "the answer was lost"), 1, "key").unwrap();
    let edited = yard.add(&note(84_001.0, "and then edited"), 1, "key").unwrap_err();
    assert!(matches!(edited, StoreError::Stale { now: 2, .. }), "{edited}");
    assert_eq!(yard.add(&note(84_001.0, "and then edited"), 2, "another key").unwrap(), 3);
}

#[rstest]
fn the_same_job_twice_is_one_job(yard: Yard) {
    let new = NewJob { vehicle_id: 1, first: complaint(), request_key: "first job".into() };
    assert_eq!(yard.store.open_job(&new, Timestamp::now()).unwrap().id, yard.job);
    assert_eq!(yard.store.jobs().unwrap().len(), 1);
}

#[rstest]
#[case::backwards(note(83_999.0, "x"), "odometer_km: runs backwards: entry 1 stands at 84000 km")]
#[case::negative(note(-1.0, "x"), "odometer_km: must be zero or more")]
#[case::nameless(NewEntry { author: " ".into(), ..note(84_000.0, "x") }, "author: is empty")]
#[case::corrects_nothing(NewEntry { replaces: Some(9), ..note(84_000.0, "x") }, "replaces: there is no entry 9")]
#[case::ninth_cylinder(entry(84_000.0, json!({"kind": "counts", "revolutions": 1000, "misfires": {"1": 0, "2": 0, "3": 0, "4": 0, "9": 1}})), "finding.misfires.9: the engine has no cylinder 9")]
#[case::half_a_swap(entry(84_000.0, json!({"kind": "moved", "moves": [{"part": "coil", "from": 3, "to": 1}]})), "finding.moves: no coil comes to cylinder 3")]
#[case::bad_code(entry(84_000.0, json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": "P03"}]})), "finding.codes[0]")]
#[case::no_unit(entry(84_000.0, json!({"kind": "scan", "tool": "reader", "units_read": [], "codes": []})), "finding.units_read")]
#[case::huge(note(84_000.0, &"x".repeat(300_000)), "finding.text: is longer than 256 kB")]
fn a_bad_entry_is_refused_by_field_and_nothing_is_written(yard: Yard, #[case] new: NewEntry, #[case] expected: &str) {
    let message = yard.add(&new, 1, "bad").unwrap_err().to_string();
    assert!(message.starts_with(expected), "{message}");
    assert_eq!(yard.numbers(), [1]);
}

#[rstest]
fn a_correction_takes_the_place_of_what_it_corrects_and_only_once(yard: Yard) {
    yard.add(&note(94_100.0, "a slip of the finger"), 1, "a").unwrap();
    let refused = yard.add(&note(84_200.0, "true reading"), 2, "b").unwrap_err();
    assert!(refused.to_string().contains("correct it first"), "{refused}");
    let right = NewEntry { replaces: Some(2), ..note(84_100.0, "right") };
    yard.add(&right, 2, "c").unwrap();
    yard.add(&note(84_200.0, "true reading"), 3, "d").unwrap();
    let twice = yard.add(&NewEntry { replaces: Some(2), ..note(84_100.0, "again") }, 4, "e").unwrap_err();
    assert!(twice.to_string().contains("corrected already, by entry 3"), "{twice}");
    assert_eq!(yard.numbers(), [1, 2, 3, 4], "nothing was rewritten");
}

#[rstest]
#[case::change("UPDATE entry SET author = 'someone else'")]
#[case::remove("DELETE FROM entry")]
fn the_database_itself_refuses_to_rewrite_a_trail(yard: Yard, #[case] statement: &str) {
    let raw = rusqlite::Connection::open(yard.folder.path().join("gritty-ember.sqlite")).unwrap();
    assert!(raw.execute(statement, []).unwrap_err().to_string().contains("is never"));
    assert_eq!(yard.numbers(), [1]);
}

#[rstest]
fn what_does_not_exist_is_said_to_be_missing(yard: Yard) {
    assert_eq!(yard.store.job(77).unwrap_err().to_string(), "there is no job 77");
    let new = NewJob { vehicle_id: 77, first: complaint(), request_key: "x".into() };
    assert_eq!(yard.store.open_job(&new, Timestamp::now()).unwrap_err().to_string(), "there is no vehicle 77");
}

#[rstest]
fn a_fleet_number_is_given_once(yard: Yard) {
    let message = yard.store.add_vehicle(&vehicle()).unwrap_err().to_string();
    assert_eq!(message, "fleet_no: W-07 is another vehicle already");
}
