//! The road: the odometer line with everything that happened along it.

use serde::Serialize;
use utoipa::ToSchema;

use super::{Ground, SwapShown};
use crate::trail::Finding;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MarkKind {
    /// The fault was noticed.
    Fault,
    Codes,
    Cleared,
    Swap,
    Fitted,
    Clean,
    Counted,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Mark {
    pub km: f64,
    pub kind: MarkKind,
    pub label: String,
    pub entry: Option<u32>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Road {
    pub from_km: f64,
    pub to_km: f64,
    pub marks: Vec<Mark>,
}

pub(super) fn road(ground: &Ground<'_>, swaps: &[SwapShown]) -> Road {
    let mut marks = Vec::new();
    let mut from = f64::INFINITY;
    for entry in &ground.standing {
        let mut mark = |km: f64, kind: MarkKind, label: String| marks.push(Mark { km, kind, label, entry: Some(entry.number) });
        let km = entry.odometer_km;
        match &entry.finding {
            Finding::Complaint { observed_from_km, occurrences_km, .. } => {
                from = observed_from_km.unwrap_or(from);
                for &at in occurrences_km {
                    mark(at, MarkKind::Fault, "noticed".into());
                }
            }
            Finding::Occurred { .. } => mark(km, MarkKind::Fault, "it came".into()),
            Finding::Scan { codes, .. } if !codes.is_empty() => {
                let names: Vec<&str> = codes.iter().map(|c| c.code.as_str()).collect();
                mark(km, MarkKind::Codes, names.join(", "));
            }
            Finding::Scan { .. } => mark(km, MarkKind::Codes, "no codes".into()),
            Finding::Counts { misfires, .. } => {
                let total: f64 = misfires.values().sum();
                let noun = if total == 1.0 { "misfire" } else { "misfires" };
                mark(km, MarkKind::Counted, format!("{total:.0} {noun}"));
            }
            Finding::Cleared { .. } => mark(km, MarkKind::Cleared, "codes cleared".into()),
            Finding::Moved { put_back: true, .. } => mark(km, MarkKind::Swap, "put back".into()),
            Finding::Moved { .. } => {
                let verdict = swaps.iter().find(|s| s.entry == entry.number).and_then(|s| s.result.as_ref());
                let label = match verdict {
                    Some(result) if result.decided => format!("swap: {}", serde_plain(result.verdict)),
                    _ => "swap".into(),
                };
                mark(km, MarkKind::Swap, label);
            }
            Finding::Fitted { part, cylinder, .. } => {
                let at = cylinder.map(|c| format!(" {c}")).unwrap_or_default();
                mark(km, MarkKind::Fitted, format!("new {part}{at}"));
            }
            Finding::Drive { .. } => mark(km, MarkKind::Clean, "clean".into()),
            _ => {}
        }
    }
    let first = ground.standing.first().map_or(0.0, |e| e.odometer_km);
    let last = ground.standing.last().map_or(0.0, |e| e.odometer_km);
    let from_km = marks.iter().map(|m| m.km).chain([first, from]).fold(f64::INFINITY, f64::min);
    Road { from_km, to_km: last, marks }
}

fn serde_plain(verdict: crate::swap::Verdict) -> &'static str {
    use crate::swap::Verdict;
    match verdict {
        Verdict::Moved => "moved",
        Verdict::Stayed => "stayed",
        Verdict::Gone => "gone",
        Verdict::Elsewhere => "elsewhere",
        Verdict::Mixed => "mixed",
        Verdict::Void => "void",
        Verdict::Undecided => "undecided",
    }
}
