//! Each kind of measurement with its computation, its figures and its evidence.

use super::cylinders::{CylinderReadingKind, CylindersInput, cylinders};
use super::evidence::{finding, finding_as};
use super::hold::{HoldInput, hold};
use super::knowledge::{BenchCircuit, BenchKnowledge};
use super::marks::{MarksInput, marks};
use super::meter::Display;
use super::resistance::{ResistanceInput, ResistanceResult, ResistanceVerdict, ohm_text, resistance, within};
use super::{BenchFigure, BenchMark, BenchResult, HosePlace, HoseState, Measured, Measurement};
use crate::boost::{ActuatorInput, RodVerdict};
use crate::circuit::diode::diode;
use crate::circuit::path::{PathInput, PathPoint, PointKind, path};
use crate::circuit::pins::{PinRole, PinsInput, pins};
use crate::circuit::sweep::{SweepInput, sweep};
use crate::circuit::voltage::{DropInput, PointOfMeasure, VoltagesInput, drop_under_load, voltages};
use crate::circuit::{Judged, volt};
use crate::engine::Engine;
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::suspects::target::Target;
use crate::vehicle::line;
use crate::waveform::WaveformKind;

/// A point of a circuit as the book writes it: `joint: sensor plug`.
pub(super) fn point(text: &str) -> Option<PathPoint> {
    let (kind, name) = text.split_once(':')?;
    let kind = serde_json::from_value::<PointKind>(kind.trim().into()).ok()?;
    Some(PathPoint {
        name: name.trim().into(),
        kind,
        wire: String::new(),
        volt: None,
        expected_v: None,
        seen: None,
        pierced: false,
    })
}

pub(super) fn judge(measured: &Measured, engine: &Engine, all: &Knowledge) -> Result<BenchResult, Refusal> {
    let bench = &all.bench;
    let target = measured.target.clone().unwrap_or(Target::Engine);
    let at = |name: &str| match &target {
        Target::Engine => name.to_owned(),
        target => format!("{name}, {target}"),
    };
    match &measured.reading {
        Measurement::Resistance { part, reading } => of_part(part, reading, &target, bench),
        Measurement::Substitution { part, alone, loom, both } => {
            substitution(part, [alone, loom, both].map(Option::as_ref), &target, bench)
        }
        Measurement::Continuity { between, display, limit_ohm, leads_ohm } => {
            continuity(between, display, *limit_ohm, *leads_ohm)
        }
        Measurement::Voltages { circuit, reading } => of_voltages(known(bench, circuit)?, reading, target, bench),
        Measurement::Drop { circuit, reading } => of_drop(known(bench, circuit)?, reading, bench),
        Measurement::Current { of, ampere, low_a, high_a, meter } => {
            line("of", of)?;
            let doubt = match meter {
                Some(meter) => {
                    meter.check()?;
                    meter.uncertainty(*ampere, 1.0)
                }
                None => 0.0,
            };
            current(at(of), *ampere, doubt, *low_a, *high_a)
        }
        Measurement::Path { circuit, path } => of_path(known(bench, circuit)?, path, &target, bench),
        Measurement::Pins { connector, pins } => of_pins(connector, pins, bench),
        Measurement::Diode { of, reading } => {
            line("of", of)?;
            let result = diode(reading)?;
            Ok(BenchResult::new(format!("Diode, {of}"), result.verdict, word(result.verdict), result.says))
        }
        Measurement::Sweep { of, sweep } => of_sweep(of, sweep, bench),
        Measurement::Cylinders { cylinders } => of_cylinders(cylinders, engine, bench),
        Measurement::KeyOffSpark { spark } => {
            let says = if *spark {
                "A lone spark as the ignition goes off: module and coil are alive; the trigger's side is next. That it comes at the right moment is not shown."
            } else {
                "No spark as the ignition goes off: the module, its ground (often its own case) and its feed, then the coil."
            };
            let verdict = if *spark { Judged::Good } else { Judged::Bad };
            let mut result = BenchResult::new("Spark at key-off".into(), verdict, word(verdict), says.into());
            let right = if *spark { 0.97 } else { 0.03 };
            result.evidence.push(finding(bench, &bench.answers["key-off-spark"], Target::Engine, right, says.into()));
            Ok(result)
        }
        Measurement::Hold { hold } => of_hold(hold, bench),
        Measurement::Rod { actuator, rod_mm } => of_rod(actuator, *rod_mm, bench),
        Measurement::Hoses { map, places } => of_hoses(map, places, bench),
        Measurement::Marks { marks } => of_marks(marks, bench),
        Measurement::Waveform { name, ask, verdict, right, says, figures, odd, .. } => {
            line("name", name)?;
            if !right.is_finite() || !(0.0..=1.0).contains(right) {
                return Err(Refusal::new("right", "must lie between 0 and 1"));
            }
            let mut result = BenchResult::new(format!("Capture {name}"), *verdict, word(*verdict), says.clone());
            result.figures = figures
                .iter()
                .map(|one| BenchFigure {
                    label: one.label.clone(),
                    value: Some(one.median),
                    low: Some(one.least),
                    high: Some(one.most),
                    should_low: None,
                    should_high: None,
                    unit: one.unit.clone(),
                    verdict: Judged::CannotTell,
                    says: String::new(),
                })
                .collect();
            let kind = serde_json::to_value(ask.of).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
            let Some(answer) = bench.answers.get(&kind) else { return Ok(result) };
            let compared = figures.iter().filter(|f| f.cylinders.len() > 1).max_by_key(|f| f.cylinders.len());
            match compared {
                Some(figure) => {
                    for name in figure.cylinders.keys() {
                        let Ok(cylinder) = name.parse::<u8>() else { continue };
                        let off = odd.iter().find(|one| one.cylinder == cylinder);
                        let says = match off {
                            Some(odd) => format!("Capture, cylinder {cylinder}: {:.2} {} where the others have {:.2}", odd.value, odd.unit, odd.others),
                            None => format!("Capture, cylinder {cylinder}: like its sisters"),
                        };
                        let right = if off.is_some() { 0.06 } else { 0.93 };
                        result.evidence.push(finding(bench, answer, Target::Cylinder(cylinder), right, says));
                    }
                }
                None if *verdict != Judged::CannotTell && matches!(ask.of, WaveformKind::MotorDrive | WaveformKind::CrankAndCam) => {
                    result.evidence.push(finding(bench, answer, Target::Engine, *right, says.clone()));
                }
                None => {}
            }
            Ok(result)
        }
    }
}

fn word(verdict: Judged) -> &'static str {
    match verdict {
        Judged::Good => "good",
        Judged::Bad => "bad",
        Judged::CannotTell => "cannot tell",
    }
}

fn known<'a>(bench: &'a BenchKnowledge, circuit: &str) -> Result<&'a BenchCircuit, Refusal> {
    bench.circuits.get(circuit).ok_or_else(|| {
        let names: Vec<&str> = bench.circuits.keys().map(String::as_str).collect();
        Refusal::new("circuit", format!("there is no circuit {circuit}; there are {}", names.join(", ")))
    })
}

fn known_part<'a>(bench: &'a BenchKnowledge, part: &str) -> Result<&'a super::knowledge::BenchPart, Refusal> {
    bench.parts.get(part).ok_or_else(|| {
        let names: Vec<&str> = bench.parts.keys().map(String::as_str).collect();
        Refusal::new("part", format!("there is no part {part}; there are {}", names.join(", ")))
    })
}

fn ohm_word(verdict: ResistanceVerdict) -> (Judged, &'static str) {
    match verdict {
        ResistanceVerdict::Pass => (Judged::Good, "pass"),
        ResistanceVerdict::Fail => (Judged::Bad, "fail"),
        ResistanceVerdict::CannotTell => (Judged::CannotTell, "cannot tell"),
        ResistanceVerdict::Open => (Judged::Bad, "open"),
        ResistanceVerdict::Short => (Judged::Bad, "short"),
    }
}

fn ohm_figure(label: &str, result: &ResistanceResult) -> BenchFigure {
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

fn of_part(
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
        told.figures.extend(sisters.iter().enumerate().map(|(index, &ohm)| BenchFigure {
            label: format!("sister {}", index + 1),
            value: Some(ohm),
            low: None,
            high: None,
            should_low: None,
            should_high: None,
            unit: "ohm".into(),
            verdict: Judged::CannotTell,
            says: String::new(),
        }));
    }
    for answer in &known.reads {
        let place = if answer.0 == "single-coil-resistance" { Target::Engine } else { target.clone() };
        told.evidence.push(finding(bench, answer, place, result.right, format!("{title}: {word}")));
    }
    Ok(told)
}

/// A known-good part in the place of the suspect, measured from the control unit's end: one reading proves part and
/// wiring apart.
fn substitution(
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
        (Some(Good), Some(Good), Some(Bad)) => (Bad, "Each is good alone and bad together: the connection between them."),
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
            (_, Some(Good), _) => Some(0.96),
            (Some(Good), ..) => Some(0.9),
            (Some(Bad), ..) | (_, Some(Bad), Some(Good)) => Some(0.05),
            _ => None,
        };
        if let Some(right) = loom_right {
            let answer = &bench.parts["injector-loom"].reads[0];
            told.evidence.push(finding(bench, answer, target.clone(), right, says.into()));
        }
    }
    Ok(told)
}

fn continuity(between: &str, display: &Display, limit_ohm: f64, leads_ohm: f64) -> Result<BenchResult, Refusal> {
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
            (Judged::Good, "through", format!("{} less the leads, within {}. A single strand left shows the same: load it to be sure.", ohm_text(ohm), ohm_text(limit_ohm)), Some(ohm))
        } else {
            (Judged::Bad, "too high", format!("{} less the leads, more than {}.", ohm_text(ohm), ohm_text(limit_ohm)), Some(ohm))
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

fn of_voltages(
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
        .map(|one| BenchFigure {
            label: format!("key {}", one.key),
            value: Some(one.volt),
            low: None,
            high: None,
            should_low: one.low_v,
            should_high: one.high_v,
            unit: "V".into(),
            verdict: one.verdict,
            says: one.says.clone(),
        })
        .collect();
    let right = if result.verdict == Judged::Good { 0.95 } else { 0.05 };
    let of = |keys: &[&str]| -> Option<f64> {
        let list: Vec<_> = result.readings.iter().filter(|r| keys.contains(&r.key.as_str())).collect();
        (!list.is_empty()).then(|| if list.iter().all(|r| r.verdict != Judged::Bad) { 0.95 } else { 0.05 })
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

fn of_drop(circuit: &BenchCircuit, reading: &DropInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    let result = drop_under_load(reading, bench).map_err(|refusal| refusal.within("reading"))?;
    let mut told = BenchResult::new(
        format!("{}: voltage lost under load", circuit.name),
        result.verdict,
        word(result.verdict),
        result.says.clone(),
    );
    told.figures.push(BenchFigure {
        label: "lost".into(),
        value: Some(result.drop_at_limit_v),
        low: Some(result.low_v),
        high: Some(result.high_v),
        should_low: None,
        should_high: Some(reading.limit_v),
        unit: "V".into(),
        verdict: result.verdict,
        says: result.says.clone(),
    });
    let sigma = ((result.high_v - result.low_v) / 2.0 / bench.weight.band_sigmas).max(1e-9);
    if result.verdict != Judged::CannotTell || result.high_v > result.low_v {
        let right = if reading.current_a < bench.voltage.least_share * reading.full_current_a.unwrap_or(reading.current_a) && result.verdict == Judged::CannotTell {
            0.5
        } else {
            within(result.drop_at_limit_v, sigma, f64::NEG_INFINITY, reading.limit_v)
        };
        told.evidence.push(finding(bench, &circuit.joint, Target::Engine, right, result.says));
    }
    Ok(told)
}

fn current(
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
        (None, None) => (Judged::CannotTell, format!("{ampere:.2} A; without a figure it stands on the trail and is not judged.")),
        (Some(least), _) if high < least => (Judged::Bad, format!("{ampere:.2} A, at least {least:.2} A expected: resistance in the circuit, or a part worn open.")),
        (_, Some(most)) if low > most => (Judged::Bad, format!("{ampere:.2} A, at most {most:.2} A expected: a short, or a mechanism that is stiff.")),
        (least, most) if least.is_none_or(|l| low >= l) && most.is_none_or(|m| high <= m) => (Judged::Good, format!("{ampere:.2} A, as it should be.")),
        _ => (Judged::CannotTell, format!("{low:.2} to {high:.2} A overlaps an end of what is expected.")),
    };
    let mut told = BenchResult::new(title, verdict, word(verdict), says);
    told.figures.push(BenchFigure {
        label: "current".into(),
        value: Some(ampere),
        low: Some(low),
        high: Some(high),
        should_low: low_a,
        should_high: high_a,
        unit: "A".into(),
        verdict,
        says: String::new(),
    });
    Ok(told)
}

fn of_path(
    circuit: &BenchCircuit,
    input: &PathInput,
    target: &Target,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
    let result = path(input, bench).map_err(|refusal| refusal.within("path"))?;
    let mut told = BenchResult::new(
        format!("{}: the path", circuit.name),
        result.verdict,
        if result.verdict == Judged::Bad && result.left.len() == 1 { "found" } else { word(result.verdict) },
        result.says.clone(),
    );
    told.next = result.next.clone();
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
            Some(BenchFigure {
                label: point.name.clone(),
                value: Some(point.volt?),
                low: None,
                high: None,
                should_low: None,
                should_high: None,
                unit: "V".into(),
                verdict: judged.verdict.unwrap_or(Judged::CannotTell),
                says: judged.says.clone(),
            })
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
        say(&circuit.joint, 0.85);
        if circuit.wire.0 != circuit.joint.0 {
            say(&circuit.wire, 0.75);
        }
    }
    Ok(told)
}

fn of_pins(connector: &str, input: &PinsInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    line("connector", connector)?;
    let result = pins(input, bench).map_err(|refusal| refusal.within("pins"))?;
    let mut told = BenchResult::new(format!("Pins of {connector}"), result.verdict, word(result.verdict), result.says.clone());
    told.put_right = result.put_right.iter().map(|what| format!("{what}, {connector}")).collect();
    told.figures = result
        .pins
        .iter()
        .map(|one| BenchFigure {
            label: format!("pin {}", one.pin),
            value: input.readings.iter().find(|r| r.pin == one.pin).and_then(|r| r.volt),
            low: None,
            high: None,
            should_low: None,
            should_high: None,
            unit: "V".into(),
            verdict: one.verdict,
            says: one.says.clone(),
        })
        .collect();
    if result.crossed.is_empty() && !result.reversed && result.verdict != Judged::CannotTell {
        let right = if result.verdict == Judged::Good { 0.85 } else { 0.2 };
        told.evidence.push(finding(bench, &bench.answers["pins"], Target::Engine, right, result.says.clone()));
        let reference = result.pins.iter().find(|one| one.expected == Some(PinRole::Reference));
        if let Some(reference) = reference {
            let right = if reference.verdict == Judged::Good { 0.95 } else { 0.06 };
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
    told.evidence.push(finding_as(bench, answer, obeys_tester, Target::Engine, 0.1, result.says));
    Ok(told)
}

fn of_sweep(of: &str, input: &SweepInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    line("of", of)?;
    let result = sweep(input, bench).map_err(|refusal| refusal.within("sweep"))?;
    let mut told = BenchResult::new(format!("Sweep, {of}"), result.verdict, word(result.verdict), result.says.clone());
    let limits = &bench.sweep;
    let figure = |label: &str, value: Option<f64>, most: f64| {
        value.map(|value| BenchFigure {
            label: label.into(),
            value: Some(value),
            low: None,
            high: None,
            should_low: None,
            should_high: Some(most),
            unit: "%".into(),
            verdict: if value > most { Judged::Bad } else { Judged::Good },
            says: String::new(),
        })
    };
    told.figures = [
        figure("largest step", Some(result.step_pct), limits.step_pct),
        figure("dead travel", result.dead_pct, limits.dead_pct),
        figure("hysteresis", result.hysteresis_pct, limits.hysteresis_pct),
        figure("off the straight line", result.linearity_pct, limits.linearity_pct),
        figure("tracks apart", result.tracks_pct, limits.tracks_pct),
    ]
    .into_iter()
    .flatten()
    .collect();
    told.marks = result
        .marks
        .iter()
        .map(|mark| BenchMark { at: mark.at, says: mark.says.clone(), likelihood: None })
        .collect();
    if let Some(answer) = bench.answers.get(of) {
        let right = if result.verdict == Judged::Good { 0.92 } else { 0.05 };
        told.evidence.push(finding(bench, answer, Target::Engine, right, result.says));
    }
    Ok(told)
}

fn of_cylinders(input: &CylindersInput, engine: &Engine, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    let result = cylinders(input, engine, bench).map_err(|refusal| refusal.within("cylinders"))?;
    let (name, key, unit) = match input.of {
        CylinderReadingKind::Compression => ("Compression", "compression", "kPa"),
        CylinderReadingKind::RelativeCompression => ("Relative compression", "relative-compression", "%"),
        CylinderReadingKind::LeakDown => ("Leak-down", "leak-down", "%"),
        CylinderReadingKind::Spark => ("Spark", "spark", ""),
        CylinderReadingKind::GlowPlug => ("Glow plugs", "glow-plug", "A"),
        CylinderReadingKind::Plug => ("Plugs", "plug", "mm"),
    };
    let mut told = BenchResult::new(name.into(), result.verdict, word(result.verdict), result.says.clone());
    told.figures = result
        .cylinders
        .iter()
        .map(|one| {
            let reading = input.readings.iter().find(|r| r.cylinder == one.cylinder);
            BenchFigure {
                label: format!("cylinder {}", one.cylinder),
                value: reading.and_then(|r| if input.of == CylinderReadingKind::Plug { r.gap_mm } else { r.value }),
                low: None,
                high: None,
                should_low: input.spec_low,
                should_high: input.spec_high,
                unit: unit.into(),
                verdict: one.verdict,
                says: one.says.clone(),
            }
        })
        .collect();
    let answer = &bench.answers[key];
    for one in &result.cylinders {
        if (one.right - 0.5).abs() < 1e-9 {
            continue;
        }
        let bad = if one.outcome == answer.1 { "" } else { one.outcome.as_str() };
        let says = format!("{name}, cylinder {}: {}", one.cylinder, one.says);
        told.evidence.push(finding_as(bench, answer, bad, Target::Cylinder(one.cylinder), one.right, says));
    }
    Ok(told)
}

fn of_hold(input: &HoldInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    let result = hold(input, bench).map_err(|refusal| refusal.within("hold"))?;
    let mut told = BenchResult::new(format!("Holds? {}", input.what), result.verdict, word(result.verdict), result.says.clone());
    told.figures.push(BenchFigure {
        label: "falls by".into(),
        value: Some(result.fall_pct_per_min),
        low: Some(result.low_pct_per_min),
        high: Some(result.high_pct_per_min),
        should_low: None,
        should_high: Some(result.limit_pct_per_min),
        unit: "% a minute".into(),
        verdict: result.verdict,
        says: String::new(),
    });
    let what = input.what.to_lowercase();
    let key = if what.contains("fuel") || what.contains("rail") { "fuel-hold" } else { "actuator-hold" };
    if what.contains("actuator") || key == "fuel-hold" {
        told.evidence.push(finding(bench, &bench.answers[key], Target::Engine, result.right, result.says));
    }
    Ok(told)
}

fn of_rod(input: &ActuatorInput, rod_mm: Option<f64>, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    if rod_mm.is_some_and(|mm| !mm.is_finite() || !(1.0..=1000.0).contains(&mm)) {
        return Err(Refusal::new("rod_mm", "must lie between 1 and 1000 mm"));
    }
    let moved = input.readings.iter().any(|reading| reading.turns != 0.0);
    if moved && rod_mm.is_none() {
        return Err(Refusal::new("rod_mm", "is missing: its length is measured before it is moved"));
    }
    let result = super::rod(input).map_err(|refusal| refusal.within("actuator"))?;
    let verdict = match result.verdict {
        RodVerdict::Holds => Judged::Good,
        RodVerdict::Turn | RodVerdict::SpanWrong => Judged::Bad,
        RodVerdict::CannotTell => {
            if result.readings.iter().any(|r| !r.rest_holds || !r.full_holds) { Judged::Bad } else { Judged::CannotTell }
        }
    };
    let named = match result.verdict {
        RodVerdict::Holds => "inside",
        RodVerdict::Turn => "turn it",
        RodVerdict::SpanWrong => "span wrong",
        RodVerdict::CannotTell => "one setting",
    };
    let mut told = BenchResult::new("Rod of the actuator".into(), verdict, named, result.says.clone());
    let windows = [("rest", input.windows.rest.ends()), ("full travel", input.windows.full.ends())];
    if let Some(now) = result.readings.last() {
        for ((label, (low, high)), (value, holds)) in
            windows.into_iter().zip([(now.rest_v, now.rest_holds), (now.full_v, now.full_holds)])
        {
            volt("readings", value)?;
            told.figures.push(BenchFigure {
                label: label.into(),
                value: Some(value),
                low: None,
                high: None,
                should_low: Some(low),
                should_high: Some(high),
                unit: "V".into(),
                verdict: if holds { Judged::Good } else { Judged::Bad },
                says: format!("rod at {:+.2} turns", now.turns),
            });
        }
    }
    if result.verdict == RodVerdict::Turn
        && let Some(turns) = result.turns_to_go
    {
        told.next = Some(format!("{turns:+.2} turns, then measure again"));
    }
    // What was found is the first reading; what the rod was set to since is a repair.
    let found = &result.readings[0];
    let right = if found.rest_holds && found.full_holds { 0.95 } else { 0.05 };
    told.evidence.push(finding(bench, &bench.answers["actuator-window"], Target::Engine, right, result.says));
    Ok(told)
}

fn of_hoses(map: &str, places: &[HosePlace], bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    let Some(known) = bench.hoses.get(map) else {
        return Err(Refusal::new("map", format!("there is no map {map}")));
    };
    if places.is_empty() {
        return Err(Refusal::new("places", "is empty"));
    }
    for (index, place) in places.iter().enumerate() {
        line("name", &place.name).map_err(|refusal| refusal.within(&format!("places[{index}]")))?;
    }
    let of = |state: HoseState| places.iter().filter(|p| p.state == state).map(|p| p.name.clone()).collect::<Vec<_>>();
    let (leaks, unseen) = (of(HoseState::Leaks), of(HoseState::NotSeen));
    let (verdict, says, right) = if !leaks.is_empty() {
        (Judged::Bad, format!("Smoke comes out at {}.", leaks.join(", ")), 0.03)
    } else if unseen.is_empty() {
        (Judged::Good, "No smoke comes out anywhere.".into(), 0.95)
    } else {
        (Judged::CannotTell, format!("Tight where it was seen; not looked at: {}.", unseen.join(", ")), 0.5 + 0.4 * (places.len() - unseen.len()) as f64 / places.len() as f64)
    };
    let mut told = BenchResult::new("Smoke along the hoses".into(), verdict, if verdict == Judged::Bad { "leaks" } else { word(verdict) }, says.clone());
    told.marks = places
        .iter()
        .enumerate()
        .filter(|(_, place)| place.state == HoseState::Leaks)
        .map(|(at, place)| BenchMark { at, says: if place.note.is_empty() { "leaks".into() } else { place.note.clone() }, likelihood: None })
        .collect();
    let answer = (known.test.clone(), "tight".to_owned(), "leaks".to_owned());
    told.evidence.push(finding(bench, &answer, Target::Engine, right, says));
    Ok(told)
}

fn of_marks(input: &MarksInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    let result = marks(input, bench).map_err(|refusal| refusal.within("marks"))?;
    let mut told = BenchResult::new("Timing marks".into(), result.verdict, word(result.verdict), result.says.clone());
    told.figures = result
        .marks
        .iter()
        .map(|one| BenchFigure {
            label: one.name.clone(),
            value: Some(one.off_teeth),
            low: None,
            high: None,
            should_low: Some(-bench.marks.fair_teeth),
            should_high: Some(bench.marks.fair_teeth),
            unit: "teeth".into(),
            verdict: one.verdict,
            says: format!("{:+.0} crank degrees", one.crank_deg),
        })
        .collect();
    let right = match result.verdict {
        Judged::Good => 0.96,
        Judged::Bad => 0.03,
        Judged::CannotTell => 0.5,
    };
    told.evidence.push(finding(bench, &bench.answers["marks"], Target::Engine, right, result.says));
    Ok(told)
}
