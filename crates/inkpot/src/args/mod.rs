//! The command line.

mod found;
mod ledger;
mod rank;
mod single;
mod stored;
mod tune;

use std::path::PathBuf;

pub(crate) use found::{ExploitArgs, FoundArgs};
pub(crate) use ledger::{ExportArgs, ExportTo, LedgerVerb, RemoveArgs, ShowArgs, VerifyArgs};
pub(crate) use rank::{CompareArgs, PoolVerb, TournamentArgs};
pub(crate) use single::{ExplainArgs, MatchArgs, PlayArgs, ReplayArgs, WatchArgs};
pub(crate) use stored::{BriefArgs, PlotArgs, ReportArgs, RunArgs, StudyArg};
pub(crate) use tune::TuneArgs;

use clap::{Args, Parser, Subcommand, ValueEnum};

use crate::global::Global;

/// The verbs by the order of work; a test sees to it that none is missing.
const VERBS: &str = "\
\x1b[1mStart\x1b[0m
  demo         run the shipped briefs and draw their figures
  new          make a folder with sample briefs and a README
  games        list the games, their rules and levels
  agents       list the agents of a game, their knobs and presets

\x1b[1mPlay and measure\x1b[0m
  match        play one match and print its course, or replay a stored one
  replay       write matches as a page to step through, with perceptions and values
  watch        watch a match in the terminal
  play         play against agents in the terminal, with optional hints
  explain      show what an agent weighs at a position: values, visits, best lines
  batch        play many matches: every pair of entrants meets
  sweep        measure what a knob does, and find the value for a target win rate

\x1b[1mRank and decide\x1b[0m
  tournament   rank a field: ratings with intervals, who beats whom
  compare      decide which of two is better, stopping as soon as it is clear; a gate for CI
  pool         rate a field over many studies

\x1b[1mDesign difficulty\x1b[0m
  tune         find knob values that meet the targets of each rung, and prove them

\x1b[1mFind opponents\x1b[0m
  evolve       evolve an agent: knobs, a network, a sequence of actions
  train        train an agent by reward: a network or a table, with a curriculum if you like
  exploit      search for the best response to an agent, and measure how often it wins

\x1b[1mBriefs and long runs\x1b[0m
  check        check a brief, and estimate how long it takes
  run          run a brief of any kind
  resume       continue an interrupted or killed study

\x1b[1mResults\x1b[0m
  plot         draw the figures of a study as SVG and PNG
  report       write studies as one self-contained page: sentences, figures, tables
  ledger       list, show, export, verify and remove studies

\x1b[1mShell\x1b[0m
  completions  print a completion script
  help         print the help of a verb";

/// Tune opponents and compare strategies by batches of headless matches; every number comes with its interval.
#[derive(Parser, Debug)]
#[command(
    name = "inkpot",
    version,
    subcommand_value_name = "VERB",
    help_template = "{about}\n\n{usage-heading} {usage}\n\n{before-help}\x1b[1mOptions\x1b[0m\n{options}\n\n`{name} VERB --help` says more, with two examples.",
    before_help = VERBS
)]
pub(crate) struct Cli {
    #[command(flatten)]
    pub(crate) global: Global,
    #[command(subcommand)]
    pub(crate) verb: Verb,
}

#[derive(Subcommand, Debug)]
pub(crate) enum Verb {
    Demo(DemoArgs),
    New(NewArgs),
    Games(GamesArgs),
    Agents(AgentsArgs),
    Match(MatchArgs),
    Replay(ReplayArgs),
    Watch(WatchArgs),
    Play(PlayArgs),
    Explain(ExplainArgs),
    Batch(BatchArgs),
    Sweep(SweepArgs),
    Tournament(TournamentArgs),
    Compare(CompareArgs),
    Tune(TuneArgs),
    /// Evolves an agent, proves the champions on fresh blocks, and writes them as agent files.
    #[command(
        after_help = "Examples:\n  inkpot evolve briefs/windward.toml --name windward\n  inkpot evolve briefs/windward.toml --watch"
    )]
    Evolve(FoundArgs),
    /// Trains an agent by reward, proves the champions on fresh blocks, and writes them as agent files.
    #[command(
        after_help = "Examples:\n  inkpot train briefs/learn.toml --name learn\n  inkpot train briefs/learn.toml --watch"
    )]
    Train(FoundArgs),
    Exploit(ExploitArgs),
    #[command(subcommand)]
    Pool(PoolVerb),
    Check(BriefArgs),
    Run(RunArgs),
    Resume(StudyArg),
    Plot(PlotArgs),
    Report(ReportArgs),
    #[command(subcommand)]
    Ledger(LedgerVerb),
    Completions(CompletionsArgs),
}

impl Verb {
    /// Whether its searches are to be watched in the terminal.
    pub(crate) fn watches(&self) -> bool {
        match self {
            Self::Evolve(args) | Self::Train(args) => args.watch,
            Self::Resume(args) => args.watch,
            _ => false,
        }
    }
}

/// Runs the shipped briefs, draws their figures and prints the findings.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot demo\n  inkpot demo --quick --out /tmp/demo")]
pub(crate) struct DemoArgs {
    /// Folder for briefs, ledger and figures [default: `demo`, or the next free `demo-2`, ...]
    #[arg(long, value_name = "DIR")]
    pub(crate) out: Option<PathBuf>,
    /// Play a tenth of the matches
    #[arg(long)]
    pub(crate) quick: bool,
}

/// Makes a folder with sample briefs and a README, or with the start of a game.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot new my-briefs\n  inkpot new my-game --game command")]
pub(crate) struct NewArgs {
    /// The folder; it must be new or empty
    pub(crate) folder: PathBuf,
    /// Start a game instead
    #[arg(long, value_name = "WAY")]
    pub(crate) game: Option<GameWay>,
}

/// The ways to start a game.
#[derive(ValueEnum, Clone, Copy, Debug)]
pub(crate) enum GameWay {
    /// A command that plays whole matches by itself, here in Python, with its game file and a test
    Command,
}

/// Lists the games, or the rules, levels and measures of one.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot games regatta --scene stills\n  inkpot games sowing --count 6 --rules pits=3,seeds=2"
)]
pub(crate) struct GamesArgs {
    /// A game, or a game file
    pub(crate) game: Option<String>,
    /// Count positions and move sequences up to this many turns from the plain start
    #[arg(long, value_name = "TURNS", requires = "game", value_parser = clap::value_parser!(u32).range(0..=200))]
    pub(crate) count: Option<u32>,
    /// Further turns for which move sequences are estimated by random play
    #[arg(long, value_name = "TURNS", default_value_t = 4, requires = "count", value_parser = clap::value_parser!(u32).range(0..=200))]
    pub(crate) beyond: u32,
    /// Lines of random play for the estimates
    #[arg(long, value_name = "N", default_value_t = 20_000, requires = "count", value_parser = clap::value_parser!(u64).range(2..=100_000_000))]
    pub(crate) samples: u64,
    /// Draw a still of each level, or of the one that --level names, as SVG and PNG into this folder
    #[arg(long, value_name = "DIR", requires = "game", conflicts_with = "count")]
    pub(crate) scene: Option<PathBuf>,
    /// Count from this position instead
    #[arg(long, value_name = "TEXT", requires = "count")]
    pub(crate) position: Option<String>,
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
}

/// Lists the agents of a game, or the knobs and presets of one.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot agents piste\n  inkpot agents piste fencer")]
pub(crate) struct AgentsArgs {
    /// A game, or a game file
    pub(crate) game: String,
    /// An agent kind or a preset
    pub(crate) agent: Option<String>,
}

/// Options of every verb that plays a game.
#[derive(Args, Debug, Default)]
pub(crate) struct SettingArgs {
    /// Seed of all chance
    #[arg(long, value_name = "N")]
    pub(crate) seed: Option<u64>,
    /// Rules knobs, as in `touches=3,double=neither`
    #[arg(long, value_name = "KNOB=VALUE,...")]
    pub(crate) rules: Option<String>,
    /// Level of the game, as in `pier` or `pier:strip=12`; or a file that holds one
    #[arg(long, value_name = "NAME or FILE")]
    pub(crate) level: Option<String>,
}

/// Options of every verb that makes a study.
#[derive(Args, Debug, Default)]
pub(crate) struct StudyArgs {
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
    /// Matches per pairing or point, in whole blocks [default: 400]
    #[arg(long, short, value_name = "N", value_parser = clap::value_parser!(u64).range(1..=1_000_000_000))]
    pub(crate) matches: Option<u64>,
    /// Seats of a match, in games with a range of seats [default: 2 where two or more are named]
    #[arg(long, value_name = "N")]
    pub(crate) seats: Option<u64>,
    /// Matches that the same people play in a row; a series is then the unit of statistics
    #[arg(long, value_name = "N")]
    pub(crate) series: Option<u64>,
    /// Name of the study [default: kind, game and number, as in batch-piste-001]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    /// Confidence of all intervals [default: 0.95]
    #[arg(long, value_name = "P")]
    pub(crate) confidence: Option<f64>,
    /// Time the game allows for a decision; notes name slower agents
    #[arg(long, value_name = "MS")]
    pub(crate) frame_ms: Option<f64>,
    /// Keep the choices of clocked agents, so that their matches can be replayed
    #[arg(long)]
    pub(crate) record: bool,
    /// Print this command as a brief, without playing
    #[arg(long)]
    pub(crate) print_brief: bool,
}

/// Plays many matches: every pair of entrants meets, with seats rotated.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot batch piste guest=newcomer house=fencer:skill=0.6 --matches 1000\n  inkpot batch piste heron turnstone dunlin avocet godwit --seed 11 --name birds"
)]
pub(crate) struct BatchArgs {
    /// The game, or a game file
    pub(crate) game: String,
    /// Entrants: KIND, PRESET, KIND:knob=value,..., LABEL=..., or agent files
    #[arg(required = true)]
    pub(crate) entrants: Vec<String>,
    #[command(flatten)]
    pub(crate) study: StudyArgs,
}

/// Measures what a knob does: the entrant's win rate at each value of one or two knobs.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot sweep piste --entrant guest=newcomer --against house=fencer --vary house.skill=0..1/11 --target 0.55\n  inkpot sweep piste --entrant heron --against turnstone --vary rules.reach=1.2,1.6,2 --matches 200"
)]
pub(crate) struct SweepArgs {
    /// The game, or a game file
    pub(crate) game: String,
    /// The entrant whose win rate is measured
    #[arg(long, value_name = "SPEC")]
    pub(crate) entrant: String,
    /// Its opponent
    #[arg(long, value_name = "SPEC", required = true)]
    pub(crate) against: Vec<String>,
    /// The entrant's knob to vary: KNOB=LOW..HIGH/POINTS or KNOB=A,B,C; another's: LABEL.KNOB=..., rules.KNOB=...
    #[arg(long, value_name = "KNOB=VALUES", required = true)]
    pub(crate) vary: Vec<String>,
    /// Find the value that gives this win rate
    #[arg(long, value_name = "RATE")]
    pub(crate) target: Option<f64>,
    #[command(flatten)]
    pub(crate) study: StudyArgs,
}

/// Prints a completion script for a shell.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot completions bash > ~/.local/share/bash-completion/completions/inkpot\n  inkpot completions fish > ~/.config/fish/completions/inkpot.fish"
)]
pub(crate) struct CompletionsArgs {
    /// The shell
    #[arg(value_enum)]
    pub(crate) shell: clap_complete::Shell,
}

#[cfg(test)]
mod tests {
    use super::*;
    use clap::CommandFactory;

    #[test]
    fn the_overview_names_every_verb() {
        let command = Cli::command();
        command.clone().debug_assert();
        for verb in command.get_subcommands() {
            let line = format!("\n  {} ", verb.get_name());
            assert!(VERBS.contains(&line), "`{}` is missing from the overview", verb.get_name());
        }
    }

    #[test]
    fn every_verb_ends_its_help_with_two_examples() {
        let command = Cli::command();
        let verbs = command.get_subcommands().flat_map(|verb| {
            let deeper: Vec<_> = verb.get_subcommands().collect();
            if deeper.is_empty() { vec![verb] } else { deeper }
        });
        for verb in verbs {
            let help = verb.get_after_help().map(ToString::to_string).unwrap_or_default();
            assert_eq!(help.matches("\n  ").count(), 2, "`{}`: {help}", verb.get_name());
        }
    }
}
