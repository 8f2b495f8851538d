//! Misfire counts: how often each cylinder misses, how sure that is, and which group of cylinders it is.

mod alternating;
mod patterns;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::{Engine, EngineDescription};
use crate::knowledge::Knowledge;
use crate::proportion::jeffreys;
use crate::refusal::{Refusal, above_zero, whole_count};

pub use patterns::PatternKind;

/// Patterns less likely than this are left out of the list.
const WORTH_LISTING: f64 = 1e-6;
/// How many patterns are listed at most: beyond that nobody reads.
const LISTED: usize = 40;

/// Misfires of every cylinder, counted over a number of crankshaft revolutions.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MisfireInput {
    pub engine: EngineDescription,
    /// Crankshaft revolutions over which was counted. May be left out when `windows` are given.
    #[serde(default)]
    pub revolutions: Option<f64>,
    /// Cylinder number to count; every cylinder of the engine, whole numbers.
    #[serde(default)]
    pub misfires: Option<BTreeMap<String, f64>>,
    /// The same counts in successive windows of time, where they are known.
    #[serde(default)]
    pub windows: Vec<CountWindow>,
}

/// Counts in one stretch of time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CountWindow {
    pub revolutions: f64,
    pub misfires: BTreeMap<String, f64>,
}

/// Misfires of an engine's cylinders, checked: whole, complete, not more than the firings.
#[derive(Debug, Clone, PartialEq)]
pub struct Counts {
    /// Firings of each cylinder: a four-stroke fires every second revolution, so this may end in a half.
    pub firings: f64,
    /// By cylinder, cylinder 1 first.
    pub misfires: Vec<f64>,
}

impl Counts {
    /// Checks counts against the engine.
    ///
    /// # Errors
    /// Revolutions not above zero; a cylinder left out or not on the engine; a count that is negative, fractional
    /// or above the firings. `field` stands before `revolutions` and `misfires` in the refusal.
    pub fn new(engine: &Engine, revolutions: f64, misfires: &BTreeMap<String, f64>) -> Result<Counts, Refusal> {
        let firings = above_zero("revolutions", revolutions)? / 2.0;
        let mut by_cylinder = vec![None; usize::from(engine.cylinders)];
        for (name, &count) in misfires {
            let field = format!("misfires.{name}");
            let cylinder = name.trim().parse::<u8>().ok().filter(|&c| engine.has(c)).ok_or_else(|| {
                Refusal::new(&field, format!("the engine has no cylinder {name}: it has {}", engine.cylinders))
            })?;
            let count = whole_count(&field, count)?;
            if count > firings {
                return Err(Refusal::new(
                    &field,
                    format!(
                        "{count} misfires in {firings} firings: over {revolutions} revolutions it fired fewer times"
                    ),
                ));
            }
            if by_cylinder[usize::from(cylinder) - 1].replace(count).is_some() {
                return Err(Refusal::new(&field, format!("cylinder {cylinder} stands in it twice")));
            }
        }
        let misfires = by_cylinder
            .iter()
            .enumerate()
            .map(|(index, count)| {
                count.ok_or_else(|| {
                    Refusal::new(format!("misfires.{}", index + 1), "this cylinder is left out; write 0 if it had none")
                })
            })
            .collect::<Result<Vec<f64>, _>>()?;
        Ok(Counts { firings, misfires })
    }

    pub fn of(&self, cylinder: u8) -> f64 {
        self.misfires[usize::from(cylinder) - 1]
    }

    pub fn total(&self) -> f64 {
        self.misfires.iter().sum()
    }

    pub fn rate(&self, cylinder: u8) -> f64 {
        self.of(cylinder) / self.firings
    }

    /// Both counts as one: more of the same drive.
    pub fn plus(&self, other: &Counts) -> Counts {
        Counts {
            firings: self.firings + other.firings,
            misfires: self.misfires.iter().zip(&other.misfires).map(|(a, b)| a + b).collect(),
        }
    }
}

/// One cylinder's rate with its Jeffreys 95 % interval.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CylinderRate {
    pub cylinder: u8,
    pub firings: f64,
    pub misfires: f64,
    pub rate_pct: f64,
    pub low_pct: f64,
    pub high_pct: f64,
    /// The probability that this cylinder belongs to the faulty group, over all patterns.
    pub probability: f64,
}

/// A way to divide the cylinders into faulty and healthy ones, with its probability.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Pattern {
    pub kind: PatternKind,
    /// The faulty cylinders; empty for `none`.
    pub cylinders: Vec<u8>,
    /// For `alternating`: the groups that take turns.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub groups: Option<Vec<Vec<u8>>>,
    pub probability: f64,
}

/// The group of cylinders that the counts point at, over all kinds of pattern with these cylinders.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PointedAt {
    pub cylinders: Vec<u8>,
    pub probability: f64,
    pub misfires: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MisfireResult {
    pub cylinders: Vec<CylinderRate>,
    pub total_misfires: f64,
    pub total_rate_pct: f64,
    /// Most likely first; what is below one in a million is left out.
    pub patterns: Vec<Pattern>,
    pub group: PointedAt,
    pub decided: bool,
    /// What it says, in words.
    pub says: String,
    /// What would settle it, or what would tell like patterns apart.
    pub next: String,
}

/// Reckons rates and patterns.
///
/// Each pattern splits the cylinders into a faulty and a healthy group; each group has one unknown rate with a gamma
/// prior; the probability is prior × the groups' marginal likelihoods × the chance that the faulty rate exceeds the
/// healthy one, normalised over all patterns (see `rates`).
///
/// # Errors
/// Whatever [`Engine::new`] and [`Counts::new`] refuse; neither totals nor windows given; totals that disagree with
/// the sum of the windows.
pub fn misfire(input: &MisfireInput, knowledge: &Knowledge) -> Result<MisfireResult, Refusal> {
    let engine = Engine::new(&input.engine).map_err(|refusal| refusal.within("engine"))?;
    let windows = input
        .windows
        .iter()
        .enumerate()
        .map(|(index, window)| {
            Counts::new(&engine, window.revolutions, &window.misfires)
                .map_err(|refusal| refusal.within(&format!("windows[{index}]")))
        })
        .collect::<Result<Vec<_>, _>>()?;
    let of_windows = windows.iter().skip(1).fold(windows.first().cloned(), |sum, w| sum.map(|s| s.plus(w)));
    let given = match (input.revolutions, &input.misfires) {
        (Some(revolutions), Some(misfires)) => Some(Counts::new(&engine, revolutions, misfires)?),
        (None, None) => None,
        (None, Some(_)) => return Err(Refusal::new("revolutions", "is missing: a count means nothing without them")),
        (Some(_), None) => return Err(Refusal::new("misfires", "is missing")),
    };
    let counts = match (given, of_windows) {
        (Some(given), Some(summed)) => {
            if given.misfires != summed.misfires || (given.firings - summed.firings).abs() > 1e-6 * given.firings {
                return Err(Refusal::new("windows", "their sum is not what revolutions and misfires say"));
            }
            given
        }
        (Some(counts), None) | (None, Some(counts)) => counts,
        (None, None) => return Err(Refusal::new("misfires", "is missing")),
    };
    Ok(of_counts(&engine, &counts, &windows, knowledge))
}

/// The same for counts that are already checked.
pub fn of_counts(engine: &Engine, counts: &Counts, windows: &[Counts], knowledge: &Knowledge) -> MisfireResult {
    let knowledge = &knowledge.misfire;
    let mut weighed = patterns::weigh(engine, counts, knowledge);
    if let Some(turns) = alternating::weigh(engine, windows, knowledge) {
        weighed.push(turns);
    }
    let weighing = patterns::normalised(weighed, engine.cylinders, LISTED, WORTH_LISTING);
    let patterns = weighing.listed;
    let belongs: Vec<f64> = (0..engine.cylinders)
        .map(|bit| weighing.by_group.iter().enumerate().filter(|(mask, _)| mask >> bit & 1 == 1).map(|(_, p)| p).sum())
        .collect();
    let group = pointed_at(&weighing.by_group, counts);
    let rule = &knowledge.decision;
    let seen = if group.cylinders.is_empty() {
        // A clean engine shows nothing: what counts is how many a fault would have shown in one cylinder.
        counts.firings * knowledge.fault_rate.mean
    } else {
        group.misfires
    };
    let decided = group.probability >= rule.probability && seen >= rule.misfires;
    let alike =
        patterns.iter().filter(|p| p.cylinders == group.cylinders && p.probability > 0.01).cloned().collect::<Vec<_>>();
    let says = says(&alike, &group, decided);
    let next = if decided { tell_apart(&alike) } else { settle(engine, counts, &group, knowledge) };
    MisfireResult {
        cylinders: engine
            .numbers()
            .map(|cylinder| {
                let (low, high) = jeffreys(counts.of(cylinder), counts.firings);
                CylinderRate {
                    cylinder,
                    firings: counts.firings,
                    misfires: counts.of(cylinder),
                    rate_pct: 100.0 * counts.rate(cylinder),
                    low_pct: 100.0 * low,
                    high_pct: 100.0 * high,
                    probability: belongs[usize::from(cylinder) - 1].clamp(0.0, 1.0),
                }
            })
            .collect(),
        total_misfires: counts.total(),
        total_rate_pct: 100.0 * counts.total() / (counts.firings * f64::from(engine.cylinders)),
        patterns,
        group,
        decided,
        says,
        next,
    }
}

/// The cylinders with the most probability behind them, whatever the kind of pattern.
fn pointed_at(by_group: &[f64], counts: &Counts) -> PointedAt {
    let (mask, probability) = by_group
        .iter()
        .enumerate()
        .fold((0, 0.0), |best, (mask, &probability)| if probability > best.1 { (mask, probability) } else { best });
    let cylinders = patterns::cylinders_of(mask as u32);
    let misfires = cylinders.iter().fold(0.0, |sum, &c| sum + counts.of(c));
    PointedAt { cylinders, probability: probability.min(1.0), misfires }
}

fn says(alike: &[Pattern], group: &PointedAt, decided: bool) -> String {
    if !decided {
        return match group.cylinders.as_slice() {
            [] => "Nothing stands out yet.".into(),
            cylinders => format!("Perhaps {}; not decided.", cylinder_noun(cylinders)),
        };
    }
    let Some(first) = alike.first() else { return String::new() };
    let where_ = cylinder_noun(&group.cylinders);
    match first.kind {
        PatternKind::None => "No cylinder misfires more than a sound engine does.".into(),
        PatternKind::Single => format!("Misfire on {where_}."),
        PatternKind::SharedCoil => format!("Misfire on {where_}, which share a coil."),
        PatternKind::RunningMates => format!("Misfire on {where_}, running mates."),
        PatternKind::Neighbours => format!("Misfire on {where_}, neighbours on one bank."),
        PatternKind::Consecutive => format!("Misfire on {where_}, which follow each other in the firing order."),
        PatternKind::Bank => format!("Misfire on one whole bank: {where_}."),
        PatternKind::All => "Every cylinder misfires alike.".into(),
        PatternKind::Several => format!("Misfire on {where_}, with nothing obvious in common."),
        PatternKind::Alternating => {
            let groups =
                first.groups.iter().flatten().map(|g| Engine::in_words(g)).collect::<Vec<_>>().join(" against ");
            format!("Groups take turns to misfire: {groups}.")
        }
    }
}

fn cylinder_noun(cylinders: &[u8]) -> String {
    let noun = if cylinders.len() == 1 { "cylinder" } else { "cylinders" };
    format!("{noun} {}", Engine::in_words(cylinders))
}

/// What to do when one group of cylinders stands for more than one kind of cause.
fn tell_apart(alike: &[Pattern]) -> String {
    let mut hints: Vec<&str> = alike.iter().map(|pattern| pattern.kind.told_by()).collect();
    hints.dedup();
    hints.join(" ")
}

fn settle(
    engine: &Engine,
    counts: &Counts,
    group: &PointedAt,
    knowledge: &crate::knowledge::MisfireKnowledge,
) -> String {
    let rule = &knowledge.decision;
    if group.cylinders.is_empty() {
        let revolutions = (2.0 * rule.misfires / knowledge.fault_rate.mean).max(2.0 * counts.firings);
        return format!(
            "Count over at least {revolutions:.0} revolutions under the conditions of the complaint: a fault of ordinary size would show there."
        );
    }
    if group.misfires < rule.misfires && group.probability >= rule.probability {
        let more =
            if group.misfires > 0.0 { 2.0 * counts.firings * (rule.misfires / group.misfires - 1.0) } else { 0.0 };
        return format!(
            "Only {:.0} misfires in it, and misfires come in bursts: count for about {more:.0} revolutions more, or until there are {:.0}.",
            group.misfires, rule.misfires
        );
    }
    let others = engine.cylinders.saturating_sub(group.cylinders.len() as u8);
    format!(
        "Count longer, and at the load where it misses: {} against {others} others is not clear enough.",
        cylinder_noun(&group.cylinders)
    )
}
