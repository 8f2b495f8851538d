//! Signatures: what the course of the trims over idle, cruise and load speaks for.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};
use utoipa::ToSchema;

use super::{BankTrims, Mean, TrimsKnowledge};
use crate::knowledge::Knowledge;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SignatureKind {
    Normal,
    UnmeteredAir,
    DeliveryWeak,
    MeterUnderReads,
    OverFuelling,
    OneInjector,
    ExhaustLeak,
    SensorBiased,
    MisfireLooksLean,
}

impl SignatureKind {
    pub const ALL: [SignatureKind; 9] = [
        SignatureKind::Normal,
        SignatureKind::UnmeteredAir,
        SignatureKind::DeliveryWeak,
        SignatureKind::MeterUnderReads,
        SignatureKind::OverFuelling,
        SignatureKind::OneInjector,
        SignatureKind::ExhaustLeak,
        SignatureKind::SensorBiased,
        SignatureKind::MisfireLooksLean,
    ];
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum OnBanks {
    One,
    All,
    Either,
}

/// One entry of `knowledge/trims.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SignatureKnowledge {
    pub weight: f64,
    pub idle: f64,
    pub cruise: f64,
    pub load: f64,
    pub size_pct: f64,
    pub banks: OnBanks,
    pub says: String,
    #[serde(default)]
    pub look_first: Vec<String>,
    pub because: String,
}

/// A signature with its probability.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Signature {
    pub kind: SignatureKind,
    /// The banks it is about; empty for `normal`.
    pub banks: Vec<usize>,
    pub probability: f64,
    pub because: String,
}

/// Weighs every signature on every set of banks it can be met on.
///
/// The regime means of a bank are `size × course` plus noise. With the size normal around zero and cut to positive
/// values, the marginal likelihood has a closed form: a rank-one Gaussian times twice the chance that the size is
/// positive given the readings.
pub(super) fn weigh(banks: &[BankTrims], misfires: &BTreeMap<usize, f64>, rules: &TrimsKnowledge) -> Vec<Signature> {
    let readings: Vec<Vec<(usize, Mean)>> = banks
        .iter()
        .map(|bank| {
            [bank.idle_pct, bank.cruise_pct, bank.load_pct]
                .into_iter()
                .enumerate()
                .filter_map(|(regime, mean)| Some((regime, mean?)))
                .collect()
        })
        .collect();
    if readings.iter().all(Vec::is_empty) {
        return Vec::new();
    }
    let mut weighed: Vec<(SignatureKind, Vec<usize>, f64)> = Vec::new();
    for (&kind, entry) in &rules.signatures {
        let everywhere: Vec<usize> = (0..banks.len()).collect();
        let mut sets: Vec<Vec<usize>> = match entry.banks {
            OnBanks::All => vec![everywhere],
            // On an engine with one bank the whole engine is that bank.
            _ if banks.len() == 1 => vec![everywhere],
            OnBanks::One => (0..banks.len()).map(|b| vec![b]).collect(),
            OnBanks::Either => (0..banks.len()).map(|b| vec![b]).chain([everywhere]).collect(),
        };
        if kind == SignatureKind::MisfireLooksLean {
            let doubtful =
                |b: usize| misfires.get(&(b + 1)).is_some_and(|&rate| rate > rules.misfire.doubtful_above_pct);
            sets.retain(|set| set.iter().all(|&b| doubtful(b)));
        }
        if sets.is_empty() {
            continue;
        }
        let prior = (entry.weight / sets.len() as f64).ln();
        for set in sets {
            let fit: f64 = readings
                .iter()
                .enumerate()
                .map(|(bank, reading)| {
                    let course = if set.contains(&bank) { Some(entry) } else { None };
                    ln_likelihood(reading, course, kind == SignatureKind::Normal, rules)
                })
                .sum();
            weighed.push((kind, set.iter().map(|b| b + 1).collect(), prior + fit));
        }
    }
    let highest = weighed.iter().map(|w| w.2).fold(f64::NEG_INFINITY, f64::max);
    let total: f64 = weighed.iter().map(|w| (w.2 - highest).exp()).sum();
    let mut list: Vec<Signature> = weighed
        .into_iter()
        .map(|(kind, set, weight)| Signature {
            kind,
            probability: (weight - highest).exp() / total,
            because: because(kind, &set, banks, rules),
            banks: if kind == SignatureKind::Normal { Vec::new() } else { set },
        })
        .collect();
    list.sort_by(|a, b| b.probability.total_cmp(&a.probability).then(a.kind.cmp(&b.kind)).then(a.banks.cmp(&b.banks)));
    list.retain(|s| s.probability > 1e-4);
    list
}

fn ln_likelihood(
    reading: &[(usize, Mean)],
    course: Option<&SignatureKnowledge>,
    normal: bool,
    rules: &TrimsKnowledge,
) -> f64 {
    let noise = |mean: &Mean| rules.noise.regime_pct.powi(2) + ((mean.high - mean.low) / 3.92).powi(2);
    let sound: f64 = reading
        .iter()
        .map(|(_, mean)| -0.5 * (mean.mean.powi(2) / noise(mean) + noise(mean).ln() + std::f64::consts::TAU.ln()))
        .sum();
    let Some(entry) = course.filter(|_| !normal) else { return sound };
    let shape = [entry.idle, entry.cruise, entry.load];
    // Posterior of the size given the readings: precision and precision times mean.
    let spread = 1.0 / entry.size_pct.powi(2);
    let precision = spread + reading.iter().map(|(r, m)| shape[*r].powi(2) / noise(m)).sum::<f64>();
    let pull: f64 = reading.iter().map(|(r, m)| shape[*r] * m.mean / noise(m)).sum();
    let positive = Normal::standard().cdf(pull / precision.sqrt()).max(1e-300);
    sound + 0.5 * (spread / precision).ln() + 0.5 * pull * pull / precision + (2.0 * positive).ln()
}

fn because(kind: SignatureKind, set: &[usize], banks: &[BankTrims], rules: &TrimsKnowledge) -> String {
    let about = set
        .iter()
        .filter_map(|bank| banks.get(bank.wrapping_sub(1)))
        .map(|bank| {
            let reading = |name: &str, mean: &Option<Mean>| mean.map(|m| format!("{name} {:+.1} %", m.mean));
            let list: Vec<String> =
                [reading("idle", &bank.idle_pct), reading("cruise", &bank.cruise_pct), reading("load", &bank.load_pct)]
                    .into_iter()
                    .flatten()
                    .collect();
            format!("bank {}: {}", bank.bank, list.join(", "))
        })
        .collect::<Vec<_>>()
        .join("; ");
    let says = rules.signatures.get(&kind).map(|s| s.says.as_str()).unwrap_or_default();
    format!("{says} Seen on {about}.")
}

/// What the trims say and what would settle it: (decided, says, next).
pub(super) fn in_words(
    banks: &[BankTrims],
    signatures: &[Signature],
    hole: Option<(f64, (f64, f64))>,
    knowledge: &Knowledge,
) -> (bool, String, String) {
    let Some(first) = signatures.first() else {
        let missing = if banks.iter().all(|b| b.points == 0) {
            "No stretch of steady, warm, closed-loop running was seen."
        } else {
            "Engine speed or load is not known, so idle, cruise and load cannot be told apart."
        };
        return (false, missing.into(), "Record idle, a steady cruise and a long climb, each for a minute.".into());
    };
    let decided = first.probability >= knowledge.trims.decision.probability;
    let where_ = match first.banks.as_slice() {
        [] => String::new(),
        [one] if banks.len() > 1 => format!(" on bank {one}"),
        _ => String::new(),
    };
    let name = match first.kind {
        SignatureKind::Normal => "The trims are ordinary".to_owned(),
        SignatureKind::UnmeteredAir => format!("Unmetered air{where_}"),
        SignatureKind::DeliveryWeak => "Fuel delivery weak at flow".to_owned(),
        SignatureKind::MeterUnderReads => "The air meter under-reads".to_owned(),
        SignatureKind::OverFuelling => format!("Too much fuel{where_}, most at idle"),
        SignatureKind::OneInjector => format!("One injector gives less{where_}"),
        SignatureKind::ExhaustLeak => format!("Air drawn into the exhaust{where_}"),
        SignatureKind::SensorBiased => format!("The sensor reads wrong{where_}"),
        SignatureKind::MisfireLooksLean => format!("A misfire that looks lean{where_}"),
    };
    let size = match hole {
        Some((mm, (low, high))) if first.kind == SignatureKind::UnmeteredAir => {
            format!(", like a hole of {mm:.1} mm ({low:.1} to {high:.1})")
        }
        _ => String::new(),
    };
    let says =
        if decided { format!("{name}{size}.") } else { format!("Perhaps: {}{size}; not decided.", lower(&name)) };
    let unseen: Vec<&str> = [
        ("at idle", banks.iter().any(|b| b.idle_pct.is_none())),
        ("at a steady cruise", banks.iter().any(|b| b.cruise_pct.is_none())),
        ("under load", banks.iter().any(|b| b.load_pct.is_none())),
    ]
    .into_iter()
    .filter_map(|(name, lacks)| lacks.then_some(name))
    .collect();
    let next = if !unseen.is_empty() {
        format!("Not seen yet {}: record that too.", unseen.join(" and "))
    } else if decided {
        knowledge.trims.signatures.get(&first.kind).map(|s| s.says.clone()).unwrap_or_default()
    } else {
        "More steady stretches at flows that are far apart would tell.".into()
    };
    (decided, says, next)
}

fn lower(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |first| first.to_lowercase().chain(chars).collect())
}
