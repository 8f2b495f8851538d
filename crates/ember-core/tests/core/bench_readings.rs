//! Readings at the bench as they stand on a trail: cylinders side by side, what holds, rods, hoses, marks; what each says
//! of the suspects, and how heavily.

use crate::bench;
use bench::{number, with};
use ember_core::bench::{BenchResult, Measured, choices};
use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::refusal::Refusal;
use rstest::rstest;
use serde_json::{Value, json};

fn engine() -> Engine {
    let description: EngineDescription = serde_json::from_value(json!({
        "cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]],
    }))
    .unwrap();
    Engine::new(&description).unwrap()
}

fn measured(reading: Value) -> Value {
    json!({"reading": reading, "instrument": "the workshop's own"})
}

fn judge(input: Value) -> Result<BenchResult, Refusal> {
    let measured: Measured = serde_json::from_value(input.clone()).unwrap_or_else(|error| panic!("{error}\n{input:#}"));
    measured.judge(&engine(), Knowledge::built_in())
}

fn judged(reading: Value) -> Value {
    serde_json::to_value(judge(measured(reading)).unwrap_or_else(|refusal| panic!("{refusal}"))).unwrap()
}

fn refused(reading: Value) -> Refusal {
    judge(measured(reading)).unwrap_err()
}

fn cylinders(of: &str, readings: Value) -> Value {
    json!({"bench": "cylinders", "cylinders": {"of": of, "readings": readings}})
}

/// One value for each cylinder.
fn values(of: &str, list: [f64; 4]) -> Value {
    let readings: Vec<Value> =
        (1..).zip(list).map(|(cylinder, value)| json!({"cylinder": cylinder, "value": value})).collect();
    cylinders(of, json!(readings))
}

/// How likely a finding at a target says it is as it should be, by its good outcome.
fn good_share(result: &Value, test: &str, target: &str, good: &str) -> f64 {
    let finding = result["evidence"].as_array().unwrap().iter().find(|f| f["test"] == test && f["target"] == target);
    let finding = finding.unwrap_or_else(|| panic!("no {test} at {target} in {:#}", result["evidence"]));
    number(&finding["likelihood"][good])
}

#[rstest]
#[case::alike([1210.0, 1190.0, 1205.0, 1180.0], "good", &[])]
#[case::one_low([1210.0, 1190.0, 780.0, 1180.0], "bad", &[3])]
#[case::neighbours([1210.0, 640.0, 650.0, 1180.0], "bad", &[2, 3])]
#[case::worn([1210.0, 1190.0, 925.0, 1180.0], "cannot-tell", &[])]
#[case::a_hole([1210.0, 1190.0, 40.0, 1180.0], "bad", &[3])]
fn compression_is_compared_with_the_best(#[case] kpa: [f64; 4], #[case] verdict: &str, #[case] odd: &[u8]) {
    let out = judged(values("compression", kpa));
    assert_eq!(out["verdict"], verdict, "{out:#}");
    let bad: Vec<u8> = (1..=4).filter(|c| out["figures"][*c as usize - 1]["verdict"] == "bad").collect();
    assert_eq!(bad, odd);
    if odd == [2, 3] {
        assert!(out["says"].as_str().unwrap().contains("gasket between them"), "{}", out["says"]);
    }
}

#[test]
fn what_a_cylinder_gains_with_oil_points_at_its_rings() {
    let of = |wet: f64| {
        let mut input = values("compression", [1210.0, 1190.0, 780.0, 1180.0]);
        input["cylinders"]["readings"][2]["wet"] = json!(wet);
        judged(input)["says"].as_str().unwrap().to_owned()
    };
    assert!(of(1000.0).contains("28 % more with oil: rings"), "{}", of(1000.0));
    assert!(of(790.0).contains("valves or gasket"), "{}", of(790.0));
}

#[test]
fn the_makers_least_figure_condemns_even_cylinders_that_are_alike() {
    let input = with(values("compression", [800.0, 790.0, 805.0, 795.0]), &[("/cylinders/spec_low", json!(1000))]);
    let out = judged(input);
    assert_eq!(out["verdict"], "bad");
    assert!(out["says"].as_str().unwrap().contains("All are low alike"), "{}", out["says"]);
}

#[test]
fn one_cylinder_alone_says_nothing_without_a_figure() {
    let out = judged(cylinders("compression", json!([{"cylinder": 2, "value": 700}])));
    assert_eq!((&out["verdict"], &out["evidence"]), (&json!("cannot-tell"), &json!([])));
    assert!(out["says"].as_str().unwrap().contains("measure the others"));
}

#[rstest]
#[case::tight([8.0, 10.0, 12.0, 9.0], "good")]
#[case::leaks([8.0, 62.0, 12.0, 9.0], "bad")]
#[case::worn([8.0, 22.0, 12.0, 9.0], "cannot-tell")]
fn leak_down_is_judged_by_what_is_lost(#[case] pct: [f64; 4], #[case] verdict: &str) {
    assert_eq!(judged(values("leak-down", pct))["verdict"], verdict);
}

#[rstest]
#[case::intake("intake", "inlet valve", "valves")]
#[case::exhaust("exhaust", "outlet valve", "valves")]
#[case::crankcase("crankcase", "rings", "rings")]
#[case::coolant("coolant", "gasket or crack", "gasket")]
#[case::neighbour("neighbour", "gasket between", "gasket")]
fn where_the_air_is_heard_names_what_leaks(#[case] heard: &str, #[case] says: &str, #[case] outcome: &str) {
    let out = judged(cylinders("leak-down", json!([{"cylinder": 2, "value": 62, "heard_at": heard}])));
    assert!(out["says"].as_str().unwrap().contains(says), "{}", out["says"]);
    assert!(number(&out["evidence"][0]["likelihood"][outcome]) > 0.9, "{:#}", out["evidence"]);
}

fn sparks(seen: [&str; 4]) -> Value {
    let list: Vec<Value> =
        (1..).zip(seen).map(|(cylinder, spark)| json!({"cylinder": cylinder, "spark": spark})).collect();
    cylinders("spark", json!(list))
}

#[rstest]
#[case::strong(["strong"; 4], "good", "right moment")]
#[case::one_weak(["strong", "weak", "strong", "strong"], "bad", "weak at 2")]
#[case::none_anywhere(["none"; 4], "bad", "what all share")]
#[case::one_none(["strong", "strong", "none", "weak"], "bad", "none at 3, weak at 4")]
fn sparks_are_compared(#[case] seen: [&str; 4], #[case] verdict: &str, #[case] says: &str) {
    let out = judged(sparks(seen));
    assert_eq!(out["verdict"], verdict);
    assert!(out["says"].as_str().unwrap().contains(says), "{}", out["says"]);
}

#[rstest]
#[case::all_alike(json!([{"value": 11.0}, {"value": 10.6}, {"value": 11.2}, {"value": 10.9}]), "good", "feed and the relay")]
#[case::one_open(json!([{"value": 11.0}, {"open": true}, {"value": 11.2}, {"value": 10.9}]), "bad", "2 open")]
#[case::one_weak(json!([{"value": 11.0}, {"value": 4.0}, {"value": 11.2}, {"value": 10.9}]), "bad", "2 draws 4.0 A")]
#[case::one_slow(json!([{"seconds": 4}, {"seconds": 5}, {"seconds": 25}, {"seconds": 4}]), "bad", "3 takes 25 s")]
#[case::odd_by_ohm(json!([{"ohm": 0.6}, {"ohm": 0.62}, {"ohm": 0.61}, {"ohm": 6.0}]), "bad", "4 6.000 ohm is unlike")]
#[case::none_works(json!([{"open": true}, {"open": true}, {"open": true}, {"open": true}]), "bad", "the feed and the relay")]
fn glow_plugs_are_judged_one_by_one(#[case] list: Value, #[case] verdict: &str, #[case] says: &str) {
    let mut list = list.as_array().unwrap().clone();
    (1..).zip(&mut list).for_each(|(cylinder, reading)| reading["cylinder"] = json!(cylinder));
    let out = judged(cylinders("glow-plug", json!(list)));
    assert_eq!(out["verdict"], verdict, "{out:#}");
    assert!(out["says"].as_str().unwrap().contains(says), "{}", out["says"]);
}

fn plugs(faces: [&str; 4]) -> Value {
    let list: Vec<Value> =
        (1..).zip(faces).map(|(cylinder, face)| json!({"cylinder": cylinder, "face": face})).collect();
    cylinders("plug", json!(list))
}

#[rstest]
#[case::normal(["normal"; 4], "good", "as they should be")]
#[case::one_wet(["normal", "normal", "wet", "normal"], "bad", "Plug 3 wet")]
#[case::all_sooty(["sooty"; 4], "bad", "All are sooty alike")]
#[case::broken(["broken", "normal", "normal", "normal"], "bad", "Plug 1 broken")]
fn plug_faces_are_read_side_by_side(#[case] faces: [&str; 4], #[case] verdict: &str, #[case] says: &str) {
    let out = judged(plugs(faces));
    assert!(out["verdict"] == verdict && out["says"].as_str().unwrap().contains(says), "{out:#}");
}

#[rstest]
#[case::wide(json!({"gap_mm": 1.3}), "too wide")]
#[case::narrow(json!({"gap_mm": 0.4}), "too narrow")]
#[case::loose(json!({"tightness": "loose"}), "sat loose")]
fn a_sound_face_with_a_wrong_gap_or_a_loose_seat_is_bad(#[case] more: Value, #[case] says: &str) {
    let mut reading = json!({"cylinder": 2, "face": "normal"});
    reading.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    let input = with(
        cylinders("plug", json!([reading])),
        &[("/cylinders/spec_low", json!(0.7)), ("/cylinders/spec_high", json!(0.9))],
    );
    let out = judged(input);
    assert!(out["verdict"] == "bad" && out["says"].as_str().unwrap().contains(says), "{out:#}");
}

#[rstest]
#[case::none(cylinders("compression", json!([])), "readings", "empty")]
#[case::a_fifth(cylinders("spark", json!([{"cylinder": 5, "spark": "weak"}])), "readings[0].cylinder", "no cylinder 5")]
#[case::twice(cylinders("spark", json!([{"cylinder": 1, "spark": "weak"}, {"cylinder": 1, "spark": "weak"}])), "readings[1].cylinder", "twice")]
#[case::no_value(cylinders("leak-down", json!([{"cylinder": 1}])), "readings[0].value", "missing")]
#[case::beyond_all(values("leak-down", [5.0, 5.0, 5.0, 140.0]), "readings[3].value", "100 %")]
#[case::no_spark(cylinders("spark", json!([{"cylinder": 1}])), "readings[0].spark", "missing")]
#[case::no_face(cylinders("plug", json!([{"cylinder": 1}])), "readings[0].face", "missing")]
#[case::nothing_of_a_glow_plug(cylinders("glow-plug", json!([{"cylinder": 1}])), "readings[0].value", "at least one")]
#[case::no_compression(values("compression", [0.0; 4]), "readings", "does it crank")]
#[case::gap_upside_down(
    with(plugs(["normal"; 4]), &[("/cylinders/spec_low", json!(1)), ("/cylinders/spec_high", json!(0.5))]), "spec_low", "above high")]
fn cylinder_readings_that_cannot_be_are_refused(#[case] reading: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = refused(reading);
    assert!(refusal.field.ends_with(field) && refusal.reason.contains(reason), "{refusal}");
    assert!(refusal.field.starts_with("reading."), "{refusal}");
}

/// A gauge read every half minute, with a loss in percent a minute.
fn holding(loss_pct: f64, seconds: &[f64]) -> Value {
    let readings: Vec<Value> =
        seconds.iter().map(|s| json!({"time_s": s, "kpa": 57.33 * (-loss_pct / 100.0 * s / 60.0).exp()})).collect();
    json!({"bench": "hold", "hold": {"what": "vacuum actuator", "readings": readings}})
}

#[rstest]
#[case::holds(1.0, &[0.0, 30.0, 60.0, 90.0, 120.0], "good")]
#[case::leaks(20.0, &[0.0, 30.0, 60.0, 90.0, 120.0], "bad")]
#[case::too_short(1.0, &[0.0, 6.0], "cannot-tell")]
fn a_vacuum_holds_or_leaks_at_a_rate(#[case] loss: f64, #[case] seconds: &[f64], #[case] verdict: &str) {
    let out = judged(holding(loss, seconds));
    assert_eq!(out["verdict"], verdict, "{out:#}");
    let figure = &out["figures"][0];
    assert!((number(&figure["value"]) - loss).abs() < 1e-6, "{figure}");
    assert!(number(&figure["low"]) < loss && loss < number(&figure["high"]));
    let right = good_share(&out, "actuator-vacuum-test", "engine", "holds");
    assert!(if verdict == "bad" { right < 0.1 } else { right > 0.5 }, "{right}");
}

#[test]
fn readings_of_a_gauge_count_in_any_order_and_longer_watching_tells_more() {
    let short = judged(holding(4.0, &[0.0, 30.0]));
    let long = judged(holding(4.0, &[0.0, 30.0, 60.0, 120.0, 240.0]));
    let width = |out: &Value| number(&out["figures"][0]["high"]) - number(&out["figures"][0]["low"]);
    assert!(width(&long) < width(&short) / 3.0);
    let mut shuffled = holding(4.0, &[0.0, 30.0, 60.0]);
    shuffled["hold"]["readings"].as_array_mut().unwrap().reverse();
    assert_eq!(judged(shuffled), judged(holding(4.0, &[0.0, 30.0, 60.0])));
}

#[rstest]
#[case::once(holding(1.0, &[0.0]), "hold.readings", "two at least")]
#[case::same_second(holding(1.0, &[0.0, 0.0]), "hold.readings", "same second")]
#[case::nothing_there(with(holding(1.0, &[0.0, 60.0]), &[("/hold/readings/0/kpa", json!(0.2))]), "readings[0].kpa", "nothing to hold")]
#[case::below_nought(with(holding(1.0, &[0.0, 60.0]), &[("/hold/readings/1/kpa", json!(-3))]), "hold.readings[1]", "nought or more")]
#[case::no_limit(with(holding(1.0, &[0.0, 60.0]), &[("/hold/limit_pct_per_min", json!(0))]), "limit_pct_per_min", "")]
fn a_hold_that_cannot_be_judged_is_refused(#[case] reading: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = refused(reading);
    assert!(refusal.field.ends_with(field) && refusal.reason.contains(reason), "{refusal}");
}

fn rod(readings: Value, rod_mm: Value) -> Value {
    json!({"bench": "rod", "rod_mm": rod_mm, "actuator": {"windows": {"rest": [0.95, 1.1], "full": [3.4, 3.6]},
        "vacuum_mmhg": 430, "readings": readings}})
}

#[rstest]
#[case::inside(json!([{"turns": 0, "rest_v": 1.0, "full_v": 3.5}]), Value::Null, "good", "inside")]
#[case::one_setting(json!([{"turns": 0, "rest_v": 0.8, "full_v": 3.3}]), Value::Null, "bad", "one setting")]
#[case::turn_it(json!([{"turns": 0, "rest_v": 0.92, "full_v": 3.34}, {"turns": 0.5, "rest_v": 0.97, "full_v": 3.39}]), json!(112), "bad", "turn it")]
#[case::span_wrong(json!([{"turns": 0, "rest_v": 1.02, "full_v": 2.9}, {"turns": 1, "rest_v": 1.12, "full_v": 3.0}]), json!(112), "bad", "span wrong")]
fn a_rod_is_set_until_both_ends_lie_in_their_windows(
    #[case] readings: Value,
    #[case] rod_mm: Value,
    #[case] verdict: &str,
    #[case] word: &str,
) {
    let out = judged(rod(readings, rod_mm));
    assert_eq!((&out["verdict"], &out["word"]), (&json!(verdict), &json!(word)), "{out:#}");
    assert_eq!(out["next"].is_null(), word != "turn it");
}

#[rstest]
#[case::moved_unmeasured(rod(json!([{"turns": 0, "rest_v": 0.9, "full_v": 3.3}, {"turns": 1, "rest_v": 1, "full_v": 3.4}]), Value::Null), "rod_mm", "before it is moved")]
#[case::a_rod_of_two_metres(rod(json!([{"turns": 0, "rest_v": 1, "full_v": 3.5}]), json!(2000)), "rod_mm", "1 and 1000")]
fn a_rod_is_measured_before_it_is_moved(#[case] reading: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = refused(reading);
    assert!(refusal.field.ends_with(field) && refusal.reason.contains(reason), "{refusal}");
}

fn smoke(states: &[&str]) -> Value {
    let places: Vec<Value> =
        states.iter().enumerate().map(|(at, state)| json!({"name": format!("hose {at}"), "state": state})).collect();
    json!({"bench": "hoses", "map": "charged", "places": places})
}

#[rstest]
#[case::leak(&["tight", "leaks", "not-seen"], "bad", "hose 1", 0.0, 0.1)]
#[case::tight(&["tight", "tight", "tight"], "good", "No smoke", 0.9, 1.0)]
#[case::half_seen(&["tight", "not-seen", "not-seen", "tight"], "cannot-tell", "not looked at: hose 1, hose 2", 0.6, 0.85)]
fn smoke_is_looked_for_hose_by_hose(
    #[case] states: &[&str],
    #[case] verdict: &str,
    #[case] says: &str,
    #[case] least: f64,
    #[case] most: f64,
) {
    let out = judged(smoke(states));
    assert!(out["verdict"] == verdict && out["says"].as_str().unwrap().contains(says), "{out:#}");
    let tight = good_share(&out, "smoke-charge", "engine", "tight");
    assert!((least..=most).contains(&tight), "{tight}");
}

fn marks(list: &[(&str, f64)]) -> Value {
    let list: Vec<Value> = list.iter().map(|(name, off)| json!({"name": name, "off_teeth": off})).collect();
    json!({"bench": "marks", "marks": {"cam_teeth": 40, "marks": list}})
}

#[rstest]
#[case::true_marks(&[("intake", 0.1), ("exhaust", -0.2)], "good", "stand true")]
#[case::a_tooth_late(&[("intake", 1.0), ("exhaust", 0.0)], "bad", "intake stands 1.0 teeth late, 18 crank degrees")]
#[case::between(&[("intake", 0.5)], "cannot-tell", "turn it twice by hand")]
#[case::both(&[("intake", -1.0), ("exhaust", -1.0)], "bad", "is the crank on its mark")]
fn timing_marks_are_counted_in_teeth(#[case] list: &[(&str, f64)], #[case] verdict: &str, #[case] says: &str) {
    let out = judged(marks(list));
    assert!(out["verdict"] == verdict && out["says"].as_str().unwrap().contains(says), "{out:#}");
}

#[rstest]
#[case::no_mark(marks(&[]), "marks", "empty")]
#[case::half_a_turn(marks(&[("intake", 30.0)]), "marks[0].off_teeth", "half a turn")]
#[case::a_wheel_of_three(with(marks(&[("intake", 0.0)]), &[("/marks/cam_teeth", json!(3))]), "cam_teeth", "10 and 200")]
#[case::no_hose(smoke(&[]), "places", "empty")]
#[case::no_map(with(smoke(&["tight"]), &[("/map", json!("drains"))]), "map", "no map drains")]
fn marks_and_hoses_that_cannot_be_are_refused(#[case] reading: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = refused(reading);
    assert!(refusal.field.ends_with(field) && refusal.reason.contains(reason), "{refusal}");
}

fn through(display: Value) -> Value {
    json!({"bench": "continuity", "between": "unit 12 and plug 2", "display": display, "limit_ohm": 1, "leads_ohm": 0.2})
}

#[rstest]
#[case::through(json!(0.6), "good", "through")]
#[case::too_high(json!(3.0), "bad", "too high")]
#[case::open(json!("OL"), "bad", "open")]
#[case::comes_and_goes(json!(["0.4", "OL", "0.5"]), "bad", "comes and goes")]
fn a_way_through_is_there_or_not(#[case] display: Value, #[case] verdict: &str, #[case] word: &str) {
    let out = judged(through(display));
    assert_eq!((&out["verdict"], &out["word"]), (&json!(verdict), &json!(word)));
}

#[rstest]
#[case::no_figure(json!({"ampere": 5.0}), "cannot-tell")]
#[case::as_it_should(json!({"ampere": 5.0, "low_a": 4.0, "high_a": 6.0}), "good")]
#[case::too_much(json!({"ampere": 9.0, "high_a": 6.0}), "bad")]
#[case::too_little(json!({"ampere": 1.0, "low_a": 4.0}), "bad")]
#[case::within_the_clamps_error(json!({"ampere": 5.9, "high_a": 6.0}), "cannot-tell")]
fn a_current_is_judged_with_the_doubt_of_its_clamp(#[case] more: Value, #[case] verdict: &str) {
    let mut reading = json!({"bench": "current", "of": "fuel pump"});
    reading.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    assert_eq!(judged(reading)["verdict"], verdict);
}

/// An injector's winding, the loom to it, and both; each with what it shows.
fn substituted(alone: Option<f64>, loom: Option<f64>, both: Option<f64>) -> Value {
    let of = |display: Option<f64>| {
        display.map(|ohm| {
            json!({"display": ohm, "meter": {"percent": 1, "digits": 2, "resolution": 0.1},
            "spec": {"low_ohm": 11, "high_ohm": 17}})
        })
    };
    json!({"bench": "substitution", "part": "injector", "alone": of(alone), "loom": of(loom), "both": of(both)})
}

#[rstest]
#[case::one_reading_proves_both(None, None, Some(14.0), "good", "proven in one reading")]
#[case::the_part(Some(40.0), None, Some(40.0), "bad", "part itself")]
#[case::the_loom(Some(14.0), None, Some(90.0), "bad", "loom or its plugs")]
#[case::between_them(Some(14.0), Some(14.0), Some(90.0), "bad", "connection between")]
#[case::part_next(None, None, Some(90.0), "bad", "now the part alone")]
#[case::half_known(Some(14.0), None, None, "cannot-tell", "loom was not measured")]
fn a_known_good_part_through_the_loom_parts_part_and_wiring(
    #[case] alone: Option<f64>,
    #[case] loom: Option<f64>,
    #[case] both: Option<f64>,
    #[case] verdict: &str,
    #[case] says: &str,
) {
    let out = judge(with(measured(substituted(alone, loom, both)), &[("/target", json!("cylinder 2"))])).unwrap();
    let out = serde_json::to_value(out).unwrap();
    assert!(out["verdict"] == verdict && out["says"].as_str().unwrap().contains(says), "{out:#}");
}

#[rstest]
#[case::spark(true, "good", "trigger's side", 0.9, 1.0)]
#[case::none(false, "bad", "its own case", 0.0, 0.1)]
fn a_lone_spark_at_key_off_parts_module_and_trigger(
    #[case] spark: bool,
    #[case] verdict: &str,
    #[case] says: &str,
    #[case] least: f64,
    #[case] most: f64,
) {
    let out = judged(json!({"bench": "key-off-spark", "spark": spark}));
    assert!(out["verdict"] == verdict && out["says"].as_str().unwrap().contains(says), "{out:#}");
    assert!((least..=most).contains(&good_share(&out, "switch-off-spark-test", "engine", "spark")));
}

fn lead(ohm: f64, sisters: &[f64]) -> Value {
    json!({"bench": "resistance", "part": "plug-lead", "reading": {"display": ohm,
        "meter": {"percent": 1, "digits": 2, "resolution": 1}, "sisters": sisters}})
}

#[rstest]
#[case::odd(11_900.0, 0.0, 0.1)]
#[case::alike(5_250.0, 0.9, 1.0)]
#[case::near_the_bound(5_600.0, 0.2, 0.9)]
fn evidence_weighs_what_its_doubt_deserves_and_never_more_than_slips_allow(
    #[case] ohm: f64,
    #[case] least: f64,
    #[case] most: f64,
) {
    let input = with(measured(lead(ohm, &[5210.0, 5300.0, 5150.0])), &[("/target", json!("cylinder 3"))]);
    let out = serde_json::to_value(judge(input).unwrap()).unwrap();
    let sound = good_share(&out, "lead-resistance", "cylinder 3", "sound");
    assert!((least..=most).contains(&sound), "{sound}: {out:#}");
    let slip = Knowledge::built_in().bench.weight.slip;
    assert!((slip..=1.0 - slip).contains(&sound));
}

#[test]
fn a_new_part_says_nothing_of_the_fault_and_an_old_one_that_is_good_reopens_the_verdict() {
    let of = |place: &str, ohm: f64| {
        let input = with(
            measured(lead(ohm, &[5210.0, 5300.0, 5150.0])),
            &[("/target", json!("cylinder 3")), ("/place", json!(place))],
        );
        serde_json::to_value(judge(input).unwrap()).unwrap()
    };
    assert_eq!(of("before-fitting", 11_900.0)["evidence"], json!([]));
    assert!(of("before-fitting", 11_900.0)["says"].as_str().unwrap().ends_with("Do not fit it."));
    assert!(of("removed", 5_250.0)["says"].as_str().unwrap().contains("open again"));
}

#[rstest]
#[case::no_instrument(&[("/instrument", json!(" "))], "instrument")]
#[case::a_ninth_cylinder(&[("/target", json!("cylinder 9"))], "target")]
#[case::which_cylinder(&[("/target", Value::Null)], "reading.part")]
#[case::an_unknown_part(&[("/reading/part", json!("flux winding"))], "reading.part")]
#[case::an_unknown_circuit(
    &[("/reading", json!({"bench": "voltages", "circuit": "horn", "reading": {"point": "battery", "on_v": 12}}))], "reading.circuit")]
#[case::a_certainty_beyond_one(
    &[("/reading", json!({"bench": "waveform", "capture": 1, "name": "x", "ask": {"of": "coil-current", "signals": []},
        "verdict": "good", "right": 1.5, "says": ""}))], "reading.right")]
fn a_measurement_that_names_nothing_known_is_refused(#[case] changes: &[(&str, Value)], #[case] field: &str) {
    let input = with(measured(lead(5_250.0, &[5210.0, 5300.0])), &[("/target", json!("cylinder 3"))]);
    assert_eq!(judge(with(input, changes)).unwrap_err().field, field);
}

#[test]
fn what_the_bench_offers_is_all_known_to_it() {
    let offered = choices(Knowledge::built_in());
    assert!(offered.parts.iter().any(|part| part.id == "plug-lead" && part.per_cylinder));
    assert!(offered.circuits.iter().all(|circuit| circuit.points.len() > 2), "a point of the book is not understood");
    for kind in ["ohm", "volts", "path", "pins", "cylinders", "plugs", "sweep", "vacuum", "air", "more", "scope"] {
        assert!(offered.cautions.contains_key(kind), "no cautions for {kind}");
    }
    assert!(offered.meters.iter().all(|meter| meter.accuracy.check().is_ok()));
    assert!(offered.walk.iter().all(|step| !step.outcomes.is_empty()));
    assert_eq!(offered.faces.len(), 9);
}

/// Readings of a gauge with a given doubt.
fn gauged(loss: f64, gauge: f64) -> Value {
    with(holding(loss, &[0.0, 20.0, 45.0, 80.0]), &[("/hold/gauge_kpa", json!(gauge))])
}

proptest::proptest! {
    #[test]
    fn the_rate_of_a_leak_is_recovered_whatever_it_is(loss in 0.0f64..120.0) {
        let out = judged(holding(loss, &[0.0, 10.0, 30.0, 55.0]));
        proptest::prop_assert!((number(&out["figures"][0]["value"]) - loss).abs() < 1e-6 * (1.0 + loss));
    }

    #[test]
    fn a_poorer_gauge_widens_the_band_and_decides_no_more(loss in 0.0f64..30.0, gauge in 0.1f64..2.0, more in 0.0f64..3.0) {
        let (good, poor) = (judged(gauged(loss, gauge)), judged(gauged(loss, gauge + more)));
        let end = |out: &Value, name: &str| number(&out["figures"][0][name]);
        proptest::prop_assert!(end(&poor, "low") <= end(&good, "low") + 1e-9 && end(&poor, "high") >= end(&good, "high") - 1e-9);
        proptest::prop_assert!(poor["verdict"] == good["verdict"] || poor["verdict"] == "cannot-tell");
    }

    #[test]
    fn a_mark_further_off_is_never_judged_better(off in 0.0f64..3.0, more in 0.0f64..3.0) {
        let rank = |off: f64| match judged(marks(&[("cam", off)]))["verdict"].as_str().unwrap() {
            "good" => 0,
            "cannot-tell" => 1,
            _ => 2,
        };
        proptest::prop_assert!(rank(off + more) >= rank(off) && rank(-off) == rank(off));
    }
}
