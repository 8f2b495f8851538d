//! Diagnostic frames: from CAN frames to messages, from messages to values, and what went wrong on the way.

mod door;
mod line;
mod messages;
mod parameters;
mod services;
mod transport;

pub use door::{FramesInput, FramesResult, UnitHeard, frames, frames_of};
pub use line::{LineFault, parse_line, write_line};
pub use messages::{Conversation, Direction, Heard};
pub use parameters::{Parameter, ParameterBook, ParameterKnowledge, ParameterValue, SelfTestNames};
pub use services::{DecodedValue, FreezeFrame, MonitorTest, Read, SelfTests, decode, refusal_text, self_tests_of};
pub use transport::{FaultKind, FrameFault, Message, Transport, segments};

/// One CAN frame.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Frame {
    pub time_s: f64,
    /// 11 bits, or 29 with `extended`.
    pub id: u32,
    pub extended: bool,
    pub length: u8,
    pub data: [u8; 8],
}

impl Frame {
    pub fn new(time_s: f64, id: u32, bytes: &[u8]) -> Frame {
        let mut data = [0; 8];
        let length = bytes.len().min(8);
        data[..length].copy_from_slice(&bytes[..length]);
        Frame { time_s, id, extended: id > 0x7FF, length: length as u8, data }
    }

    pub fn bytes(&self) -> &[u8] {
        &self.data[..usize::from(self.length)]
    }
}

/// Who speaks to whom, read from an identifier as ISO 15765-4 assigns them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Address {
    /// The tester to every unit.
    ToAll,
    /// The tester to the unit with this number.
    ToUnit(u8),
    /// The unit with this number to the tester.
    FromUnit(u8),
}

/// The address that an identifier stands for; `None` for traffic that is not diagnostic.
pub fn address(id: u32, extended: bool) -> Option<Address> {
    if extended {
        return match (id >> 16, (id >> 8) as u8, id as u8) {
            (0x18DB, 0x33, 0xF1) => Some(Address::ToAll),
            (0x18DA, unit, 0xF1) => Some(Address::ToUnit(unit)),
            (0x18DA, 0xF1, unit) => Some(Address::FromUnit(unit)),
            _ => None,
        };
    }
    match id {
        0x7DF => Some(Address::ToAll),
        0x7E0..=0x7E7 => Some(Address::ToUnit((id - 0x7E0) as u8)),
        0x7E8..=0x7EF => Some(Address::FromUnit((id - 0x7E8) as u8)),
        _ => None,
    }
}

/// The identifier on which the unit hears what was sent from this identifier: where flow control goes.
pub fn answer_id(id: u32, extended: bool) -> Option<u32> {
    match (address(id, extended)?, extended) {
        (Address::FromUnit(unit), false) => Some(0x7E0 + u32::from(unit)),
        (Address::FromUnit(unit), true) => Some(0x18DA_00F1 | u32::from(unit) << 8),
        (Address::ToUnit(unit), false) => Some(0x7E8 + u32::from(unit)),
        (Address::ToUnit(unit), true) => Some(0x18DA_F100 | u32::from(unit)),
        (Address::ToAll, _) => None,
    }
}
