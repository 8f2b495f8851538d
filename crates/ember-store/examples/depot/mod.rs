//! A depot with many jobs, for measuring.

use ember_core::trail::NewEntry;
use ember_core::vehicle::Vehicle;
use ember_store::{Card, NewJob, Store};
use jiff::Timestamp;
use serde_json::{Value, json};

const CAUSES: [&str; 6] = [
    "plug insulator cracked",
    "coil breaks down when hot",
    "intake gasket leaks",
    "crank sensor fails when hot",
    "fuel filter clogged",
    "connector corroded",
];
const COMPLAINTS: [&str; 4] = ["misfire", "stalls", "loss of power", "cranks but will not start"];
const WHEN: [&str; 4] = ["in the rain", "when hot", "under load", "after a frosty night"];

fn entry(km: f64, finding: Value) -> NewEntry {
    NewEntry {
        odometer_km: km,
        author: "Ines".into(),
        replaces: None,
        finding: serde_json::from_value(finding).expect("the findings of the example are findings"),
    }
}

/// Writes `jobs` jobs on 400 vehicles, nine of ten closed. With `cards`, each gets one of a usual size.
pub fn fill(store: &Store, jobs: usize, cards: bool) {
    let vehicles: Vec<i64> = (0..400)
        .map(|n| {
            let vehicle: Vehicle = serde_json::from_value(
                json!({"fleet_no": format!("W-{n:04}"), "name": format!("Hollin Fell {}", n % 9),
                "engine": {"cylinders": 4, "firing_order": [1, 3, 4, 2], "banks": [[1, 2, 3, 4]]}}),
            )
            .expect("the vehicles of the example are vehicles");
            store.add_vehicle(&vehicle).expect("the vehicle is taken").id
        })
        .collect();
    for job in 0..jobs {
        let km = 10_000.0 + 40.0 * (job / 400) as f64;
        let (complaint, when) = (COMPLAINTS[job % 4], WHEN[job / 4 % 4]);
        let cause = CAUSES[job * 7 % 6];
        let mut trail = vec![
            json!({"kind": "complaint", "symptoms": [complaint], "circumstances": [when],
                "text": format!("Driver {} says that it came {} times this week on the way to the mast.", job % 31, job % 5 + 1)}),
            json!({"kind": "scan", "tool": "bay 2 reader", "units_read": ["engine", "brakes"],
                "codes": [{"code": format!("P03{:02}", job % 13), "status": "stored"}]}),
            json!({"kind": "note", "text": format!("Looked at plugs, coils and the loom; bay {}, {} minutes.", job % 6, job % 90)}),
            json!({"kind": "fitted", "part": (["plug", "coil", "gasket", "crank sensor"][job % 4]), "part_number": format!("CD-{}", job % 997),
                "supplier": (["Northgate Parts", "Tarn Trade"][job % 2]), "cost": 20.0, "minutes": 25.0}),
        ];
        if job % 10 != 0 {
            trail.push(json!({"kind": "closed", "cause": cause, "left_alone": "Oil weeps at the rocker cover."}));
        }
        let new = NewJob {
            vehicle_id: vehicles[job % 400],
            first: entry(km, trail[0].clone()),
            request_key: format!("example {job}"),
        };
        let at = Timestamp::from_second(1_700_000_000 + 3600 * job as i64).expect("a time");
        let id = store.open_job(&new, at).expect("the job is opened").id;
        for (seen, finding) in (1..).zip(&trail[1..]) {
            store
                .append(id, &entry(km, finding.clone()), seen, &format!("example {job}/{seen}"), at)
                .expect("the entry is taken");
        }
        if cards {
            let body = json!({"yard": {"id": id, "complaint": complaint, "next": "Swap: coil 3 to 1"}, "summary": {"cause": cause, "text": "x".repeat(900)}});
            let card = Card {
                job: id,
                entries: trail.len(),
                closed: trail.len() == 5,
                fault: None,
                made_with: "example".into(),
                body: body.to_string(),
            };
            store.put_card(&card).expect("the card is kept");
        }
    }
}
