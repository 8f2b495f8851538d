//! The bench-out list: what is off the car, in order, and what must go back before the engine is started.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::bench::PutRight;
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::torque::{TorqueInput, torque};
use crate::trail::{Entry, Finding};
use crate::vehicle::line;

/// What kind of thing it is.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum OffKind {
    #[default]
    Part,
    Cover,
    Fastener,
    Hose,
    Clip,
    Connector,
    Seal,
    Fluid,
}

/// What was done to it.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum OffHow {
    #[default]
    Removed,
    /// Only loosened, still in its place.
    Loosened,
    /// Pried or bent aside.
    Pried,
    /// Let out, and kept or thrown away.
    Drained,
    /// Some of it ran out.
    Lost,
    /// Fell where it cannot be seen.
    Dropped,
    Broken,
    /// Put out of action for a test: injection, a fuel pump, an airbag of air.
    Disabled,
}

/// One thing that came off, or was loosened, drained, dropped or broken.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct OffItem {
    pub what: String,
    pub kind: OffKind,
    pub how: OffHow,
    /// How many, of fasteners and the like.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub count: Option<u32>,
    /// Where it lies now: a tray, a tag, a side.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub lies: String,
    /// Never used again: a seal, a gasket, a stretch bolt.
    pub renew: bool,
    /// What was measured before it was moved: a rod's length, an adjuster's turns.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub setting: String,
    /// How it is tightened when it goes back.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tighten: Option<TorqueInput>,
    /// The number of a photograph of this job.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub photo: Option<i64>,
}

/// One thing that is back on, filled up, found or renewed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OnItem {
    /// The entry and the place in it, from 0, under which it came off.
    pub entry: u32,
    pub index: usize,
    /// A new one was used.
    #[serde(default)]
    pub renewed: bool,
    /// Why an old one was used although it should be new, or why something is left off.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub reason: String,
    /// Tightened by its stages, all fasteners, to the end.
    #[serde(default)]
    pub tightened: bool,
    /// With which wrench.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub wrench: String,
}

/// A thing that is off, as the list shows it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct OffShown {
    pub entry: u32,
    pub index: usize,
    pub item: OffItem,
    /// What must be done with it: `put it back`, `fill it up and bleed it`, `find it`.
    pub wants: String,
    pub odometer_km: f64,
}

/// The list as it stands.
#[derive(Debug, Clone, Default, PartialEq, Serialize, ToSchema)]
pub struct BenchOut {
    /// What is off, the last off first: so it goes back.
    pub off: Vec<OffShown>,
    /// How many things went back since the list was begun.
    pub back: usize,
    /// What must be had new before it can go back.
    pub renew: Vec<String>,
    /// Whether the engine must not be started yet.
    pub holds_start: bool,
    /// Whether anything was off since the engine was last started on purpose.
    pub start_is_due: bool,
    pub says: String,
}

fn wants(item: &OffItem) -> &'static str {
    match (item.how, item.kind) {
        (OffHow::Drained | OffHow::Lost, _) | (_, OffKind::Fluid) => "fill it up and bleed it",
        (OffHow::Loosened, _) => "tighten it",
        (OffHow::Pried, _) => "press it home",
        (OffHow::Dropped, _) => "find it",
        (OffHow::Broken, _) => "replace it",
        (OffHow::Disabled, _) => "switch it on again",
        (OffHow::Removed, OffKind::Connector) => "plug it in until it clicks",
        (OffHow::Removed, OffKind::Seal) => "fit a new one",
        (OffHow::Removed, _) => "put it back",
    }
}

/// What a thing is called in a sentence: `4 × manifold bolts`.
pub fn called(item: &OffItem) -> String {
    match item.count {
        Some(count) if count > 1 => format!("{count} × {}", item.what),
        _ => item.what.clone(),
    }
}

/// Computes the list from the entries that count and what measuring has left to be put right.
pub fn bench_out(standing: &[&Entry], put_right: &[PutRight]) -> BenchOut {
    let mut off: Vec<OffShown> = Vec::new();
    let mut back = 0;
    let mut due = false;
    for entry in standing {
        match &entry.finding {
            Finding::Off { items } => {
                due = true;
                off.extend(items.iter().enumerate().map(|(index, item)| OffShown {
                    entry: entry.number,
                    index,
                    item: item.clone(),
                    wants: wants(item).into(),
                    odometer_km: entry.odometer_km,
                }));
            }
            Finding::On { items } => {
                let before = off.len();
                off.retain(|shown| !items.iter().any(|on| (on.entry, on.index) == (shown.entry, shown.index)));
                back += before - off.len();
            }
            Finding::Started { .. } => due = false,
            _ => {}
        }
    }
    off.reverse();
    let renew = off.iter().filter(|shown| shown.item.renew).map(|shown| called(&shown.item)).collect();
    let holds_start = !off.is_empty() || (due && !put_right.is_empty());
    let says = missing(&off, put_right, due);
    BenchOut { off, back, renew, holds_start, start_is_due: due, says }
}

fn missing(off: &[OffShown], put_right: &[PutRight], due: bool) -> String {
    let mut list: Vec<String> = off.iter().map(|shown| format!("{}: {}", called(&shown.item), shown.wants)).collect();
    if due || !off.is_empty() {
        list.extend(put_right.iter().map(|one| one.what.clone()));
    }
    match list.len() {
        0 if due => "Everything is back. The engine may be started.".into(),
        0 => "Nothing is off.".into(),
        1 => format!("One thing is not back: {}.", list[0]),
        many => format!("{many} things are not back: {}.", list.join("; ")),
    }
}

/// Checks what is said to have come off.
///
/// # Errors
/// Nothing named; a thing without a name; a count of nought; stages that cannot be.
pub fn check_off(items: &[OffItem]) -> Result<(), Refusal> {
    if items.is_empty() {
        return Err(Refusal::new("items", "is empty: what came off?"));
    }
    for (index, item) in items.iter().enumerate() {
        let within = |refusal: Refusal| refusal.within(&format!("items[{index}]"));
        line("what", &item.what).map_err(within)?;
        if item.count == Some(0) {
            return Err(within(Refusal::new("count", "must be 1 or more")));
        }
        if let Some(tighten) = &item.tighten {
            torque(tighten, Knowledge::built_in()).map_err(|refusal| within(refusal.within("tighten")))?;
        }
    }
    Ok(())
}

/// Checks what is said to be back on.
///
/// # Errors
/// Nothing named; a thing that is not on the list, or back already; an old one where a new one is asked for, without a
/// reason; fasteners with stages that were not tightened, without a reason.
pub fn check_on(entries: &[Entry], items: &[OnItem]) -> Result<(), Refusal> {
    if items.is_empty() {
        return Err(Refusal::new("items", "is empty: what is back?"));
    }
    let standing = crate::trail::effective(entries);
    let list = bench_out(&standing, &[]);
    for (index, on) in items.iter().enumerate() {
        let within = |refusal: Refusal| refusal.within(&format!("items[{index}]"));
        let twice = items[..index].iter().any(|other| (other.entry, other.index) == (on.entry, on.index));
        let shown = list.off.iter().find(|shown| (shown.entry, shown.index) == (on.entry, on.index));
        let Some(shown) = shown.filter(|_| !twice) else {
            return Err(within(Refusal::new("entry", "that is not on the list, or back already")));
        };
        let name = called(&shown.item);
        if shown.item.renew && !on.renewed && on.reason.trim().is_empty() {
            let reason = format!("{name} must be new: was a new one used? If not, why not");
            return Err(within(Refusal::new("renewed", reason)));
        }
        let tighten = shown.item.tighten.as_ref();
        if tighten.is_some() && !on.tightened && on.reason.trim().is_empty() {
            let reason = format!("{name} is tightened by stages: go through them, or say why not");
            return Err(within(Refusal::new("tightened", reason)));
        }
        if tighten.is_some_and(|one| one.single_use) && !on.renewed && on.reason.trim().is_empty() {
            let reason = format!("{name} is single use: were new ones fitted? If not, why not");
            return Err(within(Refusal::new("renewed", reason)));
        }
    }
    Ok(())
}
