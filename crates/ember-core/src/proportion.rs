//! The interval of a proportion: how sure a misfire rate is.

use statrs::function::beta::{beta_reg, ln_beta};

/// The ends of the central 95 %.
const TAIL: f64 = 0.025;

/// The Jeffreys 95 % interval of `k` events in `n` chances, as two fractions.
///
/// The 2.5 % and 97.5 % points of Beta(k + ½, n − k + ½); the lower end is 0 if k = 0 and the upper end is 1 if
/// k = n (Brown, Cai and DasGupta, *Interval Estimation for a Binomial Proportion*, 2001). `n` may be a half
/// number: a four-stroke cylinder fires every second revolution.
pub fn jeffreys(k: f64, n: f64) -> (f64, f64) {
    let (a, b) = (k + 0.5, (n - k).max(0.0) + 0.5);
    let low = if k <= 0.0 { 0.0 } else { beta_quantile(a, b, TAIL) };
    let high = if k >= n { 1.0 } else { beta_quantile(a, b, 1.0 - TAIL) };
    (low, high)
}

/// The point below which Beta(a, b) has the probability `p`: Newton's steps, kept inside a bisection bracket.
fn beta_quantile(a: f64, b: f64, p: f64) -> f64 {
    let (mut low, mut high) = (0.0_f64, 1.0_f64);
    let mean = a / (a + b);
    let spread = (mean * (1.0 - mean) / (a + b + 1.0)).sqrt();
    let mut x = (mean + if p < 0.5 { -1.96 } else { 1.96 } * spread).clamp(mean * 0.01, 1.0 - (1.0 - mean) * 0.01);
    let ln_beta_ab = ln_beta(a, b);
    for _ in 0..200 {
        let excess = beta_cumulative(a, b, x) - p;
        if excess > 0.0 {
            high = x
        } else {
            low = x
        }
        let density = ((a - 1.0) * x.ln() + (b - 1.0) * (-x).ln_1p() - ln_beta_ab).exp();
        let newton = x - excess / density;
        let next = if newton.is_finite() && newton > low && newton < high { newton } else { 0.5 * (low + high) };
        if (next - x).abs() <= 1e-14 * x.max(1e-300) {
            return next;
        }
        x = next;
    }
    x
}

/// P(Beta(a, b) ≤ x).
pub fn beta_cumulative(a: f64, b: f64, x: f64) -> f64 {
    beta_reg(a, b, x.clamp(0.0, 1.0))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case::the_worked_example(270.0, 18_000.0, 1.3301, 1.6855)]
    #[case::none_seen(0.0, 18_000.0, 0.0, 0.013954)]
    #[case::dead_in_every_firing(18_000.0, 18_000.0, 99.986046, 100.0)]
    fn the_interval_in_percent_is(#[case] k: f64, #[case] n: f64, #[case] low: f64, #[case] high: f64) {
        let (l, h) = jeffreys(k, n);
        assert!((l * 100.0 - low).abs() < 5e-5, "low {}", l * 100.0);
        assert!((h * 100.0 - high).abs() < 5e-5, "high {}", h * 100.0);
    }

    #[rstest]
    #[case::ten_hours_of_a_half_dead_cylinder(450_000.0, 900_000.0)]
    #[case::a_very_long_log(3_000.0, 20_000_000.0)]
    fn a_very_large_count_agrees_with_the_normal_approximation(#[case] k: f64, #[case] n: f64) {
        let (low, high) = jeffreys(k, n);
        let rate = k / n;
        let spread = 1.959964 * (rate * (1.0 - rate) / n).sqrt();
        assert!((low - (rate - spread)).abs() < 0.02 * spread, "{low} against {}", rate - spread);
        assert!((high - (rate + spread)).abs() < 0.02 * spread, "{high} against {}", rate + spread);
    }

    proptest! {
        #[test]
        fn the_same_rate_over_more_firings_is_known_better(k in 1u32..400, n in 400u32..40_000) {
            let (low, high) = jeffreys(f64::from(k), f64::from(n));
            let (low_more, high_more) = jeffreys(f64::from(k) * 4.0, f64::from(n) * 4.0);
            prop_assert!(high_more - low_more < high - low);
            prop_assert!(low < f64::from(k) / f64::from(n) && f64::from(k) / f64::from(n) < high);
        }
    }
}
