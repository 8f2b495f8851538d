//! The book: which faults there are, what each shows, which tests read it, and what all of that costs.
//!
//! A fault does not speak of tests. It says which *signs* it shows and how surely (`spark.weak` in four cars of ten),
//! and a test says how well it reads a sign (a tester calls a weak spark weak in nine cases of ten). What a test's
//! outcome says of a fault follows from the two. So a new test is one table and not one row for each fault, and two
//! tests that read the same sign are not taken for independent.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

pub use super::fits::Condition;
use crate::knowledge::{KnowledgeFault, read};
use crate::trail::Need;

/// How often something stands on a car: once on the engine, or once for each cylinder, coil, bank ...
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
#[schema(as = FaultScope)]
pub enum Per {
    Engine,
    Cylinder,
    Coil,
    Bank,
    /// Two cylinders beside each other on a bank.
    Neighbours,
    /// A control unit.
    Unit,
}

/// What a sign is about: what is complained of, under which circumstances, what went before, or what a test finds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SignKind {
    Symptom,
    Circumstance,
    History,
    Found,
}

/// What kind of work a test is, by which the schools of the trade differ.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum TestKind {
    Ask,
    Look,
    Read,
    Measure,
    Swap,
    Provoke,
    Smoke,
}

/// Something that a car shows or does not show, in states from sound to worst.
#[derive(Debug, Clone, PartialEq)]
pub struct Sign {
    pub id: String,
    pub name: String,
    pub kind: SignKind,
    pub per: Per,
    pub states: Vec<String>,
    /// How a car shows it that has no fault concerning it.
    pub sound: Vec<f64>,
    pub words: Vec<String>,
    pub because: String,
}

/// A sign that a fault shows: the chance of each of its states.
#[derive(Debug, Clone, PartialEq)]
pub struct Shown {
    pub sign: usize,
    pub chance: Vec<f64>,
    pub because: String,
}

/// What a repair takes.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RepairCost {
    pub minutes: f64,
    /// Parts, in the workshop's money.
    pub money: f64,
    pub because: String,
}

#[derive(Debug, Clone, PartialEq)]
pub struct Fault {
    pub id: String,
    pub name: String,
    pub family: String,
    pub per: Per,
    pub fits: Vec<Condition>,
    /// Cases among ten thousand drivability jobs, for one such part on a car that has it.
    pub rate: f64,
    pub rate_because: String,
    pub repair: RepairCost,
    pub opens: Vec<String>,
    pub need: Option<Need>,
    /// The kind of part that a swap moves and a repair replaces.
    pub part: Option<String>,
    /// Shows at each cylinder by itself, and not at all of them alike.
    pub varies: bool,
    pub words: Vec<String>,
    pub shows: Vec<Shown>,
}

#[derive(Debug, Clone, PartialEq)]
pub struct TestOutcome {
    pub id: String,
    pub means: String,
    pub proves: Vec<Need>,
    pub lacks: Vec<Need>,
}

#[derive(Debug, Clone, PartialEq)]
pub struct Test {
    pub id: String,
    pub name: String,
    pub kind: TestKind,
    pub per: Per,
    pub fits: Vec<Condition>,
    pub sign: usize,
    pub minutes: f64,
    pub because: String,
    pub money: f64,
    pub tools: Vec<String>,
    pub opens: Vec<String>,
    pub cautions: Vec<String>,
    /// The chance that the test does damage, and what that costs.
    pub risk: Option<(f64, f64, String)>,
    pub people: u8,
    /// One of the quick checks of a car that does not start.
    pub quick: bool,
    /// Read in one go with others of this name: the time is spent once.
    pub together: Option<String>,
    pub how: String,
    pub words: Vec<String>,
    pub outcomes: Vec<TestOutcome>,
    /// The chance of each outcome, for each state of the sign.
    pub table: Vec<Vec<f64>>,
    pub table_because: String,
}

impl Test {
    pub fn outcome(&self, id: &str) -> Option<usize> {
        self.outcomes.iter().position(|outcome| outcome.id == id)
    }
}

/// Something that has to come off before other things can be reached.
#[derive(Debug, Clone, PartialEq, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AccessItem {
    pub name: String,
    /// Off and on again.
    pub minutes: f64,
    pub because: String,
}

/// Something that not every car has.
#[derive(Debug, Clone, PartialEq, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EquipmentItem {
    pub name: String,
    /// The share of cars that have it, of those on which it can be.
    pub share: f64,
    pub because: String,
}

/// The figures that belong to no single fault or test.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Figures {
    pub two_faults: Figure,
    pub not_in_the_book: Figure,
    pub repeat: Figure,
    pub labour: Figure,
    pub check: Figure,
    pub hand_over: Figure,

    pub history: Figure,
    pub decided: Figure,
    pub unexplained: Figure,
    pub replaced: Figure,
    pub useful: Figure,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Figure {
    pub value: f64,
    pub because: String,
}

/// The texts of the book, by file name.
#[derive(Debug, Clone, Copy)]
pub struct BookTexts<'a> {
    pub figures: &'a str,
    pub signs: &'a str,
    pub symptoms: &'a str,
    pub access: &'a str,
    pub equipment: &'a str,
    pub faults: &'a [(&'static str, &'a str)],
    pub tests: &'a [(&'static str, &'a str)],
}

/// All faults, signs and tests, checked against each other.
#[derive(Debug, Clone)]
pub struct Book {
    pub figures: Figures,
    pub signs: Vec<Sign>,
    pub faults: Vec<Fault>,
    pub tests: Vec<Test>,
    pub access: BTreeMap<String, AccessItem>,
    pub equipment: BTreeMap<String, EquipmentItem>,
    pub(super) sign_index: BTreeMap<String, usize>,
    pub(super) fault_index: BTreeMap<String, usize>,
    pub(super) test_index: BTreeMap<String, usize>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct SignText {
    name: String,
    per: Per,
    states: Vec<String>,
    sound: Vec<f64>,
    because: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct SymptomText {
    kind: SignKind,
    name: String,
    #[serde(default)]
    words: Vec<String>,
    #[serde(default)]
    fits: Vec<Condition>,
    /// The share of cars that show it although their fault has nothing to do with it.
    usual: f64,
    /// How often it is mentioned where it is so, and where it is not.
    mentioned: f64,
    #[serde(default = "slip")]
    wrongly: f64,
    because: String,
}

fn slip() -> f64 {
    0.01
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FaultText {
    #[serde(default)]
    name: String,
    #[serde(default)]
    per: Option<Per>,
    #[serde(default)]
    fits: Vec<Condition>,
    /// Cases among ten thousand, and why. Left out: a bundle of signs for others to be like, and no fault.
    rate: Option<(f64, String)>,
    /// Minutes, money, and why.
    repair: Option<(f64, f64, String)>,
    #[serde(default)]
    opens: Vec<String>,
    need: Option<Need>,
    part: Option<String>,
    #[serde(default)]
    varies: bool,
    #[serde(default)]
    words: Vec<String>,
    #[serde(default)]
    like: Vec<String>,
    /// `sign.state`, its chance, and why.
    #[serde(default)]
    shows: Vec<(String, f64, String)>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct TestText {
    name: String,
    kind: TestKind,
    #[serde(default)]
    per: Option<Per>,
    #[serde(default)]
    fits: Vec<Condition>,
    /// The sign it reads; left out: one of its own, whose states are the outcomes.
    reads: Option<String>,
    minutes: (f64, String),
    #[serde(default)]
    money: f64,
    #[serde(default)]
    tools: Vec<String>,
    #[serde(default)]
    opens: Vec<String>,
    #[serde(default)]
    cautions: Vec<String>,
    risk: Option<(f64, f64, String)>,
    #[serde(default = "one")]
    people: u8,
    #[serde(default)]
    quick: bool,
    together: Option<String>,
    how: String,
    #[serde(default)]
    words: Vec<String>,
    /// Outcome, what it means, and after it needs that it proves (`+spark`) or shows lacking (`-spark`).
    outcomes: Vec<Vec<String>>,
    /// For each state of the sign the chance of each outcome. For a sign of its own: how it is without any fault that
    /// concerns it.
    table: BTreeMap<String, Vec<f64>>,
    table_because: String,
}

fn one() -> u8 {
    1
}

/// Where in a file a thing stands.
fn line_of(text: &str, id: &str) -> usize {
    text.lines().position(|line| line.trim_end() == format!("[{id}]")).map_or(1, |index| index + 1)
}

/// The line below a heading on which something stands, else the heading's.
fn line_below(text: &str, id: &str, what: &str) -> usize {
    let start = line_of(text, id);
    text.lines()
        .enumerate()
        .skip(start - 1)
        .take_while(|(index, line)| *index < start || !line.starts_with('[') || line.starts_with(&format!("[{id}.")))
        .find(|(_, line)| line.contains(what))
        .map_or(start, |(index, _)| index + 1)
}

struct Place<'a> {
    file: &'static str,
    text: &'a str,
}

impl Place<'_> {
    fn fault(&self, id: &str, near: &str, reason: impl Into<String>) -> KnowledgeFault {
        KnowledgeFault {
            file: self.file,
            line: line_below(self.text, id, near),
            reason: format!("{id}: {}", reason.into()),
        }
    }
}

const ROUNDING: f64 = 1e-6;

fn is_chance(value: f64) -> bool {
    value.is_finite() && (0.0..=1.0).contains(&value)
}

fn sums_to_one(row: &[f64]) -> bool {
    row.iter().all(|&p| is_chance(p)) && (row.iter().sum::<f64>() - 1.0).abs() < ROUNDING
}

impl Book {
    /// Reads the files of the book and checks them against each other.
    ///
    /// # Errors
    /// The first thing that does not hold, with file and line: a text that does not parse; an id that stands twice; a
    /// probability row that does not sum to one; a sign, state, fault, access, equipment or need that nobody knows;
    /// faults that are like each other in a circle; a fault with no sign that any test reads.
    pub fn new(texts: &BookTexts<'_>) -> Result<Book, KnowledgeFault> {
        let mut book = Book {
            figures: read("knowledge/suspects.toml", texts.figures)?,
            signs: Vec::new(),
            faults: Vec::new(),
            tests: Vec::new(),
            access: read("knowledge/access.toml", texts.access)?,
            equipment: read("knowledge/equipment.toml", texts.equipment)?,
            sign_index: BTreeMap::new(),
            fault_index: BTreeMap::new(),
            test_index: BTreeMap::new(),
        };
        book.read_symptoms(&Place { file: "knowledge/symptoms.toml", text: texts.symptoms })?;
        book.read_signs(&Place { file: "knowledge/signs.toml", text: texts.signs })?;
        for (file, text) in texts.tests {
            book.read_tests(&Place { file, text })?;
        }
        book.read_faults(texts.faults)?;
        Ok(book)
    }

    pub fn sign(&self, id: &str) -> Option<&Sign> {
        self.sign_index.get(id).map(|&index| &self.signs[index])
    }

    pub fn fault(&self, id: &str) -> Option<&Fault> {
        self.fault_index.get(id).map(|&index| &self.faults[index])
    }

    pub fn test(&self, id: &str) -> Option<&Test> {
        self.test_index.get(id).map(|&index| &self.tests[index])
    }

    fn add_sign(&mut self, place: &Place<'_>, sign: Sign) -> Result<usize, KnowledgeFault> {
        if sign.states.len() < 2 || sign.states.len() != sign.sound.len() {
            return Err(place.fault(&sign.id, "sound", "needs two states or more, and a chance for each"));
        }
        if sign.states.len() > MOST_STATES {
            return Err(place.fault(&sign.id, "states", format!("has more than {MOST_STATES} states")));
        }
        if !sums_to_one(&sign.sound) {
            return Err(place.fault(&sign.id, "sound", "its chances do not sum to one"));
        }
        if sign.sound.contains(&0.0) {
            return Err(place.fault(&sign.id, "sound", "nothing is impossible: no chance may be nought"));
        }
        if self.sign_index.contains_key(&sign.id) {
            return Err(place.fault(&sign.id, "", "stands there twice"));
        }
        self.sign_index.insert(sign.id.clone(), self.signs.len());
        self.signs.push(sign);
        Ok(self.signs.len() - 1)
    }

    fn read_symptoms(&mut self, place: &Place<'_>) -> Result<(), KnowledgeFault> {
        for (id, text) in read::<BTreeMap<String, SymptomText>>(place.file, place.text)? {
            for (name, value) in [("usual", text.usual), ("mentioned", text.mentioned), ("wrongly", text.wrongly)] {
                if !(value > 0.0 && value < 1.0) {
                    return Err(place.fault(&id, name, format!("{name} must lie between 0 and 1")));
                }
            }
            let sign = self.add_sign(
                place,
                Sign {
                    id: id.clone(),
                    name: text.name.clone(),
                    kind: text.kind,
                    per: Per::Engine,
                    states: vec!["no".into(), "yes".into()],
                    sound: vec![1.0 - text.usual, text.usual],
                    words: text.words.clone(),
                    because: text.because.clone(),
                },
            )?;
            let outcome =
                |id: &str| TestOutcome { id: id.into(), means: String::new(), proves: Vec::new(), lacks: Vec::new() };
            self.test_index.insert(id.clone(), self.tests.len());
            self.tests.push(Test {
                id,
                name: text.name,
                kind: TestKind::Ask,
                per: Per::Engine,
                fits: text.fits,
                sign,
                minutes: 0.0,
                because: text.because.clone(),
                money: 0.0,
                tools: Vec::new(),
                opens: Vec::new(),
                cautions: Vec::new(),
                risk: None,
                people: 1,
                quick: false,
                together: None,
                how: String::new(),
                words: text.words,
                outcomes: vec![outcome("no"), outcome("yes")],
                table: vec![vec![1.0 - text.wrongly, text.wrongly], vec![1.0 - text.mentioned, text.mentioned]],
                table_because: text.because,
            });
        }
        Ok(())
    }

    fn read_signs(&mut self, place: &Place<'_>) -> Result<(), KnowledgeFault> {
        for (id, text) in read::<BTreeMap<String, SignText>>(place.file, place.text)? {
            if !matches!(text.per, Per::Engine | Per::Cylinder | Per::Bank) {
                return Err(place.fault(&id, "per", "a sign is seen at the engine, a bank or a cylinder"));
            }
            self.add_sign(
                place,
                Sign {
                    id,
                    name: text.name,
                    kind: SignKind::Found,
                    per: text.per,
                    states: text.states,
                    sound: text.sound,
                    words: Vec::new(),
                    because: text.because,
                },
            )?;
        }
        Ok(())
    }

    fn read_tests(&mut self, place: &Place<'_>) -> Result<(), KnowledgeFault> {
        for (id, text) in read::<BTreeMap<String, TestText>>(place.file, place.text)? {
            if self.test_index.contains_key(&id) {
                return Err(place.fault(&id, "", "stands there twice: a test or a symptom has this name already"));
            }
            self.check_conditions(place, &id, &text.fits)?;
            self.check_opens(place, &id, &text.opens)?;
            if !(text.minutes.0 >= 0.0 && text.money >= 0.0 && text.minutes.0 + text.money < 1e6) {
                return Err(place.fault(&id, "minutes", "minutes and money are nought or more"));
            }
            if let Some((chance, cost, _)) = &text.risk
                && !(is_chance(*chance) && *cost >= 0.0)
            {
                return Err(place.fault(&id, "risk", "is a chance, a cost and a reason"));
            }
            let outcomes = outcomes(place, &id, &text.outcomes)?;
            let row = |key: &str, values: &Vec<f64>| {
                if values.len() != outcomes.len() {
                    let reason = format!("{key} has {} chances for {} outcomes", values.len(), outcomes.len());
                    return Err(place.fault(&id, key, reason));
                }
                if !sums_to_one(values) || values.contains(&0.0) {
                    let sum: f64 = values.iter().sum();
                    let reason = format!("the chances of {key} must be above nought and sum to one, and sum to {sum}");
                    return Err(place.fault(&id, key, reason));
                }
                Ok(values.clone())
            };
            let (sign, table) = match &text.reads {
                Some(name) => {
                    let Some(&sign) = self.sign_index.get(name) else {
                        return Err(place.fault(&id, "reads", format!("there is no sign {name}")));
                    };
                    if let Some(extra) = text.table.keys().find(|key| !self.signs[sign].states.contains(key)) {
                        return Err(place.fault(&id, extra, format!("{name} has no state {extra}")));
                    }
                    let table = self.signs[sign]
                        .states
                        .iter()
                        .map(|state| match text.table.get(state) {
                            Some(values) => row(state, values),
                            None => Err(place.fault(&id, "table", format!("has no row for {name}.{state}"))),
                        })
                        .collect::<Result<Vec<_>, _>>()?;
                    (sign, table)
                }
                None => {
                    let Some(values) = text.table.get("sound") else {
                        return Err(place.fault(&id, "table", "a sign of its own needs the row sound"));
                    };
                    let sound = row("sound", values)?;
                    let per = match text.per {
                        Some(Per::Coil) => Per::Cylinder,
                        other => other.unwrap_or(Per::Engine),
                    };
                    let sign = self.add_sign(
                        place,
                        Sign {
                            id: id.clone(),
                            name: text.name.clone(),
                            kind: SignKind::Found,
                            per,
                            states: outcomes.iter().map(|outcome| outcome.id.clone()).collect(),
                            sound,
                            words: Vec::new(),
                            because: text.table_because.clone(),
                        },
                    )?;
                    (sign, itself(outcomes.len()))
                }
            };
            let per = self.signs[sign].per;
            self.test_index.insert(id.clone(), self.tests.len());
            self.tests.push(Test {
                id,
                name: text.name,
                kind: text.kind,
                per,
                fits: text.fits,
                sign,
                minutes: text.minutes.0,
                because: text.minutes.1,
                money: text.money,
                tools: text.tools,
                opens: text.opens,
                cautions: text.cautions,
                risk: text.risk,
                people: text.people,
                quick: text.quick,
                together: text.together,
                how: text.how,
                words: text.words,
                outcomes,
                table,
                table_because: text.table_because,
            });
        }
        Ok(())
    }

    fn check_conditions(&self, place: &Place<'_>, id: &str, fits: &[Condition]) -> Result<(), KnowledgeFault> {
        for condition in fits {
            if let Some(name) = condition.equipment()
                && !self.equipment.contains_key(name)
            {
                return Err(place.fault(id, "fits", format!("there is no equipment {name}")));
            }
        }
        Ok(())
    }

    fn check_opens(&self, place: &Place<'_>, id: &str, opens: &[String]) -> Result<(), KnowledgeFault> {
        match opens.iter().find(|name| !self.access.contains_key(*name)) {
            Some(name) => Err(place.fault(id, "opens", format!("there is no access {name}"))),
            None => Ok(()),
        }
    }

    fn read_faults(&mut self, files: &[(&'static str, &str)]) -> Result<(), KnowledgeFault> {
        let mut texts: BTreeMap<String, (Place<'_>, FaultText)> = BTreeMap::new();
        for (file, text) in files {
            for (id, fault) in read::<BTreeMap<String, FaultText>>(file, text)? {
                let place = Place { file, text };
                if let Some((other, _)) = texts.get(&id) {
                    return Err(place.fault(&id, "", format!("stands in {} already", other.file)));
                }
                texts.insert(id, (place, fault));
            }
        }
        for id in texts.keys() {
            let mut chain = Vec::new();
            let shows = self.signs_of(&texts, id, &mut chain)?;
            let (place, text) = &texts[id];
            let Some((rate, rate_because)) = text.rate.clone() else { continue };
            self.check_conditions(place, id, &text.fits)?;
            self.check_opens(place, id, &text.opens)?;
            if !(rate > 0.0 && rate <= 10_000.0) {
                return Err(place.fault(id, "rate", "is a number of cases among ten thousand, above nought"));
            }
            let Some((minutes, money, because)) = text.repair.clone() else {
                return Err(place.fault(id, "rate", "has a rate and no repair"));
            };
            if !(minutes >= 0.0 && money >= 0.0 && minutes + money < 1e6) {
                return Err(place.fault(id, "repair", "minutes and money are nought or more"));
            }
            if shows.is_empty() {
                return Err(place.fault(id, "", "shows nothing: no finding could ever speak for it"));
            }
            let family = place.file.rsplit('/').next().unwrap_or_default().trim_end_matches(".toml").to_owned();
            self.fault_index.insert(id.clone(), self.faults.len());
            self.faults.push(Fault {
                id: id.clone(),
                name: text.name.clone(),
                family,
                per: text.per.unwrap_or(Per::Engine),
                fits: text.fits.clone(),
                rate,
                rate_because,
                repair: RepairCost { minutes, money, because },
                opens: text.opens.clone(),
                need: text.need,
                part: text.part.clone(),
                varies: text.varies,
                words: text.words.clone(),
                shows,
            });
        }
        Ok(())
    }

    /// The signs of a fault: its own, and those of the ones it is like where it says nothing itself.
    fn signs_of<'t>(
        &self,
        texts: &'t BTreeMap<String, (Place<'_>, FaultText)>,
        id: &'t str,
        chain: &mut Vec<&'t str>,
    ) -> Result<Vec<Shown>, KnowledgeFault> {
        let (place, text) = &texts[id];
        if chain.contains(&id) {
            return Err(place.fault(id, "like", format!("is like itself, by way of {}", chain.join(", "))));
        }
        chain.push(id);
        let mut list: Vec<Shown> = Vec::new();
        for other in &text.like {
            let Some((known, _)) = texts.get_key_value(other) else {
                return Err(place.fault(id, "like", format!("there is no fault {other}")));
            };
            for shown in self.signs_of(texts, known, chain)? {
                list.retain(|old| old.sign != shown.sign);
                list.push(shown);
            }
        }
        chain.pop();
        let mut own: BTreeMap<usize, (Vec<f64>, Vec<&str>)> = BTreeMap::new();
        for (key, chance, because) in &text.shows {
            let (name, state) = key.split_once('.').unwrap_or((key, ""));
            let Some(&sign) = self.sign_index.get(name) else {
                return Err(place.fault(id, key, format!("there is no sign {name}")));
            };
            let states = &self.signs[sign].states;
            let state = match (state, states.len()) {
                ("", 2) => Some(1),
                _ => states.iter().position(|one| one == state),
            };
            let Some(state) = state else {
                return Err(place.fault(id, key, format!("{name} has the states {}", states.join(", "))));
            };
            if !is_chance(*chance) || because.trim().is_empty() {
                return Err(place.fault(id, key, format!("{key} needs a chance between 0 and 1 and a reason")));
            }
            let entry = own.entry(sign).or_insert_with(|| (vec![0.0; states.len()], Vec::new()));
            entry.0[state] += chance;
            entry.1.push(because);
        }
        for (sign, (mut chance, because)) in own {
            let given: f64 = chance.iter().sum();
            if given > 1.0 + ROUNDING {
                let name = &self.signs[sign].id;
                return Err(place.fault(id, name, format!("the chances of {name} sum to {given}, above one")));
            }
            // What is left shows as on any other car.
            for (one, sound) in chance.iter_mut().zip(&self.signs[sign].sound) {
                *one = (1.0 - FAINT) * (*one + (1.0 - given) * sound) + FAINT * sound;
            }
            list.retain(|old| old.sign != sign);
            list.push(Shown { sign, chance, because: because.join("; ") });
        }
        list.sort_by_key(|shown| shown.sign);
        Ok(list)
    }
}

/// The most states of a sign: what a plug's face can show.
pub const MOST_STATES: usize = 8;

/// So much of every sign is left to chance: no figure in the book is so sure that one reading may exclude a fault.
const FAINT: f64 = 0.01;

fn itself(n: usize) -> Vec<Vec<f64>> {
    // A sign of its own is read as it is; the little that is left keeps a second reading of the same from contradicting
    // the first with certainty.
    let off = 0.02 / (n - 1) as f64;
    (0..n).map(|state| (0..n).map(|outcome| if state == outcome { 0.98 } else { off }).collect()).collect()
}

fn outcomes(place: &Place<'_>, id: &str, texts: &[Vec<String>]) -> Result<Vec<TestOutcome>, KnowledgeFault> {
    let mut list: Vec<TestOutcome> = Vec::new();
    for text in texts {
        let [name, means, needs @ ..] = text.as_slice() else {
            return Err(place.fault(id, "outcomes", "an outcome is its name and what it means"));
        };
        if list.iter().any(|other| other.id == *name) {
            return Err(place.fault(id, name, format!("the outcome {name} stands there twice")));
        }
        let mut outcome = TestOutcome { id: name.clone(), means: means.clone(), proves: Vec::new(), lacks: Vec::new() };
        for word in needs {
            let (sign, need) = word.split_at_checked(1).unwrap_or((word, ""));
            let need: Need = serde_json::from_value(serde_json::Value::String(need.into()))
                .map_err(|_| place.fault(id, word, format!("{word} is no need")))?;
            match sign {
                "+" => outcome.proves.push(need),
                "-" => outcome.lacks.push(need),
                _ => return Err(place.fault(id, word, "a need stands with + (proven) or - (lacking)")),
            }
        }
        list.push(outcome);
    }
    if list.len() < 2 {
        return Err(place.fault(id, "outcomes", "a test with fewer than two outcomes tells nothing"));
    }
    Ok(list)
}
