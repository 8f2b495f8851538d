//! Outputs that a tester can drive, with the identifiers of the simulated engine's unit.

use crate::profile::{Burns, Profile};

/// One output.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Output {
    pub identifier: u16,
    pub name: String,
    /// Driven to a position in percent, and not only switched.
    pub position: bool,
}

const COIL: u16 = 0x0100;
const INJECTOR: u16 = 0x0200;
/// The throttle flap.
pub(crate) const THROTTLE: u16 = 0x0301;
/// The vane actuator.
pub(crate) const VANES: u16 = 0x0302;

/// The outputs of a car's engine unit.
pub fn outputs(profile: &Profile) -> Vec<Output> {
    let mut list = Vec::new();
    let mut each = |base: u16, what: &str| {
        for cylinder in 1..=profile.cylinders {
            list.push(Output {
                identifier: base + u16::from(cylinder),
                name: format!("{what} {cylinder}"),
                position: false,
            });
        }
    };
    if profile.fuel == Burns::Petrol {
        each(COIL, "coil");
    }
    each(INJECTOR, "injector");
    list.push(Output { identifier: THROTTLE, name: "throttle flap".into(), position: true });
    if profile.charged && profile.fuel == Burns::Diesel {
        list.push(Output { identifier: VANES, name: "vane actuator".into(), position: true });
    }
    list
}

/// The cylinder whose coil an identifier drives.
pub(crate) fn coil_of(identifier: u16) -> Option<u8> {
    (COIL < identifier && identifier <= COIL + 12).then(|| (identifier - COIL) as u8)
}
