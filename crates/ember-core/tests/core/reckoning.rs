//! The computations through their JSON doors: worked examples exactly, laws by property, bad input by its field.

use ember_core::knowledge::Knowledge;
use ember_core::reckon::{NAMES, reckon};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Map, Value, json};

fn run(name: &str, input: Value) -> Value {
    reckon(name, &input, Knowledge::built_in()).unwrap_or_else(|error| panic!("{name}: {error}"))
}

fn refused(name: &str, input: Value) -> String {
    reckon(name, &input, Knowledge::built_in()).expect_err("must be refused").to_string()
}

fn engine(cylinders: u8) -> Value {
    match cylinders {
        1 => json!({"cylinders": 1, "firing_order": [1], "banks": [[1]]}),
        2 => json!({"cylinders": 2, "firing_order": [1, 2], "banks": [[1], [2]], "arrangement": "flat"}),
        3 => json!({"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}),
        4 => json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]}),
        5 => json!({"cylinders": 5, "firing_order": [1, 2, 4, 5, 3], "banks": [[1, 2, 3, 4, 5]]}),
        6 => json!({"cylinders": 6, "firing_order": [1, 4, 3, 6, 2, 5], "banks": [[1, 3, 5], [2, 4, 6]]}),
        8 => json!({"cylinders": 8, "firing_order": [1, 5, 4, 8, 6, 3, 7, 2], "banks": [[1, 2, 3, 4], [5, 6, 7, 8]]}),
        10 => {
            json!({"cylinders": 10, "firing_order": [1, 6, 5, 10, 2, 7, 3, 8, 4, 9], "banks": [[1, 2, 3, 4, 5], [6, 7, 8, 9, 10]]})
        }
        12 => {
            json!({"cylinders": 12, "firing_order": [1, 7, 5, 11, 3, 9, 6, 12, 2, 8, 4, 10], "banks": [[1, 2, 3, 4, 5, 6], [7, 8, 9, 10, 11, 12]]})
        }
        other => panic!("no engine with {other} cylinders in these tests"),
    }
}

fn paired_four() -> Value {
    json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "ignition": "paired-coils"})
}

fn counts(of: &[u64]) -> Value {
    Value::Object(of.iter().enumerate().map(|(i, k)| ((i + 1).to_string(), json!(k))).collect::<Map<_, _>>())
}

fn misfire(engine: Value, revolutions: f64, of: &[u64]) -> Value {
    run("misfire", json!({"engine": engine, "revolutions": revolutions, "misfires": counts(of)}))
}

fn near(value: &Value, expected: f64, tolerance: f64) {
    let value = value.as_f64().unwrap();
    assert!((value - expected).abs() <= tolerance, "{value} is not {expected}");
}

mod engine_door {
    use super::*;

    #[test]
    fn relations_of_a_v6_follow_from_its_firing_order() {
        let out = run("engine", engine(6));
        assert_eq!(out["arrangement"], "vee");
        let three = &out["places"][2];
        assert_eq!((&three["bank"], &three["row"]), (&json!(1), &json!(2)));
        assert_eq!(three["running_mate"], 5);
        assert_eq!(three["successor"], 6);
        assert_eq!(three["neighbours"], json!([1, 5]));
        assert_eq!(out["firing_interval_deg"], 120.0);
    }

    #[test]
    fn bank_1_is_the_one_with_cylinder_1_whichever_was_written_first() {
        let mut swapped = engine(6);
        swapped["banks"] = json!([[2, 4, 6], [1, 3, 5]]);
        assert_eq!(run("engine", swapped), run("engine", engine(6)));
    }

    #[test]
    fn paired_coils_left_out_join_the_running_mates() {
        let out = run("engine", paired_four());
        assert_eq!(out["coil_pairs"], json!([[1, 4], [2, 3]]));
        assert_eq!(out["places"][0]["shares_coil_with"], json!([4]));
    }

    #[test]
    fn a_diesel_has_no_spark_and_an_inline_engine_one_row_however_its_sensors_count() {
        let six = json!({"cylinders": 6, "firing_order": [1, 5, 3, 6, 2, 4], "banks": [[1, 2, 3], [4, 5, 6]],
            "arrangement": "inline", "fuel": "diesel"});
        let out = run("engine", six);
        assert_eq!(out["ignition"], "none");
        assert_eq!(out["places"][2]["neighbours"], json!([2, 4]));
    }

    #[rstest]
    #[case::repeats(json!({"firing_order": [1, 3, 3, 2]}), "firing_order: cylinder 3 stands in it twice")]
    #[case::too_short(json!({"firing_order": [1, 3, 4]}), "firing_order: cylinder 2 left out")]
    #[case::stranger(json!({"firing_order": [1, 3, 9, 2]}), "firing_order: cylinder 9 does not exist")]
    #[case::in_two_banks(json!({"banks": [[1, 2, 3], [3, 4]]}), "banks: cylinder 3 stands in it twice")]
    #[case::in_no_bank(json!({"banks": [[1, 2, 3]]}), "banks: cylinder 4 left out")]
    #[case::empty_bank(json!({"banks": [[1, 2, 3, 4], []]}), "banks: a bank has no cylinder")]
    #[case::thirteen(json!({"cylinders": 13}), "cylinders: must be 1 to 12")]
    #[case::none(json!({"cylinders": 0}), "cylinders: must be 1 to 12")]
    #[case::pair_not_mates(json!({"ignition": "paired-coils", "coil_pairs": [[1, 2], [3, 4]]}), "coil_pairs: cylinders 1 and 2 do not fire 360 degrees apart")]
    #[case::pairs_incomplete(json!({"ignition": "paired-coils", "coil_pairs": [[1, 4]]}), "coil_pairs: cylinders 2, 3 left out")]
    #[case::three_coils(json!({"coils_per_cylinder": 3}), "coils_per_cylinder")]
    #[case::unknown_word(json!({"fuel": "steam"}), "fuel")]
    #[case::unknown_field(json!({"colour": "red"}), "colour")]
    fn is_refused(#[case] change: Value, #[case] expected: &str) {
        let mut description = engine(4);
        description.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
        let message = refused("engine", description);
        assert!(message.starts_with(expected), "{message}");
    }

    #[test]
    fn paired_coils_need_an_even_number_of_cylinders() {
        let mut three = engine(3);
        three["ignition"] = json!("paired-coils");
        assert!(refused("engine", three).starts_with("ignition:"));
    }
}

mod misfire_door {
    use super::*;

    #[test]
    fn the_worked_example_of_a_rate_and_its_interval() {
        let out = misfire(engine(4), 36_000.0, &[0, 0, 270, 0]);
        let three = &out["cylinders"][2];
        near(&three["firings"], 18_000.0, 0.0);
        near(&three["rate_pct"], 1.5, 1e-12);
        near(&three["low_pct"], 1.3301, 5e-5);
        near(&three["high_pct"], 1.6855, 5e-5);
        near(&out["cylinders"][0]["low_pct"], 0.0, 0.0);
        near(&out["cylinders"][0]["high_pct"], 0.013954, 5e-7);
        near(&out["total_rate_pct"], 0.375, 1e-12);
    }

    #[rstest]
    #[case::one_of_four(engine(4), vec![1, 2, 270, 0], "single", vec![3])]
    #[case::dead_cylinder(engine(6), vec![0, 0, 0, 0, 18_000, 0], "single", vec![5])]
    #[case::the_only_one(engine(1), vec![300], "single", vec![1])]
    #[case::all(engine(6), vec![210, 190, 200, 205, 195, 200], "all", vec![1, 2, 3, 4, 5, 6])]
    #[case::bank(engine(6), vec![210, 1, 200, 0, 195, 2], "bank", vec![1, 3, 5])]
    #[case::neighbours(engine(6), vec![0, 200, 0, 210, 0, 1], "neighbours", vec![2, 4])]
    #[case::consecutive(engine(6), vec![200, 0, 0, 210, 0, 1], "consecutive", vec![1, 4])]
    #[case::running_mates(engine(6), vec![200, 0, 0, 0, 0, 210], "running-mates", vec![1, 6])]
    #[case::shared_coil(paired_four(), vec![200, 0, 1, 210], "shared-coil", vec![1, 4])]
    #[case::several(engine(6), vec![200, 0, 200, 0, 0, 210], "several", vec![1, 3, 6])]
    #[case::none(engine(8), vec![1, 0, 2, 1, 0, 1, 0, 2], "none", vec![])]
    #[case::one_of_twelve(engine(12), vec![2, 1, 0, 1, 0, 2, 1, 0, 1, 400, 0, 1], "single", vec![10])]
    fn the_pattern_is_found(
        #[case] engine: Value,
        #[case] of: Vec<u64>,
        #[case] kind: &str,
        #[case] cylinders: Vec<u8>,
    ) {
        let out = misfire(engine, 36_000.0, &of);
        assert_eq!(out["patterns"][0]["kind"], kind, "{:#}", out["patterns"]);
        assert_eq!(out["patterns"][0]["cylinders"], json!(cylinders));
        assert_eq!(out["decided"], true);
    }

    #[test]
    fn two_that_share_a_coil_and_stand_side_by_side_are_ranked_by_the_prior_and_told_apart_in_words() {
        let out = misfire(paired_four(), 36_000.0, &[0, 200, 210, 0]);
        let kinds: Vec<&str> =
            out["patterns"].as_array().unwrap().iter().take(3).map(|p| p["kind"].as_str().unwrap()).collect();
        assert_eq!(kinds, ["shared-coil", "neighbours", "running-mates"]);
        assert_eq!(out["decided"], true, "the group is certain, whatever binds it");
        let next = out["next"].as_str().unwrap();
        assert!(next.contains("Swap the coil") && next.contains("compression"), "{next}");
    }

    #[test]
    fn a_group_that_misses_less_than_the_rest_is_no_fault() {
        let out = misfire(engine(4), 36_000.0, &[150, 150, 0, 150]);
        assert_eq!(out["patterns"][0]["cylinders"], json!([1, 2, 4]));
        near(&out["cylinders"][2]["probability"], 0.0, 1e-6);
    }

    #[test]
    fn nine_misfires_in_a_burst_never_decide() {
        let out = misfire(engine(4), 36_000.0, &[0, 0, 9, 0]);
        assert!(out["group"]["probability"].as_f64().unwrap() > 0.95);
        assert_eq!(out["decided"], false);
        assert!(out["next"].as_str().unwrap().contains("bursts"));
    }

    #[test]
    fn a_short_silence_does_not_prove_a_sound_engine() {
        assert_eq!(misfire(engine(4), 500.0, &[0, 0, 0, 0])["decided"], false);
        assert_eq!(misfire(engine(4), 20_000.0, &[0, 0, 0, 0])["decided"], true);
    }

    #[test]
    fn groups_that_take_turns_show_only_in_windows() {
        let turn = |first: bool| {
            let of: Vec<u64> = (1..=6).map(|c| if (c % 2 == 1) == first { 40 } else { 0 }).collect();
            json!({"revolutions": 2000, "misfires": counts(&of)})
        };
        let windows: Vec<Value> = (0..8).map(|i| turn(i % 2 == 0)).collect();
        let totals = misfire(engine(6), 16_000.0, &[160; 6]);
        assert_eq!(totals["patterns"][0]["kind"], "all");
        let out = run("misfire", json!({"engine": engine(6), "windows": windows}));
        assert_eq!(out["patterns"][0]["kind"], "alternating", "{:#}", out["patterns"]);
        assert_eq!(out["patterns"][0]["groups"], json!([[1, 3, 5], [2, 4, 6]]));
    }

    #[test]
    fn a_single_fault_in_bursts_is_not_taken_for_turns() {
        let windows: Vec<Value> = (0..8)
            .map(|i| json!({"revolutions": 2000, "misfires": counts(&[0, if i % 3 == 0 { 60 } else { 0 }, 0, u64::from(i % 4 == 1)])}))
            .collect();
        let out = run("misfire", json!({"engine": engine(4), "windows": windows}));
        assert_eq!(out["patterns"][0]["kind"], "single");
        assert_eq!(out["patterns"][0]["cylinders"], json!([2]));
    }

    #[rstest]
    #[case::negative(json!({"misfires": {"1": 0, "2": -1, "3": 0, "4": 0}}), "misfires.2: a count cannot be negative")]
    #[case::fraction(json!({"misfires": {"1": 0, "2": 2.5, "3": 0, "4": 0}}), "misfires.2: a count is a whole number")]
    #[case::left_out(json!({"misfires": {"1": 0, "2": 1, "4": 0}}), "misfires.3: this cylinder is left out")]
    #[case::ninth(json!({"misfires": {"1": 0, "2": 1, "3": 0, "4": 0, "9": 1}}), "misfires.9: the engine has no cylinder 9")]
    #[case::twice(json!({"misfires": {"1": 0, "2": 1, "3": 0, "4": 0, "04": 1}}), "misfires.4: cylinder 4 stands in it twice")]
    #[case::too_many(json!({"misfires": {"1": 0, "2": 501, "3": 0, "4": 0}}), "misfires.2: 501 misfires in 500 firings")]
    #[case::no_revolutions(json!({"revolutions": 0}), "revolutions: must be above zero")]
    #[case::text(json!({"misfires": {"1": 0, "2": "many", "3": 0, "4": 0}}), "misfires.2")]
    #[case::missing(json!({"misfires": null}), "misfires: is missing")]
    #[case::engine(json!({"engine": {"cylinders": 4, "firing_order": [1, 1, 2, 3], "banks": [[1, 2, 3, 4]]}}), "engine.firing_order")]
    #[case::windows_disagree(json!({"windows": [{"revolutions": 1000, "misfires": {"1": 0, "2": 2, "3": 0, "4": 0}}]}), "windows: their sum")]
    fn is_refused_by_field(#[case] change: Value, #[case] expected: &str) {
        let mut input = json!({"engine": engine(4), "revolutions": 1000, "misfires": {"1": 0, "2": 1, "3": 0, "4": 0}});
        input.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
        let message = refused("misfire", input);
        assert!(message.starts_with(expected), "{message}");
    }

    proptest! {
        #[test]
        fn listed_probabilities_of_a_v8_never_add_up_to_more_than_one(of in proptest::collection::vec(0u64..60, 8)) {
            let out = misfire(engine(8), 20_000.0, &of);
            let listed: f64 = out["patterns"].as_array().unwrap().iter().map(|p| p["probability"].as_f64().unwrap()).sum();
            prop_assert!(listed <= 1.0 + 1e-9);
            for cylinder in out["cylinders"].as_array().unwrap() {
                let p = cylinder["probability"].as_f64().unwrap();
                prop_assert!((0.0..=1.0).contains(&p));
            }
        }

        #[test]
        fn renumbering_the_cylinders_renumbers_the_answer(of in proptest::collection::vec(0u64..300, 4)) {
            // Read from the back, an inline four has the same relations.
            let there = misfire(engine(4), 30_000.0, &of);
            let mirrored: Vec<u64> = of.iter().rev().copied().collect();
            let turned = json!({"cylinders": 4, "firing_order": [4, 2, 1, 3], "banks": [[4, 3, 2, 1]]});
            let back = misfire(turned, 30_000.0, &mirrored);
            prop_assert_eq!(&there["decided"], &back["decided"]);
            for c in 0..4 {
                let (a, b) = (&there["cylinders"][c]["probability"], &back["cylinders"][3 - c]["probability"]);
                prop_assert!((a.as_f64().unwrap() - b.as_f64().unwrap()).abs() < 1e-9);
            }
        }
    }
}

mod swap_door {
    use super::*;

    fn exchange(part: &str, from: u8, to: u8) -> Vec<Value> {
        vec![json!({"part": part, "from": from, "to": to}), json!({"part": part, "from": to, "to": from})]
    }

    fn exchanges(first: (&str, u8), second: (&str, u8)) -> Vec<Value> {
        [exchange(first.0, 3, first.1), exchange(second.0, 3, second.1)].concat()
    }

    /// Coil 3 went to 1 and plug 3 to 2; before, cylinder 3 missed 270 of 18 000.
    fn tested(after: &[u64]) -> Value {
        json!({
            "engine": engine(4),
            "before": {"revolutions": 36_000, "misfires": counts(&[1, 0, 270, 2])},
            "after": {"revolutions": 36_000, "misfires": counts(after)},
            "moves": exchanges(("coil", 1), ("plug", 2)),
            "cleared_between": true,
        })
    }

    #[rstest]
    #[case::with_the_plug(&[2, 240, 1, 0], "moved", json!("plug"), json!(2))]
    #[case::with_the_coil(&[310, 0, 1, 2], "moved", json!("coil"), json!(1))]
    #[case::stayed(&[0, 1, 250, 0], "stayed", json!(null), json!(null))]
    #[case::gone(&[0, 1, 0, 2], "gone", json!(null), json!(null))]
    #[case::elsewhere(&[0, 1, 0, 260], "elsewhere", json!(null), json!(null))]
    #[case::on_two(&[250, 0, 260, 1], "mixed", json!(null), json!(null))]
    fn the_verdict_follows_the_fault(
        #[case] after: &[u64],
        #[case] verdict: &str,
        #[case] part: Value,
        #[case] now: Value,
    ) {
        let out = run("swap", tested(after));
        assert_eq!(out["verdict"], verdict, "{out:#}");
        assert_eq!((&out["part"], &out["cylinder_now"]), (&part, &now));
        assert_eq!(out["decided"], true);
        assert_eq!(out["more_revolutions"], Value::Null);
        assert_eq!(out["suspect"], 3);
    }

    #[test]
    fn gone_condemns_nothing_and_says_so() {
        let next = run("swap", tested(&[0, 1, 0, 2]))["next"].as_str().unwrap().to_owned();
        assert!(next.contains("poor connection") && next.contains("nothing is proven"), "{next}");
    }

    #[test]
    fn too_few_misfires_stay_undecided_and_say_how_many_more_revolutions() {
        let mut input = tested(&[0, 6, 0, 0]);
        input["after"]["revolutions"] = json!(1000);
        let out = run("swap", input.clone());
        assert_eq!((&out["verdict"], &out["decided"]), (&json!("undecided"), &json!(false)));
        let more = out["more_revolutions"].as_f64().unwrap();
        assert!((600.0..=700.0).contains(&more), "six in 1000 need 4 more: about 667, said {more}");
        // And after that much more at the same rate it is decided.
        let times = (1000.0 + more) / 1000.0;
        input["after"]["revolutions"] = json!(1000.0 * times);
        input["after"]["misfires"]["2"] = json!((6.0 * times).ceil());
        assert_eq!(run("swap", input)["verdict"], "moved");
    }

    #[test]
    fn a_short_silent_drive_is_not_gone_yet() {
        let mut input = tested(&[0, 0, 0, 0]);
        input["after"]["revolutions"] = json!(800);
        let out = run("swap", input);
        assert_eq!(out["verdict"], "undecided");
        let more = out["more_revolutions"].as_f64().unwrap();
        assert!(more >= 500.0, "10 expected at 1.5 % need 1334 revolutions in all, said {more} more");
    }

    #[test]
    fn two_parts_on_one_receiver_cannot_be_told_apart() {
        let mut input = tested(&[250, 0, 0, 0]);
        input["moves"] = json!(exchanges(("coil", 1), ("plug", 1)));
        let out = run("swap", input);
        assert_eq!(
            (&out["verdict"], &out["part"], &out["decided"]),
            (&json!("undecided"), &Value::Null, &json!(false))
        );
        assert_eq!(out["cylinder_now"], 1);
        assert!(out["next"].as_str().unwrap().contains("more than one part"));
    }

    #[test]
    fn codes_serve_where_counts_are_missing() {
        let mut input = tested(&[0, 0, 0, 0]);
        input["before"] = json!({"codes": ["P0303", "P0300"]});
        input["after"] = json!({"codes": ["P0302"]});
        let out = run("swap", input.clone());
        assert_eq!((&out["verdict"], &out["part"]), (&json!("moved"), &json!("plug")));
        input["after"] = json!({"codes": ["P0303"]});
        assert_eq!(run("swap", input)["verdict"], "stayed");
    }

    #[test]
    fn a_tie_before_leaves_no_suspect() {
        let mut input = tested(&[0, 200, 0, 0]);
        input["before"]["misfires"] = counts(&[90, 90, 90, 0]);
        let out = run("swap", input);
        assert_eq!((&out["verdict"], &out["suspect"]), (&json!("undecided"), &Value::Null));
    }

    #[test]
    fn a_worse_cylinder_that_was_left_alone_is_pointed_out() {
        let mut input = tested(&[0, 0, 5, 300]);
        input["before"]["misfires"] = counts(&[0, 0, 5, 300]);
        let out = run("swap", input);
        assert!(out["warnings"][0].as_str().unwrap().starts_with("cylinder 4 had the most before"));
    }

    #[test]
    fn a_coil_that_feeds_two_takes_both_along() {
        let out = run(
            "swap",
            json!({
                "engine": paired_four(),
                "before": {"revolutions": 36_000, "misfires": counts(&[250, 0, 1, 240])},
                "after": {"revolutions": 36_000, "misfires": counts(&[0, 230, 260, 1])},
                "moves": exchange("coil", 1, 2), "cleared_between": true,
            }),
        );
        assert_eq!((&out["verdict"], &out["part"]), (&json!("moved"), &json!("coil")), "{out:#}");
    }

    #[test]
    fn named_places_are_judged_by_occurrences() {
        let places = json!(["bank 1 intake late", "bank 2 intake late"]);
        let side = |km: f64, one: u8, two: u8| json!({"km": km, "occurrences": {"bank 1 intake late": one, "bank 2 intake late": two}});
        let mut input = json!({
            "places": places, "cleared_between": true,
            "before": side(800.0, 0, 8), "after": side(600.0, 6, 0),
            "moves": [
                {"part": "solenoid", "from": "bank 2 intake late", "to": "bank 1 intake late"},
                {"part": "solenoid", "from": "bank 1 intake late", "to": "bank 2 intake late"},
            ],
        });
        let out = run("swap", input.clone());
        assert_eq!((&out["verdict"], &out["place_now"]), (&json!("moved"), &json!("bank 1 intake late")), "{out:#}");
        // A rare fault: 50 quiet km mean nothing, and the answer is how far to drive.
        input["after"] = side(50.0, 0, 0);
        let out = run("swap", input.clone());
        assert_eq!(out["verdict"], "undecided");
        let more = out["more_km"].as_f64().unwrap();
        assert!((500.0..5000.0).contains(&more), "{more}");
        input["places"] = json!(["bank 2 intake late", "bank 1 intake late"]);
        assert_eq!(run("swap", input), out, "the order of the places does not matter");
    }

    #[rstest]
    #[case::same_coil(json!({"engine": paired_four(), "moves": exchange("plug", 1, 4)}), "moves[0].to: cylinders 1 and 4 share a coil")]
    #[case::variants(json!({"moves": [{"part": "coil", "from": 3, "to": 1, "variant": "upper", "to_variant": "lower"}, {"part": "coil", "from": 1, "to": 3}]}), "moves[0].to_variant: the upper coil")]
    #[case::half_a_swap(json!({"moves": [{"part": "coil", "from": 3, "to": 1}]}), "moves: no coil comes to cylinder 3")]
    #[case::nowhere(json!({"moves": [{"part": "coil", "from": 3, "to": 9}, {"part": "coil", "from": 9, "to": 3}]}), "moves[0].to: cylinder 9 does not exist")]
    #[case::stays(json!({"moves": [{"part": "coil", "from": 3, "to": 3}]}), "moves[0].to")]
    #[case::none(json!({"moves": []}), "moves: is empty")]
    #[case::nothing_counted(json!({"after": {}}), "after.misfires: is missing")]
    #[case::mixed_measure(json!({"after": {"km": 3}}), "after.km: belongs to named places")]
    #[case::not_a_code(json!({"after": {"codes": ["P03"]}}), "after.codes[0]: P03 is no trouble code")]
    #[case::missing_flag(json!({"cleared_between": null}), "cleared_between")]
    fn is_refused_by_field_even_if_codes_were_not_cleared(#[case] change: Value, #[case] expected: &str) {
        let mut input = tested(&[0, 1, 0, 2]);
        input["cleared_between"] = json!(false);
        input.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
        let message = refused("swap", input);
        assert!(message.starts_with(expected), "{message}");
    }

    proptest! {
        #[test]
        fn not_cleared_is_always_void(after in proptest::collection::vec(0u64..500, 4)) {
            let mut input = tested(&after);
            input["cleared_between"] = json!(false);
            let out = run("swap", input);
            prop_assert_eq!(&out["verdict"], "void");
            prop_assert_eq!(&out["decided"], false);
        }

        #[test]
        fn the_order_of_the_moves_does_not_matter(after in proptest::collection::vec(0u64..400, 4), turn in 0usize..4) {
            let mut input = tested(&after);
            let first = run("swap", input.clone());
            input["moves"].as_array_mut().unwrap().rotate_left(turn);
            prop_assert_eq!(run("swap", input), first);
        }
    }
}

mod swap_plan_door {
    use super::*;

    fn plan(change: Value) -> Value {
        let mut input = json!({"engine": engine(6), "suspect": 3, "parts": ["coil", "plug"]});
        input.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
        run("swap-plan", input)
    }

    fn receivers(plan: &Value) -> Vec<(String, u64)> {
        plan["moves"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|m| m["from"] == 3)
            .map(|m| (m["part"].as_str().unwrap().to_owned(), m["to"].as_u64().unwrap()))
            .collect()
    }

    #[test]
    fn each_part_goes_to_a_cylinder_of_its_own_by_the_fewest_minutes_in_all() {
        // Greedy would take 5 (3 minutes) behind the cover; 1 and 6 together are cheaper than any pair with it.
        let out = plan(json!({
            "access_minutes": {"1": 6, "2": 20, "3": 4, "4": 20, "5": 3, "6": 7},
            "covers": [{"name": "intake", "minutes": 25, "cylinders": [4, 5]}],
        }));
        assert_eq!(receivers(&out), [("coil".to_owned(), 1), ("plug".to_owned(), 6)]);
        assert_eq!(out["minutes"], 17.0);
        assert_eq!(out["covers_off"], json!([]));
        assert_eq!(out["moves"].as_array().unwrap().len(), 4);
    }

    #[test]
    fn a_cover_that_is_off_anyway_makes_its_cylinders_cheap() {
        let out = plan(json!({
            "access_minutes": {"1": 12, "2": 12, "3": 2, "4": 2, "5": 2, "6": 12},
            "covers": [{"name": "intake", "minutes": 15, "cylinders": [3, 4, 5]}],
        }));
        assert_eq!(receivers(&out).iter().map(|r| r.1).collect::<Vec<_>>(), [4, 5]);
        assert_eq!(out["minutes"], 21.0);
        assert_eq!(out["covers_off"], json!(["intake"]));
    }

    #[test]
    fn an_injectors_clamp_neighbours_count_into_the_minutes_and_the_suspects_own_is_ruled_out() {
        let mut with_clamps = engine(6);
        with_clamps["shared_clamps"] = json!([[3, 4], [1, 2]]);
        let minutes = json!({"1": 1, "2": 10, "3": 5, "4": 5, "5": 9, "6": 12});
        let out = plan(json!({"engine": with_clamps, "parts": ["injector"], "access_minutes": minutes}));
        // To 1 costs 1 + 10 for its neighbour 2; to 5 costs 9. Neighbour 4 comes out either way.
        assert_eq!(receivers(&out), [("injector".to_owned(), 5)]);
        assert_eq!(out["minutes"], 19.0);
        assert_eq!(out["opened"], json!([3, 4, 5]));
    }

    #[test]
    fn coil_mates_and_unhealthy_cylinders_are_ruled_out_with_the_reason() {
        let out =
            run("swap-plan", json!({"engine": paired_four(), "suspect": 1, "parts": ["plug"], "healthy": [3, 4]}));
        assert_eq!(out["moves"][0]["to"], 3);
        let why: Vec<String> = out["ruled_out"]
            .as_array()
            .unwrap()
            .iter()
            .map(|r| format!("{}: {}", r["cylinder"], r["why"].as_str().unwrap()))
            .collect();
        assert_eq!(
            why,
            ["2: not known to be healthy: a misfire there would say nothing", "4: shares a coil with cylinder 1"]
        );
    }

    #[test]
    fn a_twin_plug_engine_moves_upper_and_lower_apart() {
        let mut twin = engine(6);
        twin["coils_per_cylinder"] = json!(2);
        let out = plan(json!({"engine": twin, "parts": ["coil"]}));
        let variants: Vec<&Value> =
            out["moves"].as_array().unwrap().iter().filter(|m| m["from"] == 3).map(|m| &m["variant"]).collect();
        assert_eq!(variants, ["lower", "upper"]);
    }

    #[test]
    fn one_at_a_time_takes_the_most_suspected_part_and_leaves_the_rest_for_later() {
        let out = plan(json!({"parts_at_once": "one", "parts": ["plug", "injector", "coil"]}));
        assert_eq!(receivers(&out).len(), 1);
        assert_eq!(receivers(&out)[0].0, "coil");
        assert_eq!(out["later"], json!(["plug", "injector"]));
    }

    #[test]
    fn parts_that_the_engine_does_not_have_are_ruled_out() {
        let old = json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "ignition": "distributor", "injection": "carburettor"});
        let out = plan(json!({"engine": old, "parts": ["coil", "plug", "injector"]}));
        assert_eq!(receivers(&out).iter().map(|r| r.0.as_str()).collect::<Vec<_>>(), ["plug"]);
        assert_eq!(out["ruled_out"].as_array().unwrap().len(), 2);
    }

    #[test]
    fn every_outcome_has_its_meaning_beforehand() {
        let reads = plan(json!({}))["reads"].as_array().unwrap().clone();
        let outcomes: Vec<&str> = reads.iter().map(|r| r["outcome"].as_str().unwrap()).collect();
        assert_eq!(outcomes, ["moved", "moved", "stayed", "gone", "elsewhere"]);
    }

    #[rstest]
    #[case::suspect(json!({"suspect": 7}), "suspect: the engine has no cylinder 7")]
    #[case::no_part(json!({"parts": []}), "parts: name at least one")]
    #[case::twice(json!({"parts": ["coil", "Coil"]}), "parts: coil stands in it twice")]
    #[case::left_out(json!({"access_minutes": {"1": 3}}), "access_minutes.2: this cylinder is left out")]
    #[case::negative(json!({"access_minutes": {"1": -3}}), "access_minutes.1: minutes are zero or more")]
    #[case::sick_suspect(json!({"healthy": [1, 3]}), "healthy: cylinder 3 is the suspect")]
    #[case::cover(json!({"covers": [{"name": "x", "minutes": 3, "cylinders": [9]}]}), "covers[0].cylinders")]
    fn is_refused(#[case] change: Value, #[case] expected: &str) {
        let mut input = json!({"engine": engine(6), "suspect": 3, "parts": ["coil", "plug"]});
        input.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
        let message = refused("swap-plan", input);
        assert!(message.starts_with(expected), "{message}");
    }

    proptest! {
        #[test]
        fn no_assignment_is_cheaper_than_the_plan(minutes in proptest::collection::vec(0u32..40, 6), cover in 0u32..30) {
            let access: Map<String, Value> = minutes.iter().enumerate().map(|(i, m)| ((i + 1).to_string(), json!(m))).collect();
            let out = plan(json!({"access_minutes": access, "covers": [{"name": "c", "minutes": cover, "cylinders": [4, 5, 6]}]}));
            let cost = |a: usize, b: usize| {
                let cover = if a.max(b) >= 3 { cover } else { 0 };
                minutes[2] + minutes[a] + minutes[b] + cover
            };
            let best = (0..6).filter(|&a| a != 2).flat_map(|a| (0..6).filter(move |&b| b != 2 && b != a).map(move |b| (a, b)))
                .map(|(a, b)| cost(a, b)).min().unwrap();
            prop_assert_eq!(out["minutes"].as_f64().unwrap(), f64::from(best));
        }
    }
}

mod proof_door {
    use super::*;

    fn worsening() -> Value {
        json!({"observed_from_km": 48_000, "occurrences_km": [48_900, 49_510, 49_790, 49_930, 50_010],
            "repaired_km": 50_060, "clean_until_km": 50_900, "prior_fixed": 0.7})
    }

    #[test]
    fn the_worked_example_of_a_worsening_fault() {
        let out = run("proof", worsening());
        assert_eq!(out["trend"], "worsening");
        near(&out["shape"], 2.9220, 5e-5);
        near(&out["silence_by_chance"], 0.039075, 5e-7);
        near(&out["confidence"], 0.98353, 5e-6);
        near(&out["reached_95_after_km"], 427.8, 0.05);
        near(&out["reached_99_after_km"], 1090.8, 0.05);
        near(&out["further_for_95_km"], 0.0, 0.0);
        near(&out["further_for_99_km"], 250.8, 0.05);
    }

    #[test]
    fn the_worked_example_of_a_steady_fault() {
        let out = run(
            "proof",
            json!({"observed_from_km": 10_000, "occurrences_km": [10_300, 10_650, 10_900],
            "repaired_km": 11_000, "clean_until_km": 11_600, "prior_fixed": 0.5}),
        );
        assert_eq!((&out["trend"], &out["shape"]), (&json!("steady"), &json!(1.0)));
        near(&out["silence_by_chance"], 0.24414, 5e-6);
        near(&out["confidence"], 0.80377, 5e-6);
        near(&out["reached_95_after_km"], 1668.4, 0.05);
        near(&out["further_for_95_km"], 1068.4, 0.05);
    }

    #[test]
    fn any_scale_gives_the_same_figures_under_its_own_names() {
        let by_hours: Map<String, Value> =
            worsening().as_object().unwrap().iter().map(|(k, v)| (k.replace("_km", "_h"), v.clone())).collect();
        let (km, h) = (run("proof", worsening()), run("proof", Value::Object(by_hours)));
        assert_eq!(km["further_for_99_km"], h["further_for_99_h"]);
    }

    #[test]
    fn occurrences_at_one_reading_are_one_and_their_order_does_not_matter() {
        let mut input = worsening();
        input["occurrences_km"] = json!([50_010, 48_900, 49_510, 49_930, 49_790, 49_930]);
        assert_eq!(run("proof", input), run("proof", worsening()));
    }

    #[test]
    fn attempts_to_provoke_it_count_too() {
        // B(3.5, 1.5 + 4) / B(3.5, 1.5) for 3 of 4 before and none of 4 after.
        let out =
            run("proof", json!({"provoked_before": 3, "attempts_before": 4, "attempts_after": 4, "prior_fixed": 0.5}));
        let expected: f64 = (0..4).map(|i| (1.5 + f64::from(i)) / (5.0 + f64::from(i))).product();
        near(&out["silence_by_chance"], expected, 1e-12);
        near(&out["confidence"], 1.0 / (1.0 + expected), 1e-12);
    }

    #[test]
    fn with_a_map_silence_counts_only_where_the_fault_lived() {
        let cell = |episodes: f64, before: f64, since: f64| json!({"episodes": episodes, "firings_before": before, "firings_since": since});
        let driven = |since_hit: f64, since_clean: f64| {
            run(
                "proof",
                json!({"cells": [cell(6.0, 4000.0, since_hit), cell(0.0, 40_000.0, since_clean)], "prior_fixed": 0.5}),
            )["silence_by_chance"]
                .as_f64()
                .unwrap()
        };
        let mean = 6.0 / 44_000.0_f64;
        let expected = (1.0 + 4000.0 / (4000.0 + 1.0 / mean)).powf(-7.0);
        assert!((driven(4000.0, 0.0) - expected).abs() < 1e-12);
        assert!(driven(4000.0, 0.0) < driven(0.0, 40_000.0), "idling proves little about a fault under load");
    }

    #[rstest]
    #[case::never_seen(json!({"occurrences_km": []}), "occurrences_km: is empty: a fault that was never seen")]
    #[case::before_watching(json!({"occurrences_km": [48_000]}), "occurrences_km: 48000 does not lie after")]
    #[case::after_repair(json!({"occurrences_km": [50_061]}), "occurrences_km: 50061 lies after the repair")]
    #[case::backwards(json!({"clean_until_km": 50_000}), "clean_until_km: lies before the repair")]
    #[case::no_span(json!({"repaired_km": 48_000}), "repaired_km: lies before the observation began")]
    #[case::certain(json!({"prior_fixed": 1}), "prior_fixed: must lie between 0 and 1")]
    #[case::mixed(json!({"repaired_h": 3}), "repaired_km: observed_from_km is on another scale")]
    #[case::text(json!({"occurrences_km": [48_900, "soon"]}), "occurrences_km[1]")]
    #[case::unknown(json!({"hope": 1}), "hope: is not known here")]
    fn is_refused(#[case] change: Value, #[case] expected: &str) {
        let mut input = worsening();
        input.as_object_mut().unwrap().extend(change.as_object().unwrap().clone());
        let message = refused("proof", input);
        let field = expected.split(':').next().unwrap();
        if field.starts_with("repaired_km") && expected.contains("scale") {
            assert!(message.contains("is on another scale"), "{message}");
        } else {
            assert!(message.starts_with(expected), "{message}");
        }
    }

    proptest! {
        #[test]
        fn more_clean_distance_never_lowers_the_confidence(clean in 0.0f64..5_000.0, more in 0.0f64..5_000.0) {
            let at = |x: f64| { let mut i = worsening(); i["clean_until_km"] = json!(50_060.0 + x); run("proof", i)["confidence"].as_f64().unwrap() };
            prop_assert!(at(clean + more) >= at(clean));
        }

        #[test]
        fn the_distance_asked_for_is_enough_and_no_more(prior in 0.05f64..0.94, last in 10_700.0f64..11_000.0) {
            let mut input = json!({"observed_from_km": 10_000, "occurrences_km": [10_300, last], "repaired_km": 11_000, "clean_until_km": 11_000, "prior_fixed": prior});
            let further = run("proof", input.clone())["further_for_95_km"].as_f64().unwrap();
            input["clean_until_km"] = json!(11_000.0 + further);
            near(&run("proof", input)["confidence"], 0.95, 1e-9);
        }
    }
}

mod codes_door {
    use super::*;

    #[rstest]
    #[case("P0306", "misfire", json!({"cylinder": 6, "direction": "detected", "bytes": "0306", "origin": "generic"}))]
    #[case("p0312", "misfire", json!({"cylinder": 12, "text": "Misfire on cylinder 12"}))]
    #[case("P0300", "misfire", json!({"cylinder": null}))]
    #[case("P0353", "coil-circuit", json!({"coil": "C", "cylinder": null}))]
    #[case("P0210", "injector-circuit", json!({"cylinder": 10}))]
    #[case("P0264", "injector-circuit", json!({"cylinder": 2, "direction": "low"}))]
    #[case("P0296", "cylinder-balance", json!({"cylinder": 12, "direction": "balance"}))]
    #[case("P0171", "fuel-trim", json!({"bank": 1, "direction": "lean"}))]
    #[case("P0175", "fuel-trim", json!({"bank": 2, "direction": "rich"}))]
    #[case("P0102", "air-meter", json!({"direction": "low"}))]
    #[case("P0108", "manifold-pressure", json!({"direction": "high"}))]
    #[case("P0117", "temperature", json!({"direction": "low"}))]
    #[case("P0121", "throttle", json!({"direction": "range"}))]
    #[case("P0137", "oxygen-sensor", json!({"bank": 1, "sensor": 2, "direction": "low"}))]
    #[case("P0335", "crank-cam", json!({"direction": "circuit"}))]
    #[case("P0016", "crank-cam", json!({"direction": "correlation"}))]
    #[case("P0021", "variable-timing", json!({"bank": 2}))]
    #[case("P0299", "boost", json!({"direction": "under"}))]
    #[case("P0675", "glow-plug", json!({"cylinder": 5}))]
    #[case("P0087", "fuel-pressure", json!({"direction": "low"}))]
    #[case("P0606", "module", json!({}))]
    #[case("P0562", "supply", json!({"direction": "low"}))]
    #[case("P0741", "transmission", json!({"text": "A generic code of: transmission", "system": "powertrain"}))]
    #[case("P1234", "other", json!({"origin": "makers", "text": "The maker's own code (powertrain)", "subsystem": null}))]
    #[case("P3456", "other", json!({"origin": "generic"}))]
    #[case("U0100", "other", json!({"system": "network", "bytes": "C100"}))]
    #[case("B1000", "other", json!({"system": "body", "origin": "makers"}))]
    #[case("C0035", "other", json!({"system": "chassis", "bytes": "4035"}))]
    fn says(#[case] code: &str, #[case] family: &str, #[case] fields: Value) {
        let out = run("codes", json!({"code": code}));
        assert_eq!(out["family"], family, "{out:#}");
        for (name, value) in fields.as_object().unwrap() {
            assert_eq!(&out[name], value, "{name} of {code}");
        }
        assert!(!out["cannot_tell"].as_str().unwrap().is_empty());
    }

    #[test]
    fn every_p0_code_has_a_system_a_family_and_what_it_cannot_tell() {
        for number in 0..0x1000u16 {
            let out = run("codes", json!({"bytes": number.to_be_bytes()}));
            assert_eq!(out["code"], format!("P0{number:03X}"));
            for field in ["system", "subsystem", "family_title", "text", "cannot_tell"] {
                assert!(out[field].as_str().is_some_and(|text| !text.is_empty()), "{field} of {}", out["code"]);
            }
        }
    }

    #[test]
    fn codes_are_read_as_people_write_them() {
        let text = "p0302 stored; P0300 pending\nPO171, U0100/confirmed \u{2014} and P03X2\npending: P0455 P0456\nBank 2 pump ok";
        let out = run("codes", json!({"text": text}));
        let read: Vec<(String, Value)> = out["codes"]
            .as_array()
            .unwrap()
            .iter()
            .map(|c| (c["code"].as_str().unwrap().to_owned(), c["status"].clone()))
            .collect();
        let expected = [
            ("P0302", json!("stored")),
            ("P0300", json!("pending")),
            ("P0171", Value::Null),
            ("U0100", json!("stored")),
            ("P0455", json!("pending")),
            ("P0456", json!("pending")),
        ];
        assert_eq!(read, expected.map(|(c, s)| (c.to_owned(), s)));
        assert_eq!(out["not_understood"].as_array().unwrap().len(), 1);
        assert_eq!(out["notes"], json!(["PO171 read as P0171"]));
    }

    #[rstest]
    #[case::letter(json!({"code": "X0300"}), "code: X0300 is no trouble code")]
    #[case::digit(json!({"code": "P4300"}), "code: P4300 is no trouble code: its first digit")]
    #[case::short(json!({"codes": ["P0300", "P03"]}), "codes[1]: P03 is no trouble code")]
    #[case::bytes(json!({"bytes": [3]}), "bytes: must be two bytes")]
    #[case::too_large(json!({"bytes": [3, 256]}), "bytes: must be two bytes")]
    #[case::nothing(json!({}), "code: give exactly one")]
    #[case::two(json!({"code": "P0300", "text": "x"}), "code: give exactly one")]
    fn is_refused(#[case] input: Value, #[case] expected: &str) {
        let message = refused("codes", input);
        assert!(message.starts_with(expected), "{message}");
    }

    proptest! {
        #[test]
        fn any_two_bytes_become_a_code_and_back(high in 0u8..=255, low in 0u8..=255) {
            let code = run("codes", json!({"bytes": [high, low]}));
            let again = run("codes", json!({"code": code["code"]}));
            prop_assert_eq!(again["bytes"].as_str().unwrap(), format!("{high:02X}{low:02X}"));
        }
    }
}

#[test]
fn an_unknown_computation_is_named_with_those_that_exist() {
    let message = refused("horoscope", json!({}));
    assert!(NAMES.iter().all(|name| message.contains(name)) && message.starts_with("name:"), "{message}");
}
