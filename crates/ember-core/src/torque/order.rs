//! In which order fasteners are tightened, and where they stand in the drawing.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How the fasteners lie.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum FastenerPattern {
    /// On a circle: a flange, a hub. Crosswise.
    #[default]
    Circle,
    /// In rows over an area: a cover, a manifold, a cylinder head. In a spiral from the middle.
    Cover,
    /// In one row. From the middle, alternately to both sides.
    Row,
}

/// A fastener in the drawing, both coordinates between 0 and 1, x to the right and y downwards.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Spot {
    /// Counted along the circle, or along the rows from the upper left.
    pub fastener: usize,
    pub x: f64,
    pub y: f64,
}

/// Where `count` fasteners stand. `rows` is only looked at for a cover.
pub(super) fn spots(pattern: FastenerPattern, count: usize, rows: usize) -> Vec<Spot> {
    let at = |fastener: usize, x: f64, y: f64| Spot { fastener, x, y };
    match pattern {
        FastenerPattern::Circle => (0..count)
            .map(|i| {
                let angle = std::f64::consts::TAU * i as f64 / count as f64 - std::f64::consts::FRAC_PI_2;
                at(i + 1, 0.5 + 0.42 * angle.cos(), 0.5 + 0.42 * angle.sin())
            })
            .collect(),
        FastenerPattern::Row => (0..count).map(|i| at(i + 1, (i as f64 + 0.5) / count as f64, 0.5)).collect(),
        FastenerPattern::Cover => {
            let mut list = Vec::with_capacity(count);
            for row in 0..rows {
                // An odd one goes to the first rows.
                let in_row = count / rows + usize::from(row < count % rows);
                for column in 0..in_row {
                    list.push(at(
                        list.len() + 1,
                        (column as f64 + 0.5) / in_row as f64,
                        (row as f64 + 0.5) / rows as f64,
                    ));
                }
            }
            list
        }
    }
}

/// The fasteners in the order of tightening.
pub(super) fn order(pattern: FastenerPattern, spots: &[Spot]) -> Vec<usize> {
    match pattern {
        FastenerPattern::Circle => crosswise(spots.len()),
        FastenerPattern::Cover | FastenerPattern::Row => from_the_middle(spots),
    }
}

/// Each fastener is followed by the one opposite, and each pair by the one farthest from those already tight. An odd
/// number has no opposites: then the star, just short of half-way round each time.
fn crosswise(count: usize) -> Vec<usize> {
    if !count.is_multiple_of(2) {
        let step = (count - 1) / 2;
        return (0..count).map(|i| i * step.max(1) % count + 1).collect();
    }
    let half = count / 2;
    let mut pairs: Vec<usize> = Vec::with_capacity(half);
    while pairs.len() < half {
        // Pairs lie on a circle of half the length.
        let apart = |a: usize, b: usize| a.abs_diff(b).min(half - a.abs_diff(b));
        let farthest = (0..half)
            .filter(|pair| !pairs.contains(pair))
            .max_by_key(|&pair| {
                let nearest = pairs.iter().map(|&done| apart(pair, done)).min().unwrap_or(half);
                (nearest, std::cmp::Reverse(pair))
            })
            .unwrap_or_default();
        pairs.push(farthest);
    }
    pairs.into_iter().flat_map(|pair| [pair + 1, pair + half + 1]).collect()
}

/// Ring by ring outwards; within a ring each is followed by the one that lies across.
fn from_the_middle(spots: &[Spot]) -> Vec<usize> {
    let (x, y) = (mean(spots.iter().map(|s| s.x)), mean(spots.iter().map(|s| s.y)));
    // The drawing is a square, the cover is not: how far out one lies is counted in columns.
    let columns = spots.iter().map(|s| (s.y * 1e6) as i64).filter(|&at| at == (spots[0].y * 1e6) as i64).count();
    let distance = |s: &Spot| ((s.x - x).abs() * columns as f64 * 2.0).round() as i64;
    let mut left: Vec<&Spot> = spots.iter().collect();
    let mut list: Vec<usize> = Vec::with_capacity(spots.len());
    let mut last: Option<&Spot> = None;
    while !left.is_empty() {
        let ring = left.iter().map(|s| distance(s)).min().unwrap_or_default();
        // In steps that are far finer than any cover, so that what lies alike is alike.
        let across = |s: &Spot| {
            let far = match last {
                // From the mirror of the last one.
                Some(last) => (s.x - (2.0 * x - last.x)).hypot(s.y - (2.0 * y - last.y)),
                None => s.x + s.y,
            };
            (far * 1e6).round() as i64
        };
        let Some(at) =
            (0..left.len()).filter(|&i| distance(left[i]) == ring).min_by_key(|&i| (across(left[i]), left[i].fastener))
        else {
            break;
        };
        let next = left.remove(at);
        list.push(next.fastener);
        last = Some(next);
    }
    list
}

fn mean(values: impl ExactSizeIterator<Item = f64>) -> f64 {
    let count = values.len() as f64;
    values.sum::<f64>() / count
}
