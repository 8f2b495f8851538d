//! A job's state, computed from trails: what comes next, what waits, where parts are, what is proven.

use ember_core::job::{JobState, WaitingFor, effects, job_state_of};
use ember_core::knowledge::Knowledge;
use ember_core::refusal::Refusal;
use ember_core::suspects::memory::WorkshopOwn;
use ember_core::trail::{Entry, NeedState};
use ember_core::vehicle::Vehicle;
use rstest::rstest;
use serde_json::{Value, json};

fn four() -> Vehicle {
    vehicle(json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]}))
}

fn vehicle(engine: Value) -> Vehicle {
    serde_json::from_value(json!({"fleet_no": "W-07", "name": "Hollin Fell", "engine": engine})).unwrap()
}

/// A trail from (odometer, finding) in order; a finding with `replaces` corrects.
fn trail(entries: &[(f64, Value)]) -> Vec<Entry> {
    (1..)
        .zip(entries)
        .map(|(number, (odometer_km, finding))| {
            let mut finding = finding.clone();
            let replaces =
                finding.as_object_mut().unwrap().remove("replaces").and_then(|v| v.as_u64()).map(|v| v as u32);
            Entry {
                number,
                at: "2026-11-02T06:00:00Z".into(),
                odometer_km: *odometer_km,
                author: "Ada".into(),
                replaces,
                finding: serde_json::from_value(finding).unwrap(),
            }
        })
        .collect()
}

/// The state as the work itself gives it, without what the suspects would rather do.
fn job_state(vehicle: &Vehicle, entries: &[Entry], knowledge: &Knowledge) -> Result<JobState, Refusal> {
    job_state_of(vehicle, entries, knowledge, &WorkshopOwn::default(), None)
}

fn state(entries: &[(f64, Value)]) -> JobState {
    job_state(&four(), &trail(entries), Knowledge::built_in()).unwrap()
}

fn complaint() -> (f64, Value) {
    let noticed = [83_100, 83_640, 83_900, 84_060, 84_150];
    (
        84_186.0,
        json!({"kind": "complaint", "symptoms": ["misfire"], "observed_from_km": 82_000, "occurrences_km": noticed}),
    )
}

fn scan(km: f64, codes: &[&str]) -> (f64, Value) {
    let codes: Vec<Value> = codes.iter().map(|code| json!({"code": code, "status": "stored"})).collect();
    (km, json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": codes}))
}

fn counts(km: f64, revolutions: u32, of: [u32; 4]) -> (f64, Value) {
    let misfires = json!({"1": of[0], "2": of[1], "3": of[2], "4": of[3]});
    (km, json!({"kind": "counts", "revolutions": revolutions, "misfires": misfires}))
}

fn exchange(part: &str, a: u8, b: u8) -> Vec<Value> {
    vec![json!({"part": part, "from": a, "to": b}), json!({"part": part, "from": b, "to": a})]
}

/// Coil 3 to 1 and plug 3 to 2.
fn swapped(km: f64) -> (f64, Value) {
    let moves = [exchange("coil", 3, 1), exchange("plug", 3, 2)].concat();
    (km, json!({"kind": "moved", "moves": moves}))
}

fn cleared(km: f64) -> (f64, Value) {
    (km, json!({"kind": "cleared"}))
}

fn drive(km: f64) -> (f64, Value) {
    (km, json!({"kind": "drive"}))
}

fn fitted(km: f64) -> (f64, Value) {
    (km, json!({"kind": "fitted", "part": "plug", "cylinder": 2, "cost": 14.5, "minutes": 15}))
}

/// The trail up to the cleared codes after the swap.
fn up_to_the_drive() -> Vec<(f64, Value)> {
    vec![
        complaint(),
        scan(84_186.0, &["P0303"]),
        counts(84_204.0, 36_000, [1, 0, 270, 2]),
        swapped(84_204.0),
        cleared(84_204.0),
    ]
}

fn then(mut before: Vec<(f64, Value)>, more: &[(f64, Value)]) -> Vec<(f64, Value)> {
    before.extend_from_slice(more);
    before
}

fn repaired() -> Vec<(f64, Value)> {
    then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 240, 1, 0]), fitted(84_231.0), cleared(84_231.0)])
}

#[rstest]
#[case::nothing_read(vec![complaint()], "scan", WaitingFor::Reading)]
#[case::codes_read(vec![complaint(), scan(84_186.0, &["P0303"])], "count", WaitingFor::Drive)]
#[case::too_few(vec![complaint(), counts(84_190.0, 2_000, [0, 0, 4, 0])], "count-longer", WaitingFor::Drive)]
#[case::clean(vec![complaint(), counts(84_190.0, 40_000, [0, 1, 0, 0])], "no-misfire", WaitingFor::Drive)]
#[case::one_cylinder(vec![complaint(), counts(84_190.0, 36_000, [1, 0, 270, 2])], "swap", WaitingFor::Work)]
#[case::all_alike(vec![complaint(), counts(84_190.0, 36_000, [270, 260, 280, 255])], "group", WaitingFor::Work)]
#[case::moved_not_cleared(up_to_the_drive()[..4].to_vec(), "clear", WaitingFor::Work)]
#[case::drive_is_due(up_to_the_drive(), "drive", WaitingFor::Drive)]
#[case::read_without_clearing(then(up_to_the_drive()[..4].to_vec(), &[counts(84_231.0, 36_000, [0, 240, 1, 0])]), "void", WaitingFor::Work)]
#[case::cleared_after_a_void_reading(then(up_to_the_drive()[..4].to_vec(), &[counts(84_231.0, 36_000, [0, 240, 1, 0]), cleared(84_231.0)]), "drive", WaitingFor::Drive)]
#[case::short_drive(then(up_to_the_drive(), &[counts(84_206.0, 800, [0, 4, 0, 0])]), "drive-longer", WaitingFor::Drive)]
#[case::plug_condemned(then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 240, 1, 0])]), "fit", WaitingFor::Part)]
#[case::stayed(then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 0, 260, 1])]), "swap", WaitingFor::Work)]
#[case::gone(then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 0, 1, 1])]), "connections", WaitingFor::Work)]
#[case::gone_and_looked_at(then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 0, 1, 1]), (84_231.0, json!({"kind": "note", "text": "pins bright"}))]), "prove", WaitingFor::CleanDistance)]
#[case::elsewhere(then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 0, 1, 260])]), "elsewhere", WaitingFor::Work)]
#[case::fitted(repaired()[..7].to_vec(), "clear-after-repair", WaitingFor::Work)]
#[case::to_be_proven(repaired(), "prove", WaitingFor::CleanDistance)]
#[case::proven(then(repaired(), &[drive(84_975.0)]), "close", WaitingFor::Decision)]
#[case::came_back(then(repaired(), &[(84_400.0, json!({"kind": "occurred"}))]), "came-back", WaitingFor::Drive)]
#[case::closed(then(repaired(), &[drive(84_975.0), (84_975.0, json!({"kind": "closed"}))]), "closed", WaitingFor::Nothing)]
#[case::opened_again(then(repaired(), &[drive(84_975.0), (84_975.0, json!({"kind": "closed"})), (84_980.0, json!({"kind": "reopened", "why": "asked"}))]), "close", WaitingFor::Decision)]
fn the_next_move_is(#[case] entries: Vec<(f64, Value)>, #[case] step: &str, #[case] waiting: WaitingFor) {
    let state = state(&entries);
    assert_eq!((state.next.step.as_str(), state.waiting_for), (step, waiting), "{}", state.next.why);
    assert!(!state.next.title.contains('{') && !state.next.why.contains('{'), "unfilled: {}", state.next.title);
}

#[test]
fn the_plan_moves_each_part_to_a_cylinder_of_its_own_and_offers_other_schools() {
    let state = state(&up_to_the_drive()[..3]);
    assert_eq!(state.next.title, "Swap: coil 3 ↔ 1, plug 3 ↔ 2");
    assert_eq!(state.next.moves.len(), 4);
    let others: Vec<&str> = state.next.alternatives.iter().map(|a| a.title.as_str()).collect();
    assert_eq!(others, ["One at a time: coil 3 ↔ 1", "Measure first", "Fit the usual part first"]);
}

#[test]
fn when_coil_and_plug_are_cleared_the_injector_is_next_and_then_there_is_only_measuring() {
    let stayed = then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 0, 260, 1])]);
    assert_eq!(state(&stayed).next.title, "Swap: injector 3 ↔ 1");
    let again = then(
        stayed,
        &[
            (84_231.0, json!({"kind": "moved", "moves": exchange("injector", 3, 1)})),
            cleared(84_231.0),
            counts(84_250.0, 36_000, [1, 0, 255, 0]),
        ],
    );
    let last = state(&again);
    assert_eq!((last.next.step.as_str(), last.next.cylinder), ("measure", Some(3)));
}

#[test]
fn tags_stay_with_their_parts_and_a_new_part_has_a_tag_of_its_own() {
    let at = |state: &JobState, cylinder: usize| -> Vec<String> {
        state.cylinders[cylinder - 1].parts.iter().map(|part| part.tag.clone()).collect()
    };
    let moved = state(&up_to_the_drive());
    assert_eq!(at(&moved, 1), ["C3", "I1", "P1"]);
    assert_eq!(at(&moved, 2), ["C2", "I2", "P3"]);
    let mut strayed: Vec<&str> = moved.strayed.iter().map(|part| part.tag.as_str()).collect();
    strayed.sort_unstable();
    assert_eq!(strayed, ["C1", "C3", "P2", "P3"]);
    assert_eq!(at(&state(&repaired()), 2), ["C2", "I2", "P2′"]);
}

#[test]
fn a_paired_coil_sits_at_both_of_its_cylinders() {
    let paired = vehicle(
        json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "ignition": "paired-coils"}),
    );
    let moves = exchange("coil", 1, 2);
    let entries = trail(&[complaint(), (84_190.0, json!({"kind": "moved", "moves": moves}))]);
    let state = job_state(&paired, &entries, Knowledge::built_in()).unwrap();
    let coils: Vec<Vec<&str>> = state
        .cylinders
        .iter()
        .map(|c| c.parts.iter().filter(|p| p.part == "coil").map(|p| p.tag.as_str()).collect())
        .collect();
    assert_eq!(coils, [["C2"], ["C1"], ["C1"], ["C2"]]);
}

#[test]
fn a_condemned_plug_takes_the_spark_away_and_a_clean_count_gives_all_needs_back() {
    let need = |state: &JobState, name: &str| state.needs.iter().find(|n| n.name == name).unwrap().state;
    let condemned = state(&repaired()[..6]);
    assert_eq!(need(&condemned, "spark"), NeedState::Missing);
    assert_eq!(need(&condemned, "fuel"), NeedState::Unknown);
    let clean = state(&then(repaired(), &[counts(84_262.0, 40_000, [0, 1, 0, 0])]));
    assert!(clean.needs.iter().all(|n| n.state == NeedState::Proven));
    let checked =
        (84_186.0, json!({"kind": "need", "need": "compression", "state": "proven", "how": "all within a tenth"}));
    assert_eq!(need(&state(&[complaint(), checked]), "compression"), NeedState::Proven);
}

#[test]
fn a_diesel_needs_heat() {
    let diesel =
        vehicle(json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]], "fuel": "diesel"}));
    let state = job_state(&diesel, &trail(&[complaint()]), Knowledge::built_in()).unwrap();
    assert_eq!(state.needs[2].name, "heat");
    assert_eq!(state.swappable, ["glow-plug", "injector"]);
}

#[test]
fn a_correction_counts_in_its_place_and_a_withdrawn_entry_not_at_all() {
    let wrong = counts(84_204.0, 36_000, [270, 0, 0, 0]);
    let mut right = counts(84_204.0, 36_000, [1, 0, 270, 2]);
    right.1["replaces"] = json!(2);
    let corrected = state(&[complaint(), wrong.clone(), swapped(84_204.0), right]);
    assert_eq!(corrected.misfire.unwrap().result.group.cylinders, [3]);
    assert_eq!(corrected.standing, [1, 4, 3]);
    let withdrawn =
        state(&[complaint(), wrong, (84_204.0, json!({"kind": "withdrawn", "why": "other car", "replaces": 2}))]);
    assert!(withdrawn.misfire.is_none());
    assert_eq!(withdrawn.standing, [1]);
}

#[test]
fn nothing_read_at_the_spot_is_no_evidence_but_a_code_at_the_spot_is() {
    assert_eq!(state(&then(up_to_the_drive(), &[scan(84_204.0, &[])])).next.step, "drive");
    let at_once = state(&then(up_to_the_drive(), &[scan(84_204.0, &["P0303"])]));
    assert_eq!(at_once.swaps[0].result.as_ref().unwrap().verdict, ember_core::swap::Verdict::Stayed);
}

#[test]
fn a_later_clearing_does_not_throw_the_verdict_away() {
    let decided = then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 240, 1, 0]), cleared(84_231.0)]);
    assert_eq!(state(&decided).next.step, "fit");
}

#[test]
fn putting_parts_back_is_no_test_and_keeps_the_verdict() {
    let back = json!({"kind": "moved", "put_back": true, "moves": exchange("coil", 1, 3)});
    let state = state(&then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 240, 1, 0]), (84_231.0, back)]));
    assert_eq!((state.next.step.as_str(), state.swaps.len()), ("fit", 1));
}

#[test]
fn the_proof_starts_from_how_the_part_was_condemned() {
    let proven = state(&then(repaired(), &[drive(84_975.0)]));
    assert_eq!(proven.repair.as_ref().unwrap().prior_fixed, 0.9);
    let confidence = proven.proof.unwrap().result.unwrap().confidence;
    assert!((confidence - 0.994463).abs() < 5e-7, "{confidence}");
    let guessed = state(&[complaint(), fitted(84_231.0), cleared(84_231.0), drive(84_975.0)]);
    assert_eq!(guessed.repair.unwrap().prior_fixed, 0.6);
    let handled = state(&then(up_to_the_drive(), &[counts(84_231.0, 36_000, [0, 0, 1, 1])]));
    let repair = handled.repair.unwrap();
    assert_eq!((repair.part, repair.prior_fixed), (None, 0.3));
}

#[rstest]
#[case::felt((84_400.0, json!({"kind": "occurred"})))]
#[case::counted(counts(84_400.0, 36_000, [0, 0, 255, 0]))]
#[case::coded(scan(84_400.0, &["P0303"]))]
fn a_fault_that_comes_back_ends_the_proof(#[case] back: (f64, Value)) {
    let state = state(&then(repaired(), &[drive(84_300.0), back]));
    let proof = state.proof.unwrap();
    assert!(proof.result.is_none());
    assert!(proof.refused.unwrap().reason.contains("came back, entry 10"));
}

#[test]
fn a_fault_without_noted_readings_asks_for_them() {
    let bare = (84_186.0, json!({"kind": "complaint", "symptoms": ["misfire"]}));
    let state = state(&[bare, fitted(84_231.0), cleared(84_231.0), drive(84_975.0)]);
    assert_eq!(state.next.step, "prove-unknown");
}

#[test]
fn the_road_gathers_what_happened_at_one_reading() {
    let road = state(&then(repaired(), &[drive(84_975.0)])).road;
    let stations: Vec<(f64, Vec<&str>)> =
        road.stations.iter().map(|s| (s.km, s.lines.iter().map(String::as_str).collect())).collect();
    assert_eq!(stations[0], (83_100.0, vec!["noticed 5 times"]));
    assert_eq!(stations[1], (84_186.0, vec!["P0303"]));
    assert_eq!(stations[2], (84_204.0, vec!["273 misfires", "swap: moved", "codes cleared"]));
    assert_eq!(stations[3], (84_231.0, vec!["241 misfires", "new plug 2", "codes cleared"]));
    assert_eq!((road.stations[0].up_to_km, road.stations[0].to_next_km), (84_150.0, Some(36.0)));
    assert!(road.stations[3].clean && !road.stations[2].clean);
}

#[test]
fn what_happened_twice_at_one_reading_stands_there_once() {
    let road = state(&[complaint(), cleared(84_190.0), cleared(84_190.0)]).road;
    assert_eq!(road.stations.last().unwrap().lines, ["codes cleared"]);
}

#[test]
fn each_entry_shows_what_it_did() {
    let list = effects(&four(), &trail(&then(repaired(), &[drive(84_590.0), drive(84_975.0)])), Knowledge::built_in())
        .unwrap();
    let told: Vec<(u32, &str)> = list.iter().map(|e| (e.entry, e.sure_of.as_str())).collect();
    assert_eq!(
        told,
        [
            (2, "Ignition coil breaks down, cylinder 3"),
            (3, "Ignition coil breaks down, cylinder 3"),
            (6, "it is the plug"),
            (7, "the new plug cured it"),
            (9, "the new plug cured it"),
            (10, "the new plug cured it")
        ]
    );
    assert!(list[4].before.unwrap() < list[4].sure);
}

#[test]
fn a_group_that_shares_something_is_looked_into_together() {
    let neighbours = state(&[complaint(), counts(84_190.0, 36_000, [0, 200, 210, 0])]);
    assert_eq!(neighbours.next.step, "group");
    assert!(neighbours.next.title.contains("cylinders 2 and 3, neighbours on one bank"), "{}", neighbours.next.title);
    assert!(neighbours.next.why.contains("compression"), "{}", neighbours.next.why);
    assert!(neighbours.plan.is_none(), "a swap of one cylinder's parts would say nothing");
}

#[test]
fn a_fault_that_came_back_and_was_counted_again_goes_on_where_the_counts_point() {
    let felt = (84_400.0, json!({"kind": "occurred"}));
    let counted = then(repaired(), &[felt, counts(84_420.0, 36_000, [0, 0, 0, 250])]);
    let search = state(&counted);
    assert_eq!((search.next.step.as_str(), search.next.cylinder), ("swap", Some(4)));
    assert_eq!(search.next.sure_of, "it is cylinder 4", "the verdict from before the repair no longer speaks");
    let moves = [exchange("coil", 4, 1), exchange("plug", 4, 2)].concat();
    let moved = (84_420.0, json!({"kind": "moved", "moves": moves}));
    let again = then(counted, &[moved, cleared(84_420.0), counts(84_440.0, 36_000, [260, 0, 1, 0])]);
    assert_eq!(state(&again).next.title, "Fit a new coil at cylinder 1");
}

#[test]
fn a_swap_without_anything_counted_before_says_what_is_missing() {
    let blind = state(&[complaint(), swapped(84_190.0), cleared(84_190.0), counts(84_210.0, 36_000, [0, 240, 0, 0])]);
    let refused = blind.swaps[0].refused.as_ref().unwrap();
    assert_eq!(refused.field, "before");
    assert!(blind.swaps[0].result.is_none());
    assert_eq!(blind.next.step, "swap", "the counts stand, so the search begins with them");
}

#[test]
fn an_older_code_kept_as_history_is_no_evidence() {
    let history = json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": "P0303", "status": "history"}]});
    let state = state(&then(up_to_the_drive(), &[(84_204.0, history)]));
    assert_eq!(state.next.step, "drive");
}

#[test]
fn what_was_spent_is_added_up_over_all_parts() {
    let second = json!({"kind": "fitted", "part": "coil", "cylinder": 1, "cost": 61.0});
    let spent = state(&then(repaired(), &[(84_300.0, second)])).spent;
    assert_eq!((spent.parts_cost, spent.fitting_minutes), (75.5, 15.0));
}

#[test]
fn cautions_stand_ready_for_work_that_is_not_the_next_move() {
    let state = state(&[complaint()]);
    assert_eq!(state.cautions.keys().collect::<Vec<_>>(), ["cleared", "fitted", "moved"]);
    assert!(state.cautions["moved"].iter().any(|caution| caution.name == "ignition" && caution.acknowledge));
}
