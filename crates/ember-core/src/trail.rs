//! The trail of a job: what was seen, moved, cleared, driven and fitted, in order, never rewritten.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::bench::Measured;
use crate::bench_out::{OffItem, OnItem, bench_out, check_off, check_on};
use crate::codes::{Code, ReadCode};
use crate::coding::{CodingInput, coding};
use crate::decide::{DecideInput, OrderLine, Source, decide};
use crate::engine::Engine;
use crate::job::Limits;
use crate::knowledge::Knowledge;
use crate::misfire::{CountWindow, Counts};
use crate::proof::Scale;
use crate::refusal::{Refusal, above_zero, whole_count};
use crate::suspects::target::Target;
use crate::suspects::{FindingInput, check_tested};
use crate::swap::{Move, check_moves};
use crate::torque::{TorqueInput, torque};
use crate::vehicle::line;

/// The longest free text: far more than anybody types, and short of what would choke a tablet.
pub const LONGEST_TEXT: usize = 256 * 1024;
/// The most minutes or money an entry may claim: beyond it a digit slipped.
const MOST: f64 = 1e6;

/// What an engine needs to run, each at the right moment.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Need {
    Fuel,
    Air,
    Spark,
    Compression,
    Timing,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum NeedState {
    Proven,
    Missing,
    Unknown,
}

/// What was looked at on a new part before it went in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PartCheck {
    Number,
    Connector,
    Seals,
    Measured,
}

/// What the old part turned out to be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum OldPartFound {
    Faulty,
    /// There is nothing wrong with it: the verdict is open again.
    Good,
    CannotTell,
}

/// What an entry says, by its kind.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Finding {
    /// What the driver complains of.
    Complaint {
        symptoms: Vec<String>,
        #[serde(default)]
        circumstances: Vec<String>,
        /// What was done to it, or happened to it, before.
        #[serde(default)]
        history: Vec<String>,
        /// The odometer reading from which anybody watched for it.
        #[serde(default)]
        observed_from_km: Option<f64>,
        /// The odometer readings at which it was noticed.
        #[serde(default)]
        occurrences_km: Vec<f64>,
        #[serde(default)]
        text: String,
    },
    /// Codes as a tool read them.
    Scan {
        tool: String,
        units_read: Vec<String>,
        #[serde(default)]
        units_unread: Vec<String>,
        codes: Vec<ReadCode>,
    },
    /// Codes were cleared, after they had been saved.
    Cleared {
        #[serde(default)]
        text: String,
    },
    /// Misfire counters over a drive or a stretch of running.
    Counts {
        revolutions: f64,
        misfires: BTreeMap<String, f64>,
        #[serde(default)]
        windows: Vec<CountWindow>,
        /// `idle`, `cruise`, `under load`, ... in the technician's words.
        #[serde(default)]
        conditions: String,
        /// Where the figures come from: typed, or the name of a file.
        #[serde(default)]
        source: String,
    },
    /// A recording of live data, and what it says.
    Recording {
        /// Its number in the store.
        recording: i64,
        name: String,
        span_s: f64,
        samples: u64,
        channels: Vec<String>,
        #[serde(default)]
        conditions: String,
        #[serde(default)]
        results: Vec<crate::recording::RecordingResult>,
        /// Where it was driven and where it misfired, for the proof.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        cells: Vec<crate::recording::DrivenCell>,
    },
    /// Parts changed places.
    Moved {
        moves: Vec<Move>,
        /// Put back where they belong, not moved to learn something.
        #[serde(default)]
        put_back: bool,
        #[serde(default)]
        text: String,
    },
    /// A part was replaced.
    Fitted {
        part: String,
        cylinder: Option<u8>,
        #[serde(default)]
        variant: Option<String>,
        #[serde(default)]
        part_number: String,
        #[serde(default)]
        cost: Option<f64>,
        #[serde(default)]
        minutes: Option<f64>,
        /// What the old part showed when it was looked into.
        #[serde(default)]
        old_part: String,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        source: Option<Source>,
        #[serde(default, skip_serializing_if = "String::is_empty")]
        supplier: String,
        /// What was looked at before it went in: `number`, `connector`, `seals`, `measured`.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        checked: Vec<PartCheck>,
    },
    /// The old part was looked into, once it was out.
    OldPart {
        /// The entry in which its successor was fitted.
        fitted: u32,
        found: OldPartFound,
        /// How, and what was seen.
        #[serde(default)]
        how: String,
        /// Why it failed: oil, heat, chafing, a worn neighbour.
        #[serde(default)]
        why_failed: String,
        /// Whether it has failed at this place before.
        #[serde(default)]
        before_here: Option<bool>,
    },
    /// What is to be bought was weighed, and chosen.
    Decided {
        input: Box<DecideInput>,
        /// The name of the option that was taken.
        chosen: String,
        ordered: Vec<OrderLine>,
        #[serde(default)]
        text: String,
    },
    /// Things came off, were loosened, drained, dropped or broken.
    Off {
        items: Vec<OffItem>,
    },
    /// Things are back.
    On {
        items: Vec<OnItem>,
    },
    /// Something was tightened by its stages.
    Tightened {
        what: String,
        torque: TorqueInput,
        #[serde(default)]
        renewed: bool,
        /// Why fasteners were used again that should be new.
        #[serde(default)]
        reason: String,
    },
    /// Numbers were written into a control unit and read back.
    Coded {
        input: CodingInput,
    },
    /// Something was learnt again: a step of the knowledge, and for how long.
    Relearned {
        step: String,
        seconds: f64,
        #[serde(default)]
        text: String,
    },
    /// Which self-tests have run since the codes were cleared.
    Readiness {
        ready: Vec<String>,
        not_ready: Vec<String>,
    },
    /// The engine was started after work on it.
    Started {
        /// Why although not everything is back.
        #[serde(default)]
        anyway: String,
        /// Hours that it had stood.
        #[serde(default)]
        stood_h: Option<f64>,
        /// What was looked for: leaks, noises, lights.
        #[serde(default)]
        text: String,
    },
    /// Left to go cold.
    Parked {
        #[serde(default)]
        text: String,
    },
    /// How often the fault came before the repair, along another scale than kilometres.
    Watched {
        scale: Scale,
        /// The amount that was watched.
        watched: f64,
        /// Where in it the fault came.
        occurrences: Vec<f64>,
        #[serde(default)]
        text: String,
    },
    /// How much was run without the fault, along another scale than kilometres.
    Ran {
        scale: Scale,
        clean: f64,
        /// It is the owner who says so.
        #[serde(default)]
        told: bool,
        #[serde(default)]
        text: String,
    },
    /// Attempts to bring the fault on, and how many of them did.
    Provoked {
        how: String,
        hits: f64,
        attempts: f64,
    },
    /// A reading under load that can be taken again after the repair: what was asked for, what came.
    SameReading {
        what: String,
        #[serde(default)]
        unit: String,
        wanted: f64,
        got: f64,
        #[serde(default)]
        conditions: String,
    },
    /// The odometer was replaced; `odometer_km` of the entry is the last reading of the old one.
    OdometerReplaced {
        reads_km: f64,
    },
    /// Driven; the fault did not show.
    Drive {
        #[serde(default)]
        conditions: String,
    },
    /// The fault was felt.
    Occurred {
        #[serde(default)]
        text: String,
    },
    /// A test of the book was made.
    Tested {
        test: String,
        /// `engine`, `bank 1`, `cylinder 3`.
        target: Target,
        outcome: String,
        /// What else was seen or read.
        #[serde(default)]
        text: String,
    },
    /// Something was measured at the bench or on the car.
    Measured(Box<Measured>),
    /// What had to be put right again was.
    Righted {
        what: String,
    },
    /// Under which limits the work goes on.
    Limits(Limits),
    /// One of the five needs was checked.
    Need {
        need: Need,
        state: NeedState,
        /// How: `spark tester at cylinder 3, strong and blue`.
        how: String,
    },
    Note {
        text: String,
    },
    Closed {
        /// What else was seen and left alone.
        #[serde(default)]
        left_alone: String,
        /// What it was, in the technician's words.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        cause: String,
    },
    Reopened {
        why: String,
    },
    /// The entry that this one replaces was a mistake and counts for nothing.
    Withdrawn {
        why: String,
    },
}

/// What an entry may name by its number in the store.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum FileKind {
    Recording,
    Capture,
    Photo,
}

impl Finding {
    /// Gives the recordings, captures and photographs that the entry names other numbers; what has none any more is left
    /// out.
    pub fn renumber(&mut self, number: &mut dyn FnMut(FileKind, i64) -> Option<i64>) {
        match self {
            Finding::Recording { recording, .. } => {
                *recording = number(FileKind::Recording, *recording).unwrap_or_default();
            }
            Finding::Measured(measured) => measured.renumber(number),
            Finding::Off { items } => {
                for item in items {
                    item.photo = item.photo.and_then(|photo| number(FileKind::Photo, photo));
                }
            }
            _ => {}
        }
    }
}

/// An entry as somebody hands it in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewEntry {
    pub odometer_km: f64,
    pub author: String,
    /// The number of the entry that this one corrects.
    #[serde(default)]
    pub replaces: Option<u32>,
    pub finding: Finding,
}

/// An entry as it stands on the trail.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Entry {
    /// Its place on the trail of its job, from 1.
    pub number: u32,
    /// When it was written, RFC 3339 in UTC.
    pub at: String,
    pub odometer_km: f64,
    pub author: String,
    pub replaces: Option<u32>,
    pub finding: Finding,
}

/// The entries that count, each correction in the place of what it corrects, withdrawn ones left out.
pub fn effective(entries: &[Entry]) -> Vec<&Entry> {
    let mut places: Vec<&Entry> = Vec::new();
    for entry in entries {
        match entry.replaces.and_then(|old| places.iter().position(|e| e.number == old)) {
            Some(place) => places[place] = entry,
            None => places.push(entry),
        }
    }
    places.retain(|entry| !matches!(entry.finding, Finding::Withdrawn { .. }));
    places
}

/// Checks a new entry against the engine and the trail so far.
///
/// # Errors
/// An odometer that is no number, negative or out of its order; an author left out; a correction of an entry that
/// does not exist or was corrected already; counts, moves or codes that cannot be; texts that are too long.
pub fn check(engine: &Engine, entries: &[Entry], new: &NewEntry) -> Result<(), Refusal> {
    line("author", &new.author)?;
    if let Some(old) = new.replaces {
        if !entries.iter().any(|entry| entry.number == old) {
            return Err(Refusal::new("replaces", format!("there is no entry {old} on this job")));
        }
        if let Some(later) = entries.iter().find(|entry| entry.replaces == Some(old)) {
            return Err(Refusal::new(
                "replaces",
                format!("entry {old} was corrected already, by entry {}", later.number),
            ));
        }
    }
    check_odometer(entries, new)?;
    check_finding(engine, entries, new).map_err(|refusal| refusal.within("finding"))
}

/// How far the odometer's reading lies below the way really gone, at the end of these entries.
fn carried_km<'a>(standing: impl Iterator<Item = &'a Entry>) -> f64 {
    standing
        .filter_map(|entry| match entry.finding {
            Finding::OdometerReplaced { reads_km } => Some(entry.odometer_km - reads_km),
            _ => None,
        })
        .sum()
}

/// The entries with their readings carried on over every replaced odometer, so that distances can be reckoned.
pub fn carried_on(entries: &[Entry]) -> Vec<Entry> {
    let mut offset = 0.0;
    let standing: Vec<u32> = effective(entries).iter().map(|entry| entry.number).collect();
    let mut list = entries.to_vec();
    for number in standing {
        let Some(entry) = list.iter_mut().find(|entry| entry.number == number) else { continue };
        let read = entry.odometer_km;
        entry.odometer_km += offset;
        match &mut entry.finding {
            Finding::Complaint { observed_from_km, occurrences_km, .. } => {
                for km in observed_from_km.iter_mut().chain(occurrences_km) {
                    *km += offset;
                }
            }
            Finding::OdometerReplaced { reads_km } => offset += read - *reads_km,
            _ => {}
        }
    }
    list
}

fn check_odometer(entries: &[Entry], new: &NewEntry) -> Result<(), Refusal> {
    let km = new.odometer_km;
    if !km.is_finite() || km < 0.0 {
        return Err(Refusal::new("odometer_km", "must be zero or more"));
    }
    let standing = effective(entries);
    let place = match new.replaces {
        Some(old) => standing.iter().position(|entry| entry.number == old).unwrap_or(standing.len()),
        None => standing.len(),
    };
    let carried = |upto: usize| carried_km(standing[..upto].iter().copied());
    if let Some(before) = place.checked_sub(1).and_then(|i| standing.get(i))
        && km + carried(place) < before.odometer_km + carried(place - 1)
    {
        return Err(Refusal::new(
            "odometer_km",
            format!(
                "runs backwards: entry {} stands at {} km. If that one is wrong, correct it first; if the odometer was \
                 replaced, write that down first",
                before.number, before.odometer_km
            ),
        ));
    }
    // A corrected change of the odometer still carries what follows it.
    let own = match new.finding {
        Finding::OdometerReplaced { reads_km } => km - reads_km,
        _ => 0.0,
    };
    if let Some(after) = standing.get(place + 1)
        && new.replaces.is_some()
        && km > after.odometer_km + own
    {
        return Err(Refusal::new(
            "odometer_km",
            format!("lies behind entry {}, which stands at {} km", after.number, after.odometer_km),
        ));
    }
    Ok(())
}

fn check_finding(engine: &Engine, entries: &[Entry], new: &NewEntry) -> Result<(), Refusal> {
    match &new.finding {
        Finding::Complaint { symptoms, circumstances, history, observed_from_km, occurrences_km, text } => {
            if symptoms.iter().all(|s| s.trim().is_empty()) && text.trim().is_empty() {
                return Err(Refusal::new("symptoms", "name at least one, or describe it"));
            }
            for word in symptoms.iter().chain(circumstances).chain(history) {
                line("symptoms", word)?;
            }
            check_history(new.odometer_km, *observed_from_km, occurrences_km)?;
            free_text("text", text)
        }
        Finding::Scan { tool, units_read, codes, .. } => {
            line("tool", tool)?;
            if units_read.iter().all(|unit| unit.trim().is_empty()) {
                return Err(Refusal::new("units_read", "which units answered? An unread unit is not a clean one"));
            }
            for (index, read) in codes.iter().enumerate() {
                Code::parse(&read.code).map_err(|reason| Refusal::new(format!("codes[{index}]"), reason))?;
            }
            Ok(())
        }
        Finding::Counts { revolutions, misfires, windows, conditions, source } => {
            Counts::new(engine, *revolutions, misfires)?;
            for (index, window) in windows.iter().enumerate() {
                Counts::new(engine, window.revolutions, &window.misfires)
                    .map_err(|refusal| refusal.within(&format!("windows[{index}]")))?;
            }
            free_text("conditions", conditions)?;
            free_text("source", source)
        }
        Finding::Recording { name, span_s, conditions, .. } => {
            line("name", name)?;
            if !span_s.is_finite() || *span_s < 0.0 {
                return Err(Refusal::new("span_s", "must be zero or more"));
            }
            free_text("conditions", conditions)
        }
        Finding::Moved { moves, text, .. } => {
            check_moves(engine, moves)?;
            free_text("text", text)
        }
        Finding::Fitted { part, cylinder, cost, minutes, part_number, old_part, supplier, .. } => {
            line("part", part)?;
            if let Some(cylinder) = cylinder
                && !engine.has(*cylinder)
            {
                return Err(Refusal::new("cylinder", format!("the engine has no cylinder {cylinder}")));
            }
            for (name, value) in [("cost", cost), ("minutes", minutes)] {
                if value.is_some_and(|v| !v.is_finite() || !(0.0..=MOST).contains(&v)) {
                    return Err(Refusal::new(name, format!("must lie between 0 and {MOST}")));
                }
            }
            free_text("part_number", part_number)?;
            free_text("supplier", supplier)?;
            free_text("old_part", old_part)
        }
        Finding::OldPart { fitted, how, why_failed, .. } => {
            let is_there = effective(entries)
                .iter()
                .any(|entry| entry.number == *fitted && matches!(entry.finding, Finding::Fitted { .. }));
            if !is_there {
                return Err(Refusal::new("fitted", format!("entry {fitted} does not say that a part was fitted")));
            }
            free_text("how", how)?;
            free_text("why_failed", why_failed)
        }
        Finding::Decided { input, chosen, text, .. } => {
            let result = decide(input, Knowledge::built_in()).map_err(|refusal| refusal.within("input"))?;
            if !result.options.iter().any(|option| option.name == *chosen) {
                return Err(Refusal::new("chosen", format!("{chosen} is not among what can be had")));
            }
            free_text("text", text)
        }
        Finding::Off { items } => check_off(items),
        Finding::On { items } => check_on(entries, items),
        Finding::Tightened { what, torque: stages, renewed, reason } => {
            line("what", what)?;
            torque(stages, Knowledge::built_in()).map_err(|refusal| refusal.within("torque"))?;
            if stages.single_use && !renewed && reason.trim().is_empty() {
                return Err(Refusal::new("renewed", "single use: were new ones fitted? If not, say why not"));
            }
            free_text("reason", reason)
        }
        Finding::Coded { input } => {
            let engine_has = |number: &crate::coding::CodedNumber| number.cylinder.is_none_or(|c| engine.has(c));
            if let Some(at) = input.numbers.iter().position(|number| !engine_has(number)) {
                let reason = "the engine has no such cylinder";
                return Err(Refusal::new(format!("input.numbers[{at}].cylinder"), reason));
            }
            coding(input, Knowledge::built_in()).map(|_| ()).map_err(|refusal| refusal.within("input"))
        }
        Finding::Relearned { step, seconds, text } => {
            if !Knowledge::built_in().coding.relearn.iter().any(|one| one.name == *step) {
                return Err(Refusal::new("step", format!("{step} is no step that is learnt again")));
            }
            if !seconds.is_finite() || *seconds < 0.0 {
                return Err(Refusal::new("seconds", "must be zero or more"));
            }
            free_text("text", text)
        }
        Finding::Readiness { ready, not_ready } => {
            let known = &Knowledge::built_in().parameters.self_tests;
            for (field, list) in [("ready", ready), ("not_ready", not_ready)] {
                if let Some(strange) = list.iter().find(|name| !known.has(name)) {
                    return Err(Refusal::new(field, format!("{strange} is no self-test that a car reports")));
                }
            }
            if let Some(twice) = ready.iter().find(|name| not_ready.contains(name)) {
                return Err(Refusal::new("not_ready", format!("{twice} cannot be ready and not ready")));
            }
            Ok(())
        }
        Finding::Started { anyway, stood_h, text } => {
            if stood_h.is_some_and(|hours| !hours.is_finite() || !(0.0..=MOST).contains(&hours)) {
                return Err(Refusal::new("stood_h", format!("must lie between 0 and {MOST}")));
            }
            let standing = effective(entries);
            let put_right = crate::job::put_right_of(&standing, engine);
            let list = bench_out(&standing, &put_right);
            if list.holds_start && anyway.trim().is_empty() {
                let reason = format!("{} Start it anyway? Then say why: it stands on the report", list.says);
                return Err(Refusal::new("anyway", reason));
            }
            free_text("anyway", anyway)?;
            free_text("text", text)
        }
        Finding::Watched { watched, occurrences, text, .. } => {
            above_zero("watched", *watched)?;
            if occurrences.is_empty() {
                return Err(Refusal::new("occurrences", "is empty: where did it come?"));
            }
            if let Some(strange) = occurrences.iter().find(|at| !at.is_finite() || **at <= 0.0 || **at > *watched) {
                return Err(Refusal::new(
                    "occurrences",
                    format!("{strange} does not lie within the {watched} watched"),
                ));
            }
            free_text("text", text)
        }
        Finding::Ran { clean, text, .. } => {
            above_zero("clean", *clean)?;
            free_text("text", text)
        }
        Finding::Provoked { how, hits, attempts } => {
            line("how", how)?;
            let (hits, attempts) = (whole_count("hits", *hits)?, whole_count("attempts", *attempts)?);
            if attempts == 0.0 || hits > attempts {
                return Err(Refusal::new("hits", format!("{hits} of {attempts} attempts cannot be")));
            }
            Ok(())
        }
        Finding::SameReading { what, wanted, got, conditions, unit } => {
            line("what", what)?;
            above_zero("wanted", *wanted)?;
            if !got.is_finite() || *got < 0.0 {
                return Err(Refusal::new("got", "must be zero or more"));
            }
            free_text("unit", unit)?;
            free_text("conditions", conditions)
        }
        Finding::OdometerReplaced { reads_km } => {
            if !reads_km.is_finite() || *reads_km < 0.0 {
                return Err(Refusal::new("reads_km", "must be zero or more"));
            }
            Ok(())
        }
        Finding::Tested { test, target, outcome, text } => {
            let finding = FindingInput {
                test: test.clone(),
                target: Some(target.clone()),
                outcome: Some(outcome.clone()),
                likelihood: None,
                says: None,
            };
            check_tested(engine, &finding)?;
            free_text("text", text)
        }
        Finding::Measured(measured) => {
            measured.judge(engine, Knowledge::built_in())?;
            free_text("conditions", &measured.conditions)?;
            free_text("text", &measured.text)
        }
        Finding::Righted { what } => free_text("what", what).and_then(|()| {
            if what.trim().is_empty() { Err(Refusal::new("what", "what was put right?")) } else { Ok(()) }
        }),
        Finding::Limits(limits) => {
            if limits.minutes_left.is_some_and(|left| !left.is_finite() || !(0.0..=MOST).contains(&left)) {
                return Err(Refusal::new("minutes_left", format!("must lie between 0 and {MOST}")));
            }
            limits.cannot.iter().try_for_each(|name| line("cannot", name))
        }
        Finding::Need { how, .. } => {
            if how.trim().is_empty() {
                return Err(Refusal::new("how", "how was it checked?"));
            }
            free_text("how", how)
        }
        Finding::Note { text } => {
            if text.trim().is_empty() {
                return Err(Refusal::new("text", "is empty"));
            }
            free_text("text", text)
        }
        Finding::Withdrawn { why } | Finding::Reopened { why } => {
            if matches!(new.finding, Finding::Withdrawn { .. }) && new.replaces.is_none() {
                return Err(Refusal::new("replaces", "which entry is withdrawn?"));
            }
            line("why", why)
        }
        Finding::Cleared { text }
        | Finding::Drive { conditions: text }
        | Finding::Occurred { text }
        | Finding::Parked { text } => free_text("text", text),
        Finding::Closed { left_alone, cause } => {
            free_text("cause", cause)?;
            free_text("left_alone", left_alone)
        }
    }
}

fn check_history(odometer_km: f64, from: Option<f64>, occurrences: &[f64]) -> Result<(), Refusal> {
    for &km in from.iter().chain(occurrences) {
        if !km.is_finite() || km < 0.0 {
            return Err(Refusal::new("occurrences_km", "must be zero or more"));
        }
    }
    if let Some(from) = from
        && from >= odometer_km
    {
        return Err(Refusal::new("observed_from_km", format!("must lie before the reading now, {odometer_km} km")));
    }
    for &km in occurrences {
        if km > odometer_km {
            return Err(Refusal::new(
                "occurrences_km",
                format!("{km} km lies beyond the reading now, {odometer_km} km"),
            ));
        }
        if from.is_some_and(|from| km <= from) {
            return Err(Refusal::new(
                "occurrences_km",
                format!("{km} km does not lie after the start of the observation"),
            ));
        }
    }
    Ok(())
}

fn free_text(field: &str, text: &str) -> Result<(), Refusal> {
    if text.len() > LONGEST_TEXT {
        return Err(Refusal::new(field, format!("is longer than {} kB", LONGEST_TEXT / 1024)));
    }
    Ok(())
}
