//! Misfire counters over time: what was counted in each window of a recording.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use super::{EvidenceKnowledge, Held, Recording};
use crate::engine::Engine;
use crate::misfire::CountWindow;

/// The highest value of counters of one and two bytes.
const FULL: [f64; 2] = [255.0, 65_535.0];

/// So many misfires more than firings, and so large a share more, come from a window's ends and not from a lagging tool.
const EDGES: f64 = 5.0;
const EDGE_SHARE: f64 = 0.02;

/// Counts of a whole recording and in windows of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CountsOverTime {
    pub revolutions: f64,
    pub misfires: BTreeMap<String, f64>,
    pub windows: Vec<CountWindow>,
    /// Where each window begins, in seconds of the recording.
    pub begins_s: Vec<f64>,
    pub window_s: f64,
    /// What was noticed and dealt with.
    pub notes: Vec<String>,
}

/// One counter followed through its restarts.
#[derive(Default, Clone)]
pub(super) struct Counter {
    last: Option<f64>,
    /// Firings since the counter last changed: a tool that reads it late brings several at once.
    firings: f64,
}

/// What one reading of a counter adds.
pub(super) enum Added {
    More(f64),
    /// It fell: it has begun again, and what it shows was counted since.
    BeganAgain(f64),
    /// More than the engine can have fired meanwhile: no misfire, a slip of the tool.
    Jumped(f64),
}

impl Counter {
    /// Takes a reading, `firings` after the reading before it.
    pub fn read(&mut self, value: f64, firings: f64) -> Option<Added> {
        self.firings += firings;
        if value.is_nan() {
            return None;
        }
        let before = self.last.replace(value)?;
        if value == before {
            return Some(Added::More(0.0));
        }
        // Two are allowed for the firing at either end.
        let most = std::mem::take(&mut self.firings) + 2.0;
        let (more, again) = if value > before {
            (value - before, false)
        } else {
            // Fallen from near the top of its range: wrapped around. Else cleared, or the engine was started anew.
            match FULL.iter().find(|&&full| before <= full && before > full * 0.9 && value < full * 0.1) {
                Some(full) => (value + full + 1.0 - before, false),
                None => (value, true),
            }
        };
        Some(match (more > most, again) {
            (true, _) => Added::Jumped(more),
            (false, true) => Added::BeganAgain(more),
            (false, false) => Added::More(more),
        })
    }
}

/// Adds up the counters of all cylinders. `None` unless engine speed and every cylinder's counter were recorded.
pub fn counts_over_time(engine: &Engine, recording: &Recording, rules: &EvidenceKnowledge) -> Option<CountsOverTime> {
    let counters: Vec<&[f32]> =
        engine.numbers().map(|c| recording.channel(&format!("misfires_{c}"))).collect::<Option<_>>()?;
    let mut speed = Held::of(recording, "engine_speed", rules.hold.seconds);
    if !speed.is_there() || recording.len() < 2 {
        return None;
    }
    let n = counters.len();
    let mut following = vec![Counter::default(); n];
    let mut notes = Vec::new();
    let mut windows: Vec<(f64, f64, Vec<f64>)> = Vec::new();
    let mut began = recording.time_s[0];
    let (mut revolutions, mut counted) = (0.0, vec![0.0; n]);
    let mut last_speed = f64::NAN;
    let mut last_time = began;
    for (row, &now) in recording.time_s.iter().enumerate() {
        let rpm = speed.at(row, now);
        let step = now - last_time;
        if step > 0.0 && step <= rules.map.longest_step_s {
            let mean = if last_speed.is_nan() { rpm } else { (rpm + last_speed) / 2.0 };
            if mean.is_finite() {
                revolutions += mean * step / 60.0;
            }
        }
        let firings = if step > 0.0 && step <= rules.map.longest_step_s && rpm.is_finite() {
            rpm * step / 120.0
        } else {
            // What happened in a gap is not known: anything may have been counted.
            if step > rules.map.longest_step_s { f64::INFINITY } else { 0.0 }
        };
        (last_speed, last_time) = (rpm, now);
        for (index, column) in counters.iter().enumerate() {
            match following[index].read(f64::from(column[row]), firings) {
                Some(Added::More(more)) => counted[index] += more,
                Some(Added::BeganAgain(more)) => {
                    counted[index] += more;
                    notes.push(format!(
                        "at {:.1} s the counter of cylinder {} began again",
                        now - recording.time_s[0],
                        index + 1
                    ));
                }
                Some(Added::Jumped(more)) => notes.push(format!(
                    "at {:.1} s the counter of cylinder {} jumps by {more:.0}, more than the engine fired: left out",
                    now - recording.time_s[0],
                    index + 1
                )),
                None => {}
            }
        }
        if now - began >= rules.windows.seconds {
            windows.push((began, revolutions, std::mem::replace(&mut counted, vec![0.0; n])));
            (began, revolutions) = (now, 0.0);
        }
    }
    windows.push((began, revolutions, counted));
    // A rest that is too short to stand alone belongs to the window before it.
    if windows.len() > 1 && windows.last().is_some_and(|w| last_time - w.0 < rules.windows.seconds / 2.0) {
        let (_, more_revolutions, more) = windows.pop()?;
        let (_, revolutions, counted) = windows.last_mut()?;
        *revolutions += more_revolutions;
        counted.iter_mut().zip(more).for_each(|(a, b)| *a += b);
    }
    // Speed and counters are read at different moments, so a dead cylinder can show a few misfires more than firings
    // at a window's ends: no more is counted than it can have fired.
    for (_, revolutions, counted) in &mut windows {
        let firings = (*revolutions / 2.0).floor();
        for k in counted.iter_mut().filter(|k| **k > firings && **k <= firings + EDGES + EDGE_SHARE * firings) {
            *k = firings;
        }
    }
    let begins: Vec<f64> = windows.iter().map(|w| w.0 - recording.time_s[0]).collect();
    let revolutions: f64 = windows.iter().map(|w| w.1).sum();
    if revolutions <= 0.0 {
        return None;
    }
    let named = |values: &[f64]| engine.numbers().map(|c| (c.to_string(), values[usize::from(c) - 1])).collect();
    let totals: Vec<f64> = (0..n).map(|i| windows.iter().map(|w| w.2[i]).sum()).collect();
    if notes.len() > 5 {
        let more = notes.len() - 5;
        notes.truncate(5);
        notes.push(format!("and {more} more of the kind"));
    }
    // More misfires than firings: the counters lag behind the speed. The totals may still hold, the course does not.
    let lags = windows.iter().any(|(_, revs, counted)| counted.iter().any(|&k| k > revs / 2.0));
    let (windows, begins) = if lags {
        notes.push("the counters lag behind the engine speed, so the course over time is not used".into());
        (Vec::new(), Vec::new())
    } else {
        (windows, begins)
    };
    Some(CountsOverTime {
        revolutions,
        misfires: named(&totals),
        windows: windows
            .iter()
            .filter(|w| w.1 > 0.0)
            .map(|(_, revs, counted)| CountWindow { revolutions: *revs, misfires: named(counted) })
            .collect(),
        begins_s: begins.into_iter().zip(&windows).filter(|(_, w)| w.1 > 0.0).map(|(b, _)| b).collect(),
        window_s: rules.windows.seconds,
        notes,
    })
}
