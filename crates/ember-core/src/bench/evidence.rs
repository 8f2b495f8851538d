//! What a measurement says of the suspects: an outcome of the book's test, as sure as the reading is and no surer.

use super::knowledge::BenchKnowledge;
use crate::suspects::FindingInput;
use crate::suspects::target::Target;

/// A finding that is right with probability `right`. No reading is surer than the slips that people make: a wrong pin,
/// touching clips, a part still connected to its loom.
pub(super) fn finding(
    bench: &BenchKnowledge,
    answer: &(String, String, String),
    target: Target,
    right: f64,
    says: String,
) -> FindingInput {
    let (test, good, bad) = answer;
    let right = right.clamp(bench.weight.slip, 1.0 - bench.weight.slip);
    FindingInput::soft(test, target, says, &[(good.as_str(), right), (bad.as_str(), 1.0 - right)])
}

/// As [`finding`], where the wrong outcome is another one than the usual.
pub(super) fn finding_as(
    bench: &BenchKnowledge,
    answer: &(String, String, String),
    bad: &str,
    target: Target,
    right: f64,
    says: String,
) -> FindingInput {
    let answer = (answer.0.clone(), answer.1.clone(), if bad.is_empty() { answer.2.clone() } else { bad.to_owned() });
    finding(bench, &answer, target, right, says)
}
