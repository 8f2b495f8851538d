//! Simulated instruments on the simulated cars: a meter with its leads, a scope, a hand pump and a gauge, each with noise.

use std::collections::BTreeMap;
use std::sync::LazyLock;

use ember_core::bench::hold::HoldReading;
use ember_core::bench::meter::MeterAccuracy;
use ember_core::engine::Engine;
use ember_core::waveform::Capture;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::SimError;
use crate::scope::{CamTruth, CoilTruth, DriveTruth, InjectorTruth, Scope, SparkTruth};

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct CoilFigures {
    inductance_mh: f64,
    resistance_ohm: f64,
    dwell_ms: f64,
    rpm: f64,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct ActuatorFigures {
    rest_v: f64,
    full_v: f64,
    rest_per_turn: f64,
    full_per_turn: f64,
    leak_pct_per_min: f64,
}

/// A pin and what a meter finds there.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SimPin {
    pub pin: u16,
    pub volt: f64,
    #[serde(default)]
    pub ground_ohm: Option<f64>,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
struct BenchOfCar {
    battery_v: f64,
    temperature_c: f64,
    #[serde(default)]
    parts: BTreeMap<String, Vec<f64>>,
    #[serde(default)]
    paths: BTreeMap<String, Vec<f64>>,
    #[serde(default)]
    pins: BTreeMap<String, Vec<SimPin>>,
    #[serde(default)]
    coil: Option<CoilFigures>,
    #[serde(default)]
    actuator: Option<ActuatorFigures>,
    #[serde(default)]
    compression_kpa: Vec<f64>,
}

static CARS: LazyLock<BTreeMap<String, BenchOfCar>> = LazyLock::new(|| {
    toml::from_str(include_str!("../bench.toml")).unwrap_or_else(|fault| panic!("crates/ember-sim/bench.toml: {fault}"))
});

/// How much more the net has while the engine runs.
const CHARGING_V: f64 = 1.3;
/// The leads of the simulated meter.
pub const LEADS_OHM: f64 = 0.21;

/// What a simulated instrument can be asked.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "read", rename_all = "kebab-case", deny_unknown_fields)]
pub enum SimQuestion {
    /// The leads held together.
    Leads,
    /// A part's winding; three readings of a display that is never quite still.
    Resistance {
        part: String,
        #[serde(default)]
        cylinder: Option<u8>,
    },
    /// Every like part of the engine, the leads taken off.
    Sisters {
        part: String,
    },
    /// The voltages along a circuit, from its feed to its ground.
    Path {
        circuit: String,
    },
    Pins {
        connector: String,
    },
    /// At rest, and while the engine runs.
    Battery,
    /// The hand pump on the actuator, watched.
    Hold,
    /// The actuator's signal at rest and at full travel, the rod turned from where it was found.
    Rod {
        turns: f64,
    },
    Compression,
}

/// What it shows. Only what was asked for is filled.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SimAnswer {
    pub instrument: String,
    /// What its data sheet says of the range that was used.
    pub accuracy: Option<MeterAccuracy>,
    /// The display, reading by reading.
    pub display: Vec<f64>,
    pub range_multiplier: f64,
    pub part_c: Option<f64>,
    /// One for each cylinder or point.
    pub values: Vec<f64>,
    pub pins: Vec<SimPin>,
    /// Seconds, and the gauge.
    pub hold: Vec<HoldReading>,
    pub rest_v: Option<f64>,
    pub full_v: Option<f64>,
}

/// Instruments at one simulated car.
pub struct Instruments {
    car: BenchOfCar,
    rng: ChaCha8Rng,
}

impl Instruments {
    /// # Errors
    /// No such simulated car.
    pub fn at(fleet_no: &str, seed: u64) -> Result<Instruments, SimError> {
        let car = CARS.get(fleet_no).cloned().ok_or_else(|| SimError::UnknownVehicle(fleet_no.to_owned()))?;
        Ok(Instruments { car, rng: ChaCha8Rng::seed_from_u64(seed) })
    }

    /// A little off, evenly either way.
    fn about(&mut self, value: f64, share: f64) -> f64 {
        value * (1.0 + share * self.rng.random_range(-1.0..1.0))
    }

    fn part(&self, part: &str) -> Result<Vec<f64>, SimError> {
        let known = || self.car.parts.keys().cloned().collect::<Vec<_>>().join(", ");
        let list = self.car.parts.get(part);
        list.cloned()
            .ok_or_else(|| SimError::DoesNotFit(format!("this car has no {part} to measure; it has {}", known())))
    }

    /// Reads an instrument.
    ///
    /// # Errors
    /// A part, circuit or connector that this car does not have.
    pub fn ask(&mut self, question: &SimQuestion) -> Result<SimAnswer, SimError> {
        let mut answer =
            SimAnswer { instrument: "simulated meter".into(), range_multiplier: 1.0, ..SimAnswer::default() };
        let missing = |what: &str| SimError::DoesNotFit(format!("this car has no {what} to measure"));
        match question {
            SimQuestion::Leads => answer.display = vec![rounded(self.about(LEADS_OHM, 0.02), 0.01)],
            SimQuestion::Resistance { part, cylinder } => {
                let list = self.part(part)?;
                let index = usize::from(cylinder.unwrap_or(1).max(1) - 1);
                let cold = *list.get(index).ok_or_else(|| missing(&format!("{part} at that cylinder")))?;
                let hot = if part == "plug-lead" { cold } else { cold * copper(self.car.temperature_c) };
                let shown = hot + LEADS_OHM;
                // The range on which it shows best: 2000 counts.
                let (multiplier, resolution) = match shown {
                    x if x < 19.0 => (1.0, 0.01),
                    x if x < 1900.0 => (1.0, 1.0),
                    _ => (1000.0, 0.01),
                };
                answer.range_multiplier = multiplier;
                answer.accuracy = Some(MeterAccuracy { percent: 0.8, digits: 3.0, resolution });
                answer.display = (0..3).map(|_| rounded(self.about(shown / multiplier, 0.002), resolution)).collect();
                answer.part_c = Some(self.car.temperature_c.round());
            }
            SimQuestion::Sisters { part } => {
                answer.values = self
                    .part(part)?
                    .into_iter()
                    .map(|ohm| {
                        rounded(
                            self.about(ohm, 0.003),
                            if ohm < 19.0 { 0.01 } else { 10f64.powf((ohm / 400.0).log10().floor()) },
                        )
                    })
                    .collect();
            }
            SimQuestion::Path { circuit } => {
                let list = self.car.paths.get(circuit).cloned().ok_or_else(|| missing(circuit))?;
                answer.values = list.into_iter().map(|volt| rounded(self.about(volt, 0.002), 0.01)).collect();
            }
            SimQuestion::Pins { connector } => {
                answer.pins = self.car.pins.get(connector).cloned().ok_or_else(|| missing(connector))?;
            }
            SimQuestion::Battery => {
                answer.values = [self.car.battery_v, self.car.battery_v + CHARGING_V]
                    .map(|volt| rounded(self.about(volt, 0.003), 0.01))
                    .to_vec();
            }
            SimQuestion::Hold => {
                answer.instrument = "simulated hand pump".into();
                let actuator = self.car.actuator.clone().ok_or_else(|| missing("vacuum actuator"))?;
                answer.hold = [0.0, 30.0, 60.0, 90.0, 120.0]
                    .into_iter()
                    .map(|second| {
                        let kept = (-actuator.leak_pct_per_min / 100.0 * second / 60.0).exp();
                        let kpa = rounded(57.3 * kept + self.rng.random_range(-0.2..0.2), 0.1);
                        HoldReading { time_s: second, kpa }
                    })
                    .collect();
            }
            SimQuestion::Rod { turns } => {
                let actuator = self.car.actuator.clone().ok_or_else(|| missing("vacuum actuator"))?;
                answer.rest_v =
                    Some(rounded(self.about(actuator.rest_v + actuator.rest_per_turn * turns, 0.002), 0.01));
                answer.full_v =
                    Some(rounded(self.about(actuator.full_v + actuator.full_per_turn * turns, 0.002), 0.01));
            }
            SimQuestion::Compression => {
                answer.instrument = "simulated gauge".into();
                let list = self.car.compression_kpa.clone();
                answer.values = list.into_iter().map(|kpa| rounded(self.about(kpa, 0.01), 5.0)).collect();
            }
        }
        Ok(answer)
    }
}

fn copper(c: f64) -> f64 {
    1.0 + 0.00393 * (c - 20.0)
}

fn rounded(value: f64, resolution: f64) -> f64 {
    // A product of the resolution carries its own rounding; the text that a display shows does not.
    let steps = (value / resolution).round();
    (steps * resolution * 1e6).round() / 1e6
}

/// What the simulated scope can be clamped to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum SimProbe {
    CoilCurrent,
    IgnitionVoltage,
    Injector,
    MotorDrive,
    Cranking,
    CrankAndCam,
}

/// Captures something of a simulated car.
///
/// # Errors
/// No such car.
pub fn capture(fleet_no: &str, engine: &Engine, probe: SimProbe, seed: u64) -> Result<Capture, SimError> {
    let car = CARS.get(fleet_no).ok_or_else(|| SimError::UnknownVehicle(fleet_no.to_owned()))?;
    let mut scope = Scope::new(50_000.0, 0.008, seed);
    let charging_v = car.battery_v + CHARGING_V;
    Ok(match probe {
        SimProbe::CoilCurrent => {
            let coil = car.coil.clone().unwrap_or(CoilFigures {
                inductance_mh: 3.8,
                resistance_ohm: 0.7,
                dwell_ms: 2.5,
                rpm: 1500.0,
            });
            scope.rate_hz = 100_000.0;
            scope.coil_current(engine, 0.8, |_| CoilTruth {
                supply_v: charging_v,
                inductance_mh: coil.inductance_mh,
                resistance_ohm: coil.resistance_ohm,
                dwell_ms: coil.dwell_ms,
                limit_a: None,
                rpm: coil.rpm,
            })
        }
        SimProbe::IgnitionVoltage => {
            scope.rate_hz = 250_000.0;
            scope.ignition_voltage(0.8, SparkTruth { firing_kv: 11.0, spark_line_kv: 1.2, burn_ms: 1.3, rpm: 900.0 })
        }
        SimProbe::Injector => scope.injector(
            0.8,
            InjectorTruth {
                supply_v: charging_v,
                inductance_mh: 14.0,
                resistance_ohm: 13.5,
                pulse_ms: 4.2,
                opens_ms: 1.9,
                rpm: 1200.0,
            },
        ),
        SimProbe::MotorDrive => scope
            .motor_drive(2.0, DriveTruth { supply_v: charging_v, frequency_hz: 1000.0, duty: 0.35, reversed: false }),
        SimProbe::Cranking => {
            scope.rate_hz = 10_000.0;
            let best = car.compression_kpa.iter().copied().fold(1.0, f64::max);
            scope.cranking(engine, 4.0, 200.0, |c| {
                car.compression_kpa.get(usize::from(c) - 1).map_or(1.0, |kpa| kpa / best)
            })
        }
        SimProbe::CrankAndCam => scope.crank_and_cam(
            1.0,
            &CamTruth {
                teeth: 58,
                missing: 2,
                rpm: 850.0,
                edges_deg: vec![40.0, 110.0, 250.0, 290.0, 430.0, 560.0],
                shift_deg: 0.4,
                magnetic: false,
            },
        ),
    })
}
