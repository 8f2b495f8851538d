//! The engine model: air, mixture, charge pressure and misfires, step by step.
//!
//! It is a stand-in, not a theory of engines: each quantity follows its cause as a technician would expect to see it
//! on the scan, with the noise and the steps of a real reading.

use ember_core::knowledge::Knowledge;
use ember_core::trims::Hole;
use rand::Rng;
use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::SeedableRng;

use crate::drive::{Wanted, wanted};
use crate::fault::Fault;
use crate::profile::{Burns, Profile};

/// The model's step.
pub const STEP_S: f64 = 0.05;
const AMBIENT_KPA: f64 = 98.0;
const AMBIENT_C: f64 = 4.0;
/// Trims stop here.
const TRIM_LIMIT: f64 = 25.0;

/// Everything a reading can show.
#[derive(Debug, Clone, PartialEq)]
pub struct State {
    pub time_s: f64,
    pub rpm: f64,
    /// What the crank signal shows: 0 when it is lost.
    pub shown_rpm: f64,
    pub load: f64,
    pub km_h: f64,
    pub odometer_km: f64,
    pub coolant_c: f64,
    pub intake_c: f64,
    pub map_kpa: f64,
    pub ambient_kpa: f64,
    pub airflow_gps: f64,
    pub throttle_pct: f64,
    pub short_pct: Vec<f64>,
    pub long_pct: Vec<f64>,
    pub closed_loop: bool,
    pub advance_deg: f64,
    pub battery_v: f64,
    pub requested_kpa: f64,
    pub actual_kpa: f64,
    pub vane_request_pct: f64,
    pub vane_pct: f64,
    pub rail_request_kpa: f64,
    pub rail_kpa: f64,
    /// Counted this drive.
    pub misfires: Vec<u16>,
    pub run_s: f64,
}

/// An engine with its faults.
pub struct Model {
    pub profile: Profile,
    pub faults: Vec<Fault>,
    pub state: State,
    random: ChaCha8Rng,
    hole: Hole,
    /// Learned trims by bank and region of flow, as factors less 1.
    learned: Vec<[Option<f64>; 3]>,
    short: Vec<f64>,
    boost_rate: f64,
    burst: f64,
    burst_left_s: f64,
    firing_rest: f64,
    /// A tester's hold on an output: the vanes or the throttle flap, in percent.
    pub held_vane: Option<f64>,
    pub held_throttle: Option<f64>,
    lost_until_s: f64,
    /// Whether the driver drives the loop; else the engine idles.
    pub driving: bool,
    driven_s: f64,
}

impl Model {
    pub fn new(profile: Profile, faults: Vec<Fault>, seed: u64) -> Model {
        let banks = profile.banks.len();
        let state = State {
            time_s: 0.0,
            rpm: profile.idle_rpm,
            shown_rpm: profile.idle_rpm,
            load: 0.06,
            km_h: 0.0,
            odometer_km: profile.odometer_km,
            // Driven to the bay: warm.
            coolant_c: 84.0,
            intake_c: 18.0,
            map_kpa: 35.0,
            ambient_kpa: AMBIENT_KPA,
            airflow_gps: 4.0,
            throttle_pct: 8.0,
            short_pct: vec![0.0; banks],
            long_pct: vec![0.0; banks],
            closed_loop: true,
            advance_deg: 10.0,
            battery_v: 14.1,
            requested_kpa: AMBIENT_KPA,
            actual_kpa: AMBIENT_KPA,
            vane_request_pct: 20.0,
            vane_pct: 20.0,
            rail_request_kpa: 28_000.0,
            rail_kpa: 28_000.0,
            misfires: vec![0; usize::from(profile.cylinders)],
            run_s: 0.0,
        };
        // The true hole of the leak follows the same physics that any text gives; the readings get their noise here.
        let hole = Hole::new(&Knowledge::built_in().trims.hole, AMBIENT_KPA, 18.0);
        Model {
            learned: vec![[None; 3]; banks],
            short: vec![0.0; banks],
            boost_rate: 0.0,
            burst: 0.3,
            burst_left_s: 0.0,
            firing_rest: 0.0,
            held_vane: None,
            held_throttle: None,
            lost_until_s: 0.0,
            driving: true,
            driven_s: 0.0,
            random: ChaCha8Rng::seed_from_u64(seed),
            hole,
            profile,
            faults,
            state,
        }
    }

    /// Runs until `time_s`.
    pub fn run_to(&mut self, time_s: f64) {
        while self.state.time_s + STEP_S <= time_s {
            self.step();
        }
    }

    /// The counters begin anew, as a clearing makes them.
    pub fn clear_counters(&mut self) {
        self.state.misfires.fill(0);
    }

    fn noise(&mut self, size: f64) -> f64 {
        // The sum of three even draws is near enough to a bell.
        let draw: f64 = (0..3).map(|_| self.random.random_range(-1.0..1.0)).sum();
        draw * size
    }

    fn has(&self, wanted: Fault) -> bool {
        self.faults.contains(&wanted)
    }

    fn figure(&self, of: impl Fn(&Fault) -> Option<f64>) -> Option<f64> {
        self.faults.iter().find_map(of)
    }

    fn step(&mut self) {
        let dt = STEP_S;
        if self.driving {
            self.driven_s += dt;
        }
        let want = match self.driving {
            true => wanted(self.driven_s, self.profile.idle_rpm),
            false => Wanted { rpm: self.profile.idle_rpm, load: 0.06, km_h: 0.0 },
        };
        let jitter = self.noise(6.0);
        let s = &mut self.state;
        s.time_s += dt;
        s.run_s += dt;
        s.rpm += (want.rpm + jitter - s.rpm) * dt / 1.4;
        s.load += (want.load - s.load) * dt / 0.5;
        s.km_h += (want.km_h - s.km_h) * dt / 4.0;
        s.odometer_km += s.km_h * dt / 3600.0;
        s.coolant_c += (88.0 + 14.0 * s.load - s.coolant_c) * dt / 90.0;
        s.battery_v = 14.15 - 0.1 * s.load;
        self.crank(dt);
        match self.profile.fuel {
            Burns::Petrol => self.petrol(dt),
            Burns::Diesel => self.diesel(dt),
        }
        self.misfire(dt);
    }

    fn crank(&mut self, _dt: f64) {
        if self.has(Fault::CrankHot) && self.state.coolant_c > 92.0 && self.state.time_s > self.lost_until_s + 25.0 {
            // Now and then, and more often the hotter it is.
            let chance = 0.002 * (self.state.coolant_c - 91.0);
            if self.random.random_bool(chance.clamp(0.0, 0.5)) {
                self.lost_until_s = self.state.time_s + 2.5;
            }
        }
        let lost = self.state.time_s < self.lost_until_s;
        if lost {
            self.state.rpm *= 0.93;
        }
        self.state.shown_rpm = if lost { 0.0 } else { self.state.rpm };
    }

    /// Air that the cylinders draw, in g/s.
    fn drawn(&self, map_kpa: f64) -> f64 {
        let density = map_kpa * 1000.0 / (287.05 * (self.state.intake_c + 273.15));
        self.profile.litres * self.state.rpm / 120.0 * 0.84 * density
    }

    fn petrol(&mut self, dt: f64) {
        let flicker = self.noise(0.25);
        let load = self.state.load;
        let full = if self.profile.charged { 165.0 } else { AMBIENT_KPA - 2.0 };
        let map = 27.0 + (full - 27.0) * load + flicker;
        self.state.map_kpa = map;
        let total = self.drawn(map);
        let leak = self
            .figure(|f| if let Fault::AirLeak(mm) = f { Some(*mm) } else { None })
            .map_or(0.0, |mm| self.hole.choked_gps(mm) * self.hole.psi(map).max(-1.0))
            .min(total * 0.8);
        let metered = total - leak;
        let most = self.profile.litres * 4000.0 / 120.0 * 0.84 * 1.2;
        let under = self
            .figure(|f| if let Fault::MeterUnderReads(share) = f { Some(*share) } else { None })
            .map_or(1.0, |share| 1.0 - (1.0 - share) * (metered / most).powf(0.35).min(1.0));
        let delivery = self
            .figure(|f| if let Fault::WeakPump(share) = f { Some(*share) } else { None })
            .map_or(1.0, |share| 1.0 - (1.0 - share) * (metered / most).min(1.0));
        let shown = metered * under * (1.0 + self.noise(0.004));
        self.state.airflow_gps = shown;
        self.state.throttle_pct = self.held_throttle.unwrap_or(6.0 + 80.0 * load);
        self.state.advance_deg = 32.0 - 20.0 * load + (self.state.rpm - 700.0) / 400.0;
        self.state.closed_loop = self.state.coolant_c > 45.0 && load < 0.97;
        let region = if self.state.rpm < 1150.0 {
            0
        } else if load > 0.6 {
            2
        } else {
            1
        };
        let missing = self.missing_by_bank();
        for (bank, missing) in missing.into_iter().enumerate() {
            let share = self.profile.banks[bank].len() as f64 / f64::from(self.profile.cylinders);
            // The leak enters at the first bank's runners. An engine that reckons from pressure knows of that air.
            let own = if bank == 0 && !self.profile.speed_density { leak } else { 0.0 };
            let needed = (metered * share + own) / (metered * share * under) / delivery + missing;
            let learned = self.learned[bank][region].get_or_insert(0.75 * (needed - 1.0));
            *learned += (needed / (1.0 + *learned) - 1.0) * dt / 45.0;
            *learned = learned.clamp(-TRIM_LIMIT / 100.0, TRIM_LIMIT / 100.0);
            let rest = needed / (1.0 + *learned) - 1.0;
            let learned = *learned;
            self.short[bank] += (rest - self.short[bank]) * dt / 0.8;
            let swing = 0.013 * (self.state.time_s * 4.4 + bank as f64).sin();
            let short = (self.short[bank] + swing + self.noise(0.004)) * 100.0;
            let stepped = |pct: f64| ((pct / 100.0 * 128.0).round() * 100.0 / 128.0).clamp(-TRIM_LIMIT, TRIM_LIMIT);
            self.state.short_pct[bank] = if self.state.closed_loop { stepped(short) } else { 0.0 };
            self.state.long_pct[bank] = stepped(learned * 100.0);
        }
    }

    /// Unburnt oxygen reads as lean: the share of a bank's firings that miss now.
    fn missing_by_bank(&self) -> Vec<f64> {
        self.profile
            .banks
            .iter()
            .map(|bank| bank.iter().map(|&c| self.chance(c)).sum::<f64>() / bank.len() as f64)
            .collect()
    }

    fn diesel(&mut self, dt: f64) {
        let load = self.state.load;
        let speed = ((self.state.rpm - 900.0) / 1300.0).clamp(0.0, 1.0);
        self.state.requested_kpa = AMBIENT_KPA + 125.0 * load * (0.25 + 0.75 * speed);
        let asked = self.state.requested_kpa - AMBIENT_KPA;
        let leak = self.figure(|f| if let Fault::BoostLeak(s) = f { Some(*s) } else { None }).unwrap_or(0.0);
        let stuck = self.has(Fault::StuckActuator);
        let idle_hands = self.has(Fault::VanesNotDriven);
        let sticking = self.has(Fault::StickingVanes);
        self.state.vane_request_pct = (25.0 + 55.0 * load + 30.0 * leak * load).clamp(0.0, 100.0);
        let towards = self.held_vane.unwrap_or(if idle_hands { 22.0 } else { self.state.vane_request_pct });
        if !stuck {
            // Sticking vanes break loose only when enough force has built up.
            let gap = towards - self.state.vane_pct;
            if !sticking || self.held_vane.is_some() || gap.abs() > 16.0 {
                self.state.vane_pct +=
                    gap * (dt / 0.25).min(1.0) * if sticking && self.held_vane.is_none() { 1.2 } else { 1.0 };
            }
        } else {
            self.state.vane_pct = 47.0;
        }
        let actual = self.state.actual_kpa - AMBIENT_KPA;
        let wants = if stuck || idle_hands {
            // Only the exhaust's flow moves it now.
            18.0 + 16.0 * speed
        } else {
            asked * (1.0 - leak)
        };
        if sticking {
            // Late and then too far: an underdamped loop with a soft spring.
            let (omega, damping) = (1.5, 0.3);
            self.boost_rate += (omega * omega * (wants - actual) - 2.0 * damping * omega * self.boost_rate) * dt;
            self.state.actual_kpa += self.boost_rate * dt;
        } else {
            self.state.actual_kpa += (wants - actual) * dt / (0.45 + 0.5 * (1.0 - speed));
        }
        self.state.actual_kpa = self.state.actual_kpa.max(AMBIENT_KPA - 3.0);
        self.state.map_kpa = self.state.actual_kpa + self.noise(0.4);
        let flow = self.drawn(self.state.map_kpa);
        self.state.airflow_gps = flow * (1.0 + self.noise(0.005));
        self.state.throttle_pct = self.held_throttle.unwrap_or(92.0);
        self.state.rail_request_kpa = 28_000.0 + 130_000.0 * load;
        let pump = self.figure(|f| if let Fault::WeakPump(s) = f { Some(*s) } else { None }).unwrap_or(1.0);
        let can = self.state.rail_request_kpa * (1.0 - (1.0 - pump) * load);
        self.state.rail_kpa += (can + self.noise(300.0) - self.state.rail_kpa) * dt / 0.3;
        self.state.closed_loop = false;
    }

    /// The chance that a firing of this cylinder misses now.
    fn chance(&self, cylinder: u8) -> f64 {
        let mut chance = 0.00003;
        for fault in &self.faults {
            chance += match *fault {
                Fault::DeadCoil(n) if n == cylinder => 1.0,
                Fault::MisfireUnderLoad(n) if n == cylinder => {
                    0.035 / (1.0 + (-(self.state.load - 0.66) / 0.03).exp()) * self.burst
                }
                Fault::TakingTurns => {
                    // Every other cylinder of the numbers, for a minute and a half each.
                    let turn = (self.state.time_s / 90.0) as u64 % 2;
                    if u64::from(cylinder) % 2 == turn { 0.03 * self.burst } else { 0.0 }
                }
                Fault::GlowPlug(n) if n == cylinder && self.state.coolant_c < 40.0 => 0.2,
                _ => 0.0,
            };
        }
        chance.min(1.0)
    }

    fn misfire(&mut self, dt: f64) {
        self.burst_left_s -= dt;
        if self.burst_left_s <= 0.0 {
            // Misfires come in bursts: many in one stretch of three, few in the others.
            self.burst = if self.random.random_bool(0.3) { 2.6 } else { 0.3 };
            self.burst_left_s = self.random.random_range(1.5..4.5);
        }
        self.firing_rest += self.state.rpm * dt / 120.0;
        while self.firing_rest >= 1.0 {
            self.firing_rest -= 1.0;
            for cylinder in 1..=self.profile.cylinders {
                if self.random.random_bool(self.chance(cylinder)) {
                    let counter = &mut self.state.misfires[usize::from(cylinder) - 1];
                    *counter = counter.wrapping_add(1);
                }
            }
        }
    }
}

/// The ambient temperature that the cars report.
pub(crate) const OUTSIDE_C: f64 = AMBIENT_C;
