//! Captures of the scope through their door: what is refused, what is named, what is laid over each other.

use crate::bench;
use bench::{door, number, with};
use ember_core::refusal::Refusal;
use rstest::rstest;
use serde_json::{Value, json};

const STEP: f64 = 2e-5;

/// The current of a coil that is charged every twenty milliseconds, from four cylinders in turn on one clamp.
fn current(inductance_mh: impl Fn(u8) -> f64) -> Vec<f64> {
    (0..20_000)
        .map(|n| {
            let time = n as f64 * STEP;
            let (turn, since) = ((time / 0.02) as usize, time % 0.02);
            let cylinder = [1, 3, 4, 2][turn % 4];
            let henry = inductance_mh(cylinder) * 1e-3;
            if (0.005..0.0076).contains(&since) {
                13.8 / 0.7 * (1.0 - (-(since - 0.005) * 0.7 / henry).exp())
            } else {
                0.0
            }
        })
        .collect()
}

/// A pulse when the first cylinder of the order fires.
fn sync() -> Vec<f64> {
    (0..20_000).map(|n| if ((n as f64 * STEP - 0.0076).rem_euclid(0.08)) < 0.001 { 5.0 } else { 0.0 }).collect()
}

fn capture(inductance_mh: impl Fn(u8) -> f64) -> Value {
    json!({
        "engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]},
        "step_s": STEP,
        "channels": {"coil": current(inductance_mh), "sync": sync()},
        "ask": {"of": "coil-current", "signals": [{"channel": "coil"}], "sync": "sync", "supply_v": 13.8},
    })
}

fn read(input: &Value) -> Value {
    door("waveform", input).unwrap_or_else(|refusal| panic!("{refusal}"))
}

fn figure<'a>(out: &'a Value, name: &str) -> &'a Value {
    out["figures"].as_array().unwrap().iter().find(|f| f["name"] == name).unwrap_or_else(|| panic!("no {name}"))
}

#[test]
fn each_charging_is_given_to_its_cylinder_by_the_sync_pulse() {
    let out = read(&capture(|c| if c == 2 { 2.6 } else { 4.2 }));
    assert_eq!(out["odd"].as_array().unwrap().iter().map(|o| &o["cylinder"]).collect::<Vec<_>>()[0], 2);
    let inductance = figure(&out, "inductance_mh");
    assert!((number(&inductance["cylinders"]["2"]) - 2.6).abs() < 0.1, "{inductance}");
    assert!((number(&inductance["cylinders"]["1"]) - 4.2).abs() < 0.1, "{inductance}");
    assert!(out["says"].as_str().unwrap().starts_with("Odd one out: cylinder 2"), "{}", out["says"]);
    // One typical event of each cylinder, on one time line.
    assert_eq!(out["overlays"].as_array().unwrap().len(), 4);
    let points = out["overlay_s"].as_array().unwrap().len();
    assert!(out["overlays"].as_array().unwrap().iter().all(|o| o["values"].as_array().unwrap().len() == points));
}

#[test]
fn a_channel_for_each_cylinder_needs_no_sync_pulse() {
    let mut input = capture(|_| 4.2);
    input["channels"]["other"] = json!(current(|_| 2.8));
    input["ask"] = json!({"of": "coil-current", "supply_v": 13.8,
        "signals": [{"channel": "coil", "cylinder": 1}, {"channel": "other", "cylinder": 4}]});
    let out = read(&input);
    let inductance = figure(&out, "inductance_mh");
    assert!((number(&inductance["cylinders"]["4"]) - 2.8).abs() < 0.1, "{inductance}");
}

#[test]
fn without_the_supply_neither_inductance_nor_resistance_is_made_up() {
    let out = read(&with(capture(|_| 4.2), &[("/ask/supply_v", Value::Null)]));
    let names: Vec<&str> = out["figures"].as_array().unwrap().iter().map(|f| f["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["dwell_ms", "peak_a"]);
    assert!(out["notes"][0].as_str().unwrap().contains("not reckoned"));
}

#[test]
fn the_energy_is_half_the_inductance_times_the_current_squared() {
    let out = read(&capture(|_| 4.2));
    let of = |name: &str| number(&figure(&out, name)["median"]);
    assert!((of("energy_mj") / (0.5 * of("inductance_mh") * of("peak_a").powi(2)) - 1.0).abs() < 0.02);
}

#[rstest]
#[case::no_signal(&[("/ask/signals", json!([]))], "ask.signals", "which channel")]
#[case::no_such_channel(&[("/ask/signals/0/channel", json!("starter"))], "ask.signals[0].channel", "there are coil, sync")]
#[case::no_such_sync(&[("/ask/sync", json!("trigger"))], "ask.sync", "no channel trigger")]
#[case::no_such_cylinder(&[("/ask/signals/0/cylinder", json!(7))], "ask.signals[0].cylinder", "no cylinder 7")]
#[case::no_such_sync_cylinder(&[("/ask/sync_cylinder", json!(7))], "ask.sync_cylinder", "no cylinder 7")]
#[case::no_supply(&[("/ask/supply_v", json!(0))], "ask.supply_v", "between 1 and 60")]
#[case::time_stands(&[("/step_s", json!(0))], "ask.step_s", "above zero")]
#[case::too_few(&[("/channels", json!({"coil": [1.0, 2.0], "sync": [0.0, 0.0]}))], "ask.channels", "too few")]
#[case::not_alike(&[("/channels/sync", json!([0.0, 5.0]))], "ask.channels.sync", "another number of samples")]
#[case::nothing_of_the_kind(&[("/ask/signals/0/channel", json!("coil")), ("/channels/coil", json!(vec![0.0; 20_000]))], "ask.of", "nothing of this kind")]
#[case::no_wheel(&[("/ask/of", json!("crank-and-cam"))], "ask.of", "no wheel with a gap")]
#[case::angle(&[("/ask/reference_deg", json!([800]))], "ask.reference_deg", "between 0 and 720")]
#[case::no_engine(&[("/engine/firing_order", json!([1, 1, 2, 3]))], "engine.firing_order", "")]
#[case::an_unknown_kind(&[("/ask/of", json!("heartbeat"))], "ask.of", "")]
fn what_cannot_be_read_is_refused_by_its_field(
    #[case] changes: &[(&str, Value)],
    #[case] field: &str,
    #[case] reason: &str,
) {
    let refusal: Refusal = door("waveform", &with(capture(|_| 4.2), changes)).unwrap_err();
    assert!(refusal.field == field && refusal.reason.contains(reason), "{refusal}");
}

#[test]
fn a_gap_in_the_crank_signal_is_counted_as_disturbed() {
    // A wheel of twelve places, two of them missing, at a steady speed; one tooth is lost once.
    let tooth = 0.002;
    let crank: Vec<f64> = (0..30_000)
        .map(|n| {
            let place = n as f64 * STEP / tooth;
            let (turn, at) = ((place / 12.0) as usize, place % 12.0);
            let there = at < 10.0 && !(turn == 7 && (4.0..5.0).contains(&at));
            if there && at.fract() < 0.5 { 5.0 } else { 0.0 }
        })
        .collect();
    let input = json!({
        "engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]},
        "step_s": STEP, "channels": {"crank": crank},
        "ask": {"of": "crank-and-cam", "signals": [{"channel": "crank"}]},
    });
    let out = read(&input);
    assert_eq!((&out["teeth"]["teeth"], &out["teeth"]["missing"]), (&json!(10), &json!(2)), "{:#}", out["teeth"]);
    assert!(number(&out["teeth"]["disturbed"]) >= 1.0 && out["verdict"] == "bad", "{}", out["says"]);
    assert!((number(&out["teeth"]["rpm"]) - 60.0 / (12.0 * tooth)).abs() < 5.0);
}
