//! Arguments of the verbs on stored studies.

use std::path::PathBuf;

use clap::{Args, Subcommand, ValueEnum};

/// Lists, shows, exports, verifies and removes studies.
#[derive(Subcommand, Debug)]
pub(crate) enum LedgerVerb {
    List(ListArgs),
    Show(ShowArgs),
    Export(ExportArgs),
    Verify(VerifyArgs),
    Remove(RemoveArgs),
}

/// Lists all studies with their state and start.
#[derive(Args, Debug)]
#[command(after_help = "Examples:\n  inkpot ledger list\n  inkpot ledger list --json")]
pub(crate) struct ListArgs {}

/// Shows the findings of a study, or its most extreme matches.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot ledger show batch-piste-001\n  inkpot ledger show batch-piste-001 --by reversals_per_s"
)]
pub(crate) struct ShowArgs {
    /// The study
    pub(crate) study: String,
    /// List the most extreme matches by this measure, each with the command that plays it again
    #[arg(long, value_name = "MEASURE")]
    pub(crate) by: Option<String>,
    /// Matches to list at each end
    #[arg(long, value_name = "N", default_value_t = 5, requires = "by")]
    pub(crate) most: usize,
}

/// Writes the rows of a study, or the network or table of its champion, in an open format.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot ledger export batch-piste-001 --out rows.parquet\n  inkpot ledger export train-regatta-001 --out policy.onnx"
)]
pub(crate) struct ExportArgs {
    /// The study
    pub(crate) study: String,
    /// Write the champion of a search instead of the rows: a network as onnx, a table of values as csv or parquet
    #[arg(long)]
    pub(crate) champion: bool,
    /// The format; onnx is always the champion's [default: by the ending of --out, else csv]
    #[arg(long, value_enum, value_name = "FORMAT")]
    pub(crate) to: Option<ExportTo>,
    /// The file [default: standard output]
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
}

#[derive(ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum ExportTo {
    Csv,
    Jsonl,
    Parquet,
    Onnx,
}

/// Checks the files of a study and plays a sample of its matches again.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot ledger verify batch-piste-001\n  inkpot ledger verify batch-piste-001 --sample 200"
)]
pub(crate) struct VerifyArgs {
    /// The study
    pub(crate) study: String,
    /// Matches to play again
    #[arg(long, value_name = "N", default_value_t = 20)]
    pub(crate) sample: u64,
}

/// Removes studies and their folders.
#[derive(Args, Debug)]
#[command(
    after_help = "Examples:\n  inkpot ledger remove batch-piste-001\n  inkpot ledger remove first-try second-try"
)]
pub(crate) struct RemoveArgs {
    /// The studies
    #[arg(required = true)]
    pub(crate) studies: Vec<String>,
}
