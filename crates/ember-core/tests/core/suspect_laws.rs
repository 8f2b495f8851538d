//! What must hold for suspects whatever is found, and what is refused.

use crate::suspects::cases;
use std::collections::BTreeMap;

use ember_core::knowledge::Knowledge;
use ember_core::suspects::{ActKind, Depth, SuspectsInput, SuspectsResult, suspects, suspects_to};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn four() -> Value {
    json!({"engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "injection": "port"}})
}

fn read(input: Value) -> SuspectsInput {
    serde_json::from_value(input).unwrap()
}

/// A misfire under load on cylinder 3 of a petrol four.
fn misfire() -> SuspectsInput {
    read(json!({
        "vehicle": four(),
        "complaint": {"symptoms": ["misfire"], "circumstances": ["under-load"]},
        "findings": [
            {"test": "code-misfire", "target": 3, "outcome": "yes"},
            {"test": "misfire-count", "target": 3, "outcome": "misses"},
        ],
    }))
}

fn thought(input: &SuspectsInput) -> SuspectsResult {
    suspects_to(input, Knowledge::built_in(), Depth::Suspects).unwrap()
}

fn present(result: &SuspectsResult, fault: &str, target: &str) -> f64 {
    result.suspects.iter().find(|s| s.fault == fault && s.target.to_string() == target).unwrap().present
}

fn with(mut input: SuspectsInput, finding: Value) -> SuspectsInput {
    input.findings.push(serde_json::from_value(finding).unwrap());
    input
}

fn by_name(result: &SuspectsResult) -> BTreeMap<String, f64> {
    result.suspects.iter().map(|s| (format!("{}@{}", s.fault, s.target), s.present)).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn the_order_of_the_findings_does_not_matter(case in 0usize..81, shift in 1usize..7) {
        let vehicles = cases::vehicles();
        let case = &cases::all()[case];
        let straight = case.with_findings(&vehicles, case.findings.len());
        let mut turned = straight.clone();
        turned.findings.reverse();
        let by = shift % turned.findings.len();
        turned.findings.rotate_left(by);
        let (one, other) = (by_name(&thought(&straight)), by_name(&thought(&turned)));
        for (name, p) in one {
            prop_assert!((p - other[&name]).abs() < 1e-9, "{name}: {p} and {}", other[&name]);
        }
    }

    #[test]
    fn shares_sum_to_one_and_every_chance_lies_between_nought_and_one(case in 0usize..81, known in 0usize..9) {
        let vehicles = cases::vehicles();
        let case = &cases::all()[case];
        let result = thought(&case.with_findings(&vehicles, known.min(case.findings.len())));
        let sum: f64 = result.suspects.iter().map(|s| s.probability).sum();
        prop_assert!((sum - 1.0).abs() < 1e-9, "{sum}");
        for suspect in &result.suspects {
            prop_assert!((0.0..=1.0 + 1e-12).contains(&suspect.present));
            prop_assert!(suspect.probability <= suspect.present + 1e-12);
        }
        prop_assert!((0.0..=1.0).contains(&result.two_faults));
    }

    #[test]
    fn a_finding_that_is_equally_likely_under_all_faults_changes_nothing(case in 0usize..81, l in 0.01f64..1.0) {
        let vehicles = cases::vehicles();
        let case = &cases::all()[case];
        let before = case.with_findings(&vehicles, case.findings.len());
        let all: BTreeMap<String, f64> = thought(&before)
            .suspects
            .iter()
            .filter(|s| s.fault != "not-in-the-book")
            .map(|s| (s.fault.clone(), l))
            .collect();
        let after = with(before.clone(), json!({"test": "battery-test", "likelihood": all}));
        let (one, other) = (by_name(&thought(&before)), by_name(&thought(&after)));
        for (name, p) in one {
            prop_assert!((p - other[&name]).abs() < 1e-9, "{name}: {p} and {}", other[&name]);
        }
    }
}

#[test]
fn a_coil_that_took_the_misfire_along_leads_and_stands_at_its_own_cylinder() {
    let result = thought(&with(misfire(), json!({"test": "coil-swap", "target": 3, "outcome": "moved"})));
    assert_eq!(result.suspects[0].part.as_deref(), Some("coil"));
    assert_eq!(result.suspects[0].target.to_string(), "cylinder 3");
    assert!(
        present(&result, "coil-breaks-down", "cylinder 3") > 100.0 * present(&result, "coil-breaks-down", "cylinder 1")
    );
}

#[test]
fn the_same_test_again_is_worth_little_and_two_tests_of_one_sign_less_than_two_signs() {
    let once = with(misfire(), json!({"test": "coil-resistance", "target": 3, "outcome": "off"}));
    let twice = with(once.clone(), json!({"test": "coil-resistance", "target": 3, "outcome": "off"}));
    let odds = |input: &SuspectsInput| {
        let p = present(&thought(input), "coil-breaks-down", "cylinder 3");
        (p / (1.0 - p)).ln()
    };
    let (first, second) = (odds(&once) - odds(&misfire()), odds(&twice) - odds(&once));
    assert!(first > 0.5, "{first}");
    assert!(second < 0.4 * first && second > -0.01, "{first} then {second}");
}

#[test]
fn a_weak_result_weighs_less_than_a_sure_one() {
    let soft = |moved: f64| {
        let finding = json!({"test": "coil-swap", "target": 3, "likelihood": {"moved": moved, "stayed": 1.0 - moved}});
        present(&thought(&with(misfire(), finding)), "coil-breaks-down", "cylinder 3")
    };
    let nothing = present(&thought(&misfire()), "coil-breaks-down", "cylinder 3");
    let (weak, strong) = (soft(0.7), soft(0.999));
    assert!(nothing < weak && weak < strong, "{nothing} {weak} {strong}");
}

#[test]
fn a_likelihood_may_speak_of_faults_at_a_place() {
    let finding = json!({"test": "misfire-count", "target": 3,
        "likelihood": {"plug-cracked@cylinder 3": 1.0, "coil-breaks-down": 0.01}});
    let (before, after) = (thought(&misfire()), thought(&with(misfire(), finding)));
    let odds = |result: &SuspectsResult| {
        present(result, "plug-cracked", "cylinder 3") / present(result, "coil-breaks-down", "cylinder 3")
    };
    assert!(odds(&after) > 50.0 * odds(&before));
}

#[test]
fn two_faults_are_believed_when_no_single_one_explains_what_was_found() {
    let mut input = misfire();
    input.complaint = serde_json::from_value(json!(["misfire", "rough-idle", "hisses", "under-load"])).unwrap();
    for finding in [
        json!({"test": "coil-swap", "target": 3, "outcome": "moved"}),
        json!({"test": "code-lean", "target": "bank 1", "outcome": "yes"}),
        json!({"test": "trims-read", "target": "bank 1", "outcome": "lean-at-idle"}),
        json!({"test": "smoke-intake", "outcome": "leaks"}),
    ] {
        input = with(input, finding);
    }
    let result = thought(&input);
    let lead: Vec<_> = result.suspects.iter().take(5).map(|s| (&s.fault, &s.target, s.present)).collect();
    assert!(result.two_faults > 0.5, "{} {lead:?}", result.two_faults);
    let pair = &result.pairs[0];
    assert!(pair.faults.iter().any(|fault| fault.starts_with("coil")), "{pair:?}");
    assert!(present(&result, &pair.faults[0], &pair.targets[0].to_string()) > 0.3);
}

#[test]
fn findings_that_exclude_every_fault_say_so_and_are_shown_as_contradictions() {
    let mut input = read(json!({"vehicle": four(), "complaint": ["no-start"]}));
    for (test, target, outcome) in [
        ("crank-speed-look", "engine", "brisk"),
        ("battery-test", "engine", "flat"),
        ("spark-test", "cylinder 1", "none"),
        ("spark-test", "cylinder 2", "strong"),
        ("crank-signal-read", "engine", "steady"),
        ("fuel-pressure-test", "engine", "none"),
        ("pump-listen", "engine", "runs"),
        ("coolant-gas-test", "engine", "gas"),
        ("boost-log", "engine", "over"),
    ] {
        if test != "boost-log" {
            input = with(input, json!({"test": test, "target": target, "outcome": outcome}));
        }
    }
    let result = suspects(&input, Knowledge::built_in()).unwrap();
    assert!(!result.contradictions.is_empty());
    assert!(result.suspects[0].present < 0.9);
    assert!(result.contradictions.iter().all(|c| c.probability < 0.1 && !c.says.is_empty()));
}

#[test]
fn a_spark_that_is_there_proves_presence_and_not_timing() {
    let result = thought(&with(misfire(), json!({"test": "spark-test", "target": 3, "outcome": "strong"})));
    let needs = serde_json::to_value(result.needs).unwrap();
    assert_eq!(
        needs,
        json!({"fuel": "unknown", "air": "unknown", "spark": "proven", "compression": "unknown", "timing": "unknown"})
    );
    let result = thought(&with(misfire(), json!({"test": "compression-test", "target": 3, "outcome": "none"})));
    assert_eq!(serde_json::to_value(result.needs).unwrap()["compression"], "missing");
}

#[test]
fn what_speaks_for_a_suspect_is_told_in_decibans_that_agree_with_the_odds() {
    let swapped = with(misfire(), json!({"test": "coil-swap", "target": 3, "outcome": "moved"}));
    let before = present(&thought(&misfire()), "coil-breaks-down", "cylinder 3");
    let result = suspects_to(&swapped, Knowledge::built_in(), Depth::Next).unwrap();
    let suspect = result.suspects.iter().find(|s| s.fault == "coil-breaks-down").unwrap();
    let after = suspect.present;
    let told = suspect.speaks.iter().find(|speaks| speaks.test == "coil-swap").unwrap();
    let odds = |p: f64| p / (1.0 - p);
    let reckoned = 10.0 * (odds(after) / odds(before)).log10();
    assert!((told.decibans - reckoned).abs() < 0.3, "{} and {reckoned}", told.decibans);
    assert_eq!(told.findings, [2]);
    assert!(told.words.contains("for it"));
}

#[test]
fn a_repair_that_leaves_a_complaint_unexplained_says_which() {
    let mut input = misfire();
    input.complaint = serde_json::from_value(json!({"symptoms": ["misfire", "loses-coolant"]})).unwrap();
    input = with(input, json!({"test": "coil-swap", "target": 3, "outcome": "moved"}));
    let result = suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap();
    let coil = result.suspects.iter().find(|s| s.fault == "coil-breaks-down").unwrap();
    assert_eq!(coil.leaves_unexplained, ["loses coolant"]);
}

#[test]
fn a_part_replaced_in_vain_is_hardly_suspected_any_more() {
    let mut input = with(misfire(), json!({"test": "coil-swap", "target": 3, "outcome": "moved"}));
    let coils = |input: &SuspectsInput| -> f64 {
        thought(input).suspects.iter().filter(|s| s.part.as_deref() == Some("coil")).map(|s| s.probability).sum()
    };
    let before = coils(&input);
    input.replaced = vec![serde_json::from_value(json!({"what": "coil", "target": 3})).unwrap()];
    let after = coils(&input);
    assert!(after / (1.0 - after) < 0.2 * before / (1.0 - before), "{before} then {after}");
}

#[test]
fn the_workshops_own_cases_bend_the_rates_and_can_be_taken_back() {
    let mut input = misfire();
    let before = thought(&input);
    let case = json!({"fault": "plug-cracked", "cases": 12, "because": "twelve closed jobs"});
    input.workshop.usual = vec![serde_json::from_value(case).unwrap()];
    let bent = present(&thought(&input), "plug-cracked", "cylinder 3");
    assert!(bent > 2.0 * present(&before, "plug-cracked", "cylinder 3"), "{bent}");
    // Cases of another vehicle type do not count here.
    input.workshop.usual[0].vehicle = Some("another type".into());
    assert_eq!(by_name(&thought(&input)), by_name(&before));
    input.workshop.usual.clear();
    assert_eq!(by_name(&thought(&input)), by_name(&before));
}

#[test]
fn five_hundred_findings_on_one_job_are_reckoned_with() {
    let mut input = misfire();
    for index in 0..500 {
        let (test, outcome) =
            [("spark-test", "strong"), ("coil-swap", "stayed"), ("misfire-count", "misses")][index % 3];
        input = with(input, json!({"test": test, "target": 3, "outcome": outcome}));
    }
    let result = suspects(&input, Knowledge::built_in()).unwrap();
    let sum: f64 = result.suspects.iter().map(|s| s.probability).sum();
    assert!((sum - 1.0).abs() < 1e-9);
}

#[test]
fn prices_of_nought_are_no_trouble() {
    let mut input = misfire();
    input.workshop.labour_per_hour = Some(0.0);
    input.workshop.prices = Knowledge::built_in().book.faults.iter().map(|fault| (fault.id.clone(), 0.0)).collect();
    let result = suspects(&input, Knowledge::built_in()).unwrap();
    assert!(result.act.fit_now_cost.is_finite());
    assert!(result.next.iter().all(|test| test.expected_saving.is_finite()));
}

#[test]
fn what_is_off_makes_other_tests_cheap() {
    let minutes = |off: &[&str], test: &str| {
        let mut input = misfire();
        input.off = off.iter().map(|&name| name.to_owned()).collect();
        let result = suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap();
        result.next.iter().find(|t| t.test == test && t.target.to_string() == "cylinder 3").unwrap().minutes
    };
    let closed = minutes(&[], "plug-well-look");
    assert_eq!(closed - minutes(&["cylinder-top"], "plug-well-look"), 5.0);
    assert_eq!(closed - minutes(&["cylinder-top 3"], "plug-well-look"), 5.0);
    assert_eq!(closed, minutes(&["cylinder-top 1"], "plug-well-look"));
}

#[test]
fn a_vehicles_own_minutes_and_covers_count() {
    let mut input = misfire();
    input.vehicle = serde_json::from_value(json!({
        "engine": four()["engine"], "access_minutes": {"3": 9, "1": 2},
        "covers": [{"name": "snow guard", "minutes": 20, "cylinders": [3, 4]}],
    }))
    .unwrap();
    let result = suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap();
    let at = |c: &str| {
        result.next.iter().find(|t| t.test == "plug-well-look" && t.target.to_string() == c).map(|t| t.minutes)
    };
    assert_eq!(at("cylinder 3"), Some(4.0 + 9.0 + 20.0));
    input.off = vec!["snow guard".into()];
    let result = suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap();
    let open = result.next.iter().find(|t| t.test == "plug-well-look" && t.target.to_string() == "cylinder 3").unwrap();
    assert_eq!(open.minutes, 13.0);
}

#[test]
fn what_cannot_be_done_here_is_not_offered() {
    let offered = |change: &dyn Fn(&mut SuspectsInput)| {
        let mut input = misfire();
        change(&mut input);
        let result = suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap();
        result.next
    };
    assert!(offered(&|_| ()).iter().any(|t| t.test == "coil-swap"));
    assert!(offered(&|i| i.cannot = vec!["coil-swap".into()]).iter().all(|t| t.test != "coil-swap"));
    assert!(
        offered(&|i| i.cannot = vec!["plug spanner".into()]).iter().all(|t| !t.tools.contains(&"plug spanner".into()))
    );
    assert!(offered(&|i| i.alone = true).iter().all(|t| t.people < 2));
    let hurried = offered(&|i| i.minutes_left = Some(10.0));
    assert!(!hurried.is_empty() && hurried.iter().all(|t| t.minutes <= 10.0));
}

#[test]
fn a_car_that_does_not_start_is_asked_the_quick_questions_first() {
    let input = read(json!({"vehicle": four(), "complaint": "it cranks but will not start"}));
    let result = suspects_to(&input, Knowledge::built_in(), Depth::Next).unwrap();
    let book = &Knowledge::built_in().book;
    assert_eq!(result.act.act, ActKind::Test);
    assert!(book.test(&result.next[0].test).unwrap().quick, "{}", result.next[0].test);
}

#[test]
fn each_school_has_its_figure_and_its_own_first_step() {
    let result = suspects(&misfire(), Knowledge::built_in()).unwrap();
    let of = |name: &str| {
        result
            .schools
            .iter()
            .find(|s| serde_json::to_value(s.school).unwrap() == name)
            .unwrap_or_else(|| panic!("{name}"))
    };
    for school in &result.schools {
        assert!(school.minutes > 0.0 && school.cost > 0.0 && !school.first.is_empty(), "{school:?}");
    }
    let book = &Knowledge::built_in().book;
    let is_swap = |name: &str| book.tests.iter().any(|t| name.starts_with(&t.name) && t.id.ends_with("-swap"));
    assert!(is_swap(&of("swap-first").first), "{}", of("swap-first").first);
    assert!(!is_swap(&of("measure-first").first), "{}", of("measure-first").first);
    assert!(of("fit-usual").first.starts_with("Fit:"));
    assert!(of("least-cost").cost <= of("fit-usual").cost + 1e-6);
}

#[test]
fn each_outcome_is_foreseen_with_its_chance_and_the_suspect_that_then_leads() {
    let result = suspects_to(&misfire(), Knowledge::built_in(), Depth::Next).unwrap();
    for test in &result.next {
        let sum: f64 = test.outcomes.iter().map(|o| o.probability).sum();
        assert!((sum - 1.0).abs() < 1e-6, "{}: {sum}", test.test);
        assert!(test.outcomes.iter().all(|o| !o.then.is_empty() && !o.means.is_empty()), "{}", test.test);
    }
    // What was foreseen comes true when the outcome is entered.
    let swap = result.next.iter().find(|t| t.test == "coil-swap" && t.target.to_string() == "cylinder 3").unwrap();
    let moved = swap.outcomes.iter().find(|o| o.outcome == "moved").unwrap();
    let after = thought(&with(misfire(), json!({"test": "coil-swap", "target": 3, "outcome": "moved"})));
    assert!((after.suspects[0].present - moved.then_probability).abs() < 0.01);
}

#[rstest]
#[case::unknown_test(json!({"test": "spark-tset", "target": 3, "outcome": "weak"}), "findings[0].test", "there is no test")]
#[case::other_vehicle(json!({"test": "glow-plug-test", "target": 3, "outcome": "dead"}), "findings[0].test", "fuel=diesel")]
#[case::no_such_cylinder(json!({"test": "spark-test", "target": 5, "outcome": "weak"}), "findings[0].target", "cylinder 5 is not on this vehicle")]
#[case::no_such_bank(json!({"test": "code-lean", "target": "cylinder 7", "outcome": "yes"}), "findings[0].target", "")]
#[case::which_cylinder(json!({"test": "spark-test", "outcome": "weak"}), "findings[0].target", "which cylinder")]
#[case::unknown_outcome(json!({"test": "spark-test", "target": 3, "outcome": "blue"}), "findings[0].outcome", "strong, weak, none")]
#[case::nothing_came_of_it(json!({"test": "spark-test", "target": 3}), "findings[0].outcome", "what came of it")]
#[case::both(json!({"test": "spark-test", "target": 3, "outcome": "weak", "likelihood": {"weak": 1}}), "findings[0].outcome", "not both")]
#[case::below_nought(json!({"test": "spark-test", "target": 3, "likelihood": {"weak": -1}}), "findings[0].likelihood.weak", "nought or more")]
#[case::all_nought(json!({"test": "spark-test", "target": 3, "likelihood": {"weak": 0}}), "findings[0].likelihood", "nought for everything")]
#[case::unknown_fault(json!({"test": "spark-test", "target": 3, "likelihood": {"gremlin": 1}}), "findings[0].likelihood.gremlin", "neither a fault nor an outcome")]
#[case::fault_elsewhere(json!({"test": "spark-test", "target": 3, "likelihood": {"glow-relay": 1}}), "findings[0].likelihood.glow-relay", "no fault that this vehicle can have")]
fn a_finding_that_cannot_be_is_refused_by_name(#[case] finding: Value, #[case] field: &str, #[case] says: &str) {
    let mut input = read(json!({"vehicle": four(), "complaint": ["misfire"]}));
    input = with(input, finding);
    let refusal = suspects(&input, Knowledge::built_in()).unwrap_err();
    assert_eq!(refusal.field, field);
    assert!(refusal.reason.contains(says), "{}", refusal.reason);
}

#[rstest]
#[case::symptom(json!({"complaint": {"symptoms": ["sings"]}}), "complaint.symptoms[0]")]
#[case::equipment(json!({"vehicle": {"engine": four()["engine"], "has": ["wings"]}}), "vehicle.has")]
#[case::engine(json!({"vehicle": {"engine": {"cylinders": 4, "firing_order": [1, 3, 4], "banks": [[1, 2, 3, 4]]}}}), "vehicle.engine.firing_order")]
#[case::price(json!({"workshop": {"prices": {"coil-dead": -1}}}), "workshop.prices.coil-dead")]
#[case::priced_fault(json!({"workshop": {"prices": {"gremlin": 1}}}), "workshop.prices")]
#[case::labour(json!({"workshop": {"labour_per_hour": -3}}), "workshop.labour_per_hour")]
#[case::usual(json!({"workshop": {"usual": [{"fault": "gremlin"}]}}), "workshop.usual")]
#[case::replaced(json!({"replaced": [{"what": "wing"}]}), "replaced[0].what")]
#[case::hurry(json!({"minutes_left": -5}), "minutes_left")]
fn an_input_that_cannot_be_is_refused_by_field(#[case] part: Value, #[case] field: &str) {
    let mut input = json!({"vehicle": four(), "complaint": ["misfire"]});
    for (key, value) in part.as_object().unwrap() {
        input[key] = value.clone();
    }
    assert_eq!(suspects(&read(input), Knowledge::built_in()).unwrap_err().field, field);
}

#[rstest]
#[case::words(json!("Runs rough and stalls in the rain, new plugs last week"), &["rough-idle", "stalls", "when-wet", "ignition-work"])]
#[case::list(json!(["will not start", "wet"]), &["no-start", "when-wet"])]
#[case::parts(json!({"symptoms": ["cuts out"], "history": ["pressure wash"]}), &["stalls", "wash"])]
fn a_complaint_is_understood_in_the_trades_words(#[case] complaint: Value, #[case] means: &[&str]) {
    let told = read(json!({"vehicle": four(), "complaint": complaint}));
    let named = read(json!({"vehicle": four(), "complaint": means}));
    assert_eq!(by_name(&thought(&told)), by_name(&thought(&named)));
}
