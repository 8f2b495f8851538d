//! Each part of the API: what it takes, what it answers, what it refuses.

use crate::serving::{Served, Workshop, read, workshop};
use rstest::rstest;
use serde_json::{Value, json};

fn v8(fleet_no: &str) -> Value {
    json!({"fleet_no": fleet_no, "name": "Trial rig", "engine": {"cylinders": 8,
        "firing_order": [1, 5, 4, 8, 6, 3, 7, 2], "banks": [[1, 2, 3, 4], [5, 6, 7, 8]]}})
}

fn complaint(vehicle_id: u64, key: &str) -> Value {
    json!({"vehicle_id": vehicle_id, "request_key": key,
        "first": {"odometer_km": 10, "author": "Ada", "finding": {"kind": "complaint", "symptoms": ["stalls"]}}})
}

#[rstest]
fn a_new_vehicle_gets_a_job_of_its_own(workshop: Workshop) {
    let server = &workshop.server;
    let (status, vehicle) = server.post("/api/vehicles", &v8("X-8"));
    assert_eq!((status, vehicle["fleet_no"].as_str()), (201, Some("X-8")));
    let (status, job) = server.post("/api/jobs", &complaint(vehicle["id"].as_u64().unwrap(), "one"));
    assert_eq!(status, 201);
    assert_eq!(job["state"]["cylinders"].as_array().unwrap().len(), 8);
    assert_eq!(job["state"]["next"]["step"], "scan");
    assert_eq!(server.get("/api/vehicles").1.as_array().unwrap().len(), 8);
    assert_eq!(server.get("/api/yard").1["open"][0]["fleet_no"], "X-8", "the newest stands first");
}

#[rstest]
fn a_job_opened_twice_with_one_key_is_one_job(workshop: Workshop) {
    let server = &workshop.server;
    let (_, first) = server.post("/api/jobs", &complaint(1, "twice"));
    let (status, second) = server.post("/api/jobs", &complaint(1, "twice"));
    assert_eq!((status, &second["id"]), (201, &first["id"]));
    assert_eq!(server.get("/api/yard").1["open_count"], 8, "seven of the demonstration, and this one");
}

#[rstest]
#[case::taken("/api/vehicles", v8("W-07"), 422, "fleet_no")]
#[case::nameless("/api/vehicles", json!({"fleet_no": "X-1", "name": "", "engine": v8("X")["engine"]}), 422, "name")]
#[case::bad_engine("/api/vehicles", json!({"fleet_no": "X-1", "name": "x", "engine": {"cylinders": 2, "firing_order": [1, 1], "banks": [[1, 2]]}}), 422, "engine.firing_order")]
#[case::no_complaint("/api/jobs", json!({"vehicle_id": 1, "request_key": "k", "first": {"odometer_km": 10, "author": "Ada", "finding": {"kind": "complaint", "symptoms": []}}}), 422, "first.finding.symptoms")]
#[case::no_author("/api/jobs", json!({"vehicle_id": 1, "request_key": "k", "first": {"odometer_km": 10, "author": "", "finding": {"kind": "complaint", "symptoms": ["stalls"]}}}), 422, "first.author")]
#[case::missing_field("/api/jobs", json!({"vehicle_id": 1}), 422, "first")]
#[case::wrong_type("/api/jobs", json!({"vehicle_id": "one", "request_key": "k", "first": complaint(1, "k")["first"]}), 422, "vehicle_id")]
#[case::unknown_dimension("/api/read/quantity", json!({"text": "3", "dimension": "colour"}), 422, "dimension")]
#[case::unreadable_quantity("/api/read/quantity", json!({"text": "three", "dimension": "count"}), 422, "text")]
#[case::suspect("/api/reckon/swap-plan", json!({"engine": v8("X")["engine"], "suspect": 9, "parts": ["coil"]}), 422, "suspect")]
#[case::proof("/api/reckon/proof", json!({"prior_fixed": 0.5}), 422, "observed_from_km")]
fn a_refusal_names_its_field(
    workshop: Workshop,
    #[case] path: &str,
    #[case] body: Value,
    #[case] status: u16,
    #[case] field: &str,
) {
    let (answered, problem) = workshop.server.post(path, &body);
    assert_eq!((answered, problem["errors"][0]["field"].as_str()), (status, Some(field)), "{problem}");
    assert_eq!(problem["title"], "This cannot be taken as it is");
}

#[rstest]
#[case::no_vehicle("/api/jobs", complaint(99, "k"), "there is no vehicle 99")]
#[case::no_computation("/api/reckon/weather", json!({}), "there is no computation weather")]
fn what_is_missing_is_named(workshop: Workshop, #[case] path: &str, #[case] body: Value, #[case] detail: &str) {
    let (status, problem) = workshop.server.post(path, &body);
    assert_eq!(status, 404);
    assert!(problem["detail"].as_str().unwrap().contains(detail), "{problem}");
}

#[rstest]
fn what_is_no_json_is_a_bad_request(workshop: Workshop) {
    let server = &workshop.server;
    let response = server.agent.post(format!("{}/api/read/codes", server.address)).send("P0301").unwrap();
    assert_eq!(response.headers()["content-type"], "application/problem+json");
    let (status, problem) = read(response);
    assert_eq!((status, problem["type"].as_str()), (400, Some("bad-request")));
}

#[rstest]
fn codes_and_quantities_are_read_as_they_are_written(workshop: Workshop) {
    let server = &workshop.server;
    let (_, codes) = server.post("/api/read/codes", &json!({"text": "p0302 pending; U0100"}));
    assert_eq!(codes["codes"], json!([{"code": "P0302", "status": "pending"}, {"code": "U0100", "status": null}]));
    assert_eq!(codes["meanings"][0]["cylinder"], 2);
    let (_, miles) = server.post("/api/read/quantity", &json!({"text": "100 mi", "dimension": "distance"}));
    assert_eq!((miles["value"].as_f64(), miles["unit"].as_str()), (Some(160.9344), Some("km")));
}

#[rstest]
#[case::engine("engine", v8("X")["engine"].clone(), "/firing_interval_deg", json!(90.0))]
#[case::misfire("misfire", json!({"engine": v8("X")["engine"], "revolutions": 20_000, "misfires": {"1": 0, "2": 0, "3": 0, "4": 0, "5": 0, "6": 0, "7": 99, "8": 0}}), "/group/cylinders", json!([7]))]
#[case::plan("swap-plan", json!({"engine": v8("X")["engine"], "suspect": 7, "parts": ["coil"]}), "/moves/0/to", json!(1))]
#[case::proof("proof", json!({"observed_from_h": 0, "occurrences_h": [3, 5, 6], "repaired_h": 7, "clean_until_h": 9, "prior_fixed": 0.5}), "/trend", json!("steady"))]
#[case::codes("codes", json!({"bytes": "0301"}), "/code", json!("P0301"))]
fn each_computation_answers_at_its_name(
    workshop: Workshop,
    #[case] name: &str,
    #[case] input: Value,
    #[case] at: &str,
    #[case] expected: Value,
) {
    let (status, result) = workshop.server.post(&format!("/api/reckon/{name}"), &input);
    assert_eq!((status, result.pointer(at)), (200, Some(&expected)), "{result}");
}

#[rstest]
fn every_computation_is_listed(workshop: Workshop) {
    assert_eq!(workshop.server.get("/api/reckon").1, json!(ember_core::reckon::NAMES));
}

#[rstest]
fn a_file_is_read_and_nothing_is_kept(workshop: Workshop) {
    let server = &workshop.server;
    let before = server.get("/api/jobs/2").1;
    let address = format!("{}/api/imports/counters?cylinders=3", server.address);
    let (status, reading) = read(server.agent.post(&address).send("cylinder;misfires\n1;0\n2;57\n3;1\n").unwrap());
    assert_eq!((status, &reading["misfires"]), (200, &json!({"1": 0.0, "2": 57.0, "3": 1.0})));
    let (status, problem) = read(server.agent.post(&address).send("cylinder;misfires\n1;0\n2;x\n").unwrap());
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some("row 3")));
    assert_eq!(server.get("/api/jobs/2").1, before);
}

#[rstest]
fn many_tablets_at_once_lose_nothing_and_write_nothing_twice(workshop: Workshop) {
    let server = &workshop.server;
    std::thread::scope(|scope| {
        for tablet in 0..6 {
            scope.spawn(move || {
                for note in 0..4 {
                    // Each keeps trying with what it has seen, as a person would.
                    loop {
                        let seen = server.get("/api/jobs/2").1["entries"].as_array().unwrap().len() as u32;
                        let (status, _) =
                            server.note(seen, &format!("{tablet}/{note}"), &format!("tablet {tablet} note {note}"));
                        match status {
                            201 => break,
                            409 => continue,
                            other => panic!("answered {other}"),
                        }
                    }
                }
            });
        }
    });
    let (_, job) = server.get("/api/jobs/2");
    let mut texts: Vec<&str> =
        job["entries"].as_array().unwrap()[5..].iter().map(|e| e["finding"]["text"].as_str().unwrap()).collect();
    texts.sort_unstable();
    texts.dedup();
    assert_eq!((texts.len(), job["entries"].as_array().unwrap().len()), (24, 29));
}

#[rstest]
fn the_page_has_a_new_nonce_at_every_answer(workshop: Workshop) {
    let server = &workshop.server;
    let nonce = || {
        let response = server.agent.get(&server.address).call().unwrap();
        let policy = response.headers()["content-security-policy"].to_str().unwrap().to_owned();
        let (_, after) = policy.split_once("'nonce-").unwrap();
        after.split('\'').next().unwrap().to_owned()
    };
    let (first, second) = (nonce(), nonce());
    assert_ne!(first, second);
    assert!(first.len() >= 16);
}

#[rstest]
fn the_book_is_listed_searched_and_read_fault_by_fault(workshop: Workshop) {
    let server = &workshop.server;
    let (_, list) = server.get("/api/knowledge");
    assert!(list["faults"].as_array().unwrap().len() >= 110 && list["tests"].as_array().unwrap().len() >= 90);
    let (_, hits) = server.get("/api/knowledge/search?q=weak%20spark%20cylinder%203");
    assert_eq!((hits[0]["id"].as_str(), hits[0]["outcome"].as_str()), (Some("spark-test"), Some("weak")));
    assert_eq!(hits[0]["target"], "cylinder 3");
    let (_, fault) = server.get("/api/knowledge/faults/condenser-fails");
    let shown = fault["shows"].as_array().unwrap();
    let substitute = shown.iter().find(|s| s["tests"][0]["id"] == "condenser-substitute").unwrap();
    assert!(substitute["states"][0]["chance"].as_f64().unwrap() > 0.9);
    let (_, test) = server.get("/api/knowledge/tests/condenser-substitute");
    assert!(test["faults"].as_array().unwrap().iter().any(|f| f["id"] == "condenser-fails"));
    assert_eq!(server.get("/api/knowledge/faults/gremlin").0, 404);
    assert_eq!(server.get("/api/knowledge/tests/staring").0, 404);
}

#[rstest]
fn the_workshops_own_figures_are_kept_used_and_taken_back(workshop: Workshop) {
    let server = &workshop.server;
    let lead = |server: &Served| {
        let (_, job) = server.get("/api/jobs/7");
        job["state"]["suspects"]["result"]["suspects"][0]["present"].as_f64().unwrap()
    };
    let before = lead(server);
    let (_, page) = server.get("/api/workshop");
    assert_eq!(page["broken"], Value::Null);
    let mut own = page["own"].clone();
    own["rates"] = json!({"condenser-fails": 500.0});
    own["usual"] = json!([{"fault": "condenser-fails", "cases": 9.0, "vehicle": "Pell 1600 heritage snow tractor, 1.6 petrol",
        "because": "every autumn"}]);
    let (status, page) = server.put("/api/workshop", &own);
    assert_eq!(status, 200);
    let bent = &page["bent"][0];
    assert_eq!(bent["fault"], "condenser-fails");
    assert!(bent["here_pct"].as_f64().unwrap() > 2.0 * bent["book_pct"].as_f64().unwrap());
    assert!(lead(server) > before + 0.05, "{before} and {}", lead(server));
    own["rates"] = json!({});
    own["usual"] = json!([]);
    server.put("/api/workshop", &own);
    assert!((lead(server) - before).abs() < 1e-9);
    own["rates"] = json!({"gremlin": 1.0});
    let (status, problem) = server.put("/api/workshop", &own);
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some("workshop.rates")));
}

#[rstest]
fn a_closed_and_proven_job_is_learnt_from_and_can_be_unlearnt(workshop: Workshop) {
    let server = &workshop.server;
    let (_, page) = server.get("/api/workshop");
    let learnt = page["learnt"].as_array().unwrap();
    assert_eq!(learnt.len(), 1, "{learnt:?}");
    assert_eq!((learnt[0]["job"].as_i64(), learnt[0]["fleet_no"].as_str()), (Some(1), Some("W-07")));
    assert!(learnt[0]["fault"].as_str().unwrap().starts_with("plug-"), "{learnt:?}");
    assert_eq!(page["bent"].as_array().unwrap().len(), 1);
    let mut own = page["own"].clone();
    own["unlearnt_jobs"] = json!([1]);
    let (_, page) = server.put("/api/workshop", &own);
    assert_eq!((page["learnt"][0]["counts"].as_bool(), page["bent"].as_array().unwrap().len()), (Some(false), 0));
}

#[rstest]
fn every_demonstration_job_has_its_suspects_and_a_next_move(workshop: Workshop) {
    let server = &workshop.server;
    let leading = |id: u32| {
        let (_, job) = server.get(&format!("/api/jobs/{id}"));
        let shown = &job["state"]["suspects"]["result"]["suspects"];
        let list = shown.as_array().unwrap().iter().take(2);
        list.map(|s| s["fault"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(leading(3)[0], "intake-gasket");
    let mut two = leading(4);
    two.sort();
    assert_eq!(two, ["check-valve", "vanes-stick"], "two faults at once");
    assert_eq!(leading(5)[0], "crank-sensor-hot");
    assert_eq!(leading(7)[0], "condenser-fails");
    let (_, job) = server.get("/api/jobs/8");
    assert_eq!(job["state"]["next"]["step"], "test");
    assert_eq!(job["state"]["next"]["test"]["quick_first"], true, "a car that does not start");
    let (_, yard) = server.get("/api/yard");
    let rows = ["open", "closed"].map(|list| yard[list].as_array().unwrap().clone()).concat();
    let mut numbers: Vec<&str> = rows.iter().map(|j| j["fleet_no"].as_str().unwrap()).collect();
    numbers.sort_unstable();
    numbers.dedup();
    assert_eq!(numbers, ["H-01", "M-02", "W-03", "W-07", "W-12", "W-15", "W-21"]);
}
