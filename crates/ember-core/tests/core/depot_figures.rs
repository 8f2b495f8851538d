//! The depot's figures: shares with their doubt, causes and what they cost, parts fitted in vain, suppliers.

use ember_core::depot::{JobSummary, PartFitted, depot_figures};
use proptest::prelude::*;

fn part(name: &str, supplier: &str, needed: Option<bool>, came_back: bool) -> PartFitted {
    PartFitted {
        entry: 2,
        at: "2026-11-02T06:00:00Z".into(),
        odometer_km: 100.0,
        part: name.into(),
        cylinder: None,
        number: String::new(),
        supplier: supplier.into(),
        cost: Some(10.0),
        came_back,
        needed,
    }
}

fn job(cause: &str, right: Option<bool>, fitted: Vec<PartFitted>) -> JobSummary {
    JobSummary {
        job: 1,
        fleet_no: "W-07".into(),
        vehicle: "Hollin Fell".into(),
        opened_at: "2026-11-02T06:00:00Z".into(),
        closed_at: right.map(|_| "2026-11-03T06:00:00Z".into()),
        from_km: 1.0,
        to_km: 2.0,
        complaint: "misfire".into(),
        codes: Vec::new(),
        cause: cause.into(),
        proven_fault: None,
        came_back: fitted.iter().any(|part| part.came_back),
        fitted,
        right_first_time: right,
        minutes: 30.0,
        cost: 20.0,
    }
}

#[test]
fn nothing_is_made_of_nothing() {
    let figures = depot_figures(&[]);
    assert!(figures.right_first_time.is_none() && figures.comebacks.is_none());
    assert_eq!(figures.says, "No repaired job is closed yet: there is nothing to count.");
    // A job without a repair counts among the jobs, and nowhere else.
    let open = depot_figures(&[job("", None, Vec::new())]);
    assert_eq!((open.jobs, open.closed, open.comebacks), (1, 0, None));
}

#[test]
fn causes_stand_by_how_often_they_came_with_what_they_cost() {
    let mut dear = job("crank sensor", Some(true), vec![part("sensor", "", Some(true), false)]);
    dear.minutes = 90.0;
    let figures = depot_figures(&[
        job("plug cracked", Some(true), Vec::new()),
        dear,
        job("plug cracked", Some(true), Vec::new()),
        job("", None, Vec::new()),
    ]);
    let causes: Vec<(&str, usize, f64)> =
        figures.causes.iter().map(|c| (c.cause.as_str(), c.jobs, c.minutes)).collect();
    assert_eq!(causes, [("plug cracked", 2, 30.0), ("crank sensor", 1, 90.0)]);
}

#[test]
fn a_part_that_was_not_to_blame_says_nothing_of_who_sold_it() {
    let figures = depot_figures(&[job(
        "",
        Some(false),
        vec![
            part("coil", "Tarn Trade", Some(false), true),
            part("coil", "Tarn Trade", Some(true), false),
            part("plug", "Northgate Parts", None, true),
        ],
    )]);
    let suppliers: Vec<(&str, f64, f64)> =
        figures.suppliers.iter().map(|s| (s.supplier.as_str(), s.fitted, s.came_back)).collect();
    assert_eq!(suppliers, [("Northgate Parts", 1.0, 1.0), ("Tarn Trade", 2.0, 0.0)]);
    assert_eq!(
        (figures.parts.len(), figures.parts[0].fitted, figures.parts[0].not_needed, figures.parts[0].cost),
        (1, 2, 1, 10.0)
    );
}

proptest! {
    #[test]
    fn shares_lie_within_their_doubt_and_do_not_depend_on_the_order(rights in prop::collection::vec(prop::option::of(any::<bool>()), 0..60)) {
        let jobs: Vec<JobSummary> = rights.iter().map(|right| job("x", *right, vec![part("plug", "A", *right, *right == Some(false))])).collect();
        let figures = depot_figures(&jobs);
        let mut reversed = jobs.clone();
        reversed.reverse();
        prop_assert_eq!(&depot_figures(&reversed), &figures);
        let known = rights.iter().flatten().count();
        prop_assert_eq!(figures.right_first_time.map(|share| share.of), (known > 0).then_some(known));
        for share in figures.right_first_time.iter().chain(&figures.comebacks) {
            prop_assert!(0.0 <= share.low_pct && share.low_pct <= share.pct && share.pct <= share.high_pct && share.high_pct <= 100.0);
        }
    }
}
