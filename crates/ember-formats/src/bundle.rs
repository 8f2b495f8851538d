//! A whole job as one JSON document: its vehicle, its trail and its recordings, to take along and to bring back.

use std::collections::BTreeMap;

use ember_core::recording::Recording;
use ember_core::refusal::Refusal;
use ember_core::trail::Entry;
use ember_core::vehicle::Vehicle;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The name and version that stand at the head of every bundle.
pub const FORMAT: &str = "gritty-ember-job/1";

/// A recording as it travels: a time line and columns with null where nothing was taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BundledRecording {
    /// The number under which the trail names it.
    pub id: i64,
    pub name: String,
    pub made_at: String,
    pub time_s: Vec<f64>,
    pub channels: BTreeMap<String, Vec<Option<f32>>>,
    /// Codes as they came: seconds, and the code.
    #[serde(default)]
    pub marks: Vec<(f64, String)>,
    #[serde(default)]
    pub notes: Vec<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Bundle {
    pub format: String,
    pub vehicle: Vehicle,
    pub opened_at: String,
    pub entries: Vec<Entry>,
    #[serde(default)]
    pub recordings: Vec<BundledRecording>,
}

impl BundledRecording {
    pub fn new(id: i64, name: &str, made_at: &str, recording: &Recording) -> BundledRecording {
        let column = |values: &Vec<f32>| values.iter().map(|v| (!v.is_nan()).then_some(*v)).collect();
        BundledRecording {
            id,
            name: name.to_owned(),
            made_at: made_at.to_owned(),
            time_s: recording.time_s.clone(),
            channels: recording.channels.iter().map(|(name, values)| (name.clone(), column(values))).collect(),
            marks: Vec::new(),
            notes: Vec::new(),
        }
    }

    /// # Errors
    /// A time that runs backwards or is no number; a column that is not as long as the time.
    pub fn recording(&self) -> Result<Recording, Refusal> {
        if self.time_s.iter().any(|t| !t.is_finite()) || self.time_s.windows(2).any(|pair| pair[0] >= pair[1]) {
            return Err(Refusal::new("time_s", "must rise from sample to sample"));
        }
        let mut channels = BTreeMap::new();
        for (name, values) in &self.channels {
            if values.len() != self.time_s.len() {
                let reason = format!("has {} values at {} times", values.len(), self.time_s.len());
                return Err(Refusal::new(format!("channels.{name}"), reason));
            }
            channels.insert(name.clone(), values.iter().map(|v| v.unwrap_or(f32::NAN)).collect());
        }
        Ok(Recording { time_s: self.time_s.clone(), channels })
    }
}

impl Bundle {
    /// Reads and checks a bundle.
    ///
    /// # Errors
    /// Not JSON; another format or version; a field missing or one too many; a recording that cannot be.
    pub fn read(bytes: &[u8]) -> Result<Bundle, Refusal> {
        let value: serde_json::Value =
            serde_json::from_slice(bytes).map_err(|error| Refusal::new("bundle", format!("is no JSON: {error}")))?;
        if value["format"] != FORMAT {
            return Err(Refusal::new("format", format!("is not {FORMAT}")));
        }
        let bundle: Bundle = ember_core::reckon::read(&value)?;
        for (index, recording) in bundle.recordings.iter().enumerate() {
            recording.recording().map_err(|refusal| refusal.within(&format!("recordings[{index}]")))?;
        }
        Ok(bundle)
    }
}
