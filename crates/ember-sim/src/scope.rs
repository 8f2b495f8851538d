//! A simulated scope: captures of coils, injectors, motors, starters and cams with figures that are known, so that what
//! reads them can be held against the truth.

use ember_core::engine::Engine;
use ember_core::waveform::{Capture, CaptureChannel};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// A scope with its noise.
pub struct Scope {
    rng: ChaCha8Rng,
    /// Samples a second.
    pub rate_hz: f64,
    /// Standard deviation of the noise as a share of the channel's full height.
    pub noise: f64,
}

/// A charged coil.
#[derive(Debug, Clone, Copy)]
pub struct CoilTruth {
    pub supply_v: f64,
    pub inductance_mh: f64,
    pub resistance_ohm: f64,
    pub dwell_ms: f64,
    /// A driver that holds the current from here on.
    pub limit_a: Option<f64>,
    pub rpm: f64,
}

/// A spark.
#[derive(Debug, Clone, Copy)]
pub struct SparkTruth {
    pub firing_kv: f64,
    pub spark_line_kv: f64,
    pub burn_ms: f64,
    pub rpm: f64,
}

/// An injector's pulse.
#[derive(Debug, Clone, Copy)]
pub struct InjectorTruth {
    pub supply_v: f64,
    pub inductance_mh: f64,
    pub resistance_ohm: f64,
    pub pulse_ms: f64,
    pub opens_ms: f64,
    pub rpm: f64,
}

/// A motor drive and the flap it moves.
#[derive(Debug, Clone, Copy)]
pub struct DriveTruth {
    pub supply_v: f64,
    pub frequency_hz: f64,
    pub duty: f64,
    /// The flap goes the other way.
    pub reversed: bool,
}

/// A cam on its crank.
#[derive(Debug, Clone)]
pub struct CamTruth {
    pub teeth: u32,
    pub missing: u32,
    pub rpm: f64,
    /// Where its edges stand on a sound engine, rising and falling in turns, in crank degrees after the gap.
    pub edges_deg: Vec<f64>,
    pub shift_deg: f64,
    /// A sine from a pick-up instead of a square wave.
    pub magnetic: bool,
}

impl Scope {
    pub fn new(rate_hz: f64, noise: f64, seed: u64) -> Scope {
        Scope { rng: ChaCha8Rng::seed_from_u64(seed), rate_hz, noise }
    }

    /// A normal deviate (Box and Muller, 1958).
    fn normal(&mut self) -> f64 {
        let (u, v): (f64, f64) = (self.rng.random_range(1e-12..1.0), self.rng.random_range(0.0..1.0));
        (-2.0 * u.ln()).sqrt() * (std::f64::consts::TAU * v).cos()
    }

    fn channel(&mut self, name: &str, unit: &str, full: f64, seconds: f64, of: impl Fn(f64) -> f64) -> CaptureChannel {
        let count = (seconds * self.rate_hz) as usize;
        let sigma = self.noise * full;
        let samples = (0..count).map(|n| (of(n as f64 / self.rate_hz) + sigma * self.normal()) as f32).collect();
        CaptureChannel { name: name.into(), unit: unit.into(), samples }
    }

    /// A pulse of 5 V once in two turns, at the firing point of the first cylinder of the firing order.
    fn sync(&mut self, cycle_s: f64, seconds: f64, offset_s: f64) -> CaptureChannel {
        self.channel("sync", "V", 5.0, seconds, |t| {
            let phase = (t - offset_s).rem_euclid(cycle_s);
            if phase < 0.02 * cycle_s { 5.0 } else { 0.0 }
        })
    }

    fn capture(&self, channels: Vec<CaptureChannel>) -> Capture {
        Capture { step_s: 1.0 / self.rate_hz, channels }
    }

    /// The current of all coils on one clamp, with a sync channel. `of` gives each cylinder its coil.
    pub fn coil_current(&mut self, engine: &Engine, seconds: f64, of: impl Fn(u8) -> CoilTruth) -> Capture {
        let order = engine.firing_order.clone();
        let first = of(order[0]);
        let cycle = 120.0 / first.rpm;
        let offset = 0.6 * cycle / order.len() as f64;
        let coils: Vec<CoilTruth> = order.iter().map(|c| of(*c)).collect();
        let current = |t: f64| {
            let mut sum = 0.0;
            for (place, coil) in coils.iter().enumerate() {
                // The switch opens at the firing point.
                let fires = offset + cycle * place as f64 / coils.len() as f64;
                let since = (t - (fires - coil.dwell_ms * 1e-3)).rem_euclid(cycle);
                if since < coil.dwell_ms * 1e-3 {
                    let tau = coil.inductance_mh * 1e-3 / coil.resistance_ohm;
                    let ramp = coil.supply_v / coil.resistance_ohm * (1.0 - (-since / tau).exp());
                    sum += coil.limit_a.map_or(ramp, |limit| ramp.min(limit));
                }
            }
            sum
        };
        let channel = self.channel("coil current", "A", 8.0, seconds, current);
        let sync = self.sync(cycle, seconds, offset);
        self.capture(vec![channel, sync])
    }

    /// The secondary voltage of one cylinder.
    pub fn ignition_voltage(&mut self, seconds: f64, truth: SparkTruth) -> Capture {
        let cycle = 120.0 / truth.rpm;
        let voltage = |t: f64| {
            let since = (t - 0.004).rem_euclid(cycle) * 1e3;
            if since < 0.01 {
                truth.firing_kv * since / 0.01
            } else if since < 0.03 {
                truth.firing_kv + (truth.spark_line_kv - truth.firing_kv) * (since - 0.01) / 0.02
            } else if since < truth.burn_ms + 0.01 {
                // The line rises a little as the charge thins.
                truth.spark_line_kv * (1.0 + 0.15 * (since / truth.burn_ms).powi(3))
            } else {
                let ring = since - truth.burn_ms - 0.01;
                0.7 * truth.spark_line_kv * (-ring / 0.25).exp() * -(std::f64::consts::TAU * 5.0 * ring).sin()
            }
        };
        let channel = self.channel("secondary", "kV", truth.firing_kv, seconds, voltage);
        self.capture(vec![channel])
    }

    /// Current and voltage of one injector. While the needle moves, the current sags and rises again at its stop.
    pub fn injector(&mut self, seconds: f64, truth: InjectorTruth) -> Capture {
        let cycle = 120.0 / truth.rpm;
        let (offset, tau) = (0.006, truth.inductance_mh * 1e-3 / truth.resistance_ohm);
        let full = truth.supply_v / truth.resistance_ohm;
        let current = |t: f64| {
            let since = (t - offset).rem_euclid(cycle);
            if since > truth.pulse_ms * 1e-3 {
                return 0.0;
            }
            let ramp = full * (1.0 - (-since / tau).exp());
            let ms = since * 1e3;
            let moving = 0.35;
            let sag = if ms > truth.opens_ms {
                0.13 * full * (-(ms - truth.opens_ms) / 0.5).exp()
            } else if ms > truth.opens_ms - moving {
                0.13 * full * (1.0 - (truth.opens_ms - ms) / moving)
            } else {
                0.0
            };
            (ramp - sag).max(0.0)
        };
        let voltage = |t: f64| {
            let since = (t - offset).rem_euclid(cycle);
            if since <= truth.pulse_ms * 1e-3 {
                0.4
            } else {
                let after = since - truth.pulse_ms * 1e-3;
                truth.supply_v + 55.0 * (-after / 0.15e-3).exp()
            }
        };
        let channels = vec![
            self.channel("injector current", "A", full, seconds, current),
            self.channel("injector voltage", "V", truth.supply_v, seconds, voltage),
        ];
        self.capture(channels)
    }

    /// The voltage between a motor's pins, driven both ways, and the position of what it moves.
    pub fn motor_drive(&mut self, seconds: f64, truth: DriveTruth) -> Capture {
        let way = |t: f64| if ((t / seconds * 4.0) as u32).is_multiple_of(2) { 1.0 } else { -1.0 };
        let drive = |t: f64| {
            let on = (t * truth.frequency_hz).fract() < truth.duty;
            if on { truth.supply_v * way(t) } else { 0.0 }
        };
        let quarter = seconds / 4.0;
        let position = |t: f64| {
            let place = (t % (2.0 * quarter)) / quarter;
            let open = if place < 1.0 { place } else { 2.0 - place };
            let open = if truth.reversed { 1.0 - open } else { open };
            0.5 + 4.0 * open
        };
        let channels = vec![
            self.channel("motor", "V", truth.supply_v, seconds, drive),
            self.channel("position", "V", 5.0, seconds, position),
        ];
        self.capture(channels)
    }

    /// The starter's current with the engine's humps; `share` gives each cylinder its compression, 1 for a sound one.
    pub fn cranking(&mut self, engine: &Engine, seconds: f64, rpm: f64, share: impl Fn(u8) -> f64) -> Capture {
        let cycle = 120.0 / rpm;
        let order = engine.firing_order.clone();
        let period = cycle / order.len() as f64;
        let offset = 0.7 * period;
        let heights: Vec<f64> = order.iter().map(|c| 60.0 * share(*c)).collect();
        let current = |t: f64| {
            let inrush = 500.0 * (-t / 0.06).exp();
            let place = (t - offset) / period;
            let nearest = place.round();
            let hump = heights[nearest.rem_euclid(order.len() as f64) as usize];
            // Between two humps the larger of the two flanks counts.
            inrush + 110.0 + hump * 0.5 * (1.0 + (std::f64::consts::TAU * (place - nearest)).cos())
        };
        let channel = self.channel("starter current", "A", 200.0, seconds, current);
        let sync = self.sync(cycle, seconds, offset);
        self.capture(vec![channel, sync])
    }

    /// Crank and cam.
    pub fn crank_and_cam(&mut self, seconds: f64, truth: &CamTruth) -> Capture {
        let places = f64::from(truth.teeth + truth.missing);
        let turn = 60.0 / truth.rpm;
        // Cranking and idling engines do not turn evenly.
        let degrees = |t: f64| {
            let even = 360.0 * t / turn;
            even + 2.0 * (std::f64::consts::TAU * 2.0 * t / turn).sin()
        };
        let crank = |t: f64| {
            let place = degrees(t) / 360.0 * places;
            let tooth = place.rem_euclid(places);
            if tooth >= f64::from(truth.teeth) {
                return if truth.magnetic { 0.0 } else { 0.2 };
            }
            if truth.magnetic {
                2.0 * (std::f64::consts::TAU * tooth.fract()).sin()
            } else if tooth.fract() < 0.5 {
                4.8
            } else {
                0.2
            }
        };
        let cam = |t: f64| {
            let at = (degrees(t) - truth.shift_deg).rem_euclid(720.0);
            let passed = truth.edges_deg.iter().filter(|edge| **edge <= at).count();
            if passed % 2 == 1 { 4.8 } else { 0.2 }
        };
        let channels =
            vec![self.channel("crank", "V", 4.8, seconds, crank), self.channel("cam", "V", 4.8, seconds, cam)];
        self.capture(channels)
    }
}
