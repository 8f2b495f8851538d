//! The road: the odometer line with everything that happened along it.

use serde::Serialize;
use utoipa::ToSchema;

use super::{Ground, Repair, SwapShown};
use crate::trail::Finding;

/// What happened at a mark, the weightiest first: a station is drawn by its first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MarkKind {
    Fitted,
    Swap,
    Codes,
    /// The fault was noticed.
    Fault,
    Counted,
    Cleared,
    Clean,
}

struct Mark {
    km: f64,
    kind: MarkKind,
    label: String,
}

/// A place on the road where something happened: all that stands at one reading, or a run of notices.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Station {
    pub km: f64,
    /// The last reading of a run; the same as `km` for a single place.
    pub up_to_km: f64,
    pub kind: MarkKind,
    pub lines: Vec<String>,
    /// The distance to the next station.
    pub to_next_km: Option<f64>,
    /// Whether that distance was run clean after a repair that still holds.
    pub clean: bool,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Road {
    pub from_km: f64,
    pub to_km: f64,
    pub stations: Vec<Station>,
}

pub(super) fn road(ground: &Ground<'_>, swaps: &[SwapShown], repair: Option<&Repair>) -> Road {
    let mut marks = Vec::new();
    let mut from = f64::INFINITY;
    for entry in &ground.standing {
        let mut mark = |km: f64, kind: MarkKind, label: String| marks.push(Mark { km, kind, label });
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
            Finding::Recording { results, .. } => {
                let label =
                    results.iter().rev().find(|r| r.decided && r.fault).map_or("recorded".to_owned(), |result| {
                        // The first clause: the road has little room.
                        let clause = result.says.split(['.', ',', ':']).next().unwrap_or_default();
                        format!("recorded: {}", clause.trim())
                    });
                mark(km, MarkKind::Counted, label);
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
    let clean_from = repair.filter(|repair| repair.came_back.is_none()).map(|repair| repair.repaired_km);
    Road { from_km, to_km: last, stations: stations(marks, clean_from) }
}

/// Gathers marks of one reading, and notices that follow each other with nothing between them.
fn stations(mut marks: Vec<Mark>, clean_from: Option<f64>) -> Vec<Station> {
    marks.sort_by(|a, b| a.km.total_cmp(&b.km));
    let mut gathered: Vec<(f64, f64, Vec<Mark>)> = Vec::new();
    for mark in marks {
        let joins = gathered.last().is_some_and(|(_, up_to, list)| {
            *up_to == mark.km || (mark.kind == MarkKind::Fault && list.iter().all(|m| m.kind == MarkKind::Fault))
        });
        match gathered.last_mut().filter(|_| joins) {
            Some((_, up_to, list)) => {
                *up_to = mark.km;
                list.push(mark);
            }
            None => gathered.push((mark.km, mark.km, vec![mark])),
        }
    }
    let starts: Vec<f64> = gathered.iter().map(|(km, ..)| *km).collect();
    gathered
        .into_iter()
        .enumerate()
        .map(|(index, (km, up_to_km, list))| {
            let faults = list.iter().filter(|m| m.kind == MarkKind::Fault).count();
            let mut lines = Vec::new();
            if faults > 1 {
                lines.push(format!("noticed {faults} times"));
            }
            for mark in list.iter().filter(|m| faults < 2 || m.kind != MarkKind::Fault) {
                // What happened twice at one reading stands there once.
                if !lines.contains(&mark.label) {
                    lines.push(mark.label.clone());
                }
            }
            Station {
                km,
                up_to_km,
                kind: list.iter().map(|m| m.kind).min().unwrap_or(MarkKind::Clean),
                lines,
                to_next_km: starts.get(index + 1).map(|next| next - up_to_km),
                clean: clean_from.is_some_and(|from| km >= from),
            }
        })
        .collect()
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
