//! Gritty Ember: the command line.

mod api;
mod demo;
mod reckon_command;
mod serve;
mod web_app;

use std::net::SocketAddr;
use std::path::PathBuf;
use std::process::ExitCode;

use clap::{Parser, Subcommand};

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
    /// Print the OpenAPI document.
    #[command(hide = true)]
    Openapi,
}

fn main() -> ExitCode {
    match Arguments::parse().command {
        Command::Serve { data, listen, demo } => match serve::serve(&data, listen, demo) {
            Ok(()) => ExitCode::SUCCESS,
            Err(error) => {
                eprintln!("gritty-ember: {error}");
                ExitCode::FAILURE
            }
        },
        Command::Reckon { list: true, .. } => {
            println!("{}", ember_core::reckon::NAMES.join("\n"));
            ExitCode::SUCCESS
        }
        Command::Reckon { name, .. } => reckon_command::run(name.as_deref().unwrap_or_default()),
        Command::Openapi => {
            println!("{}", api::document());
            ExitCode::SUCCESS
        }
    }
}
