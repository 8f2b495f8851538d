//! Deciding what to buy, and numbers that go into control units.

use ember_core::coding::{CodingInput, Match, coding};
use ember_core::decide::{DecideInput, DecideResult, Scope, Source, decide};
use ember_core::knowledge::Knowledge;
use ember_core::refusal::Refusal;
use rstest::rstest;
use serde_json::{Value, json};

fn weighed(change: Value) -> Result<DecideResult, Refusal> {
    let mut value = json!({
        "part": "coil", "probability": 0.9, "alike": 4, "way": "winding", "minutes": 20, "minutes_each_more": 8,
        "labour_per_hour": 60, "day_costs": 50,
        "offers": [{"part": "coil", "source": "original", "price": 80}, {"part": "coil", "source": "other-make", "price": 40}],
    });
    for (name, field) in change.as_object().unwrap() {
        value[name] = field.clone();
    }
    let input: DecideInput = serde_json::from_value(value).unwrap();
    decide(&input, Knowledge::built_in())
}

#[test]
fn every_share_of_an_option_adds_up_to_what_it_costs() {
    let result = weighed(json!({})).unwrap();
    assert_eq!(result.options.len(), 6, "two sources, each as one, pair and set");
    for option in &result.options {
        let sum: f64 = option.shares.iter().map(|share| share.money).sum();
        assert!((sum - option.expected).abs() < 1e-9, "{option:?}");
    }
    assert!(result.options.windows(2).all(|pair| pair[0].expected <= pair[1].expected));
    assert!((result.wins_by.unwrap() - (result.options[1].expected - result.options[0].expected)).abs() < 1e-9);
}

#[test]
fn a_single_new_original_is_reckoned_as_by_hand() {
    let result =
        weighed(json!({"offers": [{"part": "coil", "source": "original", "price": 80, "days": 2}], "alike": 1}))
            .unwrap();
    // 80 + 20 min at 1 + 2 days at 50 + 1/60 × (20 + 50) + 0.1 × (20 + 50) − 0.1 × 0.3 × 80.
    let by_hand = 80.0 + 20.0 + 100.0 + 70.0 / 60.0 + 7.0 - 2.4;
    assert!((result.options[0].expected - by_hand).abs() < 1e-9, "{:?}", result.options[0]);
    assert_eq!(result.wins_by, None);
}

#[test]
fn parts_of_an_age_go_as_a_set_and_broken_ones_alone() {
    let set = |way: &str| {
        let offers = json!([{"part": "plug", "source": "original", "price": 9}]);
        weighed(json!({"part": "plug", "way": way, "offers": offers, "minutes": 25, "minutes_each_more": 4}))
            .unwrap()
            .options[0]
            .scope
    };
    assert_eq!((set("worn"), set("cracked")), (Scope::Set, Scope::One));
}

#[rstest]
#[case::a_kit_does_not_mend_a_winding("kit", "winding", false)]
#[case::a_kit_mends_a_leak("kit", "leaks", true)]
#[case::solder_does_not_mend_a_crack("component", "cracked", false)]
#[case::solder_mends_solder("component", "cracked-solder", true)]
#[case::not_knowing_rules_nothing_out("kit", "unknown", true)]
fn a_cure_that_does_not_fit_the_way_it_failed_is_not_offered(
    #[case] source: &str,
    #[case] way: &str,
    #[case] fits: bool,
) {
    let result =
        weighed(json!({"way": way, "alike": 1, "offers": [{"part": "coil", "source": source, "price": 10}]})).unwrap();
    assert_eq!((result.options.len(), result.not_offered.len()), if fits { (1, 0) } else { (0, 1) });
    assert_eq!(result.says == "None of these cures the way it failed.", !fits);
}

#[test]
fn the_smallest_unit_sold_is_what_is_paid() {
    let offers = json!([{"part": "washer", "source": "original", "price": 5, "sold_by": 10}]);
    let result = weighed(json!({"offers": offers, "alike": 1})).unwrap();
    assert_eq!((result.options[0].outlay, result.options[0].bought), (5.0, 10.0));
    assert_eq!(result.order[0].count, 10.0);
}

#[test]
fn a_deposit_counts_only_where_the_old_part_is_kept() {
    let cost = |hands_in: bool| {
        let offers = json!([{"part": "coil", "source": "rebuilt", "price": 50, "deposit": 30}]);
        weighed(json!({"offers": offers, "alike": 1, "hands_in_old": hands_in})).unwrap().options[0].expected
    };
    assert!((cost(false) - cost(true) - 30.0).abs() < 1e-9);
}

#[test]
fn a_suppliers_own_record_bends_its_chance_of_a_comeback() {
    let with = |back: u32| {
        let offers = json!([{"part": "coil", "source": "other-make", "price": 40, "supplier": "Tarn Trade"}]);
        let record = json!([{"supplier": "Tarn Trade", "fitted": 40, "came_back": back}]);
        weighed(json!({"offers": offers, "suppliers": record, "alike": 1})).unwrap().options[0].comeback_pct
    };
    assert!((with(0) - 100.0 * 1.5 / 80.0).abs() < 1e-9);
    assert!(with(8) > 5.0 * with(0));
}

#[test]
fn two_that_cost_the_same_are_not_decided() {
    let offers = json!([{"part": "coil", "source": "original", "price": 80, "supplier": "A"}, {"part": "coil", "source": "original", "price": 81, "supplier": "B"}]);
    let result = weighed(json!({"offers": offers, "alike": 1})).unwrap();
    assert!(!result.decided && result.says.contains("the same within what is known"), "{}", result.says);
}

#[test]
fn the_order_holds_what_goes_with_the_part_and_what_was_noted() {
    let offers = json!([{"part": "injector", "source": "original", "price": 200}]);
    let result =
        weighed(json!({"part": "injector", "offers": offers, "alike": 1, "renew": ["leak-off hose"]})).unwrap();
    let list: Vec<&str> = result.order.iter().map(|line| line.what.as_str()).collect();
    assert_eq!(list, ["injector", "sealing washer", "clamp bolt", "leak-off O-ring", "leak-off hose"]);
}

#[rstest]
#[case::more_than_certain(json!({"probability": 1.2}), "probability")]
#[case::half_a_part(json!({"alike": 1.5}), "alike")]
#[case::an_unknown_way(json!({"way": "tired"}), "way")]
#[case::minutes_below_nought(json!({"minutes": -1}), "minutes")]
#[case::nothing_offered(json!({"offers": []}), "offers")]
#[case::a_price_below_nought(json!({"offers": [{"part": "coil", "source": "kit", "price": -3}]}), "offers[0].price")]
#[case::a_pack_of_nothing(json!({"offers": [{"part": "coil", "source": "kit", "price": 3, "sold_by": 0}]}), "offers[0].sold_by")]
#[case::more_back_than_fitted(json!({"suppliers": [{"supplier": "A", "fitted": 1, "came_back": 2}]}), "suppliers[0].came_back")]
fn what_cannot_be_weighed_is_refused(#[case] change: Value, #[case] field: &str) {
    assert_eq!(weighed(change).unwrap_err().field, field);
}

#[test]
fn every_source_of_the_knowledge_is_known_to_the_program() {
    for source in [Source::Original, Source::OtherMake, Source::Rebuilt, Source::Kit, Source::Component] {
        assert!(Knowledge::built_in().repair.sources.contains_key(&source), "{source:?}");
    }
}

fn compared(numbers: Value) -> Result<ember_core::coding::CodingResult, Refusal> {
    let input: CodingInput = serde_json::from_value(json!({"what": "injector trim code", "numbers": numbers})).unwrap();
    coding(&input, Knowledge::built_in())
}

#[rstest]
#[case::the_same("A7F2C1", "A7F2C1", Match::Same)]
#[case::small_letters("a7f2c1", "A7F2C1", Match::Same)]
#[case::filled_up_behind("A7F2C1", "A7F2C10000", Match::Padded)]
#[case::filled_up_in_front("A7F2C1", "FFFFA7F2C1", Match::Padded)]
#[case::filled_with_two_kinds("A7F2C1", "A7F2C1F0", Match::Different)]
#[case::another_digit("A7F2C1", "A7F2C2", Match::Different)]
#[case::cut_off("A7F2C1BB", "A7F2C1", Match::Different)]
#[case::not_read("A7F2C1", "", Match::NotRead)]
fn a_number_is_compared_with_what_is_stored(#[case] printed: &str, #[case] stored: &str, #[case] expected: Match) {
    let result = compared(json!([{"cylinder": 1, "printed_old": printed, "stored_before": stored}])).unwrap();
    assert_eq!(result.numbers[0].right_place, expected);
}

#[test]
fn an_old_number_that_is_stored_for_another_cylinder_stops_the_work() {
    let result = compared(json!([
        {"cylinder": 1, "printed_old": "AAAAAA", "stored_before": "BBBBBB"},
        {"cylinder": 2, "stored_before": "AAAAAA"},
    ]))
    .unwrap();
    assert_eq!(result.numbers[0].found_at, Some(2));
    assert!(!result.good && result.says.contains("which cylinder this is"));
}

#[test]
fn a_number_that_was_not_taken_is_told_apart_from_a_wrong_one() {
    let of = |back: &str| {
        let one = json!([{"cylinder": 1, "printed_old": "AAAAAA", "stored_before": "AAAAAA", "printed_new": "CCCCCC", "read_back": back}]);
        compared(one).unwrap()
    };
    assert!(of("AAAAAA").numbers[0].says.contains("it was not written"));
    assert!(of("DDDDDD").numbers[0].says.contains("not what is printed"));
    assert!(of("CCCCCC").good && of("CCCCCC00").good && !of("").good);
}

#[rstest]
#[case::too_short(json!([{"cylinder": 1, "printed_new": "A1"}]), "numbers[0].printed_new")]
#[case::too_long(json!([{"cylinder": 1, "printed_old": "A".repeat(31)}]), "numbers[0].printed_old")]
#[case::a_strange_letter(json!([{"cylinder": 1, "printed_old": "A7F2C§"}]), "numbers[0].printed_old")]
#[case::a_cylinder_twice(json!([{"cylinder": 1}, {"cylinder": 1}]), "numbers[1].cylinder")]
#[case::nothing(json!([]), "numbers")]
fn a_number_that_cannot_be_is_refused(#[case] numbers: Value, #[case] field: &str) {
    assert_eq!(compared(numbers).unwrap_err().field, field);
}
