//! The API of links, logs, recordings and bundles.

use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use crate::serving::{Workshop, serve, workshop};
use rstest::rstest;
use serde_json::{Value, json};
use tempfile::TempDir;

/// A simulated car that ends with the test.
struct SimulatedCar {
    child: Child,
    address: String,
}

impl Drop for SimulatedCar {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

fn simulate(more: &[&str]) -> SimulatedCar {
    use std::io::{BufRead, BufReader};
    let mut child = Command::new(env!("CARGO_BIN_EXE_gritty-ember"))
        .args(["sim", "--rate", "20"])
        .args(more)
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
    SimulatedCar { address: line.trim().rsplit(' ').next().unwrap().to_owned(), child }
}

impl Workshop {
    /// Looks at the link until it is as wished.
    fn wait(&self, job: u32, wished: impl Fn(&Value) -> bool) -> Value {
        let until = Instant::now() + Duration::from_secs(20);
        loop {
            let (_, status) = self.server.get(&format!("/api/jobs/{job}/link"));
            if wished(&status) {
                return status;
            }
            assert!(Instant::now() < until, "{status:#}");
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    fn connect(&self, job: u32, address: &str) {
        let (status, answer) = self.server.post(&format!("/api/jobs/{job}/link"), &json!({"address": address}));
        assert_eq!(status, 200, "{answer}");
        self.wait(job, |s| s["connected"] == true);
    }

    fn ask(&self, job: u32, request: &Value) -> (u16, Value) {
        self.server.post(&format!("/api/jobs/{job}/link/requests"), request)
    }
}

fn entries(job: &Value) -> usize {
    job["entries"].as_array().unwrap().len()
}

#[rstest]
fn a_scan_is_saved_before_anything_can_be_cleared(workshop: Workshop) {
    let car = simulate(&["--vehicle", "W-12", "--fault", "air-leak=2.2"]);
    workshop.connect(3, &car.address);
    assert_eq!(workshop.ask(3, &json!({"what": "clear"})).1["type"], "not-saved");
    assert_eq!(workshop.ask(3, &json!({"what": "scan"})).0, 202);
    let status = workshop.wait(3, |s| s["scan"]["complete"] == true);
    let units = status["scan"]["units"].as_array().unwrap();
    let names: Vec<&str> = units.iter().map(|u| u["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["engine", "gearbox", "brakes", "plough", "body"]);
    assert_eq!(units[4]["read"], false, "the others miss it, and so it is listed");
    assert!(units[0]["codes"][0]["freeze"].as_array().unwrap().len() > 5);
    assert_eq!(units[0]["self_tests"]["ready"][0], "misfire");
    assert!(units[1]["self_tests"].is_null(), "only the engine's unit has them");
    let seen = entries(&workshop.server.get("/api/jobs/3").1);
    let save = json!({"number": 1, "odometer_km": 61240, "author": "Ada", "seen": seen, "request_key": "scan"});
    let (status, job) = workshop.server.post("/api/jobs/3/link/scan", &save);
    assert_eq!((status, entries(&job)), (201, seen + 1));
    assert_eq!(job["state"]["units"]["units"][0]["unit"], "engine");
    assert_eq!(workshop.ask(3, &json!({"what": "clear"})).0, 202);
    workshop.wait(3, |s| s["scan"]["cleared"] == true);
    let stale = json!({"number": 7, "odometer_km": 61240, "author": "Ada", "seen": seen + 1, "request_key": "other"});
    assert_eq!(workshop.server.post("/api/jobs/3/link/scan", &stale).1["type"], "stale");
}

#[rstest]
fn a_second_scan_while_one_runs_is_refused_and_the_first_can_be_stopped(workshop: Workshop) {
    // Every other answer is rubbish, so each request waits in vain and the scan takes long.
    let car = simulate(&["--vehicle", "W-12", "--rubbish-every", "2"]);
    let (status, _) = workshop.server.post("/api/jobs/3/link", &json!({"address": car.address}));
    assert_eq!(status, 200);
    workshop.wait(3, |s| s["connected"] == true);
    workshop.ask(3, &json!({"what": "scan"}));
    workshop.wait(3, |s| s["activity"]["doing"] == "scanning");
    let (status, problem) = workshop.ask(3, &json!({"what": "scan"}));
    assert_eq!((status, problem["type"].as_str()), (409, Some("busy")));
    assert_eq!(workshop.ask(3, &json!({"what": "stop-scan"})).0, 202);
    let stopped = workshop.wait(3, |s| s["activity"]["doing"] == "nothing");
    assert!(stopped["problem"].as_str().unwrap().contains("stopped"), "{stopped:#}");
    assert_ne!(stopped["scan"]["complete"], true);
    assert!(stopped["rubbish"].as_u64().unwrap() > 0);
}

#[rstest]
fn a_drive_is_recorded_kept_and_reckoned(workshop: Workshop) {
    let car = simulate(&["--vehicle", "W-07", "--fault", "dead-coil=2"]);
    workshop.connect(1, &car.address);
    assert_eq!(workshop.ask(1, &json!({"what": "record", "name": ""})).0, 422);
    assert_eq!(workshop.ask(1, &json!({"what": "record", "name": "idle"})).0, 202);
    workshop.wait(1, |s| s["recording"]["seconds"].as_f64().is_some_and(|t| t > 45.0));
    assert_eq!(workshop.ask(1, &json!({"what": "record", "name": "again"})).1["type"], "busy");
    workshop.ask(1, &json!({"what": "end-recording"}));
    let status = workshop.wait(1, |s| s["recording"]["ended"] == true);
    let id = status["recording"]["recording"].as_i64().unwrap();
    let (_, recording) = workshop.server.get(&format!("/api/recordings/{id}"));
    assert_eq!(recording["results"][0]["fault"], true);
    let seen = entries(&workshop.server.get("/api/jobs/1").1);
    let keep =
        json!({"odometer_km": 84976, "author": "Ada", "conditions": "idle", "seen": seen, "request_key": "keep"});
    let (status, job) = workshop.server.post(&format!("/api/recordings/{id}/keep"), &keep);
    assert_eq!((status, entries(&job)), (201, seen + 2), "the recording and its counts: {job:#}");
    assert!(job["state"]["misfire"]["result"]["says"].as_str().unwrap().contains("cylinder 2"));
    // The same request once more, its answer lost: nothing is written twice.
    let (_, again) = workshop.server.post(&format!("/api/recordings/{id}/keep"), &keep);
    assert!(again["entries"].is_null() || entries(&again) == seen + 2);
    let (_, map) = workshop.server.get(&format!("/api/recordings/{id}/misfires"));
    assert_eq!(map["map"]["worst_cylinder"], 2);
}

#[rstest]
#[case::no_link(2, json!({"what": "scan"}), 409)]
#[case::no_such_request(2, json!({"what": "explode"}), 422)]
fn a_request_without_a_link_is_refused(
    workshop: Workshop,
    #[case] job: u32,
    #[case] request: Value,
    #[case] status: u16,
) {
    assert_eq!(workshop.ask(job, &request).0, status);
}

#[rstest]
fn outputs_that_are_not_there_and_positions_beyond_the_travel_are_refused(workshop: Workshop) {
    let car = simulate(&["--vehicle", "W-15"]);
    workshop.connect(4, &car.address);
    let refused = |request: Value| workshop.ask(4, &request).1["errors"][0]["field"].as_str().unwrap().to_owned();
    assert_eq!(refused(json!({"what": "drive", "identifier": 9, "to": 50.0})), "identifier");
    assert_eq!(refused(json!({"what": "drive", "identifier": 770, "to": 150.0})), "to");
    workshop.ask(4, &json!({"what": "drive", "identifier": 770, "to": 60.0}));
    let status = workshop.wait(4, |s| s["outputs"].as_array().unwrap().iter().any(|o| !o["reported"].is_null()));
    let vanes = status["outputs"].as_array().unwrap().iter().find(|o| o["identifier"] == 770).unwrap();
    assert!((vanes["reported"].as_f64().unwrap() - 60.0).abs() < 2.0, "{vanes}");
}

#[rstest]
fn a_log_is_looked_at_read_and_drawn(workshop: Workshop) {
    let text = std::fs::read(format!("{}/../../demo-data/w12-after-the-wash.csv", env!("CARGO_MANIFEST_DIR"))).unwrap();
    let (status, look) = workshop.send("/api/imports/look", &text);
    assert_eq!((status, look["kind"].as_str(), look["remembered"].as_bool()), (200, Some("table"), Some(false)));
    let mut query = String::new();
    for byte in look["layout"].to_string().bytes() {
        query.push_str(&format!("%{byte:02X}"));
    }
    let (status, imported) = workshop.send(&format!("/api/jobs/3/logs?name=wash.csv&key=k&layout={query}"), &text);
    assert_eq!((status, imported["rows"].as_u64()), (201, Some(1681)), "{imported}");
    assert_eq!(workshop.send("/api/imports/look", &text).1["remembered"], true);
    let id = imported["recording"]["id"].as_i64().unwrap();
    let (_, trims) = workshop.server.get(&format!("/api/recordings/{id}/trims"));
    assert!((trims["result"]["leak_mm"].as_f64().unwrap() / 2.2 - 1.0).abs() < 0.15);
    assert_eq!(workshop.server.get(&format!("/api/recordings/{id}/trims?ambient_kpa=-5")).0, 422);
    assert_eq!(workshop.server.get(&format!("/api/recordings/{id}/boost")), (200, Value::Null));
    let (_, trace) = workshop
        .server
        .get(&format!("/api/recordings/{id}/trace?channels=engine_speed,none&from_s=10&to_s=20&columns=50"));
    assert_eq!(trace["channels"].as_array().unwrap().len(), 1);
    assert_eq!(trace["time_s"].as_array().unwrap().len(), 50);
    assert_eq!(workshop.server.get(&format!("/api/recordings/{id}/trace?channels=load&from_s=9&to_s=3")).0, 422);
    let (_, csv) = workshop.server.get(&format!("/api/recordings/{id}/channels.csv"));
    let (_, again) = workshop.send("/api/imports/look", csv.as_str().unwrap().as_bytes());
    let known = again["layout"]["columns"].as_array().unwrap().iter().filter(|c| !c["channel"].is_null()).count();
    assert_eq!(known, 20, "what is written out is known again");
    assert_eq!(workshop.server.get("/api/recordings/999").0, 404);
}

#[rstest]
fn a_capture_becomes_a_recording_with_its_codes(workshop: Workshop) {
    let text = std::fs::read(format!("{}/../../demo-data/w12-scan.log", env!("CARGO_MANIFEST_DIR"))).unwrap();
    assert_eq!(workshop.send("/api/imports/look", &text).1["kind"], "capture");
    let (status, imported) = workshop.send("/api/jobs/3/logs?name=scan.log&key=c", &text);
    assert_eq!(status, 201, "{imported}");
    assert!(imported["codes"].as_array().unwrap().contains(&json!("P0171")));
    assert_eq!(imported["faults"], json!([]));
}

#[rstest]
#[case::empty(b"", "file")]
#[case::no_table(b"just words\nand more\n", "file")]
#[case::zero_bytes(b"a,b\0\n1,2\n", "file")]
fn a_file_that_is_no_log_is_refused(workshop: Workshop, #[case] bytes: &[u8], #[case] field: &str) {
    let (status, problem) = workshop.send("/api/imports/look", bytes);
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some(field)));
}

#[rstest]
fn what_is_refused_half_way_leaves_nothing_behind(workshop: Workshop) {
    let layout = "%7B%22separator%22%3A%22%2C%22%2C%22heading_line%22%3A1%2C%22unit_lines%22%3A0%2C%22time%22%3A%22seconds%22%2C%22columns%22%3A%5B%7B%22heading%22%3A%22t%22%2C%22channel%22%3A%22time%22%7D%2C%7B%22heading%22%3A%22rpm%22%2C%22channel%22%3A%22engine_speed%22%7D%5D%7D";
    let backwards: String = (0..50).map(|i| format!("{},800\n", 100 - i)).collect();
    let (status, problem) = workshop
        .send(&format!("/api/jobs/3/logs?name=x&key=x&layout={layout}"), format!("t,rpm\n{backwards}").as_bytes());
    assert_eq!(status, 422);
    assert!(problem["detail"].as_str().unwrap().contains("runs backwards"), "{problem}");
    let names: Vec<Value> = workshop.server.get("/api/jobs/3/recordings").1.as_array().unwrap().clone();
    assert_eq!(names.len(), 1, "only the demonstration's own");
}

#[rstest]
fn a_job_goes_out_and_comes_back_the_same(workshop: Workshop) {
    let (_, bundle) = workshop.server.get("/api/jobs/3/bundle");
    assert_eq!(bundle["format"], "gritty-ember-job/2");
    assert_eq!(workshop.server.post("/api/bundles", &bundle).0, 422, "it is here already");
    let elsewhere = TempDir::new().unwrap();
    let other = serve(elsewhere.path());
    let mut moved = bundle.clone();
    moved["opened_at"] = json!("2026-11-20T06:30:00Z");
    moved.as_object_mut().unwrap().remove("seal");
    let (status, job) = other.post("/api/bundles", &moved);
    assert_eq!(status, 201, "{job}");
    let id = job["id"].as_i64().unwrap();
    let (_, again) = other.get(&format!("/api/jobs/{id}/bundle"));
    assert_eq!(again["recordings"][0]["channels"], bundle["recordings"][0]["channels"]);
    assert_eq!(again["recordings"][0]["time_s"], bundle["recordings"][0]["time_s"]);
    let without_numbers = |bundle: &Value| {
        let mut entries = bundle["entries"].clone();
        for entry in entries.as_array_mut().unwrap() {
            if let Some(finding) = entry["finding"].as_object_mut() {
                finding.remove("recording");
            }
        }
        entries
    };
    assert_eq!(without_numbers(&again), without_numbers(&bundle));
}

#[rstest]
fn a_recording_kept_on_a_stale_view_writes_nothing(workshop: Workshop) {
    let text = "time,rpm,misfires cyl 1,misfires cyl 2,misfires cyl 3\n0,1500,0,0,0\n1,1500,0,0,0\n2,1500,0,1,0\n";
    let (_, look) = workshop.send("/api/imports/look", text.as_bytes());
    let layout: String = look["layout"].to_string().bytes().map(|b| format!("%{b:02X}")).collect();
    let (_, imported) =
        workshop.send(&format!("/api/jobs/2/logs?name=ford.csv&key=f&layout={layout}"), text.as_bytes());
    let seen = entries(&workshop.server.get("/api/jobs/2").1);
    assert_eq!(workshop.server.note(seen as u32, "meanwhile", "another tablet wrote").0, 201);
    let keep = json!({"odometer_km": 6432, "author": "Ada", "seen": seen, "request_key": "late"});
    let id = imported["recording"]["id"].as_i64().unwrap();
    let (status, problem) = workshop.server.post(&format!("/api/recordings/{id}/keep"), &keep);
    assert_eq!((status, problem["type"].as_str()), (409, Some("stale")));
    assert_eq!(entries(&workshop.server.get("/api/jobs/2").1), seen + 1);
}

#[rstest]
fn the_simulated_cars_of_the_demonstration_are_known_as_adapters(workshop: Workshop) {
    let (_, adapters) = workshop.server.get("/api/adapters");
    let fleet: Vec<&str> = adapters.as_array().unwrap().iter().map(|a| a["fleet_no"].as_str().unwrap()).collect();
    assert_eq!(fleet, ["W-12", "W-07", "W-15", "W-03", "W-21"]);
    let address = adapters[0]["address"].as_str().unwrap();
    assert!(address.starts_with("127.0.0.1:"), "on this machine only: {address}");
    workshop.connect(3, address);
    let (_, again) = workshop.server.post("/api/jobs/3/link", &json!({"address": address}));
    assert_eq!(again["type"], "busy");
    let (_, other) = workshop.server.get("/api/jobs/2/link");
    assert_eq!(other["connected"], false, "each job has a link of its own");
}

#[rstest]
#[case::no_port("127.0.0.1")]
#[case::a_name("adapter:35000")]
#[case::nothing("")]
fn an_address_that_is_none_is_refused(workshop: Workshop, #[case] address: &str) {
    let (status, problem) = workshop.server.post("/api/jobs/3/link", &json!({"address": address}));
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some("address")));
}

#[rstest]
fn nobody_at_the_address_is_said_in_the_status(workshop: Workshop) {
    workshop.server.post("/api/jobs/3/link", &json!({"address": "127.0.0.1:9"}));
    let status = workshop.wait(3, |s| !s["problem"].is_null());
    assert!(status["problem"].as_str().unwrap().contains("cannot be reached"), "{status:#}");
    assert_eq!(status["connected"], false);
}

#[rstest]
fn a_link_for_a_job_that_is_not_there_is_refused(workshop: Workshop) {
    assert_eq!(workshop.server.post("/api/jobs/99/link", &json!({"address": "127.0.0.1:9"})).0, 404);
}

#[rstest]
fn a_paused_recording_takes_nothing_and_goes_on_where_it_was_told(workshop: Workshop) {
    let car = simulate(&["--vehicle", "W-07"]);
    workshop.connect(1, &car.address);
    workshop.ask(1, &json!({"what": "record", "name": "idle"}));
    workshop.wait(1, |s| s["recording"]["samples"].as_u64() > Some(20));
    workshop.ask(1, &json!({"what": "pause", "on": true}));
    let paused = workshop.wait(1, |s| s["recording"]["paused"] == true);
    std::thread::sleep(Duration::from_millis(300));
    let later = workshop.wait(1, |_| true);
    assert_eq!(later["recording"]["samples"], paused["recording"]["samples"]);
    assert_eq!(later["activity"]["doing"], "nothing");
    workshop.ask(1, &json!({"what": "pause", "on": false}));
    workshop.wait(1, |s| s["recording"]["samples"].as_u64() > later["recording"]["samples"].as_u64());
    workshop.ask(1, &json!({"what": "end-recording"}));
    let ended = workshop.wait(1, |s| s["recording"]["ended"] == true);
    workshop.ask(1, &json!({"what": "let-go"}));
    workshop.wait(1, |s| s["recording"].is_null());
    let id = ended["recording"]["recording"].as_i64().unwrap();
    assert_eq!(workshop.server.get(&format!("/api/recordings/{id}")).0, 200, "let go of, and still there");
}

#[rstest]
fn parting_ends_a_recording_and_keeps_it(workshop: Workshop) {
    let car = simulate(&["--vehicle", "W-07"]);
    workshop.connect(1, &car.address);
    workshop.ask(1, &json!({"what": "record", "name": "idle"}));
    workshop.wait(1, |s| s["recording"]["samples"].as_u64() > Some(5));
    let address = format!("{}/api/jobs/1/link", workshop.server.address);
    assert_eq!(workshop.server.agent.delete(address).call().unwrap().status().as_u16(), 200);
    let parted = workshop.wait(1, |s| s["connected"] == false);
    assert_eq!(parted["recording"]["ended"], true);
    assert_eq!(workshop.server.get("/api/jobs/1/recordings").1.as_array().unwrap().len(), 1);
}
