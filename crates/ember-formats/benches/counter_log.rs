//! A ten-minute log at 20 Hz with twelve counters. Target: under 100 ms.

use std::fmt::Write;

use divan::Bencher;
use ember_formats::counters::read;

fn main() {
    divan::main();
}

fn log() -> String {
    let mut text = "time s;engine speed rpm".to_owned();
    (1..=12).for_each(|cylinder| write!(text, ";misfires cyl {cylinder}").unwrap());
    for sample in 0..12_000u32 {
        write!(text, "\r\n{},{:02};{}", sample / 20, sample % 20 * 5, 2000 + sample % 700).unwrap();
        (1..=12u32).for_each(|cylinder| write!(text, ";{}", sample * cylinder / 300 % 256).unwrap());
    }
    text
}

#[divan::bench]
fn ten_minutes_with_twelve_counters(bencher: Bencher) {
    let text = log();
    bencher
        .counter(divan::counter::BytesCount::of_str(&text))
        .bench(|| read(divan::black_box(text.as_bytes()), 12).unwrap());
}
