//! What can be typed of searches for an agent.

use std::path::PathBuf;

use clap::Args;

#[derive(Args, Debug)]
pub(crate) struct FoundArgs {
    /// The brief, of this kind
    pub(crate) brief: PathBuf,
    /// Name of the study [default: KIND-GAME-NNN]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    /// Watch it in the terminal while it goes on
    #[arg(long, conflicts_with = "print_brief")]
    pub(crate) watch: bool,
    /// Print the brief with every default filled in, and play nothing
    #[arg(long)]
    pub(crate) print_brief: bool,
}
