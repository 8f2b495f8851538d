//! A recording: channels over one time line, and what is drawn from it.

mod channel;
mod full_request;
mod map;
mod results;
mod thin;
mod windows;

pub use channel::{Channel, ChannelBook, ChannelKnowledge};
pub use full_request::{FullRequest, full_request};
pub use map::{DrivenCell, MapCell, MisfireMap, misfire_map};
pub use results::{
    Ambient, Known, RecordingResult, ResultKind, TrimsOfRecording, boost_of, misfire_by_bank, misfires_of, results,
    trims_of,
};
pub use thin::{Thinned, thin};
pub use windows::{CountsOverTime, counts_over_time};

use std::collections::BTreeMap;

use serde::Deserialize;

/// Columns of one length over a time that does not run backwards. A value that was not taken is NaN.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Recording {
    /// In seconds from any zero.
    pub time_s: Vec<f64>,
    /// By channel name, each in the channel's unit and as long as the time.
    pub channels: BTreeMap<String, Vec<f32>>,
}

impl Recording {
    pub fn channel(&self, name: &str) -> Option<&[f32]> {
        self.channels.get(name).map(Vec::as_slice).filter(|values| values.len() == self.time_s.len())
    }

    pub fn len(&self) -> usize {
        self.time_s.len()
    }

    pub fn is_empty(&self) -> bool {
        self.time_s.is_empty()
    }

    pub fn span_s(&self) -> f64 {
        match (self.time_s.first(), self.time_s.last()) {
            (Some(first), Some(last)) => last - first,
            _ => 0.0,
        }
    }

    /// The mean of a channel over what was taken of it.
    pub fn mean(&self, name: &str) -> Option<f64> {
        let values = self.channel(name)?;
        let (sum, n) =
            values.iter().filter(|v| !v.is_nan()).fold((0.0, 0usize), |(s, n), v| (s + f64::from(*v), n + 1));
        (n > 0).then(|| sum / n as f64)
    }
}

/// The last value of a slower channel, for as long as it may stand for the present.
pub(crate) struct Held<'a> {
    values: Option<&'a [f32]>,
    value: f64,
    since: f64,
    hold_s: f64,
}

impl<'a> Held<'a> {
    pub fn of(recording: &'a Recording, name: &str, hold_s: f64) -> Held<'a> {
        Held { values: recording.channel(name), value: f64::NAN, since: f64::NEG_INFINITY, hold_s }
    }

    pub fn is_there(&self) -> bool {
        self.values.is_some()
    }

    /// The value at a row, to be asked row by row; NaN when it is not known.
    #[inline]
    pub fn at(&mut self, row: usize, now: f64) -> f64 {
        let Some(values) = self.values else { return f64::NAN };
        let value = values[row];
        if !value.is_nan() {
            self.value = f64::from(value);
            self.since = now;
        } else if now - self.since > self.hold_s {
            self.value = f64::NAN;
        }
        self.value
    }
}

/// The file `knowledge/evidence.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct EvidenceKnowledge {
    pub map: MapRules,
    pub windows: WindowRules,
    pub steady: SteadyRules,
    pub hold: HoldRules,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MapRules {
    pub speed_edges_rpm: Vec<f64>,
    pub load_edges_pct: Vec<f64>,
    pub longest_step_s: f64,
    /// Misfires that follow each other within this time are one episode.
    pub episode_gap_s: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WindowRules {
    pub seconds: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SteadyRules {
    pub seconds: f64,
    pub airflow_spread: f64,
    pub least_samples: usize,
    pub coolant_c: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HoldRules {
    pub seconds: f64,
    pub because: String,
}
