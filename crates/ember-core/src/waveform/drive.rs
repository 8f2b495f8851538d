//! A motor's drive: how long it is on, how often a second, which way round, and whether the mechanism goes with it.

use super::Figures;
use super::trace::Trace;
use crate::bench::sisters::median;

/// Duty, frequency and direction of a drive, and whether a position follows it or runs against it.
///
/// The drive is the voltage between the motor's two pins. Its direction is the sign of its mean. Where a position was
/// recorded too, the sign is that of the correlation between the drive's mean over a short time and the position's
/// change in it: below nought, the wires are exchanged or the sensor counts the other way.
pub fn motor_drive(trace: Trace<'_>, position: Option<Trace<'_>>) -> Figures {
    let mut figures = Figures::new();
    let low = trace.quantile(0.01);
    let high = trace.quantile(0.99);
    let size = high.abs().max(low.abs());
    if size <= 0.0 {
        return figures;
    }
    let level = 0.5 * size;
    let total = trace.samples.len() as f64;
    let forward = trace.samples.iter().filter(|&&s| s > level).count() as f64 / total;
    let backward = trace.samples.iter().filter(|&&s| s < -level).count() as f64 / total;
    figures.insert("duty_pct", 100.0 * (forward + backward));
    figures.insert("forward_pct", 100.0 * forward);
    figures.insert("backward_pct", 100.0 * backward);
    let main = if forward >= backward { 1.0f32 } else { -1.0 };
    let turned: Vec<f32> = trace.samples.iter().map(|s| s * main).collect();
    let rises = Trace { samples: &turned, ..trace }.rises(level, 0.6 * level);
    let periods: Vec<f64> = rises.windows(2).map(|pair| pair[1] - pair[0]).collect();
    // The median: while it is driven the other way, or not at all, a period is as long as the pause.
    if !periods.is_empty() {
        figures.insert("frequency_hz", 1.0 / median(&periods));
    }
    figures.insert("mean_v", trace.mean(0, trace.samples.len()));
    if let Some(position) = position
        && let Some(follows) = correlation(trace, position)
    {
        figures.insert("follows", follows);
    }
    figures
}

/// Correlation between the drive's mean and the change of position, over fortieths of the capture.
fn correlation(drive: Trace<'_>, position: Trace<'_>) -> Option<f64> {
    let parts = 40;
    let width = drive.samples.len() / parts;
    if width < 4 || position.samples.len() != drive.samples.len() {
        return None;
    }
    let edge = (width / 4).max(1);
    let pairs: Vec<(f64, f64)> = (0..parts)
        .map(|part| {
            let (from, to) = (part * width, (part + 1) * width);
            let change = position.mean(to - edge, to) - position.mean(from, from + edge);
            (drive.mean(from, to), change)
        })
        .collect();
    let n = pairs.len() as f64;
    let (mx, my) = (pairs.iter().map(|p| p.0).sum::<f64>() / n, pairs.iter().map(|p| p.1).sum::<f64>() / n);
    let sum = |f: &dyn Fn(&(f64, f64)) -> f64| pairs.iter().map(f).sum::<f64>();
    let (sxx, syy) = (sum(&|p| (p.0 - mx).powi(2)), sum(&|p| (p.1 - my).powi(2)));
    let sxy = sum(&|p| (p.0 - mx) * (p.1 - my));
    (sxx > 0.0 && syy > 0.0).then(|| sxy / (sxx * syy).sqrt())
}
