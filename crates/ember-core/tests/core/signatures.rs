//! What a course of trims speaks for, and in which words.

use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use rstest::rstest;
use serde_json::{Value, json};

/// Two points in each regime on each bank, from the trims at idle, cruise and load of bank 1 and bank 2.
fn of(banks: [[f64; 3]; 2]) -> Value {
    let mut points = Vec::new();
    for (bank, trims) in banks.iter().enumerate() {
        for ((rpm, load, flow), trim) in [(700, 20, 5.0), (2200, 40, 20.0), (2900, 85, 60.0)].into_iter().zip(trims) {
            for step in [0.0, 0.6] {
                points.push(json!({
                    "bank": bank + 1, "airflow_gps": flow + step, "rpm": rpm, "load_pct": load,
                    "short_pct": trim, "long_pct": 0,
                }));
            }
        }
    }
    let engine = json!({"cylinders": 6, "firing_order": [1, 2, 3, 4, 5, 6], "banks": [[1, 3, 5], [2, 4, 6]]});
    reckon("trims", &json!({"engine": engine, "points": points}), Knowledge::built_in()).unwrap()
}

const SOUND: [f64; 3] = [0.5, -0.5, 0.3];

#[rstest]
#[case::sound([SOUND, SOUND], "normal", &[])]
#[case::a_little_rich([[-2.0, -1.5, -1.0], [-1.5, -1.0, -1.0]], "normal", &[])]
#[case::air_on_bank_1([[22.0, 6.0, 2.0], SOUND], "unmetered-air", &[1])]
#[case::air_on_bank_2([SOUND, [18.0, 5.0, 1.5]], "unmetered-air", &[2])]
#[case::air_before_the_split([[20.0, 6.0, 2.0], [20.0, 6.0, 2.0]], "unmetered-air", &[1, 2])]
#[case::a_weak_pump([[0.0, 7.0, 22.0], [0.5, 7.0, 22.0]], "delivery-weak", &[1, 2])]
#[case::a_dirty_meter([[8.0, 13.0, 18.0], [8.0, 13.0, 18.0]], "meter-under-reads", &[1, 2])]
#[case::a_dripping_injector([[-18.0, -9.0, -5.0], SOUND], "over-fuelling", &[1])]
#[case::too_much_pressure([[-16.0, -8.0, -4.0], [-16.0, -8.0, -4.0]], "over-fuelling", &[1, 2])]
fn a_course_speaks_for_its_cause(#[case] banks: [[f64; 3]; 2], #[case] kind: &str, #[case] on: &[usize]) {
    let result = of(banks);
    let first = &result["signatures"][0];
    assert_eq!(
        (first["kind"].as_str().unwrap(), first["banks"].clone()),
        (kind, json!(on)),
        "{:#}",
        result["signatures"]
    );
}

#[test]
fn one_bank_off_by_the_same_everywhere_is_its_sensor_or_an_injector_and_not_decided() {
    let result = of([[9.0, 9.0, 9.0], SOUND]);
    let kinds: Vec<&str> =
        result["signatures"].as_array().unwrap().iter().take(2).map(|s| s["kind"].as_str().unwrap()).collect();
    assert!(kinds.contains(&"sensor-biased") && kinds.contains(&"one-injector"), "{kinds:?}");
    assert_eq!(result["decided"], false);
    assert!(result["says"].as_str().unwrap().starts_with("Perhaps: "), "{}", result["says"]);
}

#[rstest]
#[case::sound([SOUND, SOUND], "rims are ordinary")]
#[case::air([[22.0, 6.0, 2.0], SOUND], "Unmetered air on bank 1, like a hole of")]
#[case::pump([[0.0, 7.0, 22.0], [0.5, 7.0, 22.0]], "Fuel delivery weak at flow.")]
#[case::drip([[-20.0, -10.0, -5.0], SOUND], "Too much fuel on bank 1, most at idle.")]
fn what_is_decided_is_said_plainly(#[case] banks: [[f64; 3]; 2], #[case] says: &str) {
    let result = of(banks);
    assert!(result["says"].as_str().unwrap().contains(says), "{}", result["says"]);
}

#[test]
fn every_signature_says_on_what_it_rests() {
    let result = of([[22.0, 6.0, 2.0], SOUND]);
    let because = result["signatures"][0]["because"].as_str().unwrap();
    assert!(because.contains("bank 1: idle +22.0 %, cruise +6.0 %, load +2.0 %"), "{because}");
}

#[rstest]
#[case::air([[22.0, 6.0, 2.0], SOUND], "what was handled last")]
#[case::pump([[0.0, 7.0, 22.0], [0.5, 7.0, 22.0]], "fuel pressure under load")]
#[case::meter([[8.0, 13.0, 18.0], [8.0, 13.0, 18.0]], "the air filter")]
#[case::drip([[-20.0, -10.0, -5.0], SOUND], "the purge valve")]
fn cheap_looks_come_first(#[case] banks: [[f64; 3]; 2], #[case] first: &str) {
    let result = of(banks);
    assert!(result["look_first"][0].as_str().unwrap().contains(first), "{}", result["look_first"]);
}

#[test]
fn a_larger_course_is_surer() {
    let sure =
        |size: f64| of([[size, size * 0.3, size * 0.1], SOUND])["signatures"][0]["probability"].as_f64().unwrap();
    assert!(sure(8.0) < sure(14.0) && sure(14.0) <= sure(24.0) + 1e-9);
}

#[test]
fn what_was_not_driven_is_asked_for() {
    let engine = json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]});
    let points = json!([{"bank": 1, "airflow_gps": 5.0, "rpm": 700, "load_pct": 20, "short_pct": 9}]);
    let result = reckon("trims", &json!({"engine": engine, "points": points}), Knowledge::built_in()).unwrap();
    let next = result["next"].as_str().unwrap();
    assert!(next.contains("at a steady cruise") && next.contains("under load"), "{next}");
}

#[test]
fn points_without_speed_or_load_give_no_signature_and_say_why() {
    let engine = json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]});
    let points =
        json!([{"bank": 1, "airflow_gps": 5.0, "short_pct": 9}, {"bank": 1, "airflow_gps": 15.0, "short_pct": 3}]);
    let result = reckon("trims", &json!({"engine": engine, "points": points}), Knowledge::built_in()).unwrap();
    assert_eq!((&result["signatures"], &result["decided"]), (&json!([]), &json!(false)));
    assert!(result["says"].as_str().unwrap().contains("cannot be told apart"));
    assert!(result["leak_gps"].as_f64().is_some(), "the curve needs neither");
}

#[test]
fn the_regimes_are_told_with_their_doubt() {
    let result = of([[22.0, 6.0, 2.0], SOUND]);
    let idle = &result["banks"][0]["idle_pct"];
    assert!((idle["mean"].as_f64().unwrap() - 22.0).abs() < 1e-9);
    assert!(idle["low"].as_f64().unwrap() < 22.0 && idle["high"].as_f64().unwrap() > 22.0);
    assert_eq!(idle["points"], 2);
}
