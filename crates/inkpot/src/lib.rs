//! The program as a library: hand [`main_with`] a registry of your own and it has every verb for your games.
//!
//! Each verb has one file in `verbs`: it turns arguments into a plan, calls the core and hands the result to `show`.

mod agent_file;
mod args;
mod brief;
mod briefs;
mod by_measure;
mod clock;
mod desk;
mod failure;
mod figure_name;
mod figures;
mod game_file;
mod global;
mod hint;
mod input;
mod junit;
mod kinds;
mod level;
mod live;
mod outlet;
mod output;
mod playing;
mod plots;
mod pool;
mod progress;
mod report;
mod saved;
mod scenes;
mod searching;
mod show;
mod source;
mod spec;
mod spent_by;
mod stored;
mod study;
mod telling;
mod terminal;
mod verbs;
mod watch;
mod weights;

use std::process::ExitCode;

use clap::{CommandFactory, FromArgMatches};
use inkpot_core::Registry;

use crate::args::Cli;
use crate::desk::Desk;
use crate::failure::Failure;

/// Runs the program on the arguments of the process with these games.
pub fn main_with(registry: Registry) -> ExitCode {
    let matches = command().try_get_matches();
    let cli = match matches.and_then(|matches| Cli::from_arg_matches(&matches)) {
        Ok(cli) => cli,
        Err(usage) => return usage_error(&usage),
    };
    inkpot_core::quiet_panics_in_matches();
    let mut desk = Desk::new(&cli.global, registry);
    let fell = |message| Failure::Failed(format!("the program or one of its games failed: it {message}"));
    let watching = desk.watching(cli.verb.watches());
    let done = watching.and_then(|()| {
        inkpot_core::catch(|| verbs::run(&cli.verb, &desk)).unwrap_or_else(|message| Err(fell(message)))
    });
    if let Err(failure) = &done {
        failure.print(desk.color_err);
    }
    closed(done.map_or_else(|failure| failure.exit_code(), |()| 0))
}

/// The command line under the name of the running program, which may be somebody's own.
fn command() -> clap::Command {
    let program = hint::program();
    let command = Cli::command();
    if program == command.get_name() {
        return command;
    }
    let version = concat!("with inkpot ", env!("CARGO_PKG_VERSION"));
    named(command.version(version).bin_name(program.clone()).display_name(program.clone()), &program)
}

/// A command whose examples call the program by this name.
fn named(command: clap::Command, program: &str) -> clap::Command {
    let examples = command.get_after_help().map(|help| help.to_string().replace("  inkpot ", &format!("  {program} ")));
    let command = command.mut_subcommands(|verb| named(verb, program));
    match examples {
        Some(examples) => command.after_help(examples),
        None => command,
    }
}

/// Prints requested help, or the problem of the arguments.
fn usage_error(usage: &clap::Error) -> ExitCode {
    let written = usage.print();
    if !usage.use_stderr() {
        outlet::keep(written);
    }
    closed(u8::try_from(usage.exit_code()).unwrap_or(1))
}

/// The exit code, once all that was printed is out.
fn closed(code: u8) -> ExitCode {
    match outlet::close() {
        None => code.into(),
        Some(why) => {
            outlet::say(&format!("error: the results cannot be written to standard output: {why}"), false);
            ExitCode::FAILURE
        }
    }
}
