//! Misfire counters from a CSV file: a table of cylinders, or a log with one counter column per cylinder.

mod cells;
mod log;
mod table;

use std::collections::BTreeMap;

use ember_core::misfire::CountWindow;
use ember_core::refusal::Refusal;
use serde::Serialize;
use utoipa::ToSchema;

/// The largest file that is read. A ten-minute log at 20 Hz is well under one megabyte.
pub const LARGEST: usize = 20 * 1024 * 1024;

/// What kind of file it was taken for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CounterFileKind {
    /// `cylinder,misfires`, a line for each cylinder.
    Table,
    /// A time, an engine speed and one counter column for each cylinder.
    Log,
}

/// How one column was understood.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ColumnUse {
    /// The heading as it stands in the file.
    pub heading: String,
    /// `time in s`, `engine speed in rpm`, `misfires of cylinder 3`, `not used`.
    pub used_as: String,
}

/// What was understood of a file, before anything is kept.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CounterReading {
    pub kind: CounterFileKind,
    /// `comma`, `semicolon` or `tab`.
    pub separator: String,
    /// `point` or `comma`.
    pub decimal: String,
    pub rows: usize,
    pub columns: Vec<ColumnUse>,
    /// Null when the file does not say; then it must be asked for.
    pub revolutions: Option<f64>,
    pub misfires: BTreeMap<String, f64>,
    /// The same in windows of time, for a log.
    pub windows: Vec<CountWindow>,
    pub duration_s: Option<f64>,
    /// What was noticed and dealt with: counters that began again, a speed that was missing.
    pub notes: Vec<String>,
}

/// Reads counters from the bytes of a file for an engine with this many cylinders.
///
/// The separator is a semicolon, a tab or a comma, whichever divides the heading most often; with another separator
/// than the comma, a comma in a number is its decimal sign. A byte-order mark and either kind of line end are taken.
///
/// Counters of a log are cumulative. One that falls has begun again: what it then shows was counted since, unless it
/// fell from near the top of an 8- or 16-bit range, when it has wrapped around. The revolutions are the engine speed
/// integrated over time (trapezium rule).
///
/// # Errors
/// A file that is empty, too large or not text; no counter column; a cylinder missing, named twice or not on the
/// engine; a ragged row; text in a number; a time that does not advance; counts that are negative or fractional. The
/// field is `file`, or `row N` counted as an editor counts lines.
///
/// ```
/// let read = ember_formats::counters::read(b"cylinder;misfires\r\n1;0\r\n2;57\r\n3;1\r\n", 3).unwrap();
/// assert_eq!(read.misfires["2"], 57.0);
/// assert_eq!(read.revolutions, None);
/// ```
pub fn read(bytes: &[u8], cylinders: u8) -> Result<CounterReading, Refusal> {
    let text = as_text(bytes)?;
    let heading = text.lines().find(|line| !line.trim().is_empty()).ok_or_else(|| Refusal::new("file", "is empty"))?;
    let separator = [b';', b'\t', b',']
        .into_iter()
        .max_by_key(|&s| (heading.bytes().filter(|&b| b == s).count(), s == b';'))
        .unwrap_or(b',');
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(separator)
        .has_headers(true)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let headings: Vec<String> = reader.headers().map_err(unreadable)?.iter().map(str::to_owned).collect();
    let sheet = Sheet { reader, headings, separator, cylinders };
    if table::is_table(&sheet.headings) { table::read(sheet) } else { log::read(sheet) }
}

/// A file with its headings read, and its rows still to come.
struct Sheet<'a> {
    reader: csv::Reader<&'a [u8]>,
    headings: Vec<String>,
    separator: u8,
    cylinders: u8,
}

impl Sheet<'_> {
    /// Reads the next row that holds anything, and gives its line in the file; `None` at the end.
    fn next_row(&mut self, record: &mut csv::StringRecord) -> Result<Option<u64>, Refusal> {
        while self.reader.read_record(record).map_err(unreadable)? {
            let line = record.position().map_or(0, csv::Position::line);
            let (has, wants) = (record.len(), self.headings.len());
            match record.iter().all(str::is_empty) {
                true => continue,
                false if has == wants => return Ok(Some(line)),
                false => {
                    let reason = format!("has {has} cells where the heading has {wants}");
                    return Err(Refusal::new(format!("row {line}"), reason));
                }
            }
        }
        Ok(None)
    }

    fn separator_name(&self) -> String {
        match self.separator {
            b';' => "semicolon",
            b'\t' => "tab",
            _ => "comma",
        }
        .into()
    }
}

fn as_text(bytes: &[u8]) -> Result<&str, Refusal> {
    if bytes.len() > LARGEST {
        let megabytes = |n: usize| n as f64 / 1_048_576.0;
        return Err(Refusal::new(
            "file",
            format!(
                "is {:.0} MB; at most {:.0} MB are read. Cut the log to the drive in question",
                megabytes(bytes.len()),
                megabytes(LARGEST)
            ),
        ));
    }
    let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(bytes);
    if bytes.contains(&0) {
        return Err(Refusal::new("file", "is not a text file: it holds zero bytes. Save it as CSV"));
    }
    let text = std::str::from_utf8(bytes).map_err(|error| {
        let line = bytes[..error.valid_up_to()].iter().filter(|&&b| b == b'\n').count() + 1;
        Refusal::new(format!("row {line}"), "is not UTF-8 text. Save the file as CSV in UTF-8")
    })?;
    if text.trim().is_empty() {
        return Err(Refusal::new("file", "is empty"));
    }
    Ok(text)
}

fn unreadable(error: csv::Error) -> Refusal {
    let field = error.position().map_or_else(|| "file".to_owned(), |position| format!("row {}", position.line()));
    Refusal::new(field, format!("cannot be read: {error}"))
}

/// The cylinder that a heading names: `cyl 3`, `misfire_03`, `Cylinder 3 misfires`, `MF3`.
fn cylinder_in(heading: &str) -> Option<u16> {
    let lower = heading.to_lowercase();
    let names = ["cyl", "misf", "miss", "zyl", "mf"];
    if !names.iter().any(|name| lower.contains(name)) {
        return None;
    }
    let digits: Vec<&str> = lower.split(|c: char| !c.is_ascii_digit()).filter(|d| !d.is_empty()).collect();
    match digits.as_slice() {
        [one] => one.parse().ok(),
        _ => None,
    }
}

/// Every cylinder of the engine once, none beside them.
fn all_there<T>(found: &BTreeMap<u16, T>, cylinders: u8, field: &str) -> Result<(), Refusal> {
    if let Some(stranger) = found.keys().find(|&&c| c == 0 || c > u16::from(cylinders)) {
        return Err(Refusal::new(field, format!("names cylinder {stranger}, and the engine has {cylinders}")));
    }
    let missing: Vec<String> =
        (1..=u16::from(cylinders)).filter(|c| !found.contains_key(c)).map(|c| c.to_string()).collect();
    if missing.is_empty() {
        return Ok(());
    }
    Err(Refusal::new(field, format!("has nothing for cylinder {}", missing.join(", "))))
}
