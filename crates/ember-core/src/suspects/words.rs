//! The trade's words: what somebody types, found among symptoms, tests and faults.

use serde::Serialize;
use utoipa::ToSchema;

use super::book::{Book, SignKind};

/// What a search found.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Hit {
    /// `test`, `symptom`, `circumstance`, `history` or `fault`.
    pub kind: &'static str,
    pub id: String,
    pub name: String,
    /// The outcome that the words speak of, where they do.
    pub outcome: Option<String>,
    /// The target that the words speak of, where they do: a number stands for a cylinder.
    pub target: Option<String>,
    pub score: f64,
}

/// Words that say nothing by themselves.
const EMPTY: [&str; 24] = [
    "a", "an", "the", "is", "it", "at", "on", "in", "of", "and", "or", "to", "when", "with", "after", "car", "engine",
    "has", "was", "does", "not", "but", "will", "for",
];

fn tokens(text: &str) -> Vec<String> {
    text.to_lowercase()
        .split(|c: char| !c.is_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(|word| stem(word).to_owned())
        .collect()
}

/// `misfires`, `misfiring` and `misfire` are one word.
fn stem(word: &str) -> &str {
    for ending in ["ing", "ed", "es", "s"] {
        if let Some(short) = word.strip_suffix(ending)
            && short.len() >= 4
        {
            return short.trim_end_matches('e');
        }
    }
    if word.len() > 4 { word.trim_end_matches('e') } else { word }
}

/// Whether somebody who says one word means the other.
fn same(said: &str, word: &str) -> bool {
    said == word || (said == "no" && word == stem("none"))
}

/// How far the words of a query are met by a name: 1 if each is.
fn met(query: &[String], words: &[String]) -> f64 {
    let telling: Vec<&String> = query.iter().filter(|w| !EMPTY.contains(&w.as_str())).collect();
    if telling.is_empty() {
        return 0.0;
    }
    let sum: f64 = telling
        .iter()
        .map(|word| {
            words
                .iter()
                .map(|other| {
                    if other == *word {
                        1.0
                    } else if word.len() >= 3 && other.starts_with(word.as_str()) {
                        0.8
                    } else if word.len() >= 5 && other.contains(word.as_str()) {
                        0.5
                    } else {
                        0.0
                    }
                })
                .fold(0.0, f64::max)
        })
        .sum();
    sum / telling.len() as f64
}

/// What it is worth that the words stand together as one phrase of the trade.
fn phrase(query: &[String], name: &str, more: &[String]) -> f64 {
    let said = query.join(" ");
    let together = std::iter::once(name).chain(more.iter().map(String::as_str)).map(|text| tokens(text).join(" "));
    together
        .map(|text| {
            if text == said {
                0.2
            } else if query.len() > 1 && format!(" {text} ").contains(&format!(" {said} ")) {
                0.1
            } else {
                0.0
            }
        })
        .fold(0.0, f64::max)
}

fn words_of(id: &str, name: &str, more: &[String]) -> Vec<String> {
    let mut words = tokens(name);
    words.extend(tokens(id));
    for one in more {
        words.extend(tokens(one));
    }
    words
}

/// The symptoms, circumstances and histories that a text speaks of: by id, by name, or by the words of one.
pub(super) fn symptoms_in(book: &Book, text: &str) -> Vec<usize> {
    let trimmed = text.trim().to_lowercase();
    let asks = |(_, test): &(usize, &super::book::Test)| book.signs[test.sign].kind != SignKind::Found;
    let same = |test: &super::book::Test| {
        test.id == trimmed
            || test.name.to_lowercase() == trimmed
            || test.words.iter().any(|word| word.to_lowercase() == trimmed)
    };
    if let Some((index, _)) = book.tests.iter().enumerate().filter(asks).find(|(_, test)| same(test)) {
        return vec![index];
    }
    // In a longer text a phrase counts when it stands there as it is.
    let padded = format!(" {} ", tokens(&trimmed).join(" "));
    book.tests
        .iter()
        .enumerate()
        .filter(asks)
        .filter(|(_, test)| {
            std::iter::once(&test.name)
                .chain(&test.words)
                .any(|phrase| padded.contains(&format!(" {} ", tokens(phrase).join(" "))))
        })
        .map(|(index, _)| index)
        .collect()
}

/// Names that look like a word nobody knows.
pub(super) fn nearest(book: &Book, text: &str) -> Vec<String> {
    let hits = search(book, text);
    let slip = text.trim().to_lowercase();
    let mut alike: Vec<(f64, &str)> = book
        .tests
        .iter()
        .map(|test| (strsim::normalized_damerau_levenshtein(&slip, &test.id), test.id.as_str()))
        .filter(|(likeness, _)| *likeness >= 0.6)
        .collect();
    alike.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(b.1)));
    let mut names: Vec<String> = alike.into_iter().take(2).map(|(_, id)| id.to_owned()).collect();
    for hit in hits.into_iter().filter(|hit| hit.kind != "fault") {
        if !names.contains(&hit.id) {
            names.push(hit.id);
        }
    }
    names.truncate(4);
    if names.is_empty() {
        names.push("look it up with `gritty-ember knowledge`".into());
    }
    names
}

/// Finds tests with their outcomes, symptoms and faults by the trade's words; the best first.
pub fn search(book: &Book, text: &str) -> Vec<Hit> {
    let all = tokens(text);
    let cylinder: Option<String> =
        all.iter().find_map(|word| word.parse::<u8>().ok().filter(|n| (1..=12).contains(n)).map(|n| n.to_string()));
    let query: Vec<String> = all
        .into_iter()
        .filter(|word| word.parse::<u8>().is_err() && !["cylinder", "cyl"].contains(&word.as_str()))
        .collect();
    let mut hits = Vec::new();
    for test in &book.tests {
        let kind = match book.signs[test.sign].kind {
            SignKind::Found => "test",
            SignKind::Symptom => "symptom",
            SignKind::Circumstance => "circumstance",
            SignKind::History => "history",
        };
        let words = words_of(&test.id, &test.name, &test.words);
        let plain = met(&query, &words) + phrase(&query, &test.name, &test.words);
        let mut best = (plain, None);
        if kind == "test" {
            for outcome in &test.outcomes {
                let mut with = words.clone();
                with.extend(tokens(&outcome.id));
                // The words of the outcome must all be there, or it was not spoken of.
                let spoken = tokens(&outcome.id).iter().all(|word| query.iter().any(|other| same(other, word)));
                // `clear hose: bubbles` speaks of the bubbles: `clear` is in the name already.
                let named = tokens(&outcome.id).iter().all(|word| tokens(&test.name).contains(word));
                let score =
                    met(&query, &with) + phrase(&query, &test.name, &test.words) + if named { 0.0 } else { 0.01 };
                if spoken && (best.1.is_none() || score > best.0) {
                    best = (score.max(best.0), Some(outcome.id.clone()));
                }
            }
        }
        if best.0 >= 0.5 {
            let per_cylinder = test.per == super::book::Per::Cylinder;
            hits.push(Hit {
                kind,
                id: test.id.clone(),
                name: test.name.clone(),
                outcome: best.1,
                target: cylinder.clone().filter(|_| per_cylinder).map(|n| format!("cylinder {n}")),
                score: best.0,
            });
        }
    }
    for fault in &book.faults {
        let score =
            met(&query, &words_of(&fault.id, &fault.name, &fault.words)) + phrase(&query, &fault.name, &fault.words);
        if score >= 0.5 {
            hits.push(Hit {
                kind: "fault",
                id: fault.id.clone(),
                name: fault.name.clone(),
                outcome: None,
                target: None,
                score: score - 0.01,
            });
        }
    }
    hits.sort_by(|a, b| b.score.total_cmp(&a.score).then(a.name.len().cmp(&b.name.len())).then(a.id.cmp(&b.id)));
    hits.truncate(30);
    hits
}
