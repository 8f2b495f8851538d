//! Suspects and the next move: what it is most likely, and what to test next for the least time and money.
//!
//! Decision-theoretic troubleshooting (Heckerman, Breese, Rommelse, 1995): every fault of the [`book`] weighs before any
//! finding what its rate, the car and the workshop's history give it; every finding is a likelihood of what was found
//! under each fault; Bayes' rule gives the [`posterior`] over single faults, pairs, and something that is not in the
//! book. The expected cost of repair is that of trying repairs in the order of probability to cost, each with a check,
//! until the car runs ([`ahead`]). A test is worth what it saves of that, less its own cost.

mod ahead;
pub mod book;
pub mod code_tests;
mod cost;
mod evidence;
mod explain;
mod findings;
mod fits;
pub mod memory;
mod next;
mod posterior;
mod prior;
pub mod schools;
pub mod target;
pub mod words;

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::{Engine, EngineDescription};
use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::swap::plan::Cover;
use crate::trail::{Need, NeedState};

pub use explain::{Contradiction, Speaks};
pub use findings::{ComplaintInput, ComplaintParts, FindingInput};
pub use next::{Act, ActKind, Foreseen, NextTest, Question, SchoolExpects};

use book::{Book, RepairCost, SignKind};
use cost::Prices;
use evidence::groups;
use explain::{contradictions, leave_one_out, speaks};
use findings::{Ground, Known, direct, observations};
use fits::Car;
use memory::{WorkshopCase, WorkshopOwn};
use posterior::{Posterior, posterior};
use prior::{Instance, instances};
use schools::School;
use target::Target;

/// The name under which it stands among the suspects that it may be something else.
pub const NOT_IN_THE_BOOK: &str = "not-in-the-book";

/// A car as the suspects need it: any vehicle of the workshop, or an engine alone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SuspectVehicle {
    pub engine: EngineDescription,
    #[serde(default)]
    pub fleet_no: String,
    #[serde(default)]
    pub name: String,
    /// What it is known to have, and to lack, of what not every car has.
    #[serde(default)]
    pub has: Vec<String>,
    #[serde(default)]
    pub lacks: Vec<String>,
    #[serde(default)]
    pub access_minutes: Option<BTreeMap<String, f64>>,
    #[serde(default)]
    pub covers: Vec<Cover>,
    #[serde(default)]
    pub parts: Vec<String>,
    #[serde(default)]
    pub note: String,
}

/// A part that was replaced or mended, after which the fault was still there.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Replaced {
    /// A fault of the book, or a kind of part (`coil`).
    pub what: String,
    #[serde(default)]
    pub target: Option<Target>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SuspectsInput {
    pub vehicle: SuspectVehicle,
    #[serde(default)]
    pub complaint: ComplaintInput,
    #[serde(default)]
    pub findings: Vec<FindingInput>,
    #[serde(default)]
    pub replaced: Vec<Replaced>,
    /// What is off the car now, by its name in `knowledge/access.toml` or the vehicle's covers.
    #[serde(default)]
    pub off: Vec<String>,
    /// Tests that cannot be made here, and tools that are not there.
    #[serde(default)]
    pub cannot: Vec<String>,
    /// Nobody is there to help.
    #[serde(default)]
    pub alone: bool,
    /// Minutes until the car must be back.
    #[serde(default)]
    pub minutes_left: Option<f64>,
    #[serde(default)]
    pub school: School,
    #[serde(default)]
    pub workshop: WorkshopOwn,
}

/// One suspect.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Suspect {
    pub fault: String,
    pub target: Target,
    pub name: String,
    /// Its share of the verdict, 0 to 1. Where two faults are there together each has half of that share, so that the
    /// shares of all suspects sum to one.
    pub probability: f64,
    /// How likely it is that this fault is there, alone or with another.
    pub present: f64,
    /// The same before any finding.
    pub before: f64,
    /// Which of the needs it takes away.
    pub need: Option<Need>,
    /// The kind of part that a repair replaces.
    pub part: Option<String>,
    pub repair: Option<RepairCost>,
    /// What speaks for and against it, the strongest first; only for the leading suspects.
    pub speaks: Vec<Speaks>,
    /// What is complained of and it would not explain.
    pub leaves_unexplained: Vec<String>,
}

/// Two faults at once.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Pair {
    pub faults: [String; 2],
    pub names: [String; 2],
    pub targets: [Target; 2],
    pub probability: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Needs {
    pub fuel: NeedState,
    pub air: NeedState,
    pub spark: NeedState,
    pub compression: NeedState,
    pub timing: NeedState,
}

/// A finding that proved a need or showed it lacking.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct NeedFinding {
    pub need: Need,
    pub state: NeedState,
    /// The finding's place in the list handed in.
    pub finding: usize,
    pub says: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SuspectsResult {
    pub suspects: Vec<Suspect>,
    pub pairs: Vec<Pair>,
    /// How likely it is that there are two faults, and that it is something the book does not know.
    pub two_faults: f64,
    pub not_in_the_book: f64,
    pub needs: Needs,
    pub need_findings: Vec<NeedFinding>,
    pub next: Vec<NextTest>,
    /// What could be asked, of what went before and under which circumstances; the most telling first.
    pub questions: Vec<Question>,
    pub act: Act,
    pub schools: Vec<SchoolExpects>,
    pub contradictions: Vec<Contradiction>,
    /// Words of the complaint that the book does not know.
    pub not_understood: Vec<String>,
    /// Money for a minute's work, with which all costs were reckoned.
    pub labour_per_minute: f64,
    pub says: String,
}

/// Checks that a test can have been made at a target with an outcome, on some vehicle with this engine.
///
/// # Errors
/// As a finding of [`suspects`].
pub(crate) fn check_tested(engine: &Engine, finding: &FindingInput) -> Result<(), Refusal> {
    let book = &Knowledge::built_in().book;
    let car = Car { engine, has: &[], lacks: &[], equipment: &book.equipment };
    Ground { book, engine, car: &car, instances: &[] }.understood(finding).map(drop)
}

/// Whether a test of the book can be made on a vehicle.
pub(crate) fn test_belongs(vehicle: &crate::vehicle::Vehicle, engine: &Engine, book: &Book, test: &str) -> bool {
    let car = Car { engine, has: &vehicle.has, lacks: &vehicle.lacks, equipment: &book.equipment };
    book.test_index.get(test).is_some_and(|&index| prior::belongs(book, &car, index))
}

/// How much is reckoned.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// The suspects alone.
    Suspects,
    /// And what to test next.
    Next,
    /// And what each school would need.
    Schools,
}

/// What it may be, and what to test next.
///
/// # Errors
/// A vehicle whose engine cannot be; a complaint, finding, replaced part or equipment that the book does not know or
/// this vehicle does not have; prices or minutes below nought; `minutes_left` that is no number.
pub fn suspects(input: &SuspectsInput, knowledge: &Knowledge) -> Result<SuspectsResult, Refusal> {
    suspects_to(input, knowledge, Depth::Schools)
}

/// As [`suspects`], as far as it is asked for.
///
/// # Errors
/// As [`suspects`].
pub fn suspects_to(input: &SuspectsInput, knowledge: &Knowledge, depth: Depth) -> Result<SuspectsResult, Refusal> {
    let book = &knowledge.book;
    let engine = Engine::new(&input.vehicle.engine).map_err(|refusal| refusal.within("vehicle.engine"))?;
    let case = Case::new(input, book, &engine)?;
    Ok(case.result(depth, &knowledge.cautions))
}

/// Everything about one car that the answers are reckoned from.
pub(crate) struct Case<'a> {
    input: &'a SuspectsInput,
    book: &'a Book,
    engine: &'a Engine,
    prices: Prices<'a>,
    /// Of the complaint, then of the findings.
    known: Vec<Known>,
    /// How many of `known` come from the complaint.
    complaint: usize,
    not_understood: Vec<String>,
    direct: Vec<f64>,
    instances: Vec<Instance>,
}

impl<'a> Case<'a> {
    fn new(input: &'a SuspectsInput, book: &'a Book, engine: &'a Engine) -> Result<Case<'a>, Refusal> {
        let within = |field: &'static str| move |refusal: Refusal| refusal.within(field);
        for (field, list) in [("has", &input.vehicle.has), ("lacks", &input.vehicle.lacks)] {
            if let Some(strange) = list.iter().find(|name| !book.equipment.contains_key(*name)) {
                let known: Vec<&str> = book.equipment.keys().map(String::as_str).collect();
                let reason = format!("{strange} is no equipment of the book; there are {}", known.join(", "));
                return Err(Refusal::new(format!("vehicle.{field}"), reason));
            }
        }
        check_own(&input.workshop, book)?;
        if input.minutes_left.is_some_and(|left| !left.is_finite() || !(0.0..=1e6).contains(&left)) {
            return Err(Refusal::new("minutes_left", "must lie between 0 and 1000000"));
        }
        let car = Car { engine, has: &input.vehicle.has, lacks: &input.vehicle.lacks, equipment: &book.equipment };
        let for_this = |case: &&WorkshopCase| case.vehicle.as_ref().is_none_or(|name| *name == input.vehicle.name);
        let history: Vec<WorkshopCase> = input.workshop.usual.iter().filter(for_this).cloned().collect();
        let instances = instances(book, &car, &input.workshop.rates, &history);
        let ground = Ground { book, engine, car: &car, instances: &instances };
        let mut found = Vec::with_capacity(input.findings.len());
        for (index, finding) in input.findings.iter().enumerate() {
            found.push(ground.understood(finding).map_err(|r| r.within(&format!("findings[{index}]")))?);
        }
        let (mut known, not_understood) = ground.complained(&input.complaint, &found).map_err(within("complaint"))?;
        let complaint = known.len();
        known.extend(found);
        let mut direct = direct(&known, instances.len());
        for (index, replaced) in input.replaced.iter().enumerate() {
            of_replaced(book, engine, &instances, replaced, &mut direct)
                .map_err(|refusal| refusal.within(&format!("replaced[{index}]")))?;
        }
        let read = known[complaint..].iter().filter_map(|one| book.tests[one.test].together.clone()).collect();
        let prices = Prices {
            per_minute: input.workshop.labour_per_hour.unwrap_or(book.figures.labour.value) / 60.0,
            parts: input.workshop.prices.clone(),
            minutes: input.workshop.minutes.clone(),
            off: input.off.iter().cloned().collect::<BTreeSet<_>>(),
            access_minutes: input.vehicle.access_minutes.as_ref(),
            covers: &input.vehicle.covers,
            read,
        };
        Ok(Case { input, book, engine, prices, known, complaint, not_understood, direct, instances })
    }

    fn result(&self, depth: Depth, cautions: &BTreeMap<String, crate::knowledge::CautionText>) -> SuspectsResult {
        let groups = groups(self.book, &observations(&self.known));
        let posterior = posterior(self.book, self.engine, &self.instances, &groups, &self.direct);
        let left_out = match depth {
            Depth::Suspects => Vec::new(),
            _ => leave_one_out(self.book, self.engine, &self.known, &posterior),
        };
        let suspects = self.suspects(&posterior, &left_out);
        let needs = self.needs();
        let look = next::look(self, &groups, &posterior, &suspects, depth, cautions);
        SuspectsResult {
            pairs: self.pairs(&posterior),
            two_faults: posterior.two_faults,
            not_in_the_book: posterior.not_in_the_book,
            needs: state_of_needs(&needs),
            need_findings: needs,
            contradictions: contradictions(self.book, &left_out, self.complaint),
            not_understood: self.not_understood.clone(),
            labour_per_minute: self.prices.per_minute,
            says: self.says(&suspects),
            suspects,
            next: look.next,
            questions: look.questions,
            act: look.act,
            schools: look.schools,
        }
    }

    fn suspects(&self, posterior: &Posterior, left_out: &[explain::LeaveOneOut]) -> Vec<Suspect> {
        let mut order: Vec<usize> = (0..posterior.suspicions.len()).collect();
        order.sort_by(|&a, &b| posterior.suspicions[b].present.total_cmp(&posterior.suspicions[a].present));
        let mut list: Vec<Suspect> = order
            .into_iter()
            .enumerate()
            .map(|(rank, index)| {
                let suspicion = &posterior.suspicions[index];
                let fault = &self.book.faults[suspicion.instance.fault];
                let leading = rank < LEADING;
                Suspect {
                    fault: fault.id.clone(),
                    target: suspicion.instance.target.clone(),
                    name: fault.name.clone(),
                    probability: suspicion.share,
                    present: suspicion.present,
                    before: suspicion.instance.weight,
                    need: fault.need,
                    part: fault.part.clone(),
                    repair: leading.then(|| self.repair_of(&suspicion.instance)),
                    speaks: if leading {
                        speaks(self.book, posterior, left_out, index, self.complaint)
                    } else {
                        Vec::new()
                    },
                    leaves_unexplained: if leading { self.unexplained(suspicion.instance.fault) } else { Vec::new() },
                }
            })
            .collect();
        let strange = Suspect {
            fault: NOT_IN_THE_BOOK.into(),
            target: Target::Engine,
            name: "Something that is not in the book".into(),
            probability: posterior.not_in_the_book,
            present: posterior.not_in_the_book,
            before: self.book.figures.not_in_the_book.value,
            need: None,
            part: None,
            repair: None,
            speaks: Vec::new(),
            leaves_unexplained: Vec::new(),
        };
        let place = list.iter().position(|one| one.present < strange.present).unwrap_or(list.len());
        list.insert(place, strange);
        list
    }

    fn repair_of(&self, instance: &Instance) -> RepairCost {
        let fault = &self.book.faults[instance.fault];
        let cost = self.prices.of_repair(self.book, fault, &instance.target, self.engine);
        RepairCost { minutes: cost.minutes, money: cost.money, because: fault.repair.because.clone() }
    }

    /// What is complained of although this fault does not bring it about.
    fn unexplained(&self, fault: usize) -> Vec<String> {
        let hardly = self.book.figures.unexplained.value;
        self.known
            .iter()
            .filter(|known| {
                self.book.signs[self.book.tests[known.test].sign].kind == SignKind::Symptom && known.outcome == Some(1)
            })
            .filter(|known| {
                let sign = self.book.tests[known.test].sign;
                let shown = self.book.faults[fault].shows.iter().find(|shown| shown.sign == sign);
                shown.map_or(self.book.signs[sign].sound[1], |shown| shown.chance[1]) < hardly
            })
            .map(|known| self.book.tests[known.test].name.clone())
            .collect()
    }

    fn pairs(&self, posterior: &Posterior) -> Vec<Pair> {
        posterior
            .hypotheses
            .iter()
            .filter_map(|hypothesis| match hypothesis.faults {
                [Some(a), Some(b)] => Some((a as usize, b as usize, hypothesis.probability)),
                _ => None,
            })
            .take(6)
            .map(|(a, b, probability)| {
                let one = |index: usize| {
                    let instance = &self.instances[index];
                    let fault = &self.book.faults[instance.fault];
                    (fault.id.clone(), fault.name.clone(), instance.target.clone())
                };
                let ((fault_a, name_a, target_a), (fault_b, name_b, target_b)) = (one(a), one(b));
                Pair { faults: [fault_a, fault_b], names: [name_a, name_b], targets: [target_a, target_b], probability }
            })
            .collect()
    }

    fn needs(&self) -> Vec<NeedFinding> {
        let mut list = Vec::new();
        for (index, known) in self.known[self.complaint..].iter().enumerate() {
            let Some(outcome) = known.outcome else { continue };
            let outcome = &self.book.tests[known.test].outcomes[outcome];
            for (needs, state) in [(&outcome.proves, NeedState::Proven), (&outcome.lacks, NeedState::Missing)] {
                list.extend(needs.iter().map(|&need| NeedFinding {
                    need,
                    state,
                    finding: index,
                    says: known.says.clone(),
                }));
            }
        }
        list
    }

    fn says(&self, suspects: &[Suspect]) -> String {
        let Some(first) = suspects.first() else { return "No fault of the book fits this vehicle.".into() };
        if first.fault == NOT_IN_THE_BOOK && self.known.len() > self.complaint {
            return "No fault of the book explains these findings well. Doubt the readings first, then think of what \
                    nobody wrote down."
                .into();
        }
        format!("{}: {:.0} %.", named(&first.name, &first.target), 100.0 * first.present)
    }
}

/// How many suspects are explained.
const LEADING: usize = 40;

/// A fault with its place, as one says it.
pub(crate) fn named(name: &str, target: &Target) -> String {
    match target {
        Target::Engine | Target::Unit => name.to_owned(),
        target => format!("{name}, {target}"),
    }
}

/// What the findings say of each need: missing beats proven, because one cylinder without spark is enough.
fn state_of_needs(findings: &[NeedFinding]) -> Needs {
    let state = |need: Need| {
        let of_need = |state: NeedState| findings.iter().any(|one| one.need == need && one.state == state);
        if of_need(NeedState::Missing) {
            NeedState::Missing
        } else if of_need(NeedState::Proven) {
            NeedState::Proven
        } else {
            NeedState::Unknown
        }
    };
    Needs {
        fuel: state(Need::Fuel),
        air: state(Need::Air),
        spark: state(Need::Spark),
        compression: state(Need::Compression),
        timing: state(Need::Timing),
    }
}

/// Checks what a workshop has of its own against the book.
///
/// # Errors
/// A fault or test that the book does not know, by field; an amount below nought or beyond a million.
pub fn check_own(own: &WorkshopOwn, book: &Book) -> Result<(), Refusal> {
    check_amounts(own)?;
    for (index, meter) in own.meters.iter().enumerate() {
        let field = format!("workshop.meters[{index}]");
        crate::vehicle::line("name", &meter.name).map_err(|refusal| refusal.within(&field))?;
        meter.accuracy.check().map_err(|refusal| refusal.within(&field))?;
        if own.meters[..index].iter().any(|other| other.name == meter.name) {
            return Err(Refusal::new(format!("{field}.name"), "is the name of another meter already"));
        }
        if !meter.leads_ohm.is_finite() || !(0.0..=100.0).contains(&meter.leads_ohm) {
            return Err(Refusal::new(format!("{field}.leads_ohm"), "must lie between 0 and 100 ohm"));
        }
    }
    for (index, offer) in own.offers.iter().enumerate() {
        let field = format!("workshop.offers[{index}]");
        crate::decide::check_offer(offer).map_err(|refusal| refusal.within(&field))?;
    }
    check_names(own, book)
}

fn check_amounts(own: &WorkshopOwn) -> Result<(), Refusal> {
    let named = own.prices.iter().map(|(k, v)| (format!("workshop.prices.{k}"), *v));
    let minutes = own.minutes.iter().map(|(k, v)| (format!("workshop.minutes.{k}"), *v));
    let rates = own.rates.iter().map(|(k, v)| (format!("workshop.rates.{k}"), *v));
    let usual = own.usual.iter().enumerate().map(|(i, c)| (format!("workshop.usual[{i}].cases"), c.cases));
    let labour = own.labour_per_hour.map(|value| ("workshop.labour_per_hour".to_owned(), value));
    for (field, value) in named.chain(minutes).chain(rates).chain(usual).chain(labour) {
        if !value.is_finite() || !(0.0..=1e6).contains(&value) {
            return Err(Refusal::new(field, "must lie between 0 and 1000000"));
        }
    }
    Ok(())
}

fn check_names(own: &WorkshopOwn, book: &Book) -> Result<(), Refusal> {
    let faults = own.prices.keys().map(|name| ("workshop.prices", name));
    let faults = faults.chain(own.rates.keys().map(|name| ("workshop.rates", name)));
    for (field, name) in faults.chain(own.usual.iter().map(|case| ("workshop.usual", &case.fault))) {
        if !book.fault_index.contains_key(name) {
            return Err(Refusal::new(field, format!("there is no fault {name}")));
        }
    }
    match own.minutes.keys().find(|name| !book.test_index.contains_key(*name)) {
        Some(name) => Err(Refusal::new("workshop.minutes", format!("there is no test {name}"))),
        None => Ok(()),
    }
}

/// A part that was replaced in vain is hardly to blame any more; new parts that are bad, and wrong ones, are why it is
/// not cleared for good.
fn of_replaced(
    book: &Book,
    engine: &Engine,
    instances: &[Instance],
    replaced: &Replaced,
    direct: &mut [f64],
) -> Result<(), Refusal> {
    let cylinders = replaced.target.as_ref().map(|target| target.cylinders(engine));
    let mut any = false;
    for (instance, log) in instances.iter().zip(direct) {
        let fault = &book.faults[instance.fault];
        let named = fault.id == replaced.what || fault.part.as_ref().is_some_and(|part| *part == replaced.what);
        let here = cylinders
            .as_ref()
            .is_none_or(|list| instance.target.cylinders(engine).iter().any(|cylinder| list.contains(cylinder)));
        if named {
            any = true;
            if here {
                *log += book.figures.replaced.value.ln();
            }
        }
    }
    if any {
        Ok(())
    } else {
        Err(Refusal::new("what", format!("{} is neither a fault nor a part of this vehicle", replaced.what)))
    }
}
