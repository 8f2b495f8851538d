//! Entries in words: every kind has a name, and says what it holds.

use std::collections::BTreeSet;

use ember_core::knowledge::Knowledge;
use ember_core::trail::{Entry, Finding};
use ember_core::trail_words::{describe, kind, trail_words};
use rstest::rstest;
use serde_json::{Value, json};

fn finding(value: Value) -> Finding {
    serde_json::from_value(value).unwrap()
}

#[rstest]
#[case::complaint(
    json!({"kind": "complaint", "symptoms": ["stalls"], "circumstances": ["when hot"], "occurrences_km": [83100, 83640], "text": "Dies."}),
    "stalls, when hot. Dies. Noticed at 83\u{202f}100, 83\u{202f}640 km")]
#[case::scan(
    json!({"kind": "scan", "tool": "bay 2 reader", "units_read": ["engine"], "units_unread": ["body"], "codes": [{"code": "P0303", "status": "stored"}]}),
    "P0303 stored (bay 2 reader; read: engine; not reached: body)")]
#[case::empty_scan(json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": []}), "no codes (reader; read: engine)")]
#[case::counts(
    json!({"kind": "counts", "revolutions": 20732, "misfires": {"1": 0, "3": 154}, "conditions": "under load", "source": "a.csv"}),
    "1: 0  3: 154 over 20\u{202f}732 revolutions, under load (a.csv)")]
#[case::exchange(
    json!({"kind": "moved", "moves": [{"part": "coil", "from": 3, "to": 1}, {"part": "coil", "from": 1, "to": 3}], "text": "By hand."}),
    "coil 3 ↔ 1. By hand.")]
#[case::put_back(json!({"kind": "moved", "put_back": true, "moves": [{"part": "plug", "from": 2, "to": 3}]}), "put back: plug 2 ↔ 3")]
#[case::fitted(
    json!({"kind": "fitted", "part": "plug", "cylinder": 2, "variant": "upper", "part_number": "CD-4417", "supplier": "Tarn Trade", "old_part": "cracked"}),
    "upper plug at cylinder 2. CD-4417. from Tarn Trade. Old part: cracked")]
#[case::old_part(
    json!({"kind": "old-part", "fitted": 9, "found": "good", "how": "measures well", "why_failed": "it did not", "before_here": true}),
    "the one replaced in entry 9: it is good: the verdict is open again. measures well. Why it failed: it did not. It has failed at this place before")]
#[case::off(
    json!({"kind": "off", "items": [{"what": "bolts", "count": 8}, {"what": "rod", "how": "loosened", "setting": "41.5 mm"}]}),
    "8 × bolts, rod loosened (measured before: 41.5 mm)")]
#[case::on(json!({"kind": "on", "items": [{"entry": 2, "index": 0, "renewed": true}, {"entry": 2, "index": 1, "reason": "none to be had"}]}),
    "2 things. 1 of them new. none to be had")]
#[case::one_thing(json!({"kind": "on", "items": [{"entry": 2, "index": 0}]}), "1 thing")]
#[case::tightened(
    json!({"kind": "tightened", "what": "flange", "torque": {"stages": [{"torque": "20 Nm"}], "fasteners": 4}, "renewed": true}),
    "flange. All in by hand, then crosswise: 20 N·m. New fasteners")]
#[case::coded(
    json!({"kind": "coded", "input": {"what": "trim code", "numbers": [{"cylinder": 1, "printed_new": "AB", "read_back": "AB"}]}}),
    "trim code. Every new number was read back as it is printed")]
#[case::relearned(json!({"kind": "relearned", "step": "idle", "seconds": 310}), "Let it learn the idle, 310 s")]
#[case::readiness(json!({"kind": "readiness", "ready": ["misfire"], "not_ready": ["catalyst"]}), "Ready: misfire. not yet: catalyst")]
#[case::started(json!({"kind": "started", "stood_h": 9, "anyway": "only turned over", "text": "no leak"}),
    "after standing 9 h. Although not everything was back: only turned over. no leak")]
#[case::watched(json!({"kind": "watched", "scale": "cold-starts", "watched": 10, "occurrences": [2, 5]}), "2 times in 10 cold starts")]
#[case::ran(json!({"kind": "ran", "scale": "weeks", "clean": 3, "told": true, "text": "by telephone"}),
    "3 weeks, as the owner tells it. by telephone")]
#[case::provoked(json!({"kind": "provoked", "how": "water mist", "hits": 3, "attempts": 4}), "water mist: it came 3 of 4 times")]
#[case::reading(json!({"kind": "same-reading", "what": "rail pressure", "unit": "bar", "wanted": 1450, "got": 900, "conditions": "the climb"}),
    "rail pressure: 900 of 1\u{202f}450 bar. the climb")]
#[case::odometer(json!({"kind": "odometer-replaced", "reads_km": 12}), "the new one reads 12 km")]
#[case::tested(json!({"kind": "tested", "test": "relay-tap", "target": "engine", "outcome": "steady", "text": "twice"}),
    "Tap the relays while it runs: steady. twice")]
#[case::limits(json!({"kind": "limits", "alone": true, "cannot": ["scope"], "minutes_left": 45}), "alone. 45 minutes left. not here: scope")]
#[case::no_limits(json!({"kind": "limits"}), "none")]
#[case::need(json!({"kind": "need", "need": "spark", "state": "proven", "how": "tester, blue"}), "spark: proven (tester, blue)")]
#[case::drive(json!({"kind": "drive"}), "no misfire felt")]
#[case::closed(json!({"kind": "closed", "cause": "cracked plug", "left_alone": "a worn tyre"}), "cracked plug. Seen and left alone: a worn tyre")]
#[case::righted(json!({"kind": "righted", "what": "sealed the wire"}), "sealed the wire")]
fn an_entry_says(#[case] value: Value, #[case] words: &str) {
    assert_eq!(describe(&finding(value), Knowledge::built_in()), words);
}

#[test]
fn every_kind_has_a_name_of_its_own() {
    let kinds = [
        json!({"kind": "cleared"}),
        json!({"kind": "drive"}),
        json!({"kind": "occurred"}),
        json!({"kind": "note", "text": "x"}),
        json!({"kind": "reopened", "why": "x"}),
        json!({"kind": "withdrawn", "why": "x"}),
        json!({"kind": "parked"}),
        json!({"kind": "closed"}),
        json!({"kind": "started"}),
        json!({"kind": "righted", "what": "x"}),
        json!({"kind": "off", "items": []}),
        json!({"kind": "on", "items": []}),
        json!({"kind": "limits"}),
    ];
    let names: BTreeSet<&str> = kinds.iter().map(|value| kind(&finding(value.clone()))).collect();
    assert_eq!(names.len(), kinds.len());
    assert!(names.iter().all(|name| name.chars().next().is_some_and(char::is_uppercase)));
}

#[test]
fn a_trail_is_told_by_the_numbers_of_its_entries() {
    let entry = |number: u32, value: Value| Entry {
        number,
        at: "2026-11-02T06:00:00Z".into(),
        odometer_km: 1.0,
        author: "Ada".into(),
        replaces: None,
        finding: finding(value),
    };
    let words = trail_words(
        &[entry(1, json!({"kind": "note", "text": "begins"})), entry(2, json!({"kind": "drive"}))],
        Knowledge::built_in(),
    );
    assert_eq!((words[&1].kind.as_str(), words[&1].text.as_str()), ("Note", "begins"));
    assert_eq!(words[&2].kind, "Driven clean");
}

/// A book that no longer knows a test must not make a trail unreadable.
#[test]
fn a_test_that_the_book_does_not_know_is_told_by_its_id() {
    let one = finding(json!({"kind": "tested", "test": "gone-test", "target": "cylinder 2", "outcome": "not-so-good"}));
    assert_eq!(describe(&one, Knowledge::built_in()), "gone test, cylinder 2: not so good");
}
