//! Which finding a trouble code is: from a code to the test of the book that it answers.

use serde::Deserialize;

use super::target::Target;
use crate::engine::Engine;

/// A range of codes and what it answers.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct Range {
    from: String,
    to: String,
    test: String,
    /// `engine`, `bank 1`, or `cylinder`: then the first code of the range is cylinder 1.
    at: String,
    because: String,
}

/// All ranges, as they stand in `knowledge/code-tests.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CodeTests {
    codes: Vec<Range>,
}

impl Range {
    /// How far a code stands from the first of the range.
    fn place_of(&self, code: &str) -> Option<u16> {
        let number = |text: &str| u16::from_str_radix(text.get(1..)?, 16).ok();
        let (code_no, from, to) = (number(code)?, number(&self.from)?, number(&self.to)?);
        (code.get(..1) == self.from.get(..1) && (from..=to).contains(&code_no)).then(|| code_no - from)
    }

    fn target(&self, step: u16, engine: &Engine) -> Option<Target> {
        match self.at.as_str() {
            "cylinder" => {
                // Hexadecimal places: P0309 is cylinder 9 and P0310 is cylinder 10.
                let cylinder = if step >= 0x0f { step - 6 } else { step } + 1;
                u8::try_from(cylinder).ok().filter(|&c| engine.has(c)).map(Target::Cylinder)
            }
            "bank 2" if engine.banks.len() < 2 => None,
            at => Target::parse(at).ok(),
        }
    }
}

impl CodeTests {
    /// What is wrong with the ranges: a test or a place that the book does not have.
    pub(crate) fn fault(&self, book: &super::book::Book) -> Option<String> {
        self.codes.iter().find_map(|range| {
            let known = book.test(&range.test).is_some();
            let placed = range.at == "cylinder" || Target::parse(&range.at).is_ok();
            let ordered = range.place_of(&range.to).is_some() && !range.because.is_empty();
            (!(known && placed && ordered))
                .then(|| format!("{} to {}: no such test, place or range", range.from, range.to))
        })
    }

    /// The tests that a code answers with yes.
    pub fn tests_of(&self, code: &str, engine: &Engine) -> Vec<(&str, Target)> {
        self.codes
            .iter()
            .filter_map(|range| range.place_of(code).map(|step| (range, step)))
            .filter_map(|(range, step)| Some((range.test.as_str(), range.target(step, engine)?)))
            .collect()
    }

    /// Every test that a reading of the engine's unit answers, at every place of an engine.
    pub fn all_on(&self, engine: &Engine) -> Vec<(&str, Target)> {
        let mut list: Vec<(&str, Target)> = Vec::new();
        for range in &self.codes {
            let test = range.test.as_str();
            let targets = match range.at.as_str() {
                "cylinder" => (1..=engine.cylinders).map(Target::Cylinder).collect(),
                _ => range.target(0, engine).into_iter().collect::<Vec<_>>(),
            };
            for target in targets {
                if !list.contains(&(test, target.clone())) {
                    list.push((test, target));
                }
            }
        }
        list
    }
}
