//! Frames: transport, decoding, and what is reported instead of a wrong number.

use ember_core::frames::{LineFault, parse_line, segments, write_line};
use ember_core::knowledge::Knowledge;
use ember_core::reckon::reckon;
use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};

fn frames(lines: &[&str]) -> Value {
    reckon("frames", &json!({"capture": lines.join("\n")}), Knowledge::built_in()).unwrap()
}

fn values(result: &Value) -> Vec<(String, f64)> {
    result["messages"]
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|m| m["read"]["values"].as_array())
        .flatten()
        .filter_map(|v| Some((v["name"].as_str()?.to_owned(), v["value"].as_f64()?)))
        .collect()
}

fn faults(result: &Value) -> Vec<&str> {
    result["faults"].as_array().unwrap().iter().map(|f| f["kind"].as_str().unwrap()).collect()
}

#[test]
fn a_single_frame_is_decoded_with_unit_and_raw_bytes() {
    let result = frames(&["(1700000000.123456) can0 7E8#04410C1AF8000000"]);
    let value = &result["messages"][0]["read"]["values"][0];
    assert_eq!(value["name"], "engine speed");
    assert_eq!(value["value"], 1726.0);
    assert_eq!(value["unit"], "rpm");
    assert_eq!(value["raw"], "1AF8");
    assert_eq!(result["messages"][0]["time_s"], 1700000000.123456);
    assert_eq!(result["units"][0]["unit"], 0);
}

#[rstest]
#[case::load("03410480", "calculated load", 50.196)]
#[case::coolant("0341057B", "coolant", 83.0)]
#[case::short_trim("0341068C", "short-term trim, bank 1", 9.375)]
#[case::long_trim_bank_2("03410970", "long-term trim, bank 2", -12.5)]
#[case::manifold("03410B62", "manifold pressure", 98.0)]
#[case::speed("03410D5A", "road speed", 90.0)]
#[case::advance("03410E94", "spark advance", 10.0)]
#[case::flow("0441100640", "air flow", 16.0)]
#[case::rail("0441230BB8", "fuel rail pressure", 30000.0)]
#[case::supply("0441423700", "supply voltage", 14.08)]
#[case::odometer("0641A600012345", "odometer", 7456.5)]
fn a_parameter_has_the_standards_scale(#[case] data: &str, #[case] name: &str, #[case] expected: f64) {
    let result = frames(&[&format!("(1.0) can0 7E8#{data}")]);
    let read = values(&result);
    assert_eq!(read[0].0, name);
    assert!((read[0].1 - expected).abs() < 0.001, "{read:?}");
}

#[test]
fn several_parameters_lie_in_one_answer() {
    let result = frames(&["(1.0) can0 7E8#06410C1AF80D32"]);
    assert_eq!(values(&result), [("engine speed".to_owned(), 1726.0), ("road speed".to_owned(), 50.0)]);
}

#[test]
fn units_that_answer_interleaved_are_kept_apart() {
    let result = frames(&[
        "(1.000) can0 7DF#0209020000000000",
        "(1.010) can0 7E8#1014490201434448",
        "(1.011) can0 7E9#10144902014D4152",
        "(1.012) can0 7E0#3000000000000000",
        "(1.013) can0 7E8#2144455030303030",
        "(1.014) can0 7E9#214C303030303030",
        "(1.015) can0 7E9#2230303030303033",
        "(1.016) can0 7E8#2230303030303031",
    ]);
    let texts: Vec<(&str, &str)> = result["messages"]
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|m| Some((m["id"].as_str()?, m["read"]["text"].as_str()?)))
        .collect();
    assert_eq!(texts, [("7E9", "MARL0000000000003"), ("7E8", "CDHDEP00000000001")]);
    assert!(faults(&result).is_empty(), "{:#}", result["faults"]);
}

#[test]
fn identifiers_of_29_bits_are_read_as_well() {
    let result = frames(&["(1.0) can0 18DB33F1#02010C", "(1.1) can0 18DAF110#04410C0FA0"]);
    assert_eq!(values(&result), [("engine speed".to_owned(), 1000.0)]);
    assert_eq!(result["units"][0]["id"], "18DAF110");
    assert_eq!(result["units"][0]["unit"], 0x10);
    assert!(faults(&result).is_empty());
}

#[test]
fn codes_keep_the_weightiest_status_and_their_freeze_frame() {
    let result = frames(&["(1.0) can0 7E8#0443010302", "(1.1) can0 7E8#06470203020300"]);
    let codes = &result["units"][0]["codes"];
    assert_eq!(codes[0], json!({"code": "P0302", "status": "stored"}));
    assert_eq!(codes[1], json!({"code": "P0300", "status": "pending"}));
    let frozen = frames(&["(1.0) can0 7E8#0443010302", "(1.1) can0 7E8#054202000302", "(1.2) can0 7E8#05420C000FA0"]);
    let code = &frozen["units"][0]["codes"][0];
    assert_eq!(code["freeze"][0]["name"], "engine speed");
    assert_eq!(code["freeze"][0]["value"], 1000.0);
}

#[test]
fn misfire_monitors_are_counters_of_cylinders() {
    // A4, test 0C, counts, 57 of at most 65535; and test 0B, 20.
    let result = frames(&[
        "(1.00) can0 7E8#101346A40B240014",
        "(1.01) can0 7E8#210000FFFFA40C24",
        "(1.02) can0 7E8#2200390000FFFF00",
    ]);
    let tests = &result["units"][0]["monitors"];
    assert_eq!(result["misfires"], json!({"3": 57.0}));
    assert_eq!(tests[0]["counts"], "average of the last ten drives");
    assert_eq!(tests[0]["value"], 20.0);
    assert_eq!(tests[1]["counts"], "this drive");
    assert_eq!(tests[1]["cylinder"], 3);
}

#[rstest]
#[case::doubled(&["(1.0) c 7E8#1014490201434448", "(1.1) c 7E8#2144455030303030", "(1.2) c 7E8#2144455030303030", "(1.3) c 7E8#2230303030303031"], "doubled", 1)]
#[case::lost(&["(1.0) c 7E8#1014490201434448", "(1.2) c 7E8#2230303030303031"], "lost", 0)]
#[case::reordered(&["(1.0) c 7E8#1021490201434448", "(1.1) c 7E8#2144455030303030", "(1.2) c 7E8#2244455030303030", "(1.3) c 7E8#21FFFFFFFFFFFFFF"], "reordered", 0)]
#[case::unfinished(&["(1.0) c 7E8#1014490201434448"], "unfinished", 0)]
#[case::too_late(&["(1.0) c 7E8#1014490201434448", "(4.0) c 7E8#2144455030303030"], "unfinished", 0)]
#[case::stray(&["(1.0) c 7E8#2144455030303030"], "stray", 0)]
#[case::length(&["(1.0) c 7E8#07410C1A"], "length", 0)]
#[case::no_length(&["(1.0) c 7E8#00410C1A"], "length", 0)]
#[case::first_frame_too_short(&["(1.0) c 7E8#1004410C1A000000"], "length", 0)]
#[case::unknown_kind(&["(1.0) c 7E8#90410C1A"], "unknown-kind", 0)]
#[case::overflow(&["(1.0) c 7E0#3200000000000000"], "overflow", 0)]
#[case::unanswered(&["(1.0) c 7E0#02010C", "(3.0) c 7E8#0341050A"], "unanswered", 1)]
#[case::codes_that_do_not_fit_their_number(&["(1.0) c 7E8#0443020302"], "content", 1)]
#[case::parameter_cut_off(&["(1.0) c 7E8#03410C1A"], "content", 1)]
#[case::monitor_cut_off(&["(1.0) c 7E8#0546A20C2400"], "content", 1)]
#[case::clock(&["(2.0) c 7E8#0341050A", "(1.0) c 7E8#0341050A"], "clock", 2)]
fn what_goes_wrong_is_reported_and_never_decoded(#[case] lines: &[&str], #[case] kind: &str, #[case] messages: usize) {
    let result = frames(lines);
    assert!(faults(&result).contains(&kind), "{:#}", result["faults"]);
    let answers = result["messages"].as_array().unwrap().iter().filter(|m| m["direction"] == "answers").count();
    assert_eq!(answers, messages, "{:#}", result["messages"]);
    if kind == "content" {
        assert!(values(&result).is_empty());
    }
    for fault in result["faults"].as_array().unwrap() {
        assert!(fault["time_s"].as_f64().unwrap() > 0.0 && !fault["what"].as_str().unwrap().is_empty());
    }
}

#[rstest]
#[case::not_there("037F0A11", "it does not have this service")]
#[case::conditions("037F2F22", "conditions are not right for this now")]
#[case::moving("037F2F88", "road speed too high")]
#[case::unheard_of("037F01EE", "for a reason with the number EE")]
fn a_negative_response_is_given_in_words(#[case] data: &str, #[case] text: &str) {
    let result = frames(&[&format!("(1.0) c 7E8#{data}")]);
    assert_eq!(result["messages"][0]["read"]["text"], text);
}

#[test]
fn patience_asked_for_is_not_an_unanswered_request() {
    let result = frames(&["(1.0) c 7E0#02010C", "(1.2) c 7E8#037F0178", "(4.0) c 7E8#04410C0FA0"]);
    assert!(faults(&result).is_empty(), "{:#}", result["faults"]);
}

#[test]
fn other_traffic_is_counted_and_left_alone() {
    let result = frames(&["(1.0) c 123#0011", "(1.1) c 1FFFFFFF#AABB", "(1.2) c 7E8#0341050A"]);
    assert_eq!((result["frames"].as_u64(), result["others"].as_u64()), (Some(3), Some(2)));
}

#[test]
fn an_unknown_parameter_keeps_its_bytes_and_what_follows_is_not_guessed() {
    let result = frames(&["(1.0) c 7E8#0641F00102050A"]);
    let value = &result["messages"][0]["read"]["values"][0];
    assert_eq!((&value["value"], &value["raw"]), (&Value::Null, &json!("0102050A")));
    assert_eq!(faults(&result), ["content"]);
}

#[test]
fn frames_may_come_as_a_list() {
    let input = json!({"frames": [{"time_s": 0.5, "id": "7E8", "data": "04 41 0C 1A F8"}]});
    let result = reckon("frames", &input, Knowledge::built_in()).unwrap();
    assert_eq!(values(&result), [("engine speed".to_owned(), 1726.0)]);
}

#[rstest]
#[case::nothing(json!({}), "frames")]
#[case::both(json!({"frames": [], "capture": ""}), "capture")]
#[case::empty(json!({"frames": []}), "frames")]
#[case::no_frame(json!({"capture": "(1.0) c 7E8#0341050A\nrubbish"}), "capture, line 2")]
#[case::no_identifier(json!({"frames": [{"time_s": 1, "id": "XYZ", "data": "00"}]}), "frames[0]")]
#[case::too_long(json!({"frames": [{"time_s": 1, "id": "7E8", "data": "001122334455667788"}]}), "frames[0]")]
fn bad_frames_are_refused_by_place(#[case] input: Value, #[case] field: &str) {
    let error = reckon("frames", &input, Knowledge::built_in()).unwrap_err();
    assert!(error.to_string().starts_with(field), "{error}");
}

#[rstest]
#[case::no_time("7E8#00", LineFault::Time)]
#[case::no_end_of_time("(1.0 can0 7E8#00", LineFault::Time)]
#[case::no_number("(abc) can0 7E8#00", LineFault::Time)]
#[case::no_interface("(1.0) 7E8#00", LineFault::Shape)]
#[case::four_digits("(1.0) can0 07E8#00", LineFault::Identifier)]
#[case::too_high("(1.0) can0 FFF#00", LineFault::Identifier)]
#[case::odd_digits("(1.0) can0 7E8#000", LineFault::Data)]
#[case::nine_bytes("(1.0) can0 7E8#001122334455667788", LineFault::Data)]
#[case::remote("(1.0) can0 7E8#R", LineFault::NotPlain)]
#[case::long_kind("(1.0) can0 7E8##1001122", LineFault::NotPlain)]
fn a_line_that_is_no_frame_says_why(#[case] line: &str, #[case] fault: LineFault) {
    assert_eq!(parse_line(line.as_bytes()), Err(fault));
}

proptest! {
    #[test]
    fn a_frame_written_is_the_frame_read(id in 0u32..0x2000_0000, bytes in prop::collection::vec(any::<u8>(), 0..=8), t in 0.0..2e9f64) {
        let frame = ember_core::frames::Frame::new((t * 1e6).round() / 1e6, id, &bytes);
        let read = parse_line(write_line(&frame, "can0").as_bytes()).unwrap().unwrap();
        prop_assert_eq!((read.id, read.extended, read.bytes()), (frame.id, frame.extended, frame.bytes()));
        prop_assert!((read.time_s - frame.time_s).abs() < 2e-6);
    }

    #[test]
    fn a_message_survives_its_own_segments(bytes in prop::collection::vec(any::<u8>(), 1..600)) {
        let lines: Vec<String> = segments(&bytes).iter().enumerate().map(|(i, data)| {
            write_line(&ember_core::frames::Frame::new(1.0 + i as f64 * 1e-3, 0x7E8, data), "c")
        }).collect();
        let result = reckon("frames", &json!({"capture": lines.join("\n")}), Knowledge::built_in()).unwrap();
        let hex: String = bytes.iter().map(|b| format!("{b:02X}")).collect();
        prop_assert_eq!(&result["messages"][0]["bytes"], &json!(hex));
    }
}
