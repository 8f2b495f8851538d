//! The commands that read files and simulate cars.

use std::process::{Command, Output};

use rstest::rstest;
use serde_json::Value;
use tempfile::TempDir;

fn run(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_gritty-ember")).args(arguments).output().unwrap()
}

fn read(path: &str) -> Value {
    let output = run(&["read", path]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    serde_json::from_slice(&output.stdout).unwrap()
}

fn demo(file: &str) -> String {
    format!("{}/../../demo-data/{file}", env!("CARGO_MANIFEST_DIR"))
}

#[test]
fn read_tells_what_a_log_holds() {
    let held = read(&demo("w12-after-the-wash.csv"));
    assert_eq!(
        (held["kind"].as_str(), held["samples"].as_u64(), held["span_s"].as_f64()),
        (Some("table"), Some(1681), Some(420.0))
    );
    let speed = held["channels"].as_array().unwrap().iter().find(|c| c["channel"] == "engine_speed").unwrap();
    assert_eq!((speed["unit"].as_str(), speed["samples"].as_u64()), (Some("rpm"), Some(1681)));
    assert!((speed["per_s"].as_f64().unwrap() - 4.0).abs() < 0.01);
}

#[test]
fn read_tells_what_a_capture_holds() {
    let held = read(&demo("w12-scan.log"));
    assert_eq!(held["kind"], "capture");
    let codes: Vec<&str> = held["codes"].as_array().unwrap().iter().map(|c| c["code"].as_str().unwrap()).collect();
    assert_eq!(codes, ["P0171", "P0442", "U0401", "C0561", "U0140"]);
    assert_eq!(held["units"].as_array().unwrap().len(), 4);
    assert!(held["channels"].as_array().unwrap().len() > 10);
}

#[test]
fn read_names_the_faults_in_the_framing() {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join("torn.log");
    std::fs::write(&path, "(1.0) c 7E8#1014490201434448\n(1.1) c 7E8#2244455030303030\n(2.0) c 7E0#02010C\n").unwrap();
    let held = read(path.to_str().unwrap());
    let kinds: Vec<&str> = held["faults"].as_array().unwrap().iter().map(|f| f["kind"].as_str().unwrap()).collect();
    assert_eq!(kinds, ["lost", "unanswered"]);
}

#[rstest]
#[case::no_such_file("/no/such/file.csv", "file: /no/such/file.csv cannot be read")]
#[case::no_log("Cargo.toml", "file:")]
fn what_cannot_be_read_ends_with_two_and_one_line(#[case] path: &str, #[case] says: &str) {
    let output = run(&["read", path]);
    let said = String::from_utf8(output.stderr).unwrap();
    assert_eq!(output.status.code(), Some(2));
    assert!(said.starts_with(says) && said.trim_end().lines().count() == 1, "{said}");
}

#[test]
fn the_demonstration_drives_are_what_the_script_makes() {
    let folder = TempDir::new().unwrap();
    for (vehicle, fault, seed, seconds, file) in [
        ("W-12", "air-leak=2.2", "12", "420", "w12-after-the-wash.csv"),
        ("W-15", "sticking-vanes", "15", "420", "w15-long-climb.csv"),
        ("W-07", "misfire-under-load=3", "7", "600", "w07-where-it-misses.csv"),
        ("W-12", "taking-turns", "4", "900", "w12-taking-turns.csv"),
    ] {
        let path = folder.path().join(file);
        let output = run(&[
            "sim",
            "--vehicle",
            vehicle,
            "--fault",
            fault,
            "--seed",
            seed,
            "--seconds",
            seconds,
            "--per-second",
            "4",
            "--csv",
            path.to_str().unwrap(),
        ]);
        assert!(output.status.success());
        assert!(
            std::fs::read(&path).unwrap() == std::fs::read(demo(file)).unwrap(),
            "{file}: run demo-data/make-drives"
        );
    }
}

#[test]
fn the_demonstrations_capture_is_what_its_script_makes() {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join("coil.csv");
    let arguments =
        ["sim", "--vehicle", "M-02", "--scope", "coil-current", "--seed", "2", "--seconds", "0.25", "--csv"];
    let output = run(&[&arguments[..], &[path.to_str().unwrap()]].concat());
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let same = std::fs::read(&path).unwrap() == std::fs::read(demo("m02-coil-current.csv")).unwrap();
    assert!(same, "m02-coil-current.csv: run demo-data/make-drives");
}

#[rstest]
#[case::no_such_probe(&["sim", "--vehicle", "M-02", "--scope", "heartbeat", "--csv", "x"], "unknown variant `heartbeat`")]
#[case::no_such_car_for_the_scope(&["sim", "--vehicle", "W-99", "--scope", "cranking", "--csv", "x"], "there is no simulated W-99")]
#[case::no_such_car(&["sim", "--vehicle", "W-99"], "there is no simulated W-99")]
#[case::no_such_fault(&["sim", "--vehicle", "W-07", "--fault", "flat-tyre"], "there is no flat-tyre")]
fn a_car_that_cannot_be_simulated_says_why(#[case] arguments: &[&str], #[case] says: &str) {
    let output = run(arguments);
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains(says));
}

#[test]
fn cars_and_faults_are_listed() {
    let listed = String::from_utf8(run(&["sim", "--list"]).stdout).unwrap();
    assert!(listed.starts_with("cars: M-02, W-03") && listed.contains("air-leak=MM") && listed.lines().count() == 13);
}
