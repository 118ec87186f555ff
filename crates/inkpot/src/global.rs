//! The options that every verb has.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

/// Options of every verb.
#[derive(Args, Debug)]
pub(crate) struct Global {
    /// Folder of the studies
    #[arg(
        long,
        global = true,
        value_name = "DIR",
        default_value = crate::hint::LEDGER,
        env = "INKPOT_LEDGER",
        help_heading = "Everywhere"
    )]
    pub(crate) ledger: PathBuf,
    /// Threads to play on [default: all cores]
    #[arg(
        long,
        global = true,
        value_name = "N",
        value_parser = clap::value_parser!(u16).range(1..=1024),
        help_heading = "Everywhere"
    )]
    pub(crate) threads: Option<u16>,
    /// Print one JSON document and no table
    #[arg(long, global = true, help_heading = "Everywhere")]
    pub(crate) json: bool,
    /// Print only the finding
    #[arg(long, short, global = true, help_heading = "Everywhere")]
    pub(crate) quiet: bool,
    /// Log to standard error; twice for more
    #[arg(long, short, global = true, action = clap::ArgAction::Count, help_heading = "Everywhere")]
    pub(crate) verbose: u8,
    /// When to use colour
    #[arg(
        long,
        global = true,
        value_enum,
        default_value = "auto",
        value_name = "WHEN",
        hide_possible_values = false,
        help_heading = "Everywhere"
    )]
    pub(crate) color: Color,
}

/// The use of colour.
#[derive(ValueEnum, Clone, Copy, Debug)]
pub(crate) enum Color {
    Auto,
    Always,
    Never,
}
