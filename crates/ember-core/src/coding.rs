//! Numbers that are written into a control unit after a part was changed: compared, not trusted.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::knowledge::Knowledge;
use crate::refusal::Refusal;
use crate::vehicle::line;

/// `knowledge/coding.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CodingKnowledge {
    pub pads: Pads,
    pub lengths: Vec<CodeLength>,
    pub relearn: Vec<RelearnStep>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Pads {
    pub filling: Vec<String>,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CodeLength {
    pub what: String,
    pub least: usize,
    pub most: usize,
    pub because: String,
}

/// Something that is learnt again after the work.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RelearnStep {
    pub name: String,
    pub title: String,
    pub how: String,
    /// How long it takes at least.
    pub seconds: f64,
    pub because: String,
}

/// The numbers of one cylinder, or of one part. Empty: not read.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct CodedNumber {
    pub cylinder: Option<u8>,
    /// What stood in the control unit before anything was written.
    pub stored_before: String,
    /// What is printed on the part that came out.
    pub printed_old: String,
    /// What is printed on the part that went in.
    pub printed_new: String,
    /// What the control unit gave back after writing.
    pub read_back: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CodingInput {
    /// `injector trim code`, or what the workshop calls it.
    pub what: String,
    /// How many characters the number has; left out: as the knowledge says of it.
    #[serde(default)]
    pub length: Option<usize>,
    /// Whether the control unit may fill numbers up.
    #[serde(default = "yes")]
    pub may_pad: bool,
    pub numbers: Vec<CodedNumber>,
}

fn yes() -> bool {
    true
}

/// How two numbers stand to each other.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Match {
    Same,
    /// The same but for what the control unit fills up with.
    Padded,
    Different,
    /// One of them was not read.
    NotRead,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CodedShown {
    pub cylinder: Option<u8>,
    /// The old part's number against what was stored: is this the right cylinder?
    pub right_place: Match,
    /// The new part's number against what was read back: was it written?
    pub written: Match,
    /// Where the old number stands instead, when it does not stand here.
    pub found_at: Option<u8>,
    pub says: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CodingResult {
    pub numbers: Vec<CodedShown>,
    /// Everything that was read agrees, and nothing is missing.
    pub good: bool,
    pub says: String,
}

/// Compares old, new, stored and read-back numbers.
///
/// # Errors
/// No number; a cylinder twice; a character that no such number has; a number of the wrong length, by its field.
pub fn coding(input: &CodingInput, knowledge: &Knowledge) -> Result<CodingResult, Refusal> {
    let rules = &knowledge.coding;
    line("what", &input.what)?;
    if input.numbers.is_empty() {
        return Err(Refusal::new("numbers", "is empty: which numbers were read?"));
    }
    let known = rules.lengths.iter().find(|one| one.what.eq_ignore_ascii_case(input.what.trim()));
    let (least, most) = match (input.length, known) {
        (Some(0), _) => return Err(Refusal::new("length", "must be 1 or more")),
        (Some(length), _) => (length, length),
        (None, Some(known)) => (known.least, known.most),
        (None, None) => (1, 64),
    };
    let clean: Vec<CodedNumber> = input.numbers.iter().map(tidy).collect();
    for (index, one) in clean.iter().enumerate() {
        if clean[..index].iter().any(|other| other.cylinder == one.cylinder) {
            let at = one.cylinder.map_or("the part".to_owned(), |c| format!("cylinder {c}"));
            return Err(Refusal::new(format!("numbers[{index}].cylinder"), format!("{at} stands there twice")));
        }
        let fields = [
            ("printed_old", &one.printed_old, false),
            ("printed_new", &one.printed_new, false),
            ("stored_before", &one.stored_before, true),
            ("read_back", &one.read_back, true),
        ];
        for (name, text, stored) in fields {
            let field = format!("numbers[{index}].{name}");
            if let Some(strange) = text.chars().find(|c| !c.is_ascii_alphanumeric() && !"_-. /".contains(*c)) {
                return Err(Refusal::new(field, format!("{strange} does not occur in such numbers")));
            }
            let count = text.chars().count();
            // What a unit stores may be longer, filled up; never shorter than what is printed.
            let longest = if stored && input.may_pad { usize::MAX } else { most };
            if count > 0 && (count < least || count > longest) {
                let wanted = if least == most { format!("{least}") } else { format!("{least} to {most}") };
                let reason = format!("has {count} characters; {wanted} are printed on such a part");
                return Err(Refusal::new(field, reason));
            }
        }
    }
    let compare = |printed: &str, stored: &str| compared(printed, stored, input.may_pad, rules);
    let numbers: Vec<CodedShown> = clean
        .iter()
        .map(|one| {
            let right_place = compare(&one.printed_old, &one.stored_before);
            let written = compare(&one.printed_new, &one.read_back);
            let found_at = (right_place == Match::Different)
                .then(|| {
                    let there = |other: &&CodedNumber| {
                        matches!(compare(&one.printed_old, &other.stored_before), Match::Same | Match::Padded)
                    };
                    clean.iter().find(there).and_then(|other| other.cylinder)
                })
                .flatten();
            let unchanged = written == Match::Different
                && matches!(compare(&one.stored_before, &one.read_back), Match::Same | Match::Padded);
            CodedShown {
                cylinder: one.cylinder,
                right_place,
                written,
                found_at,
                says: words(right_place, written, found_at, unchanged),
            }
        })
        .collect();
    let agrees = |m: Match| matches!(m, Match::Same | Match::Padded);
    let good = numbers.iter().all(|one| one.right_place != Match::Different && agrees(one.written));
    let says = if good {
        "Every new number was read back as it is printed.".into()
    } else if numbers.iter().any(|one| one.right_place == Match::Different) {
        "An old part's number is not the one stored for its cylinder: stop, and find out which cylinder this is.".into()
    } else if numbers.iter().any(|one| one.written == Match::Different) {
        "A number was not taken. Write it again, wait until the unit sleeps, and read it back.".into()
    } else {
        "Not everything was read back yet.".into()
    };
    Ok(CodingResult { numbers, good, says })
}

fn words(right_place: Match, written: Match, found_at: Option<u8>, unchanged: bool) -> String {
    let place = match (right_place, found_at) {
        (Match::Same, _) => "The old number is the stored one: this is the right cylinder.".to_owned(),
        (Match::Padded, _) => "The old number is the stored one, filled up: this is the right cylinder.".to_owned(),
        (Match::Different, Some(c)) => format!("The old part's number is stored for cylinder {c}, not here."),
        (Match::Different, None) => {
            "The old part's number is stored nowhere: another part was here before, or it was never written.".to_owned()
        }
        (Match::NotRead, _) => "Old and stored number were not both read.".to_owned(),
    };
    let new = match written {
        Match::Same => "The new number is in.",
        Match::Padded => "The new number is in, filled up by the unit.",
        Match::Different if unchanged => "The unit still holds the old number: it was not written.",
        Match::Different => "What was read back is not what is printed.",
        Match::NotRead => "The new number was not read back yet.",
    };
    format!("{place} {new}")
}

/// Upper case, without the gaps that are printed for the eye at the ends.
fn tidy(number: &CodedNumber) -> CodedNumber {
    let one = |text: &str| text.trim().to_uppercase();
    CodedNumber {
        cylinder: number.cylinder,
        stored_before: one(&number.stored_before),
        printed_old: one(&number.printed_old),
        printed_new: one(&number.printed_new),
        read_back: one(&number.read_back),
    }
}

fn compared(printed: &str, stored: &str, may_pad: bool, rules: &CodingKnowledge) -> Match {
    if printed.is_empty() || stored.is_empty() {
        return Match::NotRead;
    }
    if printed == stored {
        return Match::Same;
    }
    let filling: Vec<char> = rules.pads.filling.iter().filter_map(|text| text.chars().next()).collect();
    let filled = |rest: &str| {
        let mut chars = rest.chars();
        chars.next().is_some_and(|first| filling.contains(&first) && chars.all(|c| c == first))
    };
    // Filled up on one side only, and with one character throughout.
    let padded = stored.strip_prefix(printed).is_some_and(filled) || stored.strip_suffix(printed).is_some_and(filled);
    if may_pad && padded { Match::Padded } else { Match::Different }
}
