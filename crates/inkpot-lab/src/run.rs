//! Playing a plan into a study, in one sitting or several.

use std::collections::BTreeMap;
use std::ops::ControlFlow;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::Instant;

use inkpot_core::{GameEntry, Rows, Stage, points_shares};
use inkpot_ledger::{LedgerError, Manifest, PartWriter, Span, State, Study};
use inkpot_stats::BlockRates;

use crate::in_order::in_order;
use crate::watch::Watch;
use crate::{Event, Plan, standing};

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
    plan: Plan,
    game: &'a dyn GameEntry,
    measures: Vec<String>,
    threads: usize,
    stop: &'a AtomicBool,
}

impl<'a> Runner<'a> {
    /// A runner on so many threads; once `stop` is set, it finishes the blocks that are running and ends the sitting.
    pub fn new(plan: &Plan, game: &'a dyn GameEntry, threads: usize, stop: &'a AtomicBool) -> Self {
        let measures = game.sheet().measures.iter().map(|measure| measure.name.clone()).collect();
        Self { plan: plan.clone(), game, measures, threads, stop }
    }

    /// Names of the measure columns.
    pub fn measures(&self) -> &[String] {
        &self.measures
    }

    /// Plays every block that is missing from the study, round by round. The rows are the same whatever the threads,
    /// and whether it takes one sitting or several. Gives the plan too, with every round drawn that was reached.
    pub fn play(
        mut self,
        study: &Study,
        manifest: &mut Manifest,
        mut listener: impl FnMut(&Event),
    ) -> Result<(Sitting, Plan), LedgerError> {
        let files = study.set_damaged_aside(manifest, &self.measures)?;
        if !files.is_empty() {
            listener(&Event::SetAside { files });
        }
        let began = Instant::now();
        let before = manifest.seconds;
        manifest.state = State::Running;
        let mut watch = self.watch_again(study, manifest)?;
        study.write_manifest(manifest)?;
        listener(&Event::Began {
            blocks: manifest.blocks,
            done: manifest.blocks_done,
            rotations: self.plan.matches_a_block(),
        });
        let mut played = Vec::new();
        let seats = self.plan.seats() as usize;
        loop {
            let drawn = (self.plan.cells.len() as u64 * self.plan.blocks).min(manifest.blocks);
            self.play_missing(study, manifest, study.missing(drawn)?, watch.as_mut(), &mut listener)?;
            let all = study.missing(drawn.min(manifest.blocks))?.is_empty();
            if !all || self.plan.rounds_drawn() >= self.plan.rounds.len() {
                break;
            }
            standing::read(study, manifest, &self.measures, &self.plan, &mut played)?;
            self.plan.draw_round(seats, &played);
        }
        manifest.seconds = before + began.elapsed().as_secs_f64();
        let complete = manifest.blocks_done >= manifest.blocks;
        if !complete {
            manifest.state = State::Interrupted;
        }
        study.write_manifest(manifest)?;
        Ok((if complete { Sitting::Complete } else { Sitting::Interrupted }, self.plan))
    }

    /// Plays these blocks of rounds that are drawn, and stores them.
    fn play_missing(
        &self,
        study: &Study,
        manifest: &mut Manifest,
        missing: Vec<Span>,
        mut watch: Option<&mut Watch>,
        listener: &mut impl FnMut(&Event),
    ) -> Result<(), LedgerError> {
        let mut done = manifest.blocks_done;
        let (mut failed, mut stopped_at) = (None, None);
        let mut rates = Rates::new(&self.plan);
        let length = AtomicU64::new(1);
        let mut writer = PartWriter::new(study, &self.measures, manifest);
        in_order(
            self.threads,
            self.runs(missing, &length),
            |span| self.timed(span, &length),
            |mut span, mut rows| {
                if let Some(keep) = watch.as_mut().and_then(|watch| watch.take(&rows)) {
                    rows.truncate(keep);
                    let a_block = self.plan.rows_a_block();
                    span.end = span.start + keep as u64 / a_block;
                    stopped_at = Some(span.end);
                }
                done += span.end - span.start;
                let (cell, seen) = rates.count(&rows);
                let rate = watch.as_ref().map_or(seen, |watch| watch.latest());
                let flow = writer.take(span, &mut rows);
                listener(&Event::Played { done, what: self.plan.cell_name(&self.plan.cells[cell]), rate });
                failed = flow.err();
                if failed.is_some() || stopped_at.is_some() {
                    ControlFlow::Break(())
                } else {
                    ControlFlow::Continue(())
                }
            },
        );
        match failed {
            Some(error) => return Err(error),
            None => writer.flush()?,
        }
        if let Some(blocks) = stopped_at {
            manifest.blocks = blocks;
        }
        Ok(())
    }

    /// Shows a watch what is stored already; where there is a gap, what comes after it is played again, since looks come
    /// in order.
    fn watch_again(&self, study: &Study, manifest: &mut Manifest) -> Result<Option<Watch>, LedgerError> {
        let Some(mut watch) = Watch::over(&self.plan, self.game) else { return Ok(None) };
        let gap = study.missing(manifest.blocks)?.first().map_or(manifest.blocks, |gap| gap.start);
        study.cut(manifest, gap)?;
        study.set_damaged_aside(manifest, &self.measures)?;
        let mut stopped = false;
        let mut units = 0;
        study.visit_stretch(manifest, &self.measures, None, 0..gap, |rows| {
            if !stopped {
                stopped = watch.take(rows).is_some();
                units += rows.rows.len() as u64;
            }
            Ok(())
        })?;
        if stopped {
            manifest.blocks = units / (self.plan.rows_a_block());
        }
        Ok(Some(watch))
    }

    /// Plays the blocks of a run.
    pub fn play_span(&self, span: &Span) -> Rows {
        let rotations = self.plan.matches_a_block();
        let count = (span.end - span.start) * self.plan.rows_a_block();
        let mut rows = Rows::with_capacity(self.measures.len(), count as usize);
        let mut stages: BTreeMap<u32, Box<dyn Stage>> = BTreeMap::new();
        for match_index in span.start * rotations..span.end * rotations {
            let spot = self.plan.spot(match_index);
            let stage = stages.entry(spot.cell).or_insert_with(|| {
                let setting = &self.plan.cells[spot.cell as usize].setting;
                self.game.stage(setting).expect("a plan names agents of its game, as many as it has seats")
            });
            stage.play(spot, &mut rows);
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

    /// Cuts the missing spans into runs; where they are cut has no bearing on the rows.
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
        Self { plan, cell: usize::MAX, so_far: BlockRates::new(plan.matches_a_block() as usize) }
    }

    fn count(&mut self, rows: &Rows) -> (usize, Option<inkpot_stats::Interval>) {
        let cell = rows.rows.first().map_or(0, |row| row.cell as usize);
        if cell != self.cell {
            self.cell = cell;
            self.so_far = BlockRates::new(self.plan.matches_a_block() as usize);
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
