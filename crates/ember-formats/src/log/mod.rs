//! Logs: channels over time from a CSV file of any common shape, read in one pass and in bounded memory.

mod layout;
pub(crate) mod number;
mod reader;

pub use layout::{ColumnPlan, HEAD, Layout, TIME, TimeKind};
pub use reader::{Block, LogReader, LogSummary, RowNote};

use ember_core::recording::{ChannelBook, Recording};
use ember_core::refusal::Refusal;

/// Reads a whole log that is in memory. Long files are pushed through a [`LogReader`] instead.
///
/// # Errors
/// Whatever [`Layout::guess`] and [`LogReader`] refuse.
///
/// ```
/// use ember_core::knowledge::Knowledge;
/// use ember_formats::log;
///
/// let text = b"time s;rpm;coolant \xC2\xB0F\n0,0;810;194\n0,5;822;194\n";
/// let (recording, summary) = log::read(text, &Knowledge::built_in().channels, 101.325).unwrap();
/// assert_eq!(recording.channels["coolant"], [90.0, 90.0]);
/// assert_eq!(summary.rows, 2);
/// ```
pub fn read(bytes: &[u8], book: &ChannelBook, ambient_kpa: f64) -> Result<(Recording, LogSummary), Refusal> {
    let layout = Layout::guess(&bytes[..bytes.len().min(HEAD)], book)?;
    read_with(bytes, &layout, book, ambient_kpa)
}

/// The same with a layout that is known.
///
/// # Errors
/// As [`read`].
pub fn read_with(
    bytes: &[u8],
    layout: &Layout,
    book: &ChannelBook,
    ambient_kpa: f64,
) -> Result<(Recording, LogSummary), Refusal> {
    let mut recording = Recording::default();
    let mut reader = LogReader::new(layout, book, ambient_kpa)?;
    let mut keep = |block: &Block<'_>| {
        recording.time_s.extend_from_slice(block.time_s);
        for (name, values) in block.columns() {
            recording.channels.entry(name.to_owned()).or_default().extend_from_slice(values);
        }
        Ok(())
    };
    for part in bytes.chunks(1 << 20) {
        reader.push(part, &mut keep)?;
    }
    let summary = reader.finish(&mut keep)?;
    Ok((recording, summary))
}
