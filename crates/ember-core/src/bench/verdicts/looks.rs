//! What is seen side by side: cylinders, hoses, timing marks.

use super::word;
use crate::bench::cylinders::{CylinderReadingKind, CylindersInput, cylinders};
use crate::bench::evidence::{finding, finding_as};
use crate::bench::knowledge::BenchKnowledge;
use crate::bench::marks::{MarksInput, marks};
use crate::bench::{BenchFigure, BenchMark, BenchResult, HosePlace, HoseState};
use crate::circuit::Judged;
use crate::engine::Engine;
use crate::refusal::Refusal;
use crate::suspects::target::Target;
use crate::vehicle::line;

pub(super) fn of_cylinders(
    input: &CylindersInput,
    engine: &Engine,
    bench: &BenchKnowledge,
) -> Result<BenchResult, Refusal> {
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
            BenchFigure::new(
                format!("cylinder {}", one.cylinder),
                reading.and_then(|r| if input.of == CylinderReadingKind::Plug { r.gap_mm } else { r.value }),
                unit,
            )
            .should(input.spec_low, input.spec_high)
            .judged(one.verdict)
            .says(one.says.clone())
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

pub(super) fn of_hoses(map: &str, places: &[HosePlace], bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
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
        (Judged::Bad, format!("Smoke comes out at {}.", leaks.join(", ")), bench.weight.bad)
    } else if unseen.is_empty() {
        (Judged::Good, "No smoke comes out anywhere.".into(), bench.weight.good)
    } else {
        (
            Judged::CannotTell,
            format!("Tight where it was seen; not looked at: {}.", unseen.join(", ")),
            0.5 + (bench.weight.good - 0.5) * (places.len() - unseen.len()) as f64 / places.len() as f64,
        )
    };
    let mut told = BenchResult::new(
        "Smoke along the hoses".into(),
        verdict,
        if verdict == Judged::Bad { "leaks" } else { word(verdict) },
        says.clone(),
    );
    told.marks = places
        .iter()
        .enumerate()
        .filter(|(_, place)| place.state == HoseState::Leaks)
        .map(|(at, place)| BenchMark {
            at,
            says: if place.note.is_empty() { "leaks".into() } else { place.note.clone() },
            likelihood: None,
        })
        .collect();
    let answer = (known.test.clone(), "tight".to_owned(), "leaks".to_owned());
    told.evidence.push(finding(bench, &answer, Target::Engine, right, says));
    Ok(told)
}

pub(super) fn of_marks(input: &MarksInput, bench: &BenchKnowledge) -> Result<BenchResult, Refusal> {
    let result = marks(input, bench).map_err(|refusal| refusal.within("marks"))?;
    let mut told = BenchResult::new("Timing marks".into(), result.verdict, word(result.verdict), result.says.clone());
    told.figures = result
        .marks
        .iter()
        .map(|one| {
            BenchFigure::new(one.name.clone(), Some(one.off_teeth), "teeth")
                .should(Some(-bench.marks.fair_teeth), Some(bench.marks.fair_teeth))
                .judged(one.verdict)
                .says(format!("{:+.0} crank degrees", one.crank_deg))
        })
        .collect();
    let right = match result.verdict {
        Judged::Good => bench.weight.good,
        Judged::Bad => bench.weight.bad,
        Judged::CannotTell => 0.5,
    };
    told.evidence.push(finding(bench, &bench.answers["marks"], Target::Engine, right, result.says));
    Ok(told)
}
