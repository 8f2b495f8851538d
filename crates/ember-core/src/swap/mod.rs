//! The swap test: parts were moved to other cylinders; where did the fault go?

mod evidence;
mod hypotheses;
mod moves;
pub mod plan;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::EngineDescription;
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;

pub use moves::{Move, PlaceName, Position, check_moves};

/// What was counted on one side of the swap. Cylinders: `revolutions` with `misfires`, and/or `codes`. Named places:
/// `occurrences` over `km` or `attempts`.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SwapSide {
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub revolutions: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub misfires: Option<BTreeMap<String, f64>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub codes: Option<Vec<String>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub occurrences: Option<BTreeMap<String, f64>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub km: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub attempts: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SwapInput {
    /// Needed for cylinders; named places stand without it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub engine: Option<EngineDescription>,
    /// Positions of one kind of part, where it is not cylinders that are compared.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub places: Option<Vec<String>>,
    pub before: SwapSide,
    pub after: SwapSide,
    /// A swap of two parts is two moves.
    pub moves: Vec<Move>,
    /// Whether the codes were cleared between the two drives. Without that nothing can be concluded.
    pub cleared_between: bool,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Verdict {
    /// The fault went with a part.
    Moved,
    /// The fault stayed where it was.
    Stayed,
    /// The fault shows nowhere. That condemns no part.
    Gone,
    /// The fault is in a place that nothing came to.
    Elsewhere,
    /// The fault is in two of the suspect and the receivers.
    Mixed,
    /// Codes were not cleared: nothing can be concluded.
    Void,
    /// Not yet clear.
    Undecided,
}

/// One thing that may be so after the drive.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Hypothesis {
    pub what: Verdict,
    /// The part that took the fault with it, for `moved`.
    pub part: Option<String>,
    /// The variant of that part, where the engine has more than one in a cylinder.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub variant: Option<String>,
    /// Where the fault then is: cylinders or named places; empty for `gone`.
    pub places: Vec<PlaceName>,
    pub probability: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SwapResult {
    pub verdict: Verdict,
    /// The part condemned, when one took the fault with it.
    pub part: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub variant: Option<String>,
    /// The cylinder that has the fault now, when it moved.
    pub cylinder_now: Option<u8>,
    /// The named place that has the fault now, when it moved.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub place_now: Option<String>,
    /// Where the fault was before, if one place stands out.
    pub suspect: Option<PlaceName>,
    /// Most likely first.
    pub hypotheses: Vec<Hypothesis>,
    pub decided: bool,
    /// How many more at the present rates would decide it; null when decided or out of reach.
    pub more_revolutions: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub more_km: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub more_attempts: Option<f64>,
    /// Conditions of a valid swap that were not met, in words.
    pub warnings: Vec<String>,
    /// What it means and what to do next.
    pub next: String,
}

/// Judges a swap.
///
/// The suspect is the place with the highest rate before among those that a part left. Afterwards the fault is on a
/// receiver, on the suspect, nowhere, elsewhere, or on two of suspect and receivers. The drive after has its own
/// background rate; each faulty cell has its own rate with a gamma prior of shape 2 around the suspect's rate before.
/// Gamma-Poisson marginal likelihoods weigh the hypotheses (see `rates`); with codes only, a detection probability.
///
/// # Errors
/// Whatever makes the engine, the counts or the moves impossible: the moves of one part are not a permutation, a part
/// goes to a cylinder on the same coil, variants differ, a place is unknown, nothing was counted. All this is
/// refused before `cleared_between` is looked at.
pub fn swap(input: &SwapInput, knowledge: &Knowledge) -> Result<SwapResult, Refusal> {
    let position = Position::new(input.engine.as_ref(), input.places.as_deref())?;
    let moves = moves::checked(&position, &input.moves)?;
    let before = evidence::Evidence::new(&position, &input.before).map_err(|r| r.within("before"))?;
    let after = evidence::Evidence::new(&position, &input.after).map_err(|r| r.within("after"))?;
    if let (Some(b), Some(a)) = (before.measure, after.measure)
        && b != a
    {
        return Err(Refusal::new(
            "after",
            format!("counts over {} cannot be compared with counts over {}", a.noun(), b.noun()),
        ));
    }
    Ok(hypotheses::judge(&position, &moves, &before, &after, input.cleared_between, knowledge))
}
