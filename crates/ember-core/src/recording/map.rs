//! The misfire map: in which cells of speed and load each cylinder misses, and how long each cell was driven.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::windows::{Added, Counter};
use super::{EvidenceKnowledge, Held, Recording};
use crate::engine::Engine;
use crate::proportion::jeffreys;

/// One cell that was driven. A cell that is not in the list was not driven: it is unknown and not clean.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MapCell {
    /// Index of the cell among the speed and the load intervals.
    pub speed: usize,
    pub load: usize,
    pub seconds: f64,
    /// Firings of each cylinder in this cell.
    pub firings: f64,
    /// By cylinder, cylinder 1 first.
    pub misfires: Vec<f64>,
    /// How often a run of misfires began here, by cylinder: a burst counts once.
    pub episodes: Vec<f64>,
    pub rate_pct: Vec<f64>,
    pub low_pct: Vec<f64>,
    pub high_pct: Vec<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MisfireMap {
    /// Interval i lies between edge i and edge i + 1.
    pub speed_edges_rpm: Vec<f64>,
    pub load_edges_pct: Vec<f64>,
    pub cells: Vec<MapCell>,
    /// Firings that fell into no cell because speed or load was not known.
    pub unplaced_misfires: f64,
    /// The cylinder with the highest rate, and the cells where its lower limit lies above its overall rate.
    pub worst_cylinder: Option<u8>,
    pub lit: Vec<usize>,
    pub says: String,
}

/// What a drive leaves on the trail of its map: enough to plan the drive that proves the repair.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DrivenCell {
    pub speed: usize,
    pub load: usize,
    pub seconds: f64,
    /// Firings of each cylinder here.
    pub firings: f64,
    /// Episodes of misfire by cylinder, cylinder 1 first.
    pub episodes: Vec<f64>,
}

impl MisfireMap {
    /// The map as it stands on the trail.
    pub fn driven(&self) -> Vec<DrivenCell> {
        self.cells
            .iter()
            .map(|cell| DrivenCell {
                speed: cell.speed,
                load: cell.load,
                seconds: cell.seconds,
                firings: cell.firings,
                episodes: cell.episodes.clone(),
            })
            .collect()
    }
}

/// Counts firings and misfires by cell. `None` unless engine speed, load and every cylinder's counter were recorded.
pub fn misfire_map(engine: &Engine, recording: &Recording, rules: &EvidenceKnowledge) -> Option<MisfireMap> {
    let n = usize::from(engine.cylinders);
    let counters: Vec<&[f32]> =
        engine.numbers().map(|c| recording.channel(&format!("misfires_{c}"))).collect::<Option<_>>()?;
    let mut speed = Held::of(recording, "engine_speed", rules.hold.seconds);
    let mut load = Held::of(recording, "load", rules.hold.seconds);
    if !speed.is_there() || !load.is_there() {
        return None;
    }
    let (speeds, loads) = (&rules.map.speed_edges_rpm, &rules.map.load_edges_pct);
    let (across, up) = (speeds.len() - 1, loads.len() - 1);
    let mut seconds = vec![0.0; across * up];
    let mut firings = vec![0.0; across * up];
    let mut misfires = vec![0.0; across * up * n];
    let mut following = vec![Counter::default(); n];
    let mut episodes = vec![0.0; across * up * n];
    let mut missed_at = vec![f64::NEG_INFINITY; n];
    let mut unplaced = 0.0;
    let mut last: Option<(f64, f64)> = None;
    for (row, &now) in recording.time_s.iter().enumerate() {
        let (rpm, pct) = (speed.at(row, now), load.at(row, now));
        // Load is a share; a charged engine's absolute load above the last edge belongs to the last cell.
        let cell = interval(speeds, rpm).zip(interval(loads, pct.min(loads[up] - 1e-6))).map(|(s, l)| l * across + s);
        let mut fired = 0.0;
        if let Some((before, then)) = last {
            let step = now - then;
            fired = if step > rules.map.longest_step_s { f64::INFINITY } else { rpm.max(before) * step / 120.0 };
            if step > 0.0
                && step <= rules.map.longest_step_s
                && let Some(cell) = cell
            {
                seconds[cell] += step;
                // A four-stroke cylinder fires every second revolution.
                firings[cell] += (before + rpm) / 2.0 * step / 120.0;
            }
        }
        last = (!rpm.is_nan()).then_some((rpm, now));
        for (index, column) in counters.iter().enumerate() {
            if let Some(Added::More(more) | Added::BeganAgain(more)) =
                following[index].read(f64::from(column[row]), if fired.is_nan() { 0.0 } else { fired })
                && more > 0.0
            {
                match cell {
                    Some(cell) => {
                        misfires[cell * n + index] += more;
                        if now - missed_at[index] > rules.map.episode_gap_s {
                            episodes[cell * n + index] += 1.0;
                        }
                    }
                    None => unplaced += more,
                }
                missed_at[index] = now;
            }
        }
    }
    let cells: Vec<MapCell> = (0..across * up)
        .filter(|&cell| firings[cell] > 0.0)
        .map(|cell| {
            // A counter that is read a moment late can lie one cell off: never more misses than firings.
            let own: Vec<f64> = misfires[cell * n..(cell + 1) * n].iter().map(|k| k.min(firings[cell])).collect();
            let intervals: Vec<(f64, f64)> = own.iter().map(|&k| jeffreys(k, firings[cell])).collect();
            MapCell {
                speed: cell % across,
                load: cell / across,
                seconds: seconds[cell],
                firings: firings[cell],
                rate_pct: own.iter().map(|k| 100.0 * k / firings[cell]).collect(),
                low_pct: intervals.iter().map(|i| 100.0 * i.0).collect(),
                high_pct: intervals.iter().map(|i| 100.0 * i.1).collect(),
                episodes: episodes[cell * n..(cell + 1) * n].to_vec(),
                misfires: own,
            }
        })
        .collect();
    if cells.is_empty() {
        return None;
    }
    let total = |index: usize| cells.iter().map(|c| c.misfires[index]).sum::<f64>();
    let all_firings: f64 = cells.iter().map(|c| c.firings).sum();
    let worst = (0..n).filter(|&i| total(i) > 0.0).max_by(|&a, &b| total(a).total_cmp(&total(b)).then(b.cmp(&a)));
    let lit: Vec<usize> = worst.map_or_else(Vec::new, |index| {
        let overall = 100.0 * total(index) / all_firings;
        (0..cells.len()).filter(|&c| cells[c].low_pct[index] > overall).collect()
    });
    let says = in_words(worst, &lit, &cells, speeds, loads, total);
    Some(MisfireMap {
        speed_edges_rpm: speeds.clone(),
        load_edges_pct: loads.clone(),
        cells,
        unplaced_misfires: unplaced,
        worst_cylinder: worst.map(|index| index as u8 + 1),
        lit,
        says,
    })
}

fn in_words(
    worst: Option<usize>,
    lit: &[usize],
    cells: &[MapCell],
    speeds: &[f64],
    loads: &[f64],
    total: impl Fn(usize) -> f64,
) -> String {
    let Some(index) = worst else {
        return "No misfire in the cells that were driven. The others are unknown, not clean.".into();
    };
    if lit.is_empty() {
        return format!("Cylinder {} misses most, in no cell more than in the others.", index + 1);
    }
    let share = lit.iter().map(|&c| cells[c].misfires[index]).sum::<f64>() / total(index);
    let range = |of: fn(&MapCell) -> usize, edges: &[f64]| {
        let low = lit.iter().map(|&c| of(&cells[c])).min().unwrap_or_default();
        let high = lit.iter().map(|&c| of(&cells[c])).max().unwrap_or_default();
        format!("{:.0} to {:.0}", edges[low], edges[high + 1])
    };
    format!(
        "Cylinder {} misses at {} rpm and {} % load: {:.0} % of its misfires are there.",
        index + 1,
        range(|c| c.speed, speeds),
        range(|c| c.load, loads),
        100.0 * share
    )
}

/// Which interval between the edges holds the value.
fn interval(edges: &[f64], value: f64) -> Option<usize> {
    if value.is_nan() || value < edges[0] {
        return None;
    }
    let index = edges.partition_point(|&edge| edge <= value);
    (index < edges.len()).then(|| index - 1)
}
