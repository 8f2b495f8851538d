//! Live data: which parameters are asked for, and what one round of asking brings.

use std::collections::BTreeMap;

use ember_core::frames::{Read, decode};
use ember_core::knowledge::Knowledge;

use super::wire::{LinkError, Wire};

/// As many parameters fit one request.
const AT_ONCE: usize = 6;
/// Slow things are asked for this often, in seconds of the adapter.
const SLOW_EVERY_S: f64 = 2.0;
/// Counters of misfires this often: they change with every burst.
const COUNTERS_EVERY_S: f64 = 0.5;
/// New codes this often.
const CODES_EVERY_S: f64 = 5.0;
/// Channels that change slowly.
const SLOW: [&str; 7] = ["coolant", "intake_air", "ambient_pressure", "ambient_air", "oil", "battery", "odometer"];

/// What one round brought.
#[derive(Debug, Default)]
pub struct Round {
    pub time_s: f64,
    pub values: BTreeMap<String, f64>,
    /// Codes that are pending or stored now, when they were asked for.
    pub codes: Option<Vec<String>>,
}

/// What is asked for, round after round.
pub struct Live {
    unit: u8,
    fast: Vec<u8>,
    slow: Vec<u8>,
    monitors: Vec<u8>,
    slow_at: f64,
    counters_at: f64,
    codes_at: f64,
}

impl Live {
    /// Asks the engine's unit which parameters and misfire counters it has.
    ///
    /// # Errors
    /// The link dropped; nobody answers.
    pub fn new(wire: &mut Wire, knowledge: &Knowledge) -> Result<Live, LinkError> {
        let mut numbers = Vec::new();
        let mut unit = None;
        for base in [0x00u8, 0x20, 0x40, 0x60, 0x80, 0xA0] {
            let answers = wire.ask_all(&[0x01, base])?;
            let Some(answer) = answers.first() else { break };
            unit.get_or_insert(answer.unit);
            match decode(&answer.bytes, &knowledge.parameters).0 {
                Read::Supported { numbers: own, .. } => {
                    let further = own.contains(&(base + 0x20));
                    numbers.extend(own);
                    if !further {
                        break;
                    }
                }
                _ => break,
            }
        }
        let unit = unit.ok_or(LinkError::NobodyAnswers)?;
        let channels = |number: u8| -> Vec<&str> {
            knowledge
                .parameters
                .get(number)
                .map(|p| p.values.iter().filter_map(|v| v.channel.as_deref()).collect())
                .unwrap_or_default()
        };
        let (mut fast, mut slow) = (Vec::new(), Vec::new());
        for number in numbers {
            let own = channels(number);
            if own.is_empty() && number != 0x03 {
                continue;
            }
            let is_slow = !own.is_empty() && own.iter().all(|c| SLOW.contains(c));
            if is_slow { slow.push(number) } else { fast.push(number) }
        }
        let monitors = match wire.ask(unit, &[0x06, 0xA0])? {
            Some(answer) => match decode(&answer.bytes, &knowledge.parameters).0 {
                Read::Supported { numbers, .. } => numbers.into_iter().filter(|n| matches!(n, 0xA2..=0xAD)).collect(),
                _ => Vec::new(),
            },
            None => Vec::new(),
        };
        let never = f64::NEG_INFINITY;
        Ok(Live { unit, fast, slow, monitors, slow_at: never, counters_at: never, codes_at: never })
    }

    /// The number of the engine's unit.
    pub fn unit(&self) -> u8 {
        self.unit
    }

    /// One round.
    ///
    /// # Errors
    /// The link dropped.
    pub fn round(&mut self, wire: &mut Wire, knowledge: &Knowledge) -> Result<Round, LinkError> {
        let mut round = Round::default();
        let mut numbers = self.fast.clone();
        if wire.now_s - self.slow_at >= SLOW_EVERY_S {
            self.slow_at = wire.now_s;
            numbers.extend(&self.slow);
        }
        for group in numbers.chunks(AT_ONCE) {
            let mut request = vec![0x01];
            request.extend(group);
            let Some(answer) = wire.ask(self.unit, &request)? else { continue };
            if round.values.is_empty() {
                round.time_s = answer.time_s;
            }
            if let (Read::Values { values }, _) = decode(&answer.bytes, &knowledge.parameters) {
                for value in values {
                    if let (Some(channel), Some(number)) = (value.channel, value.value) {
                        round.values.insert(channel, number);
                    }
                }
            }
        }
        if wire.now_s - self.counters_at >= COUNTERS_EVERY_S {
            self.counters_at = wire.now_s;
            for &monitor in &self.monitors {
                let Some(answer) = wire.ask(self.unit, &[0x06, monitor])? else { continue };
                if let (Read::Monitors { tests }, _) = decode(&answer.bytes, &knowledge.parameters) {
                    for test in tests.iter().filter(|t| t.test == "0C") {
                        if let Some(cylinder) = test.cylinder {
                            round.values.insert(format!("misfires_{cylinder}"), test.value);
                        }
                    }
                }
            }
        }
        if wire.now_s - self.codes_at >= CODES_EVERY_S {
            self.codes_at = wire.now_s;
            let mut codes = Vec::new();
            for service in [0x07, 0x03] {
                let Some(answer) = wire.ask(self.unit, &[service])? else { continue };
                if let (Read::Codes { codes: own, .. }, _) = decode(&answer.bytes, &knowledge.parameters) {
                    codes.extend(own);
                }
            }
            round.codes = Some(codes);
        }
        Ok(round)
    }
}
