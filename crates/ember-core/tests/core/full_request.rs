//! What a regulated value reached when most was asked of it.

use ember_core::recording::{Recording, full_request};
use proptest::prelude::*;
use rstest::rstest;

fn recording(rows: &[(f64, f32, f32)]) -> Recording {
    Recording {
        time_s: rows.iter().map(|row| row.0).collect(),
        channels: [
            ("rail_request".to_owned(), rows.iter().map(|row| row.1).collect()),
            ("rail_pressure".to_owned(), rows.iter().map(|row| row.2).collect()),
        ]
        .into(),
    }
}

const GAP: f32 = f32::NAN;

fn read(rows: &[(f64, f32, f32)]) -> Option<(f64, f64, f64)> {
    full_request(&recording(rows), "rail_request", "rail_pressure", 3.0).map(|r| (r.wanted, r.got, r.seconds))
}

#[test]
fn only_the_time_near_the_top_counts() {
    let rows =
        [(0.0, 300.0, 300.0), (1.0, 300.0, 300.0), (2.0, 1450.0, 900.0), (3.0, 1400.0, 880.0), (4.0, 300.0, 305.0)];
    assert_eq!(read(&rows), Some((1425.0, 890.0, 2.0)));
}

#[test]
fn channels_that_were_read_in_turn_are_held_together() {
    let rows = [(0.0, 1000.0, GAP), (0.5, GAP, 700.0), (1.0, 1000.0, GAP), (1.5, GAP, 720.0)];
    assert_eq!(read(&rows), Some((1000.0, 720.0, 1.0)));
}

#[rstest]
#[case::a_request_that_is_too_old(&[(0.0, 1000.0, GAP), (9.0, GAP, 700.0), (10.0, GAP, 700.0)])]
#[case::nothing_asked_for(&[(0.0, 0.0, 5.0), (1.0, 0.0, 5.0)])]
#[case::one_sample(&[(0.0, 1000.0, 900.0)])]
#[case::nothing(&[])]
fn where_nothing_can_be_said_nothing_is(#[case] rows: &[(f64, f32, f32)]) {
    assert_eq!(read(rows), None);
}

#[test]
fn a_channel_that_was_not_recorded_gives_nothing() {
    assert!(
        full_request(&recording(&[(0.0, 1.0, 1.0), (1.0, 1.0, 1.0)]), "rail_request", "actual_boost", 3.0).is_none()
    );
}

#[test]
fn a_pause_counts_no_longer_than_a_value_is_held() {
    let rows = [(0.0, 1000.0, 900.0), (100.0, 1000.0, 900.0)];
    assert_eq!(read(&rows), Some((1000.0, 900.0, 3.0)));
}

proptest! {
    #[test]
    fn the_means_lie_between_what_was_read(rows in prop::collection::vec((100.0f32..2000.0, 100.0f32..2000.0), 2..60)) {
        let rows: Vec<(f64, f32, f32)> = rows.iter().enumerate().map(|(at, r)| (at as f64 * 0.25, r.0, r.1)).collect();
        if let Some((wanted, got, seconds)) = read(&rows) {
            let top = rows.iter().map(|r| f64::from(r.1)).fold(0.0, f64::max);
            prop_assert!(wanted <= top + 1e-6 && wanted >= 0.9 * top - 1e-3);
            prop_assert!((100.0..=2000.0).contains(&got) && seconds > 0.0);
        }
    }
}
