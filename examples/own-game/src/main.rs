//! Every verb of Inkpot for a game of one's own, beside the house games.

mod lanterns;
mod stalls;

use std::process::ExitCode;

use inkpot_core::Registry;

fn main() -> ExitCode {
    inkpot::main_with(Registry::default().with(stalls::entry()).with(lanterns::entry()))
}
