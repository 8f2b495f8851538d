//! The travel of a sensor, a pedal or a throttle: does the value follow without steps, holes or dead spots, and return?

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Judged;
use crate::bench::knowledge::BenchKnowledge;
use crate::bench::sisters::median;
use crate::quantity::{Dimension, understand};
use crate::refusal::Refusal;

/// One moment of the travel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SweepPoint {
    /// Where it stood, in any unit; left out: an even movement is assumed.
    #[serde(default)]
    pub position: Option<f64>,
    pub value: f64,
    /// The second track of a sensor that has two.
    #[serde(default)]
    pub second: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SweepInput {
    /// In the order of the movement: there, and back again if it was.
    pub points: Vec<SweepPoint>,
    /// What the value should reach at least between both ends.
    #[serde(default)]
    pub expected_span: Option<f64>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SweepFlaw {
    Step,
    DropOut,
    DeadTravel,
    Hysteresis,
    Bent,
    TracksApart,
    ShortSpan,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SweepMark {
    pub flaw: SweepFlaw,
    /// The point at which it shows, from 0.
    pub at: usize,
    /// In percent of the span.
    pub pct: f64,
    pub says: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SweepResult {
    pub span: f64,
    /// The largest of each, in percent of the span; null where it could not be seen.
    pub step_pct: f64,
    pub dead_pct: Option<f64>,
    pub hysteresis_pct: Option<f64>,
    pub linearity_pct: Option<f64>,
    pub tracks_pct: Option<f64>,
    pub drop_outs: usize,
    pub marks: Vec<SweepMark>,
    pub verdict: Judged,
    pub says: String,
}

/// The most points that are looked at one by one.
const MOST: usize = 2_000_000;

/// Judges a travel.
///
/// Noise is taken from the median of the second differences, so that slow drift does not count as noise. A step is a
/// difference between neighbours that is more than noise and more than the travel between them explains. A drop-out is a
/// value that leaves its neighbours and comes back. Hysteresis compares the way there with the way back at the same
/// place, linearity is the largest distance from the least-squares line. Where positions are not given, an even movement
/// is assumed for the steps, and linearity and dead travel are not judged.
///
/// # Errors
/// Fewer than eight points or far too many, a value that is no number, positions or second tracks given for some points
/// only.
pub fn sweep(input: &SweepInput, knowledge: &BenchKnowledge) -> Result<SweepResult, Refusal> {
    let figures = &knowledge.sweep;
    let points = &input.points;
    if points.len() < 8 {
        return Err(Refusal::new("points", "eight points at least, or a step cannot be told from the movement"));
    }
    if points.len() > MOST {
        return Err(Refusal::new("points", format!("more than {MOST} points: record fewer a second")));
    }
    for (index, point) in points.iter().enumerate() {
        let all = [Some(point.value), point.position, point.second];
        if all.into_iter().flatten().any(|value| !value.is_finite()) {
            return Err(Refusal::new(format!("points[{index}]"), "must be finite numbers"));
        }
        if point.position.is_some() != points[0].position.is_some() {
            return Err(Refusal::new(format!("points[{index}].position"), "is given for some points only"));
        }
        if point.second.is_some() != points[0].second.is_some() {
            return Err(Refusal::new(format!("points[{index}].second"), "is given for some points only"));
        }
    }
    let values: Vec<f64> = points.iter().map(|p| p.value).collect();
    let (low, high) = ends(&values);
    let span = high - low;
    let mut marks = Vec::new();
    if span <= 0.0 {
        return Ok(SweepResult {
            span,
            step_pct: 0.0,
            dead_pct: None,
            hysteresis_pct: None,
            linearity_pct: None,
            tracks_pct: None,
            drop_outs: 0,
            verdict: Judged::Bad,
            says: "The value does not move at all.".into(),
            marks,
        });
    }
    let positions: Option<Vec<f64>> = points.iter().map(|p| p.position).collect();
    // A value that has dropped out belongs to no end: the span is taken anew without it.
    let raw_pct = |amount: f64| 100.0 * amount / span;
    let second_differences: Vec<f64> =
        values.windows(3).map(|w| (w[2] - 2.0 * w[1] + w[0]).abs() / 6.0_f64.sqrt()).collect();
    let noise = 1.4826 * median(&second_differences);

    // Drop-outs first: they would pass for two steps and a bend.
    let mut smooth = values.clone();
    let mut dropped: Vec<(usize, f64)> = Vec::new();
    let reach = (points.len() / 40).clamp(1, 25);
    // How far the value goes from one point to the next where nothing is wrong.
    let usual = raw_pct(median(&values.windows(2).map(|w| (w[1] - w[0]).abs()).collect::<Vec<_>>()));
    let wobble = raw_pct(figures.noise_sigmas * noise).min(5.0);
    let mut at = 1;
    while at + 1 < values.len() {
        let away = raw_pct((values[at] - smooth[at - 1]).abs()) - usual;
        let back = (at + 1..(at + 1 + reach).min(values.len())).find(|&then| {
            let moved_on = usual * (then + 1 - at) as f64;
            raw_pct((values[then] - smooth[at - 1]).abs()) < away / 3.0 + moved_on + wobble
        });
        match back {
            Some(then) if away > figures.drop_out_pct => {
                let mut depth = 0.0_f64;
                for (offset, slot) in smooth[at..then].iter_mut().enumerate() {
                    let share = (offset + 1) as f64 / (then - at + 1) as f64;
                    *slot = values[at - 1] + share * (values[then] - values[at - 1]);
                    depth = depth.max((values[at + offset] - *slot).abs());
                }
                dropped.push((at, depth));
                at = then + 1;
            }
            _ => at += 1,
        }
    }

    let (low, high) = ends(&smooth);
    let span = high - low;
    let pct = |amount: f64| 100.0 * amount / span;
    let drop_outs = dropped.len();
    marks.extend(dropped.into_iter().map(|(at, depth)| SweepMark {
        flaw: SweepFlaw::DropOut,
        at,
        pct: pct(depth),
        says: format!("drops out by {:.0} % of the travel", pct(depth)),
    }));

    // Steps: what a neighbour is off by, beyond the movement between the two and the noise.
    let slope = positions.as_ref().and_then(|x| line(x, &smooth)).map(|l| l.1.abs());
    let moves: Vec<f64> = smooth.windows(2).map(|w| (w[1] - w[0]).abs()).collect();
    let usual = median(&moves);
    let mut step_pct = 0.0_f64;
    for (index, moved) in moves.iter().enumerate() {
        let explained = match (&positions, slope) {
            (Some(x), Some(slope)) => slope * (x[index + 1] - x[index]).abs(),
            _ => 3.0 * usual,
        };
        let beyond = pct((moved - explained - figures.noise_sigmas * noise).max(0.0));
        step_pct = step_pct.max(beyond);
        if beyond > figures.step_pct {
            marks.push(SweepMark {
                flaw: SweepFlaw::Step,
                at: index + 1,
                pct: beyond,
                says: format!("jumps by {beyond:.0} % of the travel"),
            });
        }
    }

    let (mut dead_pct, mut hysteresis_pct, mut linearity_pct) = (None, None, None);
    if let Some(x) = &positions {
        let (from, to) = ends(x);
        if to > from {
            dead_pct =
                dead_travel(x, &smooth, to - from, span, noise, figures.noise_sigmas, figures.dead_pct, &mut marks);
            hysteresis_pct = hysteresis(x, &smooth, span, noise);
            if let Some((offset, slope)) = line(x, &smooth) {
                let (worst_at, worst) = x
                    .iter()
                    .zip(&smooth)
                    .map(|(x, y)| (y - offset - slope * x).abs())
                    .enumerate()
                    .fold((0, 0.0), |best, one| if one.1 > best.1 { one } else { best });
                let bent = pct((worst - figures.noise_sigmas * noise).max(0.0));
                linearity_pct = Some(bent);
                if bent > figures.linearity_pct {
                    marks.push(SweepMark {
                        flaw: SweepFlaw::Bent,
                        at: worst_at,
                        pct: bent,
                        says: format!("leaves the straight line by {bent:.1} %"),
                    });
                }
            }
            if let Some(lag) = hysteresis_pct.filter(|lag| *lag > figures.hysteresis_pct) {
                marks.push(SweepMark {
                    flaw: SweepFlaw::Hysteresis,
                    at: values.len() / 2,
                    pct: lag,
                    says: format!("returns {lag:.1} % beside the way there"),
                });
            }
        }
    }
    let second: Option<Vec<f64>> = points.iter().map(|p| p.second).collect();
    let tracks_pct = second.and_then(|second| tracks(&values, &second)).map(|(worst_at, apart)| {
        if apart > figures.tracks_pct {
            marks.push(SweepMark {
                flaw: SweepFlaw::TracksApart,
                at: worst_at,
                pct: apart,
                says: format!("the two tracks part by {apart:.1} %"),
            });
        }
        apart
    });
    if let Some(wanted) = input.expected_span
        && span < wanted
    {
        marks.push(SweepMark {
            flaw: SweepFlaw::ShortSpan,
            at: 0,
            pct: 100.0 * (wanted - span) / wanted,
            says: format!("reaches {span:.2} of {wanted:.2}"),
        });
    }
    marks.sort_by_key(|mark| mark.at);
    let verdict = if marks.is_empty() { Judged::Good } else { Judged::Bad };
    let says = match marks.iter().max_by(|a, b| a.pct.total_cmp(&b.pct)) {
        Some(worst) if marks.len() > 1 => {
            format!("{} flaws; the worst: {} at point {}.", marks.len(), worst.says, worst.at + 1)
        }
        Some(only) => format!("It {} at point {}.", only.says.trim_start_matches("it "), only.at + 1),
        None if positions.is_none() => {
            "It follows without steps or drop-outs. Without positions, dead travel and straightness were not judged."
                .into()
        }
        None => "It follows without steps, dead spots or drop-outs, and returns.".into(),
    };
    Ok(SweepResult {
        span,
        step_pct,
        dead_pct,
        hysteresis_pct,
        linearity_pct,
        tracks_pct,
        drop_outs,
        marks,
        verdict,
        says,
    })
}

/// A travel as somebody wrote it down: a line for each place with its position, its value and a second track, or the
/// value alone. Numbers stand apart by spaces, tabs or semicolons; a decimal comma is a decimal sign.
///
/// # Errors
/// Under `text`, with the line: no number, more than three in a line, or another count of them than in the first.
pub fn travel(text: &str) -> Result<Vec<SweepPoint>, Refusal> {
    let mut points = Vec::new();
    let mut columns = None;
    for (index, line) in text.lines().enumerate() {
        let cells: Vec<&str> = line.split([' ', '\t', ';']).filter(|cell| !cell.is_empty()).collect();
        if cells.is_empty() {
            continue;
        }
        let refuse = |reason: String| Refusal::new("text", format!("line {}: {reason}", index + 1));
        let numbers: Vec<f64> = cells
            .iter()
            .map(|cell| {
                let read = understand(cell, Dimension::Number).map_err(|refusal| refuse(refusal.reason))?;
                read.value.ok_or_else(|| refuse(format!("{cell} is no number")))
            })
            .collect::<Result<_, Refusal>>()?;
        if *columns.get_or_insert(numbers.len()) != numbers.len() {
            return Err(refuse("has another count of numbers than the first line".into()));
        }
        points.push(match numbers.as_slice() {
            [value] => SweepPoint { position: None, value: *value, second: None },
            [position, value] => SweepPoint { position: Some(*position), value: *value, second: None },
            [position, value, second] => SweepPoint { position: Some(*position), value: *value, second: Some(*second) },
            _ => return Err(refuse("more than three numbers: position, value, second track".into())),
        });
    }
    Ok(points)
}

/// At most so many points, the least and the most of each stretch kept in their order, so that no drop-out is lost.
pub fn thinned_travel(points: Vec<SweepPoint>, most: usize) -> Vec<SweepPoint> {
    if points.len() <= most.max(2) {
        return points;
    }
    let stretches = (most / 2).max(1);
    (0..stretches)
        .flat_map(|stretch| {
            let part = &points[stretch * points.len() / stretches..(stretch + 1) * points.len() / stretches];
            let by = |a: &(usize, &SweepPoint), b: &(usize, &SweepPoint)| a.1.value.total_cmp(&b.1.value);
            let least = part.iter().enumerate().min_by(by).map_or(0, |one| one.0);
            let greatest = part.iter().enumerate().max_by(by).map_or(0, |one| one.0);
            let (first, second) = (least.min(greatest), least.max(greatest));
            if first == second { vec![part[first]] } else { vec![part[first], part[second]] }
        })
        .collect()
}

fn ends(values: &[f64]) -> (f64, f64) {
    values.iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), &v| (low.min(v), high.max(v)))
}

/// Offset and slope of the least-squares line.
fn line(x: &[f64], y: &[f64]) -> Option<(f64, f64)> {
    let n = x.len() as f64;
    let (mx, my) = (x.iter().sum::<f64>() / n, y.iter().sum::<f64>() / n);
    let sxx: f64 = x.iter().map(|x| (x - mx).powi(2)).sum();
    let sxy: f64 = x.iter().zip(y).map(|(x, y)| (x - mx) * (y - my)).sum();
    (sxx > 1e-12).then(|| (my - sxy / sxx * mx, sxy / sxx))
}

/// The longest movement during which the value stood still, in percent of the travel.
#[allow(clippy::too_many_arguments)]
fn dead_travel(
    x: &[f64],
    y: &[f64],
    travel: f64,
    span: f64,
    noise: f64,
    sigmas: f64,
    limit_pct: f64,
    marks: &mut Vec<SweepMark>,
) -> Option<f64> {
    let still = (sigmas * noise).max(span * 0.004);
    let mut longest = 0.0_f64;
    let mut begin = 0;
    for end in 1..=x.len() {
        let stands = end < x.len()
            && (y[end] - y[begin]).abs() <= still
            && (x[end] - x[end - 1]) * (x[begin + 1] - x[begin]) >= 0.0;
        if stands {
            continue;
        }
        let moved = (x[end - 1] - x[begin]).abs();
        let pct = 100.0 * moved / travel;
        longest = longest.max(pct);
        if pct > limit_pct {
            marks.push(SweepMark {
                flaw: SweepFlaw::DeadTravel,
                at: begin,
                pct,
                says: format!("stands still over {pct:.0} % of the movement"),
            });
        }
        begin = end.min(x.len() - 1);
    }
    Some(longest)
}

/// The largest difference between the way there and the way back at one place, less the noise of both.
fn hysteresis(x: &[f64], y: &[f64], span: f64, noise: f64) -> Option<f64> {
    let turn = x.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1))?.0;
    if turn < 3 || turn + 4 > x.len() {
        return None;
    }
    let (there_x, there_y) = (&x[..=turn], &y[..=turn]);
    let (mut back_x, mut back_y) = (x[turn..].to_vec(), y[turn..].to_vec());
    back_x.reverse();
    back_y.reverse();
    let from = there_x[0].max(back_x[0]);
    let to = x[turn];
    let mut apart = Vec::new();
    for step in 1..40 {
        let place = from + (to - from) * f64::from(step) / 40.0;
        if let (Some(a), Some(b)) = (at(there_x, there_y, place), at(&back_x, &back_y, place)) {
            apart.push((a - b).abs());
        }
    }
    let worst = apart.iter().copied().fold(0.0, f64::max);
    Some(100.0 * (worst - 3.0 * noise).max(0.0) / span)
}

/// The value at a place, between its neighbours.
fn at(x: &[f64], y: &[f64], place: f64) -> Option<f64> {
    let index = x.windows(2).position(|w| w[0] <= place && place <= w[1])?;
    let width = x[index + 1] - x[index];
    let share = if width > 0.0 { (place - x[index]) / width } else { 0.5 };
    Some(y[index] + share * (y[index + 1] - y[index]))
}

/// How far two tracks part, in percent of the second one's span, and where: the second is a straight line of the first.
fn tracks(first: &[f64], second: &[f64]) -> Option<(usize, f64)> {
    let (low, high) = ends(second);
    if high <= low {
        return Some((0, 100.0));
    }
    let (offset, slope) = line(first, second)?;
    let worst = first
        .iter()
        .zip(second)
        .map(|(a, b)| (b - offset - slope * a).abs())
        .enumerate()
        .fold((0, 0.0), |best, one| if one.1 > best.1 { one } else { best });
    Some((worst.0, 100.0 * worst.1 / (high - low)))
}
