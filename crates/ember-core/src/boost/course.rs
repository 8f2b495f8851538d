//! The course of a request: stretches where it is steady, and rises.

use serde::Serialize;
use utoipa::ToSchema;

use super::{BoostSample, Estimate, SteadyRequest, StepRules, slope};

/// A stretch in which the request stood still and the pressure had settled.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Stretch {
    pub from_s: f64,
    pub to_s: f64,
    pub requested_kpa: f64,
    pub actual_kpa: f64,
}

/// A rise of the request, and what the pressure made of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Step {
    pub at_s: f64,
    pub from_kpa: f64,
    pub to_kpa: f64,
    /// Seconds until nine tenths of the rise were there; null when they never came while it was watched.
    pub reached_s: Option<f64>,
    pub overshoot_kpa: f64,
}

pub(super) fn stretches(series: &[BoostSample], rules: &SteadyRequest) -> Vec<Stretch> {
    let mut list = Vec::new();
    let mut start = 0;
    while start < series.len() {
        let (mut low, mut high) = (f64::INFINITY, f64::NEG_INFINITY);
        let mut end = start;
        // The longest run from here that stays within the spread, cut so that one long hold gives several points.
        while end < series.len() {
            let want = series[end].requested_kpa;
            let long = series[end].time_s - series[start].time_s > 2.0 * (rules.settle_s + rules.seconds);
            if high.max(want) - low.min(want) > rules.request_spread_kpa || long {
                break;
            }
            (low, high) = (low.min(want), high.max(want));
            end += 1;
        }
        let run = &series[start..end];
        let began = run.first().map_or(0.0, |s| s.time_s);
        let settled: Vec<&BoostSample> = run.iter().filter(|s| s.time_s >= began + rules.settle_s).collect();
        if let (Some(first), Some(last)) = (settled.first(), settled.last())
            && last.time_s - first.time_s >= rules.seconds * 0.75
        {
            let n = settled.len() as f64;
            list.push(Stretch {
                from_s: first.time_s,
                to_s: last.time_s,
                requested_kpa: settled.iter().map(|s| s.requested_kpa).sum::<f64>() / n,
                actual_kpa: settled.iter().map(|s| s.actual_kpa).sum::<f64>() / n,
            });
            start = end;
        } else {
            start += 1;
        }
    }
    list
}

pub(super) fn steps(series: &[BoostSample], rules: &StepRules) -> Vec<Step> {
    let mut list = Vec::new();
    let mut index = 0;
    let mut first = 0;
    while index < series.len() {
        let now = &series[index];
        while series[first].time_s < now.time_s - rules.within_s {
            first += 1;
        }
        let lowest = series[first..=index].iter().map(|s| s.requested_kpa).fold(f64::INFINITY, f64::min);
        if now.requested_kpa - lowest < rules.rise_kpa {
            index += 1;
            continue;
        }
        // The top of the rise: as far as the request still climbs within the watch.
        let begin = series[first..=index].iter().rposition(|s| s.requested_kpa <= lowest).unwrap_or(0) + first;
        let watch: &[BoostSample] = {
            let end = series.partition_point(|s| s.time_s <= series[begin].time_s + rules.watch_s);
            &series[begin..end]
        };
        let top = watch.iter().map(|s| s.requested_kpa).fold(lowest, f64::max);
        // Only as long as the request stays up: a lifted foot is no fault of the charger.
        let up: Vec<&BoostSample> = {
            let reached = watch.iter().position(|s| s.requested_kpa > top - 0.2 * (top - lowest)).unwrap_or(0);
            let held = watch[reached..].iter().take_while(|s| s.requested_kpa > top - 0.3 * (top - lowest)).count();
            watch[..reached + held].iter().collect()
        };
        let start_kpa = series[begin].actual_kpa.min(lowest);
        let wanted = start_kpa + 0.9 * (top - start_kpa);
        let reached = up.iter().find(|s| s.actual_kpa >= wanted).map(|s| s.time_s - series[begin].time_s);
        let long_enough = up.last().is_some_and(|s| s.time_s - series[begin].time_s >= rules.watch_s * 0.4);
        if reached.is_some() || long_enough {
            let overshoot = up.iter().map(|s| s.actual_kpa - s.requested_kpa).fold(0.0, f64::max);
            list.push(Step {
                at_s: series[begin].time_s,
                from_kpa: lowest,
                to_kpa: top,
                reached_s: reached,
                overshoot_kpa: overshoot,
            });
        }
        index = begin + watch.len().max(1);
        first = index.min(series.len() - 1);
    }
    list
}

/// How much of an asked vane travel was made, over all samples that hold both.
pub(super) fn vane_gain(series: &[BoostSample]) -> Option<Estimate> {
    let pairs: Vec<(f64, f64)> =
        series.iter().filter_map(|s| Some((s.vane_request_pct?, s.vane_position_pct?))).collect();
    let (low, high) = pairs.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), p| (l.min(p.0), h.max(p.0)));
    // Vanes that are hardly asked to move tell nothing.
    if pairs.len() < 10 || high - low < 20.0 {
        return None;
    }
    // Neighbouring samples are not independent: one in twenty is taken.
    let thinned: Vec<&(f64, f64)> = pairs.iter().step_by((pairs.len() / 200).max(1)).collect();
    let x: Vec<f64> = thinned.iter().map(|p| p.0).collect();
    let y: Vec<f64> = thinned.iter().map(|p| p.1).collect();
    slope(&x, &y)
}
