//! The demonstration depot: fills an empty store from the files under `demo-data/`.

use std::net::SocketAddr;

use ember_core::engine::Engine;
use ember_core::knowledge::Knowledge;
use ember_core::trail::{Finding, NewEntry};
use ember_core::vehicle::Vehicle;
use ember_formats::{counters, log};
use ember_sim::{Adapter, Trouble};
use ember_store::{NewJob, RecordingAbout, Store};
use jiff::Timestamp;
use rust_embed::RustEmbed;
use serde::Deserialize;

use crate::api::links::KnownAdapter;
use crate::api::recordings::findings;
use crate::sim_command::{self, Wanted};

#[derive(RustEmbed)]
#[folder = "../../demo-data"]
struct Files;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Depot {
    vehicles: Vec<Vehicle>,
    /// What was described of a vehicle when it was measured before.
    kept: Vec<DemoKept>,
    jobs: Vec<DemoJob>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoKept {
    fleet_no: String,
    kind: String,
    name: String,
    body: serde_json::Value,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoJob {
    fleet_no: String,
    entries: Vec<DemoEntry>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct DemoEntry {
    at: Timestamp,
    odometer_km: f64,
    author: String,
    finding: Option<Finding>,
    /// Counts that are imported from a file beside, as a technician would.
    import: Option<Import>,
    /// A drive that is read from a log beside, with its results and its counts.
    recording: Option<Import>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Import {
    file: String,
    conditions: String,
}

fn depot() -> Result<Depot, Box<dyn std::error::Error>> {
    let file = Files::get("coldharbour.json").ok_or("demo-data/coldharbour.json is missing")?;
    Ok(serde_json::from_slice(&file.data)?)
}

/// The engine of a vehicle of the depot.
///
/// # Errors
/// The depot has no such vehicle.
pub fn engine_of(fleet_no: &str) -> Result<Engine, Box<dyn std::error::Error>> {
    let depot = depot()?;
    let vehicle = depot.vehicles.iter().find(|one| one.fleet_no == fleet_no);
    Ok(vehicle.ok_or_else(|| format!("there is no simulated {fleet_no}"))?.checked()?)
}

/// Writes the depot's vehicles and jobs, each entry through the same checks as a technician's.
///
/// # Errors
/// A demonstration file is missing or refused; a test fills the store, so such a build is not shipped.
pub fn fill(store: &Store) -> Result<(), Box<dyn std::error::Error>> {
    let depot = depot()?;
    let mut stored = Vec::new();
    for vehicle in &depot.vehicles {
        stored.push(store.add_vehicle(vehicle)?);
    }
    let of_fleet = |fleet_no: &str| {
        stored
            .iter()
            .find(|v| v.vehicle.fleet_no == fleet_no)
            .ok_or_else(|| format!("the demonstration has no vehicle {fleet_no}"))
    };
    for kept in &depot.kept {
        store.keep_for_vehicle(of_fleet(&kept.fleet_no)?.id, &kept.kind, &kept.name, &kept.body)?;
    }
    for (index, job) in depot.jobs.iter().enumerate() {
        let vehicle = of_fleet(&job.fleet_no)?;
        let cylinders = vehicle.vehicle.engine.cylinders;
        let mut entries = job.entries.iter();
        let first = entries.next().ok_or("a demonstration job has no entry")?;
        let new = NewJob {
            vehicle_id: vehicle.id,
            first: entry(first, cylinders)?,
            request_key: format!("demonstration {index}"),
        };
        let opened = store.open_job(&new, first.at)?;
        let engine = vehicle.vehicle.checked()?;
        let mut seen = 1;
        for next in entries {
            let findings = match &next.recording {
                Some(import) => recorded(store, opened.id, &engine, import, next.at)?,
                None => vec![entry(next, cylinders)?.finding],
            };
            for finding in findings {
                let new =
                    NewEntry { odometer_km: next.odometer_km, author: next.author.clone(), replaces: None, finding };
                store.append(opened.id, &new, seen, &format!("demonstration {index}/{seen}"), next.at)?;
                seen += 1;
            }
        }
    }
    Ok(())
}

/// Reads a drive into a recording of the job, and gives what it puts on the trail.
fn recorded(
    store: &Store,
    job: i64,
    engine: &Engine,
    import: &Import,
    at: Timestamp,
) -> Result<Vec<Finding>, Box<dyn std::error::Error>> {
    let knowledge = Knowledge::built_in();
    let file = Files::get(&import.file).ok_or_else(|| format!("demo-data/{} is missing", import.file))?;
    let (recording, summary) = log::read(&file.data, &knowledge.channels, 101.325)?;
    let id = store.begin_recording(job, &import.file, at)?;
    let columns = recording.channels.iter().map(|(name, values)| (name.as_str(), values.as_slice()));
    store.add_part(id, 0, &recording.time_s, columns)?;
    store.complete_recording(
        id,
        &RecordingAbout {
            from_s: summary.from_s,
            to_s: summary.to_s,
            samples: summary.rows,
            channels: summary.channels.into_iter().map(Into::into).collect(),
            ..RecordingAbout::default()
        },
    )?;
    Ok(findings(&store.recording(id)?, &recording, engine, &import.conditions, knowledge))
}

/// The simulated cars that stand in the demonstration's yard, with what is wrong with each.
const CARS: [(&str, &[&str]); 5] = [
    ("W-12", &["air-leak=2.2"]),
    ("W-07", &["misfire-under-load=3"]),
    ("W-15", &["sticking-vanes"]),
    ("W-03", &["crank-hot"]),
    ("W-21", &["weak-pump=0.75"]),
];

/// Puts the simulated cars on ports of this machine. `rate` is how fast their time runs.
///
/// # Errors
/// No port is free.
pub fn cars(rate: f64) -> Result<(Vec<Adapter>, Vec<KnownAdapter>), Box<dyn std::error::Error>> {
    let mut adapters = Vec::new();
    let mut known = Vec::new();
    for (seed, (fleet_no, faults)) in (1..).zip(CARS) {
        let wanted = Wanted {
            vehicle: fleet_no.into(),
            faults: faults.iter().map(|f| (*f).to_owned()).collect(),
            seed,
            rate,
            trouble: Trouble::default(),
        };
        let adapter = sim_command::adapter(&wanted, SocketAddr::from(([127, 0, 0, 1], 0)))?;
        known.push(KnownAdapter {
            fleet_no: fleet_no.into(),
            address: adapter.address.to_string(),
            faults: faults.join(", "),
        });
        adapters.push(adapter);
    }
    Ok((adapters, known))
}

fn entry(demo: &DemoEntry, cylinders: u8) -> Result<NewEntry, Box<dyn std::error::Error>> {
    let finding = match (&demo.finding, &demo.import) {
        (Some(finding), None) => finding.clone(),
        (None, Some(import)) => {
            let file = Files::get(&import.file).ok_or_else(|| format!("demo-data/{} is missing", import.file))?;
            let read = counters::read(&file.data, cylinders)?;
            Finding::Counts {
                revolutions: read.revolutions.ok_or_else(|| format!("demo-data/{} has no revolutions", import.file))?,
                misfires: read.misfires,
                windows: read.windows,
                conditions: import.conditions.clone(),
                source: import.file.clone(),
            }
        }
        _ => return Err("a demonstration entry has either a finding or an import".into()),
    };
    Ok(NewEntry { odometer_km: demo.odometer_km, author: demo.author.clone(), replaces: None, finding })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_depot_can_be_written_and_has_its_seven_vehicles() {
        let store = Store::in_memory().unwrap();
        fill(&store).unwrap();
        let fleet: Vec<String> = store.vehicles().unwrap().into_iter().map(|v| v.vehicle.fleet_no).collect();
        assert_eq!(fleet, ["H-01", "M-02", "W-03", "W-07", "W-12", "W-15", "W-21"]);
        assert_eq!(store.jobs().unwrap().len(), 8);
    }
}
