//! Timing marks under a straight edge.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::knowledge::BenchKnowledge;
use crate::circuit::Judged;
use crate::refusal::Refusal;

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MarkReading {
    /// `intake cam, bank 1`.
    pub name: String,
    /// Teeth that the mark stands late (positive) or early (negative), with the crank on its mark.
    pub off_teeth: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MarksInput {
    pub marks: Vec<MarkReading>,
    /// Teeth of a cam's wheel.
    pub cam_teeth: u16,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MarkJudged {
    pub name: String,
    pub off_teeth: f64,
    pub crank_deg: f64,
    pub verdict: Judged,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MarksResult {
    pub marks: Vec<MarkJudged>,
    pub verdict: Judged,
    pub says: String,
}

/// Judges timing marks. A tooth of a cam's wheel is 720 crank degrees over its teeth.
///
/// # Errors
/// No mark, a wheel with too few teeth, a mark more than half a turn away.
pub fn marks(input: &MarksInput, knowledge: &BenchKnowledge) -> Result<MarksResult, Refusal> {
    if input.marks.is_empty() {
        return Err(Refusal::new("marks", "is empty"));
    }
    if !(10..=200).contains(&input.cam_teeth) {
        return Err(Refusal::new("cam_teeth", "must lie between 10 and 200"));
    }
    let mut list = Vec::new();
    for (index, mark) in input.marks.iter().enumerate() {
        crate::vehicle::line("name", &mark.name).map_err(|r| r.within(&format!("marks[{index}]")))?;
        if !mark.off_teeth.is_finite() || mark.off_teeth.abs() > f64::from(input.cam_teeth) / 2.0 {
            return Err(Refusal::new(format!("marks[{index}].off_teeth"), "must lie within half a turn"));
        }
        let verdict = match mark.off_teeth.abs() {
            x if x <= knowledge.marks.fair_teeth => Judged::Good,
            x if x < 1.0 - knowledge.marks.fair_teeth => Judged::CannotTell,
            _ => Judged::Bad,
        };
        let crank_deg = mark.off_teeth * 720.0 / f64::from(input.cam_teeth);
        list.push(MarkJudged { name: mark.name.clone(), off_teeth: mark.off_teeth, crank_deg, verdict });
    }
    let off: Vec<String> = list
        .iter()
        .filter(|one| one.verdict == Judged::Bad)
        .map(|one| {
            let way = if one.crank_deg > 0.0 { "late" } else { "early" };
            format!(
                "{} stands {:.1} teeth {way}, {:.0} crank degrees",
                one.name,
                one.off_teeth.abs(),
                one.crank_deg.abs()
            )
        })
        .collect();
    let all_alike = list.len() > 1 && off.len() == list.len();
    let (verdict, says) = if !off.is_empty() {
        let hint = if all_alike { " All are off alike: is the crank on its mark?" } else { "" };
        (Judged::Bad, format!("{}.{hint}", off.join("; ")))
    } else if list.iter().any(|one| one.verdict == Judged::CannotTell) {
        (
            Judged::CannotTell,
            "Between play and a tooth: turn it twice by hand in the running direction and look again.".into(),
        )
    } else {
        (Judged::Good, "All marks stand true.".into())
    };
    Ok(MarksResult { marks: list, verdict, says })
}
