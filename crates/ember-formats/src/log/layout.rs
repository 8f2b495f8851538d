//! The layout of a log: what separates its cells, where its headings are, and which channel each column is.

use ember_core::recording::ChannelBook;
use ember_core::refusal::Refusal;
use ember_core::unit::{Conversion, conversion, is_unit};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::number::{Cell, cell, clock};

/// How much of a file's beginning is looked at to understand it.
pub const HEAD: usize = 256 * 1024;
/// How many rows are looked at.
const ROWS: usize = 200;

/// How time is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum TimeKind {
    Seconds,
    Milliseconds,
    Microseconds,
    /// Hours, minutes and seconds of the day.
    Clock,
}

impl TimeKind {
    pub(super) fn seconds(self) -> f64 {
        match self {
            TimeKind::Seconds | TimeKind::Clock => 1.0,
            TimeKind::Milliseconds => 1e-3,
            TimeKind::Microseconds => 1e-6,
        }
    }
}

/// What a column is taken for.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ColumnPlan {
    /// As it stands in the file.
    pub heading: String,
    /// The unit its values are in; empty when the file does not say and the channel's own is taken.
    #[serde(default)]
    pub unit: String,
    /// The channel it is kept as; null: left out. `time` is the time.
    pub channel: Option<String>,
    /// Why it is left out, or what to know.
    #[serde(default)]
    pub note: String,
}

/// The layout of a file, guessed or corrected by hand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Layout {
    /// `;`, `,`, a tab or `|`.
    pub separator: char,
    /// The line of the headings, from 1, and how many lines below it hold units.
    pub heading_line: usize,
    pub unit_lines: usize,
    pub time: TimeKind,
    pub columns: Vec<ColumnPlan>,
}

/// The name under which a column holds the time.
pub const TIME: &str = "time";

/// A column ready for reading.
pub(super) struct ReadyColumn {
    pub channel: String,
    pub conversion: Conversion,
    pub low: f64,
    pub high: f64,
    pub counter: bool,
}

impl Layout {
    /// What identifies files of one kind: their headings.
    pub fn fingerprint(&self) -> String {
        self.columns.iter().map(|c| c.heading.trim().to_lowercase()).collect::<Vec<_>>().join("\u{1f}")
    }

    /// Guesses the layout from the beginning of a file.
    ///
    /// # Errors
    /// `file`: empty, not text, no row of headings, no column with the time, no column that is known.
    pub fn guess(head: &[u8], book: &ChannelBook) -> Result<Layout, Refusal> {
        let text = head_text(head)?;
        let lines: Vec<&str> = text.lines().take(ROWS).collect();
        let separator = separator(&lines);
        let mut cells: Vec<Vec<String>> = lines.iter().map(|line| split(line, separator)).collect();
        let widest = cells.iter().map(Vec::len).max().unwrap_or(0);
        // A separator at the end of every row, and none behind the headings, makes no further column.
        let headed = cells.iter().any(|row| row.len() + 1 == widest && row.iter().all(|c| is_word(c)));
        if headed && cells.iter().all(|row| row.len() < widest || row.last().is_some_and(String::is_empty)) {
            cells.iter_mut().for_each(|row| row.truncate(widest - 1));
        }
        let width = cells.iter().map(Vec::len).max().unwrap_or(0);
        if width < 2 {
            return Err(Refusal::new("file", "has one column only: a log has a time and at least one channel"));
        }
        // Titles and comments above the headings have fewer cells.
        let heading_at = cells
            .iter()
            .position(|row| row.len() == width && row.iter().filter(|c| is_word(c)).count() * 2 > width)
            .ok_or_else(|| Refusal::new("file", "has no row of headings"))?;
        let headings = &cells[heading_at];
        let below = &cells[heading_at + 1..];
        let unit_lines = usize::from(below.first().is_some_and(|row| is_unit_row(row)));
        let rows: Vec<&Vec<String>> = below[unit_lines..].iter().filter(|row| row.len() == width).collect();
        let units_row = (unit_lines == 1).then(|| &below[0]);
        let mut columns: Vec<ColumnPlan> = headings
            .iter()
            .enumerate()
            .map(|(index, heading)| {
                let (name, unit) = heading_and_unit(heading);
                let unit = units_row.and_then(|row| row.get(index)).map_or(unit, |cell| strip_brackets(cell));
                plan(heading, &name, &unit, book)
            })
            .collect();
        let time_at = time_column(headings, &rows).ok_or_else(|| {
            Refusal::new("file", "has no column with the time: one called time or timestamp, or a first one that rises")
        })?;
        let unit = columns[time_at].unit.clone();
        let time = time_kind(&unit, headings[time_at].as_str(), time_at, &rows);
        let unit = if time == TimeKind::Clock { String::new() } else { unit };
        columns[time_at] =
            ColumnPlan { channel: Some(TIME.into()), note: String::new(), heading: headings[time_at].clone(), unit };
        // The first column of a channel is taken; which of two is right only a person can say.
        for index in 0..columns.len() {
            let Some(channel) = columns[index].channel.clone() else { continue };
            if let Some(earlier) = columns[..index].iter().find(|c| c.channel.as_deref() == Some(&channel)) {
                let note = format!("{} is already taken for {channel}", earlier.heading);
                columns[index].channel = None;
                columns[index].note = note;
            }
        }
        for (index, column) in columns.iter_mut().enumerate() {
            let any = rows.iter().any(|row| matches!(cell(row[index].as_bytes()), Cell::Number(_)));
            let text = rows.iter().any(|row| matches!(cell(row[index].as_bytes()), Cell::Text));
            if column.channel.as_deref() != Some(TIME) && column.channel.is_some() && !any && text {
                column.channel = None;
                column.note = "holds no numbers".into();
            }
        }
        Ok(Layout { separator, heading_line: heading_at + 1, unit_lines, time, columns })
    }

    /// The first rows below the headings, cell by cell.
    pub fn sample(&self, head: &[u8], rows: usize) -> Vec<Vec<String>> {
        let Ok(text) = head_text(head) else { return Vec::new() };
        text.lines()
            .skip(self.heading_line + self.unit_lines)
            .filter(|line| !line.trim().is_empty())
            .take(rows)
            .map(|line| split(line, self.separator))
            .collect()
    }

    /// Takes the channels and units from an earlier file with these headings.
    pub fn remember(&mut self, earlier: &Layout) {
        if self.fingerprint() == earlier.fingerprint() {
            self.time = earlier.time;
            self.columns.clone_from(&earlier.columns);
        }
    }

    /// Checks a layout that came from outside, and readies its columns: the time's place, and what is kept.
    pub(super) fn ready(
        &self,
        book: &ChannelBook,
        ambient_kpa: f64,
    ) -> Result<(usize, Vec<Option<ReadyColumn>>), Refusal> {
        if !matches!(self.separator, ';' | ',' | '\t' | '|') {
            return Err(Refusal::new("separator", "must be ; , | or a tab"));
        }
        let mut time = None;
        let mut seen: Vec<&str> = Vec::new();
        let mut ready = Vec::new();
        for (index, column) in self.columns.iter().enumerate() {
            let field = format!("columns[{index}]");
            let Some(name) = column.channel.as_deref() else {
                ready.push(None);
                continue;
            };
            if seen.contains(&name) {
                return Err(Refusal::new(
                    field,
                    format!("{name} is given to two columns: {} is the second", column.heading),
                ));
            }
            seen.push(name);
            if name == TIME {
                time = Some(index);
                ready.push(None);
                continue;
            }
            let channel = book.get(name).ok_or_else(|| Refusal::new(&field, format!("there is no channel {name}")))?;
            let unit = if column.unit.trim().is_empty() { channel.unit.as_str() } else { column.unit.trim() };
            let conversion = if channel.unit.is_empty() || unit == channel.unit {
                Conversion::NONE
            } else {
                conversion(unit, &channel.unit, ambient_kpa)
                    .map_err(|reason| Refusal::new(format!("{field}.unit"), reason))?
            };
            ready.push(Some(ReadyColumn {
                channel: name.to_owned(),
                conversion,
                low: channel.low,
                high: channel.high,
                counter: channel.counter,
            }));
        }
        let time = time.ok_or_else(|| Refusal::new("columns", "none holds the time"))?;
        if ready.iter().all(Option::is_none) {
            return Err(Refusal::new("columns", "none is a channel that is known here: choose at least one"));
        }
        Ok((time, ready))
    }

    /// Whether any column holds a pressure above ambient: then the ambient pressure must be known.
    pub fn needs_ambient(&self) -> bool {
        self.columns.iter().filter(|c| c.channel.is_some()).any(|c| {
            conversion(&c.unit, "kPa", 0.0).is_ok_and(|a| conversion(&c.unit, "kPa", 100.0).is_ok_and(|b| a != b))
        })
    }
}

/// The beginning of a file as text, without its byte-order mark, ending with a whole line where there is one.
fn head_text(head: &[u8]) -> Result<String, Refusal> {
    let cut = head.len() >= HEAD;
    let bytes = head.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(head);
    if bytes.starts_with(b"\xFF\xFE") || bytes.starts_with(b"\xFE\xFF") {
        return Err(Refusal::new("file", "is UTF-16 text. Save it as CSV in UTF-8"));
    }
    if bytes.iter().take(4096).any(|&b| b == 0) {
        return Err(Refusal::new("file", "is not a text file: it holds zero bytes. Save it as CSV"));
    }
    let end = if cut { bytes.iter().rposition(|&b| b == b'\n').unwrap_or(bytes.len()) } else { bytes.len() };
    // Headings of old tools come in one-byte letters; their degree sign must not stop the file.
    let text = String::from_utf8(bytes[..end].to_vec())
        .unwrap_or_else(|_| bytes[..end].iter().map(|&b| char::from(b)).collect());
    if text.trim().is_empty() {
        return Err(Refusal::new("file", "is empty"));
    }
    Ok(text)
}

fn separator(lines: &[&str]) -> char {
    // The sign that divides most lines into the same number of cells, and into many.
    let score = |sign: char| {
        let counts: Vec<usize> = lines.iter().map(|l| split(l, sign).len()).filter(|&n| n > 1).collect();
        let most = counts.iter().copied().max().unwrap_or(0);
        let alike = counts.iter().filter(|&&n| n == most).count();
        (alike * 2 > lines.len(), most > 1, alike, most)
    };
    [';', '\t', '|', ','].into_iter().max_by_key(|&sign| score(sign)).unwrap_or(',')
}

pub(super) fn split(line: &str, separator: char) -> Vec<String> {
    if !line.contains('"') {
        return line.split(separator).map(|cell| cell.trim().to_owned()).collect();
    }
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(separator as u8)
        .has_headers(false)
        .flexible(true)
        .from_reader(line.as_bytes());
    let mut record = csv::StringRecord::new();
    match reader.read_record(&mut record) {
        Ok(true) => record.iter().map(|c| c.trim().to_owned()).collect(),
        _ => Vec::new(),
    }
}

fn is_word(text: &str) -> bool {
    !text.is_empty() && cell(text.as_bytes()) == Cell::Text && clock(text.as_bytes()).is_none()
}

fn is_unit_row(row: &[String]) -> bool {
    let filled: Vec<String> = row.iter().filter(|c| !c.is_empty()).map(|c| strip_brackets(c)).collect();
    !filled.is_empty()
        && filled.iter().filter(|c| is_unit(c)).count() * 2 >= filled.len()
        && !filled.iter().any(|c| matches!(cell(c.as_bytes()), Cell::Number(_)))
}

fn strip_brackets(text: &str) -> String {
    text.trim().trim_matches(['(', ')', '[', ']']).trim().to_owned()
}

/// `Coolant (°F)`, `coolant [degF]`, `speed_mph`, `time s`: the name, and the unit if one stands there.
fn heading_and_unit(heading: &str) -> (String, String) {
    for (open, close) in [('(', ')'), ('[', ']')] {
        if let Some(from) = heading.rfind(open)
            && let Some(to) = heading[from..].find(close)
        {
            let unit = heading[from + open.len_utf8()..from + to].trim();
            if is_unit(unit) {
                return (heading[..from].trim().to_owned(), unit.to_owned());
            }
        }
    }
    if let Some((name, last)) = heading.trim().rsplit_once([' ', '_'])
        && is_unit(last)
        // `bank k` or `sensor c` are names; a unit of one letter must be one that stands alone.
        && (last.len() > 1 || matches!(last, "s" | "V" | "%" | "°" | "C" | "F"))
    {
        return (name.to_owned(), last.to_owned());
    }
    (heading.trim().to_owned(), String::new())
}

fn plan(heading: &str, name: &str, unit: &str, book: &ChannelBook) -> ColumnPlan {
    let mut column =
        ColumnPlan { heading: heading.to_owned(), unit: unit.to_owned(), channel: None, note: String::new() };
    // The whole heading first: in `speed mph` the unit is what tells it from the engine's speed.
    let Some(channel) = book.guess(name).or_else(|| book.guess(heading)) else {
        column.note = "not known: choose a channel if it is one".into();
        return column;
    };
    if !unit.is_empty() && !channel.unit.is_empty() {
        if let Err(reason) = conversion(unit, &channel.unit, 0.0) {
            column.note = format!("reads like {}, but {reason}", channel.label);
            return column;
        }
    } else if !unit.is_empty() && channel.unit.is_empty() && !matches!(unit, "%") {
        column.unit = String::new();
    }
    column.channel = Some(channel.name.clone());
    column
}

fn time_column(headings: &[String], rows: &[&Vec<String>]) -> Option<usize> {
    let named = |h: &String| {
        let lower = h.to_lowercase();
        let first = lower.split(|c: char| !c.is_alphanumeric()).find(|w| !w.is_empty()).unwrap_or_default();
        matches!(first, "time" | "timestamp" | "t" | "seconds" | "elapsed" | "clock" | "sec" | "datetime" | "ms")
    };
    let reads = |index: usize| {
        rows.iter()
            .any(|row| matches!(cell(row[index].as_bytes()), Cell::Number(_)) || clock(row[index].as_bytes()).is_some())
    };
    headings
        .iter()
        .position(named)
        .filter(|&index| reads(index))
        .or_else(|| headings.iter().enumerate().position(|(i, h)| h.to_lowercase().contains("time") && reads(i)))
        .or_else(|| {
            let numbers: Vec<f64> = rows
                .iter()
                .filter_map(|row| match cell(row[0].as_bytes()) {
                    Cell::Number(v) => Some(v),
                    _ => None,
                })
                .collect();
            (numbers.len() > 2 && numbers.windows(2).all(|pair| pair[0] < pair[1])).then_some(0)
        })
}

fn time_kind(unit: &str, heading: &str, at: usize, rows: &[&Vec<String>]) -> TimeKind {
    if rows.iter().take(5).any(|row| clock(row[at].as_bytes()).is_some()) {
        return TimeKind::Clock;
    }
    match unit.to_lowercase().as_str() {
        "ms" => return TimeKind::Milliseconds,
        "us" => return TimeKind::Microseconds,
        "s" | "sec" | "seconds" => return TimeKind::Seconds,
        _ => {}
    }
    if heading.to_lowercase().ends_with("ms") {
        return TimeKind::Milliseconds;
    }
    let mut steps: Vec<f64> = Vec::new();
    let mut last = None;
    for row in rows {
        if let Cell::Number(value) = cell(row[at].as_bytes())
            && let Some(before) = last.replace(value)
        {
            steps.push(value - before);
        }
    }
    steps.retain(|s| *s > 0.0);
    steps.sort_by(f64::total_cmp);
    // Nobody logs an engine every five seconds: such steps are thousandths.
    match steps.get(steps.len() / 2) {
        Some(&step) if step >= 5_000.0 => TimeKind::Microseconds,
        Some(&step) if step >= 5.0 => TimeKind::Milliseconds,
        _ => TimeKind::Seconds,
    }
}
