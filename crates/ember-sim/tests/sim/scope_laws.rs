//! What holds of the simulated scope whatever it is clamped to: one seed gives one capture, noise is what was asked for,
//! and sound engines are not blamed.

use ember_core::circuit::Judged;
use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::waveform::{Capture, Signal, WaveformAsk, WaveformKind, WaveformResult, waveform};
use ember_sim::scope::{CamTruth, CoilTruth, DriveTruth, InjectorTruth, Scope, SparkTruth};
use rstest::rstest;

fn four() -> Engine {
    let description: EngineDescription = serde_json::from_value(
        serde_json::json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]}),
    )
    .unwrap();
    Engine::new(&description).unwrap()
}

const COIL: CoilTruth =
    CoilTruth { supply_v: 13.8, inductance_mh: 4.0, resistance_ohm: 0.7, dwell_ms: 2.5, limit_a: None, rpm: 1500.0 };
const SPARK: SparkTruth = SparkTruth { firing_kv: 12.0, spark_line_kv: 1.3, burn_ms: 1.4, rpm: 900.0 };
const INJECTOR: InjectorTruth = InjectorTruth {
    supply_v: 13.8,
    inductance_mh: 14.0,
    resistance_ohm: 13.5,
    pulse_ms: 4.2,
    opens_ms: 1.9,
    rpm: 1500.0,
};
const DRIVE: DriveTruth = DriveTruth { supply_v: 13.5, frequency_hz: 800.0, duty: 0.4, reversed: false };

fn cam() -> CamTruth {
    CamTruth { teeth: 58, missing: 2, rpm: 850.0, edges_deg: vec![40.0, 110.0, 250.0], shift_deg: 0.0, magnetic: false }
}

/// A capture of each kind, by its number.
fn made(kind: usize, noise: f64, seed: u64) -> Capture {
    let mut scope = Scope::new(50_000.0, noise, seed);
    match kind {
        0 => scope.coil_current(&four(), 0.4, |_| COIL),
        1 => scope.ignition_voltage(0.4, SPARK),
        2 => scope.injector(0.4, INJECTOR),
        3 => scope.motor_drive(1.0, DRIVE),
        4 => scope.cranking(&four(), 2.5, 200.0, |_| 1.0),
        _ => scope.crank_and_cam(0.5, &cam()),
    }
}

#[rstest]
fn one_seed_gives_one_capture_and_another_seed_another(#[values(0, 1, 2, 3, 4, 5)] kind: usize) {
    assert_eq!(made(kind, 0.01, 7), made(kind, 0.01, 7));
    assert_ne!(made(kind, 0.01, 7), made(kind, 0.01, 8));
}

#[rstest]
fn noise_is_as_large_as_was_asked_for(#[values(0, 1, 2, 4)] kind: usize, #[values(0.005, 0.02)] noise: f64) {
    let (clean, noisy) = (made(kind, 0.0, 3), made(kind, noise, 3));
    let pairs = clean.channels[0].samples.iter().zip(&noisy.channels[0].samples);
    let squares: f64 = pairs.map(|(a, b)| f64::from(a - b).powi(2)).sum();
    let sigma = (squares / clean.samples() as f64).sqrt();
    // The full height of each kind: what the noise is a share of.
    let full = [8.0, 12.0, 13.8 / 13.5, 0.0, 200.0][kind];
    assert!((sigma / (noise * full) - 1.0).abs() < 0.05, "{sigma} of {full}");
}

#[rstest]
fn channels_of_a_capture_are_of_one_length_and_finite(#[values(0, 1, 2, 3, 4, 5)] kind: usize) {
    let capture = made(kind, 0.02, 9);
    assert!(capture.step_s > 0.0 && capture.samples() > 10_000);
    for channel in &capture.channels {
        assert_eq!(channel.samples.len(), capture.samples(), "{}", channel.name);
        assert!(channel.samples.iter().all(|sample| sample.is_finite()), "{}", channel.name);
    }
}

fn read(capture: &Capture, of: WaveformKind) -> WaveformResult {
    let has = |name: &str| capture.channels.iter().any(|channel| channel.name == name).then(|| name.to_owned());
    let asked = WaveformAsk {
        of,
        signals: vec![Signal { channel: capture.channels[0].name.clone(), cylinder: None }],
        sync: has("sync"),
        sync_cylinder: None,
        second: has("position").or(has("cam")),
        supply_v: Some(13.8),
        reference_deg: if of == WaveformKind::CrankAndCam { cam().edges_deg } else { Vec::new() },
    };
    waveform(capture, &asked, &four(), &Knowledge::built_in().bench).unwrap()
}

/// Forty sound engines of each kind: nobody is named.
#[rstest]
#[case::coils(0, WaveformKind::CoilCurrent)]
#[case::cranking(4, WaveformKind::CrankingCurrent)]
#[case::cams(5, WaveformKind::CrankAndCam)]
#[case::drives(3, WaveformKind::MotorDrive)]
fn a_sound_engine_is_not_blamed(#[case] kind: usize, #[case] of: WaveformKind) {
    for seed in 0..40 {
        let result = read(&made(kind, 0.01 + 0.0005 * seed as f64, seed), of);
        assert!(result.odd.is_empty(), "seed {seed}: {}", result.says);
        assert_ne!(result.verdict, Judged::Bad, "seed {seed}: {}", result.says);
    }
}

/// Coils whose turns are shorted more or less: the faultier, the surer it is named; a tenth is within what is alike or not.
#[rstest]
#[case::a_third_short(2.7, 20)]
#[case::half_short(2.0, 20)]
fn a_faulty_coil_is_named_in_every_capture(#[case] inductance_mh: f64, #[case] named: usize) {
    let of =
        |cylinder| CoilTruth { inductance_mh: if cylinder == 2 { inductance_mh } else { COIL.inductance_mh }, ..COIL };
    let found = (0..20)
        .filter(|&seed| {
            let capture = Scope::new(50_000.0, 0.015, seed).coil_current(&four(), 0.4, of);
            let result = read(&capture, WaveformKind::CoilCurrent);
            !result.odd.is_empty() && result.odd.iter().all(|odd| odd.cylinder == 2)
        })
        .count();
    assert_eq!(found, named);
}

/// A longer capture narrows what single events scatter: the median of many is nearer to the truth.
#[test]
fn more_events_come_nearer_to_the_truth() {
    let off = |seconds: f64| {
        let sum: f64 = (0..12)
            .map(|seed| {
                let capture = Scope::new(50_000.0, 0.03, seed).coil_current(&four(), seconds, |_| COIL);
                let result = read(&capture, WaveformKind::CoilCurrent);
                let dwell = result.figures.iter().find(|f| f.name == "dwell_ms").unwrap().median;
                (dwell - COIL.dwell_ms).abs()
            })
            .sum();
        sum / 12.0
    };
    let (short, long) = (off(0.1), off(1.2));
    assert!(long < short, "{short} ms and {long} ms");
}
