//! A log: a time, an engine speed and a cumulative misfire counter for each cylinder.

use std::collections::BTreeMap;

use ember_core::misfire::CountWindow;
use ember_core::refusal::{Refusal, whole_count};

use super::cells::Numbers;
use super::{ColumnUse, CounterFileKind, CounterReading, Sheet, all_there, cylinder_in};

/// Counters of 8 and 16 bits begin again after these.
const TOPS: [f64; 2] = [255.0, 65_535.0];
/// A counter that falls from the uppermost tenth of its range to the lowest has wrapped.
const NEAR: f64 = 0.1;
/// Windows are at least this long, so that each holds some hundred firings.
const WINDOW_S: f64 = 15.0;
/// A gap this long between samples is a pause of the logger, and no revolutions are claimed for it.
const PAUSE_S: f64 = 10.0;

struct Columns {
    time: usize,
    /// Seconds for one unit of the time column.
    seconds: f64,
    speed: usize,
    counters: BTreeMap<u16, usize>,
}

pub(super) fn read(mut sheet: Sheet<'_>) -> Result<CounterReading, Refusal> {
    let columns = columns(&sheet.headings, sheet.cylinders)?;
    let mut numbers = Numbers::new(sheet.separator);
    let mut tally = Tally::new(&columns);
    let mut record = csv::StringRecord::new();
    let mut rows = 0;
    while let Some(line) = sheet.next_row(&mut record)? {
        rows += 1;
        let row = || format!("row {line}");
        let time = numbers
            .read(&record[columns.time], line, &sheet.headings[columns.time])?
            .ok_or_else(|| Refusal::new(row(), "has no time"))?
            * columns.seconds;
        let speed = numbers.read(&record[columns.speed], line, &sheet.headings[columns.speed])?;
        if speed.is_some_and(|rpm| rpm < 0.0) {
            return Err(Refusal::new(row(), "has a negative engine speed"));
        }
        tally.at(line, time, speed)?;
        for (index, &at) in columns.counters.values().enumerate() {
            if let Some(value) = numbers.read(&record[at], line, &sheet.headings[at])? {
                tally.counter(index, whole_count(&row(), value)?, line);
            }
        }
    }
    if rows < 2 {
        return Err(Refusal::new("file", "has fewer than two samples: no revolutions can be reckoned from it"));
    }
    tally.finish(&sheet, &columns, rows, numbers.decimal_name())
}

fn columns(headings: &[String], cylinders: u8) -> Result<Columns, Refusal> {
    let find = |words: &[&str]| {
        headings.iter().position(|h| {
            let lower = h.to_lowercase();
            words.iter().any(|word| lower.starts_with(word)) && cylinder_in(h).is_none()
        })
    };
    let mut counters = BTreeMap::new();
    for (index, heading) in headings.iter().enumerate() {
        if let Some(cylinder) = cylinder_in(heading)
            && counters.insert(cylinder, index).is_some()
        {
            return Err(Refusal::new("file", format!("has two counter columns for cylinder {cylinder}")));
        }
    }
    if counters.is_empty() {
        return Err(Refusal::new(
            "file",
            "has no counter column: none of its headings names a cylinder (like \"misfires cyl 1\"), and it is no table of cylinder and misfires",
        ));
    }
    all_there(&counters, cylinders, "file")?;
    let time = find(&["time", "t ", "t_", "t(", "elapsed", "seconds", "ms", "zeit"])
        .or_else(|| headings.iter().position(|h| h.trim().eq_ignore_ascii_case("t")))
        .ok_or_else(|| Refusal::new("file", "has counter columns and none for the time"))?;
    let speed = find(&["rpm", "engine speed", "engine_speed", "enginespeed", "speed rpm", "n rpm", "n (rpm", "revs"])
        .or_else(|| headings.iter().position(|h| h.to_lowercase().contains("rpm")))
        .ok_or_else(|| Refusal::new("file", "has counter columns and none for the engine speed in rpm"))?;
    let lower = headings[time].to_lowercase();
    let milliseconds = lower.contains("ms") || lower.contains("milli");
    Ok(Columns { time, seconds: if milliseconds { 0.001 } else { 1.0 }, speed, counters })
}

/// Sums a log while it is read.
struct Tally {
    cylinders: Vec<u16>,
    last_time: Option<f64>,
    first_time: f64,
    last_speed: Option<f64>,
    revolutions: f64,
    last: Vec<Option<f64>>,
    counted: Vec<f64>,
    windows: Vec<(f64, Vec<f64>)>,
    window_began: f64,
    window_revolutions: f64,
    window_counted: Vec<f64>,
    notes: Vec<String>,
    pauses: usize,
    without_speed: usize,
}

impl Tally {
    fn new(columns: &Columns) -> Self {
        let n = columns.counters.len();
        Tally {
            cylinders: columns.counters.keys().copied().collect(),
            last_time: None,
            first_time: 0.0,
            last_speed: None,
            revolutions: 0.0,
            last: vec![None; n],
            counted: vec![0.0; n],
            windows: Vec::new(),
            window_began: 0.0,
            window_revolutions: 0.0,
            window_counted: vec![0.0; n],
            notes: Vec::new(),
            pauses: 0,
            without_speed: 0,
        }
    }

    fn at(&mut self, line: u64, time: f64, speed: Option<f64>) -> Result<(), Refusal> {
        match self.last_time {
            None => (self.first_time, self.window_began) = (time, time),
            Some(before) if time < before => {
                return Err(Refusal::new(
                    format!("row {line}"),
                    format!("the time runs backwards, from {before} s to {time} s"),
                ));
            }
            Some(before) => {
                let step = time - before;
                if speed.is_none() {
                    self.without_speed += 1;
                }
                if step > PAUSE_S {
                    self.pauses += 1;
                } else if let Some(now) = speed.or(self.last_speed) {
                    let mean = 0.5 * (now + self.last_speed.unwrap_or(now));
                    let turned = mean * step / 60.0;
                    self.revolutions += turned;
                    self.window_revolutions += turned;
                }
            }
        }
        self.last_time = Some(time);
        self.last_speed = speed.or(self.last_speed);
        if time - self.window_began >= WINDOW_S {
            self.close_window(time);
        }
        Ok(())
    }

    fn counter(&mut self, index: usize, value: f64, line: u64) {
        let cylinder = self.cylinders[index];
        let more = match self.last[index] {
            None => 0.0,
            Some(before) if value >= before => value - before,
            Some(before) => {
                let wrapped =
                    TOPS.into_iter().find(|top| before <= *top && before >= top * (1.0 - NEAR) && value <= top * NEAR);
                let (more, what) = match wrapped {
                    Some(top) => (top + 1.0 - before + value, "wrapped around"),
                    None => (value, "began again"),
                };
                self.notes
                    .push(format!("row {line}: the counter of cylinder {cylinder} {what}, from {before} to {value}"));
                more
            }
        };
        self.last[index] = Some(value);
        self.counted[index] += more;
        self.window_counted[index] += more;
    }

    fn close_window(&mut self, now: f64) {
        if self.window_revolutions > 0.0 {
            let counted = std::mem::replace(&mut self.window_counted, vec![0.0; self.cylinders.len()]);
            self.windows.push((self.window_revolutions, counted));
            self.window_revolutions = 0.0;
        }
        self.window_began = now;
    }

    fn finish(
        mut self,
        sheet: &Sheet<'_>,
        columns: &Columns,
        rows: usize,
        decimal: String,
    ) -> Result<CounterReading, Refusal> {
        let end = self.last_time.unwrap_or_default();
        if self.revolutions <= 0.0 {
            return Err(Refusal::new("file", "holds no running engine: its speed or its time stands still"));
        }
        self.close_window(end);
        // A rest at the end that is too short to be a window of its own belongs to the one before.
        let left_over = self.window_counted.iter().any(|&k| k > 0.0);
        if left_over && let Some((_, counted)) = self.windows.last_mut() {
            counted.iter_mut().zip(&self.window_counted).for_each(|(sum, more)| *sum += more);
        }
        let impossible = |(revolutions, counted): &(f64, Vec<f64>)| counted.iter().any(|&k| k > revolutions / 2.0);
        if self.windows.iter().any(impossible) {
            // A tool that updates its counters late puts misfires into the wrong window; the totals still hold.
            self.windows.clear();
            self.notes.push("counters lag behind the engine speed, so the course over time is not used".into());
        }
        if self.pauses > 0 {
            self.notes
                .push(format!("{} pauses of more than {PAUSE_S} s: no revolutions are claimed for them", self.pauses));
        }
        if self.without_speed > 0 {
            self.notes.push(format!("{} rows have no engine speed: the one before was taken", self.without_speed));
        }
        if self.notes.len() > 20 {
            let more = self.notes.len() - 20;
            self.notes.truncate(20);
            self.notes.push(format!("and {more} more of the kind"));
        }
        let named = |counted: &[f64]| -> BTreeMap<String, f64> {
            self.cylinders.iter().zip(counted).map(|(c, &k)| (c.to_string(), k)).collect()
        };
        let used_as = |index: usize| {
            if index == columns.time {
                if columns.seconds == 1.0 { "time in s".into() } else { "time in ms".into() }
            } else if index == columns.speed {
                "engine speed in rpm".into()
            } else {
                match columns.counters.iter().find(|(_, at)| **at == index) {
                    Some((cylinder, _)) => format!("misfires of cylinder {cylinder}"),
                    None => "not used".into(),
                }
            }
        };
        Ok(CounterReading {
            kind: CounterFileKind::Log,
            separator: sheet.separator_name(),
            decimal,
            rows,
            columns: sheet
                .headings
                .iter()
                .enumerate()
                .map(|(index, heading)| ColumnUse { heading: heading.clone(), used_as: used_as(index) })
                .collect(),
            // Rounded up: a log that ends in the middle of a turn must not show more misfires than firings.
            revolutions: Some(self.revolutions.ceil()),
            misfires: named(&self.counted),
            windows: self
                .windows
                .iter()
                .map(|(revolutions, counted)| CountWindow { revolutions: *revolutions, misfires: named(counted) })
                .collect(),
            duration_s: Some(end - self.first_time),
            notes: self.notes,
        })
    }
}
