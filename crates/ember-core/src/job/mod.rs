//! The state of a job, computed from its trail: nothing here is stored.

mod embers;
mod measured;
mod needs;
mod phases;
mod proofs;
mod repair;
mod road;
mod spent;
mod suspicions;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::bench::{MeasuredShown, PutRight};
use crate::bench_out::{BenchOut, bench_out};
use crate::engine::Engine;
use crate::knowledge::Knowledge;
use crate::misfire::{self, CylinderRate, MisfireResult};
use crate::next_move::{Caution, NextMove, next_move};
use crate::recording::RecordingResult;
use crate::refusal::Refusal;
use crate::suspects::Depth;
use crate::suspects::memory::WorkshopOwn;
use crate::swap::plan::{PartsAtOnce, SwapPlanInput, SwapPlanResult, swap_plan};
use crate::swap::{Move, SwapInput, SwapResult, Verdict, swap};
use crate::trail::{Entry, Finding, carried_on, effective};
use crate::units::{UnitsOverview, units_overview};
use crate::vehicle::Vehicle;
use crate::whereabouts::{TaggedPart, Whereabouts};

pub use embers::Ember;
pub use measured::judged_on;
pub(crate) use measured::put_right_of;
pub use needs::NeedShown;
pub use proofs::{ProvokedShown, ReadingPair, Soaking};
pub use repair::{FittedShown, ProofShown, Repair};
pub use road::{MarkKind, Road, Station};
pub use spent::Spent;
pub use suspicions::{Limits, SuspectsShown};

use phases::{Opening, Phase, phases};

/// What the job waits for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum WaitingFor {
    Reading,
    Decision,
    Work,
    Drive,
    Part,
    CleanDistance,
    /// Left until it is cold.
    Cold,
    Nothing,
}

/// One cylinder where it stands, with what is known of it and what sits in it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct CylinderState {
    pub cylinder: u8,
    pub bank: usize,
    pub row: usize,
    /// Its rate in the counts shown, if there are any.
    pub rate: Option<CylinderRate>,
    /// How likely it is to be at fault, 0 to 1; null without counts.
    pub likelihood: Option<f64>,
    pub parts: Vec<TaggedPart>,
}

/// The counts that the block shows, and what they say.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct MisfireShown {
    /// The entries they come from.
    pub entries: Vec<u32>,
    /// `before any move`, `after the swap`, `after the repair`: which phase they belong to.
    pub when: String,
    /// Whether a change was made since: then they are the counts before it.
    pub outdated: bool,
    pub revolutions: f64,
    pub result: MisfireResult,
}

/// A recording on the trail.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct RecordingShown {
    pub entry: u32,
    pub recording: i64,
    pub name: String,
    pub span_s: f64,
    pub odometer_km: f64,
    /// `before any move`, `after the swap`, ...
    pub when: String,
    pub results: Vec<RecordingResult>,
}

/// A swap with its verdict so far.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct SwapShown {
    /// The entry in which the parts were moved.
    pub entry: u32,
    pub moves: Vec<Move>,
    /// Null until something was read after the move.
    pub result: Option<SwapResult>,
    /// Why no verdict can be formed, if that is so.
    pub refused: Option<Refusal>,
    pub cleared: bool,
    /// The least revolutions after which a verdict can be expected, at the rate before.
    pub least_revolutions: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct JobState {
    pub odometer_km: f64,
    pub waiting_for: WaitingFor,
    pub engine: Engine,
    /// The numbers of the entries that count, corrections in place of what they correct.
    pub standing: Vec<u32>,
    pub cylinders: Vec<CylinderState>,
    /// Kinds of part that can change places on this vehicle.
    pub swappable: Vec<String>,
    /// Parts that are not where they were found.
    pub strayed: Vec<TaggedPart>,
    pub misfire: Option<MisfireShown>,
    /// The swap that would say most now, with several parts at once and with one.
    pub plan: Option<SwapPlanResult>,
    pub plan_one: Option<SwapPlanResult>,
    pub swaps: Vec<SwapShown>,
    /// The recordings of the job, each with the phase of the work in which it was made.
    pub recordings: Vec<RecordingShown>,
    /// What was measured, as it is judged now.
    pub measured: Vec<MeasuredShown>,
    /// What must be put right before the car leaves.
    pub put_right: Vec<PutRight>,
    /// What is off the car and must go back before the engine is started.
    pub bench_out: BenchOut,
    /// Left to go cold, if that is the last that was done.
    pub soaking: Option<Soaking>,
    /// How far the odometer's reading lies below the way really gone, where one was replaced. Distances of the road, the
    /// repair and the proof are carried on over it.
    pub carried_km: f64,
    /// The units of the last scan; null without one.
    pub units: Option<UnitsOverview>,
    /// The swap whose verdict, or whose drive still to come, is what the job turns on now.
    pub swap_in_force: Option<SwapShown>,
    pub embers: Vec<Ember>,
    /// What it may be, after everything on the trail; null where it was not asked for.
    pub suspects: Option<SuspectsShown>,
    pub needs: Vec<NeedShown>,
    pub road: Road,
    pub repair: Option<Repair>,
    pub proof: Option<ProofShown>,
    /// Every part fitted, and what became of it.
    pub fitted: Vec<FittedShown>,
    /// Parts and minutes so far.
    pub spent: Spent,
    pub closed: bool,
    pub next: NextMove,
    /// What to beware of, by the kind of entry about to be made, also when it is not the next move.
    pub cautions: BTreeMap<String, Vec<Caution>>,
}

/// What one entry did to what is thought of the job.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Effect {
    pub entry: u32,
    /// What the job is surest of after it.
    pub sure_of: String,
    pub sure: f64,
    /// How sure it was of the same before, if it was about the same.
    pub before: Option<f64>,
}

/// Goes along the trail and notes what each entry changed. Entries that changed nothing are left out.
///
/// # Errors
/// As [`job_state`].
pub fn effects(vehicle: &Vehicle, entries: &[Entry], knowledge: &Knowledge) -> Result<Vec<Effect>, Refusal> {
    effects_since(vehicle, entries, knowledge, &WorkshopOwn::default(), 0, Vec::new())
}

/// As [`effects`], where those of the first entries are known already.
///
/// # Errors
/// As [`job_state`].
pub fn effects_since(
    vehicle: &Vehicle,
    entries: &[Entry],
    knowledge: &Knowledge,
    own: &WorkshopOwn,
    known: usize,
    mut list: Vec<Effect>,
) -> Result<Vec<Effect>, Refusal> {
    for upto in known + 1..=entries.len() {
        let state = job_state_of(vehicle, &entries[..upto], knowledge, own, Some(Depth::Suspects))?;
        let Some((sure, sure_of)) = surest(&state) else { continue };
        let last = list.last();
        let before = last.filter(|last| last.sure_of == sure_of).map(|last| last.sure);
        if last.is_none_or(|last| last.sure_of != sure_of || (last.sure - sure).abs() > 5e-3) {
            list.push(Effect { entry: entries[upto - 1].number, sure_of, sure, before });
        }
    }
    Ok(list)
}

/// What a job is surest of: what its swap or its repair has shown, else its leading suspect.
fn surest(state: &JobState) -> Option<(f64, String)> {
    let decided = state.swap_in_force.as_ref().is_some_and(|swap| swap.result.is_some()) || state.repair.is_some();
    let leading = state
        .suspects
        .as_ref()
        .filter(|shown| !decided && !shown.entries.is_empty())
        .and_then(|shown| shown.result.suspects.first())
        .map(|first| (first.present, crate::suspects::named(&first.name, &first.target)));
    leading.or_else(|| state.next.sure.map(|sure| (sure, state.next.sure_of.clone())))
}

/// The fault that a closed job has proven: what was replaced was what was suspected, and the proof is enough. Nothing is
/// learnt from a repair that is not proven.
pub fn proven_cause(vehicle: &Vehicle, entries: &[Entry], knowledge: &Knowledge) -> Option<String> {
    let none = WorkshopOwn::default();
    let state = job_state_of(vehicle, entries, knowledge, &none, None).ok()?;
    let repair = state.repair.filter(|repair| repair.came_back.is_none())?;
    let part = repair.part?;
    if !state.closed || !state.proof.is_some_and(|proof| proof.enough) {
        return None;
    }
    let before: Vec<Entry> = entries.iter().take_while(|entry| entry.number != repair.entry).cloned().collect();
    let suspected = job_state_of(vehicle, &before, knowledge, &none, Some(Depth::Suspects)).ok()?.suspects?;
    let engine = vehicle.checked().ok()?;
    let seen = seen_of_it(entries);
    let fits = |suspect: &&crate::suspects::Suspect| {
        let of_part = suspect.part.as_deref() == Some(part.as_str()) || suspect.name.to_lowercase() == part;
        of_part && repair.cylinder.is_none_or(|c| suspect.target.cylinders(&engine).contains(&c))
    };
    // Of several faults of one part that one which the technician's own words speak of; without words the likeliest.
    let told = |suspect: &crate::suspects::Suspect| {
        let name = suspect.name.to_lowercase();
        name.split(|c: char| !c.is_alphabetic()).filter(|word| word.len() > 4 && seen.contains(word)).count()
    };
    let best = suspected.result.suspects.iter().filter(fits).enumerate();
    best.max_by_key(|(place, suspect)| (told(suspect), std::cmp::Reverse(*place)))
        .map(|(_, suspect)| suspect.fault.clone())
}

/// What was seen of the old part and written down as the cause, in small letters.
fn seen_of_it(entries: &[Entry]) -> String {
    let texts = effective(entries).into_iter().flat_map(|entry| match &entry.finding {
        Finding::Fitted { old_part, .. } => vec![old_part.clone()],
        Finding::OldPart { how, why_failed, .. } => vec![how.clone(), why_failed.clone()],
        Finding::Closed { cause, .. } => vec![cause.clone()],
        _ => Vec::new(),
    });
    texts.collect::<Vec<_>>().join(" ").to_lowercase()
}

/// What the pieces of a job's state are computed from.
pub(crate) struct Ground<'a> {
    pub vehicle: &'a Vehicle,
    pub engine: &'a Engine,
    pub standing: Vec<&'a Entry>,
    pub phases: Vec<Phase<'a>>,
    pub knowledge: &'a Knowledge,
}

/// Computes the state of a job from its vehicle and its trail.
///
/// # Errors
/// A vehicle whose engine cannot be; everything else was checked when it was written.
pub fn job_state(vehicle: &Vehicle, entries: &[Entry], knowledge: &Knowledge) -> Result<JobState, Refusal> {
    job_state_of(vehicle, entries, knowledge, &WorkshopOwn::default(), Some(Depth::Schools))
}

/// As [`job_state`], with what the workshop has of its own, and as far as the suspects are asked for.
///
/// # Errors
/// As [`job_state`].
pub fn job_state_of(
    vehicle: &Vehicle,
    entries: &[Entry],
    knowledge: &Knowledge,
    own: &WorkshopOwn,
    depth: Option<Depth>,
) -> Result<JobState, Refusal> {
    let engine = vehicle.checked()?;
    let carried = carried_on(entries);
    let standing = effective(&carried);
    let phases = phases(&engine, &standing);
    let ground = Ground { vehicle, engine: &engine, standing, phases, knowledge };

    let swappable = vehicle.swappable(&engine);
    let whereabouts = follow_parts(&ground, &swappable);
    let misfire = misfire_shown(&ground);
    let swaps = swaps(&ground);
    let repair = repair::last_repair(&ground, &swaps);
    let proof = repair.as_ref().map(|repair| repair::proof_shown(&ground, repair));
    let fitted = repair::fitted_shown(&ground, proof.as_ref().is_some_and(|proof| proof.enough));
    let closed = is_closed(&ground, repair.as_ref());
    let since_failure = since_failed_repair(&ground, &swaps, repair.as_ref());
    let swap_in_force = since_failure.last().filter(|swap| swap.refused.is_none()).cloned();
    let cleared_parts = parts_cleared(since_failure);
    let plan_with = |parts_at_once| plan(&ground, misfire.as_ref(), &swappable, &cleared_parts, parts_at_once);
    let (plan, plan_one) = (plan_with(PartsAtOnce::Several), plan_with(PartsAtOnce::One));

    let cylinders = engine
        .places
        .iter()
        .map(|place| {
            let rate = misfire
                .as_ref()
                .and_then(|m| m.result.cylinders.iter().find(|rate| rate.cylinder == place.cylinder).cloned());
            CylinderState {
                cylinder: place.cylinder,
                bank: place.bank,
                row: place.row,
                likelihood: rate.as_ref().map(|rate| rate.probability),
                rate,
                parts: whereabouts.at(place.cylinder),
            }
        })
        .collect();
    let recordings = recordings_shown(&ground);
    let measured = measured::measured_shown(&ground);
    let suspects = depth.and_then(|depth| {
        suspicions::suspects_shown(&ground, misfire.as_ref(), &swaps, repair.as_ref(), &measured, own, depth)
    });
    let needs =
        needs::needs(&ground, misfire.as_ref(), swap_in_force.as_ref(), repair.as_ref(), suspects.as_ref(), &measured);
    let put_right = measured::put_right(&ground, &measured);
    let odometer_km = last_reading(entries);
    let mut state = JobState {
        suspects,
        needs,
        carried_km: ground.standing.last().map_or(0.0, |entry| entry.odometer_km) - odometer_km,
        odometer_km,
        bench_out: bench_out(&ground.standing, &put_right),
        soaking: proofs::soaking(&ground),
        waiting_for: WaitingFor::Nothing,
        standing: ground.standing.iter().map(|entry| entry.number).collect(),
        cylinders,
        swappable,
        strayed: whereabouts.strayed(),
        embers: embers::embers(misfire.as_ref(), swap_in_force.as_ref(), repair.as_ref(), &recordings),
        road: road::road(&ground, &swaps, repair.as_ref()),
        spent: spent::spent(&ground.standing),
        misfire,
        plan,
        plan_one,
        swaps,
        recordings,
        put_right,
        measured,
        units: units_overview(&ground.standing, &knowledge.units, &knowledge.codes),
        swap_in_force,
        repair,
        proof,
        fitted,
        closed,
        next: NextMove::default(),
        cautions: crate::next_move::cautions_by_answer(&engine, knowledge),
        engine: engine.clone(),
    };
    let (next, waiting_for) = next_move(&state, &ground);
    state.next = next;
    state.waiting_for = waiting_for;
    Ok(state)
}

/// What the odometer reads now.
fn last_reading(entries: &[Entry]) -> f64 {
    effective(entries).last().map_or(0.0, |entry| match entry.finding {
        Finding::OdometerReplaced { reads_km } => reads_km,
        _ => entry.odometer_km,
    })
}

/// Whether the job is closed. The fault that came back opens it again by itself.
fn is_closed(ground: &Ground<'_>, repair: Option<&Repair>) -> bool {
    let back = repair.and_then(|repair| repair.came_back);
    let last = ground.standing.iter().rev().find_map(|entry| match entry.finding {
        Finding::Closed { .. } => Some(true),
        Finding::Reopened { .. } | Finding::Occurred { .. } => Some(false),
        _ if Some(entry.number) == back => Some(false),
        _ => None,
    });
    last.unwrap_or(false)
}

fn follow_parts(ground: &Ground<'_>, swappable: &[String]) -> Whereabouts {
    let mut whereabouts = Whereabouts::new(ground.engine, swappable);
    for entry in &ground.standing {
        match &entry.finding {
            Finding::Moved { moves, .. } => whereabouts.apply(moves),
            Finding::Fitted { part, variant, cylinder: Some(cylinder), .. } => {
                whereabouts.renew(part, variant.as_deref(), *cylinder);
            }
            _ => {}
        }
    }
    whereabouts
}

fn misfire_shown(ground: &Ground<'_>) -> Option<MisfireShown> {
    let index = ground.phases.iter().rposition(|phase| phase.counts.is_some())?;
    let phase = &ground.phases[index];
    let counts = phase.counts.as_ref()?;
    Some(MisfireShown {
        entries: phase.count_entries.clone(),
        when: when(phase).into(),
        outdated: index + 1 < ground.phases.len(),
        revolutions: 2.0 * counts.firings,
        result: misfire::of_counts(ground.engine, counts, &phase.windows, ground.knowledge),
    })
}

fn when(phase: &Phase<'_>) -> &'static str {
    match phase.opening {
        Opening::Start => "before any move",
        Opening::Moved(_) => "after the swap",
        Opening::PutBack => "after putting back",
        Opening::Fitted { .. } => "after the repair",
    }
}

fn recordings_shown(ground: &Ground<'_>) -> Vec<RecordingShown> {
    let mut list = Vec::new();
    let mut phase = 0;
    for entry in &ground.standing {
        while ground.phases.get(phase + 1).is_some_and(|p| p.opened_by.is_some_and(|e| e.number == entry.number)) {
            phase += 1;
        }
        if let Finding::Recording { recording, name, span_s, results, .. } = &entry.finding {
            list.push(RecordingShown {
                entry: entry.number,
                recording: *recording,
                name: name.clone(),
                span_s: *span_s,
                odometer_km: entry.odometer_km,
                when: ground.phases.get(phase).map_or("", when).into(),
                results: results.clone(),
            });
        }
    }
    list
}

fn swaps(ground: &Ground<'_>) -> Vec<SwapShown> {
    let mut list = Vec::new();
    for (index, phase) in ground.phases.iter().enumerate() {
        let (Opening::Moved(moves), Some(opened_by)) = (&phase.opening, phase.opened_by) else { continue };
        let before = ground.phases[..index].iter().rev().find(|phase| phase.has_evidence());
        let mut shown = SwapShown {
            entry: opened_by.number,
            moves: moves.clone(),
            result: None,
            refused: None,
            cleared: phase.cleared,
            least_revolutions: before.and_then(|b| least_revolutions(ground, b, moves)),
        };
        if let (Some(before), true) = (before, phase.has_evidence()) {
            let input = SwapInput {
                engine: Some(ground.vehicle.engine.clone()),
                places: None,
                before: before.side(),
                after: phase.side(),
                moves: moves.clone(),
                cleared_between: phase.cleared,
            };
            match swap(&input, ground.knowledge) {
                Ok(result) => shown.result = Some(result),
                Err(refusal) => shown.refused = Some(refusal),
            }
        } else if phase.has_evidence() {
            shown.refused = Some(Refusal::new("before", "nothing was counted or read before the parts were moved"));
        }
        list.push(shown);
    }
    list
}

/// Enough revolutions to expect as many misfires as a verdict needs, at the rate of the worst cylinder before.
fn least_revolutions(ground: &Ground<'_>, before: &Phase<'_>, moves: &[Move]) -> Option<f64> {
    let counts = before.counts.as_ref()?;
    let worst = moves
        .iter()
        .filter_map(|one| match one.from {
            crate::swap::PlaceName::Cylinder(c) if ground.engine.has(c) => Some(counts.rate(c)),
            _ => None,
        })
        .fold(0.0, f64::max);
    (worst > 0.0).then(|| (2.0 * ground.knowledge.swap.decision.misfires / worst).ceil())
}

/// The swaps that still mean something: all of them, or those made after a repair that did not hold.
fn since_failed_repair<'s>(ground: &Ground<'_>, swaps: &'s [SwapShown], repair: Option<&Repair>) -> &'s [SwapShown] {
    let place = |number: u32| ground.standing.iter().position(|entry| entry.number == number);
    match repair.filter(|repair| repair.came_back.is_some()) {
        None => swaps,
        Some(repair) => {
            let first = swaps.iter().position(|swap| place(swap.entry) > place(repair.entry)).unwrap_or(swaps.len());
            &swaps[first..]
        }
    }
}

/// Parts that a decided swap cleared: those that left the suspect while the fault stayed, and those that another
/// part's condemnation frees.
fn parts_cleared(swaps: &[SwapShown]) -> Vec<String> {
    swaps
        .iter()
        .filter_map(|shown| shown.result.as_ref().map(|result| (shown, result)))
        .filter(|(_, result)| result.decided && matches!(result.verdict, Verdict::Stayed | Verdict::Moved))
        .flat_map(|(shown, result)| {
            let suspect = result.suspect.clone();
            shown
                .moves
                .iter()
                .filter(move |one| Some(&one.from) == suspect.as_ref() && Some(&one.part) != result.part.as_ref())
                .map(|one| one.part.clone())
        })
        .collect()
}

fn plan(
    ground: &Ground<'_>,
    misfire: Option<&MisfireShown>,
    swappable: &[String],
    cleared: &[String],
    parts_at_once: PartsAtOnce,
) -> Option<SwapPlanResult> {
    let shown = misfire?;
    let &[suspect] = shown.result.group.cylinders.as_slice() else { return None };
    if !shown.result.decided {
        return None;
    }
    let open: Vec<String> = swappable.iter().filter(|part| !cleared.contains(part)).cloned().collect();
    let first_round = |part: &&String| ground.knowledge.swap.part_round(part) == 1;
    let mut parts: Vec<String> = open.iter().filter(first_round).cloned().collect();
    if parts.is_empty() {
        parts = open;
    }
    if parts.is_empty() {
        return None;
    }
    let healthy = shown.result.cylinders.iter().filter(|c| c.cylinder != suspect && c.probability < 0.05);
    let input = SwapPlanInput {
        engine: ground.vehicle.engine.clone(),
        suspect,
        parts,
        access_minutes: ground.vehicle.access_minutes.clone(),
        covers: ground.vehicle.covers.clone(),
        healthy: Some(healthy.map(|c| c.cylinder).collect()),
        parts_at_once,
    };
    swap_plan(&input, ground.knowledge).ok().filter(|plan| !plan.moves.is_empty())
}
