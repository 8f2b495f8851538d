//! Logs of any common shape, and what is wrong with some.

use ember_core::knowledge::Knowledge;
use ember_core::recording::{ChannelBook, Recording};
use ember_formats::log::{Layout, LogReader, TimeKind, read, read_with};
use ember_formats::{capture, channels_out};
use rstest::rstest;

fn book() -> &'static ChannelBook {
    &Knowledge::built_in().channels
}

fn log(text: &str) -> (Recording, Vec<String>) {
    let (recording, summary) = read(text.as_bytes(), book(), 100.0).unwrap_or_else(|refusal| panic!("{refusal}"));
    (recording, summary.notes.iter().map(|n| format!("{}: {}", n.row, n.what)).collect())
}

fn refused(text: &str) -> String {
    read(text.as_bytes(), book(), 100.0).map(|_| ()).unwrap_err().to_string()
}

fn near(values: &[f32], expected: &[f64]) {
    assert_eq!(values.len(), expected.len());
    for (value, expected) in values.iter().zip(expected) {
        assert!((f64::from(*value) - expected).abs() < 1e-3 || value.is_nan() && expected.is_nan(), "{values:?}");
    }
}

#[rstest]
#[case::comma("time (s),rpm\n0,800\n0.5,820\n")]
#[case::semicolon_and_decimal_comma("time (s);rpm\n0,0;800\n0,5;820,0\n")]
#[case::tab("Time s\tEngine speed\n0\t800\n0.5\t820\n")]
#[case::bar("t|RPM\n0|800\n0.5|820\n")]
#[case::windows_line_ends("time,rpm\r\n0,800\r\n0.5,820\r\n")]
#[case::byte_order_mark("\u{feff}time,rpm\n0,800\n0.5,820")]
#[case::milliseconds("time_ms,rpm\n1000,800\n1500,820\n")]
#[case::milliseconds_without_a_unit("time,rpm\n0,800\n500,820\n")]
#[case::microseconds("time (us),rpm\n0,800\n500000,820\n")]
#[case::clock("clock,rpm\n05:42:07.0,800\n05:42:07.5,820\n")]
#[case::date_and_clock("timestamp;rpm\n2026-11-02T05:42:07Z;800\n2026-11-02T05:42:07.5Z;820\n")]
#[case::past_midnight("time,rpm\n23:59:59.8,800\n00:00:00.3,820\n")]
#[case::quoted("\"time, s\",\"engine speed, rpm\"\n\"0\",\"800\"\n\"0.5\",\"820\"\n")]
#[case::units_in_a_second_row("Time;n engine speed\ns;1/min\n0;800\n0,5;820\n")]
#[case::titles_above("Log of the drive\n# warm\ntime,rpm,x\n0,800,a\n0.5,820,b\n")]
#[case::a_separator_at_the_end("time,rpm\n0,800,\n0.5,820,\n")]
#[case::revolutions_per_second("time,engine speed (1/s)\n0,13.333333\n0.5,13.666667\n")]
#[case::one_channel_a_row("time,rpm,coolant\n0,800,\n0,,80\n0.5,820,\n0.5,,81\n")]
fn shapes_are_read(#[case] text: &str) {
    let (recording, notes) = log(text);
    assert!((recording.time_s[1] - recording.time_s[0] - 0.5).abs() < 1e-9, "{:?}", recording.time_s);
    near(&recording.channels["engine_speed"], &[800.0, 820.0]);
    assert!(notes.is_empty(), "{notes:?}");
}

#[rstest]
#[case::fahrenheit("coolant (°F)", "coolant", "212", 100.0)]
#[case::fahrenheit_as_old_tools_write_it("ECT degF", "coolant", "-40", -40.0)]
#[case::miles("vehicle speed (mph)", "vehicle_speed", "60", 96.56064)]
#[case::psi_absolute("manifold pressure [psia]", "manifold_pressure", "14.5", 99.974)]
#[case::psi_above_ambient("boost actual (psig)", "actual_boost", "10", 168.9476)]
#[case::bar_above_ambient("actual boost (bar gauge)", "actual_boost", "1.2", 220.0)]
#[case::inches("MAP (inHg)", "manifold_pressure", "", f64::NAN)]
#[case::inches_of_mercury("intake manifold pressure (inHg)", "manifold_pressure", "10", 33.8639)]
#[case::pounds_a_minute("MAF (lb/min)", "airflow", "2", 15.1197)]
#[case::kilograms_an_hour("air flow (kg/h)", "airflow", "36", 10.0)]
#[case::millivolt("supply voltage mV", "battery", "14080", 14.08)]
#[case::kelvin("intake air temp (K)", "intake_air", "293.15", 20.0)]
#[case::rail_in_bar("fuel rail pressure (bar)", "rail_pressure", "350", 35_000.0)]
fn units_are_changed(#[case] heading: &str, #[case] channel: &str, #[case] cell: &str, #[case] expected: f64) {
    let text = format!("time;rpm;{heading}\n0;800;{cell}\n1;810;{cell}\n");
    let (recording, _) = log(&text);
    match recording.channels.get(channel) {
        Some(values) => near(values, &[expected, expected]),
        None => assert!(expected.is_nan(), "{heading} is not known"),
    }
}

#[rstest]
#[case("STFT1 (%)", "short_trim_1")]
#[case("Short term fuel trim bank 2", "short_trim_2")]
#[case("LTFT", "long_trim_1")]
#[case("MF03", "misfires_3")]
#[case("Misfires cyl 12", "misfires_12")]
#[case("Boost request", "requested_boost")]
#[case("charge pressure", "actual_boost")]
#[case("Engine Load", "load")]
#[case("EGT 4", "exhaust_temperature_4")]
#[case("exhaust_temperature_6", "exhaust_temperature_6")]
#[case("Accelerator pedal", "pedal")]
#[case("Barometric pressure", "ambient_pressure")]
fn headings_are_guessed(#[case] heading: &str, #[case] channel: &str) {
    assert_eq!(book().guess(heading).map(|c| c.name.as_str()), Some(channel));
}

#[rstest]
#[case::text_in_a_column("time,rpm\n0,800\n1,hot\n2,820\n", "3: rpm holds \"hot\", which is no number")]
#[case::out_of_all_bounds("time,coolant,rpm\n0,80,800\n1,999,810\n", "3: coolant is 999")]
#[case::half_a_count("time,rpm,mf1\n0,800,1\n1,800,1.5\n", "3: mf1 is 1.5, and a counter is whole")]
#[case::backwards("time,rpm\n0,800\n2,810\n1,815\n3,820\n4,1\n5,1\n6,1\n", "4: the time runs backwards")]
#[case::standing_still("time,rpm\n0,800\n1,810\n1,815\n3,820\n4,1\n5,1\n6,1\n", "4: the time stands still")]
#[case::torn_row(
    "time,rpm,load\n0,800,20\n1,8\n2,820,20\n3,820,20\n4,820,20\n5,820,20\n",
    "3: has 2 cells where the headings have 3"
)]
#[case::cut_off("time,rpm,load\n0,800,20\n1,820,22\n2,8", "4: the file ends in the middle of this row")]
fn what_is_wrong_is_named_by_row_and_the_rest_is_kept(#[case] text: &str, #[case] note: &str) {
    let (recording, notes) = log(text);
    assert!(notes.iter().any(|n| n.starts_with(note)), "{notes:?}");
    assert!(recording.time_s.windows(2).all(|pair| pair[0] < pair[1]));
    assert!(recording.len() >= 2);
}

#[rstest]
#[case::nothing("", "file: is empty")]
#[case::zero_bytes("time,rpm\0\n0,1\n", "file: is not a text file")]
#[case::one_column("rpm\n800\n", "file: has one column only")]
#[case::no_headings("0,800\n1,810\n", "file: has no row of headings")]
#[case::no_time("rpm,load\n800,20\n700,21\n", "file: has no column with the time")]
#[case::nothing_known("time,wibble\n0,1\n1,2\n", "columns: none is a channel that is known here")]
#[case::no_rows("time,rpm\n", "file: has")]
#[case::all_backwards("time,rpm\n9,800\n8,800\n7,800\n6,800\n5,800\n", "file: 4 of 5 rows had to be left out")]
fn what_cannot_be_read_is_refused(#[case] text: &str, #[case] reason: &str) {
    let said = refused(text);
    assert!(said.starts_with(reason), "{said}");
}

#[test]
fn utf_16_is_named() {
    let bytes: Vec<u8> =
        [0xFF, 0xFE].into_iter().chain("time,rpm\n".encode_utf16().flat_map(u16::to_le_bytes)).collect();
    assert!(read(&bytes, book(), 100.0).map(|_| ()).unwrap_err().reason.contains("UTF-16"));
}

#[test]
fn one_byte_letters_do_not_stop_a_file() {
    let bytes = b"time,coolant (\xB0C),rpm\n0,80,800\n1,81,810\n";
    let (recording, _) = read(bytes, book(), 100.0).unwrap();
    assert!(recording.channels.contains_key("engine_speed"));
}

#[test]
fn two_columns_for_one_channel_are_shown_and_by_hand_refused() {
    let text = b"time,rpm,engine speed\n0,800,801\n1,810,811\n";
    let mut layout = Layout::guess(text, book()).unwrap();
    assert_eq!(layout.columns[2].channel, None);
    assert!(layout.columns[2].note.contains("already taken"), "{}", layout.columns[2].note);
    layout.columns[2].channel = Some("engine_speed".into());
    let refusal = read_with(text, &layout, book(), 100.0).map(|_| ()).unwrap_err();
    assert!(refusal.field == "columns[2]" && refusal.reason.contains("two columns"), "{refusal}");
}

#[test]
fn a_column_can_be_corrected_by_hand() {
    let text = b"time,n,rpm\n0,8,800\n1,9,810\n";
    let mut layout = Layout::guess(text, book()).unwrap();
    assert_eq!(layout.columns[1].channel, None);
    layout.columns[1].channel = Some("load".into());
    let (recording, _) = read_with(text, &layout, book(), 100.0).unwrap();
    near(&recording.channels["load"], &[8.0, 9.0]);
    layout.columns[1].unit = "furlongs".into();
    assert_eq!(LogReader::new(&layout, book(), 100.0).map(|_| ()).unwrap_err().field, "columns[1].unit");
    layout.columns[1].channel = Some("no such thing".into());
    assert_eq!(LogReader::new(&layout, book(), 100.0).map(|_| ()).unwrap_err().field, "columns[1]");
}

#[test]
fn what_was_corrected_is_remembered_for_the_same_headings() {
    let mut first = Layout::guess(b"time,n\n0,800\n1,810\n", book()).unwrap();
    first.columns[1].channel = Some("engine_speed".into());
    first.time = TimeKind::Milliseconds;
    let mut next = Layout::guess(b"time,n\n5,900\n6,910\n", book()).unwrap();
    next.remember(&first);
    assert_eq!((next.columns[1].channel.as_deref(), next.time), (Some("engine_speed"), TimeKind::Milliseconds));
    let mut other = Layout::guess(b"time,x\n5,900\n6,910\n", book()).unwrap();
    other.remember(&first);
    assert_eq!(other.columns[1].channel, None);
}

#[test]
fn a_file_in_pieces_reads_as_the_whole() {
    let mut text = String::from("time,rpm,load\n");
    for i in 0..500 {
        text.push_str(&format!("{},{},{}\n", f64::from(i) * 0.05, 800 + i, i % 100));
    }
    let (whole, _) = log(&text);
    let layout = Layout::guess(text.as_bytes(), book()).unwrap();
    for size in [1, 7, 64, 1000] {
        let mut reader = LogReader::new(&layout, book(), 100.0).unwrap();
        let mut pieces = Recording::default();
        let mut keep = |block: &ember_formats::log::Block<'_>| {
            pieces.time_s.extend_from_slice(block.time_s);
            for (name, values) in block.columns() {
                pieces.channels.entry(name.to_owned()).or_default().extend_from_slice(values);
            }
            Ok(())
        };
        for piece in text.as_bytes().chunks(size) {
            reader.push(piece, &mut keep).unwrap();
        }
        reader.finish(&mut keep).unwrap();
        assert_eq!(pieces, whole, "in pieces of {size}");
    }
}

#[test]
fn a_line_without_an_end_does_not_fill_the_memory() {
    let layout = Layout::guess(b"time,rpm\n0,800\n", book()).unwrap();
    let mut reader = LogReader::new(&layout, book(), 100.0).unwrap();
    let piece = vec![b'7'; 1 << 20];
    let mut keep = |_: &ember_formats::log::Block<'_>| Ok(());
    let refusal = (0..4).find_map(|_| reader.push(&piece, &mut keep).err()).unwrap();
    assert!(refusal.reason.contains("longer than a megabyte"), "{refusal}");
}

#[test]
fn channels_written_out_read_back_the_same() {
    let (recording, _) = log("time,rpm,coolant,mf1\n0,800.25,80,0\n0.1,,,1\n0.25,822.5,81.5,2\n");
    let mut text = Vec::new();
    channels_out::write(&recording, book(), &mut text).unwrap();
    let (again, summary) = read(&text, book(), 100.0).unwrap();
    assert_eq!(again.time_s, recording.time_s);
    assert!(summary.notes.is_empty());
    for (name, values) in &recording.channels {
        let bits = |list: &[f32]| list.iter().map(|v| v.to_bits()).collect::<Vec<_>>();
        assert_eq!(bits(&again.channels[name]), bits(values), "{name}");
    }
}

/// Files that other programs' general writers made: data frames, row writers, a bus recorder.
#[rstest]
#[case::frame_with_decimal_commas("frame-semicolon.csv", &[("engine_speed", 800.0), ("coolant", 82.2222), ("vehicle_speed", 48.28032), ("airflow", 11.3398)])]
#[case::all_quoted_with_a_clock("frame-quoted-clock.csv", &[("engine_speed", 800.0), ("actual_boost", 113.7895)])]
#[case::columns_by_tabs("columns-tab.tsv", &[("engine_speed", 800.0), ("short_trim_1", 0.0)])]
#[case::rows_quoted("rows-quoted.csv", &[("engine_speed", 800.0), ("manifold_pressure", 33.8639)])]
#[case::units_in_second_row("units-in-second-row.csv", &[("engine_speed", 800.0), ("intake_air", 20.0), ("load", 0.0)])]
#[case::bars_below_comments("bars.txt", &[("engine_speed", 800.0), ("misfires_1", 0.0), ("misfires_2", 0.0)])]
fn files_that_others_wrote_are_read(#[case] file: &str, #[case] first: &[(&str, f64)]) {
    let path = format!("{}/tests/written-elsewhere/{file}", env!("CARGO_MANIFEST_DIR"));
    let (recording, summary) = read(&std::fs::read(path).unwrap(), book(), 100.0).unwrap();
    assert_eq!((recording.len(), summary.left_out), (40, 0));
    assert!((recording.span_s() - 9.75).abs() < 1e-6, "{}", recording.span_s());
    for (channel, expected) in first {
        near(&recording.channels[*channel][..1], &[*expected]);
    }
}

#[test]
fn a_capture_that_another_recorder_wrote_is_read() {
    let path = format!("{}/tests/written-elsewhere/traffic.log", env!("CARGO_MANIFEST_DIR"));
    let bytes = std::fs::read(path).unwrap();
    assert!(capture::is_capture(&bytes));
    let (recording, summary) = capture::read(&bytes, Knowledge::built_in()).unwrap();
    assert_eq!((recording.len(), summary.frames), (40, 80));
    near(&recording.channels["engine_speed"][..2], &[800.0, 810.0]);
    assert!(summary.faults.is_empty(), "{:?}", summary.faults);
    assert_eq!(summary.notes[0].row, 81);
}

#[test]
fn a_capture_in_pieces_and_blocks_reads_as_the_whole() {
    let mut text = String::new();
    for i in 0..4000u32 {
        let rpm = (3200 + i % 400).to_be_bytes();
        text.push_str(&format!(
            "({}.{:03}000) can0 7E8#04410C{:02X}{:02X}000000\n",
            10 + i / 10,
            i % 10 * 100,
            rpm[2],
            rpm[3]
        ));
    }
    let (whole, summary) = capture::read(text.as_bytes(), Knowledge::built_in()).unwrap();
    assert_eq!((whole.len(), summary.rows), (4000, 4000));
    let mut reader = capture::CaptureReader::new(Knowledge::built_in());
    for piece in text.as_bytes().chunks(13) {
        reader.push(piece);
        assert!(reader.take_block().is_none(), "a small capture is handed out at the end");
    }
    assert_eq!(reader.finish().unwrap().0, whole);
}

#[rstest]
#[case::nothing("", "holds no frame")]
#[case::rubbish("hello\nworld\n", "line 1 does not begin with a time")]
fn a_capture_without_a_frame_is_refused(#[case] text: &str, #[case] reason: &str) {
    let refusal = capture::read(text.as_bytes(), Knowledge::built_in()).map(|_| ()).unwrap_err();
    assert!(refusal.reason.contains(reason), "{refusal}");
}

#[test]
fn rubbish_between_frames_is_named_by_line_and_passed_over() {
    let text = "(1.0) c 7E8#0341050A\n(!!) 7E8#0Z\n(2.0) c 7E8#0341050B\n";
    let (recording, summary) = capture::read(text.as_bytes(), Knowledge::built_in()).unwrap();
    near(&recording.channels["coolant"], &[-30.0, -29.0]);
    assert_eq!(summary.notes[0].row, 2);
}
