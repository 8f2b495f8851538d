//! The embers: what it may be, with how likely that is, from the counts and then from the swap.

use serde::Serialize;
use utoipa::ToSchema;

use super::{MisfireShown, RecordingShown, Repair, SwapShown};
use crate::engine::Engine;
use crate::misfire::{Pattern, PatternKind};
use crate::recording::ResultKind;
use crate::swap::{Hypothesis, Verdict};

/// Below this an ember is out: it is left to the full list of the computation.
const GLOWS: f64 = 0.005;

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Ember {
    pub what: String,
    pub probability: f64,
    /// What it rests on.
    pub because: String,
    /// What would tell it from the others.
    pub told_by: String,
}

pub(super) fn embers(
    misfire: Option<&MisfireShown>,
    swap: Option<&SwapShown>,
    repair: Option<&Repair>,
    recordings: &[RecordingShown],
) -> Vec<Ember> {
    if repair.is_some_and(|repair| repair.came_back.is_none() && repair.part.is_some()) {
        return Vec::new();
    }
    let mut list = of_misfires(misfire, swap);
    // What the last recording says of air, fuel and charge pressure: other questions than which cylinder.
    if let Some(last) = recordings.last() {
        let told = last.results.iter().filter(|r| r.kind != ResultKind::Misfires && r.decided && r.fault);
        // How brightly an ember glows is a probability: a verdict by limits has none and stands in the next move.
        list.extend(told.filter_map(|result| {
            Some(Ember {
                what: result.says.trim_end_matches('.').to_owned(),
                probability: result.probability?,
                because: format!("the recording of entry {}", last.entry),
                told_by: String::new(),
            })
        }));
        list.sort_by(|a, b| b.probability.total_cmp(&a.probability));
    }
    list
}

fn of_misfires(misfire: Option<&MisfireShown>, swap: Option<&SwapShown>) -> Vec<Ember> {
    let after_swap = swap.and_then(|swap| swap.result.as_ref().map(|result| (swap, result)));
    match (after_swap, misfire) {
        (Some((swap, result)), _) if !result.hypotheses.is_empty() => result
            .hypotheses
            .iter()
            .filter(|h| h.probability >= GLOWS)
            .map(|h| Ember {
                what: after_words(h, result.suspect.as_ref().map(ToString::to_string).unwrap_or_default()),
                probability: h.probability,
                because: format!("the drive after the swap, entry {}", swap.entry),
                told_by: String::new(),
            })
            .collect(),
        (_, Some(shown)) => shown
            .result
            .patterns
            .iter()
            .filter(|p| p.probability >= GLOWS)
            .map(|p| Ember {
                what: pattern_words(p),
                probability: p.probability,
                because: format!("counts {} over {:.0} revolutions", shown.when, shown.revolutions),
                told_by: p.kind.told_by().into(),
            })
            .collect(),
        _ => Vec::new(),
    }
}

fn pattern_words(pattern: &Pattern) -> String {
    let cylinders = Engine::in_words(&pattern.cylinders);
    match pattern.kind {
        PatternKind::None => "No misfire".into(),
        PatternKind::Single => format!("Cylinder {cylinders} alone"),
        PatternKind::SharedCoil => format!("The coil of {cylinders}"),
        PatternKind::RunningMates => format!("Running mates {cylinders}"),
        PatternKind::Neighbours => format!("Neighbours {cylinders}"),
        PatternKind::Consecutive => format!("{cylinders}, one after the other"),
        PatternKind::Bank => format!("Bank {cylinders}"),
        PatternKind::All => "All cylinders alike".into(),
        PatternKind::Several => format!("Cylinders {cylinders} together"),
        PatternKind::Alternating => "Groups that take turns".into(),
    }
}

fn after_words(hypothesis: &Hypothesis, suspect: String) -> String {
    let places = hypothesis.places.iter().map(ToString::to_string).collect::<Vec<_>>().join(" and ");
    match (hypothesis.what, &hypothesis.part) {
        (Verdict::Moved, Some(part)) => {
            let variant = hypothesis.variant.as_ref().map(|v| format!("{v} ")).unwrap_or_default();
            format!("The {variant}{part} from {suspect}, now at {places}")
        }
        (Verdict::Stayed, _) => format!("What stayed at {suspect}: wiring, parts not moved, compression"),
        (Verdict::Gone, _) => "A poor connection or an intermittent fault".into(),
        (Verdict::Elsewhere, _) => format!("Something at {places}"),
        _ => format!("Two faults: {places}"),
    }
}
