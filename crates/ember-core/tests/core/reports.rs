//! Reports: what the owner reads without jargon, and what the technician finds in full.

use ember_core::job::{JobState, job_state_of};
use ember_core::knowledge::Knowledge;
use ember_core::report::{Block, Reader, Report, ReportGround, report};
use ember_core::suspects::memory::WorkshopOwn;
use ember_core::trail::Entry;
use ember_core::vehicle::Vehicle;
use rstest::rstest;
use serde_json::{Value, json};

fn vehicle() -> Vehicle {
    serde_json::from_value(json!({"fleet_no": "W-07", "name": "Hollin Fell",
        "engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]}}))
    .unwrap()
}

/// A trail after a complaint, signed in turn by two technicians.
fn trail(rest: &[(f64, Value)]) -> Vec<Entry> {
    let complaint = json!({"kind": "complaint", "symptoms": ["misfire"], "circumstances": ["under load"],
        "observed_from_km": 82_000, "occurrences_km": [83_100, 83_900], "text": "Shakes on the pass"});
    std::iter::once((84_186.0, complaint))
        .chain(rest.iter().cloned())
        .zip(1..)
        .map(|((odometer_km, finding), number)| Entry {
            number,
            at: format!("2026-11-02T06:{number:02}:00Z"),
            odometer_km,
            author: if number % 2 == 1 { "Ines".into() } else { "Tam".into() },
            replaces: None,
            finding: serde_json::from_value(finding).unwrap(),
        })
        .collect()
}

fn state(entries: &[Entry]) -> JobState {
    job_state_of(&vehicle(), entries, Knowledge::built_in(), &WorkshopOwn::default(), None).unwrap()
}

fn made(entries: &[Entry], reader: Reader) -> Report {
    let (vehicle, state) = (vehicle(), state(entries));
    let ground = ReportGround {
        vehicle: &vehicle,
        job: 4,
        opened_at: "2026-11-02T06:01:00Z",
        entries,
        state: &state,
        effects: &[],
        photos: &[],
        knowledge: Knowledge::built_in(),
    };
    report(&ground, reader)
}

/// The words of one section, a line for each piece.
fn section(report: &Report, title: &str) -> String {
    let found = report.sections.iter().find(|section| section.title == title).unwrap_or_else(|| panic!("no {title}"));
    let words = |block: &Block| match block {
        Block::Text { text, .. } => text.clone(),
        Block::List { items } => items.join("\n"),
        Block::Table { rows, .. } => rows.iter().map(|row| row.join(" | ")).collect::<Vec<_>>().join("\n"),
        other => format!("{other:?}"),
    };
    found.blocks.iter().map(words).collect::<Vec<_>>().join("\n")
}

fn fitted() -> (f64, Value) {
    (
        84_186.0,
        json!({"kind": "fitted", "part": "plug", "cylinder": 2, "part_number": "CD-4417", "cost": 14.5, "minutes": 15,
        "old_part": "Hairline crack"}),
    )
}

fn cleared() -> (f64, Value) {
    (84_186.0, json!({"kind": "cleared"}))
}

#[test]
fn a_job_that_has_just_begun_promises_nothing() {
    let page = made(&trail(&[]), Reader::Owner);
    assert_eq!(page.heads, ["No. W-07", "job 4", "84\u{202f}186 km", "opened 2026-11-02", "still open"]);
    assert_eq!(section(&page, "The complaint"), "misfire, under load. Shakes on the pass.");
    assert_eq!(section(&page, "What was found"), "Nothing has been proven yet.");
    assert_eq!(section(&page, "What proves it"), "No test has decided it yet.");
    assert_eq!(section(&page, "What was fitted"), "Nothing yet.");
    assert!(section(&page, "Is it really fixed?").starts_with("Not yet. Next: "));
    assert_eq!(section(&page, "Also seen and left alone"), "Nothing.");
}

#[test]
fn what_was_fitted_stands_there_with_its_cost_and_the_sum() {
    let page = made(&trail(&[fitted()]), Reader::Owner);
    let part = "New plug at cylinder 2, number CD-4417: 14.50, 15 minutes";
    assert_eq!(section(&page, "What was fitted"), format!("{part}\nIn all 14.50 in parts and 15 minutes for fitting."));
    assert!(section(&page, "What was found").ends_with("Hairline crack."));
}

#[rstest]
#[case::too_little(84_250.0, "Please drive ", "until then it is likely, and not proven.")]
#[case::enough(120_000.0, "sure after 35\u{202f}814 km without it", "That counts as proven.")]
fn how_sure_it_is_depends_on_the_distance(#[case] km: f64, #[case] says: &str, #[case] ends: &str) {
    let page = made(&trail(&[fitted(), cleared(), (km, json!({"kind": "drive"}))]), Reader::Owner);
    let answer = section(&page, "Is it really fixed?");
    assert!(answer.contains(says) && answer.ends_with(ends), "{answer}");
}

#[test]
fn a_recurrence_is_told_to_the_owner_without_softening() {
    let page = made(&trail(&[fitted(), cleared(), (85_000.0, json!({"kind": "occurred"}))]), Reader::Owner);
    assert_eq!(section(&page, "Is it really fixed?"), "No: it came back after the repair.");
    let full = made(&trail(&[fitted(), cleared(), (85_000.0, json!({"kind": "occurred"}))]), Reader::Technician);
    assert_eq!(section(&full, "Proof"), "It came back: entry 4.");
}

#[test]
fn a_car_that_is_not_closed_up_is_told_of() {
    let off = (84_186.0, json!({"kind": "off", "items": [{"what": "air hose", "kind": "hose"}]}));
    let page = made(&trail(&[off]), Reader::Owner);
    let found = section(&page, "What was found");
    assert!(found.contains("The car is not closed up: One thing is not back: air hose: put it back."), "{found}");
}

#[test]
fn the_cause_stands_first_once_the_job_is_closed() {
    let closed = (84_900.0, json!({"kind": "closed", "cause": "cracked plug", "left_alone": "oil weeps"}));
    let page = made(&trail(&[fitted(), cleared(), closed]), Reader::Owner);
    assert!(section(&page, "What was found").starts_with("cracked plug.\n"));
    assert_eq!(section(&page, "Also seen and left alone"), "oil weeps.");
    assert_eq!(page.heads[4], "closed");
}

#[rstest]
#[case::faulty("faulty", "was faulty. Why it failed: oil in the well.")]
#[case::good("good", "is good: the search is open again. Why it failed: oil in the well.")]
#[case::not_to_be_told("cannot-tell", "it cannot be told whether it was faulty. Why it failed: oil in the well.")]
fn the_look_into_the_old_part_is_told(#[case] found: &str, #[case] says: &str) {
    let old = (84_186.0, json!({"kind": "old-part", "fitted": 2, "found": found, "why_failed": "oil in the well"}));
    let page = made(&trail(&[fitted(), old]), Reader::Owner);
    assert!(section(&page, "What was found").ends_with(says), "{}", section(&page, "What was found"));
}

#[test]
fn the_technician_finds_every_entry_and_who_wrote_it() {
    let full = made(&trail(&[fitted(), cleared()]), Reader::Technician);
    let trail = section(&full, "The trail");
    assert_eq!(trail.lines().count(), 3);
    assert!(
        trail.contains("2 | 2026-11-02 06:02 | 84\u{202f}186 km | Tam | New part fitted | plug at cylinder 2"),
        "{trail}"
    );
    assert!(section(&full, "Parts").starts_with("2 | plug | 2 | CD-4417 |"));
    assert_eq!(
        full.foot,
        "Written by Ines and Tam with Gritty Ember. Local law and the maker's instructions come first."
    );
}

#[test]
fn numbers_and_learning_have_their_section() {
    let coded = json!({"kind": "coded", "input": {"what": "trim code", "numbers": [{"cylinder": 1, "printed_old": "AB", "stored_before": "AB", "printed_new": "CD", "read_back": "CD"}]}});
    let learnt = json!({"kind": "relearned", "step": "idle", "seconds": 301});
    let full = made(&trail(&[(84_186.0, coded), (84_186.0, learnt)]), Reader::Technician);
    let told = section(&full, "Numbers and learning");
    assert!(told.contains("1 | AB | AB | CD | CD | The old number is the stored one"), "{told}");
    assert!(told.contains("Learnt again: Let it learn the idle, 301 s"), "{told}");
}

#[test]
fn the_proof_is_drawn_with_where_the_car_stands_and_what_counts_as_enough() {
    let full = made(&trail(&[fitted(), cleared(), (84_900.0, json!({"kind": "drive"}))]), Reader::Technician);
    let proof = full.sections.iter().find(|section| section.title == "Proof").unwrap();
    let curve = proof.blocks.iter().find_map(|block| match block {
        Block::Curve { points, marks, level, .. } => Some((points, marks, level)),
        _ => None,
    });
    let (points, marks, level) = curve.unwrap();
    assert_eq!((level, marks[0].across), (&Some(95.0), 714.0));
    assert!(points.windows(2).all(|pair| pair[0].across < pair[1].across && pair[0].up <= pair[1].up));
}
