//! Fuel trims: what they say about air, fuel and meter, and how large a hole would explain them.

mod fit;
mod hole;
mod signature;
mod stretches;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::{AirMetering, Engine, EngineDescription, Fuel};
use crate::knowledge::Knowledge;
use crate::refusal::{Refusal, above_zero};

pub use fit::{BankFit, TrimCurvePoint};
pub use hole::Hole;
pub use signature::{Signature, SignatureKind, SignatureKnowledge};
pub use stretches::steady_points;

pub(crate) use fit::t_quantile;

/// One steady stretch of closed-loop running on one bank.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TrimPoint {
    /// Bank number from 1.
    pub bank: usize,
    /// Flow of the whole engine as its meter shows it, in g/s.
    pub airflow_gps: f64,
    #[serde(default)]
    pub rpm: Option<f64>,
    #[serde(default)]
    pub load_pct: Option<f64>,
    /// Absolute.
    #[serde(default)]
    pub map_kpa: Option<f64>,
    pub short_pct: f64,
    #[serde(default)]
    pub long_pct: f64,
    /// Open-loop points are left out. Left out itself: closed.
    #[serde(default)]
    pub closed_loop: Option<bool>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TrimsInput {
    pub engine: EngineDescription,
    pub points: Vec<TrimPoint>,
    /// In kPa; left out: 101.325.
    #[serde(default)]
    pub ambient_kpa: Option<f64>,
    /// Air on its way into the engine, in °C; left out: 20.
    #[serde(default)]
    pub intake_c: Option<f64>,
    /// Misfire rate of each bank in percent, where it is known: a misfire reads as lean.
    #[serde(default)]
    pub misfire_pct: BTreeMap<String, f64>,
}

/// A mean with the interval that holds it with 95 %.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Mean {
    pub mean: f64,
    pub low: f64,
    pub high: f64,
    pub points: usize,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BankTrims {
    pub bank: usize,
    pub cylinders: Vec<u8>,
    pub points: usize,
    /// Points left out because the mixture was not regulated.
    pub open_loop: usize,
    /// Points whose trim stands at its limit: they count as bounds.
    pub at_limit: usize,
    pub idle_pct: Option<Mean>,
    pub cruise_pct: Option<Mean>,
    pub load_pct: Option<Mean>,
    /// F = a + b ψ/ṁ + c ṁ; null where fewer than two flows were seen.
    pub a: Option<f64>,
    pub b_gps: Option<f64>,
    pub c_per_gps: Option<f64>,
    pub a_low: Option<f64>,
    pub a_high: Option<f64>,
    pub b_low_gps: Option<f64>,
    pub b_high_gps: Option<f64>,
    /// Unmetered air of this bank: b times its share of the cylinders.
    pub leak_gps: Option<f64>,
    pub leak_low_gps: Option<f64>,
    pub leak_high_gps: Option<f64>,
    /// Whether the lower limit is above zero: only then a leak is named.
    pub leak_named: bool,
    /// The fitted trim over the flows that were seen, for drawing.
    pub curve: Vec<TrimCurvePoint>,
    /// Not to be believed before the misfire is mended.
    pub doubtful: Option<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TrimsResult {
    pub banks: Vec<BankTrims>,
    pub leak_gps: Option<f64>,
    pub leak_low_gps: Option<f64>,
    pub leak_high_gps: Option<f64>,
    /// Diameter of the round hole that would pass the leak; null unless a leak is named.
    pub leak_mm: Option<f64>,
    pub leak_mm_low: Option<f64>,
    /// Also given when none is named: a larger hole than this would have shown.
    pub leak_mm_high: Option<f64>,
    pub signatures: Vec<Signature>,
    pub decided: bool,
    pub ambient_kpa: f64,
    pub intake_c: f64,
    pub says: String,
    /// What to look at first, cheap looks before dear ones.
    pub look_first: Vec<String>,
    pub next: String,
    pub warnings: Vec<String>,
}

/// Fits the needed fuel factor of each bank against the air flow and says what its course speaks for.
///
/// F = (1 + short/100)(1 + long/100) = A + B ψ/ṁ + C ṁ by Huber-weighted least squares: A an offset common to all
/// flows, B unmetered air in g/s, C delivery that falls with the flow. ψ is what the hole passes at this manifold
/// pressure over what it passes when choked.
///
/// # Errors
/// No points; a bank that the engine does not have; a flow, pressure or trim that cannot be; a diesel or a carburettor,
/// which have no trims.
pub fn trims(input: &TrimsInput, knowledge: &Knowledge) -> Result<TrimsResult, Refusal> {
    let engine = Engine::new(&input.engine).map_err(|refusal| refusal.within("engine"))?;
    if input.points.is_empty() {
        return Err(Refusal::new("points", "is empty"));
    }
    let ambient = above_zero("ambient_kpa", input.ambient_kpa.unwrap_or(101.325))?;
    let intake = input.intake_c.unwrap_or(20.0);
    if !intake.is_finite() || !(-60.0..=150.0).contains(&intake) {
        return Err(Refusal::new("intake_c", "must lie between -60 and 150"));
    }
    for (index, point) in input.points.iter().enumerate() {
        check(point, &engine, ambient).map_err(|refusal| refusal.within(&format!("points[{index}]")))?;
    }
    let mut misfires = BTreeMap::new();
    for (bank, &rate) in &input.misfire_pct {
        let field = format!("misfire_pct.{bank}");
        let number = bank.trim().parse::<usize>().ok().filter(|b| (1..=engine.banks.len()).contains(b));
        let number = number.ok_or_else(|| Refusal::new(&field, "the engine has no such bank"))?;
        if !rate.is_finite() || !(0.0..=100.0).contains(&rate) {
            return Err(Refusal::new(&field, "must lie between 0 and 100"));
        }
        misfires.insert(number, rate);
    }
    of_points(&engine, &input.points, ambient, intake, &misfires, knowledge)
}

/// The same for points that are already checked. `misfires` is the rate of each bank in percent.
///
/// # Errors
/// An engine without trims.
pub fn of_points(
    engine: &Engine,
    points: &[TrimPoint],
    ambient_kpa: f64,
    intake_c: f64,
    misfires: &BTreeMap<usize, f64>,
    knowledge: &Knowledge,
) -> Result<TrimsResult, Refusal> {
    use crate::engine::Injection;
    if engine.fuel == Fuel::Diesel {
        return Err(Refusal::new("engine.fuel", "a diesel has no fuel trims: it regulates nothing by its exhaust"));
    }
    if engine.injection == Injection::Carburettor {
        return Err(Refusal::new("engine.injection", "a carburettor has no fuel trims"));
    }
    let rules = &knowledge.trims;
    let hole = Hole::new(&rules.hole, ambient_kpa, intake_c);
    let metered = engine.air_metering == AirMetering::AirFlow;
    let mut warnings = Vec::new();
    let mut banks = Vec::new();
    for (index, cylinders) in engine.banks.iter().enumerate() {
        let bank = index + 1;
        let own: Vec<&TrimPoint> = points.iter().filter(|p| p.bank == bank).collect();
        let closed: Vec<&TrimPoint> = own.iter().copied().filter(|p| p.closed_loop != Some(false)).collect();
        let share = cylinders.len() as f64 / f64::from(engine.cylinders);
        let fit = BankFit::of(&closed, metered, &hole, rules);
        let doubtful = misfires.get(&bank).filter(|&&rate| rate > rules.misfire.doubtful_above_pct).map(|rate| {
            format!(
                "Bank {bank} misfires in {rate:.1} % of its firings: the unburnt oxygen reads as lean. Mend that first."
            )
        });
        warnings.extend(doubtful.clone());
        let leak = fit.as_ref().and_then(|fit| fit.leak());
        let regime = |wanted: Regime| {
            let values: Vec<f64> =
                closed.iter().filter(|p| regime(p, rules) == Some(wanted)).map(|p| 100.0 * (factor(p) - 1.0)).collect();
            mean(&values, rules.fit.noise_pct, rules.fit.noise_weight)
        };
        banks.push(BankTrims {
            bank,
            cylinders: cylinders.clone(),
            points: closed.len(),
            open_loop: own.len() - closed.len(),
            at_limit: closed.iter().filter(|p| at_limit(p, rules)).count(),
            idle_pct: regime(Regime::Idle),
            cruise_pct: regime(Regime::Cruise),
            load_pct: regime(Regime::Load),
            a: fit.as_ref().map(|f| f.a()),
            b_gps: leak.as_ref().map(|l| l.0),
            c_per_gps: fit.as_ref().map(|f| f.c()),
            a_low: fit.as_ref().map(|f| f.a_interval().0),
            a_high: fit.as_ref().map(|f| f.a_interval().1),
            b_low_gps: leak.as_ref().map(|l| l.1),
            b_high_gps: leak.as_ref().map(|l| l.2),
            leak_gps: leak.as_ref().map(|l| l.0 * share),
            leak_low_gps: leak.as_ref().map(|l| l.1 * share),
            leak_high_gps: leak.as_ref().map(|l| l.2 * share),
            leak_named: leak.as_ref().is_some_and(|l| l.1 > 0.0),
            curve: fit.as_ref().map(|f| f.curve()).unwrap_or_default(),
            doubtful,
        });
    }
    if !metered {
        warnings.push(match engine.air_metering {
            AirMetering::SpeedDensity => {
                "This engine reckons its air from manifold pressure, which meters a leak's air too: there a leak shows as a fast idle and not as a trim.".into()
            }
            _ => "This engine does not meter its air: its trims say nothing about a leak.".into(),
        });
    }
    for bank in &banks {
        if bank.points == 0 {
            warnings.push(format!("Bank {} has no closed-loop point: it is not known, not sound.", bank.bank));
        } else if bank.a.is_none() && metered {
            warnings.push(format!("Bank {} was seen at one flow only: no curve can be fitted.", bank.bank));
        }
        if bank.at_limit > 0 {
            warnings.push(format!(
                "Bank {}: at {} of {} points the trim stands at its limit, so more fuel is wanted than it shows.",
                bank.bank, bank.at_limit, bank.points
            ));
        }
    }
    let signatures = signature::weigh(&banks, misfires, rules);
    let total = whole_engine(&banks);
    let named = banks.iter().any(|b| b.leak_named);
    let (mm, mm_low, mm_high) = match total {
        Some((leak, low, high)) if named => {
            (Some(hole.diameter_mm(leak)), Some(hole.diameter_mm(low.max(0.0))), Some(hole.diameter_mm(high)))
        }
        Some((_, _, high)) => (None, None, Some(hole.diameter_mm(high.max(0.0)))),
        None => (None, None, None),
    };
    let (decided, says, next) = signature::in_words(&banks, &signatures, mm.zip(mm_low.zip(mm_high)), knowledge);
    Ok(TrimsResult {
        leak_gps: total.map(|t| t.0),
        leak_low_gps: total.map(|t| t.1),
        leak_high_gps: total.map(|t| t.2),
        leak_mm: mm,
        leak_mm_low: mm_low,
        leak_mm_high: mm_high,
        banks,
        decided,
        ambient_kpa,
        intake_c,
        look_first: signatures
            .first()
            .and_then(|s| rules.signatures.get(&s.kind))
            .map(|s| s.look_first.clone())
            .unwrap_or_default(),
        signatures,
        says,
        next,
        warnings,
    })
}

/// The banks' leaks added, their doubts as independent ones.
fn whole_engine(banks: &[BankTrims]) -> Option<(f64, f64, f64)> {
    let known: Vec<(f64, f64, f64)> = banks
        .iter()
        .filter_map(|b| Some((b.leak_gps?, b.leak_low_gps?, b.leak_high_gps?)))
        // Less air than none cannot leak in: such a bank has another fault and no share in the leak.
        .filter(|(_, _, high)| *high > 0.0)
        .collect();
    if known.is_empty() {
        return None;
    }
    let sum: f64 = known.iter().map(|k| k.0).sum();
    let below: f64 = known.iter().map(|k| (k.0 - k.1).powi(2)).sum::<f64>().sqrt();
    let above: f64 = known.iter().map(|k| (k.2 - k.0).powi(2)).sum::<f64>().sqrt();
    Some((sum, sum - below, sum + above))
}

fn check(point: &TrimPoint, engine: &Engine, ambient: f64) -> Result<(), Refusal> {
    if !(1..=engine.banks.len()).contains(&point.bank) {
        return Err(Refusal::new("bank", format!("the engine has no bank {}", point.bank)));
    }
    above_zero("airflow_gps", point.airflow_gps)?;
    for (field, value) in [("short_pct", point.short_pct), ("long_pct", point.long_pct)] {
        if !value.is_finite() || value <= -100.0 || value > 100.0 {
            return Err(Refusal::new(field, "must lie above -100 and not beyond 100"));
        }
    }
    for (field, value, most) in
        [("rpm", point.rpm, 20_000.0), ("load_pct", point.load_pct, 300.0), ("map_kpa", point.map_kpa, 5.0 * ambient)]
    {
        if value.is_some_and(|v| !v.is_finite() || !(0.0..=most).contains(&v)) {
            return Err(Refusal::new(field, format!("must lie between 0 and {most:.0}")));
        }
    }
    Ok(())
}

/// The fuel that the engine wanted over what was reckoned: 1.1 is ten percent more.
pub(crate) fn factor(point: &TrimPoint) -> f64 {
    (1.0 + point.short_pct / 100.0) * (1.0 + point.long_pct / 100.0)
}

fn at_limit(point: &TrimPoint, rules: &TrimsKnowledge) -> bool {
    point.short_pct.abs() >= rules.fit.limit_pct || point.long_pct.abs() >= rules.fit.limit_pct
}

#[derive(Clone, Copy, PartialEq)]
enum Regime {
    Idle,
    Cruise,
    Load,
}

fn regime(point: &TrimPoint, rules: &TrimsKnowledge) -> Option<Regime> {
    if point.load_pct.is_some_and(|load| load > rules.regimes.load_above_pct) {
        return Some(Regime::Load);
    }
    let rpm = point.rpm?;
    Some(if rpm < rules.regimes.idle_below_rpm { Regime::Idle } else { Regime::Cruise })
}

/// The mean with a 95 % t interval whose spread leans on a known noise while the points are few.
fn mean(values: &[f64], noise: f64, weight: f64) -> Option<Mean> {
    if values.is_empty() {
        return None;
    }
    let n = values.len() as f64;
    let mean = values.iter().sum::<f64>() / n;
    let squares: f64 = values.iter().map(|v| (v - mean).powi(2)).sum();
    let freedom = n - 1.0 + weight;
    let half = t_quantile(freedom) * ((squares + weight * noise * noise) / freedom / n).sqrt();
    Some(Mean { mean, low: mean - half, high: mean + half, points: values.len() })
}

/// The file `knowledge/trims.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TrimsKnowledge {
    pub fit: FitRules,
    pub regimes: RegimeRules,
    pub hole: hole::HoleRules,
    pub misfire: MisfireDoubt,
    pub decision: TrimsDecision,
    pub noise: RegimeNoise,
    pub signatures: BTreeMap<SignatureKind, SignatureKnowledge>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FitRules {
    pub huber: f64,
    pub noise_pct: f64,
    /// How many points the known noise counts for.
    pub noise_weight: f64,
    pub limit_pct: f64,
    pub distinct_share: f64,
    pub span_for_delivery: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RegimeRules {
    pub idle_below_rpm: f64,
    pub load_above_pct: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MisfireDoubt {
    pub doubtful_above_pct: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TrimsDecision {
    pub probability: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RegimeNoise {
    pub regime_pct: f64,
    pub because: String,
}
