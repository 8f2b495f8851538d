//! The hole: air that passes a round opening between the atmosphere and the manifold.

use serde::Deserialize;

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HoleRules {
    /// Discharge coefficient.
    pub discharge: f64,
    /// Ratio of specific heats of air.
    pub kappa: f64,
    /// In J/(kg K).
    pub gas_constant: f64,
    /// Manifold over ambient pressure below which the flow is choked.
    pub critical_ratio: f64,
    /// A pressure ratio no engine goes below: a lower reading is a sensor's.
    pub least_pressure_ratio: f64,
    pub because: String,
}

/// Ambient conditions with the rules of an orifice.
#[derive(Debug, Clone)]
pub struct Hole {
    kappa: f64,
    critical: f64,
    least: f64,
    ambient_kpa: f64,
    /// Flow per square metre when choked, in kg/s.
    choked_per_m2: f64,
}

impl Hole {
    /// ṁ = Cd·A·p₀·√(κ/(R T₀))·(2/(κ+1))^((κ+1)/(2(κ−1))) while choked (isentropic nozzle flow, any text on gas
    /// dynamics).
    pub fn new(rules: &HoleRules, ambient_kpa: f64, intake_c: f64) -> Hole {
        let k = rules.kappa;
        let temperature = intake_c + 273.15;
        let choked_per_m2 = rules.discharge
            * ambient_kpa
            * 1000.0
            * (k / (rules.gas_constant * temperature)).sqrt()
            * (2.0 / (k + 1.0)).powf((k + 1.0) / (2.0 * (k - 1.0)));
        Hole { kappa: k, critical: rules.critical_ratio, least: rules.least_pressure_ratio, ambient_kpa, choked_per_m2 }
    }

    /// What a hole of this diameter passes when choked, in g/s.
    pub fn choked_gps(&self, diameter_mm: f64) -> f64 {
        let metres = diameter_mm / 1000.0;
        1000.0 * self.choked_per_m2 * std::f64::consts::PI * metres * metres / 4.0
    }

    /// The diameter in mm that passes this flow when choked.
    pub fn diameter_mm(&self, choked_gps: f64) -> f64 {
        let area = choked_gps.max(0.0) / 1000.0 / self.choked_per_m2;
        1000.0 * (4.0 * area / std::f64::consts::PI).sqrt()
    }

    /// ψ: what the hole passes at this manifold pressure over what it passes choked. 1 below the critical ratio,
    /// 0 at ambient pressure, negative above it: then air is lost and not gained.
    pub fn psi(&self, map_kpa: f64) -> f64 {
        let ratio = map_kpa / self.ambient_kpa;
        if ratio > 1.0 {
            // Blown outwards: the manifold is the upstream side.
            return -ratio * self.subsonic(1.0 / ratio);
        }
        self.subsonic(ratio.max(self.least))
    }

    fn subsonic(&self, ratio: f64) -> f64 {
        if ratio < self.critical {
            return 1.0;
        }
        let k = self.kappa;
        let flow = |r: f64| (2.0 / (k - 1.0) * (r.powf(2.0 / k) - r.powf((k + 1.0) / k))).max(0.0).sqrt();
        let choked = (2.0 / (k + 1.0)).powf((k + 1.0) / (2.0 * (k - 1.0)));
        (flow(ratio) / choked).min(1.0)
    }
}
