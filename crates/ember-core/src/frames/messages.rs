//! A conversation: requests and answers of several units, interleaved, and what stayed unanswered.

use super::transport::{Step, Transport, id_text};
use super::{Address, FaultKind, Frame, FrameFault, Message, address};

/// A unit must answer within this time (P2 of ISO 15765-4 is 50 ms; after "takes longer" 5 s).
const ANSWER_WITHIN_S: f64 = 1.0;
const LONGER_WITHIN_S: f64 = 5.0;

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Direction {
    Asks,
    Answers,
}

/// A whole message as it was heard.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Heard<'a> {
    pub time_s: f64,
    pub ends_s: f64,
    pub id: u32,
    pub extended: bool,
    pub direction: Direction,
    /// The number of the unit that answers, or that is asked; `None` when all are.
    pub unit: Option<u8>,
    pub bytes: &'a [u8],
}

struct Pending {
    time_s: f64,
    until_s: f64,
    id: u32,
    extended: bool,
    to: Option<u8>,
    service: u8,
    /// What of the service was asked for, at most as many numbers as a single frame carries.
    about: [u8; 6],
    abouts: usize,
}

/// Follows the frames of a capture or a link.
#[derive(Default)]
pub struct Conversation {
    transport: Transport,
    pending: Vec<Pending>,
    last_s: Option<f64>,
    pub faults: Vec<FrameFault>,
    pub frames: u64,
    /// Frames of other traffic.
    pub others: u64,
}

impl Conversation {
    /// Takes the next frame and hands a completed message to `hear`.
    #[inline]
    pub fn push(&mut self, frame: &Frame, mut hear: impl FnMut(Heard<'_>)) {
        self.frames += 1;
        let Some(address) = address(frame.id, frame.extended) else {
            self.others += 1;
            return;
        };
        if let Some(last) = self.last_s
            && frame.time_s < last
        {
            self.faults.push(FrameFault {
                time_s: frame.time_s,
                id: id_text(frame.id, frame.extended),
                kind: FaultKind::Clock,
                what: format!("the time runs backwards, from {last:.6} s"),
            });
        }
        self.last_s = Some(frame.time_s);
        if !self.pending.is_empty() {
            self.unanswered(frame.time_s);
        }
        let (direction, unit) = match address {
            Address::ToAll => (Direction::Asks, None),
            Address::ToUnit(unit) => (Direction::Asks, Some(unit)),
            Address::FromUnit(unit) => (Direction::Answers, Some(unit)),
        };
        let whole;
        let (time_s, bytes): (f64, &[u8]) = match self.transport.push(frame, &mut self.faults) {
            Step::Nothing | Step::FlowControl => return,
            Step::Single(bytes) => (frame.time_s, bytes),
            Step::Whole(message) => {
                whole = message;
                (whole.time_s, &whole.bytes)
            }
        };
        let heard =
            Heard { time_s, ends_s: frame.time_s, id: frame.id, extended: frame.extended, direction, unit, bytes };
        note(&mut self.pending, &heard);
        hear(heard);
    }

    /// Reports what is overdue at `now_s`: for a link, at every tick.
    pub fn tick(&mut self, now_s: f64) {
        self.transport.overdue(now_s, &mut self.faults);
        self.unanswered(now_s);
    }

    /// The capture ends: whatever was begun or asked stays open.
    pub fn finish(&mut self) {
        self.transport.overdue(f64::INFINITY, &mut self.faults);
        self.unanswered(f64::INFINITY);
    }

    fn unanswered(&mut self, now_s: f64) {
        let faults = &mut self.faults;
        self.pending.retain(|asked| {
            let late = now_s > asked.until_s;
            if late {
                let whom = asked.to.map_or("any unit".to_owned(), |unit| format!("unit {unit:02X}"));
                faults.push(FrameFault {
                    time_s: asked.time_s,
                    id: id_text(asked.id, asked.extended),
                    kind: FaultKind::Unanswered,
                    what: format!("service {:02X} was asked of {whom}, and nobody answered", asked.service),
                });
            }
            !late
        });
    }
}

fn note(pending: &mut Vec<Pending>, heard: &Heard<'_>) {
    let Some(&service) = heard.bytes.first() else { return };
    match heard.direction {
        Direction::Asks => pending.push(Pending {
            time_s: heard.time_s,
            until_s: heard.ends_s + ANSWER_WITHIN_S,
            id: heard.id,
            extended: heard.extended,
            to: heard.unit,
            service,
            about: {
                let mut about = [0; 6];
                about.iter_mut().zip(&heard.bytes[1..]).for_each(|(to, from)| *to = *from);
                about
            },
            abouts: heard.bytes.len().saturating_sub(1).min(6),
        }),
        Direction::Answers => {
            let (answered, longer) = match heard.bytes {
                [0x7F, service, 0x78] => (*service, true),
                [0x7F, service, ..] => (*service, false),
                _ => (service.wrapping_sub(0x40), false),
            };
            // An answer names the parameter, monitor or information it is about, and so answers that request alone.
            let named = match heard.bytes {
                [0x41 | 0x42 | 0x46 | 0x49, number, ..] => Some(*number),
                _ => None,
            };
            let fits = |asked: &Pending| {
                asked.service == answered
                    && (asked.to.is_none() || asked.to == heard.unit)
                    && named.is_none_or(|number| asked.about[..asked.abouts].contains(&number))
            };
            if longer {
                for asked in pending.iter_mut().filter(|asked| fits(asked)) {
                    asked.until_s = heard.ends_s + LONGER_WITHIN_S;
                }
            } else {
                pending.retain(|asked| !fits(asked));
            }
        }
    }
}

impl From<Heard<'_>> for Message {
    fn from(heard: Heard<'_>) -> Message {
        Message {
            time_s: heard.time_s,
            ends_s: heard.ends_s,
            id: heard.id,
            extended: heard.extended,
            bytes: heard.bytes.to_vec(),
        }
    }
}
