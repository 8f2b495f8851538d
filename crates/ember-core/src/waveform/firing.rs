//! The voltage of an ignition coil, primary or secondary: firing voltage, spark line, burn time.

use super::trace::Trace;
use super::{Figures, WaveEvent};
use crate::bench::sisters::median;

/// Finds the firings of an ignition voltage.
///
/// The firing line is the needle at which the spark jumps; the spark line is the level while it burns; the burn time ends
/// where a short mean falls below half of the spark line. A needle with no spark line behind it has not fired.
pub fn ignition_voltage(trace: Trace<'_>) -> Vec<WaveEvent> {
    let levels = trace.levels();
    // Secondary voltages are often shown downward.
    let downward = levels.rest - levels.least > levels.most - levels.rest;
    let sign = if downward { -1.0f64 } else { 1.0 };
    let height = f64::from(if downward { levels.rest - levels.least } else { levels.most - levels.rest });
    if height <= 0.0 {
        return Vec::new();
    }
    let value = |index: usize| sign * (f64::from(trace.samples[index]) - f64::from(levels.rest));
    let samples_in = |ms: f64| ((ms * 1e-3 / trace.step_s).round() as usize).max(1);
    let total = trace.samples.len();
    let mut list = Vec::new();
    let mut index = 0;
    while index < total {
        if value(index) < 0.4 * height {
            index += 1;
            continue;
        }
        // The needle's tip within the next tenth of a millisecond.
        let reach = (index + samples_in(0.1)).min(total);
        let tip = (index..reach).max_by(|&a, &b| value(a).total_cmp(&value(b))).unwrap_or(index);
        let firing = value(tip);
        let mut after = tip;
        while after < total && value(after) > 0.5 * firing {
            after += 1;
        }
        let settled = tip + samples_in(0.12).max(after - tip + 1);
        let window = (settled + samples_in(0.3)).min(total);
        if window <= settled + 2 || window + samples_in(0.2) >= total {
            break;
        }
        let line = median(&(settled..window).map(value).collect::<Vec<_>>());
        let mut figures = Figures::new();
        figures.insert("firing", firing);
        let noise = f64::from(levels.noise);
        let end = if line > 4.0 * noise / (window - settled) as f64 + 0.02 * firing {
            let width = samples_in(0.04);
            let mut sum: f64 = (settled..(settled + width).min(total)).map(value).sum();
            let mut end = settled;
            while end + width < total && sum / width as f64 > 0.5 * line {
                sum += value(end + width) - value(end);
                end += 1;
            }
            let end = (end + width / 2).min(total - 1);
            figures.insert("spark_line", median(&(settled..end.max(settled + 1)).map(value).collect::<Vec<_>>()));
            figures.insert("burn_ms", trace.time((end - tip) as f64) * 1e3);
            end
        } else {
            figures.insert("spark_line", 0.0);
            figures.insert("burn_ms", 0.0);
            settled
        };
        let (at_s, end_s) = (trace.time(tip as f64), trace.time(end as f64));
        list.push(WaveEvent { at_s, end_s, cylinder: None, figures });
        // The coil rings after the spark: nothing fires again within two milliseconds of its end.
        index = end + samples_in(1.5);
    }
    list
}
