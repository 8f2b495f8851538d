//! The chance of silence although the fault is still there.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF};
use statrs::function::beta::ln_beta;
use utoipa::ToSchema;

use super::ProofTrend;
use crate::knowledge::Trend;
use crate::refusal::{Refusal, whole_count};

/// The occurrences of a fault before the repair, boiled down.
pub(super) struct History {
    /// T: the length of the observation before the repair.
    span: f64,
    /// k: the number of occurrences.
    count: f64,
    /// s = Σ ln(T/tᵢ).
    sum_ln: f64,
    pub trend: ProofTrend,
    pub shape: f64,
}

impl History {
    pub fn new(span: f64, times: impl Iterator<Item = f64>, rule: &Trend) -> History {
        let logs: Vec<f64> = times.map(|t| (span / t).ln()).collect();
        let count = logs.len() as f64;
        let sum_ln: f64 = logs.iter().sum();
        let below = ChiSquared::new(2.0 * count).map_or(0.0, |chi| chi.inverse_cdf(rule.below_pct / 100.0));
        let worsening = logs.len() >= rule.least_occurrences && 2.0 * sum_ln < below;
        History {
            span,
            count,
            sum_ln,
            trend: if worsening { ProofTrend::Worsening } else { ProofTrend::Steady },
            shape: if worsening { (count - 1.0) / sum_ln } else { 1.0 },
        }
    }

    /// S: the chance of a silence of this length although nothing was mended.
    pub fn silence(&self, clean: f64) -> f64 {
        let steady = (1.0 + clean / self.span).powf(-self.count);
        match self.trend {
            ProofTrend::Steady => steady,
            ProofTrend::Worsening => {
                let growing = 1.0 + self.count / self.sum_ln * (clean / self.span).ln_1p();
                steady.min(growing.powf(-(self.count - 1.0)))
            }
        }
    }

    /// The length of silence whose chance is `target`; 0 if every silence has a smaller one.
    pub fn clean_for(&self, target: f64) -> f64 {
        if target >= 1.0 {
            return 0.0;
        }
        let steady = self.span * (target.powf(-1.0 / self.count) - 1.0);
        match self.trend {
            ProofTrend::Steady => steady,
            ProofTrend::Worsening => {
                let growing = target.powf(-1.0 / (self.count - 1.0)) - 1.0;
                steady.min(self.span * (growing * self.sum_ln / self.count).exp_m1())
            }
        }
    }
}

/// The chance of no fault in `m` attempts to provoke it, after `k` of `n` before, with nothing mended:
/// B(k + ½, n − k + ½ + m) / B(k + ½, n − k + ½).
///
/// # Errors
/// Counts that are not whole, more faults than attempts, no fault before.
pub fn provoked_silence(k: f64, n: f64, m: f64) -> Result<f64, Refusal> {
    let k = whole_count("provoked_before", k)?;
    let n = whole_count("attempts_before", n)?;
    let m = whole_count("attempts_after", m)?;
    if k == 0.0 {
        return Err(Refusal::new("provoked_before", "is zero: a fault that was never seen cannot be proven gone"));
    }
    if k > n {
        return Err(Refusal::new("provoked_before", format!("{k} of {n} attempts cannot be")));
    }
    Ok((ln_beta(k + 0.5, n - k + 0.5 + m) - ln_beta(k + 0.5, n - k + 0.5)).exp())
}

/// One cell of the map of where it misfired: speed by load.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Cell {
    /// Episodes (not single misfires) before the repair.
    pub episodes: f64,
    pub firings_before: f64,
    pub firings_since: f64,
}

/// The chance of silence where the fault lived: Π over all cells (1 + m/(n + 1/r̄))^(−(1 + k)), with r̄ = Σk/Σn.
///
/// Hit cells alone, on a fault that is in truth spread evenly, run some three points high.
///
/// # Errors
/// No cell; episodes not whole or without firings; no episode at all.
pub fn map_silence(cells: &[Cell]) -> Result<f64, Refusal> {
    if cells.is_empty() {
        return Err(Refusal::new("cells", "is empty"));
    }
    for (index, cell) in cells.iter().enumerate() {
        let field = |name: &str| format!("cells[{index}].{name}");
        whole_count(&field("episodes"), cell.episodes)?;
        for (name, firings) in [("firings_before", cell.firings_before), ("firings_since", cell.firings_since)] {
            if !firings.is_finite() || firings < 0.0 {
                return Err(Refusal::new(field(name), "must be zero or more"));
            }
        }
        if cell.episodes > cell.firings_before {
            return Err(Refusal::new(field("episodes"), "more episodes than firings"));
        }
    }
    let episodes: f64 = cells.iter().map(|c| c.episodes).sum();
    let firings: f64 = cells.iter().map(|c| c.firings_before).sum();
    if episodes == 0.0 {
        return Err(Refusal::new("cells", "no episode in any cell: a fault that was never seen cannot be proven gone"));
    }
    let mean_rate = episodes / firings;
    // Summed in the order of size, so that the order of the cells changes not even the last digit.
    let mut terms: Vec<f64> = cells
        .iter()
        .map(|c| (1.0 + c.episodes) * (c.firings_since / (c.firings_before + 1.0 / mean_rate)).ln_1p())
        .collect();
    terms.sort_by(f64::total_cmp);
    Ok((-terms.iter().sum::<f64>()).exp())
}
