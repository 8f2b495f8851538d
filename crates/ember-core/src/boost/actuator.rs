//! The actuator's rod: which setting lets the position signal lie in its window at both ends of the travel.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::refusal::Refusal;

/// A window in volt, as `[low, high]` or by name.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub enum Window {
    Pair([f64; 2]),
    Named { low_v: f64, high_v: f64 },
}

impl Window {
    pub fn ends(self) -> (f64, f64) {
        match self {
            Window::Pair([low, high]) => (low, high),
            Window::Named { low_v, high_v } => (low_v, high_v),
        }
    }
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Windows {
    pub rest: Window,
    pub full: Window,
}

/// The signal at both ends with the rod at one setting.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RodReading {
    /// Turns of the rod from where it was found; in either direction.
    pub turns: f64,
    pub rest_v: f64,
    pub full_v: f64,
}

/// The vacuum that was applied for the full travel: give one of them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ActuatorInput {
    pub windows: Windows,
    pub readings: Vec<RodReading>,
    #[serde(default)]
    pub vacuum_kpa: Option<f64>,
    #[serde(default)]
    pub vacuum_bar: Option<f64>,
    #[serde(default)]
    pub vacuum_mbar: Option<f64>,
    #[serde(default)]
    pub vacuum_mmhg: Option<f64>,
    #[serde(default)]
    pub vacuum_inhg: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReadingJudged {
    pub turns: f64,
    pub rest_v: f64,
    pub full_v: f64,
    pub rest_holds: bool,
    pub full_holds: bool,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum RodVerdict {
    Holds,
    Turn,
    /// No setting can satisfy both windows.
    SpanWrong,
    CannotTell,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ActuatorResult {
    pub verdict: RodVerdict,
    pub vacuum_kpa: Option<f64>,
    pub readings: Vec<ReadingJudged>,
    pub rest_v_per_turn: Option<f64>,
    pub full_v_per_turn: Option<f64>,
    /// Full less rest at the last setting, and what the windows allow.
    pub span_v: f64,
    pub span_allowed_v: [f64; 2],
    /// From the last reading to the setting that centres both ends.
    pub turns_to_go: Option<f64>,
    pub expected_rest_v: Option<f64>,
    pub expected_full_v: Option<f64>,
    pub says: String,
}

/// Judges a rod's settings.
///
/// With readings at two settings or more, each end's signal is a straight line over the turns. The best setting is the
/// one where both ends lie as near as possible to the middle of their windows, measured in half widths.
///
/// # Errors
/// No reading; a window upside down; the vacuum given twice, negative or beyond one atmosphere; a signal that is no
/// number or outside -1 to 30 V.
pub fn actuator(input: &ActuatorInput) -> Result<ActuatorResult, Refusal> {
    if input.readings.is_empty() {
        return Err(Refusal::new("readings", "is empty"));
    }
    let rest = window("windows.rest", input.windows.rest)?;
    let full = window("windows.full", input.windows.full)?;
    let vacuum_kpa = vacuum(input)?;
    for (index, reading) in input.readings.iter().enumerate() {
        for (field, value, low, high) in [
            ("turns", reading.turns, -100.0, 100.0),
            ("rest_v", reading.rest_v, -1.0, 30.0),
            ("full_v", reading.full_v, -1.0, 30.0),
        ] {
            if !value.is_finite() || !(low..=high).contains(&value) {
                return Err(Refusal::new(
                    format!("readings[{index}].{field}"),
                    format!("must lie between {low} and {high}"),
                ));
            }
        }
    }
    let holds = |(low, high): (f64, f64), value: f64| (low..=high).contains(&value);
    let readings: Vec<ReadingJudged> = input
        .readings
        .iter()
        .map(|r| ReadingJudged {
            turns: r.turns,
            rest_v: r.rest_v,
            full_v: r.full_v,
            rest_holds: holds(rest, r.rest_v),
            full_holds: holds(full, r.full_v),
        })
        .collect();
    // The last reading is where the rod stands now: order carries meaning here.
    let now = &readings[readings.len() - 1];
    let span_allowed = [full.0 - rest.1, full.1 - rest.0];
    let span = now.full_v - now.rest_v;
    let lines = line(&input.readings, |r| r.rest_v).zip(line(&input.readings, |r| r.full_v));
    let mut result = ActuatorResult {
        verdict: RodVerdict::CannotTell,
        vacuum_kpa,
        span_v: span,
        span_allowed_v: span_allowed,
        rest_v_per_turn: lines.map(|(r, _)| r.1),
        full_v_per_turn: lines.map(|(_, f)| f.1),
        turns_to_go: None,
        expected_rest_v: None,
        expected_full_v: None,
        says: String::new(),
        readings: Vec::new(),
    };
    let moves = |slope: f64| slope.abs() > 1e-6;
    match lines {
        Some((r, f)) if moves(r.1) || moves(f.1) => {
            let best = best_setting(r, f, rest, full);
            let (rest_at, full_at) = (r.0 + r.1 * best, f.0 + f.1 * best);
            if holds(rest, rest_at) && holds(full, full_at) {
                let to_go = best - now.turns;
                result.turns_to_go = Some(to_go);
                (result.expected_rest_v, result.expected_full_v) = (Some(rest_at), Some(full_at));
                result.verdict = if now.rest_holds && now.full_holds { RodVerdict::Holds } else { RodVerdict::Turn };
                result.says = match result.verdict {
                    RodVerdict::Holds => {
                        format!("Both ends lie in their windows; {to_go:+.2} turns would centre them.")
                    }
                    _ => format!(
                        "Turn {to_go:+.2}: then {rest_at:.2} V at rest and {full_at:.2} V at full travel are expected. Measure again."
                    ),
                };
            } else {
                result.verdict = RodVerdict::SpanWrong;
                result.says = format!(
                    "No setting can satisfy both ends: the travel gives {span:.2} V where the windows allow {:.2} to {:.2} V. The sensor or the linkage is wrong, not the rod.",
                    span_allowed[0], span_allowed[1]
                );
            }
        }
        _ if now.rest_holds && now.full_holds => {
            result.verdict = RodVerdict::Holds;
            result.says = "Both ends lie in their windows.".into();
        }
        Some(_) => {
            result.verdict = RodVerdict::SpanWrong;
            result.says = "Turning the rod does not move the signal: the sensor or the linkage is wrong.".into();
        }
        None => {
            result.says =
                "One setting does not tell how far a turn moves the signal. Measure the rod, note it, turn it by one turn and read both ends again.".into();
        }
    }
    result.readings = readings;
    Ok(result)
}

/// The turns at which both ends are nearest to the middle of their windows, in half widths: least squares.
fn best_setting(r: (f64, f64), f: (f64, f64), rest: (f64, f64), full: (f64, f64)) -> f64 {
    let part = |(offset, slope): (f64, f64), (low, high): (f64, f64)| {
        let half = ((high - low) / 2.0).max(1e-6);
        (slope / half, ((low + high) / 2.0 - offset) / half)
    };
    let ((a, b), (c, d)) = (part(r, rest), part(f, full));
    (a * b + c * d) / (a * a + c * c)
}

fn line(readings: &[RodReading], of: impl Fn(&RodReading) -> f64) -> Option<(f64, f64)> {
    let n = readings.len() as f64;
    let mx = readings.iter().map(|r| r.turns).sum::<f64>() / n;
    let my = readings.iter().map(&of).sum::<f64>() / n;
    let sxx: f64 = readings.iter().map(|r| (r.turns - mx).powi(2)).sum();
    if sxx < 1e-9 {
        return None;
    }
    let slope = readings.iter().map(|r| (r.turns - mx) * (of(r) - my)).sum::<f64>() / sxx;
    Some((my - slope * mx, slope))
}

fn window(field: &str, window: Window) -> Result<(f64, f64), Refusal> {
    let (low, high) = window.ends();
    if !low.is_finite() || !high.is_finite() {
        return Err(Refusal::new(field, "must be two finite numbers"));
    }
    if low >= high {
        return Err(Refusal::new(field, format!("low {low} does not lie below high {high}")));
    }
    Ok((low, high))
}

/// The applied vacuum in kPa below ambient.
fn vacuum(input: &ActuatorInput) -> Result<Option<f64>, Refusal> {
    let given = [
        ("vacuum_kpa", input.vacuum_kpa, 1.0),
        ("vacuum_bar", input.vacuum_bar, 100.0),
        ("vacuum_mbar", input.vacuum_mbar, 0.1),
        ("vacuum_mmhg", input.vacuum_mmhg, 0.133322387415),
        ("vacuum_inhg", input.vacuum_inhg, 3.386388640341),
    ];
    let mut found = None;
    for (field, value, size) in given {
        let Some(value) = value else { continue };
        if found.is_some() {
            return Err(Refusal::new(field, "the vacuum is given twice"));
        }
        let kpa = value * size;
        if !kpa.is_finite() || !(0.0..=105.0).contains(&kpa) {
            return Err(Refusal::new(field, "must lie between 0 and one atmosphere, below ambient"));
        }
        found = Some(kpa);
    }
    Ok(found)
}
