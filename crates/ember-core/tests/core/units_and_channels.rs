//! Units of measured values, the channels' names, and the parameters' scales.

use ember_core::frames::{Read, decode, self_tests_of};
use ember_core::knowledge::Knowledge;
use ember_core::unit::{conversion, is_unit};
use proptest::prelude::*;
use rstest::rstest;

#[rstest]
#[case::freezing("°F", "°C", 32.0, 0.0)]
#[case::boiling("degF", "°C", 212.0, 100.0)]
#[case::cold("F", "C", -40.0, -40.0)]
#[case::kelvin("K", "°C", 273.15, 0.0)]
#[case::town("mph", "km/h", 30.0, 48.28032)]
#[case::metres("m/s", "km/h", 10.0, 36.0)]
#[case::one_bar("bar", "kPa", 1.0, 100.0)]
#[case::millibar("mbar", "kPa", 1013.25, 101.325)]
#[case::hectopascal("hPa", "kPa", 980.0, 98.0)]
#[case::pascal("Pa", "kPa", 101325.0, 101.325)]
#[case::pounds("psi", "kPa", 14.695949, 101.325)]
#[case::pounds_absolute("psia", "kPa", 14.695949, 101.325)]
#[case::pounds_above_ambient("psig", "kPa", 0.0, 98.0)]
#[case::bar_above_ambient("bar gauge", "kPa", 1.0, 198.0)]
#[case::kilopascal_relative("kPa rel", "kPa", 20.0, 118.0)]
#[case::kilopascal_absolute("kPa abs", "kPa", 120.0, 120.0)]
#[case::megapascal("MPa", "kPa", 135.0, 135_000.0)]
#[case::inches("inHg", "kPa", 29.921, 101.3241)]
#[case::millimetres("mmHg", "kPa", 430.0, 57.3286)]
#[case::kilograms("kg/h", "g/s", 36.0, 10.0)]
#[case::pounds_a_minute("lb/min", "g/s", 1.0, 7.559873)]
#[case::turns_a_second("1/s", "rpm", 10.0, 600.0)]
#[case::millivolt("mV", "V", 450.0, 0.45)]
#[case::miles("miles", "km", 100.0, 160.9344)]
#[case::minutes("min", "s", 2.0, 120.0)]
#[case::written_with_points("k.p.a", "kPa", 5.0, 5.0)]
#[case::bracketed("[°C]", "°C", 5.0, 5.0)]
fn a_unit_is_changed(#[case] from: &str, #[case] to: &str, #[case] value: f64, #[case] expected: f64) {
    let changed = conversion(from, to, 98.0).unwrap().of(value);
    assert!((changed - expected).abs() < 1e-3, "{value} {from} came out as {changed} {to}");
}

#[rstest]
#[case::unknown("furlong", "km", "furlong is not known")]
#[case::unknown_aim("km", "furlong", "furlong is not known")]
#[case::another_kind("mph", "kPa", "mph is a unit of speed, and kPa one of pressure")]
#[case::heat_is_no_pressure("°F", "kPa", "temperature")]
fn a_unit_that_does_not_fit_is_refused_in_words(#[case] from: &str, #[case] to: &str, #[case] says: &str) {
    let refused = conversion(from, to, 98.0).unwrap_err();
    assert!(refused.contains(says), "{refused}");
}

#[rstest]
#[case("rpm", true)]
#[case("1/min", true)]
#[case("lb/min", true)]
#[case("psig", true)]
#[case("bank", false)]
#[case("engine", false)]
#[case("", false)]
fn a_unit_is_known_as_one(#[case] text: &str, #[case] known: bool) {
    assert_eq!(is_unit(text), known);
}

proptest! {
    #[test]
    fn there_and_back_is_the_same(value in -1000.0..1000.0f64, pair in prop::sample::select(vec![
        ("°F", "°C"), ("mph", "km/h"), ("psi", "kPa"), ("inHg", "bar"), ("lb/min", "kg/h"), ("K", "°F"), ("mV", "V"),
    ])) {
        let there = conversion(pair.0, pair.1, 98.0).unwrap().of(value);
        let back = conversion(pair.1, pair.0, 98.0).unwrap().of(there);
        prop_assert!((back - value).abs() < 1e-9 * value.abs().max(1.0), "{value} came back as {back}");
    }
}

#[rstest]
#[case("RPM", "engine_speed")]
#[case("Engine speed", "engine_speed")]
#[case("engine_speed", "engine_speed")]
#[case("Vehicle speed", "vehicle_speed")]
#[case("VSS", "vehicle_speed")]
#[case("Calculated load", "load")]
#[case("MAF", "airflow")]
#[case("Mass air flow rate", "airflow")]
#[case("Intake manifold pressure", "manifold_pressure")]
#[case("Baro", "ambient_pressure")]
#[case("Boost target", "requested_boost")]
#[case("desired boost", "requested_boost")]
#[case("Boost pressure", "actual_boost")]
#[case("VGT command", "vane_request")]
#[case("Vane position", "vane_position")]
#[case("Throttle", "throttle")]
#[case("STFT 2", "short_trim_2")]
#[case("Short term fuel trim 1", "short_trim_1")]
#[case("LTFT2", "long_trim_2")]
#[case("closed loop", "closed_loop")]
#[case("ECT", "coolant")]
#[case("Coolant temperature", "coolant")]
#[case("IAT", "intake_air")]
#[case("Outside temp", "ambient_air")]
#[case("Oil temp", "oil")]
#[case("Ignition timing", "timing_advance")]
#[case("Rail pressure target", "rail_request")]
#[case("Fuel rail pressure", "rail_pressure")]
#[case("Module voltage", "battery")]
#[case("lambda 2", "lambda_2")]
#[case("EGT12", "exhaust_temperature_12")]
#[case("misfire_07", "misfires_7")]
#[case("Misfires cylinder 10", "misfires_10")]
#[case("Odometer", "odometer")]
fn a_heading_is_known_by_its_words(#[case] heading: &str, #[case] channel: &str) {
    assert_eq!(Knowledge::built_in().channels.guess(heading).map(|c| c.name.as_str()), Some(channel));
}

#[rstest]
#[case("wibble")]
#[case("")]
#[case("misfires cyl 13")]
#[case("STFT3")]
#[case("notes of the driver")]
fn a_heading_that_means_nothing_here_is_not_guessed(#[case] heading: &str) {
    assert_eq!(Knowledge::built_in().channels.guess(heading), None);
}

#[test]
fn every_channel_is_known_by_its_own_name_and_label() {
    let book = &Knowledge::built_in().channels;
    for channel in book.all() {
        for spelling in [&channel.name, &channel.label] {
            let guessed = book.guess(spelling).map(|c| c.name.as_str());
            assert_eq!(guessed, Some(channel.name.as_str()), "{spelling}");
        }
        assert!(channel.low < channel.high && !channel.label.is_empty());
    }
}

#[rstest]
#[case::least(0x04, &[0x00], "load", 0.0)]
#[case::most(0x04, &[0xFF], "load", 100.0)]
#[case::coldest(0x05, &[0x00], "coolant", -40.0)]
#[case::hottest(0x05, &[0xFF], "coolant", 215.0)]
#[case::no_trim(0x06, &[0x80], "short_trim_1", 0.0)]
#[case::leanest(0x06, &[0xFF], "short_trim_1", 99.21875)]
#[case::richest(0x07, &[0x00], "long_trim_1", -100.0)]
#[case::bank_2(0x08, &[0x90], "short_trim_2", 12.5)]
#[case::long_bank_2(0x09, &[0x70], "long_trim_2", -12.5)]
#[case::manifold(0x0B, &[0x23], "manifold_pressure", 35.0)]
#[case::speed(0x0C, &[0x1A, 0xF8], "engine_speed", 1726.0)]
#[case::fastest(0x0C, &[0xFF, 0xFF], "engine_speed", 16383.75)]
#[case::road(0x0D, &[0x5A], "vehicle_speed", 90.0)]
#[case::advance(0x0E, &[0x80], "timing_advance", 0.0)]
#[case::intake(0x0F, &[0x3A], "intake_air", 18.0)]
#[case::flow(0x10, &[0x01, 0xF4], "airflow", 5.0)]
#[case::throttle(0x11, &[0x33], "throttle", 20.0)]
#[case::rail(0x23, &[0x36, 0xB0], "rail_pressure", 140_000.0)]
#[case::lambda(0x24, &[0x80, 0x00, 0x40, 0x00], "lambda_1", 1.0)]
#[case::ambient(0x33, &[0x62], "ambient_pressure", 98.0)]
#[case::supply(0x42, &[0x37, 0x00], "battery", 14.08)]
#[case::outside(0x46, &[0x24], "ambient_air", -4.0)]
#[case::pedal(0x49, &[0xFF], "pedal", 100.0)]
#[case::oil(0x5C, &[0x82], "oil", 90.0)]
#[case::odometer(0xA6, &[0x00, 0x13, 0x97, 0xA0], "odometer", 128_400.0)]
#[case::boost_asked(0x70, &[3, 0x19, 0x00, 0x18, 0x00, 0, 0, 0, 0, 0], "requested_boost", 200.0)]
#[case::boost_there(0x70, &[3, 0x19, 0x00, 0x18, 0x00, 0, 0, 0, 0, 0], "actual_boost", 192.0)]
#[case::vane_asked(0x71, &[3, 0x66, 0x33, 0, 0, 0], "vane_request", 40.0)]
#[case::vane_there(0x71, &[3, 0x66, 0x33, 0, 0, 0], "vane_position", 20.0)]
#[case::closed(0x03, &[0x02, 0x00], "closed_loop", 1.0)]
#[case::open(0x03, &[0x04, 0x00], "closed_loop", 0.0)]
fn a_parameter_is_scaled(#[case] number: u8, #[case] data: &[u8], #[case] channel: &str, #[case] expected: f64) {
    let message = [&[0x41, number], data].concat();
    let (read, misfits) = decode(&message, &Knowledge::built_in().parameters);
    assert!(misfits.is_empty(), "{misfits:?}");
    let Read::Values { values } = read else { panic!("{read:?}") };
    let value = values.iter().find(|v| v.channel.as_deref() == Some(channel)).unwrap();
    assert!((value.value.unwrap() - expected).abs() < 1e-3, "{value:?}");
    let known = Knowledge::built_in().channels.get(channel).unwrap();
    assert!((known.low..=known.high).contains(&expected) || known.unit.is_empty());
    assert_eq!(value.unit, known.unit);
}

#[rstest]
#[case::light_on(&[0x83, 0x07, 0xFF, 0x00], "on, 3 codes stored", "complete")]
#[case::light_off(&[0x00, 0x07, 0x65, 0x00], "off, 0 codes stored", "complete")]
#[case::after_clearing(&[0x00, 0x07, 0x65, 0x65], "off, 0 codes stored", "not complete: catalyst, evaporative system, oxygen sensor, oxygen sensor heater")]
#[case::a_diesel(&[0x00, 0x0F, 0x65, 0x40], "off, 0 codes stored", "not complete: particulate filter")]
#[case::misfire_monitor(&[0x00, 0x17, 0x00, 0x00], "off, 0 codes stored", "not complete: misfire")]
fn readiness_is_said_in_words(#[case] data: &[u8], #[case] light: &str, #[case] readiness: &str) {
    let message = [&[0x41, 0x01], data].concat();
    let Read::Values { values } = decode(&message, &Knowledge::built_in().parameters).0 else { panic!() };
    assert_eq!(values[0].text.as_deref(), Some(light));
    assert_eq!(values[1].text.as_deref(), Some(readiness));
}

#[rstest]
#[case::after_clearing(&[0x41, 0x01, 0x00, 0x07, 0x21, 0x20], Some(("misfire, fuel system, components, catalyst", "oxygen sensor")))]
#[case::a_diesel(&[0x41, 0x01, 0x00, 0x09, 0x48, 0x08], Some(("misfire, particulate filter", "charge pressure")))]
#[case::bits_without_a_meaning(&[0x41, 0x01, 0x00, 0x08, 0x14, 0x14], Some(("", "")))]
#[case::cut_short(&[0x41, 0x01, 0x00, 0x07, 0x21], None)]
#[case::another_message(&[0x41, 0x0C, 0x0B, 0xB8, 0x00, 0x00], None)]
fn self_tests_have_run_or_not(#[case] answer: &[u8], #[case] expected: Option<(&str, &str)>) {
    let book = &Knowledge::built_in().parameters;
    let read = self_tests_of(answer, book);
    let words = read.as_ref().map(|tests| (tests.ready.join(", "), tests.not_ready.join(", ")));
    assert_eq!(words.as_ref().map(|(ready, not)| (ready.as_str(), not.as_str())), expected);
    assert!(read.is_none_or(|tests| tests.ready.iter().chain(&tests.not_ready).all(|name| book.self_tests.has(name))));
}

#[rstest]
#[case::live(&[0x41, 0x00, 0x18, 0x00, 0x00, 0x01], 1, &[0x04, 0x05, 0x20])]
#[case::further(&[0x41, 0x20, 0x00, 0x00, 0x20, 0x00], 1, &[0x33])]
#[case::monitors(&[0x46, 0xA0, 0x78, 0x00, 0x00, 0x00], 6, &[0xA2, 0xA3, 0xA4, 0xA5])]
#[case::information(&[0x49, 0x00, 0x40, 0x40, 0x00, 0x00], 9, &[0x02, 0x0A])]
fn what_there_is_is_read_from_its_bits(#[case] message: &[u8], #[case] of: u8, #[case] expected: &[u8]) {
    let Read::Supported { service, numbers } = decode(message, &Knowledge::built_in().parameters).0 else { panic!() };
    assert_eq!((service, numbers.as_slice()), (of, expected));
}

#[rstest]
#[case::counts(0x24, &[0x00, 0x39], 57.0, "counts")]
#[case::volt(0x0B, &[0x01, 0xC2], 0.45, "V")]
#[case::below_zero(0x96, &[0xFF, 0x9C], -10.0, "°C")]
#[case::kilopascal(0x1A, &[0x00, 0x62], 98.0, "kPa")]
#[case::unknown(0x7C, &[0x00, 0x07], 7.0, "as it came")]
fn a_monitors_result_is_scaled(#[case] scale: u8, #[case] raw: &[u8], #[case] expected: f64, #[case] unit: &str) {
    let message = [&[0x46, 0x21, 0x80, scale], raw, &[0x00, 0x00, 0x7F, 0xFF]].concat();
    let (read, misfits) = decode(&message, &Knowledge::built_in().parameters);
    let Read::Monitors { tests } = read else { panic!("{read:?}") };
    assert!((tests[0].value - expected).abs() < 1e-9);
    assert_eq!((tests[0].unit.as_str(), tests[0].cylinder), (unit, None));
    assert_eq!(misfits.len(), usize::from(unit == "as it came"), "an unknown scale is said");
}
