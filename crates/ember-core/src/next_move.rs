//! The next move: what to do now on a job, why, what its outcomes mean, and what to beware of.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::bench_out::called;
use crate::engine::{Engine, Ignition, Injection};
use crate::job::{Ground, JobState, Repair, SwapShown, WaitingFor};
use crate::knowledge::{Knowledge, MoveText};
use crate::recording::{RecordingResult, ResultKind};
use crate::suspects::book::TestKind;
use crate::suspects::{ActKind, NextTest, named};
use crate::swap::plan::{Reading, SwapPlanResult};
use crate::swap::{Move, PlaceName, Verdict};
use crate::trail::{Entry, Finding};
use crate::trail_words::exchanged;

/// The steps that the knowledge file must describe.
pub const STEPS: &[&str] = &[
    "look",
    "test",
    "suspect",
    "think",
    "scan",
    "count",
    "count-longer",
    "no-misfire",
    "group",
    "swap",
    "measure",
    "clear",
    "drive",
    "void",
    "drive-longer",
    "fit",
    "connections",
    "elsewhere",
    "clear-after-repair",
    "prove",
    "prove-unknown",
    "close",
    "came-back",
    "put-back",
    "close-up",
    "start-up",
    "go-cold",
    "old-part-good",
    "closed",
];

/// What kind of entry answers the step.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Answer {
    Scan,
    /// One of the outcomes of the test that the move names.
    Tested,
    Counts,
    Cleared,
    Moved,
    Fitted,
    Drive,
    Need,
    Note,
    Complaint,
    On,
    Started,
    Closed,
    #[default]
    Reopened,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Outcome {
    pub outcome: String,
    pub means: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Caution {
    pub name: String,
    pub text: String,
    /// Must be acknowledged before the step: a mistake can injure or lose what cannot be got back.
    pub acknowledge: bool,
}

/// Another way to go on, as another school would.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Alternative {
    pub title: String,
    pub why: String,
    pub minutes: Option<f64>,
    pub answer: Answer,
    pub moves: Vec<Move>,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, ToSchema)]
pub struct NextMove {
    /// The name of the step in the knowledge file.
    pub step: String,
    pub title: String,
    pub why: String,
    pub minutes: f64,
    pub tools: Vec<String>,
    pub cautions: Vec<Caution>,
    pub outcomes: Vec<Outcome>,
    pub answer: Answer,
    /// Moves to enter as they are, when the step is a swap.
    pub moves: Vec<Move>,
    pub part: Option<String>,
    pub variant: Option<String>,
    pub cylinder: Option<u8>,
    /// The test of the book to make, and where, when the step is one.
    pub test: Option<NextTest>,
    pub alternatives: Vec<Alternative>,
    /// How sure the job is of what it knows now, 0 to 1.
    pub sure: Option<f64>,
    /// What that sureness is about, in a few words.
    pub sure_of: String,
}

/// What fills the braces of a step's text.
#[derive(Default)]
struct Fill<'a>(Vec<(&'a str, String)>);

impl<'a> Fill<'a> {
    fn with(mut self, name: &'a str, value: impl ToString) -> Self {
        self.0.push((name, value.to_string()));
        self
    }

    fn filled(&self, text: &str) -> String {
        let filled =
            self.0.iter().fold(text.to_owned(), |text, (name, value)| text.replace(&format!("{{{name}}}"), value));
        filled.trim().to_owned()
    }
}

struct Step<'a> {
    name: &'a str,
    answer: Answer,
    waiting: WaitingFor,
    fill: Fill<'a>,
}

impl<'a> Step<'a> {
    fn new(name: &'a str, answer: Answer, waiting: WaitingFor) -> Self {
        Step { name, answer, waiting, fill: Fill::default() }
    }

    fn with(mut self, name: &'a str, value: impl ToString) -> Self {
        self.fill = self.fill.with(name, value);
        self
    }
}

pub(crate) fn next_move(state: &JobState, ground: &Ground<'_>) -> (NextMove, WaitingFor) {
    let step = choose(state, ground);
    let waiting = step.waiting;
    let mut next = written(&step, ground);
    match step.name {
        "swap" => fill_swap(&mut next, state),
        "drive" | "drive-longer" => {
            if let Some(shown) = &state.swap_in_force {
                next.outcomes = after_the_swap(shown, state);
            }
        }
        "fit" | "measure" => {
            let condemned = state.swap_in_force.as_ref().and_then(|s| s.result.as_ref());
            next.part = condemned.and_then(|r| r.part.clone());
            next.variant = condemned.and_then(|r| r.variant.clone());
            next.cylinder = condemned.and_then(|r| r.cylinder_now).or_else(|| suspect(state));
        }
        "test" => fill_test(&mut next, state),
        "suspect" => fill_suspect(&mut next, state),
        "look" => {
            if let Some(found) = recorded_fault(state) {
                next.outcomes = found
                    .look_first
                    .iter()
                    .enumerate()
                    .map(|(index, place)| Outcome { outcome: format!("{}", index + 1), means: place.clone() })
                    .collect();
            }
        }
        _ => {}
    }
    (next.sure, next.sure_of) = sure(state);
    if let ("test" | "suspect" | "think", Some((p, about))) = (step.name, suspected(state, step.name)) {
        (next.sure, next.sure_of) = (Some(p), about);
    }
    if let (Some(found), "look") = (recorded_fault(state), step.name) {
        // A verdict by limits has no probability: then none is shown, and not that of another question.
        next.sure = found.probability;
        next.sure_of = "what the recording says".into();
    }
    (next, waiting)
}

fn choose<'a>(state: &JobState, ground: &Ground<'_>) -> Step<'a> {
    if state.closed {
        return Step::new("closed", Answer::Reopened, WaitingFor::Nothing);
    }
    let step = by_the_work(state, ground);
    if let Some(first) = before_it_runs(state, &step) {
        return first;
    }
    // Where the way is not given by what was begun (a swap to be driven, a repair to be proven), the suspects say it.
    match step.name {
        // A recording that points somewhere is followed by a look there, before anything is tested or taken apart.
        "look" if !tested_since_the_recording(ground) => step,
        "scan" | "count" | "no-misfire" | "group" | "measure" | "elsewhere" | "look" | "swap" => {
            by_the_suspects(state, &step).unwrap_or(step)
        }
        _ => step,
    }
}

/// Steps for which the engine has to run.
const RUNS: &[&str] = &[
    "count",
    "count-longer",
    "no-misfire",
    "drive",
    "drive-longer",
    "came-back",
    "clear-after-repair",
    "prove",
    "prove-unknown",
    "close",
];

/// What has to be done before the engine runs: everything back, then a start with open eyes; and what waits for a cold
/// engine is left alone until then.
fn before_it_runs<'a>(state: &JobState, step: &Step<'_>) -> Option<Step<'a>> {
    if let Some(soaking) = &state.soaking {
        return Some(Step::new("go-cold", Answer::Started, WaitingFor::Cold).with("hours", soaking.hours));
    }
    if !RUNS.contains(&step.name) {
        return None;
    }
    let list = &state.bench_out;
    if list.holds_start {
        let first = list.off.first().map(|shown| format!("{}: {}", called(&shown.item), shown.wants));
        let first = first.or_else(|| state.put_right.first().map(|one| one.what.clone())).unwrap_or_default();
        let answer = if list.off.is_empty() { Answer::Note } else { Answer::On };
        return Some(Step::new("close-up", answer, WaitingFor::Work).with("first", first).with("says", &list.says));
    }
    list.start_is_due.then(|| Step::new("start-up", Answer::Started, WaitingFor::Work))
}

fn tested_since_the_recording(ground: &Ground<'_>) -> bool {
    let since = ground.standing.iter().rev().take_while(|entry| !matches!(entry.finding, Finding::Recording { .. }));
    since.into_iter().any(|entry| matches!(entry.finding, Finding::Tested { .. }))
}

/// The step that the suspects ask for; `None` where they agree with the step at hand or have nothing to say.
fn by_the_suspects<'a>(state: &JobState, step: &Step<'_>) -> Option<Step<'a>> {
    let result = &state.suspects.as_ref()?.result;
    let quick_first = result.next.first().is_some_and(|test| test.quick_first);
    // Codes are saved before anything else is done to a car that runs.
    if step.name == "scan" && !quick_first {
        return None;
    }
    let told_apart = result.suspects.first().is_some_and(|suspect| !suspect.speaks.is_empty());
    match result.act.act {
        _ if !told_apart => None,
        ActKind::Test => {
            let best = result.next.first()?;
            match (step.name, best.together.as_deref()) {
                // The counters of all cylinders are read in one drive, and all codes in one reading.
                ("count", Some("misfire counters")) | ("scan", Some("scan")) => return None,
                // A misfire is counted under its conditions first: that confirms the complaint, and without counts from
                // before neither a swap nor the proof can be judged.
                ("count", _) if complains_of_misfires(state) => return None,
                _ => {}
            }
            if step.name == "swap" && swap_pays(state, best.expected_saving, &best.test) {
                return None;
            }
            if best.together.as_deref() == Some("misfire counters") {
                return Some(Step::new("count", Answer::Counts, WaitingFor::Drive));
            }
            Some(Step::new("test", Answer::Tested, WaitingFor::Work))
        }
        ActKind::Repair => Some(Step::new("suspect", Answer::Fitted, WaitingFor::Part)),
        ActKind::HandOver if step.name == "swap" => None,
        ActKind::HandOver => Some(Step::new("think", Answer::Note, WaitingFor::Decision)),
    }
}

fn complains_of_misfires(state: &JobState) -> bool {
    if state.engine.injection == Injection::Carburettor {
        return false;
    }
    let leading = state.suspects.as_ref().and_then(|shown| shown.result.suspects.first());
    leading.is_some_and(|suspect| {
        suspect.speaks.iter().any(|s| ["misfire", "code-misfire"].contains(&s.test.as_str()) && s.decibans > 0.0)
    })
}

/// Whether several parts moved for one drive save more than the best single test. Whoever moves them looks into what lies
/// open on the way, so those looks count with the swap.
fn swap_pays(state: &JobState, best: f64, best_test: &str) -> bool {
    let (Some(plan), Some(suspects)) = (&state.plan, &state.suspects) else { return false };
    let of_part = |part: &str| {
        let test = format!("{part}-swap");
        suspects.result.next.iter().find(|one| one.test == test).map(|one| (one.expected_saving, one.minutes))
    };
    let mut parts: Vec<&str> = plan.moves.iter().map(|one| one.part.as_str()).collect();
    parts.sort_unstable();
    parts.dedup();
    let known: Vec<(f64, f64)> = parts.iter().filter_map(|part| of_part(part)).collect();
    // Their drives are one drive: what all but the dearest cost is spared.
    let minutes: f64 = known.iter().map(|(_, minutes)| minutes).sum();
    let dearest = known.iter().map(|(_, minutes)| *minutes).fold(0.0, f64::max);
    let per_minute = suspects.result.labour_per_minute;
    let opened = |one: &&NextTest| one.kind == TestKind::Look && !one.opens.is_empty();
    let on_the_way: f64 = suspects.result.next.iter().filter(opened).map(|one| one.expected_saving.max(0.0)).sum();
    let swaps: f64 = known.iter().map(|(saving, _)| saving).sum();
    let together = swaps + (minutes - dearest) * per_minute + on_the_way;
    parts.iter().any(|part| best_test == format!("{part}-swap")) || together >= best
}

fn by_the_work<'a>(state: &JobState, ground: &Ground<'_>) -> Step<'a> {
    match (&state.repair, &state.swap_in_force) {
        (Some(repair), _) if repair.came_back.is_none() => after_repair(state, repair, ground),
        (_, Some(shown)) => after_swap(state, shown),
        (Some(repair), None) => after_failed_repair(state, repair, ground),
        (None, None) => from_readings(state, ground),
    }
}

/// Nothing was moved yet, or what was moved cannot be judged: what the codes and counts say.
fn from_readings<'a>(state: &JobState, ground: &Ground<'_>) -> Step<'a> {
    // Where no control unit runs the engine, there is nothing to read.
    let scanned = ground.engine.injection == Injection::Carburettor
        || ground.standing.iter().any(|entry| matches!(entry.finding, Finding::Scan { .. }));
    let Some(misfire) = &state.misfire else {
        if let Some(found) = recorded_fault(state) {
            return look(found);
        }
        return if scanned {
            Step::new("count", Answer::Counts, WaitingFor::Drive)
        } else {
            Step::new("scan", Answer::Scan, WaitingFor::Reading)
        };
    };
    let result = &misfire.result;
    // A recording that speaks of air, fuel or charge pressure comes before counting longer for a misfire.
    if let Some(found) = recorded_fault(state).filter(|_| !result.decided || result.group.cylinders.is_empty()) {
        return look(found);
    }
    if !result.decided {
        return Step::new("count-longer", Answer::Counts, WaitingFor::Drive)
            .with("says", &result.says)
            .with("settle", &result.next);
    }
    match result.group.cylinders.as_slice() {
        [] => Step::new("no-misfire", Answer::Counts, WaitingFor::Drive),
        [cylinder] => match &state.plan {
            Some(plan) => Step::new("swap", Answer::Moved, WaitingFor::Work)
                .with("cylinder", cylinder)
                .with("moves", exchanged(&plan.moves)),
            None => Step::new("measure", Answer::Need, WaitingFor::Work).with("cylinder", cylinder),
        },
        _ => Step::new("group", Answer::Need, WaitingFor::Work).with("says", &result.says).with("tell", &result.next),
    }
}

/// What the last recording says beyond which cylinder misses, when that is decided and a fault.
fn recorded_fault(state: &JobState) -> Option<&RecordingResult> {
    let last = state.recordings.last()?;
    last.results.iter().find(|result| result.kind != ResultKind::Misfires && result.decided && result.fault)
}

fn look<'a>(found: &RecordingResult) -> Step<'a> {
    Step::new("look", Answer::Note, WaitingFor::Work).with("says", found.says.trim_end_matches('.'))
}

fn after_swap<'a>(state: &JobState, shown: &SwapShown) -> Step<'a> {
    let Some(result) = &shown.result else {
        if !shown.cleared {
            return Step::new("clear", Answer::Cleared, WaitingFor::Work);
        }
        let least = shown.least_revolutions.map_or_else(|| "a few thousand".to_owned(), |n| format!("{n:.0}"));
        return Step::new("drive", Answer::Counts, WaitingFor::Drive).with("revolutions", least);
    };
    let verdict = &result.next;
    match result.verdict {
        Verdict::Void => Step::new("void", Answer::Cleared, WaitingFor::Work),
        Verdict::Undecided => Step::new("drive-longer", Answer::Counts, WaitingFor::Drive).with("verdict", verdict),
        Verdict::Moved => Step::new("fit", Answer::Fitted, WaitingFor::Part)
            .with("part", result.part.clone().unwrap_or_else(|| "part".into()))
            .with("cylinder", result.cylinder_now.map_or_else(String::new, |c| c.to_string()))
            .with("verdict", verdict),
        Verdict::Stayed => match (&state.plan, suspect(state)) {
            (Some(plan), Some(cylinder)) => Step::new("swap", Answer::Moved, WaitingFor::Work)
                .with("cylinder", cylinder)
                .with("moves", exchanged(&plan.moves)),
            (_, cylinder) => Step::new("measure", Answer::Need, WaitingFor::Work)
                .with("cylinder", cylinder.map_or_else(String::new, |c| c.to_string())),
        },
        // A silence is a repair of its own kind, see `after_repair`; only an undecided job comes by here.
        Verdict::Gone => Step::new("connections", Answer::Note, WaitingFor::Work).with("verdict", verdict),
        Verdict::Elsewhere | Verdict::Mixed => {
            Step::new("elsewhere", Answer::Counts, WaitingFor::Work).with("verdict", verdict)
        }
    }
}

/// Once the fault that came back is counted again, the search goes on where the counts point.
fn after_failed_repair<'a>(state: &JobState, repair: &Repair, ground: &Ground<'_>) -> Step<'a> {
    let counted_again = ground
        .standing
        .iter()
        .skip_while(|entry| Some(entry.number) != repair.came_back)
        .any(|entry| matches!(entry.finding, Finding::Counts { .. }));
    if counted_again { from_readings(state, ground) } else { Step::new("came-back", Answer::Counts, WaitingFor::Drive) }
}

fn after_repair<'a>(state: &JobState, repair: &Repair, ground: &Ground<'_>) -> Step<'a> {
    // Nothing was replaced: before distance is asked for, the connections that the handling may have mended are looked
    // at, until something is written after the reading that showed the silence.
    let just_read = |entry: &&Entry| matches!(entry.finding, Finding::Counts { .. } | Finding::Scan { .. });
    if repair.part.is_none() && ground.standing.last().is_some_and(just_read) {
        let verdict = state.swap_in_force.as_ref().and_then(|s| s.result.as_ref()).map_or("", |r| r.next.as_str());
        return Step::new("connections", Answer::Note, WaitingFor::Work).with("verdict", verdict);
    }
    if repair.old_part_good.is_some() && ground.standing.last().map(|e| e.number) == repair.old_part_good {
        let part = repair.part.clone().unwrap_or_else(|| "part".into());
        return Step::new("old-part-good", Answer::Note, WaitingFor::Decision).with("part", part);
    }
    if !repair.cleared && repair.part.is_some() {
        return Step::new("clear-after-repair", Answer::Cleared, WaitingFor::Work);
    }
    let known = state.proof.as_ref().and_then(|proof| Some((proof, proof.confidence?)));
    let Some((proof, confidence)) = known else {
        return Step::new("prove-unknown", Answer::Complaint, WaitingFor::Reading);
    };
    let sure = format!(
        "{:.1} % sure that it is gone, by {}; {:.0} % counts as enough.",
        100.0 * confidence,
        proof.rests_on,
        100.0 * proof.enough_at
    );
    if proof.enough {
        return Step::new("close", Answer::Closed, WaitingFor::Decision).with("proof", sure);
    }
    let open = proof.drive.as_ref().filter(|plan| !plan.reached);
    match (proof.further_km, open) {
        (_, Some(plan)) if plan.minutes > 0.0 => {
            let until = format!("{:.0} minutes where it lived", plan.minutes.ceil());
            let says = proof.result.as_ref().map_or("", |result| result.says.as_str());
            Step::new("prove", Answer::Drive, WaitingFor::CleanDistance)
                .with("until", until)
                .with("proof", format!("{sure} {says} The proof names the cells of speed and load."))
        }
        (Some(further), _) => Step::new("prove", Answer::Drive, WaitingFor::CleanDistance)
            .with("until", format!("{:.0} km", further.ceil()))
            .with("proof", format!("{sure} {}", proof.result.as_ref().map_or("", |result| result.says.as_str()))),
        (None, _) => {
            let until = proof.scales.iter().find_map(|one| {
                let further = one.result.as_ref()?.further_for_enough;
                Some(format!("{:.0} {}", further.ceil(), one.unit))
            });
            Step::new("prove", Answer::Drive, WaitingFor::CleanDistance)
                .with("until", until.unwrap_or_else(|| "more attempts".into()))
                .with("proof", sure)
        }
    }
}

fn suspect(state: &JobState) -> Option<u8> {
    match state.misfire.as_ref()?.result.group.cylinders.as_slice() {
        &[cylinder] => Some(cylinder),
        _ => None,
    }
}

fn written(step: &Step<'_>, ground: &Ground<'_>) -> NextMove {
    let Some(text) = ground.knowledge.moves.get(step.name) else { return NextMove::default() };
    NextMove {
        step: step.name.into(),
        title: step.fill.filled(&text.title),
        why: step.fill.filled(&text.why),
        minutes: text.minutes,
        tools: text.tools.clone(),
        cautions: cautions(step.name, text, ground.engine, ground.knowledge),
        outcomes: text
            .outcomes
            .iter()
            .map(|o| Outcome { outcome: o.outcome.clone(), means: o.means.clone() })
            .collect(),
        answer: step.answer,
        ..NextMove::default()
    }
}

/// Steps at which something of the engine is opened.
const OPENS: [&str; 4] = ["swap", "fit", "suspect", "close-up"];

/// The cautions of a step on this engine: no spark where there is none, and fuel under pressure where it is opened.
fn cautions(step: &str, text: &MoveText, engine: &Engine, knowledge: &Knowledge) -> Vec<Caution> {
    let mut names = text.cautions.clone();
    if engine.ignition == Ignition::None {
        names.retain(|name| name != "ignition");
    }
    let pressed = matches!(engine.injection, Injection::CommonRail | Injection::UnitPump | Injection::Direct);
    if pressed && OPENS.contains(&step) && !names.iter().any(|name| name == "high-pressure") {
        names.insert(0, "high-pressure".into());
    }
    named_cautions(&names, knowledge)
}

/// Cautions by their names in the knowledge.
pub(crate) fn named_cautions(names: &[String], knowledge: &Knowledge) -> Vec<Caution> {
    names
        .iter()
        .filter_map(|name| knowledge.cautions.get(name).map(|caution| (name, caution)))
        .map(|(name, caution)| Caution {
            name: name.clone(),
            text: caution.text.clone(),
            acknowledge: caution.acknowledge,
        })
        .collect()
}

/// The cautions of the kinds of entry that stand for work on the car, as the step that usually leads to them has them.
pub(crate) fn cautions_by_answer(engine: &Engine, knowledge: &Knowledge) -> BTreeMap<String, Vec<Caution>> {
    [("moved", "swap"), ("cleared", "clear"), ("fitted", "fit")]
        .into_iter()
        .filter_map(|(answer, step)| {
            Some((answer.to_owned(), cautions(step, knowledge.moves.get(step)?, engine, knowledge)))
        })
        .collect()
}

fn fill_test(next: &mut NextMove, state: &JobState) {
    let Some(test) = state.suspects.as_ref().and_then(|shown| shown.result.next.first()) else { return };
    next.title = named(&test.name, &test.target);
    next.why = format!("{} {}", test.why, test.how);
    next.minutes = test.minutes;
    next.tools.clone_from(&test.tools);
    next.cautions.clone_from(&test.cautions);
    next.test = Some(test.clone());
    if let crate::suspects::target::Target::Cylinder(cylinder) = test.target {
        next.cylinder = Some(cylinder);
    }
}

fn fill_suspect(next: &mut NextMove, state: &JobState) {
    let Some(result) = state.suspects.as_ref().map(|shown| &shown.result) else { return };
    let act = &result.act;
    next.title = format!("Mend it now: {}", act.name);
    next.why = format!("{} {}", act.why, next.why);
    let suspect = result.suspects.iter().find(|s| s.fault == act.what && s.target == act.target);
    if let Some(suspect) = suspect {
        next.part = suspect.part.clone().or_else(|| Some(suspect.name.to_lowercase()));
        next.minutes = suspect.repair.as_ref().map_or(next.minutes, |repair| repair.minutes);
    }
    if let crate::suspects::target::Target::Cylinder(cylinder) = act.target {
        next.cylinder = Some(cylinder);
    }
}

fn fill_swap(next: &mut NextMove, state: &JobState) {
    let Some(plan) = &state.plan else { return };
    next.minutes = plan.minutes;
    next.moves = plan.moves.clone();
    next.cylinder = suspect(state);
    next.outcomes = plan.reads.iter().map(|reading| read_ahead(reading, plan)).collect();
    if let Some(one) = state.plan_one.as_ref().filter(|one| one.moves != plan.moves) {
        next.alternatives.push(Alternative {
            title: format!("One at a time: {}", exchanged(&one.moves)),
            why: "One change per drive cannot be misread, and takes a drive for every part.".into(),
            minutes: Some(one.minutes),
            answer: Answer::Moved,
            moves: one.moves.clone(),
        });
    }
    next.alternatives.push(Alternative {
        title: "Measure first".into(),
        why: "Look at plug, coil and connector before anything changes places. Note what it proves.".into(),
        minutes: None,
        answer: Answer::Need,
        moves: Vec::new(),
    });
    next.alternatives.push(Alternative {
        title: "Fit the usual part first".into(),
        why: "Quick when it is right; a guess all the same, and the proof then starts from even odds.".into(),
        minutes: None,
        answer: Answer::Fitted,
        moves: Vec::new(),
    });
}

/// What an outcome of the planned swap will mean, short enough to stand beside its name.
fn read_ahead(reading: &Reading, plan: &SwapPlanResult) -> Outcome {
    let outcome = match (reading.outcome, reading.cylinder) {
        (Verdict::Moved | Verdict::Stayed, Some(cylinder)) => format!("misfire on {cylinder}"),
        (Verdict::Gone, _) => "no misfire".into(),
        _ => "misfire elsewhere".into(),
    };
    let means = match (reading.outcome, &reading.part) {
        (Verdict::Moved, Some(part)) => format!("The {part} took it along and is condemned."),
        (Verdict::Stayed, _) => {
            let parts: Vec<&str> = plan.reads.iter().filter_map(|r| r.part.as_deref()).collect();
            format!("Cleared: {}. Then wiring, the parts not moved, compression.", parts.join(" and "))
        }
        (Verdict::Gone, _) => "A connection mended by handling, or an intermittent fault: nothing is proven.".into(),
        _ => "Something was disturbed, or a second fault.".into(),
    };
    Outcome { outcome, means }
}

/// What the drive after a swap can show, from the moves that were made.
fn after_the_swap(shown: &SwapShown, state: &JobState) -> Vec<Outcome> {
    let from =
        shown.result.as_ref().and_then(|r| r.suspect.clone()).or_else(|| suspect(state).map(PlaceName::Cylinder));
    let mut outcomes: Vec<Outcome> = shown
        .moves
        .iter()
        .filter(|one| Some(&one.from) == from.as_ref())
        .map(|one| Outcome {
            outcome: format!("misfire on {}", one.to),
            means: format!("The {} took it along and is condemned.", one.part),
        })
        .collect();
    if let Some(from) = from {
        outcomes.push(Outcome {
            outcome: format!("misfire still on {from}"),
            means: "What was moved is cleared: wiring, the parts not moved, or compression.".into(),
        });
    }
    outcomes.push(Outcome {
        outcome: "no misfire".into(),
        means: "A connection that the handling mended, or an intermittent fault. Nothing is proven.".into(),
    });
    outcomes
}

fn sure(state: &JobState) -> (Option<f64>, String) {
    if let Some(repair) = state.repair.as_ref().filter(|r| r.came_back.is_none()) {
        let confidence = state.proof.as_ref().and_then(|p| p.confidence);
        let about = match &repair.part {
            Some(part) => format!("the new {part} cured it"),
            None => "it is gone".into(),
        };
        return (confidence, about);
    }
    if let Some(result) = state.swap_in_force.as_ref().and_then(|s| s.result.as_ref())
        && let Some(first) = result.hypotheses.first()
    {
        let about = match (first.what, &first.part) {
            (Verdict::Moved, Some(part)) => format!("it is the {part}"),
            (Verdict::Stayed, _) => "it stayed where it was".into(),
            (Verdict::Gone, _) => "it does not show".into(),
            _ => "where it is now".into(),
        };
        return (Some(first.probability), about);
    }
    match state.misfire.as_ref().map(|m| &m.result.group) {
        Some(group) if !group.cylinders.is_empty() => {
            let noun = if group.cylinders.len() == 1 { "cylinder" } else { "cylinders" };
            (Some(group.probability), format!("it is {noun} {}", crate::engine::Engine::in_words(&group.cylinders)))
        }
        Some(group) => (Some(group.probability), "no cylinder misfires".into()),
        None => (None, String::new()),
    }
}

/// The suspect that the step is about, or else the leading one, and how likely it is; once anything was found that tells
/// it from the others.
fn suspected(state: &JobState, step: &str) -> Option<(f64, String)> {
    let result = &state.suspects.as_ref()?.result;
    let act = &result.act;
    let about = result.suspects.iter().find(|s| step == "suspect" && s.fault == act.what && s.target == act.target);
    let suspect = about.or_else(|| result.suspects.first())?;
    let name = named(&suspect.name, &suspect.target).to_lowercase();
    (!suspect.speaks.is_empty()).then(|| (suspect.present, format!("that it is: {name}")))
}
