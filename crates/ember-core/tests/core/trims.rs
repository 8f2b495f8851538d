//! Fuel trims: the fit, the hole, and what is said and left unsaid.

use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use ember_core::trims::Hole;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn v6(metering: &str) -> Value {
    json!({"cylinders": 6, "firing_order": [1, 2, 3, 4, 5, 6], "banks": [[1, 3, 5], [2, 4, 6]], "air_metering": metering})
}

const FLOWS: [f64; 6] = [5.0, 9.0, 18.0, 30.0, 45.0, 70.0];

/// A point whose factor is exactly `f`, all of it in the short-term trim.
fn point(bank: usize, flow: f64, f: f64) -> Value {
    let (rpm, load) = if flow < 6.0 { (700.0, 20.0) } else { (2200.0, if flow > 40.0 { 80.0 } else { 40.0 }) };
    json!({"bank": bank, "airflow_gps": flow, "rpm": rpm, "load_pct": load, "short_pct": 100.0 * (f - 1.0), "long_pct": 0.0})
}

fn points(of: impl Fn(usize, f64) -> f64) -> Vec<Value> {
    (1..=2).flat_map(|bank| FLOWS.map(|flow| point(bank, flow, of(bank, flow)))).collect()
}

fn trims(points: &[Value]) -> Value {
    reckon("trims", &json!({"engine": v6("air-flow"), "points": points}), Knowledge::built_in()).unwrap()
}

fn number(value: &Value, path: &str) -> f64 {
    value.pointer(path).and_then(Value::as_f64).unwrap_or_else(|| panic!("{path} in {value:#}"))
}

#[test]
fn a_hole_of_three_millimetres_passes_what_the_textbook_says() {
    let hole = Hole::new(&Knowledge::built_in().trims.hole, 101.325, 20.0);
    assert!((hole.choked_gps(3.0) - 1.1834).abs() < 5e-5, "{}", hole.choked_gps(3.0));
    assert!((hole.diameter_mm(hole.choked_gps(2.37)) - 2.37).abs() < 1e-9);
}

#[rstest]
#[case::deep_vacuum(30.0, 1.0)]
#[case::choked_to_the_end(53.0, 1.0)]
#[case::no_difference(101.325, 0.0)]
fn the_flow_of_a_hole_follows_the_manifold(#[case] map_kpa: f64, #[case] psi: f64) {
    let hole = Hole::new(&Knowledge::built_in().trims.hole, 101.325, 20.0);
    assert!((hole.psi(map_kpa) - psi).abs() < 1e-3, "{}", hole.psi(map_kpa));
}

#[test]
fn air_is_lost_and_not_gained_above_ambient_pressure() {
    let hole = Hole::new(&Knowledge::built_in().trims.hole, 101.325, 20.0);
    assert!(hole.psi(150.0) < -0.5 && hole.psi(103.0) < 0.0);
    assert!(hole.psi(90.0) > 0.0 && hole.psi(90.0) < 1.0);
}

#[test]
fn a_leak_on_one_bank_is_found_with_its_size() {
    // 0.6 g/s past the meter, all into bank 1: its factor rises by twice that over the whole engine's flow.
    let result = trims(&points(|bank, flow| if bank == 1 { 1.0 + 2.0 * 0.6 / flow } else { 1.0 }));
    assert!((number(&result, "/banks/0/b_gps") - 1.2).abs() < 1e-6);
    assert!((number(&result, "/banks/0/leak_gps") - 0.6).abs() < 1e-6);
    assert!((number(&result, "/leak_gps") - 0.6).abs() < 1e-6);
    let hole = Hole::new(&Knowledge::built_in().trims.hole, 101.325, 20.0);
    assert!((number(&result, "/leak_mm") - hole.diameter_mm(0.6)).abs() < 1e-5);
    assert!(number(&result, "/leak_mm_low") < number(&result, "/leak_mm"));
    assert_eq!(result["signatures"][0]["kind"], "unmetered-air");
    assert_eq!(result["signatures"][0]["banks"], json!([1]));
}

#[test]
fn a_leak_of_the_whole_engine_is_the_sum_of_its_banks() {
    let result = trims(&points(|_, flow| 1.0 + 0.9 / flow));
    assert!((number(&result, "/leak_gps") - 0.9).abs() < 1e-6);
}

#[test]
fn the_interval_covers_a_fuel_pressure_that_is_off() {
    // A = 1.1 may be fuel pressure: then the leak is B / A.
    let result = trims(&points(|_, flow| 1.1 + 0.9 / flow));
    assert!((number(&result, "/banks/0/a") - 1.1).abs() < 1e-6);
    assert!(number(&result, "/leak_low_gps") < 0.9 / 1.1 && number(&result, "/leak_high_gps") > 0.9);
}

#[test]
fn delivery_that_falls_with_flow_is_told_from_a_leak() {
    let result = trims(&points(|_, flow| 1.0 + 0.003 * flow));
    assert!((number(&result, "/banks/0/c_per_gps") - 0.003).abs() < 1e-9);
    assert_eq!(result["leak_mm"], Value::Null);
    assert_eq!(result["signatures"][0]["kind"], "delivery-weak");
}

#[test]
fn delivery_needs_flows_that_span_a_factor_of_five() {
    let near: Vec<Value> = [10.0, 20.0, 40.0].map(|flow| point(1, flow, 1.0 + 0.003 * flow)).into();
    assert_eq!(number(&trims(&near), "/banks/0/c_per_gps"), 0.0);
}

#[rstest]
#[case::one_flow(vec![point(1, 5.0, 1.1), point(1, 5.1, 1.12)])]
#[case::one_point(vec![point(1, 5.0, 1.1)])]
fn fewer_than_two_flows_give_no_fit(#[case] points: Vec<Value>) {
    let result = trims(&points);
    assert_eq!(result["banks"][0]["a"], Value::Null);
    assert_eq!(result["leak_gps"], Value::Null);
    assert!(result["warnings"].as_array().unwrap().iter().any(|w| w.as_str().unwrap().contains("one flow")));
}

#[test]
fn open_loop_points_are_left_out() {
    let mut list = points(|_, _| 1.0);
    for wild in &mut list[..3] {
        wild["closed_loop"] = json!(false);
        wild["short_pct"] = json!(25.0);
    }
    let result = trims(&list);
    assert_eq!(result["banks"][0]["open_loop"], 3);
    assert_eq!(result["leak_mm"], Value::Null);
}

#[test]
fn a_trim_at_its_limit_is_a_bound_and_is_said() {
    // At idle the true need is 1.6, and the trim stops at 25 %: the fit must not be pulled down to it.
    let of = |bank: usize, flow: f64| if bank == 1 { (1.0 + 3.0 / flow).min(1.25) } else { 1.0 };
    let result = trims(&points(of));
    assert!(result["banks"][0]["at_limit"].as_u64().unwrap() >= 2);
    assert!((number(&result, "/banks/0/b_gps") - 3.0).abs() < 0.2, "{}", number(&result, "/banks/0/b_gps"));
    assert!(result["warnings"].to_string().contains("limit"));
}

#[test]
fn one_wild_point_does_not_move_the_fit() {
    let mut list = points(|bank, flow| if bank == 1 { 1.0 + 1.2 / flow } else { 1.0 });
    list.extend(FLOWS.map(|flow| point(1, flow * 1.02, 1.0 + 1.2 / (flow * 1.02))));
    list[3]["short_pct"] = json!(20.0);
    assert!((number(&trims(&list), "/banks/0/b_gps") - 1.2).abs() < 0.1);
}

#[test]
fn an_engine_that_reckons_from_pressure_shows_no_leak_in_its_trims() {
    let input = json!({"engine": v6("speed-density"), "points": points(|_, flow| 1.0 + 0.9 / flow)});
    let result = reckon("trims", &input, Knowledge::built_in()).unwrap();
    assert_eq!(result["leak_mm"], Value::Null);
    assert!(result["warnings"].to_string().contains("fast idle"));
}

#[test]
fn a_misfiring_bank_is_never_called_lean_without_the_warning() {
    let input = json!({"engine": v6("air-flow"), "points": points(|bank, _| if bank == 1 { 1.12 } else { 1.0 }),
        "misfire_pct": {"1": 4.0, "2": 0.0}});
    let result = reckon("trims", &input, Knowledge::built_in()).unwrap();
    assert!(result["banks"][0]["doubtful"].as_str().unwrap().contains("reads as lean"));
    assert!(result["warnings"].to_string().contains("misfires in 4.0 %"));
    assert_eq!(result["signatures"][0]["kind"], "misfire-looks-lean");
    assert_eq!(result["banks"][1]["doubtful"], Value::Null);
}

#[test]
fn a_thin_ambient_makes_the_same_leak_a_larger_hole() {
    let list = points(|_, flow| 1.0 + 0.9 / flow);
    let high =
        reckon("trims", &json!({"engine": v6("air-flow"), "points": list, "ambient_kpa": 80.0}), Knowledge::built_in())
            .unwrap();
    assert!(number(&high, "/leak_mm") > number(&trims(&list), "/leak_mm"));
}

#[rstest]
#[case::none(json!([]), "points")]
#[case::no_such_bank(json!([{"bank": 3, "airflow_gps": 5.0, "short_pct": 0}]), "points[0].bank")]
#[case::no_flow(json!([{"bank": 1, "airflow_gps": 0.0, "short_pct": 0}]), "points[0].airflow_gps")]
#[case::trim_too_low(json!([{"bank": 1, "airflow_gps": 5.0, "short_pct": -100}]), "points[0].short_pct")]
#[case::no_trim(json!([{"bank": 1, "airflow_gps": 5.0}]), "short_pct")]
#[case::pressure_below_nothing(json!([{"bank": 1, "airflow_gps": 5.0, "short_pct": 0, "map_kpa": -3}]), "points[0].map_kpa")]
fn a_bad_point_is_refused_by_field(#[case] points: Value, #[case] field: &str) {
    let error =
        reckon("trims", &json!({"engine": v6("air-flow"), "points": points}), Knowledge::built_in()).unwrap_err();
    assert!(error.to_string().contains(field), "{error}");
}

#[rstest]
#[case::diesel(json!({"fuel": "diesel"}), "engine.fuel")]
#[case::carburettor(json!({"injection": "carburettor"}), "engine.injection")]
fn an_engine_without_trims_says_so(#[case] more: Value, #[case] field: &str) {
    let mut engine = v6("air-flow");
    engine.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    let input = json!({"engine": engine, "points": points(|_, _| 1.0)});
    let error = reckon("trims", &input, Knowledge::built_in()).unwrap_err();
    assert!(error.to_string().starts_with(field), "{error}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn the_order_of_the_points_does_not_matter(seed in 0usize..1000, leak in 0.0..2.0f64) {
        let list = points(|bank, flow| 1.0 + leak * bank as f64 / flow + 0.001 * (flow as usize % 3) as f64);
        let mut turned = list.clone();
        turned.rotate_left(seed % list.len());
        let (a, b) = (trims(&list), trims(&turned));
        prop_assert!((number(&a, "/leak_gps") - number(&b, "/leak_gps")).abs() < 1e-9);
    }

    #[test]
    fn the_probabilities_of_the_signatures_add_up_to_one(idle in -0.2..0.3f64, load in -0.2..0.2f64) {
        let result = trims(&points(|_, flow| 1.0 + if flow < 6.0 { idle } else { load }));
        let sum: f64 = result["signatures"].as_array().unwrap().iter().map(|s| s["probability"].as_f64().unwrap()).sum();
        prop_assert!((0.995..=1.0 + 1e-9).contains(&sum), "{sum}");
    }

    #[test]
    fn the_leak_lies_in_its_interval(leak in 0.05..3.0f64) {
        let result = trims(&points(|_, flow| 1.0 + leak / flow));
        prop_assert!(number(&result, "/leak_low_gps") <= leak && leak <= number(&result, "/leak_high_gps"));
    }
}
