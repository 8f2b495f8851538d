//! How long the computations take that a screen waits for. Targets: `misfire` of a V12 under 1 ms, `swap` with three
//! parts moved under 2 ms.

use divan::Bencher;
use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use serde_json::{Map, Value, json};

fn main() {
    Knowledge::built_in();
    divan::main();
}

fn v12() -> Value {
    json!({"cylinders": 12, "firing_order": [1, 7, 5, 11, 3, 9, 6, 12, 2, 8, 4, 10],
        "banks": [[1, 2, 3, 4, 5, 6], [7, 8, 9, 10, 11, 12]]})
}

fn counts(of: &[u64]) -> Value {
    Value::Object(of.iter().enumerate().map(|(i, k)| ((i + 1).to_string(), json!(k))).collect::<Map<_, _>>())
}

const CLEAR: [u64; 12] = [2, 1, 0, 1, 0, 2, 1, 0, 1, 400, 0, 1];
/// Every cylinder misses a little and none alike: no pattern can be thrown away early.
const MUDDLED: [u64; 12] = [15, 12, 18, 14, 9, 16, 21, 13, 11, 17, 10, 19];
const CLEAN: [u64; 12] = [0; 12];

#[divan::bench(args = [("clear", CLEAR), ("muddled", MUDDLED), ("clean", CLEAN)])]
fn misfire_of_a_v12(bencher: Bencher, (_, of): &(&str, [u64; 12])) {
    let input = json!({"engine": v12(), "revolutions": 36_000, "misfires": counts(of)});
    bencher.bench(|| reckon("misfire", divan::black_box(&input), Knowledge::built_in()).unwrap());
}

#[divan::bench]
fn misfire_of_a_twin(bencher: Bencher) {
    let input = json!({"engine": {"cylinders": 2, "firing_order": [1, 2], "banks": [[1], [2]]},
        "revolutions": 36_000, "misfires": {"1": 3, "2": 270}});
    bencher.bench(|| reckon("misfire", divan::black_box(&input), Knowledge::built_in()).unwrap());
}

fn swap_input(after: &[u64; 12]) -> Value {
    let moves: Vec<Value> = [("coil", 1), ("plug", 2), ("injector", 5)]
        .iter()
        .flat_map(|(part, to)| {
            [json!({"part": part, "from": 10, "to": to}), json!({"part": part, "from": to, "to": 10})]
        })
        .collect();
    json!({"engine": v12(), "cleared_between": true, "moves": moves,
        "before": {"revolutions": 36_000, "misfires": counts(&CLEAR)},
        "after": {"revolutions": 1_000, "misfires": counts(after)}})
}

#[divan::bench(args = [("undecided", [0, 4, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]), ("decided", [0, 40, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0])])]
fn swap_of_three_parts(bencher: Bencher, (_, after): &(&str, [u64; 12])) {
    let input = swap_input(after);
    bencher.bench(|| reckon("swap", divan::black_box(&input), Knowledge::built_in()).unwrap());
}

#[divan::bench]
fn swap_plan_of_three_parts(bencher: Bencher) {
    let input = json!({"engine": v12(), "suspect": 10, "parts": ["coil", "plug", "injector"]});
    bencher.bench(|| reckon("swap-plan", divan::black_box(&input), Knowledge::built_in()).unwrap());
}
