//! Parameters of the live-data service: how many bytes, and which values lie in them.

use std::collections::BTreeMap;

use serde::Deserialize;

/// The file `knowledge/parameters.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ParameterKnowledge {
    pub parameter: Vec<Parameter>,
    pub scale: Vec<MonitorScale>,
    pub refusal: Vec<RefusalText>,
    pub self_tests: SelfTestNames,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Parameter {
    pub number: u8,
    pub name: String,
    pub bytes: usize,
    pub values: Vec<ParameterValue>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ParameterValue {
    pub name: String,
    pub unit: String,
    pub at: usize,
    pub bytes: usize,
    #[serde(default = "one")]
    pub scale: f64,
    #[serde(default)]
    pub offset: f64,
    #[serde(default)]
    pub channel: Option<String>,
}

fn one() -> f64 {
    1.0
}

impl ParameterValue {
    /// The value from the parameter's bytes, which must be as many as the parameter has.
    #[inline]
    pub fn of(&self, data: &[u8]) -> f64 {
        let raw = data[self.at..self.at + self.bytes].iter().fold(0u32, |sum, &b| sum << 8 | u32::from(b));
        self.scale * f64::from(raw) + self.offset
    }
}

/// How a result of service 06 is scaled.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MonitorScale {
    pub number: u8,
    pub unit: String,
    pub scale: f64,
    #[serde(default)]
    pub signed: bool,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RefusalText {
    pub number: u8,
    pub text: String,
}

/// The self-tests whose readiness a car reports, in the order of their bits. A bit that means nothing has no name.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SelfTestNames {
    pub always: Vec<String>,
    pub spark: Vec<String>,
    pub compression: Vec<String>,
}

impl SelfTestNames {
    /// Those of an engine that ignites by compression, or by a spark.
    pub fn of(&self, compression: bool) -> Vec<String> {
        let others = if compression { &self.compression } else { &self.spark };
        self.always.iter().chain(others).filter(|name| !name.is_empty()).cloned().collect()
    }

    /// Whether any engine has a self-test of this name.
    pub fn has(&self, name: &str) -> bool {
        !name.is_empty()
            && [&self.always, &self.spark, &self.compression].iter().any(|list| list.iter().any(|n| n == name))
    }
}

/// The parameters by their number.
#[derive(Debug, Clone)]
pub struct ParameterBook {
    by_number: Vec<Option<Parameter>>,
    pub scales: BTreeMap<u8, MonitorScale>,
    pub refusals: BTreeMap<u8, String>,
    pub self_tests: SelfTestNames,
}

impl ParameterBook {
    /// # Errors
    /// A number twice, or a value that lies outside its parameter's bytes: the parameter's name and the reason.
    pub fn new(knowledge: ParameterKnowledge) -> Result<ParameterBook, String> {
        let mut by_number: Vec<Option<Parameter>> = vec![None; 256];
        for parameter in knowledge.parameter {
            for value in &parameter.values {
                if value.bytes == 0 || value.bytes > 4 || value.at + value.bytes > parameter.bytes {
                    return Err(format!("{}: {} lies outside its bytes", parameter.name, value.name));
                }
            }
            let number = usize::from(parameter.number);
            if let Some(other) = &by_number[number] {
                return Err(format!("{} has the number of {}", parameter.name, other.name));
            }
            by_number[number] = Some(parameter);
        }
        Ok(ParameterBook {
            by_number,
            scales: knowledge.scale.into_iter().map(|s| (s.number, s)).collect(),
            refusals: knowledge.refusal.into_iter().map(|r| (r.number, r.text)).collect(),
            self_tests: knowledge.self_tests,
        })
    }

    #[inline]
    pub fn get(&self, number: u8) -> Option<&Parameter> {
        self.by_number[usize::from(number)].as_ref()
    }

    pub fn all(&self) -> impl Iterator<Item = &Parameter> {
        self.by_number.iter().flatten()
    }

    /// How many bytes a parameter has, the bit fields included; `None` if it is not known.
    #[inline]
    pub fn bytes(&self, number: u8) -> Option<usize> {
        match number {
            0x01 | 0x41 => Some(4),
            0x03 => Some(2),
            n if n & 0x1F == 0 => Some(4),
            n => self.get(n).map(|p| p.bytes),
        }
    }
}
