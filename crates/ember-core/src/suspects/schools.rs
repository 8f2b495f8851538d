//! The schools of the trade as policies: what each would do first on this very job, and what that may be expected to
//! take.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::ahead::{Ahead, Prospect, Work, Worth};
use super::book::TestKind;
use super::cost::Cost;

/// How somebody goes about it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum School {
    /// The test that saves most of the expected cost; the repair as soon as no test pays.
    #[default]
    LeastCost,
    /// Parts change places before anything is measured.
    SwapFirst,
    /// Everything is measured before a part changes places.
    MeasureFirst,
    /// The usual part is fitted, then the next.
    FitUsual,
    /// Smoke before any other test of air and boost.
    SmokeFirst,
    /// Smoke only when eyes and hands have found nothing.
    SmokeLast,
}

impl School {
    pub const ALL: [School; 6] = [
        School::LeastCost,
        School::SwapFirst,
        School::MeasureFirst,
        School::FitUsual,
        School::SmokeFirst,
        School::SmokeLast,
    ];

    /// Which of two kinds of test a school makes first: the lower one.
    fn turn(self, kind: TestKind) -> u8 {
        match (self, kind) {
            (School::SwapFirst, TestKind::Swap) | (School::SmokeFirst, TestKind::Smoke) => 0,
            (School::MeasureFirst, TestKind::Swap) | (School::SmokeLast, TestKind::Smoke) => 2,
            (School::MeasureFirst, TestKind::Measure) => 0,
            _ => 1,
        }
    }

    /// Whether a kind of test that this school would put elsewhere is among those that could be made.
    pub fn differs(self, kinds: impl Iterator<Item = TestKind>) -> bool {
        let wanted = match self {
            School::LeastCost | School::FitUsual => return true,
            School::SwapFirst => TestKind::Swap,
            School::MeasureFirst => TestKind::Measure,
            School::SmokeFirst | School::SmokeLast => TestKind::Smoke,
        };
        kinds.into_iter().any(|kind| kind == wanted)
    }
}

/// A test that could be made, with what it is worth.
#[derive(Debug, Clone, Copy)]
pub struct Considered {
    pub index: usize,
    pub kind: TestKind,
    pub quick: bool,
    pub cost: f64,
    pub worth: Worth,
}

/// The policy of a school: which of the tests it makes next, or none to repair.
///
/// Quick tests come before all others where the car does not start. `useful` is the least that a test must tell, in
/// bits. A single test may not pay where a few of them together do: before the car is handed over (`giving_up`) the one
/// that tells most for its cost is made all the same.
pub fn choose(school: School, tests: &[Considered], quick_first: bool, useful: f64, giving_up: bool) -> Option<usize> {
    if school == School::FitUsual {
        return None;
    }
    let worth_making = tests.iter().filter(|one| {
        // A school makes its own test although another would pay better, as long as that tells anything.
        one.worth.bits >= useful && (one.worth.saving > 0.0 || (school.turn(one.kind) == 0 && one.worth.gross > 0.0))
    });
    let quick = |one: &Considered| u8::from(!(quick_first && one.quick));
    let best = worth_making.min_by(|a, b| {
        quick(a)
            .cmp(&quick(b))
            .then(school.turn(a.kind).cmp(&school.turn(b.kind)))
            .then(b.worth.saving.total_cmp(&a.worth.saving))
    });
    let for_its_cost = |one: &Considered| one.worth.bits / (one.cost + 1.0);
    best.or_else(|| {
        tests
            .iter()
            .filter(|one| giving_up && one.worth.bits >= useful)
            .max_by(|a, b| for_its_cost(a).total_cmp(&for_its_cost(b)))
    })
    .map(|one| one.index)
}

/// What is left of a job from one point on.
pub struct Walk<'a, 'b> {
    pub ahead: &'a Ahead<'b>,
    pub prospects: &'a [Prospect],
    pub school: School,
    pub quick_first: bool,
    pub useful: f64,
}

/// Branches less likely than this are ended by trying repairs: they move the mean by little.
const RARE: f64 = 0.04;
/// After so many tests somebody starts to fit parts.
const DEEPEST: usize = 6;

impl Walk<'_, '_> {
    /// The minutes and money that this school may be expected to need from here, over all answers of its tests.
    pub fn expected(&self, probabilities: &[f64], made: &mut Vec<usize>, work: &mut Work) -> Cost {
        let total: f64 = probabilities.iter().sum();
        let now = self.ahead.trial(probabilities, work);
        if total < RARE || made.len() >= DEEPEST {
            return self.ahead.spent_on_trial(probabilities, work);
        }
        let giving_up = work.stop == 0;
        let list: Vec<Considered> = if self.school == School::FitUsual {
            Vec::new()
        } else {
            (0..self.prospects.len())
                .filter(|&index| !self.spoken_for(index, made))
                .map(|index| {
                    let prospect = &self.prospects[index];
                    let test = &self.ahead.book.tests[prospect.test];
                    let worth = self.ahead.worth(prospect, probabilities, now, work);
                    // Per car that gets here, whatever the chance of getting here.
                    let worth = Worth { saving: worth.saving / total, gross: worth.gross / total, ..worth };
                    Considered { index, kind: test.kind, quick: test.quick, cost: prospect.cost.total, worth }
                })
                .collect()
        };
        let Some(index) = choose(self.school, &list, self.quick_first, self.useful, giving_up) else {
            self.ahead.trial(probabilities, work);
            return self.ahead.spent_on_trial(probabilities, work);
        };
        let prospect = &self.prospects[index];
        let mut expected = Cost::default().and(&prospect.cost, total);
        made.push(index);
        for outcome in 0..prospect.outcomes {
            let branch: Vec<f64> = probabilities.iter().zip(&prospect.rows).map(|(p, row)| p * row[outcome]).collect();
            if branch.iter().sum::<f64>() > 1e-9 {
                expected = expected.and(&self.expected(&branch, made, work), 1.0);
            }
        }
        made.pop();
        expected
    }

    /// A test that reads a sign at a place where one of those made has read it: as good as made.
    fn spoken_for(&self, index: usize, made: &[usize]) -> bool {
        let sign = |i: usize| (self.ahead.book.tests[self.prospects[i].test].sign, self.prospects[i].place);
        made.iter().any(|&other| sign(other) == sign(index))
    }
}
