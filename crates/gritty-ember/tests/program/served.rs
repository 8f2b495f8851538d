//! The server as a browser meets it: the API, its errors, its headers, and what survives a crash.

use crate::serving::{read, serve};
use rstest::rstest;
use serde_json::json;
use tempfile::TempDir;

/// How many jobs the yard holds, open and closed.
fn jobs_in(yard: &serde_json::Value) -> u64 {
    yard["open_count"].as_u64().unwrap() + yard["closed_count"].as_u64().unwrap()
}

#[test]
fn an_acknowledged_entry_survives_a_kill() {
    let folder = TempDir::new().unwrap();
    let server = serve(folder.path());
    for (seen, text) in (5..).zip(["first", "second", "third"]) {
        assert_eq!(server.note(seen, text, text).0, 201);
    }
    drop(server);
    let again = serve(folder.path());
    let (status, job) = again.get("/api/jobs/2");
    let texts: Vec<&str> =
        job["entries"].as_array().unwrap()[5..].iter().map(|e| e["finding"]["text"].as_str().unwrap()).collect();
    assert_eq!((status, texts), (200, vec!["first", "second", "third"]));
    assert_eq!(jobs_in(&again.get("/api/yard").1), 8, "the demonstration is not written twice");
}

#[test]
fn problems_name_the_field_and_change_nothing() {
    let folder = TempDir::new().unwrap();
    let server = serve(folder.path());
    let entry = json!({"odometer_km": 6419, "author": "Ada", "finding":
        {"kind": "counts", "revolutions": 1000, "misfires": {"1": 0, "2": 2.5, "3": 0}}});
    let (status, problem) = server.post("/api/jobs/2/entries", &json!({"seen": 5, "request_key": "x", "entry": entry}));
    assert_eq!((status, problem["type"].as_str()), (422, Some("refused")));
    assert_eq!(problem["errors"][0]["field"], "entry.finding.misfires.2");
    assert_eq!(problem["errors"][0]["reason"], "a count is a whole number, and this is 2.5");

    let (status, problem) = server.note(4, "late", "too late");
    assert_eq!((status, problem["type"].as_str(), problem["now"].as_u64()), (409, Some("stale"), Some(5)));

    let (status, problem) = server.post("/api/jobs/2/entries", &json!({"seen": 5, "request_key": "x"}));
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some("entry")));
    let (status, problem) =
        server.post("/api/jobs/77/entries", &json!({"seen": 0, "request_key": "x", "entry": entry}));
    assert_eq!((status, problem["detail"].as_str()), (404, Some("there is no job 77")));
    assert_eq!(server.get("/api/jobs/2").1["entries"].as_array().unwrap().len(), 5);
}

#[rstest]
#[case("/api/jobs/77", 404)]
#[case("/api/jobs/seven", 404)]
#[case("/api/nothing", 404)]
#[case("/assets/nothing.js", 404)]
fn what_is_not_there_is_a_problem(#[case] path: &str, #[case] expected: u16) {
    let folder = TempDir::new().unwrap();
    let (status, problem) = serve(folder.path()).get(path);
    assert_eq!((status, problem["status"].as_u64()), (expected, Some(u64::from(expected))));
}

#[test]
fn the_three_doors_give_the_same_figures() {
    let folder = TempDir::new().unwrap();
    let server = serve(folder.path());
    let input = json!({"engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]},
        "revolutions": 36_000, "misfires": {"1": 0, "2": 3, "3": 270, "4": 1}});
    let direct = ember_core::reckon::reckon("misfire", &input, ember_core::knowledge::Knowledge::built_in()).unwrap();
    assert_eq!(server.post("/api/reckon/misfire", &input), (200, direct));
    let (status, problem) = server.post("/api/reckon/horoscope", &json!({}));
    assert_eq!(status, 404, "{problem}");
}

#[test]
fn the_api_is_described_by_its_types() {
    let folder = TempDir::new().unwrap();
    let (status, document) = serve(folder.path()).get("/api/openapi.json");
    assert_eq!(status, 200);
    for path in ["/api/yard", "/api/jobs/{id}/entries", "/api/reckon/swap-plan", "/api/imports/counters"] {
        assert!(document["paths"][path].is_object(), "{path}");
    }
    let problem = &document["components"]["schemas"]["Problem"]["properties"];
    assert!(problem["errors"].is_object() && problem["type"].is_object());
}

#[test]
fn every_answer_carries_the_security_headers() {
    let folder = TempDir::new().unwrap();
    let server = serve(folder.path());
    for path in ["/api/yard", "/api/jobs/77", "/"] {
        let response = server.agent.get(format!("{}{path}", server.address)).call().unwrap();
        let header =
            |name: &str| response.headers().get(name).map(|v| v.to_str().unwrap().to_owned()).unwrap_or_default();
        assert_eq!(header("x-content-type-options"), "nosniff", "{path}");
        assert_eq!(header("x-frame-options"), "DENY", "{path}");
        let policy = header("content-security-policy");
        assert!(policy.starts_with("default-src 'none'"), "{path}: {policy}");
        assert!(!policy.contains("unsafe"), "{path}: {policy}");
    }
}

#[rstest]
#[case::a_foreign_page("origin", "http://elsewhere.example")]
#[case::a_foreign_name("host", "elsewhere.example")]
fn foreigners_are_turned_away(#[case] header: &str, #[case] value: &str) {
    let folder = TempDir::new().unwrap();
    let server = serve(folder.path());
    let response = server.agent.get(format!("{}/api/yard", server.address)).header(header, value).call().unwrap();
    assert_eq!(response.status().as_u16(), 403);
}

#[test]
fn an_oversized_file_is_refused_whole() {
    let folder = TempDir::new().unwrap();
    let server = serve(folder.path());
    let big = vec![b'1'; 25 * 1024 * 1024];
    let response =
        server.agent.post(format!("{}/api/imports/counters?cylinders=4", server.address)).send(&big[..]).unwrap();
    let (status, problem) = read(response);
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (413, Some("file")));
}

#[test]
fn a_second_server_on_the_same_folder_is_turned_away() {
    let folder = TempDir::new().unwrap();
    let _first = serve(folder.path());
    let output = std::process::Command::new(env!("CARGO_BIN_EXE_gritty-ember"))
        .args(["serve", "--listen", "127.0.0.1:0", "--data"])
        .arg(folder.path())
        .output()
        .unwrap();
    let said = String::from_utf8(output.stderr).unwrap();
    assert!(!output.status.success() && said.contains("is used by another Gritty Ember"), "{said}");
}
