//! What is drawn from a recording: counts over time, the map, traces, steady stretches, units.

use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::recording::{Ambient, Known, Recording, counts_over_time, misfire_map, results, thin, trims_of};
use ember_core::trail::Entry;
use ember_core::trims::steady_points;
use ember_core::units::{CodeRole, Return, units_overview};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::json;

fn engine(cylinders: u8) -> Engine {
    let order: Vec<u8> = (1..=cylinders).collect();
    let description: EngineDescription =
        serde_json::from_value(json!({"cylinders": cylinders, "firing_order": order, "banks": [order]})).unwrap();
    Engine::new(&description).unwrap()
}

/// Ten samples a second at 1200 rpm and 30 % load, with the counters that the closure gives by cylinder and sample.
fn drive(seconds: usize, counter: impl Fn(u8, usize) -> f32) -> Recording {
    let n = seconds * 10;
    let mut recording = Recording { time_s: (0..n).map(|i| i as f64 / 10.0).collect(), ..Recording::default() };
    recording.channels.insert("engine_speed".into(), vec![1200.0; n]);
    recording.channels.insert("load".into(), (0..n).map(|i| if i < n / 2 { 30.0 } else { 90.0 }).collect());
    for cylinder in 1..=2 {
        recording.channels.insert(format!("misfires_{cylinder}"), (0..n).map(|i| counter(cylinder, i)).collect());
    }
    recording
}

fn counts(recording: &Recording) -> ember_core::recording::CountsOverTime {
    counts_over_time(&engine(2), recording, &Knowledge::built_in().evidence).unwrap()
}

#[test]
fn revolutions_are_the_speed_over_time_and_windows_add_up() {
    let found = counts(&drive(300, |c, i| if c == 1 { (i / 100) as f32 } else { 0.0 }));
    assert!((found.revolutions - 1200.0 * 299.9 / 60.0).abs() < 1e-6);
    assert_eq!((found.misfires["1"], found.misfires["2"]), (29.0, 0.0));
    assert_eq!(found.windows.len(), 5);
    assert_eq!(found.windows.iter().map(|w| w.misfires["1"]).sum::<f64>(), 29.0);
    assert_eq!(found.begins_s[1], 60.0);
}

#[rstest]
#[case::wrapped_at_one_byte(|i: usize| ((250 + i / 20) % 256) as f32, 29.0, None)]
#[case::cleared(|i: usize| if i < 300 { (i / 50) as f32 } else { ((i - 300) / 50) as f32 }, 10.0, Some("began again"))]
#[case::jumped(|i: usize| if i < 300 { (i / 100) as f32 } else { 40_000.0 + (i / 100) as f32 }, 4.0, Some("jumps by 40001"))]
#[case::read_seldom(|i: usize| if i.is_multiple_of(50) { (i / 50) as f32 } else { f32::NAN }, 11.0, None)]
fn a_counter_is_followed(#[case] of: fn(usize) -> f32, #[case] expected: f64, #[case] note: Option<&str>) {
    let found = counts(&drive(60, |c, i| if c == 1 { of(i) } else { 0.0 }));
    assert_eq!(found.misfires["1"], expected, "{:?}", found.notes);
    assert_eq!(
        found.notes.iter().any(|n| note.is_some_and(|note| n.contains(note))),
        note.is_some(),
        "{:?}",
        found.notes
    );
}

#[test]
fn a_cylinder_that_never_fires_is_counted_although_its_counter_runs_a_little_ahead() {
    // One misfire a sample is one firing a sample; the counter is read a moment later than the speed.
    let found = counts(&drive(120, |c, i| if c == 1 && i > 0 { (i + 3) as f32 } else { 0.0 }));
    assert!(found.misfires["1"] <= found.revolutions / 2.0 && found.misfires["1"] > 0.98 * found.revolutions / 2.0);
    assert_eq!(found.windows.len(), 2, "{:?}", found.notes);
}

#[test]
fn no_revolutions_are_claimed_for_a_gap() {
    let mut gap = drive(60, |_, _| 0.0);
    for t in &mut gap.time_s[300..] {
        *t += 500.0;
    }
    assert!(counts(&gap).revolutions < 1200.0);
}

#[test]
fn a_cylinder_without_a_counter_gives_no_counts() {
    let mut lacking = drive(60, |_, _| 0.0);
    lacking.channels.remove("misfires_2");
    assert!(counts_over_time(&engine(2), &lacking, &Knowledge::built_in().evidence).is_none());
    assert!(misfire_map(&engine(2), &lacking, &Knowledge::built_in().evidence).is_none());
}

#[test]
fn the_map_puts_misfires_where_they_fell_and_calls_no_undriven_cell_clean() {
    let recording = drive(300, |c, i| if c == 2 && i > 1500 { ((i - 1500) / 10) as f32 } else { 0.0 });
    let map = misfire_map(&engine(2), &recording, &Knowledge::built_in().evidence).unwrap();
    assert_eq!(map.cells.len(), 2, "only what was driven is on the map");
    assert_eq!(map.worst_cylinder, Some(2));
    let lit = &map.cells[map.lit[0]];
    assert_eq!((map.load_edges_pct[lit.load], map.speed_edges_rpm[lit.speed]), (80.0, 1000.0));
    assert_eq!(lit.misfires[1], 149.0);
    assert!(lit.low_pct[1] < lit.rate_pct[1] && lit.rate_pct[1] < lit.high_pct[1]);
    let clean = map.cells.iter().find(|c| c.load != lit.load).unwrap();
    assert!(clean.high_pct[1] > 0.0, "no misfire is not a rate of nothing");
    assert!(map.says.contains("Cylinder 2 misses at 1000 to 1500 rpm and 80 to 100 % load"), "{}", map.says);
    let firings: f64 = map.cells.iter().map(|c| c.firings).sum();
    assert!((firings - 1200.0 * 299.9 / 120.0).abs() < 1e-6);
}

proptest! {
    #[test]
    fn thinning_loses_no_peak(values in prop::collection::vec(-1000.0f32..1000.0, 1..2000), columns in 1usize..400) {
        let time: Vec<f64> = (0..values.len()).map(|i| i as f64).collect();
        let thinned = thin("x", &time, &values, 0.0, values.len() as f64, columns);
        let most = values.iter().copied().fold(f32::MIN, f32::max);
        let least = values.iter().copied().fold(f32::MAX, f32::min);
        prop_assert_eq!((thinned.most, thinned.least), (Some(most), Some(least)));
        prop_assert_eq!(thinned.high.len(), columns);
        for (low, high) in thinned.low.iter().zip(&thinned.high) {
            prop_assert!(low.zip(*high).is_none_or(|(l, h)| l <= h) && low.is_some() == high.is_some());
        }
    }
}

#[test]
fn a_stretch_without_samples_is_open_and_not_zero() {
    let thinned = thin("x", &[0.0, 9.0], &[1.0, f32::NAN], 0.0, 10.0, 10);
    assert_eq!(thinned.low[0], Some(1.0));
    assert!(thinned.low[1..].iter().all(Option::is_none));
}

fn with_trims(closed: f32, coolant: f32) -> Recording {
    let n = 600;
    let mut recording = Recording { time_s: (0..n).map(|i| i as f64 / 10.0).collect(), ..Recording::default() };
    let mut put = |name: &str, of: &dyn Fn(usize) -> f32| {
        recording.channels.insert(name.into(), (0..n).map(of).collect());
    };
    put("engine_speed", &|i| if i < 300 { 700.0 } else { 2000.0 });
    put("load", &|_| 30.0);
    put("airflow", &|i| if i < 300 { 5.0 } else { 20.0 });
    put("short_trim_1", &|i| if i % 2 == 0 { 7.0 } else { 5.0 });
    put("long_trim_1", &|i| if i < 300 { 10.0 } else { 1.0 });
    put("closed_loop", &|_| closed);
    put("coolant", &|i| if i % 20 == 0 { coolant } else { f32::NAN });
    recording
}

#[test]
fn a_log_is_averaged_into_steady_stretches() {
    let points = steady_points(&engine(2), &with_trims(1.0, 90.0), &Knowledge::built_in().evidence);
    assert!((8..=10).contains(&points.len()), "{}", points.len());
    assert!((points[0].short_pct - 6.0).abs() < 0.1 && points[0].long_pct == 10.0);
    assert!(points.iter().all(|p| p.airflow_gps == 5.0 || p.airflow_gps == 20.0), "none across the step");
}

#[rstest]
#[case::open_loop(0.0, 90.0)]
#[case::cold(1.0, 30.0)]
fn what_is_not_regulated_gives_no_point(#[case] closed: f32, #[case] coolant: f32) {
    assert!(steady_points(&engine(2), &with_trims(closed, coolant), &Knowledge::built_in().evidence).is_empty());
}

#[test]
fn the_surroundings_are_given_recorded_or_assumed_and_it_is_said_which() {
    let mut recording = with_trims(1.0, 90.0);
    let known = |recording: &Recording, given: Ambient| {
        let found = trims_of(&engine(2), recording, given, Knowledge::built_in()).unwrap().unwrap();
        (found.ambient_known, found.result.ambient_kpa, found.intake_known)
    };
    assert_eq!(known(&recording, Ambient::default()), (Known::Assumed, 101.325, Known::Assumed));
    recording.channels.insert("ambient_pressure".into(), vec![94.0; 600]);
    recording.channels.insert("intake_air".into(), vec![12.0; 600]);
    assert_eq!(known(&recording, Ambient::default()), (Known::Recorded, 94.0, Known::Recorded));
    let given = Ambient { ambient_kpa: Some(90.0), intake_c: None };
    assert_eq!(known(&recording, given), (Known::Given, 90.0, Known::Recorded));
}

#[test]
fn results_of_a_recording_say_what_is_a_fault() {
    let found =
        results(&engine(2), &drive(600, |c, i| if c == 2 { (i / 10) as f32 } else { 0.0 }), Knowledge::built_in());
    assert_eq!(found.len(), 1);
    assert!(found[0].fault && found[0].decided && found[0].says.contains("cylinder 2"), "{found:?}");
}

/// Odometer, codes by unit, units that did not answer, and whether the codes were cleared then.
type Scanned<'a> = (f64, &'a [(&'a str, &'a str)], &'a [&'a str], bool);

fn trail(scans: &[Scanned<'_>]) -> Vec<Entry> {
    let mut list = Vec::new();
    let mut add = |km: f64, finding: serde_json::Value| {
        let number = list.len() + 1;
        list.push(
            serde_json::from_value(json!({"number": number, "at": "2026-11-21T06:30:00Z", "odometer_km": km,
            "author": "Ines", "replaces": null, "finding": finding}))
            .unwrap(),
        );
    };
    for (km, codes, unread, cleared) in scans {
        let codes: Vec<_> =
            codes.iter().map(|(unit, code)| json!({"code": code, "status": "stored", "unit": unit})).collect();
        add(
            *km,
            json!({"kind": "scan", "tool": "reader", "units_read": ["engine", "gearbox", "brakes"], "units_unread": unread, "codes": codes}),
        );
        if *cleared {
            add(*km, json!({"kind": "cleared"}));
        }
    }
    list
}

fn overview(entries: &[Entry]) -> ember_core::units::UnitsOverview {
    let knowledge = Knowledge::built_in();
    units_overview(&entries.iter().collect::<Vec<_>>(), &knowledge.units, &knowledge.codes).unwrap()
}

fn of<'a>(overview: &'a ember_core::units::UnitsOverview, code: &str) -> &'a ember_core::units::UnitCode {
    overview.units.iter().flat_map(|u| &u.codes).find(|c| c.read.code == code).unwrap()
}

#[test]
fn consequences_are_told_from_causes() {
    let seen = overview(&trail(&[(
        10.0,
        &[("engine", "P0171"), ("gearbox", "U0401"), ("brakes", "C0561"), ("brakes", "U0140")],
        &["body"],
        false,
    )]));
    assert_eq!(of(&seen, "P0171").role, CodeRole::Cause);
    for echo in ["U0401", "C0561", "U0140"] {
        assert_eq!(of(&seen, echo).role, CodeRole::Echo, "{echo}");
    }
    assert_eq!((seen.units[0].unit.as_str(), seen.units[0].work), ("engine", Some(1)));
    let body = seen.units.iter().find(|u| u.unit == "body").unwrap();
    assert!(!body.read && seen.says.contains("not known to be clean: body"));
}

#[test]
fn without_a_fault_to_echo_a_code_stands_by_itself() {
    let seen = overview(&trail(&[(10.0, &[("brakes", "C0561"), ("gearbox", "U0100")], &[], false)]));
    assert_eq!(of(&seen, "C0561").role, CodeRole::Own);
    assert_eq!(of(&seen, "U0100").role, CodeRole::Cause, "every unit answers, so the connection comes and goes");
}

#[test]
fn the_supply_is_worked_before_the_engine() {
    let seen = overview(&trail(&[(10.0, &[("engine", "P0171"), ("gearbox", "P0562")], &[], false)]));
    assert_eq!((seen.units[0].unit.as_str(), seen.units[1].unit.as_str()), ("gearbox", "engine"));
}

#[test]
fn what_came_back_at_once_after_the_drive_and_not_at_all_is_told_apart() {
    let before: &[(&str, &str)] = &[("engine", "P0353"), ("engine", "P0171"), ("engine", "P0442")];
    let seen = overview(&trail(&[
        (10.0, before, &[], true),
        (10.0, &[("engine", "P0353")], &[], false),
        (25.0, &[("engine", "P0353"), ("engine", "P0171"), ("engine", "P0300")], &[], false),
    ]));
    let returned = |code| of(&seen, code).returned;
    assert_eq!(returned("P0353"), Return::AtOnce);
    assert_eq!(returned("P0171"), Return::AfterDrive);
    assert_eq!(returned("P0442"), Return::NotBack);
    assert_eq!(returned("P0300"), Return::New);
    assert_eq!(seen.compared_with, Some(1));
}

#[test]
fn a_scan_without_a_metre_driven_does_not_call_a_code_gone() {
    let seen = overview(&trail(&[(10.0, &[("engine", "P0171")], &[], true), (10.0, &[], &[], false)]));
    assert_eq!(of(&seen, "P0171").returned, Return::NotKnown);
}
