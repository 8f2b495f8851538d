//! The repair over the API: jobs that go round to the byte, reports, cards, the search, backups by command.

use std::path::Path;
use std::process::{Command, Output};

use crate::serving::{Workshop, serve, workshop};
use rstest::rstest;
use serde_json::{Value, json};
use tempfile::TempDir;

impl Workshop {
    fn bytes(&self, path: &str) -> Vec<u8> {
        let mut answer = self.server.agent.get(format!("{}{path}", self.server.address)).call().unwrap();
        assert_eq!(answer.status().as_u16(), 200, "{path}");
        answer.body_mut().with_config().limit(1 << 30).read_to_vec().unwrap()
    }

    fn append(&self, job: u64, finding: Value) -> (u16, Value) {
        let seen = self.server.get(&format!("/api/jobs/{job}")).1["entries"].as_array().unwrap().len();
        let km = self.server.get(&format!("/api/jobs/{job}")).1["state"]["odometer_km"].clone();
        let entry = json!({"odometer_km": km, "author": "Ines", "finding": finding});
        let body = json!({"entry": entry, "seen": seen, "request_key": format!("{job}/{seen}")});
        self.server.post(&format!("/api/jobs/{job}/entries"), &body)
    }
}

/// A picture with a size, as small as a JPEG can be made by the server's own library.
fn picture() -> Vec<u8> {
    let mut bytes = std::io::Cursor::new(Vec::new());
    image::RgbImage::from_pixel(8, 6, image::Rgb([90, 40, 20])).write_to(&mut bytes, image::ImageFormat::Jpeg).unwrap();
    bytes.into_inner()
}

fn without_the_demonstration(folder: &Path, bundle: &[u8]) -> Vec<u8> {
    // Elsewhere: a workshop that has other jobs, vehicles and numbers.
    let server = serve(folder);
    let there = Workshop { server, folder: TempDir::new().unwrap() };
    for number in 0..3 {
        there.send(&format!("/api/jobs/1/photos?name=other{number}"), &picture());
        there.server.post("/api/jobs/2/captures/simulated", &json!({"probe": "coil-current"}));
    }
    let mut value: Value = serde_json::from_slice(bundle).unwrap();
    // The demonstration has this very job: elsewhere it has not.
    value["opened_at"] = json!("2026-10-01T06:00:00Z");
    value.as_object_mut().unwrap().remove("seal");
    let (status, job) = there.send("/api/bundles", value.to_string().as_bytes());
    assert_eq!(status, 201, "{job}");
    there.bytes(&format!("/api/jobs/{}/bundle", job["id"]))
}

#[rstest]
fn a_job_that_went_out_came_in_elsewhere_and_went_out_again_is_the_same_to_the_byte(workshop: Workshop) {
    // A recording, a capture that is on the trail, a photograph on the bench-out list.
    assert_eq!(workshop.send("/api/jobs/3/photos?name=manifold", &picture()).0, 201);
    assert_eq!(workshop.server.post("/api/jobs/3/captures/simulated", &json!({"probe": "coil-current"})).0, 201);
    let off = json!({"kind": "off", "items": [{"what": "manifold", "photo": 1}]});
    assert_eq!(workshop.append(3, off).0, 201);
    let first = workshop.bytes("/api/jobs/3/bundle");
    let away = TempDir::new().unwrap();
    let second = without_the_demonstration(away.path(), &first);
    // From the second place to a third, sealed as it came out.
    let third_folder = TempDir::new().unwrap();
    let third = Workshop { server: serve(third_folder.path()), folder: TempDir::new().unwrap() };
    let (status, job) = third.send("/api/bundles", &second);
    assert_eq!(status, 201, "{job}");
    let again = third.bytes(&format!("/api/jobs/{}/bundle", job["id"]));
    assert!(again == second, "the bundle changed on its way");
    let value: Value = serde_json::from_slice(&again).unwrap();
    assert_eq!((value["recordings"].as_array().unwrap().len(), value["captures"].as_array().unwrap().len()), (1, 1));
    assert_eq!(value["entries"][5 + 1]["finding"]["items"][0]["photo"], 1);
    let before: Value = serde_json::from_slice(&first).unwrap();
    assert_eq!((&before["entries"], &before["photos"]), (&value["entries"], &value["photos"]));
}

#[rstest]
fn photographs_and_the_owner_stay_behind_on_request(workshop: Workshop) {
    workshop.send("/api/jobs/3/photos?name=manifold", &picture());
    workshop.append(3, json!({"kind": "off", "items": [{"what": "manifold", "photo": 1}]}));
    let all: Value = serde_json::from_slice(&workshop.bytes("/api/jobs/3/bundle")).unwrap();
    let bare: Value =
        serde_json::from_slice(&workshop.bytes("/api/jobs/3/bundle?photos=false&captures=false&owner=false")).unwrap();
    assert_eq!((all["photos"].as_array().unwrap().len(), bare["photos"].as_array().unwrap().len()), (1, 0));
    assert!(all["vehicle"]["note"] != "" && bare["vehicle"]["note"] == "");
    let last = bare["entries"].as_array().unwrap().last().unwrap();
    assert!(last["finding"]["items"][0].get("photo").is_none(), "{last}");
}

#[rstest]
#[case::newer(json!("gritty-ember-job/9"), "format", "newer Gritty Ember")]
#[case::another(json!("something/1"), "format", "is not gritty-ember-job/2")]
fn a_bundle_that_cannot_be_taken_says_why_and_leaves_nothing(
    workshop: Workshop,
    #[case] format: Value,
    #[case] field: &str,
    #[case] says: &str,
) {
    let mut value: Value = serde_json::from_slice(&workshop.bytes("/api/jobs/3/bundle")).unwrap();
    value["format"] = format;
    let (status, problem) = workshop.send("/api/bundles", value.to_string().as_bytes());
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some(field)));
    assert!(problem["errors"][0]["reason"].as_str().unwrap().contains(says), "{problem}");
    let mut altered: Value = serde_json::from_slice(&workshop.bytes("/api/jobs/3/bundle")).unwrap();
    altered["entries"][0]["odometer_km"] = json!(5.0);
    let (status, problem) = workshop.send("/api/bundles", altered.to_string().as_bytes());
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some("seal")));
    assert_eq!(workshop.server.get("/api/yard").1["open_count"], 7);
}

#[rstest]
fn the_pdf_holds_what_the_report_says(workshop: Workshop) {
    let text = pdf_extract::extract_text_from_mem(&workshop.bytes("/api/jobs/1/report.pdf")).unwrap();
    let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
    for part in [
        "Hollin Fell patrol estate",
        "No. W-07",
        "The plug of cylinder 3 carried the fault",
        "That counts as proven",
        "page 1 of 1",
    ] {
        assert!(text.contains(part), "{part} is not in {text}");
    }
    let technician =
        pdf_extract::extract_text_from_mem(&workshop.bytes("/api/jobs/1/report.pdf?reader=technician")).unwrap();
    assert!(technician.contains("The trail") && technician.contains("CD-4417"));
    let written = String::from_utf8(workshop.bytes("/api/jobs/1/report.md?reader=technician")).unwrap();
    assert!(written.starts_with("# Hollin Fell") && written.contains("| Entry | When"));
    assert_eq!(workshop.server.get("/api/jobs/77/report").0, 404);
}

#[rstest]
fn the_yard_follows_every_entry(workshop: Workshop) {
    let row = |workshop: &Workshop| {
        let yard = workshop.server.get("/api/yard").1;
        yard["open"].as_array().unwrap().iter().find(|job| job["id"] == 3).cloned()
    };
    assert_eq!(row(&workshop).unwrap()["off"], 0);
    workshop.append(3, json!({"kind": "off", "items": [{"what": "manifold"}, {"what": "hose"}]}));
    assert_eq!(row(&workshop).unwrap()["off"], 2);
    workshop.append(3, json!({"kind": "parked"}));
    let cold = row(&workshop).unwrap();
    assert_eq!(cold["waiting_for"], "cold");
    assert!(cold["cold_at"].as_str().unwrap() > "2026", "{cold}");
    workshop.append(3, json!({"kind": "closed", "cause": "intake gasket"}));
    assert!(row(&workshop).is_none());
    let found = workshop.server.get("/api/search?words=intake&within=cause").1;
    assert_eq!((found[0]["job"]["id"].as_u64(), found[0]["cause"].as_str()), (Some(3), Some("intake gasket")));
    let history = workshop.server.get("/api/vehicles/1/history").1;
    assert_eq!(history["jobs"][0]["cause"], "Plug insulator cracked");
    assert_eq!(workshop.server.get("/api/vehicles/99/history").0, 404);
    assert_eq!(workshop.server.get("/api/search?words=%22").0, 422);
}

#[rstest]
fn what_was_learnt_from_a_job_is_the_fault_that_its_words_speak_of(workshop: Workshop) {
    workshop.server.get("/api/yard");
    let learnt = workshop.server.get("/api/workshop").1["learnt"].clone();
    assert_eq!(learnt[0]["name"], "Spark plug insulator cracked or tracking", "{learnt}");
}

#[rstest]
fn offers_are_kept_with_the_workshop(workshop: Workshop) {
    let mut own = workshop.server.get("/api/workshop").1["own"].clone();
    own["offers"] = json!([{"part": "coil", "source": "rebuilt", "price": 30, "sold_by": 1, "deposit": 10, "days": 2, "supplier": "Tarn Trade"}]);
    assert_eq!(workshop.server.put("/api/workshop", &own).0, 200);
    let choices = workshop.server.get("/api/repairs/choices").1;
    assert_eq!(choices["offers"][0]["supplier"], "Tarn Trade");
    assert_eq!(choices["suppliers"][0]["supplier"], "Northgate Parts");
    own["offers"][0]["price"] = json!(-1);
    assert_eq!(workshop.server.put("/api/workshop", &own).1["errors"][0]["field"], "workshop.offers[0].price");
}

fn command(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_gritty-ember")).args(arguments).output().unwrap()
}

#[rstest]
fn a_backup_by_command_while_it_serves_comes_back_and_a_wrong_one_does_not(workshop: Workshop) {
    let out = TempDir::new().unwrap();
    let (data, file, back) = (workshop.folder.path(), out.path().join("copy"), out.path().join("back"));
    let text = |path: &Path| path.to_str().unwrap().to_owned();
    let (data, file, back) = (text(data), text(&file), text(&back));
    let made = command(&["backup", "--data", &data, "--to", &file]);
    assert!(made.status.success(), "{made:?}");
    assert!(String::from_utf8_lossy(&made.stdout).contains("7 vehicles, 8 jobs"));
    assert!(command(&["restore", "--from", &file, "--data", &back]).status.success());
    assert!(command(&["check", "--data", &back]).status.success());
    for (arguments, says) in [
        (["backup", "--data", &data, "--to", &file], "is there already"),
        (["restore", "--from", &file, "--data", &back], "is there already"),
        (["restore", "--from", &text(&out.path().join("none")), "--data", &back], "is no backup"),
        (["backup", "--data", &text(out.path()), "--to", &text(&out.path().join("x"))], "holds no data"),
    ] {
        let refused = command(&arguments);
        assert_eq!(refused.status.code(), Some(2));
        assert!(String::from_utf8_lossy(&refused.stderr).contains(says), "{refused:?}");
    }
}

#[rstest]
#[case::a_backup("backup", "--data", "--to")]
#[case::bringing_one_back("restore", "--from", "--data")]
fn a_disk_that_takes_no_more_leaves_nothing_behind_and_harms_nothing(
    workshop: Workshop,
    #[case] what: &str,
    #[case] from: &str,
    #[case] to: &str,
) {
    let out = TempDir::new().unwrap();
    let text = |path: &Path| path.to_str().unwrap().to_owned();
    let (data, copy, place) = (text(workshop.folder.path()), out.path().join("copy"), out.path().join("place"));
    let source = if what == "backup" { data.clone() } else { text(&copy) };
    if what == "restore" {
        assert!(command(&["backup", "--data", &data, "--to", &source]).status.success());
    }
    let arguments = [what, from, &source, to, &text(&place)];
    // Files may grow to 100 kB only: a write fails in the middle, as it does on a full disk.
    let full = Command::new("sh")
        .args(["-c", "trap '' XFSZ; ulimit -f 200; exec \"$@\"", "sh", env!("CARGO_BIN_EXE_gritty-ember")])
        .args(arguments)
        .output()
        .unwrap();
    assert_eq!(full.status.code(), Some(2), "{full:?}");
    let says = String::from_utf8_lossy(&full.stderr).into_owned();
    assert!(says.contains("cannot be written") && says.lines().count() == 1, "{says}");
    let left: Vec<_> = walk(&place).into_iter().filter(|name| name != "in-use").collect();
    assert_eq!(left, [""; 0], "nothing is left behind");
    assert!(command(&["check", "--data", &data]).status.success());
    assert_eq!(workshop.append(1, json!({"kind": "note", "text": "goes on"})).0, 201);
    assert!(command(&arguments).status.success(), "with room again it is made");
}

/// The names of the files at a place, or in it, that were half made or whole.
fn walk(place: &Path) -> Vec<String> {
    let beside = place.with_file_name("place.part");
    let inside = std::fs::read_dir(place).into_iter().flatten().map(|entry| entry.unwrap().path());
    let mut names: Vec<String> = inside
        .chain([place.to_path_buf(), beside].into_iter().filter(|path| path.is_file()))
        .map(|path| path.file_name().unwrap().to_str().unwrap().to_owned())
        .collect();
    names.sort();
    names
}

/// Reads a log made by the simulator into a recording of a job, and puts it on the trail.
fn recorded(workshop: &Workshop, job: u64, vehicle: &str, fault: Option<&str>, seconds: u32, name: &str) -> u64 {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join("drive.csv");
    let seconds = seconds.to_string();
    let mut arguments =
        vec!["sim", "--vehicle", vehicle, "--seconds", &seconds, "--per-second", "4", "--csv", path.to_str().unwrap()];
    arguments.extend(fault.into_iter().flat_map(|fault| ["--fault", fault]));
    assert!(command(&arguments).status.success());
    let text = std::fs::read(&path).unwrap();
    let (_, look) = workshop.send("/api/imports/look", &text);
    let layout: String = look["layout"].to_string().bytes().map(|b| format!("%{b:02X}")).collect();
    let (status, imported) =
        workshop.send(&format!("/api/jobs/{job}/logs?name={name}&key={name}&layout={layout}"), &text);
    assert_eq!(status, 201, "{imported}");
    imported["recording"]["id"].as_u64().unwrap()
}

fn keep(workshop: &Workshop, job: u64, recording: u64) {
    let job = workshop.server.get(&format!("/api/jobs/{job}")).1;
    let body = json!({"odometer_km": job["state"]["odometer_km"], "author": "Ines", "conditions": "the loop",
        "seen": job["entries"].as_array().unwrap().len(), "request_key": format!("keep {recording}")});
    let (status, answer) = workshop.server.post(&format!("/api/recordings/{recording}/keep"), &body);
    assert_eq!(status, 201, "{answer}");
}

#[rstest]
fn the_drive_that_proves_it_is_ticked_off_by_what_was_driven_since(workshop: Workshop) {
    let drive = |workshop: &Workshop| workshop.server.get("/api/jobs/8/drive").1;
    assert!(drive(&workshop)["plan"].is_null(), "nothing is repaired yet");
    let before = recorded(&workshop, 8, "W-07", Some("misfire-under-load=3"), 600, "before");
    keep(&workshop, 8, before);
    assert_eq!(workshop.append(8, json!({"kind": "fitted", "part": "plug", "cylinder": 3})).0, 201);
    let planned = drive(&workshop);
    let cell = planned["plan"]["cells"][0].clone();
    assert!(cell["minutes"].as_f64().unwrap() > 0.0 && cell["episodes"].as_f64().unwrap() > 0.0, "{planned}");
    // Driven since, and not on the trail yet: it counts, and the screen says so.
    let after = recorded(&workshop, 8, "W-07", None, 600, "after");
    let ticked = drive(&workshop);
    assert_eq!(ticked["not_on_trail"], 1);
    assert!(ticked["plan"]["confidence"].as_f64() > planned["plan"]["confidence"].as_f64());
    keep(&workshop, 8, after);
    let kept = drive(&workshop);
    assert_eq!((kept["not_on_trail"].as_u64(), &kept["plan"]["confidence"]), (Some(0), &ticked["plan"]["confidence"]));
    assert!(kept["now"].is_null(), "no car is watched");
    assert_eq!(workshop.server.get("/api/jobs/99/drive").0, 404);
}

#[rstest]
fn a_reading_is_taken_out_of_a_recording_before_and_after(workshop: Workshop) {
    let read =
        |recording: u64, query: &str| workshop.server.get(&format!("/api/recordings/{recording}/full-request?{query}"));
    let pair = "wanted=rail_request&got=rail_pressure";
    let short = |recording: u64| {
        let reading = read(recording, pair).1["reading"].clone();
        reading["got"].as_f64().unwrap() / reading["wanted"].as_f64().unwrap()
    };
    let before = recorded(&workshop, 6, "W-21", Some("weak-pump=0.62"), 420, "before");
    let after = recorded(&workshop, 6, "W-21", None, 420, "after");
    assert!(short(before) < 0.75 && short(after) > 0.97, "{} {}", short(before), short(after));
    assert_eq!(read(before, pair).1["what"], "fuel rail pressure");
    for (query, status, field) in [
        ("wanted=rail_request&got=no_such", 422, "got"),
        ("wanted=no_such&got=rail_pressure", 422, "wanted"),
        ("wanted=coolant&got=throttle", 422, "wanted"),
    ] {
        let (answered, problem) = read(before, query);
        assert_eq!((answered, problem["errors"][0]["field"].as_str()), (status, Some(field)), "{problem}");
    }
    assert_eq!(read(77, pair).0, 404);
}

#[rstest]
fn a_start_is_held_back_by_the_server_too(workshop: Workshop) {
    workshop.append(3, json!({"kind": "off", "items": [{"what": "manifold"}]}));
    let (status, problem) = workshop.append(3, json!({"kind": "started"}));
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some("entry.finding.anyway")));
    assert_eq!(workshop.append(3, json!({"kind": "on", "items": [{"entry": 7, "index": 0}]})).0, 201);
    let (status, job) = workshop.append(3, json!({"kind": "started"}));
    assert_eq!((status, job["state"]["bench_out"]["start_is_due"].as_bool()), (201, Some(false)));
}

#[rstest]
fn the_depot_counts_a_recurrence_against_the_repair(workshop: Workshop) {
    let figures = |workshop: &Workshop| workshop.server.get("/api/depot").1;
    assert_eq!(figures(&workshop)["right_first_time"]["count"], 1);
    assert_eq!(workshop.server.get("/api/workshop").1["learnt"].as_array().unwrap().len(), 1);
    let (status, job) = workshop.append(1, json!({"kind": "occurred", "text": "on the pass road again"}));
    assert_eq!((status, job["state"]["closed"].as_bool()), (201, Some(false)));
    let after = figures(&workshop);
    assert_eq!((after["right_first_time"]["count"].as_u64(), after["comebacks"]["count"].as_u64()), (Some(0), Some(1)));
    assert_eq!(after["parts"][0]["part"], "plug");
    assert_eq!(
        workshop.server.get("/api/workshop").1["learnt"],
        json!([]),
        "nothing is learnt from a repair that did not hold"
    );
}
