//! Events of a study in progress.

use inkpot_stats::Interval;

/// An event while a study is played, for progress bars, logs and tests.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "the fields are named after the figures they carry")]
pub enum Event {
    /// Play begins; this many blocks were there already.
    Began { blocks: u64, done: u64, rotations: u64 },
    /// Damaged part files were set aside; their blocks are played again.
    SetAside { files: Vec<String> },
    /// Blocks were finished. From time to time with the first entrant's rate so far, or a comparison's verdict so far.
    Played { done: u64, so_far: Option<(String, Interval)> },
    /// All blocks are stored; the rows are being summed up.
    SummingUp,
}
