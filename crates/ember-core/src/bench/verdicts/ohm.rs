//! Resistances: a part, a part through its loom, a way through.

use super::{known_part, word};
use crate::bench::evidence::finding;
use crate::bench::knowledge::BenchKnowledge;
use crate::bench::meter::Display;
use crate::bench::resistance::{ResistanceInput, ResistanceResult, ResistanceVerdict, ohm_text, resistance};
use crate::bench::{BenchFigure, BenchResult};
use crate::circuit::Judged;
use crate::refusal::Refusal;
use crate::suspects::target::Target;
use crate::vehicle::line;

pub(super) fn ohm_word(verdict: ResistanceVerdict) -> (Judged, &'static str) {
    match verdict {
        ResistanceVerdict::Pass => (Judged::Good, "pass"),
        ResistanceVerdict::Fail => (Judged::Bad, "fail"),
        ResistanceVerdict::CannotTell => (Judged::CannotTell, "cannot tell"),
        ResistanceVerdict::Open => (Judged::Bad, "open"),
        ResistanceVerdict::Short => (Judged::Bad, "short"),
    }
}

pub(super) fn ohm_figure(label: &str, result: &ResistanceResult) -> BenchFigure {
    BenchFigure {
        label: label.into(),
        value: result.ohm_at_spec,
        low: result.low_ohm,
        high: result.high_ohm,
        should_low: result.spec_low_ohm,
        should_high: result.spec_high_ohm,
        unit: "ohm".into(),
        verdict: ohm_word(result.verdict).0,
        says: match (result.ohm, result.uncertainty_ohm) {
            (Some(ohm), Some(doubt)) => format!("measured {} ± {}", ohm_text(ohm), ohm_text(doubt)),
            _ => "over the range".into(),
        },
    }
}

pub(super) fn of_part(
    part: &str,
    reading: &ResistanceInput,
    target: &Target,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
    let known = known_part(bench, part)?;
    if known.per == crate::suspects::book::Per::Cylinder && *target == Target::Engine && !known.reads.is_empty() {
        let single = known.reads.iter().any(|(test, ..)| test == "single-coil-resistance");
        if !single {
            return Err(Refusal::new("part", "which cylinder's?"));
        }
    }
    let result = resistance(reading, bench).map_err(|refusal| refusal.within("reading"))?;
    let (verdict, word) = ohm_word(result.verdict);
    let title = match target {
        Target::Engine => known.name.clone(),
        target => format!("{}, {target}", known.name),
    };
    let odd = result.score.is_some() && result.verdict == ResistanceVerdict::Fail;
    let mut told = BenchResult::new(title.clone(), verdict, if odd { "odd one out" } else { word }, result.why.clone());
    told.would_help = result.would_help.clone();
    told.figures.push(ohm_figure("at the specification", &result));
    if let Some(sisters) = &reading.sisters {
        told.figures[0].label = "this one".into();
        told.figures.extend(
            sisters
                .iter()
                .enumerate()
                .map(|(index, &ohm)| BenchFigure::new(format!("sister {}", index + 1), Some(ohm), "ohm")),
        );
    }
    for answer in &known.reads {
        let place = if answer.0 == "single-coil-resistance" { Target::Engine } else { target.clone() };
        told.evidence.push(finding(bench, answer, place, result.right, format!("{title}: {word}")));
    }
    Ok(told)
}

/// A known-good part in the place of the suspect, measured from the control unit's end: one reading proves part and
/// wiring apart.
pub(super) fn substitution(
    part: &str,
    [alone, loom, both]: [Option<&ResistanceInput>; 3],
    target: &Target,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
    let known = known_part(bench, part)?;
    let judged = |name: &str, input: Option<&ResistanceInput>| {
        input.map(|one| resistance(one, bench).map_err(|refusal| refusal.within(name))).transpose()
    };
    let results =
        [("alone", judged("alone", alone)?), ("loom", judged("loom", loom)?), ("both", judged("both", both)?)];
    let good = |index: usize| results[index].1.as_ref().map(|r| ohm_word(r.verdict).0);
    if results.iter().all(|(_, result)| result.is_none()) {
        return Err(Refusal::new("both", "is missing: the part alone, the loom alone, or both, at least one"));
    }
    use Judged::{Bad, CannotTell, Good};
    let (verdict, says) = match (good(0), good(1), good(2)) {
        (_, _, Some(Good)) => (Good, "Good through the whole loom: part and wiring are proven in one reading."),
        (Some(Good), Some(Good), Some(Bad)) => {
            (Bad, "Each is good alone and bad together: the connection between them.")
        }
        (Some(Good), _, Some(Bad)) => (Bad, "The part alone is good: the fault lies in the loom or its plugs."),
        (Some(Bad), _, _) => (Bad, "The part itself is bad."),
        (_, Some(Bad), _) => (Bad, "The loom is bad."),
        (_, _, Some(Bad)) => (Bad, "Bad through the loom: now the part alone, at its own pins."),
        (Some(Good), Some(Good), _) => (Good, "Part and loom are good, each by itself."),
        (Some(Good), ..) => (CannotTell, "The part is good; the loom was not measured."),
        (_, Some(Good), _) => (CannotTell, "The loom is good; the part was not measured."),
        _ => (CannotTell, "The readings do not decide it."),
    };
    let mut told = BenchResult::new(format!("{} through the loom", known.name), verdict, word(verdict), says.into());
    for (name, result) in &results {
        if let Some(result) = result {
            told.figures.push(ohm_figure(name, result));
        }
    }
    let part_right = results[0].1.as_ref().or(results[2].1.as_ref().filter(|r| ohm_word(r.verdict).0 == Good));
    if let Some(result) = part_right {
        for answer in &known.reads {
            told.evidence.push(finding(bench, answer, target.clone(), result.right, format!("{}: {says}", known.name)));
        }
    }
    if part == "injector" || part == "injector-loom" {
        let loom_right = match (good(1), good(2), good(0)) {
            (_, Some(Good), _) => Some(bench.weight.good),
            (Some(Good), ..) => Some(bench.weight.likely),
            (Some(Bad), ..) | (_, Some(Bad), Some(Good)) => Some(bench.weight.bad),
            _ => None,
        };
        if let Some(right) = loom_right {
            let answer = &bench.parts["injector-loom"].reads[0];
            told.evidence.push(finding(bench, answer, target.clone(), right, says.into()));
        }
    }
    Ok(told)
}

pub(super) fn continuity(
    between: &str,
    display: &Display,
    limit_ohm: f64,
    leads_ohm: f64,
) -> Result<BenchResult, Refusal> {
    line("between", between)?;
    crate::refusal::above_zero("limit_ohm", limit_ohm)?;
    if !leads_ohm.is_finite() || leads_ohm < 0.0 {
        return Err(Refusal::new("leads_ohm", "must be nought or more"));
    }
    let read = display.readings()?;
    let (verdict, word, says, value) = if read.values.is_empty() {
        (Judged::Bad, "open", "No way through: open.".to_owned(), None)
    } else {
        let ohm = (read.mean() * read.multiplier.unwrap_or(1.0) - leads_ohm).max(0.0);
        if read.overloads > 0 {
            (Judged::Bad, "comes and goes", "It comes and goes: a break that touches.".to_owned(), Some(ohm))
        } else if ohm <= limit_ohm {
            (
                Judged::Good,
                "through",
                format!(
                    "{} less the leads, within {}. A single strand left shows the same: load it to be sure.",
                    ohm_text(ohm),
                    ohm_text(limit_ohm)
                ),
                Some(ohm),
            )
        } else {
            (
                Judged::Bad,
                "too high",
                format!("{} less the leads, more than {}.", ohm_text(ohm), ohm_text(limit_ohm)),
                Some(ohm),
            )
        }
    };
    let mut told = BenchResult::new(format!("Continuity, {between}"), verdict, word, says);
    told.figures.push(BenchFigure {
        label: between.into(),
        value,
        low: None,
        high: None,
        should_low: None,
        should_high: Some(limit_ohm),
        unit: "ohm".into(),
        verdict,
        says: String::new(),
    });
    Ok(told)
}
