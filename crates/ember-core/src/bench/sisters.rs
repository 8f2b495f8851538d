//! One reading against its sisters: like parts of the same engine, where no figure is known.

use super::knowledge::ResistanceFigures;

/// What a comparison says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AgainstSisters {
    pub median: f64,
    /// Median absolute deviation, not below its floor.
    pub mad: f64,
    /// Modified z-score 0.6745 (x − median)/MAD.
    pub score: f64,
    /// This reading against the mean of two sisters that agree.
    pub pair_ratio: Option<f64>,
    pub standing: Standing,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Standing {
    Alike,
    Odd,
    /// One sister alone does not tell which of the two is odd.
    OneSister,
    /// The sisters have no common value.
    Scattered,
}

/// Compares a reading with its sisters. Median and deviation are over all, this one included, and do not depend on the
/// order of the sisters.
///
/// `floor` is the least deviation that can be told from the instrument's own error, in the unit of the reading.
pub fn against_sisters(this: f64, sisters: &[f64], floor: f64, figures: &ResistanceFigures) -> AgainstSisters {
    let all: Vec<f64> = sisters.iter().copied().chain([this]).collect();
    let centre = median(&all);
    let deviations: Vec<f64> = all.iter().map(|x| (x - centre).abs()).collect();
    // A floor of nought would divide by nought where all are equal.
    let mad = median(&deviations).max(floor).max(centre.abs() * 1e-9).max(f64::MIN_POSITIVE);
    let score = 0.6745 * (this - centre) / mad;
    let pair_ratio = match sisters {
        [a, b] => {
            let mean = (a + b) / 2.0;
            let agree = (a - b).abs() <= figures.agree_pct / 100.0 * mean.abs() || (a - b).abs() <= 2.0 * floor;
            (agree && mean > 0.0).then_some(this / mean)
        }
        _ => None,
    };
    let apart = |ratio: f64| ratio > figures.pair_ratio || ratio < 1.0 / figures.pair_ratio;
    let standing = if sisters.len() == 1 {
        Standing::OneSister
    } else if pair_ratio.is_some_and(apart) {
        Standing::Odd
    } else if mad > figures.scatter_pct / 100.0 * centre.abs() {
        Standing::Scattered
    } else if score.abs() > figures.odd {
        Standing::Odd
    } else {
        Standing::Alike
    };
    AgainstSisters { median: centre, mad, score, pair_ratio, standing }
}

/// The middle value; the mean of the two in the middle of an even number. Nought for an empty list.
pub fn median(values: &[f64]) -> f64 {
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
    let half = sorted.len() / 2;
    match sorted.len() {
        0 => 0.0,
        n if n % 2 == 1 => sorted[half],
        _ => (sorted[half - 1] + sorted[half]) / 2.0,
    }
}
