//! Channels as CSV: a time column and one column for each channel, the unit in its heading.

use std::io::{self, Write};

use ember_core::recording::{ChannelBook, Recording};

/// Writes a recording. Values that were not taken are empty cells. What is written reads back the same.
///
/// # Errors
/// Whatever the writer refuses.
pub fn write(recording: &Recording, book: &ChannelBook, out: &mut impl Write) -> io::Result<()> {
    let names: Vec<&String> = recording.channels.keys().collect();
    let mut writer = csv::Writer::from_writer(out);
    let heading = |name: &str| match book.get(name) {
        Some(channel) if !channel.unit.is_empty() => format!("{name} ({})", channel.unit),
        _ => name.to_owned(),
    };
    writer.write_record(std::iter::once("time (s)".to_owned()).chain(names.iter().map(|n| heading(n))))?;
    let columns: Vec<&Vec<f32>> = recording.channels.values().collect();
    let mut record = csv::StringRecord::new();
    for (row, time) in recording.time_s.iter().enumerate() {
        record.clear();
        record.push_field(&time.to_string());
        for column in &columns {
            match column.get(row) {
                Some(value) if !value.is_nan() => record.push_field(&value.to_string()),
                _ => record.push_field(""),
            }
        }
        writer.write_record(&record)?;
    }
    writer.flush()
}
