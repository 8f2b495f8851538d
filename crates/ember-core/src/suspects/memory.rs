//! What the workshop knows by itself: usual suspects, cases it has closed, its own prices and minutes.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::bench::meter::MeterAccuracy;
use crate::decide::Offer;

/// Cases of a fault that the workshop had, or that it gives the weight of such.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WorkshopCase {
    pub fault: String,
    /// How many; a hand-written usual suspect is given as many as it is felt to be worth.
    #[serde(default = "one_case")]
    pub cases: f64,
    /// Only for vehicles of this name; left out: for all.
    #[serde(default)]
    pub vehicle: Option<String>,
    /// Where it comes from: who says so, or which jobs.
    #[serde(default)]
    pub because: String,
}

/// A meter of the workshop, with its data sheet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MeterProfile {
    pub name: String,
    pub accuracy: MeterAccuracy,
    /// What its leads have, held together.
    #[serde(default)]
    pub leads_ohm: f64,
}

fn one_case() -> f64 {
    1.0
}

/// What a workshop has of its own. All of it can be left out.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct WorkshopOwn {
    /// Money for an hour's work.
    pub labour_per_hour: Option<f64>,
    /// Parts of a fault's repair, in money.
    pub prices: BTreeMap<String, f64>,
    /// Minutes of a test.
    pub minutes: BTreeMap<String, f64>,
    /// How often a fault comes here, among ten thousand jobs, where the workshop knows better than the book.
    pub rates: BTreeMap<String, f64>,
    pub usual: Vec<WorkshopCase>,
    /// The workshop's meters, by the names on them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub meters: Vec<MeterProfile>,
    /// What the workshop was offered, to be weighed again.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub offers: Vec<Offer>,
    /// Closed jobs of this workshop from which nothing is to be learnt.
    pub unlearnt_jobs: Vec<i64>,
}
