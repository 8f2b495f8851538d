//! Measurements on a job's trail: what they do to the suspects, and what they leave to be put right.

use ember_core::job::{JobState, job_state, judged_on};
use ember_core::knowledge::Knowledge;
use ember_core::trail::{Entry, Finding, NewEntry, check};
use ember_core::vehicle::Vehicle;
use rstest::rstest;
use serde_json::{Value, json};

fn vehicle(more: Value) -> Vehicle {
    let mut engine =
        json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "injection": "port"});
    engine.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    serde_json::from_value(json!({"fleet_no": "T-4", "name": "Trial car", "engine": engine})).unwrap()
}

fn entry(number: usize, finding: Value) -> Entry {
    serde_json::from_value(
        json!({"number": number, "at": "2026-11-20T08:00:00Z", "odometer_km": 10_000.0, "author": "Ada",
        "replaces": null, "finding": finding}),
    )
    .unwrap()
}

/// The state after a complaint and these findings, each checked as the store would.
fn state(vehicle: &Vehicle, findings: &[Value]) -> JobState {
    let engine = vehicle.checked().unwrap();
    let complaint = json!({"kind": "complaint", "symptoms": ["misfire"]});
    let mut entries: Vec<Entry> = Vec::new();
    for finding in [&complaint].into_iter().chain(findings) {
        let next = entry(entries.len() + 1, finding.clone());
        let new =
            NewEntry { odometer_km: 10_000.0, author: "Ada".into(), replaces: None, finding: next.finding.clone() };
        check(&engine, &entries, &new).unwrap_or_else(|refusal| panic!("{refusal}"));
        entries.push(next);
    }
    job_state(vehicle, &entries, Knowledge::built_in()).unwrap()
}

fn measured(reading: Value, target: Value) -> Value {
    json!({"kind": "measured", "reading": reading, "target": target, "instrument": "bench meter"})
}

fn coil(ohm: f64, meter_pct: f64) -> Value {
    let reading = json!({"bench": "resistance", "part": "coil-primary", "reading": {"display": ohm, "part_c": 20,
        "conductor": "copper", "meter": {"percent": meter_pct, "digits": 0, "resolution": 0.01},
        "spec": {"low_ohm": 0.6, "high_ohm": 0.8, "at_c": 20}}});
    measured(reading, json!("cylinder 3"))
}

fn present(state: &JobState, part: &str) -> f64 {
    let suspects = &state.suspects.as_ref().unwrap().result.suspects;
    let of =
        |s: &&ember_core::suspects::Suspect| s.part.as_deref() == Some(part) && s.target.to_string() == "cylinder 3";
    suspects.iter().filter(of).map(|s| s.probability).sum()
}

#[test]
fn a_bad_winding_raises_its_coil_and_a_good_one_lowers_it() {
    let car = vehicle(json!({}));
    let before = present(&state(&car, &[]), "coil");
    let bad = present(&state(&car, &[coil(1.4, 0.5)]), "coil");
    let good = present(&state(&car, &[coil(0.7, 0.5)]), "coil");
    assert!(bad > 3.0 * before && good < before, "{good}, {before}, {bad}");
}

#[rstest]
fn a_reading_weighs_less_the_more_doubtful_it_is(#[values(0.7, 0.82, 1.4)] ohm: f64) {
    let car = vehicle(json!({}));
    let before = present(&state(&car, &[]), "coil");
    let moved = |meter_pct: f64| (present(&state(&car, &[coil(ohm, meter_pct)]), "coil") - before).abs();
    assert!(moved(40.0) <= moved(2.0) + 1e-9, "{} and {}", moved(40.0), moved(2.0));
}

#[test]
fn the_same_reading_again_is_not_new_evidence_twice_over() {
    let car = vehicle(json!({}));
    let once = present(&state(&car, &[coil(1.4, 0.5)]), "coil");
    let thrice = present(&state(&car, &[coil(1.4, 0.5), coil(1.4, 0.5), coil(1.4, 0.5)]), "coil");
    let odds = |p: f64| p / (1.0 - p);
    assert!(thrice >= once && odds(thrice) < 3.0 * odds(once), "{once} and {thrice}");
}

#[test]
fn every_measurement_is_shown_with_its_verdict_and_a_withdrawn_one_is_not() {
    let car = vehicle(json!({}));
    let with_one = state(&car, &[coil(1.4, 0.5)]);
    assert_eq!((with_one.measured.len(), with_one.measured[0].entry), (1, 2));
    assert_eq!(with_one.measured[0].result.word, "fail");
    let mut withdrawn = entry(3, json!({"kind": "withdrawn", "why": "wrong pins"}));
    withdrawn.replaces = Some(2);
    let complaint = entry(1, json!({"kind": "complaint", "symptoms": ["misfire"]}));
    let entries = [complaint, entry(2, coil(1.4, 0.5)), withdrawn];
    assert!(job_state(&car, &entries, Knowledge::built_in()).unwrap().measured.is_empty());
}

fn pierced() -> Value {
    let points = json!([
        {"name": "battery", "kind": "feed", "volt": 12.5},
        {"name": "joint", "kind": "joint", "volt": 12.4, "pierced": true},
        {"name": "sensor", "kind": "part", "volt": 0.05}]);
    measured(json!({"bench": "path", "circuit": "crank-sensor", "path": {"points": points}}), json!("engine"))
}

#[test]
fn a_pierced_wire_stands_on_the_list_until_it_is_put_right() {
    let car = vehicle(json!({}));
    let open = state(&car, &[pierced()]);
    assert_eq!(
        open.put_right.iter().map(|one| one.what.as_str()).collect::<Vec<_>>(),
        ["seal the pierced wire at joint"]
    );
    let what = &open.put_right[0].what;
    assert!(state(&car, &[pierced(), json!({"kind": "righted", "what": what})]).put_right.is_empty());
    // What was put right before it was pierced again is to be done again.
    let again = state(&car, &[pierced(), json!({"kind": "righted", "what": what}), pierced()]);
    assert_eq!(again.put_right.len(), 1);
    let other = state(&car, &[pierced(), json!({"kind": "righted", "what": "something else"})]);
    assert_eq!(other.put_right.len(), 1);
}

#[rstest]
#[case::a_coil_with_its_own(json!({}), true)]
#[case::one_coil_for_all(json!({"ignition": "distributor"}), true)]
#[case::no_coil_at_all(json!({"ignition": "none", "fuel": "diesel", "injection": "common-rail"}), false)]
fn a_reading_says_only_what_the_car_can_have(#[case] engine: Value, #[case] says: bool) {
    let car = vehicle(engine);
    let Finding::Measured(measured) = entry(2, coil(1.4, 0.5)).finding else { panic!("measured") };
    let result = judged_on(&measured, &car, &car.checked().unwrap(), Knowledge::built_in()).unwrap();
    assert_eq!(!result.evidence.is_empty(), says, "{:?}", result.evidence);
}

#[test]
fn what_stands_in_another_store_is_forgotten_when_a_job_travels() {
    let waveform = json!({"bench": "waveform", "capture": 17, "name": "coil", "ask": {"of": "coil-current",
        "signals": [{"channel": "a"}]}, "verdict": "good", "right": 0.9, "says": "alike"});
    let plugs = json!({"bench": "cylinders", "cylinders": {"of": "plug",
        "readings": [{"cylinder": 1, "face": "wet", "photos": [4, 5]}]}});
    for (reading, pointer) in [(waveform, "/reading/capture"), (plugs, "/reading/cylinders/readings/0/photos")] {
        let Finding::Measured(mut one) = entry(2, measured(reading, json!("engine"))).finding else {
            panic!("measured")
        };
        one.stays_behind();
        let left = serde_json::to_value(&one).unwrap();
        assert!([json!(0), json!([])].contains(left.pointer(pointer).unwrap()), "{left:#}");
    }
}

#[rstest]
#[case::upside_down(json!({"bench": "current", "of": "pump", "ampere": 3, "low_a": 5, "high_a": 1}), "finding.reading.low_a")]
#[case::no_instrument(Value::Null, "finding.instrument")]
#[case::nothing_righted(json!("righted"), "finding.what")]
fn the_trail_refuses_what_cannot_be_measured(#[case] reading: Value, #[case] field: &str) {
    let car = vehicle(json!({}));
    let finding = match &reading {
        Value::Null => {
            json!({"kind": "measured", "instrument": "", "reading": {"bench": "key-off-spark", "spark": true}})
        }
        Value::String(_) => json!({"kind": "righted", "what": "  "}),
        reading => measured(reading.clone(), json!("engine")),
    };
    let new: NewEntry =
        serde_json::from_value(json!({"odometer_km": 10_000.0, "author": "Ada", "finding": finding})).unwrap();
    assert_eq!(check(&car.checked().unwrap(), &[], &new).unwrap_err().field, field);
}
