//! What moves and what holds: a sensor's travel, a vacuum, the rod of an actuator.

use super::word;
use crate::bench::evidence::finding;
use crate::bench::hold::{HoldInput, hold};
use crate::bench::knowledge::BenchKnowledge;
use crate::bench::{BenchFigure, BenchMark, BenchResult};
use crate::boost::{ActuatorInput, RodVerdict, actuator};
use crate::circuit::sweep::{SweepInput, sweep};
use crate::circuit::{Judged, volt};
use crate::refusal::Refusal;
use crate::suspects::target::Target;
use crate::vehicle::line;

pub(super) fn of_sweep(of: &str, input: &SweepInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    line("of", of)?;
    let result = sweep(input, bench).map_err(|refusal| refusal.within("sweep"))?;
    let mut told = BenchResult::new(format!("Sweep, {of}"), result.verdict, word(result.verdict), result.says.clone());
    let limits = &bench.sweep;
    let figure = |label: &str, value: Option<f64>, most: f64| {
        value.map(|value| {
            BenchFigure::new(label, Some(value), "%").should(None, Some(most)).judged(if value > most {
                Judged::Bad
            } else {
                Judged::Good
            })
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
    told.marks =
        result.marks.iter().map(|mark| BenchMark { at: mark.at, says: mark.says.clone(), likelihood: None }).collect();
    if let Some(answer) = bench.answers.get(of) {
        let right = bench.weight.of(result.verdict == Judged::Good);
        told.evidence.push(finding(bench, answer, Target::Engine, right, result.says));
    }
    Ok(told)
}

pub(super) fn of_hold(input: &HoldInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    let result = hold(input, bench).map_err(|refusal| refusal.within("hold"))?;
    let mut told =
        BenchResult::new(format!("Holds? {}", input.what), result.verdict, word(result.verdict), result.says.clone());
    told.figures.push(
        BenchFigure::new("falls by", Some(result.fall_pct_per_min), "% a minute")
            .doubt(Some(result.low_pct_per_min), Some(result.high_pct_per_min))
            .should(None, Some(result.limit_pct_per_min))
            .judged(result.verdict),
    );
    let what = input.what.to_lowercase();
    let key = if what.contains("fuel") || what.contains("rail") { "fuel-hold" } else { "actuator-hold" };
    if what.contains("actuator") || key == "fuel-hold" {
        told.evidence.push(finding(bench, &bench.answers[key], Target::Engine, result.right, result.says));
    }
    Ok(told)
}

pub(super) fn of_rod(
    input: &ActuatorInput,
    rod_mm: Option<f64>,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
    if rod_mm.is_some_and(|mm| !mm.is_finite() || !(1.0..=1000.0).contains(&mm)) {
        return Err(Refusal::new("rod_mm", "must lie between 1 and 1000 mm"));
    }
    let moved = input.readings.iter().any(|reading| reading.turns != 0.0);
    if moved && rod_mm.is_none() {
        return Err(Refusal::new("rod_mm", "is missing: its length is measured before it is moved"));
    }
    let result = actuator(input).map_err(|refusal| refusal.within("actuator"))?;
    let verdict = match result.verdict {
        RodVerdict::Holds => Judged::Good,
        RodVerdict::Turn | RodVerdict::SpanWrong => Judged::Bad,
        RodVerdict::CannotTell => {
            if result.readings.iter().any(|r| !r.rest_holds || !r.full_holds) {
                Judged::Bad
            } else {
                Judged::CannotTell
            }
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
            told.figures.push(
                BenchFigure::new(label, Some(value), "V")
                    .should(Some(low), Some(high))
                    .judged(if holds { Judged::Good } else { Judged::Bad })
                    .says(format!("rod at {:+.2} turns", now.turns)),
            );
        }
    }
    if result.verdict == RodVerdict::Turn
        && let Some(turns) = result.turns_to_go
    {
        told.next = Some(format!("{turns:+.2} turns, then measure again"));
    }
    // What was found is the first reading; what the rod was set to since is a repair.
    let found = &result.readings[0];
    let right = bench.weight.of(found.rest_holds && found.full_holds);
    told.evidence.push(finding(bench, &bench.answers["actuator-window"], Target::Engine, right, result.says));
    Ok(told)
}
