//! The drive: what the driver asks for, over and over along one loop of road.

/// What the driver wants at a moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wanted {
    pub rpm: f64,
    /// Share of the full charge, 0 to 1.
    pub load: f64,
    pub km_h: f64,
}

/// Seconds, engine speed as a share of the way from idle to 4000, load, road speed.
const LOOP: [(f64, f64, f64, f64); 14] = [
    (30.0, 0.0, 0.06, 0.0),
    (8.0, 0.35, 0.45, 25.0),
    (22.0, 0.32, 0.2, 45.0),
    (18.0, 0.42, 0.3, 60.0),
    (8.0, 0.5, 0.55, 70.0),
    (16.0, 0.52, 0.4, 80.0),
    (14.0, 0.4, 0.9, 72.0),
    (6.0, 0.38, 0.3, 70.0),
    (16.0, 0.55, 0.72, 78.0),
    (6.0, 0.45, 0.2, 75.0),
    (16.0, 0.62, 0.92, 84.0),
    (10.0, 0.4, 0.12, 60.0),
    (18.0, 0.3, 0.25, 45.0),
    (12.0, 0.12, 0.1, 12.0),
];

/// The length of the loop in seconds.
pub fn length_s() -> f64 {
    LOOP.iter().map(|part| part.0).sum()
}

/// What the driver wants `t` seconds into the drive.
pub fn wanted(t: f64, idle_rpm: f64) -> Wanted {
    let mut rest = t.rem_euclid(length_s());
    for (seconds, speed, load, km_h) in LOOP {
        if rest < seconds {
            return Wanted { rpm: idle_rpm + speed * (4000.0 - idle_rpm), load, km_h };
        }
        rest -= seconds;
    }
    Wanted { rpm: idle_rpm, load: 0.06, km_h: 0.0 }
}
