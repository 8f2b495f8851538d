//! A resistance as it was measured, corrected for leads and temperature, with its doubt, and judged.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};
use utoipa::ToSchema;

use super::knowledge::{BenchKnowledge, ResistanceFigures};
use super::meter::{Display, MeterAccuracy};
use super::sisters::{AgainstSisters, Standing, against_sisters};
use crate::refusal::Refusal;

/// What the current flows through: copper gains resistance with heat in a known way.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Conductor {
    Copper,
    #[default]
    None,
}

/// A maker's figure: a range, or a value with its tolerance, at one temperature or at two.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct ResistanceSpec {
    pub low_ohm: Option<f64>,
    pub high_ohm: Option<f64>,
    /// A single value; it needs a tolerance before anything can be judged by it.
    pub nominal_ohm: Option<f64>,
    pub tolerance_pct: Option<f64>,
    /// The temperature for which it is given; 20 °C is usual.
    pub at_c: Option<f64>,
    /// The same figure at a second temperature: then both are used, and not taken for a lower and an upper limit.
    #[schema(no_recursion)]
    pub second: Option<Box<ResistanceSpec>>,
    /// Where it comes from: `maker's manual 1962`, `label on the part`.
    pub source: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ResistanceInput {
    /// What the display shows; `OL`, or several readings when it wanders.
    pub display: Display,
    #[serde(default = "unity")]
    pub range_multiplier: f64,
    /// What the meter shows with its leads held together.
    #[serde(default)]
    pub leads_ohm: f64,
    #[serde(default)]
    pub part_c: Option<f64>,
    #[serde(default)]
    pub part_c_error: f64,
    pub meter: MeterAccuracy,
    #[serde(default)]
    pub conductor: Conductor,
    #[serde(default)]
    pub spec: Option<ResistanceSpec>,
    /// The other like parts of the same engine, without this one, less the leads and at the same temperature.
    #[serde(default)]
    pub sisters: Option<Vec<f64>>,
    /// The most that the chosen range can show.
    #[serde(default)]
    pub range_max_ohm: Option<f64>,
}

fn unity() -> f64 {
    1.0
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ResistanceVerdict {
    Pass,
    Fail,
    CannotTell,
    Open,
    Short,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ResistanceResult {
    /// The display less the leads; null when it is over the range.
    pub ohm: Option<f64>,
    pub uncertainty_ohm: Option<f64>,
    /// At the temperature for which the specification is given.
    pub ohm_at_spec: Option<f64>,
    pub low_ohm: Option<f64>,
    pub high_ohm: Option<f64>,
    /// The specification at that temperature.
    pub spec_low_ohm: Option<f64>,
    pub spec_high_ohm: Option<f64>,
    pub at_c: Option<f64>,
    /// Against sisters: how many deviations it stands apart.
    pub score: Option<f64>,
    pub verdict: ResistanceVerdict,
    pub why: String,
    /// What would settle it, when it cannot be told.
    pub would_help: Vec<String>,
    /// How likely the true value lies where it should, 0 to 1.
    pub right: f64,
}

/// The specification's range at one temperature.
#[derive(Debug, Clone, Copy)]
struct Range {
    low: f64,
    high: f64,
}

/// Judges a resistance.
///
/// R = display × multiplier − leads. The doubts of the display and of the leads combine as the root of the sum of their
/// squares, with the spread of a display that wanders. A copper winding is brought from the part's temperature to the
/// specification's by R (1 + α (at − 20)) / (1 + α (part − 20)).
///
/// # Errors
/// A display that is no resistance; leads above the reading by more than the doubt; a temperature no engine has, or none
/// where copper needs one; a specification upside down, incomplete or missing; neither or both of specification and
/// sisters; a range that cannot show the value.
pub fn resistance(input: &ResistanceInput, knowledge: &BenchKnowledge) -> Result<ResistanceResult, Refusal> {
    let figures = &knowledge.resistance;
    let readings = input.display.readings()?;
    input.meter.check()?;
    for (field, value, least) in [
        ("range_multiplier", input.range_multiplier, f64::MIN_POSITIVE),
        ("leads_ohm", input.leads_ohm, 0.0),
        ("part_c_error", input.part_c_error, 0.0),
    ] {
        if !value.is_finite() || value < least {
            return Err(Refusal::new(field, "must be a number, nought or more, and a multiplier above nought"));
        }
    }
    let multiplier = match readings.multiplier {
        Some(written) if input.range_multiplier != 1.0 && input.range_multiplier != written => {
            return Err(Refusal::new(
                "range_multiplier",
                "the display is written with another multiplier than the range",
            ));
        }
        Some(written) => written,
        None => input.range_multiplier,
    };
    for (field, value) in [("part_c", input.part_c), ("spec.at_c", input.spec.as_ref().and_then(|spec| spec.at_c))] {
        temperature(field, value, figures)?;
    }
    if let Some(most) = input.range_max_ohm {
        if !most.is_finite() || most <= 0.0 {
            return Err(Refusal::new("range_max_ohm", "must be above zero"));
        }
        if readings.values.iter().any(|value| value * multiplier > most * (1.0 + 1e-9)) {
            let reason = format!("a range that ends at {most} ohm cannot show this: is the multiplier right?");
            return Err(Refusal::new("range_max_ohm", reason));
        }
    }
    match (&input.spec, &input.sisters) {
        (Some(_), Some(_)) => Err(Refusal::new("sisters", "give the specification or the sisters, not both")),
        (None, None) => Err(Refusal::new("spec", "is missing: give the specification, or the sisters to compare with")),
        (Some(spec), None) => against_spec(input, spec, &readings, multiplier, knowledge),
        (None, Some(sisters)) => among_sisters(input, sisters, &readings, multiplier, knowledge),
    }
}

fn temperature(field: &str, value: Option<f64>, figures: &ResistanceFigures) -> Result<(), Refusal> {
    match value {
        Some(c) if !c.is_finite() || !(figures.coldest_c..=figures.hottest_c).contains(&c) => Err(Refusal::new(
            field,
            format!("no part of an engine is at {c} °C: {} to {} °C are taken", figures.coldest_c, figures.hottest_c),
        )),
        _ => Ok(()),
    }
}

/// The reading less the leads, with its doubt.
fn measured(
    input: &ResistanceInput,
    readings: &super::meter::Readings,
    multiplier: f64,
) -> Result<(f64, f64), Refusal> {
    let shown = readings.mean() * multiplier;
    let ohm = shown - input.leads_ohm;
    let of_display = input.meter.uncertainty(shown, multiplier);
    // Leads that were not measured cannot be misread.
    let of_leads = if input.leads_ohm > 0.0 { input.meter.uncertainty(input.leads_ohm, 1.0) } else { 0.0 };
    let spread = readings.spread() * multiplier;
    let doubt = (of_display.powi(2) + of_leads.powi(2) + spread.powi(2)).sqrt();
    if ohm < -doubt {
        let reason = format!(
            "the leads alone are said to have {} ohm, more than the {shown} ohm shown with the part: measure them again",
            input.leads_ohm
        );
        return Err(Refusal::new("leads_ohm", reason));
    }
    Ok((ohm, doubt))
}

fn over_range(spec: Option<Range>, at_c: Option<f64>, verdict: ResistanceVerdict, why: String) -> ResistanceResult {
    let would_help = match verdict {
        ResistanceVerdict::CannotTell => vec!["a higher range, or steadier contact".to_owned()],
        _ => Vec::new(),
    };
    ResistanceResult {
        ohm: None,
        uncertainty_ohm: None,
        ohm_at_spec: None,
        low_ohm: None,
        high_ohm: None,
        spec_low_ohm: spec.map(|range| range.low),
        spec_high_ohm: spec.map(|range| range.high),
        at_c,
        score: None,
        right: if verdict == ResistanceVerdict::Open { 0.0 } else { 0.5 },
        verdict,
        why,
        would_help,
    }
}

/// What an overload means, if there was one: `top` is the most that a sound part may have.
fn overload(
    readings: &super::meter::Readings,
    range_max_ohm: Option<f64>,
    top: f64,
) -> Option<(ResistanceVerdict, String)> {
    if readings.overloads == 0 {
        return None;
    }
    if !readings.values.is_empty() {
        let why = "The display went over the range and came back: poor contact of the tips, or a break that opens and closes. Clip on, and move the loom while you watch.";
        return Some((ResistanceVerdict::CannotTell, why.into()));
    }
    match range_max_ohm {
        Some(most) if most < top => Some((
            ResistanceVerdict::CannotTell,
            format!(
                "Over the range, but the range ends at {most} ohm and a sound part may have {}. Choose a higher one.",
                ohm_text(top)
            ),
        )),
        _ => Some((ResistanceVerdict::Open, "Over the range: the circuit is open.".into())),
    }
}

fn against_spec(
    input: &ResistanceInput,
    spec: &ResistanceSpec,
    readings: &super::meter::Readings,
    multiplier: f64,
    knowledge: &BenchKnowledge,
) -> Result<ResistanceResult, Refusal> {
    let figures = &knowledge.resistance;
    let range = spec_range(spec, "spec")?;
    let copper = input.conductor == Conductor::Copper;
    // A figure at two temperatures is brought to the part; a figure at one, the part to it.
    let (range, at_c, bring) = match &spec.second {
        Some(second) => {
            let other = spec_range(second, "spec.second")?;
            temperature("spec.second.at_c", second.at_c, figures)?;
            let part_c = input.part_c.ok_or_else(|| Refusal::new("part_c", "is missing: the figure depends on it"))?;
            let (Some(a), Some(b)) = (spec.at_c, second.at_c) else {
                return Err(Refusal::new("spec.at_c", "a figure at two temperatures names both of them"));
            };
            if (a - b).abs() < 1.0 {
                return Err(Refusal::new("spec.second.at_c", "is the same temperature as the first"));
            }
            let share = (part_c - a) / (b - a);
            let between = |x: f64, y: f64| x + share * (y - x);
            (Range { low: between(range.low, other.low), high: between(range.high, other.high) }, Some(part_c), false)
        }
        None => (range, spec.at_c, copper),
    };
    if let Some((verdict, why)) = overload(readings, input.range_max_ohm, range.high) {
        return Ok(over_range(Some(range), at_c, verdict, why));
    }
    let (ohm, doubt) = measured(input, readings, multiplier)?;
    let (at_spec, low, high) = if bring {
        let at_c = at_c.ok_or_else(|| Refusal::new("spec.at_c", "is missing: for which temperature is it given?"))?;
        let part_c =
            input.part_c.ok_or_else(|| Refusal::new("part_c", "is missing: copper gains 0.39 % per kelvin"))?;
        let factor = |c: f64| 1.0 + figures.copper_per_kelvin * (c - figures.copper_at_c);
        let brought = |ohm: f64, c: f64| ohm * factor(at_c) / factor(c);
        // A part that is hotter than believed has a lower value at the specification, and the other way round.
        let of = |ohm: f64, toward: f64| {
            let hot = brought(ohm, part_c + input.part_c_error);
            let cold = brought(ohm, part_c - input.part_c_error);
            if toward < 0.0 { hot.min(cold) } else { hot.max(cold) }
        };
        (brought(ohm, part_c), of(ohm - doubt, -1.0), of(ohm + doubt, 1.0))
    } else {
        (ohm, ohm - doubt, ohm + doubt)
    };
    let verdict = if low <= 0.0 && high >= 0.0 && high < range.low {
        ResistanceVerdict::Short
    } else if low >= range.low && high <= range.high {
        ResistanceVerdict::Pass
    } else if high < range.low || low > range.high {
        ResistanceVerdict::Fail
    } else {
        ResistanceVerdict::CannotTell
    };
    let sigma = ((high - low) / 2.0 / knowledge.weight.band_sigmas).max(1e-12);
    let band = format!("{} to {}", ohm_text(low), ohm_text(high));
    let wanted = format!("{} to {}", ohm_text(range.low), ohm_text(range.high));
    let at = at_c.map(|c| format!(" at {c:.0} °C")).unwrap_or_default();
    let (why, would_help) = match verdict {
        ResistanceVerdict::Pass => (
            format!(
                "{band}{at} lies wholly within {wanted}. A pass at rest does not clear a part that fails warm, or when it moves."
            ),
            Vec::new(),
        ),
        ResistanceVerdict::Fail => (format!("{band}{at} lies wholly outside {wanted}."), Vec::new()),
        ResistanceVerdict::Short => {
            (format!("{band}{at} includes nought and lies wholly below {wanted}: a short."), Vec::new())
        }
        _ => {
            let mut help = Vec::new();
            if input.leads_ohm > 0.1 * ohm.abs() {
                help.push("four wires, so that the leads do not count".to_owned());
            }
            if readings.spread() * multiplier > doubt / 2.0 {
                help.push("steady contact: clips instead of tips".to_owned());
            }
            if input.part_c_error > 0.0 && bring {
                help.push("the part's temperature, measured, or a wait until it is as cold as the air".to_owned());
            }
            help.push("a meter with finer digits on this range".to_owned());
            help.push("the ramp of its current on a scope".to_owned());
            (format!("{band}{at} overlaps an end of {wanted}: this meter cannot tell."), help)
        }
    };
    Ok(ResistanceResult {
        ohm: Some(ohm),
        uncertainty_ohm: Some(doubt),
        ohm_at_spec: Some(at_spec),
        low_ohm: Some(low),
        high_ohm: Some(high),
        spec_low_ohm: Some(range.low),
        spec_high_ohm: Some(range.high),
        at_c,
        score: None,
        verdict,
        why,
        would_help,
        right: within(at_spec, sigma, range.low, range.high),
    })
}

/// How likely a value known to one standard deviation lies between two bounds.
pub fn within(value: f64, sigma: f64, low: f64, high: f64) -> f64 {
    match Normal::new(value, sigma) {
        Ok(normal) => (normal.cdf(high) - normal.cdf(low)).clamp(0.0, 1.0),
        Err(_) => f64::from(u8::from((low..=high).contains(&value))),
    }
}

fn spec_range(spec: &ResistanceSpec, field: &str) -> Result<Range, Refusal> {
    let refuse = |name: &str, reason: &str| Err(Refusal::new(format!("{field}.{name}"), reason));
    let sound = |value: f64| value.is_finite() && value >= 0.0;
    match (spec.low_ohm, spec.high_ohm, spec.nominal_ohm) {
        (Some(low), Some(high), None) => {
            if !sound(low) || !sound(high) {
                return refuse("low_ohm", "must be a number, nought or more");
            }
            if low > high {
                return Err(Refusal::new(format!("{field}.low_ohm"), format!("low {low} lies above high {high}")));
            }
            Ok(Range { low, high })
        }
        (None, None, Some(nominal)) => match spec.tolerance_pct {
            Some(pct) if sound(nominal) && pct.is_finite() && (0.0..100.0).contains(&pct) => {
                Ok(Range { low: nominal * (1.0 - pct / 100.0), high: nominal * (1.0 + pct / 100.0) })
            }
            Some(_) => refuse("tolerance_pct", "must lie between 0 and 100"),
            None => refuse(
                "tolerance_pct",
                "a single value is no limit: it needs its tolerance, or compare with the sisters",
            ),
        },
        (None, None, None) => refuse("low_ohm", "is missing: a range, or a value with its tolerance"),
        (_, _, Some(_)) => refuse("nominal_ohm", "give a range or a single value, not both"),
        (None, Some(_), None) => refuse("low_ohm", "is missing"),
        (Some(_), None, None) => refuse("high_ohm", "is missing"),
    }
}

fn among_sisters(
    input: &ResistanceInput,
    sisters: &[f64],
    readings: &super::meter::Readings,
    multiplier: f64,
    knowledge: &BenchKnowledge,
) -> Result<ResistanceResult, Refusal> {
    if sisters.is_empty() {
        return Err(Refusal::new("sisters", "is empty: at least one other part is needed"));
    }
    for (index, sister) in sisters.iter().enumerate() {
        if !sister.is_finite() || *sister < 0.0 {
            return Err(Refusal::new(format!("sisters[{index}]"), "must be a number, nought or more"));
        }
    }
    let top = sisters.iter().copied().fold(0.0, f64::max);
    if let Some((verdict, why)) = overload(readings, input.range_max_ohm, top) {
        return Ok(over_range(None, input.part_c, verdict, why));
    }
    let (ohm, doubt) = measured(input, readings, multiplier)?;
    let compared = against_sisters(ohm, sisters, doubt, &knowledge.resistance);
    let (verdict, why, would_help) = in_words(ohm, &compared);
    Ok(ResistanceResult {
        ohm: Some(ohm),
        uncertainty_ohm: Some(doubt),
        ohm_at_spec: Some(ohm),
        low_ohm: Some(ohm - doubt),
        high_ohm: Some(ohm + doubt),
        spec_low_ohm: None,
        spec_high_ohm: None,
        at_c: input.part_c,
        score: Some(compared.score),
        right: alike(&compared, knowledge.resistance.odd),
        verdict,
        why,
        would_help,
    })
}

/// How likely a reading is one of its sisters, by its distance from the bound.
pub fn alike(compared: &AgainstSisters, odd: f64) -> f64 {
    match compared.standing {
        Standing::OneSister | Standing::Scattered => 0.5,
        Standing::Odd if compared.score.abs() <= odd => 0.05,
        _ => 1.0 / (1.0 + (1.5 * (compared.score.abs() - odd)).exp()),
    }
}

fn in_words(ohm: f64, compared: &AgainstSisters) -> (ResistanceVerdict, String, Vec<String>) {
    let median = ohm_text(compared.median);
    match compared.standing {
        Standing::Alike => (
            ResistanceVerdict::Pass,
            format!(
                "{} is like its sisters, whose middle is {median}. They may all be wrong alike: there is no figure.",
                ohm_text(ohm)
            ),
            Vec::new(),
        ),
        Standing::Odd => (
            ResistanceVerdict::Fail,
            match compared.pair_ratio {
                Some(ratio) => format!(
                    "{} is {ratio:.2} times its two sisters, which agree: the odd one out, a clue and not yet a verdict.",
                    ohm_text(ohm)
                ),
                None => format!(
                    "{} stands {:.1} deviations from the middle of the set, {median}: the odd one out, a clue and not yet a verdict.",
                    ohm_text(ohm),
                    compared.score.abs()
                ),
            },
            Vec::new(),
        ),
        Standing::OneSister => (
            ResistanceVerdict::CannotTell,
            "One sister alone does not tell which of the two is odd.".into(),
            vec!["one more of the same engine, or the maker's figure".into()],
        ),
        Standing::Scattered => (
            ResistanceVerdict::CannotTell,
            format!(
                "The sisters lie too far apart themselves, {} about {median}: they have no common value.",
                ohm_text(compared.mad)
            ),
            vec!["the maker's figure".into(), "leads of like length only, or ohm per metre".into()],
        ),
    }
}

/// An amount of ohm with four figures that carry something.
pub fn ohm_text(ohm: f64) -> String {
    match ohm.abs() {
        x if x >= 1e6 => format!("{:.2} Mohm", ohm / 1e6),
        x if x >= 1e4 => format!("{:.2} kohm", ohm / 1e3),
        x if x >= 1e3 => format!("{:.3} kohm", ohm / 1e3),
        x if x >= 100.0 => format!("{ohm:.1} ohm"),
        x if x >= 10.0 => format!("{ohm:.2} ohm"),
        _ => format!("{ohm:.3} ohm"),
    }
}
