//! Where every part sits now, and where it has been.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::engine::{Engine, Ignition};
use crate::swap::{Move, PlaceName};

/// A part with its tag. The tag stays with the part wherever it goes.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TaggedPart {
    /// The first letter of the kind and the cylinder it was found at; a prime for every renewal: `C3`, `P2′`.
    pub tag: String,
    pub part: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub variant: Option<String>,
    /// The cylinder at which it was when the job began, or at which it was fitted.
    pub home: u8,
    /// Where it is now.
    pub cylinder: u8,
    /// Whether it was fitted during this job.
    pub new: bool,
}

type Place = (String, Option<String>, u8);

/// All swappable parts of an engine, followed through moves and replacements.
#[derive(Debug, Clone, PartialEq)]
pub struct Whereabouts {
    parts: BTreeMap<Place, TaggedPart>,
    /// With paired coils, a coil is kept under the first cylinder of its pair.
    coil_of: BTreeMap<u8, u8>,
}

impl Whereabouts {
    pub fn new(engine: &Engine, kinds: &[String]) -> Whereabouts {
        let coil_of = engine
            .numbers()
            .map(|c| {
                let group = if engine.ignition == Ignition::PairedCoils { engine.coil_group(c) } else { vec![c] };
                (c, group.first().copied().unwrap_or(c))
            })
            .collect();
        let mut all = Whereabouts { parts: BTreeMap::new(), coil_of };
        for kind in kinds {
            let twin = engine.coils_per_cylinder == 2 && matches!(kind.as_str(), "coil" | "plug" | "lead");
            let variants: &[Option<&str>] = if twin { &[Some("lower"), Some("upper")] } else { &[None] };
            for cylinder in engine.numbers() {
                for variant in variants {
                    let variant = variant.map(str::to_owned);
                    let place = all.place(kind, variant.clone(), cylinder);
                    let home = place.2;
                    all.parts.entry(place).or_insert_with(|| TaggedPart {
                        tag: tag(kind, variant.as_deref(), home),
                        part: kind.clone(),
                        variant,
                        home,
                        cylinder: home,
                        new: false,
                    });
                }
            }
        }
        all
    }

    fn place(&self, kind: &str, variant: Option<String>, cylinder: u8) -> Place {
        let cylinder = if kind == "coil" { self.coil_of.get(&cylinder).copied().unwrap_or(cylinder) } else { cylinder };
        (kind.to_owned(), variant, cylinder)
    }

    /// All moves happen at once: each part is lifted before any is put down.
    pub fn apply(&mut self, moves: &[Move]) {
        let mut lifted = Vec::new();
        for one in moves {
            let (PlaceName::Cylinder(from), PlaceName::Cylinder(to)) = (&one.from, &one.to) else { continue };
            let variant = one.variant.clone().or_else(|| one.to_variant.clone());
            if let Some(part) = self.parts.remove(&self.place(&one.part, variant.clone(), *from)) {
                lifted.push((self.place(&one.part, variant, *to), part));
            }
        }
        for (place, mut part) in lifted {
            part.cylinder = place.2;
            self.parts.insert(place, part);
        }
    }

    /// A new part takes the place of the old one.
    pub fn renew(&mut self, kind: &str, variant: Option<&str>, cylinder: u8) {
        let place = self.place(kind, variant.map(str::to_owned), cylinder);
        if let Some(old) = self.parts.get_mut(&place) {
            let primes = old.tag.matches('′').count() + 1;
            old.tag = format!("{}{}", tag(kind, variant, place.2), "′".repeat(primes));
            old.home = place.2;
            old.new = true;
        }
    }

    /// The parts that sit at a cylinder now; a coil of a pair sits at both.
    pub fn at(&self, cylinder: u8) -> Vec<TaggedPart> {
        self.parts
            .values()
            .filter(|part| {
                let coil = part.part == "coil" && self.coil_of.get(&cylinder) == Some(&part.cylinder);
                part.cylinder == cylinder || coil
            })
            .cloned()
            .collect()
    }

    /// Parts that are not where they were found.
    pub fn strayed(&self) -> Vec<TaggedPart> {
        self.parts.values().filter(|part| part.cylinder != part.home).cloned().collect()
    }
}

fn tag(kind: &str, variant: Option<&str>, cylinder: u8) -> String {
    let letter = kind.chars().next().unwrap_or('?').to_ascii_uppercase();
    let side = variant.and_then(|v| v.chars().next()).map(String::from).unwrap_or_default();
    format!("{letter}{cylinder}{side}")
}
