//! A job's suspects from its trail, and the next move that follows from them.

use ember_core::job::{JobState, effects, job_state, job_state_of, proven_cause};
use ember_core::knowledge::Knowledge;
use ember_core::suspects::memory::{WorkshopCase, WorkshopOwn};
use ember_core::suspects::{ActKind, Depth};
use ember_core::trail::{Entry, Finding, NeedState, NewEntry, check};
use ember_core::vehicle::Vehicle;
use rstest::rstest;
use serde_json::{Value, json};

fn four() -> Vehicle {
    serde_json::from_value(json!({"fleet_no": "T-4", "name": "Trial car", "engine": {
        "cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "injection": "port",
        "air_metering": "air-flow"}}))
    .unwrap()
}

fn tractor() -> Vehicle {
    serde_json::from_value(json!({"fleet_no": "T-1", "name": "Trial tractor", "has": ["points"], "lacks": ["pick-up"],
        "engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]],
        "ignition": "distributor", "injection": "carburettor"}}))
    .unwrap()
}

/// Entries at given readings, each checked as the store would.
fn trail(vehicle: &Vehicle, list: &[(f64, Value)]) -> Vec<Entry> {
    let engine = vehicle.checked().unwrap();
    let mut entries: Vec<Entry> = Vec::new();
    for (km, finding) in list {
        let finding: Finding = serde_json::from_value(finding.clone()).unwrap();
        let new = NewEntry { odometer_km: *km, author: "Ada".into(), replaces: None, finding: finding.clone() };
        check(&engine, &entries, &new).unwrap();
        entries.push(Entry {
            number: entries.len() as u32 + 1,
            at: "2026-11-20T08:00:00Z".into(),
            odometer_km: *km,
            author: "Ada".into(),
            replaces: None,
            finding,
        });
    }
    entries
}

fn state(vehicle: &Vehicle, list: &[(f64, Value)]) -> JobState {
    job_state(vehicle, &trail(vehicle, list), Knowledge::built_in()).unwrap()
}

fn tested(test: &str, target: &str, outcome: &str) -> Value {
    json!({"kind": "tested", "test": test, "target": target, "outcome": outcome})
}

fn complaint(symptoms: &[&str], circumstances: &[&str]) -> Value {
    json!({"kind": "complaint", "symptoms": symptoms, "circumstances": circumstances,
        "observed_from_km": 9000.0, "occurrences_km": [9300.0, 9700.0, 9950.0]})
}

fn scan(codes: &[&str]) -> Value {
    let codes: Vec<Value> = codes.iter().map(|code| json!({"code": code, "status": "stored"})).collect();
    json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": codes})
}

fn present(state: &JobState, fault: &str) -> f64 {
    let suspects = &state.suspects.as_ref().unwrap().result.suspects;
    suspects.iter().filter(|s| s.fault == fault).map(|s| s.present).fold(0.0, f64::max)
}

#[test]
fn a_stored_code_is_a_finding_of_its_entry_and_what_was_read_without_it_is_one_too() {
    let state = state(&four(), &[(10_000.0, complaint(&["misfire"], &[])), (10_000.0, scan(&["P0303", "P0353"]))]);
    let shown = state.suspects.as_ref().unwrap();
    let first = &shown.result.suspects[0];
    assert_eq!(first.target.to_string(), "cylinder 3");
    assert_eq!(first.part.as_deref(), Some("coil"));
    assert!(first.speaks.iter().any(|s| s.says.starts_with("P0353 stored") && s.decibans > 3.0), "{:?}", first.speaks);
    let told = first.speaks.iter().find(|s| s.test == "code-coil").unwrap();
    assert_eq!(shown.entries[told.findings[0]], 2, "it points at the entry of the scan");
}

#[test]
fn codes_of_history_and_of_other_units_count_for_nothing() {
    let old = json!({"kind": "scan", "tool": "reader", "units_read": ["brakes"],
        "codes": [{"code": "P0303", "status": "history"}]});
    let without = state(&four(), &[(10_000.0, complaint(&["misfire"], &[]))]);
    let with = state(&four(), &[(10_000.0, complaint(&["misfire"], &[])), (10_000.0, old)]);
    assert!((present(&with, "coil-breaks-down") - present(&without, "coil-breaks-down")).abs() < 1e-9);
}

#[test]
fn counts_weigh_by_what_they_show_and_not_by_their_name() {
    let counts = |misfires: f64, revolutions: f64| json!({"kind": "counts", "revolutions": revolutions, "misfires": {"1": 0, "2": 0, "3": misfires, "4": 0}});
    let at_3 = |misfires: f64, revolutions: f64| {
        let state =
            state(&four(), &[(10_000.0, complaint(&["misfire"], &[])), (10_020.0, counts(misfires, revolutions))]);
        let suspects = state.suspects.unwrap().result.suspects;
        suspects.iter().filter(|s| s.target.to_string() == "cylinder 3").map(|s| s.probability).sum::<f64>()
    };
    let (few, many) = (at_3(2.0, 2_000.0), at_3(300.0, 20_000.0));
    assert!(many > 0.9, "{many}");
    assert!(few < many, "{few} and {many}");
}

#[test]
fn a_swap_that_took_the_misfire_along_condemns_the_part_among_the_suspects_too() {
    let counts = |at: &str| {
        let mut misfires = json!({"1": 0, "2": 0, "3": 0, "4": 0});
        misfires[at] = json!(160);
        json!({"kind": "counts", "revolutions": 20_000, "misfires": misfires})
    };
    let moves = json!([{"part": "coil", "from": 3, "to": 1}, {"part": "coil", "from": 1, "to": 3}]);
    let state = state(
        &four(),
        &[
            (10_000.0, complaint(&["misfire"], &["under load"])),
            (10_020.0, counts("3")),
            (10_020.0, json!({"kind": "moved", "moves": moves})),
            (10_020.0, json!({"kind": "cleared"})),
            (10_040.0, counts("1")),
        ],
    );
    let first = &state.suspects.as_ref().unwrap().result.suspects[0];
    assert_eq!((first.part.as_deref(), first.target.to_string().as_str()), (Some("coil"), "cylinder 3"));
    assert_eq!(state.next.step, "fit", "the work that was begun says what is next");
}

#[test]
fn the_next_move_of_a_car_that_does_not_start_is_a_quick_check_even_before_the_scan() {
    let state = state(&four(), &[(10_000.0, complaint(&["will not start"], &[]))]);
    assert_eq!(state.next.step, "test");
    let test = state.next.test.unwrap();
    assert!(test.quick_first);
    assert!(test.outcomes.len() >= 2 && state.next.minutes <= 15.0);
}

#[test]
fn a_running_car_is_read_before_it_is_tested() {
    assert_eq!(state(&four(), &[(10_000.0, complaint(&["loss of power"], &[]))]).next.step, "scan");
}

#[test]
fn a_machine_without_a_control_unit_is_not_asked_for_codes() {
    let state = state(
        &tractor(),
        &[(1_000.0, json!({"kind": "complaint", "symptoms": ["misfire"], "circumstances": ["hot"]}))],
    );
    assert_eq!(state.next.step, "test");
    assert!(state.suspects.unwrap().result.suspects.iter().all(|s| s.fault != "pick-up-fails"));
}

#[test]
fn when_no_test_pays_any_more_the_next_move_is_to_mend_it() {
    let state = state(
        &tractor(),
        &[
            (1_000.0, json!({"kind": "complaint", "symptoms": ["misfire", "stalls"], "circumstances": ["hot"]})),
            (1_000.0, tested("coil-lead-spark-test", "engine", "weak")),
            (1_000.0, tested("running-feed-test", "engine", "present")),
            (1_000.0, tested("condenser-substitute", "engine", "cured")),
        ],
    );
    assert_eq!(state.suspects.as_ref().unwrap().result.act.act, ActKind::Repair);
    assert_eq!((state.next.step.as_str(), state.next.part.as_deref()), ("suspect", Some("condenser")));
    assert!(state.next.title.contains("Condenser fails"));
    assert!(state.next.sure.unwrap() > 0.9);
}

#[test]
fn a_part_fitted_in_vain_is_left_alone_afterwards() {
    let before = [
        (10_000.0, complaint(&["misfire"], &["under load"])),
        (10_000.0, scan(&["P0303"])),
        (10_010.0, tested("coil-swap", "cylinder 3", "moved")),
    ];
    let mut after = before.to_vec();
    after.push((10_010.0, json!({"kind": "fitted", "part": "coil", "cylinder": 3})));
    after.push((10_010.0, json!({"kind": "cleared"})));
    after.push((10_090.0, json!({"kind": "occurred"})));
    let coils = |state: &JobState| {
        let suspects = &state.suspects.as_ref().unwrap().result.suspects;
        suspects.iter().filter(|s| s.part.as_deref() == Some("coil")).map(|s| s.probability).sum::<f64>()
    };
    let (first, then) = (coils(&state(&four(), &before)), coils(&state(&four(), &after)));
    assert!(first > 0.6 && then < 0.5 * first, "{first} then {then}");
}

#[test]
fn what_a_test_opened_stays_off_until_the_car_is_driven() {
    let look = tested("plug-well-look", "cylinder 3", "dry");
    let open = state(&four(), &[(10_000.0, complaint(&["misfire"], &[])), (10_000.0, look.clone())]);
    assert_eq!(open.suspects.unwrap().off, ["cylinder-top 3"]);
    let list = [(10_000.0, complaint(&["misfire"], &[])), (10_000.0, look), (10_012.0, json!({"kind": "drive"}))];
    assert!(state(&four(), &list).suspects.unwrap().off.is_empty());
}

#[test]
fn limits_hold_from_their_entry_on_and_the_last_ones_count() {
    let limited = |limits: Value| {
        let mut limits = limits;
        limits["kind"] = json!("limits");
        state(&four(), &[(10_000.0, complaint(&["loss of power"], &[])), (10_000.0, scan(&[])), (10_000.0, limits)])
    };
    let short = limited(json!({"minutes_left": 9.0}));
    assert!(short.suspects.unwrap().result.next.iter().all(|t| t.minutes <= 9.0));
    let alone = limited(json!({"alone": true, "cannot": ["smoke machine"]}));
    let shown = alone.suspects.unwrap();
    assert!(shown.limits.alone);
    assert!(shown.result.next.iter().all(|t| t.people < 2 && !t.tools.contains(&"smoke machine".into())));
}

#[test]
fn each_entry_shows_what_it_did_to_the_leading_suspect() {
    let entries = trail(
        &four(),
        &[
            (10_000.0, complaint(&["will not start"], &[])),
            (10_000.0, tested("crank-signal-read", "engine", "steady")),
            (10_000.0, tested("pump-listen", "engine", "silent")),
        ],
    );
    let list = effects(&four(), &entries, Knowledge::built_in()).unwrap();
    assert_eq!(list.iter().map(|e| e.entry).collect::<Vec<_>>(), [2, 3]);
    assert!(list[1].sure > list[0].sure, "{list:?}");
}

#[test]
fn a_test_that_proves_a_need_or_shows_it_lacking_is_told_with_its_entry() {
    let needs = |list: &[(f64, Value)]| {
        let state = state(&four(), list);
        state.needs.into_iter().map(|n| (serde_json::to_value(n.need).unwrap(), n.state, n.entry)).collect::<Vec<_>>()
    };
    let start = (10_000.0, complaint(&["will not start"], &[]));
    let strong = (10_000.0, tested("spark-test", "cylinder 1", "strong"));
    let of_spark = |list: &[(f64, Value)]| needs(list).into_iter().find(|(need, ..)| need == "spark").unwrap();
    let (_, found, entry) = of_spark(&[start.clone(), strong.clone()]);
    assert_eq!((found, entry), (NeedState::Proven, Some(2)));
    // One cylinder without spark is enough, whatever the others have.
    let none = (10_000.0, tested("spark-test", "cylinder 3", "none"));
    let (_, found, entry) = of_spark(&[start.clone(), none, strong.clone()]);
    assert_eq!((found, entry), (NeedState::Missing, Some(2)));
    // A spark proves nothing of its moment.
    assert!(needs(&[start.clone(), strong.clone()]).iter().any(|(n, s, _)| n == "timing" && *s == NeedState::Unknown));
    // What the technician has set by hand stands above what a test says.
    let by_hand = json!({"kind": "need", "need": "spark", "state": "unknown", "how": "the tester was not grounded"});
    let (_, found, entry) = of_spark(&[start, strong, (10_000.0, by_hand)]);
    assert_eq!((found, entry), (NeedState::Unknown, Some(3)));
}

#[rstest]
#[case::test(tested("staring", "engine", "yes"), "finding.test")]
#[case::vehicle(tested("glow-plug-test", "cylinder 1", "dead"), "finding.test")]
#[case::target(tested("spark-test", "cylinder 9", "weak"), "finding.target")]
#[case::outcome(tested("spark-test", "cylinder 1", "blue"), "finding.outcome")]
#[case::hurry(json!({"kind": "limits", "minutes_left": -1.0}), "finding.minutes_left")]
fn a_finding_that_this_vehicle_cannot_give_is_refused_when_it_is_written(#[case] finding: Value, #[case] field: &str) {
    let vehicle = four();
    let engine = vehicle.checked().unwrap();
    let finding: Finding = serde_json::from_value(finding).unwrap();
    let new = NewEntry { odometer_km: 1.0, author: "Ada".into(), replaces: None, finding };
    assert_eq!(check(&engine, &[], &new).unwrap_err().field, field);
}

/// A coil swapped, condemned, replaced, driven and closed.
fn closed_job(clean_km: f64) -> Vec<(f64, Value)> {
    vec![
        (10_000.0, complaint(&["misfire"], &["under load"])),
        (10_000.0, scan(&["P0302"])),
        (10_010.0, tested("coil-swap", "cylinder 2", "moved")),
        (10_010.0, json!({"kind": "fitted", "part": "coil", "cylinder": 2})),
        (10_010.0, json!({"kind": "cleared"})),
        (10_010.0 + clean_km, json!({"kind": "drive"})),
        (10_010.0 + clean_km, json!({"kind": "closed"})),
    ]
}

#[test]
fn a_closed_job_teaches_only_what_its_proof_has_shown() {
    let learnt = |km: f64| proven_cause(&four(), &trail(&four(), &closed_job(km)), Knowledge::built_in());
    assert!(learnt(9_000.0).unwrap().starts_with("coil-"));
    assert_eq!(learnt(20.0), None, "closed, and not proven");
    let open: Vec<(f64, Value)> = closed_job(9_000.0).into_iter().take(6).collect();
    assert_eq!(proven_cause(&four(), &trail(&four(), &open), Knowledge::built_in()), None, "proven, and not closed");
}

#[test]
fn what_the_workshop_has_learnt_bends_the_suspects_of_the_next_job() {
    let entries = trail(&four(), &[(10_000.0, complaint(&["misfire"], &[]))]);
    let with = |usual: Vec<WorkshopCase>| {
        let own = WorkshopOwn { usual, ..WorkshopOwn::default() };
        job_state_of(&four(), &entries, Knowledge::built_in(), &own, Some(Depth::Suspects)).unwrap()
    };
    let case = WorkshopCase {
        fault: "plug-cracked".into(),
        cases: 8.0,
        vehicle: Some("Trial car".into()),
        because: String::new(),
    };
    assert!(present(&with(vec![case]), "plug-cracked") > 2.0 * present(&with(Vec::new()), "plug-cracked"));
}
