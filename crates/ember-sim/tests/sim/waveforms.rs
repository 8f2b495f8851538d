//! What the simulated scope captures is read back within stated errors, at three levels of noise.

use ember_core::circuit::Judged;
use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::waveform::{Capture, Signal, WaveformAsk, WaveformKind, WaveformResult, waveform};
use ember_sim::scope::{CamTruth, CoilTruth, DriveTruth, InjectorTruth, Scope, SparkTruth};
use rstest::rstest;

fn engine(cylinders: u8, order: &[u8]) -> Engine {
    let description: EngineDescription = serde_json::from_value(serde_json::json!({
        "cylinders": cylinders, "firing_order": order, "banks": [(1..=cylinders).collect::<Vec<u8>>()],
    }))
    .unwrap();
    Engine::new(&description).unwrap()
}

fn ask(of: WaveformKind, channel: &str) -> WaveformAsk {
    WaveformAsk {
        of,
        signals: vec![Signal { channel: channel.into(), cylinder: None }],
        sync: None,
        sync_cylinder: None,
        second: None,
        supply_v: None,
        reference_deg: Vec::new(),
    }
}

fn read(capture: &Capture, ask: &WaveformAsk, engine: &Engine) -> WaveformResult {
    waveform(capture, ask, engine, &Knowledge::built_in().bench).unwrap()
}

fn median(result: &WaveformResult, name: &str) -> f64 {
    result.figures.iter().find(|f| f.name == name).unwrap_or_else(|| panic!("no {name}")).median
}

fn near(what: &str, found: f64, truth: f64, pct: f64) {
    let off = 100.0 * (found - truth).abs() / truth.abs();
    assert!(off <= pct, "{what}: {found} where {truth} is true, off by {off:.2} %, stated {pct} %");
}

const COIL: CoilTruth =
    CoilTruth { supply_v: 13.8, inductance_mh: 4.2, resistance_ohm: 0.72, dwell_ms: 2.6, limit_a: None, rpm: 1800.0 };

/// Dwell within 2 %, peak within 2 %, inductance within 4 %, energy within 6 %.
#[rstest]
#[case::clean(0.001)]
#[case::usual(0.01)]
#[case::noisy(0.03)]
fn a_coils_dwell_peak_and_inductance_are_recovered(#[case] noise: f64) {
    let engine = engine(3, &[1, 3, 2]);
    let capture = Scope::new(100_000.0, noise, 5).coil_current(&engine, 0.6, |_| COIL);
    let asked = WaveformAsk {
        supply_v: Some(13.8),
        sync: Some("sync".into()),
        ..ask(WaveformKind::CoilCurrent, "coil current")
    };
    let result = read(&capture, &asked, &engine);
    let peak = 13.8 / 0.72 * (1.0 - (-2.6e-3 * 0.72 / 4.2e-3_f64).exp());
    near("dwell", median(&result, "dwell_ms"), 2.6, 2.0);
    near("peak", median(&result, "peak_a"), peak, 2.0);
    near("inductance", median(&result, "inductance_mh"), 4.2, 4.0);
    near("energy", median(&result, "energy_mj"), 0.5 * 4.2 * peak * peak, 6.0);
    assert!(result.odd.is_empty() && result.verdict == Judged::Good, "{}", result.says);
}

#[rstest]
#[case::clean(0.001)]
#[case::usual(0.01)]
#[case::noisy(0.03)]
fn a_coil_with_shorted_turns_is_named_with_its_figure(#[case] noise: f64) {
    let engine = engine(4, &[1, 3, 4, 2]);
    let of = |cylinder| CoilTruth { inductance_mh: if cylinder == 4 { 2.9 } else { 4.2 }, ..COIL };
    let capture = Scope::new(100_000.0, noise, 6).coil_current(&engine, 0.6, of);
    let asked = WaveformAsk {
        supply_v: Some(13.8),
        sync: Some("sync".into()),
        ..ask(WaveformKind::CoilCurrent, "coil current")
    };
    let result = read(&capture, &asked, &engine);
    assert!(result.odd.iter().all(|odd| odd.cylinder == 4) && !result.odd.is_empty(), "{:?}", result.odd);
    let odd = result.odd.iter().find(|odd| odd.figure == "inductance_mh").unwrap();
    near("inductance of 4", odd.value, 2.9, 5.0);
    near("inductance of the others", odd.others, 4.2, 5.0);
}

#[test]
fn a_current_that_its_driver_holds_is_not_taken_for_the_coils_end() {
    let engine = engine(3, &[1, 3, 2]);
    let of = |_| CoilTruth { dwell_ms: 5.0, limit_a: Some(7.0), ..COIL };
    let capture = Scope::new(100_000.0, 0.01, 7).coil_current(&engine, 0.6, of);
    let asked = WaveformAsk { supply_v: Some(13.8), ..ask(WaveformKind::CoilCurrent, "coil current") };
    let result = read(&capture, &asked, &engine);
    near("dwell", median(&result, "dwell_ms"), 5.0, 2.0);
    near("inductance", median(&result, "inductance_mh"), 4.2, 5.0);
    assert!(median(&result, "held_ms") > 1.5);
}

/// Firing voltage within 6 %, spark line within 8 %, burn time within 4 %.
#[rstest]
#[case::clean(0.001)]
#[case::usual(0.005)]
#[case::noisy(0.015)]
fn firing_voltage_spark_line_and_burn_time_are_recovered(#[case] noise: f64) {
    let truth = SparkTruth { firing_kv: 12.0, spark_line_kv: 1.3, burn_ms: 1.4, rpm: 900.0 };
    let capture = Scope::new(500_000.0, noise, 8).ignition_voltage(0.6, truth);
    let result = read(&capture, &ask(WaveformKind::IgnitionVoltage, "secondary"), &engine(1, &[1]));
    near("firing", median(&result, "firing"), 12.0, 6.0);
    near("spark line", median(&result, "spark_line"), 1.3, 8.0);
    near("burn", median(&result, "burn_ms"), 1.4, 4.0);
    assert_eq!(result.event_count, 5);
}

/// Pulse within 3 %, opening within 6 %.
#[rstest]
#[case::clean(0.001)]
#[case::usual(0.006)]
#[case::noisy(0.015)]
fn an_injectors_pulse_and_opening_are_recovered(#[case] noise: f64) {
    let truth = InjectorTruth {
        supply_v: 13.8,
        inductance_mh: 14.0,
        resistance_ohm: 13.5,
        pulse_ms: 4.2,
        opens_ms: 1.9,
        rpm: 1500.0,
    };
    let capture = Scope::new(100_000.0, noise, 9).injector(0.8, truth);
    let one = engine(1, &[1]);
    let current = read(&capture, &ask(WaveformKind::InjectorCurrent, "injector current"), &one);
    near("pulse by current", median(&current, "pulse_ms"), 4.2, 3.0);
    near("opening", median(&current, "opens_ms"), 1.9, 6.0);
    let voltage = read(&capture, &ask(WaveformKind::InjectorVoltage, "injector voltage"), &one);
    near("pulse by voltage", median(&voltage, "pulse_ms"), 4.2, 1.0);
}

/// Relative compression within 4 points.
#[rstest]
#[case::clean(0.002)]
#[case::usual(0.02)]
#[case::noisy(0.05)]
fn a_cylinder_that_pumps_less_is_named_by_the_starters_current(#[case] noise: f64) {
    let engine = engine(4, &[1, 3, 4, 2]);
    let capture = Scope::new(10_000.0, noise, 10).cranking(&engine, 4.0, 210.0, |c| if c == 3 { 0.7 } else { 1.0 });
    let asked = WaveformAsk { sync: Some("sync".into()), ..ask(WaveformKind::CrankingCurrent, "starter current") };
    let result = read(&capture, &asked, &engine);
    assert_eq!(result.odd.iter().map(|o| o.cylinder).collect::<Vec<_>>(), [3], "{}", result.says);
    let relative = result.figures.iter().find(|f| f.name == "relative_pct").unwrap();
    for (cylinder, truth) in [("1", 100.0), ("2", 100.0), ("3", 70.0), ("4", 100.0)] {
        assert!((relative.cylinders[cylinder] - truth).abs() < 4.0, "{cylinder}: {relative:?}");
    }
    near("cranking speed", median(&result, "cranking_rpm"), 210.0, 1.0);
}

#[test]
fn even_humps_name_nobody_and_without_a_sync_pulse_none_can_be_named() {
    let engine = engine(4, &[1, 3, 4, 2]);
    let capture = Scope::new(10_000.0, 0.03, 11).cranking(&engine, 4.0, 190.0, |_| 1.0);
    let asked = WaveformAsk { sync: Some("sync".into()), ..ask(WaveformKind::CrankingCurrent, "starter current") };
    assert!(read(&capture, &asked, &engine).odd.is_empty());
    let refusal = waveform(
        &capture,
        &ask(WaveformKind::CrankingCurrent, "starter current"),
        &engine,
        &Knowledge::built_in().bench,
    )
    .unwrap_err();
    assert!(refusal.reason.contains("sync"), "{refusal}");
}

fn cam(shift_deg: f64, magnetic: bool) -> CamTruth {
    CamTruth {
        teeth: 58,
        missing: 2,
        rpm: 800.0,
        edges_deg: vec![40.0, 110.0, 250.0, 290.0, 430.0, 560.0],
        shift_deg,
        magnetic,
    }
}

/// Cam shift within half a crank degree.
#[rstest]
fn a_cam_that_has_moved_is_recovered_in_crank_degrees(
    #[values(0.001, 0.01, 0.04)] noise: f64,
    #[values(-13.0, 0.0, 2.0, 9.0)] shift: f64,
    #[values(false, true)] magnetic: bool,
) {
    let truth = cam(shift, magnetic);
    let capture = Scope::new(100_000.0, noise, 12).crank_and_cam(1.2, &truth);
    let asked = WaveformAsk {
        second: Some("cam".into()),
        reference_deg: truth.edges_deg.clone(),
        ..ask(WaveformKind::CrankAndCam, "crank")
    };
    let result = read(&capture, &asked, &engine(4, &[1, 3, 4, 2]));
    let teeth = result.teeth.as_ref().unwrap();
    assert_eq!((teeth.teeth, teeth.missing, teeth.disturbed), (58, 2, 0), "{teeth:?}");
    let found = result.cam.as_ref().unwrap().shift_deg.unwrap();
    assert!((found - shift).abs() < 0.5, "{found} where {shift} is true");
    assert_eq!(result.verdict, if shift.abs() > 4.0 { Judged::Bad } else { Judged::Good }, "{}", result.says);
}

#[rstest]
#[case::with_it(false, Judged::Good)]
#[case::against_it(true, Judged::Bad)]
fn a_reversed_drive_shows_by_the_way_its_flap_goes(#[case] reversed: bool, #[case] verdict: Judged) {
    for noise in [0.002, 0.02, 0.06] {
        let truth = DriveTruth { supply_v: 13.5, frequency_hz: 1000.0, duty: 0.35, reversed };
        let capture = Scope::new(61_340.0, noise, 13).motor_drive(2.0, truth);
        let asked = WaveformAsk { second: Some("position".into()), ..ask(WaveformKind::MotorDrive, "motor") };
        let result = read(&capture, &asked, &engine(4, &[1, 3, 4, 2]));
        assert_eq!(result.verdict, verdict, "{}", result.says);
        near("duty", median(&result, "duty_pct"), 35.0, 3.0);
        near("frequency", median(&result, "frequency_hz"), 1000.0, 2.0);
    }
}

#[test]
fn a_clipped_capture_is_said_to_be_and_proves_nothing_good() {
    let engine = engine(3, &[1, 3, 2]);
    let mut capture = Scope::new(100_000.0, 0.01, 14).coil_current(&engine, 0.6, |_| COIL);
    for sample in &mut capture.channels[0].samples {
        *sample = sample.min(4.0);
    }
    let asked = WaveformAsk { sync: Some("sync".into()), ..ask(WaveformKind::CoilCurrent, "coil current") };
    let result = read(&capture, &asked, &engine);
    assert!(result.says.contains("Clipped") && result.verdict == Judged::CannotTell, "{}", result.says);
}

fn vee() -> Engine {
    let description: EngineDescription = serde_json::from_value(serde_json::json!({
        "cylinders": 6, "arrangement": "vee", "firing_order": [1, 4, 3, 6, 2, 5], "banks": [[1, 3, 5], [2, 4, 6]],
    }))
    .unwrap();
    Engine::new(&description).unwrap()
}

/// Relative compression of a V6 within 5 points, whichever cylinder is weak.
#[rstest]
fn a_weak_cylinder_of_a_vee_is_named_wherever_it_stands_in_the_order(
    #[values(0.002, 0.02, 0.04)] noise: f64,
    #[values(1, 2, 5, 6)] weak: u8,
) {
    let engine = vee();
    let capture = Scope::new(10_000.0, noise, 31).cranking(&engine, 4.0, 190.0, |c| if c == weak { 0.65 } else { 1.0 });
    let asked = WaveformAsk { sync: Some("sync".into()), ..ask(WaveformKind::CrankingCurrent, "starter current") };
    let result = read(&capture, &asked, &engine);
    assert_eq!(result.odd.iter().map(|o| o.cylinder).collect::<Vec<_>>(), [weak], "{}", result.says);
    let relative = result.figures.iter().find(|f| f.name == "relative_pct").unwrap();
    assert!((relative.cylinders[&weak.to_string()] - 65.0).abs() < 5.0, "{relative:?}");
}

/// Wheels as they are made: teeth and gap are counted, the speed is within half a per cent.
#[rstest]
fn wheels_of_several_makes_are_counted(
    #[values((58, 2), (35, 1), (22, 2))] wheel: (u32, u32),
    #[values(0.001, 0.01, 0.03)] noise: f64,
    #[values(220.0, 850.0, 3200.0)] rpm: f64,
) {
    let truth = CamTruth { teeth: wheel.0, missing: wheel.1, rpm, ..cam(0.0, false) };
    let capture = Scope::new(200_000.0, noise, 32).crank_and_cam((900.0 / rpm).clamp(0.4, 3.0), &truth);
    let result = read(&capture, &ask(WaveformKind::CrankAndCam, "crank"), &engine(4, &[1, 3, 4, 2]));
    let teeth = result.teeth.as_ref().unwrap();
    assert_eq!((teeth.teeth, teeth.missing, teeth.disturbed), (wheel.0, wheel.1, 0), "{teeth:?}");
    near("speed", teeth.rpm, rpm, 0.5);
}

/// Inductance and dwell within 5 % over coils of different make.
#[rstest]
fn coils_of_several_makes_are_read(
    #[values((2.4, 0.45, 2.0), (4.2, 0.72, 3.0), (8.0, 1.5, 4.5))] make: (f64, f64, f64),
    #[values(0.001, 0.01, 0.02)] noise: f64,
) {
    let (inductance_mh, resistance_ohm, dwell_ms) = make;
    let engine = engine(4, &[1, 3, 4, 2]);
    let truth = CoilTruth { inductance_mh, resistance_ohm, dwell_ms, ..COIL };
    let capture = Scope::new(100_000.0, noise, 33).coil_current(&engine, 0.6, |_| truth);
    let asked = WaveformAsk {
        supply_v: Some(COIL.supply_v),
        sync: Some("sync".into()),
        ..ask(WaveformKind::CoilCurrent, "coil current")
    };
    let result = read(&capture, &asked, &engine);
    near("dwell", median(&result, "dwell_ms"), dwell_ms, 2.0);
    near("inductance", median(&result, "inductance_mh"), inductance_mh, 5.0);
}

/// A spark that burns short or long is recovered within 6 %.
#[rstest]
fn burn_times_are_recovered_over_their_range(
    #[values(0.6, 1.0, 1.8, 2.4)] burn_ms: f64,
    #[values(0.001, 0.005, 0.01)] noise: f64,
) {
    let truth = SparkTruth { firing_kv: 14.0, spark_line_kv: 1.4, burn_ms, rpm: 1200.0 };
    let capture = Scope::new(500_000.0, noise, 34).ignition_voltage(0.5, truth);
    let result = read(&capture, &ask(WaveformKind::IgnitionVoltage, "secondary"), &engine(1, &[1]));
    near("burn", median(&result, "burn_ms"), burn_ms, 6.0);
}

/// A needle that opens late is seen as such within 8 %.
#[rstest]
fn an_injectors_opening_is_recovered_over_its_range(
    #[values(1.4, 1.9, 2.6)] opens_ms: f64,
    #[values(0.001, 0.006, 0.012)] noise: f64,
) {
    let truth = InjectorTruth {
        supply_v: 13.8,
        inductance_mh: 14.0,
        resistance_ohm: 13.5,
        pulse_ms: 4.6,
        opens_ms,
        rpm: 1500.0,
    };
    let capture = Scope::new(100_000.0, noise, 35).injector(0.8, truth);
    let result = read(&capture, &ask(WaveformKind::InjectorCurrent, "injector current"), &engine(1, &[1]));
    near("opening", median(&result, "opens_ms"), opens_ms, 8.0);
}
