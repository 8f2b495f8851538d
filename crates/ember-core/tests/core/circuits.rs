//! Circuits: a path halved, pins named, voltages by the key, what is lost under load, a diode.

use crate::bench;
use bench::{door, number, with};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn circuit(part: &str, input: &Value) -> Value {
    let out = door("circuit", &json!({part: input})).unwrap_or_else(|refusal| panic!("{refusal}\n{input:#}"));
    out[part].clone()
}

fn refused(part: &str, input: &Value) -> ember_core::refusal::Refusal {
    door("circuit", &json!({part: input})).unwrap_err()
}

/// The way of a fuel pump's current, with what was read at some of its points.
const PUMP: [(&str, &str); 8] = [
    ("battery", "feed"),
    ("fuse", "fuse"),
    ("relay", "relay"),
    ("joint at the sill", "joint"),
    ("tank plug", "joint"),
    ("pump", "part"),
    ("tank ground", "joint"),
    ("body", "ground"),
];

fn pump(readings: &[(&str, f64)]) -> Value {
    let points: Vec<Value> = PUMP
        .iter()
        .map(|(name, kind)| {
            let volt = readings.iter().find(|(at, _)| at == name).map(|(_, volt)| *volt);
            json!({"name": name, "kind": kind, "volt": volt})
        })
        .collect();
    json!({"points": points, "battery_v": 12.5})
}

#[rstest]
#[case::nothing_read(&[], "cannot-tell", Value::Null, Value::Null, 8)]
#[case::good_so_far(&[("relay", 12.4)], "cannot-tell", json!("relay"), Value::Null, 5)]
#[case::lost_before(&[("joint at the sill", 0.1)], "bad", Value::Null, json!("joint at the sill"), 4)]
#[case::between_two(&[("fuse", 12.4), ("tank plug", 7.0)], "bad", json!("fuse"), json!("tank plug"), 3)]
#[case::one_piece(&[("relay", 12.3), ("joint at the sill", 6.0)], "bad", json!("relay"), json!("joint at the sill"), 1)]
#[case::the_ground_is_open(&[("tank plug", 12.3), ("pump", 12.3)], "bad", json!("pump"), Value::Null, 2)]
#[case::the_ground_has_resistance(&[("pump", 3.4), ("tank ground", 0.05)], "bad", json!("pump"), json!("tank ground"), 1)]
#[case::sound(&[("tank plug", 12.3), ("pump", 0.08)], "good", json!("tank plug"), json!("pump"), 0)]
fn the_fault_lies_behind_the_last_good_point_and_not_behind_the_first_bad_one(
    #[case] readings: &[(&str, f64)],
    #[case] verdict: &str,
    #[case] behind: Value,
    #[case] up_to: Value,
    #[case] left: usize,
) {
    let out = circuit("path", &pump(readings));
    assert_eq!((&out["verdict"], &out["behind"], &out["up_to"]), (&json!(verdict), &behind, &up_to), "{out:#}");
    assert_eq!(out["left"].as_array().unwrap().len(), left);
    // What may hold the fault shares all of the suspicion, and nothing else has any.
    let shares: f64 = out["points"].as_array().unwrap().iter().map(|p| number(&p["likelihood"])).sum();
    assert!((shares - 1.0).abs() < 1e-9 || shares == 0.0, "{shares}");
    assert_eq!(out["next"].is_null(), left <= 1, "{}", out["next"]);
}

#[rstest]
#[case::a_bad_one_before_a_good_one(&[("fuse", 4.0), ("relay", 12.4)])]
#[case::a_dead_feed_and_an_open_ground(&[("relay", 0.0), ("pump", 12.4)])]
fn readings_that_contradict_each_other_are_asked_for_again(#[case] readings: &[(&str, f64)]) {
    let out = circuit("path", &pump(readings));
    assert_eq!((&out["verdict"], &out["next"]), (&json!("cannot-tell"), &Value::Null));
    assert!(out["says"].as_str().unwrap().contains("contradict"));
}

#[test]
fn the_next_point_halves_the_weight_and_not_the_number_of_pieces() {
    let out = circuit("path", &pump(&[("battery", 12.5), ("pump", 0.05)]));
    // Left: fuse 3, relay 4, sill 4, plug 4 and the pump 3; behind the relay lie 7 of 18, behind the sill 11.
    assert_eq!(out["next"], "relay");
    assert_eq!(out["readings_left"], 3);
}

#[rstest]
fn every_fault_of_the_path_is_found_by_following_the_next_point(#[values(1, 2, 3, 4, 6, 7)] fault: usize) {
    let load = 5;
    let mut readings: Vec<(&str, f64)> = Vec::new();
    for _ in 0..=4 {
        let out = circuit("path", &pump(&readings));
        let Some(next) = out["next"].as_str().map(str::to_owned) else { break };
        let at = PUMP.iter().position(|(name, _)| *name == next).unwrap();
        let before_load = at < load;
        let volt = match (before_load, fault <= at, fault < load) {
            (true, true, _) => 5.0,
            (true, false, _) => 12.4,
            // Behind the load a lost ground stands high up to the fault.
            (false, false, false) => 12.2,
            _ => 0.05,
        };
        readings.push((PUMP[at].0, volt));
    }
    let out = circuit("path", &pump(&readings));
    assert_eq!(out["left"], json!([PUMP[fault].0]), "after {readings:?}: {out:#}");
    assert!(readings.len() <= 4, "{readings:?}");
}

#[test]
fn one_joint_explains_several_losses_and_what_it_does_not_explain_is_said() {
    let shares = json!([
        {"circuit": "injectors", "point": "joint at the sill", "works": false},
        {"circuit": "horn", "point": "battery", "works": false},
        {"circuit": "coils", "point": "fuse", "works": true},
    ]);
    let out = circuit("path", &with(pump(&[("tank plug", 2.0)]), &[("/shares", shares)]));
    assert_eq!(out["explains"], json!(["injectors"]));
    // The coils work, so the path is good as far as the fuse; the horn hangs on nothing of what is left.
    assert_eq!(out["behind"], "fuse");
    assert!(out["says"].as_str().unwrap().contains("does not explain horn"), "{}", out["says"]);
}

#[test]
fn a_loss_that_another_circuit_shares_moves_the_suspicion_to_what_they_share() {
    let of = |works: Value| {
        let shares = json!([{"circuit": "injectors", "point": "relay", "works": works}]);
        let out = circuit("path", &with(pump(&[("tank plug", 2.0)]), &[("/shares", shares)]));
        number(&out["points"][2]["likelihood"])
    };
    assert!(of(json!(false)) > of(Value::Null) && of(Value::Null) > of(json!(true)));
}

#[rstest]
#[case::its_own_expectation("relay", json!({"name": "relay", "kind": "relay", "volt": 5.1, "expected_v": 5.0}), "good")]
#[case::seen_with_a_lamp("relay", json!({"name": "relay", "kind": "relay", "seen": "good"}), "good")]
#[case::seen_dark("relay", json!({"name": "relay", "kind": "relay", "seen": "bad"}), "bad")]
fn a_point_may_have_its_own_expectation_or_be_seen(#[case] name: &str, #[case] point: Value, #[case] verdict: &str) {
    let out = circuit("path", &with(pump(&[]), &[("/points/2", point)]));
    assert_eq!(out["points"][2]["verdict"], verdict);
    let bound = if verdict == "good" { &out["behind"] } else { &out["up_to"] };
    assert_eq!(bound, name);
}

#[rstest]
#[case::one_point(&[("/points", json!([{"name": "battery", "kind": "feed"}]))], "path.points", "two points")]
#[case::twice(&[("/points/1/name", json!("battery"))], "path.points[1].name", "stands twice")]
#[case::without_a_name(&[("/points/1/name", json!(" "))], "path.points[1].name", "")]
#[case::mains(&[("/points/1/volt", json!(230))], "path.points[1].volt", "high voltage")]
#[case::battery(&[("/battery_v", json!(400))], "path.battery_v", "high voltage")]
#[case::off_the_path(&[("/shares", json!([{"circuit": "horn", "point": "roof"}]))], "path.shares[0].point", "not on the path")]
#[case::an_unknown_kind(&[("/points/1/kind", json!("magic"))], "path.points[1].kind", "")]
fn a_path_that_cannot_be_is_refused(#[case] changes: &[(&str, Value)], #[case] field: &str, #[case] reason: &str) {
    let refusal = refused("path", &with(pump(&[]), changes));
    assert!(refusal.field == field && refusal.reason.contains(reason), "{refusal}");
}

/// A throttle's plug as it should be.
fn throttle(readings: Value) -> Value {
    json!({"battery_v": 12.5, "readings": readings, "expected": [
        {"pin": 1, "role": "reference"}, {"pin": 2, "role": "signal"}, {"pin": 3, "role": "ground"},
        {"pin": 4, "role": "motor-drive"}, {"pin": 5, "role": "motor-drive"}, {"pin": 6, "role": "feed"},
    ]})
}

#[rstest]
#[case::reference(json!({"pin": 9, "volt": 5.02}), "reference")]
#[case::feed(json!({"pin": 9, "volt": 12.1}), "feed")]
#[case::signal(json!({"pin": 9, "volt": 0.82}), "signal")]
#[case::ground(json!({"pin": 9, "volt": 0.01, "ground_ohm": 0.3}), "ground")]
#[case::open(json!({"pin": 9, "volt": 0.0, "ground_ohm": 1e9}), "open")]
#[case::nought_alone(json!({"pin": 9, "volt": 0.02}), "ground-or-open")]
#[case::driven(json!({"pin": 9, "swings_v": [0.2, 9.0]}), "motor-drive")]
#[case::ground_by_ohm(json!({"pin": 9, "ground_ohm": 0.4}), "ground")]
#[case::between(json!({"pin": 9, "volt": 8.9}), "unclear")]
fn a_pin_is_named_by_what_it_shows(#[case] reading: Value, #[case] role: &str) {
    let out = circuit("pins", &json!({"readings": [reading], "battery_v": 12.5}));
    assert_eq!(out["pins"][0]["shows"], role);
    // Nothing is expected, so nothing is judged.
    assert_eq!(out["verdict"], "cannot-tell");
}

fn sound() -> Value {
    json!([{"pin": 1, "volt": 5.0}, {"pin": 2, "volt": 0.8}, {"pin": 3, "volt": 0.02, "ground_ohm": 0.4},
        {"pin": 4, "swings_v": [0.1, 8.0]}, {"pin": 5, "swings_v": [0.1, 8.0]}, {"pin": 6, "volt": 12.3}])
}

#[test]
fn a_sound_plug_is_good_in_any_order_of_reading() {
    let forward = circuit("pins", &throttle(sound()));
    assert_eq!((&forward["verdict"], &forward["crossed"]), (&json!("good"), &json!([])));
    let mut list = sound().as_array().unwrap().clone();
    list.reverse();
    assert_eq!(forward, circuit("pins", &throttle(json!(list))));
}

#[rstest]
#[case::reference_and_signal(&[("/0/volt", json!(0.8)), ("/1/volt", json!(5.0))], json!([]), "pin 1", false)]
#[case::reference_and_feed(&[("/0/volt", json!(12.3)), ("/5/volt", json!(5.0))], json!([[1, 6]]), "pins 1 and 6 are crossed", false)]
#[case::feed_and_ground(
    &[("/2", json!({"pin": 3, "volt": 12.3})), ("/5", json!({"pin": 6, "volt": 0.01, "ground_ohm": 0.2}))],
    json!([[3, 6]]), "do not switch on again", true)]
#[case::a_dead_reference(&[("/0", json!({"pin": 1, "volt": 0.0, "ground_ohm": 1e9}))], json!([]), "5 v reference expected", false)]
fn crossed_and_dead_pins_are_found(
    #[case] changes: &[(&str, Value)],
    #[case] crossed: Value,
    #[case] says: &str,
    #[case] reversed: bool,
) {
    let out = circuit("pins", &throttle(with(sound(), changes)));
    assert_eq!(
        (&out["verdict"], &out["crossed"], &out["reversed"]),
        (&json!("bad"), &crossed, &json!(reversed)),
        "{out:#}"
    );
    assert!(out["says"].as_str().unwrap().to_lowercase().contains(says), "{}", out["says"]);
}

#[rstest]
#[case::as_it_should(6.2, "good", "every pin")]
#[case::the_wrong_way_round(-6.2, "bad", "wrong way round")]
#[case::not_driven(0.1, "bad", "show nothing")]
fn a_motor_is_driven_one_way_or_the_other(#[case] opening: f64, #[case] verdict: &str, #[case] says: &str) {
    let motor = json!({"positive_pin": 4, "negative_pin": 5, "opening_v": opening});
    let out = circuit("pins", &with(throttle(sound()), &[("/motor", motor)]));
    assert_eq!(out["verdict"], verdict, "{out:#}");
    assert!(out["says"].as_str().unwrap().to_lowercase().contains(says), "{}", out["says"]);
}

#[test]
fn a_pierced_wire_is_to_be_put_right() {
    let out = circuit("pins", &throttle(with(sound(), &[("/1/pierced", json!(true))])));
    assert_eq!(out["put_right"], json!(["seal the pierced wire at pin 2"]));
}

#[rstest]
#[case::nothing(throttle(json!([])), "pins.readings", "empty")]
#[case::twice(throttle(json!([{"pin": 1, "volt": 5}, {"pin": 1, "volt": 4}])), "pins.readings[1].pin", "twice")]
#[case::no_figure(throttle(json!([{"pin": 1}])), "pins.readings[0].volt", "what was read")]
#[case::swings_upside_down(throttle(json!([{"pin": 1, "swings_v": [5, 1]}])), "pins.readings[0].swings_v", "above high")]
#[case::below_nought_ohm(throttle(json!([{"pin": 1, "ground_ohm": -1}])), "pins.readings[0].ground_ohm", "nought or more")]
#[case::expected_twice(with(throttle(sound()), &[("/expected/1/pin", json!(1))]), "pins.expected[1].pin", "stands twice")]
#[case::one_pin_for_both(
    with(throttle(sound()), &[("/motor", json!({"positive_pin": 4, "negative_pin": 4, "opening_v": 3}))]),
    "pins.motor.negative_pin", "same pin")]
fn pins_that_cannot_be_are_refused(#[case] input: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = refused("pins", &input);
    assert!(refusal.field == field && refusal.reason.contains(reason), "{refusal}");
}

#[rstest]
#[case::battery(json!({"point": "battery", "on_v": 12.6, "crank_v": 10.4, "run_v": 14.1}), "good")]
#[case::half_empty(json!({"point": "battery", "on_v": 11.9}), "bad")]
#[case::drops_too_far(json!({"point": "battery", "crank_v": 8.7}), "bad")]
#[case::charges_too_much(json!({"point": "battery", "run_v": 16.0}), "bad")]
#[case::switched(json!({"point": "switched-feed", "off_v": 0.0, "on_v": 12.2, "battery_v": 12.5}), "good")]
#[case::loses_on_the_way(json!({"point": "switched-feed", "on_v": 11.2, "battery_v": 12.5}), "bad")]
#[case::running_feed_gone(
    json!({"point": "switched-feed", "on_v": 0.1, "crank_v": 9.9, "battery_v": 12.5, "battery_crank_v": 10.2}), "bad")]
#[case::never_switched_off(json!({"point": "switched-feed", "off_v": 12.4}), "bad")]
#[case::cranking_only(json!({"point": "cranking-feed", "on_v": 0.0, "crank_v": 9.8, "battery_crank_v": 10.1}), "good")]
#[case::cranking_feed_lost(json!({"point": "cranking-feed", "crank_v": 2.0, "battery_crank_v": 10.1}), "bad")]
#[case::ground(json!({"point": "ground", "on_v": 0.05}), "good")]
#[case::poor_ground(json!({"point": "ground", "crank_v": 0.9}), "bad")]
fn voltages_are_judged_by_the_key(#[case] input: Value, #[case] verdict: &str) {
    let out = circuit("voltages", &input);
    assert_eq!(out["verdict"], verdict, "{out:#}");
    assert!(!out["says"].as_str().unwrap().is_empty());
}

#[rstest]
#[case::none(json!({"point": "battery"}), "voltages")]
#[case::no_number(json!({"point": "battery", "on_v": 1e9}), "voltages.on_v")]
fn voltages_that_cannot_be_are_refused(#[case] input: Value, #[case] field: &str) {
    let refusal = refused("voltages", &input);
    assert!(refusal.field.starts_with(field), "{refusal}");
}

fn lost(drop_v: f64, current_a: f64, full_a: f64) -> Value {
    json!({"drop_v": drop_v, "current_a": current_a, "full_current_a": full_a, "limit_v": 0.2,
        "meter": {"percent": 1, "digits": 0, "resolution": 0.001}})
}

#[rstest]
#[case::within(0.1, 10.0, 10.0, "good")]
#[case::beyond(0.5, 10.0, 10.0, "bad")]
#[case::small_at_half_the_current(0.15, 5.0, 10.0, "bad")]
#[case::at_the_limit(0.2, 10.0, 10.0, "cannot-tell")]
#[case::hardly_loaded(0.01, 1.0, 10.0, "cannot-tell")]
#[case::hardly_loaded_and_bad_already(0.4, 1.0, 10.0, "bad")]
#[case::reversed_leads(-0.5, 10.0, 10.0, "bad")]
fn what_is_lost_is_brought_to_the_working_current(
    #[case] drop: f64,
    #[case] current: f64,
    #[case] full: f64,
    #[case] verdict: &str,
) {
    let out = circuit("drop", &lost(drop, current, full));
    assert_eq!(out["verdict"], verdict, "{out:#}");
    assert!((number(&out["path_ohm"]) - drop.abs() / current).abs() < 1e-12);
    assert!((number(&out["heat_w"]) - drop.abs() / current * full * full).abs() < 1e-9);
}

#[rstest]
#[case::no_current(lost(0.1, 0.0, 10.0), "drop.current_a", "without current nothing drops")]
#[case::no_limit(with(lost(0.1, 5.0, 10.0), &[("/limit_v", json!(0))]), "drop.limit_v", "")]
#[case::mains(lost(230.0, 5.0, 10.0), "drop.drop_v", "high voltage")]
fn a_drop_that_cannot_be_is_refused(#[case] input: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = refused("drop", &input);
    assert!(refusal.field == field && refusal.reason.contains(reason), "{refusal}");
}

#[test]
fn a_meter_without_its_data_sheet_still_leaves_a_doubt() {
    let out = circuit("drop", &with(lost(0.195, 10.0, 10.0), &[("/meter", Value::Null)]));
    assert!(number(&out["high_v"]) > number(&out["low_v"]));
    assert_eq!(out["verdict"], "cannot-tell");
}

#[rstest]
#[case::sound(json!({"forward_v": 0.58, "reverse_v": null}), "good", "blocks the other")]
#[case::shorted(json!({"forward_v": 0.02, "reverse_v": 0.03}), "bad", "Shorted")]
#[case::open(json!({"forward_v": null, "reverse_v": null}), "bad", "Open")]
#[case::a_winding_beside(json!({"forward_v": 0.5, "reverse_v": 0.6}), "cannot-tell", "winding lies in parallel")]
#[case::leads_exchanged(json!({"forward_v": null, "reverse_v": 0.6}), "bad", "wrong way")]
#[case::sits_the_wrong_way(json!({"forward_v": 0.58, "reverse_v": null, "ring_on_supply": false}), "bad", "wrong way round")]
#[case::sits_right(json!({"forward_v": 0.58, "reverse_v": null, "ring_on_supply": true}), "good", "")]
fn a_diode_conducts_one_way(#[case] input: Value, #[case] verdict: &str, #[case] says: &str) {
    let out = circuit("diode", &input);
    assert!(out["verdict"] == verdict && out["says"].as_str().unwrap().contains(says), "{out:#}");
}

#[test]
fn an_empty_circuit_and_a_diode_of_twelve_volts_are_refused() {
    assert_eq!(door("circuit", &json!({})).unwrap_err().field, "pins");
    assert_eq!(refused("diode", &json!({"forward_v": 12.0, "reverse_v": null})).field, "diode.forward_v");
}

proptest! {
    #[test]
    fn a_further_reading_never_widens_what_is_left(fault in 0usize..8, order in Just((0..8).collect::<Vec<usize>>()).prop_shuffle()) {
        let load = 5;
        let volt = |at: usize| match (at < load, fault <= at, fault < load) {
            (true, true, _) => 5.0,
            (true, false, _) => 12.4,
            (false, false, false) => 12.2,
            _ => 0.05,
        };
        let mut readings: Vec<(&str, f64)> = Vec::new();
        let mut before = 9;
        for at in order {
            readings.push((PUMP[at].0, volt(at)));
            let out = circuit("path", &pump(&readings));
            let left = out["left"].as_array().unwrap().len();
            prop_assert!(left <= before, "{left} after {before}: {readings:?}");
            let names = out["left"].as_array().unwrap().clone();
            // The true fault stays among what is left; a part's own fault shows at no point of the path.
            prop_assert!(fault == load || names.contains(&json!(PUMP[fault].0)), "{readings:?}: {out:#}");
            before = left;
        }
    }
}

/// A plug with one pin for each role.
fn plug_of(volts: [f64; 4]) -> Value {
    let readings: Vec<Value> = (1..)
        .zip(volts)
        .map(|(pin, volt)| json!({"pin": pin, "volt": volt, "ground_ohm": if volt < 0.1 { json!(0.3) } else { Value::Null }}))
        .collect();
    json!({"battery_v": 12.5, "readings": readings, "expected": [
        {"pin": 1, "role": "reference"}, {"pin": 2, "role": "signal"}, {"pin": 3, "role": "ground"}, {"pin": 4, "role": "feed"}]})
}

proptest! {
    #[test]
    fn any_two_exchanged_wires_are_noticed(signal in 0.3f64..4.2, a in 0usize..4, b in 0usize..4) {
        let mut volts = [5.0, signal, 0.02, 12.3];
        volts.swap(a, b);
        let out = circuit("pins", &plug_of(volts));
        prop_assert_eq!(out["verdict"] == "good", a == b, "{:#}", out);
        // A signal may lie anywhere up to the reference, so only other pairs are named as crossed for certain.
        if a != b && a != 1 && b != 1 {
            prop_assert_eq!(&out["crossed"], &json!([[a.min(b) + 1, a.max(b) + 1]]));
        }
    }

    #[test]
    fn pins_are_judged_alike_in_any_order(order in Just(vec![0usize, 1, 2, 3]).prop_shuffle(), feed in 6f64..13.0) {
        let input = plug_of([5.0, 1.2, 0.02, feed]);
        let mut shuffled = input.clone();
        let readings = input["readings"].as_array().unwrap();
        shuffled["readings"] = order.iter().map(|&at| readings[at].clone()).collect();
        prop_assert_eq!(circuit("pins", &input), circuit("pins", &shuffled));
    }

    #[test]
    fn a_larger_loss_is_never_judged_better(drop in 0f64..0.6, more in 0f64..0.6, current in 1f64..20.0) {
        let rank = |drop: f64| match circuit("drop", &lost(drop, current, 20.0))["verdict"].as_str().unwrap() {
            "good" => 0,
            "cannot-tell" => 1,
            _ => 2,
        };
        // With little current flowing nothing is known until the loss is beyond doubt.
        prop_assert!(rank(drop + more) >= rank(drop), "{drop} and {more} at {current} A");
    }

    #[test]
    fn a_feed_that_loses_more_is_never_judged_better(volt in 0f64..13.0, less in 0f64..6.0) {
        let good = |volt: f64| circuit("voltages", &json!({"point": "switched-feed", "on_v": volt, "battery_v": 12.5}))["verdict"] == "good";
        prop_assert!(good(volt) || !good(volt - less));
    }
}
