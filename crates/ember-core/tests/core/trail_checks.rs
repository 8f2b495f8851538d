//! What may stand on a trail and what may not, by field.

use ember_core::engine::{Engine, EngineDescription};
use ember_core::trail::{Entry, NewEntry, check, effective};
use rstest::rstest;
use serde_json::{Value, json};

fn engine() -> Engine {
    let description: EngineDescription = serde_json::from_value(
        json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "ignition": "paired-coils"}),
    )
    .unwrap();
    Engine::new(&description).unwrap()
}

fn new(finding: Value) -> NewEntry {
    serde_json::from_value(json!({"odometer_km": 1000, "author": "Ada", "finding": finding})).unwrap()
}

fn standing(number: u32, odometer_km: f64, replaces: Option<u32>) -> Entry {
    let finding = serde_json::from_value(json!({"kind": "note", "text": format!("entry {number}")})).unwrap();
    Entry { number, at: String::new(), odometer_km, author: "Ada".into(), replaces, finding }
}

#[rstest]
#[case::complaint(json!({"kind": "complaint", "symptoms": ["stalls"], "observed_from_km": 400, "occurrences_km": [500, 900, 1000]}))]
#[case::complaint_in_words(json!({"kind": "complaint", "symptoms": [], "text": "runs on three"}))]
#[case::scan_without_codes(json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": []}))]
#[case::scan_of_a_makers_code(json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": "P1234"}]}))]
#[case::counts(json!({"kind": "counts", "revolutions": 1000, "misfires": {"1": 0, "2": 500, "3": 0, "4": 0}}))]
#[case::moved(json!({"kind": "moved", "moves": [{"part": "plug", "from": 1, "to": 2}, {"part": "plug", "from": 2, "to": 1}]}))]
#[case::fitted_without_a_cylinder(json!({"kind": "fitted", "part": "crank sensor", "cylinder": null}))]
#[case::need(json!({"kind": "need", "need": "spark", "state": "missing", "how": "tester at 3: none"}))]
#[case::cleared(json!({"kind": "cleared"}))]
#[case::occurred(json!({"kind": "occurred"}))]
#[case::closed(json!({"kind": "closed"}))]
fn is_taken(#[case] finding: Value) {
    check(&engine(), &[], &new(finding)).unwrap();
}

#[rstest]
#[case::no_complaint(json!({"kind": "complaint", "symptoms": [" "]}), "finding.symptoms", "name at least one")]
#[case::watched_from_the_future(json!({"kind": "complaint", "symptoms": ["stalls"], "observed_from_km": 1000}), "finding.observed_from_km", "must lie before the reading now")]
#[case::noticed_in_the_future(json!({"kind": "complaint", "symptoms": ["stalls"], "occurrences_km": [1001]}), "finding.occurrences_km", "lies beyond the reading now")]
#[case::noticed_before_watching(json!({"kind": "complaint", "symptoms": ["stalls"], "observed_from_km": 500, "occurrences_km": [500]}), "finding.occurrences_km", "does not lie after the start")]
#[case::negative_reading(json!({"kind": "complaint", "symptoms": ["stalls"], "occurrences_km": [-1]}), "finding.occurrences_km", "must be zero or more")]
#[case::no_tool(json!({"kind": "scan", "tool": "", "units_read": ["engine"], "codes": []}), "finding.tool", "is empty")]
#[case::no_unit(json!({"kind": "scan", "tool": "reader", "units_read": [""], "codes": []}), "finding.units_read", "which units answered")]
#[case::no_code(json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": "P0301"}, {"code": "misfire"}]}), "finding.codes[1]", "is no trouble code")]
#[case::one_cylinder_short(json!({"kind": "counts", "revolutions": 1000, "misfires": {"1": 0, "2": 0, "3": 0}}), "finding.misfires.4", "left out")]
#[case::more_than_firings(json!({"kind": "counts", "revolutions": 999, "misfires": {"1": 0, "2": 500, "3": 0, "4": 0}}), "finding.misfires.2", "500 misfires in 499.5 firings")]
#[case::no_revolutions(json!({"kind": "counts", "revolutions": 0, "misfires": {}}), "finding.revolutions", "must be above zero")]
#[case::bad_window(json!({"kind": "counts", "revolutions": 1000, "misfires": {"1": 0, "2": 0, "3": 0, "4": 0}, "windows": [{"revolutions": -1, "misfires": {}}]}), "finding.windows[0].revolutions", "must be above zero")]
#[case::same_coil(json!({"kind": "moved", "moves": [{"part": "plug", "from": 1, "to": 4}, {"part": "plug", "from": 4, "to": 1}]}), "finding.moves[0].to", "share a coil")]
#[case::no_moves(json!({"kind": "moved", "moves": []}), "finding.moves", "is empty")]
#[case::fitted_nothing(json!({"kind": "fitted", "part": " ", "cylinder": 1}), "finding.part", "is empty")]
#[case::fitted_nowhere(json!({"kind": "fitted", "part": "plug", "cylinder": 5}), "finding.cylinder", "the engine has no cylinder 5")]
#[case::paid_to_fit(json!({"kind": "fitted", "part": "plug", "cylinder": 1, "cost": -3}), "finding.cost", "must lie between 0")]
#[case::endless(json!({"kind": "fitted", "part": "plug", "cylinder": 1, "minutes": 1e9}), "finding.minutes", "must lie between 0")]
#[case::how(json!({"kind": "need", "need": "air", "state": "proven", "how": ""}), "finding.how", "how was it checked")]
#[case::empty_note(json!({"kind": "note", "text": "\n "}), "finding.text", "is empty")]
#[case::withdraws_nothing(json!({"kind": "withdrawn", "why": "slip"}), "finding.replaces", "which entry is withdrawn")]
#[case::no_reason(json!({"kind": "reopened", "why": ""}), "finding.why", "is empty")]
fn is_refused(#[case] finding: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = check(&engine(), &[], &new(finding)).unwrap_err();
    assert_eq!(refusal.field, field, "{refusal}");
    assert!(refusal.reason.contains(reason), "{refusal}");
}

#[rstest]
#[case::unknown_kind(json!({"kind": "guess"}), "guess")]
#[case::unknown_field(json!({"kind": "note", "text": "x", "colour": "red"}), "colour")]
#[case::unknown_need(json!({"kind": "need", "need": "luck", "state": "proven", "how": "x"}), "luck")]
fn what_is_unknown_is_not_read(#[case] finding: Value, #[case] named: &str) {
    let entry = json!({"odometer_km": 1000, "author": "Ada", "finding": finding});
    let refusal = ember_core::reckon::read::<NewEntry>(&entry).unwrap_err();
    assert!(refusal.to_string().contains(named), "{refusal}");
}

#[rstest]
#[case::at_the_end(None, 1200.0, true)]
#[case::the_same_reading(None, 1100.0, true)]
#[case::backwards(None, 1099.0, false)]
#[case::correcting_in_the_middle(Some(2), 1050.0, true)]
#[case::correcting_before_its_neighbour(Some(2), 999.0, false)]
#[case::correcting_behind_its_neighbour(Some(2), 1101.0, false)]
#[case::correcting_the_last_has_no_end(Some(3), 5000.0, true)]
#[case::no_number(None, f64::NAN, false)]
fn the_odometer_keeps_its_order(#[case] replaces: Option<u32>, #[case] odometer_km: f64, #[case] taken: bool) {
    let trail = [standing(1, 1000.0, None), standing(2, 1060.0, None), standing(3, 1100.0, None)];
    let entry = NewEntry { odometer_km, replaces, ..new(json!({"kind": "note", "text": "x"})) };
    let outcome = check(&engine(), &trail, &entry);
    assert_eq!(outcome.is_ok(), taken, "{outcome:?}");
    if let Err(refusal) = outcome {
        assert_eq!(refusal.field, "odometer_km");
    }
}

#[test]
fn a_correction_of_a_correction_stands_in_the_first_ones_place() {
    let trail = [standing(1, 1.0, None), standing(2, 2.0, None), standing(3, 1.5, Some(1)), standing(4, 1.2, Some(3))];
    let numbers: Vec<u32> = effective(&trail).iter().map(|entry| entry.number).collect();
    assert_eq!(numbers, [4, 2]);
}

#[test]
fn what_was_corrected_already_cannot_be_corrected_again() {
    let trail = [standing(1, 1.0, None), standing(2, 1.0, Some(1))];
    let entry = NewEntry { replaces: Some(1), ..new(json!({"kind": "note", "text": "x"})) };
    let refusal = check(&engine(), &trail, &entry).unwrap_err();
    assert_eq!(
        (refusal.field.as_str(), refusal.reason.as_str()),
        ("replaces", "entry 1 was corrected already, by entry 2")
    );
}
