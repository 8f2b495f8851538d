//! Gritty Ember: the command line.

mod api;
mod backup_command;
mod demo;
mod knowledge_command;
mod link;
mod own_book;
mod photo;
mod read_command;
mod reckon_command;
mod serve;
mod sim_command;
mod web_app;

use std::net::SocketAddr;
use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Parser, Subcommand};
use ember_sim::instruments::SimProbe;

#[derive(Parser)]
#[command(version, about = "Traces misfires, stalls, no-starts and power loss, and proves the repair.")]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve the application to browsers.
    Serve {
        /// The folder in which everything is kept.
        #[arg(long, default_value = "gritty-ember-data")]
        data: PathBuf,
        /// Address and port. Other than loopback only if you say so here.
        #[arg(long, default_value = "127.0.0.1:8323")]
        listen: SocketAddr,
        /// Fill an empty data folder with the demonstration depot.
        #[arg(long)]
        demo: bool,
        /// How many seconds the demonstration's simulated cars live in one.
        #[arg(long, default_value_t = 1.0, hide = true)]
        sim_rate: f64,
    },
    /// List the faults, tests, outcomes and words of the book as JSON, or find some by the trade's words.
    Knowledge { words: Vec<String> },
    /// Say what a log or a capture holds, as JSON.
    Read {
        file: PathBuf,
        /// The ambient pressure, for columns with pressures above it.
        #[arg(long, default_value_t = 101.325)]
        ambient_kpa: f64,
    },
    /// Put a simulated car with its faults on a port, or drive it into a file.
    Sim {
        /// The fleet number: W-12, W-07, ...
        #[arg(long, required_unless_present = "list")]
        vehicle: Option<String>,
        /// A fault, as --list writes them; may be given several times.
        #[arg(long)]
        fault: Vec<String>,
        /// The same seed gives the same drive.
        #[arg(long, default_value_t = 1)]
        seed: u64,
        /// Address and port on this machine; port 0 takes any free one.
        #[arg(long, default_value = "127.0.0.1:0")]
        listen: SocketAddr,
        /// Seconds of driving for each second of the clock.
        #[arg(long, default_value_t = 1.0)]
        rate: f64,
        /// Answer every so many frames with rubbish.
        #[arg(long)]
        rubbish_every: Option<u32>,
        /// Drop the connection after so many frames.
        #[arg(long)]
        drop_after: Option<u32>,
        /// Instead of listening, drive and write a CSV log.
        #[arg(long)]
        csv: Option<PathBuf>,
        /// Instead of listening, scan, drive and write a capture.
        #[arg(long)]
        capture: Option<PathBuf>,
        /// Hold the simulated scope to it instead, and write what it shows as CSV: coil-current, cranking, ...
        #[arg(long, requires = "csv", value_parser = probe)]
        scope: Option<SimProbe>,
        /// How long to drive, or to capture, into a file.
        #[arg(long, default_value_t = 600.0)]
        seconds: f64,
        /// Rows a second in a CSV log.
        #[arg(long, default_value_t = 10.0)]
        per_second: f64,
        /// List the cars and the faults.
        #[arg(long)]
        list: bool,
    },
    /// Run one computation: JSON on standard input, JSON on standard output.
    Reckon {
        /// The name of the computation.
        #[arg(required_unless_present = "list")]
        name: Option<String>,
        /// List the names, one a line.
        #[arg(long)]
        list: bool,
    },
    /// Copy a data folder into one file, also while it is being served.
    Backup {
        #[arg(long, default_value = "gritty-ember-data")]
        data: PathBuf,
        /// The file to make; one that is there is not written over.
        #[arg(long)]
        to: PathBuf,
    },
    /// Bring a backup back into an empty folder.
    Restore {
        #[arg(long)]
        from: PathBuf,
        #[arg(long, default_value = "gritty-ember-data")]
        data: PathBuf,
    },
    /// Look a data folder through for damage.
    Check {
        #[arg(long, default_value = "gritty-ember-data")]
        data: PathBuf,
    },
    /// Print the OpenAPI document.
    #[command(hide = true)]
    Openapi,
}

fn main() -> ExitCode {
    match Arguments::parse().command {
        Command::Serve { data, listen, demo, sim_rate } => match serve::serve(&data, listen, demo, sim_rate) {
            Ok(()) => ExitCode::SUCCESS,
            Err(error) => {
                eprintln!("gritty-ember: {error}");
                ExitCode::FAILURE
            }
        },
        Command::Knowledge { words } => {
            let words = words.join(" ");
            let answer = knowledge_command::answer(Some(words.as_str()).filter(|words| !words.trim().is_empty()));
            println!("{answer:#}");
            ExitCode::SUCCESS
        }
        Command::Read { file, ambient_kpa } => read_command::run(&file, ambient_kpa),
        Command::Sim { list: true, .. } => {
            println!("cars: {}", ember_sim::fleet().join(", "));
            for (name, what) in ember_sim::Fault::LIST {
                println!("{name:26} {what}");
            }
            ExitCode::SUCCESS
        }
        Command::Sim {
            vehicle,
            fault,
            seed,
            listen,
            rate,
            rubbish_every,
            drop_after,
            csv,
            capture,
            scope,
            seconds,
            per_second,
            list: false,
        } => {
            let wanted = sim_command::Wanted {
                vehicle: vehicle.unwrap_or_default(),
                faults: fault,
                seed,
                rate,
                trouble: ember_sim::Trouble { rubbish_every, drop_after },
            };
            let done = match (scope, &csv) {
                (Some(probe), Some(path)) => sim_command::scope_to_csv(&wanted, probe, seconds, path),
                _ => simulate(&wanted, listen, csv, capture, seconds, per_second),
            };
            match done {
                Ok(()) => ExitCode::SUCCESS,
                Err(error) => {
                    eprintln!("{error}");
                    ExitCode::from(2)
                }
            }
        }
        Command::Reckon { list: true, .. } => {
            println!("{}", ember_core::reckon::NAMES.join("\n"));
            ExitCode::SUCCESS
        }
        Command::Reckon { name, .. } => reckon_command::run(name.as_deref().unwrap_or_default()),
        Command::Backup { data, to } => backup_command::backup(&data, &to),
        Command::Restore { from, data } => backup_command::restore(&from, &data),
        Command::Check { data } => backup_command::check(&data),
        Command::Openapi => {
            println!("{}", api::document());
            ExitCode::SUCCESS
        }
    }
}

/// A probe of the simulated scope by its name.
fn probe(name: &str) -> Result<SimProbe, String> {
    serde_json::from_value(name.into()).map_err(|error| error.to_string())
}

fn simulate(
    wanted: &sim_command::Wanted,
    listen: SocketAddr,
    csv: Option<PathBuf>,
    capture: Option<PathBuf>,
    seconds: f64,
    per_second: f64,
) -> Result<(), Box<dyn std::error::Error>> {
    if csv.is_none() && capture.is_none() {
        let adapter = sim_command::adapter(wanted, listen)?;
        println!("{} answers at {}", wanted.vehicle, adapter.address);
        loop {
            std::thread::park();
        }
    }
    if let Some(out) = csv {
        sim_command::drive_to_csv(wanted, seconds, per_second, &out)?;
    }
    if let Some(out) = capture {
        sim_command::drive_to_capture(wanted, seconds, &out)?;
    }
    Ok(())
}
