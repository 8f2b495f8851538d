//! Moves of parts between positions: which are possible, and which would prove nothing.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt;

use serde::de::{self, Visitor};
use serde::{Deserialize, Deserializer, Serialize};
use utoipa::ToSchema;

use crate::engine::{Engine, EngineDescription, Fuel, Ignition, Injection};
use crate::refusal::Refusal;

/// A cylinder by its number, or another position by its name.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(untagged)]
pub enum PlaceName {
    Cylinder(u8),
    Named(String),
}

impl fmt::Display for PlaceName {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            PlaceName::Cylinder(cylinder) => write!(f, "cylinder {cylinder}"),
            PlaceName::Named(name) => write!(f, "{name}"),
        }
    }
}

impl<'de> Deserialize<'de> for PlaceName {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader;
        impl Visitor<'_> for Reader {
            type Value = PlaceName;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a cylinder number or the name of a place")
            }

            fn visit_u64<E: de::Error>(self, value: u64) -> Result<PlaceName, E> {
                u8::try_from(value)
                    .map(PlaceName::Cylinder)
                    .map_err(|_| E::custom(format!("there is no cylinder {value}")))
            }

            fn visit_i64<E: de::Error>(self, value: i64) -> Result<PlaceName, E> {
                Err(E::custom(format!("there is no cylinder {value}")))
            }

            fn visit_str<E: de::Error>(self, value: &str) -> Result<PlaceName, E> {
                Ok(PlaceName::Named(value.to_owned()))
            }
        }
        deserializer.deserialize_any(Reader)
    }
}

/// One part taken from one position and put in another.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Move {
    /// `coil`, `plug`, `lead`, `injector`, `solenoid`, `relay`, ...
    pub part: String,
    pub from: PlaceName,
    pub to: PlaceName,
    /// Which of several alike in one cylinder, where they differ: `upper`, `lower`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub variant: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to_variant: Option<String>,
}

/// What the positions are: an engine's cylinders, or named places of one kind of part.
#[derive(Debug, Clone, PartialEq)]
pub enum Position {
    Cylinders(Box<Engine>),
    Named(Vec<String>),
}

impl Position {
    pub(super) fn new(engine: Option<&EngineDescription>, places: Option<&[String]>) -> Result<Position, Refusal> {
        match (engine, places) {
            (_, Some(places)) => {
                let mut sorted: Vec<String> = places.iter().map(|p| p.trim().to_owned()).collect();
                sorted.sort();
                if sorted.len() < 2 {
                    return Err(Refusal::new("places", "a swap needs at least two places"));
                }
                if sorted.iter().any(String::is_empty) {
                    return Err(Refusal::new("places", "a place has no name"));
                }
                if let Some(twice) = sorted.windows(2).find(|pair| pair[0] == pair[1]) {
                    return Err(Refusal::new("places", format!("{} stands in it twice", twice[0])));
                }
                Ok(Position::Named(sorted))
            }
            (Some(engine), None) => {
                Ok(Position::Cylinders(Box::new(Engine::new(engine).map_err(|r| r.within("engine"))?)))
            }
            (None, None) => Err(Refusal::new("engine", "is missing: give the engine, or the names of the places")),
        }
    }

    pub fn count(&self) -> usize {
        match self {
            Position::Cylinders(engine) => usize::from(engine.cylinders),
            Position::Named(places) => places.len(),
        }
    }

    pub fn name(&self, cell: usize) -> PlaceName {
        match self {
            Position::Cylinders(_) => PlaceName::Cylinder(cell as u8 + 1),
            Position::Named(places) => PlaceName::Named(places[cell].clone()),
        }
    }

    /// The index of a place, if there is such a place.
    pub fn cell(&self, name: &PlaceName) -> Result<usize, String> {
        match (self, name) {
            (Position::Cylinders(engine), PlaceName::Cylinder(cylinder)) if engine.has(*cylinder) => {
                Ok(usize::from(*cylinder) - 1)
            }
            (Position::Cylinders(engine), PlaceName::Named(text)) => {
                match text.trim().parse::<u8>().ok().filter(|&c| engine.has(c)) {
                    Some(cylinder) => Ok(usize::from(cylinder) - 1),
                    None => Err(format!("{text} is no cylinder of this engine, which has {}", engine.cylinders)),
                }
            }
            (Position::Cylinders(engine), other) => {
                Err(format!("{other} does not exist on an engine with {}", engine.cylinders))
            }
            (Position::Named(places), name) => {
                let text = match name {
                    PlaceName::Named(text) => text.trim().to_owned(),
                    PlaceName::Cylinder(number) => number.to_string(),
                };
                places.iter().position(|p| *p == text).ok_or_else(|| format!("{text} is not one of the places"))
            }
        }
    }

    pub fn engine(&self) -> Option<&Engine> {
        match self {
            Position::Cylinders(engine) => Some(engine),
            Position::Named(_) => None,
        }
    }
}

/// A move between cells, checked.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct CheckedMove {
    pub part: String,
    pub variant: Option<String>,
    pub from: usize,
    pub to: usize,
}

/// Why a part of this kind cannot be swapped on this engine at all, if it cannot.
pub(super) fn impossible_part(engine: &Engine, part: &str) -> Option<String> {
    match part {
        "coil" if engine.ignition == Ignition::None => Some("this engine has no ignition coils".into()),
        "coil" if engine.ignition == Ignition::Distributor => {
            Some("one coil serves every cylinder, so there is none to exchange it with".into())
        }
        "plug" | "lead" if engine.ignition == Ignition::None => Some(format!("this engine has no {part}s")),
        "glow-plug" if engine.fuel != Fuel::Diesel => Some("only a diesel has glow plugs".into()),
        "injector" if matches!(engine.injection, Injection::Carburettor | Injection::SinglePoint) => {
            Some("this engine has no injector of its own for each cylinder".into())
        }
        _ => None,
    }
}

/// The cells that one kind of part left, and those that it came to.
type LeftAndReached = (BTreeSet<usize>, BTreeSet<usize>);

pub(super) fn checked(position: &Position, moves: &[Move]) -> Result<Vec<CheckedMove>, Refusal> {
    if moves.is_empty() {
        return Err(Refusal::new("moves", "is empty: a swap needs at least two moves"));
    }
    let mut list = Vec::new();
    for (index, one) in moves.iter().enumerate() {
        let field = |name: &str| format!("moves[{index}].{name}");
        let part = one.part.trim().to_lowercase();
        if part.is_empty() {
            return Err(Refusal::new(field("part"), "name the part that was moved"));
        }
        let from = position.cell(&one.from).map_err(|reason| Refusal::new(field("from"), reason))?;
        let to = position.cell(&one.to).map_err(|reason| Refusal::new(field("to"), reason))?;
        if from == to {
            return Err(Refusal::new(field("to"), format!("the {part} of {} stays where it is", position.name(from))));
        }
        let variant = one.variant.clone().filter(|v| !v.trim().is_empty());
        let to_variant = one.to_variant.clone().filter(|v| !v.trim().is_empty());
        if let (Some(a), Some(b)) = (&variant, &to_variant)
            && a != b
        {
            return Err(Refusal::new(
                field("to_variant"),
                format!("the {a} {part} is not the same part as the {b} one: they cannot stand in for each other"),
            ));
        }
        if let Some(engine) = position.engine() {
            if let Some(reason) = impossible_part(engine, &part) {
                return Err(Refusal::new(field("part"), reason));
            }
            let (a, b) = (from as u8 + 1, to as u8 + 1);
            if engine.ignition == Ignition::PairedCoils && engine.cylinder(a).shares_coil_with.contains(&b) {
                return Err(Refusal::new(
                    field("to"),
                    format!(
                        "cylinders {a} and {b} share a coil, so a move between them proves nothing; choose another cylinder"
                    ),
                ));
            }
        }
        list.push(CheckedMove { part, variant: variant.or(to_variant), from, to });
    }
    list.sort();
    let mut parts: BTreeMap<(&str, Option<&str>), LeftAndReached> = BTreeMap::new();
    for one in &list {
        let (left, reached) = parts.entry((&one.part, one.variant.as_deref())).or_default();
        if !left.insert(one.from) {
            return Err(Refusal::new("moves", format!("the {} of {} leaves twice", one.part, position.name(one.from))));
        }
        if !reached.insert(one.to) {
            return Err(Refusal::new("moves", format!("two {}s go to {}", one.part, position.name(one.to))));
        }
    }
    for ((part, _), (left, reached)) in parts {
        if let Some(&empty) = left.difference(&reached).next() {
            return Err(Refusal::new(
                "moves",
                format!(
                    "no {part} comes to {}, from which one was taken: a swap of two parts is two moves",
                    position.name(empty)
                ),
            ));
        }
    }
    Ok(list)
}

/// Checks moves between an engine's cylinders without judging anything.
///
/// # Errors
/// Whatever [`super::swap`] refuses of moves.
pub fn check_moves(engine: &Engine, moves: &[Move]) -> Result<(), Refusal> {
    checked(&Position::Cylinders(Box::new(engine.clone())), moves).map(|_| ())
}
