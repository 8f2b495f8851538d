//! Captures of CAN traffic as text, one frame a line, read into channels, codes and counters in one pass.

use std::collections::BTreeMap;

use ember_core::frames::{Conversation, Direction, Frame, FrameFault, Heard, LineFault, ParameterBook, parse_line};
use ember_core::knowledge::Knowledge;
use ember_core::recording::Recording;
use ember_core::refusal::Refusal;
use memchr::memchr_iter;
use serde::Serialize;
use utoipa::ToSchema;

use crate::log::RowNote;

/// Values that were asked for within this time stand in one row.
const SWEEP_S: f64 = 0.25;
/// How many notes name their line.
const NAMED: usize = 20;
/// How many frames that are not live data are kept for the codes: a scan has some hundreds.
const KEPT: usize = 200_000;
/// Rows in a block.
const BLOCK: usize = 65_536;

/// What a capture held.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CaptureSummary {
    pub lines: u64,
    pub frames: u64,
    /// Frames of other traffic.
    pub others: u64,
    pub rows: u64,
    pub from_s: f64,
    pub to_s: f64,
    pub channels: Vec<(String, u64)>,
    pub notes: Vec<RowNote>,
    pub more_notes: u64,
    pub faults: Vec<FrameFault>,
    pub units: Vec<ember_core::frames::UnitHeard>,
}

/// Gathers decoded values into rows.
struct Rows {
    names: Vec<String>,
    row_s: f64,
    row: Vec<f32>,
    /// The columns of the row that hold a value.
    touched: Vec<usize>,
    filled: bool,
    last_s: f64,
    rows: u64,
    time_s: Vec<f64>,
    values: Vec<Vec<f32>>,
    /// How many values each column has had in all.
    taken: Vec<u64>,
}

impl Rows {
    fn put(&mut self, column: usize, time_s: f64, value: f64) {
        if self.filled && (!self.row[column].is_nan() || time_s - self.row_s > SWEEP_S) {
            self.close();
        }
        if !self.filled {
            (self.row_s, self.filled) = (time_s, true);
        }
        self.row[column] = value as f32;
        self.touched.push(column);
    }

    fn close(&mut self) {
        // Time that runs backwards was reported; such a row is left out.
        if self.filled && self.row_s > self.last_s {
            // A column costs room only from its first value on.
            for &place in &self.touched {
                let column = &mut self.values[place];
                column.resize(self.time_s.len(), f32::NAN);
                column.push(self.row[place]);
                self.taken[place] += 1;
            }
            self.time_s.push(self.row_s);
            self.last_s = self.row_s;
            self.rows += 1;
        }
        for place in self.touched.drain(..) {
            self.row[place] = f32::NAN;
        }
        self.filled = false;
    }

    /// The rows so far, handed out.
    fn take(&mut self) -> Recording {
        let time_s = std::mem::take(&mut self.time_s);
        let mut channels = BTreeMap::new();
        for (name, column) in self.names.iter().zip(&mut self.values) {
            if !column.is_empty() {
                let mut values = std::mem::take(column);
                values.resize(time_s.len(), f32::NAN);
                channels.insert(name.clone(), values);
            }
        }
        Recording { time_s, channels }
    }
}

/// Takes a capture piece by piece.
pub struct CaptureReader<'k> {
    book: &'k ParameterBook,
    knowledge: &'k Knowledge,
    conversation: Conversation,
    rows: Rows,
    /// For each parameter: its length, and where its values go.
    live: Vec<Option<LiveParameter>>,
    misfires: [Option<usize>; 12],
    closed_loop: Option<usize>,
    kept: Vec<Frame>,
    rest: Vec<u8>,
    lines: u64,
    last_s: f64,
    first_s: Option<f64>,
    notes: Vec<RowNote>,
    more_notes: u64,
}

struct LiveParameter {
    length: usize,
    /// Index among the parameter's values, and the column.
    values: Vec<(usize, usize)>,
}

impl<'k> CaptureReader<'k> {
    pub fn new(knowledge: &'k Knowledge) -> CaptureReader<'k> {
        let book = &knowledge.parameters;
        let names: Vec<String> = knowledge.channels.all().map(|c| c.name.clone()).collect();
        let column = |name: &str| names.iter().position(|n| n == name);
        let mut live: Vec<Option<LiveParameter>> = (0..256).map(|_| None).collect();
        for number in 0..=255u8 {
            let Some(length) = book.bytes(number) else { continue };
            let values = book.get(number).map_or_else(Vec::new, |parameter| {
                parameter
                    .values
                    .iter()
                    .enumerate()
                    .filter_map(|(index, value)| Some((index, column(value.channel.as_deref()?)?)))
                    .collect()
            });
            live[usize::from(number)] = Some(LiveParameter { length, values });
        }
        let misfires = std::array::from_fn(|index| column(&format!("misfires_{}", index + 1)));
        let closed_loop = column("closed_loop");
        let width = names.len();
        CaptureReader {
            book,
            knowledge,
            conversation: Conversation::default(),
            rows: Rows {
                names,
                row_s: 0.0,
                row: vec![f32::NAN; width],
                touched: Vec::new(),
                filled: false,
                last_s: f64::NEG_INFINITY,
                rows: 0,
                time_s: Vec::new(),
                values: vec![Vec::new(); width],
                taken: vec![0; width],
            },
            live,
            misfires,
            closed_loop,
            kept: Vec::new(),
            rest: Vec::new(),
            lines: 0,
            last_s: f64::NEG_INFINITY,
            first_s: None,
            notes: Vec::new(),
            more_notes: 0,
        }
    }

    /// Takes the next piece of the text.
    pub fn push(&mut self, piece: &[u8]) {
        let mut start = 0;
        for end in memchr_iter(b'\n', piece) {
            if self.rest.is_empty() {
                self.line(&piece[start..end]);
            } else {
                let mut line = std::mem::take(&mut self.rest);
                line.extend_from_slice(&piece[start..end]);
                self.line(&line);
                line.clear();
                self.rest = line;
            }
            start = end + 1;
        }
        self.rest.extend_from_slice(&piece[start..]);
        // Nothing in a capture is this long; what is, is no capture, and memory stays bounded.
        self.rest.truncate(4096);
    }

    fn line(&mut self, line: &[u8]) {
        self.lines += 1;
        match parse_line(line) {
            Ok(Some(frame)) => self.frame(&frame),
            Ok(None) => {}
            Err(fault) => self.note(fault),
        }
    }

    fn note(&mut self, fault: LineFault) {
        if self.notes.len() < NAMED {
            self.notes.push(RowNote { row: self.lines, what: fault.text().to_owned() });
        } else {
            self.more_notes += 1;
        }
    }

    /// Takes one frame.
    pub fn frame(&mut self, frame: &Frame) {
        self.first_s.get_or_insert(frame.time_s);
        self.last_s = self.last_s.max(frame.time_s);
        let (rows, live, book, misfires, closed) =
            (&mut self.rows, &self.live, self.book, &self.misfires, self.closed_loop);
        let mut other = false;
        self.conversation.push(frame, |heard| other = !into_rows(&heard, rows, live, book, misfires, closed));
        // A frame that is not live data may be part of a scan; the parts of a message come before its end.
        let part = frame.bytes().first().is_some_and(|b| matches!(b >> 4, 1 | 2));
        if (other || part) && self.kept.len() < KEPT && ember_core::frames::address(frame.id, frame.extended).is_some()
        {
            self.kept.push(*frame);
        }
    }

    /// The rows that are complete, once there are enough of them to be worth keeping: so a long capture needs no more
    /// room than a short one.
    pub fn take_block(&mut self) -> Option<Recording> {
        (self.rows.time_s.len() >= BLOCK).then(|| self.rows.take())
    }

    /// How many frames there were so far.
    pub fn frames(&self) -> u64 {
        self.conversation.frames
    }

    /// What was read since the last block, as a recording of the channels that have values.
    ///
    /// # Errors
    /// Not one line was a frame.
    pub fn finish(mut self) -> Result<(Recording, CaptureSummary), Refusal> {
        if !self.rest.is_empty() {
            let line = std::mem::take(&mut self.rest);
            self.line(&line);
        }
        if self.conversation.frames == 0 {
            let first = self.notes.first().map_or(String::new(), |n| format!(": line {} {}", n.row, n.what));
            return Err(Refusal::new("file", format!("holds no frame{first}")));
        }
        self.conversation.finish();
        self.rows.close();
        let kept = ember_core::frames::frames_of(self.kept.iter(), self.knowledge);
        let recording = self.rows.take();
        let counts = self.rows.names.iter().cloned().zip(self.rows.taken.iter().copied()).filter(|c| c.1 > 0).collect();
        let mut faults = self.conversation.faults;
        faults.extend(kept.faults.into_iter().filter(|f| f.kind == ember_core::frames::FaultKind::Content));
        faults.sort_by(|a, b| a.time_s.total_cmp(&b.time_s));
        let summary = CaptureSummary {
            lines: self.lines,
            frames: self.conversation.frames,
            others: self.conversation.others,
            rows: self.rows.rows,
            from_s: self.first_s.unwrap_or(0.0),
            to_s: self.last_s,
            channels: counts,
            notes: self.notes,
            more_notes: self.more_notes,
            faults,
            units: kept.units,
        };
        Ok((recording, summary))
    }
}

/// Puts a live-data answer's values into the rows; false for every other message.
fn into_rows(
    heard: &Heard<'_>,
    rows: &mut Rows,
    live: &[Option<LiveParameter>],
    book: &ParameterBook,
    misfires: &[Option<usize>; 12],
    closed: Option<usize>,
) -> bool {
    if heard.direction == Direction::Asks {
        return false;
    }
    match heard.bytes {
        [0x41, rest @ ..] => {
            let mut rest = rest;
            while let Some((&number, data)) = rest.split_first() {
                let Some(parameter) = &live[usize::from(number)] else { return false };
                let Some(own) = data.get(..parameter.length) else { return false };
                if number == 0x03 {
                    if let Some(column) = closed {
                        rows.put(column, heard.time_s, f64::from(u8::from(own[0] & 0b0001_0010 != 0)));
                    }
                } else if let Some(known) = book.get(number) {
                    for &(index, column) in &parameter.values {
                        rows.put(column, heard.time_s, known.values[index].of(own));
                    }
                }
                rest = &data[parameter.length..];
            }
            true
        }
        [0x46, rest @ ..] if !rest.is_empty() && rest.len() % 9 == 0 && matches!(rest[0], 0xA2..=0xAD) => {
            for part in rest.chunks_exact(9) {
                if let (0xA2..=0xAD, 0x0C) = (part[0], part[1])
                    && let Some(column) = misfires[usize::from(part[0] - 0xA2)]
                {
                    rows.put(column, heard.time_s, f64::from(u16::from_be_bytes([part[3], part[4]])));
                }
            }
            // Also kept: the test results themselves belong to the unit.
            false
        }
        _ => false,
    }
}

/// Whether the beginning of a file looks like a capture and not like a table.
pub fn is_capture(head: &[u8]) -> bool {
    let lines = head.split(|&b| b == b'\n').filter(|line| !line.trim_ascii().is_empty()).take(5);
    let mut any = false;
    for line in lines {
        if matches!(parse_line(line), Ok(Some(_)) | Err(LineFault::NotPlain)) {
            any = true;
        }
    }
    any
}

/// Reads a whole capture that is in memory.
///
/// # Errors
/// Not one line is a frame.
pub fn read(bytes: &[u8], knowledge: &Knowledge) -> Result<(Recording, CaptureSummary), Refusal> {
    let mut reader = CaptureReader::new(knowledge);
    for piece in bytes.chunks(1 << 20) {
        reader.push(piece);
    }
    reader.finish()
}
