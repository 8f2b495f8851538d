//! Counter files of every shape that people send, and of those that cannot be right.

use ember_formats::counters::{CounterFileKind, CounterReading, LARGEST, read};
use rstest::rstest;

fn counts(read: &CounterReading) -> Vec<f64> {
    read.misfires.values().copied().collect()
}

#[rstest]
#[case::comma("cylinder,misfires\n1,0\n2,57\n3,1\n")]
#[case::semicolon_windows("cylinder;misfires\r\n1;0\r\n2;57\r\n3;1\r\n")]
#[case::tab_with_mark("\u{feff}Cylinder\tMisfire count\n1\t0\n2\t57\n3\t1")]
#[case::any_order_with_blank_lines("cyl,misfires\n3,1\n\n1,0\n2,57\n\n")]
#[case::other_columns("cylinder;misfires;remark\n1;0;\n2;57;rough\n3;1;\n")]
#[case::decimal_comma("cylinder;misfires\n1;0,0\n2;57,0\n3;1,0\n")]
fn a_table_of_cylinders_is_read(#[case] text: &str) {
    let read = read(text.as_bytes(), 3).unwrap();
    assert_eq!(read.kind, CounterFileKind::Table);
    assert_eq!(counts(&read), [0.0, 57.0, 1.0]);
}

#[test]
fn a_table_may_carry_its_revolutions() {
    let read = read(b"cylinder,misfires,revolutions\n1,0,12000\n2,57,12000\n3,1,12000\n", 3).unwrap();
    assert_eq!(read.revolutions, Some(12_000.0));
}

/// A log of one sample a second at 3000 rpm; `counter` gives each cylinder's counter.
fn log(separator: char, decimal: char, seconds: usize, counter: impl Fn(usize, usize) -> u32) -> String {
    let mut text =
        ["time s", "rpm", "misfires cyl 1", "misfires cyl 2", "misfires cyl 3", "load"].join(&separator.to_string());
    for second in 0..=seconds {
        let row = [
            format!("{second}.5").replace('.', &decimal.to_string()),
            "3000".to_owned(),
            counter(1, second).to_string(),
            counter(2, second).to_string(),
            counter(3, second).to_string(),
            "40".to_owned(),
        ];
        text.push_str("\r\n");
        text.push_str(&row.join(&separator.to_string()));
    }
    text
}

#[rstest]
#[case::comma_point(',', '.')]
#[case::semicolon_comma(';', ',')]
#[case::tab_comma('\t', ',')]
fn a_log_gives_counts_and_revolutions(#[case] separator: char, #[case] decimal: char) {
    let text = log(separator, decimal, 60, |cylinder, second| if cylinder == 2 { 3 * second as u32 } else { 7 });
    let read = read(text.as_bytes(), 3).unwrap();
    assert_eq!(read.kind, CounterFileKind::Log);
    assert_eq!(counts(&read), [0.0, 180.0, 0.0]);
    assert_eq!(read.revolutions, Some(3000.0));
    assert_eq!(read.duration_s, Some(60.0));
    assert_eq!(read.columns[5].used_as, "not used");
    let in_windows: f64 = read.windows.iter().map(|w| w.misfires["2"]).sum();
    assert_eq!((read.windows.len(), in_windows), (4, 180.0));
}

#[test]
fn counters_that_begin_again_or_wrap_around_lose_nothing() {
    // Cylinder 1 is reset at second 30; cylinder 2 has eight bits and starts at 200; cylinder 3 has sixteen.
    let text = log(',', '.', 60, |cylinder, second| {
        let second = second as u32;
        match cylinder {
            1 => {
                if second < 30 {
                    second
                } else {
                    second - 30
                }
            }
            2 => (200 + 2 * second) % 256,
            _ => (65_500 + second) % 65_536,
        }
    });
    let read = read(text.as_bytes(), 3).unwrap();
    // What cylinder 1 counted between its last sample before the reset and the reset itself nobody saw.
    assert_eq!(counts(&read), [59.0, 120.0, 60.0]);
    assert_eq!(read.notes.len(), 3);
    assert!(read.notes.iter().any(|n| n.contains("cylinder 1 began again")), "{:?}", read.notes);
    assert_eq!(read.notes.iter().filter(|n| n.contains("wrapped around")).count(), 2);
}

#[test]
fn milliseconds_and_pauses_are_understood() {
    let text = "time_ms,rpm,mf1\n0,1200,0\n1000,1200,1\n60000,1200,2\n61000,1200,4\n";
    let read = read(text.as_bytes(), 1).unwrap();
    assert_eq!(read.revolutions, Some(40.0));
    assert!(read.notes[0].contains("1 pauses"), "{:?}", read.notes);
}

#[rstest]
#[case::empty("", 3, "file: is empty")]
#[case::binary("\0\0PK", 3, "file: is not a text file")]
#[case::no_counter("time,rpm,load\n0,800,3\n", 3, "file: has no counter column")]
#[case::no_time("rpm,cyl 1,cyl 2,cyl 3\n800,0,0,0\n", 3, "file: has counter columns and none for the time")]
#[case::no_speed("time,cyl 1,cyl 2,cyl 3\n0,0,0,0\n", 3, "file: has counter columns and none for the engine speed")]
#[case::a_cylinder_short("time,rpm,cyl 1,cyl 2\n0,800,0,0\n", 3, "file: has nothing for cylinder 3")]
#[case::a_stranger("time,rpm,cyl 1,cyl 2,cyl 3,cyl 9\n0,800,0,0,0,0\n", 3, "file: names cylinder 9")]
#[case::twice("time,rpm,cyl 1,misfire 1\n0,800,0,0\n", 1, "file: has two counter columns for cylinder 1")]
#[case::ragged("time,rpm,cyl 1\n0,800,0\n1,800\n", 1, "row 3: has 2 cells where the heading has 3")]
#[case::text_in_number("time,rpm,cyl 1\n0,800,0\n1,fast,0\n", 1, "row 3: \"fast\" in the column rpm is no number")]
#[case::negative("time,rpm,cyl 1\n0,800,0\n1,800,-4\n", 1, "row 3: a count cannot be negative")]
#[case::fraction("cylinder,misfires\n1,2.5\n", 1, "row 2: a count is a whole number")]
#[case::backwards("time,rpm,cyl 1\n5,800,0\n1,800,0\n", 1, "row 3: the time runs backwards")]
#[case::standing("time,rpm,cyl 1\n5,0,0\n6,0,0\n", 1, "file: holds no running engine")]
#[case::one_sample("time,rpm,cyl 1\n5,800,0\n", 1, "file: has fewer than two samples")]
#[case::table_ragged("cylinder,misfires\n1,2\n2\n", 2, "row 3: has 1 cells where the heading has 2")]
#[case::table_twice("cylinder,misfires\n1,2\n1,3\n", 1, "row 3: names cylinder 1 a second time")]
#[case::table_stranger("cylinder,misfires\n1,2\n7,3\n", 1, "file: names cylinder 7")]
#[case::table_word("cylinder,misfires\nfirst,2\n", 1, "row 2: \"first\" is no cylinder")]
#[case::infinite("cylinder,misfires\n1,inf\n", 1, "row 2: \"inf\" in the column misfires is no number")]
fn is_refused_with_the_row(#[case] text: &str, #[case] cylinders: u8, #[case] expected: &str) {
    let message = read(text.as_bytes(), cylinders).unwrap_err().to_string();
    assert!(message.starts_with(expected), "{message}");
}

#[test]
fn a_file_that_is_not_utf8_is_named_by_its_row() {
    let message = read(b"cylinder,misfires\n1,2\n2,\xff\n", 2).unwrap_err().to_string();
    assert!(message.starts_with("row 3: is not UTF-8"), "{message}");
}

#[test]
fn fifty_megabytes_are_refused_by_size() {
    let message = read(&vec![b'1'; LARGEST + 1], 4).unwrap_err().to_string();
    assert!(message.contains("at most 20 MB"), "{message}");
}

#[rstest]
#[case::prefixed("t;n rpm;mf_01;mf_02", &[1, 2])]
#[case::worded("Time (s);Engine speed (rpm);Cylinder 1 misfires;Cylinder 2 misfires", &[1, 2])]
#[case::backwards("time;rpm;misfire 2;misfire 1", &[2, 1])]
#[case::capitals("TIME;RPM;CYL2;CYL1", &[2, 1])]
fn headings_are_understood_as_people_write_them(#[case] headings: &str, #[case] columns: &[u8]) {
    let text = format!("{headings}\n0;1200;0;0\n1;1200;3;8\n2;1200;5;9\n");
    let read = read(text.as_bytes(), 2).unwrap();
    let by_column: Vec<f64> = columns.iter().map(|c| read.misfires[&c.to_string()]).collect();
    assert_eq!(by_column, [5.0, 9.0]);
    assert_eq!(read.revolutions, Some(40.0));
}

#[test]
fn samples_may_be_missing() {
    let text = "time,rpm,cyl 1,cyl 2\n0,1200,0,\n1,,2,0\n2,1200,,4\n3,1200,5,\n";
    let read = read(text.as_bytes(), 2).unwrap();
    assert_eq!(counts(&read), [5.0, 4.0]);
    assert_eq!(read.revolutions, Some(60.0));
    assert!(read.notes[0].contains("1 rows have no engine speed"), "{:?}", read.notes);
}

#[test]
fn counters_that_lag_behind_leave_the_totals_and_drop_the_course() {
    // A counter that is shown late puts more misfires into a window than it has firings.
    let rows: String = (0..60)
        .map(|s| format!("{s},{},{}\n", if s < 30 { 3000 } else { 200 }, if s < 32 { 0 } else { 700 }))
        .collect();
    let read = read(format!("time,rpm,cyl 1\n{rows}").as_bytes(), 1).unwrap();
    assert_eq!(counts(&read), [700.0]);
    assert!(read.windows.is_empty());
    assert!(read.notes.iter().any(|note| note.contains("lag behind")), "{:?}", read.notes);
}

#[test]
fn a_counter_that_falls_from_the_middle_began_again() {
    let read = read(b"time,rpm,cyl 1\n0,1200,90\n1,1200,100\n2,1200,3\n3,1200,4\n", 1).unwrap();
    assert_eq!(counts(&read), [14.0]);
    assert!(
        read.notes[0].starts_with("row 4: the counter of cylinder 1 began again, from 100 to 3"),
        "{:?}",
        read.notes
    );
}

#[test]
fn many_notes_are_counted_and_not_all_told() {
    let rows: String = (0..100).map(|s| format!("{s},1200,{}\n", if s % 2 == 0 { 4 } else { 0 })).collect();
    let read = read(format!("time,rpm,cyl 1\n{rows}").as_bytes(), 1).unwrap();
    assert_eq!(read.notes.len(), 21);
    assert_eq!(read.notes[20], "and 30 more of the kind");
}

#[test]
fn what_is_not_needed_is_named_as_not_used() {
    let read = read(b"time;rpm;coolant;cyl 1\n0;1200;88;0\n1;1200;hot;3\n", 1).unwrap();
    let used: Vec<&str> = read.columns.iter().map(|column| column.used_as.as_str()).collect();
    assert_eq!(used, ["time in s", "engine speed in rpm", "not used", "misfires of cylinder 1"]);
}
