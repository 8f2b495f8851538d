//! What the evidence says of a simulated car is what it was given.

use ember_core::boost::{BoostVerdict, boost_samples, of_series};
use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::misfire::{MisfireInput, PatternKind, misfire};
use ember_core::recording::{Recording, counts_over_time, misfire_map};
use ember_core::trims::{SignatureKind, TrimsResult, of_points, steady_points};
use ember_sim::{Fault, Model, Profile, profile};
use rstest::rstest;

/// Records what a scan would show, ten times a second.
fn record(fleet_no: &str, faults: &[&str], seconds: f64, seed: u64) -> (Profile, Recording) {
    let car = profile(fleet_no).unwrap();
    let faults = faults.iter().map(|f| Fault::parse(f, &car).unwrap()).collect();
    let mut model = Model::new(car.clone(), faults, seed);
    let mut recording = Recording::default();
    let mut t = 0.0;
    while t < seconds {
        t += 0.1;
        model.run_to(t);
        let s = &model.state;
        recording.time_s.push(t);
        let mut put = |name: &str, value: f64| recording.channels.entry(name.into()).or_default().push(value as f32);
        put("engine_speed", s.shown_rpm);
        put("load", 100.0 * s.map_kpa / s.ambient_kpa);
        put("airflow", s.airflow_gps);
        put("manifold_pressure", s.map_kpa);
        put("coolant", s.coolant_c);
        put("closed_loop", f64::from(u8::from(s.closed_loop)));
        put("requested_boost", s.requested_kpa);
        put("actual_boost", s.actual_kpa);
        put("vane_request", s.vane_request_pct);
        put("vane_position", s.vane_pct);
        for (bank, (short, long)) in s.short_pct.iter().zip(&s.long_pct).enumerate() {
            put(&format!("short_trim_{}", bank + 1), *short);
            put(&format!("long_trim_{}", bank + 1), *long);
        }
        for (index, count) in s.misfires.iter().enumerate() {
            put(&format!("misfires_{}", index + 1), f64::from(*count));
        }
    }
    (car, recording)
}

fn engine(car: &Profile) -> Engine {
    let description: EngineDescription = serde_json::from_value(serde_json::json!({
        "cylinders": car.cylinders, "firing_order": (1..=car.cylinders).collect::<Vec<_>>(), "banks": car.banks,
        "air_metering": if car.speed_density { "speed-density" } else { "air-flow" },
    }))
    .unwrap();
    Engine::new(&description).unwrap()
}

fn trims_of(fleet_no: &str, faults: &[&str], seed: u64) -> TrimsResult {
    let (car, recording) = record(fleet_no, faults, 600.0, seed);
    let knowledge = Knowledge::built_in();
    let engine = engine(&car);
    let points = steady_points(&engine, &recording, &knowledge.evidence);
    of_points(&engine, &points, 98.0, 18.0, &Default::default(), knowledge).unwrap()
}

#[rstest]
#[case(1.5, 1)]
#[case(2.2, 2)]
#[case(2.2, 3)]
#[case(3.0, 4)]
fn the_hole_is_found_within_fifteen_percent(#[case] mm: f64, #[case] seed: u64) {
    let result = trims_of("W-12", &[&format!("air-leak={mm}")], seed);
    let found = result.leak_mm.expect("a leak is named");
    assert!((found / mm - 1.0).abs() < 0.15, "{mm} mm was given and {found} found: {result:#?}");
    assert!(result.leak_mm_low.unwrap() <= mm && mm <= result.leak_mm_high.unwrap(), "{result:#?}");
    assert_eq!(result.signatures[0].kind, SignatureKind::UnmeteredAir, "{:#?}", result.signatures);
    assert_eq!(result.signatures[0].banks, [1]);
}

#[rstest]
#[case::nothing(&[], SignatureKind::Normal)]
#[case::pump(&["weak-pump=0.7"], SignatureKind::DeliveryWeak)]
#[case::meter(&["meter-under-reads=0.82"], SignatureKind::MeterUnderReads)]
fn the_signature_is_the_fault(#[case] faults: &[&str], #[case] kind: SignatureKind) {
    let result = trims_of("W-12", faults, 5);
    assert_eq!(result.signatures[0].kind, kind, "{:#?}", result.signatures);
    assert!(!result.banks.iter().any(|b| b.leak_named) || kind != SignatureKind::Normal, "{result:#?}");
}

#[rstest]
#[case::sound(&[], BoostVerdict::Follows)]
#[case::vanes(&["sticking-vanes"], BoostVerdict::StickingVanes)]
#[case::leak(&["boost-leak=0.25"], BoostVerdict::Leak)]
#[case::stuck(&["stuck-actuator"], BoostVerdict::NoResponse)]
#[case::not_driven(&["vanes-not-driven"], BoostVerdict::NoResponse)]
fn the_boost_verdict_is_the_fault(#[case] faults: &[&str], #[case] verdict: BoostVerdict) {
    for seed in 1..4 {
        let (_, recording) = record("W-15", faults, 420.0, seed);
        let knowledge = Knowledge::built_in();
        let result = of_series(&boost_samples(&recording, &knowledge.evidence), 98.0, knowledge);
        assert_eq!(
            (result.verdict, result.decided),
            (verdict, true),
            "{:?} {:#?}",
            result.says,
            (result.slope, result.gain, result.vane_gain, result.error_kpa, result.rise_s, result.overshoot_kpa)
        );
    }
}

#[test]
fn the_map_lights_the_load_cells_of_the_cylinder_that_misses_there() {
    let (car, recording) = record("W-07", &["misfire-under-load=3"], 600.0, 7);
    let map = misfire_map(&engine(&car), &recording, &Knowledge::built_in().evidence).unwrap();
    assert_eq!(map.worst_cylinder, Some(3));
    assert!(!map.lit.is_empty());
    for &cell in &map.lit {
        assert!(map.load_edges_pct[map.cells[cell].load] >= 50.0, "{}", map.says);
    }
    let idle: Vec<_> =
        map.cells.iter().filter(|c| map.speed_edges_rpm[c.speed] < 1000.0 && c.firings > 200.0).collect();
    assert!(!idle.is_empty() && idle.iter().all(|c| c.rate_pct[2] < 0.3), "{idle:?}");
}

#[test]
fn groups_that_take_turns_are_seen_in_windows_and_hidden_in_totals() {
    let (car, recording) = record("W-12", &["taking-turns"], 900.0, 9);
    let knowledge = Knowledge::built_in();
    let engine = engine(&car);
    let counts = counts_over_time(&engine, &recording, &knowledge.evidence).unwrap();
    let input = |windows| MisfireInput {
        engine: serde_json::from_value(serde_json::json!({
            "cylinders": 6, "firing_order": [1, 2, 3, 4, 5, 6], "banks": [[1, 3, 5], [2, 4, 6]]}))
        .unwrap(),
        revolutions: Some(counts.revolutions),
        misfires: Some(counts.misfires.clone()),
        windows,
    };
    let totals = misfire(&input(Vec::new()), knowledge).unwrap();
    assert_eq!(totals.patterns[0].kind, PatternKind::All);
    let seen = misfire(&input(counts.windows.clone()), knowledge).unwrap();
    assert_eq!(seen.patterns[0].kind, PatternKind::Alternating);
    assert_eq!(seen.patterns[0].groups.as_ref().unwrap(), &vec![vec![1, 3, 5], vec![2, 4, 6]]);
}

#[test]
fn the_same_seed_gives_the_same_drive_and_another_one_another() {
    let drive = |seed| record("W-12", &["air-leak=2.2"], 60.0, seed).1;
    assert_eq!(drive(3), drive(3));
    assert_ne!(drive(3), drive(4));
}
