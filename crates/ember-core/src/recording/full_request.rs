//! What a regulated value reached when most was asked of it: the same reading, before a repair and after it.

use serde::Serialize;
use utoipa::ToSchema;

use super::Recording;

/// The stretches in which most was asked for.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct FullRequest {
    /// Means over the stretches, in the channels' own unit.
    pub wanted: f64,
    pub got: f64,
    pub seconds: f64,
}

/// Requests within this share of the highest count as the highest: a driver's foot is not steadier.
const NEAR_THE_TOP: f64 = 0.9;

/// Means of what was asked for and what came, over the time in which the request lay within a tenth of its highest.
///
/// `None` where a channel is missing, nothing was asked for, or both were never read within `hold_s` of each other.
pub fn full_request(recording: &Recording, wanted: &str, got: &str, hold_s: f64) -> Option<FullRequest> {
    let asked = recording.channel(wanted)?;
    let came = recording.channel(got)?;
    let top = asked.iter().filter(|v| !v.is_nan()).fold(0.0_f32, |a, &b| a.max(b));
    if top <= 0.0 {
        return None;
    }
    let (mut request, mut read_at) = (f32::NAN, f64::NEG_INFINITY);
    let (mut sums, mut weight, mut last) = ((0.0, 0.0), 0.0, None::<f64>);
    for (row, &now) in recording.time_s.iter().enumerate() {
        if !asked[row].is_nan() {
            (request, read_at) = (asked[row], now);
        }
        let value = came[row];
        if value.is_nan() {
            continue;
        }
        let step = last.map_or(0.0, |before| (now - before).min(hold_s));
        last = Some(now);
        if now - read_at <= hold_s && f64::from(request) >= NEAR_THE_TOP * f64::from(top) {
            sums = (sums.0 + f64::from(request) * step, sums.1 + f64::from(value) * step);
            weight += step;
        }
    }
    (weight > 0.0).then(|| FullRequest { wanted: sums.0 / weight, got: sums.1 / weight, seconds: weight })
}
