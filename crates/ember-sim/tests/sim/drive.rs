//! The simulated drive behaves as an engine does: a stand-in that could not be told would teach the wrong thing.

use ember_sim::{Fault, Model, State, profile};
use rstest::rstest;

fn model(fleet_no: &str, faults: &[&str]) -> Model {
    let car = profile(fleet_no).unwrap();
    let faults = faults.iter().map(|f| Fault::parse(f, &car).unwrap()).collect();
    Model::new(car, faults, 3)
}

/// The states of a drive, twice a second.
fn drive(fleet_no: &str, faults: &[&str], seconds: u32) -> Vec<State> {
    let mut model = model(fleet_no, faults);
    (1..=2 * seconds)
        .map(|half| {
            model.run_to(f64::from(half) / 2.0);
            model.state.clone()
        })
        .collect()
}

fn idle(states: &[State]) -> &State {
    &states[50]
}

fn under_load(states: &[State]) -> &State {
    states.iter().max_by(|a, b| a.load.total_cmp(&b.load)).unwrap()
}

#[test]
fn the_loop_has_idle_cruise_and_load() {
    let states = drive("W-12", &[], 220);
    let (rest, hill) = (idle(&states), under_load(&states));
    assert!(rest.km_h < 1.0 && (600.0..760.0).contains(&rest.rpm) && rest.map_kpa < 40.0, "{rest:?}");
    assert!(hill.rpm > 2300.0 && hill.map_kpa > 85.0 && hill.km_h > 50.0, "{hill:?}");
    assert!(hill.airflow_gps > 10.0 * rest.airflow_gps);
    assert!(states.last().unwrap().odometer_km > rest.odometer_km + 1.0);
}

#[test]
fn a_parked_car_idles_on() {
    let mut model = model("W-07", &[]);
    model.driving = false;
    model.run_to(120.0);
    assert!(model.state.km_h < 0.5 && (700.0..820.0).contains(&model.state.rpm));
    model.driving = true;
    model.run_to(200.0);
    assert!(model.state.km_h > 20.0);
}

#[test]
fn a_sound_engines_trims_stay_within_a_few_percent() {
    for state in drive("W-12", &[], 400).iter().skip(40) {
        for (short, long) in state.short_pct.iter().zip(&state.long_pct) {
            assert!((short + long).abs() < 6.0, "{state:?}");
        }
    }
}

#[test]
fn a_leak_is_lean_at_idle_on_its_bank_and_fades_with_the_flow() {
    let states = drive("W-12", &["air-leak=2.2"], 400);
    let total = |state: &State, bank: usize| state.short_pct[bank] + state.long_pct[bank];
    let later = &states[states.len() - 400 + 50];
    let (rest, hill) = (states.iter().rfind(|s| s.rpm < 750.0).unwrap(), under_load(&states));
    assert!(total(rest, 0) > 12.0 && total(rest, 1).abs() < 5.0, "{rest:?}");
    assert!(total(hill, 0) < 6.0 && later.closed_loop);
}

#[test]
fn a_weak_pump_is_lean_under_load_only() {
    let states = drive("W-12", &["weak-pump=0.7"], 400);
    let total = |state: &State| state.short_pct[1] + state.long_pct[1];
    let hill = states.iter().rfind(|s| s.load > 0.85 && s.closed_loop).unwrap();
    assert!(total(idle(&states)).abs() < 6.0 && total(hill) > 8.0, "{} {}", total(idle(&states)), total(hill));
}

#[test]
fn trims_stop_at_their_limit() {
    for state in drive("W-12", &["air-leak=8"], 200) {
        assert!(state.short_pct.iter().chain(&state.long_pct).all(|t| t.abs() <= 25.0));
    }
}

#[rstest]
#[case::dead("W-07", "dead-coil=2", 2)]
#[case::under_load("W-07", "misfire-under-load=3", 3)]
#[case::on_a_v6("W-12", "dead-coil=5", 5)]
fn the_faulty_cylinder_misses_and_no_other(#[case] fleet_no: &str, #[case] fault: &str, #[case] cylinder: usize) {
    let last = drive(fleet_no, &[fault], 220).pop().unwrap();
    for (index, &count) in last.misfires.iter().enumerate() {
        assert_eq!(count > 12, index + 1 == cylinder, "{:?}", last.misfires);
    }
}

#[test]
fn a_plug_that_flashes_over_is_quiet_at_idle() {
    let states = drive("W-07", &["misfire-under-load=3"], 220);
    assert!(idle(&states).misfires[2] <= 1 && states.last().unwrap().misfires[2] > 12);
}

#[test]
fn the_crank_signal_is_lost_hot_and_not_warm() {
    let states = drive("W-03", &["crank-hot"], 900);
    let lost: Vec<&State> = states.iter().filter(|s| s.shown_rpm == 0.0).collect();
    assert!(!lost.is_empty() && lost.iter().all(|s| s.coolant_c > 90.0));
    assert!(drive("W-03", &[], 900).iter().all(|s| s.shown_rpm > 300.0));
}

#[rstest]
#[case::sound(&[], 0.95, 1.05)]
#[case::leak(&["boost-leak=0.3"], 0.6, 0.8)]
#[case::stuck(&["stuck-actuator"], 0.1, 0.45)]
fn charge_pressure_under_load_is_what_the_fault_leaves(#[case] faults: &[&str], #[case] low: f64, #[case] high: f64) {
    let states = drive("W-15", faults, 220);
    let hill = states.iter().rfind(|s| s.load > 0.9).unwrap();
    let share = (hill.actual_kpa - hill.ambient_kpa) / (hill.requested_kpa - hill.ambient_kpa);
    assert!((low..=high).contains(&share), "{share}");
}

#[test]
fn rail_pressure_sags_with_a_weak_pump_under_load() {
    let states = drive("W-21", &["weak-pump=0.75"], 220);
    let hill = under_load(&states);
    assert!(hill.rail_kpa < 0.85 * hill.rail_request_kpa, "{} of {}", hill.rail_kpa, hill.rail_request_kpa);
    assert!(idle(&states).rail_kpa > 0.9 * idle(&states).rail_request_kpa);
}

#[test]
fn held_outputs_stand_where_the_tester_holds_them() {
    let mut model = model("W-15", &[]);
    model.driving = false;
    model.held_vane = Some(80.0);
    model.held_throttle = Some(30.0);
    model.run_to(5.0);
    assert!((model.state.vane_pct - 80.0).abs() < 1.0 && model.state.throttle_pct == 30.0);
    model.held_vane = None;
    model.run_to(10.0);
    assert!((model.state.vane_pct - model.state.vane_request_pct).abs() < 1.0);
}

#[test]
fn counters_begin_again_when_they_are_cleared() {
    let mut model = model("W-07", &["dead-coil=2"]);
    model.run_to(20.0);
    assert!(model.state.misfires[1] > 50);
    model.clear_counters();
    assert_eq!(model.state.misfires, [0; 4]);
}
