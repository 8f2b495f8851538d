//! Voltages, currents, paths and pins.

use super::word;
use crate::bench::evidence::{finding, finding_as};
use crate::bench::knowledge::{BenchCircuit, BenchKnowledge};
use crate::bench::resistance::within;
use crate::bench::{BenchFigure, BenchMark, BenchResult};
use crate::circuit::Judged;
use crate::circuit::path::{PathInput, PointKind, path};
use crate::circuit::pins::{PinJudged, PinRole, PinsInput, pins};
use crate::circuit::voltage::{DropInput, PointOfMeasure, VoltagesInput, drop_under_load, voltages};
use crate::refusal::Refusal;
use crate::suspects::target::Target;
use crate::vehicle::line;

pub(super) fn of_voltages(
    circuit: &BenchCircuit,
    reading: &VoltagesInput,
    target: Target,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
    let result = voltages(reading, bench).map_err(|refusal| refusal.within("reading"))?;
    let title = match reading.point {
        PointOfMeasure::Battery => "Battery".to_owned(),
        PointOfMeasure::Ground => format!("{}: ground", circuit.name),
        PointOfMeasure::SwitchedFeed => format!("{}: feed with the key", circuit.name),
        PointOfMeasure::LastingFeed => format!("{}: lasting feed", circuit.name),
        PointOfMeasure::CrankingFeed => format!("{}: feed while cranking", circuit.name),
    };
    let mut told = BenchResult::new(title, result.verdict, word(result.verdict), result.says.clone());
    told.figures = result
        .readings
        .iter()
        .map(|one| {
            BenchFigure::new(format!("key {}", one.key), Some(one.volt), "V")
                .should(one.low_v, one.high_v)
                .judged(one.verdict)
        })
        .collect();
    let right = bench.weight.of(result.verdict == Judged::Good);
    let of = |keys: &[&str]| -> Option<f64> {
        let list: Vec<_> = result.readings.iter().filter(|r| keys.contains(&r.key.as_str())).collect();
        (!list.is_empty()).then(|| bench.weight.of(list.iter().all(|r| r.verdict != Judged::Bad)))
    };
    let mut say = |answer: &(String, String, String), target: Target, right: f64| {
        told.evidence.push(finding(bench, answer, target, right, format!("{}: {}", told.title, result.says)));
    };
    match reading.point {
        PointOfMeasure::Battery => {
            if let Some(right) = of(&["off", "on", "crank"]) {
                say(&bench.answers["battery"], Target::Engine, right);
            }
            if let Some(right) = of(&["run"]) {
                say(&bench.answers["charging"], Target::Engine, right);
            }
        }
        PointOfMeasure::Ground => say(&bench.answers["ground"], Target::Engine, right),
        PointOfMeasure::CrankingFeed => {
            if let Some(right) = of(&["crank"]) {
                say(&bench.answers["cranking-feed"], Target::Engine, right);
            }
        }
        PointOfMeasure::SwitchedFeed | PointOfMeasure::LastingFeed => {
            // A feed that is there only while it cranks is a running feed that is lost.
            if let Some(right) = of(&["on", "run"]).or(of(&["crank"])) {
                say(&circuit.feed, target, right);
            }
        }
    }
    Ok(told)
}

pub(super) fn of_drop(
    circuit: &BenchCircuit,
    reading: &DropInput,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
    let result = drop_under_load(reading, bench).map_err(|refusal| refusal.within("reading"))?;
    let mut told = BenchResult::new(
        format!("{}: voltage lost under load", circuit.name),
        result.verdict,
        word(result.verdict),
        result.says.clone(),
    );
    told.figures.push(
        BenchFigure::new("lost", Some(result.drop_at_limit_v), "V")
            .doubt(Some(result.low_v), Some(result.high_v))
            .should(None, Some(reading.limit_v))
            .judged(result.verdict)
            .says(result.says.clone()),
    );
    let sigma = ((result.high_v - result.low_v) / 2.0 / bench.weight.band_sigmas).max(1e-9);
    if result.verdict != Judged::CannotTell || result.high_v > result.low_v {
        let right = if reading.current_a
            < bench.voltage.least_share * reading.full_current_a.unwrap_or(reading.current_a)
            && result.verdict == Judged::CannotTell
        {
            0.5
        } else {
            within(result.drop_at_limit_v, sigma, f64::NEG_INFINITY, reading.limit_v)
        };
        told.evidence.push(finding(bench, &circuit.joint, Target::Engine, right, result.says));
    }
    Ok(told)
}

pub(super) fn current(
    title: String,
    ampere: f64,
    doubt: f64,
    low_a: Option<f64>,
    high_a: Option<f64>,
) -> Result<BenchResult, Refusal> {
    if !ampere.is_finite() || ampere.abs() > 2000.0 {
        return Err(Refusal::new("ampere", "must lie between -2000 and 2000"));
    }
    if let (Some(low), Some(high)) = (low_a, high_a)
        && low > high
    {
        return Err(Refusal::new("low_a", format!("low {low} lies above high {high}")));
    }
    let (low, high) = (ampere - doubt, ampere + doubt);
    let (verdict, says) = match (low_a, high_a) {
        (None, None) => {
            (Judged::CannotTell, format!("{ampere:.2} A; without a figure it stands on the trail and is not judged."))
        }
        (Some(least), _) if high < least => (
            Judged::Bad,
            format!("{ampere:.2} A, at least {least:.2} A expected: resistance in the circuit, or a part worn open."),
        ),
        (_, Some(most)) if low > most => (
            Judged::Bad,
            format!("{ampere:.2} A, at most {most:.2} A expected: a short, or a mechanism that is stiff."),
        ),
        (least, most) if least.is_none_or(|l| low >= l) && most.is_none_or(|m| high <= m) => {
            (Judged::Good, format!("{ampere:.2} A, as it should be."))
        }
        _ => (Judged::CannotTell, format!("{low:.2} to {high:.2} A overlaps an end of what is expected.")),
    };
    let mut told = BenchResult::new(title, verdict, word(verdict), says);
    told.figures.push(
        BenchFigure::new("current", Some(ampere), "A")
            .doubt(Some(low), Some(high))
            .should(low_a, high_a)
            .judged(verdict),
    );
    Ok(told)
}

pub(super) fn of_path(
    circuit: &BenchCircuit,
    input: &PathInput,
    target: &Target,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
    let result = path(input, bench).map_err(|refusal| refusal.within("path"))?;
    let mut told = BenchResult::new(
        format!("{}: the path", circuit.name),
        result.verdict,
        match (result.verdict, result.left.len()) {
            (Judged::Bad, 1) => "found",
            (Judged::Bad, _) => "lost on the way",
            _ => word(result.verdict),
        },
        result.says.clone(),
    );
    told.next = result.next.as_ref().map(|point| format!("measure at {point}"));
    told.marks = result
        .points
        .iter()
        .enumerate()
        .map(|(at, one)| BenchMark { at, says: one.says.clone(), likelihood: Some(one.likelihood) })
        .collect();
    told.figures = input
        .points
        .iter()
        .zip(&result.points)
        .filter_map(|(point, judged)| {
            Some(
                BenchFigure::new(point.name.clone(), Some(point.volt?), "V")
                    .should(judged.low_v, judged.high_v)
                    .judged(judged.verdict.unwrap_or(Judged::CannotTell)),
            )
        })
        .collect();
    told.put_right = input
        .points
        .iter()
        .filter(|point| point.pierced)
        .map(|point| format!("seal the pierced wire at {}", point.name))
        .collect();
    let mut say = |answer: &(String, String, String), right: f64| {
        told.evidence.push(finding(bench, answer, target.clone(), right, format!("{}: {}", circuit.name, result.says)));
    };
    if result.verdict == Judged::Bad {
        // Pieces that are left share the suspicion by how often such pieces fail.
        let share = |kinds: &[PointKind]| -> f64 {
            input
                .points
                .iter()
                .zip(&result.points)
                .filter(|(point, _)| kinds.contains(&point.kind))
                .map(|(_, judged)| judged.likelihood)
                .sum()
        };
        let joints = share(&[PointKind::Joint, PointKind::Ground]);
        let feeds = share(&[PointKind::Feed, PointKind::Fuse, PointKind::Relay]);
        if joints > 0.0 {
            say(&circuit.joint, 1.0 - joints.max(0.5));
        }
        if feeds > 0.5 {
            say(&circuit.feed, 1.0 - feeds);
        }
    } else if result.verdict == Judged::Good {
        say(&circuit.joint, bench.weight.likely);
        if circuit.wire.0 != circuit.joint.0 {
            say(&circuit.wire, bench.weight.likely);
        }
    }
    Ok(told)
}

pub(super) fn of_pins(connector: &str, input: &PinsInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    line("connector", connector)?;
    let result = pins(input, bench).map_err(|refusal| refusal.within("pins"))?;
    let mut told =
        BenchResult::new(format!("Pins of {connector}"), result.verdict, word(result.verdict), result.says.clone());
    told.put_right = result.put_right.iter().map(|what| format!("{what}, {connector}")).collect();
    told.figures = result
        .pins
        .iter()
        .map(|one| {
            BenchFigure::new(
                format!("pin {}", one.pin),
                input.readings.iter().find(|r| r.pin == one.pin).and_then(|r| r.volt),
                "V",
            )
            .judged(one.verdict)
            .says(pin_shows(one))
        })
        .collect();
    if result.crossed.is_empty() && !result.reversed && result.verdict != Judged::CannotTell {
        let right = if result.verdict == Judged::Good { bench.weight.likely } else { bench.weight.unlikely };
        told.evidence.push(finding(bench, &bench.answers["pins"], Target::Engine, right, result.says.clone()));
        let reference = result.pins.iter().find(|one| one.expected == Some(PinRole::Reference));
        if let Some(reference) = reference {
            let right = bench.weight.of(reference.verdict == Judged::Good);
            let answer = &bench.circuits["crank-sensor"].feed;
            told.evidence.push(finding(bench, answer, Target::Engine, right, reference.says.clone()));
        }
    }
    if result.crossed.is_empty() && !result.reversed {
        return Ok(told);
    }
    told.word = if result.reversed { "reversed" } else { "crossed" }.into();
    // A motor that runs the wrong way obeys a tester that drives it and not the car that corrects it.
    let answer = &bench.answers["motor-drive"];
    let obeys_tester = "obeys-tester-only";
    told.evidence.push(finding_as(bench, answer, obeys_tester, Target::Engine, bench.weight.bad, result.says));
    Ok(told)
}

fn pin_shows(one: &PinJudged) -> String {
    match one.expected {
        Some(wanted) if wanted != one.shows => format!("shows {}, {} expected", one.shows.words(), wanted.words()),
        _ => one.shows.words().into(),
    }
}
