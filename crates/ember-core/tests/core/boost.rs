//! Charge pressure and the actuator's rod.

use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use rstest::rstest;
use serde_json::{Value, json};

/// A request in steps of ten seconds, and what becomes of it: `(time since the step, request, request before)`.
fn series(actual: impl Fn(f64, f64, f64) -> f64) -> Vec<Value> {
    let holds = [110.0, 150.0, 120.0, 190.0, 130.0, 220.0, 160.0, 110.0];
    let mut list = Vec::new();
    for (index, &want) in holds.iter().enumerate() {
        let before = if index == 0 { 105.0 } else { holds[index - 1] };
        for tenth in 0..100 {
            let since = f64::from(tenth) / 10.0;
            list.push(json!({"time_s": 10.0 * index as f64 + since, "requested_kpa": want, "actual_kpa": actual(since, want, before), "rpm": 2200}));
        }
    }
    list
}

fn boost(series: &[Value]) -> Value {
    reckon("boost", &json!({"series": series, "ambient_kpa": 100.0}), Knowledge::built_in()).unwrap()
}

/// A charger that reaches a new pressure with this time constant.
fn lag(since: f64, want: f64, before: f64, tau: f64) -> f64 {
    want + (before - want) * (-since / tau).exp()
}

#[test]
fn a_sound_charger_follows() {
    let result = boost(&series(|t, want, before| lag(t, want, before, 0.4)));
    assert_eq!(result["verdict"], "follows");
    assert_eq!(result["decided"], true);
    assert!((result["gain"]["value"].as_f64().unwrap() - 1.0).abs() < 0.05);
    // Nine tenths of a step are there after ln 10 time constants.
    assert!((result["rise_s"].as_f64().unwrap() - 0.4 * std::f64::consts::LN_10).abs() < 0.3, "{}", result["rise_s"]);
}

#[test]
fn a_leak_is_a_shortfall_that_grows_with_the_pressure() {
    let result = boost(&series(|t, want, before| 100.0 + 0.8 * (lag(t, want, before, 0.4) - 100.0)));
    assert_eq!(result["verdict"], "leak");
    assert!((result["slope"]["value"].as_f64().unwrap() + 0.2).abs() < 0.03, "{}", result["slope"]);
    assert!(result["says"].as_str().unwrap().contains("20 %"));
    assert!(result["look_first"].as_array().unwrap().len() > 2);
}

#[rstest]
#[case::short(-15.0)]
#[case::much(14.0)]
fn an_offset_is_the_same_everywhere(#[case] offset: f64) {
    let result = boost(&series(|t, want, before| lag(t, want, before, 0.4) + offset));
    // An overshoot is no offset: a pressure that is always too high goes beyond every request by that much.
    assert_eq!(result["verdict"], "constant-offset", "{}", result["says"]);
    assert!((result["error_kpa"]["value"].as_f64().unwrap() - offset).abs() < 2.0);
}

#[test]
fn sticking_vanes_are_late_and_go_too_far() {
    let ringing = |t: f64, want: f64, before: f64| {
        if t < 0.8 { before } else { want + (before - want) * (-(t - 0.8) / 2.0).exp() * (1.8 * (t - 0.8)).cos() }
    };
    let result = boost(&series(ringing));
    assert_eq!(result["verdict"], "sticking-vanes");
    assert!(result["overshoot_kpa"].as_f64().unwrap() > 15.0);
}

#[test]
fn a_pressure_that_does_not_answer_is_not_regulated() {
    let result = boost(&series(|t, _, _| 125.0 + (t * 3.0).sin()));
    assert_eq!(result["verdict"], "no-response");
    assert!(result["gain"]["high"].as_f64().unwrap() < 0.35);
}

#[test]
fn vanes_that_do_not_make_the_travel_they_are_asked_for_tell_it_too() {
    let mut list = series(|t, want, before| lag(t, want, before, 0.4));
    for sample in &mut list {
        let asked = (sample["requested_kpa"].as_f64().unwrap() - 100.0).min(100.0);
        sample["vane_request_pct"] = json!(asked);
        sample["vane_position_pct"] = json!(47.0);
    }
    assert_eq!(boost(&list)["verdict"], "no-response");
}

#[test]
fn too_little_does_not_decide_and_says_what_would() {
    let short: Vec<Value> =
        (0..20).map(|i| json!({"time_s": i, "requested_kpa": 110.0, "actual_kpa": 109.0})).collect();
    let result = boost(&short);
    assert_eq!(result["decided"], false);
    assert!(result["next"].as_str().unwrap().contains("record a drive"), "{}", result["next"]);
}

#[rstest]
#[case::empty(json!([]), "series")]
#[case::backwards(json!([{"time_s": 1, "requested_kpa": 120, "actual_kpa": 120}, {"time_s": 0.5, "requested_kpa": 120, "actual_kpa": 120}]), "series[1].time_s")]
#[case::standing(json!([{"time_s": 1, "requested_kpa": 120, "actual_kpa": 120}, {"time_s": 1, "requested_kpa": 120, "actual_kpa": 120}]), "series[1].time_s")]
#[case::negative(json!([{"time_s": 1, "requested_kpa": -5, "actual_kpa": 120}]), "series[0].requested_kpa")]
#[case::too_much(json!([{"time_s": 1, "requested_kpa": 120, "actual_kpa": 900}]), "series[0].actual_kpa")]
fn a_bad_series_is_refused_by_field(#[case] series: Value, #[case] field: &str) {
    let error = reckon("boost", &json!({"series": series}), Knowledge::built_in()).unwrap_err();
    assert!(error.to_string().starts_with(field), "{error}");
}

fn rod(readings: Value) -> Value {
    json!({"windows": {"rest": [3.4, 3.7], "full": {"low_v": 0.6, "high_v": 0.9}}, "vacuum_mmhg": 430, "readings": readings})
}

fn actuator(input: &Value) -> Value {
    reckon("actuator", input, Knowledge::built_in()).unwrap()
}

#[test]
fn vacuum_is_taken_in_the_units_of_the_trade() {
    let of = |field: &str, value: f64| {
        let mut input = rod(json!([{"turns": 0, "rest_v": 3.5, "full_v": 0.7}]));
        input.as_object_mut().unwrap().remove("vacuum_mmhg");
        input[field] = json!(value);
        actuator(&input)["vacuum_kpa"].as_f64().unwrap()
    };
    assert!((of("vacuum_mmhg", 430.0) - 57.33).abs() < 0.005);
    assert_eq!(of("vacuum_bar", 0.6), 60.0);
    assert_eq!(of("vacuum_mbar", 600.0), 60.0);
    assert!((of("vacuum_inhg", 20.0) - 67.73).abs() < 0.01);
    assert_eq!(of("vacuum_kpa", 57.0), 57.0);
}

#[test]
fn the_turns_to_go_come_from_the_measured_volts_per_turn() {
    // 0.1 V a turn at rest, 0.08 at full travel: three turns in from 3.25 and 0.51 centre both.
    let result = actuator(&rod(
        json!([{"turns": 0, "rest_v": 3.25, "full_v": 0.51}, {"turns": 1, "rest_v": 3.35, "full_v": 0.59}]),
    ));
    assert_eq!(result["verdict"], "turn");
    assert!((result["rest_v_per_turn"].as_f64().unwrap() - 0.1).abs() < 1e-9);
    assert!((result["turns_to_go"].as_f64().unwrap() - 2.0).abs() < 1e-6, "{}", result["turns_to_go"]);
    assert_eq!(result["readings"][0]["rest_holds"], false);
    assert!((result["expected_rest_v"].as_f64().unwrap() - 3.55).abs() < 1e-6);
}

#[test]
fn a_span_that_no_setting_can_bring_into_both_windows_points_at_sensor_or_linkage() {
    let result =
        actuator(&rod(json!([{"turns": 0, "rest_v": 3.0, "full_v": 1.5}, {"turns": 2, "rest_v": 3.2, "full_v": 1.7}])));
    assert_eq!(result["verdict"], "span-wrong");
    assert!(result["says"].as_str().unwrap().contains("sensor or the linkage"));
    assert_eq!(result["turns_to_go"], Value::Null);
}

#[rstest]
#[case::both_hold(json!([{"turns": 0, "rest_v": 3.5, "full_v": 0.7}]), "holds")]
#[case::one_setting(json!([{"turns": 0, "rest_v": 3.0, "full_v": 0.7}]), "cannot-tell")]
#[case::the_rod_moves_nothing(json!([{"turns": 0, "rest_v": 3.0, "full_v": 0.7}, {"turns": 2, "rest_v": 3.0, "full_v": 0.7}]), "span-wrong")]
fn a_rod_is_judged(#[case] readings: Value, #[case] verdict: &str) {
    assert_eq!(actuator(&rod(readings))["verdict"], verdict);
}

#[rstest]
#[case::no_reading(rod(json!([])), "readings")]
#[case::upside_down(json!({"windows": {"rest": [3.7, 3.4], "full": [0.6, 0.9]}, "readings": [{"turns": 0, "rest_v": 3.5, "full_v": 0.7}]}), "windows.rest")]
#[case::vacuum_twice(json!({"windows": {"rest": [3.4, 3.7], "full": [0.6, 0.9]}, "vacuum_kpa": 50, "vacuum_bar": 0.5, "readings": [{"turns": 0, "rest_v": 3.5, "full_v": 0.7}]}), "vacuum_bar")]
#[case::beyond_nothing(json!({"windows": {"rest": [3.4, 3.7], "full": [0.6, 0.9]}, "vacuum_kpa": 150, "readings": [{"turns": 0, "rest_v": 3.5, "full_v": 0.7}]}), "vacuum_kpa")]
#[case::no_volt(rod(json!([{"turns": 0, "rest_v": 350, "full_v": 0.7}])), "readings[0].rest_v")]
fn a_bad_rod_is_refused_by_field(#[case] input: Value, #[case] field: &str) {
    let error = reckon("actuator", &input, Knowledge::built_in()).unwrap_err();
    assert!(error.to_string().starts_with(field), "{error}");
}

/// A recording with a request ten times a second and an actual pressure every second.
fn recorded(actual: &str) -> ember_core::recording::Recording {
    let mut recording = ember_core::recording::Recording {
        time_s: (0..100).map(|i| f64::from(i) / 10.0).collect(),
        ..Default::default()
    };
    recording.channels.insert("requested_boost".into(), vec![150.0; 100]);
    let slow = (0..100).map(|i| if i % 10 == 0 { 140.0 + i as f32 / 10.0 } else { f32::NAN }).collect();
    recording.channels.insert(actual.into(), slow);
    recording
}

#[rstest]
#[case::its_own_channel("actual_boost")]
#[case::the_manifold_stands_in_for_it("manifold_pressure")]
fn a_slower_pressure_is_held_until_it_is_read_again(#[case] actual: &str) {
    let samples = ember_core::boost::boost_samples(&recorded(actual), &Knowledge::built_in().evidence);
    assert_eq!(samples.len(), 100);
    assert_eq!((samples[9].actual_kpa, samples[10].actual_kpa), (140.0, 141.0));
    assert_eq!(samples[0].rpm, None, "what was not recorded is not made up");
}

#[test]
fn a_pressure_that_is_no_longer_read_is_not_held_for_ever() {
    let mut recording = recorded("actual_boost");
    for value in recording.channels.get_mut("actual_boost").unwrap().iter_mut().skip(1) {
        *value = f32::NAN;
    }
    let samples = ember_core::boost::boost_samples(&recording, &Knowledge::built_in().evidence);
    assert_eq!(samples.last().unwrap().time_s, 3.0, "three seconds, as knowledge/evidence.toml says");
}

#[test]
fn without_a_request_there_is_nothing_to_judge() {
    let mut recording = recorded("actual_boost");
    recording.channels.remove("requested_boost");
    assert!(ember_core::boost::boost_samples(&recording, &Knowledge::built_in().evidence).is_empty());
}
