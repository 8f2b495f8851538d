//! How findings weigh: worked by hand where that can be done, and laws of pairs, costs and schools.

use crate::suspects::cases;
use ember_core::knowledge::Knowledge;
use ember_core::suspects::schools::School;
use ember_core::suspects::{ActKind, Depth, SuspectsInput, SuspectsResult, suspects, suspects_to};
use rstest::rstest;
use serde_json::{Value, json};

fn input(vehicle: &str, complaint: Value, findings: Value) -> SuspectsInput {
    let engine = &cases::vehicles()[vehicle];
    serde_json::from_value(json!({"vehicle": {"engine": engine}, "complaint": complaint, "findings": findings}))
        .unwrap()
}

fn next(input: &SuspectsInput) -> SuspectsResult {
    suspects_to(input, Knowledge::built_in(), Depth::Next).unwrap()
}

fn weight(result: &SuspectsResult, fault: &str) -> f64 {
    result.suspects.iter().filter(|s| s.fault == fault).map(|s| s.present).fold(0.0, f64::max)
}

/// Two faults that a finding tells apart change their odds by the ratio of the finding's chances under them, which the
/// book gives: nothing else may come in between.
#[test]
fn the_odds_of_two_faults_change_by_the_ratio_of_what_the_book_says_of_them() {
    let knowledge = Knowledge::built_in();
    let book = &knowledge.book;
    let test = book.test("spark-test").unwrap();
    let column = test.outcome("weak").unwrap();
    let chance = |fault: &str| -> f64 {
        let shown = book.fault(fault).unwrap().shows.iter().find(|shown| shown.sign == test.sign).unwrap();
        shown.chance.iter().zip(&test.table).map(|(p, row)| p * row[column]).sum()
    };
    let alone = |findings: Value| {
        let result = suspects_to(&input("i4-port", json!([]), findings), knowledge, Depth::Suspects).unwrap();
        let of = |fault: &str| {
            let suspect = result.suspects.iter().find(|s| s.fault == fault && s.target.to_string() == "cylinder 3");
            // Alone: what the pairs have is twice the share less what is there.
            suspect.map(|s| 2.0 * s.probability - s.present).unwrap()
        };
        of("coil-breaks-down") / of("lead-tracks")
    };
    let before = alone(json!([]));
    let after = alone(json!([{"test": "spark-test", "target": 3, "outcome": "weak"}]));
    let ratio = chance("coil-breaks-down") / chance("lead-tracks");
    assert!((after / before / ratio - 1.0).abs() < 1e-9, "{} and {ratio}", after / before);
}

#[rstest]
#[case::one(1, 1.0)]
#[case::two(2, 1.2)]
#[case::five(5, 1.8)]
fn a_test_made_n_times_weighs_as_the_book_says(#[case] times: usize, #[case] worth: f64) {
    let repeat = Knowledge::built_in().book.figures.repeat.value;
    assert!((1.0 + repeat * (times as f64 - 1.0) - worth).abs() < 1e-9, "the figure of the book has changed");
    let finding = json!({"test": "battery-test", "outcome": "strong"});
    let ratio = |times: usize| {
        let list: Vec<Value> = vec![finding.clone(); times];
        let result = next(&input("i4-port", json!(["no-crank"]), json!(list)));
        (weight(&result, "battery-weak") / weight(&result, "starter-fails")).ln()
    };
    let (nothing, once) = (ratio(0), ratio(1));
    let many = ratio(times);
    assert!(once < nothing, "a strong battery speaks against a weak one");
    // The states mix, so the weights hold nearly and not exactly.
    let grown = (many - nothing) / (once - nothing);
    assert!(grown >= 1.0 - 1e-9 && grown <= worth + 0.05, "{grown} for {worth}");
}

#[rstest]
#[case::alike_at_all_cylinders("i4-port", "coil-feed-lost", "coil-breaks-down")]
fn a_fault_of_the_whole_engine_gains_when_several_cylinders_show_it(
    #[case] vehicle: &str,
    #[case] whole: &str,
    #[case] single: &str,
) {
    let spark = |cylinders: &[u8]| -> Value {
        cylinders.iter().map(|c| json!({"test": "spark-test", "target": c, "outcome": "none"})).collect()
    };
    let odds = |cylinders: &[u8]| {
        let result = next(&input(vehicle, json!(["misfire"]), spark(cylinders)));
        weight(&result, whole) / weight(&result, single)
    };
    assert!(odds(&[1, 2]) > odds(&[1]) && odds(&[1, 2, 3]) > odds(&[1, 2]));
}

#[test]
fn a_fault_of_one_cylinder_is_not_moved_by_a_reading_of_another() {
    let at = |findings: Value| {
        let result = next(&input("i4-port", json!(["misfire"]), findings));
        let of = |cylinder: &str| {
            let mine = |s: &&ember_core::suspects::Suspect| s.fault == "plug-worn" && s.target.to_string() == cylinder;
            result.suspects.iter().find(mine).unwrap().present
        };
        of("cylinder 2") / of("cylinder 4")
    };
    let before = at(json!([]));
    let after = at(json!([{"test": "plug-reading", "target": 1, "outcome": "healthy"}]));
    assert!((before - after).abs() < 1e-9, "{before} and {after}");
}

#[test]
fn dear_work_makes_testing_pay_and_cheap_work_makes_fitting_pay() {
    let with_price = |price: f64| {
        let mut case = input(
            "i4-port",
            json!({"symptoms": ["misfire"], "circumstances": ["under-load"]}),
            json!([{"test": "code-misfire", "target": 3, "outcome": "yes"}, {"test": "misfire-count", "target": 3, "outcome": "misses"}]),
        );
        let book = &Knowledge::built_in().book;
        case.workshop.prices = book.faults.iter().map(|fault| (fault.id.clone(), price)).collect();
        next(&case)
    };
    let (cheap, dear) = (with_price(1.0), with_price(900.0));
    assert_eq!(dear.act.act, ActKind::Test);
    let best = |result: &SuspectsResult| result.next.iter().map(|t| t.expected_saving).fold(f64::MIN, f64::max);
    assert!(best(&dear) > best(&cheap), "{} and {}", best(&dear), best(&cheap));
    assert!(dear.act.fit_now_cost > cheap.act.fit_now_cost);
}

#[test]
fn a_risk_of_damage_belongs_to_the_price_of_a_test() {
    let book = &Knowledge::built_in().book;
    let counted = json!([{"test": "misfire-count", "target": 2, "outcome": "misses"}]);
    let result = next(&input("i4-port", json!(["misfire"]), counted));
    let risky = result.next.iter().filter_map(|told| {
        let test = book.test(&told.test)?;
        test.risk.as_ref().map(|(chance, cost, _)| (told, test.money + chance * cost))
    });
    let mut seen = 0;
    for (told, money) in risky {
        assert!((told.money - money).abs() < 1e-9, "{}", told.test);
        seen += 1;
    }
    assert!(seen > 0, "{:?}", result.next.iter().map(|t| &t.test).collect::<Vec<_>>());
}

#[rstest]
#[case::swap(School::SwapFirst, "-swap")]
#[case::least(School::LeastCost, "")]
fn a_school_that_is_chosen_rules_the_next_move(#[case] school: School, #[case] ending: &str) {
    let mut case = input(
        "i4-port",
        json!(["misfire"]),
        json!([{"test": "code-misfire", "target": 3, "outcome": "yes"}, {"test": "misfire-count", "target": 3, "outcome": "misses"}]),
    );
    case.school = school;
    let result = suspects(&case, Knowledge::built_in()).unwrap();
    assert_eq!(result.act.act, ActKind::Test);
    assert!(result.next[0].test.ends_with(ending), "{}", result.next[0].test);
    assert_eq!(result.act.what, result.next[0].test);
}

#[test]
fn who_always_fits_the_usual_part_is_told_to_fit_it() {
    let mut case =
        input("i4-points", json!(["misfire"]), json!([{"test": "condenser-substitute", "outcome": "cured"}]));
    case.school = School::FitUsual;
    let result = suspects(&case, Knowledge::built_in()).unwrap();
    assert_eq!((result.act.act, result.act.what.as_str()), (ActKind::Repair, "condenser-fails"));
}

#[test]
fn the_smoke_schools_differ_where_smoke_is_a_test_of_the_matter() {
    let case = input("i4-diesel", json!(["power-loss"]), json!([{"test": "boost-log", "outcome": "low"}]));
    let result = suspects(&case, Knowledge::built_in()).unwrap();
    let of = |school: School| result.schools.iter().find(|one| one.school == school).unwrap();
    assert!(of(School::SmokeFirst).first.starts_with("Smoke"), "{}", of(School::SmokeFirst).first);
    assert!(!of(School::SmokeLast).first.starts_with("Smoke"), "{}", of(School::SmokeLast).first);
    assert!(of(School::LeastCost).cost <= of(School::SmokeFirst).cost + 1e-6);
}

#[test]
fn questions_are_of_what_nobody_has_asked_yet() {
    let asked = next(&input("i4-port", json!({"symptoms": ["stalls"], "history": ["jump-start"]}), json!([])));
    assert!(asked.questions.iter().all(|q| q.test != "jump-start" && q.bits > 0.0));
    let open = next(&input("i4-port", json!(["stalls"]), json!([])));
    assert!(!open.questions.is_empty());
    assert!(open.questions.windows(2).all(|pair| pair[0].bits >= pair[1].bits));
}
