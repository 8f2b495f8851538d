//! A vehicle of the workshop: its name, its engine, and what stands in the way of its cylinders.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::{Engine, EngineDescription, Fuel, Ignition, Injection};
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::swap::plan::Cover;

/// The longest short text (a name, an author): what fits a line.
pub const LINE: usize = 120;

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Vehicle {
    /// The workshop's own number on the door.
    pub fleet_no: String,
    pub name: String,
    pub engine: EngineDescription,
    /// Kinds of part that can change places between cylinders; empty: what the engine's description says.
    #[serde(default)]
    pub parts: Vec<String>,
    /// Minutes to open each cylinder, where they are known.
    #[serde(default)]
    pub access_minutes: Option<BTreeMap<String, f64>>,
    #[serde(default)]
    pub covers: Vec<Cover>,
    #[serde(default)]
    pub note: String,
    /// Who it belongs to and how they are reached; left out of what goes to others on request.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub owner: String,
    /// What it has, and what it lacks, of what not every car has; names of `knowledge/equipment.toml`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub has: Vec<String>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub lacks: Vec<String>,
}

impl Vehicle {
    /// Checks names and engine, and gives the engine.
    ///
    /// # Errors
    /// An empty or overlong name or number; whatever [`Engine::new`] refuses, under `engine`.
    pub fn checked(&self) -> Result<Engine, Refusal> {
        line("fleet_no", &self.fleet_no)?;
        line("name", &self.name)?;
        let engine = Engine::new(&self.engine).map_err(|refusal| refusal.within("engine"))?;
        for part in &self.parts {
            line("parts", part)?;
        }
        let known = &Knowledge::built_in().book.equipment;
        for (field, list) in [("has", &self.has), ("lacks", &self.lacks)] {
            if let Some(strange) = list.iter().find(|name| !known.contains_key(*name)) {
                return Err(Refusal::new(field, format!("{strange} is no equipment that the book knows")));
            }
        }
        Ok(engine)
    }

    /// The kinds of part that can be swapped between this vehicle's cylinders.
    pub fn swappable(&self, engine: &Engine) -> Vec<String> {
        if self.parts.is_empty() { swappable(engine) } else { self.parts.clone() }
    }
}

fn swappable(engine: &Engine) -> Vec<String> {
    let mut parts = Vec::new();
    match engine.ignition {
        Ignition::CoilPerCylinder => parts.extend(["coil", "plug"]),
        Ignition::PairedCoils => parts.extend(["coil", "lead", "plug"]),
        Ignition::Distributor => parts.extend(["lead", "plug"]),
        Ignition::None => {}
    }
    if engine.fuel == Fuel::Diesel {
        parts.push("glow-plug");
    }
    if !matches!(engine.injection, Injection::Carburettor | Injection::SinglePoint) {
        parts.push("injector");
    }
    parts.into_iter().map(str::to_owned).collect()
}

/// A text that must stand on one line.
pub fn line(field: &str, text: &str) -> Result<(), Refusal> {
    if text.trim().is_empty() {
        return Err(Refusal::new(field, "is empty"));
    }
    if text.chars().count() > LINE {
        return Err(Refusal::new(field, format!("is longer than {LINE} characters")));
    }
    Ok(())
}
