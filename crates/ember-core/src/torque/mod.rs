//! Tightening: stages of torque and angle, the order of the fasteners, what the wrench can do.

mod order;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::knowledge::Knowledge;
use crate::quantity::{Dimension, understand};
use crate::refusal::Refusal;
use crate::vehicle::line;

pub use order::{FastenerPattern, Spot};

/// Units of torque in newton metres, as the standards round them.
pub const LB_FT: f64 = 1.355818;
pub const LB_IN: f64 = 0.1129848;
pub const KGF_M: f64 = 9.80665;

/// More fasteners than any cover has: beyond it a digit slipped.
const MOST_FASTENERS: usize = 64;

/// Prior figures of tightening; `knowledge/torque.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TorqueKnowledge {
    pub stage: StageLimits,
    pub wrench: WrenchKnowledge,
    pub typical: Typical,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StageLimits {
    pub most_nm: f64,
    pub most_angle_deg: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WrenchKnowledge {
    pub poor_below_share: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Typical {
    pub because: String,
    pub threads: Vec<TypicalThread>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TypicalThread {
    pub thread: String,
    pub steel_nm: f64,
    pub aluminium_nm: f64,
}

/// One stage, as it is written: a torque, or an angle, or a slackening between two rounds.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct StageInput {
    /// With its unit: `20 N·m`, `15 lb ft`, `47 lb in`, `2 kgf m`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub torque: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub torque_nm: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub angle_deg: Option<f64>,
    /// All are slackened again before the next stage.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub slacken: bool,
}

/// A torque wrench with its range.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Wrench {
    pub name: String,
    pub low_nm: f64,
    pub high_nm: f64,
}

/// Where the figures come from.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum TorqueSource {
    #[default]
    Maker,
    Workshop,
    /// For want of a specification.
    Typical,
}

/// ThreadCutInto what the thread is cut.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ThreadCutInto {
    #[default]
    Steel,
    Aluminium,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TorqueInput {
    /// Without any, a thread must be named: then the typical figure stands in.
    #[serde(default)]
    pub stages: Vec<StageInput>,
    #[serde(default)]
    pub source: TorqueSource,
    /// `M8`, `plug M14`: only looked at without stages.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub thread: String,
    #[serde(default)]
    pub into: ThreadCutInto,
    #[serde(default = "one")]
    pub fasteners: usize,
    #[serde(default)]
    pub pattern: FastenerPattern,
    /// Rows of a cover.
    #[serde(default = "two")]
    pub rows: usize,
    /// Stretch bolts, crush washers: never used twice.
    #[serde(default)]
    pub single_use: bool,
    #[serde(default)]
    pub loosening: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wrench: Option<Wrench>,
}

fn one() -> usize {
    1
}

fn two() -> usize {
    2
}

/// A stage in all units.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TorqueStage {
    /// From 1; the first is preceded by running all in by hand.
    pub stage: usize,
    pub torque_nm: Option<f64>,
    pub torque_lb_ft: Option<f64>,
    pub torque_lb_in: Option<f64>,
    pub torque_kgf_m: Option<f64>,
    pub angle_deg: Option<f64>,
    pub slacken: bool,
    pub says: String,
}

/// One hand on one fastener.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct TighteningStep {
    /// 0: by hand.
    pub stage: usize,
    pub fastener: usize,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TorqueResult {
    pub stages: Vec<TorqueStage>,
    /// Fasteners in the order of tightening (or loosening).
    pub order: Vec<usize>,
    pub spots: Vec<Spot>,
    /// Everything, fastener by fastener.
    pub steps: Vec<TighteningStep>,
    /// The figures are typical ones, not the maker's.
    pub typical: bool,
    /// New fasteners are needed.
    pub single_use: bool,
    /// What to beware of with these figures and this wrench.
    pub warnings: Vec<String>,
    pub says: String,
}

/// Reckons stages, order and steps.
///
/// 1 lb·ft = 1.355818 N·m, 1 lb·in = 0.1129848 N·m, 1 kgf·m = 9.80665 N·m. On a circle crosswise, over a cover in a
/// spiral from the middle, along a row from the middle to both sides; loosening runs the other way round.
///
/// # Errors
/// A torque without a unit, not above 0 or beyond any bolt of a vehicle; an angle not above 0 or of more than a turn; a
/// stage that is nothing or several things at once; an angle before any torque; a stage outside the wrench's range, by
/// name; no fastener or more than 64; neither stages nor a thread that has a typical figure.
pub fn torque(input: &TorqueInput, knowledge: &Knowledge) -> Result<TorqueResult, Refusal> {
    let rules = &knowledge.torque;
    if input.fasteners == 0 || input.fasteners > MOST_FASTENERS {
        let reason = format!("must lie between 1 and {MOST_FASTENERS}, and this is {}", input.fasteners);
        return Err(Refusal::new("fasteners", reason));
    }
    if input.pattern == FastenerPattern::Cover && (input.rows == 0 || input.rows > input.fasteners) {
        return Err(Refusal::new("rows", format!("{} rows cannot hold {} fasteners", input.rows, input.fasteners)));
    }
    let typical = input.stages.is_empty();
    let stages = if typical { vec![typical_stage(input, rules)?] } else { written_stages(input, rules)? };
    let mut warnings = Vec::new();
    if typical || input.source == TorqueSource::Typical {
        warnings.push(format!("A typical figure, for want of the maker's. {}", rules.typical.because));
    }
    if let Some(wrench) = &input.wrench {
        within_reach(wrench, &stages, rules, &mut warnings)?;
    }
    if input.single_use {
        warnings
            .push("Single use: new fasteners and washers only. Stretched once, a bolt breaks or comes loose.".into());
    }
    let torques: Vec<f64> = stages.iter().filter_map(|stage| stage.torque_nm).collect();
    let slackens = stages.iter().any(|stage| stage.slacken);
    if !slackens && torques.windows(2).any(|pair| pair[1] < pair[0]) {
        warnings.push(
            "A later stage is weaker than an earlier one, and nothing is slackened between: read it again.".into(),
        );
    }
    let spots = order::spots(input.pattern, input.fasteners, input.rows);
    let mut order = order::order(input.pattern, &spots);
    if input.loosening {
        order.reverse();
    }
    let rounds: Vec<usize> = if input.loosening { vec![0] } else { (0..=stages.len()).collect() };
    let steps = rounds
        .iter()
        .flat_map(|&stage| order.iter().map(move |&fastener| TighteningStep { stage, fastener }))
        .collect();
    let way = match input.pattern {
        _ if input.fasteners == 1 => "one fastener",
        FastenerPattern::Circle => "crosswise",
        FastenerPattern::Cover => "in a spiral from the middle",
        FastenerPattern::Row => "from the middle to both sides",
    };
    let says = if input.loosening {
        format!("Loosen {way}, the other way round, a little at a time.")
    } else {
        let list: Vec<&str> = stages.iter().map(|stage| stage.says.as_str()).collect();
        format!("All in by hand, then {way}: {}.", list.join(", then "))
    };
    Ok(TorqueResult { stages, order, spots, steps, typical, single_use: input.single_use, warnings, says })
}

/// A torque written with its unit, in newton metres.
///
/// # Errors
/// No number, no unit, an unknown unit. The field is `torque`.
pub fn torque_nm(text: &str) -> Result<f64, Refusal> {
    let read = understand(text, Dimension::Torque).map_err(|refusal| Refusal { field: "torque".into(), ..refusal })?;
    read.value.ok_or_else(|| Refusal::new("torque", "must be a number with its unit"))
}

fn written_stages(input: &TorqueInput, rules: &TorqueKnowledge) -> Result<Vec<TorqueStage>, Refusal> {
    let mut list: Vec<TorqueStage> = Vec::new();
    for (index, one) in input.stages.iter().enumerate() {
        let within = |refusal: Refusal| refusal.within(&format!("stages[{index}]"));
        let nm = match (&one.torque, one.torque_nm) {
            (Some(text), None) => Some(torque_nm(text).map_err(within)?),
            (None, given) => given,
            (Some(_), Some(_)) => {
                return Err(within(Refusal::new("torque", "is given twice: with its unit, and as torque_nm")));
            }
        };
        let what = usize::from(nm.is_some()) + usize::from(one.angle_deg.is_some()) + usize::from(one.slacken);
        if what != 1 {
            let reason = "a stage is one torque, or one angle, or a slackening";
            return Err(within(Refusal::new("torque", reason)));
        }
        if let Some(nm) = nm
            && (!nm.is_finite() || nm <= 0.0 || nm > rules.stage.most_nm)
        {
            let reason = format!("must lie above 0 and up to {} N·m, and this is {nm} N·m", rules.stage.most_nm);
            return Err(within(Refusal::new("torque", reason)));
        }
        if let Some(angle) = one.angle_deg {
            if !angle.is_finite() || angle <= 0.0 || angle > rules.stage.most_angle_deg {
                let reason = format!(
                    "must lie above 0 and up to {:.0}°, and this is {angle}°: has a digit slipped in?",
                    rules.stage.most_angle_deg
                );
                return Err(within(Refusal::new("angle_deg", reason)));
            }
            if !list.iter().any(|stage| stage.torque_nm.is_some()) {
                let reason = "an angle is turned on from a torque: which torque comes first?";
                return Err(within(Refusal::new("angle_deg", reason)));
            }
        }
        list.push(stage(index + 1, nm, one.angle_deg, one.slacken));
    }
    Ok(list)
}

fn typical_stage(input: &TorqueInput, rules: &TorqueKnowledge) -> Result<TorqueStage, Refusal> {
    let wanted = input.thread.trim();
    if wanted.is_empty() {
        return Err(Refusal::new("stages", "is empty: give the maker's stages, or the thread for a typical figure"));
    }
    let known = rules.typical.threads.iter().find(|one| one.thread.eq_ignore_ascii_case(wanted)).ok_or_else(|| {
        let names: Vec<&str> = rules.typical.threads.iter().map(|one| one.thread.as_str()).collect();
        Refusal::new("thread", format!("there is no typical figure for {wanted}; there are {}", names.join(", ")))
    })?;
    let nm = match input.into {
        ThreadCutInto::Steel => known.steel_nm,
        ThreadCutInto::Aluminium => known.aluminium_nm,
    };
    Ok(stage(1, Some(nm), None, false))
}

fn within_reach(
    wrench: &Wrench,
    stages: &[TorqueStage],
    rules: &TorqueKnowledge,
    warnings: &mut Vec<String>,
) -> Result<(), Refusal> {
    line("wrench.name", &wrench.name)?;
    let (low, high) = (wrench.low_nm, wrench.high_nm);
    if !low.is_finite() || !high.is_finite() || low < 0.0 || high <= low {
        return Err(Refusal::new("wrench.high_nm", format!("{low} to {high} N·m is no range")));
    }
    for one in stages {
        let Some(nm) = one.torque_nm else { continue };
        let field = format!("stages[{}].torque", one.stage - 1);
        if nm < low {
            let reason = format!(
                "stage {}, {}, lies below the range of {} ({low} to {high} N·m): take a smaller wrench for it",
                one.stage, one.says, wrench.name
            );
            return Err(Refusal::new(field, reason));
        }
        if nm > high {
            let reason = format!(
                "stage {}, {}, lies above the range of {} ({low} to {high} N·m): take a larger wrench for it",
                one.stage, one.says, wrench.name
            );
            return Err(Refusal::new(field, reason));
        }
        if nm < low + rules.wrench.poor_below_share * (high - low) && nm < rules.wrench.poor_below_share * high {
            warnings.push(format!(
                "Stage {}: {} lies in the lowest part of the range of {}. {}",
                one.stage, one.says, wrench.name, rules.wrench.because
            ));
        }
    }
    Ok(())
}

fn stage(number: usize, nm: Option<f64>, angle_deg: Option<f64>, slacken: bool) -> TorqueStage {
    let says = match (nm, angle_deg) {
        (Some(nm), _) => format!("{} N·m", short(nm)),
        (_, Some(angle)) => format!("{}° on", short(angle)),
        _ => "all slackened".into(),
    };
    TorqueStage {
        stage: number,
        torque_nm: nm,
        torque_lb_ft: nm.map(|nm| nm / LB_FT),
        torque_lb_in: nm.map(|nm| nm / LB_IN),
        torque_kgf_m: nm.map(|nm| nm / KGF_M),
        angle_deg,
        slacken,
        says,
    }
}

/// At most two decimals, and none that says nothing.
fn short(value: f64) -> String {
    let text = format!("{value:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}
