//! Arguments of a single match or position.

use std::path::PathBuf;

use clap::Args;

use super::SettingArgs;

/// Plays one match and prints its course: scores, ending, measures.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot match piste newcomer heron --seed 7\n  inkpot match sowing minimax plover --trace trace.jsonl"
)]
pub(crate) struct MatchArgs {
    /// The game, or a game file
    #[arg(required_unless_present = "again")]
    pub(crate) game: Option<String>,
    /// Entrants by seat: KIND, PRESET, KIND:knob=value,... or LABEL=...
    pub(crate) entrants: Vec<String>,
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
    /// Write every perception and choice as JSON lines
    #[arg(long, value_name = "FILE")]
    pub(crate) trace: Option<PathBuf>,
    /// Play a stored match again
    #[arg(long, value_name = "STUDY/MATCH", conflicts_with_all = ["game", "entrants", "seed", "rules", "level"])]
    pub(crate) again: Option<String>,
}

/// Writes matches as one page to step through: the scene, and what each seat perceived and weighed.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot replay piste heron turnstone --seed 7 --out match.html\n  inkpot replay batch-piste-001 --by longest_lull_s"
)]
pub(crate) struct ReplayArgs {
    /// Stored matches as STUDY/MATCH; a game and who plays, by seat; or a study, with --by
    #[arg(required = true, value_name = "STUDY/MATCH or GAME ENTRANT")]
    pub(crate) what: Vec<String>,
    /// Show the lowest, the median and the highest match of a study by this measure, side by side
    #[arg(long, value_name = "MEASURE")]
    pub(crate) by: Option<String>,
    /// The page [default: in the study's folder `replays`, or replay-GAME.html]
    #[arg(long, value_name = "FILE.html")]
    pub(crate) out: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
}

/// Shows a match in the terminal, at the pace you set.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot watch piste heron turnstone --pace 0.5\n  inkpot watch batch-sowing-001/3 --thoughts 0 --delay 2"
)]
pub(crate) struct WatchArgs {
    /// A game and who plays, by seat; or a stored match as STUDY/MATCH
    #[arg(required = true, value_name = "GAME ENTRANT or STUDY/MATCH")]
    pub(crate) what: Vec<String>,
    /// Seconds per turn, in games of turns [default: 0.8]
    #[arg(long, value_name = "SECONDS", value_parser = positive)]
    pub(crate) delay: Option<f64>,
    /// Speed factor, in real-time games [default: 1]
    #[arg(long, value_name = "TIMES", value_parser = positive)]
    pub(crate) pace: Option<f64>,
    /// Show what this seat perceives and weighs
    #[arg(long, value_name = "SEAT")]
    pub(crate) thoughts: Option<usize>,
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
}

/// Seats you in a match in the terminal, and stores your matches as a study.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot play sowing grabber --hints minimax:depth=6 --best-of 3\n  inkpot play piste heron --pace 0.5 --label guest --keys lunge=l,parry=k"
)]
pub(crate) struct PlayArgs {
    /// The game
    pub(crate) game: String,
    /// Your opponents, one for each other seat
    #[arg(required = true)]
    pub(crate) opponents: Vec<String>,
    /// Your seat in games of two; in larger games each match draws it
    #[arg(long, value_name = "SEAT", default_value_t = 0)]
    pub(crate) seat: usize,
    /// Your name in the study
    #[arg(long, value_name = "NAME", default_value = "you")]
    pub(crate) label: String,
    /// Play up to this many matches, until somebody has won more than half of them
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u64).range(1..=1000))]
    pub(crate) best_of: u64,
    /// Speed factor, in real-time games [default: 1]
    #[arg(long, value_name = "TIMES", value_parser = positive)]
    pub(crate) pace: Option<f64>,
    /// Keys for the controls of a real-time game
    #[arg(long, value_name = "CONTROL=KEY,...")]
    pub(crate) keys: Option<String>,
    /// An agent that shows its choice in your place when you press Tab
    #[arg(long, value_name = "AGENT")]
    pub(crate) hints: Option<String>,
    /// Name of the study [default: play-GAME-NNN]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
}

/// A number above 0.
pub(super) fn positive(text: &str) -> Result<f64, String> {
    let value: f64 = text.parse().map_err(|_| "it must be a number above 0".to_string())?;
    if value > 0.0 && value.is_finite() { Ok(value) } else { Err("it must be a number above 0".into()) }
}

/// Shows what an agent weighs at a position: value, visits or depth, share of the budget and best line of each option.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot explain sowing --agent treesearch --layers 2 --position 4,4,4,4,4,4/0,4,4,4,4,4/0:4/north\n  inkpot explain --again batch-sowing-001/3 --agent minimax:depth=8"
)]
pub(crate) struct ExplainArgs {
    /// The game
    #[arg(required_unless_present = "again")]
    pub(crate) game: Option<String>,
    /// The agent: KIND, PRESET or KIND:knob=value,...
    #[arg(long, value_name = "SPEC")]
    pub(crate) agent: Option<String>,
    /// The position as text [default: the plain start]
    #[arg(long, value_name = "TEXT")]
    pub(crate) position: Option<String>,
    /// Explain a stored match: one decision as it was made (--turn), or its turning points; with --agent, as another agent
    /// judges them
    #[arg(long, value_name = "STUDY/MATCH", conflicts_with_all = ["game", "position", "seed", "rules", "level"])]
    pub(crate) again: Option<String>,
    /// The turn, or the tick in real time, from 1
    #[arg(long, value_name = "N", requires = "again")]
    pub(crate) turn: Option<u64>,
    /// The deciding seat, where several decide at once [default: the first]
    #[arg(long, value_name = "SEAT")]
    pub(crate) seat: Option<usize>,
    /// Layers of the search to show: options, replies, ...
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u32).range(1..=8))]
    pub(crate) layers: u32,
    /// Draw the values by option: FILE.svg or FILE.png
    #[arg(long, value_name = "FILE")]
    pub(crate) figure: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) setting: SettingArgs,
}
