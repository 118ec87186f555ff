//! `completions`: a script for a shell.

use clap::CommandFactory;

use crate::args::{Cli, CompletionsArgs};
use crate::desk::Desk;

pub(super) fn run(args: &CompletionsArgs, desk: &Desk) {
    let mut script = Vec::new();
    clap_complete::generate(args.shell, &mut Cli::command(), "inkpot", &mut script);
    desk.print(String::from_utf8_lossy(&script));
}
