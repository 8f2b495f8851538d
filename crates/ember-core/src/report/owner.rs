//! The owner's page: what was wrong, how it was found, what was fitted, how sure it is, what else was seen.

use super::{Block, ReportGround, Section, km, section, strong, sure, text};
use crate::circuit::Judged;
use crate::swap::{PlaceName, Verdict};
use crate::trail::{Finding, OldPartFound};
use crate::trail_words::whole;

pub(super) fn sections(ground: &ReportGround<'_>) -> Vec<Section> {
    vec![
        section("The complaint", complaint(ground)),
        section("What was found", found(ground)),
        section("What proves it", proves(ground)),
        section("What was fitted", fitted(ground)),
        section("Is it really fixed?", vec![text(fixed(ground))]),
        section("Also seen and left alone", vec![text(left_alone(ground))]),
    ]
}

fn complaint(ground: &ReportGround<'_>) -> Vec<Block> {
    let first = ground.standing().find_map(|entry| match &entry.finding {
        Finding::Complaint { symptoms, circumstances, text, .. } => {
            let said: Vec<&str> = symptoms.iter().chain(circumstances).map(String::as_str).collect();
            Some(
                [said.join(", "), text.clone()]
                    .into_iter()
                    .filter(|part| !part.is_empty())
                    .collect::<Vec<_>>()
                    .join(". "),
            )
        }
        _ => None,
    });
    vec![text(ended(&first.unwrap_or_default()))]
}

/// With one full stop at its end.
fn ended(text: &str) -> String {
    let trimmed = text.trim();
    if trimmed.is_empty() || trimmed.ends_with(['.', '!', '?']) { trimmed.to_owned() } else { format!("{trimmed}.") }
}

pub(super) fn found(ground: &ReportGround<'_>) -> Vec<Block> {
    let state = ground.state;
    let verdict = state.swap_in_force.as_ref().and_then(|swap| swap.result.as_ref()).filter(|result| result.decided);
    let recorded = state.recordings.last().map(|last| {
        let told = last.results.iter().filter(|result| result.decided && result.fault);
        told.map(|result| result.says.clone()).collect::<Vec<_>>().join(" ")
    });
    let what = match verdict {
        Some(result) if result.verdict == Verdict::Moved && result.part.is_some() => {
            let part = result.part.clone().unwrap_or_default();
            let place = match &result.suspect {
                Some(PlaceName::Cylinder(c)) => format!("cylinder {c}"),
                Some(other) => other.to_string(),
                None => "the suspect".into(),
            };
            let now = result
                .cylinder_now
                .map_or_else(String::new, |c| format!(": moved to cylinder {c}, it took the misfire along"));
            format!("The {part} of {place} carried the fault{now}.")
        }
        Some(result) => result.next.clone(),
        None => recorded
            .filter(|text| !text.is_empty())
            .or_else(|| state.misfire.as_ref().map(|shown| shown.result.says.clone()))
            .unwrap_or_else(|| "Nothing has been proven yet.".into()),
    };
    let cause = ground.standing().filter_map(|entry| match &entry.finding {
        Finding::Closed { cause, .. } => Some(cause.as_str()),
        _ => None,
    });
    let cause = cause.last().unwrap_or_default();
    let mut blocks = Vec::new();
    if !cause.is_empty() {
        blocks.push(strong(ended(cause)));
    }
    blocks.push(text(what));
    for entry in ground.standing() {
        match &entry.finding {
            Finding::Fitted { old_part, .. } if !old_part.trim().is_empty() => blocks.push(text(ended(old_part))),
            Finding::OldPart { found, how, why_failed, .. } => {
                let said = match found {
                    OldPartFound::Faulty => "The old part was looked into and was faulty.",
                    OldPartFound::Good => "The old part was looked into and is good: the search is open again.",
                    OldPartFound::CannotTell => {
                        "The old part was looked into; it cannot be told whether it was faulty."
                    }
                };
                let why = if why_failed.is_empty() { String::new() } else { format!("Why it failed: {why_failed}.") };
                blocks.push(text(
                    [said, &ended(how), &why].into_iter().filter(|s| !s.is_empty()).collect::<Vec<_>>().join(" "),
                ));
            }
            _ => {}
        }
    }
    let bad: Vec<_> = state.measured.iter().filter(|shown| shown.result.verdict == Judged::Bad).collect();
    for shown in bad.iter().rev().take(4).rev() {
        blocks.push(text(format!("{}: {}. {}", shown.result.title, shown.result.word, shown.result.says)));
    }
    if !state.put_right.is_empty() {
        let list: Vec<&str> = state.put_right.iter().map(|one| one.what.as_str()).collect();
        blocks.push(strong(format!("Still to be put right: {}.", list.join("; "))));
    }
    if !state.bench_out.off.is_empty() {
        blocks.push(strong(format!("The car is not closed up: {}", state.bench_out.says)));
    }
    blocks
}

fn proves(ground: &ReportGround<'_>) -> Vec<Block> {
    let state = ground.state;
    let mut blocks = Vec::new();
    let verdict = state.swap_in_force.as_ref().and_then(|swap| swap.result.as_ref()).filter(|result| result.decided);
    if let Some(result) = verdict {
        let p = result.hypotheses.first().map_or(0.0, |first| first.probability);
        blocks.push(text(format!(
            "A swap test: like parts changed places between cylinders, the fault memory was cleared, and the car was driven \
             again. That makes it {} sure.",
            sure(p)
        )));
    }
    if let Some(shown) = state.misfire.as_ref().filter(|shown| shown.when == "after the repair") {
        let total = shown.result.total_misfires;
        blocks.push(text(format!(
            "After the repair: {} {} on all cylinders in {} revolutions.",
            whole(total),
            if total == 1.0 { "misfire" } else { "misfires" },
            whole(shown.revolutions)
        )));
    }
    if let Some(proof) = &state.proof {
        let taken = proof.readings.iter().filter(|pair| pair.mended.is_some());
        blocks.extend(taken.map(|pair| text(pair.says.clone())));
        if let Some(provoked) = proof.provoked.as_ref().filter(|shown| shown.attempts_after > 0.0) {
            blocks.push(text(provoked.says.clone()));
        }
    }
    if blocks.is_empty() {
        blocks.push(text("No test has decided it yet."));
    }
    blocks
}

fn fitted(ground: &ReportGround<'_>) -> Vec<Block> {
    let mut items = Vec::new();
    for entry in ground.standing() {
        let Finding::Fitted { part, cylinder, part_number, cost, minutes, .. } = &entry.finding else { continue };
        let at = cylinder.map_or_else(String::new, |c| format!(" at cylinder {c}"));
        let number = if part_number.is_empty() { String::new() } else { format!(", number {part_number}") };
        let cost = cost.map_or_else(String::new, |cost| format!(": {cost:.2}"));
        let minutes = minutes.map_or_else(String::new, |minutes| format!(", {} minutes", whole(minutes)));
        items.push(format!("New {part}{at}{number}{cost}{minutes}"));
    }
    if items.is_empty() {
        return vec![text("Nothing yet.")];
    }
    let spent = ground.state.spent;
    let mut blocks = vec![Block::List { items }];
    if spent.parts_cost > 0.0 || spent.fitting_minutes > 0.0 {
        blocks.push(strong(format!(
            "In all {:.2} in parts and {} minutes for fitting.",
            spent.parts_cost,
            whole(spent.fitting_minutes)
        )));
    }
    blocks
}

fn fixed(ground: &ReportGround<'_>) -> String {
    let state = ground.state;
    let anyway: Vec<String> = ground
        .standing()
        .filter_map(|entry| match &entry.finding {
            Finding::Started { anyway, .. } if !anyway.is_empty() => {
                Some(format!("The engine was started although not everything was back: {anyway}."))
            }
            _ => None,
        })
        .collect();
    let answer = match (&state.proof, &state.repair) {
        (_, Some(repair)) if repair.came_back.is_some() => "No: it came back after the repair.".to_owned(),
        (Some(proof), Some(repair)) if proof.confidence.is_some() => {
            let p = proof.confidence.unwrap_or_default();
            let after = match &proof.result {
                Some(_) => format!(
                    "{} sure after {} without it; before, it had come {} times in {}.",
                    sure(p),
                    km(repair.clean_km),
                    proof.occurrences_km.len(),
                    km(proof.watched_km)
                ),
                None => format!("{} sure, by {}.", sure(p), proof.rests_on),
            };
            let then = match proof.further_km {
                _ if proof.enough => "That counts as proven.".to_owned(),
                Some(further) if further > 0.0 => format!(
                    "Please drive {} more and report if it shows: until then it is likely, and not proven.",
                    km(further.ceil())
                ),
                _ => "Please report if it shows: it is likely, and not proven yet.".into(),
            };
            format!("{after} {then}")
        }
        _ => format!("Not yet. Next: {}.", state.next.title),
    };
    [vec![answer], anyway].concat().join(" ")
}

pub(super) fn left_alone(ground: &ReportGround<'_>) -> String {
    let last = ground.standing().filter_map(|entry| match &entry.finding {
        Finding::Closed { left_alone, .. } => Some(left_alone.as_str()),
        _ => None,
    });
    let last = last.last().unwrap_or_default();
    if last.is_empty() { "Nothing.".into() } else { ended(last) }
}
