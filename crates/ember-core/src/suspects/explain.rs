//! Why: what each finding did to each suspect, in decibans, and which findings do not agree.

use serde::Serialize;
use utoipa::ToSchema;

use super::book::{Book, SignKind};
use super::evidence::{Group, groups, touches};
use super::findings::{Evidence, Known, direct, observations};
use super::posterior::{Posterior, Suspicion};
use crate::engine::Engine;

/// What one finding says of one suspect.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Speaks {
    /// The findings' places in the list that was handed in; those of the complaint have none.
    pub findings: Vec<usize>,
    pub test: String,
    pub says: String,
    /// Ten times the decimal logarithm of how much the odds of the suspect change by it, given all other findings. 10
    /// decibans make it ten times as likely, 3 double it, and below nought it speaks against it.
    pub decibans: f64,
    pub words: String,
}

/// Findings that do not go together.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Contradiction {
    pub findings: Vec<usize>,
    pub says: String,
    /// How likely this was to be found, after everything else that was.
    pub probability: f64,
}

/// For each finding (repetitions of a test at a place in one), the change that it makes to each hypothesis.
pub struct LeaveOneOut {
    pub test: usize,
    pub members: Vec<usize>,
    pub says: String,
    /// Logarithm of the likelihood of the finding under each hypothesis of the posterior, up to one summand for all.
    log: Vec<f64>,
    /// How likely it was after all the others; none where the finding was not sure.
    pub foreseen: Option<f64>,
}

/// What all findings of one sign say, under one hypothesis, against a sound car.
fn log_of(book: &Book, engine: &Engine, group: &[Group], suspicions: &[Suspicion], faults: &[Option<u16>; 2]) -> f64 {
    let [Some(group_of_sign)] = group.iter().map(Some).collect::<Vec<_>>()[..] else { return 0.0 };
    let touched: Vec<_> = faults
        .iter()
        .flatten()
        .filter_map(|&index| {
            let suspicion = &suspicions[index as usize];
            touches(book, engine, group, &suspicion.instance).first().copied().map(|touch| (suspicion, touch))
        })
        .collect();
    match touched.as_slice() {
        [] => 0.0,
        [(_, touch)] => touch.ratio.ln(),
        [(a, one), (b, other), ..] => super::evidence::both(book, group_of_sign, (a, one), (b, other)).ln(),
    }
}

/// What each finding does, by leaving it out.
pub fn leave_one_out(book: &Book, engine: &Engine, known: &[Known], posterior: &Posterior) -> Vec<LeaveOneOut> {
    let mut list: Vec<LeaveOneOut> = Vec::new();
    let mut done = vec![false; known.len()];
    for first in 0..known.len() {
        if done[first] {
            continue;
        }
        let same = |other: &Known| other.test == known[first].test && other.target == known[first].target;
        let members: Vec<usize> = match &known[first].evidence {
            Evidence::Sign(_) => (first..known.len())
                .filter(|&i| same(&known[i]) && matches!(known[i].evidence, Evidence::Sign(_)))
                .collect(),
            Evidence::Faults(_) => vec![first],
        };
        for &index in &members {
            done[index] = true;
        }
        let (log, foreseen) = match &known[first].evidence {
            Evidence::Faults(_) => {
                let one = direct(std::slice::from_ref(&known[first]), posterior.suspicions.len());
                (of_faults(&one, posterior), None)
            }
            Evidence::Sign(_) => of_sign(book, engine, known, &members, posterior),
        };
        let mut words: Vec<&str> = members.iter().map(|&i| known[i].says.as_str()).collect();
        words.dedup();
        list.push(LeaveOneOut { test: known[first].test, says: words.join("; "), members, log, foreseen });
    }
    list
}

fn of_faults(direct: &[f64], posterior: &Posterior) -> Vec<f64> {
    posterior.hypotheses.iter().map(|h| h.faults.iter().flatten().map(|&index| direct[index as usize]).sum()).collect()
}

fn of_sign(
    book: &Book,
    engine: &Engine,
    known: &[Known],
    members: &[usize],
    posterior: &Posterior,
) -> (Vec<f64>, Option<f64>) {
    let sign = book.tests[known[members[0]].test].sign;
    let of_sign: Vec<Known> = known.iter().filter(|one| book.tests[one.test].sign == sign).cloned().collect::<Vec<_>>();
    let without: Vec<Known> = known
        .iter()
        .enumerate()
        .filter(|(index, one)| book.tests[one.test].sign == sign && !members.contains(index))
        .map(|(_, one)| one.clone())
        .collect();
    let with = groups(book, &observations(&of_sign));
    let less = groups(book, &observations(&without));
    let mut log: Vec<f64> = posterior
        .hypotheses
        .iter()
        .map(|h| {
            log_of(book, engine, &with, &posterior.suspicions, &h.faults)
                - log_of(book, engine, &less, &posterior.suspicions, &h.faults)
        })
        .collect();
    // Something that is not in the book shows what cars show on the whole.
    let weighed: f64 = posterior.hypotheses.iter().zip(&log).map(|(h, l)| h.probability * l.exp()).sum();
    let all: f64 = posterior.hypotheses.iter().map(|h| h.probability).sum();
    for (hypothesis, value) in posterior.hypotheses.iter().zip(log.iter_mut()) {
        if hypothesis.faults[0].is_none() {
            *value = (weighed / all).ln();
        }
    }
    let sure = members.iter().all(|&i| known[i].outcome.is_some());
    let foreseen = (sure && members.len() == 1).then(|| {
        let (sound_with, sound_less) = (scaled_sound(&with), scaled_sound(&less));
        let mut before = (0.0, 0.0);
        for (hypothesis, value) in posterior.hypotheses.iter().zip(&log) {
            let weight = hypothesis.probability * (-value).exp();
            before.0 += weight;
            before.1 += hypothesis.probability;
        }
        (before.1 / before.0 * (sound_with - sound_less).exp()).min(1.0)
    });
    (log, foreseen)
}

/// Logarithm of how likely what was found of a sign is on a sound car, with the scale that only ratios lose.
fn scaled_sound(group: &[Group]) -> f64 {
    group.first().map_or(0.0, |group| group.sound(u16::MAX).ln() + group.scale)
}

/// What each finding did to one suspect, the strongest first; what did next to nothing is left out.
pub fn speaks(
    book: &Book,
    posterior: &Posterior,
    left_out: &[LeaveOneOut],
    suspicion: usize,
    complaint: usize,
) -> Vec<Speaks> {
    let mut list: Vec<Speaks> = left_out
        .iter()
        .filter_map(|one| {
            let (mut with, mut against) = ((0.0, 0.0), (0.0, 0.0));
            for (hypothesis, log) in posterior.hypotheses.iter().zip(&one.log) {
                let side = if hypothesis.faults.contains(&Some(suspicion as u16)) { &mut with } else { &mut against };
                side.0 += hypothesis.probability;
                side.1 += hypothesis.probability * (-log).exp();
            }
            let decibans = 10.0 * ((with.0 / against.0) / (with.1 / against.1)).log10();
            (decibans.abs() >= 0.5).then(|| Speaks {
                findings: one.members.iter().filter_map(|i| i.checked_sub(complaint)).collect(),
                test: book.tests[one.test].id.clone(),
                says: one.says.clone(),
                decibans,
                words: in_words(decibans).into(),
            })
        })
        .collect();
    list.sort_by(|a, b| b.decibans.abs().total_cmp(&a.decibans.abs()).then(a.test.cmp(&b.test)));
    list
}

fn in_words(decibans: f64) -> &'static str {
    match decibans {
        d if d >= 13.0 => "speaks very strongly for it",
        d if d >= 7.0 => "speaks strongly for it",
        d if d >= 3.0 => "speaks for it",
        d if d > 0.0 => "speaks a little for it",
        d if d > -3.0 => "speaks a little against it",
        d if d > -7.0 => "speaks against it",
        d if d > -13.0 => "speaks strongly against it",
        _ => "all but rules it out",
    }
}

/// Findings that were hardly to be expected after all the others: one of them is mistaken, or there are two faults.
pub fn contradictions(book: &Book, left_out: &[LeaveOneOut], complaint: usize) -> Vec<Contradiction> {
    let hardly = book.figures.unexplained.value;
    let mut list: Vec<Contradiction> = left_out
        .iter()
        .filter(|one| book.signs[book.tests[one.test].sign].kind == SignKind::Found)
        .filter_map(|one| {
            let probability = one.foreseen.filter(|&p| p < hardly)?;
            Some(Contradiction {
                findings: one.members.iter().filter_map(|i| i.checked_sub(complaint)).collect(),
                says: format!(
                    "{} does not go with the rest: it was to be expected in {} of 100 such cars. Make it again, or look for a second fault",
                    one.says,
                    if probability < 0.01 { "fewer than one".to_owned() } else { format!("{:.0}", 100.0 * probability) }
                ),
                probability,
            })
        })
        .collect();
    list.sort_by(|a, b| a.probability.total_cmp(&b.probability));
    list
}
