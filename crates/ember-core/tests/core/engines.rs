//! Engines from one to twelve cylinders, in every arrangement and with every ignition: what must hold for all of them.

use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use rstest::rstest;
use rstest_reuse::{apply, template};
use serde_json::{Map, Value, json};

fn described(arrangement: &str, order: &[u8], banks: &[&[u8]], ignition: &str) -> Value {
    json!({"arrangement": arrangement, "cylinders": order.len(), "firing_order": order, "banks": banks, "ignition": ignition})
}

fn checked(description: &Value) -> Engine {
    let description: EngineDescription = serde_json::from_value(description.clone()).unwrap();
    Engine::new(&description).unwrap()
}

#[template]
#[rstest]
#[case::single(described("inline", &[1], &[&[1]], "coil-per-cylinder"))]
#[case::parallel_twin(described("inline", &[1, 2], &[&[1, 2]], "paired-coils"))]
#[case::flat_twin(described("flat", &[1, 2], &[&[1], &[2]], "paired-coils"))]
#[case::vee_twin(described("vee", &[1, 2], &[&[1], &[2]], "coil-per-cylinder"))]
#[case::three(described("inline", &[1, 3, 2], &[&[1, 2, 3]], "coil-per-cylinder"))]
#[case::four(described("inline", &[1, 3, 4, 2], &[&[1, 2, 3, 4]], "coil-per-cylinder"))]
#[case::four_with_paired_coils(described("inline", &[1, 3, 4, 2], &[&[1, 2, 3, 4]], "paired-coils"))]
#[case::four_with_a_distributor(described("inline", &[1, 2, 4, 3], &[&[1, 2, 3, 4]], "distributor"))]
#[case::flat_four(described("flat", &[1, 3, 2, 4], &[&[1, 3], &[2, 4]], "paired-coils"))]
#[case::five(described("inline", &[1, 2, 4, 5, 3], &[&[1, 2, 3, 4, 5]], "coil-per-cylinder"))]
#[case::six(described("inline", &[1, 5, 3, 6, 2, 4], &[&[1, 2, 3, 4, 5, 6]], "coil-per-cylinder"))]
#[case::six_in_two_banks_of_sensors(described("inline", &[1, 5, 3, 6, 2, 4], &[&[1, 2, 3], &[4, 5, 6]], "coil-per-cylinder"))]
#[case::narrow_six(described("vr", &[1, 5, 3, 6, 2, 4], &[&[1, 3, 5], &[2, 4, 6]], "coil-per-cylinder"))]
#[case::vee_six(described("vee", &[1, 4, 3, 6, 2, 5], &[&[1, 3, 5], &[2, 4, 6]], "paired-coils"))]
#[case::flat_six(described("flat", &[1, 6, 2, 4, 3, 5], &[&[1, 2, 3], &[4, 5, 6]], "coil-per-cylinder"))]
#[case::seven(described("inline", &[1, 3, 5, 7, 2, 4, 6], &[&[1, 2, 3, 4, 5, 6, 7]], "coil-per-cylinder"))]
#[case::vee_eight(described("vee", &[1, 5, 4, 8, 6, 3, 7, 2], &[&[1, 2, 3, 4], &[5, 6, 7, 8]], "coil-per-cylinder"))]
#[case::nine(described("inline", &[1, 2, 4, 6, 8, 9, 7, 5, 3], &[&[1, 2, 3, 4, 5, 6, 7, 8, 9]], "none"))]
#[case::vee_ten(described("vee", &[1, 6, 5, 10, 2, 7, 3, 8, 4, 9], &[&[1, 2, 3, 4, 5], &[6, 7, 8, 9, 10]], "coil-per-cylinder"))]
#[case::eleven(described("inline", &[1, 3, 5, 7, 9, 11, 2, 4, 6, 8, 10], &[&[1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]], "none"))]
#[case::vee_twelve(described("vee", &[1, 7, 5, 11, 3, 9, 6, 12, 2, 8, 4, 10], &[&[1, 2, 3, 4, 5, 6], &[7, 8, 9, 10, 11, 12]], "coil-per-cylinder"))]
#[case::flat_twelve(described("flat", &[1, 7, 5, 11, 3, 9, 6, 12, 2, 8, 4, 10], &[&[1, 2, 3, 4, 5, 6], &[7, 8, 9, 10, 11, 12]], "paired-coils"))]
fn every_engine(#[case] description: Value) {}

fn counts(engine: &Engine, bad: u8, misses: u64) -> Value {
    Value::Object(
        engine
            .numbers()
            .map(|c| (c.to_string(), json!(if c == bad { misses } else { u64::from(c % 3) })))
            .collect::<Map<_, _>>(),
    )
}

fn run(name: &str, input: &Value) -> Value {
    reckon(name, input, Knowledge::built_in()).unwrap_or_else(|error| panic!("{name}: {error}"))
}

#[apply(every_engine)]
fn relations_are_mutual(#[case] description: Value) {
    let engine = checked(&description);
    for place in &engine.places {
        let c = place.cylinder;
        for (list, back) in [(&place.neighbours, "neighbour"), (&place.shares_coil_with, "coil companion")] {
            for &other in list {
                let there = engine.cylinder(other);
                let mutual = if back == "neighbour" { &there.neighbours } else { &there.shares_coil_with };
                assert!(other != c && mutual.contains(&c), "{other} is a {back} of {c}, but not the other way round");
            }
        }
        if let Some(mate) = place.running_mate {
            assert_eq!(engine.cylinder(mate).running_mate, Some(c));
            assert!(((place.fires_at_deg - engine.cylinder(mate).fires_at_deg).abs() - 360.0).abs() < 1e-9);
        }
        assert_eq!(place.running_mate.is_some(), engine.cylinders.is_multiple_of(2));
    }
    let mut firing: Vec<f64> = engine.places.iter().map(|place| place.fires_at_deg).collect();
    firing.sort_by(f64::total_cmp);
    assert!(firing.windows(2).all(|pair| (pair[1] - pair[0] - engine.firing_interval_deg).abs() < 1e-9));
}

#[apply(every_engine)]
fn following_the_successors_goes_once_round_the_firing_order(#[case] description: Value) {
    let engine = checked(&description);
    let mut at = engine.firing_order[0];
    for &expected in engine.firing_order.iter().cycle().skip(1).take(engine.firing_order.len() - 1) {
        at = engine.cylinder(at).successor.unwrap();
        assert_eq!(at, expected);
    }
}

#[apply(every_engine)]
fn a_bad_cylinder_is_found_wherever_it_stands(#[case] description: Value) {
    let engine = checked(&description);
    for bad in engine.numbers() {
        let out = run(
            "misfire",
            &json!({"engine": description, "revolutions": 36_000, "misfires": counts(&engine, bad, 270)}),
        );
        assert_eq!(
            (&out["group"]["cylinders"], &out["decided"]),
            (&json!([bad]), &json!(true)),
            "cylinder {bad}: {}",
            out["says"]
        );
        assert_eq!(out["patterns"][0]["kind"], "single");
    }
}

#[apply(every_engine)]
fn a_planned_swap_is_always_a_valid_one_and_its_verdict_names_the_part(#[case] description: Value) {
    let engine = checked(&description);
    for bad in engine.numbers() {
        let plan = run("swap-plan", &json!({"engine": description, "suspect": bad, "parts": ["plug", "injector"]}));
        let moves = plan["moves"].as_array().unwrap();
        let Some(first) = moves.iter().find(|m| m["from"] == json!(bad)) else {
            // Nowhere to go: a single, or a twin whose two cylinders share the coil.
            assert!(engine.cylinders < 3, "no plan for cylinder {bad}: {plan:#}");
            continue;
        };
        let receiver = first["to"].as_u64().unwrap() as u8;
        let side = |ill: u8| json!({"revolutions": 36_000, "misfires": counts(&engine, ill, 270)});
        let out = run(
            "swap",
            &json!({"engine": description, "before": side(bad), "after": side(receiver), "moves": moves, "cleared_between": true}),
        );
        assert_eq!((&out["verdict"], &out["part"]), (&json!("moved"), &first["part"]), "cylinder {bad}: {out:#}");
    }
}

#[apply(every_engine)]
fn written_and_read_again_an_engine_is_the_same(#[case] description: Value) {
    let engine = checked(&description);
    let again: EngineDescription = serde_json::from_value(json!({
        "arrangement": engine.arrangement, "cylinders": engine.cylinders, "firing_order": engine.firing_order,
        "banks": engine.banks, "fuel": engine.fuel, "ignition": engine.ignition, "injection": engine.injection,
        "coils_per_cylinder": engine.coils_per_cylinder, "coil_pairs": engine.coil_pairs,
        "air_metering": engine.air_metering, "charging": engine.charging, "shared_clamps": engine.shared_clamps,
    }))
    .unwrap();
    assert_eq!(Engine::new(&again).unwrap(), engine);
}

#[rstest]
#[case::nobody(&[], "none")]
#[case::one(&[3], "3")]
#[case::two(&[1, 4], "1 and 4")]
#[case::three(&[1, 2, 5], "1, 2 and 5")]
fn cylinders_in_words(#[case] list: &[u8], #[case] words: &str) {
    assert_eq!(Engine::in_words(list), words);
}

#[test]
fn clamps_tell_whose_injector_comes_out_too() {
    let mut six = described("inline", &[1, 5, 3, 6, 2, 4], &[&[1, 2, 3, 4, 5, 6]], "none");
    six["shared_clamps"] = json!([[6, 5], [1, 2]]);
    let engine = checked(&six);
    assert_eq!(engine.cylinder(5).shares_clamp_with, [6]);
    assert!(engine.cylinder(3).shares_clamp_with.is_empty());
}

#[rstest]
#[case::alone(json!([[3]]), "a shared clamp holds at least two")]
#[case::twice(json!([[1, 2], [2, 3]]), "cylinder 2 stands in it twice")]
#[case::stranger(json!([[1, 7]]), "cylinder 7 does not exist")]
fn a_clamp_that_cannot_be_is_refused(#[case] clamps: Value, #[case] expected: &str) {
    let mut six = described("inline", &[1, 5, 3, 6, 2, 4], &[&[1, 2, 3, 4, 5, 6]], "none");
    six["shared_clamps"] = clamps;
    let description: EngineDescription = serde_json::from_value(six).unwrap();
    let refusal = Engine::new(&description).unwrap_err();
    assert_eq!(refusal.field, "shared_clamps");
    assert!(refusal.reason.contains(expected), "{refusal}");
}
