//! Transport: single, first, consecutive and flow-control frames put together to messages (ISO 15765-2).

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use super::Frame;

/// A sender must send the next part within this time (N_Cr of ISO 15765-2, 1000 ms).
const NEXT_WITHIN_S: f64 = 1.0;
/// The longest message of the plain length field.
const LONGEST: usize = 4095;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum FaultKind {
    /// Parts of a message are missing.
    Lost,
    /// The same part twice; it was used once.
    Doubled,
    /// A part with the wrong sequence number.
    Reordered,
    /// A length that does not fit the frame or the standard.
    Length,
    /// The rest of a message never came.
    Unfinished,
    /// A part of a message whose beginning is not there.
    Stray,
    /// The kind of frame is none of the standard's.
    UnknownKind,
    /// The receiver could not take the message.
    Overflow,
    /// Nobody answered a request.
    Unanswered,
    /// An answer whose length does not fit what it says it holds.
    Content,
    /// Time ran backwards.
    Clock,
}

/// Something that went wrong, with the time stamp at which it showed.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FrameFault {
    pub time_s: f64,
    /// The identifier in hexadecimal.
    pub id: String,
    pub kind: FaultKind,
    pub what: String,
}

/// A whole message.
#[derive(Debug, Clone, PartialEq)]
pub struct Message {
    pub time_s: f64,
    pub ends_s: f64,
    pub id: u32,
    pub extended: bool,
    pub bytes: Vec<u8>,
}

struct Partial {
    began_s: f64,
    last_s: f64,
    length: usize,
    bytes: Vec<u8>,
    next: u8,
    last: [u8; 8],
    last_length: u8,
}

/// Puts frames together, one message at a time for each identifier.
#[derive(Default)]
pub struct Transport {
    partial: BTreeMap<(bool, u32), Partial>,
    /// A message of a single frame needs no copy of its own.
    single: Vec<u8>,
}

/// What a frame completed.
pub enum Step<'a> {
    /// Nothing yet.
    Nothing,
    /// A message of one frame.
    Single(&'a [u8]),
    /// A message of several frames.
    Whole(Message),
    /// The receiver answers how the sender may go on.
    FlowControl,
}

pub(crate) fn id_text(id: u32, extended: bool) -> String {
    if extended { format!("{id:08X}") } else { format!("{id:03X}") }
}

impl Transport {
    /// Takes the next frame; what goes wrong is added to `faults`.
    pub fn push(&mut self, frame: &Frame, faults: &mut Vec<FrameFault>) -> Step<'_> {
        let key = (frame.extended, frame.id);
        let mut fault = |kind, what: String| {
            faults.push(FrameFault { time_s: frame.time_s, id: id_text(frame.id, frame.extended), kind, what });
        };
        let bytes = frame.bytes();
        let Some(&first) = bytes.first() else {
            fault(FaultKind::Length, "an empty frame".into());
            return Step::Nothing;
        };
        match first >> 4 {
            0 => {
                let length = usize::from(first & 0x0F);
                if length == 0 || length > bytes.len() - 1 {
                    fault(
                        FaultKind::Length,
                        format!("a single frame says {length} bytes and holds {}", bytes.len() - 1),
                    );
                    return Step::Nothing;
                }
                if let Some(old) = self.partial.remove(&key) {
                    fault(FaultKind::Unfinished, unfinished(&old));
                }
                self.single.clear();
                self.single.extend_from_slice(&bytes[1..=length]);
                Step::Single(&self.single)
            }
            1 => {
                if let Some(old) = self.partial.remove(&key) {
                    fault(FaultKind::Unfinished, unfinished(&old));
                }
                let length = usize::from(first & 0x0F) << 8 | bytes.get(1).map_or(0, |&b| usize::from(b));
                if bytes.len() < 8 || length < 8 {
                    let what = if length == 0 && bytes.len() == 8 {
                        format!("a first frame with the long length field: more than {LONGEST} bytes are not taken")
                    } else {
                        format!("a first frame of {} bytes says {length} bytes in all", bytes.len())
                    };
                    fault(FaultKind::Length, what);
                    return Step::Nothing;
                }
                self.partial.insert(
                    key,
                    Partial {
                        began_s: frame.time_s,
                        last_s: frame.time_s,
                        length,
                        bytes: bytes[2..].to_vec(),
                        next: 1,
                        last: frame.data,
                        last_length: frame.length,
                    },
                );
                Step::Nothing
            }
            2 => {
                let Some(partial) = self.partial.get_mut(&key) else {
                    fault(FaultKind::Stray, "a part of a message whose beginning is not there".into());
                    return Step::Nothing;
                };
                if frame.time_s - partial.last_s > NEXT_WITHIN_S {
                    let what = format!(
                        "{}, and the next part came {:.2} s after the last",
                        unfinished(partial),
                        frame.time_s - partial.last_s
                    );
                    self.partial.remove(&key);
                    fault(FaultKind::Unfinished, what);
                    return Step::Nothing;
                }
                let sequence = first & 0x0F;
                if sequence != partial.next {
                    let again = partial.last == frame.data && partial.last_length == frame.length;
                    if again && sequence == partial.next.wrapping_sub(1) & 0x0F {
                        fault(FaultKind::Doubled, format!("part {sequence} came twice; it is used once"));
                        return Step::Nothing;
                    }
                    let ahead = sequence.wrapping_sub(partial.next) & 0x0F;
                    let (kind, how) = if ahead < 8 {
                        (FaultKind::Lost, "parts between are missing")
                    } else {
                        (FaultKind::Reordered, "the parts are out of order")
                    };
                    let what = format!(
                        "part {sequence} where part {} was due: {how}; the message of {} bytes is given up",
                        partial.next, partial.length
                    );
                    self.partial.remove(&key);
                    fault(kind, what);
                    return Step::Nothing;
                }
                let missing = partial.length - partial.bytes.len();
                let holds = (bytes.len() - 1).min(missing);
                if holds < missing.min(7) {
                    let what = format!("part {sequence} holds {holds} bytes and {} were due", missing.min(7));
                    self.partial.remove(&key);
                    fault(FaultKind::Length, what);
                    return Step::Nothing;
                }
                partial.bytes.extend_from_slice(&bytes[1..=holds]);
                partial.next = (partial.next + 1) & 0x0F;
                partial.last_s = frame.time_s;
                (partial.last, partial.last_length) = (frame.data, frame.length);
                if partial.bytes.len() < partial.length {
                    return Step::Nothing;
                }
                match self.partial.remove(&key) {
                    Some(whole) => Step::Whole(Message {
                        time_s: whole.began_s,
                        ends_s: frame.time_s,
                        id: frame.id,
                        extended: frame.extended,
                        bytes: whole.bytes,
                    }),
                    None => Step::Nothing,
                }
            }
            3 => {
                if first & 0x0F == 2 {
                    fault(FaultKind::Overflow, "the receiver says that the message is too long for it".into());
                }
                Step::FlowControl
            }
            kind => {
                fault(FaultKind::UnknownKind, format!("a frame of kind {kind}, which the transport does not have"));
                Step::Nothing
            }
        }
    }

    /// Messages that were begun more than the allowed time before `now` and have not gone on.
    pub fn overdue(&mut self, now_s: f64, faults: &mut Vec<FrameFault>) {
        self.partial.retain(|&(extended, id), partial| {
            let late = now_s - partial.last_s > NEXT_WITHIN_S;
            if late {
                faults.push(FrameFault {
                    time_s: partial.last_s,
                    id: id_text(id, extended),
                    kind: FaultKind::Unfinished,
                    what: unfinished(partial),
                });
            }
            !late
        });
    }
}

fn unfinished(partial: &Partial) -> String {
    format!(
        "a message of {} bytes began at {:.6} s and ended after {}",
        partial.length,
        partial.began_s,
        partial.bytes.len()
    )
}

/// A message as the frames that carry it, padded to eight bytes. The sender waits for flow control after the first.
///
/// # Panics
/// Never: what is longer than 4095 bytes is cut, which no service here reaches.
pub fn segments(bytes: &[u8]) -> Vec<[u8; 8]> {
    let bytes = &bytes[..bytes.len().min(LONGEST)];
    let mut list = Vec::new();
    if bytes.len() <= 7 {
        let mut data = [0; 8];
        data[0] = bytes.len() as u8;
        data[1..=bytes.len()].copy_from_slice(bytes);
        return vec![data];
    }
    let mut data = [0; 8];
    data[0] = 0x10 | (bytes.len() >> 8) as u8;
    data[1] = bytes.len() as u8;
    data[2..].copy_from_slice(&bytes[..6]);
    list.push(data);
    for (index, part) in bytes[6..].chunks(7).enumerate() {
        let mut data = [0; 8];
        data[0] = 0x20 | ((index + 1) & 0x0F) as u8;
        data[1..=part.len()].copy_from_slice(part);
        list.push(data);
    }
    list
}
