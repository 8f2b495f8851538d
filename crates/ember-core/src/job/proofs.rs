//! What besides kilometres speaks for the repair: other scales, attempts to provoke it, the same reading before and after,
//! and the map of where it lived.

use serde::Serialize;
use utoipa::ToSchema;

use super::{Ground, Repair};
use crate::proof::{Along, DriveCell, DrivePlan, Scale, ScaleProof, along, confident, drive_plan, provoked_silence};
use crate::recording::DrivenCell;
use crate::trail::{Entry, Finding};

/// Attempts to bring the fault on, before and after.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ProvokedShown {
    pub hits_before: f64,
    pub attempts_before: f64,
    /// None of them brought it on: one that had would have shown that it is back.
    pub attempts_after: f64,
    pub silence_by_chance: f64,
    pub says: String,
}

/// One reading, before the repair and after it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReadingPair {
    pub what: String,
    pub unit: String,
    pub wanted: f64,
    pub before: f64,
    /// Null until it was taken again.
    pub after: Option<f64>,
    pub wanted_after: Option<f64>,
    /// By how much it fell short of what was asked for, in percent.
    pub short_before_pct: f64,
    pub short_after_pct: Option<f64>,
    /// Whether it lacked something before, and is what it should be now.
    pub mended: Option<bool>,
    pub conditions: String,
    pub says: String,
}

/// A car that was left to go cold.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Soaking {
    pub entry: u32,
    /// When it was left, RFC 3339 in UTC.
    pub since: String,
    /// Hours after which a start counts as cold.
    pub hours: f64,
}

/// Whether a reading is what it should be.
pub(super) fn falls_short(wanted: f64, got: f64, within_pct: f64) -> bool {
    100.0 * (wanted - got).abs() / wanted > within_pct
}

pub(super) fn soaking(ground: &Ground<'_>) -> Option<Soaking> {
    let last = ground
        .standing
        .iter()
        .rev()
        .find(|entry| !matches!(entry.finding, Finding::Note { .. } | Finding::Limits(_)))
        .filter(|entry| matches!(entry.finding, Finding::Parked { .. }))?;
    Some(Soaking { entry: last.number, since: last.at.clone(), hours: ground.knowledge.proof.soak.hours })
}

/// The entries before the repair and those after it.
fn around<'g>(ground: &'g Ground<'_>, repair: &Repair) -> (&'g [&'g Entry], &'g [&'g Entry]) {
    let at = ground.standing.iter().position(|entry| entry.number == repair.entry).unwrap_or(ground.standing.len());
    let after = (at + 1).min(ground.standing.len());
    (&ground.standing[..at], &ground.standing[after..])
}

pub(super) fn provoked(ground: &Ground<'_>, repair: &Repair) -> Option<ProvokedShown> {
    let sum = |entries: &[&Entry]| {
        entries.iter().fold((0.0, 0.0), |(hits, attempts), entry| match &entry.finding {
            Finding::Provoked { hits: h, attempts: n, .. } => (hits + h, attempts + n),
            _ => (hits, attempts),
        })
    };
    let (before, after) = around(ground, repair);
    let ((hits_before, attempts_before), (hits_after, attempts_after)) = (sum(before), sum(after));
    if attempts_before == 0.0 || hits_after > 0.0 {
        return None;
    }
    let silence_by_chance = provoked_silence(hits_before, attempts_before, attempts_after).ok()?;
    let says = format!(
        "Provoked {hits_before:.0} of {attempts_before:.0} times before, {} of {attempts_after:.0} since.",
        if attempts_after > 0.0 { "none" } else { "0" }
    );
    Some(ProvokedShown { hits_before, attempts_before, attempts_after, silence_by_chance, says })
}

pub(super) fn readings(ground: &Ground<'_>, repair: &Repair) -> Vec<ReadingPair> {
    let within = ground.knowledge.proof.same_reading.within_pct;
    let (before, after) = around(ground, repair);
    let mut list: Vec<ReadingPair> = Vec::new();
    for entry in before {
        let Finding::SameReading { what, unit, wanted, got, conditions } = &entry.finding else { continue };
        list.retain(|pair| pair.what != *what);
        let again = after.iter().rev().find_map(|entry| match &entry.finding {
            Finding::SameReading { what: now, wanted, got, .. } if now == what => Some((*wanted, *got)),
            _ => None,
        });
        let short = |wanted: f64, got: f64| 100.0 * (wanted - got) / wanted;
        let faulty_before = falls_short(*wanted, *got, within);
        let mended = again.filter(|_| faulty_before).map(|(wanted, got)| !falls_short(wanted, got, within));
        let says = match (again, mended) {
            (None, _) => format!("{what}: {got} of {wanted} {unit} before. Take it again under the same conditions."),
            (Some((wanted_now, now)), Some(true)) => {
                format!("{what}: {got} of {wanted} {unit} before, {now} of {wanted_now} {unit} now.")
            }
            (Some((wanted_now, now)), Some(false)) => {
                format!("{what}: {now} of {wanted_now} {unit}, still not what it should be.")
            }
            (Some((wanted_now, now)), None) => {
                format!("{what}: it was as it should be before, and reads {now} of {wanted_now} {unit} now.")
            }
        };
        list.push(ReadingPair {
            what: what.clone(),
            unit: unit.clone(),
            wanted: *wanted,
            before: *got,
            after: again.map(|(_, got)| got),
            wanted_after: again.map(|(wanted, _)| wanted),
            short_before_pct: short(*wanted, *got),
            short_after_pct: again.map(|(wanted, got)| short(wanted, got)),
            mended,
            conditions: conditions.clone(),
            says,
        });
    }
    list
}

/// How likely the readings that are as they should be now were with nothing mended: each is an attempt under the fault's
/// own conditions, and each that fell short before had brought it on.
pub(super) fn readings_silence(ground: &Ground<'_>, repair: &Repair, pairs: &[ReadingPair]) -> f64 {
    let within = ground.knowledge.proof.same_reading.within_pct;
    let (before, after) = around(ground, repair);
    pairs
        .iter()
        .filter(|pair| pair.mended == Some(true))
        .map(|pair| {
            let taken = |entries: &[&Entry]| {
                entries.iter().fold((0.0, 0.0), |(short, all), entry| match &entry.finding {
                    Finding::SameReading { what, wanted, got, .. } if *what == pair.what => {
                        (short + f64::from(u8::from(falls_short(*wanted, *got, within))), all + 1.0)
                    }
                    _ => (short, all),
                })
            };
            let ((short, all), (_, again)) = (taken(before), taken(after));
            provoked_silence(short, all, again).unwrap_or(1.0)
        })
        .product()
}

/// The proof along every scale but kilometres on which the fault was watched.
pub(super) fn scales(ground: &Ground<'_>, repair: &Repair, prior_fixed: f64) -> Vec<ScaleProof> {
    let (before, after) = around(ground, repair);
    Scale::ALL
        .into_iter()
        .filter_map(|scale| {
            let mut input = Along { scale, watched: 0.0, occurrences: Vec::new(), clean_seen: 0.0, clean_told: 0.0 };
            for entry in before {
                if let Finding::Watched { scale: on, watched, occurrences, .. } = &entry.finding
                    && *on == scale
                {
                    // Watched on: what was watched before lies before it.
                    input.occurrences.extend(occurrences.iter().map(|at| at + input.watched));
                    input.watched += watched;
                }
            }
            if input.occurrences.is_empty() {
                return None;
            }
            for entry in after {
                match &entry.finding {
                    Finding::Ran { scale: on, clean, told, .. } if *on == scale => {
                        *(if *told { &mut input.clean_told } else { &mut input.clean_seen }) += clean;
                    }
                    Finding::Started { stood_h, .. } => {
                        let cold = stood_h.is_some_and(|hours| hours >= ground.knowledge.proof.soak.hours);
                        if scale == Scale::Starts || (scale == Scale::ColdStarts && cold) {
                            input.clean_seen += 1.0;
                        }
                    }
                    Finding::Counts { revolutions, .. } if scale == Scale::Revolutions => {
                        input.clean_seen += revolutions;
                    }
                    _ => {}
                }
            }
            Some(along(&input, prior_fixed, ground.knowledge))
        })
        .collect()
}

/// The drive that would prove it, from the maps of the recordings before the repair, with what was driven since ticked off.
pub(super) fn drive(ground: &Ground<'_>, repair: &Repair, prior_fixed: f64, target: f64) -> Option<DrivePlan> {
    let (before, after) = around(ground, repair);
    let cells_of = |entries: &[&Entry]| -> Vec<DrivenCell> {
        entries
            .iter()
            .filter_map(|entry| match &entry.finding {
                Finding::Recording { cells, .. } => Some(cells.clone()),
                _ => None,
            })
            .flatten()
            .collect()
    };
    let (then, since) = (cells_of(before), cells_of(after));
    let missing = |cylinder: usize| then.iter().map(|c| c.episodes.get(cylinder).copied().unwrap_or(0.0)).sum::<f64>();
    let count = usize::from(ground.engine.cylinders);
    let cylinder = repair
        .cylinder
        .map(|c| usize::from(c) - 1)
        .filter(|&c| missing(c) > 0.0)
        .or_else(|| (0..count).max_by(|&a, &b| missing(a).total_cmp(&missing(b)).then(b.cmp(&a))))?;
    let mut cells: Vec<DriveCell> = Vec::new();
    for (list, is_before) in [(&then, true), (&since, false)] {
        for one in list.iter().filter(|one| one.seconds > 0.0 && one.firings > 0.0) {
            let at = cells.iter().position(|c| (c.speed, c.load) == (one.speed, one.load)).unwrap_or_else(|| {
                cells.push(DriveCell {
                    speed: one.speed,
                    load: one.load,
                    episodes: 0.0,
                    firings_before: 0.0,
                    firings_since: 0.0,
                    firings_per_minute: 60.0 * one.firings / one.seconds,
                });
                cells.len() - 1
            });
            if is_before {
                cells[at].firings_before += one.firings;
                cells[at].episodes += one.episodes.get(cylinder).copied().unwrap_or(0.0);
            } else {
                cells[at].firings_since += one.firings;
            }
        }
    }
    drive_plan(&cells, prior_fixed, target, ground.knowledge).ok()
}

/// The prior after the attempts and the readings: what they say does not depend on distance.
pub(super) fn after_attempts(prior: f64, provoked: Option<&ProvokedShown>, readings: f64) -> f64 {
    let silence = provoked.map_or(1.0, |shown| shown.silence_by_chance) * readings;
    confident(prior, silence)
}
