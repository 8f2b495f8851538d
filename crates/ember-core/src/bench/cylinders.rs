//! Readings of all cylinders side by side: compression, leak-down, glow plugs, spark, plugs. The odd one out is named.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::knowledge::BenchKnowledge;
use super::sisters::{Standing, against_sisters, median};
use crate::circuit::Judged;
use crate::engine::Engine;
use crate::refusal::Refusal;

/// What was read of each cylinder.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CylinderReadingKind {
    /// In kPa.
    Compression,
    /// Without a unit, the highest is 100.
    RelativeCompression,
    /// In percent lost.
    LeakDown,
    Spark,
    /// Current in A, resistance in ohm, seconds until it glows.
    GlowPlug,
    Plug,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SparkSeen {
    Strong,
    Weak,
    None,
}

/// What a plug's face looks like.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PlugFace {
    Normal,
    AsNew,
    Wet,
    Sooty,
    WhiteAsh,
    Oily,
    Worn,
    Broken,
    Bridged,
}

impl PlugFace {
    pub fn name(self) -> &'static str {
        match self {
            PlugFace::Normal => "normal",
            PlugFace::AsNew => "as-new",
            PlugFace::Wet => "wet",
            PlugFace::Sooty => "sooty",
            PlugFace::WhiteAsh => "white-ash",
            PlugFace::Oily => "oily",
            PlugFace::Worn => "worn",
            PlugFace::Broken => "broken",
            PlugFace::Bridged => "bridged",
        }
    }
}

/// How tight a plug sat.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Tightness {
    Right,
    Loose,
    VeryTight,
}

/// Where the air of a leak-down test comes out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum LeakHeardAt {
    Intake,
    Exhaust,
    Crankcase,
    Coolant,
    Neighbour,
}

/// One cylinder's readings; which of them are wanted depends on the kind.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct CylinderReading {
    pub cylinder: u8,
    /// kPa, percent, or A of a glow plug.
    pub value: Option<f64>,
    /// The same again with a spoonful of oil in the cylinder.
    pub wet: Option<f64>,
    pub ohm: Option<f64>,
    /// A display over its range.
    pub open: bool,
    pub seconds: Option<f64>,
    pub heard_at: Option<LeakHeardAt>,
    pub spark: Option<SparkSeen>,
    pub face: Option<PlugFace>,
    pub gap_mm: Option<f64>,
    pub tightness: Option<Tightness>,
    /// The photographs that belong to it.
    pub photos: Vec<i64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CylindersInput {
    pub of: CylinderReadingKind,
    pub readings: Vec<CylinderReading>,
    /// The least that the maker allows (compression in kPa), or the range of the plugs' gap in mm.
    #[serde(default)]
    pub spec_low: Option<f64>,
    #[serde(default)]
    pub spec_high: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CylinderJudged {
    pub cylinder: u8,
    pub verdict: Judged,
    pub says: String,
    /// How likely it is as it should be, 0 to 1.
    pub right: f64,
    /// In percent of the best, where that means something.
    pub of_best_pct: Option<f64>,
    /// Which outcome of the book's test it stands for.
    pub outcome: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CylindersResult {
    pub cylinders: Vec<CylinderJudged>,
    /// The lowest in percent of the highest.
    pub spread_pct: Option<f64>,
    pub odd: Vec<u8>,
    pub verdict: Judged,
    pub says: String,
}

/// Judges readings cylinder by cylinder.
///
/// # Errors
/// A cylinder twice or none of this engine, no reading, the reading that the kind asks for missing, a figure that cannot
/// be, a range upside down.
pub fn cylinders(
    input: &CylindersInput,
    engine: &Engine,
    knowledge: &BenchKnowledge,
) -> Result<CylindersResult, Refusal> {
    if input.readings.is_empty() {
        return Err(Refusal::new("readings", "is empty"));
    }
    if let (Some(low), Some(high)) = (input.spec_low, input.spec_high)
        && low > high
    {
        return Err(Refusal::new("spec_low", format!("low {low} lies above high {high}")));
    }
    for (index, reading) in input.readings.iter().enumerate() {
        let field = |name: &str| format!("readings[{index}].{name}");
        if !engine.has(reading.cylinder) {
            return Err(Refusal::new(field("cylinder"), format!("the engine has no cylinder {}", reading.cylinder)));
        }
        if input.readings[..index].iter().any(|other| other.cylinder == reading.cylinder) {
            return Err(Refusal::new(field("cylinder"), format!("cylinder {} stands twice", reading.cylinder)));
        }
        for (name, value, most) in [
            ("value", reading.value, 20_000.0),
            ("wet", reading.wet, 20_000.0),
            ("ohm", reading.ohm, 1e9),
            ("seconds", reading.seconds, 600.0),
            ("gap_mm", reading.gap_mm, 5.0),
        ] {
            if value.is_some_and(|v| !v.is_finite() || !(0.0..=most).contains(&v)) {
                return Err(Refusal::new(field(name), format!("must lie between 0 and {most}")));
            }
        }
    }
    let result = match input.of {
        CylinderReadingKind::Compression | CylinderReadingKind::RelativeCompression => {
            compression(input, engine, knowledge)?
        }
        CylinderReadingKind::LeakDown => leak_down(input, knowledge)?,
        CylinderReadingKind::Spark => spark(input, knowledge)?,
        CylinderReadingKind::GlowPlug => glow(input, knowledge)?,
        CylinderReadingKind::Plug => plugs(input, knowledge)?,
    };
    Ok(result)
}

fn needed(
    input: &CylindersInput,
    name: &str,
    of: impl Fn(&CylinderReading) -> Option<f64>,
) -> Result<Vec<f64>, Refusal> {
    let value = |(index, reading): (usize, &CylinderReading)| {
        of(reading).ok_or_else(|| Refusal::new(format!("readings[{index}].{name}"), "is missing"))
    };
    input.readings.iter().enumerate().map(value).collect()
}

fn summed(cylinders: Vec<CylinderJudged>, says: String, spread_pct: Option<f64>) -> CylindersResult {
    let odd: Vec<u8> = cylinders.iter().filter(|c| c.verdict == Judged::Bad).map(|c| c.cylinder).collect();
    let verdict = if !odd.is_empty() {
        Judged::Bad
    } else if cylinders.iter().any(|c| c.verdict == Judged::CannotTell) {
        Judged::CannotTell
    } else {
        Judged::Good
    };
    CylindersResult { cylinders, spread_pct, odd, verdict, says }
}

fn list(cylinders: &[u8]) -> String {
    cylinders.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ")
}

fn compression(
    input: &CylindersInput,
    engine: &Engine,
    knowledge: &BenchKnowledge,
) -> Result<CylindersResult, Refusal> {
    let figures = &knowledge.compression;
    let values = needed(input, "value", |r| r.value)?;
    let best = values.iter().copied().fold(0.0, f64::max);
    if best <= 0.0 {
        return Err(Refusal::new("readings", "no cylinder has any compression: does the gauge hold, does it crank?"));
    }
    let alone = values.len() == 1 && input.spec_low.is_none();
    let doubt = figures.gauge_pct / 100.0;
    let mut judged = Vec::new();
    for (reading, value) in input.readings.iter().zip(&values) {
        let share = value / best;
        let below_spec = input.spec_low.is_some_and(|low| value * (1.0 + doubt) < low);
        // The gauge is off on both readings alike, but is read anew for each.
        let sigma = share * doubt / knowledge.weight.band_sigmas * 2.0_f64.sqrt();
        let mut right = super::resistance::within(share, sigma.max(1e-6), figures.low_share, f64::INFINITY);
        if below_spec {
            right = right.min(knowledge.weight.bad);
        }
        let mut verdict = if alone {
            Judged::CannotTell
        } else if share < figures.low_share * (1.0 - doubt) || below_spec {
            Judged::Bad
        } else if share < figures.fair_share && right < knowledge.weight.good {
            Judged::CannotTell
        } else {
            Judged::Good
        };
        if alone {
            right = 0.5;
        }
        let mut says = format!("{:.0} % of the best", share * 100.0);
        if below_spec {
            says.push_str(", below what the maker allows");
        }
        let mut outcome = if *value < figures.none_share * best { "none" } else { "low" };
        if let Some(wet) = reading.wet {
            let gain = 100.0 * (wet - value) / value.max(1.0);
            if gain >= figures.wet_gain_pct {
                says.push_str(&format!("; {gain:.0} % more with oil: rings"));
            } else if verdict != Judged::Good {
                says.push_str(&format!("; no more with oil ({gain:+.0} %): valves or gasket"));
            }
        }
        if verdict == Judged::Good {
            outcome = "alike";
        } else if verdict == Judged::CannotTell && !alone {
            says.push_str(": worn, and not yet a fault");
            verdict = Judged::CannotTell;
        }
        judged.push(CylinderJudged {
            cylinder: reading.cylinder,
            verdict,
            says,
            right,
            of_best_pct: Some(100.0 * share),
            outcome: outcome.into(),
        });
    }
    judged.sort_by_key(|one| one.cylinder);
    let low: Vec<u8> = judged.iter().filter(|c| c.verdict == Judged::Bad).map(|c| c.cylinder).collect();
    let worst = values.iter().copied().fold(f64::INFINITY, f64::min);
    let spread = 100.0 * worst / best;
    let neighbours = match low.as_slice() {
        [a, b] => engine.neighbour_pairs().contains(&vec![*a.min(b), *a.max(b)]),
        _ => false,
    };
    let says = if alone {
        "One cylinder alone says nothing without the maker's figure: measure the others.".into()
    } else if low.is_empty() {
        format!("The lowest has {spread:.0} % of the highest.")
    } else if low.len() == values.len() && values.len() > 1 {
        "All are low alike: cam timing, the throttle held shut, a slow starter, or the gauge.".into()
    } else if neighbours {
        format!("Cylinders {} are low, and they are neighbours: the gasket between them first.", list(&low))
    } else {
        let told: Vec<String> = judged
            .iter()
            .filter(|c| c.verdict == Judged::Bad)
            .map(|c| format!("cylinder {}: {}", c.cylinder, c.says))
            .collect();
        format!("Low: {}.", told.join("; "))
    };
    Ok(summed(judged, says, Some(spread)))
}

fn leak_down(input: &CylindersInput, knowledge: &BenchKnowledge) -> Result<CylindersResult, Refusal> {
    let figures = &knowledge.leak_down;
    let values = needed(input, "value", |r| r.value)?;
    let mut judged = Vec::new();
    for (index, (reading, &value)) in input.readings.iter().zip(&values).enumerate() {
        if value > 100.0 {
            return Err(Refusal::new(format!("readings[{index}].value"), "must lie between 0 and 100 %"));
        }
        let (verdict, right) = if value <= figures.good_pct {
            (Judged::Good, knowledge.weight.good)
        } else if value >= figures.bad_pct {
            (Judged::Bad, knowledge.weight.bad)
        } else {
            let share = (value - figures.good_pct) / (figures.bad_pct - figures.good_pct);
            (
                Judged::CannotTell,
                knowledge.weight.likely + share * (knowledge.weight.unlikely - knowledge.weight.likely),
            )
        };
        let (outcome, heard) = match reading.heard_at {
            Some(LeakHeardAt::Intake) => ("valves", ", heard at the intake: inlet valve"),
            Some(LeakHeardAt::Exhaust) => ("valves", ", heard at the exhaust: outlet valve"),
            Some(LeakHeardAt::Crankcase) => ("rings", ", heard in the crankcase: rings"),
            Some(LeakHeardAt::Coolant) => ("gasket", ", bubbles in the coolant: gasket or crack"),
            Some(LeakHeardAt::Neighbour) => ("gasket", ", heard at the neighbour: gasket between them"),
            None => ("", ""),
        };
        judged.push(CylinderJudged {
            cylinder: reading.cylinder,
            verdict,
            says: format!("loses {value:.0} %{heard}"),
            right,
            of_best_pct: None,
            outcome: if verdict == Judged::Good { "tight".into() } else { outcome.into() },
        });
    }
    judged.sort_by_key(|one| one.cylinder);
    let worst: Vec<String> = judged
        .iter()
        .filter(|c| c.verdict == Judged::Bad)
        .map(|c| format!("cylinder {} {}", c.cylinder, c.says))
        .collect();
    let middle = median(&values);
    let says = if worst.is_empty() {
        format!(
            "None loses more than {:.0} %; the middle is {middle:.0} %.",
            values.iter().copied().fold(0.0, f64::max)
        )
    } else {
        format!("{}; the middle is {middle:.0} %.", worst.join("; "))
    };
    Ok(summed(judged, says, None))
}

fn spark(input: &CylindersInput, knowledge: &BenchKnowledge) -> Result<CylindersResult, Refusal> {
    let mut judged = Vec::new();
    for (index, reading) in input.readings.iter().enumerate() {
        let seen = reading.spark.ok_or_else(|| Refusal::new(format!("readings[{index}].spark"), "is missing"))?;
        let (verdict, says, outcome, right) = match seen {
            SparkSeen::Strong => (Judged::Good, "strong and blue", "strong", knowledge.weight.good),
            SparkSeen::Weak => (Judged::Bad, "weak and yellow", "weak", knowledge.weight.bad),
            SparkSeen::None => (Judged::Bad, "none", "none", knowledge.weight.bad),
        };
        judged.push(CylinderJudged {
            cylinder: reading.cylinder,
            verdict,
            says: says.into(),
            right,
            of_best_pct: None,
            outcome: outcome.into(),
        });
    }
    judged.sort_by_key(|one| one.cylinder);
    let of = |seen: &str| -> Vec<u8> { judged.iter().filter(|c| c.outcome == seen).map(|c| c.cylinder).collect() };
    let (none, weak) = (of("none"), of("weak"));
    let says = if none.len() == judged.len() && judged.len() > 1 {
        "No spark anywhere: what all share, the trigger and the feed, before any coil.".into()
    } else if none.is_empty() && weak.is_empty() {
        "Strong everywhere. That it comes at the right moment is not shown by it.".into()
    } else {
        let mut parts = Vec::new();
        if !none.is_empty() {
            parts.push(format!("none at {}", list(&none)));
        }
        if !weak.is_empty() {
            parts.push(format!("weak at {}", list(&weak)));
        }
        format!("Spark {}.", parts.join(", "))
    };
    Ok(summed(judged, says, None))
}

fn glow(input: &CylindersInput, knowledge: &BenchKnowledge) -> Result<CylindersResult, Refusal> {
    let figures = &knowledge.glow;
    for (index, reading) in input.readings.iter().enumerate() {
        if reading.value.is_none() && reading.ohm.is_none() && reading.seconds.is_none() && !reading.open {
            return Err(Refusal::new(format!("readings[{index}].value"), "current, ohm or seconds: at least one"));
        }
    }
    let currents: Vec<f64> = input.readings.iter().filter_map(|r| r.value).collect();
    let middle = median(&currents);
    let mut judged: Vec<CylinderJudged> = input
        .readings
        .iter()
        .map(|reading| {
            let mut bad: Vec<String> = Vec::new();
            let mut told: Vec<String> = Vec::new();
            if reading.open {
                bad.push("open".into());
            }
            if let Some(amps) = reading.value {
                told.push(format!("{amps:.1} A"));
                if amps < figures.cold_share * middle && currents.len() > 1 {
                    bad.push(format!("draws {amps:.1} A where its sisters draw {middle:.1}"));
                } else if amps < figures.nothing_a {
                    bad.push("draws nothing".into());
                }
            }
            if let Some(ohm) = reading.ohm {
                told.push(super::resistance::ohm_text(ohm));
                let others: Vec<f64> = input
                    .readings
                    .iter()
                    .filter(|other| other.cylinder != reading.cylinder)
                    .filter_map(|other| other.ohm)
                    .collect();
                if !others.is_empty()
                    && against_sisters(ohm, &others, figures.ohm_floor, &knowledge.resistance).standing == Standing::Odd
                {
                    bad.push(format!("{} is unlike its sisters", super::resistance::ohm_text(ohm)));
                }
            }
            if let Some(seconds) = reading.seconds {
                told.push(format!("glows after {seconds:.0} s"));
                if seconds > figures.slow_s {
                    bad.push(format!("takes {seconds:.0} s to glow"));
                }
            }
            let sound = bad.is_empty();
            CylinderJudged {
                cylinder: reading.cylinder,
                verdict: if sound { Judged::Good } else { Judged::Bad },
                says: if sound { told.join(", ") } else { bad.join(", ") },
                right: knowledge.weight.of(sound),
                of_best_pct: (middle > 0.0).then(|| reading.value.map(|amps| 100.0 * amps / middle)).flatten(),
                outcome: if sound { "draws" } else { "dead" }.into(),
            }
        })
        .collect();
    judged.sort_by_key(|one| one.cylinder);
    let dead: Vec<u8> = judged.iter().filter(|c| c.verdict == Judged::Bad).map(|c| c.cylinder).collect();
    let says = if dead.is_empty() {
        "Every glow plug does its work. The feed and the relay are the next.".into()
    } else if dead.len() == judged.len() && judged.len() > 1 {
        "None works: before the plugs are condemned, the feed and the relay.".into()
    } else {
        let told: Vec<String> =
            judged.iter().filter(|c| c.verdict == Judged::Bad).map(|c| format!("{} {}", c.cylinder, c.says)).collect();
        format!("Glow plug {}.", told.join("; "))
    };
    Ok(summed(judged, says, None))
}

fn plugs(input: &CylindersInput, knowledge: &BenchKnowledge) -> Result<CylindersResult, Refusal> {
    let mut judged = Vec::new();
    for (index, reading) in input.readings.iter().enumerate() {
        let Some(face) = reading.face else {
            return Err(Refusal::new(format!("readings[{index}].face"), "is missing"));
        };
        let mut bad: Vec<String> = Vec::new();
        let mut told = vec![face.name().replace('-', " ")];
        if !matches!(face, PlugFace::Normal | PlugFace::AsNew) {
            bad.push(told[0].clone());
        }
        if let Some(gap) = reading.gap_mm {
            told.push(format!("gap {gap:.2} mm"));
            if input.spec_high.is_some_and(|high| gap > high) {
                bad.push(format!("gap {gap:.2} mm, too wide"));
            }
            if input.spec_low.is_some_and(|low| gap < low) {
                bad.push(format!("gap {gap:.2} mm, too narrow"));
            }
        }
        match reading.tightness {
            Some(Tightness::Loose) => bad.push("sat loose: the gas has burnt past its seat".into()),
            Some(Tightness::VeryTight) => told.push("sat very tight".into()),
            _ => {}
        }
        let sound = bad.is_empty();
        let outcome = knowledge.plugs.faces.get(face.name()).map_or("healthy", String::as_str);
        judged.push(CylinderJudged {
            cylinder: reading.cylinder,
            verdict: if sound { Judged::Good } else { Judged::Bad },
            says: if sound { told.join(", ") } else { bad.join(", ") },
            right: knowledge.weight.of(sound),
            of_best_pct: None,
            outcome: outcome.into(),
        });
    }
    let faces: Vec<PlugFace> = input.readings.iter().filter_map(|r| r.face).collect();
    let alike = faces.windows(2).all(|pair| pair[0] == pair[1]);
    judged.sort_by_key(|one| one.cylinder);
    let odd: Vec<&CylinderJudged> = judged.iter().filter(|c| c.verdict == Judged::Bad).collect();
    let says = if odd.is_empty() {
        "All faces are as they should be.".into()
    } else if alike && faces.len() > 1 {
        format!("All are {} alike: look for what all cylinders share.", faces[0].name().replace('-', " "))
    } else {
        let told: Vec<String> = odd.iter().map(|c| format!("{} {}", c.cylinder, c.says)).collect();
        format!("Plug {}.", told.join("; "))
    };
    Ok(summed(judged, says, None))
}
