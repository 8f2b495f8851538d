//! Which faults, tests and places belong to which vehicle, and which code is which finding.

use crate::suspects::cases;
use ember_core::knowledge::Knowledge;
use ember_core::suspects::target::Target;
use ember_core::suspects::{Depth, SuspectsInput, SuspectsResult, suspects_to};
use rstest::rstest;
use serde_json::{Value, json};

fn thought(vehicle: &str, more: Value) -> SuspectsResult {
    let mut input = json!({"vehicle": {"engine": cases::vehicles()[vehicle]}, "complaint": ["power-loss"]});
    for (key, value) in more.as_object().unwrap() {
        input[key] = value.clone();
    }
    let input: SuspectsInput = serde_json::from_value(input).unwrap();
    suspects_to(&input, Knowledge::built_in(), Depth::Suspects).unwrap_or_else(|refusal| panic!("{vehicle}: {refusal}"))
}

fn targets(result: &SuspectsResult, fault: &str) -> Vec<String> {
    let mut list: Vec<String> =
        result.suspects.iter().filter(|s| s.fault == fault).map(|s| s.target.to_string()).collect();
    list.sort();
    list
}

#[rstest]
#[case::coil_for_each_cylinder("i4-port", "coil-breaks-down", &["cylinder 1", "cylinder 2", "cylinder 3", "cylinder 4"])]
#[case::coil_for_two("i4-paired", "coil-pair-dead", &["cylinders 1 and 4", "cylinders 2 and 3"])]
#[case::no_dead_coil_beside_the_dead_pair("i4-paired", "coil-dead", &[])]
#[case::one_coil_for_all("i4-points", "coil-single-weak", &["engine"])]
#[case::no_coil_on_a_diesel("i4-diesel", "coil-breaks-down", &[])]
#[case::a_gasket_on_each_bank("v6-port", "intake-gasket", &["bank 1", "bank 2"])]
#[case::walls_between_neighbours_of_a_bank("v6-port", "head-gasket-between", &["cylinders 1 and 3", "cylinders 2 and 4", "cylinders 3 and 5", "cylinders 4 and 6"])]
#[case::glow_plugs_on_diesels_only("i3-turbo", "glow-plug-dead", &[])]
#[case::glow_plugs("i6-unitpump", "glow-plug-dead", &["cylinder 1", "cylinder 2", "cylinder 3", "cylinder 4", "cylinder 5", "cylinder 6"])]
#[case::vanes_where_the_turbo_has_them("i4-diesel", "vanes-stick", &["engine"])]
#[case::no_vanes_on_a_plain_turbo("i6-diesel", "vanes-stick", &[])]
#[case::a_bypass_on_a_blower("v8-blown", "supercharger-bypass", &["engine"])]
#[case::points_where_there_is_a_distributor("i4-points", "points-burnt", &["engine"])]
#[case::no_points_on_an_engine_with_coils("v8-port", "points-burnt", &[])]
#[case::stop_solenoid_of_a_unit_pump("i6-unitpump", "stop-solenoid-shut", &["engine"])]
#[case::air_meter_only_where_there_is_one("i3-snow", "air-meter-dirty", &[])]
#[case::a_code_belongs_to_the_unit("v6-port", "codes-stale", &["engine unit"])]
#[case::no_codes_without_a_control_unit("i4-points", "codes-stale", &[])]
fn a_fault_is_suspected_where_it_can_sit(#[case] vehicle: &str, #[case] fault: &str, #[case] at: &[&str]) {
    assert_eq!(targets(&thought(vehicle, json!({})), fault), at);
}

#[rstest]
#[case::has("v6-port", "has", "variable-timing", "timing-unit-worn", true)]
#[case::lacks("v6-port", "lacks", "variable-timing", "timing-unit-worn", false)]
#[case::lacks_points("i4-points", "lacks", "points", "condenser-fails", false)]
#[case::lacks_a_pump("i6-diesel", "lacks", "electric-pump", "pump-worn", false)]
fn what_a_vehicle_is_known_to_have_or_lack_settles_its_faults(
    #[case] vehicle: &str,
    #[case] field: &str,
    #[case] equipment: &str,
    #[case] fault: &str,
    #[case] there: bool,
) {
    let open = thought(vehicle, json!({}));
    let mut car = json!({"engine": cases::vehicles()[vehicle]});
    car[field] = json!([equipment]);
    let told = thought(vehicle, json!({"vehicle": car}));
    let before = |result: &SuspectsResult| result.suspects.iter().find(|s| s.fault == fault).map(|s| s.before);
    assert!(before(&open).is_some(), "as long as nobody knows it may have it");
    assert_eq!(before(&told).is_some(), there);
    if there {
        assert!(before(&told) > before(&open), "known to be there it weighs more than perhaps there");
    }
}

#[rstest]
#[case("engine", Target::Engine)]
#[case("", Target::Engine)]
#[case("bank 2", Target::Bank(2))]
#[case("Cylinder 11", Target::Cylinder(11))]
#[case("cyl 3", Target::Cylinder(3))]
#[case("7", Target::Cylinder(7))]
#[case("coil 4+1", Target::Cylinders(1, 4))]
#[case("cylinders 2 and 3", Target::Cylinders(2, 3))]
#[case("engine unit", Target::Unit)]
fn a_target_is_read_as_people_write_it(#[case] text: &str, #[case] target: Target) {
    assert_eq!(Target::parse(text), Ok(target.clone()));
    assert_eq!(Target::parse(&target.to_string()), Ok(target), "and comes back from its own words");
}

#[rstest]
#[case("moon")]
#[case("cylinders 2 and 2")]
#[case("bank")]
fn what_is_no_target_is_refused_with_an_example(#[case] text: &str) {
    assert!(Target::parse(text).unwrap_err().contains("cylinder 3"));
}

#[rstest]
#[case::random("P0300", "code-random", "engine")]
#[case::first_cylinder("P0301", "code-misfire", "cylinder 1")]
#[case::sixth_cylinder("P0306", "code-misfire", "cylinder 6")]
#[case::tenth_cylinder_in_hexadecimal("P0310", "code-misfire", "cylinder 10")]
#[case::twelfth_cylinder("P0312", "code-misfire", "cylinder 12")]
#[case::injector("P0204", "code-injector", "cylinder 4")]
#[case::coil("P0353", "code-coil", "cylinder 3")]
#[case::lean_on_bank_2("P0174", "code-lean", "bank 2")]
#[case::rich_on_bank_1("P0172", "code-rich", "bank 1")]
#[case::crank("P0335", "code-crank", "engine")]
#[case::correlation("P0016", "code-correlation", "engine")]
#[case::charge_pressure_low("P0299", "code-boost-low", "engine")]
#[case::rail("P0087", "code-rail-low", "engine")]
#[case::glow("P0670", "code-glow", "engine")]
#[case::lost_communication("U0140", "code-communication", "engine")]
fn a_code_is_the_finding_that_it_stands_for(#[case] code: &str, #[case] test: &str, #[case] at: &str) {
    let knowledge = Knowledge::built_in();
    let engine = ember_core::engine::Engine::new(&cases::vehicles()["v12-port"]).unwrap();
    let found = knowledge.code_tests.tests_of(code, &engine);
    assert_eq!(found.iter().map(|(t, a)| (*t, a.to_string())).collect::<Vec<_>>(), [(test, at.to_owned())]);
}

#[rstest]
#[case::cylinder_that_the_engine_lacks("P0307", "i4-port")]
#[case::bank_that_the_engine_lacks("P0174", "i4-port")]
#[case::code_of_no_range("P0999", "i4-port")]
#[case::another_unit("B1342", "i4-port")]
fn a_code_that_says_nothing_of_this_engine_is_no_finding(#[case] code: &str, #[case] vehicle: &str) {
    let engine = ember_core::engine::Engine::new(&cases::vehicles()[vehicle]).unwrap();
    assert!(Knowledge::built_in().code_tests.tests_of(code, &engine).is_empty());
}

#[test]
fn every_vehicle_of_the_cases_has_suspects_whose_weights_sum_to_one() {
    for name in cases::vehicles().keys() {
        let result = thought(name, json!({}));
        let sum: f64 = result.suspects.iter().filter(|s| s.fault != "not-in-the-book").map(|s| s.before).sum();
        assert!((sum - 1.0).abs() < 1e-9, "{name}: {sum}");
        assert!(result.suspects.len() > 30, "{name}: {}", result.suspects.len());
    }
}
