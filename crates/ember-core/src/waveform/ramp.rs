//! The current of a coil while it is charged: dwell, peak, and the inductance and resistance that its ramp shows.

use super::trace::Trace;
use super::{Figures, WaveEvent};

/// Finds the charging stretches of a primary current.
///
/// While the switch is closed L di/dt = V − R i, so i(t) = i(tₐ) + (V/L)(t − tₐ) − (R/L)∫i dt. That is linear in V/L and
/// R/L: least squares over the ramp, in which the integral averages the noise that a derivative would raise. The moment
/// at which the switch closed follows from the fitted curve, so it does not hang on the noisy foot of the ramp. A driver
/// that limits the current is seen by its flat top, which is left out of the fit. Energy is ½ L I².
pub fn coil_current(trace: Trace<'_>, supply_v: Option<f64>, edge_share: f64, flat_share: f64) -> Vec<WaveEvent> {
    let levels = trace.levels();
    let height = trace.high().max(levels.rest) - levels.rest;
    if height <= 0.0 {
        return Vec::new();
    }
    let up = levels.rest + edge_share as f32 * height;
    let down = levels.rest + 0.7 * edge_share as f32 * height;
    trace
        .stretches(up, down)
        .into_iter()
        .filter_map(|(begin, end)| ramp(trace, begin, end, f64::from(levels.rest), supply_v, flat_share))
        .collect()
}

fn ramp(
    trace: Trace<'_>,
    above: usize,
    end: usize,
    rest: f64,
    supply_v: Option<f64>,
    flat_share: f64,
) -> Option<WaveEvent> {
    let at = |index: usize| f64::from(trace.samples[index]) - rest;
    let length = end - above;
    if length < 12 {
        return None;
    }
    // The top is what it has before the switch opens; the last sample may already be on the falling edge.
    let tail = (length / 20).clamp(2, 400);
    let peak = trace.mean(end - 1 - tail, end - 1) - rest;
    let mut foot = above;
    while foot > 0 && at(foot - 1) > 0.15 * peak {
        foot -= 1;
    }
    // A flat top: from where the current first reaches nearly its peak to where the switch opens.
    let near = smoothed_first(trace, foot, end, rest + 0.97 * peak).unwrap_or(end);
    let flat = (end - near) as f64 / length as f64;
    let limited = flat > flat_share.max(0.12);
    let to = if limited { smoothed_first(trace, foot, end, rest + 0.9 * peak).unwrap_or(end) } else { end - 1 };
    if to < foot + 10 {
        return None;
    }
    let (offset, a, b) = fit(trace, foot, to, rest)?;
    let foot_s = trace.time(foot as f64);
    let start_s = if b.abs() > 1e-6 * a.abs() {
        let whole = a / b;
        let share = 1.0 - offset / whole;
        if share > 0.0 { foot_s + share.ln() / b } else { foot_s - offset / a }
    } else {
        foot_s - offset / a
    };
    let end_s = trace.time(end as f64 - 0.5);
    let mut figures = Figures::new();
    figures.insert("dwell_ms", (end_s - start_s) * 1e3);
    figures.insert("peak_a", peak);
    if limited {
        figures.insert("held_ms", trace.time((end - near) as f64) * 1e3);
    }
    if let Some(supply) = supply_v.filter(|v| *v > 0.0 && a > 0.0) {
        let henry = supply / a;
        figures.insert("inductance_mh", henry * 1e3);
        figures.insert("resistance_ohm", (b * henry).max(0.0));
        figures.insert("energy_mj", 0.5 * henry * peak * peak * 1e3);
    }
    Some(WaveEvent { at_s: start_s, end_s, cylinder: None, figures })
}

/// The first sample from which a short mean lies above a level.
fn smoothed_first(trace: Trace<'_>, from: usize, to: usize, level: f64) -> Option<usize> {
    let width = ((to - from) / 50).clamp(1, 200);
    (from..to.saturating_sub(width)).find(|&index| trace.mean(index, index + width) >= level)
}

/// Offset, V/L and R/L by least squares.
fn fit(trace: Trace<'_>, from: usize, to: usize, rest: f64) -> Option<(f64, f64, f64)> {
    let mut normal = nalgebra::Matrix3::<f64>::zeros();
    let mut right = nalgebra::Vector3::<f64>::zeros();
    let mut integral = 0.0;
    let mut before = f64::from(trace.samples[from]) - rest;
    // Times in milliseconds keep the three columns of one size.
    let step_ms = trace.step_s * 1e3;
    for index in from..to {
        let current = f64::from(trace.samples[index]) - rest;
        if index > from {
            integral += (current + before) / 2.0 * step_ms;
        }
        before = current;
        let row = nalgebra::Vector3::new(1.0, (index - from) as f64 * step_ms, -integral);
        normal += row * row.transpose();
        right += row * current;
    }
    let solved = normal.lu().solve(&right)?;
    let (offset, a, b) = (solved[0], solved[1] * 1e3, solved[2] * 1e3);
    (a.is_finite() && b.is_finite() && a > 0.0).then_some((offset, a, b))
}
