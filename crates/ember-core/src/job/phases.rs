//! The phases of a job: every move and every repair begins one, and what is counted belongs to the phase it fell in.

use crate::codes::{Code, CodeStatus};
use crate::engine::Engine;
use crate::misfire::Counts;
use crate::swap::{Move, SwapSide};
use crate::trail::{Entry, Finding};

#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Opening {
    Start,
    /// Parts were moved to learn something.
    Moved(Vec<Move>),
    /// Parts were put back, which asks no question.
    PutBack,
    Fitted {
        part: String,
        variant: Option<String>,
        cylinder: Option<u8>,
    },
}

/// One stretch of the trail during which nothing on the engine was changed.
#[derive(Debug, Clone)]
pub(crate) struct Phase<'a> {
    pub opening: Opening,
    /// The entry that began it; the first entry of the job for the first phase.
    pub opened_by: Option<&'a Entry>,
    pub counts: Option<Counts>,
    pub windows: Vec<Counts>,
    /// Codes of the scans that count for this phase.
    pub codes: Option<Vec<String>>,
    /// The entries that the counts come from.
    pub count_entries: Vec<u32>,
    /// Whether the codes were cleared between the evidence before this phase and the evidence in it.
    pub cleared: bool,
    /// Whether anything was read before the codes were cleared, and so does not count.
    pub read_uncleared: bool,
    cleared_last: bool,
}

impl<'a> Phase<'a> {
    fn new(opening: Opening, opened_by: Option<&'a Entry>, cleared: bool) -> Self {
        Phase {
            opening,
            opened_by,
            counts: None,
            windows: Vec::new(),
            codes: None,
            count_entries: Vec::new(),
            cleared,
            read_uncleared: false,
            cleared_last: cleared,
        }
    }

    pub fn has_evidence(&self) -> bool {
        self.counts.is_some() || self.codes.is_some()
    }

    pub fn opened_at_km(&self) -> f64 {
        self.opened_by.map_or(0.0, |entry| entry.odometer_km)
    }

    /// The phase's evidence as one side of a swap.
    pub fn side(&self) -> SwapSide {
        SwapSide {
            revolutions: self.counts.as_ref().map(|c| 2.0 * c.firings),
            misfires: self
                .counts
                .as_ref()
                .map(|c| c.misfires.iter().enumerate().map(|(i, &k)| ((i + 1).to_string(), k)).collect()),
            codes: self.codes.clone(),
            ..SwapSide::default()
        }
    }

    fn add_counts(&mut self, entry: u32, counts: Counts, windows: Vec<Counts>) {
        self.counts = Some(match self.counts.take() {
            Some(so_far) => so_far.plus(&counts),
            None => counts,
        });
        self.windows.extend(windows);
        self.count_entries.push(entry);
        self.cleared_last = false;
    }

    fn clear(&mut self) {
        if !self.cleared {
            // What was read here before the first clearing may be from before the phase began.
            self.read_uncleared |= self.has_evidence();
            self.counts = None;
            self.windows.clear();
            self.codes = None;
            self.count_entries.clear();
            self.cleared = true;
        }
        self.cleared_last = true;
    }
}

/// Divides the entries that count into phases. The first phase needs no clearing: nothing was changed before it.
pub(super) fn phases<'a>(engine: &Engine, standing: &[&'a Entry]) -> Vec<Phase<'a>> {
    let mut phases = vec![Phase::new(Opening::Start, standing.first().copied(), true)];
    if let Some(first) = phases.first_mut() {
        first.cleared_last = false;
    }
    for &entry in standing {
        let Some(now) = phases.last_mut() else { continue };
        let opening = match &entry.finding {
            Finding::Counts { revolutions, misfires, windows, .. } => {
                // Entries were checked when they were written; one that no longer fits (the engine was described
                // anew) is left out rather than guessed at.
                if let Ok(counts) = Counts::new(engine, *revolutions, misfires) {
                    let windows =
                        windows.iter().filter_map(|w| Counts::new(engine, w.revolutions, &w.misfires).ok()).collect();
                    now.add_counts(entry.number, counts, windows);
                }
                continue;
            }
            Finding::Scan { codes, .. } => {
                let live: Vec<String> = codes
                    .iter()
                    .filter(|code| code.status != Some(CodeStatus::History))
                    .map(|code| code.code.clone())
                    .collect();
                // A scan without a metre driven since the work shows what came back at once. That nothing has yet
                // is no evidence.
                let driven = entry.odometer_km > now.opened_at_km() || now.opening == Opening::Start;
                if driven || !live.is_empty() {
                    let named = live
                        .into_iter()
                        .filter(|code| Code::parse(code).is_ok_and(|c| c.cylinder().is_none_or(|c| engine.has(c))));
                    now.codes.get_or_insert_default().extend(named);
                    now.cleared_last = false;
                }
                continue;
            }
            Finding::Cleared { .. } => {
                now.clear();
                continue;
            }
            Finding::Moved { put_back: true, .. } => Opening::PutBack,
            Finding::Moved { moves, .. } => Opening::Moved(moves.clone()),
            Finding::Fitted { part, variant, cylinder, .. } => {
                Opening::Fitted { part: part.clone(), variant: variant.clone(), cylinder: *cylinder }
            }
            _ => continue,
        };
        let cleared = now.cleared_last;
        phases.push(Phase::new(opening, Some(entry), cleared));
    }
    phases
}
