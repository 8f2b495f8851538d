//! The scales along which a fault comes and is proven gone: not only kilometres count.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{ProofInput, ProofResult, proof};
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Scale {
    Km,
    Hours,
    Revolutions,
    Starts,
    /// Starts after a real soak.
    ColdStarts,
    Weeks,
}

impl Scale {
    pub const ALL: [Scale; 6] =
        [Scale::Km, Scale::Hours, Scale::Revolutions, Scale::Starts, Scale::ColdStarts, Scale::Weeks];

    /// What an amount of it is called.
    pub fn unit(self) -> &'static str {
        match self {
            Scale::Km => "km",
            Scale::Hours => "h",
            Scale::Revolutions => "revolutions",
            Scale::Starts => "starts",
            Scale::ColdStarts => "cold starts",
            Scale::Weeks => "weeks",
        }
    }
}

/// How often the fault came along a scale before the repair, and how much of it was run without since.
#[derive(Debug, Clone, PartialEq)]
pub struct Along {
    pub scale: Scale,
    /// The amount watched before the repair.
    pub watched: f64,
    /// Where in it the fault came, from the start of the watch.
    pub occurrences: Vec<f64>,
    /// The amount without it since the repair, as somebody of the workshop saw it.
    pub clean_seen: f64,
    /// The amount without it since, as the owner tells it.
    pub clean_told: f64,
}

/// The proof along one scale.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ScaleProof {
    pub scale: Scale,
    pub unit: String,
    pub watched: f64,
    pub occurrences: usize,
    /// What counts as run without it: what was seen, and of what was told the share that an owner notices.
    pub clean: f64,
    /// How much of it is the owner's word.
    pub told: f64,
    pub result: Option<ProofResult>,
    pub refused: Option<Refusal>,
}

/// Reckons the proof along one scale. What an owner tells counts by the share of occurrences that an owner reports: a
/// fault that is seen only so often comes, to that eye, so much more seldom (thinning of a Poisson process).
pub fn along(input: &Along, prior_fixed: f64, knowledge: &Knowledge) -> ScaleProof {
    let clean = input.clean_seen + knowledge.proof.owner.reports * input.clean_told;
    let reckoned = proof(
        &ProofInput {
            observed_from: 0.0,
            occurrences: input.occurrences.clone(),
            repaired: input.watched,
            clean_until: input.watched + clean,
            prior_fixed,
        },
        knowledge,
    );
    let (result, refused) = match reckoned {
        Ok(result) => (Some(result), None),
        Err(refusal) => (None, Some(refusal)),
    };
    ScaleProof {
        scale: input.scale,
        unit: input.scale.unit().into(),
        watched: input.watched,
        occurrences: input.occurrences.len(),
        clean,
        told: input.clean_told,
        result,
        refused,
    }
}
