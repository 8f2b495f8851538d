//! The frames' JSON: frames in, messages, codes, counters and faults out.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::services::hex;
use super::transport::id_text;
use super::{Conversation, Direction, Frame, FrameFault, FreezeFrame, MonitorTest, Read, decode, parse_line};
use crate::codes::{CodeStatus, ReadCode};
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;

/// One frame written out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WrittenFrame {
    pub time_s: f64,
    /// Hexadecimal, 3 or 8 digits.
    pub id: String,
    /// Up to eight bytes in hexadecimal.
    pub data: String,
}

/// Frames, as a list or as the text of a capture, one frame a line: give one of them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FramesInput {
    #[serde(default)]
    pub frames: Option<Vec<WrittenFrame>>,
    #[serde(default)]
    pub capture: Option<String>,
}

/// A message with what it says.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MessageRead {
    pub time_s: f64,
    pub ends_s: f64,
    pub id: String,
    /// `asks` or `answers`.
    pub direction: String,
    pub unit: Option<u8>,
    pub bytes: String,
    pub read: Read,
}

/// What one unit said.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct UnitHeard {
    /// The identifier it answers on.
    pub id: String,
    pub unit: u8,
    pub name: Option<String>,
    pub codes: Vec<ReadCode>,
    pub freeze: Vec<FreezeFrame>,
    pub monitors: Vec<MonitorTest>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FramesResult {
    pub frames: u64,
    /// Frames of other traffic, left alone.
    pub others: u64,
    pub messages: Vec<MessageRead>,
    pub units: Vec<UnitHeard>,
    /// Misfires of this drive by cylinder, from monitors A2 to AD, the last reading of each.
    pub misfires: BTreeMap<String, f64>,
    pub faults: Vec<FrameFault>,
}

/// Puts frames together and decodes them.
///
/// # Errors
/// Neither or both of `frames` and `capture`; an empty list; a frame or a line that is none, by its number.
pub fn frames(input: &FramesInput, knowledge: &Knowledge) -> Result<FramesResult, Refusal> {
    let list = match (&input.frames, &input.capture) {
        (Some(frames), None) => frames
            .iter()
            .enumerate()
            .map(|(index, frame)| {
                let line = format!("(0.0) x {}#{}", frame.id.trim(), frame.data.replace(' ', ""));
                if !frame.time_s.is_finite() {
                    return Err(Refusal::new(format!("frames[{index}].time_s"), "must be a finite number"));
                }
                match parse_line(line.as_bytes()) {
                    Ok(Some(read)) => Ok(Frame { time_s: frame.time_s, ..read }),
                    Ok(None) => Err(Refusal::new(format!("frames[{index}]"), "is empty")),
                    Err(fault) => Err(Refusal::new(format!("frames[{index}]"), fault.text())),
                }
            })
            .collect::<Result<Vec<_>, _>>()?,
        (None, Some(text)) => {
            let mut list = Vec::new();
            for (index, line) in text.lines().enumerate() {
                match parse_line(line.as_bytes()) {
                    Ok(Some(frame)) => list.push(frame),
                    Ok(None) => {}
                    Err(fault) => return Err(Refusal::new(format!("capture, line {}", index + 1), fault.text())),
                }
            }
            list
        }
        (None, None) => return Err(Refusal::new("frames", "is missing")),
        _ => return Err(Refusal::new("capture", "give either frames or a capture")),
    };
    if list.is_empty() {
        return Err(Refusal::new("frames", "is empty"));
    }
    Ok(frames_of(list.iter(), knowledge))
}

/// The same for frames that are already read.
pub fn frames_of<'a>(list: impl Iterator<Item = &'a Frame>, knowledge: &Knowledge) -> FramesResult {
    let book = &knowledge.parameters;
    let mut conversation = Conversation::default();
    let mut messages = Vec::new();
    let mut units: BTreeMap<String, UnitHeard> = BTreeMap::new();
    let mut misfires = BTreeMap::new();
    let mut misfits = Vec::new();
    for frame in list {
        conversation.push(frame, |heard| {
            let (read, wrong) = decode(heard.bytes, book);
            let id = id_text(heard.id, heard.extended);
            misfits.extend(wrong.into_iter().map(|what| FrameFault {
                time_s: heard.time_s,
                id: id.clone(),
                kind: super::FaultKind::Content,
                what,
            }));
            if let (Direction::Answers, Some(unit)) = (heard.direction, heard.unit) {
                let entry = units.entry(id.clone()).or_insert_with(|| UnitHeard {
                    id: id.clone(),
                    unit,
                    name: None,
                    codes: Vec::new(),
                    freeze: Vec::new(),
                    monitors: Vec::new(),
                });
                gather(entry, &read, &mut misfires);
            }
            messages.push(MessageRead {
                time_s: heard.time_s,
                ends_s: heard.ends_s,
                id,
                direction: if heard.direction == Direction::Asks { "asks".into() } else { "answers".into() },
                unit: heard.unit,
                bytes: hex(heard.bytes),
                read,
            });
        });
    }
    conversation.finish();
    units.values_mut().for_each(attach_freeze);
    let mut faults = conversation.faults;
    faults.extend(misfits);
    faults.sort_by(|a, b| a.time_s.total_cmp(&b.time_s).then(a.kind.cmp(&b.kind)));
    FramesResult {
        frames: conversation.frames,
        others: conversation.others,
        messages,
        units: units.into_values().collect(),
        misfires,
        faults,
    }
}

fn gather(unit: &mut UnitHeard, read: &Read, misfires: &mut BTreeMap<String, f64>) {
    match read {
        Read::Codes { status, codes } => {
            for code in codes {
                let known = unit.codes.iter_mut().find(|known| known.code == *code);
                match known {
                    // Stored says more than pending of the same code; permanent says more than stored.
                    Some(known) if rank(Some(*status)) > rank(known.status) => known.status = Some(*status),
                    Some(_) => {}
                    None => unit.codes.push(ReadCode::new(code.clone(), Some(*status))),
                }
            }
        }
        Read::Freeze { frame } => match unit.freeze.iter_mut().find(|f| f.number == frame.number) {
            Some(known) => {
                for value in &frame.values {
                    if !known.values.iter().any(|v| v.name == value.name) {
                        known.values.push(value.clone());
                    }
                }
            }
            None => unit.freeze.push(frame.clone()),
        },
        Read::Monitors { tests } => {
            for test in tests {
                if let (Some(cylinder), "0C") = (test.cylinder, test.test.as_str()) {
                    misfires.insert(cylinder.to_string(), test.value);
                }
                unit.monitors.retain(|m| m.monitor != test.monitor || m.test != test.test);
                unit.monitors.push(test.clone());
            }
        }
        Read::Text { name, text } if name == "unit" => unit.name = Some(text.clone()),
        _ => {}
    }
}

/// Puts the values of a freeze frame to the code that it names.
fn attach_freeze(unit: &mut UnitHeard) {
    for frame in &unit.freeze {
        let named = frame.values.iter().find(|v| v.name == "code").and_then(|v| v.text.as_deref());
        if let Some(code) = unit.codes.iter_mut().find(|code| Some(code.code.as_str()) == named) {
            code.freeze = frame.values.iter().filter(|v| v.name != "code").cloned().collect();
        }
    }
}

fn rank(status: Option<CodeStatus>) -> u8 {
    match status {
        Some(CodeStatus::Permanent) => 3,
        Some(CodeStatus::Stored) => 2,
        Some(CodeStatus::Pending) => 1,
        _ => 0,
    }
}
