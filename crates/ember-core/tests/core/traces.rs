//! One channel of a capture: its levels, its edges between samples, whether it ran into the end of its range.

use ember_core::waveform::trace::Trace;
use proptest::prelude::*;
use rstest::rstest;

fn trace(samples: &[f32]) -> Trace<'_> {
    Trace { step_s: 0.5, samples }
}

#[test]
fn an_edge_lies_between_the_samples_that_it_parts() {
    let samples = [0.0, 0.0, 4.0, 4.0, 0.0, 0.0];
    let one = trace(&samples);
    // Half way up between the second and the third sample, a quarter of the way for a quarter of the height.
    assert_eq!(one.rises(2.0, 1.0), [0.75]);
    assert_eq!(one.rises(1.0, 0.5), [0.625]);
    assert_eq!(one.falls(2.0, 3.0), [1.75]);
}

#[test]
fn hysteresis_keeps_noise_at_the_foot_from_passing_for_edges() {
    let samples = [0.0, 1.1, 0.9, 1.1, 0.9, 1.2, 0.0, 1.3];
    assert_eq!(trace(&samples).rises(1.0, 0.95).len(), 4);
    assert_eq!(trace(&samples).rises(1.0, 0.5).len(), 2);
}

#[rstest]
#[case::whole(&[0.0, 3.0, 3.0, 0.0, 3.0, 0.0], &[(1, 3), (4, 5)])]
#[case::begun_before_the_capture(&[3.0, 3.0, 0.0, 3.0, 0.0], &[(3, 4)])]
#[case::not_ended(&[0.0, 3.0, 0.0, 3.0, 3.0], &[(1, 2)])]
#[case::never(&[0.0, 0.5, 0.0], &[])]
fn stretches_that_are_cut_off_by_the_capture_are_left_out(
    #[case] samples: &[f32],
    #[case] expected: &[(usize, usize)],
) {
    assert_eq!(trace(samples).stretches(2.0, 1.0), expected);
}

#[test]
fn the_resting_level_is_where_the_signal_is_most_of_the_time() {
    let samples: Vec<f32> = (0..1000).map(|n| if n % 20 == 0 { 12.0 } else { 1.5 }).collect();
    let levels = trace(&samples).levels();
    assert_eq!((levels.least, levels.most, levels.rest), (1.5, 12.0, 1.5));
}

#[test]
fn noise_is_read_from_neighbours_and_not_from_the_course() {
    let noise = |n: u64| ((n.wrapping_mul(6_364_136_223_846_793_005) >> 40) as f32 / 16_777_216.0 - 0.5) * 0.2;
    let steep: Vec<f32> = (0..20_000).map(|n| n as f32 * 1e-4 + noise(n)).collect();
    let flat: Vec<f32> = (0..20_000).map(noise).collect();
    let (a, b) = (trace(&steep).levels().noise, trace(&flat).levels().noise);
    assert!((a / b - 1.0).abs() < 0.02, "{a} and {b}");
    // Evenly spread over a width of 0.2: a standard deviation of 0.2/√12, by a rule made for normal noise.
    assert!((b - 0.2 / 12.0_f32.sqrt()).abs() < 0.015, "{b}");
}

#[rstest]
#[case::a_sine_that_fits(8.0, false)]
#[case::a_sine_that_is_cut(0.7, true)]
fn a_signal_that_runs_into_its_range_is_clipped(#[case] range: f32, #[case] clipped: bool) {
    let samples: Vec<f32> = (0..4000).map(|n| (n as f32 / 60.0).sin().clamp(-range, range)).collect();
    assert_eq!(trace(&samples).clipped(4, 0.001), clipped);
}

#[test]
fn a_logic_signal_rests_on_both_levels_and_is_not_clipped() {
    let samples: Vec<f32> = (0..4000).map(|n| if (n / 50) % 2 == 0 { 0.0 } else { 5.0 }).collect();
    assert!(!trace(&samples).clipped(4, 0.001));
    assert!(!trace(&[3.0; 400]).clipped(4, 0.001), "what never moves has no ends");
}

proptest! {
    #[test]
    fn smoothing_keeps_the_mean_within_its_ends_and_its_length(samples in prop::collection::vec(-50f32..50.0, 1..300), width in 1usize..60) {
        let smooth = trace(&samples).smoothed(width);
        prop_assert_eq!(smooth.len(), samples.len());
        let (least, most) = samples.iter().fold((f32::MAX, f32::MIN), |(a, b), v| (a.min(*v), b.max(*v)));
        prop_assert!(smooth.iter().all(|v| *v >= least - 1e-3 && *v <= most + 1e-3));
    }

    #[test]
    fn every_rise_is_followed_by_a_fall_before_the_next(samples in prop::collection::vec(0f32..10.0, 2..400)) {
        let one = trace(&samples);
        let (rises, falls) = (one.rises(6.0, 4.0), one.falls(4.0, 6.0));
        for pair in rises.windows(2) {
            prop_assert!(falls.iter().any(|fall| pair[0] < *fall && *fall < pair[1]), "{rises:?} {falls:?}");
        }
    }

    #[test]
    fn ends_are_those_of_any_plain_search(samples in prop::collection::vec(-1e6f32..1e6, 1..200)) {
        let levels = trace(&samples).levels();
        prop_assert_eq!(levels.least, samples.iter().copied().fold(f32::MAX, f32::min));
        prop_assert_eq!(levels.most, samples.iter().copied().fold(f32::MIN, f32::max));
    }
}
