//! The way really gone: odometers that were replaced are carried on, also when one of their entries is corrected.

use ember_core::engine::Engine;
use ember_core::trail::{Entry, NewEntry, carried_on, check};
use ember_core::vehicle::Vehicle;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn engine() -> Engine {
    let vehicle: Vehicle = serde_json::from_value(json!({"fleet_no": "W-03", "name": "Brannock Pip",
        "engine": {"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}}))
    .unwrap();
    vehicle.checked().unwrap()
}

fn new(km: f64, replaces: Option<u32>, finding: Value) -> NewEntry {
    NewEntry { odometer_km: km, author: "Ada".into(), replaces, finding: serde_json::from_value(finding).unwrap() }
}

fn add(trail: &mut Vec<Entry>, new: NewEntry) -> Result<(), String> {
    check(&engine(), trail, &new).map_err(|refusal| refusal.to_string())?;
    let number = trail.len() as u32 + 1;
    let at = format!("2026-11-02T06:00:{number:02}Z");
    let NewEntry { odometer_km, author, replaces, finding } = new;
    trail.push(Entry { number, at, odometer_km, author, replaces, finding });
    Ok(())
}

fn drive() -> Value {
    json!({"kind": "drive"})
}

fn exchange(reads_km: f64) -> Value {
    json!({"kind": "odometer-replaced", "reads_km": reads_km})
}

/// A drive at 83 000, the odometer replaced at 83 640 by one that reads 12, a drive at 412.
fn trail() -> Vec<Entry> {
    let mut trail = Vec::new();
    for (km, finding) in [(83_000.0, drive()), (83_640.0, exchange(12.0)), (412.0, drive())] {
        add(&mut trail, new(km, None, finding)).unwrap();
    }
    trail
}

fn way(trail: &[Entry]) -> Vec<f64> {
    carried_on(trail).iter().map(|entry| entry.odometer_km).collect()
}

#[test]
fn the_way_goes_on_over_the_exchange() {
    assert_eq!(way(&trail()), [83_000.0, 83_640.0, 84_040.0]);
}

#[test]
fn what_was_noticed_after_the_exchange_is_carried_with_it() {
    let mut trail = trail();
    let complaint =
        json!({"kind": "complaint", "symptoms": ["stalls"], "observed_from_km": 100, "occurrences_km": [150, 400]});
    add(&mut trail, new(420.0, None, complaint)).unwrap();
    let carried = serde_json::to_value(&carried_on(&trail)[3].finding).unwrap();
    assert_eq!(
        (&carried["observed_from_km"], &carried["occurrences_km"]),
        (&json!(83_728.0), &json!([83_778.0, 84_028.0]))
    );
}

#[test]
fn a_second_exchange_adds_to_the_first() {
    let mut trail = trail();
    add(&mut trail, new(500.0, None, exchange(90_000.0))).unwrap();
    add(&mut trail, new(90_010.0, None, drive())).unwrap();
    assert_eq!(way(&trail)[3..], [84_128.0, 84_138.0]);
}

#[rstest]
#[case::what_the_new_one_reads(83_640.0, exchange(10.0), Ok(84_042.0))]
#[case::where_it_was_replaced(83_650.0, exchange(12.0), Ok(84_050.0))]
#[case::below_what_went_before(82_000.0, exchange(12.0), Err("runs backwards"))]
#[case::the_new_one_beyond_the_next_reading(83_640.0, exchange(500.0), Err("lies behind entry 3"))]
#[case::withdrawn_although_others_rest_on_it(83_640.0, json!({"kind": "withdrawn", "why": "a slip"}), Err("lies behind entry 3"))]
fn an_exchange_is_corrected(#[case] km: f64, #[case] finding: Value, #[case] last: Result<f64, &str>) {
    let mut trail = trail();
    match (add(&mut trail, new(km, Some(2), finding)), last) {
        // The correction stands in the place of what it corrects, but at the end of the trail.
        (Ok(()), Ok(last)) => assert_eq!(way(&trail)[2], last),
        (Err(refused), Err(part)) => assert!(refused.contains(part), "{refused}"),
        (had, wanted) => panic!("{had:?}, and not {wanted:?}"),
    }
}

#[test]
fn an_exchange_that_never_was_is_withdrawn() {
    let mut trail = Vec::new();
    for (km, finding) in [(100.0, drive()), (200.0, exchange(200.0)), (300.0, drive())] {
        add(&mut trail, new(km, None, finding)).unwrap();
    }
    add(&mut trail, new(200.0, Some(2), json!({"kind": "withdrawn", "why": "another car"}))).unwrap();
    assert_eq!(way(&trail)[..3], [100.0, 200.0, 300.0]);
}

proptest! {
    /// However the legs are cut by exchanges, the way gone is the sum of the legs.
    #[test]
    fn the_way_is_the_sum_of_the_legs(legs in prop::collection::vec((0u32..5000, prop::option::of(0u32..200_000)), 1..12)) {
        let mut trail = Vec::new();
        let (mut reads, mut gone) = (1000.0, 0.0);
        for (leg, replaced) in legs {
            reads += f64::from(leg);
            gone += f64::from(leg);
            add(&mut trail, new(reads, None, drive())).unwrap();
            prop_assert_eq!(*way(&trail).last().unwrap(), 1000.0 + gone);
            if let Some(by) = replaced {
                add(&mut trail, new(reads, None, exchange(f64::from(by)))).unwrap();
                reads = f64::from(by);
            }
        }
        prop_assert!(way(&trail).is_sorted());
    }
}
