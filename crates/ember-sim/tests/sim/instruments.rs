//! The simulated instruments: each answers what its car is made to have, with noise, leads and its fault.

use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::waveform::{Signal, WaveformAsk, WaveformKind, waveform};
use ember_sim::SimError;
use ember_sim::instruments::{Instruments, LEADS_OHM, SimAnswer, SimProbe, SimQuestion, capture};
use rstest::rstest;

const FLEET: [&str; 7] = ["H-01", "M-02", "W-03", "W-07", "W-12", "W-15", "W-21"];

fn ask(fleet_no: &str, seed: u64, question: &SimQuestion) -> SimAnswer {
    Instruments::at(fleet_no, seed).unwrap().ask(question).unwrap_or_else(|error| panic!("{error}"))
}

fn resistance(part: &str, cylinder: u8) -> SimQuestion {
    SimQuestion::Resistance { part: part.into(), cylinder: Some(cylinder) }
}

#[rstest]
fn every_car_of_the_depot_has_a_battery_and_compression(#[values(0, 1, 2, 3, 4, 5, 6)] at: usize) {
    let battery = ask(FLEET[at], 1, &SimQuestion::Battery);
    let [rest, running] = battery.values[..] else { panic!("two voltages") };
    assert!(running > rest + 1.0 && rest > 12.0, "{rest} and {running}");
    let compression = ask(FLEET[at], 1, &SimQuestion::Compression);
    assert!(compression.values.iter().all(|kpa| *kpa > 900.0) && compression.values.len() >= 3);
}

#[test]
fn a_display_holds_the_leads_and_the_heat_of_the_winding() {
    // 0.74 ohm at 20 °C, at 24 °C, through leads of 0.21.
    let answer = ask("M-02", 3, &resistance("coil-primary", 1));
    let truth = 0.74 * (1.0 + 0.00393 * 4.0) + LEADS_OHM;
    assert_eq!(answer.display.len(), 3);
    assert!(answer.display.iter().all(|shown| (shown - truth).abs() < 0.011), "{:?} for {truth}", answer.display);
    assert_eq!(answer.part_c, Some(24.0));
    let accuracy = answer.accuracy.unwrap();
    assert!(answer.display.iter().all(|shown| (shown - truth).abs() < accuracy.uncertainty(*shown, 1.0)));
}

#[test]
fn the_odd_lead_of_the_heritage_tractor_is_the_third() {
    let shown: Vec<f64> = (1..=4)
        .map(|cylinder| {
            let answer = ask("H-01", 5, &resistance("plug-lead", cylinder));
            answer.display[0] * answer.range_multiplier
        })
        .collect();
    assert!(shown[2] > 2.0 * shown[0] && shown[2] > 2.0 * shown[1] && shown[2] > 2.0 * shown[3], "{shown:?}");
}

#[test]
fn no_two_readings_are_quite_alike_and_one_seed_gives_one_reading() {
    let of = |seed| ask("W-15", seed, &SimQuestion::Hold).hold.iter().map(|one| one.kpa).collect::<Vec<_>>();
    assert_eq!(of(1), of(1));
    assert_ne!(of(1), of(2));
    assert!(of(1).first() > of(1).last(), "a diaphragm loses a little");
}

#[test]
fn a_turn_of_the_rod_moves_both_ends() {
    let at = |turns| ask("W-15", 1, &SimQuestion::Rod { turns });
    let (found, turned) = (at(0.0), at(2.0));
    assert!(turned.rest_v.unwrap() > found.rest_v.unwrap() + 0.15);
    assert!(turned.full_v.unwrap() > found.full_v.unwrap() + 0.15);
}

#[test]
fn the_crank_sensors_feed_is_lost_at_its_plug() {
    let path = ask("W-03", 1, &SimQuestion::Path { circuit: "crank-sensor".into() }).values;
    assert!(path[..4].iter().all(|volt| *volt > 12.2) && path[4] < 9.5, "{path:?}");
    assert!(path[5..].iter().all(|volt| *volt < 0.2), "behind the sensor lies its ground: {path:?}");
    let pins = ask("W-03", 1, &SimQuestion::Pins { connector: "crank sensor plug".into() }).pins;
    assert_eq!(pins.iter().map(|one| one.pin).collect::<Vec<_>>(), [1, 2, 3]);
}

#[rstest]
#[case::no_such_part("W-07", resistance("glow-plug", 1))]
#[case::no_such_cylinder("M-02", resistance("coil-primary", 4))]
#[case::no_actuator("W-07", SimQuestion::Hold)]
#[case::no_rod("W-07", SimQuestion::Rod { turns: 0.0 })]
#[case::no_circuit("W-07", SimQuestion::Path { circuit: "crank-sensor".into() })]
#[case::no_connector("W-07", SimQuestion::Pins { connector: "throttle".into() })]
fn what_a_car_does_not_have_cannot_be_measured(#[case] fleet_no: &str, #[case] question: SimQuestion) {
    let error = Instruments::at(fleet_no, 1).unwrap().ask(&question).unwrap_err();
    assert!(matches!(error, SimError::DoesNotFit(_)), "{error}");
}

fn engine() -> Engine {
    let description: EngineDescription =
        serde_json::from_value(serde_json::json!({"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}))
            .unwrap();
    Engine::new(&description).unwrap()
}

#[rstest]
#[case::coil(SimProbe::CoilCurrent, WaveformKind::CoilCurrent, Some("sync"), None)]
#[case::ignition(SimProbe::IgnitionVoltage, WaveformKind::IgnitionVoltage, None, None)]
#[case::injector(SimProbe::Injector, WaveformKind::InjectorCurrent, None, None)]
#[case::motor(SimProbe::MotorDrive, WaveformKind::MotorDrive, None, Some("position"))]
#[case::cranking(SimProbe::Cranking, WaveformKind::CrankingCurrent, Some("sync"), None)]
#[case::crank_and_cam(SimProbe::CrankAndCam, WaveformKind::CrankAndCam, None, Some("cam"))]
fn every_probe_gives_a_capture_that_can_be_read(
    #[case] probe: SimProbe,
    #[case] of: WaveformKind,
    #[case] sync: Option<&str>,
    #[case] second: Option<&str>,
) {
    let capture = capture("M-02", &engine(), probe, 9).unwrap();
    let asked = WaveformAsk {
        of,
        signals: vec![Signal { channel: capture.channels[0].name.clone(), cylinder: None }],
        sync: sync.map(str::to_owned),
        sync_cylinder: None,
        second: second.map(str::to_owned),
        supply_v: None,
        reference_deg: Vec::new(),
    };
    let result = waveform(&capture, &asked, &engine(), &Knowledge::built_in().bench).unwrap();
    assert!(!result.figures.is_empty() && result.odd.is_empty(), "{}", result.says);
}

#[test]
fn a_car_that_is_not_simulated_is_named() {
    assert!(matches!(Instruments::at("X-99", 1), Err(SimError::UnknownVehicle(name)) if name == "X-99"));
    assert!(capture("X-99", &engine(), SimProbe::Injector, 1).is_err());
}
