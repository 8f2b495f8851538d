//! How long the evidence takes that a screen waits for. Targets: trims and the misfire map over a million samples
//! under 100 ms, a trace of 150 000 samples and eight channels well inside 50 ms.

use std::sync::LazyLock;

use divan::Bencher;
use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::recording::{Ambient, Recording, boost_of, counts_over_time, misfire_map, thin, trims_of};

fn main() {
    Knowledge::built_in();
    divan::main();
}

const SAMPLES: usize = 1_000_000;

fn engine() -> Engine {
    let description: EngineDescription = serde_json::from_value(serde_json::json!({
        "cylinders": 6, "firing_order": [1, 2, 3, 4, 5, 6], "banks": [[1, 3, 5], [2, 4, 6]]
    }))
    .unwrap();
    Engine::new(&description).unwrap()
}

/// A drive at 20 Hz through steady stretches of all flows.
static DRIVE: LazyLock<Recording> = LazyLock::new(|| {
    let mut recording = Recording { time_s: (0..SAMPLES).map(|i| i as f64 / 20.0).collect(), ..Recording::default() };
    let stretch = |i: usize| (i / 400) % 12;
    let flow = move |i: usize| 5.0 + 6.0 * stretch(i) as f32;
    let mut put = |name: &str, of: &dyn Fn(usize) -> f32| {
        recording.channels.insert(name.to_owned(), (0..SAMPLES).map(of).collect());
    };
    put("engine_speed", &|i| 700.0 + 250.0 * stretch(i) as f32 + (i % 7) as f32);
    put("load", &|i| 20.0 + 6.0 * stretch(i) as f32);
    put("airflow", &|i| flow(i) * (1.0 + 0.01 * ((i % 11) as f32 - 5.0) / 5.0));
    put("manifold_pressure", &|i| 35.0 + 5.0 * stretch(i) as f32);
    put("coolant", &|_| 90.0);
    put("closed_loop", &|_| 1.0);
    put("short_trim_1", &|i| 60.0 / flow(i) + ((i * 7) % 5) as f32 - 2.0);
    put("long_trim_1", &|i| 40.0 / flow(i));
    put("short_trim_2", &|i| ((i * 3) % 5) as f32 - 2.0);
    put("long_trim_2", &|_| 0.8);
    put("requested_boost", &|i| 100.0 + 8.0 * stretch(i) as f32);
    put("actual_boost", &|i| 99.0 + 8.0 * stretch(i) as f32);
    for cylinder in 1..=6 {
        put(&format!("misfires_{cylinder}"), &|i| (i / if cylinder == 3 { 500 } else { 90_000 }) as f32);
    }
    recording
});

#[divan::bench(sample_count = 10, sample_size = 1)]
fn trims_of_a_million_samples(bencher: Bencher) {
    let (engine, drive) = (engine(), &*DRIVE);
    bencher.bench(|| trims_of(&engine, drive, Ambient::default(), Knowledge::built_in()).unwrap().unwrap());
}

#[divan::bench(sample_count = 10, sample_size = 1)]
fn misfire_map_of_a_million_samples(bencher: Bencher) {
    let (engine, drive) = (engine(), &*DRIVE);
    bencher.bench(|| misfire_map(&engine, drive, &Knowledge::built_in().evidence).unwrap());
}

#[divan::bench(sample_count = 10, sample_size = 1)]
fn counts_over_time_of_a_million_samples(bencher: Bencher) {
    let (engine, drive) = (engine(), &*DRIVE);
    bencher.bench(|| counts_over_time(&engine, drive, &Knowledge::built_in().evidence).unwrap());
}

#[divan::bench(sample_count = 10, sample_size = 1)]
fn boost_of_a_million_samples(bencher: Bencher) {
    let drive = &*DRIVE;
    bencher.bench(|| boost_of(drive, Ambient::default(), Knowledge::built_in()).unwrap());
}

#[divan::bench(sample_count = 20, sample_size = 1)]
fn a_trace_of_150_000_samples_and_eight_channels(bencher: Bencher) {
    let drive = &*DRIVE;
    let time = &drive.time_s[..150_000];
    bencher.bench(|| {
        drive
            .channels
            .iter()
            .take(8)
            .map(|(name, values)| thin(name, time, &values[..150_000], 0.0, 7500.0, 1200))
            .collect::<Vec<_>>()
    });
}
