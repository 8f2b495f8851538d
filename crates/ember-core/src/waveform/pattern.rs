//! Crank and cam against each other: the teeth of the wheel, its gap, and where the cam's edges stand in crank degrees.

use serde::Serialize;
use utoipa::ToSchema;

use super::trace::Trace;
use crate::bench::sisters::median;

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TeethSeen {
    /// Teeth between two gaps, as most revolutions show them.
    pub teeth: u32,
    /// Places without a tooth in the gap.
    pub missing: u32,
    pub revolutions: u32,
    /// Revolutions with another number of teeth than most, or with a tooth out of its place.
    pub disturbed: u32,
    pub rpm: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CamSeen {
    /// The cam's rising and falling edges, in crank degrees after the gap, 0 to 720.
    pub edges_deg: Vec<f64>,
    /// How far single edges scatter, in crank degrees.
    pub scatter_deg: f64,
    /// How far the cam stands from its reference, late positive; null without one.
    pub shift_deg: Option<f64>,
}

/// The edges of a signal's teeth: the middle between its levels, so that a magnetic pick-up is taken at its steep side.
fn edges(trace: Trace<'_>) -> (Vec<f64>, Vec<f64>) {
    let (low, high) = (trace.quantile(0.02), trace.quantile(0.98));
    let middle = (low + high) / 2.0;
    // Wide enough that noise in the gap of a pick-up passes for no tooth.
    let band = 0.25 * (high - low);
    (trace.rises(middle + band, middle - band), trace.falls(middle - band, middle + band))
}

/// The wheel's teeth, with the time of the first tooth after each gap and the teeth of each revolution.
struct Wheel {
    teeth: Vec<f64>,
    /// Indexes into `teeth`.
    after_gap: Vec<usize>,
}

fn wheel(trace: Trace<'_>, gap_ratio: f64) -> Option<Wheel> {
    let (teeth, _) = edges(trace);
    if teeth.len() < 12 {
        return None;
    }
    let periods: Vec<f64> = teeth.windows(2).map(|w| w[1] - w[0]).collect();
    let mut after_gap = Vec::new();
    for (index, &period) in periods.iter().enumerate() {
        let from = index.saturating_sub(4);
        let to = (index + 5).min(periods.len());
        if period > gap_ratio * median(&periods[from..to]) {
            after_gap.push(index + 1);
        }
    }
    (after_gap.len() >= 2).then_some(Wheel { teeth, after_gap })
}

/// Reads a crank signal's wheel.
pub fn crank_teeth(trace: Trace<'_>, gap_ratio: f64) -> Option<TeethSeen> {
    let wheel = wheel(trace, gap_ratio)?;
    let counts: Vec<usize> = wheel.after_gap.windows(2).map(|w| w[1] - w[0]).collect();
    let usual = most_frequent(&counts)?;
    let mut gaps = Vec::new();
    let mut turns = Vec::new();
    // A lost tooth looks like a gap and cuts its revolution in pieces: pieces that follow each other are one.
    let (mut disturbed, mut in_pieces) = (0, false);
    for pair in wheel.after_gap.windows(2) {
        let of: Vec<f64> = wheel.teeth[pair[0]..pair[1]].windows(2).map(|w| w[1] - w[0]).collect();
        let middle = median(&of);
        let whole = pair[1] - pair[0] == usual;
        // Speed changes slowly within a revolution: a tooth out of its place is one period long and its neighbour short.
        let uneven = of.windows(3).any(|w| (w[1] - (w[0] + w[2]) / 2.0).abs() > 0.35 * middle);
        if whole {
            let gap = wheel.teeth[pair[1]] - wheel.teeth[pair[1] - 1];
            let beside = wheel.teeth[pair[1] - 1] - wheel.teeth[pair[1] - 2];
            gaps.push(gap / beside);
            turns.push(wheel.teeth[pair[1]] - wheel.teeth[pair[0]]);
        }
        if (whole && uneven) || (!whole && !in_pieces) {
            disturbed += 1;
        }
        in_pieces = !whole;
    }
    let (first, last) = (wheel.teeth[wheel.after_gap[0]], wheel.teeth[*wheel.after_gap.last()?]);
    let turn = median(&turns);
    Some(TeethSeen {
        teeth: usual as u32,
        missing: (median(&gaps).round() as u32).saturating_sub(1),
        revolutions: ((last - first) / turn).round() as u32,
        disturbed,
        rpm: 60.0 / turn,
    })
}

/// Where the cam's edges stand in crank degrees, and how far from a reference.
///
/// Each edge lies between two teeth; its angle is taken between them, the gap counted with the places it has. The gap
/// comes twice in a cycle, so which of the two revolutions is the first is chosen as fits the reference best.
pub fn cam_against_crank(crank: Trace<'_>, cam: Trace<'_>, gap_ratio: f64, reference_deg: &[f64]) -> Option<CamSeen> {
    let wheel = wheel(crank, gap_ratio)?;
    let seen = crank_teeth(crank, gap_ratio)?;
    let places = f64::from(seen.teeth + seen.missing);
    let (rises, falls) = edges(cam);
    let mut found: Vec<f64> = Vec::new();
    let mut all: Vec<(u32, f64)> = Vec::new();
    for time in rises.into_iter().chain(falls) {
        let Some(revolution) =
            wheel.after_gap.windows(2).position(|w| wheel.teeth[w[0]] <= time && time < wheel.teeth[w[1]])
        else {
            continue;
        };
        let (from, to) = (wheel.after_gap[revolution], wheel.after_gap[revolution + 1]);
        if to - from != seen.teeth as usize {
            continue;
        }
        let tooth = from + wheel.teeth[from..to].partition_point(|&t| t <= time) - 1;
        let next = wheel.teeth[tooth + 1];
        let width = if tooth + 1 == to { f64::from(seen.missing + 1) } else { 1.0 };
        let share = (time - wheel.teeth[tooth]) / (next - wheel.teeth[tooth]);
        let angle = ((tooth - from) as f64 + share * width) * 360.0 / places;
        all.push((revolution as u32 % 2, angle));
    }
    if all.is_empty() {
        return None;
    }
    // Edges of the same revolution within a few degrees of each other are one edge of the wheel.
    let mut angles: Vec<f64> = all.iter().map(|(half, angle)| f64::from(*half) * 360.0 + angle).collect();
    angles.sort_by(f64::total_cmp);
    let mut groups: Vec<Vec<f64>> = Vec::new();
    for angle in angles {
        match groups.last_mut() {
            Some(group) if angle - group[group.len() - 1] < 3.0 => group.push(angle),
            _ => groups.push(vec![angle]),
        }
    }
    // An edge that lies at the gap itself falls on both ends of the cycle.
    if groups.len() > 1 && groups[0][0] < 1.5 && groups[groups.len() - 1].iter().any(|a| *a > 718.5) {
        let last = groups.pop().unwrap_or_default();
        groups[0].extend(last.into_iter().map(|a| a - 720.0));
    }
    let most = groups.iter().map(Vec::len).max().unwrap_or(1);
    groups.retain(|group| 3 * group.len() >= most);
    let mut scatter = 0.0_f64;
    for group in &groups {
        let middle = median(group);
        let deviations: Vec<f64> = group.iter().map(|a| (a - middle).abs()).collect();
        scatter = scatter.max(1.4826 * median(&deviations));
        found.push(middle.rem_euclid(720.0));
    }
    found.sort_by(f64::total_cmp);
    let shift_deg = shift(&found, reference_deg);
    if let Some((turned, _)) = shift_deg
        && turned
    {
        for angle in &mut found {
            *angle = (*angle + 360.0).rem_euclid(720.0);
        }
        found.sort_by(f64::total_cmp);
    }
    Some(CamSeen { edges_deg: found, scatter_deg: scatter, shift_deg: shift_deg.map(|(_, shift)| shift) })
}

/// The median distance of each reference edge to the nearest found one, for both choices of the first revolution; the
/// choice with the lesser remaining distances counts.
fn shift(found: &[f64], reference: &[f64]) -> Option<(bool, f64)> {
    if reference.is_empty() || found.is_empty() {
        return None;
    }
    let apart = |a: f64, b: f64| (a - b + 360.0).rem_euclid(720.0) - 360.0;
    [false, true]
        .into_iter()
        .flat_map(|turned| {
            // Each pairing of the first reference edge with a found one is tried as the shift.
            found.iter().map(move |f| {
                let add = if turned { 360.0 } else { 0.0 };
                let guess = apart(f + add, reference[0]);
                let distances: Vec<f64> = reference
                    .iter()
                    .map(|r| {
                        found
                            .iter()
                            .map(|f| apart(f + add, r + guess))
                            .min_by(|a, b| a.abs().total_cmp(&b.abs()))
                            .unwrap_or(360.0)
                    })
                    .collect();
                let left = distances.iter().map(|d| d.abs()).sum::<f64>();
                (turned, guess + median(&distances), left + 0.02 * guess.abs())
            })
        })
        .min_by(|a, b| a.2.total_cmp(&b.2))
        .map(|(turned, shift, _)| (turned, shift))
}

fn most_frequent(counts: &[usize]) -> Option<usize> {
    let mut sorted = counts.to_vec();
    sorted.sort_unstable();
    sorted.iter().copied().max_by_key(|count| (sorted.iter().filter(|c| *c == count).count(), *count))
}
