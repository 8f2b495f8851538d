//! Laws that a swap's verdict keeps, whatever the engine and the counts.

use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Map, Value, json};

fn run(input: &Value) -> Value {
    reckon("swap", input, Knowledge::built_in()).unwrap_or_else(|error| panic!("{error}"))
}

fn exchange(part: &str, from: u8, to: u8) -> [Value; 2] {
    [json!({"part": part, "from": from, "to": to}), json!({"part": part, "from": to, "to": from})]
}

fn counts(of: &[u64]) -> Value {
    Value::Object(of.iter().enumerate().map(|(i, k)| ((i + 1).to_string(), json!(k))).collect::<Map<_, _>>())
}

/// On a V6: coil of 4 to 1, plug of 4 to 3, injector of 4 to 6.
fn three_parts(before: &[u64; 6], after: &[u64; 6], revolutions: u64) -> Value {
    let moves = [exchange("coil", 4, 1), exchange("plug", 4, 3), exchange("injector", 4, 6)].concat();
    json!({
        "engine": {"cylinders": 6, "firing_order": [1, 4, 3, 6, 2, 5], "banks": [[1, 3, 5], [2, 4, 6]]},
        "before": {"revolutions": 30_000, "misfires": counts(before)},
        "after": {"revolutions": revolutions, "misfires": counts(after)},
        "moves": moves,
        "cleared_between": true,
    })
}

const BEFORE: [u64; 6] = [1, 0, 2, 300, 0, 1];

#[rstest]
#[case::coil(1, "moved", json!("coil"))]
#[case::nothing_went_there(2, "elsewhere", Value::Null)]
#[case::plug(3, "moved", json!("plug"))]
#[case::stayed(4, "stayed", Value::Null)]
#[case::nothing_went_there_either(5, "elsewhere", Value::Null)]
#[case::injector(6, "moved", json!("injector"))]
fn one_drive_names_the_part_of_three(#[case] ill: usize, #[case] verdict: &str, #[case] part: Value) {
    let mut after = [1, 0, 1, 2, 0, 1];
    after[ill - 1] = 280;
    let out = run(&three_parts(&BEFORE, &after, 30_000));
    assert_eq!((&out["verdict"], &out["part"], &out["decided"]), (&json!(verdict), &part, &json!(true)), "{out:#}");
}

#[rstest]
#[case::half_as_often(140)]
#[case::twice_as_often(600)]
#[case::a_fifth(60)]
fn a_drive_that_is_not_like_the_one_before_still_decides(#[case] misses: u64) {
    let out = run(&three_parts(&BEFORE, &[0, 1, misses, 0, 1, 0], 30_000));
    assert_eq!((&out["verdict"], &out["part"]), (&json!("moved"), &json!("plug")));
}

#[rstest]
#[case::two_receivers([250, 0, 240, 1, 0, 0], json!([1, 3]))]
#[case::suspect_and_receiver([0, 1, 0, 260, 0, 250], json!([4, 6]))]
fn two_of_suspect_and_receivers_are_mixed(#[case] after: [u64; 6], #[case] places: Value) {
    let out = run(&three_parts(&BEFORE, &after, 30_000));
    assert_eq!((&out["verdict"], &out["hypotheses"][0]["places"]), (&json!("mixed"), &places));
}

#[rstest]
#[case::nothing_before([0; 6])]
#[case::a_tie([0, 0, 0, 90, 0, 90])]
fn without_a_single_suspect_nothing_is_decided(#[case] before: [u64; 6]) {
    let out = run(&three_parts(&before, &[0, 0, 90, 0, 0, 0], 30_000));
    assert_eq!((&out["verdict"], &out["suspect"], &out["decided"]), (&json!("undecided"), &Value::Null, &json!(false)));
}

#[test]
fn a_sick_receiver_is_pointed_out() {
    let out = run(&three_parts(&[1, 0, 150, 300, 0, 1], &[0, 0, 280, 0, 0, 0], 30_000));
    assert_eq!(out["warnings"], json!(["cylinder 3 was not healthy itself before it received a part"]));
}

#[rstest]
#[case::kilometres("km", "more_km")]
#[case::attempts("attempts", "more_attempts")]
fn named_places_say_how_much_more_in_their_own_measure(#[case] measure: &str, #[case] more: &str) {
    let side = |exposure: u32, first: u32, second: u32| json!({measure: exposure, "occurrences": {"relay fan": first, "relay pump": second}});
    let mut input = json!({"places": ["relay fan", "relay pump"], "cleared_between": true,
        "before": side(60, 0, 12), "after": side(4, 1, 0),
        "moves": [{"part": "relay", "from": "relay pump", "to": "relay fan"}, {"part": "relay", "from": "relay fan", "to": "relay pump"}]});
    let out = run(&input);
    assert_eq!(out["verdict"], "undecided");
    assert!(out[more].as_f64().unwrap() > 0.0, "{out:#}");
    assert!(out["more_revolutions"].is_null());
    input["after"] = side(40, 8, 0);
    let out = run(&input);
    assert_eq!(
        (&out["verdict"], &out["part"], &out["place_now"]),
        (&json!("moved"), &json!("relay"), &json!("relay fan"))
    );
    input["after"] = side(40, 0, 7);
    assert_eq!(run(&input)["verdict"], "stayed");
}

#[rstest]
#[case::unknown_place(json!({"moves": [{"part": "relay", "from": "relay pump", "to": "relay horn"}]}), "moves[0].to: relay horn is not one of the places")]
#[case::place_twice(json!({"places": ["a", "a"]}), "places: a stands in it twice")]
#[case::one_place(json!({"places": ["a"]}), "places: a swap needs at least two")]
#[case::left_out(json!({"after": {"km": 5, "occurrences": {"relay fan": 0}}}), "after.occurrences.relay pump: this place is left out")]
#[case::stranger(json!({"after": {"km": 5, "occurrences": {"relay fan": 0, "relay pump": 0, "horn": 1}}}), "after.occurrences.horn: is not one of the places")]
#[case::no_distance(json!({"after": {"occurrences": {"relay fan": 0, "relay pump": 0}}}), "after.km: is missing")]
#[case::both(json!({"after": {"km": 5, "attempts": 5, "occurrences": {"relay fan": 0, "relay pump": 0}}}), "after.attempts: give km or attempts")]
#[case::other_measure(json!({"after": {"attempts": 5, "occurrences": {"relay fan": 0, "relay pump": 0}}}), "after: counts over attempts cannot be compared with counts over kilometres")]
#[case::too_often(json!({"before": {"attempts": 5, "occurrences": {"relay fan": 0, "relay pump": 6}}, "after": {"attempts": 5, "occurrences": {"relay fan": 0, "relay pump": 0}}}), "before.occurrences.relay pump: 6 times in 5 attempts")]
#[case::misfires(json!({"after": {"revolutions": 5, "misfires": {}}}), "after.occurrences: named places take occurrences")]
fn named_places_are_refused_by_field(#[case] change: Value, #[case] expected: &str) {
    let mut input = json!({"places": ["relay fan", "relay pump"], "cleared_between": true,
        "before": {"km": 60, "occurrences": {"relay fan": 0, "relay pump": 12}},
        "after": {"km": 60, "occurrences": {"relay fan": 12, "relay pump": 0}},
        "moves": [{"part": "relay", "from": "relay pump", "to": "relay fan"}, {"part": "relay", "from": "relay fan", "to": "relay pump"}]});
    input.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
    let message = reckon("swap", &input, Knowledge::built_in()).unwrap_err().to_string();
    assert!(message.starts_with(expected), "{message}");
}

proptest! {
    #[test]
    fn hypotheses_are_probabilities_that_add_up_to_one(after in proptest::collection::vec(0u64..400, 6)) {
        let out = run(&three_parts(&BEFORE, &after.try_into().unwrap(), 30_000));
        let all: Vec<f64> = out["hypotheses"].as_array().unwrap().iter().map(|h| h["probability"].as_f64().unwrap()).collect();
        prop_assert!((all.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        prop_assert!(all.windows(2).all(|pair| pair[0] >= pair[1]), "most likely first");
    }

    #[test]
    fn fewer_than_ten_misfires_condemn_no_part(few in 0u64..10) {
        let out = run(&three_parts(&BEFORE, &[0, 0, few, 0, 0, 0], 30_000));
        prop_assert_ne!(&out["verdict"], "moved");
        prop_assert!(out["part"].is_null());
    }

    #[test]
    fn only_a_decided_moved_names_a_part(after in proptest::collection::vec(0u64..60, 6), revolutions in 300u64..30_000) {
        let out = run(&three_parts(&BEFORE, &after.try_into().unwrap(), revolutions));
        let moved = out["verdict"] == "moved";
        prop_assert_eq!(moved, !out["part"].is_null());
        prop_assert_eq!(out["decided"] == json!(true), out["verdict"] != "undecided");
        prop_assert!(out["decided"] == json!(false) || out["more_revolutions"].is_null());
    }

    #[test]
    fn what_it_asks_for_decides(misses in 2u64..9) {
        let mut after = [0, 0, misses, 0, 0, 0];
        let out = run(&three_parts(&BEFORE, &after, 2_000));
        prop_assert_eq!(&out["decided"], false);
        let times = 1.0 + out["more_revolutions"].as_f64().unwrap() / 2_000.0;
        after[2] = (misses as f64 * times).ceil() as u64;
        let longer = run(&three_parts(&BEFORE, &after, (2_000.0 * times) as u64));
        prop_assert_eq!(&longer["decided"], true);
    }
}
