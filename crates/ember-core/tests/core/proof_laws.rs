//! Laws of the proof: what must hold of any history.

use ember_core::knowledge::Knowledge;
use ember_core::proof::{Cell, ProofInput, ProofTrend, map_silence, proof, provoked_silence};
use proptest::prelude::*;
use rstest::rstest;

fn history(occurrences: &[f64], clean: f64) -> ProofInput {
    ProofInput {
        observed_from: 0.0,
        occurrences: occurrences.to_vec(),
        repaired: 1000.0,
        clean_until: 1000.0 + clean,
        prior_fixed: 0.5,
    }
}

#[rstest]
#[case::evenly(&[100.0, 300.0, 500.0, 700.0, 900.0], ProofTrend::Steady)]
#[case::ever_more_often(&[500.0, 800.0, 900.0, 950.0, 990.0], ProofTrend::Worsening)]
#[case::ever_less_often(&[10.0, 30.0, 80.0, 300.0], ProofTrend::Steady)]
#[case::two_have_no_trend(&[980.0, 990.0], ProofTrend::Steady)]
#[case::at_the_very_repair(&[900.0, 950.0, 1000.0], ProofTrend::Worsening)]
fn the_trend_is(#[case] occurrences: &[f64], #[case] trend: ProofTrend) {
    let result = proof(&history(occurrences, 100.0), Knowledge::built_in()).unwrap();
    assert_eq!(result.trend, trend);
    assert_eq!(result.shape > 1.0, trend == ProofTrend::Worsening);
}

#[test]
fn without_clean_distance_the_confidence_is_the_prior() {
    let result = proof(&history(&[300.0, 600.0], 0.0), Knowledge::built_in()).unwrap();
    assert_eq!((result.confidence, result.silence_by_chance), (0.5, 1.0));
}

#[test]
fn a_prior_above_the_target_needs_no_distance() {
    let input = ProofInput { prior_fixed: 0.97, ..history(&[300.0, 600.0], 0.0) };
    let result = proof(&input, Knowledge::built_in()).unwrap();
    assert_eq!((result.further_for_95, result.reached_95_after), (0.0, 0.0));
    assert!(result.further_for_99 > 0.0);
}

#[test]
fn the_curve_begins_at_the_repair_and_passes_the_present() {
    let result = proof(&history(&[300.0, 600.0, 800.0], 400.0), Knowledge::built_in()).unwrap();
    assert_eq!((result.curve[0].after, result.curve[0].confidence), (0.0, 0.5));
    assert!(result.curve.last().unwrap().after > 400.0);
    assert!(result.curve.windows(2).all(|pair| pair[0].confidence <= pair[1].confidence));
}

#[rstest]
#[case::always(4.0, 4.0, 2.0)]
#[case::sometimes(2.0, 8.0, 6.0)]
#[case::not_yet_tried(3.0, 5.0, 0.0)]
fn provocation_gives_the_product_of_single_silences(#[case] k: f64, #[case] n: f64, #[case] m: f64) {
    let expected: f64 = (0..m as u32).map(|i| (n - k + 0.5 + f64::from(i)) / (n + 1.0 + f64::from(i))).product();
    assert!((provoked_silence(k, n, m).unwrap() - expected).abs() < 1e-12);
}

#[rstest]
#[case::never(0.0, 4.0, 2.0, "provoked_before")]
#[case::more_than_tried(5.0, 4.0, 2.0, "provoked_before")]
#[case::half_an_attempt(1.0, 4.0, 2.5, "attempts_after")]
#[case::negative(1.0, -4.0, 2.0, "attempts_before")]
fn provocation_is_refused(#[case] k: f64, #[case] n: f64, #[case] m: f64, #[case] field: &str) {
    assert_eq!(provoked_silence(k, n, m).unwrap_err().field, field);
}

fn cell(episodes: f64, firings_before: f64, firings_since: f64) -> Cell {
    Cell { episodes, firings_before, firings_since }
}

#[rstest]
#[case::empty(&[], "cells")]
#[case::never(&[cell(0.0, 100.0, 5.0)], "cells")]
#[case::half(&[cell(0.5, 100.0, 5.0)], "cells[0].episodes")]
#[case::more_than_firings(&[cell(1.0, 10.0, 5.0), cell(11.0, 10.0, 5.0)], "cells[1].episodes")]
#[case::negative(&[cell(1.0, 10.0, -5.0)], "cells[0].firings_since")]
#[case::no_number(&[cell(1.0, f64::NAN, 5.0)], "cells[0].firings_before")]
fn a_map_is_refused(#[case] cells: &[Cell], #[case] field: &str) {
    assert_eq!(map_silence(cells).unwrap_err().field, field);
}

proptest! {
    #[test]
    fn the_order_of_the_cells_changes_nothing(mut cells in proptest::collection::vec((0u32..9, 100u32..9_000, 0u32..9_000), 2..8), turn in 0usize..8) {
        cells[0].0 = 1;
        let map: Vec<Cell> = cells.iter().map(|&(k, n, m)| cell(f64::from(k), f64::from(n), f64::from(m))).collect();
        let mut turned = map.clone();
        turned.rotate_left(turn % map.len());
        prop_assert_eq!(map_silence(&map).unwrap(), map_silence(&turned).unwrap());
    }

    #[test]
    fn driving_any_cell_never_makes_silence_likelier(firings in 0u32..5_000, more in 1u32..5_000) {
        let map = |since: u32| map_silence(&[cell(5.0, 2_000.0, f64::from(since)), cell(0.0, 9_000.0, 100.0)]).unwrap();
        prop_assert!(map(firings + more) < map(firings));
    }

    #[test]
    fn a_worsening_fault_is_proven_gone_no_later_than_a_steady_one(last in 900.0f64..999.0) {
        let occurrences = [600.0, 850.0, last];
        let result = proof(&history(&occurrences, 200.0), Knowledge::built_in()).unwrap();
        let steady = (1.0f64 + 0.2).powi(-3);
        prop_assert!(result.silence_by_chance <= steady + 1e-12);
    }

    #[test]
    fn moving_the_whole_road_changes_nothing(by in 0.0f64..100_000.0) {
        let here = history(&[300.0, 650.0, 900.0], 600.0);
        let there = ProofInput {
            observed_from: here.observed_from + by,
            occurrences: here.occurrences.iter().map(|at| at + by).collect(),
            repaired: here.repaired + by,
            clean_until: here.clean_until + by,
            prior_fixed: here.prior_fixed,
        };
        let (a, b) = (proof(&here, Knowledge::built_in()).unwrap(), proof(&there, Knowledge::built_in()).unwrap());
        prop_assert!((a.confidence - b.confidence).abs() < 1e-9);
    }
}
