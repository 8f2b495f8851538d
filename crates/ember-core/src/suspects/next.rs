//! The next move: which test pays best now, what each of its outcomes would mean, and whether to repair instead.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

use super::ahead::{Ahead, Prospect, Work, Worth};
use super::book::{SignKind, TestKind};
use super::cost::Cost;
use super::evidence::Group;
use super::fits::Car;
use super::posterior::{Hypothesis, Posterior};
use super::prior::{belongs, places};
use super::schools::{Considered, School, Walk, choose};
use super::target::Target;
use super::{Case, Depth, Suspect, named};
use crate::knowledge::CautionText;
use crate::next_move::Caution;

/// What an outcome of a test would do, before the test is made.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Foreseen {
    pub outcome: String,
    pub means: String,
    /// How likely this outcome is.
    pub probability: f64,
    /// The leading suspect after it, and how likely that then is.
    pub then: String,
    pub then_probability: f64,
}

/// A test that could be made now.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct NextTest {
    pub test: String,
    pub target: Target,
    pub name: String,
    pub kind: TestKind,
    /// With what has to come off first.
    pub minutes: f64,
    /// Material, and the chance of damage times its cost.
    pub money: f64,
    /// What it saves of the expected cost of repair, less its own cost.
    pub expected_saving: f64,
    /// How much it tells of the cause.
    pub bits: f64,
    pub why: String,
    pub how: String,
    pub tools: Vec<String>,
    pub people: u8,
    pub opens: Vec<String>,
    pub cautions: Vec<Caution>,
    pub outcomes: Vec<Foreseen>,
    /// Read in one go with others of this name.
    pub together: Option<String>,
    /// One of the quick checks, on a car that does not start.
    pub quick_first: bool,
}

/// Something to ask.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Question {
    pub test: String,
    pub name: String,
    pub bits: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ActKind {
    /// Fit it now: no test saves more than it costs.
    Repair,
    /// Test on.
    Test,
    /// Neither: hand the car over, or think again.
    HandOver,
}

/// Repair now or test on.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Act {
    #[serde(rename = "do")]
    pub act: ActKind,
    /// The fault to mend, or the test to make.
    pub what: String,
    pub target: Target,
    pub name: String,
    pub why: String,
    /// Expected cost of repair, in money with labour, when parts are fitted from now on by likelihood and price ...
    pub fit_now_cost: f64,
    /// ... and when the best test is made first.
    pub test_first_cost: Option<f64>,
    /// Complaints that the proposed repair would not explain.
    pub leaves_unexplained: Vec<String>,
}

/// What a school may be expected to need from here to a car that runs.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SchoolExpects {
    pub school: School,
    pub minutes: f64,
    pub money: f64,
    /// Both in money.
    pub cost: f64,
    /// What it does first.
    pub first: String,
}

pub(super) struct Look {
    pub next: Vec<NextTest>,
    pub questions: Vec<Question>,
    pub act: Act,
    pub schools: Vec<SchoolExpects>,
}

/// The most tests that are told of.
const TOLD: usize = 14;
/// The most tests that the schools choose from.
const CHOSEN_FROM: usize = 14;
/// The most hypotheses that the schools are walked with.
const WALKED: usize = 48;

pub(super) fn look(
    case: &Case<'_>,
    groups: &[Group],
    posterior: &Posterior,
    suspects: &[Suspect],
    depth: Depth,
    cautions: &BTreeMap<String, CautionText>,
) -> Look {
    let ahead = ahead(case, groups, posterior, usize::MAX);
    let probabilities: Vec<f64> = ahead.hypotheses.iter().map(|h| h.probability).collect();
    let mut work = Work::default();
    let now = ahead.trial(&probabilities, &mut work);
    let first_repair = first_repair(&ahead, posterior, &work);
    let by_probability = posterior.suspicions.iter().map(|s| s.present).fold(0.0, f64::max);
    if depth == Depth::Suspects {
        let act = repair(case, posterior, first_repair, now, None, by_probability);
        return Look { next: Vec::new(), questions: Vec::new(), act, schools: Vec::new() };
    }
    let quick_first = does_not_start(case);
    let useful = case.book.figures.useful.value;
    let prospects = prospects(case, &ahead);
    let mut list: Vec<Considered> = prospects
        .iter()
        .enumerate()
        .map(|(index, prospect)| {
            let test = &case.book.tests[prospect.test];
            let worth = ahead.worth(prospect, &probabilities, now, &mut work);
            Considered { index, kind: test.kind, quick: test.quick, cost: prospect.cost.total, worth }
        })
        .collect();
    share_readings(case, &prospects, &mut list);
    let giving_up = first_repair.is_none();
    let chosen = choose(case.input.school, &list, quick_first, useful, giving_up);
    let questions = questions(case, &ahead, &probabilities, now, &mut work);
    list.sort_by(|a, b| {
        (Some(b.index) == chosen)
            .cmp(&(Some(a.index) == chosen))
            .then(b.worth.saving.total_cmp(&a.worth.saving))
            .then(b.worth.bits.total_cmp(&a.worth.bits))
            .then(a.index.cmp(&b.index))
    });
    // Of what is read in one go the most telling stands for all.
    let mut groups_told: Vec<&str> = Vec::new();
    let told: Vec<NextTest> = list
        .iter()
        .filter(|one| one.worth.bits >= 1e-4)
        .filter(|one| match case.book.tests[prospects[one.index].test].together.as_deref() {
            Some(group) if groups_told.contains(&group) => false,
            Some(group) => {
                groups_told.push(group);
                true
            }
            None => true,
        })
        .take(TOLD)
        .map(|one| tell(case, &ahead, &prospects[one.index], &one.worth, &probabilities, cautions))
        .collect();
    let best = list.first().map(|one| one.worth);
    let act = match (chosen, told.first()) {
        (Some(_), Some(test)) => Act {
            act: ActKind::Test,
            what: test.test.clone(),
            target: test.target.clone(),
            name: named(&test.name, &test.target),
            why: if test.expected_saving > 0.0 {
                format!(
                    "Fitting parts by likelihood from here costs {now:.0} on average, this test first {:.0}.",
                    now - test.expected_saving
                )
            } else {
                format!("It tells {:.2} bits of the cause and costs {:.0} minutes.", test.bits, test.minutes)
            },
            fit_now_cost: now,
            test_first_cost: Some(now - test.expected_saving),
            leaves_unexplained: Vec::new(),
        },
        _ => repair(case, posterior, first_repair, now, best, by_probability),
    };
    let schools = match depth {
        Depth::Schools => schools(case, groups, posterior, &list, &prospects, quick_first),
        _ => Vec::new(),
    };
    debug_assert!(suspects.len() == posterior.suspicions.len() + 1);
    Look { next: told, questions, act, schools }
}

fn ahead<'a>(case: &'a Case<'_>, groups: &'a [Group], posterior: &'a Posterior, most: usize) -> Ahead<'a> {
    let mut hypotheses: Vec<Hypothesis> = posterior.hypotheses.iter().take(most).copied().collect();
    let total: f64 = hypotheses.iter().map(|h| h.probability).sum();
    for hypothesis in &mut hypotheses {
        hypothesis.probability /= total;
    }
    let mut repairs: Vec<Cost> = Vec::new();
    let mut of_part: BTreeMap<(&str, &Target), u16> = BTreeMap::new();
    let mut mended_by = Vec::with_capacity(case.instances.len());
    for one in &case.instances {
        let fault = &case.book.faults[one.fault];
        let cost = case.prices.of_repair(case.book, fault, &one.target, case.engine);
        let new = repairs.len() as u16;
        let repair = match &fault.part {
            Some(part) => *of_part.entry((part, &one.target)).or_insert(new),
            None => new,
        };
        match repairs.get_mut(repair as usize) {
            // Whoever fits the part does all that the dearest of its faults asks for.
            Some(known) if known.total < cost.total => *known = cost,
            Some(_) => {}
            None => repairs.push(cost),
        }
        mended_by.push(repair);
    }
    let minutes = case.book.figures.hand_over.value;
    let hand_over = Cost { minutes, money: 0.0, total: minutes * case.prices.per_minute };
    Ahead {
        book: case.book,
        engine: case.engine,
        groups,
        suspicions: &posterior.suspicions,
        hypotheses,
        mended_by,
        repairs,
        hand_over,
    }
}

/// The likeliest suspect that the first repair of a trial would mend; none where the trial is to hand the car over.
fn first_repair(ahead: &Ahead<'_>, posterior: &Posterior, work: &Work) -> Option<u16> {
    let repair = *work.order.first().filter(|_| work.stop > 0)?;
    (0..ahead.mended_by.len() as u16)
        .filter(|&index| ahead.mended_by[index as usize] == repair)
        .max_by(|&a, &b| posterior.suspicions[a as usize].present.total_cmp(&posterior.suspicions[b as usize].present))
}

/// Whether the complaint is of a car that does not start: then quick checks come first, all of them.
fn does_not_start(case: &Case<'_>) -> bool {
    case.known.iter().any(|known| {
        known.outcome == Some(1)
            && ["no-start", "no-crank", "starts-and-dies"].contains(&case.book.tests[known.test].id.as_str())
    })
}

/// Every test that can be made on this car, here and now, and was not made yet.
fn prospects(case: &Case<'_>, ahead: &Ahead<'_>) -> Vec<Prospect> {
    let car = Car {
        engine: case.engine,
        has: &case.input.vehicle.has,
        lacks: &case.input.vehicle.lacks,
        equipment: &case.book.equipment,
    };
    let mut list = Vec::new();
    for (index, test) in case.book.tests.iter().enumerate() {
        let cannot = case.input.cannot.iter().any(|name| *name == test.id || test.tools.contains(name));
        if test.kind == TestKind::Ask || cannot || (case.input.alone && test.people > 1) {
            continue;
        }
        if !belongs(case.book, &car, index) {
            continue;
        }
        for (place, target) in places(case.book, index, case.engine).into_iter().enumerate() {
            let made = case.known.iter().any(|known| known.test == index && known.target == target);
            let cost = case.prices.of_test(case.book, test, &target, case.engine);
            if made || case.input.minutes_left.is_some_and(|left| cost.minutes > left) {
                continue;
            }
            if let Some(rows) = ahead.rows(index, place as u8) {
                list.push(Prospect { test: index, place: place as u8, cost, outcomes: test.outcomes.len(), rows });
            }
        }
    }
    list
}

/// What is read in one go is paid once: the time is shared by all of the group that tell anything.
fn share_readings(case: &Case<'_>, prospects: &[Prospect], list: &mut [Considered]) {
    let useful = case.book.figures.useful.value;
    let group = |one: &Considered| case.book.tests[prospects[one.index].test].together.as_deref();
    let mut telling: BTreeMap<&str, f64> = BTreeMap::new();
    for one in list.iter().filter(|one| one.worth.bits >= useful) {
        if let Some(name) = group(one) {
            *telling.entry(name).or_default() += 1.0;
        }
    }
    for one in list.iter_mut() {
        if let Some(&sharers) = group(one).and_then(|name| telling.get(name))
            && one.worth.bits >= useful
        {
            let spared = one.cost * (1.0 - 1.0 / sharers);
            one.cost -= spared;
            one.worth.saving += spared;
            one.worth.after -= spared;
        }
    }
}

fn questions(case: &Case<'_>, ahead: &Ahead<'_>, probabilities: &[f64], now: f64, work: &mut Work) -> Vec<Question> {
    let mut list: Vec<Question> = case
        .book
        .tests
        .iter()
        .enumerate()
        .filter(|(index, test)| {
            matches!(case.book.signs[test.sign].kind, SignKind::Circumstance | SignKind::History)
                && !case.known.iter().any(|known| known.test == *index && known.outcome == Some(1))
                && !case.known[case.complaint..].iter().any(|known| known.test == *index)
        })
        .filter_map(|(index, test)| {
            let rows = ahead.rows(index, 0)?;
            let prospect = Prospect { test: index, place: 0, cost: Cost::default(), outcomes: 2, rows };
            let bits = ahead.worth(&prospect, probabilities, now, work).bits;
            (bits >= 0.01).then(|| Question { test: test.id.clone(), name: test.name.clone(), bits })
        })
        .collect();
    list.sort_by(|a, b| b.bits.total_cmp(&a.bits));
    list.truncate(5);
    list
}

fn tell(
    case: &Case<'_>,
    ahead: &Ahead<'_>,
    prospect: &Prospect,
    worth: &Worth,
    probabilities: &[f64],
    cautions: &BTreeMap<String, CautionText>,
) -> NextTest {
    let test = &case.book.tests[prospect.test];
    let target = places(case.book, prospect.test, case.engine)[prospect.place as usize].clone();
    let outcomes: Vec<Foreseen> = test
        .outcomes
        .iter()
        .enumerate()
        .map(|(index, outcome)| {
            let branch: Vec<f64> = probabilities.iter().zip(&prospect.rows).map(|(p, row)| p * row[index]).collect();
            let (then, then_probability) = leading(case, ahead, &branch);
            Foreseen {
                outcome: outcome.id.clone(),
                means: outcome.means.clone(),
                probability: branch.iter().sum(),
                then,
                then_probability,
            }
        })
        .collect();
    let opens: Vec<String> = test
        .opens
        .iter()
        .filter(|name| !case.prices.off.contains(*name))
        .filter_map(|name| case.book.access.get(name).map(|item| item.name.clone()))
        .collect();
    let why = if worth.saving > 0.0 {
        format!(
            "Saves {:.0} of what fitting by trial would cost, its own {:.0} paid.",
            worth.saving, prospect.cost.total
        )
    } else {
        format!(
            "Would save {:.0} of what fitting by trial costs, and costs {:.0} itself.",
            worth.gross.max(0.0),
            prospect.cost.total
        )
    };
    NextTest {
        test: test.id.clone(),
        target,
        name: test.name.clone(),
        kind: test.kind,
        minutes: prospect.cost.minutes,
        money: prospect.cost.money,
        expected_saving: worth.saving,
        bits: worth.bits,
        why,
        how: test.how.clone(),
        tools: test.tools.clone(),
        people: test.people,
        opens,
        cautions: test
            .cautions
            .iter()
            .filter_map(|name| {
                cautions.get(name).map(|caution| Caution {
                    name: name.clone(),
                    text: caution.text.clone(),
                    acknowledge: caution.acknowledge,
                })
            })
            .collect(),
        outcomes,
        together: test.together.clone(),
        quick_first: test.quick && does_not_start(case),
    }
}

/// The leading suspect where the hypotheses stand so.
fn leading(case: &Case<'_>, ahead: &Ahead<'_>, branch: &[f64]) -> (String, f64) {
    let mut present = vec![0.0; case.instances.len()];
    for (hypothesis, p) in ahead.hypotheses.iter().zip(branch) {
        for index in hypothesis.faults.iter().flatten() {
            present[*index as usize] += p;
        }
    }
    let total: f64 = branch.iter().sum();
    let best = (0..present.len()).max_by(|&a, &b| present[a].total_cmp(&present[b]).then(b.cmp(&a)));
    match best {
        Some(index) if total > 0.0 => {
            let instance = &case.instances[index];
            (named(&case.book.faults[instance.fault].name, &instance.target), present[index] / total)
        }
        _ => (String::new(), 0.0),
    }
}

fn repair(
    case: &Case<'_>,
    posterior: &Posterior,
    first: Option<u16>,
    now: f64,
    best: Option<Worth>,
    by_probability: f64,
) -> Act {
    let test_first_cost = best.map(|worth| now - worth.saving);
    let Some(index) = first else {
        return Act {
            act: ActKind::HandOver,
            what: String::new(),
            target: Target::Engine,
            name: "Think again, or hand it over".into(),
            why: format!(
                "No test and no repair is worth its cost: the likeliest suspect has {:.0} %. Doubt the readings, ask \
                 what went before, or hand the car to somebody who knows this one.",
                100.0 * by_probability
            ),
            fit_now_cost: now,
            test_first_cost,
            leaves_unexplained: Vec::new(),
        };
    };
    let suspicion = &posterior.suspicions[index as usize];
    let fault = &case.book.faults[suspicion.instance.fault];
    let leaves = case.unexplained(suspicion.instance.fault);
    let mut why = match best {
        Some(worth) => format!(
            "{:.0} % likely. The best test left would make it {:.0} dearer than fitting now.",
            100.0 * suspicion.present,
            (-worth.saving).max(0.0)
        ),
        None => format!("{:.0} % likely, and no test is left that would tell more.", 100.0 * suspicion.present),
    };
    if !leaves.is_empty() {
        why.push_str(&format!(" It does not explain: {}.", leaves.join(", ")));
    }
    Act {
        act: ActKind::Repair,
        what: fault.id.clone(),
        target: suspicion.instance.target.clone(),
        name: named(&fault.name, &suspicion.instance.target),
        why,
        fit_now_cost: now,
        test_first_cost,
        leaves_unexplained: leaves,
    }
}

fn schools(
    case: &Case<'_>,
    groups: &[Group],
    posterior: &Posterior,
    list: &[Considered],
    prospects: &[Prospect],
    quick_first: bool,
) -> Vec<SchoolExpects> {
    let ahead = ahead(case, groups, posterior, WALKED);
    let probabilities: Vec<f64> = ahead.hypotheses.iter().map(|h| h.probability).collect();
    // The best tests, and for each school the best of the kind that it cares for.
    let mut picked: Vec<usize> = list.iter().take(CHOSEN_FROM).map(|one| one.index).collect();
    for kind in [TestKind::Swap, TestKind::Measure, TestKind::Smoke] {
        let of_kind = list.iter().filter(|one| one.kind == kind && one.worth.bits > 0.01).take(3);
        picked.extend(of_kind.map(|one| one.index));
    }
    picked.sort_unstable();
    picked.dedup();
    let walked: Vec<Prospect> = picked
        .iter()
        .map(|&index| {
            let one = &prospects[index];
            // What is read in one go is paid in shares here as there.
            let paid = list.iter().find(|other| other.index == index).map_or(one.cost.total, |other| other.cost);
            let share = if one.cost.total > 0.0 { paid / one.cost.total } else { 1.0 };
            let cost = Cost::default().and(&one.cost, share);
            Prospect { rows: one.rows[..ahead.hypotheses.len()].to_vec(), cost, ..*one }
        })
        .collect();
    let mut work = Work::default();
    let now = ahead.trial(&probabilities, &mut work);
    let first_repair = first_repair(&ahead, posterior, &work);
    let useful = case.book.figures.useful.value;
    let kinds = |one: &Prospect| case.book.tests[one.test].kind;
    School::ALL
        .into_iter()
        .filter(|school| school.differs(walked.iter().map(kinds)))
        .map(|school| {
            let walk = Walk { ahead: &ahead, prospects: &walked, school, quick_first, useful };
            let cost = walk.expected(&probabilities, &mut Vec::new(), &mut work);
            let worths: Vec<Considered> = walked
                .iter()
                .enumerate()
                .map(|(index, one)| {
                    let test = &case.book.tests[one.test];
                    let worth = ahead.worth(one, &probabilities, now, &mut work);
                    Considered { index, kind: test.kind, quick: test.quick, cost: one.cost.total, worth }
                })
                .collect();
            let first = match (choose(school, &worths, quick_first, useful, first_repair.is_none()), first_repair) {
                (Some(index), _) => {
                    let one = &walked[index];
                    let target = places(case.book, one.test, case.engine)[one.place as usize].clone();
                    named(&case.book.tests[one.test].name, &target)
                }
                (None, Some(index)) => {
                    let instance = &case.instances[index as usize];
                    format!("Fit: {}", named(&case.book.faults[instance.fault].name, &instance.target))
                }
                (None, None) => "Hand it over".into(),
            };
            SchoolExpects { school, minutes: cost.minutes, money: cost.money, cost: cost.total, first }
        })
        .collect()
}
