//! Measurements on a job's trail: what they do to the suspects, and what they leave to be put right.

use ember_core::job::{JobState, job_state, judged_on};
use ember_core::knowledge::Knowledge;
use ember_core::trail::{Entry, Finding, Need, NeedState, NewEntry, check};
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
        one.renumber(&mut |_, _| None);
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

fn compression(kpa: [f64; 4], place: &str) -> Value {
    let readings: Vec<Value> =
        (1..).zip(kpa).map(|(cylinder, value)| json!({"cylinder": cylinder, "value": value})).collect();
    let mut finding =
        measured(json!({"bench": "cylinders", "cylinders": {"of": "compression", "readings": readings}}), Value::Null);
    finding["place"] = json!(place);
    finding
}

#[rstest]
#[case::alike([1200.0, 1190.0, 1210.0, 1195.0], "in-place", NeedState::Proven)]
#[case::one_low([1200.0, 1190.0, 500.0, 1195.0], "in-place", NeedState::Missing)]
#[case::not_on_this_engine([1200.0, 1190.0, 500.0, 1195.0], "removed", NeedState::Unknown)]
fn what_is_measured_proves_a_need_or_takes_it_away(
    #[case] kpa: [f64; 4],
    #[case] place: &str,
    #[case] expected: NeedState,
) {
    let car = vehicle(json!({}));
    let state = state(&car, &[compression(kpa, place)]);
    let shown = state.needs.iter().find(|one| one.need == Need::Compression).unwrap();
    assert_eq!(shown.state, expected, "{shown:?}");
    if expected != NeedState::Unknown {
        assert_eq!(shown.entry, Some(2), "it points at the entry of the measurement");
        assert!(shown.because.starts_with("Compression, cylinder"), "{}", shown.because);
    }
}

#[test]
fn a_reading_between_good_and_bad_proves_no_need() {
    let car = vehicle(json!({}));
    // Nine hundred and twenty of twelve hundred: within the gauge's error of the bound.
    let state = state(&car, &[compression([1200.0, 915.0, 915.0, 915.0], "in-place")]);
    let of = |cylinder: u8| {
        let evidence = &state.measured[0].result.evidence;
        let finding =
            evidence.iter().find(|f| f.target.as_ref().unwrap().to_string() == format!("cylinder {cylinder}"));
        finding.unwrap().likelihood.as_ref().unwrap()["alike"]
    };
    assert!(of(2) < 0.9, "{}", of(2));
    let shown = state.needs.iter().find(|one| one.need == Need::Compression).unwrap();
    // The best cylinder is sure, the others are not: what is proven is proven of it alone.
    assert_ne!(shown.state, NeedState::Missing, "{shown:?}");
}

#[test]
fn no_spark_anywhere_takes_the_spark_away_and_a_hand_set_need_still_counts_most() {
    let car = vehicle(json!({}));
    let sparks: Vec<Value> = (1..=4).map(|cylinder| json!({"cylinder": cylinder, "spark": "none"})).collect();
    let none = measured(json!({"bench": "cylinders", "cylinders": {"of": "spark", "readings": sparks}}), Value::Null);
    let spark = |findings: &[Value]| {
        let state = state(&car, findings);
        state.needs.iter().find(|one| one.need == Need::Spark).unwrap().state
    };
    assert_eq!(spark(std::slice::from_ref(&none)), NeedState::Missing);
    let by_hand = json!({"kind": "need", "need": "spark", "state": "proven", "how": "the tester's gap was too wide"});
    assert_eq!(spark(&[none, by_hand]), NeedState::Proven);
}

/// One of each kind that the trail can hold, as raw as a technician hands it in.
#[rstest]
#[case::resistance(json!({"bench": "resistance", "part": "crank-sensor", "reading": {"display": "1,2k", "part_c": 20,
    "conductor": "copper", "meter": {"percent": 1, "digits": 2, "resolution": 0.01},
    "spec": {"nominal_ohm": 1200, "tolerance_pct": 10, "at_c": 20}}}), "Crank sensor")]
#[case::substitution(json!({"bench": "substitution", "part": "injector", "both": {"display": 14.0,
    "meter": {"percent": 1, "digits": 2, "resolution": 0.1}, "spec": {"low_ohm": 11, "high_ohm": 17}}}), "Injector winding through the loom")]
#[case::continuity(json!({"bench": "continuity", "between": "a and b", "display": 0.3, "limit_ohm": 1}), "Continuity, a and b")]
#[case::voltages(json!({"bench": "voltages", "circuit": "coils", "reading": {"point": "battery", "on_v": 12.5}}), "Battery")]
#[case::drop(json!({"bench": "drop", "circuit": "fuel-pump", "reading": {"drop_v": 0.1, "current_a": 8, "limit_v": 0.2}}), "Fuel pump: voltage lost under load")]
#[case::current(json!({"bench": "current", "of": "fuel pump", "ampere": 6.2, "high_a": 8}), "fuel pump")]
#[case::diode(json!({"bench": "diode", "of": "relay", "reading": {"forward_v": 0.6, "reverse_v": null}}), "Diode, relay")]
#[case::key_off(json!({"bench": "key-off-spark", "spark": true}), "Spark at key-off")]
#[case::hold(json!({"bench": "hold", "hold": {"what": "vacuum actuator",
    "readings": [{"time_s": 0, "kpa": 57}, {"time_s": 90, "kpa": 56.5}]}}), "Holds? vacuum actuator")]
#[case::rod(json!({"bench": "rod", "actuator": {"windows": {"rest": [0.9, 1.1], "full": [3.4, 3.6]},
    "readings": [{"turns": 0, "rest_v": 1, "full_v": 3.5}]}}), "Rod of the actuator")]
#[case::hoses(json!({"bench": "hoses", "map": "none", "places": [{"name": "inlet hose", "state": "tight"}]}), "Smoke along the hoses")]
#[case::marks(json!({"bench": "marks", "marks": {"cam_teeth": 40, "marks": [{"name": "cam", "off_teeth": 0}]}}), "Timing marks")]
fn every_kind_stands_on_the_trail_as_it_was_read_and_comes_back_the_same(#[case] reading: Value, #[case] title: &str) {
    let car = vehicle(json!({}));
    let state = state(&car, &[measured(reading.clone(), json!("engine"))]);
    assert_eq!(state.measured[0].result.title, title);
    // Written and read once more it is the same reading, with the same verdict.
    let first = entry(2, measured(reading, json!("engine")));
    let text = serde_json::to_string(&first).unwrap();
    let again: Entry = serde_json::from_str(&text).unwrap();
    assert_eq!(first, again);
    assert_eq!(serde_json::to_string(&again).unwrap(), text);
}
