//! The needs: fuel, air, spark, compression, timing; which are proven, which are missing.

use serde::Serialize;
use utoipa::ToSchema;

use super::measured::needs_measured;
use super::{Ground, MisfireShown, Repair, SuspectsShown, SwapShown};
use crate::bench::MeasuredShown;
use crate::engine::Ignition;
use crate::misfire::PatternKind;
use crate::swap::Verdict;
use crate::trail::{Finding, Need, NeedState};

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct NeedShown {
    pub need: Need,
    /// What the need is called on this engine: a diesel needs heat where others need spark.
    pub name: String,
    pub state: NeedState,
    pub because: String,
    /// The entry that says so, if a single one does.
    pub entry: Option<u32>,
}

pub(super) fn needs(
    ground: &Ground<'_>,
    misfire: Option<&MisfireShown>,
    swap: Option<&SwapShown>,
    repair: Option<&Repair>,
    suspects: Option<&SuspectsShown>,
    measured: &[MeasuredShown],
) -> Vec<NeedShown> {
    let mut list: Vec<NeedShown> = [Need::Fuel, Need::Air, Need::Spark, Need::Compression, Need::Timing]
        .into_iter()
        .map(|need| NeedShown {
            need,
            name: name(need, ground.engine.ignition).into(),
            state: NeedState::Unknown,
            because: "not checked".into(),
            entry: None,
        })
        .collect();
    let mut set = |need: Need, state: NeedState, because: String, entry: Option<u32>| {
        if let Some(shown) = list.iter_mut().find(|shown| shown.need == need) {
            (shown.state, shown.because, shown.entry) = (state, because, entry);
        }
    };
    let measured = needs_measured(ground, measured);
    // What tests have shown; one cylinder that lacks a need is enough for the engine to lack it.
    for state in [NeedState::Proven, NeedState::Missing] {
        if let Some(shown) = suspects {
            for found in shown.result.need_findings.iter().filter(|found| found.state == state) {
                set(found.need, state, found.says.clone(), shown.entries.get(found.finding).copied());
            }
        }
        for found in measured.iter().filter(|found| found.state == state) {
            set(found.need, state, found.says.clone(), Some(found.entry));
        }
    }
    for entry in &ground.standing {
        if let Finding::Need { need, state, how } = &entry.finding {
            set(*need, *state, how.clone(), Some(entry.number));
        }
    }
    let repaired = repair.is_some_and(|r| r.came_back.is_none() && r.part.is_some());
    if let Some((swap, result)) = swap.and_then(|s| s.result.as_ref().map(|r| (s, r)))
        && result.verdict == Verdict::Moved
        && !repaired
        && let Some(part) = &result.part
        && let Some(need) = served_by(part)
    {
        let place = result.cylinder_now.map(|c| format!(" at cylinder {c}")).unwrap_or_default();
        set(need, NeedState::Missing, format!("the {part} took the fault along{place}"), Some(swap.entry));
    }
    let clean = misfire.is_some_and(|shown| {
        !shown.outdated
            && shown.result.decided
            && shown.result.patterns.first().is_some_and(|p| p.kind == PatternKind::None)
    });
    if clean && repaired {
        for need in [Need::Fuel, Need::Air, Need::Spark, Need::Compression, Need::Timing] {
            set(need, NeedState::Proven, "every cylinder fires cleanly after the repair".into(), None);
        }
    }
    list
}

fn name(need: Need, ignition: Ignition) -> &'static str {
    match need {
        Need::Fuel => "fuel",
        Need::Air => "air",
        Need::Spark if ignition == Ignition::None => "heat",
        Need::Spark => "spark",
        Need::Compression => "compression",
        Need::Timing => "timing",
    }
}

fn served_by(part: &str) -> Option<Need> {
    match part {
        "coil" | "plug" | "lead" | "connector" | "glow-plug" => Some(Need::Spark),
        "injector" => Some(Need::Fuel),
        _ => None,
    }
}
