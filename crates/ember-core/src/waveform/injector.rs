//! An injector under the scope: how long it is driven, and when its needle reaches its stop.

use super::trace::Trace;
use super::{Figures, WaveEvent};

/// Finds the pulses of an injector's current, and in each the notch that the moving needle leaves.
///
/// While the needle moves it works against the current, which sags and then rises again when the needle is at its stop:
/// the sharpest turn from falling or flat to rising. Slopes are taken by least squares over stretches on both sides, so
/// that noise averages out.
pub fn injector_current(trace: Trace<'_>, edge_share: f64) -> Vec<WaveEvent> {
    let levels = trace.levels();
    let height = trace.high() - levels.rest;
    if height <= 0.0 {
        return Vec::new();
    }
    let up = levels.rest + edge_share as f32 * height;
    let down = levels.rest + 0.6 * edge_share as f32 * height;
    let low = f64::from(levels.rest + 0.05 * height).max(f64::from(levels.rest + 3.0 * levels.noise));
    trace
        .stretches(up, down)
        .into_iter()
        .filter(|(begin, end)| end - begin >= 12)
        .map(|(begin, end)| {
            let width = ((end - begin) / 60).max(1);
            let mut start = begin;
            while start > width && trace.mean(start - width, start) > low {
                start -= 1;
            }
            let peak = trace.samples[begin..end].iter().copied().fold(f32::MIN, f32::max);
            let mut figures = Figures::new();
            let (at_s, end_s) = (trace.time(start as f64), trace.time(end as f64 - 0.5));
            figures.insert("pulse_ms", (end_s - at_s) * 1e3);
            figures.insert("peak_a", f64::from(peak - levels.rest));
            if let Some(notch) = notch(trace, start, end) {
                figures.insert("opens_ms", (trace.time(notch) - at_s) * 1e3);
            }
            WaveEvent { at_s, end_s, cylinder: None, figures }
        })
        .collect()
}

/// Where the slope turns up most sharply within the pulse.
fn notch(trace: Trace<'_>, start: usize, end: usize) -> Option<f64> {
    let length = end - start;
    let reach = (length / 14).max(4);
    if length < 6 * reach {
        return None;
    }
    let smooth = Trace { samples: &trace.samples[start..end], ..trace }.smoothed((reach / 5).max(1));
    let slope = |from: usize, to: usize| {
        let n = (to - from) as f64;
        let mean_x = (n - 1.0) / 2.0;
        let mean_y = smooth[from..to].iter().map(|&y| f64::from(y)).sum::<f64>() / n;
        let sxy: f64 =
            smooth[from..to].iter().enumerate().map(|(x, &y)| (x as f64 - mean_x) * (f64::from(y) - mean_y)).sum();
        sxy / (n * (n * n - 1.0) / 12.0)
    };
    let first = slope(0, reach).max(1e-12);
    // The turn at the very foot is the switch closing, the one at the end the switch opening.
    let (at, turn) = (2 * reach..length.saturating_sub(2 * reach))
        .map(|at| (at, slope(at, at + reach) - slope(at - reach, at)))
        .fold((0, f64::MIN), |best, one| if one.1 > best.1 { one } else { best });
    (turn > 0.15 * first).then_some((start + at) as f64)
}

/// Pulses of an injector's voltage where the control unit switches its ground side: low while it is driven.
pub fn injector_voltage(trace: Trace<'_>) -> Vec<WaveEvent> {
    let levels = trace.levels();
    let supply = levels.rest;
    let low = trace.quantile(0.002);
    if supply - low <= 0.0 {
        return Vec::new();
    }
    let middle = (supply + low) / 2.0;
    let band = 0.15 * (supply - low);
    let falls = trace.falls(middle - band, middle + band);
    let rises = trace.rises(middle + band, middle - band);
    falls
        .iter()
        .filter_map(|&at_s| {
            let end_s = rises.iter().copied().find(|&rise| rise > at_s)?;
            let mut figures = Figures::new();
            figures.insert("pulse_ms", (end_s - at_s) * 1e3);
            // The coil's kick when it is switched off; a suppressed one is cut.
            let (from, to) = (trace.index(end_s), trace.index(end_s + 0.5e-3));
            let kick = trace.samples[from..=to].iter().copied().fold(f32::MIN, f32::max);
            figures.insert("kick_v", f64::from(kick));
            Some(WaveEvent { at_s, end_s, cylinder: None, figures })
        })
        .collect()
}
