//! Voltages with the key off, on, cranking and running, and the voltage a path loses under load.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Judged, volt};
use crate::bench::knowledge::BenchKnowledge;
use crate::bench::meter::MeterAccuracy;
use crate::refusal::Refusal;

/// What the point is that was measured: it decides what is expected of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PointOfMeasure {
    Battery,
    /// Fed whenever the key is on, and while it cranks.
    SwitchedFeed,
    /// Fed with the key off too.
    LastingFeed,
    /// Fed only while the starter turns.
    CrankingFeed,
    Ground,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct VoltagesInput {
    pub point: PointOfMeasure,
    #[serde(default)]
    pub off_v: Option<f64>,
    #[serde(default)]
    pub on_v: Option<f64>,
    #[serde(default)]
    pub crank_v: Option<f64>,
    #[serde(default)]
    pub run_v: Option<f64>,
    /// At the battery's own posts with the key on; 12.5 is taken where it was not measured.
    #[serde(default)]
    pub battery_v: Option<f64>,
    /// At the posts while cranking, for a feed measured then.
    #[serde(default)]
    pub battery_crank_v: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct VoltageJudged {
    pub key: String,
    pub volt: f64,
    pub low_v: Option<f64>,
    pub high_v: Option<f64>,
    pub verdict: Judged,
    pub says: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct VoltagesResult {
    pub readings: Vec<VoltageJudged>,
    pub verdict: Judged,
    pub says: String,
}

/// Judges voltages by the key.
///
/// # Errors
/// None was measured; one that no such net has.
pub fn voltages(input: &VoltagesInput, knowledge: &BenchKnowledge) -> Result<VoltagesResult, Refusal> {
    let figures = &knowledge.voltage;
    let battery = volt("battery_v", input.battery_v.unwrap_or(12.5))?;
    let cranking = volt("battery_crank_v", input.battery_crank_v.unwrap_or(figures.crank_low_v))?;
    let least = battery - figures.feed_loss_v;
    use PointOfMeasure as P;
    let (none, any) = ((None, Some(figures.ground_loss_v)), (None, None));
    let expected = |key: &str| match (input.point, key) {
        (P::Battery, "off" | "on") => (Some(figures.battery_low_v), None),
        (P::Battery, "crank") => (Some(figures.crank_low_v), None),
        (P::Battery, _) => (Some(figures.charging_low_v), Some(figures.charging_high_v)),
        (P::Ground, _) => (Some(-figures.ground_loss_v), Some(figures.ground_loss_v)),
        (P::SwitchedFeed | P::CrankingFeed, "off") => none,
        (P::SwitchedFeed | P::LastingFeed, "on" | "run" | "off") => (Some(least), None),
        (P::SwitchedFeed | P::LastingFeed | P::CrankingFeed, "crank") => (Some(cranking - figures.feed_loss_v), None),
        (P::CrankingFeed, "on") => none,
        _ => any,
    };
    let mut readings = Vec::new();
    for (key, field, value) in [
        ("off", "off_v", input.off_v),
        ("on", "on_v", input.on_v),
        ("crank", "crank_v", input.crank_v),
        ("run", "run_v", input.run_v),
    ] {
        let Some(value) = value else { continue };
        let value = volt(field, value)?;
        let (low_v, high_v) = expected(key);
        let (verdict, says) = match (low_v, high_v) {
            (None, None) => (Judged::CannotTell, "nothing is expected of it here".to_owned()),
            (Some(low), _) if value < low => (Judged::Bad, format!("{value:.2} V, at least {low:.2} V expected")),
            (_, Some(high)) if value > high => (Judged::Bad, format!("{value:.2} V, at most {high:.2} V expected")),
            _ => (Judged::Good, format!("{value:.2} V, as it should be")),
        };
        readings.push(VoltageJudged { key: key.into(), volt: value, low_v, high_v, verdict, says });
    }
    if readings.is_empty() {
        return Err(Refusal::new("on_v", "is missing: off, on, crank or run, at least one"));
    }
    let bad: Vec<String> = readings
        .iter()
        .filter(|one| one.verdict == Judged::Bad)
        .map(|one| format!("key {}: {}", one.key, one.says))
        .collect();
    let runs_only_cranking = input.point == P::SwitchedFeed
        && readings.iter().any(|r| r.key == "crank" && r.verdict == Judged::Good)
        && readings.iter().any(|r| (r.key == "on" || r.key == "run") && r.verdict == Judged::Bad);
    let says = if runs_only_cranking {
        "Fed while it cranks and not after: the running feed is lost, from the switch to the series resistor. Cranking has a feed of its own.".into()
    } else if bad.is_empty() {
        "All as they should be.".into()
    } else {
        format!("Wrong with {}.", bad.join("; "))
    };
    let verdict = if bad.is_empty() { Judged::Good } else { Judged::Bad };
    Ok(VoltagesResult { readings, verdict, says })
}

/// The voltage lost along a path while current flows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DropInput {
    pub drop_v: f64,
    /// The current that flowed.
    pub current_a: f64,
    /// The current at which the limit holds; left out: the one that flowed.
    #[serde(default)]
    pub full_current_a: Option<f64>,
    pub limit_v: f64,
    #[serde(default)]
    pub meter: Option<MeterAccuracy>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DropResult {
    /// At the current for which the limit holds.
    pub drop_at_limit_v: f64,
    pub low_v: f64,
    pub high_v: f64,
    /// What the path has: drop over current.
    pub path_ohm: f64,
    /// The heat in the bad place at full current.
    pub heat_w: f64,
    pub verdict: Judged,
    pub says: String,
}

/// Judges a voltage drop: it grows with the current, so it is brought to the current for which the limit is given.
///
/// # Errors
/// No current, or a limit that is none.
pub fn drop_under_load(input: &DropInput, knowledge: &BenchKnowledge) -> Result<DropResult, Refusal> {
    volt("drop_v", input.drop_v)?;
    crate::refusal::above_zero("limit_v", input.limit_v)?;
    crate::refusal::above_zero("current_a", input.current_a).map_err(|_| {
        Refusal::new("current_a", "must be above zero: without current nothing drops, however bad the joint is")
    })?;
    let full = input.full_current_a.unwrap_or(input.current_a);
    crate::refusal::above_zero("full_current_a", full)?;
    let doubt = match &input.meter {
        Some(meter) => {
            meter.check()?;
            meter.uncertainty(input.drop_v, 1.0)
        }
        None => knowledge.voltage.assumed_pct / 100.0 * input.drop_v.abs(),
    };
    let scale = full / input.current_a;
    let at_limit = input.drop_v.abs() * scale;
    let (low_v, high_v) = ((input.drop_v.abs() - doubt).max(0.0) * scale, (input.drop_v.abs() + doubt) * scale);
    let path_ohm = input.drop_v.abs() / input.current_a;
    let too_little = input.current_a < knowledge.voltage.least_share * full;
    let (verdict, says) = if too_little && low_v <= input.limit_v {
        (
            Judged::CannotTell,
            format!(
                "{:.2} A is less than a fifth of the {full:.1} A that flow at work: load it, then measure again.",
                input.current_a
            ),
        )
    } else if high_v <= input.limit_v {
        (Judged::Good, format!("{at_limit:.2} V at {full:.1} A, within {:.2} V.", input.limit_v))
    } else if low_v > input.limit_v {
        (
            Judged::Bad,
            format!(
                "{at_limit:.2} V at {full:.1} A where {:.2} V are allowed: {:.0} mohm that turn {:.1} W into heat.",
                input.limit_v,
                path_ohm * 1e3,
                at_limit * full
            ),
        )
    } else {
        (Judged::CannotTell, format!("{low_v:.2} to {high_v:.2} V lie about the limit of {:.2} V.", input.limit_v))
    };
    Ok(DropResult { drop_at_limit_v: at_limit, low_v, high_v, path_ohm, heat_w: at_limit * full, verdict, says })
}
