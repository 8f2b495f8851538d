//! Captures of a scope: what the signal of a coil, an injector, a motor, a starter or a cam says.

mod cranking;
mod drive;
mod firing;
mod injector;
mod pattern;
mod ramp;
pub mod trace;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::bench::knowledge::{BenchKnowledge, WaveformFigures};
use crate::bench::sisters::{Standing, against_sisters, median};
use crate::circuit::Judged;
use crate::engine::{Engine, EngineDescription};
use crate::refusal::Refusal;

pub use pattern::{CamSeen, TeethSeen};
use trace::Trace;

/// A channel as it was captured.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct CaptureChannel {
    pub name: String,
    pub unit: String,
    pub samples: Vec<f32>,
}

/// Channels sampled together at even distances.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Capture {
    pub step_s: f64,
    pub channels: Vec<CaptureChannel>,
}

impl Capture {
    pub fn trace(&self, name: &str) -> Option<Trace<'_>> {
        let channel = self.channels.iter().find(|channel| channel.name == name)?;
        Some(Trace { step_s: self.step_s, samples: &channel.samples })
    }

    pub fn samples(&self) -> usize {
        self.channels.first().map_or(0, |channel| channel.samples.len())
    }
}

/// What a capture shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum WaveformKind {
    CoilCurrent,
    IgnitionVoltage,
    InjectorCurrent,
    InjectorVoltage,
    MotorDrive,
    CrankingCurrent,
    CrankAndCam,
}

/// A channel with the signal that is asked about, and the cylinder it belongs to where it belongs to one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Signal {
    pub channel: String,
    #[serde(default)]
    pub cylinder: Option<u8>,
}

/// What is asked of a capture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaveformAsk {
    pub of: WaveformKind,
    /// One channel with the events of several cylinders, or a channel for each.
    pub signals: Vec<Signal>,
    /// A channel that pulses once in two turns.
    #[serde(default)]
    pub sync: Option<String>,
    /// The cylinder that fires when it pulses; left out: the first of the firing order.
    #[serde(default)]
    pub sync_cylinder: Option<u8>,
    /// The cam's channel beside the crank's, or the position's beside a motor's.
    #[serde(default)]
    pub second: Option<String>,
    /// At the coil while it is charged: without it a ramp has neither inductance nor resistance.
    #[serde(default)]
    pub supply_v: Option<f64>,
    /// Where the cam's edges stand on a sound engine, in crank degrees after the gap, 0 to 720.
    #[serde(default)]
    pub reference_deg: Vec<f64>,
}

/// Figures of an event by their names, which end in their unit.
pub type Figures = BTreeMap<&'static str, f64>;

/// One charging, firing, pulse or hump.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WaveEvent {
    pub at_s: f64,
    pub end_s: f64,
    pub cylinder: Option<u8>,
    #[schema(value_type = BTreeMap<String, f64>)]
    pub figures: Figures,
}

/// A figure over all events.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WaveFigure {
    pub name: String,
    pub label: String,
    pub unit: String,
    pub median: f64,
    pub least: f64,
    pub most: f64,
    pub events: usize,
    /// The median of each cylinder, where events have one.
    pub cylinders: BTreeMap<String, f64>,
}

/// A cylinder that differs from the others, with the figure in which it does.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OddOne {
    pub cylinder: u8,
    pub figure: String,
    pub value: f64,
    pub others: f64,
    pub unit: String,
    pub score: f64,
}

/// The shape of one cylinder's typical event, to lay over the others.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Overlay {
    pub cylinder: Option<u8>,
    pub channel: String,
    pub values: Vec<f32>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WaveformResult {
    pub of: WaveformKind,
    /// The first events, up to 240.
    pub events: Vec<WaveEvent>,
    pub event_count: usize,
    pub figures: Vec<WaveFigure>,
    pub odd: Vec<OddOne>,
    pub teeth: Option<TeethSeen>,
    pub cam: Option<CamSeen>,
    /// Times of the overlays' values, from the event's beginning.
    pub overlay_s: Vec<f64>,
    pub overlays: Vec<Overlay>,
    pub verdict: Judged,
    /// How likely all is as it should be, 0 to 1.
    pub right: f64,
    pub notes: Vec<String>,
    pub says: String,
}

const EVENTS_SHOWN: usize = 240;
const OVERLAY_POINTS: usize = 240;

/// Label and unit of each figure, and whether cylinders are compared by it.
const FIGURES: [(&str, &str, &str, bool); 24] = [
    ("dwell_ms", "Dwell", "ms", true),
    ("peak_a", "Peak current", "A", true),
    ("held_ms", "Held at its limit", "ms", false),
    ("inductance_mh", "Inductance", "mH", true),
    ("resistance_ohm", "Resistance of the path", "ohm", false),
    ("energy_mj", "Energy", "mJ", false),
    ("firing", "Firing voltage", "", true),
    ("spark_line", "Spark line", "", true),
    ("burn_ms", "Burn time", "ms", true),
    ("pulse_ms", "Pulse", "ms", true),
    ("opens_ms", "Needle at its stop after", "ms", true),
    ("kick_v", "Kick when switched off", "V", true),
    ("duty_pct", "Driven", "%", false),
    ("forward_pct", "Driven forward", "%", false),
    ("backward_pct", "Driven backward", "%", false),
    ("frequency_hz", "Frequency", "Hz", false),
    ("mean_v", "Mean voltage", "V", false),
    ("follows", "Position follows (1 with it, -1 against it)", "", false),
    ("hump_a", "Hump of the compression", "A", true),
    ("cranking_rpm", "Cranking speed", "rpm", false),
    ("relative_pct", "Of the best", "%", false),
    ("teeth", "Teeth", "", false),
    ("missing", "Missing", "", false),
    ("crank_rpm", "Speed", "rpm", false),
];

/// Reads a capture for what is asked of it.
///
/// # Errors
/// A channel that is not in the capture, or no signal at all; a cylinder that the engine does not have; a supply voltage
/// that cannot be; samples that are not even; a capture in which nothing of the kind is found.
pub fn waveform(
    capture: &Capture,
    ask: &WaveformAsk,
    engine: &Engine,
    knowledge: &BenchKnowledge,
) -> Result<WaveformResult, Refusal> {
    let figures = &knowledge.waveform;
    check(capture, ask, engine)?;
    let trace = |name: &str, field: &str| {
        capture.trace(name).ok_or_else(|| {
            let names: Vec<&str> = capture.channels.iter().map(|c| c.name.as_str()).collect();
            Refusal::new(field, format!("there is no channel {name}; there are {}", names.join(", ")))
        })
    };
    let sync = ask.sync.as_deref().map(|name| trace(name, "sync")).transpose()?;
    let second = ask.second.as_deref().map(|name| trace(name, "second")).transpose()?;
    let sync_cylinder = ask.sync_cylinder.or(engine.firing_order.first().copied()).unwrap_or(1);
    let mut notes = Vec::new();
    let mut events: Vec<(usize, WaveEvent)> = Vec::new();
    let mut whole = Figures::new();
    let (mut teeth, mut cam) = (None, None);
    let traces = ask
        .signals
        .iter()
        .enumerate()
        .map(|(index, signal)| trace(&signal.channel, &format!("signals[{index}].channel")))
        .collect::<Result<Vec<_>, Refusal>>()?;
    let around = Around { sync, second, sync_cylinder, engine, figures };
    // Each channel is read by itself, so several are read at once.
    let around = &around;
    let read: Vec<Found> = match traces.as_slice() {
        [only] => vec![found_in(ask, *only, around)],
        several => std::thread::scope(|scope| {
            let workers: Vec<_> = several.iter().map(|&one| scope.spawn(move || found_in(ask, one, around))).collect();
            workers.into_iter().map(|worker| worker.join().unwrap_or_default()).collect()
        }),
    };
    for (index, (signal, found)) in ask.signals.iter().zip(read).enumerate() {
        if found.clipped {
            notes.push(format!(
                "{} is clipped: it runs into the end of the instrument's range, and its peaks are higher than shown",
                signal.channel
            ));
        }
        let mut own = found.events;
        if signal.cylinder.is_some() {
            own.iter_mut().for_each(|event| event.cylinder = signal.cylinder);
        } else if ask.of != WaveformKind::CrankingCurrent
            && let Some(sync) = sync
        {
            name_by_sync(&mut own, sync, sync_cylinder, engine);
        }
        events.extend(own.into_iter().map(|event| (index, event)));
        whole.extend(found.whole);
        teeth = teeth.or(found.teeth);
        cam = cam.or(found.cam);
    }
    if let (WaveformKind::CrankingCurrent, Some(sync)) = (ask.of, sync)
        && let Some(rpm) = cranking::cranking_rpm(sync)
    {
        whole.insert("cranking_rpm", rpm);
    }
    if let Some(teeth) = &teeth {
        whole.insert("teeth", f64::from(teeth.teeth));
        whole.insert("missing", f64::from(teeth.missing));
        whole.insert("crank_rpm", teeth.rpm);
    }
    if events.is_empty() && whole.is_empty() {
        return Err(Refusal::new("of", nothing_found(ask)));
    }
    if ask.of == WaveformKind::CrankingCurrent {
        notes.push("Only the starter's current: a slow cylinder may lack air as well as tightness".into());
    }
    if ask.of == WaveformKind::CoilCurrent && ask.supply_v.is_none() {
        notes.push("Without the voltage at the coil its inductance and resistance are not reckoned".into());
    }
    let plain: Vec<WaveEvent> = events.iter().map(|(_, event)| event.clone()).collect();
    let mut summary = summed(&plain, &whole);
    let odd = odd_ones(&plain, &mut summary, ask.of, knowledge);
    let (overlay_s, overlays) = overlays(capture, ask, &events);
    let mut result = WaveformResult {
        of: ask.of,
        event_count: plain.len(),
        events: plain.into_iter().take(EVENTS_SHOWN).collect(),
        figures: summary,
        odd,
        teeth,
        cam,
        overlay_s,
        overlays,
        verdict: Judged::CannotTell,
        right: 0.5,
        notes,
        says: String::new(),
    };
    in_words(&mut result, knowledge);
    Ok(result)
}

/// What stands beside the signal that is read.
struct Around<'a> {
    sync: Option<Trace<'a>>,
    second: Option<Trace<'a>>,
    sync_cylinder: u8,
    engine: &'a Engine,
    figures: &'a WaveformFigures,
}

/// What one channel shows.
#[derive(Default)]
struct Found {
    clipped: bool,
    events: Vec<WaveEvent>,
    whole: Figures,
    teeth: Option<TeethSeen>,
    cam: Option<CamSeen>,
}

fn found_in(ask: &WaveformAsk, signal: Trace<'_>, around: &Around<'_>) -> Found {
    let figures = around.figures;
    let mut found = Found { clipped: signal.clipped(figures.clip_samples, figures.clip_share), ..Found::default() };
    match ask.of {
        WaveformKind::CoilCurrent => {
            found.events = ramp::coil_current(signal, ask.supply_v, figures.edge_share, figures.flat_share);
        }
        WaveformKind::IgnitionVoltage => found.events = firing::ignition_voltage(signal),
        WaveformKind::InjectorCurrent => found.events = injector::injector_current(signal, figures.edge_share),
        WaveformKind::InjectorVoltage => found.events = injector::injector_voltage(signal),
        WaveformKind::CrankingCurrent => {
            found.events = cranking::cranking_current(signal, around.sync, around.sync_cylinder, around.engine);
        }
        WaveformKind::MotorDrive => found.whole = drive::motor_drive(signal, around.second),
        WaveformKind::CrankAndCam => {
            found.teeth = pattern::crank_teeth(signal, figures.missing_tooth_ratio);
            found.cam = around.second.and_then(|cam| {
                pattern::cam_against_crank(signal, cam, figures.missing_tooth_ratio, &ask.reference_deg)
            });
        }
    }
    found
}

fn nothing_found(ask: &WaveformAsk) -> String {
    match ask.of {
        WaveformKind::CrankingCurrent if ask.sync.is_none() => {
            "a sync channel is needed: one pulse in two turns says which hump is whose".into()
        }
        WaveformKind::CrankingCurrent => "three sync pulses at least are needed: crank for longer".into(),
        WaveformKind::CrankAndCam => "no wheel with a gap is found in this channel".into(),
        _ => "nothing of this kind is found in this channel: is it the right one, and of the right sign?".into(),
    }
}

fn check(capture: &Capture, ask: &WaveformAsk, engine: &Engine) -> Result<(), Refusal> {
    if !capture.step_s.is_finite() || capture.step_s <= 0.0 {
        return Err(Refusal::new("step_s", "must be above zero"));
    }
    if ask.signals.is_empty() {
        return Err(Refusal::new("signals", "is empty: which channel holds the signal?"));
    }
    let length = capture.samples();
    if length < 50 {
        return Err(Refusal::new("channels", format!("{length} samples are too few")));
    }
    for channel in &capture.channels {
        if channel.samples.len() != length {
            return Err(Refusal::new(
                format!("channels.{}", channel.name),
                "has another number of samples than the first",
            ));
        }
    }
    for (index, signal) in ask.signals.iter().enumerate() {
        if let Some(cylinder) = signal.cylinder.filter(|c| !engine.has(*c)) {
            let field = format!("signals[{index}].cylinder");
            return Err(Refusal::new(field, format!("the engine has no cylinder {cylinder}")));
        }
    }
    if let Some(cylinder) = ask.sync_cylinder.filter(|c| !engine.has(*c)) {
        return Err(Refusal::new("sync_cylinder", format!("the engine has no cylinder {cylinder}")));
    }
    if ask.supply_v.is_some_and(|v| !v.is_finite() || !(1.0..=60.0).contains(&v)) {
        return Err(Refusal::new("supply_v", "must lie between 1 and 60 V"));
    }
    if ask.reference_deg.iter().any(|deg| !deg.is_finite() || !(0.0..=720.0).contains(deg)) {
        return Err(Refusal::new("reference_deg", "must lie between 0 and 720 crank degrees"));
    }
    Ok(())
}

/// Gives events to cylinders: the one nearest to a sync pulse is the sync cylinder's, those up to the next pulse follow
/// in the firing order.
fn name_by_sync(events: &mut [WaveEvent], sync: Trace<'_>, sync_cylinder: u8, engine: &Engine) {
    let levels = sync.levels();
    let (low, width) = (levels.least, levels.most - levels.least);
    let pulses = sync.rises(low + 0.6 * width, low + 0.4 * width);
    let count = engine.firing_order.len();
    let offset = engine.firing_order.iter().position(|c| *c == sync_cylinder).unwrap_or(0);
    for pair in pulses.windows(2) {
        let period = (pair[1] - pair[0]) / count as f64;
        for event in events.iter_mut() {
            // A coil is charged before its cylinder fires: what counts is the end of the event.
            let place = ((event.end_s - pair[0]) / period).round();
            if (0.0..count as f64).contains(&place) && event.end_s < pair[1] - 0.5 * period {
                event.cylinder = Some(engine.firing_order[(offset + place as usize) % count]);
            }
        }
    }
}

fn label(name: &str) -> (&'static str, &'static str, bool) {
    FIGURES.iter().find(|f| f.0 == name).map_or(("", "", false), |f| (f.1, f.2, f.3))
}

fn summed(events: &[WaveEvent], whole: &Figures) -> Vec<WaveFigure> {
    let mut by_name: BTreeMap<&'static str, Vec<(Option<u8>, f64)>> = BTreeMap::new();
    for event in events {
        for (name, value) in &event.figures {
            by_name.entry(name).or_default().push((event.cylinder, *value));
        }
    }
    for (name, value) in whole {
        by_name.entry(name).or_default().push((None, *value));
    }
    let order = |name: &str| FIGURES.iter().position(|f| f.0 == name);
    let mut list: Vec<WaveFigure> = by_name
        .into_iter()
        .map(|(name, values)| {
            let plain: Vec<f64> = values.iter().map(|v| v.1).collect();
            let mut of: BTreeMap<u8, Vec<f64>> = BTreeMap::new();
            for (cylinder, value) in &values {
                if let Some(cylinder) = cylinder {
                    of.entry(*cylinder).or_default().push(*value);
                }
            }
            let (label, unit, _) = label(name);
            WaveFigure {
                name: name.into(),
                label: label.into(),
                unit: unit.into(),
                median: median(&plain),
                least: plain.iter().copied().fold(f64::INFINITY, f64::min),
                most: plain.iter().copied().fold(f64::NEG_INFINITY, f64::max),
                events: plain.len(),
                cylinders: of.into_iter().map(|(c, v)| (c.to_string(), median(&v))).collect(),
            }
        })
        .collect();
    list.sort_by_key(|figure| order(&figure.name));
    list
}

/// A figure in each event of one cylinder.
fn of_cylinder<'a>(events: &'a [WaveEvent], figure: &'a WaveFigure, cylinder: u8) -> impl Iterator<Item = f64> + 'a {
    let own = events.iter().filter(move |event| event.cylinder == Some(cylinder));
    own.filter_map(|event| event.figures.get(figure.name.as_str()).copied())
}

/// How far single events of a cylinder scatter about its own median, over all cylinders: a standard deviation.
fn scatter_within(events: &[WaveEvent], figure: &WaveFigure) -> f64 {
    let cylinders = figure.cylinders.iter().filter_map(|(name, middle)| Some((name.parse::<u8>().ok()?, *middle)));
    let deviations: Vec<f64> = cylinders
        .flat_map(|(cylinder, middle)| of_cylinder(events, figure, cylinder).map(move |value| (value - middle).abs()))
        .collect();
    1.4826 * median(&deviations)
}

/// The cylinders that differ from the others in a figure, beyond the scatter within the cylinders themselves.
fn odd_ones(
    events: &[WaveEvent],
    figures: &mut Vec<WaveFigure>,
    of: WaveformKind,
    knowledge: &BenchKnowledge,
) -> Vec<OddOne> {
    let mut odd = Vec::new();
    let mut relative = None;
    for figure in figures.iter() {
        if !label(&figure.name).2 || figure.cylinders.len() < 2 {
            continue;
        }
        if figure.name == "hump_a" {
            let best = figure.cylinders.values().copied().fold(0.0, f64::max);
            relative =
                Some(figure.cylinders.iter().map(|(c, v)| (c.clone(), 100.0 * v / best)).collect::<BTreeMap<_, _>>());
        } else if of == WaveformKind::CrankingCurrent {
            continue;
        }
        // A handful of events of one cylinder tells little of how far single ones scatter; those of all together do.
        let scatter = scatter_within(events, figure);
        for (name, &value) in &figure.cylinders {
            let Ok(cylinder) = name.parse::<u8>() else { continue };
            let others: Vec<f64> = figure.cylinders.iter().filter(|(c, _)| *c != name).map(|(_, v)| *v).collect();
            let count = of_cylinder(events, figure, cylinder).count().max(1);
            // The standard error of a median is 1.25 of that of a mean.
            let error = 1.2533 * scatter / (count as f64).sqrt();
            let floor = error.max(
                value.abs().max(figure.median.abs()) * knowledge.waveform.odd_pct / 100.0 / knowledge.resistance.odd,
            );
            let compared = against_sisters(value, &others, floor, &knowledge.resistance);
            let middle = median(&others);
            let apart = 100.0 * (value - middle).abs() / middle.abs().max(1e-12);
            let enough = if figure.name == "hump_a" {
                value < middle && apart > knowledge.waveform.compression_low_pct
            } else {
                apart > knowledge.waveform.odd_pct
            };
            let stands_out = match compared.standing {
                Standing::Odd => true,
                // Of two cylinders the weaker one is named where weak has a meaning.
                Standing::OneSister => apart > 25.0 && value < middle,
                Standing::Scattered => compared.score.abs() > knowledge.resistance.odd,
                Standing::Alike => false,
            };
            if enough && stands_out {
                odd.push(OddOne {
                    cylinder,
                    figure: figure.name.clone(),
                    value,
                    others: middle,
                    unit: figure.unit.clone(),
                    score: compared.score,
                });
            }
        }
    }
    if let Some(cylinders) = relative {
        let values: Vec<f64> = cylinders.values().copied().collect();
        let (label, unit, _) = label("relative_pct");
        figures.push(WaveFigure {
            name: "relative_pct".into(),
            label: label.into(),
            unit: unit.into(),
            median: median(&values),
            least: values.iter().copied().fold(f64::INFINITY, f64::min),
            most: 100.0,
            events: values.len(),
            cylinders,
        });
    }
    odd.sort_by(|a, b| b.score.abs().total_cmp(&a.score.abs()));
    odd
}

/// For each cylinder, or each channel, the event whose first figure lies nearest to its median.
fn overlays(capture: &Capture, ask: &WaveformAsk, events: &[(usize, WaveEvent)]) -> (Vec<f64>, Vec<Overlay>) {
    if events.is_empty() {
        return (Vec::new(), Vec::new());
    }
    let longest = median(&events.iter().map(|(_, e)| e.end_s - e.at_s).collect::<Vec<_>>()).max(capture.step_s * 20.0);
    let (before, behind) = (0.15 * longest, 1.35 * longest);
    let times: Vec<f64> = (0..OVERLAY_POINTS)
        .map(|point| -before + (before + behind) * point as f64 / (OVERLAY_POINTS - 1) as f64)
        .collect();
    let mut groups: BTreeMap<(Option<u8>, usize), Vec<&WaveEvent>> = BTreeMap::new();
    for (signal, event) in events {
        groups.entry((event.cylinder, *signal)).or_default().push(event);
    }
    // Events without a cylinder beside named ones are those at the capture's ends.
    if groups.keys().any(|(cylinder, _)| cylinder.is_some()) {
        groups.retain(|(cylinder, _), _| cylinder.is_some());
    }
    let list = groups
        .into_iter()
        .filter_map(|((cylinder, signal), events)| {
            let channel = &ask.signals[signal].channel;
            let trace = capture.trace(channel)?;
            let key = |event: &WaveEvent| event.end_s - event.at_s;
            let middle = median(&events.iter().map(|e| key(e)).collect::<Vec<_>>());
            let typical = events.iter().min_by(|a, b| (key(a) - middle).abs().total_cmp(&(key(b) - middle).abs()))?;
            let width = (before + behind) / OVERLAY_POINTS as f64;
            let values = times
                .iter()
                .map(|time| {
                    let from = trace.index(typical.at_s + time);
                    let to = trace.index(typical.at_s + time + width).max(from + 1);
                    // The largest excursion of the stretch, so that a needle is not thinned away.
                    trace.samples[from..to.min(trace.samples.len())]
                        .iter()
                        .copied()
                        .max_by(|a, b| a.abs().total_cmp(&b.abs()))
                        .unwrap_or(0.0)
                })
                .collect();
            Some(Overlay { cylinder, channel: channel.clone(), values })
        })
        .collect();
    (times, list)
}

fn in_words(result: &mut WaveformResult, knowledge: &BenchKnowledge) {
    let weight = &knowledge.weight;
    let told = |name: &str| -> Option<String> {
        let figure = result.figures.iter().find(|f| f.name == name)?;
        Some(format!("{} {:.2} {}", figure.label.to_lowercase(), figure.median, figure.unit).trim().to_owned())
    };
    let figure = |name: &str| result.figures.iter().find(|f| f.name == name).map(|f| f.median);
    let names = |list: &[&str]| list.iter().filter_map(|name| told(name)).collect::<Vec<_>>().join(", ");
    let compared = result.figures.iter().any(|f| f.cylinders.len() > 1);
    let (verdict, right, says) = match result.of {
        WaveformKind::MotorDrive => match figure("follows") {
            Some(r) if r < -knowledge.waveform.follows => (
                Judged::Bad,
                weight.bad,
                "The mechanism runs against its drive: wires exchanged, or the sensor counts the other way.".to_owned(),
            ),
            Some(r) if r > knowledge.waveform.follows => {
                (Judged::Good, weight.good, "The mechanism follows its drive.".into())
            }
            Some(_) => (Judged::Bad, weight.bad, "The mechanism does not move with its drive.".into()),
            None => (Judged::CannotTell, 0.5, String::new()),
        },
        WaveformKind::CrankAndCam => {
            let disturbed = result.teeth.as_ref().map_or(0, |t| t.disturbed);
            let shift = result.cam.as_ref().and_then(|cam| cam.shift_deg);
            let teeth = result.teeth.as_ref().map_or(String::new(), |t| {
                format!("{} teeth and {} missing, {} revolutions.", t.teeth, t.missing, t.revolutions)
            });
            match shift {
                Some(shift) if shift.abs() > knowledge.waveform.shift_deg => {
                    let way = if shift > 0.0 { "late" } else { "early" };
                    (Judged::Bad, weight.bad, format!("{teeth} The cam stands {:.1} crank degrees {way}.", shift.abs()))
                }
                _ if disturbed > 0 => (
                    Judged::Bad,
                    weight.bad,
                    format!(
                        "{teeth} {disturbed} of them disturbed: a damaged tooth, a gap too wide, or a signal that drops out."
                    ),
                ),
                Some(shift) => (
                    Judged::Good,
                    weight.good,
                    format!("{teeth} The cam stands within {:.1} crank degrees of its place.", shift.abs()),
                ),
                None => (
                    Judged::CannotTell,
                    0.5,
                    format!("{teeth} Without a reference the cam's place is shown and not judged."),
                ),
            }
        }
        _ if !result.odd.is_empty() => {
            let mut seen = Vec::new();
            let lines: Vec<String> = result
                .odd
                .iter()
                .filter(|odd| {
                    let new = !seen.contains(&odd.cylinder);
                    seen.push(odd.cylinder);
                    new
                })
                .map(|odd| {
                    let label = label(&odd.figure).0.to_lowercase();
                    let share = 100.0 * (odd.value / odd.others - 1.0);
                    format!(
                        "cylinder {}: {label} {:.2} {} where the others have {:.2} ({share:+.0} %)",
                        odd.cylinder, odd.value, odd.unit, odd.others
                    )
                })
                .collect();
            (Judged::Bad, weight.bad, format!("Odd one out: {}.", lines.join("; ")))
        }
        _ if compared => (Judged::Good, weight.good, "The cylinders are alike.".into()),
        _ => (Judged::CannotTell, 0.5, String::new()),
    };
    let measured = match result.of {
        WaveformKind::CoilCurrent => names(&["dwell_ms", "peak_a", "inductance_mh", "resistance_ohm", "energy_mj"]),
        WaveformKind::IgnitionVoltage => names(&["firing", "spark_line", "burn_ms"]),
        WaveformKind::InjectorCurrent | WaveformKind::InjectorVoltage => names(&["pulse_ms", "opens_ms", "kick_v"]),
        WaveformKind::MotorDrive => names(&["duty_pct", "frequency_hz", "mean_v"]),
        WaveformKind::CrankingCurrent => names(&["cranking_rpm", "hump_a"]),
        WaveformKind::CrankAndCam => String::new(),
    };
    let capital = |text: &str| {
        let mut chars = text.chars();
        chars.next().map_or(String::new(), |first| first.to_uppercase().chain(chars).collect::<String>())
    };
    let clipped = result.notes.iter().any(|note| note.contains("clipped"));
    result.says = [
        says,
        if measured.is_empty() { String::new() } else { format!("{}.", capital(&measured)) },
        if clipped { "Clipped: choose a larger range and capture again.".into() } else { String::new() },
    ]
    .into_iter()
    .filter(|part| !part.is_empty())
    .collect::<Vec<_>>()
    .join(" ");
    (result.verdict, result.right) =
        if clipped && verdict == Judged::Good { (Judged::CannotTell, 0.5) } else { (verdict, right) };
}

/// A capture as JSON, for the door.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaveformInput {
    pub engine: EngineDescription,
    pub step_s: f64,
    pub channels: BTreeMap<String, Vec<f32>>,
    pub ask: WaveformAsk,
}

/// As [`waveform`], with everything in one input.
///
/// # Errors
/// As [`waveform`], and whatever the engine refuses.
pub fn waveform_door(input: &WaveformInput, knowledge: &BenchKnowledge) -> Result<WaveformResult, Refusal> {
    let engine = Engine::new(&input.engine).map_err(|refusal| refusal.within("engine"))?;
    let channels = input.channels.iter().map(|(name, samples)| CaptureChannel {
        name: name.clone(),
        unit: String::new(),
        samples: samples.clone(),
    });
    let capture = Capture { step_s: input.step_s, channels: channels.collect() };
    if let Some(channel) = capture.channels.iter().find(|c| c.samples.iter().any(|s| !s.is_finite())) {
        return Err(Refusal::new(format!("channels.{}", channel.name), "must be finite numbers"));
    }
    waveform(&capture, &input.ask, &engine, knowledge).map_err(|refusal| refusal.within("ask"))
}
