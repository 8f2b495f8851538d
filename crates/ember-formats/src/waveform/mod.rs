//! Captures of a scope from files: CSV with a time and channels, or WAV.

mod csv;
mod wav;

use std::collections::BTreeMap;

use ember_core::refusal::Refusal;
use ember_core::waveform::{Capture, CaptureChannel};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

pub use csv::{CsvWaveReader, write};
pub use wav::read_wav;

/// What a file does not say of itself.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct WaveOptions {
    /// Samples a second, for a table without a time column.
    pub rate_hz: Option<f64>,
    /// What one unit of a column stands for: a clamp of 10 mV per ampere is 100 A for each volt.
    pub scales: BTreeMap<String, WaveScale>,
    /// The most samples of a channel and the most channels that are taken.
    #[serde(skip)]
    pub limits: Option<WaveLimits>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct WaveLimits {
    pub samples: usize,
    pub channels: usize,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaveScale {
    pub factor: f64,
    pub unit: String,
}

/// What was read.
#[derive(Debug, Clone, PartialEq)]
pub struct WaveRead {
    pub capture: Capture,
    /// What was noticed and dealt with.
    pub notes: Vec<String>,
}

/// Whether a file is a WAV.
pub fn is_wav(head: &[u8]) -> bool {
    head.len() >= 12 && &head[..4] == b"RIFF" && &head[8..12] == b"WAVE"
}

/// Reads a whole file of either kind.
///
/// # Errors
/// As [`CsvWaveReader`] and [`read_wav`].
pub fn read(bytes: &[u8], options: &WaveOptions) -> Result<WaveRead, Refusal> {
    if is_wav(bytes) {
        return read_wav(bytes, options);
    }
    let mut reader = CsvWaveReader::new(options);
    for piece in bytes.chunks(8 << 20) {
        reader.push(piece)?;
    }
    reader.finish()
}

fn too_many(samples: usize, limit: usize) -> Refusal {
    let reason = format!(
        "{samples} samples of a channel are more than the {limit} that are taken: capture a shorter time, or fewer samples a second"
    );
    Refusal::new("file", reason)
}

/// Applies the scales and checks their columns.
fn scaled(mut channels: Vec<CaptureChannel>, options: &WaveOptions) -> Result<Vec<CaptureChannel>, Refusal> {
    for (name, scale) in &options.scales {
        let field = format!("scales.{name}");
        if !scale.factor.is_finite() || scale.factor == 0.0 {
            return Err(Refusal::new(field, "must be a number other than nought"));
        }
        let names: Vec<String> = channels.iter().map(|c| c.name.clone()).collect();
        let Some(channel) = channels.iter_mut().find(|channel| channel.name == *name) else {
            return Err(Refusal::new(field, format!("is no column of the file; there are {}", names.join(", "))));
        };
        channel.unit = scale.unit.clone();
        channel.samples.iter_mut().for_each(|sample| *sample *= scale.factor as f32);
    }
    Ok(channels)
}
