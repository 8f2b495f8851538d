//! What a capture of the scope showed.

use super::word;
use crate::bench::evidence::finding;
use crate::bench::knowledge::BenchKnowledge;
use crate::bench::{BenchFigure, BenchResult};
use crate::circuit::Judged;
use crate::suspects::target::Target;
use crate::waveform::{OddOne, WaveFigure, WaveformAsk, WaveformKind};

/// What was read out of a capture when it was put on the trail.
pub(super) struct Captured<'a> {
    pub verdict: Judged,
    pub right: f64,
    pub says: &'a str,
    pub figures: &'a [WaveFigure],
    pub odd: &'a [OddOne],
}

pub(super) fn of_capture(name: &str, ask: &WaveformAsk, read: &Captured<'_>, bench: &BenchKnowledge) -> BenchResult {
    let mut result =
        BenchResult::new(format!("Capture {name}"), read.verdict, word(read.verdict), read.says.to_owned());
    result.figures = read
        .figures
        .iter()
        .map(|one| {
            BenchFigure::new(one.label.clone(), Some(one.median), &one.unit).doubt(Some(one.least), Some(one.most))
        })
        .collect();
    let kind = serde_json::to_value(ask.of).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
    let Some(answer) = bench.answers.get(&kind) else { return result };
    let compared = read.figures.iter().filter(|f| f.cylinders.len() > 1).max_by_key(|f| f.cylinders.len());
    // A capture that cannot be judged says nothing of any cylinder either.
    let judged = read.verdict != Judged::CannotTell;
    match compared {
        Some(figure) if judged => {
            for cylinder in figure.cylinders.keys().filter_map(|name| name.parse::<u8>().ok()) {
                let off = read.odd.iter().find(|one| one.cylinder == cylinder);
                let says = match off {
                    Some(odd) => format!(
                        "Capture, cylinder {cylinder}: {:.2} {} where the others have {:.2}",
                        odd.value, odd.unit, odd.others
                    ),
                    None => format!("Capture, cylinder {cylinder}: like its sisters"),
                };
                let right = bench.weight.of(off.is_none());
                result.evidence.push(finding(bench, answer, Target::Cylinder(cylinder), right, says));
            }
        }
        None if judged && matches!(ask.of, WaveformKind::MotorDrive | WaveformKind::CrankAndCam) => {
            result.evidence.push(finding(bench, answer, Target::Engine, read.right, read.says.to_owned()));
        }
        _ => {}
    }
    result
}
