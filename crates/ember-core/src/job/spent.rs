//! What the repair cost so far.

use serde::Serialize;
use utoipa::ToSchema;

use crate::trail::{Entry, Finding};

#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, ToSchema)]
pub struct Spent {
    /// In the workshop's own currency.
    pub parts_cost: f64,
    pub fitting_minutes: f64,
}

pub(super) fn spent(standing: &[&Entry]) -> Spent {
    standing.iter().fold(Spent::default(), |sum, entry| match &entry.finding {
        Finding::Fitted { cost, minutes, .. } => Spent {
            parts_cost: sum.parts_cost + cost.unwrap_or_default(),
            fitting_minutes: sum.fitting_minutes + minutes.unwrap_or_default(),
        },
        _ => sum,
    })
}
