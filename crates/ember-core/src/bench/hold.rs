//! Does it hold? The rate at which a vacuum or a pressure leaks away.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::knowledge::BenchKnowledge;
use crate::circuit::Judged;
use crate::refusal::Refusal;

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoldReading {
    pub time_s: f64,
    /// Vacuum below, or pressure above, ambient.
    pub kpa: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoldInput {
    /// What was tested: `actuator`, `fuel rail`.
    pub what: String,
    pub readings: Vec<HoldReading>,
    /// The maker's limit; left out: the book's.
    #[serde(default)]
    pub limit_pct_per_min: Option<f64>,
    /// How far the gauge can be misread.
    #[serde(default)]
    pub gauge_kpa: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct HoldResult {
    /// Of what was there at the start.
    pub fall_pct_per_min: f64,
    pub low_pct_per_min: f64,
    pub high_pct_per_min: f64,
    pub fall_kpa_per_min: f64,
    pub limit_pct_per_min: f64,
    /// Until half is left, at this rate; null when it does not fall.
    pub half_in_s: Option<f64>,
    pub verdict: Judged,
    /// How likely it holds, 0 to 1.
    pub right: f64,
    pub says: String,
}

/// Judges a leak-down: a leak into or out of a fixed volume falls as exp(−t/τ), so the rate is the slope of the
/// logarithm over time, by least squares, with the gauge's doubt carried through.
///
/// # Errors
/// Fewer than two readings, two at one time, no pressure at the start, readings that are no numbers or below nought.
pub fn hold(input: &HoldInput, knowledge: &BenchKnowledge) -> Result<HoldResult, Refusal> {
    let figures = &knowledge.hold;
    crate::vehicle::line("what", &input.what)?;
    let mut readings = input.readings.clone();
    if readings.len() < 2 {
        return Err(Refusal::new("readings", "two at least, with the seconds between them"));
    }
    for (index, reading) in readings.iter().enumerate() {
        if !reading.time_s.is_finite() || !reading.kpa.is_finite() || reading.kpa < 0.0 {
            return Err(Refusal::new(format!("readings[{index}]"), "must be numbers, and a pressure nought or more"));
        }
    }
    readings.sort_by(|a, b| a.time_s.total_cmp(&b.time_s));
    if readings.windows(2).any(|pair| pair[0].time_s == pair[1].time_s) {
        return Err(Refusal::new("readings", "two readings stand at the same second"));
    }
    let start = readings[0].kpa;
    let gauge = input.gauge_kpa.unwrap_or(figures.gauge_kpa);
    if !gauge.is_finite() || gauge < 0.0 {
        return Err(Refusal::new("gauge_kpa", "must be nought or more"));
    }
    if start <= gauge {
        return Err(Refusal::new("readings[0].kpa", "there is nothing to hold at the start"));
    }
    let limit = input.limit_pct_per_min.unwrap_or(figures.fall_pct_per_min);
    crate::refusal::above_zero("limit_pct_per_min", limit)?;
    let floor = gauge.max(1e-3);
    // The reading's share of the doubt grows as it falls: weighted by the size of the reading.
    let (mut sw, mut sx, mut sy, mut sxx, mut sxy) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for reading in &readings {
        let kpa = reading.kpa.max(floor);
        let sigma = gauge.max(1e-6) / knowledge.weight.band_sigmas / kpa;
        let w = 1.0 / (sigma * sigma);
        let (x, y) = ((reading.time_s - readings[0].time_s) / 60.0, (kpa / start).ln());
        (sw, sx, sy, sxx, sxy) = (sw + w, sx + w * x, sy + w * y, sxx + w * x * x, sxy + w * x * y);
    }
    let spread = sxx - sx * sx / sw;
    let slope = (sxy - sx * sy / sw) / spread;
    let error = 1.0 / spread.sqrt();
    let fall = -slope * 100.0;
    let (low, high) = (fall - 196.0 * error, fall + 196.0 * error);
    let seconds = readings[readings.len() - 1].time_s - readings[0].time_s;
    let right = super::resistance::within(fall, (100.0 * error).max(1e-9), f64::NEG_INFINITY, limit);
    let (verdict, says) = if low > limit {
        (Judged::Bad, format!("It loses {fall:.1} % a minute ({low:.1} to {high:.1}), more than {limit:.0}."))
    } else if high <= limit && seconds >= figures.least_seconds {
        (
            Judged::Good,
            format!("It loses {:.1} % a minute ({:.1} to {high:.1}), within {limit:.0}.", fall.max(0.0), low.max(0.0)),
        )
    } else {
        (
            Judged::CannotTell,
            format!(
                "{seconds:.0} s are too short for this gauge: between {:.1} and {high:.1} % a minute. Watch it longer.",
                low.max(0.0)
            ),
        )
    };
    Ok(HoldResult {
        fall_pct_per_min: fall,
        low_pct_per_min: low,
        high_pct_per_min: high,
        fall_kpa_per_min: start * fall / 100.0,
        limit_pct_per_min: limit,
        half_in_s: (slope < 0.0).then(|| 60.0 * 2.0_f64.ln() / -slope),
        verdict,
        right,
        says,
    })
}
