//! The scan: every unit, its codes with their freeze frames, its monitors.

use std::collections::BTreeSet;

use ember_core::codes::{Code, ReadCode};
use ember_core::frames::{FreezeFrame, Read, decode, self_tests_of};
use ember_core::knowledge::Knowledge;

use super::status::{ScanShown, ScannedUnit};
use super::wire::{Answer, LinkError, Wire, refused};

/// Asks a unit for its name.
const NAME: [u8; 2] = [0x09, 0x0A];
/// Parameters that a freeze frame is asked for.
const FROZEN: [u8; 14] = [0x04, 0x05, 0x06, 0x07, 0x08, 0x09, 0x0B, 0x0C, 0x0D, 0x0F, 0x10, 0x11, 0x70, 0x71];

/// Scans all units. `expected` are names that must be there although they may be silent. `progress` is told of every
/// step and says whether to go on.
///
/// # Errors
/// The link dropped; nobody answers.
pub fn scan(
    wire: &mut Wire,
    expected: &[String],
    knowledge: &Knowledge,
    progress: &mut dyn FnMut(&ScanShown, &str, usize, usize) -> bool,
) -> Result<ScanShown, LinkError> {
    let mut shown = ScanShown::default();
    let named = wire.ask_all(&NAME)?;
    let mut units: Vec<(u8, String)> = Vec::new();
    for answer in named {
        if let Some(name) = name_of(&answer, knowledge)
            && !units.iter().any(|u| u.0 == answer.unit)
        {
            units.push((answer.unit, name));
        }
    }
    let others: BTreeSet<u8> = wire.ask_all(&[0x03])?.into_iter().map(|answer| answer.unit).collect();
    for number in others {
        if units.iter().any(|u| u.0 == number) {
            continue;
        }
        // It came too late when all spoke at once, or it has no name.
        let name = wire.ask(number, &NAME)?.and_then(|answer| name_of(&answer, knowledge));
        units.push((number, name.unwrap_or_else(|| format!("unit {number:02X}"))));
    }
    // The engine's unit comes first.
    units.sort_by_key(|unit| unit.0);
    if units.is_empty() {
        return Err(LinkError::NobodyAnswers);
    }
    let all = units.len();
    for (index, (number, name)) in units.into_iter().enumerate() {
        if !progress(&shown, &name, index, all) {
            return Ok(shown);
        }
        let unit = scan_unit(wire, number, &name, index == 0, knowledge)?;
        shown.units.push(unit);
    }
    if let Some(first) = shown.units.first().map(|u| u.number)
        && let Some(answer) = wire.ask(first, &[0x09, 0x02])?
        && let (Read::Text { text, .. }, _) = decode(&answer.bytes, &knowledge.parameters)
    {
        shown.identification = Some(text);
    }
    // Units that should be there: those that an earlier scan knew, and those that others miss.
    let missed = shown
        .units
        .iter()
        .flat_map(|unit| &unit.codes)
        .filter_map(|code| knowledge.units.lost.get(&code.code).cloned());
    let mut silent: Vec<String> = expected.iter().map(|name| name.trim().to_lowercase()).chain(missed).collect();
    silent.retain(|name| !name.is_empty() && !shown.units.iter().any(|unit| unit.name == *name));
    silent.sort();
    silent.dedup();
    shown.units.extend(silent.into_iter().map(|name| ScannedUnit {
        number: 0,
        name,
        read: false,
        why: "it did not answer: an unread unit is not a clean one".into(),
        codes: Vec::new(),
        monitors: Vec::new(),
        self_tests: None,
    }));
    shown.complete = true;
    Ok(shown)
}

fn name_of(answer: &Answer, knowledge: &Knowledge) -> Option<String> {
    match decode(&answer.bytes, &knowledge.parameters) {
        (Read::Text { text, .. }, _) => Some(text.to_lowercase()),
        _ => None,
    }
}

fn scan_unit(
    wire: &mut Wire,
    number: u8,
    name: &str,
    engine: bool,
    knowledge: &Knowledge,
) -> Result<ScannedUnit, LinkError> {
    let mut unit = ScannedUnit {
        number,
        name: name.to_owned(),
        read: false,
        why: String::new(),
        codes: Vec::new(),
        monitors: Vec::new(),
        self_tests: None,
    };
    for service in [0x03, 0x07, 0x0A] {
        let Some(answer) = wire.ask(number, &[service])? else {
            unit.why = format!("it stopped answering at service {service:02X}");
            continue;
        };
        if let Some(why) = refused(&answer, knowledge) {
            unit.why = format!("service {service:02X}: {why}");
            continue;
        }
        match decode(&answer.bytes, &knowledge.parameters) {
            (Read::Codes { status, codes }, _) => {
                // Only an answer to the stored codes makes it a read unit.
                unit.read |= service == 0x03;
                for code in codes {
                    match unit.codes.iter_mut().find(|known| known.code == code) {
                        Some(known) if service == 0x0A => known.status = Some(status),
                        Some(_) => {}
                        None => unit
                            .codes
                            .push(ReadCode { unit: Some(name.to_owned()), ..ReadCode::new(code, Some(status)) }),
                    }
                }
            }
            (_, misfits) => unit.why = misfits.join("; "),
        }
    }
    if !engine {
        return Ok(unit);
    }
    if let Some(answer) = wire.ask(number, &[0x01, 0x01])? {
        unit.self_tests = self_tests_of(&answer.bytes, &knowledge.parameters);
    }
    for frame in 0..unit.codes.len().min(8) as u8 {
        let Some((code, freeze)) = freeze_frame(wire, number, frame, knowledge)? else { break };
        if let Some(owner) = unit.codes.iter_mut().find(|c| c.code == code) {
            owner.freeze = freeze.values;
        }
    }
    for monitor in supported_monitors(wire, number, knowledge)? {
        if let Some(answer) = wire.ask(number, &[0x06, monitor])?
            && let (Read::Monitors { tests }, _) = decode(&answer.bytes, &knowledge.parameters)
        {
            unit.monitors.extend(tests);
        }
    }
    Ok(unit)
}

fn freeze_frame(
    wire: &mut Wire,
    unit: u8,
    frame: u8,
    knowledge: &Knowledge,
) -> Result<Option<(String, FreezeFrame)>, LinkError> {
    let Some(answer) = wire.ask(unit, &[0x02, 0x02, frame])? else { return Ok(None) };
    let (Read::Freeze { frame: first }, _) = decode(&answer.bytes, &knowledge.parameters) else { return Ok(None) };
    let Some(code) = first.values.iter().find(|v| v.name == "code").and_then(|v| v.text.clone()) else {
        return Ok(None);
    };
    if Code::parse(&code).is_err() {
        return Ok(None);
    }
    let mut whole = FreezeFrame { number: frame, values: Vec::new() };
    for parameter in FROZEN {
        let Some(answer) = wire.ask(unit, &[0x02, parameter, frame])? else { continue };
        if let (Read::Freeze { frame }, _) = decode(&answer.bytes, &knowledge.parameters) {
            whole.values.extend(frame.values);
        }
    }
    Ok(Some((code, whole)))
}

/// The misfire monitors that the unit has.
fn supported_monitors(wire: &mut Wire, unit: u8, knowledge: &Knowledge) -> Result<Vec<u8>, LinkError> {
    let Some(answer) = wire.ask(unit, &[0x06, 0xA0])? else { return Ok(Vec::new()) };
    match decode(&answer.bytes, &knowledge.parameters).0 {
        Read::Supported { numbers, .. } => Ok(numbers.into_iter().filter(|n| matches!(n, 0xA2..=0xAD)).collect()),
        _ => Ok(Vec::new()),
    }
}
