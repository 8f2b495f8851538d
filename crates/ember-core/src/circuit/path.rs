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
    /// What should be read here; open at an end where only one is known, and at both where nothing was read.
    pub low_v: Option<f64>,
    pub high_v: Option<f64>,
    pub says: String,
    /// How likely the fault lies in this piece or in the wire that leads to it.
    pub likelihood: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PathResult {
    pub points: Vec<PointJudged>,
    /// The fault lies behind the first of these points, and not behind the second. Null where no reading bounds it.
    pub behind: Option<String>,
    pub up_to: Option<String>,
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

/// What a reading at a point says of the pieces of the path.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Tells {
    /// Everything up to here does its work.
    SoundUpTo,
    /// The fault lies here or before.
    LostUpTo,
    /// The way from here to the ground is open or has resistance: the fault lies behind.
    LostBehind,
    /// The way from here to the ground does its work.
    SoundBehind,
}

/// Says where along a path the fault lies.
///
/// Before the load, a voltage no more than the allowed loss below the battery's proves the path up to there, and a lower
/// one puts the fault there or before. Behind the load it is the other way round: what stands above nought by more than
/// the allowed loss has no good way to the ground, so the fault lies behind it, and next to nought proves the way to the
/// ground. What was seen, and a voltage with an expected value of its own, is taken as before the load. The pieces that no
/// reading excludes are left; the next point is the one behind which half of their weight lies. Another circuit on a
/// shared feed that works proves the path up to their last common point; one that is lost too points to what they share.
///
/// # Errors
/// Fewer than two points, two of one name, a shared point that is not on the path, a voltage that cannot be.
pub fn path(input: &PathInput, knowledge: &BenchKnowledge) -> Result<PathResult, Refusal> {
    let points = &input.points;
    check(input)?;
    let battery = volt("battery_v", input.battery_v.unwrap_or(12.5))?;
    let load = points.iter().position(|p| p.kind == PointKind::Part).unwrap_or(points.len());
    let read: Vec<AtPoint> =
        points.iter().enumerate().map(|(at, point)| judged(point, at >= load && at > 0, battery, knowledge)).collect();
    // The piece at index i and the wire that leads to it lie between point i - 1 and point i. `from..to` may hold the fault.
    let (mut from, mut to, mut lost_here) = (0, points.len(), false);
    let mut to_known = false;
    for (at, one) in read.iter().enumerate() {
        match one.tells {
            Some(Tells::SoundUpTo) => from = from.max(at + 1),
            Some(Tells::LostUpTo) => (to, to_known, lost_here) = (to.min(at + 1), true, true),
            Some(Tells::LostBehind) => (from, lost_here) = (from.max(at + 1), true),
            Some(Tells::SoundBehind) => (to, to_known) = (to.min(at + 1), true),
            None => {}
        }
    }
    let mut lost = Vec::new();
    for share in &input.shares {
        let at = points.iter().position(|point| point.name == share.point).unwrap_or(0);
        match share.works {
            Some(true) => from = from.max(at + 1),
            Some(false) => lost.push((share.circuit.clone(), at)),
            None => {}
        }
    }
    let contradicted = from > to || (lost_here && from == to);
    let shared_last = lost.iter().map(|(_, at)| *at).min();
    let left: Vec<usize> = if contradicted { Vec::new() } else { (from..to).collect() };
    let figures = &knowledge.path;
    let weights: Vec<f64> = points
        .iter()
        .enumerate()
        .map(|(at, point)| {
            if !left.contains(&at) {
                return 0.0;
            }
            let weight = point.kind.weight(figures) + if at == 0 { 0.0 } else { figures.wire };
            // A loss that another circuit has too is likelier where they run together.
            if shared_last.is_some_and(|shared| at <= shared) { weight * figures.shared } else { weight }
        })
        .collect();
    let total: f64 = weights.iter().sum();
    // A part with its full voltage is no fault of the path.
    let sound = !contradicted && !lost_here && left.iter().all(|&at| points[at].kind == PointKind::Part);
    let found = lost_here && left.len() == 1;
    let next = if sound || contradicted || found { None } else { halving(&weights, &left, &read) };
    let names = |list: &[usize]| list.iter().map(|&at| points[at].name.clone()).collect::<Vec<_>>();
    let explained = |at: usize| left.iter().any(|&piece| piece <= at);
    let of = |explained_ones: bool| -> Vec<String> {
        lost.iter().filter(|(_, at)| explained(*at) == explained_ones).map(|(name, _)| name.clone()).collect()
    };
    let (explains, unexplained) = (of(true), of(false));
    let verdict = match (contradicted, lost_here) {
        (true, _) => Judged::CannotTell,
        (false, true) => Judged::Bad,
        (false, false) if sound => Judged::Good,
        _ => Judged::CannotTell,
    };
    let before = |at: usize| if at == 0 { "the battery".to_owned() } else { points[at - 1].name.clone() };
    let end = if to_known { points[to - 1].name.clone() } else { "the ground".to_owned() };
    let mut says = if contradicted {
        "Two readings contradict each other: one of them is wrong, or the circuit is fed from elsewhere. Read both again.".to_owned()
    } else if found {
        format!("The fault lies between {} and {end}: the piece itself, or the wire to it.", before(from))
    } else if lost_here {
        format!("Lost between {} and {end}; {} pieces are left.", before(from), left.len())
    } else if sound {
        match left.as_slice() {
            [] => "The whole path is good while it was measured. A fault that comes with heat or movement needs both while you measure.".to_owned(),
            [part, ..] => format!("Feed and ground are good while they were measured: the {} has its voltage, and is itself what is left.", points[*part].name),
        }
    } else if from > 0 {
        format!("Good as far as {}. Nothing bad is found yet.", points[from - 1].name)
    } else if to_known {
        format!("Good from {end} to the ground. Nothing bad is found yet.")
    } else {
        "Nothing was measured yet.".to_owned()
    };
    if lost_here && !explains.is_empty() {
        says.push_str(&format!(" It explains the loss of {} too.", explains.join(", ")));
    }
    if lost_here && !contradicted && !unexplained.is_empty() {
        says.push_str(&format!(" It does not explain {}: there is another fault.", unexplained.join(", ")));
    }
    Ok(PathResult {
        points: points
            .iter()
            .zip(read)
            .zip(&weights)
            .map(|((point, at), weight)| PointJudged {
                name: point.name.clone(),
                verdict: at.verdict,
                low_v: at.low_v,
                high_v: at.high_v,
                says: at.says,
                likelihood: if total > 0.0 { weight / total } else { 0.0 },
            })
            .collect(),
        behind: (from > 0 && !contradicted).then(|| points[from - 1].name.clone()),
        up_to: (to_known && !contradicted).then(|| points[to - 1].name.clone()),
        readings_left: if sound || left.len() <= 1 { 0 } else { (left.len() as f64).log2().ceil() as u32 },
        left: if sound { Vec::new() } else { names(&left) },
        next: next.map(|at| points[at].name.clone()),
        explains,
        verdict,
        says,
    })
}

fn check(input: &PathInput) -> Result<(), Refusal> {
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
    for (index, share) in input.shares.iter().enumerate() {
        if !points.iter().any(|point| point.name == share.point) {
            return Err(Refusal::new(format!("shares[{index}].point"), format!("{} is not on the path", share.point)));
        }
    }
    Ok(())
}

/// The unread point behind which about half of the weight lies: its reading says in which half the fault is.
fn halving(weights: &[f64], left: &[usize], read: &[AtPoint]) -> Option<usize> {
    let total: f64 = left.iter().map(|&at| weights[at]).sum();
    let mut sum = 0.0;
    let mut best: Option<(f64, usize)> = None;
    for &at in left {
        sum += weights[at];
        let off = (sum - total / 2.0).abs();
        if read[at].tells.is_none() && best.is_none_or(|(least, _)| off < least) {
            best = Some((off, at));
        }
    }
    best.map(|(_, at)| at)
}

/// What was made of one point.
struct AtPoint {
    verdict: Option<Judged>,
    tells: Option<Tells>,
    low_v: Option<f64>,
    high_v: Option<f64>,
    says: String,
}

fn judged(point: &PathPoint, behind_load: bool, battery: f64, knowledge: &BenchKnowledge) -> AtPoint {
    let figures = &knowledge.voltage;
    let ground = behind_load || point.kind == PointKind::Ground;
    let up_to = |good: bool| Some(if good { Tells::SoundUpTo } else { Tells::LostUpTo });
    match (point.volt, point.seen) {
        (Some(volt), _) => {
            let (low_v, high_v) = match point.expected_v {
                Some(expected) => (Some(expected - figures.feed_loss_v), Some(expected + figures.feed_loss_v)),
                None if ground => (Some(-figures.ground_loss_v), Some(figures.ground_loss_v)),
                None => (Some(battery - figures.feed_loss_v), None),
            };
            let good = low_v.is_none_or(|low| volt >= low) && high_v.is_none_or(|high| volt <= high);
            let (wanted, tells) = match (point.expected_v, ground) {
                (Some(expected), _) => (format!("{expected:.2} V expected"), up_to(good)),
                (None, true) => (
                    format!("at most {:.2} V expected", figures.ground_loss_v),
                    Some(if good { Tells::SoundBehind } else { Tells::LostBehind }),
                ),
                (None, false) => (format!("at least {:.2} V expected", battery - figures.feed_loss_v), up_to(good)),
            };
            let verdict = Some(if good { Judged::Good } else { Judged::Bad });
            AtPoint { verdict, tells, low_v, high_v, says: format!("{volt:.2} V, {wanted}") }
        }
        (None, seen) => AtPoint {
            verdict: seen,
            tells: match seen {
                Some(Judged::Good) => up_to(true),
                Some(Judged::Bad) => up_to(false),
                _ => None,
            },
            low_v: None,
            high_v: None,
            says: if seen.is_some() { "seen" } else { "not read" }.into(),
        },
    }
}
