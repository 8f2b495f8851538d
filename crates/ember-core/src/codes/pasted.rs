//! Codes as people write them: `P0302 stored; P0300 pending`, one a line, with or without words between.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Code, CodeBook, CodeMeaning};

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CodeStatus {
    Stored,
    Pending,
    Permanent,
    History,
}

/// A code with the status that stood beside it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadCode {
    pub code: String,
    /// Left out where none was written.
    #[serde(default)]
    pub status: Option<CodeStatus>,
    /// The unit that holds it; left out: the engine's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<String>,
    /// The values that were kept when it was set.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub freeze: Vec<crate::frames::DecodedValue>,
}

impl ReadCode {
    pub fn new(code: impl Into<String>, status: Option<CodeStatus>) -> ReadCode {
        ReadCode { code: code.into(), status, unit: None, freeze: Vec::new() }
    }
}

/// What was understood of a pasted text.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CodeReading {
    pub codes: Vec<ReadCode>,
    /// The same codes, explained.
    pub meanings: Vec<CodeMeaning>,
    /// Words that look like codes and are none, with the reason. Nothing is dropped in silence.
    pub not_understood: Vec<String>,
    /// Corrections that were made while reading.
    pub notes: Vec<String>,
}

fn status_word(word: &str) -> Option<CodeStatus> {
    match word {
        "stored" | "confirmed" | "current" | "active" => Some(CodeStatus::Stored),
        "pending" => Some(CodeStatus::Pending),
        "permanent" => Some(CodeStatus::Permanent),
        "history" | "historic" | "past" => Some(CodeStatus::History),
        _ => None,
    }
}

/// Reads codes out of free text. A status belongs to the code before it; at the head of a line it belongs to all
/// codes of that line (`pending: P0300, P0302`). A code written twice is kept once, with the first status given.
pub fn read_codes(text: &str, book: &CodeBook) -> CodeReading {
    let mut reading =
        CodeReading { codes: Vec::new(), meanings: Vec::new(), not_understood: Vec::new(), notes: Vec::new() };
    for line in text.lines() {
        let mut heading = None;
        let mut last: Option<usize> = None;
        for word in line.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()) {
            if let Some(status) = status_word(&word.to_lowercase()) {
                match last {
                    Some(index) => reading.codes[index].status = reading.codes[index].status.or(Some(status)),
                    None => heading = Some(status),
                }
                continue;
            }
            if !looks_like_code(word) {
                continue;
            }
            match Code::parse(word) {
                Ok(code) => {
                    let written = code.to_string();
                    if word.to_uppercase() != written {
                        reading.notes.push(format!("{word} read as {written}"));
                    }
                    let index = reading.codes.iter().position(|c| c.code == written).unwrap_or_else(|| {
                        reading.codes.push(ReadCode::new(written, None));
                        reading.meanings.push(book.meaning(code));
                        reading.codes.len() - 1
                    });
                    reading.codes[index].status = reading.codes[index].status.or(heading);
                    last = Some(index);
                }
                Err(reason) => reading.not_understood.push(reason),
            }
        }
    }
    reading
}

/// A letter of the four with digits behind it, or a word that somebody meant to be one.
fn looks_like_code(word: &str) -> bool {
    let mut characters = word.chars();
    let letter = characters.next().is_some_and(|c| "PCBUpcbu".contains(c));
    letter && word.len() >= 3 && characters.clone().filter(char::is_ascii_digit).count() >= 2
}
