//! Tightening: units, stages, order, the wrench.

use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use ember_core::refusal::Refusal;
use ember_core::torque::{FastenerPattern, TorqueInput, TorqueResult, torque};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn input(value: Value) -> TorqueInput {
    serde_json::from_value(value).unwrap()
}

fn reckoned(value: Value) -> Result<TorqueResult, Refusal> {
    torque(&input(value), Knowledge::built_in())
}

#[rstest]
#[case::newton_metres("20 N·m", 20.0)]
#[case::plain_spelling("20 Nm", 20.0)]
#[case::pound_feet("15 lb ft", 15.0 * 1.355818)]
#[case::pound_inches("47 lb in", 47.0 * 0.1129848)]
#[case::kilogram_metres("2 kgf m", 2.0 * 9.80665)]
#[case::decimal_comma("7,5 Nm", 7.5)]
fn a_torque_is_read_with_its_unit(#[case] written: &str, #[case] nm: f64) {
    let result = reckoned(json!({"stages": [{"torque": written}]})).unwrap();
    assert!((result.stages[0].torque_nm.unwrap() - nm).abs() < 1e-9);
}

#[test]
fn a_stage_is_given_in_all_units() {
    let result = reckoned(json!({"stages": [{"torque_nm": 135.5818}]})).unwrap();
    let stage = &result.stages[0];
    assert!((stage.torque_lb_ft.unwrap() - 100.0).abs() < 1e-9);
    assert!((stage.torque_lb_in.unwrap() - 135.5818 / 0.1129848).abs() < 1e-9);
    assert!((stage.torque_kgf_m.unwrap() - 135.5818 / 9.80665).abs() < 1e-9);
}

#[rstest]
#[case::no_unit(json!({"stages": [{"torque": "20"}]}), "stages[0].torque", "no unit")]
#[case::unknown_unit(json!({"stages": [{"torque": "20 furlongs"}]}), "stages[0].torque", "not a unit")]
#[case::an_angle_of_1900(json!({"stages": [{"torque": "20 Nm"}, {"angle_deg": 1900}]}), "stages[1].angle_deg", "digit")]
#[case::an_angle_from_nothing(json!({"stages": [{"angle_deg": 90}]}), "stages[0].angle_deg", "which torque comes first")]
#[case::nothing_at_all(json!({"stages": [{}]}), "stages[0].torque", "one torque")]
#[case::two_things_at_once(json!({"stages": [{"torque": "5 Nm", "angle_deg": 90}]}), "stages[0].torque", "one torque")]
#[case::below_nought(json!({"stages": [{"torque_nm": -4}]}), "stages[0].torque", "above 0")]
#[case::beyond_any_bolt(json!({"stages": [{"torque_nm": 20000}]}), "stages[0].torque", "up to")]
#[case::no_fastener(json!({"stages": [{"torque_nm": 5}], "fasteners": 0}), "fasteners", "between 1")]
#[case::more_rows_than_bolts(json!({"stages": [{"torque_nm": 5}], "fasteners": 2, "pattern": "cover", "rows": 3}), "rows", "cannot hold")]
#[case::neither_stage_nor_thread(json!({}), "stages", "give the maker's")]
#[case::an_unknown_thread(json!({"thread": "M9"}), "thread", "no typical figure")]
#[case::a_range_upside_down(json!({"stages": [{"torque_nm": 5}], "wrench": {"name": "w", "low_nm": 9, "high_nm": 4}}), "wrench.high_nm", "no range")]
fn what_cannot_be_is_refused_by_field(#[case] value: Value, #[case] field: &str, #[case] says: &str) {
    let refusal = reckoned(value).unwrap_err();
    assert_eq!(refusal.field, field, "{refusal}");
    assert!(refusal.reason.contains(says), "{refusal}");
}

#[rstest]
#[case::too_weak(8.0, "below the range of half-inch click (40 to 210 N·m): take a smaller wrench")]
#[case::too_strong(250.0, "above the range of half-inch click (40 to 210 N·m): take a larger wrench")]
fn a_stage_outside_the_wrenchs_range_is_refused_by_name(#[case] nm: f64, #[case] says: &str) {
    let wrench = json!({"name": "half-inch click", "low_nm": 40, "high_nm": 210});
    let refusal = reckoned(json!({"stages": [{"torque_nm": 60}, {"torque_nm": nm}], "wrench": wrench})).unwrap_err();
    assert_eq!(refusal.field, "stages[1].torque");
    assert!(refusal.reason.contains("stage 2") && refusal.reason.contains(says), "{refusal}");
}

#[test]
fn the_lowest_part_of_a_wrenchs_range_is_warned_of() {
    let wrench = json!({"name": "click", "low_nm": 5, "high_nm": 100});
    let warned = |nm: f64| reckoned(json!({"stages": [{"torque_nm": nm}], "wrench": wrench})).unwrap().warnings.len();
    assert_eq!((warned(8.0), warned(60.0)), (1, 0));
}

#[rstest]
#[case::four_on_a_circle(json!({"fasteners": 4, "pattern": "circle"}), &[1, 3, 2, 4])]
#[case::five_on_a_circle(json!({"fasteners": 5, "pattern": "circle"}), &[1, 3, 5, 2, 4])]
#[case::six_on_a_circle(json!({"fasteners": 6, "pattern": "circle"}), &[1, 4, 2, 5, 3, 6])]
#[case::eight_on_a_circle(json!({"fasteners": 8, "pattern": "circle"}), &[1, 5, 3, 7, 2, 6, 4, 8])]
#[case::a_row_of_five(json!({"fasteners": 5, "pattern": "row"}), &[3, 2, 4, 1, 5])]
#[case::a_head_of_eight(json!({"fasteners": 8, "pattern": "cover"}), &[2, 7, 3, 6, 4, 5, 8, 1])]
#[case::one(json!({"fasteners": 1}), &[1])]
#[case::two(json!({"fasteners": 2}), &[1, 2])]
fn the_order_of_tightening_is(#[case] fasteners: Value, #[case] order: &[usize]) {
    let mut value = fasteners;
    value["stages"] = json!([{"torque_nm": 10}]);
    assert_eq!(reckoned(value.clone()).unwrap().order, order);
    value["loosening"] = json!(true);
    let mut reversed = order.to_vec();
    reversed.reverse();
    assert_eq!(reckoned(value).unwrap().order, reversed);
}

#[test]
fn every_fastener_is_walked_through_by_hand_and_through_every_stage() {
    let result =
        reckoned(json!({"stages": [{"torque_nm": 8}, {"torque_nm": 20}, {"angle_deg": 90}], "fasteners": 6})).unwrap();
    assert_eq!(result.steps.len(), 6 * 4);
    assert!(result.steps[..6].iter().all(|step| step.stage == 0));
    assert!(result.steps[18..].iter().all(|step| step.stage == 3));
    assert!(result.says.contains("8 N·m, then 20 N·m, then 90° on"), "{}", result.says);
}

#[test]
fn without_a_specification_the_typical_figure_is_marked_as_such() {
    let result = reckoned(json!({"thread": "m8", "into": "aluminium"})).unwrap();
    assert!(result.typical && result.warnings[0].contains("typical"));
    assert_eq!(result.stages[0].torque_nm, Some(20.0));
    assert!(!reckoned(json!({"stages": [{"torque_nm": 20}]})).unwrap().typical);
}

#[test]
fn single_use_fasteners_are_asked_for() {
    let result = reckoned(json!({"stages": [{"torque_nm": 20}], "single_use": true})).unwrap();
    assert!(result.single_use && result.warnings.iter().any(|one| one.starts_with("Single use")));
}

#[test]
fn a_falling_torque_is_questioned_unless_all_is_slackened_between() {
    let warned = |stages: Value| !reckoned(json!({"stages": stages})).unwrap().warnings.is_empty();
    assert!(warned(json!([{"torque_nm": 40}, {"torque_nm": 20}])));
    assert!(!warned(json!([{"torque_nm": 40}, {"slacken": true}, {"torque_nm": 20}])));
}

#[test]
fn the_door_gives_the_same() {
    let out =
        reckon("torque", &json!({"stages": [{"torque": "20 N·m"}], "fasteners": 4}), Knowledge::built_in()).unwrap();
    assert_eq!(out["order"], json!([1, 3, 2, 4]));
}

proptest! {
    #[test]
    fn every_order_holds_every_fastener_once(
        count in 1usize..=64,
        rows in 1usize..=6,
        pattern in prop_oneof![Just(FastenerPattern::Circle), Just(FastenerPattern::Cover), Just(FastenerPattern::Row)],
    ) {
        let mut wanted = input(json!({"stages": [{"torque_nm": 10}]}));
        (wanted.fasteners, wanted.rows, wanted.pattern) = (count, rows.min(count), pattern);
        let result = torque(&wanted, Knowledge::built_in()).unwrap();
        let mut seen = result.order.clone();
        seen.sort_unstable();
        prop_assert_eq!(seen, (1..=count).collect::<Vec<_>>());
        let inside = result.spots.iter().all(|s| (0.0..=1.0).contains(&s.x) && (0.0..=1.0).contains(&s.y));
        prop_assert!(inside);
    }

    #[test]
    fn on_an_even_circle_each_second_fastener_lies_opposite(half in 1usize..=32) {
        let result = reckoned(json!({"stages": [{"torque_nm": 10}], "fasteners": 2 * half, "pattern": "circle"})).unwrap();
        for pair in result.order.chunks(2) {
            prop_assert_eq!(pair[1], pair[0] + half);
        }
    }
}
