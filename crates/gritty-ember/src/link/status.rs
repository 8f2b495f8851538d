//! What a link shows of itself.

use ember_core::codes::ReadCode;
use ember_core::frames::{MonitorTest, SelfTests};
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Debug, Clone, Default, PartialEq, Serialize, ToSchema)]
#[serde(tag = "doing", rename_all = "kebab-case")]
pub enum Activity {
    #[default]
    Nothing,
    Connecting,
    /// `done` of `of` units.
    Scanning {
        unit: String,
        done: usize,
        of: usize,
    },
    Clearing,
    Watching,
    Recording,
    /// The link dropped and is tried again.
    TryingAgain {
        attempt: u32,
    },
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ScannedUnit {
    pub number: u8,
    pub name: String,
    pub read: bool,
    /// Why it could not be read.
    pub why: String,
    pub codes: Vec<ReadCode>,
    /// Misfire counters and other monitor results.
    pub monitors: Vec<MonitorTest>,
    /// Which self-tests have run since the codes were cleared, where the unit says so.
    pub self_tests: Option<SelfTests>,
}

/// A scan as it stands: complete, or as far as it has come.
#[derive(Debug, Clone, Default, PartialEq, Serialize, ToSchema)]
pub struct ScanShown {
    pub number: u32,
    pub complete: bool,
    pub units: Vec<ScannedUnit>,
    /// The vehicle's identification, where it tells.
    pub identification: Option<String>,
    /// The entry under which it was written on the trail.
    pub saved_as: Option<u32>,
    pub cleared: bool,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LiveValue {
    pub channel: String,
    pub label: String,
    pub unit: String,
    pub value: f64,
    /// The adapter's time.
    pub time_s: f64,
    pub least: f64,
    pub most: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RecordingProgress {
    pub recording: i64,
    pub name: String,
    pub seconds: f64,
    pub samples: u64,
    pub distance_km: f64,
    pub paused: bool,
    /// Ended, and waiting to be put on the trail or thrown away.
    pub ended: bool,
}

/// An output that was driven.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct OutputState {
    pub identifier: u16,
    pub name: String,
    pub position: bool,
    /// What it was driven to, in percent or 100 for on; null when it is let go.
    pub driven: Option<f64>,
    /// What the unit reports back: percent, or 100 for current in the circuit.
    pub reported: Option<f64>,
    pub refused: Option<String>,
}

/// Everything a screen shows of a link.
#[derive(Debug, Clone, Default, PartialEq, Serialize, ToSchema)]
pub struct LinkStatus {
    pub connected: bool,
    pub address: String,
    /// Identifiers of 29 bits instead of 11.
    pub long_identifiers: bool,
    pub activity: Activity,
    /// Why there is no link, or why the last thing asked for did not happen.
    pub problem: Option<String>,
    pub scan: Option<ScanShown>,
    pub live: Vec<LiveValue>,
    pub adapter_s: f64,
    pub recording: Option<RecordingProgress>,
    pub outputs: Vec<OutputState>,
    /// What went wrong on the line, the newest last.
    pub notes: Vec<String>,
    pub rubbish: u32,
    pub drops: u32,
    /// The adapter is a simulated car, whose driver can be told to drive.
    pub simulated: bool,
    pub driving: bool,
}

impl LinkStatus {
    /// Keeps the last notes only.
    pub fn note(&mut self, list: impl IntoIterator<Item = String>) {
        self.notes.extend(list);
        let more = self.notes.len().saturating_sub(30);
        self.notes.drain(..more);
    }
}
