//! Channels: the names and units under which values are kept, whatever a file or a car calls them.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// One entry of `knowledge/channels.toml`.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ChannelKnowledge {
    pub label: String,
    pub unit: String,
    pub low: f64,
    pub high: f64,
    /// The channel exists this many times, once for each cylinder or bank.
    #[serde(default)]
    pub numbered: Option<u8>,
    /// It only counts up, and begins again when it is cleared or full.
    #[serde(default)]
    pub counter: bool,
    pub words: Vec<String>,
    pub because: String,
}

/// A channel as the screens name it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Channel {
    /// `engine_speed`, `short_trim_1`, `misfires_12`.
    pub name: String,
    pub label: String,
    /// Empty for a plain number.
    pub unit: String,
    pub low: f64,
    pub high: f64,
    pub counter: bool,
}

/// A way to write a channel's name.
#[derive(Debug, Clone, PartialEq)]
struct Spelling {
    words: Vec<String>,
    channel: String,
    /// It stands for bank 1 without saying so, and so fits only headings that name no number.
    unnumbered: bool,
}

/// All channels, the numbered ones spelled out.
#[derive(Debug, Clone)]
pub struct ChannelBook {
    channels: BTreeMap<String, Channel>,
    /// Longest first.
    spellings: Vec<Spelling>,
}

impl ChannelBook {
    pub fn new(entries: &BTreeMap<String, ChannelKnowledge>) -> ChannelBook {
        let mut channels = BTreeMap::new();
        let mut spellings = Vec::new();
        for (name, entry) in entries {
            let numbers: Vec<Option<u8>> = match entry.numbered {
                Some(most) => (1..=most).map(Some).collect(),
                None => vec![None],
            };
            for number in numbers {
                let fill = |text: &str| match number {
                    Some(n) => text.replace("{n}", &n.to_string()),
                    None => text.to_owned(),
                };
                let full = number.map_or_else(|| name.clone(), |n| format!("{name}_{n}"));
                // `STFT` without a number is the only bank of an engine with one.
                let unnumbered = (entry.numbered == Some(2) && number == Some(1))
                    .then(|| entry.words.iter().map(|w| w.replace("{n}", "")))
                    .into_iter()
                    .flatten();
                let numbered = entry.words.iter().map(|w| fill(w)).chain([full.clone(), fill(&entry.label)]);
                let spelled = numbered.map(|text| (text, false)).chain(unnumbered.map(|text| (text, true)));
                spellings.extend(spelled.map(|(text, unnumbered)| Spelling {
                    words: words(&text),
                    channel: full.clone(),
                    unnumbered,
                }));
                let channel = Channel {
                    name: full.clone(),
                    label: fill(&entry.label),
                    unit: entry.unit.clone(),
                    low: entry.low,
                    high: entry.high,
                    counter: entry.counter,
                };
                channels.insert(full, channel);
            }
        }
        spellings.sort_by_key(|s: &Spelling| {
            let letters: usize = s.words.iter().map(String::len).sum();
            (std::cmp::Reverse((s.words.len(), letters)), s.channel.clone(), s.unnumbered)
        });
        spellings.dedup();
        ChannelBook { channels, spellings }
    }

    pub fn get(&self, name: &str) -> Option<&Channel> {
        self.channels.get(name)
    }

    pub fn all(&self) -> impl Iterator<Item = &Channel> {
        self.channels.values()
    }

    /// The channel that a heading most likely means: the one with the longest spelling whose words all stand in it.
    pub fn guess(&self, heading: &str) -> Option<&Channel> {
        let heading = words(heading);
        let number = heading.iter().any(|word| word.starts_with(|c: char| c.is_ascii_digit()));
        self.spellings
            .iter()
            .find(|s| !(s.unnumbered && number) && s.words.iter().all(|word| heading.contains(word)))
            .and_then(|s| self.channels.get(&s.channel))
    }
}

/// A heading as its words: lower case, split at signs, and between letters and digits (`STFT1` is `stft` and `1`).
fn words(text: &str) -> Vec<String> {
    let mut list: Vec<String> = Vec::new();
    let mut last = None;
    for c in text.to_lowercase().chars() {
        let kind = if c.is_ascii_digit() {
            Some(true)
        } else if c.is_alphabetic() {
            Some(false)
        } else {
            None
        };
        match (kind, list.last_mut()) {
            (Some(_), Some(word)) if kind == last => word.push(c),
            (Some(_), _) => list.push(c.to_string()),
            (None, _) => {}
        }
        last = kind;
    }
    // 03 and 3 are one number.
    for word in &mut list {
        if word.chars().all(|c| c.is_ascii_digit()) {
            let trimmed = word.trim_start_matches('0');
            *word = if trimmed.is_empty() { "0".into() } else { trimmed.into() };
        }
    }
    list
}
