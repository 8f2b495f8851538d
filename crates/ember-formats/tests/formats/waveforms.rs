//! Captures of a scope out of files: what is read, what is noticed, what is refused, and that it leaves as it came.

use std::io::Cursor;

use ember_core::refusal::Refusal;
use ember_core::waveform::{Capture, CaptureChannel};
use ember_formats::waveform::{CsvWaveReader, WaveLimits, WaveOptions, WaveRead, WaveScale, read, write};
use proptest::prelude::*;
use rstest::rstest;

fn plain(text: &str) -> Result<WaveRead, Refusal> {
    read(text.as_bytes(), &WaveOptions::default())
}

/// A table with a time in milliseconds and a value that grows with it.
fn table(head: &str, separator: &str, decimal: &str, rows: usize) -> String {
    let number = |value: f64| format!("{value:.3}").replace('.', decimal);
    let lines = (0..rows).map(|n| format!("{}{separator}{}", number(n as f64 * 0.02), number(n as f64 / 10.0)));
    format!("{head}\n{}\n", lines.collect::<Vec<_>>().join("\n"))
}

#[rstest]
#[case::commas("time (ms),coil current (A)", ",", ".")]
#[case::semicolons_and_decimal_commas("Time [ms];coil current [A]", ";", ",")]
#[case::tabs("t (ms)\tcoil current (A)", "\t", ".")]
#[case::units_beneath("time,coil current\n(ms),(A)", ",", ".")]
#[case::words_before("captured at the depot\n\ntime (ms),coil current (A)", ",", ".")]
fn a_table_is_read_as_scopes_write_it(#[case] head: &str, #[case] separator: &str, #[case] decimal: &str) {
    let got = plain(&table(head, separator, decimal, 100)).unwrap_or_else(|refusal| panic!("{refusal}"));
    assert!((got.capture.step_s - 2e-5).abs() < 1e-9, "{}", got.capture.step_s);
    let channel = &got.capture.channels[0];
    assert_eq!((channel.name.as_str(), channel.unit.as_str(), channel.samples.len()), ("coil current", "A", 100));
    assert!((channel.samples[50] - 5.0).abs() < 1e-5);
    assert!(got.notes.is_empty(), "{:?}", got.notes);
}

#[rstest]
#[case::seconds("time (s)", 1.0)]
#[case::milliseconds("time (ms)", 1e-3)]
#[case::microseconds("time (us)", 1e-6)]
fn the_times_unit_counts(#[case] heading: &str, #[case] unit: f64) {
    let text = format!("{heading},v\n0,1\n2,2\n4,3\n6,4\n");
    assert!((plain(&text).unwrap().capture.step_s / (2.0 * unit) - 1.0).abs() < 1e-9);
}

#[test]
fn a_table_without_a_time_needs_its_rate() {
    let text = "a,b\n1,2\n3,4\n5,6\n";
    let refusal = plain(text).unwrap_err();
    assert_eq!(refusal.field, "rate_hz", "{refusal}");
    let got = read(text.as_bytes(), &WaveOptions { rate_hz: Some(50_000.0), ..WaveOptions::default() }).unwrap();
    assert!((got.capture.step_s - 2e-5).abs() < 1e-12);
    assert_eq!(got.capture.channels.len(), 2);
}

#[test]
fn a_clamp_counts_by_its_scale() {
    let scales = [("v".to_owned(), WaveScale { factor: 100.0, unit: "A".into() })].into();
    let got = read(b"time (s),v\n0,0.01\n1,0.02\n2,0.03\n", &WaveOptions { scales, ..WaveOptions::default() }).unwrap();
    let channel = &got.capture.channels[0];
    assert_eq!(channel.unit, "A");
    assert!((channel.samples[1] - 2.0).abs() < 1e-6);
}

#[test]
fn rows_with_a_hole_are_left_out_and_said() {
    let mut text = table("time (ms),v", ",", ".", 200);
    text = text.replace("0.200,1.000\n", "0.200,\n");
    let got = plain(&text).unwrap();
    assert_eq!(got.capture.samples(), 199);
    assert!(got.notes.iter().any(|note| note.starts_with("1 rows without a number")), "{:?}", got.notes);
}

#[test]
fn uneven_samples_are_put_on_an_even_grid_and_that_is_said() {
    let mut text = String::from("time (s),v\n");
    for n in 0..400 {
        let time = f64::from(n) + if n % 3 == 0 { 0.7 } else { 0.0 };
        text.push_str(&format!("{time},{time}\n"));
    }
    let got = plain(&text).unwrap();
    assert!(got.notes.iter().any(|note| note.contains("not evenly spaced")), "{:?}", got.notes);
    // What grows evenly with time still does.
    let samples = &got.capture.channels[0].samples;
    let steps: Vec<f32> = samples.windows(2).map(|w| w[1] - w[0]).collect();
    assert!(steps[5..390].iter().all(|step| (step - steps[5]).abs() < 0.02), "{:?}", &steps[..9]);
}

#[rstest]
#[case::empty("", "file", "")]
#[case::words("this is a note\nand no capture\n", "file", "no capture")]
#[case::only_time("time (s)\n0\n1\n2\n", "file", "")]
#[case::one_row("time (s),v\n0,1\n", "file", "fewer than two rows")]
#[case::backwards("time (s),v\n0,1\n1,2\n0.5,3\n", "file", "backwards")]
#[case::time_stands("time (s),v\n1,1\n1,2\n1,3\n", "file", "")]
#[case::mostly_holes("time (s),v\n0,1\n1,\n2,\n3,\n4,\n5,6\n", "file", "do not have a number")]
#[case::fathoms("time (fathoms),v\n0,1\n1,2\n", "file", "fathoms is not known")]
fn what_is_no_capture_is_refused(#[case] text: &str, #[case] field: &str, #[case] reason: &str) {
    let refusal = plain(text).unwrap_err();
    assert!(refusal.field == field && refusal.reason.contains(reason), "{refusal}");
}

#[rstest]
#[case::no_rate(WaveOptions { rate_hz: Some(0.0), ..WaveOptions::default() }, "a,b\n1,2\n3,4\n", "rate_hz")]
#[case::no_such_column(WaveOptions { scales: [("x".to_owned(), WaveScale { factor: 2.0, unit: "A".into() })].into(), ..WaveOptions::default() }, "time (s),v\n0,1\n1,2\n", "scales.x")]
#[case::a_scale_of_nought(WaveOptions { scales: [("v".to_owned(), WaveScale { factor: 0.0, unit: "A".into() })].into(), ..WaveOptions::default() }, "time (s),v\n0,1\n1,2\n", "scales.v")]
#[case::too_many_samples(WaveOptions { limits: Some(WaveLimits { samples: 3, channels: 8 }), ..WaveOptions::default() }, "time (s),v\n0,1\n1,2\n2,3\n3,4\n", "file")]
#[case::too_many_channels(WaveOptions { limits: Some(WaveLimits { samples: 99, channels: 1 }), ..WaveOptions::default() }, "time (s),v,w\n0,1,1\n1,2,1\n", "file")]
fn options_that_do_not_fit_are_refused(#[case] options: WaveOptions, #[case] text: &str, #[case] field: &str) {
    assert_eq!(read(text.as_bytes(), &options).unwrap_err().field, field);
}

fn wav(bits: u16, float: bool, channels: u16, samples: &[f32]) -> Vec<u8> {
    let sample_format = if float { hound::SampleFormat::Float } else { hound::SampleFormat::Int };
    let spec = hound::WavSpec { channels, sample_rate: 48_000, bits_per_sample: bits, sample_format };
    let mut bytes = Cursor::new(Vec::new());
    let mut writer = hound::WavWriter::new(&mut bytes, spec).unwrap();
    for sample in samples {
        if float {
            writer.write_sample(*sample).unwrap();
        } else {
            writer.write_sample((sample * ((1i64 << (bits - 1)) - 1) as f32) as i32).unwrap();
        }
    }
    writer.finalize().unwrap();
    bytes.into_inner()
}

#[rstest]
#[case::sixteen(16, false, 1e-4)]
#[case::twenty_four(24, false, 1e-6)]
#[case::float(32, true, 1e-7)]
fn a_wav_is_read_in_shares_of_its_full_range(#[case] bits: u16, #[case] float: bool, #[case] off: f32) {
    let samples: Vec<f32> = (0..400).map(|n| (n as f32 / 100.0).sin() * 0.8).collect();
    let got = read(&wav(bits, float, 2, &samples), &WaveOptions::default()).unwrap();
    assert!((got.capture.step_s - 1.0 / 48_000.0).abs() < 1e-12);
    assert_eq!(got.capture.channels.iter().map(|c| c.name.as_str()).collect::<Vec<_>>(), ["channel 1", "channel 2"]);
    for (at, pair) in samples.chunks(2).enumerate() {
        for (channel, value) in got.capture.channels.iter().zip(pair) {
            assert!(
                (channel.samples[at] - value).abs() < off.max(2.0 / 32768.0),
                "{at}: {} for {value}",
                channel.samples[at]
            );
        }
    }
}

#[rstest]
#[case::cut_in_its_head(30)]
#[case::head_alone(44)]
fn a_wav_that_is_cut_off_before_its_samples_is_refused(#[case] at: usize) {
    let whole = wav(16, false, 1, &[0.5; 200]);
    assert_eq!(read(&whole[..at], &WaveOptions::default()).unwrap_err().field, "file");
}

#[test]
fn a_wav_that_ends_early_gives_what_there_is_and_says_so() {
    let whole = wav(16, false, 1, &[0.5; 200]);
    let got = read(&whole[..whole.len() - 101], &WaveOptions::default()).unwrap();
    assert!((100..200).contains(&got.capture.samples()), "{}", got.capture.samples());
    assert!(got.notes.iter().any(|note| note.contains("ends before")), "{:?}", got.notes);
}

fn written(capture: &Capture) -> String {
    let mut bytes = Vec::new();
    write(capture, &mut bytes).unwrap();
    String::from_utf8(bytes).unwrap()
}

proptest! {
    #[test]
    fn a_capture_comes_back_as_it_left(samples in prop::collection::vec(-1e6f32..1e6, 60..300), rate in 10.0f64..2e6) {
        let channel = |name: &str, unit: &str, samples: Vec<f32>| CaptureChannel { name: name.into(), unit: unit.into(), samples };
        let back: Vec<f32> = samples.iter().rev().copied().collect();
        let capture = Capture { step_s: 1.0 / rate, channels: vec![channel("coil", "A", samples), channel("sync", "", back)] };
        let again = plain(&written(&capture)).unwrap().capture;
        prop_assert!((again.step_s * rate - 1.0).abs() < 1e-3, "{} for {rate}", again.step_s);
        prop_assert_eq!(again.channels, capture.channels);
    }

    #[test]
    fn no_bytes_make_the_reader_fall(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        let _ = read(&bytes, &WaveOptions::default());
        let mut riff = b"RIFF\0\0\0\0WAVE".to_vec();
        riff.extend(bytes);
        let _ = read(&riff, &WaveOptions::default());
    }
}

proptest! {
    #[test]
    fn it_does_not_matter_where_a_file_is_cut_while_it_arrives(rows in 20usize..400, cuts in prop::collection::vec(1usize..200, 1..40)) {
        let text = table("time (ms),coil current (A)", ",", ".", rows);
        let whole = plain(&text).unwrap();
        let mut reader = CsvWaveReader::new(&WaveOptions::default());
        let (mut rest, mut cut) = (text.as_bytes(), 0);
        while !rest.is_empty() {
            let (piece, later) = rest.split_at(cuts[cut % cuts.len()].min(rest.len()));
            reader.push(piece).unwrap();
            (rest, cut) = (later, cut + 1);
        }
        prop_assert_eq!(reader.finish().unwrap(), whole);
    }

    #[test]
    fn separators_and_decimal_signs_make_no_difference(rows in 10usize..120) {
        let point = plain(&table("time (ms),v (V)", ",", ".", rows)).unwrap();
        let comma = plain(&table("time (ms);v (V)", ";", ",", rows)).unwrap();
        prop_assert_eq!(point, comma);
    }

    #[test]
    fn a_scale_multiplies_and_nothing_else(factor in 0.01f64..1000.0, rows in 5usize..60) {
        let text = table("time (ms),v", ",", ".", rows);
        let scales = [("v".to_owned(), WaveScale { factor, unit: "A".into() })].into();
        let scaled = read(text.as_bytes(), &WaveOptions { scales, ..WaveOptions::default() }).unwrap().capture;
        let plain = plain(&text).unwrap().capture;
        prop_assert_eq!(scaled.step_s, plain.step_s);
        for (a, b) in scaled.channels[0].samples.iter().zip(&plain.channels[0].samples) {
            prop_assert!((a - b * factor as f32).abs() <= 1e-5 * a.abs().max(1e-6));
        }
    }
}
