//! `gritty-ember reckon NAME`: a computation from standard input to standard output.

use std::io::Read;
use std::process::ExitCode;

use ember_core::knowledge::Knowledge;
use ember_core::reckon::{NAMES, reckon};

/// Runs one computation. Exit 0, or 2 with one line on standard error that names the field and what is wrong.
pub fn run(name: &str) -> ExitCode {
    match answer(name) {
        Ok(text) => {
            println!("{text}");
            ExitCode::SUCCESS
        }
        Err(reason) => {
            // One line, whatever stood in the input.
            eprintln!("{}", reason.replace(['\n', '\r'], " "));
            ExitCode::from(2)
        }
    }
}

fn answer(name: &str) -> Result<String, String> {
    let Some(name) = NAMES.iter().find(|known| **known == name) else {
        return Err(format!("name: there is no computation {name}; there are {}", NAMES.join(", ")));
    };
    let mut text = String::new();
    std::io::stdin().read_to_string(&mut text).map_err(|error| format!("input: cannot be read: {error}"))?;
    let input = serde_json::from_str(&text).map_err(|error| format!("input: is no JSON: {error}"))?;
    let result = reckon(name, &input, Knowledge::built_in()).map_err(|error| error.to_string())?;
    serde_json::to_string_pretty(&result).map_err(|error| format!("output: {error}"))
}
