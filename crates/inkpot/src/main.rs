//! The program `inkpot` with the house games.

use std::process::ExitCode;

fn main() -> ExitCode {
    inkpot::main_with(inkpot_games::registry())
}
