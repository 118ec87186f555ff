//! What can be typed of evolution.

use std::path::PathBuf;

use clap::Args;

/// Searches for an agent by evolution, proves what it found on fresh blocks, and writes it as an agent file.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot evolve briefs/windward.toml --name windward\n  inkpot evolve briefs/windward.toml --watch"
)]
pub(crate) struct EvolveArgs {
    /// The brief: kind = "evolve"
    pub(crate) brief: PathBuf,
    /// Name of the study [default: evolve-GAME-NNN]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    /// Watch it in the terminal while it goes on
    #[arg(long, conflicts_with = "print_brief")]
    pub(crate) watch: bool,
    /// Print the brief with every default filled in, and play nothing
    #[arg(long)]
    pub(crate) print_brief: bool,
}
