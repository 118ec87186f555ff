//! Playing a plan into a study, in one sitting or several.

use std::ops::ControlFlow;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::Instant;

use inkpot_core::{GameEntry, Rows, SettingError, Stage, points_shares};
use inkpot_ledger::{LedgerError, Manifest, PartWriter, Span, State, Study};
use inkpot_stats::BlockRates;

use crate::in_order::in_order;
use crate::{Event, Plan};

/// Blocks are handed out in runs that take about so long.
const RUN_S: f64 = 0.005;
const LONGEST_RUN: u64 = 64;

/// How a sitting ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sitting {
    /// Every block of the study is stored.
    Complete,
    /// It was asked to stop; what was finished is stored.
    Interrupted,
}

/// Plays the blocks of a plan.
pub struct Runner<'a> {
    plan: &'a Plan,
    stages: Vec<Box<dyn Stage>>,
    measures: Vec<String>,
    threads: usize,
    stop: &'a AtomicBool,
}

impl<'a> Runner<'a> {
    /// A runner on so many threads; once `stop` is set, it finishes the blocks that are running and ends the sitting.
    pub fn new(
        plan: &'a Plan,
        game: &dyn GameEntry,
        threads: usize,
        stop: &'a AtomicBool,
    ) -> Result<Self, SettingError> {
        let measures = game.sheet().measures.iter().map(|measure| measure.name.clone()).collect();
        Ok(Self { plan, stages: plan.stages(game)?, measures, threads, stop })
    }

    /// Names of the measure columns.
    pub fn measures(&self) -> &[String] {
        &self.measures
    }

    /// Plays every block that is missing from the study. The rows are the same whatever the threads, and whether it
    /// takes one sitting or several.
    pub fn play(
        &self,
        study: &Study,
        manifest: &mut Manifest,
        mut listener: impl FnMut(&Event),
    ) -> Result<Sitting, LedgerError> {
        let files = study.set_damaged_aside(manifest, &self.measures)?;
        if !files.is_empty() {
            listener(&Event::SetAside { files });
        }
        let missing = study.missing(self.plan.total_blocks())?;
        let began = Instant::now();
        let before = manifest.seconds;
        manifest.state = State::Running;
        study.write_manifest(manifest)?;
        let mut done = manifest.blocks_done;
        listener(&Event::Began { blocks: manifest.blocks, done, rotations: self.plan.rotations() });
        let mut failed = None;
        let mut rates = Rates::new(self.plan);
        let length = AtomicU64::new(1);
        let mut writer = PartWriter::new(study, &self.measures, manifest);
        in_order(
            self.threads,
            self.runs(missing, &length),
            |span| self.timed(span, &length),
            |span, mut rows| {
                done += span.end - span.start;
                let (cell, rate) = rates.count(&rows);
                let flow = writer.take(span, &mut rows);
                listener(&Event::Played { done, cell, rate });
                match flow {
                    Ok(()) => ControlFlow::Continue(()),
                    Err(error) => {
                        failed = Some(error);
                        ControlFlow::Break(())
                    }
                }
            },
        );
        if failed.is_none() {
            failed = writer.flush().err();
        }
        if let Some(error) = failed {
            return Err(error);
        }
        manifest.seconds = before + began.elapsed().as_secs_f64();
        let complete = manifest.blocks_done >= manifest.blocks;
        if !complete {
            manifest.state = State::Interrupted;
        }
        study.write_manifest(manifest)?;
        Ok(if complete { Sitting::Complete } else { Sitting::Interrupted })
    }

    /// Plays the blocks of a run, which lies within one cell.
    pub fn play_span(&self, span: &Span) -> Rows {
        let rotations = self.plan.rotations();
        let count = (span.end - span.start) * rotations * rotations;
        let mut rows = Rows::with_capacity(self.measures.len(), count as usize);
        for match_index in span.start * rotations..span.end * rotations {
            let spot = self.plan.spot(match_index);
            self.stages[spot.cell as usize].play(spot, &mut rows);
        }
        rows
    }

    fn timed(&self, span: &Span, length: &AtomicU64) -> Rows {
        let start = Instant::now();
        let rows = self.play_span(span);
        let a_block = start.elapsed().as_secs_f64() / (span.end - span.start) as f64;
        length.store(((RUN_S / a_block) as u64).clamp(1, LONGEST_RUN), Ordering::Relaxed);
        rows
    }

    /// Cuts the missing spans into runs within one cell; where they are cut has no bearing on the rows.
    fn runs(&self, missing: Vec<Span>, length: &AtomicU64) -> impl Iterator<Item = Span> + Send {
        let mut left = missing.into_iter();
        let mut span = 0..0;
        let cell = self.plan.blocks;
        std::iter::from_fn(move || {
            if self.stop.load(Ordering::Relaxed) {
                return None;
            }
            if span.is_empty() {
                span = left.next()?;
            }
            let start = span.start;
            let cell_end = (start / cell + 1) * cell;
            span.start = (start + length.load(Ordering::Relaxed)).min(cell_end).min(span.end);
            Some(start..span.start)
        })
    }
}

/// The rate of the current cell's first entrant so far.
struct Rates<'a> {
    plan: &'a Plan,
    cell: usize,
    so_far: BlockRates,
}

impl<'a> Rates<'a> {
    fn new(plan: &'a Plan) -> Self {
        Self { plan, cell: usize::MAX, so_far: BlockRates::new(plan.rotations() as usize) }
    }

    fn count(&mut self, rows: &Rows) -> (usize, Option<inkpot_stats::Interval>) {
        let cell = rows.rows.first().map_or(0, |row| row.cell as usize);
        if cell != self.cell {
            self.cell = cell;
            self.so_far = BlockRates::new(self.plan.rotations() as usize);
        }
        let first = self.plan.cells[cell].entrants[0];
        for block in rows.rows.chunk_by(|a, b| a.block == b.block) {
            let (mut sum, mut matches) = (0.0, 0.0);
            for seats in block.chunk_by(|a, b| a.match_index == b.match_index) {
                let placements: Vec<u16> = seats.iter().map(|row| row.placement).collect();
                let points = points_shares(&placements);
                let own = seats.iter().position(|row| usize::from(row.entrant) == first);
                if let Some(seat) = own.filter(|_| !placements.contains(&0)) {
                    sum += points[seat];
                    matches += 1.0;
                }
            }
            if matches > 0.0 {
                self.so_far.push(sum / matches);
            }
        }
        (cell, self.so_far.interval(self.plan.confidence))
    }
}
