//! What the bench keeps: captures with a coarse picture of each channel, photographs, and what is known of a vehicle.

use ember_core::vehicle::Vehicle;
use ember_core::waveform::{Capture, CaptureChannel};
use ember_store::{NewJob, Store, StoreError};
use jiff::Timestamp;
use rstest::{fixture, rstest};
use serde_json::json;

struct Yard {
    store: Store,
    vehicle: i64,
    job: i64,
}

#[fixture]
fn yard() -> Yard {
    let store = Store::in_memory().unwrap();
    let vehicle: Vehicle = serde_json::from_value(json!({"fleet_no": "M-02", "name": "Marl",
        "engine": {"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}}))
    .unwrap();
    let vehicle = store.add_vehicle(&vehicle).unwrap().id;
    let first =
        json!({"odometer_km": 10.0, "author": "Ines", "finding": {"kind": "complaint", "symptoms": ["misfire"]}});
    let new = NewJob { vehicle_id: vehicle, first: serde_json::from_value(first).unwrap(), request_key: "one".into() };
    let job = store.open_job(&new, Timestamp::now()).unwrap().id;
    Yard { store, vehicle, job }
}

fn channel(name: &str, samples: Vec<f32>) -> CaptureChannel {
    CaptureChannel { name: name.into(), unit: "A".into(), samples }
}

/// A quiet signal with one needle up and one down.
fn needles(length: usize, up: usize, down: usize) -> Vec<f32> {
    let mut samples: Vec<f32> = (0..length).map(|n| (n % 7) as f32 * 0.01).collect();
    samples[up] = 9.0;
    samples[down] = -4.0;
    samples
}

fn kept(yard: &Yard, samples: Vec<f32>) -> i64 {
    let second: Vec<f32> = samples.iter().map(|s| -s).collect();
    let capture = Capture { step_s: 1e-4, channels: vec![channel("coil", samples), channel("other", second)] };
    yard.store.add_capture(yard.job, "coil", &capture, vec!["a note".into()], Timestamp::now()).unwrap().id
}

#[rstest]
fn a_capture_comes_back_as_it_was_kept_whole_or_by_the_channel(yard: Yard) {
    let samples = needles(5_000, 1_234, 4_000);
    let id = kept(&yard, samples.clone());
    let stored = yard.store.capture(id).unwrap();
    assert_eq!((stored.about.samples, stored.about.notes.as_slice()), (5_000, &["a note".to_owned()][..]));
    assert!((stored.span_s() - 0.5).abs() < 1e-12);
    let whole = yard.store.load_capture(id, None).unwrap();
    assert_eq!(whole.channels[0].samples, samples);
    let one = yard.store.load_capture(id, Some(&["other".to_owned()])).unwrap();
    assert_eq!(one.channels.iter().map(|c| c.name.as_str()).collect::<Vec<_>>(), ["other"]);
    assert_eq!(yard.store.captures(yard.job).unwrap(), [stored]);
}

#[rstest]
fn no_thinning_loses_a_needle(
    yard: Yard,
    #[values(50, 700, 1_600)] columns: usize,
    #[values(3_000, 900_000)] length: usize,
) {
    let (up, down) = (length / 3, 2 * length / 3);
    let id = kept(&yard, needles(length, up, down));
    let (least, most) = yard.store.capture_extremes(id, 0, 0.0, length as f64 * 1e-4, columns).unwrap();
    assert!(most.len() <= columns && least.len() == most.len(), "{}", most.len());
    assert!(most.contains(&9.0) && least.contains(&-4.0));
    // Each needle stands in the column of its time.
    let column = most.iter().position(|v| *v == 9.0).unwrap();
    let place = (column as f64 + 0.5) / most.len() as f64;
    assert!((place - 1.0 / 3.0).abs() < 2.0 / most.len() as f64 + 512.0 / length as f64, "{place}");
}

#[rstest]
fn a_closer_look_shows_the_samples_themselves(yard: Yard) {
    let samples = needles(900_000, 300_000, 600_000);
    let id = kept(&yard, samples.clone());
    let (least, most) = yard.store.capture_extremes(id, 0, 29.9995, 30.0015, 400).unwrap();
    let part = &samples[299_995..300_015];
    assert_eq!(most.len(), part.len());
    assert_eq!((least.as_slice(), most.as_slice()), (part, part));
}

#[rstest]
#[case::no_capture(99, 0)]
#[case::no_channel(1, 7)]
fn what_is_not_there_is_said(yard: Yard, #[case] id: i64, #[case] channel: usize) {
    kept(&yard, needles(100, 3, 5));
    assert!(yard.store.capture_extremes(id, channel, 0.0, 1.0, 10).is_err());
    assert!(matches!(yard.store.capture(99), Err(StoreError::NotFound { .. })));
    let capture = Capture { step_s: 1.0, channels: vec![channel_of_two()] };
    assert!(yard.store.add_capture(77, "x", &capture, Vec::new(), Timestamp::now()).is_err());
}

fn channel_of_two() -> CaptureChannel {
    channel("two", vec![0.0, 1.0])
}

#[rstest]
fn photographs_are_kept_with_their_thumbnails(yard: Yard) {
    let photo = yard.store.add_photo(yard.job, "plug 3", (640, 480), b"large", b"small", Timestamp::now()).unwrap();
    assert_eq!((photo.width, photo.height, photo.name.as_str()), (640, 480, "plug 3"));
    assert_eq!(yard.store.photos(yard.job).unwrap(), std::slice::from_ref(&photo));
    assert_eq!(yard.store.photo_bytes(photo.id, false).unwrap(), b"large");
    assert_eq!(yard.store.photo_bytes(photo.id, true).unwrap(), b"small");
    assert!(matches!(yard.store.photo_bytes(99, true), Err(StoreError::NotFound { .. })));
    assert!(yard.store.add_photo(77, "x", (1, 1), b"", b"", Timestamp::now()).is_err());
}

#[rstest]
fn a_connector_is_kept_once_under_its_name(yard: Yard) {
    let keep =
        |kind: &str, name: &str, body: serde_json::Value| yard.store.keep_for_vehicle(yard.vehicle, kind, name, &body);
    keep("connector", "sensor plug", json!({"pins": 2})).unwrap();
    keep("circuit", "sensor plug", json!({"points": []})).unwrap();
    keep("connector", "sensor plug", json!({"pins": 3})).unwrap();
    let list = yard.store.kept_for_vehicle(yard.vehicle).unwrap();
    let told: Vec<(&str, &str)> = list.iter().map(|one| (one.kind.as_str(), one.name.as_str())).collect();
    assert_eq!(told, [("circuit", "sensor plug"), ("connector", "sensor plug")]);
    assert_eq!(list[1].body, json!({"pins": 3}));
    assert!(yard.store.keep_for_vehicle(77, "connector", "x", &json!({})).is_err());
    assert!(yard.store.kept_for_vehicle(77).is_err());
}

#[test]
fn what_the_bench_keeps_is_there_after_the_store_was_closed() {
    let folder = tempfile::tempdir().unwrap();
    let samples = needles(70_000, 20_000, 50_000);
    let (capture, photo) = {
        let store = Store::open(folder.path()).unwrap();
        let vehicle: Vehicle = serde_json::from_value(json!({"fleet_no": "W-03", "name": "Brannock",
            "engine": {"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}}))
        .unwrap();
        let vehicle = store.add_vehicle(&vehicle).unwrap().id;
        let first =
            json!({"odometer_km": 9.0, "author": "Tam", "finding": {"kind": "complaint", "symptoms": ["stalls"]}});
        let new =
            NewJob { vehicle_id: vehicle, first: serde_json::from_value(first).unwrap(), request_key: "k".into() };
        let job = store.open_job(&new, Timestamp::now()).unwrap().id;
        store.keep_for_vehicle(vehicle, "connector", "plug", &json!({"pins": 3})).unwrap();
        let yard = Yard { store, vehicle, job };
        let capture = kept(&yard, samples.clone());
        let photo = yard.store.add_photo(job, "plug 1", (4, 3), b"large", b"small", Timestamp::now()).unwrap();
        (capture, photo)
    };
    let store = Store::open(folder.path()).unwrap();
    assert_eq!(store.load_capture(capture, None).unwrap().channels[0].samples, samples);
    let (_, most) = store.capture_extremes(capture, 0, 0.0, 7.0, 90).unwrap();
    assert!(most.contains(&9.0));
    assert_eq!(store.photos(photo.job_id).unwrap(), [photo]);
    assert_eq!(store.kept_for_vehicle(1).unwrap()[0].body, json!({"pins": 3}));
}
