//! WAV files, as sound cards and small scopes write them: whole numbers of 8 to 32 bits, or floats.

use std::io::Cursor;

use ember_core::refusal::Refusal;
use ember_core::waveform::{Capture, CaptureChannel};

use super::{WaveOptions, WaveRead, scaled, too_many};

/// Reads a WAV. Full scale is ±1 until a scale says what it stands for; channels are named by their number.
///
/// # Errors
/// No WAV, a compressed or damaged one, no samples, or too many of them.
pub fn read_wav(bytes: &[u8], options: &WaveOptions) -> Result<WaveRead, Refusal> {
    let refuse = |error: hound::Error| Refusal::new("file", format!("is no WAV that can be read: {error}"));
    let mut reader = hound::WavReader::new(Cursor::new(bytes)).map_err(refuse)?;
    let spec = reader.spec();
    let count = usize::from(spec.channels);
    let length = reader.duration() as usize;
    if count == 0 || length == 0 || spec.sample_rate == 0 {
        return Err(Refusal::new("file", "holds no samples"));
    }
    if let Some(limits) = options.limits {
        if length > limits.samples {
            return Err(too_many(length, limits.samples));
        }
        if count > limits.channels {
            return Err(Refusal::new("file", format!("{count} channels are more than {}", limits.channels)));
        }
    }
    let mut columns: Vec<Vec<f32>> = vec![Vec::with_capacity(length); count];
    let mut notes = Vec::new();
    let cut_short = match spec.sample_format {
        // By far the most usual: read straight from the bytes, which stand where the header ends.
        hound::SampleFormat::Int if spec.bits_per_sample == 16 => {
            let inner = reader.into_inner();
            let from = (inner.position() as usize).min(bytes.len());
            let data = &bytes[from..bytes.len().min(from + length * count * 2)];
            for (channel, column) in columns.iter_mut().enumerate() {
                let value = |frame: &[u8]| i16::from_le_bytes([frame[2 * channel], frame[2 * channel + 1]]);
                column.extend(data.chunks_exact(2 * count).map(|frame| f32::from(value(frame)) / 32_768.0));
            }
            data.len() < length * count * 2
        }
        format => {
            let mut at = 0;
            let mut take = |value: f32| {
                columns[at].push(value);
                at = if at + 1 == count { 0 } else { at + 1 };
            };
            let full = (1u64 << (spec.bits_per_sample - 1)) as f32;
            match format {
                hound::SampleFormat::Float => reader.samples::<f32>().try_for_each(|s| s.map(&mut take)),
                hound::SampleFormat::Int => reader.samples::<i32>().try_for_each(|s| s.map(|v| take(v as f32 / full))),
            }
            .is_err()
        }
    };
    if cut_short {
        notes.push("The file ends before its samples do: what there is was read".to_owned());
    }
    let whole = columns.iter().map(Vec::len).min().unwrap_or(0);
    if whole == 0 {
        return Err(Refusal::new("file", "holds no samples"));
    }
    let channels = columns
        .into_iter()
        .enumerate()
        .map(|(index, mut samples)| {
            samples.truncate(whole);
            let odd = samples.iter().filter(|s| !s.is_finite()).count();
            if odd > 0 {
                samples.iter_mut().filter(|s| !s.is_finite()).for_each(|s| *s = 0.0);
                notes.push(format!("channel {}: {odd} samples are no numbers and count as nought", index + 1));
            }
            CaptureChannel { name: format!("channel {}", index + 1), unit: String::new(), samples }
        })
        .collect();
    let capture = Capture { step_s: 1.0 / f64::from(spec.sample_rate), channels: scaled(channels, options)? };
    Ok(WaveRead { capture, notes })
}
