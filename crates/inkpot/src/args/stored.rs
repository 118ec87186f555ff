//! What can be typed of briefs and of stored studies.

use std::path::PathBuf;

use clap::Args;

use crate::spent_by::By;

/// Says everything that is wrong with a brief at once, or what it plays and about how long that takes.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot check briefs/how-hard.toml\n  inkpot check briefs/skill.toml --json")]
pub(crate) struct BriefArgs {
    /// The brief
    pub(crate) brief: PathBuf,
    /// For a tuning: play with and without each modifier of its rungs, and name those that have no effect
    #[arg(long)]
    pub(crate) effects: bool,
}

/// Runs a brief, whatever its kind.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot run briefs/how-hard.toml\n  inkpot run briefs/skill.toml --name first-try")]
pub(crate) struct RunArgs {
    /// The brief
    pub(crate) brief: PathBuf,
    /// Name of the study [default: its kind, its game and a number, as in batch-piste-001]
    #[arg(long, value_name = "STUDY")]
    pub(crate) name: Option<String>,
    /// Print the brief with every default filled in, and play nothing
    #[arg(long)]
    pub(crate) print_brief: bool,
}

/// Continues an interrupted or killed study; the result equals that of an uninterrupted one.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot resume batch-piste-001\n  inkpot resume birds --threads 1")]
pub(crate) struct StudyArg {
    /// The study
    pub(crate) study: String,
    /// Watch the search of an evolution in the terminal while it goes on
    #[arg(long)]
    pub(crate) watch: bool,
}

/// Draws the figures of a study, or how several searches learned.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot plot sweep-piste-001 --figure response --out skill.png\n  inkpot plot genetic cma-es --by evaluations --out methods.png"
)]
pub(crate) struct PlotArgs {
    /// The study, or several evolutions to set side by side
    #[arg(required = true, value_name = "STUDY")]
    pub(crate) studies: Vec<String>,
    /// The figure to draw [default: all that fit the study, as SVG and PNG in its folder]
    #[arg(long, value_enum, value_name = "FIGURE")]
    pub(crate) figure: Option<crate::figure_name::Name>,
    /// Where to put the one figure: FILE.svg or FILE.png [default: both, in its folder]
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// What the figure `learning` is drawn over [default: matches]
    #[arg(long, value_enum, value_name = "COUNT")]
    pub(crate) by: Option<By>,
    /// Measures that the figure `measures` shows [default: those that differ most]
    #[arg(long, value_name = "MEASURE,...", value_delimiter = ',')]
    pub(crate) measure: Vec<String>,
}

/// Writes studies as one self-contained HTML page, and compares several.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot report ladder\n  inkpot report ladder how-hard --out ladder.html")]
pub(crate) struct ReportArgs {
    /// The studies
    #[arg(required = true)]
    pub(crate) studies: Vec<String>,
    /// Where to put the page [default: report.html in the first study's folder]
    #[arg(long, value_name = "FILE.html")]
    pub(crate) out: Option<PathBuf>,
}
