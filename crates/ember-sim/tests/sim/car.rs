//! The simulated car on its connector: services, codes, outputs, and the port.

use std::io::{BufRead, BufReader, Write};
use std::net::{SocketAddr, TcpStream};

use ember_core::frames::{Frame, Read, decode, parse_line, segments};
use ember_core::knowledge::Knowledge;
use ember_sim::{Car, Fault, Trouble, fleet, outputs, profile, serve};
use rstest::rstest;

fn car(fleet_no: &str, faults: &[&str]) -> Car {
    let profile = profile(fleet_no).unwrap();
    let faults = faults.iter().map(|f| Fault::parse(f, &profile).unwrap()).collect();
    let mut car = Car::new(profile, faults, 1);
    car.model.driving = false;
    car
}

/// Asks all units and reads the first answer, of one frame or of several.
fn ask(car: &mut Car, request: &[u8]) -> Option<Vec<u8>> {
    let long = car.model.profile.long_identifiers;
    let id = if long { 0x18DB_33F1 } else { 0x7DF };
    let frame = Frame { extended: long, ..Frame::new(0.0, id, &segments(request)[0]) };
    let first = *car.answer(&frame).first()?;
    let bytes = first.bytes();
    if bytes[0] >> 4 == 0 {
        return Some(bytes[1..=usize::from(bytes[0])].to_vec());
    }
    let length = usize::from(bytes[0] & 0xF) << 8 | usize::from(bytes[1]);
    let to = ember_core::frames::answer_id(first.id, long).unwrap();
    let leave = Frame { extended: long, ..Frame::new(0.0, to, &[0x30, 0, 0]) };
    let rest: Vec<u8> = car.answer(&leave).iter().flat_map(|f| f.bytes()[1..].to_vec()).collect();
    Some([&bytes[2..], &rest].concat()[..length].to_vec())
}

fn codes(car: &mut Car, service: u8) -> Vec<String> {
    match decode(&ask(car, &[service]).unwrap(), &Knowledge::built_in().parameters).0 {
        Read::Codes { codes, .. } => codes,
        other => panic!("{other:?}"),
    }
}

#[test]
fn every_car_of_the_fleet_idles_and_answers_for_its_engine_speed() {
    for fleet_no in fleet() {
        let mut car = car(&fleet_no, &[]);
        car.run_to(5.0);
        let answer = ask(&mut car, &[0x01, 0x0C]).unwrap_or_else(|| panic!("{fleet_no} is silent"));
        let rpm = f64::from(u16::from_be_bytes([answer[2], answer[3]])) / 4.0;
        assert!((500.0..1300.0).contains(&rpm), "{fleet_no} idles at {rpm}");
    }
}

#[rstest]
#[case("W-07", "dead-coil=3", "P0303")]
#[case("W-07", "misfire-under-load=3", "P0303")]
#[case("W-12", "taking-turns", "P0300")]
#[case("W-12", "air-leak=2.2", "P0171")]
#[case("W-12", "meter-under-reads=0.8", "P0101")]
#[case("W-15", "boost-leak=0.3", "P0299")]
#[case("W-15", "stuck-actuator", "P0299")]
#[case("W-15", "sticking-vanes", "P0234")]
#[case("W-15", "glow-plug=2", "P0672")]
#[case("W-21", "weak-pump=0.8", "P0087")]
#[case("W-03", "crank-hot", "P0335")]
fn a_fault_has_its_code_and_a_freeze_frame(#[case] fleet_no: &str, #[case] fault: &str, #[case] code: &str) {
    let mut car = car(fleet_no, &[fault]);
    assert!(codes(&mut car, 0x03).contains(&code.to_owned()));
    let frozen = ask(&mut car, &[0x02, 0x02, 0]).unwrap();
    assert_ne!(frozen[3..5], [0, 0]);
    assert!(ask(&mut car, &[0x02, 0x0C, 0]).is_some());
}

#[test]
fn codes_come_back_at_once_after_a_drive_or_not_at_all() {
    let mut car = car("W-12", &["air-leak=2.2", "dead-coil=3"]);
    car.run_to(10.0);
    assert!(codes(&mut car, 0x03).contains(&"P0442".to_owned()), "the stale one");
    assert_eq!(ask(&mut car, &[0x04]), Some(vec![0x44]));
    assert!(codes(&mut car, 0x03).is_empty());
    car.run_to(10.2);
    let at_once = [codes(&mut car, 0x03), codes(&mut car, 0x07)].concat();
    assert!(at_once.contains(&"P0353".to_owned()) && !at_once.contains(&"P0171".to_owned()), "{at_once:?}");
    car.run_to(200.0);
    let later = codes(&mut car, 0x03);
    assert!(later.contains(&"P0171".to_owned()) && !later.contains(&"P0442".to_owned()), "{later:?}");
}

#[test]
fn misfires_are_counted_in_the_monitors_and_cleared_with_the_codes() {
    let mut car = car("W-07", &["dead-coil=2"]);
    car.run_to(30.0);
    let count = |car: &mut Car, monitor| {
        let answer = ask(car, &[0x06, monitor]).unwrap();
        u16::from_be_bytes([answer[13], answer[14]])
    };
    // 760 rpm for half a minute: some 190 firings, every one missed.
    assert!((170..210).contains(&count(&mut car, 0xA3)), "{}", count(&mut car, 0xA3));
    assert!(count(&mut car, 0xA2) < 5);
    ask(&mut car, &[0x04]);
    assert_eq!(count(&mut car, 0xA3), 0);
}

#[test]
fn what_a_unit_does_not_have_is_refused_when_it_alone_is_asked() {
    let mut car = car("W-07", &[]);
    let alone = |car: &mut Car, data: &[u8]| car.answer(&Frame::new(0.0, 0x7E0, data))[0].bytes()[1..4].to_vec();
    assert_eq!(alone(&mut car, &[2, 0x01, 0xF0]), [0x7F, 0x01, 0x31]);
    assert_eq!(alone(&mut car, &[1, 0x0B]), [0x7F, 0x0B, 0x11]);
    assert!(ask(&mut car, &[0x0B]).is_none(), "asked with the others it stays silent");
    assert!(car.answer(&Frame::new(0.0, 0x7E3, &[1, 0x03])).is_empty(), "there is no unit 3");
    assert!(car.answer(&Frame::new(0.0, 0x7E0, &[9, 0x03])).is_empty(), "a length that does not fit");
}

#[test]
fn a_dead_coil_draws_no_current_and_its_sisters_do() {
    let mut car = car("W-07", &["dead-coil=3"]);
    let drive = |car: &mut Car, low| *ask(car, &[0x2F, 0x01, low, 0x03, 1]).unwrap().last().unwrap();
    assert_eq!((drive(&mut car, 3), drive(&mut car, 2)), (0, 1));
}

#[test]
fn vanes_that_are_not_driven_obey_the_tester_but_not_the_car() {
    let mut car = car("W-15", &["vanes-not-driven"]);
    car.run_to(5.0);
    assert!((car.model.state.vane_pct - 22.0).abs() < 2.0);
    let answer = ask(&mut car, &[0x2F, 0x03, 0x02, 0x03, 204]).unwrap();
    assert!((f64::from(answer[4]) / 2.55 - 80.0).abs() < 3.0, "{answer:?}");
    ask(&mut car, &[0x2F, 0x03, 0x02, 0x00]).unwrap();
    car.run_to(car.model.state.time_s + 5.0);
    assert!((car.model.state.vane_pct - 22.0).abs() < 2.0);
}

#[test]
fn a_stuck_actuator_obeys_nobody() {
    let mut car = car("W-15", &["stuck-actuator"]);
    let answer = ask(&mut car, &[0x2F, 0x03, 0x02, 0x03, 204]).unwrap();
    assert!((f64::from(answer[4]) / 2.55 - 47.0).abs() < 1.0);
}

#[rstest]
#[case::unknown("W-07", "flat-tyre", "there is no flat-tyre")]
#[case::no_figure("W-12", "air-leak", "air-leak needs a figure")]
#[case::too_large("W-12", "air-leak=40", "takes 0.2 to 12")]
#[case::no_such_cylinder("W-07", "dead-coil=5", "takes 1 to 4")]
#[case::half_a_cylinder("W-07", "dead-coil=1.5", "takes a cylinder")]
#[case::figure_too_many("W-12", "taking-turns=3", "takes no figure")]
#[case::no_coils("W-15", "dead-coil=1", "a diesel has no coils")]
#[case::no_vanes("W-07", "sticking-vanes", "has no vanes")]
#[case::no_glow_plugs("W-07", "glow-plug=1", "has no glow plugs")]
fn a_fault_that_cannot_be_is_refused(#[case] fleet_no: &str, #[case] fault: &str, #[case] reason: &str) {
    let error = Fault::parse(fault, &profile(fleet_no).unwrap()).unwrap_err();
    assert!(error.to_string().contains(reason), "{error}");
}

#[test]
fn a_fault_is_written_as_it_is_read() {
    let profile = profile("W-12").unwrap();
    for text in ["dead-coil=3", "air-leak=2.2", "taking-turns", "weak-pump=0.75", "misfire-under-load=6"] {
        assert_eq!(Fault::parse(text, &profile).unwrap().to_string(), text);
    }
    assert!(
        outputs(&profile).iter().any(|o| o.name == "coil 6") && !outputs(&profile).iter().any(|o| o.name == "coil 7")
    );
}

#[test]
fn the_port_answers_frames_with_frames_and_rubbish_with_a_word() {
    let adapter =
        serve(profile("W-07").unwrap(), Vec::new(), 1, 1.0, Trouble::default(), SocketAddr::from(([127, 0, 0, 1], 0)))
            .unwrap();
    let mut stream = TcpStream::connect(adapter.address).unwrap();
    let mut lines = BufReader::new(stream.try_clone().unwrap()).lines();
    stream.write_all(b"(0.0) t 7DF#0201050000000000\n").unwrap();
    let frame = parse_line(lines.next().unwrap().unwrap().as_bytes()).unwrap().unwrap();
    assert_eq!((frame.id, &frame.bytes()[..3]), (0x7E8, &[3, 0x41, 5][..]));
    stream.write_all(b"hello\n").unwrap();
    assert_eq!(lines.next().unwrap().unwrap(), "? not a frame");
}

#[test]
fn a_simulated_car_listens_on_this_machine_only() {
    let elsewhere = SocketAddr::from(([0, 0, 0, 0], 0));
    let refused = serve(profile("W-07").unwrap(), Vec::new(), 1, 1.0, Trouble::default(), elsewhere);
    assert_eq!(refused.map(|_| ()).unwrap_err().kind(), std::io::ErrorKind::InvalidInput);
}

#[test]
fn an_unknown_car_names_those_there_are() {
    assert!(profile("W-99").unwrap_err().to_string().contains("W-12"));
}
