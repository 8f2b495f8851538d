//! The cars that can be simulated, as `cars.toml` describes them.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use serde::Deserialize;

use crate::SimError;

#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct UnitProfile {
    pub number: u8,
    pub name: String,
    #[serde(default)]
    pub silent: bool,
}

#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StaleCode {
    pub unit: u8,
    pub code: String,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Burns {
    Petrol,
    Diesel,
}

#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Profile {
    pub cylinders: u8,
    pub banks: Vec<Vec<u8>>,
    pub litres: f64,
    pub fuel: Burns,
    #[serde(default)]
    pub charged: bool,
    /// Reckons its air from manifold pressure instead of metering it.
    #[serde(default)]
    pub speed_density: bool,
    /// 29-bit identifiers instead of 11.
    #[serde(default)]
    pub long_identifiers: bool,
    pub idle_rpm: f64,
    pub odometer_km: f64,
    pub units: Vec<UnitProfile>,
    #[serde(default)]
    pub stale: Vec<StaleCode>,
}

impl Profile {
    /// Index of the bank that holds the cylinder.
    pub fn bank_of(&self, cylinder: u8) -> usize {
        self.banks.iter().position(|bank| bank.contains(&cylinder)).unwrap_or(0)
    }
}

static CARS: LazyLock<BTreeMap<String, Profile>> = LazyLock::new(|| {
    toml::from_str(include_str!("../cars.toml")).unwrap_or_else(|fault| panic!("crates/ember-sim/cars.toml: {fault}"))
});

/// The fleet numbers that can be simulated.
pub fn fleet() -> Vec<String> {
    CARS.keys().cloned().collect()
}

/// # Errors
/// No such car.
pub fn profile(fleet_no: &str) -> Result<Profile, SimError> {
    CARS.get(&fleet_no.to_uppercase()).cloned().ok_or_else(|| SimError::UnknownVehicle(fleet_no.to_owned()))
}
