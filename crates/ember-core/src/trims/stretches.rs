//! Steady stretches of a recording: each is one point, because neighbouring samples are not independent.

use super::TrimPoint;
use crate::engine::Engine;
use crate::recording::{EvidenceKnowledge, Held, Recording};

#[derive(Default)]
struct Sums {
    n: f64,
    flow: f64,
    least: f64,
    most: f64,
    rpm: (f64, f64),
    load: (f64, f64),
    map: (f64, f64),
    /// By bank: sums of short- and long-term trim, and how many samples.
    trims: Vec<(f64, f64, f64)>,
}

impl Sums {
    fn new(banks: usize) -> Sums {
        Sums { least: f64::INFINITY, trims: vec![(0.0, 0.0, 0.0); banks], ..Sums::default() }
    }
}

/// Averages a recording into steady closed-loop stretches, one point for each bank and stretch.
///
/// The air flow must keep within the spread that `knowledge/evidence.toml` allows, the coolant must be warm where it was
/// recorded, and the mixture regulated where that was recorded.
pub fn steady_points(engine: &Engine, recording: &Recording, rules: &EvidenceKnowledge) -> Vec<TrimPoint> {
    let hold = rules.hold.seconds;
    let mut flow = Held::of(recording, "airflow", hold);
    let banks = engine.banks.len();
    let mut short: Vec<Held> = (1..=banks).map(|b| Held::of(recording, &format!("short_trim_{b}"), hold)).collect();
    let mut long: Vec<Held> = (1..=banks).map(|b| Held::of(recording, &format!("long_trim_{b}"), hold)).collect();
    if !flow.is_there() || !short.iter().any(Held::is_there) {
        return Vec::new();
    }
    let mut rpm = Held::of(recording, "engine_speed", hold);
    let mut load = Held::of(recording, "load", hold);
    let mut map = Held::of(recording, "manifold_pressure", hold);
    let mut closed = Held::of(recording, "closed_loop", hold);
    // Coolant changes slowly and is read seldom.
    let mut coolant = Held::of(recording, "coolant", 60.0);
    let mut points = Vec::new();
    let mut sums = Sums::new(banks);
    let mut began = f64::NAN;
    for (row, &now) in recording.time_s.iter().enumerate() {
        let at = flow.at(row, now);
        let open = closed.at(row, now) < 0.5;
        let cold = coolant.at(row, now) < rules.steady.coolant_c;
        let (least, most) = (sums.least.min(at), sums.most.max(at));
        let unsteady = at.is_nan() || at <= 0.0 || most - least > rules.steady.airflow_spread * least;
        if open || cold || unsteady || now - began >= rules.steady.seconds || began.is_nan() {
            if now - began >= rules.steady.seconds {
                close(&sums, rules, &mut points);
            }
            sums = Sums::new(banks);
            began = if open || cold || at.is_nan() || at <= 0.0 { f64::NAN } else { now };
        }
        // Every channel is followed on every row, or what it last showed would be lost.
        let (r, l, m) = (rpm.at(row, now), load.at(row, now), map.at(row, now));
        for bank in 0..banks {
            let (s, g) = (short[bank].at(row, now), long[bank].at(row, now));
            if !began.is_nan() && !s.is_nan() {
                let own = &mut sums.trims[bank];
                *own = (own.0 + s, own.1 + if g.is_nan() { 0.0 } else { g }, own.2 + 1.0);
            }
        }
        if began.is_nan() {
            continue;
        }
        sums.n += 1.0;
        sums.flow += at;
        sums.least = sums.least.min(at);
        sums.most = sums.most.max(at);
        for (sum, value) in [(&mut sums.rpm, r), (&mut sums.load, l), (&mut sums.map, m)] {
            if !value.is_nan() {
                sum.0 += value;
                sum.1 += 1.0;
            }
        }
    }
    points
}

fn close(sums: &Sums, rules: &EvidenceKnowledge, points: &mut Vec<TrimPoint>) {
    if sums.n < rules.steady.least_samples as f64 {
        return;
    }
    let mean = |(sum, n): (f64, f64)| (n > 0.0).then(|| sum / n);
    for (index, &(short, long, n)) in sums.trims.iter().enumerate() {
        if n < rules.steady.least_samples as f64 {
            continue;
        }
        points.push(TrimPoint {
            bank: index + 1,
            airflow_gps: sums.flow / sums.n,
            rpm: mean(sums.rpm),
            load_pct: mean(sums.load),
            map_kpa: mean(sums.map),
            short_pct: (short / n).max(-99.9),
            long_pct: (long / n).max(-99.9),
            closed_loop: Some(true),
        });
    }
}
