//! The proof: how far the car must run clean before an intermittent fault counts as gone.

mod door;
mod drive;
mod scale;
mod silence;

use serde::Serialize;
use utoipa::ToSchema;

use crate::knowledge::Knowledge;
use crate::refusal::Refusal;

pub use door::proof_json;
pub use drive::{DriveCell, DrivePlan, PlannedCell, drive_plan};
pub use scale::{Along, Scale, ScaleProof, along};
pub use silence::{Cell, map_silence, provoked_silence};

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ProofTrend {
    Steady,
    Worsening,
}

/// Occurrences and clean running along one scale: kilometres, hours, revolutions or starts.
#[derive(Debug, Clone, PartialEq)]
pub struct ProofInput {
    pub observed_from: f64,
    pub occurrences: Vec<f64>,
    pub repaired: f64,
    pub clean_until: f64,
    /// How sure the repair was before any clean running, 0 to 1 and neither.
    pub prior_fixed: f64,
}

/// A point of the curve of confidence against clean running.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct CurvePoint {
    /// Distance after the repair, on the scale of the input.
    pub after: f64,
    pub confidence: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ProofResult {
    pub trend: ProofTrend,
    pub shape: f64,
    /// The chance of such a silence although nothing was mended.
    pub silence_by_chance: f64,
    pub confidence: f64,
    /// Further clean running until the confidence is 0.95 and 0.99; 0 when it is reached.
    pub further_for_95: f64,
    pub further_for_99: f64,
    /// Likewise until the confidence that the knowledge files call enough.
    pub further_for_enough: f64,
    /// Where after the repair the confidence reaches 0.95 and 0.99.
    pub reached_95_after: f64,
    pub reached_99_after: f64,
    pub curve: Vec<CurvePoint>,
    pub says: String,
}

/// Reckons the confidence that a fault is gone from the pattern of its occurrences.
///
/// With T = repaired − observed_from, tᵢ likewise, k occurrences, s = Σ ln(T/tᵢ) and x the clean running: the trend
/// test is 2s against χ² with 2k degrees of freedom (Laplace's relative for the power-law process, MIL-HDBK-189);
/// steady silence has the chance (1 + x/T)^(−k), a worsening fault's (1 + (k/s) ln(1 + x/T))^(−(k−1)), the smaller
/// of the two. Confidence = p / (p + (1 − p) S).
///
/// # Errors
/// Numbers that are not finite; no occurrence; an order other than observed_from < every occurrence ≤ repaired ≤
/// clean_until; a prior outside 0 to 1. Field names are given without a unit.
pub fn proof(input: &ProofInput, knowledge: &Knowledge) -> Result<ProofResult, Refusal> {
    for (name, value) in [
        ("observed_from", input.observed_from),
        ("repaired", input.repaired),
        ("clean_until", input.clean_until),
        ("prior_fixed", input.prior_fixed),
    ] {
        if !value.is_finite() {
            return Err(Refusal::new(name, "must be a finite number"));
        }
    }
    let prior = checked_prior(input.prior_fixed)?;
    if input.repaired <= input.observed_from {
        return Err(Refusal::new("repaired", "lies before the observation began"));
    }
    if input.clean_until < input.repaired {
        return Err(Refusal::new("clean_until", "lies before the repair"));
    }
    let mut occurrences = input.occurrences.clone();
    for &at in &occurrences {
        if !at.is_finite() {
            return Err(Refusal::new("occurrences", "must be finite numbers"));
        }
        if at <= input.observed_from {
            return Err(Refusal::new("occurrences", format!("{at} does not lie after the start of the observation")));
        }
        if at > input.repaired {
            return Err(Refusal::new(
                "occurrences",
                format!("{at} lies after the repair: a fault that came back is not gone"),
            ));
        }
    }
    occurrences.sort_by(f64::total_cmp);
    occurrences.dedup();
    if occurrences.is_empty() {
        return Err(Refusal::new("occurrences", "is empty: a fault that was never seen cannot be proven gone"));
    }

    let rules = &knowledge.proof;
    let span = input.repaired - input.observed_from;
    let history = silence::History::new(span, occurrences.iter().map(|at| at - input.observed_from), &rules.trend);
    let clean = input.clean_until - input.repaired;
    let confidence_after = |x: f64| confident(prior, history.silence(x));
    let reached = |target: f64| history.clean_for(prior * (1.0 - target) / (target * (1.0 - prior)));
    let (reached_95, reached_99) = (reached(0.95), reached(0.99));
    let silence_by_chance = history.silence(clean);
    let confidence = confidence_after(clean);
    let end = (clean * 1.1).max(reached_99 * 1.15);
    let points = rules.curve.points.max(2);
    let says = match history.trend {
        ProofTrend::Worsening => "It was getting more frequent, so silence says more than its length alone.",
        ProofTrend::Steady => "It came at no shortening intervals: only distance without it counts.",
    };
    Ok(ProofResult {
        trend: history.trend,
        shape: history.shape,
        silence_by_chance,
        confidence,
        further_for_95: (reached_95 - clean).max(0.0),
        further_for_99: (reached_99 - clean).max(0.0),
        further_for_enough: (reached(rules.enough.confidence) - clean).max(0.0),
        reached_95_after: reached_95,
        reached_99_after: reached_99,
        curve: (0..=points)
            .map(|i| end * i as f64 / points as f64)
            .map(|after| CurvePoint { after, confidence: confidence_after(after) })
            .collect(),
        says: says.into(),
    })
}

fn checked_prior(prior: f64) -> Result<f64, Refusal> {
    if prior > 0.0 && prior < 1.0 {
        Ok(prior)
    } else {
        Err(Refusal::new("prior_fixed", format!("must lie between 0 and 1 and be neither, and this is {prior}")))
    }
}

/// Bayes: the confidence that it is fixed after a silence of the given chance.
pub(crate) fn confident(prior: f64, silence: f64) -> f64 {
    prior / (prior + (1.0 - prior) * silence)
}
