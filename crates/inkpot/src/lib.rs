//! The program as a library: hand [`main_with`] a registry of your own and it has every verb for your games.
//!
//! Each verb has one file in `verbs`: it turns arguments into a plan, calls the core and hands the result to `show`.

mod agent_file;
mod args;
mod brief;
mod briefs;
mod demo;
mod desk;
mod failure;
mod figures;
mod junit;
mod kinds;
mod level;
mod playing;
mod plots;
mod pool;
mod progress;
mod report;
mod searching;
mod show;
mod source;
mod spec;
mod stored;
mod study;
mod telling;
mod verbs;

use std::process::ExitCode;

use clap::Parser;
use inkpot_core::Registry;

use crate::args::Cli;
use crate::desk::Desk;

/// Runs the program on the arguments of the process with these games.
pub fn main_with(registry: Registry) -> ExitCode {
    let cli = Cli::parse();
    inkpot_core::quiet_panics_in_matches();
    let desk = Desk::new(&cli.global, registry);
    match verbs::run(&cli.verb, &desk) {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => {
            failure.print(desk.color_err);
            ExitCode::from(failure.exit_code())
        }
    }
}
