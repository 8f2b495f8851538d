//! Which cars a fault or a test belongs to.

use std::fmt;

use serde::{Deserialize, Deserializer};

use crate::engine::{AirMetering, Charging, Engine, Fuel, Ignition, Injection};

/// One condition as it stands in the book: `fuel=petrol`, `ignition=paired-coils|distributor`, `cylinders>1`,
/// `has=variable-timing`. A leading `not ` turns it round.
#[derive(Debug, Clone, PartialEq)]
pub struct Condition {
    text: String,
    not: bool,
    what: What,
}

#[derive(Debug, Clone, PartialEq)]
enum What {
    Feature(Feature, Vec<String>),
    SeveralCylinders,
    Has(String),
}

#[derive(Debug, Clone, Copy, PartialEq)]
enum Feature {
    Fuel,
    Ignition,
    Injection,
    Charging,
    Metering,
    /// `yes` where a control unit runs the engine: everything but a carburettor.
    Electronic,
}

impl fmt::Display for Condition {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.text)
    }
}

impl<'de> Deserialize<'de> for Condition {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = String::deserialize(deserializer)?;
        Condition::parse(&text).map_err(serde::de::Error::custom)
    }
}

const FEATURES: [(&str, Feature, &[&str]); 6] = [
    ("fuel", Feature::Fuel, &["petrol", "diesel", "gas"]),
    ("ignition", Feature::Ignition, &["coil-per-cylinder", "paired-coils", "distributor", "none"]),
    ("injection", Feature::Injection, &["carburettor", "single-point", "port", "direct", "common-rail", "unit-pump"]),
    ("charging", Feature::Charging, &["none", "turbo", "variable-turbo", "supercharger"]),
    ("metering", Feature::Metering, &["air-flow", "speed-density", "none"]),
    ("electronic", Feature::Electronic, &["yes", "no"]),
];

impl Condition {
    fn parse(text: &str) -> Result<Condition, String> {
        let (not, rest) = match text.strip_prefix("not ") {
            Some(rest) => (true, rest),
            None => (false, text),
        };
        let what = if rest == "cylinders>1" {
            What::SeveralCylinders
        } else {
            let (name, values) = rest.split_once('=').ok_or_else(|| format!("{text} is no condition"))?;
            if name == "has" {
                What::Has(values.to_owned())
            } else {
                let (_, feature, known) =
                    FEATURES.iter().find(|(one, ..)| *one == name).ok_or_else(|| format!("{text} is no condition"))?;
                let values: Vec<String> = values.split('|').map(str::to_owned).collect();
                if let Some(strange) = values.iter().find(|value| !known.contains(&value.as_str())) {
                    return Err(format!("{strange} is none of {}", known.join(", ")));
                }
                What::Feature(*feature, values)
            }
        };
        Ok(Condition { text: text.to_owned(), not, what })
    }

    /// The equipment it asks for.
    pub fn equipment(&self) -> Option<&str> {
        match &self.what {
            What::Has(name) => Some(name),
            _ => None,
        }
    }

    /// How far a car meets it: 1 or 0, and between them where nobody knows whether it has the equipment.
    pub(super) fn share(&self, car: &Car<'_>) -> f64 {
        let share = match &self.what {
            What::SeveralCylinders => f64::from(u8::from(car.engine.cylinders > 1)),
            What::Has(name) => car.share_of(name),
            What::Feature(feature, values) => {
                f64::from(u8::from(values.iter().any(|value| value == feature.of(car.engine))))
            }
        };
        if self.not { 1.0 - share } else { share }
    }
}

impl Feature {
    fn of(self, engine: &Engine) -> &'static str {
        match self {
            Feature::Fuel => match engine.fuel {
                Fuel::Petrol => "petrol",
                Fuel::Diesel => "diesel",
                Fuel::Gas => "gas",
            },
            Feature::Ignition => match engine.ignition {
                Ignition::CoilPerCylinder => "coil-per-cylinder",
                Ignition::PairedCoils => "paired-coils",
                Ignition::Distributor => "distributor",
                Ignition::None => "none",
            },
            Feature::Injection => match engine.injection {
                Injection::Carburettor => "carburettor",
                Injection::SinglePoint => "single-point",
                Injection::Port => "port",
                Injection::Direct => "direct",
                Injection::CommonRail => "common-rail",
                Injection::UnitPump => "unit-pump",
            },
            Feature::Charging => match engine.charging {
                Charging::None => "none",
                Charging::Turbo => "turbo",
                Charging::VariableTurbo => "variable-turbo",
                Charging::Supercharger => "supercharger",
            },
            Feature::Metering => match engine.air_metering {
                AirMetering::AirFlow => "air-flow",
                AirMetering::SpeedDensity => "speed-density",
                AirMetering::None => "none",
            },
            Feature::Electronic => match engine.injection {
                Injection::Carburettor => "no",
                _ => "yes",
            },
        }
    }
}

/// A car as far as the book asks about it.
pub struct Car<'a> {
    pub engine: &'a Engine,
    pub has: &'a [String],
    pub lacks: &'a [String],
    pub equipment: &'a std::collections::BTreeMap<String, super::book::EquipmentItem>,
}

impl Car<'_> {
    fn share_of(&self, name: &str) -> f64 {
        if self.has.iter().any(|one| one == name) {
            1.0
        } else if self.lacks.iter().any(|one| one == name) {
            0.0
        } else {
            self.equipment.get(name).map_or(0.0, |item| item.share)
        }
    }

    /// How far a car meets all conditions.
    pub fn meets(&self, conditions: &[Condition]) -> f64 {
        conditions.iter().map(|condition| condition.share(self)).product()
    }
}
