//! Charge pressure: does the actual pressure follow the request, and if not, in which way it fails.

mod actuator;
mod course;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::trims::t_quantile;

pub use actuator::{ActuatorInput, ActuatorResult, RodVerdict, Window, actuator};
pub use course::{Step, Stretch};

/// One moment of a drive. Pressures are absolute.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BoostSample {
    pub time_s: f64,
    pub requested_kpa: f64,
    pub actual_kpa: f64,
    #[serde(default)]
    pub rpm: Option<f64>,
    /// What the vanes are asked for and what they report, where that is known.
    #[serde(default)]
    pub vane_request_pct: Option<f64>,
    #[serde(default)]
    pub vane_position_pct: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BoostInput {
    pub series: Vec<BoostSample>,
    #[serde(default)]
    pub ambient_kpa: Option<f64>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum BoostVerdict {
    /// The pressure does what it is asked.
    Follows,
    /// The shortfall grows with the pressure.
    Leak,
    /// Off by the same everywhere: a sensor, an adjustment.
    ConstantOffset,
    /// Late both ways, too much after a rise: the vanes or their drive stick.
    StickingVanes,
    /// The pressure does not answer the request.
    NoResponse,
    CannotTell,
}

/// A value with the interval that holds it with 95 %.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Estimate {
    pub value: f64,
    pub low: f64,
    pub high: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BoostResult {
    pub verdict: BoostVerdict,
    pub decided: bool,
    /// Actual less requested while the request was steady, in kPa.
    pub error_kpa: Option<Estimate>,
    /// The spread (standard deviation) of that error between stretches.
    pub spread_kpa: Option<f64>,
    /// How the error changes for each kPa requested above ambient; below zero the shortfall grows.
    pub slope: Option<Estimate>,
    /// How much of a change in the request the pressure follows: 1 all of it.
    pub gain: Option<Estimate>,
    /// Time from a rise of the request until nine tenths of it are there, the middle of all rises; null when it never
    /// came.
    pub rise_s: Option<f64>,
    /// The most that the actual pressure stood above the request, the middle of all rises.
    pub overshoot_kpa: Option<f64>,
    /// The same course for the vanes' own travel, where it was recorded: the share of the asked travel they made.
    pub vane_gain: Option<Estimate>,
    pub steady: Vec<Stretch>,
    pub steps: Vec<Step>,
    pub says: String,
    /// What to look at first, cheap looks before dear ones.
    pub look_first: Vec<String>,
    pub next: String,
}

/// Judges a series.
///
/// # Errors
/// Nothing in the series; a time that runs backwards or stands still; a pressure that is no number, negative, or
/// beyond 600 kPa.
pub fn boost(input: &BoostInput, knowledge: &Knowledge) -> Result<BoostResult, Refusal> {
    if input.series.is_empty() {
        return Err(Refusal::new("series", "is empty"));
    }
    let ambient = crate::refusal::above_zero("ambient_kpa", input.ambient_kpa.unwrap_or(101.325))?;
    let mut last = f64::NEG_INFINITY;
    for (index, sample) in input.series.iter().enumerate() {
        let refuse = |field: &str, reason: String| Err(Refusal::new(format!("series[{index}].{field}"), reason));
        if !sample.time_s.is_finite() || sample.time_s <= last {
            return refuse("time_s", "must lie after the sample before it".into());
        }
        last = sample.time_s;
        for (field, value) in [("requested_kpa", sample.requested_kpa), ("actual_kpa", sample.actual_kpa)] {
            if !value.is_finite() || !(0.0..=600.0).contains(&value) {
                return refuse(field, "must lie between 0 and 600, absolute".into());
            }
        }
        for (field, value, most) in [
            ("rpm", sample.rpm, 20_000.0),
            ("vane_request_pct", sample.vane_request_pct, 100.0),
            ("vane_position_pct", sample.vane_position_pct, 100.0),
        ] {
            if value.is_some_and(|v| !v.is_finite() || !(0.0..=most).contains(&v)) {
                return refuse(field, format!("must lie between 0 and {most}"));
            }
        }
    }
    Ok(of_series(&input.series, ambient, knowledge))
}

/// The samples of a recording that hold both pressures. Slower channels are held.
pub fn boost_samples(
    recording: &crate::recording::Recording,
    rules: &crate::recording::EvidenceKnowledge,
) -> Vec<BoostSample> {
    use crate::recording::Held;
    let held = |name| Held::of(recording, name, rules.hold.seconds);
    let mut requested = held("requested_boost");
    let mut actual = held("actual_boost");
    let mut manifold = held("manifold_pressure");
    let (mut rpm, mut asked, mut vanes) = (held("engine_speed"), held("vane_request"), held("vane_position"));
    if !requested.is_there() {
        return Vec::new();
    }
    let mut samples: Vec<BoostSample> = Vec::new();
    for (row, &now) in recording.time_s.iter().enumerate() {
        let (want, got, map) = (requested.at(row, now), actual.at(row, now), manifold.at(row, now));
        let got = if actual.is_there() { got } else { map };
        let (r, a, v) = (rpm.at(row, now), asked.at(row, now), vanes.at(row, now));
        let known = |value: f64| (!value.is_nan()).then_some(value);
        if want.is_nan() || got.is_nan() || samples.last().is_some_and(|s| s.time_s >= now) {
            continue;
        }
        samples.push(BoostSample {
            time_s: now,
            requested_kpa: want,
            actual_kpa: got,
            rpm: known(r),
            vane_request_pct: known(a),
            vane_position_pct: known(v),
        });
    }
    samples
}

/// The same for samples that are already checked.
pub fn of_series(series: &[BoostSample], ambient_kpa: f64, knowledge: &Knowledge) -> BoostResult {
    let rules = &knowledge.boost;
    let steady = course::stretches(series, &rules.steady);
    let steps = course::steps(series, &rules.step);
    let errors: Vec<f64> = steady.iter().map(|s| s.actual_kpa - s.requested_kpa).collect();
    let above: Vec<f64> = steady.iter().map(|s| s.requested_kpa - ambient_kpa).collect();
    let span =
        above.iter().copied().fold(f64::NEG_INFINITY, f64::max) - above.iter().copied().fold(f64::INFINITY, f64::min);
    let enough = steady.len() >= rules.limits.least_stretches;
    let spans = enough && span >= rules.limits.least_span_kpa;
    let error_kpa = mean(&errors);
    let spread_kpa = (errors.len() > 1).then(|| spread(&errors));
    let slope = spans.then(|| slope(&above, &errors)).flatten();
    let gain = slope.map(|s| Estimate { value: 1.0 + s.value, low: 1.0 + s.low, high: 1.0 + s.high });
    let vane_gain = course::vane_gain(series);
    let rise_s = middle(steps.iter().map(|s| s.reached_s.unwrap_or(f64::INFINITY)).collect()).filter(|t| t.is_finite());
    let overshoot_kpa = middle(steps.iter().map(|s| s.overshoot_kpa).collect());

    let limits = &rules.limits;
    let over = overshoot_kpa.is_some_and(|k| k > limits.overshoot_kpa);
    let late = steps.len() >= 2 && rise_s.is_none_or(|t| t > rules.step.late_s);
    let dead = gain.is_some_and(|g| g.high < limits.dead_gain) || vane_gain.is_some_and(|g| g.high < limits.dead_gain);
    let grows = slope.is_some_and(|s| s.high < limits.leak_slope) && error_kpa.is_some_and(|e| e.value < 0.0);
    let off = error_kpa.filter(|e| e.low > limits.follows_kpa || e.high < -limits.follows_kpa);
    let within = error_kpa.is_some_and(|e| e.value.abs() <= limits.follows_kpa)
        && spread_kpa.is_none_or(|s| s <= 2.0 * limits.follows_kpa);
    let (verdict, decided) = if !enough && steps.len() < 2 {
        (BoostVerdict::CannotTell, false)
    } else if dead {
        (BoostVerdict::NoResponse, true)
    } else if over && steps.len() >= 2 {
        (BoostVerdict::StickingVanes, true)
    } else if grows {
        (BoostVerdict::Leak, true)
    } else if off.is_some() {
        (BoostVerdict::ConstantOffset, spans)
    } else if within && !late {
        (BoostVerdict::Follows, spans)
    } else if late {
        (BoostVerdict::StickingVanes, false)
    } else {
        (BoostVerdict::CannotTell, false)
    };
    let (says, look_first) = in_words(verdict, error_kpa, slope, gain, rise_s, overshoot_kpa);
    let next = if decided {
        "Look there first, and drive the same hill again afterwards.".into()
    } else if !spans {
        format!(
            "The request was steady at {} pressures over {:.0} kPa: record a drive with gentle and full load, each held for some seconds.",
            steady.len(),
            if span.is_finite() { span } else { 0.0 }
        )
    } else {
        "Record several rises of the request from low engine speed, and hold each.".into()
    };
    BoostResult {
        verdict,
        decided,
        error_kpa,
        spread_kpa,
        slope,
        gain,
        rise_s,
        overshoot_kpa,
        vane_gain,
        steady,
        steps,
        says,
        look_first: look_first.into_iter().map(str::to_owned).collect(),
        next,
    }
}

fn in_words(
    verdict: BoostVerdict,
    error: Option<Estimate>,
    slope: Option<Estimate>,
    gain: Option<Estimate>,
    rise: Option<f64>,
    overshoot: Option<f64>,
) -> (String, Vec<&'static str>) {
    let error = error.map_or(0.0, |e| e.value);
    match verdict {
        BoostVerdict::Follows => {
            (format!("The pressure follows its request: {error:+.0} kPa while it is steady."), vec![])
        }
        BoostVerdict::Leak => (
            format!(
                "The shortfall grows with the pressure, {:.0} % of what is asked above ambient: charge air escapes.",
                slope.map_or(0.0, |s| -100.0 * s.value)
            ),
            vec![
                "joints and hoses, oily where they leak",
                "cracks at bends, chafed places",
                "seams of the charge cooler",
                "exhaust side before the turbine",
            ],
        ),
        BoostVerdict::ConstantOffset => (
            format!("The pressure is off by {error:+.0} kPa everywhere, whatever is asked."),
            vec!["the pressure sensor against ambient with the engine off", "the rod's adjustment", "the air filter"],
        ),
        BoostVerdict::StickingVanes => (
            format!(
                "The pressure comes {} and goes {:.0} kPa beyond its request: the vanes or their drive stick.",
                rise.map_or("late".to_owned(), |t| format!("after {t:.1} s")),
                overshoot.unwrap_or(0.0)
            ),
            vec![
                "the rod: does it move freely by hand, without a step",
                "the actuator: does it hold its vacuum and travel fully",
                "its position signal at both ends",
                "the vanes: soot",
            ],
        ),
        BoostVerdict::NoResponse => (
            format!(
                "The pressure does not answer its request{}: nothing regulates it.",
                gain.map_or(String::new(), |g| format!(" (it follows {:.0} % of it)", 100.0 * g.value.max(0.0)))
            ),
            vec![
                "does the rod move when the actuator is driven",
                "vacuum at the actuator, the hose, the valve",
                "plug and wiring of the actuator",
                "vanes seized",
            ],
        ),
        BoostVerdict::CannotTell => ("The series does not tell.".into(), vec![]),
    }
}

fn mean(values: &[f64]) -> Option<Estimate> {
    if values.is_empty() {
        return None;
    }
    let n = values.len() as f64;
    let value = values.iter().sum::<f64>() / n;
    // One stretch has no spread of its own: the sensors' tolerance stands for it.
    let half = if values.len() > 1 { t_quantile(n - 1.0) * spread(values) / n.sqrt() } else { 2.0 * SENSOR_KPA };
    Some(Estimate { value, low: value - half, high: value + half })
}

/// The tolerance of a pressure sensor, as one standard deviation.
const SENSOR_KPA: f64 = 2.0;

fn spread(values: &[f64]) -> f64 {
    let n = values.len() as f64;
    let mean = values.iter().sum::<f64>() / n;
    (values.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / (n - 1.0).max(1.0)).sqrt()
}

/// The slope of y over x with its 95 % interval. The residuals' spread is never taken smaller than a sensor's.
fn slope(x: &[f64], y: &[f64]) -> Option<Estimate> {
    let n = x.len() as f64;
    if x.len() < 3 {
        return None;
    }
    let (mx, my) = (x.iter().sum::<f64>() / n, y.iter().sum::<f64>() / n);
    let sxx: f64 = x.iter().map(|v| (v - mx).powi(2)).sum();
    if sxx <= 0.0 {
        return None;
    }
    let value = x.iter().zip(y).map(|(a, b)| (a - mx) * (b - my)).sum::<f64>() / sxx;
    let rest: f64 = x.iter().zip(y).map(|(a, b)| (b - my - value * (a - mx)).powi(2)).sum();
    let variance = (rest / (n - 2.0)).max(SENSOR_KPA.powi(2) / 4.0);
    let half = t_quantile(n - 2.0) * (variance / sxx).sqrt();
    Some(Estimate { value, low: value - half, high: value + half })
}

fn middle(mut values: Vec<f64>) -> Option<f64> {
    if values.is_empty() {
        return None;
    }
    values.sort_by(f64::total_cmp);
    let half = values.len() / 2;
    Some(if values.len() % 2 == 1 { values[half] } else { (values[half - 1] + values[half]) / 2.0 })
}

/// The file `knowledge/boost.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BoostKnowledge {
    pub steady: SteadyRequest,
    pub step: StepRules,
    pub limits: BoostLimits,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SteadyRequest {
    pub seconds: f64,
    pub request_spread_kpa: f64,
    pub settle_s: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StepRules {
    pub rise_kpa: f64,
    pub within_s: f64,
    pub watch_s: f64,
    pub late_s: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BoostLimits {
    pub follows_kpa: f64,
    pub overshoot_kpa: f64,
    pub dead_gain: f64,
    pub least_span_kpa: f64,
    pub least_stretches: usize,
    pub leak_slope: f64,
    pub because: String,
}
