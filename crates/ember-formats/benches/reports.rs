//! A technician's report with a long trail, set as PDF.

use divan::{Bencher, black_box};
use ember_core::report::{Block, PlotPoint, Reader, Report, Section};
use ember_formats::report::pdf;

fn main() {
    divan::main();
}

fn report(entries: usize) -> Report {
    let row = |n: usize| {
        vec![
            n.to_string(),
            "2026-11-02 06:05".into(),
            "84 186 km".into(),
            "Ines".into(),
            "Misfires counted".into(),
            "1: 0  2: 0  3: 154  4: 0 over 20 732 revolutions, pass road, under load (w07-before-swap.csv)".into(),
            "Ignition coil breaks down, cylinder 3: 31 %".into(),
        ]
    };
    let head = ["Entry", "When", "Odometer", "By", "Kind", "What", "What it did"].map(String::from).to_vec();
    let points = (0..80).map(|n| PlotPoint { across: f64::from(n) * 10.0, up: 90.0 + f64::from(n) / 9.0 }).collect();
    let curve = Block::Curve {
        title: "How sure it is".into(),
        across: "km".into(),
        up: "%".into(),
        points,
        marks: Vec::new(),
        level: Some(95.0),
    };
    Report {
        reader: Reader::Technician,
        title: "Hollin Fell patrol estate".into(),
        heads: vec!["No. W-07".into(), "job 1".into()],
        sections: vec![
            Section { title: "Proof".into(), blocks: vec![curve] },
            Section {
                title: "The trail".into(),
                blocks: vec![Block::Table { head, rows: (1..=entries).map(row).collect() }],
            },
        ],
        foot: "Written by Ines.".into(),
    }
}

#[divan::bench(args = [15, 500])]
fn pdf_of_a_trail_of(bencher: Bencher<'_, '_>, entries: usize) {
    let report = report(entries);
    bencher.bench_local(|| black_box(pdf(&report, |_| None).unwrap()));
}
