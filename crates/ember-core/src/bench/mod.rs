//! The bench: what is measured with a meter, a scope, a gauge or the eye, judged with its doubt, and what it says of the
//! suspects.

pub mod cylinders;
mod evidence;
pub mod hold;
pub mod knowledge;
pub mod marks;
pub mod meter;
pub mod resistance;
pub mod sisters;
mod verdicts;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::boost::ActuatorInput;
use crate::circuit::Judged;
use crate::circuit::diode::DiodeInput;
use crate::circuit::path::PathInput;
use crate::circuit::pins::PinsInput;
use crate::circuit::sweep::SweepInput;
use crate::circuit::voltage::{DropInput, VoltagesInput};
use crate::engine::Engine;
use crate::knowledge::Knowledge;
use crate::next_move::Caution;
use crate::refusal::Refusal;
use crate::suspects::FindingInput;
use crate::suspects::memory::MeterProfile;
use crate::suspects::target::Target;
use crate::trail::FileKind;
use crate::vehicle::line;
use crate::waveform::{OddOne, WaveFigure, WaveformAsk};

use cylinders::CylindersInput;
use hold::HoldInput;
use marks::MarksInput;
use meter::{Display, MeterAccuracy};
use resistance::ResistanceInput;

/// Where the part was when it was measured.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MeasuredWhere {
    #[default]
    InPlace,
    /// A part that is about to go in: it says nothing of the fault, and everything of the part.
    BeforeFitting,
    /// The old part, once it is out: if it is good, the verdict is open again.
    Removed,
}

/// One hose or joint of the intake.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HosePlace {
    pub name: String,
    #[serde(default)]
    pub state: HoseState,
    #[serde(default)]
    pub note: String,
}

#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum HoseState {
    #[default]
    NotSeen,
    Tight,
    Leaks,
}

/// What was read, raw, with what it is judged by.
// One of them stands on an entry of the trail, behind a box there: its largest kind costs nothing.
#[allow(clippy::large_enum_variant)]
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "bench", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Measurement {
    /// A winding, a lead, a sensor.
    Resistance {
        part: String,
        reading: ResistanceInput,
    },
    /// A known-good part through the loom: the part alone, the loom alone, both.
    Substitution {
        part: String,
        #[serde(default)]
        alone: Option<ResistanceInput>,
        #[serde(default)]
        loom: Option<ResistanceInput>,
        #[serde(default)]
        both: Option<ResistanceInput>,
    },
    /// Is there a way through at all?
    Continuity {
        between: String,
        display: Display,
        limit_ohm: f64,
        #[serde(default)]
        leads_ohm: f64,
    },
    Voltages {
        circuit: String,
        reading: VoltagesInput,
    },
    Drop {
        circuit: String,
        reading: DropInput,
    },
    Current {
        of: String,
        ampere: f64,
        #[serde(default)]
        low_a: Option<f64>,
        #[serde(default)]
        high_a: Option<f64>,
        #[serde(default)]
        meter: Option<MeterAccuracy>,
    },
    Path {
        circuit: String,
        path: PathInput,
    },
    Pins {
        connector: String,
        pins: PinsInput,
    },
    Diode {
        of: String,
        reading: DiodeInput,
    },
    /// `of`: `throttle`, `pedal`, or any other.
    Sweep {
        of: String,
        sweep: SweepInput,
    },
    Cylinders {
        cylinders: CylindersInput,
    },
    /// A lone spark as the ignition is switched off.
    KeyOffSpark {
        spark: bool,
    },
    Hold {
        hold: HoldInput,
    },
    Rod {
        actuator: ActuatorInput,
        /// Its length before it was moved.
        #[serde(default)]
        rod_mm: Option<f64>,
    },
    Hoses {
        map: String,
        places: Vec<HosePlace>,
    },
    Marks {
        marks: MarksInput,
    },
    /// What a capture showed; the capture itself stands in the store.
    Waveform {
        capture: i64,
        name: String,
        ask: WaveformAsk,
        verdict: Judged,
        right: f64,
        says: String,
        #[serde(default)]
        figures: Vec<WaveFigure>,
        #[serde(default)]
        odd: Vec<OddOne>,
    },
}

/// A measurement on the trail: the raw reading, with which instrument, under which conditions, and where the part was.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Measured {
    pub reading: Measurement,
    /// `cylinder 3`, `engine`; left out where the reading names its cylinders itself.
    #[serde(default)]
    pub target: Option<Target>,
    #[serde(default)]
    pub place: MeasuredWhere,
    pub instrument: String,
    #[serde(default)]
    pub conditions: String,
    #[serde(default)]
    pub text: String,
}

/// One figure with its doubt, beside what it should be.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BenchFigure {
    pub label: String,
    pub value: Option<f64>,
    pub low: Option<f64>,
    pub high: Option<f64>,
    /// What it should lie between; open at an end where only one is given.
    pub should_low: Option<f64>,
    pub should_high: Option<f64>,
    pub unit: String,
    pub verdict: Judged,
    pub says: String,
}

impl BenchFigure {
    fn new(label: impl Into<String>, value: Option<f64>, unit: &str) -> BenchFigure {
        BenchFigure {
            label: label.into(),
            value,
            low: None,
            high: None,
            should_low: None,
            should_high: None,
            unit: unit.into(),
            verdict: Judged::CannotTell,
            says: String::new(),
        }
    }

    fn doubt(mut self, low: Option<f64>, high: Option<f64>) -> BenchFigure {
        (self.low, self.high) = (low, high);
        self
    }

    fn should(mut self, low: Option<f64>, high: Option<f64>) -> BenchFigure {
        (self.should_low, self.should_high) = (low, high);
        self
    }

    fn judged(mut self, verdict: Judged) -> BenchFigure {
        self.verdict = verdict;
        self
    }

    fn says(mut self, says: impl Into<String>) -> BenchFigure {
        self.says = says.into();
        self
    }
}

/// A place along a travel or a path that is worth pointing at.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BenchMark {
    pub at: usize,
    pub says: String,
    /// How likely the fault is here, where that is reckoned.
    pub likelihood: Option<f64>,
}

/// What a measurement says.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BenchResult {
    pub title: String,
    pub verdict: Judged,
    /// The verdict in the trade's word: `pass`, `open`, `short`, `odd one out`.
    pub word: String,
    pub says: String,
    pub would_help: Vec<String>,
    pub figures: Vec<BenchFigure>,
    pub marks: Vec<BenchMark>,
    /// The next point to measure.
    pub next: Option<String>,
    pub put_right: Vec<String>,
    /// What it says of the suspects, as heavy as its doubt allows.
    pub evidence: Vec<FindingInput>,
}

impl BenchResult {
    pub(crate) fn new(title: String, verdict: Judged, word: &str, says: String) -> BenchResult {
        BenchResult {
            title,
            verdict,
            word: word.into(),
            says,
            would_help: Vec::new(),
            figures: Vec::new(),
            marks: Vec::new(),
            next: None,
            put_right: Vec::new(),
            evidence: Vec::new(),
        }
    }
}

impl Measured {
    /// Judges the reading. The same reading gives the same verdict: nothing of it is stored.
    ///
    /// # Errors
    /// Whatever the reading's own computation refuses, under `reading`; an instrument left out; a target that the engine
    /// does not have; a part or a circuit that the book does not know.
    pub fn judge(&self, engine: &Engine, knowledge: &Knowledge) -> Result<BenchResult, Refusal> {
        line("instrument", &self.instrument)?;
        if let Some(Target::Cylinder(cylinder)) = &self.target
            && !engine.has(*cylinder)
        {
            return Err(Refusal::new("target", format!("the engine has no cylinder {cylinder}")));
        }
        let mut result = verdicts::judge(self, engine, knowledge).map_err(|refusal| refusal.within("reading"))?;
        match self.place {
            MeasuredWhere::InPlace => {}
            MeasuredWhere::BeforeFitting => {
                // A part from the shelf says nothing of the one that is in.
                result.evidence.clear();
                if result.verdict == Judged::Bad {
                    result.says.push_str(" Do not fit it.");
                }
            }
            MeasuredWhere::Removed => {
                if result.verdict == Judged::Good {
                    result.says.push_str(" The old part is good by this reading: the verdict on it is open again.");
                }
            }
        }
        Ok(result)
    }
}

impl Measured {
    /// Renumbers the captures and photographs that the measurement names; what has no number any more is left out.
    pub fn renumber(&mut self, number: &mut dyn FnMut(FileKind, i64) -> Option<i64>) {
        match &mut self.reading {
            Measurement::Waveform { capture, .. } if *capture > 0 => {
                *capture = number(FileKind::Capture, *capture).unwrap_or_default();
            }
            Measurement::Cylinders { cylinders } => {
                for one in &mut cylinders.readings {
                    one.photos = one.photos.iter().filter_map(|&photo| number(FileKind::Photo, photo)).collect();
                }
            }
            _ => {}
        }
    }
}

/// A measurement of a job, as it is judged now.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MeasuredShown {
    pub entry: u32,
    pub result: BenchResult,
}

/// What must be put right again before the car leaves: a pierced wire, a moved adjuster.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PutRight {
    pub entry: u32,
    pub what: String,
}

/// Names of the parts and circuits that can be chosen, with what is known of them.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BenchChoices {
    pub parts: Vec<BenchChoice>,
    pub circuits: Vec<CircuitChoice>,
    pub hoses: BTreeMap<String, Vec<String>>,
    pub walk: Vec<WalkChoice>,
    /// Meters to choose while the data sheet is not at hand.
    pub meters: Vec<MeterProfile>,
    /// What is to be minded at each kind of measuring.
    pub cautions: BTreeMap<String, Vec<Caution>>,
    /// Faces of a plug in the order in which they are offered.
    pub faces: Vec<cylinders::PlugFace>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BenchChoice {
    pub id: String,
    pub name: String,
    pub per_cylinder: bool,
    pub conductor: resistance::Conductor,
    pub because: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CircuitChoice {
    pub id: String,
    pub name: String,
    pub points: Vec<crate::circuit::path::PathPoint>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WalkChoice {
    pub step: String,
    pub test: String,
    pub because: String,
    /// What can come of the test.
    pub outcomes: Vec<String>,
}

/// What the bench offers.
pub fn choices(knowledge: &Knowledge) -> BenchChoices {
    use cylinders::PlugFace as F;
    let bench = &knowledge.bench;
    BenchChoices {
        parts: bench
            .parts
            .iter()
            .map(|(id, part)| BenchChoice {
                id: id.clone(),
                name: part.name.clone(),
                per_cylinder: part.per == crate::suspects::book::Per::Cylinder,
                conductor: part.conductor,
                because: part.because.clone(),
            })
            .collect(),
        circuits: bench
            .circuits
            .iter()
            .map(|(id, circuit)| CircuitChoice {
                id: id.clone(),
                name: circuit.name.clone(),
                points: circuit.points.iter().filter_map(|text| verdicts::point(text)).collect(),
            })
            .collect(),
        hoses: bench.hoses.iter().map(|(name, map)| (name.clone(), map.places.clone())).collect(),
        walk: bench
            .walk
            .iter()
            .map(|step| WalkChoice {
                step: step.step.clone(),
                test: step.test.clone(),
                because: step.because.clone(),
                outcomes: knowledge
                    .book
                    .test(&step.test)
                    .map(|test| test.outcomes.iter().map(|one| one.id.clone()).collect())
                    .unwrap_or_default(),
            })
            .collect(),
        meters: bench
            .meters
            .iter()
            .map(|one| MeterProfile {
                name: one.name.clone(),
                accuracy: MeterAccuracy { percent: one.percent, digits: one.digits, resolution: one.resolution },
                leads_ohm: 0.0,
            })
            .collect(),
        cautions: bench
            .cautions
            .iter()
            .map(|(kind, names)| (kind.clone(), crate::next_move::named_cautions(names, knowledge)))
            .collect(),
        faces: vec![F::Normal, F::AsNew, F::Wet, F::Sooty, F::WhiteAsh, F::Oily, F::Worn, F::Broken, F::Bridged],
    }
}
