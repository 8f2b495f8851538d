//! Thinning: a trace drawn from its highest and lowest value in each column of the screen, so that no peak is lost.

use serde::Serialize;
use utoipa::ToSchema;

/// One channel between two times, in columns of equal width.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Thinned {
    pub channel: String,
    /// The lowest value of each column; null where nothing was taken.
    pub low: Vec<Option<f32>>,
    pub high: Vec<Option<f32>>,
    /// The lowest and the highest value over the whole stretch.
    pub least: Option<f32>,
    pub most: Option<f32>,
}

/// Thins `values` taken at `time_s` between `from_s` and `to_s` into `columns`.
///
/// A sample belongs to the column its time falls in. With fewer samples than columns there are empty columns, which
/// a drawing bridges.
pub fn thin(channel: &str, time_s: &[f64], values: &[f32], from_s: f64, to_s: f64, columns: usize) -> Thinned {
    let columns = columns.max(1);
    let mut low = vec![f32::NAN; columns];
    let mut high = vec![f32::NAN; columns];
    let width = (to_s - from_s) / columns as f64;
    if width > 0.0 {
        let first = time_s.partition_point(|&t| t < from_s);
        let last = time_s.partition_point(|&t| t <= to_s);
        for (t, &value) in time_s[first..last].iter().zip(&values[first..last]) {
            if value.is_nan() {
                continue;
            }
            let column = (((t - from_s) / width) as usize).min(columns - 1);
            // min and max leave NaN out, so the first value of a column takes its place.
            low[column] = low[column].min(value);
            high[column] = high[column].max(value);
        }
    }
    let number = |v: f32| (!v.is_nan()).then_some(v);
    Thinned {
        channel: channel.to_owned(),
        least: number(low.iter().copied().fold(f32::NAN, f32::min)),
        most: number(high.iter().copied().fold(f32::NAN, f32::max)),
        low: low.into_iter().map(number).collect(),
        high: high.into_iter().map(number).collect(),
    }
}
