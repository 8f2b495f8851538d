//! Resistances: leads, range, temperature and the meter's error decide what a figure says.

use crate::bench;
use bench::{door, with};
use ember_core::refusal::Refusal;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn run(input: &Value) -> Result<Value, Refusal> {
    door("resistance", input)
}

fn judged(input: &Value) -> Value {
    run(input).unwrap_or_else(|refusal| panic!("{refusal}\n{input:#}"))
}

fn near(value: &Value, truth: f64, places: i32) {
    let found = value.as_f64().unwrap();
    assert!((found - truth).abs() < 0.5 * 10f64.powi(-places), "{found} where {truth} is true");
}

const METER: [f64; 3] = [0.8, 3.0, 0.01];

fn meter([percent, digits, resolution]: [f64; 3]) -> Value {
    json!({"percent": percent, "digits": digits, "resolution": resolution})
}

/// A copper winding against a figure for 20 °C.
fn winding(display: Value, leads_ohm: f64, part_c: f64, low: f64, high: f64) -> Value {
    json!({"display": display, "range_multiplier": 1, "leads_ohm": leads_ohm, "part_c": part_c, "meter": meter(METER),
        "conductor": "copper", "spec": {"low_ohm": low, "high_ohm": high, "at_c": 20}})
}

fn sisters(display: f64, others: &[f64]) -> Value {
    json!({"display": display, "meter": meter([0.5, 2.0, 1.0]), "sisters": others})
}

#[test]
fn the_worked_example_comes_out_as_written() {
    let out = judged(&winding(json!(3.27), 0.21, 58.0, 2.0, 3.0));
    near(&out["ohm"], 3.06, 4);
    near(&out["uncertainty_ohm"], 0.0645, 4);
    near(&out["ohm_at_spec"], 2.6624, 4);
    near(&out["low_ohm"], 2.6063, 4);
    near(&out["high_ohm"], 2.7185, 4);
    assert_eq!(out["verdict"], "pass");
}

#[rstest]
#[case::wholly_inside(2.0, 3.0, "pass")]
#[case::wholly_below(2.8, 3.4, "fail")]
#[case::wholly_above(1.0, 2.5, "fail")]
#[case::across_the_lower_end(2.65, 3.4, "cannot-tell")]
#[case::across_the_upper_end(2.0, 2.7, "cannot-tell")]
#[case::wider_than_the_specification(2.65, 2.68, "cannot-tell")]
fn the_whole_band_decides(#[case] low: f64, #[case] high: f64, #[case] verdict: &str) {
    let out = judged(&winding(json!(3.27), 0.21, 58.0, low, high));
    assert_eq!(out["verdict"], verdict, "{out:#}");
    // Whoever cannot tell says what would help.
    assert_eq!(out["would_help"].as_array().unwrap().is_empty(), verdict != "cannot-tell");
    assert!(!out["why"].as_str().unwrap().is_empty());
}

#[rstest]
#[case::with_the_range(json!(470.0), 1.0, 470.0)]
#[case::kilo_by_the_range(json!(4.7), 1000.0, 4700.0)]
#[case::kilo_by_the_text(json!("4.7k"), 1.0, 4700.0)]
#[case::kilo_by_both(json!("4,7 kohm"), 1000.0, 4700.0)]
#[case::mega(json!("2.2 M"), 1.0, 2.2e6)]
fn a_display_counts_with_its_multiplier(#[case] display: Value, #[case] multiplier: f64, #[case] ohm: f64) {
    let out = judged(&json!({"display": display, "range_multiplier": multiplier, "meter": meter([1.0, 0.0, 0.01]),
        "spec": {"low_ohm": 0, "high_ohm": 1e7}}));
    near(&out["ohm"], ohm, 1);
    near(&out["uncertainty_ohm"], ohm / 100.0, 1);
}

#[test]
fn digits_count_in_the_range_that_is_used() {
    let out = judged(&json!({"display": 4.7, "range_multiplier": 1000, "meter": meter([0.0, 2.0, 0.01]),
        "spec": {"low_ohm": 0, "high_ohm": 1e7}}));
    near(&out["uncertainty_ohm"], 20.0, 6);
}

#[rstest]
#[case::open(json!("OL"), json!(200), 60.0, "open")]
#[case::range_not_named(json!("OL"), Value::Null, 60.0, "open")]
#[case::range_too_short(json!("OL"), json!(20), 60.0, "cannot-tell")]
#[case::came_back(json!(["OL", "41"]), json!(200), 60.0, "cannot-tell")]
fn over_the_range_is_open_only_where_the_range_reaches(
    #[case] display: Value,
    #[case] range: Value,
    #[case] high: f64,
    #[case] verdict: &str,
) {
    let input = with(winding(display, 0.0, 20.0, 40.0, high), &[("/range_max_ohm", range)]);
    let out = judged(&input);
    assert_eq!((&out["verdict"], &out["ohm"]), (&json!(verdict), &Value::Null), "{out:#}");
}

#[rstest]
#[case::nought(0.02, 0.02, "short")]
#[case::far_below_but_not_nought(0.4, 0.0, "fail")]
#[case::specification_begins_at_nought(0.0, 0.0, "pass")]
fn a_short_includes_nought_and_lies_below(#[case] display: f64, #[case] leads: f64, #[case] verdict: &str) {
    let low = if verdict == "pass" { -0.0 } else { 2.0 };
    let mut input = winding(json!(display), leads, 20.0, low, 3.0);
    if verdict == "pass" {
        // A band that reaches below nought still lies where a continuous wire should.
        input["meter"] = meter([0.0, 0.0, 0.01]);
    }
    assert_eq!(judged(&input)["verdict"], verdict);
}

#[test]
fn a_wandering_display_counts_by_its_mean_and_its_spread_widens_the_band() {
    let still = judged(&winding(json!([2.5, 2.5, 2.5]), 0.0, 20.0, 2.0, 3.0));
    let wanders = judged(&winding(json!([2.2, 2.5, 2.8]), 0.0, 20.0, 2.0, 3.0));
    near(&wanders["ohm"], 2.5, 9);
    near(&wanders["uncertainty_ohm"], (0.05_f64.powi(2) + 0.3_f64.powi(2)).sqrt(), 9);
    near(&still["uncertainty_ohm"], 0.05, 9);
}

#[test]
fn a_doubtful_temperature_widens_the_band_and_moves_nothing() {
    let sure = judged(&winding(json!(3.27), 0.21, 58.0, 2.0, 3.0));
    let doubtful = judged(&with(winding(json!(3.27), 0.21, 58.0, 2.0, 3.0), &[("/part_c_error", json!(15))]));
    assert_eq!(sure["ohm_at_spec"], doubtful["ohm_at_spec"]);
    assert!(doubtful["low_ohm"].as_f64() < sure["low_ohm"].as_f64());
    assert!(doubtful["high_ohm"].as_f64() > sure["high_ohm"].as_f64());
}

#[test]
fn what_is_no_copper_is_not_brought_to_another_temperature() {
    let input = with(winding(json!(5200.0), 0.0, 80.0, 5000.0, 6000.0), &[("/conductor", json!("none"))]);
    let out = judged(&input);
    assert_eq!(out["ohm"], out["ohm_at_spec"]);
}

#[test]
fn a_nominal_value_counts_with_its_tolerance() {
    let spec = json!({"nominal_ohm": 2.5, "tolerance_pct": 10, "at_c": 20});
    let out = judged(&with(winding(json!(2.5), 0.0, 20.0, 0.0, 0.0), &[("/spec", spec)]));
    near(&out["spec_low_ohm"], 2.25, 9);
    near(&out["spec_high_ohm"], 2.75, 9);
    assert_eq!(out["verdict"], "pass");
}

#[test]
fn a_figure_at_two_temperatures_is_brought_to_the_part() {
    let spec = json!({"low_ohm": 2.0, "high_ohm": 2.4, "at_c": 20,
        "second": {"low_ohm": 2.6, "high_ohm": 3.2, "at_c": 100}});
    let out = judged(&with(winding(json!(2.55), 0.0, 60.0, 0.0, 0.0), &[("/spec", spec)]));
    near(&out["spec_low_ohm"], 2.3, 9);
    near(&out["spec_high_ohm"], 2.8, 9);
    near(&out["at_c"], 60.0, 9);
    // Not taken for a lower limit of 2.0 and an upper one of 3.2.
    assert_eq!(out["verdict"], "pass");
}

#[rstest]
#[case::like_the_others(5300.0, &[5210.0, 5480.0, 4820.0], "pass")]
#[case::the_odd_one(11_900.0, &[5210.0, 5300.0, 5250.0], "fail")]
#[case::odd_downward(1200.0, &[5210.0, 5300.0, 5250.0], "fail")]
#[case::no_common_value(9000.0, &[3000.0, 6000.0, 12_000.0], "cannot-tell")]
#[case::two_that_agree_and_twice(10_500.0, &[5200.0, 5250.0], "fail")]
#[case::two_that_agree_and_half(3300.0, &[5200.0, 5250.0], "fail")]
#[case::two_that_agree_and_a_quarter_more(6500.0, &[5200.0, 5250.0], "fail")]
#[case::two_that_agree_and_like_them(5230.0, &[5200.0, 5250.0], "pass")]
#[case::one_alone(9000.0, &[5000.0], "cannot-tell")]
fn sisters_find_the_odd_one(#[case] display: f64, #[case] others: &[f64], #[case] verdict: &str) {
    let out = judged(&sisters(display, others));
    assert_eq!(out["verdict"], verdict, "{out:#}");
    if verdict == "fail" {
        assert!(out["why"].as_str().unwrap().contains("odd one out"), "{}", out["why"]);
    }
}

#[test]
fn the_score_is_the_modified_z_score_over_all() {
    // Median 11, deviations 1 0 1 9: their median is 1.
    let out = judged(&json!({"display": 20, "meter": meter([0.0, 0.0, 0.01]), "sisters": [10, 11, 12]}));
    let all = [10.0, 11.0, 12.0, 20.0];
    let centre: f64 = 11.5;
    let mut deviations = all.map(|x: f64| (x - centre).abs());
    deviations.sort_by(f64::total_cmp);
    let mad = (deviations[1] + deviations[2]) / 2.0;
    near(&out["score"], 0.6745 * (20.0 - centre) / mad, 9);
}

#[test]
fn the_meters_doubt_is_a_floor_for_the_scatter() {
    // Sisters that are equal to the digit would make any difference infinite.
    let out = judged(&json!({"display": 5.04, "meter": meter([1.0, 0.0, 0.01]), "sisters": [5.0, 5.0, 5.0]}));
    assert_eq!(out["verdict"], "pass", "{out:#}");
}

#[rstest]
#[case::volts(&[("/display", json!("12V"))], "display", "another quantity")]
#[case::a_dash(&[("/display", json!("-"))], "display", "no number")]
#[case::nothing(&[("/display", json!([]))], "display", "what does the meter show")]
#[case::below_nought(&[("/display", json!(-0.4))], "display", "below nought")]
#[case::two_units(&[("/display", json!(["1.2k", "1.3M"]))], "display[1]", "another unit")]
#[case::two_multipliers(&[("/display", json!("1.2k")), ("/range_multiplier", json!(1e6))], "range_multiplier", "another multiplier")]
#[case::no_multiplier(&[("/range_multiplier", json!(0))], "range_multiplier", "above nought")]
#[case::a_range_that_cannot_show_it(&[("/range_max_ohm", json!(2))], "range_max_ohm", "cannot show")]
#[case::leads_above_the_reading(&[("/leads_ohm", json!(5))], "leads_ohm", "measure them again")]
#[case::leads_below_nought(&[("/leads_ohm", json!(-1))], "leads_ohm", "nought or more")]
#[case::hotter_than_any_engine(&[("/part_c", json!(640))], "part_c", "no part of an engine")]
#[case::colder_than_any(&[("/spec/at_c", json!(-90))], "spec.at_c", "no part of an engine")]
#[case::how_hot(&[("/part_c", Value::Null)], "part_c", "copper gains")]
#[case::for_which_temperature(&[("/spec/at_c", Value::Null)], "spec.at_c", "for which temperature")]
#[case::upside_down(&[("/spec/low_ohm", json!(4))], "spec.low_ohm", "above high")]
#[case::half_a_range(&[("/spec/high_ohm", Value::Null)], "spec.high_ohm", "is missing")]
#[case::no_figure(&[("/spec", json!({"at_c": 20}))], "spec.low_ohm", "is missing")]
#[case::value_without_tolerance(&[("/spec", json!({"nominal_ohm": 2.5, "at_c": 20}))], "spec.tolerance_pct", "no limit")]
#[case::range_and_value(&[("/spec/nominal_ohm", json!(2.5))], "spec.nominal_ohm", "not both")]
#[case::both_to_judge_by(&[("/sisters", json!([2.5]))], "sisters", "not both")]
#[case::nothing_to_judge_by(&[("/spec", Value::Null)], "spec", "is missing")]
#[case::no_sister(&[("/spec", Value::Null), ("/sisters", json!([]))], "sisters", "at least one")]
#[case::a_sister_below_nought(&[("/spec", Value::Null), ("/sisters", json!([2.0, -1]))], "sisters[1]", "nought or more")]
#[case::a_meter_that_none_is(&[("/meter/percent", json!(90))], "meter.percent", "between 0 and 50")]
#[case::the_same_temperature_twice(
    &[("/spec/second", json!({"low_ohm": 3, "high_ohm": 4, "at_c": 20.5}))], "spec.second.at_c", "the same temperature")]
#[case::an_unknown_field(&[("/colour", json!("red"))], "colour", "")]
fn what_cannot_be_is_refused_by_its_field(
    #[case] changes: &[(&str, Value)],
    #[case] field: &str,
    #[case] reason: &str,
) {
    let refusal = run(&with(winding(json!(2.5), 0.2, 40.0, 2.0, 3.0), changes)).unwrap_err();
    assert_eq!(refusal.field, field, "{refusal}");
    assert!(refusal.reason.contains(reason), "{refusal}");
}

fn at(value: &Value, name: &str) -> f64 {
    value[name].as_f64().unwrap()
}

proptest! {
    #[test]
    fn a_worse_meter_never_narrows_the_band_and_never_decides_more(
        display in 0.5f64..50.0, percent in 0.0f64..3.0, digits in 0.0f64..9.0, more in 0.0f64..4.0,
    ) {
        let of = |percent: f64, digits: f64| {
            let input = with(winding(json!(display), 0.1, 40.0, 2.0, 20.0), &[("/meter", meter([percent, digits, 0.01]))]);
            judged(&input)
        };
        let (good, worse) = (of(percent, digits), of(percent + more, digits + more));
        prop_assert!(at(&worse, "low_ohm") <= at(&good, "low_ohm") && at(&worse, "high_ohm") >= at(&good, "high_ohm"));
        let (a, b) = (good["verdict"].as_str().unwrap(), worse["verdict"].as_str().unwrap());
        prop_assert!(a == b || b == "cannot-tell" || (a == "fail" && b == "short"), "{a} became {b}");
    }

    #[test]
    fn a_verdict_agrees_with_its_own_band(display in 0.3f64..40.0, c in -20f64..120.0, low in 0.5f64..10.0, width in 0.1f64..10.0) {
        let out = judged(&winding(json!(display), 0.2, c, low, low + width));
        let inside = at(&out, "low_ohm") >= low && at(&out, "high_ohm") <= low + width;
        let outside = at(&out, "high_ohm") < low || at(&out, "low_ohm") > low + width;
        match out["verdict"].as_str().unwrap() {
            "pass" => prop_assert!(inside && at(&out, "right") > 0.9),
            "fail" | "short" => prop_assert!(outside && at(&out, "right") < 0.1),
            _ => prop_assert!(!inside && !outside),
        }
    }

    #[test]
    fn copper_is_brought_back_to_what_it_had(cold in 0.2f64..2000.0, c in -30f64..130.0) {
        // What a winding of this resistance at 20 °C shows when it is at `c`.
        let shown = cold * (1.0 + 0.00393 * (c - 20.0));
        let out = judged(&winding(json!(shown), 0.0, c, 0.0, 1e6));
        prop_assert!((at(&out, "ohm_at_spec") / cold - 1.0).abs() < 1e-9);
    }

    #[test]
    fn sisters_are_judged_alike_in_any_order(mut list in prop::collection::vec(10f64..100.0, 2..7), this in 10f64..100.0) {
        let forward = judged(&sisters(this, &list));
        list.reverse();
        prop_assert_eq!(forward, judged(&sisters(this, &list)));
    }

    #[test]
    fn farther_from_its_sisters_is_never_likelier_right(list in prop::collection::vec(99f64..101.0, 3..7), off in 0f64..40.0, more in 0f64..40.0) {
        let near_by = at(&judged(&sisters(100.0 + off, &list)), "right");
        let farther = at(&judged(&sisters(100.0 + off + more, &list)), "right");
        prop_assert!(farther <= near_by + 1e-9, "{farther} above {near_by}");
    }
}
