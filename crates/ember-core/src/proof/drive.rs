//! The drive that proves it: which cells of speed and load to drive, and for how long.

use serde::Serialize;
use utoipa::ToSchema;

use super::silence::{Cell, map_silence};
use super::{checked_prior, confident};
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;

/// What is known of one cell: what fell into it before the repair, and what since.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DriveCell {
    pub speed: usize,
    pub load: usize,
    /// Episodes of misfire and firings before the repair, of the cylinder that missed.
    pub episodes: f64,
    pub firings_before: f64,
    pub firings_since: f64,
    /// Firings of one cylinder in a minute in this cell.
    pub firings_per_minute: f64,
}

/// A cell of the drive to come.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct PlannedCell {
    pub speed: usize,
    pub load: usize,
    pub episodes: f64,
    /// Minutes that were driven here without it since the repair.
    pub driven_minutes: f64,
    /// Minutes still to drive here; 0 when it is ticked off.
    pub minutes: f64,
    /// The firings that those minutes give.
    pub firings: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DrivePlan {
    /// The cells that count, those with most still to drive first.
    pub cells: Vec<PlannedCell>,
    /// Minutes in all that are still to drive.
    pub minutes: f64,
    /// The chance of the silence so far although nothing was mended, and what follows from it.
    pub silence_by_chance: f64,
    pub confidence: f64,
    /// The confidence that the plan leads to.
    pub target: f64,
    pub reached: bool,
    pub says: String,
}

/// Plans the shortest drive after which the confidence reaches `target`.
///
/// Silence in a cell counts with (1 + m/c)^(−(1 + k)), c = n + 1/r̄, after k episodes in n firings there (see
/// [`map_silence`]). The minutes Σ mᵢ/fᵢ are least, for a given product, where every cell that is driven gains the same
/// per minute: cᵢ + mᵢ = μ (1 + kᵢ) fᵢ, with μ found by halving. What was driven already is taken off, and what would be
/// shorter than one can drive on purpose is left out.
///
/// # Errors
/// A prior or a target that is no probability; what [`map_silence`] refuses; a cell without a rate of firing.
pub fn drive_plan(
    cells: &[DriveCell],
    prior_fixed: f64,
    target: f64,
    knowledge: &Knowledge,
) -> Result<DrivePlan, Refusal> {
    let prior = checked_prior(prior_fixed)?;
    if !(target > 0.0 && target < 1.0) {
        return Err(Refusal::new("target", format!("must lie between 0 and 1 and be neither, and this is {target}")));
    }
    if let Some(at) = cells.iter().position(|c| !c.firings_per_minute.is_finite() || c.firings_per_minute <= 0.0) {
        return Err(Refusal::new(format!("cells[{at}].firings_per_minute"), "must be above zero"));
    }
    let silent = |since: &dyn Fn(usize) -> f64| {
        let list: Vec<Cell> = cells
            .iter()
            .enumerate()
            .map(|(at, c)| Cell { episodes: c.episodes, firings_before: c.firings_before, firings_since: since(at) })
            .collect();
        map_silence(&list)
    };
    let silence_now = silent(&|at| cells[at].firings_since)?;
    let confidence = confident(prior, silence_now);
    let wanted = prior * (1.0 - target) / (target * (1.0 - prior));
    let mean_rate = cells.iter().map(|c| c.episodes).sum::<f64>() / cells.iter().map(|c| c.firings_before).sum::<f64>();
    let offset = |c: &DriveCell| c.firings_before + 1.0 / mean_rate;
    let firings_at =
        |mu: f64, c: &DriveCell| (mu * (1.0 + c.episodes) * c.firings_per_minute - offset(c)).max(c.firings_since);
    let mut list: Vec<f64> = cells.iter().map(|c| c.firings_since).collect();
    if silence_now > wanted {
        let (mut low, mut high) = (0.0, 1.0);
        let enough = |mu: f64| silent(&|at| firings_at(mu, &cells[at])).is_ok_and(|s| s <= wanted);
        while !enough(high) && high < 1e12 {
            high *= 2.0;
        }
        for _ in 0..80 {
            let middle = 0.5 * (low + high);
            if enough(middle) { high = middle } else { low = middle }
        }
        list = cells.iter().map(|c| firings_at(high, c)).collect();
    }
    let mut planned: Vec<PlannedCell> = cells
        .iter()
        .zip(&list)
        .map(|(c, &wanted)| {
            let minutes = (wanted - c.firings_since).max(0.0) / c.firings_per_minute;
            PlannedCell {
                speed: c.speed,
                load: c.load,
                episodes: c.episodes,
                driven_minutes: c.firings_since / c.firings_per_minute,
                minutes: if minutes > 0.0 { minutes.max(knowledge.proof.drive.least_minutes) } else { 0.0 },
                firings: (wanted - c.firings_since).max(0.0),
            }
        })
        .filter(|cell| cell.minutes > 0.0 || cell.episodes > 0.0)
        .collect();
    planned.sort_by(|a, b| {
        b.minutes
            .total_cmp(&a.minutes)
            .then(b.episodes.total_cmp(&a.episodes))
            .then((a.load, a.speed).cmp(&(b.load, b.speed)))
    });
    let minutes: f64 = planned.iter().map(|cell| cell.minutes).sum();
    let reached = confidence >= target;
    let says = if reached {
        format!("Driven: where the fault lived it was silent long enough for {:.0} %.", 100.0 * target)
    } else {
        let open = planned.iter().filter(|cell| cell.minutes > 0.0).count();
        let noun = if open == 1 { "cell" } else { "cells" };
        format!(
            "{minutes:.0} minutes in {open} {noun} of speed and load prove it to {:.0} %, if it stays silent.",
            100.0 * target
        )
    };
    Ok(DrivePlan { cells: planned, minutes, silence_by_chance: silence_now, confidence, target, reached, says })
}
