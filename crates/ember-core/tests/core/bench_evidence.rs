//! What each kind of reading says of the suspects: which test of the book it answers, where, and which way.

use crate::bench;
use bench::number;
use ember_core::bench::Measured;
use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn engine() -> Engine {
    let description: EngineDescription = serde_json::from_value(json!({
        "cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]],
    }))
    .unwrap();
    Engine::new(&description).unwrap()
}

fn judged(reading: Value) -> Value {
    let measured: Measured =
        serde_json::from_value(json!({"reading": reading, "instrument": "meter", "target": "engine"})).unwrap();
    let result = measured.judge(&engine(), Knowledge::built_in()).unwrap_or_else(|refusal| panic!("{refusal}"));
    serde_json::to_value(result).unwrap()
}

/// The test, the place and the likelihoods of each finding.
fn findings(reading: Value) -> Vec<(String, String, Value)> {
    let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    judged(reading)["evidence"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| (text(&f["test"]), text(&f["target"]), f["likelihood"].clone()))
        .collect()
}

fn volts(circuit: &str, reading: Value) -> Value {
    json!({"bench": "voltages", "circuit": circuit, "reading": reading})
}

#[rstest]
#[case::battery(volts("coils", json!({"point": "battery", "on_v": 12.6})), "battery-test", "strong", true)]
#[case::weak_battery(volts("coils", json!({"point": "battery", "crank_v": 8.0})), "battery-test", "strong", false)]
#[case::charging(volts("coils", json!({"point": "battery", "run_v": 14.2})), "charging-test", "right", true)]
#[case::not_charging(volts("coils", json!({"point": "battery", "run_v": 12.4})), "charging-test", "right", false)]
#[case::ground(volts("coils", json!({"point": "ground", "on_v": 0.6})), "ground-test", "small-drop", false)]
#[case::coil_feed(volts("coils", json!({"point": "switched-feed", "on_v": 12.3})), "coil-feed-test", "present", true)]
#[case::pump_feed(volts("fuel-pump", json!({"point": "switched-feed", "on_v": 0.0})), "pump-feed-test", "present", false)]
#[case::running_feed(volts("ignition", json!({"point": "switched-feed", "on_v": 0.2, "crank_v": 9.9})), "running-feed-test", "present", false)]
#[case::cranking_feed(volts("ignition", json!({"point": "cranking-feed", "crank_v": 9.5})), "cranking-feed-test", "present", true)]
fn voltages_answer_the_test_of_their_circuit(
    #[case] reading: Value,
    #[case] test: &str,
    #[case] good: &str,
    #[case] is_good: bool,
) {
    let list = findings(reading);
    let (_, target, likelihood) = list.iter().find(|f| f.0 == test).unwrap_or_else(|| panic!("no {test} in {list:?}"));
    assert_eq!(target, "engine");
    assert_eq!(number(&likelihood[good]) > 0.5, is_good, "{likelihood}");
}

#[test]
fn a_battery_measured_with_the_engine_off_says_nothing_of_its_charging() {
    let list = findings(volts("coils", json!({"point": "battery", "on_v": 12.6})));
    assert!(list.iter().all(|f| f.0 != "charging-test"), "{list:?}");
}

fn path(points: &[(&str, &str, f64)]) -> Value {
    let points: Vec<Value> =
        points.iter().map(|(name, kind, volt)| json!({"name": name, "kind": kind, "volt": volt})).collect();
    json!({"bench": "path", "circuit": "fuel-pump", "path": {"points": points}})
}

#[test]
fn a_bad_joint_speaks_of_joints_and_a_dead_fuse_of_the_feed() {
    let joint = findings(path(&[("relay", "relay", 12.4), ("sill", "joint", 5.0), ("pump", "part", 0.05)]));
    assert_eq!(joint.iter().map(|f| f.0.as_str()).collect::<Vec<_>>(), ["bay-connectors-look"]);
    assert!(number(&joint[0].2["poor"]) > 0.9, "{:?}", joint[0]);
    let fuse = findings(path(&[("battery", "feed", 12.5), ("fuse", "fuse", 0.0), ("pump", "part", 0.05)]));
    assert_eq!(fuse.iter().map(|f| f.0.as_str()).collect::<Vec<_>>(), ["pump-feed-test"]);
    assert!(number(&fuse[0].2["missing"]) > 0.9, "{:?}", fuse[0]);
}

#[test]
fn a_stretch_that_is_still_wide_speaks_less_than_a_piece_that_is_found() {
    let of = |reading: Value| {
        let list = findings(reading);
        list.iter().find(|f| f.0 == "bay-connectors-look").map(|f| number(&f.2["poor"])).unwrap_or(0.5)
    };
    let wide = of(json!({"bench": "path", "circuit": "fuel-pump", "path": {"points": [
        {"name": "battery", "kind": "feed", "volt": 12.5}, {"name": "fuse", "kind": "fuse"}, {"name": "relay", "kind": "relay"},
        {"name": "sill", "kind": "joint"}, {"name": "plug", "kind": "joint", "volt": 3.0}, {"name": "pump", "kind": "part"}]}}));
    let found = of(path(&[("relay", "relay", 12.4), ("sill", "joint", 5.0), ("pump", "part", 0.05)]));
    assert!(wide < found && wide >= 0.5, "{wide} and {found}");
}

#[test]
fn a_path_that_is_good_lowers_joints_and_wires_without_clearing_them() {
    let list = findings(path(&[("relay", "relay", 12.4), ("sill", "joint", 12.3), ("pump", "part", 0.05)]));
    let tests: Vec<&str> = list.iter().map(|f| f.0.as_str()).collect();
    assert_eq!(tests, ["bay-connectors-look", "loom-wiggle"]);
    assert!(list.iter().all(|f| number(f.2.as_object().unwrap().values().next().unwrap()) <= 0.97));
}

#[rstest]
#[case::follows("throttle", 0.0, "throttle-sweep-test", "smooth", true)]
#[case::steps("throttle", 1.0, "throttle-sweep-test", "smooth", false)]
#[case::pedal("pedal", 1.0, "pedal-sweep-test", "smooth", false)]
fn a_sweep_answers_for_what_was_moved(
    #[case] of: &str,
    #[case] step: f64,
    #[case] test: &str,
    #[case] good: &str,
    #[case] is_good: bool,
) {
    let points: Vec<Value> = (0..40)
        .map(|n| json!({"position": n, "value": 0.1 * f64::from(n) + if n > 20 { step } else { 0.0 }}))
        .collect();
    let list = findings(json!({"bench": "sweep", "of": of, "sweep": {"points": points}}));
    assert_eq!(list.len(), 1);
    assert_eq!((list[0].0.as_str(), number(&list[0].2[good]) > 0.5), (test, is_good));
    let other = findings(json!({"bench": "sweep", "of": "window lifter", "sweep": {"points": points}}));
    assert!(other.is_empty(), "the book knows no test of it: {other:?}");
}

#[test]
fn a_motor_driven_the_wrong_way_obeys_the_tester_only() {
    let list = findings(json!({"bench": "pins", "connector": "throttle", "pins": {"readings": [],
        "motor": {"positive_pin": 1, "negative_pin": 2, "opening_v": -6.0}}}));
    let drive = list.iter().find(|f| f.0 == "actuator-drive-test").unwrap();
    assert!(number(&drive.2["obeys-tester-only"]) > 0.8, "{drive:?}");
}

#[test]
fn a_dead_reference_speaks_of_the_reference_and_a_good_plug_of_its_contacts() {
    let plug = |volt: f64| {
        json!({"bench": "pins", "connector": "sensor", "pins": {"readings": [{"pin": 1, "volt": volt, "ground_ohm": 9e8}, {"pin": 2, "volt": 1.1}],
            "expected": [{"pin": 1, "role": "reference"}, {"pin": 2, "role": "signal"}]}})
    };
    let of = |volt: f64, test: &str, good: &str| {
        let list = findings(plug(volt));
        number(&list.iter().find(|f| f.0 == test).unwrap().2[good])
    };
    assert!(of(0.0, "reference-test", "right") < 0.1 && of(5.0, "reference-test", "right") > 0.9);
    assert!(of(0.0, "bay-connectors-look", "clean") < 0.5 && of(5.0, "bay-connectors-look", "clean") > 0.5);
}

/// A capture that named one cylinder, or none.
fn captured(of: &str, odd: Value, verdict: &str, cylinders: Value) -> Value {
    json!({"bench": "waveform", "capture": 3, "name": "coil", "ask": {"of": of, "signals": [{"channel": "a"}]},
        "verdict": verdict, "right": if verdict == "bad" { 0.05 } else { 0.95 }, "says": "read", "odd": odd,
        "figures": [{"name": "dwell_ms", "label": "Dwell", "unit": "ms", "median": 2.6, "least": 2.5, "most": 2.7,
            "events": 9, "cylinders": cylinders}]})
}

fn one_of_four() -> Value {
    json!([{"cylinder": 3, "figure": "inductance_mh", "value": 2.8, "others": 4.2, "unit": "mH", "score": -9.0}])
}

#[rstest]
#[case::coil("coil-current", "coil-resistance", "like-its-sisters")]
#[case::ignition("ignition-voltage", "spark-test", "strong")]
#[case::injector("injector-current", "injector-resistance", "like-its-sisters")]
#[case::pulse("injector-voltage", "injector-pulse-test", "present")]
#[case::cranking("cranking-current", "relative-compression-test", "alike")]
fn an_odd_cylinder_of_a_capture_is_one_finding_and_its_sisters_are_others(
    #[case] of: &str,
    #[case] test: &str,
    #[case] good: &str,
) {
    let cylinders = json!({"1": 2.6, "2": 2.6, "3": 2.6, "4": 2.6});
    let list = findings(captured(of, one_of_four(), "bad", cylinders));
    assert_eq!(list.len(), 4);
    for (name, target, likelihood) in &list {
        assert_eq!(name, test);
        assert_eq!(number(&likelihood[good]) < 0.5, target == "cylinder 3", "{target}: {likelihood}");
    }
}

#[rstest]
#[case::cannot_tell(captured("coil-current", json!([]), "cannot-tell", json!({"1": 2.6, "2": 2.6})), 0)]
#[case::one_cylinder_alone(captured("coil-current", json!([]), "good", json!({})), 0)]
#[case::a_cam_that_has_moved(captured("crank-and-cam", json!([]), "bad", json!({})), 1)]
#[case::a_drive_that_is_followed(captured("motor-drive", json!([]), "good", json!({})), 1)]
fn a_capture_that_decides_nothing_says_nothing(#[case] reading: Value, #[case] count: usize) {
    assert_eq!(findings(reading).len(), count);
}

#[test]
fn every_answer_of_the_bench_is_a_test_of_the_book_with_its_outcomes() {
    let knowledge = Knowledge::built_in();
    for (what, (test, good, bad)) in &knowledge.bench.answers {
        let known = knowledge.book.test(test).unwrap_or_else(|| panic!("{what}: no test {test}"));
        for outcome in [good, bad] {
            assert!(known.outcomes.iter().any(|o| o.id == *outcome), "{what}: {test} has no {outcome}");
        }
    }
}

proptest! {
    #[test]
    fn no_reading_is_surer_than_slips_allow(kpa in prop::collection::vec(200f64..1300.0, 4)) {
        let readings: Vec<Value> = (1..).zip(&kpa).map(|(cylinder, value)| json!({"cylinder": cylinder, "value": value})).collect();
        let slip = Knowledge::built_in().bench.weight.slip;
        for (_, _, likelihood) in findings(json!({"bench": "cylinders", "cylinders": {"of": "compression", "readings": readings}})) {
            let shares: Vec<f64> = likelihood.as_object().unwrap().values().map(number).collect();
            prop_assert!(shares.iter().all(|share| (slip - 1e-9..=1.0 - slip + 1e-9).contains(share)), "{shares:?}");
            prop_assert!((shares.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        }
    }

    #[test]
    fn cylinders_are_judged_alike_in_any_order(kpa in prop::collection::vec(200f64..1300.0, 4), order in Just(vec![0usize, 1, 2, 3]).prop_shuffle()) {
        let reading = |at: usize| json!({"cylinder": at + 1, "value": kpa[at]});
        let of = |order: &[usize]| {
            let readings: Vec<Value> = order.iter().map(|&at| reading(at)).collect();
            judged(json!({"bench": "cylinders", "cylinders": {"of": "compression", "readings": readings}}))
        };
        prop_assert_eq!(of(&[0, 1, 2, 3]), of(&order));
    }

    #[test]
    fn a_lower_cylinder_is_never_judged_better(best in 900f64..1300.0, share in 0.05f64..1.0, less in 0.0f64..0.5) {
        let right = |share: f64| {
            let readings = json!([{"cylinder": 1, "value": best}, {"cylinder": 2, "value": best * share}]);
            let list = findings(json!({"bench": "cylinders", "cylinders": {"of": "compression", "readings": readings}}));
            list.iter().find(|f| f.1 == "cylinder 2").map(|f| number(&f.2["alike"])).unwrap()
        };
        prop_assert!(right(share * (1.0 - less)) <= right(share) + 1e-9);
    }
}
