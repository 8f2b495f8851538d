//! The drive that proves a repair: what it asks for, what it ticks off, and that it is the shortest.

use ember_core::knowledge::Knowledge;
use ember_core::proof::{Along, Cell, DriveCell, DrivePlan, Scale, along, drive_plan, map_silence};
use ember_core::refusal::Refusal;
use proptest::prelude::*;
use rstest::rstest;

/// A cell with its episodes and firings before, and firings since; some 1200 firings of a cylinder in a minute.
fn cell(speed: usize, episodes: f64, before: f64, since: f64) -> DriveCell {
    DriveCell {
        speed,
        load: 3,
        episodes,
        firings_before: before,
        firings_since: since,
        firings_per_minute: 600.0 + 200.0 * speed as f64,
    }
}

fn plan(cells: &[DriveCell]) -> DrivePlan {
    drive_plan(cells, 0.6, 0.95, Knowledge::built_in()).unwrap()
}

/// The confidence after the plan is driven in silence.
fn after(cells: &[DriveCell], plan: &DrivePlan) -> f64 {
    let driven: Vec<Cell> = cells
        .iter()
        .map(|c| {
            let more = plan.cells.iter().find(|p| (p.speed, p.load) == (c.speed, c.load)).map_or(0.0, |p| p.firings);
            Cell { episodes: c.episodes, firings_before: c.firings_before, firings_since: c.firings_since + more }
        })
        .collect();
    let silence = map_silence(&driven).unwrap();
    0.6 / (0.6 + 0.4 * silence)
}

#[test]
fn what_the_plan_asks_for_leads_to_the_confidence_it_names() {
    let cells = [cell(2, 6.0, 4000.0, 0.0), cell(3, 2.0, 5000.0, 0.0), cell(1, 0.0, 9000.0, 0.0)];
    let plan = plan(&cells);
    assert!((after(&cells, &plan) - 0.95).abs() < 1e-6, "{}", after(&cells, &plan));
    assert!(!plan.reached && plan.says.contains("prove it to 95 %"), "{}", plan.says);
}

#[test]
fn most_is_driven_where_the_fault_lived() {
    let cells = [cell(2, 6.0, 4000.0, 0.0), cell(3, 0.0, 4000.0, 0.0), cell(4, 1.0, 40_000.0, 0.0)];
    let plan = plan(&cells);
    assert_eq!((plan.cells[0].speed, plan.cells[0].load), (2, 3));
    assert!(plan.cells[0].minutes > 0.0);
    assert!(plan.cells.iter().filter(|c| c.speed != 2).all(|c| c.minutes < plan.cells[0].minutes));
}

#[test]
fn a_cell_without_episodes_that_needs_no_driving_is_left_out_and_one_with_them_is_ticked_off() {
    let cells = [cell(2, 6.0, 4000.0, 60_000.0), cell(1, 0.0, 9000.0, 0.0)];
    let plan = plan(&cells);
    assert!(plan.reached && plan.minutes == 0.0);
    assert_eq!(plan.cells.len(), 1);
    assert_eq!((plan.cells[0].speed, plan.cells[0].minutes), (2, 0.0));
    assert!((plan.cells[0].driven_minutes - 60.0).abs() < 1e-9);
    assert!(plan.says.starts_with("Driven"), "{}", plan.says);
}

#[test]
fn nothing_shorter_than_can_be_driven_on_purpose_is_asked_for() {
    let cells = [cell(2, 6.0, 4000.0, 3300.0), cell(3, 1.0, 5000.0, 0.0)];
    assert!(plan(&cells).cells.iter().all(|c| c.minutes == 0.0 || c.minutes >= 1.0));
}

#[rstest]
#[case::no_cell(&[], "cells")]
#[case::never_seen(&[cell(2, 0.0, 100.0, 0.0)], "cells")]
#[case::no_rate(&[DriveCell { firings_per_minute: 0.0, ..cell(2, 1.0, 100.0, 0.0) }], "cells[0].firings_per_minute")]
#[case::half_an_episode(&[cell(2, 0.5, 100.0, 0.0)], "cells[0].episodes")]
#[case::more_episodes_than_firings(&[cell(2, 200.0, 100.0, 0.0)], "cells[0].episodes")]
fn a_map_that_cannot_be_is_refused(#[case] cells: &[DriveCell], #[case] field: &str) {
    let refusal: Refusal = drive_plan(cells, 0.6, 0.95, Knowledge::built_in()).unwrap_err();
    assert_eq!(refusal.field, field);
}

#[rstest]
#[case::no_prior(0.0, 0.95, "prior_fixed")]
#[case::certain(0.6, 1.0, "target")]
fn a_probability_that_is_none_is_refused(#[case] prior: f64, #[case] target: f64, #[case] field: &str) {
    let cells = [cell(2, 6.0, 4000.0, 0.0)];
    assert_eq!(drive_plan(&cells, prior, target, Knowledge::built_in()).unwrap_err().field, field);
}

fn starts(clean_seen: f64, clean_told: f64) -> Along {
    Along { scale: Scale::Starts, watched: 20.0, occurrences: vec![4.0, 9.0, 15.0], clean_seen, clean_told }
}

#[test]
fn an_owners_word_counts_for_less_than_what_was_seen() {
    let confidence = |input: &Along| along(input, 0.5, Knowledge::built_in()).result.unwrap().confidence;
    let (seen, told, none) =
        (confidence(&starts(20.0, 0.0)), confidence(&starts(0.0, 20.0)), confidence(&starts(0.0, 0.0)));
    assert!(none < told && told < seen, "{none} {told} {seen}");
    assert_eq!(confidence(&starts(14.0, 0.0)), told, "seven tenths of it");
}

#[test]
fn a_scale_on_which_the_watch_does_not_hold_its_occurrences_is_refused() {
    let input = Along { watched: 10.0, ..starts(5.0, 0.0) };
    let proof = along(&input, 0.5, Knowledge::built_in());
    assert!(proof.result.is_none() && proof.refused.unwrap().field == "occurrences");
}

prop_compose! {
    fn some_cells()(list in prop::collection::vec((0u32..8, 500.0..20_000.0_f64, 0.0..4000.0_f64), 1..7)) -> Vec<DriveCell> {
        let mut cells: Vec<DriveCell> = list
            .into_iter()
            .enumerate()
            .map(|(speed, (episodes, before, since))| cell(speed, f64::from(episodes), before, since))
            .collect();
        cells[0].episodes += 1.0;
        cells
    }
}

proptest! {
    #[test]
    fn the_plan_always_reaches_its_target(cells in some_cells()) {
        let plan = plan(&cells);
        let reached = after(&cells, &plan);
        prop_assert!(reached > 0.95 - 1e-6, "{}", reached);
        prop_assert_eq!(plan.reached, plan.confidence >= 0.95);
    }

    #[test]
    fn no_other_way_of_spending_the_minutes_does_better(cells in some_cells(), pick in 0usize..7, to in 0usize..7) {
        // Nothing driven yet, so that something is left to drive.
        let cells: Vec<DriveCell> = cells.iter().map(|c| DriveCell { firings_since: 0.0, ..*c }).collect();
        let plan = plan(&cells);
        let rate = |speed: usize| cells.iter().find(|c| c.speed == speed).unwrap().firings_per_minute;
        let driven: Vec<usize> = (0..plan.cells.len()).filter(|&at| plan.cells[at].firings > 0.1 * rate(plan.cells[at].speed)).collect();
        prop_assert!(!driven.is_empty());
        let (from, to) = (driven[pick % driven.len()], to % cells.len());
        // Three seconds taken from one cell and driven in another.
        let mut other = plan.clone();
        other.cells[from].firings -= 0.05 * rate(plan.cells[from].speed);
        let gained = 0.05 * cells[to].firings_per_minute;
        match other.cells.iter_mut().find(|c| c.speed == cells[to].speed) {
            Some(there) => there.firings += gained,
            None => {
                let added = ember_core::proof::PlannedCell { speed: cells[to].speed, firings: gained, ..plan.cells[from] };
                other.cells.push(added);
            }
        }
        prop_assert!(after(&cells, &other) <= after(&cells, &plan) + 1e-9);
    }

    #[test]
    fn more_silence_never_asks_for_more(cells in some_cells(), at in 0usize..7, more in 0.0..5000.0_f64) {
        let at = at % cells.len();
        let exact = |cells: &[DriveCell]| -> f64 {
            let plan = plan(cells);
            plan.cells.iter().map(|p| p.firings / cells.iter().find(|c| c.speed == p.speed).unwrap().firings_per_minute).sum()
        };
        let mut driven = cells.clone();
        driven[at].firings_since += more;
        prop_assert!(exact(&driven) <= exact(&cells) + 1e-6);
    }
}
