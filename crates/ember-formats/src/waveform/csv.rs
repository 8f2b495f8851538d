//! CSV captures, read piece by piece: millions of rows, so each piece is read on as many cores as there are.

use ember_core::refusal::Refusal;
use ember_core::waveform::{Capture, CaptureChannel};
use memchr::{memchr, memrchr};

use super::{WaveOptions, WaveRead, scaled, too_many};
use crate::log::number::{Cell, cell_at};

/// A line longer than this is no row of samples.
const LONGEST_LINE: usize = 1 << 20;
/// Rows from which the distance between samples is learnt.
const LEARNT_FROM: usize = 200;
/// Distances that differ by less than this share of the usual one are the rounding of printed times.
const EVEN: f64 = 0.55;

struct Layout {
    separator: u8,
    /// The column with the time; none where only the rate is known.
    time: Option<usize>,
    /// Seconds for one unit of the time column.
    unit_s: f64,
    names: Vec<String>,
    units: Vec<String>,
}

/// Takes a CSV piece by piece.
pub struct CsvWaveReader {
    options: WaveOptions,
    layout: Option<Layout>,
    /// The lines of words before the samples: the names, and perhaps their units beneath.
    names: Option<Vec<String>>,
    units: Option<Vec<String>>,
    rest: Vec<u8>,
    line: usize,
    columns: Vec<Vec<f32>>,
    first_s: f64,
    last_s: f64,
    rows: usize,
    usual_s: Option<f64>,
    /// Once the samples turn out uneven, the time of every one of them.
    times: Option<Vec<f64>>,
    /// The times of the first rows, until the usual distance is learnt.
    early: Vec<f64>,
    bad_rows: usize,
    notes: Vec<String>,
}

/// Rows of one part of a piece.
#[derive(Default)]
struct Part {
    times: Vec<f64>,
    columns: Vec<Vec<f32>>,
    bad_rows: usize,
}

impl CsvWaveReader {
    pub fn new(options: &WaveOptions) -> CsvWaveReader {
        CsvWaveReader {
            options: options.clone(),
            layout: None,
            names: None,
            units: None,
            rest: Vec::new(),
            line: 0,
            columns: Vec::new(),
            first_s: f64::NAN,
            last_s: f64::NEG_INFINITY,
            rows: 0,
            usual_s: None,
            times: None,
            early: Vec::new(),
            bad_rows: 0,
            notes: Vec::new(),
        }
    }

    pub fn rows(&self) -> usize {
        self.rows
    }

    /// Takes the next piece.
    ///
    /// # Errors
    /// A file without headings and samples, without a time column where no rate is given, a time that runs backwards, a
    /// line without an end, too many samples or channels.
    pub fn push(&mut self, piece: &[u8]) -> Result<(), Refusal> {
        let gathered;
        let bytes = if self.rest.is_empty() {
            piece
        } else {
            let mut all = std::mem::take(&mut self.rest);
            all.extend_from_slice(piece);
            gathered = all;
            &gathered
        };
        let end = memrchr(b'\n', bytes).map_or(0, |at| at + 1);
        if bytes.len() - end > LONGEST_LINE {
            return Err(Refusal::new("file", "holds a line without an end: this is no table"));
        }
        let rest = bytes[end..].to_vec();
        self.take(&bytes[..end])?;
        self.rest = rest;
        Ok(())
    }

    fn take(&mut self, mut bytes: &[u8]) -> Result<(), Refusal> {
        while self.layout.is_none() && !bytes.is_empty() {
            let end = memchr(b'\n', bytes).map_or(bytes.len(), |at| at + 1);
            let begins = self.heading(&bytes[..end])?;
            if !begins {
                bytes = &bytes[end..];
                self.line += 1;
                if self.line > 60 {
                    return Err(Refusal::new("file", "no row of numbers in the first sixty lines: this is no capture"));
                }
            }
        }
        if bytes.is_empty() {
            return Ok(());
        }
        let Some(layout) = &self.layout else { return Ok(()) };
        let cores = std::thread::available_parallelism().map_or(1, usize::from).min(4);
        let parts = if bytes.len() < 1 << 16 || cores == 1 {
            vec![rows(bytes, layout)]
        } else {
            std::thread::scope(|scope| {
                let workers: Vec<_> =
                    pieces(bytes, cores).into_iter().map(|part| scope.spawn(move || rows(part, layout))).collect();
                workers.into_iter().map(|worker| worker.join().unwrap_or_default()).collect()
            })
        };
        for part in parts {
            self.add(part)?;
        }
        Ok(())
    }

    /// Reads a line before the samples; gives whether the samples begin with it.
    fn heading(&mut self, line: &[u8]) -> Result<bool, Refusal> {
        let text = String::from_utf8_lossy(line);
        let text = text.trim().trim_start_matches('\u{feff}');
        if text.is_empty() || text.starts_with('#') || text.starts_with("//") {
            return Ok(false);
        }
        if line.contains(&0) {
            return Err(Refusal::new("file", "is neither a table nor a WAV"));
        }
        let separator = [b';', b'\t', b','].into_iter().find(|s| text.as_bytes().contains(s)).unwrap_or(b',');
        let cells: Vec<String> =
            text.split(char::from(separator)).map(|c| c.trim().trim_matches('"').trim().to_owned()).collect();
        let numbers = cells.iter().filter(|c| c.replace(',', ".").parse::<f64>().is_ok()).count();
        let samples = numbers == cells.len() || (numbers > 0 && numbers + 1 >= cells.len() && cells.len() > 2);
        if !samples {
            match &self.names {
                Some(names) if names.len() == cells.len() => self.units = Some(cells),
                // A title in one cell is no list of names.
                Some(_) if cells.len() == 1 => {}
                _ => self.names = Some(cells),
            }
            return Ok(false);
        }
        let width = cells.len();
        let headings = self.names.take().filter(|list| list.len() == width);
        let own_units = self.units.take().filter(|list| list.len() == width);
        let mut names = Vec::with_capacity(width);
        let mut units = Vec::with_capacity(width);
        for column in 0..width {
            let heading = headings.as_ref().map_or(String::new(), |list| list[column].clone());
            let (name, unit) = name_and_unit(&heading);
            let unit =
                own_units.as_ref().map_or(unit, |list| list[column].trim_matches(['(', ')', '[', ']']).to_owned());
            names.push(if name.is_empty() { format!("channel {}", column + 1) } else { name });
            units.push(unit);
        }
        let is_time = |name: &str| {
            let name = name.to_lowercase();
            ["time", "t", "seconds", "x", "zeit", "second"].contains(&name.as_str()) || name.starts_with("time")
        };
        let time = match &headings {
            Some(_) => names.iter().position(|name| is_time(name)),
            // Without headings the first of several columns is the time, unless a rate says that there is none.
            None => (width > 1 && self.options.rate_hz.is_none()).then_some(0),
        };
        if time.is_none() {
            match self.options.rate_hz {
                Some(rate) if rate.is_finite() && rate > 0.0 => {}
                Some(_) => return Err(Refusal::new("rate_hz", "must be above zero")),
                None => {
                    let reason = "there is no time column: how many samples a second are these?";
                    return Err(Refusal::new("rate_hz", reason));
                }
            }
        }
        let unit_s = match time.map(|at| units[at].to_lowercase()) {
            None => 1.0,
            Some(unit) => match unit.as_str() {
                "" | "s" | "sec" | "seconds" | "second" => 1.0,
                "ms" => 1e-3,
                "us" | "µs" | "μs" => 1e-6,
                "ns" => 1e-9,
                "min" => 60.0,
                other => return Err(Refusal::new("file", format!("the time's unit {other} is not known"))),
            },
        };
        let channels = names.len() - usize::from(time.is_some());
        if channels == 0 {
            return Err(Refusal::new("file", "holds a time and nothing else"));
        }
        if let Some(limits) = self.options.limits
            && channels > limits.channels
        {
            return Err(Refusal::new("file", format!("{channels} channels are more than {}", limits.channels)));
        }
        self.columns = vec![Vec::new(); channels];
        self.layout = Some(Layout { separator, time, unit_s, names, units });
        Ok(true)
    }

    fn add(&mut self, part: Part) -> Result<(), Refusal> {
        let Some(layout) = &self.layout else { return Ok(()) };
        let (timed, unit_s) = (layout.time.is_some(), layout.unit_s);
        self.bad_rows += part.bad_rows;
        if timed {
            for (index, &time) in part.times.iter().enumerate() {
                let time = time * unit_s;
                if self.rows + index == 0 {
                    self.first_s = time;
                } else if time < self.last_s {
                    let row = self.rows + index + self.line + 1;
                    return Err(Refusal::new("file", format!("row {row}: the time runs backwards")));
                } else {
                    let uneven = self.usual_s.is_some_and(|usual| leaves(usual, time - self.last_s));
                    if uneven && self.times.is_none() {
                        // Until here they were even: their times can be written down after the fact.
                        let known = self.rows + index;
                        let step = (self.last_s - self.first_s) / (known - 1).max(1) as f64;
                        self.times = Some((0..known).map(|n| self.first_s + step * n as f64).collect());
                    }
                }
                if let Some(times) = &mut self.times {
                    times.push(time);
                }
                self.last_s = time;
                if self.usual_s.is_none() {
                    self.early.push(time);
                    if self.early.len() == LEARNT_FROM {
                        self.learn();
                    }
                }
            }
        }
        let added = part.columns.first().map_or(0, Vec::len);
        self.rows += added;
        if let Some(limits) = self.options.limits
            && self.rows > limits.samples
        {
            return Err(too_many(self.rows, limits.samples));
        }
        for (column, mut more) in self.columns.iter_mut().zip(part.columns) {
            if column.is_empty() { *column = more } else { column.append(&mut more) }
        }
        Ok(())
    }

    /// Learns the usual distance from the first rows; where they are uneven already, their times are kept.
    fn learn(&mut self) {
        let distances: Vec<f64> = self.early.windows(2).map(|pair| pair[1] - pair[0]).collect();
        let mut sorted = distances.clone();
        sorted.sort_by(f64::total_cmp);
        let Some(&usual) = sorted.get(sorted.len() / 2) else { return };
        self.usual_s = Some(usual);
        if distances.iter().any(|&distance| leaves(usual, distance)) {
            self.times = Some(std::mem::take(&mut self.early));
        }
    }

    /// Ends the reading.
    ///
    /// # Errors
    /// No rows; mostly rows that are none; times that do not move on.
    pub fn finish(mut self) -> Result<WaveRead, Refusal> {
        let rest = std::mem::take(&mut self.rest);
        if !rest.is_empty() {
            self.take(&rest)?;
        }
        if self.usual_s.is_none() {
            self.learn();
        }
        let Some(layout) = self.layout.take() else {
            return Err(Refusal::new("file", "holds no row of numbers: this is no capture"));
        };
        if self.rows < 2 {
            return Err(Refusal::new("file", "holds fewer than two rows"));
        }
        if self.bad_rows > self.rows / 5 {
            let reason =
                format!("{} of {} rows do not have a number in every column", self.bad_rows, self.rows + self.bad_rows);
            return Err(Refusal::new("file", reason));
        }
        if self.bad_rows > 0 {
            self.notes.push(format!("{} rows without a number in every column were left out", self.bad_rows));
        }
        let kept: Vec<usize> = (0..layout.names.len()).filter(|&column| Some(column) != layout.time).collect();
        let (step_s, columns) = match (layout.time, self.times.take()) {
            (None, _) => (1.0 / self.options.rate_hz.unwrap_or(1.0), std::mem::take(&mut self.columns)),
            (Some(_), times) => {
                let step = (self.last_s - self.first_s) / (self.rows - 1) as f64;
                if step <= 0.0 {
                    return Err(Refusal::new("file", "the time column does not move on: it has too few digits"));
                }
                match times {
                    None => (step, std::mem::take(&mut self.columns)),
                    Some(times) => {
                        self.notes.push("The samples are not evenly spaced: they were put on an even grid".into());
                        let columns = std::mem::take(&mut self.columns);
                        (step, columns.iter().map(|column| even(&times, column, self.first_s, step)).collect())
                    }
                }
            }
        };
        let channels = kept
            .iter()
            .zip(columns)
            .map(|(&column, samples)| CaptureChannel {
                name: layout.names[column].clone(),
                unit: layout.units[column].clone(),
                samples,
            })
            .collect();
        Ok(WaveRead { capture: Capture { step_s, channels: scaled(channels, &self.options)? }, notes: self.notes })
    }
}

/// Cuts at line ends.
fn pieces(bytes: &[u8], count: usize) -> Vec<&[u8]> {
    let mut list = Vec::with_capacity(count);
    let mut rest = bytes;
    for left in (1..=count).rev() {
        if left == 1 {
            list.push(rest);
            break;
        }
        let aim = rest.len() / left;
        let end = memchr(b'\n', &rest[aim..]).map_or(rest.len(), |at| aim + at + 1);
        let (part, later) = rest.split_at(end);
        list.push(part);
        rest = later;
    }
    list
}

fn rows(bytes: &[u8], layout: &Layout) -> Part {
    let width = layout.names.len();
    let channels = width - usize::from(layout.time.is_some());
    // A row of samples is rarely shorter than six bytes a cell.
    let guess = bytes.len() / (6 * width) + 1;
    let mut part = Part {
        times: Vec::with_capacity(if layout.time.is_some() { guess } else { 0 }),
        columns: vec![Vec::with_capacity(guess); channels],
        bad_rows: 0,
    };
    let mut row = vec![0.0f32; channels];
    let mut rest = bytes;
    while !rest.is_empty() {
        let end = memchr(b'\n', rest).unwrap_or(rest.len());
        let mut line = &rest[..end];
        rest = rest.get(end + 1..).unwrap_or_default();
        if line.last() == Some(&b'\r') {
            line = &line[..line.len() - 1];
        }
        if line.is_empty() {
            continue;
        }
        let (mut at, mut channel, mut time, mut sound) = (0, 0, 0.0, true);
        for column in 0..width {
            if at > line.len() {
                sound = false;
                break;
            }
            let (cell, end) = cell_at(line, at, layout.separator);
            let Cell::Number(value) = cell else {
                sound = false;
                break;
            };
            if Some(column) == layout.time {
                time = value;
            } else {
                row[channel] = value as f32;
                channel += 1;
            }
            at = end + 1;
        }
        if !sound {
            part.bad_rows += 1;
            continue;
        }
        if layout.time.is_some() {
            part.times.push(time);
        }
        for (column, value) in part.columns.iter_mut().zip(&row) {
            column.push(*value);
        }
    }
    part
}

/// Whether a distance between samples is another than the usual one. Printed times that repeat are rounding.
fn leaves(usual: f64, distance: f64) -> bool {
    distance > 0.0 && (distance - usual).abs() > EVEN * usual
}

/// Samples on an even grid, between their neighbours in time.
fn even(times: &[f64], samples: &[f32], first: f64, step: f64) -> Vec<f32> {
    let mut at = 0;
    (0..samples.len())
        .map(|n| {
            let time = first + step * n as f64;
            while at + 2 < times.len() && times[at + 1] < time {
                at += 1;
            }
            let width = times[at + 1] - times[at];
            let share = if width > 0.0 { ((time - times[at]) / width).clamp(0.0, 1.0) as f32 } else { 0.0 };
            samples[at] + share * (samples[at + 1] - samples[at])
        })
        .collect()
}

/// `coil current (A)` and `coil current [A]` as name and unit.
fn name_and_unit(heading: &str) -> (String, String) {
    for (open, close) in [('(', ')'), ('[', ']')] {
        if let (Some(from), true) = (heading.rfind(open), heading.ends_with(close)) {
            return (heading[..from].trim().to_owned(), heading[from + 1..heading.len() - 1].trim().to_owned());
        }
    }
    (heading.trim().to_owned(), String::new())
}

/// Writes a capture as CSV, so that it leaves in an open format.
///
/// # Errors
/// The writer fails.
pub fn write(capture: &Capture, out: &mut impl std::io::Write) -> std::io::Result<()> {
    write!(out, "time (s)")?;
    for channel in &capture.channels {
        let unit = if channel.unit.is_empty() { String::new() } else { format!(" ({})", channel.unit) };
        write!(out, ",{}{unit}", channel.name.replace(',', " "))?;
    }
    writeln!(out)?;
    // Enough places to tell two neighbouring samples apart.
    let places = (3.0 - capture.step_s.log10()).ceil().clamp(3.0, 12.0) as usize;
    for row in 0..capture.samples() {
        write!(out, "{:.places$}", row as f64 * capture.step_s)?;
        for channel in &capture.channels {
            write!(out, ",{}", channel.samples[row])?;
        }
        writeln!(out)?;
    }
    Ok(())
}
