//! A job as a document: it comes back as it went, and a broken one is refused by field.

use ember_core::recording::Recording;
use ember_formats::bundle::{Bundle, BundledRecording, FORMAT};
use rstest::rstest;
use serde_json::{Value, json};

fn document() -> Value {
    json!({
        "format": FORMAT,
        "vehicle": {"fleet_no": "W-12", "name": "Skarn Heft", "engine": {"cylinders": 2, "firing_order": [1, 2], "banks": [[1, 2]]}},
        "opened_at": "2026-11-21T06:30:00Z",
        "entries": [{"number": 1, "at": "2026-11-21T06:30:00Z", "odometer_km": 61228.0, "author": "Ines", "replaces": null,
            "finding": {"kind": "complaint", "symptoms": ["rough idle"]}}],
        "recordings": [{"id": 7, "name": "loop", "made_at": "2026-11-21T07:00:00Z", "time_s": [0.0, 0.1, 0.2],
            "channels": {"engine_speed": [800.0, null, 810.5]}, "marks": [[0.1, "P0171"]], "notes": ["a gap"]}],
    })
}

#[test]
fn a_bundle_round_trips() {
    let first = Bundle::read(document().to_string().as_bytes()).unwrap();
    let again = Bundle::read(serde_json::to_string(&first).unwrap().as_bytes()).unwrap();
    assert_eq!(first, again);
    let recording = first.recordings[0].recording().unwrap();
    assert!(recording.channels["engine_speed"][1].is_nan());
    let bundled = BundledRecording::new(7, "loop", "2026-11-21T07:00:00Z", &recording);
    assert_eq!(bundled.channels, first.recordings[0].channels);
}

#[test]
fn values_survive_to_the_last_bit() {
    let values: Vec<f32> = vec![0.1, 1.0 / 3.0, f32::MIN_POSITIVE, 16_777_217.0, -0.0];
    let recording = Recording {
        time_s: vec![0.1, 0.2, 0.30000000000000004, 1e9 + 0.125, 2e9],
        channels: [("load".to_owned(), values)].into(),
    };
    let text = serde_json::to_string(&BundledRecording::new(1, "x", "now", &recording)).unwrap();
    let read: BundledRecording = serde_json::from_str(&text).unwrap();
    assert_eq!(read.recording().unwrap(), recording);
}

#[rstest]
#[case::another_format("/format", json!("something-else/9"), "format")]
#[case::no_vehicle("/vehicle", Value::Null, "vehicle")]
#[case::text_for_an_odometer("/entries/0/odometer_km", json!("far"), "entries[0].odometer_km")]
#[case::unknown_finding("/entries/0/finding", json!({"kind": "guess"}), "entries[0].finding")]
#[case::time_backwards("/recordings/0/time_s", json!([0.0, 2.0, 1.0]), "recordings[0].time_s")]
#[case::column_too_short("/recordings/0/channels/engine_speed", json!([800.0]), "recordings[0].channels.engine_speed")]
fn a_broken_bundle_is_refused_by_field(#[case] place: &str, #[case] with: Value, #[case] field: &str) {
    let mut broken = document();
    *broken.pointer_mut(place).unwrap() = with;
    let refusal = Bundle::read(broken.to_string().as_bytes()).unwrap_err();
    assert!(refusal.field.starts_with(field), "{refusal}");
}

fn sealed() -> String {
    String::from_utf8(Bundle::read(document().to_string().as_bytes()).unwrap().written()).unwrap()
}

#[test]
fn a_sealed_bundle_is_the_same_to_the_byte_however_often_it_goes_round() {
    let first = sealed();
    assert_eq!(String::from_utf8(Bundle::read(first.as_bytes()).unwrap().written()).unwrap(), first);
}

#[rstest]
#[case::a_reading("61228.0", "60000.0")]
#[case::a_word("rough idle", "smooth idle")]
#[case::the_seal_itself("\"seal\": \"", "\"seal\": \"0")]
fn a_bundle_that_was_altered_by_hand_is_refused(#[case] old: &str, #[case] new: &str) {
    let first = sealed();
    assert!(first.contains(old), "{first}");
    let refusal = Bundle::read(first.replacen(old, new, 1).as_bytes()).unwrap_err();
    assert_eq!(refusal.field, "seal");
    assert!(refusal.reason.contains("altered after it was written"), "{refusal}");
}

#[test]
fn white_space_breaks_no_seal_and_a_bundle_without_one_was_written_by_hand() {
    let value: Value = serde_json::from_str(&sealed()).unwrap();
    Bundle::read(value.to_string().as_bytes()).unwrap();
    Bundle::read(document().to_string().as_bytes()).unwrap();
}

#[rstest]
#[case::the_first_version("gritty-ember-job/1", None)]
#[case::a_newer_version("gritty-ember-job/3", Some("newer Gritty Ember (version 3"))]
#[case::no_number("gritty-ember-job/x", Some("is not gritty-ember-job/2"))]
fn versions_of_the_format(#[case] format: &str, #[case] refused: Option<&str>) {
    let mut value = document();
    value["format"] = json!(format);
    let read = Bundle::read(value.to_string().as_bytes());
    match refused {
        None => assert!(read.is_ok()),
        Some(says) => assert!(read.unwrap_err().reason.contains(says)),
    }
}

#[rstest]
#[case::no_base64(json!([{"id": 1, "name": "c", "made_at": "x", "step_s": 0.1, "channels": [{"name": "a", "samples": "%%"}]}]), "captures[0].channels[0].samples")]
#[case::half_a_float(json!([{"id": 1, "name": "c", "made_at": "x", "step_s": 0.1, "channels": [{"name": "a", "samples": "AAA="}]}]), "captures[0].channels[0].samples")]
#[case::no_step(json!([{"id": 1, "name": "c", "made_at": "x", "step_s": 0.0, "channels": []}]), "captures[0].step_s")]
fn a_capture_that_cannot_be_is_refused(#[case] captures: Value, #[case] field: &str) {
    let mut value = document();
    value["captures"] = captures;
    assert_eq!(Bundle::read(value.to_string().as_bytes()).unwrap_err().field, field);
}

#[test]
fn what_is_no_json_is_refused() {
    assert_eq!(Bundle::read(b"time,rpm").unwrap_err().field, "bundle");
}
