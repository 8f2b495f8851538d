//! `gritty-ember backup`, `restore` and `check`: the data folder as one file, and back.

use std::path::Path;
use std::process::ExitCode;

use ember_store::{BackupReport, StoreError};

use crate::own_book;

pub fn backup(data: &Path, to: &Path) -> ExitCode {
    told(ember_store::back_up(data, to, &[own_book::FILE]), |report| {
        format!("{} holds {}", to.display(), holds(report))
    })
}

pub fn restore(from: &Path, data: &Path) -> ExitCode {
    told(ember_store::restore(from, data), |report| format!("{} holds {}", data.display(), holds(report)))
}

pub fn check(data: &Path) -> ExitCode {
    told(ember_store::check(data), |()| format!("{} is sound", data.display()))
}

fn holds(report: &BackupReport) -> String {
    let files = if report.files.is_empty() { String::new() } else { format!(" and {}", report.files.join(", ")) };
    format!(
        "{} vehicles, {} jobs with {} entries, {} photographs{files} in {} kB",
        report.vehicles,
        report.jobs,
        report.entries,
        report.photographs,
        report.bytes.div_ceil(1024)
    )
}

fn told<T>(done: Result<T, StoreError>, says: impl FnOnce(&T) -> String) -> ExitCode {
    match done {
        Ok(report) => {
            println!("{}", says(&report));
            ExitCode::SUCCESS
        }
        Err(error) => {
            eprintln!("gritty-ember: {error}. Nothing else was changed");
            ExitCode::from(2)
        }
    }
}
