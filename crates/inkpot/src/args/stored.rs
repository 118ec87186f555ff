//! Arguments of briefs and of stored studies.

use std::path::PathBuf;

use clap::Args;

use crate::spent_by::By;

/// Lists every problem of a brief at once, or what it plays and about how long that takes; exercises a game file.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot check briefs/how-hard.toml\n  inkpot check briefs/skill.toml --json")]
pub(crate) struct BriefArgs {
    /// The brief, or a game file
    pub(crate) brief: PathBuf,
    /// For a tuning: play with and without each rung's modifiers, and name those without effect
    #[arg(long)]
    pub(crate) effects: bool,
}

/// Runs a brief of any kind.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot run briefs/how-hard.toml\n  inkpot run briefs/skill.toml --name first-try")]
pub(crate) struct RunArgs {
    /// The brief
    pub(crate) brief: PathBuf,
    /// Name of the study [default: kind, game and number, as in batch-piste-001]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    /// Print the brief with all defaults, without playing
    #[arg(long)]
    pub(crate) print_brief: bool,
}

/// Continues an interrupted or killed study; the result equals that of an uninterrupted one.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot resume batch-piste-001\n  inkpot resume birds --threads 1")]
pub(crate) struct StudyArg {
    /// The study
    pub(crate) study: String,
    /// Watch the search in the terminal
    #[arg(long)]
    pub(crate) watch: bool,
}

/// Draws the figures of a study, or the learning curves of several searches.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot plot sweep-piste-001 --figure response --out skill.png\n  inkpot plot genetic cma-es --by evaluations --out methods.png"
)]
pub(crate) struct PlotArgs {
    /// The study, or several searches to compare
    #[arg(required = true, value_name = "STUDY")]
    pub(crate) studies: Vec<String>,
    /// The figure [default: all that fit the study]
    #[arg(long, value_enum, value_name = "FIGURE")]
    pub(crate) figure: Option<crate::figure_name::Name>,
    /// The file of the figure: FILE.svg or FILE.png [default: both, in the study's folder]
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// Axis of the figure `learning` [default: matches]
    #[arg(long, value_enum, value_name = "COUNT")]
    pub(crate) by: Option<By>,
    /// Measures that the figure `measures` shows [default: those that differ most]
    #[arg(long, value_name = "MEASURE,...", value_delimiter = ',')]
    pub(crate) measure: Vec<String>,
}

/// Writes studies as one self-contained HTML page.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot report ladder\n  inkpot report ladder how-hard --out ladder.html")]
pub(crate) struct ReportArgs {
    /// The studies
    #[arg(required = true)]
    pub(crate) studies: Vec<String>,
    /// The page [default: report.html in the first study's folder]
    #[arg(long, value_name = "FILE.html")]
    pub(crate) out: Option<PathBuf>,
}
