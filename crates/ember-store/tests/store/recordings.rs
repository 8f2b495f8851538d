//! Recordings in the store: written in parts, read by the channel, never changed once complete.

use ember_core::recording::Recording;
use ember_core::trail::{Entry, Finding};
use ember_core::vehicle::Vehicle;
use ember_store::{BroughtJob, BroughtRecording, NewJob, RecordingAbout, Store, StoreError, TimeMark};
use jiff::Timestamp;
use rstest::{fixture, rstest};
use serde_json::json;

fn vehicle(cylinders: u8) -> Vehicle {
    let order: Vec<u8> = (1..=cylinders).collect();
    serde_json::from_value(json!({"fleet_no": "W-12", "name": "Skarn Heft",
        "engine": {"cylinders": cylinders, "firing_order": order, "banks": [order]}}))
    .unwrap()
}

fn complaint() -> Entry {
    serde_json::from_value(json!({"number": 1, "at": "2026-11-21T06:30:00Z", "odometer_km": 10.0, "author": "Ines",
        "replaces": null, "finding": {"kind": "complaint", "symptoms": ["rough idle"]}}))
    .unwrap()
}

#[fixture]
fn yard() -> (Store, i64) {
    let store = Store::in_memory().unwrap();
    let vehicle_id = store.add_vehicle(&vehicle(3)).unwrap().id;
    let first = complaint();
    let new = NewJob {
        vehicle_id,
        first: serde_json::from_value(json!({"odometer_km": 10.0, "author": "Ines", "finding": first.finding}))
            .unwrap(),
        request_key: "one".into(),
    };
    let job = store.open_job(&new, Timestamp::now()).unwrap().id;
    (store, job)
}

fn about(samples: u64) -> RecordingAbout {
    RecordingAbout {
        to_s: 1.0,
        samples,
        channels: vec![("rpm".to_owned(), samples).into()],
        ..RecordingAbout::default()
    }
}

#[rstest]
fn parts_come_back_as_one_and_what_was_not_taken_stays_open(yard: (Store, i64)) {
    let (store, job) = yard;
    let id = store.begin_recording(job, "loop", Timestamp::now()).unwrap();
    store.add_part(id, 0, &[0.0, 0.1], [("rpm", &[800.0f32, 810.0][..])].into_iter()).unwrap();
    store.add_part(id, 1, &[0.2], [("rpm", &[f32::NAN][..]), ("load", &[20.5][..])].into_iter()).unwrap();
    assert!(matches!(store.recording(id), Err(StoreError::NotFound { .. })), "not complete yet");
    store.complete_recording(id, &about(3)).unwrap();
    let whole = store.load_recording(id, None).unwrap();
    assert_eq!(whole.time_s, [0.0, 0.1, 0.2]);
    assert_eq!(whole.channels["rpm"][..2], [800.0, 810.0]);
    assert!(whole.channels["rpm"][2].is_nan() && whole.channels["load"][0].is_nan());
    assert_eq!(whole.channels["load"][2], 20.5);
    let only = store.load_recording(id, Some(&["load".to_owned(), "none such".to_owned()])).unwrap();
    assert_eq!(only.channels.keys().collect::<Vec<_>>(), ["load"]);
    assert_eq!(store.recordings(job).unwrap()[0].name, "loop");
}

#[rstest]
fn a_complete_recording_is_never_changed_nor_removed(yard: (Store, i64)) {
    let (store, job) = yard;
    let id = store.begin_recording(job, "loop", Timestamp::now()).unwrap();
    store.add_part(id, 0, &[0.0], [("rpm", &[800.0f32][..])].into_iter()).unwrap();
    store.complete_recording(id, &about(1)).unwrap();
    assert!(store.complete_recording(id, &about(2)).is_err());
    assert!(store.discard_recording(id).is_err());
    assert_eq!(store.load_recording(id, None).unwrap().channels["rpm"], [800.0], "the refused removal took nothing");
}

#[rstest]
fn what_a_stopped_server_left_behind_is_thrown_away(yard: (Store, i64)) {
    let (store, job) = yard;
    let kept = store.begin_recording(job, "kept", Timestamp::now()).unwrap();
    store.complete_recording(kept, &about(0)).unwrap();
    store.begin_recording(job, "half", Timestamp::now()).unwrap();
    assert_eq!(store.discard_unfinished().unwrap(), 1);
    assert_eq!(store.recordings(job).unwrap().len(), 1);
}

#[rstest]
fn a_recording_needs_its_job(yard: (Store, i64)) {
    assert!(matches!(yard.0.begin_recording(99, "x", Timestamp::now()), Err(StoreError::NotFound { .. })));
}

#[rstest]
fn columns_are_remembered_by_their_headings(yard: (Store, i64)) {
    let store = yard.0;
    assert_eq!(store.column_map("time\u{1f}n").unwrap(), None);
    store.remember_column_map("time\u{1f}n", "{\"a\":1}").unwrap();
    store.remember_column_map("time\u{1f}n", "{\"a\":2}").unwrap();
    assert_eq!(store.column_map("time\u{1f}n").unwrap().as_deref(), Some("{\"a\":2}"));
}

fn brought() -> BroughtRecording {
    BroughtRecording {
        id: 41,
        name: "loop".into(),
        made_at: "2026-11-21T07:00:00Z".into(),
        recording: Recording { time_s: vec![0.0, 1.0], channels: [("load".to_owned(), vec![20.0, f32::NAN])].into() },
        marks: vec![TimeMark { time_s: 0.5, label: "P0171".into() }],
        notes: vec!["a gap".into()],
    }
}

fn job(vehicle: Vehicle, opened_at: &str, entries: &[Entry], recordings: Vec<BroughtRecording>) -> BroughtJob {
    BroughtJob {
        vehicle,
        opened_at: opened_at.into(),
        entries: entries.to_vec(),
        recordings,
        captures: Vec::new(),
        photos: Vec::new(),
    }
}

fn recorded(recording: i64) -> Entry {
    serde_json::from_value(json!({"number": 2, "at": "2026-11-21T07:05:00Z", "odometer_km": 12.0, "author": "Ines",
        "replaces": null, "finding": {"kind": "recording", "recording": recording, "name": "loop", "span_s": 1.0,
        "samples": 2, "channels": ["load"]}}))
    .unwrap()
}

#[test]
fn a_job_is_brought_back_with_its_recordings_under_new_numbers() {
    let store = Store::in_memory().unwrap();
    let entries = [complaint(), recorded(41)];
    let record = store.bring_back(&job(vehicle(3), "2026-11-21T06:30:00Z", &entries, vec![brought()])).unwrap();
    let (_, stored, trail) = store.job(record.id).unwrap();
    assert_eq!(stored.vehicle.fleet_no, "W-12");
    assert_eq!(trail.len(), 2);
    assert_eq!(trail[0], entries[0]);
    let Finding::Recording { recording, .. } = trail[1].finding else { panic!("{:?}", trail[1]) };
    let there = store.recording(recording).unwrap();
    assert_eq!((there.about.marks.len(), there.about.notes.len(), there.about.samples), (1, 1, 2));
    assert!(store.load_recording(recording, None).unwrap().channels["load"][1].is_nan());
}

#[rstest]
#[case::no_entries(vec![], "entries")]
#[case::numbers_out_of_order(vec![recorded(41)], "entries[0].number")]
#[case::a_recording_that_did_not_come_along(vec![complaint(), recorded(7)], "entries[1].finding.recording")]
fn a_broken_job_is_refused_whole(#[case] entries: Vec<Entry>, #[case] field: &str) {
    let store = Store::in_memory().unwrap();
    let error = store.bring_back(&job(vehicle(3), "2026-11-21T06:30:00Z", &entries, vec![brought()])).unwrap_err();
    let StoreError::Refused(refusal) = error else { panic!("{error}") };
    assert_eq!(refusal.field, field);
    assert!(store.jobs().unwrap().is_empty() && store.vehicles().unwrap().is_empty(), "nothing half-written");
}

#[test]
fn the_same_job_is_not_brought_twice_nor_onto_another_engine() {
    let store = Store::in_memory().unwrap();
    let bring = |vehicle: &Vehicle, at: &str| store.bring_back(&job(vehicle.clone(), at, &[complaint()], Vec::new()));
    bring(&vehicle(3), "2026-11-21T06:30:00Z").unwrap();
    assert!(bring(&vehicle(3), "2026-11-21T06:30:00Z").unwrap_err().to_string().contains("here already"));
    assert!(bring(&vehicle(4), "2026-11-22T06:30:00Z").unwrap_err().to_string().contains("its engine differs"));
    bring(&vehicle(3), "2026-11-22T06:30:00Z").unwrap();
    assert_eq!(store.vehicles().unwrap().len(), 1);
}
