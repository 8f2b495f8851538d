//! What a recording does to a job: its findings, its road, its embers, its next move.

use ember_core::job::{JobState, MarkKind, WaitingFor, job_state_of};
use ember_core::knowledge::Knowledge;
use ember_core::recording::{RecordingResult, ResultKind};
use ember_core::refusal::Refusal;
use ember_core::suspects::memory::WorkshopOwn;
use ember_core::trail::{Entry, NewEntry, check};
use ember_core::vehicle::Vehicle;
use rstest::rstest;
use serde_json::{Value, json};

fn vehicle() -> Vehicle {
    serde_json::from_value(json!({
        "fleet_no": "W-12", "name": "Skarn Heft double-cab",
        "engine": {"cylinders": 6, "firing_order": [1, 2, 3, 4, 5, 6], "banks": [[1, 3, 5], [2, 4, 6]]},
    }))
    .unwrap()
}

/// A trail from odometer readings and findings.
fn trail(findings: &[(f64, Value)]) -> Vec<Entry> {
    findings
        .iter()
        .enumerate()
        .map(|(index, (km, finding))| {
            serde_json::from_value(json!({
                "number": index + 1, "at": "2026-11-21T06:30:00Z", "odometer_km": km, "author": "Ines",
                "replaces": null, "finding": finding,
            }))
            .unwrap()
        })
        .collect()
}

/// The state as the work itself gives it, without what the suspects would rather do.
fn job_state(vehicle: &Vehicle, entries: &[Entry], knowledge: &Knowledge) -> Result<JobState, Refusal> {
    job_state_of(vehicle, entries, knowledge, &WorkshopOwn::default(), None)
}

fn state(findings: &[(f64, Value)]) -> JobState {
    job_state(&vehicle(), &trail(findings), Knowledge::built_in()).unwrap()
}

fn complaint() -> (f64, Value) {
    (61_228.0, json!({"kind": "complaint", "symptoms": ["rough idle"]}))
}

fn scan() -> (f64, Value) {
    (
        61_228.0,
        json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": "P0171", "status": "stored"}]}),
    )
}

fn recording(km: f64, results: Value) -> (f64, Value) {
    (
        km,
        json!({
            "kind": "recording", "recording": 7, "name": "loop", "span_s": 420.0, "samples": 1681,
            "channels": ["engine_speed", "airflow"], "conditions": "warm", "results": results,
        }),
    )
}

fn air_leak() -> Value {
    json!({
        "kind": "trims", "says": "Unmetered air on bank 1, like a hole of 2.2 mm (2.1 to 2.2).", "decided": true,
        "fault": true, "probability": 0.86, "look_first": ["what was handled last", "the hose"],
    })
}

fn vanes() -> Value {
    json!({
        "kind": "boost", "says": "The pressure comes late: the vanes stick.", "decided": true, "fault": true,
        "look_first": ["the rod"],
    })
}

fn ordinary() -> Value {
    json!({"kind": "trims", "says": "The trims are ordinary.", "decided": true, "fault": false, "probability": 0.9})
}

fn clean_counts(km: f64) -> (f64, Value) {
    (
        km,
        json!({
            "kind": "counts", "revolutions": 24_000,
            "misfires": {"1": 0, "2": 0, "3": 0, "4": 0, "5": 0, "6": 0},
        }),
    )
}

fn counts_of_cylinder_3(km: f64) -> (f64, Value) {
    (
        km,
        json!({
            "kind": "counts", "revolutions": 24_000,
            "misfires": {"1": 0, "2": 1, "3": 240, "4": 0, "5": 0, "6": 0},
        }),
    )
}

#[test]
fn a_recording_that_names_a_fault_is_the_next_move() {
    let state = state(&[complaint(), scan(), recording(61_234.0, json!([air_leak()]))]);
    assert_eq!(state.next.step, "look");
    assert!(state.next.why.starts_with("Unmetered air on bank 1"), "{}", state.next.why);
    assert_eq!((state.next.sure, state.next.sure_of.as_str()), (Some(0.86), "what the recording says"));
    assert_eq!(state.waiting_for, WaitingFor::Work);
    let looks: Vec<&str> = state.next.outcomes.iter().map(|o| o.means.as_str()).collect();
    assert_eq!(looks, ["what was handled last", "the hose"], "cheap looks first, as the result orders them");
}

#[test]
fn cautions_stand_at_the_look() {
    let state = state(&[complaint(), scan(), recording(61_234.0, json!([air_leak()]))]);
    let names: Vec<&str> = state.next.cautions.iter().map(|c| c.name.as_str()).collect();
    assert!(names.contains(&"hot") && names.contains(&"law"), "{names:?}");
}

#[test]
fn a_verdict_by_limits_claims_no_probability() {
    let state = state(&[complaint(), scan(), clean_counts(61_230.0), recording(61_234.0, json!([vanes()]))]);
    assert_eq!(state.next.step, "look");
    assert_eq!(state.next.sure, None, "not that of the counts, which answer another question");
    assert!(state.embers.iter().all(|e| !e.what.contains("vanes")));
}

#[test]
fn an_ember_glows_for_what_a_recording_says() {
    let state = state(&[complaint(), scan(), clean_counts(61_230.0), recording(61_234.0, json!([air_leak()]))]);
    let ember = state.embers.iter().find(|e| e.what.starts_with("Unmetered air")).unwrap();
    assert_eq!((ember.probability, ember.because.as_str()), (0.86, "the recording of entry 4"));
    assert!(state.embers.windows(2).all(|pair| pair[0].probability >= pair[1].probability));
}

#[rstest]
#[case::ordinary(json!([ordinary()]))]
#[case::undecided(json!([{"kind": "trims", "says": "Perhaps: unmetered air; not decided.", "decided": false, "fault": true, "probability": 0.5}]))]
#[case::nothing(json!([]))]
fn what_is_no_fault_or_not_decided_changes_neither_embers_nor_the_next_move(#[case] results: Value) {
    let with = state(&[complaint(), scan(), clean_counts(61_230.0), recording(61_234.0, results)]);
    let without = state(&[complaint(), scan(), clean_counts(61_230.0)]);
    assert_eq!(with.next, without.next);
    assert_eq!(with.embers, without.embers);
}

#[test]
fn a_decided_misfire_comes_before_the_trims_that_it_spoils() {
    let state = state(&[complaint(), scan(), recording(61_234.0, json!([air_leak()])), counts_of_cylinder_3(61_234.0)]);
    assert_eq!(state.next.step, "swap");
}

#[test]
fn the_last_recording_speaks() {
    let later = state(&[
        complaint(),
        scan(),
        clean_counts(61_230.0),
        recording(61_234.0, json!([air_leak()])),
        recording(61_300.0, json!([ordinary()])),
    ]);
    assert_ne!(later.next.step, "look");
    assert_eq!(later.recordings.len(), 2);
}

#[test]
fn the_road_shows_a_recording_where_it_was_made() {
    let state = state(&[complaint(), scan(), recording(61_234.0, json!([ordinary(), air_leak()]))]);
    let station = state.road.stations.iter().find(|s| s.km == 61_234.0).unwrap();
    assert_eq!(station.kind, MarkKind::Counted);
    assert_eq!(station.lines, ["recorded: Unmetered air on bank 1"]);
}

#[test]
fn a_recording_without_a_result_is_on_the_road_all_the_same() {
    let state = state(&[complaint(), recording(61_234.0, json!([]))]);
    assert!(state.road.stations.iter().any(|s| s.lines == ["recorded"]));
}

#[test]
fn a_recording_belongs_to_the_phase_in_which_it_was_made() {
    let moved =
        json!({"kind": "moved", "moves": [{"part": "coil", "from": 3, "to": 1}, {"part": "coil", "from": 1, "to": 3}]});
    let fitted = json!({"kind": "fitted", "part": "plug", "cylinder": 3});
    let state = state(&[
        complaint(),
        recording(61_230.0, json!([])),
        (61_230.0, moved),
        (61_230.0, json!({"kind": "cleared"})),
        recording(61_240.0, json!([])),
        (61_240.0, fitted),
        recording(61_250.0, json!([])),
    ]);
    let when: Vec<&str> = state.recordings.iter().map(|r| r.when.as_str()).collect();
    assert_eq!(when, ["before any move", "after the swap", "after the repair"]);
    assert_eq!(state.recordings[1].entry, 5);
}

#[test]
fn units_are_known_once_a_scan_is_on_the_trail() {
    assert!(state(&[complaint()]).units.is_none());
    let units = state(&[complaint(), scan()]).units.unwrap();
    assert_eq!((units.scan_entry, units.units[0].unit.as_str()), (2, "engine"));
}

#[test]
fn a_withdrawn_recording_counts_for_nothing() {
    let mut entries = trail(&[complaint(), scan(), recording(61_234.0, json!([air_leak()]))]);
    entries.push(
        serde_json::from_value(json!({
            "number": 4, "at": "2026-11-21T07:00:00Z", "odometer_km": 61_234.0, "author": "Ines", "replaces": 3,
            "finding": {"kind": "withdrawn", "why": "another car's file"},
        }))
        .unwrap(),
    );
    let state = job_state(&vehicle(), &entries, Knowledge::built_in()).unwrap();
    assert!(state.recordings.is_empty() && state.next.step != "look");
}

#[rstest]
#[case::no_name("name", json!(""), "finding.name")]
#[case::too_long_a_name("name", json!("x".repeat(200)), "finding.name")]
#[case::negative_span("span_s", json!(-1.0), "finding.span_s")]
fn a_recording_that_cannot_be_is_refused_by_field(#[case] field: &str, #[case] value: Value, #[case] named: &str) {
    let (km, mut finding) = recording(61_234.0, json!([]));
    finding[field] = value;
    let new: NewEntry =
        serde_json::from_value(json!({"odometer_km": km, "author": "Ines", "finding": finding})).unwrap();
    let refusal = check(&vehicle().checked().unwrap(), &trail(&[complaint()]), &new).unwrap_err();
    assert_eq!(refusal.field, named);
}

#[test]
fn a_code_on_the_trail_keeps_its_unit_and_its_freeze_frame() {
    let finding = json!({
        "kind": "scan", "tool": "link", "units_read": ["gearbox"],
        "codes": [{"code": "U0401", "status": "pending", "unit": "gearbox",
            "freeze": [{"name": "coolant", "value": 88.0, "unit": "°C", "raw": "80"}]}],
    });
    let state = state(&[complaint(), (61_229.0, finding.clone())]);
    let code = &state.units.unwrap().units[0].codes[0].read;
    assert_eq!(code.unit.as_deref(), Some("gearbox"));
    assert_eq!(code.freeze[0].value, Some(88.0));
    // What was written by hand before units were known still reads.
    let old: Entry = serde_json::from_value(json!({
        "number": 1, "at": "2026-11-02T06:05:00Z", "odometer_km": 1.0, "author": "Ines", "replaces": null,
        "finding": {"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": "P0303"}]},
    }))
    .unwrap();
    assert_eq!(serde_json::to_value(&old.finding).unwrap()["codes"][0], json!({"code": "P0303", "status": null}));
}

#[test]
fn results_written_before_they_named_faults_still_read() {
    let old: RecordingResult =
        serde_json::from_value(json!({"kind": "boost", "says": "It follows.", "decided": true})).unwrap();
    assert_eq!((old.kind, old.fault, old.probability), (ResultKind::Boost, false, None));
    assert!(old.look_first.is_empty());
}
