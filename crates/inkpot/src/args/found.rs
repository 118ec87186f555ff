//! Arguments of searches for an agent.

use std::path::PathBuf;

use clap::Args;

use super::SettingArgs;

#[derive(Args, Debug)]
pub(crate) struct FoundArgs {
    /// The brief
    pub(crate) brief: PathBuf,
    /// Name of the study [default: kind, game and number, as in batch-piste-001]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    /// Watch the search in the terminal
    #[arg(long, conflicts_with = "print_brief")]
    pub(crate) watch: bool,
    /// Print the brief with all defaults, without playing
    #[arg(long)]
    pub(crate) print_brief: bool,
}

/// Searches for the best response to an agent, and measures how often it wins on fresh blocks.
///
/// A small game of turns is solved; in other games knobs evolve, and a network or a table learns against the agent. Each search is
/// a separate study; a batch then measures the best response. Type the same command again to continue after an interrupt.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot exploit piste heron\n  inkpot exploit berths harbourmaster careful --name moor"
)]
pub(crate) struct ExploitArgs {
    /// The game
    pub(crate) game: String,
    /// Agents to exploit: KIND, PRESET, KIND:knob=value,..., or agent files
    #[arg(required = true)]
    pub(crate) agents: Vec<String>,
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
    /// Matches of each repetition that evolves; a tenth for agents that search
    #[arg(long, value_name = "N", default_value_t = 20_000, value_parser = clap::value_parser!(u64).range(1..=1_000_000_000))]
    pub(crate) matches: u64,
    /// Decisions that each repetition learns from
    #[arg(long, value_name = "N", default_value_t = 300_000, value_parser = clap::value_parser!(u64).range(1..=1_000_000_000))]
    pub(crate) steps: u64,
    /// Repetitions of each search
    #[arg(long, value_name = "N", default_value_t = 3, value_parser = clap::value_parser!(u64).range(1..=1000))]
    pub(crate) seeds: u64,
    /// Matches of each response's proof
    #[arg(long, value_name = "N", default_value_t = 1_000, value_parser = clap::value_parser!(u64).range(40..=1_000_000_000))]
    pub(crate) proof: u64,
    /// Name of the batch, and prefix of the searches' names [default: exploit-GAME-AGENT]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
}
