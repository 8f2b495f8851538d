//! Where parts are, after any number of moves.

use ember_core::engine::{Engine, EngineDescription};
use ember_core::swap::{Move, PlaceName};
use ember_core::whereabouts::Whereabouts;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn engine(extra: Value) -> Engine {
    let mut description = json!({"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]});
    description.as_object_mut().unwrap().extend(extra.as_object().unwrap().clone());
    Engine::new(&serde_json::from_value::<EngineDescription>(description).unwrap()).unwrap()
}

fn exchange(part: &str, variant: Option<&str>, a: u8, b: u8) -> Vec<Move> {
    let one = |from: u8, to: u8| Move {
        part: part.into(),
        from: PlaceName::Cylinder(from),
        to: PlaceName::Cylinder(to),
        variant: variant.map(str::to_owned),
        to_variant: None,
    };
    vec![one(a, b), one(b, a)]
}

fn tags(parts: &Whereabouts, cylinder: u8) -> Vec<String> {
    parts.at(cylinder).into_iter().map(|part| part.tag).collect()
}

fn kinds(names: &[&str]) -> Vec<String> {
    names.iter().map(|&name| name.to_owned()).collect()
}

#[test]
fn a_ring_of_three_moves_all_at_once() {
    let mut parts = Whereabouts::new(&engine(json!({})), &kinds(&["plug"]));
    let one = |from, to| Move {
        part: "plug".into(),
        from: PlaceName::Cylinder(from),
        to: PlaceName::Cylinder(to),
        variant: None,
        to_variant: None,
    };
    parts.apply(&[one(1, 2), one(2, 3), one(3, 1)]);
    assert_eq!([tags(&parts, 1), tags(&parts, 2), tags(&parts, 3)], [["P3"], ["P1"], ["P2"]]);
    assert_eq!(parts.strayed().len(), 3);
}

#[test]
fn upper_and_lower_parts_have_tags_of_their_own() {
    let mut parts = Whereabouts::new(&engine(json!({"coils_per_cylinder": 2})), &kinds(&["coil"]));
    assert_eq!(tags(&parts, 2), ["C2l", "C2u"]);
    parts.apply(&exchange("coil", Some("upper"), 2, 4));
    assert_eq!(tags(&parts, 2), ["C2l", "C4u"]);
    parts.renew("coil", Some("lower"), 2);
    assert_eq!(tags(&parts, 2), ["C2l′", "C4u"]);
}

#[rstest]
#[case::once(1, "P2′")]
#[case::twice(2, "P2′′")]
fn every_renewal_adds_a_prime(#[case] times: usize, #[case] expected: &str) {
    let mut parts = Whereabouts::new(&engine(json!({})), &kinds(&["plug"]));
    (0..times).for_each(|_| parts.renew("plug", None, 2));
    assert_eq!(tags(&parts, 2), [expected]);
    assert!(parts.at(2)[0].new);
}

#[test]
fn a_part_renewed_away_from_home_is_at_home_where_it_was_fitted() {
    let mut parts = Whereabouts::new(&engine(json!({})), &kinds(&["plug"]));
    parts.apply(&exchange("plug", None, 3, 2));
    parts.renew("plug", None, 2);
    assert_eq!((tags(&parts, 2), tags(&parts, 3)), (vec!["P2′".to_owned()], vec!["P2".to_owned()]));
    let strayed: Vec<String> = parts.strayed().into_iter().map(|part| part.tag).collect();
    assert_eq!(strayed, ["P2"]);
}

#[test]
fn what_is_not_followed_moves_nothing() {
    let mut parts = Whereabouts::new(&engine(json!({})), &kinds(&["plug"]));
    let before = parts.clone();
    parts.apply(&exchange("relay", None, 1, 2));
    parts.renew("injector", None, 1);
    assert_eq!(parts, before);
}

proptest! {
    #[test]
    fn no_part_is_ever_lost_or_doubled(moves in proptest::collection::vec((0usize..2, 1u8..5, 1u8..5), 0..20)) {
        let names = ["coil", "plug"];
        let mut parts = Whereabouts::new(&engine(json!({})), &kinds(&names));
        for (kind, a, b) in moves {
            if a != b {
                parts.apply(&exchange(names[kind], None, a, b));
            }
        }
        for name in names {
            let mut homes: Vec<u8> = (1..=4).flat_map(|c| parts.at(c)).filter(|p| p.part == name).map(|p| p.home).collect();
            homes.sort_unstable();
            prop_assert_eq!(homes, [1, 2, 3, 4]);
        }
        for cylinder in 1..=4 {
            prop_assert_eq!(parts.at(cylinder).len(), 2);
        }
    }

    #[test]
    fn an_exchange_done_twice_is_undone(a in 1u8..5, b in 1u8..5) {
        prop_assume!(a != b);
        let mut parts = Whereabouts::new(&engine(json!({})), &kinds(&["plug"]));
        let before = parts.clone();
        parts.apply(&exchange("plug", None, a, b));
        prop_assert!(parts != before);
        parts.apply(&exchange("plug", None, b, a));
        prop_assert_eq!(parts, before);
    }
}
