//! The command line: computations by name, exit codes, one clear line.

use std::io::Write;
use std::process::{Command, Output, Stdio};

use rstest::rstest;
use serde_json::{Value, json};

fn run(arguments: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_gritty-ember"))
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A name that is refused is refused before anything is read, so the pipe may be closed already.
    let _ = child.stdin.take().unwrap().write_all(input.as_bytes());
    child.wait_with_output().unwrap()
}

#[test]
fn all_names_are_listed_one_a_line_and_every_one_answers() {
    let listed = run(&["reckon", "--list"], "");
    let text = String::from_utf8(listed.stdout).unwrap();
    assert_eq!(text.lines().collect::<Vec<_>>(), ember_core::reckon::NAMES);
    for name in text.lines() {
        assert_eq!(run(&["reckon", name], "{}").status.code(), Some(2), "{name} of nothing is refused, not unknown");
    }
}

#[test]
fn the_steady_example_of_the_proof_comes_out_of_the_command() {
    let input = json!({"observed_from_km": 10_000, "occurrences_km": [10_300, 10_650, 10_900],
        "repaired_km": 11_000, "clean_until_km": 11_600, "prior_fixed": 0.5});
    let output = run(&["reckon", "proof"], &input.to_string());
    assert_eq!(output.status.code(), Some(0));
    let result: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert!((result["confidence"].as_f64().unwrap() - 0.80377).abs() < 5e-6);
}

#[rstest]
#[case::unknown_name(&["reckon", "weather"], "{}", "name: there is no computation weather")]
#[case::no_json(&["reckon", "misfire"], "engine: yes\nmore", "input: is no JSON")]
#[case::not_a_number(&["reckon", "proof"], r#"{"prior_fixed": NaN}"#, "input: is no JSON")]
#[case::ninth_cylinder(&["reckon", "misfire"],
    r#"{"engine": {"cylinders": 2, "firing_order": [1, 2], "banks": [[1, 2]]}, "revolutions": 100, "misfires": {"1": 0, "2": 0, "9": 1}}"#,
    "misfires.9: the engine has no cylinder 9")]
#[case::missing_field(&["reckon", "engine"], r#"{"cylinders": 4}"#, "firing_order: is missing")]
fn bad_input_exits_2_with_one_line(#[case] arguments: &[&str], #[case] input: &str, #[case] expected: &str) {
    let output = run(arguments, input);
    assert_eq!(output.status.code(), Some(2));
    assert!(output.stdout.is_empty());
    let text = String::from_utf8(output.stderr).unwrap();
    assert_eq!(text.lines().count(), 1, "{text}");
    assert!(text.starts_with(expected), "{text}");
}

#[test]
fn the_names_of_the_book_are_listed_for_those_who_write_findings_by_hand() {
    let output = run(&["knowledge"], "");
    let book: Value = serde_json::from_slice(&output.stdout).unwrap();
    let spark = book["tests"].as_array().unwrap().iter().find(|test| test["id"] == "spark-test").unwrap();
    assert_eq!(spark["outcomes"], json!(["strong", "weak", "none"]));
    assert!(book["symptoms"].as_array().unwrap().iter().any(|symptom| symptom["id"] == "no-start"));
    let found: Value = serde_json::from_slice(&run(&["knowledge", "leak", "off"], "").stdout).unwrap();
    assert_eq!(found[0]["id"], "return-flow-test");
}

#[test]
fn suspects_come_out_of_the_command_and_a_strange_test_is_named() {
    let vehicle = json!({"engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]}});
    let ask = |test: &str| {
        json!({"vehicle": vehicle, "complaint": ["misfire"],
        "findings": [{"test": test, "target": 2, "outcome": "moved"}]})
    };
    let output = run(&["reckon", "suspects"], &ask("coil-swap").to_string());
    assert_eq!(output.status.code(), Some(0));
    let result: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(result["suspects"][0]["target"], "cylinder 2");
    assert!(result["next"][0]["outcomes"][0]["probability"].is_number());
    let output = run(&["reckon", "suspects"], &ask("coil-swop").to_string());
    assert_eq!(output.status.code(), Some(2));
    let line = String::from_utf8(output.stderr).unwrap();
    assert!(line.starts_with("findings[0].test: there is no test coil-swop") && line.contains("coil-swap"), "{line}");
}
