//! A capture of ten million samples in four channels: read, and read for what its coils say.

use std::io::Cursor;

use divan::{Bencher, black_box};
use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::waveform::{Signal, WaveformAsk, WaveformKind, waveform};
use ember_formats::waveform::{WaveOptions, WaveRead, read};

fn main() {
    divan::main();
}

/// Four coils of a four-cylinder engine, one channel each, in their firing order.
fn sample(channel: usize, at: usize, rate: f64) -> f64 {
    let cycle = 0.08;
    let since = (at as f64 / rate - 0.02 * channel as f64).rem_euclid(cycle);
    let noise = ((at as u64).wrapping_mul(6_364_136_223_846_793_005) >> 40) as f64 / 16_777_216.0 - 0.5;
    let current = if since < 0.0026 { 13.8 / 0.7 * (1.0 - (-since * 0.7 / 0.0042).exp()) } else { 0.0 };
    current + 0.05 * noise
}

const RATE: f64 = 500_000.0;

fn wav(samples: usize) -> Vec<u8> {
    let spec = hound::WavSpec {
        channels: 4,
        sample_rate: RATE as u32,
        bits_per_sample: 16,
        sample_format: hound::SampleFormat::Int,
    };
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = hound::WavWriter::new(&mut bytes, spec).unwrap();
    for at in 0..samples {
        for channel in 0..4 {
            writer.write_sample((sample(channel, at, RATE) * 2000.0) as i16).unwrap();
        }
    }
    writer.finalize().unwrap();
    bytes.into_inner()
}

fn csv(samples: usize) -> Vec<u8> {
    use std::io::Write;
    let mut bytes = Vec::with_capacity(samples * 36);
    bytes.extend(b"time (ms),coil 1 (A),coil 2 (A),coil 3 (A),coil 4 (A)\n");
    for at in 0..samples {
        write!(bytes, "{:.3}", at as f64 / RATE * 1e3).unwrap();
        for channel in 0..4 {
            write!(bytes, ",{:.3}", sample(channel, at, RATE)).unwrap();
        }
        bytes.push(b'\n');
    }
    bytes
}

fn analysed(read: &WaveRead) -> usize {
    let description: EngineDescription = serde_json::from_value(serde_json::json!({
        "cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]],
    }))
    .unwrap();
    let engine = Engine::new(&description).unwrap();
    let signals = read
        .capture
        .channels
        .iter()
        .enumerate()
        .map(|(index, channel)| Signal { channel: channel.name.clone(), cylinder: Some(index as u8 + 1) })
        .collect();
    let ask = WaveformAsk {
        of: WaveformKind::CoilCurrent,
        signals,
        sync: None,
        sync_cylinder: None,
        second: None,
        supply_v: Some(13.8),
        reference_deg: Vec::new(),
    };
    waveform(&read.capture, &ask, &engine, &Knowledge::built_in().bench).unwrap().event_count
}

/// Ten million samples of each of four channels, 80 MB.
#[divan::bench(sample_count = 5, sample_size = 1)]
fn wav_of_ten_million_by_four_read_and_analysed(bencher: Bencher) {
    let bytes = wav(10_000_000);
    bencher.bench_local(|| analysed(&read(black_box(&bytes), &WaveOptions::default()).unwrap()));
}

/// Two and a half million rows of four channels: ten million samples in all.
#[divan::bench(sample_count = 5, sample_size = 1)]
fn csv_of_ten_million_samples_read_and_analysed(bencher: Bencher) {
    let bytes = csv(2_500_000);
    bencher.bench_local(|| analysed(&read(black_box(&bytes), &WaveOptions::default()).unwrap()));
}

/// Ten million rows of four channels: forty million samples in all.
#[divan::bench(sample_count = 3, sample_size = 1)]
fn csv_of_ten_million_rows_read_and_analysed(bencher: Bencher) {
    let bytes = csv(10_000_000);
    bencher.bench_local(|| analysed(&read(black_box(&bytes), &WaveOptions::default()).unwrap()));
}

/// The analysis by itself.
#[divan::bench(sample_count = 5, sample_size = 1)]
fn ten_million_by_four_analysed(bencher: Bencher) {
    let read = read(&wav(10_000_000), &WaveOptions::default()).unwrap();
    bencher.bench_local(|| analysed(black_box(&read)));
}
