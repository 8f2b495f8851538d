//! A job through its repair: what is off holds back the start, old parts, proof on every scale, replaced odometers.

use ember_core::depot::{depot_figures, job_text, summary};
use ember_core::job::{JobState, WaitingFor, job_state_of};
use ember_core::knowledge::Knowledge;
use ember_core::proof::Scale;
use ember_core::report::{Block, Reader, ReportGround, report};
use ember_core::suspects::memory::WorkshopOwn;
use ember_core::trail::{Entry, NewEntry, check};
use ember_core::vehicle::Vehicle;
use rstest::rstest;
use serde_json::{Value, json};

fn vehicle() -> Vehicle {
    serde_json::from_value(json!({"fleet_no": "W-12", "name": "Skarn Heft",
        "engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]}}))
    .unwrap()
}

/// A job as it is written, entry by entry, each checked as the store would.
struct Told(Vec<Entry>);

impl Told {
    fn new() -> Told {
        let mut told = Told(Vec::new());
        told.at(10_500.0, json!({"kind": "complaint", "symptoms": ["stalls"], "observed_from_km": 10_000, "occurrences_km": [10_200, 10_400]}));
        told
    }

    fn refused(&self, km: f64, finding: Value) -> String {
        let new = self.entry(km, finding);
        check(&vehicle().checked().unwrap(), &self.0, &new).unwrap_err().to_string()
    }

    fn entry(&self, km: f64, finding: Value) -> NewEntry {
        NewEntry {
            odometer_km: km,
            author: "Ada".into(),
            replaces: None,
            finding: serde_json::from_value(finding).unwrap(),
        }
    }

    fn at(&mut self, km: f64, finding: Value) -> &mut Told {
        let new = self.entry(km, finding);
        check(&vehicle().checked().unwrap(), &self.0, &new).unwrap();
        self.0.push(Entry {
            number: self.0.len() as u32 + 1,
            at: format!("2026-11-02T06:{:02}:00Z", self.0.len()),
            odometer_km: km,
            author: new.author,
            replaces: None,
            finding: new.finding,
        });
        self
    }

    fn state(&self) -> JobState {
        job_state_of(&vehicle(), &self.0, Knowledge::built_in(), &WorkshopOwn::default(), None).unwrap()
    }
}

fn off() -> Value {
    json!({"kind": "off", "items": [
        {"what": "air hose", "kind": "hose"},
        {"what": "manifold bolts", "kind": "fastener", "count": 8,
         "tighten": {"stages": [{"torque": "8 N·m"}, {"angle_deg": 90}], "fasteners": 8, "pattern": "cover"}},
        {"what": "gasket", "kind": "seal", "renew": true},
        {"what": "coolant", "kind": "fluid", "how": "drained"},
    ]})
}

fn on(index: usize, more: Value) -> Value {
    let mut item = json!({"entry": 2, "index": index});
    for (name, value) in more.as_object().unwrap() {
        item[name] = value.clone();
    }
    json!({"kind": "on", "items": [item]})
}

fn fitted() -> Value {
    json!({"kind": "fitted", "part": "crank sensor", "supplier": "Northgate Parts", "cost": 40.0, "minutes": 30.0})
}

#[test]
fn what_is_off_is_listed_last_off_first_and_holds_back_the_start() {
    let mut told = Told::new();
    told.at(10_500.0, off());
    let list = told.state().bench_out;
    let names: Vec<&str> = list.off.iter().map(|shown| shown.item.what.as_str()).collect();
    assert_eq!(names, ["coolant", "gasket", "manifold bolts", "air hose"]);
    assert_eq!(list.off[0].wants, "fill it up and bleed it");
    assert!(list.holds_start && list.renew == ["gasket"]);
    let refused = told.refused(10_500.0, json!({"kind": "started"}));
    assert!(refused.starts_with("finding.anyway: 4 things are not back: coolant"), "{refused}");
}

#[rstest]
#[case::an_old_gasket(2, json!({}), "finding.items[0].renewed: gasket must be new")]
#[case::untightened_bolts(1, json!({}), "finding.items[0].tightened: 8 × manifold bolts is tightened by stages")]
#[case::something_else(9, json!({}), "finding.items[0].entry: that is not on the list")]
fn what_is_not_back_as_it_should_be_is_refused(#[case] index: usize, #[case] more: Value, #[case] says: &str) {
    let mut told = Told::new();
    told.at(10_500.0, off());
    let refused = told.refused(10_500.0, on(index, more));
    assert!(refused.starts_with(says), "{refused}");
}

#[test]
fn once_everything_is_back_the_start_comes_next_and_then_the_clearing() {
    let mut told = Told::new();
    told.at(10_500.0, off()).at(10_500.0, fitted());
    assert_eq!(told.state().next.step, "close-up");
    told.at(10_500.0, on(3, json!({}))).at(10_500.0, on(2, json!({"renewed": true})));
    told.at(10_500.0, on(1, json!({"tightened": true, "wrench": "click"})));
    assert!(told.state().next.title.contains("air hose"));
    told.at(10_500.0, on(0, json!({})));
    assert_eq!((told.state().next.step.as_str(), told.state().bench_out.back), ("start-up", 4));
    told.at(10_500.0, json!({"kind": "started", "text": "no leak"}));
    assert_eq!(told.state().next.step, "clear-after-repair");
}

#[test]
fn a_start_in_spite_of_the_list_needs_a_reason_that_stands_on_the_report() {
    let mut told = Told::new();
    told.at(10_500.0, off()).at(10_500.0, fitted());
    told.at(10_500.0, json!({"kind": "started", "anyway": "moved out of the bay by hand"}));
    let state = told.state();
    let both = [Reader::Owner, Reader::Technician].map(|reader| printed(&told, &state, reader));
    assert!(
        both.iter()
            .all(|text| text.contains("not everything was back") && text.contains("moved out of the bay by hand"))
    );
}

fn printed(told: &Told, state: &JobState, reader: Reader) -> String {
    let vehicle = vehicle();
    let ground = ReportGround {
        vehicle: &vehicle,
        job: 1,
        opened_at: "2026-11-02T06:00:00Z",
        entries: &told.0,
        state,
        effects: &[],
        photos: &[7],
        knowledge: Knowledge::built_in(),
    };
    let made = report(&ground, reader);
    let block = |block: &Block| match block {
        Block::Text { text, .. } => text.clone(),
        Block::List { items } => items.join("\n"),
        Block::Table { head, rows } => {
            [vec![head.join(" ")], rows.iter().map(|row| row.join(" ")).collect()].concat().join("\n")
        }
        other => serde_json::to_string(other).unwrap(),
    };
    made.sections
        .iter()
        .flat_map(|s| std::iter::once(s.title.clone()).chain(s.blocks.iter().map(block)))
        .collect::<Vec<_>>()
        .join("\n")
}

#[rstest]
#[case::a_spark_and_a_port(json!({"cylinders": 2, "firing_order": [1, 2], "banks": [[1, 2]]}), &["ignition", "hot", "threads"])]
#[case::a_diesel_with_a_rail(
    json!({"cylinders": 2, "firing_order": [1, 2], "banks": [[1, 2]], "fuel": "diesel", "ignition": "none", "injection": "common-rail"}),
    &["high-pressure", "hot", "threads"])]
fn cautions_are_those_of_the_engine(#[case] engine: Value, #[case] names: &[&str]) {
    let mut car = vehicle();
    car.engine = serde_json::from_value(engine).unwrap();
    let state = job_state_of(&car, &Told::new().0, Knowledge::built_in(), &WorkshopOwn::default(), None).unwrap();
    assert_eq!(state.cautions["fitted"].iter().map(|one| one.name.as_str()).collect::<Vec<_>>(), names);
}

#[test]
fn an_old_part_that_is_good_opens_the_verdict_again() {
    let mut told = Told::new();
    told.at(10_500.0, fitted()).at(10_500.0, json!({"kind": "cleared"}));
    let before = told.state().repair.unwrap().prior_fixed;
    told.at(10_500.0, json!({"kind": "old-part", "fitted": 2, "found": "good", "how": "measures as the new one"}));
    let state = told.state();
    assert_eq!(state.next.step, "old-part-good");
    let repair = state.repair.unwrap();
    assert!(repair.old_part_good == Some(4) && repair.prior_fixed < before);
    assert_eq!(state.fitted[0].needed, Some(false));
    assert!(
        told.refused(10_500.0, json!({"kind": "old-part", "fitted": 1, "found": "good"}))
            .contains("does not say that a part")
    );
}

#[test]
fn a_recurrence_reopens_a_closed_job_and_takes_the_proof_away() {
    let mut told = Told::new();
    told.at(10_500.0, fitted()).at(10_500.0, json!({"kind": "cleared"})).at(14_000.0, json!({"kind": "drive"}));
    told.at(14_000.0, json!({"kind": "closed", "cause": "crank sensor fails when hot"}));
    assert!(told.state().closed);
    told.at(14_300.0, json!({"kind": "occurred", "text": "died at the lights"}));
    let state = told.state();
    assert!(!state.closed && state.proof.unwrap().confidence.is_none());
    assert_eq!((state.next.step.as_str(), state.fitted[0].needed), ("came-back", Some(false)));
}

#[test]
fn a_code_that_comes_back_after_the_clearing_shows_the_fault_again() {
    let scan = |code: &str| json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": code, "status": "stored"}]});
    let after = |code: &str| {
        let mut told = Told::new();
        told.at(10_500.0, scan("P0335"))
            .at(10_500.0, fitted())
            .at(10_500.0, json!({"kind": "cleared"}))
            .at(10_620.0, scan(code));
        told.state().repair.unwrap().came_back
    };
    assert_eq!((after("P0335"), after("P0500")), (Some(5), None));
}

#[test]
fn attempts_before_and_after_carry_the_proof_where_no_distance_was_driven() {
    let mut told = Told::new();
    told.at(10_500.0, json!({"kind": "provoked", "how": "warm air at the sensor", "hits": 4, "attempts": 5}));
    told.at(10_500.0, fitted()).at(10_500.0, json!({"kind": "cleared"}));
    let before = told.state().proof.unwrap().confidence.unwrap();
    told.at(10_500.0, json!({"kind": "provoked", "how": "warm air at the sensor", "hits": 0, "attempts": 6}));
    let proof = told.state().proof.unwrap();
    assert!(proof.confidence.unwrap() > 0.99 && before < 0.7, "{before} {:?}", proof.confidence);
    assert!(proof.rests_on.contains("attempts"), "{}", proof.rests_on);
    told.at(10_500.0, json!({"kind": "provoked", "how": "warm air at the sensor", "hits": 1, "attempts": 1}));
    assert_eq!(told.state().repair.unwrap().came_back, Some(6));
}

#[test]
fn the_same_reading_before_and_after_is_a_proof_and_a_shortfall_that_stays_is_none() {
    let reading =
        |got: f64| json!({"kind": "same-reading", "what": "rail pressure", "unit": "bar", "wanted": 1450, "got": got});
    let mut told = Told::new();
    told.at(10_500.0, reading(900.0)).at(10_500.0, fitted()).at(10_500.0, json!({"kind": "cleared"}));
    assert_eq!(told.state().proof.unwrap().readings[0].mended, None);
    let mut good = Told(told.0.clone());
    good.at(10_540.0, reading(1432.0));
    let proof = good.state().proof.unwrap();
    assert_eq!(proof.readings[0].mended, Some(true));
    assert!(
        proof.readings[0].says.contains("900 of 1450 bar before, 1432 of 1450 bar now"),
        "{}",
        proof.readings[0].says
    );
    told.at(10_540.0, reading(1010.0));
    assert_eq!(told.state().repair.unwrap().came_back, Some(5));
}

#[test]
fn cold_starts_count_after_a_real_soak_and_an_owners_weeks_for_less() {
    let mut told = Told::new();
    told.at(10_500.0, json!({"kind": "watched", "scale": "cold-starts", "watched": 10, "occurrences": [2, 5, 6, 9]}));
    told.at(10_500.0, json!({"kind": "watched", "scale": "weeks", "watched": 4, "occurrences": [1, 3]}));
    told.at(10_500.0, fitted()).at(10_500.0, json!({"kind": "cleared"}));
    told.at(10_500.0, json!({"kind": "parked"}));
    let state = told.state();
    assert_eq!((state.waiting_for, state.soaking.unwrap().hours), (WaitingFor::Cold, 8.0));
    told.at(10_500.0, json!({"kind": "started", "stood_h": 9})).at(10_500.0, json!({"kind": "started", "stood_h": 2}));
    told.at(10_500.0, json!({"kind": "ran", "scale": "weeks", "clean": 10, "told": true}));
    let proof = told.state().proof.unwrap();
    let of = |scale: Scale| proof.scales.iter().find(|one| one.scale == scale).unwrap();
    assert_eq!((of(Scale::ColdStarts).clean, of(Scale::ColdStarts).occurrences), (1.0, 4));
    assert!((of(Scale::Weeks).clean - 7.0).abs() < 1e-9);
    assert!(proof.rests_on.contains("1 cold starts"), "{}", proof.rests_on);
}

#[test]
fn a_replaced_odometer_is_carried_on() {
    let mut told = Told::new();
    told.at(10_500.0, fitted()).at(10_500.0, json!({"kind": "cleared"})).at(10_600.0, json!({"kind": "drive"}));
    assert!(told.refused(12.0, json!({"kind": "drive"})).contains("runs backwards"));
    told.at(10_600.0, json!({"kind": "odometer-replaced", "reads_km": 4.0})).at(404.0, json!({"kind": "drive"}));
    let state = told.state();
    assert_eq!((state.odometer_km, state.carried_km), (404.0, 10_596.0));
    assert_eq!(state.repair.unwrap().clean_km, 500.0);
    assert!(told.refused(300.0, json!({"kind": "drive"})).contains("runs backwards"));
}

#[test]
fn clean_kilometres_below_the_repair_are_refused() {
    let mut told = Told::new();
    told.at(10_500.0, fitted());
    assert!(told.refused(10_480.0, json!({"kind": "drive"})).contains("runs backwards: entry 2 stands at 10500 km"));
}

#[test]
fn the_map_of_where_it_lived_leads_the_proof_once_it_was_driven() {
    let cells = |episodes: f64, seconds: f64| {
        json!({"kind": "recording", "recording": 1, "name": "loop", "span_s": seconds, "samples": 10, "channels": [],
            "cells": [{"speed": 3, "load": 4, "seconds": seconds, "firings": seconds * 20.0, "episodes": [0.0, 0.0, episodes, 0.0]},
                      {"speed": 1, "load": 0, "seconds": seconds, "firings": seconds * 8.0, "episodes": [0.0, 0.0, 0.0, 0.0]}]})
    };
    let mut told = Told::new();
    told.at(10_500.0, cells(5.0, 300.0));
    told.at(10_500.0, json!({"kind": "fitted", "part": "plug", "cylinder": 3}))
        .at(10_500.0, json!({"kind": "cleared"}));
    let plan = told.state().proof.unwrap().drive.unwrap();
    assert_eq!((plan.cells[0].speed, plan.cells[0].load), (3, 4));
    assert!(plan.minutes > 0.0 && !plan.reached);
    // What the plan asks for proves it: no more and hardly less.
    let wanted = 60.0 * plan.cells.iter().map(|cell| cell.minutes).fold(0.0, f64::max);
    told.at(10_540.0, cells(0.0, wanted));
    let proof = told.state().proof.unwrap();
    assert!(proof.rests_on.contains("cells where it lived") && proof.enough, "{:?}", proof.drive);
}

#[test]
fn a_job_is_boiled_down_for_the_depot_and_found_by_its_words() {
    let mut told = Told::new();
    told.at(10_500.0, fitted()).at(10_500.0, json!({"kind": "cleared"})).at(19_000.0, json!({"kind": "drive"}));
    told.at(19_000.0, json!({"kind": "closed", "cause": "crank sensor fails when hot"}));
    let knowledge = Knowledge::built_in();
    let of = |told: &Told| summary(1, &vehicle(), "2026-11-02T06:00:00Z", &told.0, &told.state(), None, knowledge);
    let good = of(&told);
    assert_eq!((good.cause.as_str(), good.right_first_time), ("crank sensor fails when hot", Some(true)));
    let text = job_text(&vehicle(), &told.0, knowledge);
    assert!(text.parts.contains("crank sensor") && text.cause.contains("when hot") && text.vehicle.contains("W-12"));
    told.at(19_400.0, json!({"kind": "occurred"}));
    let back = of(&told);
    assert_eq!((back.right_first_time, back.came_back, back.closed_at.is_some()), (Some(false), true, false));
    let figures = depot_figures(&[good, back]);
    assert_eq!(figures.right_first_time.unwrap().count, 1);
    assert_eq!((figures.parts[0].part.as_str(), figures.parts[0].not_needed), ("crank sensor", 1));
    assert_eq!(figures.suppliers[0].fitted, 2.0);
    assert!(figures.says.contains("So few say little"), "{}", figures.says);
}

#[rstest]
#[case::watched_beyond(json!({"kind": "watched", "scale": "starts", "watched": 5, "occurrences": [6]}), "finding.occurrences")]
#[case::never_came(json!({"kind": "watched", "scale": "starts", "watched": 5, "occurrences": []}), "finding.occurrences")]
#[case::ran_nothing(json!({"kind": "ran", "scale": "weeks", "clean": 0}), "finding.clean")]
#[case::more_hits_than_attempts(json!({"kind": "provoked", "how": "mist", "hits": 3, "attempts": 2}), "finding.hits")]
#[case::nothing_wanted(json!({"kind": "same-reading", "what": "x", "wanted": 0, "got": 1}), "finding.wanted")]
#[case::nothing_off(json!({"kind": "off", "items": []}), "finding.items")]
#[case::a_torque_without_a_unit(json!({"kind": "off", "items": [{"what": "bolts", "tighten": {"stages": [{"torque": "8"}]}}]}), "finding.items[0].tighten.stages[0].torque")]
#[case::single_use_used_twice(json!({"kind": "tightened", "what": "head", "torque": {"stages": [{"torque": "8 Nm"}], "single_use": true}}), "finding.renewed")]
#[case::no_such_cylinder(json!({"kind": "coded", "input": {"what": "code", "numbers": [{"cylinder": 9}]}}), "finding.input.numbers[0].cylinder")]
#[case::no_such_step(json!({"kind": "relearned", "step": "piano", "seconds": 3}), "finding.step")]
#[case::no_such_monitor(json!({"kind": "readiness", "ready": ["luck"], "not_ready": []}), "finding.ready")]
#[case::ready_and_not(json!({"kind": "readiness", "ready": ["misfire"], "not_ready": ["misfire"]}), "finding.not_ready")]
#[case::an_odometer_below_nought(json!({"kind": "odometer-replaced", "reads_km": -1}), "finding.reads_km")]
fn an_entry_that_cannot_be_is_refused_by_field(#[case] finding: Value, #[case] field: &str) {
    let refused = Told::new().refused(10_500.0, finding);
    assert!(refused.starts_with(&format!("{field}:")), "{refused}");
}
