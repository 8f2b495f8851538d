//! Services: what a whole message says (ISO 15031-5 services 01 to 0A; inputs and outputs driven by ISO 14229).

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::ParameterBook;
use crate::codes::{Code, CodeStatus};

/// A decoded value with its unit and the bytes it came from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DecodedValue {
    pub name: String,
    /// Null where the bytes are no number (a bit field, an unknown parameter).
    pub value: Option<f64>,
    /// Words where the bytes are no number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub text: Option<String>,
    #[serde(default)]
    pub unit: String,
    /// The bytes in hexadecimal.
    #[serde(default)]
    pub raw: String,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub channel: Option<String>,
}

/// Values as they stood when a code was set.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FreezeFrame {
    pub number: u8,
    pub values: Vec<DecodedValue>,
}

/// A result of an on-board monitor.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MonitorTest {
    /// In hexadecimal, as the standard writes it.
    pub monitor: String,
    pub test: String,
    pub value: f64,
    pub low: f64,
    pub high: f64,
    pub unit: String,
    pub raw: String,
    pub passed: bool,
    /// For monitors A2 to AD: the cylinder whose misfires it counts.
    pub cylinder: Option<u8>,
    /// `this drive` or `average of the last ten drives`.
    pub counts: Option<String>,
}

/// What a message says.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[serde(tag = "says", rename_all = "kebab-case")]
pub enum Read {
    Request {
        service: u8,
        about: String,
    },
    Values {
        values: Vec<DecodedValue>,
    },
    Freeze {
        frame: FreezeFrame,
    },
    Codes {
        status: CodeStatus,
        codes: Vec<String>,
    },
    Cleared,
    Monitors {
        tests: Vec<MonitorTest>,
    },
    Text {
        name: String,
        text: String,
    },
    /// Which numbers of a service there are.
    Supported {
        service: u8,
        numbers: Vec<u8>,
    },
    /// An output was driven, or a value read back, by identifier.
    Driven {
        identifier: String,
        data: String,
    },
    Refused {
        service: u8,
        reason: u8,
        text: String,
    },
    /// Bytes that are not understood, kept as they are.
    Unknown {
        why: String,
    },
}

pub(crate) fn hex(bytes: &[u8]) -> String {
    use std::fmt::Write;
    bytes.iter().fold(String::with_capacity(2 * bytes.len()), |mut text, byte| {
        let _ = write!(text, "{byte:02X}");
        text
    })
}

/// The words for a negative response's reason.
pub fn refusal_text(reason: u8, book: &ParameterBook) -> String {
    book.refusals.get(&reason).cloned().unwrap_or_else(|| format!("for a reason with the number {reason:02X}"))
}

/// Decodes a message. The second list holds what does not fit: such bytes are never made into a value.
pub fn decode(bytes: &[u8], book: &ParameterBook) -> (Read, Vec<String>) {
    let mut misfits = Vec::new();
    let Some(&service) = bytes.first() else {
        return (Read::Unknown { why: "an empty message".into() }, vec!["an empty message".into()]);
    };
    let rest = &bytes[1..];
    let read = match service {
        0x01..=0x0A | 0x22 | 0x2F => Read::Request { service, about: hex(rest) },
        0x41 => live(rest, book, &mut misfits),
        0x42 => freeze(rest, book, &mut misfits),
        0x43 => codes(rest, CodeStatus::Stored, &mut misfits),
        0x47 => codes(rest, CodeStatus::Pending, &mut misfits),
        0x4A => codes(rest, CodeStatus::Permanent, &mut misfits),
        0x44 if rest.is_empty() => Read::Cleared,
        0x46 => monitors(rest, book, &mut misfits),
        0x49 => information(rest, &mut misfits),
        0x62 | 0x6F if rest.len() >= 2 => Read::Driven { identifier: hex(&rest[..2]), data: hex(&rest[2..]) },
        0x7F if rest.len() == 2 => {
            Read::Refused { service: rest[0], reason: rest[1], text: refusal_text(rest[1], book) }
        }
        other => {
            misfits.push(format!("service {other:02X} with {} bytes is not known here", rest.len()));
            Read::Unknown { why: "a service that is not known here".into() }
        }
    };
    (read, misfits)
}

fn live(mut rest: &[u8], book: &ParameterBook, misfits: &mut Vec<String>) -> Read {
    if let Some((&number, data)) = rest.split_first()
        && number & 0x1F == 0
        && data.len() == 4
    {
        return Read::Supported { service: 1, numbers: supported(number, data) };
    }
    let mut values = Vec::new();
    while let Some((&number, data)) = rest.split_first() {
        let Some(length) = book.bytes(number) else {
            // Without its length nobody knows where the next one begins.
            misfits.push(format!("parameter {number:02X} is not known: it and what follows is left as bytes"));
            values.push(unknown(number, data));
            break;
        };
        if data.len() < length {
            misfits.push(format!("parameter {number:02X} has {} bytes and needs {length}", data.len()));
            break;
        }
        values.extend(values_of(number, &data[..length], book));
        rest = &data[length..];
    }
    if values.is_empty() {
        return Read::Unknown { why: "no whole parameter".into() };
    }
    Read::Values { values }
}

fn unknown(number: u8, data: &[u8]) -> DecodedValue {
    DecodedValue {
        name: format!("parameter {number:02X}"),
        value: None,
        text: Some("not known here".into()),
        unit: String::new(),
        raw: hex(data),
        channel: None,
    }
}

/// The values of one parameter, whose bytes are as many as it needs.
fn values_of(number: u8, data: &[u8], book: &ParameterBook) -> Vec<DecodedValue> {
    if let Some(parameter) = book.get(number) {
        return parameter
            .values
            .iter()
            .map(|value| DecodedValue {
                name: value.name.clone(),
                value: Some(value.of(data)),
                text: None,
                unit: value.unit.clone(),
                raw: hex(&data[value.at..value.at + value.bytes]),
                channel: value.channel.clone(),
            })
            .collect();
    }
    let words = |name: &str, text: String, channel: Option<(&str, f64)>| DecodedValue {
        name: name.into(),
        value: channel.map(|c| c.1),
        text: Some(text),
        unit: String::new(),
        raw: hex(data),
        channel: channel.map(|c| c.0.to_owned()),
    };
    match number {
        0x01 | 0x41 => {
            let mut list = Vec::new();
            if number == 0x01 {
                let light = if data[0] & 0x80 != 0 { "on" } else { "off" };
                list.push(words("engine light", format!("{light}, {} codes stored", data[0] & 0x7F), None));
            }
            list.push(words("readiness", self_tests(data, book).words(), None));
            list
        }
        0x03 => {
            // Bit 1 and bit 4 of the first system: regulated by the exhaust sensor.
            let closed = data[0] & 0b0001_0010 != 0;
            let text = if closed { "closed loop" } else { "open loop" };
            vec![words("mixture", text.into(), Some(("closed_loop", f64::from(u8::from(closed)))))]
        }
        _ => vec![words(&format!("parameters from {number:02X}"), list_of(&supported(number, data)), None)],
    }
}

fn list_of(numbers: &[u8]) -> String {
    numbers.iter().map(|n| format!("{n:02X}")).collect::<Vec<_>>().join(" ")
}

/// Which self-tests of the control unit have run since its memory was cleared, and which have not.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct SelfTests {
    pub ready: Vec<String>,
    pub not_ready: Vec<String>,
}

impl SelfTests {
    fn words(&self) -> String {
        if self.not_ready.is_empty() {
            "complete".into()
        } else {
            format!("not complete: {}", self.not_ready.join(", "))
        }
    }
}

/// The self-tests out of an answer to parameter 01 of live data; none from any other message.
pub fn self_tests_of(answer: &[u8], book: &ParameterBook) -> Option<SelfTests> {
    match answer {
        [0x41, 0x01, data @ ..] if data.len() >= 4 => Some(self_tests(data, book)),
        _ => None,
    }
}

/// Out of the four bytes of parameter 01 or 41.
fn self_tests(data: &[u8], book: &ParameterBook) -> SelfTests {
    let names = &book.self_tests;
    let others = if data[1] & 0x08 != 0 { &names.compression } else { &names.spark };
    let always =
        names.always.iter().enumerate().map(|(bit, name)| (name, data[1] >> bit & 1, data[1] >> (bit + 4) & 1));
    let others = others.iter().enumerate().map(|(bit, name)| (name, data[2] >> bit & 1, data[3] >> bit & 1));
    let mut tests = SelfTests::default();
    for (name, has, waits) in always.chain(others) {
        if has == 1 && !name.is_empty() {
            let list = if waits == 1 { &mut tests.not_ready } else { &mut tests.ready };
            list.push(name.clone());
        }
    }
    tests
}

/// The numbers that four bytes of bits after `base` stand for.
fn supported(base: u8, data: &[u8]) -> Vec<u8> {
    (0..32u8)
        .filter(|bit| data[usize::from(bit / 8)] >> (7 - bit % 8) & 1 == 1)
        .filter_map(|bit| base.checked_add(bit + 1))
        .collect()
}

fn freeze(rest: &[u8], book: &ParameterBook, misfits: &mut Vec<String>) -> Read {
    let mut values = Vec::new();
    let mut frame = 0;
    let mut rest = rest;
    while let [number, of, data @ ..] = rest {
        frame = *of;
        // Parameter 02 of a freeze frame is the code that caused it.
        let length = if *number == 0x02 { Some(2) } else { book.bytes(*number) };
        let Some(length) = length else {
            misfits.push(format!("parameter {number:02X} of the freeze frame is not known: left as bytes"));
            values.push(unknown(*number, data));
            break;
        };
        if data.len() < length {
            misfits.push(format!(
                "parameter {number:02X} of the freeze frame has {} bytes and needs {length}",
                data.len()
            ));
            break;
        }
        if *number == 0x02 {
            let code = Code::from_bytes([data[0], data[1]]);
            values.push(DecodedValue {
                name: "code".into(),
                value: None,
                text: Some(if data[..2] == [0, 0] { "none".into() } else { code.to_string() }),
                unit: String::new(),
                raw: hex(&data[..2]),
                channel: None,
            });
        } else {
            values.extend(values_of(*number, &data[..length], book));
        }
        rest = &data[length..];
    }
    if values.is_empty() {
        misfits.push("a freeze frame without a value".into());
        return Read::Unknown { why: "no whole parameter".into() };
    }
    Read::Freeze { frame: FreezeFrame { number: frame, values } }
}

fn codes(rest: &[u8], status: CodeStatus, misfits: &mut Vec<String>) -> Read {
    let Some((&count, data)) = rest.split_first() else {
        misfits.push("a list of codes without its number".into());
        return Read::Unknown { why: "no number of codes".into() };
    };
    if data.len() != 2 * usize::from(count) {
        misfits.push(format!("it says {count} codes and holds {} bytes for them", data.len()));
        return Read::Unknown { why: "the number of codes does not fit".into() };
    }
    let codes = data.chunks_exact(2).map(|pair| Code::from_bytes([pair[0], pair[1]]).to_string()).collect();
    Read::Codes { status, codes }
}

fn monitors(rest: &[u8], book: &ParameterBook, misfits: &mut Vec<String>) -> Read {
    if let Some((&number, data)) = rest.split_first()
        && number & 0x1F == 0
        && data.len() == 4
    {
        return Read::Supported { service: 6, numbers: supported(number, data) };
    }
    if rest.is_empty() || !rest.len().is_multiple_of(9) {
        misfits.push(format!("monitor results come nine bytes each, and these are {}", rest.len()));
        return Read::Unknown { why: "the length does not fit".into() };
    }
    let tests = rest
        .chunks_exact(9)
        .map(|part| {
            let scale = book.scales.get(&part[2]);
            let number = |pair: &[u8]| {
                let raw = u16::from_be_bytes([pair[0], pair[1]]);
                let signed = scale.is_some_and(|s| s.signed);
                let plain = if signed { f64::from(raw as i16) } else { f64::from(raw) };
                plain * scale.map_or(1.0, |s| s.scale)
            };
            if scale.is_none() {
                misfits.push(format!("the scale {:02X} is not known: the value is shown as it came", part[2]));
            }
            let (value, low, high) = (number(&part[3..5]), number(&part[5..7]), number(&part[7..9]));
            let cylinder = matches!(part[0], 0xA2..=0xAD).then(|| part[0] - 0xA1);
            MonitorTest {
                monitor: hex(&part[..1]),
                test: hex(&part[1..2]),
                value,
                low,
                high,
                unit: scale.map_or_else(|| "as it came".to_owned(), |s| s.unit.clone()),
                raw: hex(&part[3..5]),
                passed: (low..=high).contains(&value),
                cylinder,
                counts: cylinder.and(match part[1] {
                    0x0B => Some("average of the last ten drives".to_owned()),
                    0x0C => Some("this drive".to_owned()),
                    _ => None,
                }),
            }
        })
        .collect();
    Read::Monitors { tests }
}

fn information(rest: &[u8], misfits: &mut Vec<String>) -> Read {
    if let [number, data @ ..] = rest
        && number & 0x1F == 0
        && data.len() == 4
    {
        return Read::Supported { service: 9, numbers: supported(*number, data) };
    }
    let [number, count, data @ ..] = rest else {
        misfits.push("vehicle information without its number".into());
        return Read::Unknown { why: "too short".into() };
    };
    let (name, each) = match number {
        0x02 => ("vehicle identification", 17),
        0x04 => ("calibration", 16),
        0x06 => ("calibration check", 4),
        0x0A => ("unit", 20),
        _ => ("information", data.len().max(1)),
    };
    if data.len() != each * usize::from(*count) && each != data.len().max(1) {
        misfits.push(format!("{name} says {count} parts of {each} bytes and holds {}", data.len()));
        return Read::Unknown { why: "the length does not fit".into() };
    }
    let printable = data.iter().all(|b| *b == 0 || (0x20..0x7F).contains(b));
    let text = if *number == 0x06 || !printable {
        hex(data)
    } else {
        data.iter().map(|&b| if b == 0 { ' ' } else { char::from(b) }).collect::<String>().trim().to_owned()
    };
    Read::Text { name: name.to_owned(), text }
}
