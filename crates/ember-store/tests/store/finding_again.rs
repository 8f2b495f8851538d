//! The search over all jobs, and the cards that the yard is made of.

use ember_core::trail::NewEntry;
use ember_core::vehicle::Vehicle;
use ember_store::{Card, NewJob, SearchIn, Store, StoreError};
use jiff::Timestamp;
use rstest::{fixture, rstest};
use serde_json::{Value, json};

fn vehicle(fleet_no: &str, name: &str) -> Vehicle {
    serde_json::from_value(json!({"fleet_no": fleet_no, "name": name,
        "engine": {"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}}))
    .unwrap()
}

fn entry(finding: Value) -> NewEntry {
    NewEntry {
        odometer_km: 100.0,
        author: "Ines".into(),
        replaces: None,
        finding: serde_json::from_value(finding).unwrap(),
    }
}

fn append(store: &Store, job: i64, new: &NewEntry) {
    let seen = store.job(job).unwrap().2.len() as u32;
    store.append(job, new, seen, &format!("{job}/{seen}"), Timestamp::UNIX_EPOCH).unwrap();
}

/// Two jobs: a snowmobile with a tracking connector, and a runabout whose crank sensor failed.
#[fixture]
fn store() -> Store {
    let store = Store::in_memory().unwrap();
    for (vehicle, complaint) in
        [(vehicle("M-02", "Marl T3"), "misfires when wet"), (vehicle("W-03", "Brannock Pip"), "stalls when hot")]
    {
        let vehicle_id = store.add_vehicle(&vehicle).unwrap().id;
        let first = entry(json!({"kind": "complaint", "symptoms": [complaint]}));
        store.open_job(&NewJob { vehicle_id, first, request_key: vehicle.fleet_no }, Timestamp::UNIX_EPOCH).unwrap();
    }
    append(
        &store,
        1,
        &entry(json!({"kind": "scan", "tool": "reader", "units_read": ["engine"], "codes": [{"code": "P0302"}]})),
    );
    append(&store, 1, &entry(json!({"kind": "note", "text": "Zündstecker kriecht; ready \"as is\" OR not"})));
    append(
        &store,
        2,
        &entry(json!({"kind": "fitted", "part": "crank sensor", "part_number": "CS-9", "supplier": "Tarn Trade"})),
    );
    append(&store, 2, &entry(json!({"kind": "closed", "cause": "crank sensor fails when hot"})));
    store
}

#[rstest]
#[case::a_word("stalls", SearchIn::Everything, &[2])]
#[case::the_beginning_of_a_word("misf", SearchIn::Everything, &[1])]
#[case::all_words_count("misfires hot", SearchIn::Everything, &[])]
#[case::words_of_different_entries("misfires kriecht", SearchIn::Everything, &[1])]
#[case::a_code("p0302", SearchIn::Code, &[1])]
#[case::a_part_number("CS-9", SearchIn::Part, &[2])]
#[case::a_supplier("tarn", SearchIn::Part, &[2])]
#[case::a_fleet_number("W-03", SearchIn::Vehicle, &[2])]
#[case::pieces_of_a_number_stand_side_by_side("W-CS", SearchIn::Everything, &[])]
#[case::the_beginning_of_a_number("w-0", SearchIn::Everything, &[2])]
#[case::hyphens_alone_ask_nothing("- stalls --", SearchIn::Everything, &[2])]
#[case::a_cause("crank", SearchIn::Cause, &[2])]
#[case::not_in_that_place("crank", SearchIn::Vehicle, &[])]
#[case::accents_do_not_matter("zundstecker", SearchIn::Everything, &[1])]
#[case::operators_are_words_like_others("as is\" OR (", SearchIn::Everything, &[1])]
#[case::quotes_and_stars("\"*\" hot", SearchIn::Everything, &[2])]
fn jobs_are_found(store: Store, #[case] words: &str, #[case] within: SearchIn, #[case] jobs: &[i64]) {
    let found: Vec<i64> = store.search(words, within).unwrap().iter().map(|one| one.job).collect();
    assert_eq!(found, jobs);
}

#[rstest]
fn what_is_said_of_the_cause_comes_before_what_was_written_besides(store: Store) {
    // Job 2 has the crank sensor as its part and its cause, the newer one only in a note.
    let vehicle_id = store.add_vehicle(&vehicle("W-21", "Skarn Heft")).unwrap().id;
    let first = entry(json!({"kind": "complaint", "symptoms": ["cranks long"]}));
    let job =
        store.open_job(&NewJob { vehicle_id, first, request_key: "W-21".into() }, Timestamp::UNIX_EPOCH).unwrap().id;
    append(&store, job, &entry(json!({"kind": "note", "text": "The crank sensor was measured: good."})));
    let found: Vec<i64> =
        store.search("crank sensor", SearchIn::Everything).unwrap().iter().map(|one| one.job).collect();
    assert_eq!(found, [2, job]);
}

#[rstest]
fn no_more_than_fifty_are_given_each_once_the_newest_first(store: Store) {
    let vehicle_id = store.add_vehicle(&vehicle("W-12", "Skarn Heft")).unwrap().id;
    for number in 0..60 {
        let first = entry(json!({"kind": "complaint", "symptoms": ["rattles"]}));
        let new = NewJob { vehicle_id, first, request_key: format!("rattle {number}") };
        let job = store.open_job(&new, Timestamp::UNIX_EPOCH).unwrap().id;
        if number % 3 == 0 {
            append(&store, job, &entry(json!({"kind": "closed", "cause": "heat shield rattles"})));
        }
    }
    let found: Vec<i64> = store.search("rattles", SearchIn::Everything).unwrap().iter().map(|one| one.job).collect();
    assert_eq!(found.len(), ember_store::MOST_FOUND);
    let (caused, besides) = found.split_at(20);
    for part in [caused, besides] {
        assert!(part.windows(2).all(|pair| pair[0] > pair[1]), "{part:?}");
    }
    assert!(caused.iter().all(|job| !besides.contains(job)));
}

#[rstest]
#[case::nothing("")]
#[case::only_signs("\"-*")]
#[case::a_whole_page(&"word ".repeat(50))]
fn what_is_no_question_is_refused(store: Store, #[case] words: &str) {
    let StoreError::Refused(refusal) = store.search(words, SearchIn::Everything).unwrap_err() else { panic!() };
    assert_eq!(refusal.field, "words");
}

#[rstest]
fn what_was_withdrawn_is_not_found_any_more(store: Store) {
    let withdrawn = NewEntry { replaces: Some(3), ..entry(json!({"kind": "withdrawn", "why": "another car"})) };
    append(&store, 1, &withdrawn);
    assert!(store.search("kriecht", SearchIn::Everything).unwrap().is_empty());
}

#[rstest]
fn the_snippet_marks_what_was_found(store: Store) {
    let found = store.search("stalls", SearchIn::Everything).unwrap();
    assert!(found[0].snippet.contains("\u{2}stalls\u{3}"), "{:?}", found[0].snippet);
}

fn card(job: i64, entries: usize, closed: bool, fault: Option<&str>) -> Card {
    Card {
        job,
        entries,
        closed,
        fault: fault.map(str::to_owned),
        made_with: "now".into(),
        body: json!({"job": job}).to_string(),
    }
}

#[rstest]
fn a_card_goes_with_the_next_entry_and_an_old_one_is_not_kept(store: Store) {
    assert_eq!(store.jobs_without_card(9).unwrap(), [2, 1]);
    store.put_card(&card(1, 3, false, None)).unwrap();
    assert_eq!(store.jobs_without_card(9).unwrap(), [2]);
    append(&store, 1, &entry(json!({"kind": "note", "text": "more"})));
    assert_eq!(store.card(1).unwrap(), None);
    // Reckoned from the trail as it was before the note: it comes too late.
    store.put_card(&card(1, 3, false, None)).unwrap();
    assert_eq!(store.card(1).unwrap(), None);
}

#[rstest]
fn cards_are_counted_by_state_and_teach_what_was_proven(store: Store) {
    store.put_card(&card(1, 3, false, None)).unwrap();
    store.put_card(&card(2, 3, true, Some("crank-sensor-hot"))).unwrap();
    assert_eq!(store.card_counts().unwrap(), (1, 1));
    assert_eq!(store.cards(true, 0, 5).unwrap(), [json!({"job": 2}).to_string()]);
    assert_eq!(store.all_cards(Some(1)).unwrap().len(), 1);
    let proven = store.proven_jobs().unwrap();
    assert_eq!(
        (proven[0].job, proven[0].vehicle.as_str(), proven[0].fault.as_str()),
        (2, "Brannock Pip", "crank-sensor-hot")
    );
    assert!(store.jobs_with_stale_card("now", 9).unwrap().is_empty());
    assert_eq!(store.jobs_with_stale_card("other", 9).unwrap(), [1], "what is closed stays as it was");
}
