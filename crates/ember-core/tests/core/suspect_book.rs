//! What the book says, and what happens to a broken one.

use ember_core::knowledge::{BUILT_IN, Knowledge, KnowledgeTexts};
use ember_core::suspects::book::{BookTexts, Per, SignKind};
use ember_core::suspects::words::search;
use rstest::rstest;

#[test]
fn the_book_is_as_large_as_the_trade_asks_for_and_every_figure_has_its_reason() {
    let book = &Knowledge::built_in().book;
    let tests = book.tests.iter().filter(|t| book.signs[t.sign].kind == SignKind::Found).count();
    assert!(book.faults.len() >= 110 && tests >= 90, "{} faults, {tests} tests", book.faults.len());
    for scope in [Per::Cylinder, Per::Coil, Per::Bank, Per::Neighbours, Per::Unit, Per::Engine] {
        assert!(book.faults.iter().any(|fault| fault.per == scope), "{scope:?}");
    }
    for fault in &book.faults {
        assert!(
            !fault.name.is_empty() && fault.rate_because.len() > 8 && fault.repair.because.len() > 4,
            "{}",
            fault.id
        );
        assert!(fault.shows.iter().all(|shown| !shown.because.is_empty()), "{}", fault.id);
    }
    for test in book.tests.iter().filter(|t| book.signs[t.sign].kind == SignKind::Found) {
        assert!(test.because.len() > 4 && test.table_because.len() > 4 && !test.how.is_empty(), "{}", test.id);
        assert!(test.outcomes.iter().all(|outcome| !outcome.means.is_empty()), "{}", test.id);
    }
}

#[test]
fn every_fault_is_told_from_every_other_by_some_test() {
    let book = &Knowledge::built_in().book;
    for fault in &book.faults {
        let found = fault.shows.iter().filter(|shown| book.signs[shown.sign].kind == SignKind::Found);
        let telling = found.filter(|shown| {
            let readable = book.tests.iter().any(|test| test.sign == shown.sign);
            let sound = &book.signs[shown.sign].sound;
            readable && shown.chance.iter().zip(sound).any(|(p, q)| p > &(3.0 * q))
        });
        assert!(telling.count() >= 1, "no test finds {}", fault.id);
    }
}

#[test]
fn every_sign_that_is_read_is_shown_by_a_fault() {
    let book = &Knowledge::built_in().book;
    for test in book.tests.iter().filter(|t| book.signs[t.sign].kind == SignKind::Found) {
        let shown = book.faults.iter().any(|fault| fault.shows.iter().any(|shown| shown.sign == test.sign));
        assert!(shown, "{} reads what no fault shows", test.id);
    }
}

fn broken(file: &str, from: &str, to: &str) -> ember_core::knowledge::KnowledgeFault {
    let change = |list: &'static [(&'static str, &'static str)]| -> Vec<(&'static str, String)> {
        list.iter()
            .map(|(name, text)| {
                let text = if name.ends_with(file) {
                    assert!(text.contains(from), "{file} does not hold {from}");
                    text.replacen(from, to, 1)
                } else {
                    (*text).to_owned()
                };
                (*name, text)
            })
            .collect()
    };
    let (faults, tests) = (change(BUILT_IN.book.faults), change(BUILT_IN.book.tests));
    let borrow = |list: &'static [(&'static str, String)]| -> &'static [(&'static str, &'static str)] {
        list.iter().map(|(name, text)| (*name, text.as_str())).collect::<Vec<_>>().leak()
    };
    let signs =
        if file == "signs.toml" { BUILT_IN.book.signs.replacen(from, to, 1) } else { BUILT_IN.book.signs.into() };
    let book =
        BookTexts { faults: borrow(faults.leak()), tests: borrow(tests.leak()), signs: signs.leak(), ..BUILT_IN.book };
    Knowledge::from_texts(&KnowledgeTexts { book, ..BUILT_IN }).unwrap_err()
}

#[rstest]
#[case::row_that_does_not_sum(
    "tests/ignition.toml",
    "good = [0.95, 0.04, 0.01]",
    "good = [0.95, 0.04, 0.03]",
    "sum to one"
)]
#[case::row_too_short(
    "tests/ignition.toml",
    "good = [0.95, 0.04, 0.01]",
    "good = [0.95, 0.05]",
    "2 chances for 3 outcomes"
)]
#[case::row_left_out("tests/ignition.toml", "weak = [0.22, 0.7, 0.08]\n", "", "has no row for spark.weak")]
#[case::chances_above_one("faults/ignition.toml", "[\"spark.weak\", 0.45,", "[\"spark.weak\", 0.95,", "above one")]
#[case::unknown_sign(
    "faults/ignition.toml",
    "[\"spark.weak\", 0.45,",
    "[\"sparkle\", 0.45,",
    "there is no sign sparkle"
)]
#[case::unknown_state(
    "faults/ignition.toml",
    "[\"spark.weak\", 0.45,",
    "[\"spark.blue\", 0.45,",
    "spark has the states good, weak, none"
)]
#[case::unknown_fault("faults/air.toml", "like = [\"low-boost\"]", "like = [\"gremlin\"]", "there is no fault gremlin")]
#[case::circle(
    "faults/ignition.toml",
    "[dead-cylinder]\nshows",
    "[dead-cylinder]\nlike = [\"coil-dead\"]\nshows",
    "is like itself"
)]
#[case::twice_in_two_files("faults/air.toml", "[purge-leaks]", "[coil-dead]", "already")]
#[case::twice_in_one_file("faults/ignition.toml", "[plug-fouled]", "[plug-worn]", "duplicate key")]
#[case::test_twice("tests/fuel.toml", "[fuel-level]", "[spark-test]", "")]
#[case::unknown_access(
    "tests/ignition.toml",
    "opens = [\"cylinder-top\"]",
    "opens = [\"bonnet\"]",
    "there is no access bonnet"
)]
#[case::unknown_caution(
    "tests/ignition.toml",
    "cautions = [\"ignition\", \"vapour\"]",
    "cautions = [\"dragons\"]",
    "the caution dragons"
)]
#[case::unknown_feature(
    "faults/ignition.toml",
    "ignition=coil-per-cylinder|paired-coils",
    "ignition=magic",
    "magic is none of"
)]
#[case::sound_that_does_not_sum("signs.toml", "sound = [0.985, 0.015]", "sound = [0.985, 0.15]", "do not sum to one")]
fn a_broken_book_is_refused_with_file_and_line(
    #[case] file: &str,
    #[case] from: &str,
    #[case] to: &str,
    #[case] says: &str,
) {
    let fault = broken(file, from, to);
    assert!(fault.file.contains("knowledge/"), "{fault}");
    assert!(fault.reason.contains(says), "{fault}");
    if !says.is_empty() && says != "already" {
        assert!(fault.file.ends_with(file), "{fault}");
        assert!(fault.line > 1, "{fault}");
    }
}

#[test]
fn the_line_named_is_the_one_that_is_wrong() {
    let text = BUILT_IN.book.tests.iter().find(|(name, _)| name.ends_with("ignition.toml")).unwrap().1;
    let line = text.lines().position(|line| line == "good = [0.95, 0.04, 0.01]").unwrap() + 1;
    let fault = broken("tests/ignition.toml", "good = [0.95, 0.04, 0.01]", "good = [0.95, 0.04, 0.03]");
    assert_eq!(fault.line, line, "{fault}");
}

#[rstest]
#[case("no spark", "spark-test", Some("none"), None)]
#[case("weak spark cylinder 3", "spark-test", Some("weak"), Some("cylinder 3"))]
#[case("coil swap moved 2", "coil-swap", Some("moved"), Some("cylinder 2"))]
#[case("leak off high", "return-flow-test", Some("high"), None)]
#[case("egr stays open", "recirculation-test", Some("stays-open"), None)]
#[case("wiggle loom changes", "loom-wiggle", Some("changes"), None)]
#[case("clear hose bubbles", "suction-look", Some("bubbles"), None)]
#[case("wet", "when-wet", None, None)]
#[case("new plugs", "ignition-work", None, None)]
#[case("condenser", "condenser-substitute", None, None)]
fn the_trades_words_find_the_test_and_its_outcome(
    #[case] words: &str,
    #[case] id: &str,
    #[case] outcome: Option<&str>,
    #[case] target: Option<&str>,
) {
    let hits = search(&Knowledge::built_in().book, words);
    let hit = hits.iter().take(3).find(|hit| hit.id == id).unwrap_or_else(|| panic!("{words}: {hits:#?}"));
    assert_eq!(hit.outcome.as_deref(), outcome);
    assert_eq!(hit.target.as_deref(), target);
}

#[test]
fn a_search_for_nothing_or_nonsense_finds_nothing() {
    let book = &Knowledge::built_in().book;
    assert!(search(book, "").is_empty());
    assert!(search(book, "the of and").is_empty());
    assert!(search(book, "zzzxq").is_empty());
}
