//! Fills an empty data folder with many jobs, or with so many gigabytes, and measures what a backup does to writing.
//!
//! `cargo run --release -p ember-store --example large_depot -- FOLDER JOBS [MEGABYTES]`

use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Instant;

use ember_core::trail::NewEntry;
use ember_store::{Store, back_up};
use jiff::Timestamp;
use serde_json::json;

mod depot;

fn main() {
    let mut arguments = std::env::args().skip(1);
    let folder = PathBuf::from(arguments.next().expect("a folder"));
    let jobs: usize = arguments.next().and_then(|n| n.parse().ok()).expect("how many jobs");
    let megabytes: usize = arguments.next().and_then(|n| n.parse().ok()).unwrap_or(0);
    let store = Store::open(&folder).expect("the folder can be used");
    depot::fill(&store, jobs, false);
    println!("{jobs} jobs");
    if megabytes == 0 {
        return;
    }
    // What photographs hold cannot be packed: neither may this.
    let mut state = 88_172_645_463_325_252_u64;
    for number in 0..megabytes / 8 {
        let picture: Vec<u8> = (0..8 << 20)
            .map(|_| {
                state ^= state << 13;
                state ^= state >> 7;
                state ^= state << 17;
                state as u8
            })
            .collect();
        store
            .add_photo(1, &format!("{number}"), (1, 1), &picture, &[0], Timestamp::UNIX_EPOCH)
            .expect("the photograph is kept");
    }
    let done = AtomicBool::new(false);
    let finding = serde_json::from_value(json!({"kind": "note", "text": "meanwhile"})).expect("a finding");
    let note = NewEntry { odometer_km: 1e6, author: "Ines".into(), replaces: None, finding };
    let begin = store.job(1).expect("the first job").2.len() as u32;
    std::thread::scope(|scope| {
        let writer = scope.spawn(|| {
            let mut waits: Vec<f64> = Vec::new();
            while !done.load(Ordering::Acquire) {
                let asked = Instant::now();
                let seen = begin + waits.len() as u32;
                store
                    .append(1, &note, seen, &format!("meanwhile {seen}"), Timestamp::UNIX_EPOCH)
                    .expect("the entry is taken");
                waits.push(1e3 * asked.elapsed().as_secs_f64());
                std::thread::sleep(std::time::Duration::from_millis(20));
            }
            waits
        });
        let began = Instant::now();
        let report = back_up(&folder, &folder.join("copy.backup"), &[]).expect("the backup is made");
        done.store(true, Ordering::Release);
        let mut waits = writer.join().expect("the writer ends");
        waits.sort_by(f64::total_cmp);
        println!(
            "{} MB copied in {:.1} s; {} entries written meanwhile, each within {:.1} ms, half of them within {:.1} ms",
            report.bytes >> 20,
            began.elapsed().as_secs_f64(),
            waits.len(),
            waits.last().copied().unwrap_or_default(),
            waits.get(waits.len() / 2).copied().unwrap_or_default()
        );
    });
}
