//! `gritty-ember read FILE`: what a log or a capture holds, as JSON.

use std::fs::File;
use std::io::Read;
use std::path::Path;
use std::process::ExitCode;

use ember_core::knowledge::Knowledge;
use ember_core::refusal::Refusal;
use ember_formats::capture::{CaptureReader, is_capture};
use ember_formats::log::{HEAD, Layout, LogReader};
use serde_json::{Value, json};

/// Prints what the file holds. Exit 2 and one line on standard error when it cannot be read.
pub fn run(path: &Path, ambient_kpa: f64) -> ExitCode {
    match describe(path, ambient_kpa) {
        Ok(value) => {
            println!("{}", serde_json::to_string_pretty(&value).unwrap_or_default());
            ExitCode::SUCCESS
        }
        Err(refusal) => {
            eprintln!("{refusal}");
            ExitCode::from(2)
        }
    }
}

fn describe(path: &Path, ambient_kpa: f64) -> Result<Value, Refusal> {
    let failed = |error: std::io::Error| Refusal::new("file", format!("{} cannot be read: {error}", path.display()));
    let knowledge = Knowledge::built_in();
    let book = &knowledge.channels;
    let mut file = File::open(path).map_err(failed)?;
    let mut piece = vec![0u8; 1 << 20];
    let mut head = Vec::new();
    while head.len() < HEAD {
        match file.read(&mut piece).map_err(failed)? {
            0 => break,
            n => head.extend_from_slice(&piece[..n]),
        }
    }
    let with_unit = |channels: &[(String, u64)], span: f64| -> Vec<Value> {
        channels
            .iter()
            .map(|(name, samples)| {
                let unit = book.get(name).map(|c| c.unit.clone()).unwrap_or_default();
                let rate = if span > 0.0 { *samples as f64 / span } else { 0.0 };
                json!({"channel": name, "unit": unit, "samples": samples, "per_s": rate})
            })
            .collect()
    };
    if is_capture(&head[..head.len().min(HEAD)]) {
        let mut reader = CaptureReader::new(knowledge);
        reader.push(&head);
        loop {
            match file.read(&mut piece).map_err(failed)? {
                0 => break,
                n => reader.push(&piece[..n]),
            }
            // Only what it holds is told: its rows need not stay.
            reader.take_block();
        }
        let (_, summary) = reader.finish()?;
        let span = summary.to_s - summary.from_s;
        return Ok(json!({
            "kind": "capture",
            "lines": summary.lines, "frames": summary.frames, "other_frames": summary.others,
            "samples": summary.rows, "from_s": summary.from_s, "to_s": summary.to_s, "span_s": span,
            "channels": with_unit(&summary.channels, span),
            "units": summary.units,
            "codes": summary.units.iter().flat_map(|u| &u.codes).collect::<Vec<_>>(),
            "faults": summary.faults,
            "notes": summary.notes, "more_notes": summary.more_notes,
        }));
    }
    let layout = Layout::guess(&head[..head.len().min(HEAD)], book)?;
    let mut reader = LogReader::new(&layout, book, ambient_kpa)?;
    let mut keep = |_: &ember_formats::log::Block<'_>| Ok(());
    reader.push(&head, &mut keep)?;
    loop {
        match file.read(&mut piece).map_err(failed)? {
            0 => break,
            n => reader.push(&piece[..n], &mut keep)?,
        }
    }
    let summary = reader.finish(&mut keep)?;
    let span = summary.to_s - summary.from_s;
    Ok(json!({
        "kind": "table",
        "separator": layout.separator, "time": layout.time, "columns": layout.columns,
        "samples": summary.rows, "from_s": summary.from_s, "to_s": summary.to_s, "span_s": span,
        "channels": with_unit(&summary.channels, span),
        "codes": [], "faults": [],
        "left_out": summary.left_out, "notes": summary.notes, "more_notes": summary.more_notes,
    }))
}
