//! The engine: what its maker built, checked, and what follows from it about cylinders and coils.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::refusal::Refusal;

/// The most cylinders an engine here may have: monitor ids and misfire codes name twelve.
pub const MOST_CYLINDERS: u8 = 12;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Arrangement {
    Inline,
    Vee,
    Flat,
    Vr,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Fuel {
    Petrol,
    Diesel,
    Gas,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Ignition {
    CoilPerCylinder,
    PairedCoils,
    Distributor,
    None,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Injection {
    Carburettor,
    SinglePoint,
    Port,
    Direct,
    CommonRail,
    UnitPump,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum AirMetering {
    AirFlow,
    SpeedDensity,
    None,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Charging {
    None,
    Turbo,
    VariableTurbo,
    Supercharger,
}

/// An engine as someone describes it. Only `cylinders`, `firing_order` and `banks` must be given; what is left
/// out follows from them: one bank is an inline engine, a diesel has no ignition, and so on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EngineDescription {
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub arrangement: Option<Arrangement>,
    /// 1 to 12.
    pub cylinders: u8,
    /// Cylinder numbers in the order in which they fire, each once.
    pub firing_order: Vec<u8>,
    /// The cylinders of each bank from the front of the engine. Bank 1 is the one with cylinder 1.
    pub banks: Vec<Vec<u8>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fuel: Option<Fuel>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ignition: Option<Ignition>,
    /// 1 or 2: two for an engine with two plugs and two coils in each cylinder.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coils_per_cylinder: Option<u8>,
    /// Which two cylinders share a coil. Used with `paired-coils`; left out, the running mates share.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coil_pairs: Option<Vec<Vec<u8>>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub injection: Option<Injection>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub air_metering: Option<AirMetering>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub charging: Option<Charging>,
    /// Cylinders whose injectors are held by one clamp: to lift one is to lift the other.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shared_clamps: Option<Vec<Vec<u8>>>,
}

/// Where one cylinder stands, and how it relates to the others.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CylinderPlace {
    pub cylinder: u8,
    /// Bank number, 1 for the bank with cylinder 1.
    pub bank: usize,
    /// Place on its bank from the front, starting with 1.
    pub row: usize,
    /// Crank angle at which it fires after the first cylinder of the firing order, evenly spaced over 720 degrees.
    pub fires_at_deg: f64,
    /// The cylinder that fires 360 crank degrees away, where there is one.
    pub running_mate: Option<u8>,
    /// The cylinders next to it on its bank (head-gasket neighbours).
    pub neighbours: Vec<u8>,
    /// The cylinder that fires next.
    pub successor: Option<u8>,
    /// The others that take their spark from the same coil.
    pub shares_coil_with: Vec<u8>,
    /// The others whose injector is held by the same clamp.
    pub shares_clamp_with: Vec<u8>,
}

/// A checked engine. It can only be made by [`Engine::new`], so whoever holds one need not check again.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Engine {
    pub arrangement: Arrangement,
    pub cylinders: u8,
    pub firing_order: Vec<u8>,
    pub banks: Vec<Vec<u8>>,
    pub fuel: Fuel,
    pub ignition: Ignition,
    pub coils_per_cylinder: u8,
    pub coil_pairs: Vec<Vec<u8>>,
    pub injection: Injection,
    pub air_metering: AirMetering,
    pub charging: Charging,
    pub shared_clamps: Vec<Vec<u8>>,
    /// Crank degrees between two firings, taken as even: 720 / cylinders.
    pub firing_interval_deg: f64,
    /// One entry for each cylinder, in number order.
    pub places: Vec<CylinderPlace>,
}

fn comma(cylinders: &[u8]) -> String {
    cylinders.iter().map(u8::to_string).collect::<Vec<_>>().join(", ")
}

/// Every cylinder of `list` is one the engine has, and none stands twice.
fn known_and_single(field: &str, list: &[u8], cylinders: u8) -> Result<(), Refusal> {
    let mut seen = BTreeSet::new();
    for &cylinder in list {
        if cylinder == 0 || cylinder > cylinders {
            return Err(Refusal::new(
                field,
                format!("cylinder {cylinder} does not exist on an engine with {cylinders}"),
            ));
        }
        if !seen.insert(cylinder) {
            return Err(Refusal::new(field, format!("cylinder {cylinder} stands in it twice")));
        }
    }
    Ok(())
}

fn complete(field: &str, list: &[u8], cylinders: u8) -> Result<(), Refusal> {
    known_and_single(field, list, cylinders)?;
    let missing: Vec<u8> = (1..=cylinders).filter(|cylinder| !list.contains(cylinder)).collect();
    if missing.is_empty() {
        return Ok(());
    }
    let noun = if missing.len() == 1 { "cylinder" } else { "cylinders" };
    Err(Refusal::new(field, format!("{noun} {} left out", comma(&missing))))
}

impl Engine {
    /// Checks a description and derives the rest.
    ///
    /// # Errors
    /// A cylinder count outside 1 to 12; a firing order that is not a permutation; a cylinder in two banks or in
    /// none; a coil pair whose cylinders do not fire 360 crank degrees apart; paired coils on an engine with an odd
    /// number of cylinders; coils per cylinder other than 1 or 2; a clamp that holds fewer than two cylinders.
    pub fn new(description: &EngineDescription) -> Result<Engine, Refusal> {
        let n = description.cylinders;
        if n == 0 || n > MOST_CYLINDERS {
            return Err(Refusal::new("cylinders", format!("must be 1 to {MOST_CYLINDERS}, and this is {n}")));
        }
        complete("firing_order", &description.firing_order, n)?;
        if description.banks.iter().any(Vec::is_empty) {
            return Err(Refusal::new("banks", "a bank has no cylinder"));
        }
        complete("banks", &description.banks.concat(), n)?;
        let mut banks = description.banks.clone();
        // Bank 1 is the bank with cylinder 1, whichever was written first.
        banks.sort_by_key(|bank| bank.iter().min().copied());

        let arrangement = description.arrangement.unwrap_or(match banks.len() {
            1 => Arrangement::Inline,
            _ => Arrangement::Vee,
        });
        let fuel = description.fuel.unwrap_or(Fuel::Petrol);
        let ignition = description.ignition.unwrap_or(match (fuel, &description.coil_pairs) {
            (Fuel::Diesel, _) => Ignition::None,
            (_, Some(pairs)) if !pairs.is_empty() => Ignition::PairedCoils,
            _ => Ignition::CoilPerCylinder,
        });
        let coils_per_cylinder = description.coils_per_cylinder.unwrap_or(1);
        if !(1..=2).contains(&coils_per_cylinder) {
            return Err(Refusal::new(
                "coils_per_cylinder",
                format!("must be 1 or 2, and this is {coils_per_cylinder}"),
            ));
        }

        let mate = |cylinder: u8| running_mate(&description.firing_order, cylinder);
        let mut coil_pairs = description.coil_pairs.clone().unwrap_or_default();
        for pair in &coil_pairs {
            known_and_single("coil_pairs", pair, n)?;
            let &[first, second] = pair.as_slice() else {
                return Err(Refusal::new(
                    "coil_pairs",
                    format!("a pair has two cylinders, and [{}] does not", comma(pair)),
                ));
            };
            if mate(first) != Some(second) {
                return Err(Refusal::new(
                    "coil_pairs",
                    format!(
                        "cylinders {first} and {second} do not fire 360 degrees apart, so they cannot share a coil"
                    ),
                ));
            }
        }
        known_and_single("coil_pairs", &coil_pairs.concat(), n)?;
        if ignition == Ignition::PairedCoils {
            if !n.is_multiple_of(2) {
                return Err(Refusal::new(
                    "ignition",
                    format!("paired coils need running mates, and {n} evenly firing cylinders have none"),
                ));
            }
            if coil_pairs.is_empty() {
                coil_pairs = (1..=n).filter_map(|c| mate(c).filter(|&m| m > c).map(|m| vec![c, m])).collect();
            }
            complete("coil_pairs", &coil_pairs.concat(), n)?;
        }
        for pair in &mut coil_pairs {
            pair.sort_unstable();
        }
        coil_pairs.sort();

        let mut shared_clamps = description.shared_clamps.clone().unwrap_or_default();
        for clamp in &mut shared_clamps {
            known_and_single("shared_clamps", clamp, n)?;
            if clamp.len() < 2 {
                return Err(Refusal::new("shared_clamps", "a shared clamp holds at least two cylinders"));
            }
            clamp.sort_unstable();
        }
        shared_clamps.sort();
        known_and_single("shared_clamps", &shared_clamps.concat(), n)?;

        let mut engine = Engine {
            arrangement,
            cylinders: n,
            firing_order: description.firing_order.clone(),
            banks,
            fuel,
            ignition,
            coils_per_cylinder,
            coil_pairs,
            injection: description.injection.unwrap_or(match fuel {
                Fuel::Diesel => Injection::CommonRail,
                Fuel::Petrol | Fuel::Gas => Injection::Port,
            }),
            air_metering: description.air_metering.unwrap_or(AirMetering::AirFlow),
            charging: description.charging.unwrap_or(Charging::None),
            shared_clamps,
            firing_interval_deg: 720.0 / f64::from(n),
            places: Vec::new(),
        };
        engine.places = (1..=n).map(|cylinder| engine.place(cylinder)).collect();
        Ok(engine)
    }

    fn place(&self, cylinder: u8) -> CylinderPlace {
        let position = self.firing_order.iter().position(|&c| c == cylinder).unwrap_or_default();
        let (bank, row) = self
            .banks
            .iter()
            .enumerate()
            .find_map(|(bank, list)| list.iter().position(|&c| c == cylinder).map(|row| (bank + 1, row + 1)))
            .unwrap_or((1, 1));
        let others = |group: Vec<u8>| group.into_iter().filter(|&c| c != cylinder).collect::<Vec<_>>();
        CylinderPlace {
            cylinder,
            bank,
            row,
            fires_at_deg: position as f64 * self.firing_interval_deg,
            running_mate: running_mate(&self.firing_order, cylinder),
            neighbours: others(
                self.neighbour_pairs().into_iter().filter(|p| p.contains(&cylinder)).flatten().collect(),
            ),
            successor: (self.cylinders > 1).then(|| self.firing_order[(position + 1) % self.firing_order.len()]),
            shares_coil_with: others(self.coil_group(cylinder)),
            shares_clamp_with: others(
                self.shared_clamps.iter().find(|c| c.contains(&cylinder)).cloned().unwrap_or_default(),
            ),
        }
    }

    /// What stands about one cylinder. Panics for a cylinder that the engine does not have; see [`Engine::has`].
    pub fn cylinder(&self, cylinder: u8) -> &CylinderPlace {
        &self.places[usize::from(cylinder) - 1]
    }

    pub fn has(&self, cylinder: u8) -> bool {
        (1..=self.cylinders).contains(&cylinder)
    }

    pub fn numbers(&self) -> impl Iterator<Item = u8> + use<> {
        1..=self.cylinders
    }

    /// The cylinders that take their spark from the same coil as this one, itself included; empty without ignition.
    pub fn coil_group(&self, cylinder: u8) -> Vec<u8> {
        match self.ignition {
            Ignition::None => Vec::new(),
            Ignition::CoilPerCylinder => vec![cylinder],
            Ignition::Distributor => self.numbers().collect(),
            Ignition::PairedCoils => {
                self.coil_pairs.iter().find(|pair| pair.contains(&cylinder)).cloned().unwrap_or_else(|| vec![cylinder])
            }
        }
    }

    /// Pairs that stand side by side and so share a piece of head gasket. An inline engine whose cylinders are
    /// counted as two banks (for its two exhaust sensors) still stands in one row.
    pub fn neighbour_pairs(&self) -> Vec<Vec<u8>> {
        let rows = match self.arrangement {
            Arrangement::Inline => vec![self.banks.concat()],
            _ => self.banks.clone(),
        };
        rows.iter().flat_map(|row| row.windows(2).map(|pair| sorted_pair(pair[0], pair[1]))).collect()
    }

    /// Pairs that fire one after the other, each once.
    pub fn consecutive_pairs(&self) -> Vec<Vec<u8>> {
        let order = &self.firing_order;
        let mut pairs: Vec<Vec<u8>> = (0..order.len())
            .filter(|_| order.len() > 1)
            .map(|i| sorted_pair(order[i], order[(i + 1) % order.len()]))
            .collect();
        pairs.sort();
        pairs.dedup();
        pairs
    }

    /// Pairs that fire 360 crank degrees apart.
    pub fn running_mate_pairs(&self) -> Vec<Vec<u8>> {
        self.numbers()
            .filter_map(|c| self.cylinder(c).running_mate.filter(|&mate| mate > c).map(|mate| vec![c, mate]))
            .collect()
    }

    /// Cylinders as a person would write them: `1`, `1 and 4`, `1, 2 and 5`.
    pub fn in_words(cylinders: &[u8]) -> String {
        match cylinders {
            [] => "none".into(),
            [one] => one.to_string(),
            [most @ .., last] => format!("{} and {last}", comma(most)),
        }
    }
}

fn sorted_pair(a: u8, b: u8) -> Vec<u8> {
    vec![a.min(b), a.max(b)]
}

/// With firings evenly spaced over 720 degrees, the mate stands half the firing order away.
fn running_mate(firing_order: &[u8], cylinder: u8) -> Option<u8> {
    let n = firing_order.len();
    if !n.is_multiple_of(2) {
        return None;
    }
    let position = firing_order.iter().position(|&c| c == cylinder)?;
    Some(firing_order[(position + n / 2) % n])
}
