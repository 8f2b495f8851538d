//! The swap plan: which part goes where, so that one drive says most for the fewest minutes.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::moves::impossible_part;
use super::{Move, PlaceName, Verdict};
use crate::engine::{Engine, EngineDescription, Ignition};
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;

/// More parts at once than this would take the whole engine apart, and the exact assignment too long.
const MOST_PARTS: usize = 5;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PartsAtOnce {
    One,
    #[default]
    Several,
}

/// Something that must come off once to reach several cylinders.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Cover {
    pub name: String,
    pub minutes: f64,
    /// The cylinders that cannot be reached while it is on.
    pub cylinders: Vec<u8>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SwapPlanInput {
    pub engine: EngineDescription,
    pub suspect: u8,
    /// The kinds of part to test: `coil`, `plug`, `lead`, `injector`, `glow-plug`.
    pub parts: Vec<String>,
    /// Minutes to open each cylinder; left out, an ordinary figure is taken for all.
    #[serde(default)]
    pub access_minutes: Option<BTreeMap<String, f64>>,
    #[serde(default)]
    pub covers: Vec<Cover>,
    /// Cylinders that may receive a part; left out, all but the suspect.
    #[serde(default)]
    pub healthy: Option<Vec<u8>>,
    #[serde(default)]
    pub parts_at_once: PartsAtOnce,
}

/// What one outcome of the drive will mean.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Reading {
    pub outcome: Verdict,
    /// Where the misfire is then.
    pub cylinder: Option<u8>,
    pub part: Option<String>,
    pub means: String,
}

/// A choice that was not taken, and why.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RuledOut {
    pub part: Option<String>,
    pub cylinder: Option<u8>,
    pub why: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SwapPlanResult {
    /// Each exchange as its two moves.
    pub moves: Vec<Move>,
    pub minutes: f64,
    /// The cylinders that are opened, clamp neighbours included.
    pub opened: Vec<u8>,
    /// The covers that come off.
    pub covers_off: Vec<String>,
    pub reads: Vec<Reading>,
    pub ruled_out: Vec<RuledOut>,
    /// Parts left for a later drive.
    pub later: Vec<String>,
}

/// One part to place: its kind, and its variant where a cylinder has two.
#[derive(Debug, Clone, PartialEq)]
struct Candidate {
    part: String,
    variant: Option<&'static str>,
    weight: f64,
}

impl Candidate {
    fn name(&self) -> String {
        match self.variant {
            Some(variant) => format!("{variant} {}", self.part),
            None => self.part.clone(),
        }
    }
}

/// Plans the swap: receivers distinct and healthy, none on the suspect's coil, the fewest minutes in all by trying
/// every assignment.
///
/// Minutes are those of every cylinder opened (suspect, receivers and, for injectors, the neighbours under a shared
/// clamp), each once, plus each cover that hides one of them, once.
///
/// # Errors
/// A suspect, healthy cylinder or cover that the engine does not have; no part named, or one named twice; access
/// minutes that leave a cylinder out, are negative or not finite.
pub fn swap_plan(input: &SwapPlanInput, knowledge: &Knowledge) -> Result<SwapPlanResult, Refusal> {
    let engine = Engine::new(&input.engine).map_err(|r| r.within("engine"))?;
    let suspect = input.suspect;
    if !engine.has(suspect) {
        return Err(Refusal::new("suspect", format!("the engine has no cylinder {suspect}")));
    }
    let access = Access::new(&engine, input, knowledge)?;
    let mut ruled_out = Vec::new();
    let mut candidates = candidates(&engine, input, knowledge, &mut ruled_out)?;
    let receivers = receivers(&engine, input, &mut ruled_out)?;

    let room = match input.parts_at_once {
        PartsAtOnce::One => 1,
        PartsAtOnce::Several => MOST_PARTS,
    };
    let mut later: Vec<Candidate> = candidates.split_off(candidates.len().min(room).min(receivers.len()));
    let mut chosen = Vec::new();
    // If no receiver is left for a part (its clamp rules the last one out), the least suspected part waits.
    while !candidates.is_empty() {
        let mut search = Search { engine: &engine, access: &access, suspect, best: None };
        search.place(&candidates, &receivers, &mut Vec::new());
        if let Some((_, found)) = search.best {
            chosen = found;
            break;
        }
        later.insert(0, candidates.remove(candidates.len() - 1));
    }

    let opened = opened(&engine, suspect, &candidates, &chosen);
    let moves = candidates
        .iter()
        .zip(&chosen)
        .flat_map(|(candidate, &to)| {
            let one = |from: u8, to: u8| Move {
                part: candidate.part.clone(),
                from: PlaceName::Cylinder(from),
                to: PlaceName::Cylinder(to),
                variant: candidate.variant.map(str::to_owned),
                to_variant: candidate.variant.map(str::to_owned),
            };
            [one(suspect, to), one(to, suspect)]
        })
        .collect();
    Ok(SwapPlanResult {
        moves,
        minutes: if chosen.is_empty() { 0.0 } else { access.minutes(&opened) },
        covers_off: if chosen.is_empty() { Vec::new() } else { access.covers_off(&opened) },
        opened: if chosen.is_empty() { Vec::new() } else { opened.into_iter().collect() },
        reads: reads(suspect, &candidates, &chosen),
        ruled_out,
        later: later.iter().map(Candidate::name).collect(),
    })
}

struct Access {
    minutes: Vec<f64>,
    covers: Vec<Cover>,
}

impl Access {
    fn new(engine: &Engine, input: &SwapPlanInput, knowledge: &Knowledge) -> Result<Access, Refusal> {
        let mut minutes = vec![None; usize::from(engine.cylinders)];
        let allowed = |field: &str, value: f64| {
            if value.is_finite() && value >= 0.0 {
                Ok(value)
            } else {
                Err(Refusal::new(field, format!("minutes are zero or more, and this is {value}")))
            }
        };
        match &input.access_minutes {
            None => minutes.fill(Some(knowledge.swap.access.cylinder_minutes)),
            Some(given) => {
                for (name, &value) in given {
                    let field = format!("access_minutes.{name}");
                    let cylinder = name
                        .trim()
                        .parse::<u8>()
                        .ok()
                        .filter(|&c| engine.has(c))
                        .ok_or_else(|| Refusal::new(&field, format!("the engine has no cylinder {name}")))?;
                    minutes[usize::from(cylinder) - 1] = Some(allowed(&field, value)?);
                }
            }
        }
        for (index, cover) in input.covers.iter().enumerate() {
            let field = |name: &str| format!("covers[{index}].{name}");
            allowed(&field("minutes"), cover.minutes)?;
            if let Some(unknown) = cover.cylinders.iter().find(|&&c| !engine.has(c)) {
                return Err(Refusal::new(field("cylinders"), format!("the engine has no cylinder {unknown}")));
            }
        }
        let minutes = minutes
            .into_iter()
            .enumerate()
            .map(|(i, m)| {
                m.ok_or_else(|| Refusal::new(format!("access_minutes.{}", i + 1), "this cylinder is left out"))
            })
            .collect::<Result<_, _>>()?;
        Ok(Access { minutes, covers: input.covers.clone() })
    }

    fn minutes(&self, opened: &BTreeSet<u8>) -> f64 {
        let cylinders: f64 = opened.iter().map(|&c| self.minutes[usize::from(c) - 1]).sum();
        let covers: f64 = self.covers.iter().filter(|cover| hides(cover, opened)).map(|cover| cover.minutes).sum();
        cylinders + covers
    }

    fn covers_off(&self, opened: &BTreeSet<u8>) -> Vec<String> {
        let mut names: Vec<String> =
            self.covers.iter().filter(|cover| hides(cover, opened)).map(|cover| cover.name.clone()).collect();
        names.sort();
        names
    }
}

fn hides(cover: &Cover, opened: &BTreeSet<u8>) -> bool {
    cover.cylinders.iter().any(|c| opened.contains(c))
}

/// The parts that can be tested on this engine, the most suspected first.
fn candidates(
    engine: &Engine,
    input: &SwapPlanInput,
    knowledge: &Knowledge,
    ruled_out: &mut Vec<RuledOut>,
) -> Result<Vec<Candidate>, Refusal> {
    let mut parts: Vec<String> = input.parts.iter().map(|p| p.trim().to_lowercase()).collect();
    parts.sort();
    if parts.is_empty() || parts.iter().any(String::is_empty) {
        return Err(Refusal::new("parts", "name at least one kind of part to test"));
    }
    if let Some(twice) = parts.windows(2).find(|pair| pair[0] == pair[1]) {
        return Err(Refusal::new("parts", format!("{} stands in it twice", twice[0])));
    }
    let mut list = Vec::new();
    for part in parts {
        if let Some(why) = impossible_part(engine, &part) {
            ruled_out.push(RuledOut { part: Some(part), cylinder: None, why });
            continue;
        }
        let twin = engine.coils_per_cylinder == 2 && matches!(part.as_str(), "coil" | "plug" | "lead");
        let weight = knowledge.swap.part_weight(&part);
        if twin {
            for variant in ["lower", "upper"] {
                list.push(Candidate { part: part.clone(), variant: Some(variant), weight });
            }
        } else {
            list.push(Candidate { part, variant: None, weight });
        }
    }
    list.sort_by(|a, b| b.weight.total_cmp(&a.weight).then_with(|| a.name().cmp(&b.name())));
    Ok(list)
}

/// The cylinders that may receive a part, in number order.
fn receivers(engine: &Engine, input: &SwapPlanInput, ruled_out: &mut Vec<RuledOut>) -> Result<Vec<u8>, Refusal> {
    if let Some(healthy) = &input.healthy {
        if let Some(unknown) = healthy.iter().find(|&&c| !engine.has(c)) {
            return Err(Refusal::new("healthy", format!("the engine has no cylinder {unknown}")));
        }
        if healthy.contains(&input.suspect) {
            return Err(Refusal::new("healthy", format!("cylinder {} is the suspect", input.suspect)));
        }
    }
    let shares_coil = match engine.ignition {
        // One coil serves all: to avoid it is to avoid every cylinder, and it tells nothing about plugs or leads.
        Ignition::Distributor => Vec::new(),
        _ => engine.cylinder(input.suspect).shares_coil_with.clone(),
    };
    let mut list = Vec::new();
    for cylinder in engine.numbers().filter(|&c| c != input.suspect) {
        let mut refuse = |why: String| ruled_out.push(RuledOut { part: None, cylinder: Some(cylinder), why });
        if input.healthy.as_ref().is_some_and(|healthy| !healthy.contains(&cylinder)) {
            refuse("not known to be healthy: a misfire there would say nothing".into());
        } else if shares_coil.contains(&cylinder) {
            refuse(format!("shares a coil with cylinder {}", input.suspect));
        } else {
            list.push(cylinder);
        }
    }
    Ok(list)
}

/// The exact search over assignments of parts to distinct receivers.
struct Search<'a> {
    engine: &'a Engine,
    access: &'a Access,
    suspect: u8,
    best: Option<(f64, Vec<u8>)>,
}

impl Search<'_> {
    fn place(&mut self, candidates: &[Candidate], receivers: &[u8], chosen: &mut Vec<u8>) {
        let so_far = self.access.minutes(&opened(self.engine, self.suspect, candidates, chosen));
        // Minutes only grow with every part placed, and of equal plans the first in number order stays.
        if self.best.as_ref().is_some_and(|(minutes, _)| so_far >= *minutes) {
            return;
        }
        let Some(next) = candidates.get(chosen.len()) else {
            self.best = Some((so_far, chosen.clone()));
            return;
        };
        for &receiver in receivers {
            let clamped =
                next.part == "injector" && self.engine.cylinder(self.suspect).shares_clamp_with.contains(&receiver);
            // Two coils of a pair would meet on one receiver group.
            let meets = chosen.iter().any(|&c| {
                self.engine.ignition == Ignition::PairedCoils
                    && self.engine.cylinder(c).shares_coil_with.contains(&receiver)
            });
            if chosen.contains(&receiver) || clamped || meets {
                continue;
            }
            chosen.push(receiver);
            self.place(candidates, receivers, chosen);
            chosen.pop();
        }
    }
}

/// Every cylinder that a set of placements opens: suspect, receivers, and the clamp neighbours of both for injectors.
fn opened(engine: &Engine, suspect: u8, candidates: &[Candidate], chosen: &[u8]) -> BTreeSet<u8> {
    let mut set = BTreeSet::from([suspect]);
    for (candidate, &receiver) in candidates.iter().zip(chosen) {
        set.insert(receiver);
        if candidate.part == "injector" {
            set.extend(&engine.cylinder(suspect).shares_clamp_with);
            set.extend(&engine.cylinder(receiver).shares_clamp_with);
        }
    }
    set
}

fn reads(suspect: u8, candidates: &[Candidate], chosen: &[u8]) -> Vec<Reading> {
    if chosen.is_empty() {
        return Vec::new();
    }
    let mut list: Vec<Reading> = candidates
        .iter()
        .zip(chosen)
        .map(|(candidate, &cylinder)| Reading {
            outcome: Verdict::Moved,
            cylinder: Some(cylinder),
            part: Some(candidate.name()),
            means: format!(
                "Misfire now on cylinder {cylinder}: the {} took it along and is condemned.",
                candidate.name()
            ),
        })
        .collect();
    let moved = candidates.iter().take(chosen.len()).map(|c| c.name()).collect::<Vec<_>>().join(" and ");
    let plain = |outcome, cylinder, means| Reading { outcome, cylinder, part: None, means };
    list.push(plain(
        Verdict::Stayed,
        Some(suspect),
        format!("Misfire still on cylinder {suspect}: {moved} cleared. Wiring, the parts not moved, or compression."),
    ));
    list.push(plain(
        Verdict::Gone,
        None,
        "No misfire: a connection that the handling mended, or an intermittent fault. Nothing is proven.".into(),
    ));
    list.push(plain(
        Verdict::Elsewhere,
        None,
        "Misfire on a cylinder that received nothing: something was disturbed, or a second fault.".into(),
    ));
    list
}
