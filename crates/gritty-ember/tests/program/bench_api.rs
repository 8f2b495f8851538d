//! The bench over the API: readings judged before they count, captures taken and kept, photographs, instruments.

use std::io::Cursor;

use crate::serving::{Workshop, workshop};
use rstest::rstest;
use serde_json::{Value, json};

/// M-02, a snowmobile with a coil for each of three cylinders.
const M02: &str = "/api/jobs/2";

fn coil(display: Value) -> Value {
    json!({"instrument": "bench meter", "target": "cylinder 2", "reading": {"bench": "resistance", "part": "coil-primary",
        "reading": {"display": display, "leads_ohm": 0.2, "part_c": 40, "conductor": "copper",
            "meter": {"percent": 0.8, "digits": 3, "resolution": 0.01}, "spec": {"low_ohm": 0.6, "high_ohm": 0.9, "at_c": 20}}}})
}

impl Workshop {
    fn seen(&self) -> usize {
        self.server.get(M02).1["entries"].as_array().unwrap().len()
    }

    fn simulated(&self, probe: &str) -> u64 {
        let (status, stored) = self.server.post(&format!("{M02}/captures/simulated"), &json!({"probe": probe}));
        assert_eq!(status, 201, "{stored}");
        stored["id"].as_u64().unwrap()
    }
}

fn ask(of: &str, channel: &str) -> Value {
    json!({"of": of, "signals": [{"channel": channel}], "sync": "sync", "supply_v": 13.8})
}

#[rstest]
fn a_reading_is_judged_and_nothing_of_it_is_kept(workshop: Workshop) {
    let before = workshop.seen();
    let (status, result) = workshop.server.post(&format!("{M02}/bench"), &coil(json!("0,98")));
    assert_eq!((status, &result["word"]), (200, &json!("pass")), "{result:#}");
    assert_eq!(workshop.seen(), before);
    let evidence = result["evidence"].as_array().unwrap();
    assert!(evidence.iter().any(|f| f["test"] == "coil-resistance" && f["target"] == "cylinder 2"), "{evidence:?}");
    // M-02 has a coil for each cylinder, so what is asked of a single coil says nothing here.
    assert!(evidence.iter().all(|f| f["test"] != "single-coil-resistance"));
}

#[rstest]
fn a_reading_that_is_put_on_the_trail_is_shown_and_weighs(workshop: Workshop) {
    let mut finding = coil(json!("OL"));
    finding["kind"] = json!("measured");
    let entry = json!({"odometer_km": 6419, "author": "Ada", "finding": finding});
    let body = json!({"seen": workshop.seen(), "request_key": "ohm", "entry": entry});
    let (status, job) = workshop.server.post(&format!("{M02}/entries"), &body);
    assert_eq!(status, 201, "{job}");
    let shown = job["state"]["measured"].as_array().unwrap();
    assert_eq!((shown.len(), &shown[0]["result"]["word"]), (1, &json!("open")));
    assert_eq!(job["entries"].as_array().unwrap().last().unwrap()["finding"]["reading"]["reading"]["display"], "OL");
}

#[rstest]
#[case::volts(coil(json!("12V")), "reading.reading.display")]
#[case::too_hot({ let mut c = coil(json!(1)); c["reading"]["reading"]["part_c"] = json!(900); c }, "reading.reading.part_c")]
#[case::no_instrument({ let mut c = coil(json!(1)); c["instrument"] = json!(""); c }, "instrument")]
#[case::unknown_kind(json!({"instrument": "x", "reading": {"bench": "divining"}}), "reading")]
fn a_reading_that_cannot_be_names_its_field(workshop: Workshop, #[case] body: Value, #[case] field: &str) {
    let (status, problem) = workshop.server.post(&format!("{M02}/bench"), &body);
    assert_eq!(status, 422, "{problem}");
    assert!(problem["errors"][0]["field"].as_str().unwrap().starts_with(field), "{problem}");
}

#[rstest]
fn a_capture_is_read_drawn_kept_and_taken_along(workshop: Workshop) {
    let id = workshop.simulated("coil-current");
    let server = &workshop.server;
    let (_, result) = server.post(&format!("/api/captures/{id}/read"), &ask("coil-current", "coil current"));
    let dwell = result["figures"].as_array().unwrap().iter().find(|f| f["name"] == "dwell_ms").unwrap();
    assert!((dwell["median"].as_f64().unwrap() - 2.6).abs() < 0.05, "{dwell}");
    let (_, trace) = server.get(&format!("/api/captures/{id}/trace?columns=300&channels=0"));
    assert_eq!(trace["channels"].as_array().unwrap().len(), 1);
    let high = trace["channels"][0]["high"].as_array().unwrap();
    assert!(high.len() <= 300 && high.len() == trace["time_s"].as_array().unwrap().len());
    let keep = json!({"ask": ask("coil-current", "coil current"), "odometer_km": 6419, "author": "Ada",
        "instrument": "scope with a clamp", "seen": workshop.seen(), "request_key": "keep"});
    let (status, job) = server.post(&format!("/api/captures/{id}/keep"), &keep);
    assert_eq!(status, 201, "{job}");
    let shown = &job["state"]["measured"][0]["result"];
    assert_eq!((&shown["verdict"], shown["evidence"].as_array().unwrap().len()), (&json!("good"), 3), "{shown:#}");
    // The same request again is the same entry.
    let count = job["entries"].as_array().unwrap().len();
    let (_, again) = server.post(&format!("/api/captures/{id}/keep"), &keep);
    assert_eq!(again["entries"].as_array().unwrap().len(), count);
    let (_, stale) = server.post(&format!("/api/captures/{id}/keep"), &{
        let mut late = keep.clone();
        late["request_key"] = json!("late");
        late
    });
    assert_eq!(stale["type"], "stale");
    // Its samples leave as CSV, and come back as another capture of the same figures.
    let (_, csv) = server.get(&format!("/api/captures/{id}/samples.csv"));
    let (status, back) = workshop.send(&format!("{M02}/captures?name=again.csv"), csv.as_str().unwrap().as_bytes());
    assert_eq!((status, &back["about"]["samples"]), (201, &json!(80_000)), "{back}");
    let (_, once_more) =
        server.post(&format!("/api/captures/{}/read", back["id"]), &ask("coil-current", "coil current"));
    assert_eq!(
        once_more["figures"][0]["median"].as_f64().map(|v| (v * 1e3).round()),
        dwell["median"].as_f64().map(|v| (v * 1e3).round())
    );
}

fn wave(rows: usize) -> String {
    (0..rows).fold("time (ms),v\n".to_owned(), |text, n| text + &format!("{},{}\n", n, n % 5))
}

#[rstest]
#[case::no_time("a,b\n1,2\n3,4\n".to_owned(), "", 422, "rate_hz")]
#[case::no_table("a note\n".to_owned(), "", 422, "file")]
#[case::empty(String::new(), "", 422, "file")]
#[case::no_such_column(wave(9), "&options={\"scales\":{\"x\":{\"factor\":2,\"unit\":\"A\"}}}", 422, "scales.x")]
#[case::unknown_option(wave(9), "&options={\"colour\":1}", 422, "options.colour")]
#[case::options_that_are_none(wave(9), "&options={", 400, "")]
#[case::nine_channels("t,a,b,c,d,e,f,g,h,i\n0,1,1,1,1,1,1,1,1,1\n1,1,1,1,1,1,1,1,1,1\n".to_owned(), "", 422, "file")]
fn a_file_that_is_no_capture_is_refused(
    workshop: Workshop,
    #[case] text: String,
    #[case] more: &str,
    #[case] status: u16,
    #[case] field: &str,
) {
    let more = more.replace('{', "%7B").replace('}', "%7D").replace('"', "%22");
    let (answered, problem) = workshop.send(&format!("{M02}/captures?name=x.csv{more}"), text.as_bytes());
    assert_eq!(answered, status, "{problem}");
    if !field.is_empty() {
        assert_eq!(problem["errors"][0]["field"], field, "{problem}");
    }
    assert!(workshop.server.get(&format!("{M02}/captures")).1.as_array().unwrap().is_empty());
}

#[rstest]
fn a_capture_of_twenty_million_samples_is_refused_with_the_limit_and_the_server_lives(workshop: Workshop) {
    let rows = 20_000_000usize;
    let spec = hound::WavSpec {
        channels: 1,
        sample_rate: 48_000,
        bits_per_sample: 8,
        sample_format: hound::SampleFormat::Int,
    };
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = hound::WavWriter::new(&mut bytes, spec).unwrap();
    for n in 0..rows {
        writer.write_sample((n % 100) as i8).unwrap();
    }
    writer.finalize().unwrap();
    let (status, problem) = workshop.send(&format!("{M02}/captures?name=long.wav"), &bytes.into_inner());
    assert_eq!(status, 422, "{problem}");
    let reason = problem["errors"][0]["reason"].as_str().unwrap();
    assert!(reason.contains("20000000 samples") && reason.contains("16000000"), "{reason}");
    assert_eq!(workshop.server.get("/api/yard").0, 200);
}

#[rstest]
#[case::capture("/api/captures/99", "there is no capture 99")]
#[case::photo("/api/photos/99", "there is no photograph 99")]
#[case::vehicle("/api/vehicles/99/bench", "there is no vehicle 99")]
#[case::job("/api/jobs/99/captures", "there is no job 99")]
fn what_is_not_there_is_named(workshop: Workshop, #[case] path: &str, #[case] detail: &str) {
    let (status, problem) = workshop.server.get(path);
    assert!(status == 404 && problem["detail"].as_str().unwrap().contains(detail), "{status} {problem}");
}

#[rstest]
fn a_travel_is_taken_out_of_a_capture_and_read_as_written(workshop: Workshop) {
    let id = workshop.simulated("motor-drive");
    let server = &workshop.server;
    let path = format!("/api/captures/{id}/travel?channel=position&second=motor&from_s=0&to_s=0.5");
    let (status, points) = server.get(&path);
    let points = points.as_array().unwrap();
    assert!(
        status == 200 && (100..=4_000).contains(&points.len()) && points[0]["second"].is_number(),
        "{}",
        points.len()
    );
    assert_eq!(server.get(&format!("/api/captures/{id}/travel?channel=pedal")).1["errors"][0]["field"], "channel");
    assert_eq!(server.get(&path.replace("to_s=0.5", "to_s=0")).1["errors"][0]["field"], "from_s");
    // W-12's recording has a throttle's neighbour, the air flow.
    let (status, recorded) = server.get("/api/recordings/1/travel?channel=airflow&from_s=10&to_s=20");
    assert!(status == 200 && recorded.as_array().unwrap().len() > 20, "{recorded}");
    assert_eq!(server.get("/api/recordings/1/travel?channel=nothing").1["errors"][0]["field"], "channel");
    let (_, written) = server.post("/api/read/travel", &json!({"text": "0 0,5\n10 0,9"}));
    assert_eq!(written[1]["value"], 0.9);
    assert_eq!(server.post("/api/read/travel", &json!({"text": "0 low"})).0, 422);
}

fn png() -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    image::DynamicImage::ImageRgb8(image::RgbImage::from_fn(900, 500, |x, y| image::Rgb([x as u8, y as u8, 60])))
        .write_to(&mut out, image::ImageFormat::Png)
        .unwrap();
    out.into_inner()
}

#[rstest]
fn a_photograph_is_taken_shown_small_and_shown_large(workshop: Workshop) {
    let (status, photo) = workshop.send(&format!("{M02}/photos?name=plug%202"), &png());
    assert_eq!((status, &photo["width"], &photo["name"]), (201, &json!(900), &json!("plug 2")));
    let server = &workshop.server;
    assert_eq!(server.get(&format!("{M02}/photos")).1.as_array().unwrap().len(), 1);
    for (path, most) in [("", 2600), ("/thumbnail", 360)] {
        let mut answer =
            server.agent.get(format!("{}/api/photos/{}{path}", server.address, photo["id"])).call().unwrap();
        assert_eq!(answer.headers()["content-type"], "image/jpeg");
        let picture = image::load_from_memory(&answer.body_mut().read_to_vec().unwrap()).unwrap();
        assert!(picture.width() <= most, "{}", picture.width());
    }
}

#[rstest]
#[case::no_picture(b"GIF89a and no more".to_vec(), 422, "JPEG, PNG or WebP")]
#[case::cut_off({ let whole = png(); whole[..200].to_vec() }, 422, "cannot be read")]
#[case::two_hundred_megabytes(vec![0xFF; 200 * 1024 * 1024], 413, "15 MB")]
fn what_is_no_photograph_is_refused_and_nothing_is_lost(
    workshop: Workshop,
    #[case] bytes: Vec<u8>,
    #[case] status: u16,
    #[case] reason: &str,
) {
    let (answered, problem) = workshop.send(&format!("{M02}/photos?name=x"), &bytes);
    assert_eq!(answered, status, "{problem}");
    assert!(problem["errors"][0]["reason"].as_str().unwrap().contains(reason), "{problem}");
    assert!(workshop.server.get(&format!("{M02}/photos")).1.as_array().unwrap().is_empty());
}

#[rstest]
fn connectors_are_kept_with_their_vehicle(workshop: Workshop) {
    let server = &workshop.server;
    let keep = |kind: &str, body: Value| {
        server.put("/api/vehicles/1/bench", &json!({"kind": kind, "name": "plug", "body": body}))
    };
    let (status, list) = keep("connector", json!({"pins": 3}));
    assert_eq!((status, &list[0]["body"]["pins"]), (200, &json!(3)));
    assert_eq!(keep("poem", json!({})).1["errors"][0]["field"], "kind");
    assert_eq!(keep("hoses", json!("x".repeat(70_000))).1["errors"][0]["field"], "body");
}

#[rstest]
fn a_meter_of_the_workshop_is_kept_with_what_else_it_knows(workshop: Workshop) {
    let meter =
        json!({"name": "bench meter", "accuracy": {"percent": 0.8, "digits": 3, "resolution": 0.01}, "leads_ohm": 0.2});
    let (status, page) = workshop.server.put("/api/workshop", &json!({"meters": [meter]}));
    assert_eq!((status, &page["own"]["meters"][0]["name"]), (200, &json!("bench meter")), "{page}");
    assert_eq!(workshop.server.get("/api/workshop").1["own"]["meters"][0]["leads_ohm"], 0.2);
    let mut wrong = meter.clone();
    wrong["accuracy"]["percent"] = json!(-3);
    let (status, problem) = workshop.server.put("/api/workshop", &json!({"meters": [wrong]}));
    assert_eq!(status, 422, "{problem}");
}

#[rstest]
fn simulated_instruments_answer_for_the_cars_of_the_depot(workshop: Workshop) {
    let server = &workshop.server;
    assert_eq!(server.get("/api/instruments/M-02").1["here"], true);
    assert_eq!(server.get("/api/instruments/X-1").1["here"], false);
    let (status, leads) = server.post("/api/instruments/M-02", &json!({"read": "leads"}));
    assert!(status == 200 && (leads["display"][0].as_f64().unwrap() - 0.21).abs() < 0.02, "{leads}");
    assert_eq!(server.post("/api/instruments/M-02", &json!({"read": "hold"})).0, 422);
    assert_eq!(server.post("/api/instruments/X-1", &json!({"read": "leads"})).0, 404);
}

#[rstest]
fn the_bench_lists_what_it_knows(workshop: Workshop) {
    let (status, offered) = workshop.server.get("/api/bench");
    assert_eq!(status, 200);
    for name in ["parts", "circuits", "hoses", "walk", "meters", "cautions", "faces"] {
        assert!(!offered[name].is_null(), "{name}");
    }
}

/// A sensor's path with a pierced wire on the way.
fn pierced() -> Value {
    let points = json!([{"name": "battery", "kind": "feed", "volt": 12.5},
        {"name": "joint", "kind": "joint", "volt": 12.4, "pierced": true}, {"name": "sensor", "kind": "part", "volt": 0.05}]);
    json!({"kind": "measured", "instrument": "meter",
        "reading": {"bench": "path", "circuit": "crank-sensor", "path": {"points": points}}})
}

impl Workshop {
    fn written(&self, key: &str, finding: Value) -> Value {
        let entry = json!({"odometer_km": 6419, "author": "Ada", "finding": finding});
        let (status, job) = self
            .server
            .post(&format!("{M02}/entries"), &json!({"seen": self.seen(), "request_key": key, "entry": entry}));
        assert_eq!(status, 201, "{job}");
        job
    }
}

#[rstest]
fn a_pierced_wire_is_on_the_jobs_list_until_it_is_put_right(workshop: Workshop) {
    let job = workshop.written("pierced", pierced());
    let open = &job["state"]["put_right"];
    assert_eq!(open[0]["what"], "seal the pierced wire at joint");
    let righted = json!({"kind": "righted", "what": open[0]["what"]});
    assert_eq!(workshop.written("righted", righted)["state"]["put_right"], json!([]));
}

#[rstest]
fn a_measurement_travels_with_its_job_and_its_capture_has_a_number_of_its_own_there(workshop: Workshop) {
    let id = workshop.simulated("coil-current");
    let keep = json!({"ask": ask("coil-current", "coil current"), "odometer_km": 6419, "author": "Ada",
        "instrument": "scope", "seen": workshop.seen(), "request_key": "keep"});
    assert_eq!(workshop.server.post(&format!("/api/captures/{id}/keep"), &keep).0, 201);
    workshop.written("pierced", pierced());
    let (_, mut bundle) = workshop.server.get(&format!("{M02}/bundle"));
    // A job that is here already is not taken twice: as another workshop would, it comes from another day.
    bundle["opened_at"] = json!("2026-10-01T06:00:00Z");
    bundle.as_object_mut().unwrap().remove("seal");
    let (status, back) = workshop.server.post("/api/bundles", &bundle);
    assert_eq!(status, 201, "{back}");
    let job = back["id"].as_u64().unwrap();
    let (_, again) = workshop.server.get(&format!("/api/jobs/{job}"));
    let (_, first) = workshop.server.get(M02);
    // The same verdicts, judged anew from the same raw readings.
    assert_eq!(again["state"]["measured"], first["state"]["measured"]);
    assert_eq!(again["state"]["put_right"], first["state"]["put_right"]);
    let captures: Vec<i64> = again["entries"]
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|entry| entry["finding"]["reading"]["capture"].as_i64())
        .collect();
    assert!(captures.len() == 1 && captures[0] as u64 != id, "{captures:?}");
    let path = |id: u64| format!("/api/captures/{id}");
    let about = |id: u64| workshop.server.get(&path(id)).1["about"].clone();
    assert_eq!(about(captures[0] as u64), about(id));
}

#[rstest]
#[case::nothing_to_right(json!({"kind": "righted", "what": " "}), "entry.finding.what")]
#[case::a_hot_part(
    json!({"kind": "measured", "instrument": "x", "reading": coil(json!(1))["reading"], "target": "cylinder 9"}), "entry.finding.target")]
#[case::a_path_of_one(
    json!({"kind": "measured", "instrument": "x", "reading": {"bench": "path", "circuit": "coils",
        "path": {"points": [{"name": "battery", "kind": "feed"}]}}}), "entry.finding.reading.path.points")]
fn the_trail_refuses_a_measurement_by_its_field(workshop: Workshop, #[case] finding: Value, #[case] field: &str) {
    let before = workshop.seen();
    let entry = json!({"odometer_km": 6419, "author": "Ada", "finding": finding});
    let body = json!({"seen": before, "request_key": "refused", "entry": entry});
    let (status, problem) = workshop.server.post(&format!("{M02}/entries"), &body);
    assert_eq!((status, problem["errors"][0]["field"].as_str()), (422, Some(field)), "{problem}");
    assert_eq!(workshop.seen(), before);
}
