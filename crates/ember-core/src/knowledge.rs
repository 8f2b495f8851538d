//! The knowledge files: prior figures and texts of the trade, as data with reasons.
//!
//! The files under `knowledge/` are compiled in and read once. The core itself opens no file: whoever wants other
//! figures hands the texts to [`Knowledge::from_texts`].

use std::collections::BTreeMap;
use std::sync::LazyLock;

use serde::Deserialize;
use serde::de::DeserializeOwned;

use crate::bench::knowledge::BenchKnowledge;
use crate::boost::BoostKnowledge;
use crate::codes::CodeBook;
use crate::coding::CodingKnowledge;
use crate::decide::RepairKnowledge;
use crate::frames::ParameterBook;
use crate::rates::RatePrior;
use crate::recording::{ChannelBook, ChannelKnowledge, EvidenceKnowledge};
use crate::suspects::book::{Book, BookTexts};
use crate::suspects::code_tests::CodeTests;
use crate::torque::TorqueKnowledge;
use crate::trims::{SignatureKind, TrimsKnowledge};
use crate::units::UnitKnowledge;

/// A knowledge file that cannot be used: which one, where, and why.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{file}, line {line}: {reason}")]
pub struct KnowledgeFault {
    pub file: &'static str,
    pub line: usize,
    pub reason: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Rate {
    pub shape: f64,
    pub mean: f64,
    pub because: String,
}

impl Rate {
    pub fn prior(&self) -> RatePrior {
        RatePrior::new(self.shape, self.mean)
    }
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Weight {
    pub weight: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MisfireKnowledge {
    pub fault_rate: Rate,
    pub background_rate: Rate,
    pub decision: MisfireDecision,
    pub patterns: BTreeMap<String, Weight>,
    pub alternating: AlternatingKnowledge,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MisfireDecision {
    pub probability: f64,
    pub misfires: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct AlternatingKnowledge {
    pub least_share: f64,
    pub least_windows: usize,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SwapKnowledge {
    pub faulty_rate: FaultyRate,
    pub detection: Detection,
    pub decision: SwapDecision,
    pub reach: Reach,
    pub background_share: BackgroundShare,
    pub outcomes: BTreeMap<String, Weight>,
    pub parts: BTreeMap<String, PartKnowledge>,
    pub access: Access,
}

impl SwapKnowledge {
    /// How much a kind of part is suspected before any test, relative to the others.
    pub fn part_weight(&self, part: &str) -> f64 {
        self.parts.get(part).or_else(|| self.parts.get("other")).map_or(1.0, |part| part.weight)
    }

    /// In which teardown a kind of part is moved: 1 or 2.
    pub fn part_round(&self, part: &str) -> u8 {
        self.parts.get(part).or_else(|| self.parts.get("other")).map_or(2, |part| part.round)
    }

    pub fn outcome_weight(&self, outcome: &str) -> f64 {
        self.outcomes.get(outcome).map_or(0.0, |outcome| outcome.weight)
    }
}

/// How a kind of part is suspected, and in which teardown it is reached.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PartKnowledge {
    pub weight: f64,
    pub round: u8,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FaultyRate {
    pub shape: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Detection {
    pub faulty: f64,
    pub healthy: f64,
    pub random_with_fault: f64,
    pub random_without: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SwapDecision {
    pub probability: f64,
    pub misfires: f64,
    pub occurrences: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Reach {
    pub times: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BackgroundShare {
    pub share: f64,
    pub shape: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Access {
    pub cylinder_minutes: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ProofKnowledge {
    pub trend: Trend,
    pub prior: BTreeMap<String, PriorFixed>,
    pub enough: Enough,
    pub curve: Curve,
    pub soak: Soak,
    pub owner: Owner,
    pub same_reading: SameReadingRule,
    pub drive: DriveRule,
}

/// After how long an engine counts as cold.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Soak {
    pub hours: f64,
    pub because: String,
}

/// What an owner's word is worth.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Owner {
    /// The share of occurrences that an owner reports.
    pub reports: f64,
    pub because: String,
}

/// When a reading is what it should be.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SameReadingRule {
    pub within_pct: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DriveRule {
    /// The shortest time that can be driven in a cell of the map on purpose.
    pub least_minutes: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Trend {
    pub below_pct: f64,
    pub least_occurrences: usize,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PriorFixed {
    pub fixed: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Enough {
    pub confidence: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Curve {
    pub points: usize,
    pub because: String,
}

/// A step of the work as it is offered: what to do, why, which tools, what to beware of.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MoveText {
    /// May hold `{cylinder}`, `{part}`, `{revolutions}`, `{km}`, `{moves}`, `{codes}`, which the job fills in.
    pub title: String,
    pub why: String,
    pub minutes: f64,
    #[serde(default)]
    pub tools: Vec<String>,
    /// Names of entries of `cautions.toml`.
    #[serde(default)]
    pub cautions: Vec<String>,
    #[serde(default)]
    pub outcomes: Vec<OutcomeText>,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OutcomeText {
    pub outcome: String,
    pub means: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CautionText {
    pub text: String,
    /// Whether it must be acknowledged before the step: where a mistake can injure.
    #[serde(default)]
    pub acknowledge: bool,
    pub because: String,
}

/// All knowledge files, read and checked.
#[derive(Debug, Clone)]
pub struct Knowledge {
    pub misfire: MisfireKnowledge,
    pub swap: SwapKnowledge,
    pub proof: ProofKnowledge,
    pub codes: CodeBook,
    pub trims: TrimsKnowledge,
    pub boost: BoostKnowledge,
    pub torque: TorqueKnowledge,
    pub repair: RepairKnowledge,
    pub coding: CodingKnowledge,
    pub evidence: EvidenceKnowledge,
    pub bench: BenchKnowledge,
    pub channels: ChannelBook,
    pub parameters: ParameterBook,
    pub units: UnitKnowledge,
    pub moves: BTreeMap<String, MoveText>,
    pub cautions: BTreeMap<String, CautionText>,
    /// Faults, tests and what they cost.
    pub book: Book,
    pub code_tests: CodeTests,
}

/// The texts of the knowledge files, as they stand on disk.
pub struct KnowledgeTexts<'a> {
    pub misfire: &'a str,
    pub swap: &'a str,
    pub proof: &'a str,
    pub codes: &'a str,
    pub trims: &'a str,
    pub boost: &'a str,
    pub torque: &'a str,
    pub repair: &'a str,
    pub coding: &'a str,
    pub evidence: &'a str,
    pub bench: &'a str,
    pub channels: &'a str,
    pub parameters: &'a str,
    pub units: &'a str,
    pub moves: &'a str,
    pub cautions: &'a str,
    pub book: BookTexts<'a>,
    pub code_tests: &'a str,
}

/// The files that ship with Gritty Ember.
pub const BUILT_IN: KnowledgeTexts<'static> = KnowledgeTexts {
    misfire: include_str!("../../../knowledge/misfire.toml"),
    swap: include_str!("../../../knowledge/swap.toml"),
    proof: include_str!("../../../knowledge/proof.toml"),
    codes: include_str!("../../../knowledge/codes.toml"),
    trims: include_str!("../../../knowledge/trims.toml"),
    boost: include_str!("../../../knowledge/boost.toml"),
    torque: include_str!("../../../knowledge/torque.toml"),
    repair: include_str!("../../../knowledge/repair.toml"),
    coding: include_str!("../../../knowledge/coding.toml"),
    evidence: include_str!("../../../knowledge/evidence.toml"),
    bench: include_str!("../../../knowledge/bench.toml"),
    channels: include_str!("../../../knowledge/channels.toml"),
    parameters: include_str!("../../../knowledge/parameters.toml"),
    units: include_str!("../../../knowledge/units.toml"),
    moves: include_str!("../../../knowledge/moves.toml"),
    cautions: include_str!("../../../knowledge/cautions.toml"),
    code_tests: include_str!("../../../knowledge/code-tests.toml"),
    book: BookTexts {
        figures: include_str!("../../../knowledge/suspects.toml"),
        signs: include_str!("../../../knowledge/signs.toml"),
        symptoms: include_str!("../../../knowledge/symptoms.toml"),
        access: include_str!("../../../knowledge/access.toml"),
        equipment: include_str!("../../../knowledge/equipment.toml"),
        faults: &[
            ("knowledge/faults/air.toml", include_str!("../../../knowledge/faults/air.toml")),
            ("knowledge/faults/classic.toml", include_str!("../../../knowledge/faults/classic.toml")),
            ("knowledge/faults/electrical.toml", include_str!("../../../knowledge/faults/electrical.toml")),
            ("knowledge/faults/fuel.toml", include_str!("../../../knowledge/faults/fuel.toml")),
            ("knowledge/faults/ignition.toml", include_str!("../../../knowledge/faults/ignition.toml")),
            ("knowledge/faults/mechanical.toml", include_str!("../../../knowledge/faults/mechanical.toml")),
        ],
        tests: &[
            ("knowledge/tests/air.toml", include_str!("../../../knowledge/tests/air.toml")),
            ("knowledge/tests/codes.toml", include_str!("../../../knowledge/tests/codes.toml")),
            ("knowledge/tests/electrical.toml", include_str!("../../../knowledge/tests/electrical.toml")),
            ("knowledge/tests/fuel.toml", include_str!("../../../knowledge/tests/fuel.toml")),
            ("knowledge/tests/ignition.toml", include_str!("../../../knowledge/tests/ignition.toml")),
            ("knowledge/tests/mechanical.toml", include_str!("../../../knowledge/tests/mechanical.toml")),
        ],
    },
};

pub(crate) fn read<T: DeserializeOwned>(file: &'static str, text: &str) -> Result<T, KnowledgeFault> {
    toml::from_str(text).map_err(|error| {
        let start = error.span().map_or(0, |span| span.start);
        KnowledgeFault {
            file,
            line: text[..start.min(text.len())].matches('\n').count() + 1,
            reason: error.message().to_owned(),
        }
    })
}

impl Knowledge {
    /// Reads and checks the files.
    ///
    /// # Errors
    /// The first file that does not parse, lacks a figure, has one too many, or names a caution or a pattern that
    /// does not exist; with its line where the parser knows it.
    pub fn from_texts(texts: &KnowledgeTexts<'_>) -> Result<Knowledge, KnowledgeFault> {
        let knowledge = Knowledge {
            misfire: read("knowledge/misfire.toml", texts.misfire)?,
            swap: read("knowledge/swap.toml", texts.swap)?,
            proof: read("knowledge/proof.toml", texts.proof)?,
            codes: CodeBook::new(read("knowledge/codes.toml", texts.codes)?, texts.codes)?,
            trims: read("knowledge/trims.toml", texts.trims)?,
            boost: read("knowledge/boost.toml", texts.boost)?,
            torque: read("knowledge/torque.toml", texts.torque)?,
            repair: read("knowledge/repair.toml", texts.repair)?,
            coding: read("knowledge/coding.toml", texts.coding)?,
            evidence: read("knowledge/evidence.toml", texts.evidence)?,
            bench: read("knowledge/bench.toml", texts.bench)?,
            channels: ChannelBook::new(&read::<BTreeMap<String, ChannelKnowledge>>(
                "knowledge/channels.toml",
                texts.channels,
            )?),
            parameters: ParameterBook::new(read("knowledge/parameters.toml", texts.parameters)?)
                .map_err(|reason| fault("knowledge/parameters.toml", texts.parameters, "[[", reason))?,
            units: read("knowledge/units.toml", texts.units)?,
            moves: read("knowledge/moves.toml", texts.moves)?,
            cautions: read("knowledge/cautions.toml", texts.cautions)?,
            book: Book::new(&texts.book)?,
            code_tests: read("knowledge/code-tests.toml", texts.code_tests)?,
        };
        knowledge.check(texts)?;
        Ok(knowledge)
    }

    /// The shipped knowledge, read at the first call.
    ///
    /// # Panics
    /// If a shipped file is unusable; a test reads them all, so such a build does not leave the workshop.
    pub fn built_in() -> &'static Knowledge {
        static SHIPPED: LazyLock<Knowledge> =
            LazyLock::new(|| Knowledge::from_texts(&BUILT_IN).unwrap_or_else(|fault| panic!("{fault}")));
        &SHIPPED
    }

    fn check(&self, texts: &KnowledgeTexts<'_>) -> Result<(), KnowledgeFault> {
        for kind in crate::misfire::PatternKind::ALL {
            if !self.misfire.patterns.contains_key(kind.name()) {
                return Err(fault(
                    "knowledge/misfire.toml",
                    texts.misfire,
                    "[patterns]",
                    format!("no weight for {}", kind.name()),
                ));
            }
        }
        for outcome in ["moved", "stayed", "gone", "elsewhere", "mixed"] {
            if !self.swap.outcomes.contains_key(outcome) {
                return Err(fault("knowledge/swap.toml", texts.swap, "[outcomes]", format!("no weight for {outcome}")));
            }
        }
        for prior in ["moved", "unproven", "handled"] {
            if !self.proof.prior.contains_key(prior) {
                return Err(fault("knowledge/proof.toml", texts.proof, "[prior]", format!("no prior for {prior}")));
            }
        }
        for kind in SignatureKind::ALL {
            if !self.trims.signatures.contains_key(&kind) {
                let reason = format!("no signature for {kind:?}");
                return Err(fault("knowledge/trims.toml", texts.trims, "[signatures", reason));
            }
        }
        let rises = |edges: &[f64]| edges.len() > 1 && edges.windows(2).all(|pair| pair[0] < pair[1]);
        if !rises(&self.evidence.map.speed_edges_rpm) || !rises(&self.evidence.map.load_edges_pct) {
            let reason = "the edges of the map must rise".to_owned();
            return Err(fault("knowledge/evidence.toml", texts.evidence, "[map]", reason));
        }
        for value in self.parameters.all().flat_map(|parameter| &parameter.values) {
            if let Some(channel) = &value.channel
                && self.channels.get(channel).is_none()
            {
                let reason = format!("{} names the unknown channel {channel}", value.name);
                return Err(fault("knowledge/parameters.toml", texts.parameters, "[[parameter]]", reason));
            }
        }
        for (name, step) in &self.moves {
            for caution in &step.cautions {
                if !self.cautions.contains_key(caution) {
                    let place = format!("[{name}]");
                    let reason = format!("the caution {caution} is not in knowledge/cautions.toml");
                    return Err(fault("knowledge/moves.toml", texts.moves, &place, reason));
                }
            }
        }
        if let Some(reason) = self.bench.fault(&self.book, &self.cautions) {
            return Err(fault("knowledge/bench.toml", texts.bench, "[parts", reason));
        }
        if let Some(reason) = self.code_tests.fault(&self.book) {
            return Err(fault("knowledge/code-tests.toml", texts.code_tests, "codes", reason));
        }
        for test in &self.book.tests {
            if let Some(caution) = test.cautions.iter().find(|name| !self.cautions.contains_key(*name)) {
                let holds = |(_, text): &&(&'static str, &str)| text.contains(&format!("[{}]", test.id));
                let (file, text) = texts.book.tests.iter().find(holds).unwrap_or(&texts.book.tests[0]);
                let reason = format!("{}: the caution {caution} is not in knowledge/cautions.toml", test.id);
                return Err(fault(file, text, &format!("[{}]", test.id), reason));
            }
        }
        for step in crate::next_move::STEPS {
            if !self.moves.contains_key(*step) {
                return Err(fault("knowledge/moves.toml", texts.moves, "[", format!("the step {step} has no text")));
            }
        }
        Ok(())
    }
}

fn fault(file: &'static str, text: &str, near: &str, reason: String) -> KnowledgeFault {
    let line = text.lines().position(|line| line.starts_with(near)).map_or(1, |index| index + 1);
    KnowledgeFault { file, line, reason }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_shipped_files_are_usable() {
        Knowledge::from_texts(&BUILT_IN).unwrap();
    }

    #[test]
    fn a_figure_that_is_no_number_is_named_with_file_and_line() {
        let broken = BUILT_IN.misfire.replacen("shape = 1.0", "shape = \"wide\"", 1);
        let line = BUILT_IN.misfire.lines().position(|line| line == "shape = 1.0").unwrap() + 1;
        let fault = Knowledge::from_texts(&KnowledgeTexts { misfire: &broken, ..BUILT_IN }).unwrap_err();
        assert_eq!((fault.file, fault.line), ("knowledge/misfire.toml", line));
    }

    #[test]
    fn a_figure_without_its_reason_is_refused() {
        let broken = BUILT_IN.proof.replacen("because = \"Enough for a smooth line on a screen.\"", "", 1);
        let fault = Knowledge::from_texts(&KnowledgeTexts { proof: &broken, ..BUILT_IN }).unwrap_err();
        assert!(fault.reason.contains("because"), "{fault}");
    }

    #[test]
    fn a_step_with_an_unknown_caution_is_named() {
        let broken = BUILT_IN.moves.replacen("cautions = [\"", "cautions = [\"no such thing\", \"", 1);
        let fault = Knowledge::from_texts(&KnowledgeTexts { moves: &broken, ..BUILT_IN }).unwrap_err();
        assert!(fault.reason.contains("no such thing") && fault.line > 1, "{fault}");
    }
}
