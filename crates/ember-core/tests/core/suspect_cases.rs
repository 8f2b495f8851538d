//! The written cases replayed: where the true cause stands after half of the findings, and at the end.

use crate::suspects::cases;
use ember_core::knowledge::Knowledge;
use ember_core::suspects::{Depth, SuspectsResult, suspects_to};

/// Where the causes stand among the suspects, from 0: the worst placed of two, less the places of the others.
fn rank(result: &SuspectsResult, causes: &[String]) -> usize {
    let place = |cause: &String| {
        result.suspects.iter().position(|s| format!("{}@{}", s.fault, s.target) == *cause).expect(cause)
    };
    causes.iter().map(place).max().unwrap() + 1 - causes.len()
}

#[test]
fn the_true_cause_comes_first_at_the_end_and_early_among_the_first_three() {
    let vehicles = cases::vehicles();
    let all = cases::all();
    assert!(all.len() >= 60, "{} cases", all.len());
    let (mut first, mut early) = (0, 0);
    for case in &all {
        let reckoned = |known: usize| {
            suspects_to(&case.with_findings(&vehicles, known), Knowledge::built_in(), Depth::Suspects)
                .unwrap_or_else(|refusal| panic!("{}: {refusal}", case.name))
        };
        let end = reckoned(case.findings.len());
        let half = reckoned(case.findings.len() / 2);
        let (at_end, at_half) = (rank(&end, &case.cause), rank(&half, &case.cause));
        first += usize::from(at_end == 0);
        early += usize::from(at_half < 3);
        let leader = &end.suspects[0];
        println!(
            "{:>2} {:>3} {:>5.1} %  {}{}",
            at_end + 1,
            at_half + 1,
            100.0 * end.suspects.iter().find(|s| format!("{}@{}", s.fault, s.target) == case.cause[0]).unwrap().present,
            case.name,
            if at_end == 0 {
                String::new()
            } else {
                format!("   <- {}@{} {:.2}", leader.fault, leader.target, leader.present)
            }
        );
    }
    let n = all.len() as f64;
    println!(
        "first at the end {:.1} %, within three after half {:.1} %",
        100.0 * first as f64 / n,
        100.0 * early as f64 / n
    );
    assert!(first as f64 >= 0.9 * n, "{first} of {n} first at the end");
    assert!(early as f64 >= 0.75 * n, "{early} of {n} within three after half");
}
