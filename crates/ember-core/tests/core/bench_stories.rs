//! Readings in the depot's stories: what they do to the suspects of the car at hand.

use ember_core::job::{JobState, job_state};
use ember_core::knowledge::Knowledge;
use ember_core::trail::{Entry, NewEntry, check};
use ember_core::vehicle::Vehicle;
use rstest::rstest;
use serde_json::{Value, json};

/// A vehicle of the depot, with what is complained of.
struct Story {
    vehicle: Vehicle,
    findings: Vec<Value>,
}

fn story(engine: Value, more: Value, symptoms: &[&str], circumstances: &[&str]) -> Story {
    let mut vehicle = json!({"fleet_no": "T-1", "name": "Trial car", "engine": engine});
    vehicle.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    let complaint = json!({"kind": "complaint", "symptoms": symptoms, "circumstances": circumstances});
    Story { vehicle: serde_json::from_value(vehicle).unwrap(), findings: vec![complaint] }
}

impl Story {
    fn measured(mut self, target: &str, reading: Value) -> Story {
        self.findings.push(json!({"kind": "measured", "instrument": "meter", "target": target, "reading": reading}));
        self
    }

    fn state(&self) -> JobState {
        let engine = self.vehicle.checked().unwrap();
        let mut entries: Vec<Entry> = Vec::new();
        for finding in &self.findings {
            let new: NewEntry =
                serde_json::from_value(json!({"odometer_km": 500, "author": "Ada", "finding": finding})).unwrap();
            check(&engine, &entries, &new).unwrap_or_else(|refusal| panic!("{refusal}"));
            entries.push(
                serde_json::from_value(json!({"number": entries.len() + 1, "at": "2026-11-20T08:00:00Z",
                    "odometer_km": 500.0, "author": "Ada", "replaces": null, "finding": finding}))
                .unwrap(),
            );
        }
        job_state(&self.vehicle, &entries, Knowledge::built_in()).unwrap()
    }

    /// How likely any fault is whose name or part holds a word, at a place.
    fn likely(&self, word: &str, target: &str) -> f64 {
        let state = self.state();
        let suspects = &state.suspects.as_ref().unwrap().result.suspects;
        let of = |s: &&ember_core::suspects::Suspect| {
            (s.fault.contains(word) || s.part.as_deref() == Some(word)) && s.target.to_string() == target
        };
        suspects.iter().filter(of).map(|s| s.probability).sum()
    }
}

fn tractor() -> Story {
    story(
        json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "ignition": "distributor",
            "injection": "carburettor"}),
        json!({"has": ["points"], "lacks": ["pick-up"]}),
        &["misfire"],
        &[],
    )
}

fn lead(ohm: f64) -> Value {
    json!({"bench": "resistance", "part": "plug-lead", "reading": {"display": ohm,
        "meter": {"percent": 0.8, "digits": 3, "resolution": 10}, "sisters": [4820, 5210, 5480]}})
}

#[test]
fn the_odd_lead_of_a_set_becomes_a_suspect_and_a_like_one_does_not() {
    let before = tractor().likely("lead", "cylinder 3");
    let odd = tractor().measured("cylinder 3", lead(11_900.0)).likely("lead", "cylinder 3");
    let like = tractor().measured("cylinder 3", lead(5_300.0)).likely("lead", "cylinder 3");
    assert!(odd > 3.0 * before, "{before} to {odd}");
    assert!(like < before, "{before} to {like}");
}

fn runabout() -> Story {
    story(
        json!({"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]], "injection": "direct", "charging": "turbo"}),
        json!({}),
        &["stalls"],
        &["hot"],
    )
}

fn sensor_path(volts: [Option<f64>; 4]) -> Value {
    let names = [("ignition switch", "feed"), ("joint", "joint"), ("sensor plug", "joint"), ("crank sensor", "part")];
    let points: Vec<Value> =
        names.iter().zip(volts).map(|((name, kind), volt)| json!({"name": name, "kind": kind, "volt": volt})).collect();
    json!({"bench": "path", "circuit": "crank-sensor", "path": {"points": points}})
}

#[test]
fn a_bad_joint_on_the_sensors_feed_raises_its_wire_and_lowers_the_sensor_itself() {
    let found = runabout().measured("engine", sensor_path([Some(12.5), Some(12.3), Some(8.9), Some(0.05)]));
    assert_eq!(found.state().measured[0].result.word, "found");
    let (wire, sensor) = ("crank-sensor-wire", "crank-sensor-hot");
    let before = runabout();
    assert!(found.likely(wire, "engine") > 2.0 * before.likely(wire, "engine"));
    assert!(found.likely(sensor, "engine") < before.likely(sensor, "engine"));
}

#[test]
fn a_path_that_is_good_at_rest_lowers_the_wire_and_not_a_sensor_that_fails_with_heat() {
    let good = runabout().measured("engine", sensor_path([Some(12.5), Some(12.4), Some(12.3), Some(0.05)]));
    let before = runabout();
    assert!(good.likely("crank-sensor-hot", "engine") >= before.likely("crank-sensor-hot", "engine"));
    assert!(good.likely("crank-sensor-wire", "engine") < before.likely("crank-sensor-wire", "engine"));
    assert!(good.state().measured[0].result.says.contains("has its voltage"));
}

fn van() -> Story {
    story(
        json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "fuel": "diesel", "ignition": "none",
            "injection": "common-rail", "charging": "variable-turbo", "air_metering": "air-flow"}),
        json!({}),
        &["loss of power"],
        &["under load"],
    )
}

fn hold(loss_pct: f64) -> Value {
    let readings: Vec<Value> = [0.0, 60.0, 120.0]
        .iter()
        .map(|s: &f64| json!({"time_s": s, "kpa": 57.0 * (-loss_pct / 100.0 * s / 60.0).exp()}))
        .collect();
    json!({"bench": "hold", "hold": {"what": "vacuum actuator", "readings": readings}})
}

#[rstest]
#[case::leaks(30.0, true)]
#[case::holds(1.0, false)]
fn a_diaphragm_that_leaks_becomes_a_suspect(#[case] loss: f64, #[case] raised: bool) {
    let (before, after) =
        (van().likely("actuator", "engine"), van().measured("engine", hold(loss)).likely("actuator", "engine"));
    assert_eq!(after > before, raised, "{before} to {after}");
}

#[test]
fn tight_hoses_lower_what_leaks_and_smoke_raises_it() {
    let hoses = |state: &str| {
        let places: Vec<Value> = (0..6).map(|n| json!({"name": format!("hose {n}"), "state": state})).collect();
        json!({"bench": "hoses", "map": "charged", "places": places})
    };
    let of = |story: Story| story.likely("leak", "engine") + story.likely("hose", "engine");
    let (tight, none, smoke) =
        (of(van().measured("engine", hoses("tight"))), of(van()), of(van().measured("engine", hoses("leaks"))));
    assert!(tight < none && none < smoke, "{tight}, {none}, {smoke}");
}

#[rstest]
#[case::a_sound_coil(4.2, false)]
#[case::shorted_turns(2.6, true)]
fn an_odd_coil_of_a_capture_becomes_a_suspect(#[case] inductance: f64, #[case] raised: bool) {
    let car = || {
        story(
            json!({"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]], "injection": "port"}),
            json!({}),
            &["misfire"],
            &["under load"],
        )
    };
    let odd = if raised {
        json!([{"cylinder": 2, "figure": "inductance_mh", "value": inductance, "others": 4.2, "unit": "mH", "score": -9}])
    } else {
        json!([])
    };
    let reading = json!({"bench": "waveform", "capture": 1, "name": "coils", "ask": {"of": "coil-current",
        "signals": [{"channel": "a"}]}, "verdict": if raised { "bad" } else { "good" }, "right": 0.5, "says": "read",
        "odd": odd, "figures": [{"name": "dwell_ms", "label": "Dwell", "unit": "ms", "median": 2.6, "least": 2.5,
            "most": 2.7, "events": 9, "cylinders": {"1": 2.6, "2": 2.6, "3": 2.6}}]});
    let (before, after) =
        (car().likely("coil", "cylinder 2"), car().measured("engine", reading).likely("coil", "cylinder 2"));
    assert_eq!(after > before, raised, "{before} to {after}");
}
