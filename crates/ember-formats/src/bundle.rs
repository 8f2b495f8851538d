//! A whole job as one JSON document: its vehicle, its trail, recordings, captures and photographs, to take along and to
//! bring back.
//!
//! What goes out of one workshop, comes into another and goes out again is the same to the byte: files are numbered from 1
//! in their order whatever their numbers in the store are, and the vehicle travels as it was first described.

use std::collections::BTreeMap;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use ember_core::recording::Recording;
use ember_core::refusal::Refusal;
use ember_core::trail::Entry;
use ember_core::vehicle::Vehicle;
use ember_core::waveform::{Capture, CaptureChannel};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use utoipa::ToSchema;

/// The name and version that stand at the head of every bundle.
pub const FORMAT: &str = "gritty-ember-job/2";
const NAME: &str = "gritty-ember-job/";
const VERSION: u32 = 2;

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

/// A channel of a capture: samples as little-endian floats of 4 bytes in base64.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BundledChannel {
    pub name: String,
    #[serde(default)]
    pub unit: String,
    pub samples: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BundledCapture {
    pub id: i64,
    pub name: String,
    pub made_at: String,
    pub step_s: f64,
    pub channels: Vec<BundledChannel>,
    #[serde(default)]
    pub notes: Vec<String>,
}

/// A photograph: two JPEGs in base64.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BundledPhoto {
    pub id: i64,
    pub name: String,
    pub made_at: String,
    pub width: u32,
    pub height: u32,
    pub picture: String,
    pub thumbnail: String,
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
    #[serde(default)]
    pub captures: Vec<BundledCapture>,
    #[serde(default)]
    pub photos: Vec<BundledPhoto>,
    /// SHA-256 over the document without it, in hexadecimal. A document without a seal was written by hand, and is taken
    /// as it is.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub seal: String,
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

impl BundledCapture {
    pub fn new(id: i64, name: &str, made_at: &str, capture: &Capture, notes: Vec<String>) -> BundledCapture {
        let channel = |channel: &CaptureChannel| BundledChannel {
            name: channel.name.clone(),
            unit: channel.unit.clone(),
            samples: STANDARD.encode(channel.samples.iter().flat_map(|v| v.to_le_bytes()).collect::<Vec<u8>>()),
        };
        BundledCapture {
            id,
            name: name.to_owned(),
            made_at: made_at.to_owned(),
            step_s: capture.step_s,
            channels: capture.channels.iter().map(channel).collect(),
            notes,
        }
    }

    /// # Errors
    /// Samples that are no base64 of floats; channels of different lengths; a step that is not above 0.
    pub fn capture(&self) -> Result<Capture, Refusal> {
        if !self.step_s.is_finite() || self.step_s <= 0.0 {
            return Err(Refusal::new("step_s", "must be above zero"));
        }
        let mut channels: Vec<CaptureChannel> = Vec::new();
        for (index, one) in self.channels.iter().enumerate() {
            let field = format!("channels[{index}].samples");
            let bytes = bytes_of(&field, &one.samples)?;
            if !bytes.len().is_multiple_of(4) {
                return Err(Refusal::new(field, "is no row of floats of 4 bytes"));
            }
            let samples: Vec<f32> =
                bytes.chunks_exact(4).map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect();
            if channels.first().is_some_and(|first| first.samples.len() != samples.len()) {
                return Err(Refusal::new(field, "is not as long as the first channel"));
            }
            channels.push(CaptureChannel { name: one.name.clone(), unit: one.unit.clone(), samples });
        }
        Ok(Capture { step_s: self.step_s, channels })
    }
}

impl BundledPhoto {
    /// # Errors
    /// A picture that is no base64 of a JPEG.
    pub fn pictures(&self) -> Result<(Vec<u8>, Vec<u8>), Refusal> {
        let jpeg = |field: &str, text: &str| {
            let bytes = bytes_of(field, text)?;
            if bytes.starts_with(&[0xff, 0xd8]) { Ok(bytes) } else { Err(Refusal::new(field, "is no JPEG")) }
        };
        Ok((jpeg("picture", &self.picture)?, jpeg("thumbnail", &self.thumbnail)?))
    }
}

/// Bytes as they travel in a bundle.
pub fn base64_of(bytes: &[u8]) -> String {
    STANDARD.encode(bytes)
}

fn bytes_of(field: &str, text: &str) -> Result<Vec<u8>, Refusal> {
    STANDARD.decode(text).map_err(|error| Refusal::new(field, format!("is no base64: {error}")))
}

impl Bundle {
    /// The document, sealed, as bytes that are always the same for the same job.
    pub fn written(&self) -> Vec<u8> {
        let sealed = Bundle { seal: self.seal_of(), ..self.clone() };
        serde_json::to_vec_pretty(&sealed).unwrap_or_default()
    }

    fn seal_of(&self) -> String {
        let bare = Bundle { seal: String::new(), ..self.clone() };
        let bytes = serde_json::to_vec(&bare).unwrap_or_default();
        Sha256::digest(&bytes).iter().map(|byte| format!("{byte:02x}")).collect()
    }

    /// Reads and checks a bundle. The first version, without captures, photographs and seal, is read too.
    ///
    /// # Errors
    /// Not JSON; another format, or a newer version of this one; a field missing or one too many; a seal that does not fit,
    /// because the document was altered after it was written; a recording, capture or photograph that cannot be.
    pub fn read(bytes: &[u8]) -> Result<Bundle, Refusal> {
        let value: serde_json::Value =
            serde_json::from_slice(bytes).map_err(|error| Refusal::new("bundle", format!("is no JSON: {error}")))?;
        let format = value["format"].as_str().unwrap_or_default();
        let version = format.strip_prefix(NAME).and_then(|number| number.parse::<u32>().ok());
        match version {
            Some(1..=VERSION) => {}
            Some(newer) => {
                let reason = format!(
                    "was written by a newer Gritty Ember (version {newer} of the format, this one reads up to {VERSION}): \
                     bring this one up to date"
                );
                return Err(Refusal::new("format", reason));
            }
            None => return Err(Refusal::new("format", format!("is not {FORMAT}"))),
        }
        let bundle: Bundle = ember_core::reckon::read(&value)?;
        if !bundle.seal.is_empty() && bundle.seal != bundle.seal_of() {
            let reason =
                "does not fit: the file was altered after it was written, or damaged on the way. Ask for it again";
            return Err(Refusal::new("seal", reason));
        }
        for (index, one) in bundle.recordings.iter().enumerate() {
            one.recording().map_err(|refusal| refusal.within(&format!("recordings[{index}]")))?;
        }
        for (index, one) in bundle.captures.iter().enumerate() {
            one.capture().map_err(|refusal| refusal.within(&format!("captures[{index}]")))?;
        }
        for (index, one) in bundle.photos.iter().enumerate() {
            one.pictures().map_err(|refusal| refusal.within(&format!("photos[{index}]")))?;
        }
        Ok(bundle)
    }
}
