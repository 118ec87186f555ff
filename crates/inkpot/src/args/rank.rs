//! Arguments of tournaments, comparisons and pools.

use std::path::PathBuf;

use clap::{Args, Subcommand, ValueEnum};
use inkpot_lab::{Format, Requirement};

use super::StudyArgs;
use super::single::positive;

/// Ranks a field: ratings with intervals, who beats whom, and circles of strength.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot tournament piste heron turnstone dunlin avocet godwit --matches 1000\n  inkpot tournament sowing plover fly=minimax:slip=0..0.6/13 --format swiss --matches 40 --anchor plover"
)]
pub(crate) struct TournamentArgs {
    /// The game, or a game file
    pub(crate) game: String,
    /// Entrants: KIND, PRESET, KIND:knob=value,..., LABEL=..., a grid KIND:knob=LOW..HIGH/POINTS, or agent files as in 'agents/*.toml'
    #[arg(required_unless_present = "pool")]
    pub(crate) entrants: Vec<String>,
    /// The format
    #[arg(long, value_enum, value_name = "FORMAT", default_value = "round-robin")]
    pub(crate) format: FormatName,
    /// Rounds of a Swiss tournament [default: the binary logarithm of the field]
    #[arg(long, value_name = "N")]
    pub(crate) rounds: Option<u64>,
    /// The entrant whose rating is 0 [default: the mean of the field is 0]
    #[arg(long, value_name = "NAME")]
    pub(crate) anchor: Option<String>,
    /// Take field and anchor from this pool
    #[arg(long, value_name = "FILE")]
    pub(crate) pool: Option<PathBuf>,
    /// Give each searching agent the `nodes` whose decisions take this long on this machine, and store them in the brief
    #[arg(long, value_name = "MS", value_parser = positive, conflicts_with = "pool")]
    pub(crate) equal_cost: Option<f64>,
    #[command(flatten)]
    pub(crate) study: StudyArgs,
}

#[derive(ValueEnum, Clone, Copy, Debug)]
pub(crate) enum FormatName {
    /// Every two entrants meet
    RoundRobin,
    /// In each round, entrants with equal scores meet
    Swiss,
    /// The loser of each pairing is out; entrants are seeded in the order given
    Knockout,
}

impl From<FormatName> for Format {
    fn from(name: FormatName) -> Self {
        match name {
            FormatName::RoundRobin => Self::RoundRobin,
            FormatName::Swiss => Self::Swiss,
            FormatName::Knockout => Self::Knockout,
        }
    }
}

/// Decides which of two is better: head to head, against the same opponents, or as stored in two studies.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot compare piste new=fencer:skill=0.6 old=fencer:skill=0.5 --until clear\n  inkpot compare piste heron godwit --against newcomer --require not-worse --equal-within 0.03 --junit gate.xml"
)]
pub(crate) struct CompareArgs {
    /// GAME X Y asks whether X is better than Y; STUDY/X STUDY/Y compares two stored entrants
    #[arg(required = true, num_args = 2..=3, value_names = ["GAME", "X", "Y"])]
    pub(crate) what: Vec<String>,
    /// Opponents that both play instead of each other, on the same blocks
    #[arg(long, value_name = "SPEC", num_args = 1..)]
    pub(crate) against: Vec<String>,
    /// Stop as soon as the answer is clear; --matches is then the most [default: 20,000]
    #[arg(long, value_enum, value_name = "WHEN")]
    pub(crate) until: Option<Until>,
    /// Treat differences in win rate up to RATE as equal, as in 0.03
    #[arg(long, value_name = "RATE")]
    pub(crate) equal_within: Option<f64>,
    /// Require this of X; otherwise the exit code is 3
    #[arg(long, value_enum, value_name = "WHAT")]
    pub(crate) require: Option<RequirementName>,
    /// The smallest difference in win rate that matters; says how many matches suffice [default: 0.05]
    #[arg(long, value_name = "RATE")]
    pub(crate) smallest: Option<f64>,
    /// Write the outcome as JUnit XML, for a build server
    #[arg(long, value_name = "FILE")]
    pub(crate) junit: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) study: StudyArgs,
}

#[derive(ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Until {
    /// Stop once one is better, or both are equal within --equal-within
    Clear,
}

#[derive(ValueEnum, Clone, Copy, Debug)]
pub(crate) enum RequirementName {
    /// X is better than Y
    Better,
    /// X is worse than Y by at most --equal-within, or 0.05
    NotWorse,
}

impl From<RequirementName> for Requirement {
    fn from(name: RequirementName) -> Self {
        match name {
            RequirementName::Better => Self::Better,
            RequirementName::NotWorse => Self::NotWorse,
        }
    }
}

/// Rates a field over many studies.
#[derive(Subcommand, Debug)]
pub(crate) enum PoolVerb {
    Show(PoolShowArgs),
    Add(PoolAddArgs),
}

/// Shows the field of a pool and its ratings.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot pool show birds.toml\n  inkpot pool show birds.toml --json")]
pub(crate) struct PoolShowArgs {
    /// The pool
    pub(crate) pool: PathBuf,
}

/// Adds studies to a pool and rates it anew.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot pool add birds.toml tournament-piste-001\n  inkpot pool add birds.toml monday tuesday"
)]
pub(crate) struct PoolAddArgs {
    /// The pool
    pub(crate) pool: PathBuf,
    /// The studies
    #[arg(required = true)]
    pub(crate) studies: Vec<String>,
}
