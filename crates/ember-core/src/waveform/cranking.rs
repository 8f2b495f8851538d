//! The starter's current while the engine is cranked without firing: each compression asks for a hump of it.

use super::trace::Trace;
use super::{Figures, WaveEvent};
use crate::engine::Engine;

/// Humps of the cranking current, each given to its cylinder by the sync pulse and the firing order.
///
/// The sync channel pulses once in two turns, at the firing point of `sync_cylinder`. The first two turns are left out:
/// the starter gathers speed in them. A hump's height is its peak less the mean of the hollows before and behind it, on
/// the current smoothed over a twelfth of the way between firings. Without a sync pulse the humps have heights and no
/// names.
pub fn cranking_current(
    current: Trace<'_>,
    sync: Option<Trace<'_>>,
    sync_cylinder: u8,
    engine: &Engine,
) -> Vec<WaveEvent> {
    let cycles = match sync {
        Some(sync) => {
            let levels = sync.levels();
            let (low, high) = (f64::from(levels.least), f64::from(levels.most));
            let (up, again) = (low + 0.6 * (high - low), low + 0.4 * (high - low));
            let pulses = sync.rises(up as f32, again as f32);
            pulses.windows(2).skip(1).map(|w| (w[0], w[1])).collect::<Vec<_>>()
        }
        None => Vec::new(),
    };
    let count = engine.firing_order.len();
    let offset = engine.firing_order.iter().position(|c| *c == sync_cylinder).unwrap_or(0);
    let mut list = Vec::new();
    for (from, to) in cycles {
        let period = (to - from) / count as f64;
        // Only the cycle itself is smoothed: a long capture is not copied.
        let begin = current.index((from - period).max(0.0));
        let end = current.index(to + period);
        if end <= begin + 8 * count {
            continue;
        }
        let part = Trace { samples: &current.samples[begin..end], ..current };
        let smooth = part.smoothed(((period / 12.0) / current.step_s).round().max(1.0) as usize);
        let at = |time_s: f64| ((time_s / current.step_s) as usize).saturating_sub(begin).min(smooth.len() - 1);
        let least = |a: f64, b: f64| smooth[at(a)..=at(b)].iter().copied().fold(f32::MAX, f32::min);
        for place in 0..count {
            let middle = from + place as f64 * period;
            let range = at(middle - 0.4 * period)..=at(middle + 0.4 * period);
            let (peak_at, peak) = range
                .map(|index| (index, smooth[index]))
                .fold((0, f32::MIN), |best, one| if one.1 > best.1 { one } else { best });
            let before = least(middle - 0.75 * period, middle - 0.25 * period);
            let behind = least(middle + 0.25 * period, middle + 0.75 * period);
            let mut figures = Figures::new();
            figures.insert("hump_a", f64::from(peak) - f64::from(before + behind) / 2.0);
            figures.insert("peak_a", f64::from(peak));
            list.push(WaveEvent {
                at_s: current.time((begin + peak_at) as f64),
                end_s: middle + 0.5 * period,
                cylinder: Some(engine.firing_order[(offset + place) % count]),
                figures,
            });
        }
    }
    list
}

/// Revolutions a minute, from the sync pulses.
pub fn cranking_rpm(sync: Trace<'_>) -> Option<f64> {
    let levels = sync.levels();
    let middle = (levels.least + levels.most) / 2.0;
    let band = 0.1 * (levels.most - levels.least);
    let pulses = sync.rises(middle + band, middle - band);
    let (first, last) = (pulses.first()?, pulses.last()?);
    (pulses.len() > 1).then(|| 120.0 * (pulses.len() - 1) as f64 / (last - first))
}
