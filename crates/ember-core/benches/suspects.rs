//! Suspects and the next move at their largest: a V12 with every fault it can have, all pairs, forty findings.

use divan::Bencher;
use ember_core::knowledge::Knowledge;
use ember_core::suspects::{Depth, SuspectsInput, suspects_to};

fn main() {
    Knowledge::built_in();
    divan::main();
}

/// Forty findings as a long search makes them: codes, counters, swaps, resistances, pressures.
fn v12() -> SuspectsInput {
    let mut findings = Vec::new();
    for cylinder in 1..=12 {
        let misses = if cylinder == 9 { "misses" } else { "clean" };
        findings.push(serde_json::json!({"test": "misfire-count", "target": cylinder, "outcome": misses}));
        let code = if cylinder == 9 { "yes" } else { "no" };
        findings.push(serde_json::json!({"test": "code-misfire", "target": cylinder, "outcome": code}));
    }
    for (test, target, outcome) in [
        ("spark-test", "cylinder 9", "weak"),
        ("coil-swap", "cylinder 9", "gone"),
        ("plug-reading", "cylinder 9", "sooty"),
        ("compression-test", "cylinder 9", "alike"),
        ("compression-test", "cylinder 3", "alike"),
        ("injector-resistance", "cylinder 9", "like-its-sisters"),
        ("coil-resistance", "cylinder 9", "like-its-sisters"),
        ("plug-well-look", "cylinder 9", "dry"),
        ("trims-read", "bank 1", "ordinary"),
        ("trims-read", "bank 2", "lean-everywhere"),
        ("fuel-pressure-test", "engine", "right"),
        ("battery-test", "engine", "strong"),
        ("code-random", "engine", "yes"),
        ("code-crank", "engine", "no"),
        ("unit-answers-test", "engine", "answers"),
        ("reference-test", "engine", "right"),
    ] {
        findings.push(serde_json::json!({"test": test, "target": target, "outcome": outcome}));
    }
    assert_eq!(findings.len(), 40);
    serde_json::from_value(serde_json::json!({
        "vehicle": {"engine": {
            "cylinders": 12, "firing_order": [1, 12, 5, 8, 3, 10, 6, 7, 2, 11, 4, 9],
            "banks": [[1, 2, 3, 4, 5, 6], [7, 8, 9, 10, 11, 12]],
            "ignition": "coil-per-cylinder", "injection": "port", "air_metering": "air-flow",
        }},
        "complaint": {"symptoms": ["misfire", "engine-light"], "circumstances": ["under-load"]},
        "findings": findings,
    }))
    .unwrap()
}

#[divan::bench]
fn posterior_of_a_v12(bencher: Bencher) {
    let input = v12();
    bencher.bench(|| suspects_to(&input, Knowledge::built_in(), Depth::Suspects).unwrap());
}

#[divan::bench]
fn posterior_and_next_moves_of_a_v12(bencher: Bencher) {
    let input = v12();
    bencher.bench(|| suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap());
}

#[divan::bench]
fn with_what_each_school_would_need(bencher: Bencher) {
    let input = v12();
    bencher.bench(|| suspects_to(&input, Knowledge::built_in(), Depth::Schools).unwrap());
}

#[divan::bench]
fn next_moves_of_a_v12_with_nothing_found_yet(bencher: Bencher) {
    let mut input = v12();
    input.findings.clear();
    bencher.bench(|| suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap());
}

#[divan::bench]
fn instances_of_a_v12(bencher: Bencher) {
    let input = v12();
    let result = suspects_to(&input, Knowledge::built_in(), Depth::Suspects).unwrap();
    println!("{} suspects", result.suspects.len());
    bencher.bench(|| result.suspects.len());
}
