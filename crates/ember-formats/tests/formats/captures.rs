//! Captures into channels: which values stand together, what is kept, what is reported.

use std::fmt::Write;

use ember_core::frames::FaultKind;
use ember_core::knowledge::Knowledge;
use ember_core::recording::Recording;
use ember_formats::capture::{CaptureReader, CaptureSummary, is_capture, read};
use rstest::rstest;

fn capture(lines: &[(f64, &str)]) -> (Recording, CaptureSummary) {
    let text = lines.iter().fold(String::new(), |mut text, (t, frame)| {
        let _ = writeln!(text, "({t:.6}) can0 {frame}");
        text
    });
    read(text.as_bytes(), Knowledge::built_in()).unwrap()
}

fn first(recording: &Recording, channel: &str) -> f32 {
    recording.channels[channel][0]
}

#[test]
fn values_of_one_round_stand_in_one_row() {
    let (recording, _) = capture(&[
        (1.00, "7E8#04410C0FA0"),
        (1.02, "7E8#03410550"),
        (1.04, "7E8#03410433"),
        (1.20, "7E8#04410C0FC8"),
        (1.22, "7E8#03410551"),
    ]);
    assert_eq!(recording.time_s, [1.0, 1.2]);
    assert_eq!(recording.channels["engine_speed"], [1000.0, 1010.0]);
    assert_eq!(recording.channels["coolant"], [40.0, 41.0]);
    assert!(recording.channels["load"][1].is_nan(), "it was not asked for again");
}

#[test]
fn values_far_apart_do_not_stand_in_one_row() {
    let (recording, _) = capture(&[(1.0, "7E8#04410C0FA0"), (2.0, "7E8#03410550")]);
    assert_eq!(recording.len(), 2);
}

#[rstest]
#[case::several_in_one_answer("7E8#06410C0FA00D32", "vehicle_speed", 50.0)]
#[case::closed_loop("7E8#0441030200", "closed_loop", 1.0)]
#[case::open_loop("7E8#0441030100", "closed_loop", 0.0)]
#[case::long_identifiers("18DAF110#04410C0FA0", "engine_speed", 1000.0)]
#[case::another_unit("7E9#03410550", "coolant", 40.0)]
fn live_data_become_channels(#[case] frame: &str, #[case] channel: &str, #[case] expected: f32) {
    assert_eq!(first(&capture(&[(1.0, frame)]).0, channel), expected);
}

#[test]
fn misfire_monitors_become_counters() {
    let (recording, summary) = capture(&[
        (1.00, "7E8#101346A20B240002"),
        (1.01, "7E8#210000FFFFA20C24"),
        (1.02, "7E8#2200050000FFFF00"),
        (2.00, "7E8#101346A30B240000"),
        (2.01, "7E8#210000FFFFA30C24"),
        (2.02, "7E8#2200070000FFFF00"),
    ]);
    assert_eq!(first(&recording, "misfires_1"), 5.0);
    assert_eq!(recording.channels["misfires_2"][1], 7.0);
    assert_eq!(summary.units[0].monitors.len(), 4, "they are kept for the unit as well");
}

#[test]
fn codes_are_kept_for_their_unit() {
    let (_, summary) = capture(&[
        (1.00, "7E8#0443010171"),
        (1.01, "7E9#0443010700"),
        (1.02, "7E8#0447010420"),
        (1.03, "7E8#03410550"),
    ]);
    let codes: Vec<Vec<&str>> =
        summary.units.iter().map(|u| u.codes.iter().map(|c| c.code.as_str()).collect()).collect();
    assert_eq!(codes, [vec!["P0171", "P0420"], vec!["P0700"]]);
}

#[test]
fn a_parameter_that_is_not_known_ends_the_answer_and_the_rest_is_kept() {
    let (recording, summary) = capture(&[(1.0, "7E8#06410C0FA0F001"), (1.5, "7E8#03410550")]);
    assert_eq!(first(&recording, "engine_speed"), 1000.0);
    assert_eq!(recording.len(), 2);
    assert!(summary.channels.iter().all(|(name, n)| *n == 1 && name != "load"));
}

#[test]
fn requests_are_no_values() {
    let text = "(1.0) can0 7DF#02010C0000000000\n";
    let (recording, summary) = read(text.as_bytes(), Knowledge::built_in()).unwrap();
    assert!(recording.is_empty() && recording.channels.is_empty());
    assert_eq!(summary.faults[0].kind, FaultKind::Unanswered);
}

#[test]
fn time_that_runs_backwards_is_reported_and_its_row_left_out() {
    let (recording, summary) = capture(&[(5.0, "7E8#04410C0FA0"), (4.0, "7E8#04410C0FC8"), (6.0, "7E8#04410C0FA0")]);
    assert_eq!(recording.time_s, [5.0, 6.0]);
    assert!(summary.faults.iter().any(|f| f.kind == FaultKind::Clock));
}

#[test]
fn a_torn_message_gives_no_value_and_is_reported() {
    let (recording, summary) =
        capture(&[(1.00, "7E8#100F410C0FA00510"), (1.01, "7E8#225004330D320F3A"), (2.00, "7E8#03410550")]);
    assert_eq!(recording.channels.keys().collect::<Vec<_>>(), ["coolant"]);
    assert_eq!(summary.faults[0].kind, FaultKind::Lost);
    assert_eq!(summary.faults[0].time_s, 1.01);
}

#[test]
fn a_long_capture_is_handed_out_in_blocks_of_bounded_size() {
    let mut reader = CaptureReader::new(Knowledge::built_in());
    let (mut rows, mut blocks) = (0, 0);
    for i in 0..150_000u32 {
        let line = format!("({}.{:02}) c 7E8#04410C{:04X}\n", i / 10, i % 10 * 10, 3200 + i % 999);
        reader.push(line.as_bytes());
        if let Some(block) = reader.take_block() {
            assert!(block.len() <= 66_000);
            assert_eq!(block.channels["engine_speed"].len(), block.len());
            rows += block.len();
            blocks += 1;
        }
    }
    let (rest, summary) = reader.finish().unwrap();
    assert_eq!((rows + rest.len(), blocks, summary.rows), (150_000, 2, 150_000));
    assert_eq!(summary.channels, [("engine_speed".to_owned(), 150_000)]);
}

#[rstest]
#[case::a_capture("(1.0) can0 7E8#0341050A\n", true)]
#[case::a_capture_with_remote_frames("(1.0) can0 7E8#R\n(1.1) can0 7E8#0341050A\n", true)]
#[case::a_table("time,rpm\n0,800\n", false)]
#[case::nothing("", false)]
#[case::a_note("(see the drive of 7)\n", false)]
fn a_capture_is_told_from_a_table(#[case] text: &str, #[case] expected: bool) {
    assert_eq!(is_capture(text.as_bytes()), expected);
}

#[test]
fn a_line_that_never_ends_does_not_fill_the_memory() {
    let mut reader = CaptureReader::new(Knowledge::built_in());
    for _ in 0..100 {
        reader.push(&[b'7'; 65_536]);
    }
    reader.push(b"\n(1.0) c 7E8#0341050A\n");
    let (recording, summary) = reader.finish().unwrap();
    assert_eq!((recording.len(), summary.notes.len()), (1, 1));
}
