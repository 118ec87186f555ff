//! Study folders: rows, manifest, resume, export, verify.
//!
//! A [`Ledger`] is a folder of studies; a [`Study`] is one of them. Files appear whole: they are written aside, synced
//! and renamed. The manifest has the checksum of every file that a study rests on, and one of its own. Rows are kept in
//! part files, each covering a run of blocks, so that a kill loses seconds of work and [`Study::missing`] says what to
//! play to complete a study.
//!
//! `Ledger::begin` builds a study out of sight and `Begun::settle` renames it into place. `Study::mend` removes parts that the manifest does not know; they are played
//! again. `read_kept` checks a file against the manifest, `read_sealed` one that carries its own checksum, since a checkpoint changes more often than the manifest.

mod codec;
mod columns;
mod error;
mod export;
mod files;
mod ledger;
mod manifest;
mod part;
mod part_list;
mod part_writer;
mod parts;
mod step;
mod study;

pub use codec::Columns;
pub use columns::{Column, columns_as_parquet};
pub use error::{LedgerError, plainly};
pub use export::{ExportFormat, ExportLabels, export};
pub use files::{WholeFile, checksum, write_whole};
pub use ledger::{Begun, Ledger, Naming};
pub use manifest::{DecisionTime, Machine, Manifest, Phase, ROW_FORMAT, State};
pub use part::{Part, Span};
pub use part_writer::PartWriter;
pub use study::{Lock, Study};
