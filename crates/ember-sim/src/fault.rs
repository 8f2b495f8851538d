//! Faults that a simulated car can have.

use std::fmt;

use crate::SimError;
use crate::profile::{Burns, Profile};

#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Fault {
    /// The cylinder never fires.
    DeadCoil(u8),
    /// The cylinder misfires under load only: a plug that flashes over.
    MisfireUnderLoad(u8),
    /// Two groups of cylinders take turns: the control unit loses its place in the cycle.
    TakingTurns,
    /// A round hole of this many millimetres behind the air meter, at the first bank's runners.
    AirLeak(f64),
    /// The pump delivers this share of what full load needs.
    WeakPump(f64),
    /// The air meter shows this share of the air at full flow.
    MeterUnderReads(f64),
    /// This share of the charge pressure escapes.
    BoostLeak(f64),
    /// The vane actuator does not move at all.
    StuckActuator,
    /// The vanes stick: late, and then too far.
    StickingVanes,
    /// The vane actuator obeys a tester and not the control unit.
    VanesNotDriven,
    /// The crank signal drops out when the engine is hot.
    CrankHot,
    /// This glow plug is open.
    GlowPlug(u8),
}

impl Fault {
    /// What can be asked for, one a line: how it is written, and what it is.
    pub const LIST: [(&'static str, &'static str); 12] = [
        ("dead-coil=N", "cylinder N never fires"),
        ("misfire-under-load=N", "cylinder N misfires under load only"),
        ("taking-turns", "two groups of cylinders take turns to misfire"),
        ("air-leak=MM", "a hole of MM millimetres behind the air meter, on bank 1"),
        ("weak-pump=SHARE", "the pump gives this share (0.5 to 1) of what full load needs"),
        ("meter-under-reads=SHARE", "the air meter shows this share (0.5 to 1) of the air"),
        ("boost-leak=SHARE", "this share (0 to 0.8) of the charge pressure escapes"),
        ("stuck-actuator", "the vane actuator does not move"),
        ("sticking-vanes", "the vanes stick, and the pressure overshoots"),
        ("vanes-not-driven", "the vane actuator obeys the tester but not the car"),
        ("crank-hot", "the crank signal drops out when the engine is hot"),
        ("glow-plug=N", "glow plug N is open"),
    ];

    /// Reads a fault as it is written on the command line.
    ///
    /// # Errors
    /// An unknown name; a figure missing, too much or out of its range; a fault that this car cannot have.
    pub fn parse(text: &str, profile: &Profile) -> Result<Fault, SimError> {
        let (name, figure) = match text.trim().split_once('=') {
            Some((name, figure)) => (name.trim(), Some(figure.trim())),
            None => (text.trim(), None),
        };
        let unknown = |why: String| SimError::UnknownFault(why);
        let number = |low: f64, high: f64| -> Result<f64, SimError> {
            let figure = figure.ok_or_else(|| unknown(format!("{name} needs a figure, {name}=...")))?;
            let figure = figure.trim_end_matches("mm").trim();
            match figure.replace(',', ".").parse::<f64>() {
                Ok(value) if (low..=high).contains(&value) => Ok(value),
                _ => Err(unknown(format!("{name} takes {low} to {high}, and not {figure}"))),
            }
        };
        let cylinder = || -> Result<u8, SimError> {
            let value = number(1.0, f64::from(profile.cylinders))?;
            if value.fract() == 0.0 {
                Ok(value as u8)
            } else {
                Err(unknown(format!("{name} takes a cylinder, and not {value}")))
            }
        };
        let fault = match name {
            "dead-coil" => Fault::DeadCoil(cylinder()?),
            "misfire-under-load" => Fault::MisfireUnderLoad(cylinder()?),
            "taking-turns" => Fault::TakingTurns,
            "air-leak" => Fault::AirLeak(number(0.2, 12.0)?),
            "weak-pump" => Fault::WeakPump(number(0.5, 1.0)?),
            "meter-under-reads" => Fault::MeterUnderReads(number(0.5, 1.0)?),
            "boost-leak" => Fault::BoostLeak(number(0.0, 0.8)?),
            "stuck-actuator" => Fault::StuckActuator,
            "sticking-vanes" => Fault::StickingVanes,
            "vanes-not-driven" => Fault::VanesNotDriven,
            "crank-hot" => Fault::CrankHot,
            "glow-plug" => Fault::GlowPlug(cylinder()?),
            other => {
                let names: Vec<&str> = Fault::LIST.iter().map(|f| f.0).collect();
                return Err(unknown(format!("there is no {other}; there are {}", names.join(", "))));
            }
        };
        let takes_none =
            !matches!(name, "taking-turns" | "stuck-actuator" | "sticking-vanes" | "vanes-not-driven" | "crank-hot");
        if figure.is_some() && !takes_none {
            return Err(unknown(format!("{name} takes no figure")));
        }
        let misfit = match fault {
            Fault::DeadCoil(_) if profile.fuel == Burns::Diesel => Some("a diesel has no coils"),
            Fault::GlowPlug(_) if profile.fuel == Burns::Petrol => Some("this engine has no glow plugs"),
            Fault::BoostLeak(_) | Fault::StuckActuator | Fault::StickingVanes | Fault::VanesNotDriven
                if !(profile.charged && profile.fuel == Burns::Diesel) =>
            {
                Some("this engine has no vanes")
            }
            Fault::AirLeak(_) | Fault::MeterUnderReads(_) if profile.fuel == Burns::Diesel => {
                Some("a diesel's mixture is not regulated, so nothing would show")
            }
            _ => None,
        };
        match misfit {
            Some(why) => Err(SimError::DoesNotFit(format!("{name}: {why}"))),
            None => Ok(fault),
        }
    }
}

impl fmt::Display for Fault {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Fault::DeadCoil(n) => write!(f, "dead-coil={n}"),
            Fault::MisfireUnderLoad(n) => write!(f, "misfire-under-load={n}"),
            Fault::TakingTurns => write!(f, "taking-turns"),
            Fault::AirLeak(mm) => write!(f, "air-leak={mm}"),
            Fault::WeakPump(share) => write!(f, "weak-pump={share}"),
            Fault::MeterUnderReads(share) => write!(f, "meter-under-reads={share}"),
            Fault::BoostLeak(share) => write!(f, "boost-leak={share}"),
            Fault::StuckActuator => write!(f, "stuck-actuator"),
            Fault::StickingVanes => write!(f, "sticking-vanes"),
            Fault::VanesNotDriven => write!(f, "vanes-not-driven"),
            Fault::CrankHot => write!(f, "crank-hot"),
            Fault::GlowPlug(n) => write!(f, "glow-plug={n}"),
        }
    }
}
