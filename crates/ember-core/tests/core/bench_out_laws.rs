//! The bench-out list: whatever goes off and on in whatever order, nothing is forgotten and nothing counts twice.

use ember_core::bench_out::{OffHow, OffItem, OffKind, OnItem, bench_out, called, check_off, check_on};
use ember_core::trail::{Entry, Finding};
use proptest::prelude::*;
use rstest::rstest;

fn entry(number: u32, finding: Finding) -> Entry {
    Entry { number, at: "2026-11-02T06:00:00Z".into(), odometer_km: 1.0, author: "Ada".into(), replaces: None, finding }
}

fn item(what: &str, kind: OffKind, how: OffHow) -> OffItem {
    OffItem { what: what.into(), kind, how, ..OffItem::default() }
}

fn on(entry: u32, index: usize) -> OnItem {
    OnItem { entry, index, renewed: false, reason: String::new(), tightened: false, wrench: String::new() }
}

#[rstest]
#[case::a_part(OffKind::Part, OffHow::Removed, "put it back")]
#[case::a_connector(OffKind::Connector, OffHow::Removed, "plug it in until it clicks")]
#[case::a_seal(OffKind::Seal, OffHow::Removed, "fit a new one")]
#[case::loosened(OffKind::Fastener, OffHow::Loosened, "tighten it")]
#[case::pried(OffKind::Clip, OffHow::Pried, "press it home")]
#[case::drained(OffKind::Fluid, OffHow::Drained, "fill it up and bleed it")]
#[case::some_ran_out(OffKind::Hose, OffHow::Lost, "fill it up and bleed it")]
#[case::dropped(OffKind::Fastener, OffHow::Dropped, "find it")]
#[case::broken(OffKind::Clip, OffHow::Broken, "replace it")]
#[case::switched_off(OffKind::Connector, OffHow::Disabled, "switch it on again")]
fn what_a_thing_wants(#[case] kind: OffKind, #[case] how: OffHow, #[case] wants: &str) {
    let taken = entry(1, Finding::Off { items: vec![item("it", kind, how)] });
    assert_eq!(bench_out(&[&taken], &[]).off[0].wants, wants);
}

#[test]
fn several_are_called_by_their_number() {
    let bolts = |count| OffItem { count, ..item("bolts", OffKind::Fastener, OffHow::Removed) };
    assert_eq!(
        (called(&bolts(Some(8))), called(&bolts(Some(1))), called(&bolts(None))),
        ("8 × bolts".into(), "bolts".into(), "bolts".into())
    );
}

#[rstest]
#[case::no_name(OffItem::default(), "items[0].what")]
#[case::none_of_it(OffItem { count: Some(0), ..item("bolts", OffKind::Fastener, OffHow::Removed) }, "items[0].count")]
fn a_thing_that_cannot_be_is_refused(#[case] thing: OffItem, #[case] field: &str) {
    assert_eq!(check_off(&[thing]).unwrap_err().field, field);
}

#[test]
fn a_thing_is_not_put_back_twice_in_one_entry() {
    let taken = entry(1, Finding::Off { items: vec![item("hose", OffKind::Hose, OffHow::Removed)] });
    let refusal = check_on(&[taken], &[on(1, 0), on(1, 0)]).unwrap_err();
    assert_eq!(refusal.field, "items[1].entry");
}

#[test]
fn a_thing_that_is_back_may_come_off_again() {
    let hose = || Finding::Off { items: vec![item("hose", OffKind::Hose, OffHow::Removed)] };
    let trail = [entry(1, hose()), entry(2, Finding::On { items: vec![on(1, 0)] }), entry(3, hose())];
    let list = bench_out(&trail.iter().collect::<Vec<_>>(), &[]);
    assert_eq!((list.off.len(), list.back, list.off[0].entry), (1, 1, 3));
    assert!(list.says.starts_with("One thing is not back: hose: put it back"), "{}", list.says);
}

proptest! {
    #[test]
    fn what_is_off_is_what_came_off_less_what_went_back(steps in prop::collection::vec((0u8..2, 1usize..4, any::<prop::sample::Index>()), 1..30)) {
        let mut trail: Vec<Entry> = Vec::new();
        let mut off: Vec<(u32, usize)> = Vec::new();
        for (what, count, pick) in steps {
            let number = trail.len() as u32 + 1;
            if what == 0 || off.is_empty() {
                let items = (0..count).map(|n| item(&format!("thing {n}"), OffKind::Part, OffHow::Removed)).collect();
                trail.push(entry(number, Finding::Off { items }));
                off.extend((0..count).map(|index| (number, index)));
            } else {
                let (of, index) = off.remove(pick.index(off.len()));
                let items = vec![on(of, index)];
                prop_assert!(check_on(&trail, &items).is_ok());
                trail.push(entry(number, Finding::On { items: items.clone() }));
                // The same again is refused.
                prop_assert!(check_on(&trail, &items).is_err());
            }
        }
        let list = bench_out(&trail.iter().collect::<Vec<_>>(), &[]);
        let mut shown: Vec<(u32, usize)> = list.off.iter().map(|one| (one.entry, one.index)).collect();
        // The last off is offered first.
        prop_assert!(shown.windows(2).all(|pair| pair[0] > pair[1]));
        shown.reverse();
        let mut expected = off.clone();
        expected.sort_unstable();
        prop_assert_eq!(shown, expected);
        prop_assert_eq!(list.holds_start, !off.is_empty());
        prop_assert!(list.start_is_due);
    }
}
