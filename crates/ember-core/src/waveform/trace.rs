//! One channel of a capture: evenly spaced samples, their ends, and the edges at which something begins and ends.

/// Samples at even distances.
#[derive(Debug, Clone, Copy)]
pub struct Trace<'a> {
    pub step_s: f64,
    pub samples: &'a [f32],
}

/// The levels between which a signal moves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Levels {
    pub least: f32,
    pub most: f32,
    /// Where the signal rests most of the time.
    pub rest: f32,
    /// Standard deviation of the noise, from neighbouring samples.
    pub noise: f32,
}

/// A share of all samples on one extreme value that is a resting level, and of both that makes a logic signal. A sine
/// that is cut at seven tenths of its height lies a quarter of the time on either end.
const RESTS: f64 = 0.3;
const LOGIC: f64 = 0.99;

/// How many samples are looked at to learn where a signal rests.
const LOOKED_AT: usize = 20_000;

impl<'a> Trace<'a> {
    pub fn time(&self, index: f64) -> f64 {
        index * self.step_s
    }

    /// The index at a time, within the capture.
    pub fn index(&self, time_s: f64) -> usize {
        ((time_s / self.step_s).round().max(0.0) as usize).min(self.samples.len().saturating_sub(1))
    }

    /// Least, most, resting level and noise.
    pub fn levels(&self) -> Levels {
        let (least, most) = ends(self.samples);
        let every = (self.samples.len() / LOOKED_AT).max(1);
        let mut looked: Vec<f32> = self.samples.iter().copied().step_by(every).collect();
        looked.sort_by(f32::total_cmp);
        let rest = looked.get(looked.len() / 2).copied().unwrap_or(0.0);
        let mut steps: Vec<f32> =
            self.samples.windows(2).step_by(every).map(|pair| (pair[1] - pair[0]).abs()).collect();
        steps.sort_by(f32::total_cmp);
        // The median of |difference| of two normal values is 0.954 of their standard deviation.
        let noise = steps.get(steps.len() / 2).copied().unwrap_or(0.0) / 0.954;
        Levels { least, most, rest, noise }
    }

    /// A high level of the signal that single spikes do not reach: the level that a thousandth of the samples exceed.
    pub fn high(&self) -> f32 {
        self.quantile(0.999)
    }

    pub fn quantile(&self, q: f64) -> f32 {
        let every = (self.samples.len() / LOOKED_AT).max(1);
        let mut looked: Vec<f32> = self.samples.iter().copied().step_by(every).collect();
        looked.sort_by(f32::total_cmp);
        let at = (q * (looked.len().saturating_sub(1)) as f64).round() as usize;
        looked.get(at).copied().unwrap_or(0.0)
    }

    /// Whether the signal ran into the end of the instrument's range: several samples in a row at one extreme, and more
    /// of them than chance explains.
    pub fn clipped(&self, run: usize, share: f64) -> bool {
        let (least, most) = ends(self.samples);
        if most <= least {
            return false;
        }
        let of = |extreme: f32| {
            let count = self.samples.iter().filter(|&&sample| sample == extreme).count();
            if count < run {
                return (count, count);
            }
            let (mut longest, mut now) = (0usize, 0usize);
            for &sample in self.samples {
                now = if sample == extreme { now + 1 } else { 0 };
                longest = longest.max(now);
            }
            (count, longest)
        };
        let (low, high) = (of(least), of(most));
        // A level on which a signal rests is no end of a range, nor are the two between which a logic signal jumps.
        let all = self.samples.len() as f64;
        let rests = |count: usize| count as f64 > RESTS * all || (low.0 + high.0) as f64 > LOGIC * all;
        let at_end = |(count, longest): (usize, usize)| {
            longest >= run && count as f64 > share * self.samples.len() as f64 && !rests(count)
        };
        at_end(low) || at_end(high)
    }

    /// Stretches during which the signal lies above a level, with hysteresis: it begins above `up` and ends below `down`.
    /// Stretches that are cut off by the capture's ends are left out. Indexes of the first sample above, and of the first
    /// one below again.
    pub fn stretches(&self, up: f32, down: f32) -> Vec<(usize, usize)> {
        let mut list = Vec::new();
        let mut begun: Option<usize> = None;
        let mut low_seen = false;
        for (index, &sample) in self.samples.iter().enumerate() {
            match begun {
                None if sample > up && low_seen => begun = Some(index),
                None if sample < down => low_seen = true,
                Some(begin) if sample < down => {
                    list.push((begin, index));
                    begun = None;
                }
                _ => {}
            }
        }
        list
    }

    /// Moments at which the signal rises through a level, between samples, with hysteresis down to `again`.
    pub fn rises(&self, level: f32, again: f32) -> Vec<f64> {
        let mut list = Vec::new();
        let mut armed = false;
        let mut before = f32::NAN;
        for (index, &sample) in self.samples.iter().enumerate() {
            if sample < again {
                armed = true;
            } else if armed && sample >= level {
                armed = false;
                list.push(self.time(crossing(index, before, sample, level)));
            }
            before = sample;
        }
        list
    }

    /// Moments at which the signal falls through a level.
    pub fn falls(&self, level: f32, again: f32) -> Vec<f64> {
        let mut list = Vec::new();
        let mut armed = false;
        let mut before = f32::NAN;
        for (index, &sample) in self.samples.iter().enumerate() {
            if sample > again {
                armed = true;
            } else if armed && sample <= level {
                armed = false;
                list.push(self.time(crossing(index, before, sample, level)));
            }
            before = sample;
        }
        list
    }

    /// The mean of a stretch.
    pub fn mean(&self, from: usize, to: usize) -> f64 {
        let part = &self.samples[from.min(self.samples.len())..to.min(self.samples.len())];
        if part.is_empty() { f64::NAN } else { part.iter().map(|&s| f64::from(s)).sum::<f64>() / part.len() as f64 }
    }

    /// The moving mean over `width` samples, each at the middle of its stretch.
    pub fn smoothed(&self, width: usize) -> Vec<f32> {
        let width = width.clamp(1, self.samples.len().max(1));
        let half = width / 2;
        let mut sums = Vec::with_capacity(self.samples.len() + 1);
        let mut sum = 0.0f64;
        sums.push(0.0);
        for &sample in self.samples {
            sum += f64::from(sample);
            sums.push(sum);
        }
        (0..self.samples.len())
            .map(|index| {
                let from = index.saturating_sub(half);
                let to = (index + half + 1).min(self.samples.len());
                ((sums[to] - sums[from]) / (to - from) as f64) as f32
            })
            .collect()
    }
}

/// Least and most, in strides so that several samples are compared at once.
fn ends(samples: &[f32]) -> (f32, f32) {
    const WIDE: usize = 16;
    let (mut least, mut most) = ([f32::INFINITY; WIDE], [f32::NEG_INFINITY; WIDE]);
    let (strides, rest) = samples.as_chunks::<WIDE>();
    for stride in strides {
        for lane in 0..WIDE {
            least[lane] = if stride[lane] < least[lane] { stride[lane] } else { least[lane] };
            most[lane] = if stride[lane] > most[lane] { stride[lane] } else { most[lane] };
        }
    }
    let all =
        |lanes: &[f32], pick: fn(f32, f32) -> f32, first: f32| lanes.iter().chain(rest).copied().fold(first, pick);
    (all(&least, f32::min, f32::INFINITY), all(&most, f32::max, f32::NEG_INFINITY))
}

/// Where between two samples a level was crossed.
fn crossing(index: usize, before: f32, now: f32, level: f32) -> f64 {
    let width = now - before;
    let share = if width.abs() > 0.0 && width.is_finite() { (level - before) / width } else { 1.0 };
    index as f64 - 1.0 + f64::from(share.clamp(0.0, 1.0))
}
