//! What a finding or a suspicion is about: the engine, a bank, a cylinder, a coil, a unit.

use std::fmt;

use serde::{Deserialize, Deserializer, Serialize, Serializer};
use utoipa::PartialSchema;

use super::book::Per;
use crate::engine::{Engine, Ignition};

/// Where a fault sits or a test is made. Written `engine`, `bank 2`, `cylinder 3`, `cylinders 1 and 4`,
/// `engine unit`.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub enum Target {
    Engine,
    Bank(u8),
    Cylinder(u8),
    /// A shared coil, or the wall between two neighbours.
    Cylinders(u8, u8),
    Unit,
}

impl fmt::Display for Target {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Target::Engine => f.write_str("engine"),
            Target::Bank(bank) => write!(f, "bank {bank}"),
            Target::Cylinder(cylinder) => write!(f, "cylinder {cylinder}"),
            Target::Cylinders(a, b) => write!(f, "cylinders {a} and {b}"),
            Target::Unit => f.write_str("engine unit"),
        }
    }
}

impl Target {
    /// Reads `3`, `cyl 3`, `cylinder 3`, `bank 1`, `coil 1+4`, `engine`.
    pub fn parse(text: &str) -> Result<Target, String> {
        let text = text.trim().to_lowercase();
        let numbers: Vec<u8> = text.split(|c: char| !c.is_ascii_digit()).filter_map(|word| word.parse().ok()).collect();
        let word = text.trim_matches(|c: char| !c.is_alphabetic());
        match (word, numbers.as_slice()) {
            ("" | "engine" | "car" | "vehicle" | "all", []) => Ok(Target::Engine),
            ("engine unit" | "unit" | "control unit", []) => Ok(Target::Unit),
            ("bank", &[bank]) => Ok(Target::Bank(bank)),
            (_, &[one]) => Ok(Target::Cylinder(one)),
            (_, &[a, b]) if a != b => Ok(Target::Cylinders(a.min(b), a.max(b))),
            _ => Err(format!("{text} is no target: engine, bank 1, cylinder 3 or cylinders 1 and 4")),
        }
    }

    /// All places at which something that stands `per` ... sits on an engine.
    pub fn all(per: Per, engine: &Engine) -> Vec<Target> {
        match per {
            Per::Engine => vec![Target::Engine],
            Per::Unit => vec![Target::Unit],
            Per::Cylinder => (1..=engine.cylinders).map(Target::Cylinder).collect(),
            Per::Bank => (1..=engine.banks.len() as u8).map(Target::Bank).collect(),
            Per::Neighbours => engine
                .banks
                .iter()
                .flat_map(|bank| {
                    bank.windows(2).map(|pair| Target::Cylinders(pair[0].min(pair[1]), pair[0].max(pair[1])))
                })
                .collect(),
            Per::Coil => match engine.ignition {
                Ignition::PairedCoils => engine
                    .coil_pairs
                    .iter()
                    .map(|pair| Target::Cylinders(pair[0].min(pair[1]), pair[0].max(pair[1])))
                    .collect(),
                Ignition::Distributor => vec![Target::Engine],
                Ignition::CoilPerCylinder => (1..=engine.cylinders).map(Target::Cylinder).collect(),
                Ignition::None => Vec::new(),
            },
        }
    }

    /// The cylinders it stands for.
    pub fn cylinders(&self, engine: &Engine) -> Vec<u8> {
        match *self {
            Target::Engine | Target::Unit => (1..=engine.cylinders).collect(),
            Target::Bank(bank) => engine.banks.get(usize::from(bank) - 1).cloned().unwrap_or_default(),
            Target::Cylinder(cylinder) => vec![cylinder],
            Target::Cylinders(a, b) => vec![a, b],
        }
    }

    /// The places of a sign that a fault sitting here reaches, as bits.
    pub(super) fn reach(&self, sign: Per, engine: &Engine) -> u16 {
        match sign {
            Per::Cylinder => self.cylinders(engine).iter().fold(0, |bits, cylinder| bits | 1 << (cylinder - 1)),
            Per::Bank => {
                let cylinders = self.cylinders(engine);
                (0..engine.banks.len())
                    .filter(|&bank| engine.banks[bank].iter().any(|cylinder| cylinders.contains(cylinder)))
                    .fold(0, |bits, bank| bits | 1 << bank)
            }
            _ => 1,
        }
    }
}

impl Serialize for Target {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Target {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        #[derive(Deserialize)]
        #[serde(untagged, expecting = "engine, bank 1, cylinder 3, or the number of a cylinder")]
        enum Written {
            Number(u8),
            Words(String),
        }
        match Written::deserialize(deserializer)? {
            Written::Number(cylinder) => Ok(Target::Cylinder(cylinder)),
            Written::Words(text) => Target::parse(&text).map_err(serde::de::Error::custom),
        }
    }
}

impl PartialSchema for Target {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        String::schema()
    }
}

impl utoipa::ToSchema for Target {}
