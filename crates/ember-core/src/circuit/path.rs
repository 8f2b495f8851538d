//! A circuit's path from its feed to its ground, halved between the last good point and the first bad one.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Judged, volt};
use crate::bench::knowledge::{BenchKnowledge, PathFigures};
use crate::refusal::Refusal;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PointKind {
    Feed,
    Fuse,
    Relay,
    Joint,
    Part,
    Unit,
    Ground,
}

impl PointKind {
    /// How often such a piece is the one that fails.
    fn weight(self, figures: &PathFigures) -> f64 {
        match self {
            PointKind::Joint | PointKind::Ground => figures.joint,
            PointKind::Fuse => figures.fuse,
            PointKind::Relay => figures.relay,
            PointKind::Part => figures.part,
            PointKind::Unit => figures.unit,
            PointKind::Feed => figures.other,
        }
    }
}

/// A point of the path at which a meter can be held, behind the piece that it names.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PathPoint {
    pub name: String,
    pub kind: PointKind,
    /// The colours of the wire that leads on from here.
    #[serde(default)]
    pub wire: String,
    /// What was read here, against the battery's negative post, with the circuit switched on and its load connected.
    #[serde(default)]
    pub volt: Option<f64>,
    /// What should be read; left out: the battery before the load, nothing behind it.
    #[serde(default)]
    pub expected_v: Option<f64>,
    /// Where no voltage tells: seen to be good or bad (a lamp, a tap, continuity).
    #[serde(default)]
    pub seen: Option<Judged>,
    /// The wire was pierced to get here.
    #[serde(default)]
    pub pierced: bool,
}

/// Another circuit fed from one of the points.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SharedFeed {
    pub circuit: String,
    /// The last point that both have in common.
    pub point: String,
    /// Whether the other circuit works; null where nobody looked.
    #[serde(default)]
    pub works: Option<bool>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PathInput {
    /// From the feed to the ground.
    pub points: Vec<PathPoint>,
    #[serde(default)]
    pub shares: Vec<SharedFeed>,
    /// At the battery's posts meanwhile; 12.5 is taken where it was not measured.
    #[serde(default)]
    pub battery_v: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PointJudged {
    pub name: String,
    pub verdict: Option<Judged>,
    pub says: String,
    /// How likely the fault lies in this piece or in the wire that leads to it.
    pub likelihood: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PathResult {
    pub points: Vec<PointJudged>,
    /// The last good point and the first bad one.
    pub last_good: Option<String>,
    pub first_bad: Option<String>,
    /// What may still hold the fault.
    pub left: Vec<String>,
    /// The point whose reading halves what is left; null when nothing can be halved any more.
    pub next: Option<String>,
    /// Readings that are still needed at most.
    pub readings_left: u32,
    /// Losses that one fault here explains.
    pub explains: Vec<String>,
    pub verdict: Judged,
    pub says: String,
}

/// Says where along a path the fault lies.
///
/// A point is good when its voltage is what it should be: before the load no more than the allowed loss below the
/// battery, behind it no more than the allowed loss above nought. The first bad point behind the last good one bounds the
/// fault. Another circuit on a shared feed that works proves the path up to their last common point; one that is lost
/// with this one points to what they share.
///
/// # Errors
/// Fewer than two points, two of one name, a shared point that is not on the path, a voltage that cannot be.
pub fn path(input: &PathInput, knowledge: &BenchKnowledge) -> Result<PathResult, Refusal> {
    let points = &input.points;
    if points.len() < 2 {
        return Err(Refusal::new("points", "a path has two points at least"));
    }
    for (index, point) in points.iter().enumerate() {
        crate::vehicle::line("name", &point.name).map_err(|r| r.within(&format!("points[{index}]")))?;
        if points[..index].iter().any(|other| other.name == point.name) {
            return Err(Refusal::new(format!("points[{index}].name"), "stands twice on the path"));
        }
        for (field, value) in [("volt", point.volt), ("expected_v", point.expected_v)] {
            if let Some(value) = value {
                volt(&format!("points[{index}].{field}"), value)?;
            }
        }
    }
    let battery = volt("battery_v", input.battery_v.unwrap_or(12.5))?;
    let load = points.iter().position(|p| matches!(p.kind, PointKind::Part)).unwrap_or(points.len());
    let verdicts: Vec<(Option<Judged>, String)> =
        points.iter().enumerate().map(|(at, point)| judged(point, at >= load && at > 0, battery, knowledge)).collect();
    let mut good: Vec<bool> = verdicts.iter().map(|v| v.0 == Some(Judged::Good)).collect();
    let bad: Vec<bool> = verdicts.iter().map(|v| v.0 == Some(Judged::Bad)).collect();
    let mut lost = Vec::new();
    let mut shared_last = None;
    for (index, share) in input.shares.iter().enumerate() {
        let Some(at) = points.iter().position(|point| point.name == share.point) else {
            return Err(Refusal::new(format!("shares[{index}].point"), format!("{} is not on the path", share.point)));
        };
        match share.works {
            Some(true) => good[at] = good[at] || !bad[at],
            Some(false) => {
                lost.push((share.circuit.clone(), at));
                shared_last = Some(shared_last.map_or(at, |last: usize| last.min(at)));
            }
            None => {}
        }
    }
    let last_good = good.iter().rposition(|&g| g);
    let first_bad = bad.iter().enumerate().position(|(at, &b)| b && last_good.is_none_or(|good| at > good));
    let contradicted = bad.iter().enumerate().any(|(at, &b)| b && last_good.is_some_and(|good| at < good));
    // The piece at index i and the wire that leads to it: what lies between reading i-1 and reading i.
    let from = last_good.map_or(0, |at| at + 1);
    let to = first_bad.map_or(points.len(), |at| at + 1);
    let weights: Vec<f64> = points
        .iter()
        .enumerate()
        .map(|(at, point)| {
            if !(from..to).contains(&at) {
                return 0.0;
            }
            let wire = if at == 0 { 0.0 } else { knowledge.path.wire };
            let weight = point.kind.weight(&knowledge.path) + wire;
            // A loss that another circuit has too is likelier where they run together.
            if shared_last.is_some_and(|shared| at <= shared) { weight * 8.0 } else { weight }
        })
        .collect();
    let total: f64 = weights.iter().sum();
    let left: Vec<usize> = (from..to).collect();
    let next = (first_bad.is_some() || last_good.is_some() || verdicts.iter().all(|v| v.0.is_none()))
        .then(|| halving(&weights, from, to, first_bad.is_some()))
        .flatten();
    let nothing_bad = first_bad.is_none() && last_good == Some(points.len() - 1);
    let names = |list: &[usize]| list.iter().map(|&at| points[at].name.clone()).collect::<Vec<_>>();
    let explains: Vec<String> = match (left.as_slice(), first_bad) {
        ([only], Some(_)) => lost.iter().filter(|(_, at)| *only <= *at).map(|(name, _)| name.clone()).collect(),
        (list, _) => lost.iter().filter(|(_, at)| list.iter().any(|piece| piece <= at)).map(|(name, _)| name.clone()).collect(),
    };
    let found = left.len() == 1 && first_bad.is_some();
    let verdict = if contradicted {
        Judged::CannotTell
    } else if first_bad.is_some() {
        Judged::Bad
    } else if nothing_bad {
        Judged::Good
    } else {
        Judged::CannotTell
    };
    let before = |at: usize| if at == 0 { "the battery".to_owned() } else { points[at - 1].name.clone() };
    let mut says = if contradicted {
        "A point behind a bad one reads good: one of the two readings is wrong, or it is fed from elsewhere. Read both again.".to_owned()
    } else if found {
        let at = left[0];
        format!("The fault lies between {} and {}: the piece itself, or the wire to it.", before(at), points[at].name)
    } else if let Some(bad) = first_bad {
        format!("Lost between {} and {}; {} pieces are left.", before(from), points[bad].name, left.len())
    } else if nothing_bad {
        "The whole path is good while it was measured. A fault that comes with heat or movement needs both while you measure.".to_owned()
    } else if let Some(good) = last_good {
        format!("Good as far as {}. Nothing bad is found yet.", points[good].name)
    } else {
        "Nothing was measured yet.".to_owned()
    };
    if !explains.is_empty() && first_bad.is_some() {
        says.push_str(&format!(" It explains the loss of {} too.", explains.join(", ")));
    }
    let unexplained: Vec<&str> =
        lost.iter().filter(|(name, _)| !explains.contains(name)).map(|(name, _)| name.as_str()).collect();
    if !unexplained.is_empty() && first_bad.is_some() {
        says.push_str(&format!(" It does not explain {}: there is another fault.", unexplained.join(", ")));
    }
    Ok(PathResult {
        points: points
            .iter()
            .zip(verdicts)
            .zip(&weights)
            .map(|((point, (verdict, says)), weight)| PointJudged {
                name: point.name.clone(),
                verdict,
                says,
                likelihood: if total > 0.0 { weight / total } else { 0.0 },
            })
            .collect(),
        last_good: last_good.map(|at| points[at].name.clone()),
        first_bad: first_bad.map(|at| points[at].name.clone()),
        readings_left: if nothing_bad || left.len() <= 1 { 0 } else { (left.len() as f64).log2().ceil() as u32 },
        left: if nothing_bad { Vec::new() } else { names(&left) },
        next: if nothing_bad || contradicted { None } else { next.map(|at| points[at].name.clone()) },
        explains,
        verdict,
        says,
    })
}

/// The point behind which about half of the weight lies: its reading says in which half the fault is. The last piece of a
/// bounded stretch is known to be bad and need not be read again.
fn halving(weights: &[f64], from: usize, to: usize, bounded: bool) -> Option<usize> {
    let last = if bounded { to.checked_sub(1)? } else { to };
    let total: f64 = weights[from..to].iter().sum();
    let mut sum = 0.0;
    let mut best: Option<(f64, usize)> = None;
    for (at, weight) in weights.iter().enumerate().take(last).skip(from) {
        sum += weight;
        let off = (sum - total / 2.0).abs();
        if best.is_none_or(|(least, _)| off < least) {
            best = Some((off, at));
        }
    }
    best.map(|(_, at)| at)
}

fn judged(point: &PathPoint, behind_load: bool, battery: f64, knowledge: &BenchKnowledge) -> (Option<Judged>, String) {
    let figures = &knowledge.voltage;
    let ground = behind_load || point.kind == PointKind::Ground;
    match (point.volt, point.seen) {
        (Some(volt), _) => {
            let (low, high) = match point.expected_v {
                Some(expected) => (expected - figures.feed_loss_v, expected + figures.feed_loss_v),
                // Behind the load a part that is switched by its ground side may float: only a ground is near nought.
                None if ground => (-figures.ground_loss_v, figures.ground_loss_v),
                None => (battery - figures.feed_loss_v, f64::INFINITY),
            };
            let good = (low..=high).contains(&volt);
            let wanted = match (point.expected_v, ground) {
                (Some(expected), _) => format!("{expected:.2} V expected"),
                (None, true) => format!("at most {high:.2} V expected"),
                (None, false) => format!("at least {low:.2} V expected"),
            };
            (Some(if good { Judged::Good } else { Judged::Bad }), format!("{volt:.2} V, {wanted}"))
        }
        (None, Some(seen)) => (Some(seen), "seen".into()),
        (None, None) => (None, "not read".into()),
    }
}
