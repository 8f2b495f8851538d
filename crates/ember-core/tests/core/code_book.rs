//! The code book, line by line: what each family's codes say in our words.

use ember_core::codes::{Code, CodeOrigin, read_codes};
use ember_core::knowledge::Knowledge;
use rstest::rstest;

#[rstest]
#[case("P0011", "variable-timing", "Intake cam runs too early, bank 1")]
#[case("P0016", "crank-cam", "Crank and intake cam do not agree, bank 1")]
#[case("P0025", "variable-timing", "Exhaust cam runs too late, bank 2")]
#[case("P0030", "oxygen-sensor", "Oxygen sensor heater, bank 1 sensor 1, circuit")]
#[case("P0034", "boost", "Charge bypass valve, signal low")]
#[case("P0046", "boost", "Boost control actuator, implausible")]
#[case("P0068", "manifold-pressure", "Manifold pressure or air flow does not agree with the throttle")]
#[case("P0073", "temperature", "Outside air temperature, signal high")]
#[case("P0087", "fuel-pressure", "Rail pressure too low")]
#[case("P0088", "fuel-pressure", "Rail pressure too high")]
#[case("P0101", "air-meter", "Air-flow meter, implausible")]
#[case("P0104", "air-meter", "Air-flow meter, comes and goes")]
#[case("P0106", "manifold-pressure", "Manifold pressure sensor, implausible")]
#[case("P0113", "temperature", "Intake air temperature, signal high")]
#[case("P0118", "temperature", "Coolant temperature, signal high")]
#[case("P0122", "throttle", "Throttle or pedal position, track A, signal low")]
#[case("P0128", "temperature", "Coolant stays below the thermostat's temperature")]
#[case("P0133", "oxygen-sensor", "Oxygen sensor 1, slow to answer, bank 1")]
#[case("P0141", "oxygen-sensor", "Oxygen sensor 2, heater, bank 1")]
#[case("P0154", "oxygen-sensor", "Oxygen sensor 1, no signal, bank 2")]
#[case("P0171", "fuel-trim", "Fuel trim, too lean, bank 1")]
#[case("P0172", "fuel-trim", "Fuel trim, too rich, bank 1")]
#[case("P0174", "fuel-trim", "Fuel trim, too lean, bank 2")]
#[case("P0183", "temperature", "Fuel temperature, sensor A, signal high")]
#[case("P0191", "fuel-pressure", "Rail pressure sensor, implausible")]
#[case("P0197", "temperature", "Engine oil temperature, signal low")]
#[case("P0201", "injector-circuit", "Injector of cylinder 1, open")]
#[case("P0212", "injector-circuit", "Injector of cylinder 12, open")]
#[case("P0217", "temperature", "Engine too hot")]
#[case("P0221", "throttle", "Throttle or pedal position, track B, implausible")]
#[case("P0230", "fuel-pressure", "Fuel pump relay, control side")]
#[case("P0234", "boost", "Boost above its request")]
#[case("P0238", "boost", "Boost pressure sensor A, signal high")]
#[case("P0245", "boost", "Wastegate solenoid A, signal low")]
#[case("P0251", "fuel-pressure", "Injection pump metering A, circuit")]
#[case("P0262", "injector-circuit", "Injector of cylinder 1, signal high")]
#[case("P0263", "cylinder-balance", "Injector of cylinder 1, contributes unevenly")]
#[case("P0276", "injector-circuit", "Injector of cylinder 6, signal low")]
#[case("P0299", "boost", "Boost below its request")]
#[case("P0300", "misfire", "Misfire on several cylinders or at random")]
#[case("P0301", "misfire", "Misfire on cylinder 1")]
#[case("P0313", "misfire", "Misfire with little fuel in the tank")]
#[case("P0316", "misfire", "Misfire within the first revolutions after the start")]
#[case("P0322", "crank-cam", "Engine-speed input from the ignition, no signal")]
#[case("P0327", "knock", "Knock sensor 1, signal low")]
#[case("P0336", "crank-cam", "Crank sensor A, implausible")]
#[case("P0341", "crank-cam", "Cam sensor A, implausible, bank 1")]
#[case("P0346", "crank-cam", "Cam sensor A, implausible, bank 2")]
#[case("P0351", "coil-circuit", "Ignition coil A, circuit")]
#[case("P0362", "coil-circuit", "Ignition coil L, circuit")]
#[case("P0380", "glow-plug", "Glow circuit A")]
#[case("P0401", "exhaust-return", "Too little exhaust returned")]
#[case("P0411", "secondary-air", "Secondary air, wrong flow")]
#[case("P0420", "catalyst", "Converter stores too little oxygen, bank 1")]
#[case("P0442", "vapour", "Small vapour leak")]
#[case("P0455", "vapour", "Large vapour leak")]
#[case("P0500", "speed-idle", "Vehicle speed signal, circuit")]
#[case("P0507", "speed-idle", "Idle higher than asked")]
#[case("P0524", "oil-pressure", "Oil pressure too low")]
#[case("P0560", "supply", "System voltage")]
#[case("P0601", "module", "Control unit's program does not add up")]
#[case("P0616", "immobiliser-start", "Starter relay, signal low")]
#[case("P0627", "fuel-pressure", "Fuel pump control, open")]
#[case("P0638", "throttle", "Throttle motor does not reach its target, bank 1")]
#[case("P0642", "supply", "Sensor reference voltage A, signal low")]
#[case("P0670", "glow-plug", "Glow control unit, control side")]
#[case("P0671", "glow-plug", "Glow plug of cylinder 1, circuit")]
#[case("P0682", "glow-plug", "Glow plug of cylinder 12, circuit")]
#[case("P0685", "supply", "Main relay control, open")]
#[case("P0700", "transmission", "A generic code of: transmission")]
#[case("P0A80", "hybrid", "A generic code of: hybrid drive")]
#[case("P2135", "throttle", "Throttle or pedal tracks A and B do not agree")]
#[case("P2187", "fuel-trim", "Mixture at idle, too lean, bank 1")]
#[case("P2302", "coil-circuit", "Ignition coil A, secondary side")]
#[case("P1300", "other", "The maker's own code (powertrain)")]
#[case("U0100", "other", "A generic code of the network")]
#[case("B0001", "other", "A generic code of the body")]
fn a_code_says(#[case] code: &str, #[case] family: &str, #[case] text: &str) {
    let meaning = Knowledge::built_in().codes.meaning(Code::parse(code).unwrap());
    assert_eq!((meaning.family.as_str(), meaning.text.as_str()), (family, text));
}

#[rstest]
#[case("P0123", CodeOrigin::Generic)]
#[case("P1123", CodeOrigin::Makers)]
#[case("P2123", CodeOrigin::Generic)]
#[case("P3123", CodeOrigin::Makers)]
#[case("P3423", CodeOrigin::Generic)]
#[case("C1123", CodeOrigin::Makers)]
#[case("B2123", CodeOrigin::Makers)]
#[case("U3123", CodeOrigin::Generic)]
fn a_code_is_the_standards_or_the_makers(#[case] code: &str, #[case] origin: CodeOrigin) {
    assert_eq!(Code::parse(code).unwrap().origin(), origin);
}

#[rstest]
#[case::spaces(" p 0 3 0 2 ", "P0302")]
#[case::letter_o("POO16", "P0016")]
#[case::hexadecimal("p0a0f", "P0A0F")]
fn a_code_is_read_as_it_is_written(#[case] text: &str, #[case] code: &str) {
    assert_eq!(Code::parse(text).unwrap().to_string(), code);
}

#[rstest]
#[case::one_a_line("P0301\nP0302\r\nP0303", &["P0301", "P0302", "P0303"])]
#[case::slashes("P0301/P0302|P0303", &["P0301", "P0302", "P0303"])]
#[case::with_failure_type("P0301-00 P0302-08", &["P0301", "P0302"])]
#[case::twice("P0301, p0301", &["P0301"])]
#[case::in_a_sentence("It showed P0301 and then U0101 on the way home at 2500 rpm", &["P0301", "U0101"])]
#[case::nothing("no codes", &[])]
fn codes_are_found_in(#[case] text: &str, #[case] codes: &[&str]) {
    let read = read_codes(text, &Knowledge::built_in().codes);
    assert_eq!(read.codes.iter().map(|c| c.code.as_str()).collect::<Vec<_>>(), codes);
    assert!(read.not_understood.is_empty(), "{:?}", read.not_understood);
}
