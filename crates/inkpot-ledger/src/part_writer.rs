//! Writing part files: blocks in order, whole files every few seconds.

use std::time::{Duration, Instant};

use inkpot_core::Rows;

use crate::codec::encode;
use crate::step::rows_a_part;
use crate::{LedgerError, Manifest, Span, Study};

/// A part is written once it has this many rows ...
const ROWS_A_PART: usize = 16_384;
/// ... or once its oldest row is so old.
const AGE: Duration = Duration::from_secs(3);

/// Takes blocks in order and writes them to part files every few seconds.
pub struct PartWriter<'a> {
    study: &'a Study,
    measures: &'a [String],
    manifest: &'a mut Manifest,
    held: Rows,
    span: Span,
    since: Instant,
    most: usize,
}

impl<'a> PartWriter<'a> {
    /// A writer into a study, whose list of parts is kept up to date on disk.
    pub fn new(study: &'a Study, measures: &'a [String], manifest: &'a mut Manifest) -> Self {
        Self {
            study,
            measures,
            manifest,
            held: Rows::new(measures.len()),
            span: 0..0,
            since: Instant::now(),
            most: rows_a_part(ROWS_A_PART),
        }
    }

    /// Takes the rows of a run of blocks. Runs come in order; a jump begins a new part.
    pub fn take(&mut self, span: Span, rows: &mut Rows) -> Result<(), LedgerError> {
        if span.start != self.span.end {
            self.flush()?;
            self.span = span.start..span.start;
        }
        if self.held.rows.is_empty() {
            self.since = Instant::now();
        }
        self.span.end = span.end;
        self.held.append(rows);
        if self.held.rows.len() >= self.most || self.since.elapsed() >= AGE {
            self.flush()?;
        }
        Ok(())
    }

    /// Writes the buffer.
    pub fn flush(&mut self) -> Result<(), LedgerError> {
        if self.held.rows.is_empty() {
            return Ok(());
        }
        let bytes = encode(&self.held, self.measures).map_err(|error| LedgerError::Encode(error.to_string()))?;
        self.study.add_part(self.manifest, self.span.clone(), self.held.matches().count() as u64, &bytes)?;
        tracing::debug!(span = ?self.span, rows = self.held.rows.len(), bytes = bytes.len(), "part written");
        self.span = self.span.end..self.span.end;
        self.held.clear();
        Ok(())
    }
}
