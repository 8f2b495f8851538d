//! How a file's beginning is understood before anything is read.

use ember_core::knowledge::Knowledge;
use ember_formats::log::{ColumnPlan, Layout, LogReader, TIME, TimeKind};
use rstest::rstest;

fn guess(text: &str) -> Layout {
    Layout::guess(text.as_bytes(), &Knowledge::built_in().channels).unwrap_or_else(|refusal| panic!("{refusal}"))
}

fn channels(layout: &Layout) -> Vec<Option<&str>> {
    layout.columns.iter().map(|c| c.channel.as_deref()).collect()
}

#[rstest]
#[case::comma("time,rpm,load\n0,800,20\n1,810,21\n", ',')]
#[case::semicolon("time;rpm;load\n0,5;800;20\n1,5;810;21\n", ';')]
#[case::tab("time\trpm\tload\n0\t800\t20\n1\t810\t21\n", '\t')]
#[case::bar("time|rpm|load\n0|800|20\n1|810|21\n", '|')]
#[case::commas_within_quotes("\"time, s\";\"speed, rpm\"\n0;800\n1;810\n", ';')]
fn the_separator_is_what_divides_most_lines_alike(#[case] text: &str, #[case] separator: char) {
    assert_eq!(guess(text).separator, separator);
}

#[rstest]
#[case::named_seconds("time (s),rpm\n0,800\n1,810\n", TimeKind::Seconds)]
#[case::named_milliseconds("time (ms),rpm\n0,800\n1,810\n", TimeKind::Milliseconds)]
#[case::in_the_name("time_ms,rpm\n0,800\n1,810\n", TimeKind::Milliseconds)]
#[case::microseconds("time us,rpm\n0,800\n1,810\n", TimeKind::Microseconds)]
#[case::small_steps("time,rpm\n0,800\n0.05,810\n0.1,810\n", TimeKind::Seconds)]
#[case::steps_of_a_second("time,rpm\n100,800\n101,810\n102,810\n", TimeKind::Seconds)]
#[case::steps_of_fifty("time,rpm\n100,800\n150,810\n200,810\n", TimeKind::Milliseconds)]
#[case::steps_of_fifty_thousand("time,rpm\n0,800\n50000,810\n100000,810\n", TimeKind::Microseconds)]
#[case::clock("time,rpm\n05:42:07,800\n05:42:08,810\n", TimeKind::Clock)]
#[case::date("timestamp,rpm\n2026-11-02 05:42:07.5,800\n2026-11-02 05:42:08,810\n", TimeKind::Clock)]
fn the_time_is_understood(#[case] text: &str, #[case] kind: TimeKind) {
    let layout = guess(text);
    assert_eq!(layout.time, kind);
    assert_eq!(layout.columns[0].channel.as_deref(), Some(TIME));
}

#[rstest]
#[case::anywhere("rpm,load,time\n800,20,0\n810,21,1\n", 2)]
#[case::unnamed_but_rising("sample;rpm\n0;800\n1;810\n2;790\n3;805\n", 0)]
#[case::elapsed("rpm,elapsed\n800,0\n810,1\n", 1)]
#[case::within_a_name("rpm,log time\n800,0\n810,1\n", 1)]
fn the_time_is_found(#[case] text: &str, #[case] at: usize) {
    let layout = guess(text);
    assert_eq!(layout.columns[at].channel.as_deref(), Some(TIME), "{:?}", channels(&layout));
}

#[rstest]
#[case::first_line("time,rpm\n0,800\n1,810\n", 1, 0)]
#[case::below_titles("drive 7\nwarm, dry\n\ntime,rpm,load\n0,800,20\n1,810,20\n", 4, 0)]
#[case::units_below("time,rpm,load\ns,1/min,%\n0,800,20\n1,810,20\n", 1, 1)]
#[case::units_in_brackets_below("time,rpm,load\n[s],[rpm],[%]\n0,800,20\n1,810,20\n", 1, 1)]
#[case::a_row_of_words_is_no_row_of_units("time,rpm,note\n0,800,cold\n1,810,warm\n", 1, 0)]
fn headings_and_units_are_found(#[case] text: &str, #[case] heading_line: usize, #[case] unit_lines: usize) {
    let layout = guess(text);
    assert_eq!((layout.heading_line, layout.unit_lines), (heading_line, unit_lines));
}

#[rstest]
#[case("coolant (°F)", "coolant", "°F")]
#[case("Coolant temp [degF]", "coolant", "degF")]
#[case("vehicle speed mph", "vehicle_speed", "mph")]
#[case("speed mph", "vehicle_speed", "mph")]
#[case("boost_actual_psig", "actual_boost", "psig")]
#[case("MAF (lb/min)", "airflow", "lb/min")]
#[case("manifold pressure (kPa abs)", "manifold_pressure", "kPa abs")]
#[case("rpm", "engine_speed", "")]
#[case("Load", "load", "")]
fn a_heading_gives_channel_and_unit(#[case] heading: &str, #[case] channel: &str, #[case] unit: &str) {
    let layout = guess(&format!("time;{heading}\n0;1\n1;2\n"));
    assert_eq!(layout.columns[1].channel.as_deref(), Some(channel), "{:?}", layout.columns[1]);
    assert_eq!(layout.columns[1].unit, unit);
}

#[rstest]
#[case::a_unit_of_something_else("load (kPa)", "reads like load, but")]
#[case::unknown("wibble", "not known")]
#[case::words("driver", "not known")]
fn a_column_that_is_left_out_says_why(#[case] heading: &str, #[case] note: &str) {
    let layout = guess(&format!("time;rpm;{heading}\n0;1;5\n1;2;6\n"));
    assert_eq!(layout.columns[2].channel, None);
    assert!(layout.columns[2].note.contains(note), "{}", layout.columns[2].note);
}

#[test]
fn a_known_heading_over_words_is_left_out() {
    let layout = guess("time,rpm,load\n0,800,low\n1,810,high\n");
    assert_eq!((channels(&layout)[2], layout.columns[2].note.as_str()), (None, "holds no numbers"));
}

#[rstest]
#[case::above_ambient("boost actual (psig)", true)]
#[case::gauge("boost actual (kPa gauge)", true)]
#[case::absolute("boost actual (kPa)", false)]
#[case::no_pressure("coolant (°F)", false)]
fn the_ambient_pressure_is_asked_for_where_a_column_needs_it(#[case] heading: &str, #[case] needs: bool) {
    assert_eq!(guess(&format!("time;rpm;{heading}\n0;1;5\n1;2;6\n")).needs_ambient(), needs);
}

#[test]
fn the_first_rows_are_shown_cell_by_cell() {
    let text = "title\ntime;rpm\ns;1/min\n0,0;800\n\n0,5;810\n1,0;820\n";
    let layout = guess(text);
    assert_eq!(layout.sample(text.as_bytes(), 2), [["0,0", "800"], ["0,5", "810"]]);
}

fn plan(heading: &str, channel: Option<&str>) -> ColumnPlan {
    ColumnPlan { heading: heading.into(), unit: String::new(), channel: channel.map(Into::into), note: String::new() }
}

fn by_hand(separator: char, columns: Vec<ColumnPlan>) -> Layout {
    Layout { separator, heading_line: 1, unit_lines: 0, time: TimeKind::Seconds, columns }
}

#[rstest]
#[case::separator(by_hand('x', vec![plan("t", Some("time")), plan("n", Some("load"))]), "separator")]
#[case::no_time(by_hand(',', vec![plan("t", None), plan("n", Some("load"))]), "columns")]
#[case::no_channel(by_hand(',', vec![plan("t", Some("time")), plan("n", None)]), "columns")]
#[case::time_twice(by_hand(',', vec![plan("t", Some("time")), plan("n", Some("time"))]), "columns[1]")]
#[case::unknown_channel(by_hand(',', vec![plan("t", Some("time")), plan("n", Some("luck"))]), "columns[1]")]
fn a_layout_that_cannot_be_is_refused_by_field(#[case] layout: Layout, #[case] field: &str) {
    let refusal = LogReader::new(&layout, &Knowledge::built_in().channels, 101.3).map(|_| ()).unwrap_err();
    assert_eq!(refusal.field, field, "{refusal}");
}

#[test]
fn a_layout_travels_as_json() {
    let layout = guess("time;rpm;coolant (°F)\n0;800;180\n1;810;181\n");
    let text = serde_json::to_string(&layout).unwrap();
    assert_eq!(serde_json::from_str::<Layout>(&text).unwrap(), layout);
    assert!(serde_json::from_str::<Layout>(&text.replacen("separator", "divider", 1)).is_err());
}
