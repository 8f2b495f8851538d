//! A car on its diagnostic connector: control units that answer requests with frames.

use std::collections::BTreeMap;

use ember_core::codes::Code;
use ember_core::frames::{Address, Frame, address, segments};

use crate::fault::Fault;
use crate::model::{Model, OUTSIDE_C, State};
use crate::outputs::{THROTTLE, VANES, coil_of, outputs};
use crate::profile::{Burns, Profile};

/// A code of a unit and how it stands.
#[derive(Debug, Clone)]
struct Stored {
    unit: u8,
    code: Code,
    /// Seconds of running after a clearing until it is pending; it is stored after three times that.
    after_s: f64,
    comes_back: bool,
    pending: bool,
    stored: bool,
    freeze: Option<Box<State>>,
}

/// The simulated car.
pub struct Car {
    pub model: Model,
    codes: Vec<Stored>,
    cleared_at_s: f64,
    /// Frames of a long answer that wait for the tester's leave, by the identifier it comes on.
    waiting: BTreeMap<u32, Vec<Frame>>,
    /// Outputs that are held, with what they were driven to.
    held: BTreeMap<u16, u8>,
}

impl Car {
    pub fn new(profile: Profile, faults: Vec<Fault>, seed: u64) -> Car {
        let engine = profile.units.first().map_or(0, |unit| unit.number);
        let other = |name: &str| profile.units.iter().find(|u| u.name == name && !u.silent).map(|u| u.number);
        let mut codes = Vec::new();
        let mut add = |unit: Option<u8>, code: &str, after_s: f64| {
            if let (Some(unit), Ok(code)) = (unit, Code::parse(code)) {
                codes.push(Stored { unit, code, after_s, comes_back: true, pending: true, stored: true, freeze: None });
            }
        };
        let own = Some(engine);
        for fault in &faults {
            match fault {
                Fault::DeadCoil(n) => {
                    add(own, &format!("P03{n:02}"), 4.0);
                    add(own, &format!("P035{n}"), 0.0);
                }
                Fault::MisfireUnderLoad(n) => add(own, &format!("P03{n:02}"), 120.0),
                Fault::TakingTurns => {
                    add(own, "P0300", 60.0);
                    add(own, "P0336", 60.0);
                }
                Fault::AirLeak(_) => {
                    add(own, "P0171", 45.0);
                    add(other("gearbox"), "U0401", 60.0);
                    add(other("brakes"), "C0561", 60.0);
                    add(other("plough"), "U0140", 2.0);
                }
                Fault::WeakPump(_) => add(own, if profile.fuel == Burns::Diesel { "P0087" } else { "P0171" }, 90.0),
                Fault::MeterUnderReads(_) => add(own, "P0101", 90.0),
                Fault::BoostLeak(_) | Fault::StuckActuator | Fault::VanesNotDriven => add(own, "P0299", 110.0),
                Fault::StickingVanes => {
                    add(own, "P0234", 110.0);
                    add(other("brakes"), "C0561", 120.0);
                }
                Fault::CrankHot => add(own, "P0335", 150.0),
                Fault::GlowPlug(n) => add(own, &format!("P067{n}"), 0.0),
            }
        }
        for stale in &profile.stale {
            if let Ok(code) = Code::parse(&stale.code) {
                codes.push(Stored {
                    unit: stale.unit,
                    code,
                    after_s: 0.0,
                    comes_back: false,
                    pending: false,
                    stored: true,
                    freeze: None,
                });
            }
        }
        let mut car = Car {
            model: Model::new(profile, faults, seed),
            codes,
            cleared_at_s: f64::NEG_INFINITY,
            waiting: BTreeMap::new(),
            held: BTreeMap::new(),
        };
        car.keep_old_freeze_frames();
        car
    }

    /// The codes were set on an earlier drive: their freeze frames come from there.
    fn keep_old_freeze_frames(&mut self) {
        let mut then = Model::new(self.model.profile.clone(), self.model.faults.clone(), 11);
        then.run_to(100.0);
        for stored in &mut self.codes {
            stored.freeze = Some(Box::new(then.state.clone()));
        }
    }

    /// Runs to a time, and sets the codes that are due.
    pub fn run_to(&mut self, time_s: f64) {
        self.model.run_to(time_s);
        let since = self.model.state.time_s - self.cleared_at_s;
        for stored in self.codes.iter_mut().filter(|s| s.comes_back) {
            if !stored.pending && since >= stored.after_s {
                stored.pending = true;
                stored.freeze = Some(Box::new(self.model.state.clone()));
            }
            if !stored.stored && since >= 3.0 * stored.after_s {
                stored.stored = true;
            }
        }
    }

    /// Takes a frame from the tester and gives the frames that answer it now.
    pub fn answer(&mut self, frame: &Frame) -> Vec<Frame> {
        let Some(to) = address(frame.id, frame.extended) else { return Vec::new() };
        if frame.extended != self.model.profile.long_identifiers {
            return Vec::new();
        }
        let bytes = frame.bytes();
        let Some(&first) = bytes.first() else { return Vec::new() };
        let units: Vec<u8> = self
            .model
            .profile
            .units
            .iter()
            .filter(|unit| !unit.silent)
            .map(|unit| unit.number)
            .filter(|&unit| to == Address::ToAll || to == Address::ToUnit(unit))
            .collect();
        match first >> 4 {
            // Flow control: the rest of a long answer may go.
            3 => {
                let now = self.model.state.time_s;
                let ids: Vec<u32> = units.into_iter().map(|unit| self.id_of(unit)).collect();
                let parts = ids.iter().filter_map(|id| self.waiting.remove(id)).flatten();
                parts.map(|part| Frame { time_s: now, ..part }).collect()
            }
            0 => {
                let length = usize::from(first & 0x0F);
                if length == 0 || length > bytes.len() - 1 {
                    return Vec::new();
                }
                let request = bytes[1..=length].to_vec();
                let mut list = Vec::new();
                for unit in units {
                    let Some(answer) = self.unit_answer(unit, &request, to == Address::ToAll) else { continue };
                    list.extend(self.send(unit, &answer));
                }
                list
            }
            _ => Vec::new(),
        }
    }

    fn id_of(&self, unit: u8) -> u32 {
        if self.model.profile.long_identifiers { 0x18DA_F100 | u32::from(unit) } else { 0x7E8 + u32::from(unit) }
    }

    fn send(&mut self, unit: u8, answer: &[u8]) -> Vec<Frame> {
        let id = self.id_of(unit);
        let now = self.model.state.time_s;
        let mut parts: Vec<Frame> = segments(answer)
            .into_iter()
            .map(|data| Frame { extended: self.model.profile.long_identifiers, ..Frame::new(now, id, &data) })
            .collect();
        if parts.len() > 1 {
            let rest = parts.split_off(1);
            self.waiting.insert(id, rest);
        }
        parts
    }

    /// A unit's answer; nothing when it was asked with the others and has nothing to say.
    fn unit_answer(&mut self, unit: u8, request: &[u8], to_all: bool) -> Option<Vec<u8>> {
        let service = *request.first()?;
        let engine = self.model.profile.units.first().is_some_and(|u| u.number == unit);
        let answer = match service {
            0x01 if engine => self.live(&request[1..]),
            0x02 if engine => self.freeze(&request[1..]),
            0x03 => Some(self.list(0x43, unit, |s| s.stored)),
            0x07 => Some(self.list(0x47, unit, |s| s.pending && !s.stored)),
            0x0A => Some(self.list(0x4A, unit, |s| s.stored && s.comes_back)),
            0x04 => {
                self.clear(unit);
                Some(vec![0x44])
            }
            0x06 if engine => self.monitors(&request[1..]),
            0x09 => self.information(unit, &request[1..]),
            0x22 if engine => self.read_output(&request[1..]),
            0x2F if engine => return Some(self.drive(&request[1..])),
            _ => return (!to_all).then(|| vec![0x7F, service, 0x11]),
        };
        answer.or_else(|| (!to_all).then(|| vec![0x7F, service, 0x31]))
    }

    fn list(&self, head: u8, unit: u8, which: impl Fn(&Stored) -> bool) -> Vec<u8> {
        let codes: Vec<[u8; 2]> =
            self.codes.iter().filter(|s| s.unit == unit && which(s)).map(|s| s.code.bytes()).collect();
        let mut answer = vec![head, codes.len() as u8];
        answer.extend(codes.concat());
        answer
    }

    fn clear(&mut self, unit: u8) {
        for stored in self.codes.iter_mut().filter(|s| s.unit == unit) {
            (stored.pending, stored.stored, stored.freeze) = (false, false, None);
        }
        self.cleared_at_s = self.model.state.time_s;
        self.model.clear_counters();
    }

    fn numbers(&self) -> Vec<u8> {
        let profile = &self.model.profile;
        let mut list = vec![0x01, 0x04, 0x05, 0x0B, 0x0C, 0x0D, 0x0F, 0x1C, 0x1F, 0x31, 0x33, 0x42, 0x46];
        if profile.fuel == Burns::Petrol {
            list.extend([0x03, 0x06, 0x07, 0x0E, 0x11]);
            if profile.banks.len() > 1 {
                list.extend([0x08, 0x09]);
            }
            if !profile.speed_density {
                list.push(0x10);
            }
        } else {
            list.extend([0x10, 0x11, 0x6D]);
            if profile.charged {
                list.extend([0x70, 0x71]);
            }
        }
        list
    }

    fn live(&self, numbers: &[u8]) -> Option<Vec<u8>> {
        let mut answer = vec![0x41];
        for &number in numbers.iter().take(6) {
            if let Some(data) = self.parameter(number, &self.model.state) {
                answer.push(number);
                answer.extend(data);
            }
        }
        (answer.len() > 1).then_some(answer)
    }

    fn freeze(&self, request: &[u8]) -> Option<Vec<u8>> {
        let [number, frame @ ..] = request else { return None };
        let of = frame.first().copied().unwrap_or(0);
        let engine = self.model.profile.units.first()?.number;
        let frames: Vec<&Stored> =
            self.codes.iter().filter(|s| s.unit == engine && s.stored && s.freeze.is_some()).collect();
        let Some(stored) = frames.get(usize::from(of)) else {
            return (*number == 0x02).then(|| vec![0x42, 0x02, of, 0, 0]);
        };
        let mut answer = vec![0x42, *number, of];
        match number {
            0x02 => answer.extend(stored.code.bytes()),
            _ => answer.extend(self.parameter(*number, stored.freeze.as_deref()?)?),
        }
        Some(answer)
    }

    /// The bytes of a live parameter.
    fn parameter(&self, number: u8, s: &State) -> Option<Vec<u8>> {
        let byte = |value: f64| vec![value.round().clamp(0.0, 255.0) as u8];
        let word = |value: f64| (value.round().clamp(0.0, 65_535.0) as u16).to_be_bytes().to_vec();
        let trim = |list: &[f64], bank: usize| list.get(bank).map(|pct| byte(128.0 + pct * 1.28));
        if number & 0x1F == 0 {
            let own = self.numbers();
            return Some(bits(number, &own, own.iter().any(|&n| n > number | 0x1F)));
        }
        if !self.numbers().contains(&number) {
            return None;
        }
        Some(match number {
            0x01 => self.readiness(),
            0x03 => vec![if s.closed_loop { 2 } else { 4 }, 0],
            0x04 => byte(
                2.55 * 100.0 * (s.map_kpa / if self.model.profile.charged { 225.0 } else { s.ambient_kpa }).min(1.0),
            ),
            0x05 => byte(s.coolant_c + 40.0),
            0x06 => trim(&s.short_pct, 0)?,
            0x07 => trim(&s.long_pct, 0)?,
            0x08 => trim(&s.short_pct, 1)?,
            0x09 => trim(&s.long_pct, 1)?,
            0x0B => byte(s.map_kpa),
            0x0C => word(s.shown_rpm * 4.0),
            0x0D => byte(s.km_h),
            0x0E => byte((s.advance_deg + 64.0) * 2.0),
            0x0F => byte(s.intake_c + 40.0),
            0x10 => word(s.airflow_gps * 100.0),
            0x11 => byte(s.throttle_pct * 2.55),
            0x1C => vec![6],
            0x1F => word(s.run_s.min(65_535.0)),
            0x31 => word(if self.cleared_at_s.is_finite() { 0.0 } else { 1200.0 }),
            0x33 => byte(s.ambient_kpa),
            0x42 => word(s.battery_v * 1000.0),
            0x46 => byte(OUTSIDE_C + 40.0),
            0x6D => {
                let mut data = vec![0x07];
                data.extend(word(s.rail_request_kpa / 10.0));
                data.extend(word(s.rail_kpa / 10.0));
                data.push(70);
                data.extend([0; 5]);
                data
            }
            0x70 => {
                let mut data = vec![0x03];
                data.extend(word(s.requested_kpa / 0.03125));
                data.extend(word(s.actual_kpa / 0.03125));
                data.extend([0; 5]);
                data
            }
            0x71 => {
                let mut data = vec![0x03];
                data.extend(byte(s.vane_request_pct * 2.55));
                data.extend(byte(s.vane_pct * 2.55));
                data.extend([0; 3]);
                data
            }
            _ => return None,
        })
    }

    fn readiness(&self) -> Vec<u8> {
        let stored = self.codes.iter().filter(|s| s.stored).count() as u8;
        let light = if stored > 0 { 0x80 } else { 0 };
        let compression = if self.model.profile.fuel == Burns::Diesel { 0x08 } else { 0 };
        // The three monitors that always run are complete; the others need a drive of eight minutes after a clearing.
        let done = self.model.state.time_s - self.cleared_at_s > 480.0;
        let others = 0b0110_0101;
        vec![light | stored.min(127), 0x07 | compression, others, if done { 0 } else { others }]
    }

    fn monitors(&self, request: &[u8]) -> Option<Vec<u8>> {
        let number = *request.first()?;
        let cylinders = self.model.profile.cylinders;
        let own: Vec<u8> = (0..cylinders).map(|index| 0xA2 + index).collect();
        if number & 0x1F == 0 {
            let further = number < 0xA0;
            let mut answer = vec![0x46, number];
            answer.extend(bits(number, &own, further));
            return Some(answer);
        }
        let cylinder = number.checked_sub(0xA2).filter(|&index| index < cylinders)?;
        let now = self.model.state.misfires[usize::from(cylinder)];
        let mut answer = vec![0x46];
        for (test, value) in [(0x0B, now / 2), (0x0C, now)] {
            answer.extend([number, test, 0x24]);
            answer.extend(value.to_be_bytes());
            answer.extend([0, 0, 0xFF, 0xFF]);
        }
        Some(answer)
    }

    fn information(&self, unit: u8, request: &[u8]) -> Option<Vec<u8>> {
        let number = *request.first()?;
        let name = self.model.profile.units.iter().find(|u| u.number == unit)?.name.clone();
        let mut answer = vec![0x49, number];
        match number {
            0x00 => answer.extend(bits(0, &[0x02, 0x0A], false)),
            0x02 => {
                answer.push(1);
                answer.extend(format!("{:0>17}", format!("CDHDEPOT{unit:02}")).as_bytes());
            }
            0x0A => {
                answer.push(1);
                let mut text = name.into_bytes();
                text.resize(20, 0);
                answer.extend(text);
            }
            _ => return None,
        }
        Some(answer)
    }

    fn output_state(&self, identifier: u16) -> Option<u8> {
        let known = outputs(&self.model.profile).into_iter().any(|o| o.identifier == identifier);
        let percent = |pct: f64| (pct * 2.55).round().clamp(0.0, 255.0) as u8;
        known.then(|| match identifier {
            THROTTLE => percent(self.model.state.throttle_pct),
            VANES => percent(self.model.state.vane_pct),
            // Whether the driver sees current in the circuit.
            _ => {
                let dead = coil_of(identifier).is_some_and(|c| self.model.faults.contains(&Fault::DeadCoil(c)));
                u8::from(!dead)
            }
        })
    }

    fn read_output(&self, request: &[u8]) -> Option<Vec<u8>> {
        let &[high, low] = request else { return None };
        let value = self.output_state(u16::from_be_bytes([high, low]))?;
        Some(vec![0x62, high, low, value])
    }

    fn drive(&mut self, request: &[u8]) -> Vec<u8> {
        let [high, low, control, rest @ ..] = request else { return vec![0x7F, 0x2F, 0x13] };
        let identifier = u16::from_be_bytes([*high, *low]);
        if self.output_state(identifier).is_none() {
            return vec![0x7F, 0x2F, 0x31];
        }
        let moving = self.model.state.km_h > 5.0;
        match (control, rest) {
            (0x00, []) => {
                self.held.remove(&identifier);
            }
            (0x03, _) if moving => return vec![0x7F, 0x2F, 0x88],
            (0x03, &[value]) => {
                self.held.insert(identifier, value);
            }
            _ => return vec![0x7F, 0x2F, 0x13],
        }
        let percent = |id: u16| self.held.get(&id).map(|&v| f64::from(v) / 2.55);
        self.model.held_vane = percent(VANES);
        self.model.held_throttle = percent(THROTTLE);
        let now = self.model.state.time_s;
        self.model.run_to(now + 1.0);
        let mut answer = vec![0x6F, *high, *low, *control];
        answer.extend(self.output_state(identifier));
        answer
    }
}

/// Four bytes of bits: which of the 32 numbers after `base` there are; the last says that there are further ones.
fn bits(base: u8, numbers: &[u8], further: bool) -> Vec<u8> {
    let mut word = 0u32;
    for &number in numbers {
        if number > base && u16::from(number) <= u16::from(base) + 32 {
            word |= 1 << (32 - (number - base));
        }
    }
    if further {
        word |= 1;
    }
    word.to_be_bytes().to_vec()
}
