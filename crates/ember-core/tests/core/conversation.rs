//! Who speaks to whom, and what a live link must notice as time passes.

use ember_core::frames::{
    Address, Conversation, Direction, FaultKind, Frame, Message, address, answer_id, decode, refusal_text, segments,
};
use ember_core::knowledge::Knowledge;
use rstest::rstest;

#[rstest]
#[case::all_11(0x7DF, false, Some(Address::ToAll))]
#[case::first_unit(0x7E0, false, Some(Address::ToUnit(0)))]
#[case::last_unit(0x7E7, false, Some(Address::ToUnit(7)))]
#[case::first_answer(0x7E8, false, Some(Address::FromUnit(0)))]
#[case::last_answer(0x7EF, false, Some(Address::FromUnit(7)))]
#[case::all_29(0x18DB_33F1, true, Some(Address::ToAll))]
#[case::to_unit_29(0x18DA_10F1, true, Some(Address::ToUnit(0x10)))]
#[case::from_unit_29(0x18DA_F110, true, Some(Address::FromUnit(0x10)))]
#[case::below(0x7DE, false, None)]
#[case::above(0x7F0, false, None)]
#[case::other_traffic(0x123, false, None)]
#[case::other_long_traffic(0x1FFF_FFFF, true, None)]
#[case::between_units(0x18DA_1028, true, None)]
#[case::eleven_bits_sent_long(0x7E8, true, None)]
fn an_identifier_says_who_speaks_to_whom(#[case] id: u32, #[case] extended: bool, #[case] expected: Option<Address>) {
    assert_eq!(address(id, extended), expected);
}

#[rstest]
#[case::engine(0x7E8, false, Some(0x7E0))]
#[case::back(0x7E0, false, Some(0x7E8))]
#[case::long(0x18DA_F128, true, Some(0x18DA_28F1))]
#[case::long_back(0x18DA_28F1, true, Some(0x18DA_F128))]
#[case::nobody_answers_all(0x7DF, false, None)]
#[case::not_diagnostic(0x123, false, None)]
fn flow_control_goes_to_whom_it_concerns(#[case] id: u32, #[case] extended: bool, #[case] expected: Option<u32>) {
    assert_eq!(answer_id(id, extended), expected);
}

struct Link {
    conversation: Conversation,
    heard: Vec<(Direction, Option<u8>, Vec<u8>)>,
}

impl Link {
    fn new() -> Link {
        Link { conversation: Conversation::default(), heard: Vec::new() }
    }

    fn frame(&mut self, time_s: f64, id: u32, bytes: &[u8]) -> &mut Link {
        let heard = &mut self.heard;
        self.conversation.push(&Frame::new(time_s, id, bytes), |message| {
            heard.push((message.direction, message.unit, message.bytes.to_vec()));
        });
        self
    }

    fn kinds(&self) -> Vec<FaultKind> {
        self.conversation.faults.iter().map(|f| f.kind).collect()
    }
}

#[test]
fn a_request_becomes_overdue_as_time_passes() {
    let mut link = Link::new();
    link.frame(1.0, 0x7E0, &[2, 0x01, 0x0C]);
    link.conversation.tick(1.5);
    assert!(link.kinds().is_empty(), "there is time yet");
    link.conversation.tick(2.5);
    assert_eq!(link.kinds(), [FaultKind::Unanswered]);
    assert!(link.conversation.faults[0].what.contains("unit 00"));
    link.conversation.tick(9.0);
    assert_eq!(link.kinds().len(), 1, "it is said once");
}

#[test]
fn a_message_that_was_begun_becomes_overdue_as_time_passes() {
    let mut link = Link::new();
    link.frame(1.0, 0x7E8, &[0x10, 0x14, 0x49, 0x02, 0x01, 0x43, 0x44, 0x48]);
    link.conversation.tick(1.9);
    assert!(link.kinds().is_empty());
    link.conversation.tick(2.1);
    assert_eq!(link.kinds(), [FaultKind::Unfinished]);
    assert!(link.conversation.faults[0].what.contains("20 bytes") && link.conversation.faults[0].time_s == 1.0);
    // What then comes belongs to nothing.
    link.frame(2.2, 0x7E8, &[0x21, 1, 2, 3, 4, 5, 6, 7]);
    assert_eq!(link.kinds()[1], FaultKind::Stray);
    assert!(link.heard.is_empty());
}

#[rstest]
#[case::the_parameter_asked_for(&[3, 0x41, 0x0C, 0x1A], true)]
#[case::one_of_several(&[3, 0x41, 0x0D, 0x1A], true)]
#[case::another_parameter(&[3, 0x41, 0x05, 0x50], false)]
#[case::another_service(&[2, 0x43, 0x00], false)]
#[case::a_refusal_of_the_service(&[3, 0x7F, 0x01, 0x12], true)]
#[case::a_refusal_of_another(&[3, 0x7F, 0x03, 0x12], false)]
#[case::a_plea_for_patience(&[3, 0x7F, 0x01, 0x78], true)]
fn an_answer_answers_what_it_is_about(#[case] answer: &[u8], #[case] answers: bool) {
    let mut link = Link::new();
    link.frame(1.0, 0x7E0, &[3, 0x01, 0x0C, 0x0D]).frame(1.1, 0x7E8, answer);
    link.conversation.tick(2.5);
    assert_eq!(link.kinds().is_empty(), answers, "{:?}", link.conversation.faults);
}

#[test]
fn another_units_answer_does_not_answer_for_the_one_that_was_asked() {
    let mut link = Link::new();
    link.frame(1.0, 0x7E1, &[1, 0x03]).frame(1.1, 0x7E8, &[2, 0x43, 0x00]);
    link.conversation.finish();
    assert_eq!(link.kinds(), [FaultKind::Unanswered]);
}

#[test]
fn any_units_answer_answers_a_request_to_all() {
    let mut link = Link::new();
    link.frame(1.0, 0x7DF, &[1, 0x03]).frame(1.1, 0x7EA, &[2, 0x43, 0x00]);
    link.conversation.finish();
    assert!(link.kinds().is_empty());
    assert_eq!(link.heard[1], (Direction::Answers, Some(2), vec![0x43, 0x00]));
}

#[test]
fn a_new_message_ends_one_that_was_not_finished() {
    let mut link = Link::new();
    let first = [0x10, 0x14, 0x49, 0x02, 0x01, 0x43, 0x44, 0x48];
    link.frame(1.0, 0x7E8, &first).frame(1.1, 0x7E8, &[3, 0x41, 0x05, 0x50]);
    assert_eq!(link.kinds(), [FaultKind::Unfinished]);
    assert_eq!(link.heard.len(), 1, "the new one is whole");
    link.frame(1.2, 0x7E8, &first).frame(1.3, 0x7E8, &first);
    assert_eq!(link.kinds().len(), 2);
}

#[test]
fn sequence_numbers_go_round_after_fifteen() {
    let bytes: Vec<u8> = (0..200u8).collect();
    let mut link = Link::new();
    for (index, part) in segments(&bytes).iter().enumerate() {
        link.frame(1.0 + index as f64 * 0.01, 0x7E8, part);
    }
    assert!(link.kinds().is_empty());
    assert_eq!(link.heard[0].2, bytes);
}

#[test]
fn a_doubled_last_part_is_no_second_message() {
    let bytes: Vec<u8> = (0..20u8).collect();
    let parts = segments(&bytes);
    let mut link = Link::new();
    for part in parts.iter().chain(parts.last()) {
        link.frame(1.0, 0x7E8, part);
    }
    assert_eq!(link.heard.len(), 1);
    assert_eq!(link.kinds(), [FaultKind::Stray]);
}

#[test]
fn a_heard_message_can_be_kept() {
    let mut kept: Vec<Message> = Vec::new();
    let mut conversation = Conversation::default();
    conversation.push(&Frame::new(4.0, 0x7E8, &[3, 0x41, 0x05, 0x50]), |heard| kept.push(heard.into()));
    assert_eq!((kept[0].time_s, kept[0].id, kept[0].bytes.as_slice()), (4.0, 0x7E8, &[0x41, 0x05, 0x50][..]));
}

#[rstest]
#[case(0x11, "it does not have this service")]
#[case(0x22, "conditions are not right for this now")]
#[case(0x31, "it does not have what was asked for")]
#[case(0x33, "security access is denied")]
#[case(0x78, "received; the answer takes longer")]
#[case(0x83, "the engine runs")]
#[case(0xFE, "for a reason with the number FE")]
fn a_refusals_reason_is_said(#[case] reason: u8, #[case] text: &str) {
    assert_eq!(refusal_text(reason, &Knowledge::built_in().parameters), text);
}

#[rstest]
#[case::empty(&[])]
#[case::no_service(&[0xFF, 1, 2])]
#[case::codes_without_a_number(&[0x43])]
#[case::too_few_codes(&[0x43, 2, 0x01, 0x71])]
#[case::too_many_codes(&[0x47, 0, 0x01, 0x71])]
#[case::half_a_monitor(&[0x46, 0xA2, 0x0C, 0x24])]
#[case::no_monitor(&[0x46])]
#[case::a_name_too_short(&[0x49, 0x0A, 1, b'e', b'n'])]
#[case::two_identifications_in_the_room_of_one(&[0x49, 0x02, 2, b'C', b'D', b'H'])]
#[case::no_information(&[0x49])]
#[case::half_a_parameter(&[0x41, 0x0C, 0x1A])]
#[case::half_a_freeze_frame(&[0x42, 0x0C, 0x00, 0x1A])]
#[case::an_empty_freeze_frame(&[0x42])]
fn bytes_that_do_not_fit_are_said_and_give_nothing(#[case] bytes: &[u8]) {
    let (read, misfits) = decode(bytes, &Knowledge::built_in().parameters);
    assert!(!misfits.is_empty(), "{read:?}");
    let text = serde_json::to_value(&read).unwrap();
    assert_eq!(text["says"], "unknown", "{text}");
}
