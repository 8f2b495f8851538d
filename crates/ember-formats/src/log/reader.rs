//! Reading a log piece by piece: pieces of bytes in, blocks of columns out.

use ember_core::recording::ChannelBook;
use ember_core::refusal::Refusal;
use memchr::{memchr, memchr_iter};
use serde::Serialize;
use utoipa::ToSchema;

use super::layout::{Layout, ReadyColumn, TimeKind, split};
use super::number::{Cell, cell, cell_at, clock};

/// Rows in a block.
const BLOCK: usize = 65_536;
/// How many notes name their row; the rest are counted.
const NAMED: usize = 20;
/// A line longer than this is no row of a log.
const LONGEST_LINE: usize = 1 << 20;
/// When more than this share of the rows had to be left out, the file was misunderstood.
const MOST_LEFT_OUT: f64 = 0.2;

/// Something that was noticed in a row and dealt with.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RowNote {
    /// The line in the file as an editor counts, from 1.
    pub row: u64,
    pub what: String,
}

/// What was read.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LogSummary {
    pub rows: u64,
    pub bytes: u64,
    /// The channels that were kept, with the number of values in each.
    pub channels: Vec<(String, u64)>,
    pub from_s: f64,
    pub to_s: f64,
    pub notes: Vec<RowNote>,
    /// How many more notes there were than are listed.
    pub more_notes: u64,
    pub left_out: u64,
}

/// Rows that are ready, by column.
pub struct Block<'a> {
    pub time_s: &'a [f64],
    names: &'a [String],
    values: &'a [Vec<f32>],
}

impl<'a> Block<'a> {
    pub fn columns(&self) -> impl Iterator<Item = (&'a str, &'a [f32])> + use<'a> {
        self.names.iter().map(String::as_str).zip(self.values.iter().map(Vec::as_slice))
    }
}

/// Takes the bytes of a log piece by piece.
pub struct LogReader {
    separator: u8,
    skip: usize,
    width: usize,
    time_at: usize,
    time: TimeKind,
    /// For each column of the file: which of the kept columns it is.
    kept: Vec<Option<usize>>,
    columns: Vec<ReadyColumn>,
    names: Vec<String>,
    headings: Vec<String>,
    rest: Vec<u8>,
    line: u64,
    time_s: Vec<f64>,
    values: Vec<Vec<f32>>,
    /// The row being read: one value for each kept column.
    row: Vec<f32>,
    first: Option<f64>,
    last: f64,
    days: f64,
    last_clock: Option<f64>,
    rows: u64,
    bytes: u64,
    taken: Vec<u64>,
    notes: Vec<RowNote>,
    more_notes: u64,
    left_out: u64,
}

impl LogReader {
    /// # Errors
    /// A layout that gives one channel to two columns, names a channel or a unit that is not known, or has no time.
    pub fn new(layout: &Layout, book: &ChannelBook, ambient_kpa: f64) -> Result<LogReader, Refusal> {
        let (time_at, ready) = layout.ready(book, ambient_kpa)?;
        let mut kept = Vec::new();
        let mut columns = Vec::new();
        for column in ready {
            kept.push(column.is_some().then_some(columns.len()));
            columns.extend(column);
        }
        let names: Vec<String> = columns.iter().map(|c| c.channel.clone()).collect();
        Ok(LogReader {
            separator: layout.separator as u8,
            skip: layout.heading_line + layout.unit_lines,
            width: layout.columns.len(),
            time_at,
            time: layout.time,
            headings: layout.columns.iter().map(|c| c.heading.clone()).collect(),
            kept,
            values: vec![Vec::with_capacity(BLOCK); columns.len()],
            row: vec![f32::NAN; columns.len()],
            taken: vec![0; columns.len()],
            columns,
            names,
            rest: Vec::new(),
            line: 0,
            time_s: Vec::with_capacity(BLOCK),
            first: None,
            last: f64::NEG_INFINITY,
            days: 0.0,
            last_clock: None,
            rows: 0,
            bytes: 0,
            notes: Vec::new(),
            more_notes: 0,
            left_out: 0,
        })
    }

    /// Takes the next piece. Full blocks go to `keep`, whose refusal ends the reading.
    ///
    /// # Errors
    /// A line without an end; whatever `keep` refuses.
    pub fn push(
        &mut self,
        piece: &[u8],
        keep: &mut impl FnMut(&Block<'_>) -> Result<(), Refusal>,
    ) -> Result<(), Refusal> {
        self.bytes += piece.len() as u64;
        let mut piece = piece;
        if !self.rest.is_empty() {
            let Some(end) = memchr(b'\n', piece) else {
                self.rest.extend_from_slice(piece);
                return self.check_line_length();
            };
            let mut line = std::mem::take(&mut self.rest);
            line.extend_from_slice(&piece[..end]);
            self.take_line(&line, keep)?;
            line.clear();
            self.rest = line;
            piece = &piece[end + 1..];
        }
        let mut start = 0;
        for end in memchr_iter(b'\n', piece) {
            self.take_line(&piece[start..end], keep)?;
            start = end + 1;
        }
        self.rest.extend_from_slice(&piece[start..]);
        self.check_line_length()
    }

    fn check_line_length(&self) -> Result<(), Refusal> {
        if self.rest.len() > LONGEST_LINE {
            let reason = "is longer than a megabyte: this is no log with one row a line";
            return Err(Refusal::new(format!("row {}", self.line + 1), reason));
        }
        Ok(())
    }

    /// Takes what is left and tells what was read.
    ///
    /// # Errors
    /// No row at all; so many rows left out that the layout must be wrong; whatever `keep` refuses.
    pub fn finish(mut self, keep: &mut impl FnMut(&Block<'_>) -> Result<(), Refusal>) -> Result<LogSummary, Refusal> {
        if !self.rest.trim_ascii().is_empty() {
            let line = std::mem::take(&mut self.rest);
            let cells = 1 + memchr_iter(self.separator, &line).count();
            if cells < self.width && self.line >= self.skip as u64 {
                self.line += 1;
                self.note(format!(
                    "the file ends in the middle of this row ({cells} of {} cells): it is left out",
                    self.width
                ));
            } else {
                self.take_line(&line, keep)?;
            }
        }
        self.hand_over(keep)?;
        if self.rows == 0 {
            return Err(Refusal::new("file", "has headings and not one row that can be used"));
        }
        if self.left_out as f64 > MOST_LEFT_OUT * (self.rows + self.left_out) as f64 {
            let first = self.notes.first().map_or(String::new(), |n| format!("; the first: row {}, {}", n.row, n.what));
            return Err(Refusal::new(
                "file",
                format!(
                    "{} of {} rows had to be left out, so it was not understood{first}",
                    self.left_out,
                    self.rows + self.left_out
                ),
            ));
        }
        Ok(LogSummary {
            rows: self.rows,
            bytes: self.bytes,
            channels: self.names.iter().cloned().zip(self.taken.iter().copied()).collect(),
            from_s: self.first.unwrap_or(0.0),
            to_s: self.last,
            notes: self.notes,
            more_notes: self.more_notes,
            left_out: self.left_out,
        })
    }

    fn note(&mut self, what: String) {
        if self.notes.len() < NAMED {
            self.notes.push(RowNote { row: self.line, what });
        } else {
            self.more_notes += 1;
        }
    }

    fn leave_out(&mut self, what: String) {
        self.left_out += 1;
        self.note(what);
    }

    fn take_line(
        &mut self,
        line: &[u8],
        keep: &mut impl FnMut(&Block<'_>) -> Result<(), Refusal>,
    ) -> Result<(), Refusal> {
        self.line += 1;
        if self.line <= self.skip as u64 || line.is_empty() || line == b"\r" {
            return Ok(());
        }
        let line = line.strip_suffix(b"\r").unwrap_or(line);
        let mut at = 0;
        let mut start = 0;
        let mut now = Cell::Missing;
        self.row.fill(f32::NAN);
        if memchr(b'"', line).is_some() {
            // Quotes are rare in logs: such a line is read by the general reader.
            let text = String::from_utf8_lossy(line);
            for text in split(&text, char::from(self.separator)) {
                if at < self.width {
                    self.take_cell(at, text.as_bytes(), &mut now);
                }
                at += 1;
            }
        } else {
            loop {
                let kept = at == self.time_at || self.kept.get(at).is_some_and(Option::is_some);
                let end = if !kept || (at == self.time_at && self.time == TimeKind::Clock) {
                    let end = memchr(self.separator, &line[start..]).map_or(line.len(), |offset| start + offset);
                    if at < self.width {
                        self.take_cell(at, &line[start..end], &mut now);
                    }
                    end
                } else {
                    let (read, end) = cell_at(line, start, self.separator);
                    self.take_read(at, read, &line[start..end], &mut now);
                    end
                };
                at += 1;
                if end >= line.len() {
                    break;
                }
                start = end + 1;
            }
        }
        if at == 1 && line.trim_ascii().is_empty() {
            return Ok(());
        }
        // A separator at the end of every row is common; any other number of cells is a torn row.
        if at < self.width || (at > self.width && !(at == self.width + 1 && line.last() == Some(&self.separator))) {
            self.leave_out(format!("has {at} cells where the headings have {}: it is left out", self.width));
            return Ok(());
        }
        let Cell::Number(seconds) = now else {
            self.leave_out(format!("has no time under {}: it is left out", self.headings[self.time_at]));
            return Ok(());
        };
        if seconds < self.last {
            self.leave_out(format!("the time runs backwards, from {:.3} to {seconds:.3} s: it is left out", self.last));
            return Ok(());
        }
        if seconds == self.last && !self.time_s.is_empty() {
            self.same_time();
            return Ok(());
        }
        self.first.get_or_insert(seconds);
        self.last = seconds;
        self.rows += 1;
        self.time_s.push(seconds);
        for (index, &value) in self.row.iter().enumerate() {
            self.values[index].push(value);
            self.taken[index] += u64::from(!value.is_nan());
        }
        if self.time_s.len() >= BLOCK {
            self.hand_over(keep)?;
        }
        Ok(())
    }

    /// A row at the time of the one before: tools that write each channel by itself fill in what is missing. A value
    /// that was there already stands.
    fn same_time(&mut self) {
        let mut clash = false;
        for index in 0..self.row.len() {
            let value = self.row[index];
            let Some(there) = self.values[index].last_mut() else { continue };
            if value.is_nan() {
                continue;
            }
            if there.is_nan() {
                *there = value;
                self.taken[index] += 1;
            } else if *there != value {
                clash = true;
            }
        }
        if clash {
            self.leave_out(format!("the time stands still at {:.3} s: only the first row of it is used", self.last));
        }
    }

    /// Takes a cell as its bytes.
    fn take_cell(&mut self, index: usize, bytes: &[u8], now: &mut Cell) {
        if index == self.time_at && self.time == TimeKind::Clock {
            *now = self.clock_seconds(bytes);
        } else if index == self.time_at || self.kept[index].is_some() {
            self.take_read(index, cell(bytes), bytes, now);
        }
    }

    /// Takes a cell that is read already; its bytes are for the note if it is no number.
    #[inline]
    fn take_read(&mut self, index: usize, read: Cell, bytes: &[u8], now: &mut Cell) {
        if index == self.time_at {
            *now = match read {
                Cell::Number(value) => Cell::Number(value * self.time.seconds()),
                other => other,
            };
            return;
        }
        let Some(place) = self.kept[index] else { return };
        match read {
            Cell::Number(value) => {
                let column = &self.columns[place];
                let value = column.conversion.of(value);
                if value >= column.low && value <= column.high && !(column.counter && value.fract() != 0.0) {
                    self.row[place] = value as f32;
                } else {
                    self.impossible(index, value);
                }
            }
            Cell::Missing => {}
            Cell::Text => {
                let shown: String = String::from_utf8_lossy(bytes).chars().take(24).collect();
                self.note(format!(
                    "{} holds \"{}\", which is no number: it is left out",
                    self.headings[index],
                    shown.trim()
                ));
            }
        }
    }

    #[cold]
    fn impossible(&mut self, index: usize, value: f64) {
        let heading = &self.headings[index];
        let counter = self.kept[index].is_some_and(|place| self.columns[place].counter);
        let what = if counter && value.fract() != 0.0 {
            format!("{heading} is {value}, and a counter is whole: it is left out")
        } else {
            format!("{heading} is {value:.6}, which no sound reading can be: it is left out")
        };
        self.note(what);
    }

    /// Seconds since the first midnight: a clock that jumps back by more than half a day has passed midnight.
    fn clock_seconds(&mut self, bytes: &[u8]) -> Cell {
        let Some(of_day) = clock(bytes) else {
            return if bytes.trim_ascii().is_empty() { Cell::Missing } else { Cell::Text };
        };
        if self.last_clock.is_some_and(|last| last - of_day > 43_200.0) {
            self.days += 86_400.0;
        }
        self.last_clock = Some(of_day);
        Cell::Number(of_day + self.days)
    }

    fn hand_over(&mut self, keep: &mut impl FnMut(&Block<'_>) -> Result<(), Refusal>) -> Result<(), Refusal> {
        if self.time_s.is_empty() {
            return Ok(());
        }
        keep(&Block { time_s: &self.time_s, names: &self.names, values: &self.values })?;
        self.time_s.clear();
        self.values.iter_mut().for_each(Vec::clear);
        Ok(())
    }
}
