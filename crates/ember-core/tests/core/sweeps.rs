//! A travel by hand or recorded: steps, drop-outs, dead travel, hysteresis, straightness, two tracks.

use crate::bench;
use bench::{door, number};
use ember_core::circuit::sweep::{SweepPoint, thinned_travel, travel};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn swept(points: &[Value]) -> Value {
    let out = door("circuit", &json!({"sweep": {"points": points}})).unwrap_or_else(|refusal| panic!("{refusal}"));
    out["sweep"].clone()
}

/// There and back over 0 to 100, two volts to each side of 2.5, with a little noise that is the same each time.
fn there_and_back(steps: usize, of: impl Fn(f64, bool) -> f64) -> Vec<Value> {
    let noise = |at: usize| ((at as u64).wrapping_mul(6_364_136_223_846_793_005) >> 40) as f64 / 16_777_216.0 - 0.5;
    let place = |step: usize| 100.0 * step as f64 / steps as f64;
    let there = (0..=steps).map(|step| (place(step), false));
    let back = (0..steps).rev().map(|step| (place(step), true));
    there
        .chain(back)
        .enumerate()
        .map(|(at, (x, back))| json!({"position": x, "value": of(x, back) + 0.004 * noise(at)}))
        .collect()
}

fn straight(x: f64) -> f64 {
    0.5 + 0.04 * x
}

fn flaws(out: &Value) -> Vec<String> {
    let mut list: Vec<String> =
        out["marks"].as_array().unwrap().iter().map(|m| m["flaw"].as_str().unwrap().to_owned()).collect();
    list.dedup();
    list
}

#[test]
fn a_sound_sensor_follows_and_returns() {
    let out = swept(&there_and_back(100, |x, _| straight(x)));
    assert_eq!((&out["verdict"], flaws(&out).len()), (&json!("good"), 0), "{out:#}");
    assert!((number(&out["span"]) - 4.0).abs() < 0.02);
    for name in ["step_pct", "hysteresis_pct", "linearity_pct"] {
        assert!(number(&out[name]) < 0.5, "{name}: {}", out[name]);
    }
}

#[rstest]
#[case::a_step(&|x: f64, _| straight(x) + if x > 40.0 { 0.5 } else { 0.0 }, "step", "step_pct", 12.0)]
#[case::returns_beside(&|x: f64, back: bool| straight(x) + if back && x > 1.0 && x < 99.0 { 0.24 } else { 0.0 }, "hysteresis", "hysteresis_pct", 6.0)]
#[case::bent(&|x: f64, _| straight(x) + 0.6 * (std::f64::consts::PI * x / 100.0).sin(), "bent", "linearity_pct", 9.0)]
#[case::stands_still(&|x: f64, _| straight(if x < 30.0 { x } else { (x - 20.0).max(30.0) * 1.25 }.min(100.0)), "dead-travel", "dead_pct", 20.0)]
fn each_flaw_is_found_with_its_size(
    #[case] of: &dyn Fn(f64, bool) -> f64,
    #[case] flaw: &str,
    #[case] figure: &str,
    #[case] size: f64,
) {
    let out = swept(&there_and_back(100, of));
    assert_eq!(out["verdict"], "bad", "{out:#}");
    assert!(flaws(&out).contains(&flaw.to_owned()), "{:?}", flaws(&out));
    assert!((number(&out[figure]) - size).abs() < 0.35 * size, "{figure} {} where {size} is true", out[figure]);
}

#[rstest]
#[case::one_sample(60, 1, 200)]
#[case::three_samples(60, 3, 200)]
#[case::by_hand(6, 1, 10)]
fn a_drop_out_is_one_flaw_at_its_place_and_bends_nothing(#[case] at: usize, #[case] long: usize, #[case] steps: usize) {
    let mut points = there_and_back(steps, |x, _| straight(x));
    for point in &mut points[at..at + long] {
        point["value"] = json!(0.3);
    }
    let out = swept(&points);
    assert_eq!(flaws(&out), ["drop-out"], "{out:#}");
    assert_eq!((&out["drop_outs"], &out["marks"][0]["at"]), (&json!(1), &json!(at)));
    assert!(number(&out["linearity_pct"]) < 1.0 && number(&out["hysteresis_pct"]) < 1.0, "{out:#}");
}

#[rstest]
#[case::together(0.0, "good")]
#[case::a_little(0.04, "good")]
#[case::apart(0.4, "bad")]
fn two_tracks_are_a_straight_line_of_each_other(#[case] apart: f64, #[case] verdict: &str) {
    let points: Vec<Value> = there_and_back(100, |x, _| straight(x))
        .into_iter()
        .map(|mut point| {
            let x = number(&point["position"]);
            // The second track falls while the first one rises, and leaves its line in the middle.
            point["second"] = json!(5.0 - straight(x) + apart * (-((x - 50.0) / 8.0).powi(2)).exp());
            point
        })
        .collect();
    let out = swept(&points);
    assert_eq!(out["verdict"], verdict, "{out:#}");
    if verdict == "bad" {
        assert!(flaws(&out).contains(&"tracks-apart".into()));
    }
}

#[test]
fn without_positions_steps_are_judged_and_straightness_is_not() {
    let points: Vec<Value> =
        (0..60).map(|n| json!({"value": straight(f64::from(n)) + if n > 30 { 1.0 } else { 0.0 }})).collect();
    let out = swept(&points);
    assert_eq!((flaws(&out), &out["linearity_pct"]), (vec!["step".into()], &Value::Null));
    let smooth: Vec<Value> = (0..60).map(|n| json!({"value": straight(f64::from(n))})).collect();
    assert!(swept(&smooth)["says"].as_str().unwrap().contains("not judged"));
}

#[test]
fn what_does_not_move_or_does_not_reach_its_end_is_bad() {
    let still = vec![json!({"value": 2.5}); 20];
    assert!(swept(&still)["says"].as_str().unwrap().contains("does not move"));
    let short =
        door("circuit", &json!({"sweep": {"points": there_and_back(40, |x, _| straight(x)), "expected_span": 4.5}}));
    assert_eq!(flaws(&short.unwrap()["sweep"]), ["short-span"]);
}

#[rstest]
#[case::too_few(json!([{"value": 1}, {"value": 2}]), "sweep.points", "eight points")]
#[case::some_positions(json!([{"position": 1, "value": 1}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}]), "sweep.points[1].position", "some points only")]
#[case::some_second(json!([{"value": 1, "second": 2}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}, {"value": 1}]), "sweep.points[1].second", "some points only")]
fn travels_that_cannot_be_judged_are_refused(#[case] points: Value, #[case] field: &str, #[case] reason: &str) {
    let refusal = door("circuit", &json!({"sweep": {"points": points}})).unwrap_err();
    assert!(refusal.field == field && refusal.reason.contains(reason), "{refusal}");
}

#[rstest]
#[case::values_alone("0,52\n0,91\n", &[(None, 0.52, None), (None, 0.91, None)])]
#[case::with_positions("0 0.52\n\n10\t0.91\n", &[(Some(0.0), 0.52, None), (Some(10.0), 0.91, None)])]
#[case::semicolons("0;0,52;4,48\n10;0,91;4,09", &[(Some(0.0), 0.52, Some(4.48)), (Some(10.0), 0.91, Some(4.09))])]
#[case::either_sign("-5 -0.1", &[(Some(-5.0), -0.1, None)])]
fn a_travel_is_read_as_it_is_written_down(#[case] text: &str, #[case] expected: &[(Option<f64>, f64, Option<f64>)]) {
    let read: Vec<_> = travel(text).unwrap().into_iter().map(|p| (p.position, p.value, p.second)).collect();
    assert_eq!(read, expected);
}

#[rstest]
#[case::words("0 low", "line 1")]
#[case::four_numbers("1 2 3 4", "more than three")]
#[case::another_count("1 2\n3", "line 2")]
fn a_travel_that_cannot_be_read_names_its_line(#[case] text: &str, #[case] reason: &str) {
    let refusal = travel(text).unwrap_err();
    assert!(refusal.field == "text" && refusal.reason.contains(reason), "{refusal}");
}

proptest! {
    #[test]
    fn thinning_keeps_both_ends_of_every_stretch_and_their_order(values in prop::collection::vec(-5f64..5.0, 1..600), most in 2usize..80) {
        let points: Vec<SweepPoint> = values.iter().enumerate()
            .map(|(at, &value)| SweepPoint { position: Some(at as f64), value, second: None }).collect();
        let thin = thinned_travel(points.clone(), most);
        prop_assert!(thin.len() <= most.max(2) || thin.len() == points.len());
        prop_assert!(thin.windows(2).all(|w| w[0].position < w[1].position));
        let ends = |list: &[SweepPoint]| list.iter().fold((f64::MAX, f64::MIN), |(a, b), p| (a.min(p.value), b.max(p.value)));
        prop_assert_eq!(ends(&thin), ends(&points));
    }

    #[test]
    fn a_scale_changes_no_verdict(factor in 0.01f64..100.0, offset in -20f64..20.0, step in 0f64..1.0) {
        let of = |factor: f64, offset: f64| {
            swept(&there_and_back(60, |x, _| straight(x) + if x > 40.0 { step } else { 0.0 }).into_iter().map(|mut p| {
                p["value"] = json!(offset + factor * number(&p["value"]));
                p
            }).collect::<Vec<_>>())
        };
        prop_assert_eq!(flaws(&of(1.0, 0.0)), flaws(&of(factor, offset)));
    }
}
