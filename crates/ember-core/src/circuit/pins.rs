//! The pins of a connector, named by what they show with the key on.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Judged, volt};
use crate::bench::knowledge::BenchKnowledge;
use crate::refusal::Refusal;

/// What a pin is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PinRole {
    /// Five volts for a sensor.
    Reference,
    Signal,
    Ground,
    /// Battery voltage.
    Feed,
    /// Driven either way by the control unit.
    MotorDrive,
    Open,
    /// Nought volt: a ground or an open wire, which a voltage alone does not tell.
    GroundOrOpen,
    /// Somewhere between what the others show.
    Unclear,
}

impl PinRole {
    pub fn words(self) -> &'static str {
        match self {
            PinRole::Reference => "5 V reference",
            PinRole::Signal => "signal",
            PinRole::Ground => "ground",
            PinRole::Feed => "battery feed",
            PinRole::MotorDrive => "motor drive",
            PinRole::Open => "open",
            PinRole::GroundOrOpen => "ground or open",
            PinRole::Unclear => "unclear",
        }
    }
}

/// What was read at a pin.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PinReading {
    pub pin: u16,
    /// Against the battery's negative post, key on.
    #[serde(default)]
    pub volt: Option<f64>,
    /// The least and the most while nothing was moved, when the display swings.
    #[serde(default)]
    pub swings_v: Option<[f64; 2]>,
    /// To the body, key off; a value far beyond any meter's range stands for an open circuit.
    #[serde(default)]
    pub ground_ohm: Option<f64>,
    /// The wire's insulation was pierced to get at it.
    #[serde(default)]
    pub pierced: bool,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ExpectedPin {
    pub pin: u16,
    pub role: PinRole,
    #[serde(default)]
    pub name: String,
    #[serde(default)]
    pub wire: String,
}

/// A motor's two pins and the voltage between them while it is told to open.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MotorReading {
    /// The pin that should be the positive one while it opens.
    pub positive_pin: u16,
    pub negative_pin: u16,
    /// From the negative to the positive pin.
    pub opening_v: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PinsInput {
    pub readings: Vec<PinReading>,
    #[serde(default)]
    pub expected: Vec<ExpectedPin>,
    #[serde(default)]
    pub motor: Option<MotorReading>,
    /// Key on, at the posts; 12.5 is taken where it was not measured.
    #[serde(default)]
    pub battery_v: Option<f64>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PinJudged {
    pub pin: u16,
    pub shows: PinRole,
    pub expected: Option<PinRole>,
    pub verdict: Judged,
    pub says: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PinsResult {
    pub pins: Vec<PinJudged>,
    /// Pairs that show each other's voltages.
    pub crossed: Vec<[u16; 2]>,
    pub reversed: bool,
    pub verdict: Judged,
    pub says: String,
    pub put_right: Vec<String>,
}

/// Names pins by their voltages and compares them with what is expected.
///
/// # Errors
/// No reading, a pin read or expected twice, a pin without any figure, a voltage that cannot be.
pub fn pins(input: &PinsInput, knowledge: &BenchKnowledge) -> Result<PinsResult, Refusal> {
    if input.readings.is_empty() && input.motor.is_none() {
        return Err(Refusal::new("readings", "is empty"));
    }
    let battery = volt("battery_v", input.battery_v.unwrap_or(12.5))?;
    for (index, reading) in input.readings.iter().enumerate() {
        let field = |name: &str| format!("readings[{index}].{name}");
        if input.readings[..index].iter().any(|other| other.pin == reading.pin) {
            return Err(Refusal::new(field("pin"), format!("pin {} was read twice", reading.pin)));
        }
        if reading.volt.is_none() && reading.swings_v.is_none() && reading.ground_ohm.is_none() {
            return Err(Refusal::new(field("volt"), "what was read?"));
        }
        if let Some(value) = reading.volt {
            volt(&field("volt"), value)?;
        }
        if let Some([low, high]) = reading.swings_v {
            volt(&field("swings_v"), low)?;
            volt(&field("swings_v"), high)?;
            if low > high {
                return Err(Refusal::new(field("swings_v"), format!("low {low} lies above high {high}")));
            }
        }
        if reading.ground_ohm.is_some_and(|ohm| ohm.is_nan() || ohm < 0.0) {
            return Err(Refusal::new(field("ground_ohm"), "must be nought or more"));
        }
    }
    for (index, expected) in input.expected.iter().enumerate() {
        if input.expected[..index].iter().any(|other| other.pin == expected.pin) {
            return Err(Refusal::new(format!("expected[{index}].pin"), format!("pin {} stands twice", expected.pin)));
        }
    }
    let expected = |pin: u16| input.expected.iter().find(|one| one.pin == pin);
    let shown: Vec<(u16, PinRole)> =
        input.readings.iter().map(|reading| (reading.pin, role(reading, battery, knowledge))).collect();
    let mut list: Vec<PinJudged> = input
        .readings
        .iter()
        .zip(&shown)
        .map(|(reading, &(pin, shows))| {
            let wanted = expected(pin).map(|one| one.role);
            let verdict = match wanted {
                None => Judged::CannotTell,
                Some(wanted) => fits(wanted, shows, reading.volt.is_some()),
            };
            PinJudged { pin, shows, expected: wanted, verdict, says: pin_words(reading, shows, wanted) }
        })
        .collect();
    list.sort_by_key(|one| one.pin);
    let wrong: Vec<&PinJudged> = list.iter().filter(|one| one.verdict == Judged::Bad).collect();
    let mut crossed = Vec::new();
    for (index, a) in wrong.iter().enumerate() {
        for b in &wrong[index + 1..] {
            let (Some(wanted_a), Some(wanted_b)) = (a.expected, b.expected) else { continue };
            if wanted_a != wanted_b
                && fits(wanted_a, b.shows, true) == Judged::Good
                && fits(wanted_b, a.shows, true) == Judged::Good
            {
                crossed.push([a.pin, b.pin]);
            }
        }
    }
    let feed_and_ground = crossed.iter().any(|[a, b]| {
        let roles = [expected(*a).map(|e| e.role), expected(*b).map(|e| e.role)];
        roles.contains(&Some(PinRole::Feed)) && roles.contains(&Some(PinRole::Ground))
    });
    let mut motor_reversed = false;
    if let Some(motor) = &input.motor {
        volt("motor.opening_v", motor.opening_v)?;
        if motor.positive_pin == motor.negative_pin {
            return Err(Refusal::new("motor.negative_pin", "is the same pin as the positive one"));
        }
        motor_reversed = motor.opening_v < -knowledge.pins.swing_v;
    }
    let reversed = feed_and_ground || motor_reversed;
    let dead_motor = input.motor.as_ref().is_some_and(|motor| motor.opening_v.abs() <= knowledge.pins.swing_v);
    let mut lines = Vec::new();
    for [a, b] in &crossed {
        lines.push(format!("Pins {a} and {b} are crossed: each shows what the other should"));
    }
    if feed_and_ground {
        lines.push("feed and ground are exchanged: do not switch on again before they are put right".into());
    }
    if motor_reversed {
        let motor = input.motor.as_ref().map_or((0, 0), |m| (m.positive_pin, m.negative_pin));
        lines.push(format!(
            "The motor is driven the wrong way round: pins {} and {} are exchanged, or the control is wrong",
            motor.0, motor.1
        ));
    }
    if dead_motor {
        lines.push("The motor's pins show nothing while it is told to open: the control unit does not drive it, or the wires are open".into());
    }
    for one in &wrong {
        if !crossed.iter().flatten().any(|pin| *pin == one.pin) {
            lines.push(format!("Pin {}: {}", one.pin, one.says));
        }
    }
    let verdict = if !wrong.is_empty() || reversed || dead_motor {
        Judged::Bad
    } else if list.iter().any(|one| one.verdict == Judged::Good) || input.motor.is_some() {
        if list.iter().any(|one| one.expected.is_some() && one.verdict == Judged::CannotTell) {
            Judged::CannotTell
        } else {
            Judged::Good
        }
    } else {
        Judged::CannotTell
    };
    let says = match (lines.is_empty(), verdict) {
        (false, _) => format!("{}.", lines.join(". ")),
        (true, Judged::Good) => "Every pin shows what it should.".into(),
        _ => {
            let named: Vec<String> = list.iter().map(|one| format!("{}: {}", one.pin, one.shows.words())).collect();
            format!("{}.", named.join(", "))
        }
    };
    let put_right = input
        .readings
        .iter()
        .filter(|reading| reading.pierced)
        .map(|reading| format!("seal the pierced wire at pin {}", reading.pin))
        .collect();
    Ok(PinsResult { pins: list, crossed, reversed, verdict, says, put_right })
}

/// Names a pin by what it shows.
fn role(reading: &PinReading, battery: f64, knowledge: &BenchKnowledge) -> PinRole {
    let figures = &knowledge.pins;
    if let Some([low, high]) = reading.swings_v
        && high - low >= figures.swing_v
    {
        return PinRole::MotorDrive;
    }
    let grounded = reading.ground_ohm.map(|ohm| ohm <= figures.ground_ohm);
    let volt = reading.volt.or(reading.swings_v.map(|[low, high]| (low + high) / 2.0));
    match volt {
        None => match grounded {
            Some(true) => PinRole::Ground,
            _ => PinRole::Unclear,
        },
        Some(v) if v.abs() <= figures.ground_v => match grounded {
            Some(true) => PinRole::Ground,
            Some(false) => PinRole::Open,
            None => PinRole::GroundOrOpen,
        },
        Some(v) if v >= battery - figures.feed_below_battery_v => PinRole::Feed,
        Some(v) if (figures.reference_v[0]..=figures.reference_v[1]).contains(&v) => PinRole::Reference,
        Some(v) if v > 0.0 && v < figures.reference_v[0] => PinRole::Signal,
        _ => PinRole::Unclear,
    }
}

/// Whether what is shown can be what is expected. A signal may lie anywhere up to the reference.
fn fits(wanted: PinRole, shows: PinRole, read_volt: bool) -> Judged {
    use PinRole as R;
    match (wanted, shows) {
        (a, b) if a == b => Judged::Good,
        (R::Ground | R::Open, R::GroundOrOpen) => Judged::CannotTell,
        (R::Signal, R::GroundOrOpen | R::Reference) => Judged::CannotTell,
        // A voltage that is no drive's and fits nothing is certainly not what was expected.
        (R::MotorDrive, R::Unclear) => Judged::CannotTell,
        (_, R::Unclear) if !read_volt => Judged::CannotTell,
        _ => Judged::Bad,
    }
}

fn pin_words(reading: &PinReading, shows: PinRole, wanted: Option<PinRole>) -> String {
    let figure = match (reading.swings_v, reading.volt, reading.ground_ohm) {
        (Some([low, high]), ..) => format!("{low:.1} to {high:.1} V, "),
        (_, Some(volt), _) => format!("{volt:.2} V, "),
        (.., Some(ohm)) if ohm.is_finite() => format!("{ohm:.1} ohm to the body, "),
        _ => String::new(),
    };
    match wanted {
        Some(wanted) if wanted != shows => format!("{figure}shows {}, {} expected", shows.words(), wanted.words()),
        _ => format!("{figure}{}", shows.words()),
    }
}
