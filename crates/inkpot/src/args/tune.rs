//! Arguments of tuning.

use std::path::PathBuf;

use clap::Args;

/// Finds the knob values that meet the targets of each rung, proves them on fresh blocks, and writes the difficulty
/// sheet.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot tune briefs/ladder.toml --name ladder\n  inkpot tune --verify ledger/ladder/sheet.toml"
)]
pub(crate) struct TuneArgs {
    /// The brief: kind = "tune"
    #[arg(required_unless_present_any = ["verify", "schema"])]
    pub(crate) brief: Option<PathBuf>,
    /// Measure a difficulty sheet again on the blocks that proved it; the exit code is 3 if it no longer holds
    #[arg(long, value_name = "SHEET", conflicts_with_all = ["brief", "print_brief"])]
    pub(crate) verify: Option<PathBuf>,
    /// Fit a stand-in's knobs to matches of people (a brief of kind = "fit"): a log, or studies of `play`
    #[arg(long, value_name = "LOG.csv or STUDY,...", requires = "brief", conflicts_with_all = ["verify", "print_brief"])]
    pub(crate) fit_standin: Option<PathBuf>,
    /// The agent file of the fitted stand-in
    #[arg(long, value_name = "FILE.toml", requires = "fit_standin")]
    pub(crate) out: Option<PathBuf>,
    /// The file of a sheet's game, if it is not a game of the program
    #[arg(long, value_name = "FILE.toml", requires = "verify")]
    pub(crate) game: Option<String>,
    /// Rules to measure under, as in `reach=1.8`
    #[arg(long, value_name = "KNOB=VALUE,...", requires = "verify")]
    pub(crate) rules: Option<String>,
    /// Seed of other matches than those of the proof
    #[arg(long, value_name = "N", requires = "verify")]
    pub(crate) seed: Option<u64>,
    /// Name of the study [default: tune-GAME-NNN or verify-GAME-NNN]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    /// Print the JSON Schema of difficulty sheets
    #[arg(long, conflicts_with_all = ["brief", "verify"])]
    pub(crate) schema: bool,
    /// Print the brief with all defaults, without playing
    #[arg(long)]
    pub(crate) print_brief: bool,
}
