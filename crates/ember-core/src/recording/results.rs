//! What a recording says, in the lines that go to the trail.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{CountsOverTime, Recording, counts_over_time, misfire_map};
use crate::boost::{BoostResult, BoostVerdict, boost_samples, of_series};
use crate::engine::Engine;
use crate::knowledge::Knowledge;
use crate::misfire::{Counts, MisfireResult, of_counts};
use crate::suspects::FindingInput;
use crate::suspects::target::Target;
use crate::trims::{SignatureKind, TrimPoint, TrimsResult, of_points, steady_points};

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ResultKind {
    Misfires,
    Trims,
    Boost,
}

/// One result of a recording.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RecordingResult {
    pub kind: ResultKind,
    pub says: String,
    pub decided: bool,
    /// Whether it speaks of a fault; what is decided may also be that all is well.
    #[serde(default)]
    pub fault: bool,
    /// Where to look first, cheap looks before dear ones.
    #[serde(default)]
    pub look_first: Vec<String>,
    /// How likely what it says first is, where that is reckoned.
    #[serde(default)]
    pub probability: Option<f64>,
    /// What it says of the suspects.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub evidence: Vec<FindingInput>,
}

/// The air around the car, as far as it is known. What is not given is taken from the recording, else it is assumed,
/// and said so.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Ambient {
    #[serde(default)]
    pub ambient_kpa: Option<f64>,
    #[serde(default)]
    pub intake_c: Option<f64>,
}

/// Where a figure of the surroundings comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Known {
    Given,
    Recorded,
    Assumed,
}

impl Ambient {
    /// (ambient pressure in kPa, where from, intake temperature in °C, where from).
    pub fn of(&self, recording: &Recording) -> (f64, Known, f64, Known) {
        let settle = |given: Option<f64>, channels: &[&str], else_: f64| match given {
            Some(value) => (value, Known::Given),
            None => match channels.iter().find_map(|name| recording.mean(name)) {
                Some(value) => (value, Known::Recorded),
                None => (else_, Known::Assumed),
            },
        };
        let (kpa, kpa_known) = settle(self.ambient_kpa, &["ambient_pressure"], 101.325);
        let (c, c_known) = settle(self.intake_c, &["intake_air", "ambient_air"], 20.0);
        (kpa, kpa_known, c, c_known)
    }
}

/// Trims with the points they were fitted to.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TrimsOfRecording {
    pub points: Vec<TrimPoint>,
    pub result: TrimsResult,
    pub ambient_known: Known,
    pub intake_known: Known,
}

/// The misfires' share of each bank in percent.
pub fn misfire_by_bank(engine: &Engine, counts: &CountsOverTime) -> BTreeMap<usize, f64> {
    let firings = counts.revolutions / 2.0;
    engine
        .banks
        .iter()
        .enumerate()
        .map(|(index, bank)| {
            let missed: f64 = bank.iter().filter_map(|c| counts.misfires.get(&c.to_string())).sum();
            (index + 1, 100.0 * missed / (firings * bank.len() as f64))
        })
        .collect()
}

/// The trims of a recording; `None` where there are no trims to speak of.
///
/// # Errors
/// A figure of the surroundings that cannot be.
pub fn trims_of(
    engine: &Engine,
    recording: &Recording,
    ambient: Ambient,
    knowledge: &Knowledge,
) -> Result<Option<TrimsOfRecording>, crate::refusal::Refusal> {
    let (kpa, ambient_known, celsius, intake_known) = ambient.of(recording);
    let points = steady_points(engine, recording, &knowledge.evidence);
    if points.is_empty() {
        return Ok(None);
    }
    crate::refusal::above_zero("ambient_kpa", kpa)?;
    if !(-60.0..=150.0).contains(&celsius) {
        return Err(crate::refusal::Refusal::new("intake_c", "must lie between -60 and 150"));
    }
    let misfires = counts_over_time(engine, recording, &knowledge.evidence)
        .map_or_else(BTreeMap::new, |counts| misfire_by_bank(engine, &counts));
    let result = of_points(engine, &points, kpa, celsius, &misfires, knowledge)?;
    Ok(Some(TrimsOfRecording { points, result, ambient_known, intake_known }))
}

/// The counts of a recording with what they say.
pub fn misfires_of(
    engine: &Engine,
    recording: &Recording,
    knowledge: &Knowledge,
) -> Option<(CountsOverTime, MisfireResult)> {
    let counts = counts_over_time(engine, recording, &knowledge.evidence)?;
    let whole = Counts::new(engine, counts.revolutions, &counts.misfires).ok()?;
    let windows: Vec<Counts> =
        counts.windows.iter().filter_map(|w| Counts::new(engine, w.revolutions, &w.misfires).ok()).collect();
    let result = of_counts(engine, &whole, &windows, knowledge);
    Some((counts, result))
}

/// The verdict on the charge pressure; `None` where it was not recorded.
pub fn boost_of(recording: &Recording, ambient: Ambient, knowledge: &Knowledge) -> Option<BoostResult> {
    let samples = boost_samples(recording, &knowledge.evidence);
    (!samples.is_empty()).then(|| of_series(&samples, ambient.of(recording).0, knowledge))
}

/// Everything that a recording says of an engine.
pub fn results(engine: &Engine, recording: &Recording, knowledge: &Knowledge) -> Vec<RecordingResult> {
    let mut list = Vec::new();
    if let Some((_, result)) = misfires_of(engine, recording, knowledge) {
        let place = misfire_map(engine, recording, &knowledge.evidence)
            .filter(|map| !map.lit.is_empty() && !result.group.cylinders.is_empty())
            .map(|map| format!(" {}", map.says))
            .unwrap_or_default();
        list.push(RecordingResult {
            kind: ResultKind::Misfires,
            says: format!("{}{place}", result.says),
            decided: result.decided,
            fault: !result.group.cylinders.is_empty(),
            look_first: Vec::new(),
            probability: Some(result.group.probability),
            // The counts are an entry of their own.
            evidence: Vec::new(),
        });
    }
    if let Ok(Some(trims)) = trims_of(engine, recording, Ambient::default(), knowledge) {
        let evidence = of_trims(engine, &trims.result);
        list.push(RecordingResult {
            kind: ResultKind::Trims,
            says: trims.result.says,
            decided: trims.result.decided,
            fault: trims.result.signatures.first().is_some_and(|s| s.kind != SignatureKind::Normal),
            look_first: trims.result.look_first,
            probability: trims.result.signatures.first().map(|s| s.probability),
            evidence,
        });
    }
    if let Some(boost) = boost_of(recording, Ambient::default(), knowledge) {
        let evidence = of_boost(&boost);
        list.push(RecordingResult {
            kind: ResultKind::Boost,
            says: boost.says,
            decided: boost.decided,
            fault: !matches!(boost.verdict, BoostVerdict::Follows | BoostVerdict::CannotTell),
            evidence,
            look_first: boost.look_first,
            probability: None,
        });
    }
    list
}

/// What the trims say of the suspects, bank by bank: each signature stands for the shape that it has.
fn of_trims(engine: &Engine, trims: &TrimsResult) -> Vec<FindingInput> {
    let shape = |kind: SignatureKind| match kind {
        SignatureKind::Normal => "ordinary",
        SignatureKind::UnmeteredAir => "lean-at-idle",
        SignatureKind::DeliveryWeak | SignatureKind::MeterUnderReads => "lean-at-load",
        SignatureKind::OverFuelling => "rich",
        _ => "lean-everywhere",
    };
    (1..=engine.banks.len())
        .map(|bank| {
            let likelihood: Vec<(&str, f64)> = trims
                .signatures
                .iter()
                .map(|s| (if s.banks.contains(&bank) { shape(s.kind) } else { "ordinary" }, s.probability))
                .collect();
            let target = Target::Bank(bank as u8);
            let says = format!("Trims of bank {bank}: {}", trims.says.trim_end_matches('.'));
            FindingInput::soft("trims-read", target, says, &likelihood)
        })
        .collect()
}

/// What the charge pressure says of the suspects.
fn of_boost(boost: &BoostResult) -> Vec<FindingInput> {
    let likelihood = match boost.verdict {
        BoostVerdict::Follows => vec![("follows", 0.94), ("late", 0.03), ("low", 0.03)],
        BoostVerdict::Leak => vec![("low", 0.9), ("late", 0.07), ("follows", 0.03)],
        BoostVerdict::ConstantOffset => vec![("low", 0.45), ("over", 0.4), ("follows", 0.15)],
        BoostVerdict::StickingVanes => vec![("over", 0.5), ("swings", 0.35), ("late", 0.15)],
        BoostVerdict::NoResponse => vec![("low", 0.65), ("late", 0.35)],
        BoostVerdict::CannotTell => return Vec::new(),
    };
    let says = boost.says.trim_end_matches('.').to_owned();
    vec![FindingInput::soft("boost-log", Target::Engine, says, &likelihood)]
}
