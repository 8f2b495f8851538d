//! Entries of a trail in words: what a kind is called, and what an entry says in a line or two.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::bench_out::called;
use crate::knowledge::Knowledge;
use crate::quantity::grouped;
use crate::swap::{Move, PlaceName};
use crate::trail::{Entry, Finding, OldPartFound};

/// An entry in words.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct EntryWords {
    /// What its kind is called.
    pub kind: String,
    pub text: String,
}

/// All entries of a trail in words, by their numbers.
pub fn trail_words(entries: &[Entry], knowledge: &Knowledge) -> BTreeMap<u32, EntryWords> {
    let words =
        |entry: &Entry| EntryWords { kind: kind(&entry.finding).into(), text: describe(&entry.finding, knowledge) };
    entries.iter().map(|entry| (entry.number, words(entry))).collect()
}

/// What a kind of entry is called.
pub fn kind(finding: &Finding) -> &'static str {
    match finding {
        Finding::Complaint { .. } => "Complaint",
        Finding::Scan { .. } => "Codes read",
        Finding::Cleared { .. } => "Codes cleared",
        Finding::Counts { .. } => "Misfires counted",
        Finding::Recording { .. } => "Recorded",
        Finding::Moved { .. } => "Parts moved",
        Finding::Fitted { .. } => "New part fitted",
        Finding::OldPart { .. } => "Old part looked into",
        Finding::Decided { .. } => "Decided what to buy",
        Finding::Off { .. } => "Taken off",
        Finding::On { .. } => "Back on",
        Finding::Tightened { .. } => "Tightened",
        Finding::Coded { .. } => "Numbers written",
        Finding::Relearned { .. } => "Learnt again",
        Finding::Readiness { .. } => "Self-tests",
        Finding::Started { .. } => "Engine started",
        Finding::Parked { .. } => "Left to go cold",
        Finding::Watched { .. } => "How often it came",
        Finding::Ran { .. } => "Ran without it",
        Finding::Provoked { .. } => "Tried to bring it on",
        Finding::SameReading { .. } => "Reading to compare",
        Finding::OdometerReplaced { .. } => "Odometer replaced",
        Finding::Drive { .. } => "Driven clean",
        Finding::Occurred { .. } => "It came",
        Finding::Tested { .. } => "Tested",
        Finding::Measured(_) => "Measured",
        Finding::Righted { .. } => "Put right",
        Finding::Limits(_) => "Limits of the work",
        Finding::Need { .. } => "Need checked",
        Finding::Note { .. } => "Note",
        Finding::Closed { .. } => "Job closed",
        Finding::Reopened { .. } => "Job opened again",
        Finding::Withdrawn { .. } => "Withdrawn",
    }
}

/// What an entry says.
pub fn describe(finding: &Finding, knowledge: &Knowledge) -> String {
    match finding {
        Finding::Complaint { symptoms, circumstances, history, occurrences_km, text, .. } => {
            let said: Vec<&str> = symptoms.iter().chain(circumstances).chain(history).map(String::as_str).collect();
            let noticed: Vec<String> = occurrences_km.iter().map(|km| whole(*km)).collect();
            let noticed =
                if noticed.is_empty() { String::new() } else { format!("Noticed at {} km", noticed.join(", ")) };
            sentences(&[&said.join(", "), text, &noticed])
        }
        Finding::Scan { tool, units_read, units_unread, codes } => {
            let status = |code: &crate::codes::ReadCode| {
                code.status.map_or_else(String::new, |status| format!(" {}", plain(&status)))
            };
            let list: Vec<String> = codes.iter().map(|code| format!("{}{}", code.code, status(code))).collect();
            let list = if list.is_empty() { "no codes".into() } else { list.join(", ") };
            let unread = match units_unread.as_slice() {
                [] => String::new(),
                unread => format!("; not reached: {}", unread.join(", ")),
            };
            format!("{list} ({tool}; read: {}{unread})", units_read.join(", "))
        }
        Finding::Counts { revolutions, misfires, conditions, source, .. } => {
            let counts: Vec<String> = misfires.iter().map(|(c, k)| format!("{c}: {}", whole(*k))).collect();
            let conditions = if conditions.is_empty() { String::new() } else { format!(", {conditions}") };
            let source = if source.is_empty() { String::new() } else { format!(" ({source})") };
            format!("{} over {} revolutions{conditions}{source}", counts.join("  "), whole(*revolutions))
        }
        Finding::Recording { name, span_s, conditions, results, .. } => {
            let conditions = if conditions.is_empty() { String::new() } else { format!(", {conditions}") };
            let mut list = vec![format!("{name}, {:.1} min{conditions}", span_s / 60.0)];
            list.extend(results.iter().map(|result| result.says.clone()));
            sentences(&list.iter().map(String::as_str).collect::<Vec<_>>())
        }
        Finding::Moved { moves, put_back, text } => {
            let back = if *put_back { "put back: " } else { "" };
            let text = if text.is_empty() { String::new() } else { format!(". {text}") };
            format!("{back}{}{text}", exchanged(moves))
        }
        Finding::Fitted { part, cylinder, variant, part_number, old_part, supplier, .. } => {
            let variant = variant.as_ref().map_or_else(String::new, |v| format!("{v} "));
            let at = cylinder.map_or_else(String::new, |c| format!(" at cylinder {c}"));
            let from = if supplier.is_empty() { String::new() } else { format!("from {supplier}") };
            let old = if old_part.is_empty() { String::new() } else { format!("Old part: {old_part}") };
            sentences(&[&format!("{variant}{part}{at}"), part_number, &from, &old])
        }
        Finding::OldPart { fitted, found, how, why_failed, before_here } => {
            let found = match found {
                OldPartFound::Faulty => "it was faulty",
                OldPartFound::Good => "it is good: the verdict is open again",
                OldPartFound::CannotTell => "it cannot be told",
            };
            let why = if why_failed.is_empty() { String::new() } else { format!("Why it failed: {why_failed}") };
            let again = if *before_here == Some(true) { "It has failed at this place before" } else { "" };
            sentences(&[&format!("the one replaced in entry {fitted}: {found}"), how, &why, again])
        }
        Finding::Decided { chosen, ordered, text, .. } => {
            let list: Vec<String> =
                ordered.iter().map(|line| format!("{} × {}", whole(line.count), line.what)).collect();
            let list = if list.is_empty() { String::new() } else { format!("Ordered: {}", list.join(", ")) };
            sentences(&[chosen, &list, text])
        }
        Finding::Off { items } => {
            let one = |item: &crate::bench_out::OffItem| {
                let setting = if item.setting.is_empty() {
                    String::new()
                } else {
                    format!(" (measured before: {})", item.setting)
                };
                let how = plain(&item.how);
                let how = if how == "removed" { String::new() } else { format!(" {how}") };
                format!("{}{how}{setting}", called(item))
            };
            items.iter().map(one).collect::<Vec<_>>().join(", ")
        }
        Finding::On { items } => {
            let reasons: Vec<&str> = items.iter().map(|on| on.reason.as_str()).filter(|r| !r.is_empty()).collect();
            let new = items.iter().filter(|on| on.renewed).count();
            let new = if new > 0 { format!("{new} of them new") } else { String::new() };
            let count = items.len();
            sentences(&[&format!("{count} {}", if count == 1 { "thing" } else { "things" }), &new, &reasons.join("; ")])
        }
        Finding::Tightened { what, torque, renewed, reason } => {
            let stages = crate::torque::torque(torque, knowledge).map_or_else(|_| String::new(), |result| result.says);
            sentences(&[what, &stages, if *renewed { "New fasteners" } else { "" }, reason])
        }
        Finding::Coded { input } => {
            let says = crate::coding::coding(input, knowledge).map_or_else(|_| String::new(), |result| result.says);
            sentences(&[&input.what, &says])
        }
        Finding::Relearned { step, seconds, text } => {
            let title =
                knowledge.coding.relearn.iter().find(|one| one.name == *step).map_or(step.as_str(), |one| &one.title);
            sentences(&[&format!("{title}, {seconds:.0} s"), text])
        }
        Finding::Readiness { ready, not_ready } => {
            let list = |words: &str, names: &[String]| {
                if names.is_empty() { String::new() } else { format!("{words}: {}", names.join(", ")) }
            };
            sentences(&[&list("Ready", ready), &list("not yet", not_ready)])
        }
        Finding::Started { anyway, stood_h, text } => {
            let stood = stood_h.map_or_else(String::new, |hours| format!("after standing {hours:.0} h"));
            let anyway =
                if anyway.is_empty() { String::new() } else { format!("Although not everything was back: {anyway}") };
            sentences(&[&stood, &anyway, text])
        }
        Finding::Watched { scale, watched, occurrences, text } => {
            let times = occurrences.len();
            sentences(&[&format!("{times} times in {} {}", grouped(*watched), scale.unit()), text])
        }
        Finding::Ran { scale, clean, told, text } => {
            let who = if *told { ", as the owner tells it" } else { "" };
            sentences(&[&format!("{} {}{who}", grouped(*clean), scale.unit()), text])
        }
        Finding::Provoked { how, hits, attempts } => format!("{how}: it came {hits:.0} of {attempts:.0} times"),
        Finding::SameReading { what, unit, wanted, got, conditions } => {
            sentences(&[&format!("{what}: {} of {} {unit}", grouped(*got), grouped(*wanted)), conditions])
        }
        Finding::OdometerReplaced { reads_km } => format!("the new one reads {} km", whole(*reads_km)),
        Finding::Tested { test, target, outcome, text } => {
            let name = knowledge.book.test(test).map_or_else(|| test.replace('-', " "), |test| test.name.clone());
            let at = target.to_string();
            let at = if at == "engine" { String::new() } else { format!(", {at}") };
            sentences(&[&format!("{name}{at}: {}", outcome.replace('-', " ")), text])
        }
        Finding::Measured(measured) => {
            let conditions =
                if measured.conditions.is_empty() { String::new() } else { format!(", {}", measured.conditions) };
            let place = match measured.place {
                crate::bench::MeasuredWhere::InPlace => "",
                crate::bench::MeasuredWhere::BeforeFitting => "the new part, before fitting",
                crate::bench::MeasuredWhere::Removed => "the old part, taken out",
            };
            sentences(&[&format!("{}{conditions}", measured.instrument), place, &measured.text])
        }
        Finding::Righted { what } => what.clone(),
        Finding::Limits(limits) => {
            let left = limits.minutes_left.map_or_else(String::new, |left| format!("{} minutes left", whole(left)));
            let cannot = if limits.cannot.is_empty() {
                String::new()
            } else {
                format!("not here: {}", limits.cannot.join(", "))
            };
            let school = plain(&limits.school);
            let school = if school == "least cost" { String::new() } else { school };
            let text = sentences(&[if limits.alone { "alone" } else { "" }, &left, &cannot, &school]);
            if text.is_empty() { "none".into() } else { text }
        }
        Finding::Need { need, state, how } => format!("{}: {} ({how})", plain(need), plain(state)),
        Finding::Drive { conditions } if conditions.is_empty() => "no misfire felt".into(),
        Finding::Drive { conditions: text }
        | Finding::Cleared { text }
        | Finding::Occurred { text }
        | Finding::Parked { text }
        | Finding::Note { text }
        | Finding::Reopened { why: text }
        | Finding::Withdrawn { why: text } => text.clone(),
        Finding::Closed { left_alone, cause } => {
            let left = if left_alone.is_empty() { String::new() } else { format!("Seen and left alone: {left_alone}") };
            sentences(&[cause, &left])
        }
    }
}

/// Exchanges once each: `coil 3 ↔ 1, plug 3 ↔ 2`; what is no exchange move by move.
pub(crate) fn exchanged(moves: &[Move]) -> String {
    let mut list: Vec<String> = Vec::new();
    for one in moves {
        let (PlaceName::Cylinder(from), PlaceName::Cylinder(to)) = (&one.from, &one.to) else {
            list.push(format!("{} from {} to {}", one.part, one.from, one.to));
            continue;
        };
        let variant = one.variant.as_ref().map(|v| format!("{v} ")).unwrap_or_default();
        let back = format!("{variant}{} {to} ↔ {from}", one.part);
        if !list.contains(&back) {
            list.push(format!("{variant}{} {from} ↔ {to}", one.part));
        }
    }
    list.join(", ")
}

/// A whole figure, thousands apart.
pub(crate) fn whole(value: f64) -> String {
    grouped(value.round())
}

/// The word under which a choice travels, with its hyphens as gaps.
fn plain<T: Serialize>(choice: &T) -> String {
    serde_json::to_value(choice).ok().and_then(|v| v.as_str().map(|text| text.replace('-', " "))).unwrap_or_default()
}

/// Sentences one after the other, each with one full stop between.
fn sentences(list: &[&str]) -> String {
    let trimmed: Vec<&str> =
        list.iter().map(|one| one.trim().trim_end_matches('.')).filter(|one| !one.is_empty()).collect();
    trimmed.join(". ")
}
