//! The units of a car: which of their codes are causes, which are echoes, and in which order to work.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::codes::{Code, CodeBook, ReadCode};
use crate::trail::{Entry, Finding};

/// The file `knowledge/units.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct UnitKnowledge {
    pub order: UnitOrder,
    /// Codes by which a unit says that it misses another, and the name of that one.
    pub lost: BTreeMap<String, String>,
    pub rule: Vec<UnitRule>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct UnitOrder {
    pub words: Vec<String>,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct UnitRule {
    pub codes: Vec<String>,
    #[serde(default)]
    pub units: Vec<String>,
    #[serde(default)]
    pub echo_of: Option<EchoOf>,
    pub role: CodeRole,
    pub group: String,
    pub because: String,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum EchoOf {
    Supply,
    Engine,
    Network,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CodeRole {
    Cause,
    Echo,
    /// No rule fits: it is judged by itself.
    Own,
}

/// How a code fared over a clearing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Return {
    /// There was no clearing, or no scan after it.
    NotKnown,
    /// It stood again before the car was driven: a hard fault, an open or a short.
    AtOnce,
    /// After a drive: real, and conditional.
    AfterDrive,
    /// Scans after a drive no longer hold it.
    NotBack,
    /// It was not there before the clearing.
    New,
}

/// A code in a unit with what is thought of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct UnitCode {
    #[serde(flatten)]
    pub read: ReadCode,
    pub text: String,
    pub role: CodeRole,
    pub because: String,
    pub returned: Return,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct UnitState {
    pub unit: String,
    /// Whether it answered the last scan. A unit that did not is not a clean one.
    pub read: bool,
    pub codes: Vec<UnitCode>,
    /// Place in the order of the work, from 1; null where there is nothing to do.
    pub work: Option<usize>,
}

/// All units of the last scan, and how the codes fared over the last clearing.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct UnitsOverview {
    pub units: Vec<UnitState>,
    pub scan_entry: u32,
    pub tool: String,
    /// The scan before the last clearing, with which it is compared.
    pub compared_with: Option<u32>,
    pub says: String,
    pub order_because: String,
}

/// The unit's name under which codes stand that were entered without one.
const ENGINE: &str = "engine";

/// Reckons the overview from the scans and clearings of a trail. `None` without a scan.
pub fn units_overview(standing: &[&Entry], knowledge: &UnitKnowledge, book: &CodeBook) -> Option<UnitsOverview> {
    let is_scan = |entry: &&&Entry| matches!(entry.finding, Finding::Scan { .. });
    let (last_at, last) = standing.iter().enumerate().rev().find(|(_, e)| is_scan(e))?;
    let Finding::Scan { tool, units_read, units_unread, codes } = &last.finding else { return None };
    let cleared_at = standing.iter().rposition(|e| matches!(e.finding, Finding::Cleared { .. }));
    let before = cleared_at.and_then(|at| standing[..at].iter().rev().find(is_scan).copied());
    let cleared_km = cleared_at.map(|at| standing[at].odometer_km);
    let after: Vec<&&Entry> = cleared_at.map_or_else(Vec::new, |at| standing[at..].iter().filter(is_scan).collect());

    let mut names: Vec<String> = units_read.iter().chain(units_unread).map(|u| u.trim().to_lowercase()).collect();
    names.retain(|name| !name.is_empty());
    let unit_of = |code: &ReadCode| code.unit.as_deref().unwrap_or(ENGINE).trim().to_lowercase();
    let codes_of = |entry: &Entry| match &entry.finding {
        Finding::Scan { codes, .. } => codes.clone(),
        _ => Vec::new(),
    };
    // A code that was there before the clearing and is not now is shown too: not back is a result.
    let mut shown: Vec<(ReadCode, bool)> = codes.iter().map(|c| (c.clone(), true)).collect();
    if last_at > cleared_at.unwrap_or(usize::MAX)
        && let Some(before) = before
    {
        for old in codes_of(before) {
            if !shown.iter().any(|(c, _)| c.code == old.code && unit_of(c) == unit_of(&old)) {
                shown.push((old, false));
            }
        }
    }
    for (code, _) in &shown {
        if !names.contains(&unit_of(code)) {
            names.push(unit_of(code));
        }
    }
    names.sort();
    names.dedup();
    let supply = codes.iter().any(|c| {
        knowledge.rule.iter().any(|r| r.group == "supply" && r.codes.iter().any(|head| c.code.starts_with(head)))
    });
    let engine = codes.iter().any(|c| unit_of(c).contains(ENGINE) && !c.code.starts_with('U'));
    let network = units_unread.iter().any(|u| !u.trim().is_empty());
    let holds = |of: EchoOf| match of {
        EchoOf::Supply => supply,
        EchoOf::Engine => engine,
        EchoOf::Network => network,
    };
    let mut groups: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let mut units: Vec<UnitState> = names
        .iter()
        .map(|name| {
            let own = shown.iter().filter(|(c, _)| unit_of(c) == *name);
            let list = own
                .map(|(code, there)| {
                    let rule = knowledge.rule.iter().find(|rule| {
                        rule.codes.iter().any(|head| code.code.starts_with(head))
                            && (rule.units.is_empty() || rule.units.iter().any(|word| name.contains(word)))
                            && rule.echo_of.is_none_or(holds)
                    });
                    let came_back =
                        |entry: &&&Entry| codes_of(entry).iter().any(|c| c.code == code.code && unit_of(c) == *name);
                    let was_there = before.is_some_and(|b| came_back(&&b));
                    let driven = |entry: &&&Entry| cleared_km.is_some_and(|km| entry.odometer_km > km);
                    let returned = match (after.is_empty(), after.iter().copied().find(|e| came_back(e))) {
                        (true, _) => Return::NotKnown,
                        (false, Some(_)) if before.is_some() && !was_there => Return::New,
                        (false, Some(scan)) if driven(&scan) => Return::AfterDrive,
                        (false, Some(_)) => Return::AtOnce,
                        // Not standing there without a metre driven says nothing yet.
                        (false, None) if after.iter().copied().any(|e| driven(&e)) => Return::NotBack,
                        (false, None) => Return::NotKnown,
                    };
                    if *there && let Some(rule) = rule {
                        groups.entry(rule.group.clone()).or_default().push(name.clone());
                    }
                    UnitCode {
                        text: Code::parse(&code.code).map(|c| book.meaning(c).text).unwrap_or_default(),
                        role: rule.map_or(CodeRole::Own, |r| r.role),
                        because: rule.map(|r| r.because.clone()).unwrap_or_default(),
                        returned,
                        read: code.clone(),
                    }
                })
                .collect();
            let read = units_read.iter().any(|u| u.trim().to_lowercase() == *name);
            UnitState { unit: name.clone(), read, codes: list, work: None }
        })
        .collect();
    set_order(&mut units, &groups, knowledge);
    let causes = units.iter().flat_map(|u| &u.codes).filter(|c| c.role == CodeRole::Cause).count();
    let echoes = units.iter().flat_map(|u| &u.codes).filter(|c| c.role == CodeRole::Echo).count();
    let unread: Vec<&str> = units.iter().filter(|u| !u.read).map(|u| u.unit.as_str()).collect();
    let mut says = match units.iter().find(|u| u.work == Some(1)) {
        Some(first) => format!("Begin with the {} unit.", first.unit),
        None => "No codes.".to_owned(),
    };
    if echoes > 0 {
        says.push_str(&format!(
            " {echoes} of {} codes only echo another fault until proven otherwise.",
            causes + echoes
        ));
    }
    if !unread.is_empty() {
        says.push_str(&format!(" Not read, and so not known to be clean: {}.", unread.join(", ")));
    }
    Some(UnitsOverview {
        units,
        scan_entry: last.number,
        tool: tool.clone(),
        compared_with: before.map(|b| b.number).filter(|_| !after.is_empty()),
        says,
        order_because: knowledge.order.because.clone(),
    })
}

fn set_order(units: &mut [UnitState], groups: &BTreeMap<String, Vec<String>>, knowledge: &UnitKnowledge) {
    let rank = |unit: &UnitState| {
        let by_group = knowledge.order.words.iter().position(|word| {
            groups.get(word).is_some_and(|names| names.contains(&unit.unit)) || unit.unit.contains(word)
        });
        let causes = unit.codes.iter().any(|c| c.role == CodeRole::Cause);
        (!causes, by_group.unwrap_or(usize::MAX), unit.unit.clone())
    };
    units.sort_by_key(|unit| (unit.codes.is_empty(), rank(unit)));
    let mut place = 0;
    for unit in units.iter_mut() {
        if unit.codes.iter().any(|c| c.returned != Return::NotBack && c.role != CodeRole::Echo) {
            place += 1;
            unit.work = Some(place);
        }
    }
}
