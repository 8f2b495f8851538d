//! A diode in both directions, as a meter's diode range shows it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Judged;
use crate::refusal::Refusal;

/// Volts in both directions; null where the display is over its range.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DiodeInput {
    /// Red lead on the anode, the end away from the ring.
    pub forward_v: Option<f64>,
    pub reverse_v: Option<f64>,
    /// For a suppression diode: whether its ring lies on the supply side of the winding, so that it blocks.
    #[serde(default)]
    pub ring_on_supply: Option<bool>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DiodeResult {
    pub verdict: Judged,
    pub says: String,
}

/// Judges a diode.
///
/// # Errors
/// A voltage that a diode range cannot show.
pub fn diode(input: &DiodeInput) -> Result<DiodeResult, Refusal> {
    for (field, value) in [("forward_v", input.forward_v), ("reverse_v", input.reverse_v)] {
        if value.is_some_and(|v| !v.is_finite() || !(0.0..=4.0).contains(&v)) {
            return Err(Refusal::new(field, "must lie between 0 and 4 V, or be left out where the display shows OL"));
        }
    }
    let conducts = |v: Option<f64>| v.is_some_and(|v| v < 1.0);
    let shorted = |v: Option<f64>| v.is_some_and(|v| v < 0.1);
    let (verdict, says) = match (conducts(input.forward_v), conducts(input.reverse_v)) {
        _ if shorted(input.forward_v) && shorted(input.reverse_v) => (
            Judged::Bad,
            "Shorted: it conducts both ways without a loss. A winding in parallel shows the same: lift one end.",
        ),
        (true, false) if input.ring_on_supply == Some(false) => (
            Judged::Bad,
            "Sound, but it sits the wrong way round: fed so, it fails shorted and takes the driver with it.",
        ),
        (true, false) => (Judged::Good, "It conducts one way and blocks the other."),
        (false, true) => {
            (Judged::Bad, "It conducts the wrong way: the leads were exchanged, or it is fitted the wrong way round.")
        }
        (false, false) => (Judged::Bad, "Open: it blocks both ways, and the spike of the winding goes to the driver."),
        (true, true) => {
            (Judged::CannotTell, "It conducts both ways: a winding lies in parallel. Lift one end and measure again.")
        }
    };
    Ok(DiodeResult { verdict, says: says.into() })
}
