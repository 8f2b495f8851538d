//! `gritty-ember knowledge`: the names of the book, for those who write findings by hand.

use ember_core::knowledge::Knowledge;
use ember_core::suspects::book::SignKind;
use ember_core::suspects::words::search;
use serde_json::{Value, json};

/// The faults, tests with their outcomes, and words of a complaint, as JSON; or what is found by the trade's words.
pub fn answer(words: Option<&str>) -> Value {
    let book = &Knowledge::built_in().book;
    if let Some(words) = words {
        return json!(search(book, words));
    }
    let of = |kind: SignKind| -> Vec<Value> {
        let list = book.tests.iter().filter(|test| book.signs[test.sign].kind == kind);
        list.map(|test| json!({"id": test.id, "name": test.name, "also": test.words})).collect()
    };
    let fits = |list: &[ember_core::suspects::book::Condition]| -> Vec<String> {
        list.iter().map(ToString::to_string).collect()
    };
    let faults: Vec<Value> = book
        .faults
        .iter()
        .map(|f| json!({"id": f.id, "name": f.name, "per": f.per, "fits": fits(&f.fits), "part": f.part}))
        .collect();
    let found = book.tests.iter().filter(|test| book.signs[test.sign].kind == SignKind::Found);
    let tests: Vec<Value> = found
        .map(|test| {
            let outcomes: Vec<&str> = test.outcomes.iter().map(|one| one.id.as_str()).collect();
            json!({"id": test.id, "name": test.name, "per": test.per, "fits": fits(&test.fits), "outcomes": outcomes,
                "minutes": test.minutes, "tools": test.tools})
        })
        .collect();
    json!({
        "symptoms": of(SignKind::Symptom), "circumstances": of(SignKind::Circumstance), "history": of(SignKind::History),
        "tests": tests, "faults": faults,
        "equipment": book.equipment.iter().map(|(id, item)| json!({"id": id, "name": item.name})).collect::<Vec<_>>(),
        "access": book.access.iter().map(|(id, item)| json!({"id": id, "name": item.name})).collect::<Vec<_>>(),
    })
}
