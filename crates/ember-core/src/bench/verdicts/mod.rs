//! Each kind of measurement with its computation, its figures and its evidence.

mod capture;
mod circuits;
mod looks;
mod ohm;
mod travel;

use super::evidence::finding;
use super::knowledge::{BenchCircuit, BenchKnowledge, BenchPart};
use super::{BenchResult, Measured, Measurement};
use crate::circuit::Judged;
use crate::circuit::diode::diode;
use crate::circuit::path::{PathPoint, PointKind};
use crate::engine::Engine;
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::suspects::target::Target;
use crate::vehicle::line;
use capture::{Captured, of_capture};
use circuits::{current, of_drop, of_path, of_pins, of_voltages};
use looks::{of_cylinders, of_hoses, of_marks};
use ohm::{continuity, of_part, substitution};
use travel::{of_hold, of_rod, of_sweep};

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
                None => bench.voltage.assumed_pct / 100.0 * ampere.abs(),
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
            let right = if *spark { bench.weight.good } else { bench.weight.bad };
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
            let read = Captured { verdict: *verdict, right: *right, says, figures, odd };
            Ok(of_capture(name, ask, &read, bench))
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

fn known_part<'a>(bench: &'a BenchKnowledge, part: &str) -> Result<&'a BenchPart, Refusal> {
    bench.parts.get(part).ok_or_else(|| {
        let names: Vec<&str> = bench.parts.keys().map(String::as_str).collect();
        Refusal::new("part", format!("there is no part {part}; there are {}", names.join(", ")))
    })
}
