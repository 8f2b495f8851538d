//! The code book: what each code says, made from the runs of the knowledge file.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Code, CodeOrigin};
use crate::knowledge::KnowledgeFault;

/// The knowledge file as it is written.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CodeFile {
    family: Vec<Family>,
    run: Vec<toml::Spanned<Run>>,
    directions: BTreeMap<String, String>,
    subsystems: BTreeMap<String, Subsystem>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct Family {
    name: String,
    title: String,
    cannot_tell: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct Subsystem {
    title: String,
    family: String,
}

#[derive(Debug, Clone, Copy, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Each {
    Cylinder,
    Coil,
    Sensor,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct Run {
    from: String,
    family: String,
    each: Option<Each>,
    #[serde(default = "one")]
    count: usize,
    bank: Option<u8>,
    subject: Option<String>,
    #[serde(default)]
    texts: Vec<String>,
    directions: Vec<String>,
}

fn one() -> usize {
    1
}

/// What a code says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CodeMeaning {
    /// As it is written: `P0306`.
    pub code: String,
    pub letter: char,
    pub origin: CodeOrigin,
    /// `powertrain`, `chassis`, `body` or `network`.
    pub system: String,
    /// For powertrain codes: what the third character stands for.
    pub subsystem: Option<String>,
    /// Family of meaning: `misfire`, `coil-circuit`, ...
    pub family: String,
    pub family_title: String,
    pub text: String,
    pub cylinder: Option<u8>,
    pub bank: Option<u8>,
    pub sensor: Option<u8>,
    /// The maker's letter of a coil; which cylinder that is differs from engine to engine.
    pub coil: Option<char>,
    /// `low`, `high`, `open`, `range`, `correlation`, `circuit`, ...
    pub direction: Option<String>,
    /// What the code cannot tell, as the end of the sentence "It cannot tell ...".
    pub cannot_tell: String,
    /// The two bytes it travels as, in hexadecimal: `0306`.
    pub bytes: String,
}

#[derive(Debug, Clone)]
struct Entry {
    family: String,
    text: String,
    cylinder: Option<u8>,
    bank: Option<u8>,
    sensor: Option<u8>,
    coil: Option<char>,
    direction: String,
}

#[derive(Debug, Clone)]
pub struct CodeBook {
    families: BTreeMap<String, Family>,
    subsystems: BTreeMap<String, Subsystem>,
    entries: BTreeMap<Code, Entry>,
}

impl CodeBook {
    /// Makes the book from the file; its text serves to name lines.
    ///
    /// # Errors
    /// A run that names a family or direction that does not exist, begins with no code, overlaps another, or whose
    /// texts and directions do not match in number.
    pub fn new(file: CodeFile, text: &str) -> Result<CodeBook, KnowledgeFault> {
        let families: BTreeMap<String, Family> = file.family.into_iter().map(|f| (f.name.clone(), f)).collect();
        let mut entries = BTreeMap::new();
        for run in &file.run {
            let line = text[..run.span().start.min(text.len())].matches('\n').count() + 1;
            let fault = |reason: String| KnowledgeFault { file: "knowledge/codes.toml", line, reason };
            let run = run.get_ref();
            let first = Code::parse(&run.from).map_err(fault)?;
            if !families.contains_key(&run.family) {
                return Err(fault(format!("the run from {} names the unknown family {}", run.from, run.family)));
            }
            if !run.texts.is_empty() && run.texts.len() != run.directions.len() {
                return Err(fault(format!(
                    "the run from {} has {} texts and {} directions",
                    run.from,
                    run.texts.len(),
                    run.directions.len()
                )));
            }
            for index in 0..run.count * run.directions.len() {
                let (item, within) = (index / run.directions.len(), index % run.directions.len());
                let direction = &run.directions[within];
                let words = file.directions.get(direction).ok_or_else(|| {
                    fault(format!("the run from {} names the unknown direction {direction}", run.from))
                })?;
                let code = first
                    .after(index as u16)
                    .ok_or_else(|| fault(format!("the run from {} leaves the decimal numbers", run.from)))?;
                let entry = run.entry(item, within, direction, words);
                if entries.insert(code, entry).is_some() {
                    return Err(fault(format!("the run from {} overlaps another at {code}", run.from)));
                }
            }
        }
        Ok(CodeBook { families, subsystems: file.subsystems, entries })
    }

    /// What a code says; a code that is not in the book gets its system and family.
    pub fn meaning(&self, code: Code) -> CodeMeaning {
        let origin = code.origin();
        let subsystem = (code.letter() == 'P').then(|| self.subsystems.get(&code.third().to_string())).flatten();
        let entry = self.entries.get(&code);
        let family_name = match (entry, origin, subsystem) {
            (Some(entry), ..) => entry.family.as_str(),
            (None, CodeOrigin::Generic, Some(subsystem)) => subsystem.family.as_str(),
            _ => "other",
        };
        let family = self.families.get(family_name).or_else(|| self.families.get("other"));
        let text = match (entry, origin, subsystem) {
            (Some(entry), ..) => entry.text.clone(),
            (None, CodeOrigin::Makers, _) => format!("The maker's own code ({})", code.system()),
            (None, CodeOrigin::Generic, Some(subsystem)) => format!("A generic code of: {}", subsystem.title),
            (None, CodeOrigin::Generic, None) => format!("A generic code of the {}", code.system()),
        };
        CodeMeaning {
            code: code.to_string(),
            letter: code.letter(),
            origin,
            system: code.system().into(),
            // The maker is free to number as he likes.
            subsystem: subsystem.filter(|_| origin == CodeOrigin::Generic).map(|s| s.title.clone()),
            family: family_name.into(),
            family_title: family.map(|f| f.title.clone()).unwrap_or_default(),
            text,
            cylinder: entry.and_then(|e| e.cylinder),
            bank: entry.and_then(|e| e.bank),
            sensor: entry.and_then(|e| e.sensor),
            coil: entry.and_then(|e| e.coil),
            direction: entry.map(|e| e.direction.clone()),
            cannot_tell: family.map(|f| f.cannot_tell.clone()).unwrap_or_default(),
            bytes: format!("{:02X}{:02X}", code.bytes()[0], code.bytes()[1]),
        }
    }
}

impl Run {
    fn entry(&self, item: usize, within: usize, direction: &str, words: &str) -> Entry {
        let number = item as u8 + 1;
        let letter = (b'A' + item as u8) as char;
        let mut text = match (self.texts.get(within), &self.subject) {
            (Some(text), _) => text.clone(),
            (None, Some(subject)) => match self.each {
                None => format!("{subject}, {words}"),
                Some(Each::Cylinder) if direction == "detected" => format!("{subject} on cylinder {number}"),
                Some(Each::Cylinder) => format!("{subject} of cylinder {number}, {words}"),
                Some(Each::Coil) => format!("{subject} {letter}, {words}"),
                Some(Each::Sensor) => format!("{subject} {number}, {words}"),
            },
            (None, None) => words.to_owned(),
        };
        if let Some(bank) = self.bank {
            text.push_str(&format!(", bank {bank}"));
        }
        let cylinder = matches!(self.each, Some(Each::Cylinder)).then_some(number);
        Entry {
            // Contribution is a finding about the cylinder, not about the injector's circuit.
            family: if direction == "balance" { "cylinder-balance".into() } else { self.family.clone() },
            text,
            cylinder,
            bank: self.bank,
            sensor: matches!(self.each, Some(Each::Sensor)).then_some(number),
            coil: matches!(self.each, Some(Each::Coil)).then_some(letter),
            direction: direction.to_owned(),
        }
    }
}
