//! What `knowledge/bench.toml` holds: figures by which readings are judged, and which tests of the book they answer.

use std::collections::BTreeMap;

use serde::Deserialize;

use crate::knowledge::CautionText;
use crate::suspects::book::{Book, Per};

macro_rules! figures {
    ($(#[$doc:meta])* $name:ident { $($field:ident : $type:ty),* $(,)? }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Deserialize)]
        #[serde(deny_unknown_fields)]
        pub struct $name {
            $(pub $field: $type,)*
            pub because: String,
        }
    };
}

figures!(ResistanceFigures {
    copper_per_kelvin: f64,
    copper_at_c: f64,
    odd: f64,
    scatter_pct: f64,
    pair_ratio: f64,
    agree_pct: f64,
    coldest_c: f64,
    hottest_c: f64,
});
figures!(
    /// How much a reading may weigh among the suspects.
    WeightFigures {
        slip: f64,
        band_sigmas: f64,
        good: f64,
        bad: f64,
        likely: f64,
        unlikely: f64,
        proves: f64,
    }
);

impl WeightFigures {
    /// How likely all is as it should be, after a reading that says so or that does not.
    pub fn of(&self, good: bool) -> f64 {
        if good { self.good } else { self.bad }
    }
}

figures!(VoltageFigures {
    battery_low_v: f64,
    charging_low_v: f64,
    charging_high_v: f64,
    crank_low_v: f64,
    feed_loss_v: f64,
    ground_loss_v: f64,
    least_share: f64,
    assumed_pct: f64,
});
figures!(PinFigures { reference_v: [f64; 2], feed_below_battery_v: f64, ground_v: f64, ground_ohm: f64, swing_v: f64 });
figures!(
    /// How often each piece of a path is the one that fails, relative to a length of wire.
    PathFigures {
        joint: f64,
        fuse: f64,
        relay: f64,
        wire: f64,
        part: f64,
        unit: f64,
        other: f64,
        shared: f64,
    }
);
figures!(
    /// In shares of the span between both ends of the travel.
    SweepFigures {
        step_pct: f64,
        dead_pct: f64,
        hysteresis_pct: f64,
        linearity_pct: f64,
        tracks_pct: f64,
        drop_out_pct: f64,
        noise_sigmas: f64,
    }
);
figures!(HoldFigures { fall_pct_per_min: f64, least_seconds: f64, gauge_kpa: f64 });
figures!(CompressionFigures { low_share: f64, fair_share: f64, wet_gain_pct: f64, gauge_pct: f64, none_share: f64 });
figures!(LeakDownFigures { good_pct: f64, bad_pct: f64 });
figures!(GlowFigures { slow_s: f64, cold_share: f64, nothing_a: f64, ohm_floor: f64 });
figures!(MarkFigures { fair_teeth: f64 });
figures!(PlugFigures {
    loose_because: String,
    faces: BTreeMap<String, String>,
});
figures!(WaveformFigures {
    odd_pct: f64,
    clip_samples: usize,
    clip_share: f64,
    edge_share: f64,
    flat_share: f64,
    missing_tooth_ratio: f64,
    shift_deg: f64,
    follows: f64,
    compression_low_pct: f64,
    limit_samples: usize,
    limit_channels: usize,
});
figures!(
    /// A part that is measured, and which tests of the book a reading of it answers: test, outcome when right, outcome
    /// when wrong.
    BenchPart {
        name: String,
        per: Per,
        conductor: super::resistance::Conductor,
        reads: Vec<(String, String, String)>,
    }
);
figures!(
    /// A step of the walk from cheap looks to dear ones.
    WalkStep {
        step: String,
        test: String,
    }
);

/// A circuit that is followed with a meter. Each answer is a test, its outcome when right, and when wrong.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BenchCircuit {
    pub name: String,
    pub joint: (String, String, String),
    pub wire: (String, String, String),
    pub feed: (String, String, String),
    /// `kind: name`, from the feed to the ground.
    pub points: Vec<String>,
}

/// The hoses of an intake in the order in which air goes.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HoseMap {
    pub test: String,
    pub places: Vec<String>,
}

/// A meter as it is taken to be while nobody has its data sheet.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct AssumedMeter {
    pub name: String,
    pub percent: f64,
    pub digits: f64,
    pub resolution: f64,
    pub because: String,
}

#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct BenchKnowledge {
    pub resistance: ResistanceFigures,
    pub weight: WeightFigures,
    pub voltage: VoltageFigures,
    pub pins: PinFigures,
    pub path: PathFigures,
    pub sweep: SweepFigures,
    pub hold: HoldFigures,
    pub compression: CompressionFigures,
    pub leak_down: LeakDownFigures,
    pub glow: GlowFigures,
    pub plugs: PlugFigures,
    pub marks: MarkFigures,
    pub waveform: WaveformFigures,
    pub parts: BTreeMap<String, BenchPart>,
    pub circuits: BTreeMap<String, BenchCircuit>,
    pub hoses: BTreeMap<String, HoseMap>,
    pub walk: Vec<WalkStep>,
    /// Which test of the book a reading answers that belongs to no part.
    pub answers: BTreeMap<String, (String, String, String)>,
    /// Meters whose data sheet is not at hand.
    pub meters: Vec<AssumedMeter>,
    /// What is to be minded at each kind of measuring; names of `cautions.toml`.
    pub cautions: BTreeMap<String, Vec<String>>,
}

impl BenchKnowledge {
    /// The first test, outcome of a test, or caution that is not known.
    pub fn fault(&self, book: &Book, cautions: &BTreeMap<String, CautionText>) -> Option<String> {
        if let Some(strange) = self.cautions.values().flatten().find(|name| !cautions.contains_key(*name)) {
            return Some(format!("the caution {strange} is not in knowledge/cautions.toml"));
        }
        let circuits = self.circuits.values().flat_map(|c| [&c.joint, &c.wire, &c.feed]);
        let parts = self.parts.values().flat_map(|part| &part.reads);
        for (test, good, bad) in circuits.chain(parts).chain(self.answers.values()) {
            let Some(entry) = book.test(test) else { return Some(format!("there is no test {test}")) };
            if let Some(strange) = [good, bad].into_iter().find(|outcome| entry.outcome(outcome).is_none()) {
                return Some(format!("{test} has no outcome {strange}"));
            }
        }
        let walked = self.walk.iter().map(|step| &step.test).chain(self.hoses.values().map(|map| &map.test));
        for test in walked {
            if book.test(test).is_none() {
                return Some(format!("there is no test {test}"));
            }
        }
        let plug_reading = book.test("plug-reading");
        for (face, outcome) in &self.plugs.faces {
            if plug_reading.is_none_or(|test| test.outcome(outcome).is_none()) {
                return Some(format!("the face {face} stands for {outcome}, which is no outcome of plug-reading"));
            }
        }
        for kind in ["none", "charged"] {
            if !self.hoses.contains_key(kind) {
                return Some(format!("no hoses for {kind}"));
            }
        }
        None
    }
}
