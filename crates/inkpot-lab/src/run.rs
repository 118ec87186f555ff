//! Playing a plan into a study, in one sitting or several.

use std::ops::ControlFlow;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

use inkpot_core::{GameEntry, Halt, Rows};
use inkpot_ledger::{LedgerError, Manifest, PartWriter, Span, State, Study};
use inkpot_stats::{BlockRates, Interval};
use thiserror::Error;

use crate::counts::counted;
use crate::kind::Watching;
use crate::plan_job::PlanJob;
use crate::standing::read as read_standing;
use crate::stored_rows::visit_stretch;
use crate::work::{Answer, Executor, Fell, Task};
use crate::{Event, Plan, Sitting, StudyPlan};

/// Blocks are handed out in runs that take about so long.
const RUN_S: f64 = 0.005;
const LONGEST_RUN: u64 = 64;
/// The shortest time between reports of the rate: an interval costs as much as several of the cheapest matches.
const EVENT_EVERY: Duration = Duration::from_millis(100);

/// Plays the blocks of a plan.
pub struct Runner<'a> {
    plan: StudyPlan,
    game: &'a dyn GameEntry,
    measures: Vec<String>,
    executor: &'a dyn Executor,
    halt: &'a Halt,
}

/// The sitting could not go on; finished blocks are stored.
#[derive(Debug, Error)]
pub enum PlayError {
    /// Something of the study could not be read or written.
    #[error(transparent)]
    Ledger(#[from] LedgerError),
    /// The work of a thread fell.
    #[error(transparent)]
    Fell(#[from] Fell),
    /// Matches are missing that a person played.
    #[error("{} of a person cannot be replayed: missing or damaged", counted(*missing, "match", "matches"))]
    #[expect(missing_docs, reason = "how many")]
    ByHand { missing: u64 },
}

impl<'a> Runner<'a> {
    /// A runner that has blocks played by this executor; once `halt` is called, it gives up the blocks that are running
    /// and ends the sitting.
    pub fn new(plan: &StudyPlan, game: &'a dyn GameEntry, executor: &'a dyn Executor, halt: &'a Halt) -> Self {
        let measures = game.measure_names();
        Self { plan: plan.clone(), game, measures, executor, halt }
    }

    /// Names of the measure columns.
    pub fn measures(&self) -> &[String] {
        &self.measures
    }

    /// Plays every block missing from the study, round by round. The rows do not depend on threads or sittings. Returns
    /// the plan with every round drawn so far.
    pub fn play(
        mut self,
        study: &Study,
        manifest: &mut Manifest,
        listener: &mut dyn FnMut(&Event),
    ) -> Result<(Sitting, StudyPlan), PlayError> {
        let files = study.mend(manifest, &self.measures)?;
        if !files.is_empty() {
            listener(&Event::SetAside { files });
        }
        let missing: u64 = study.missing(manifest, manifest.blocks).iter().map(|span| span.end - span.start).sum();
        if missing > 0 && self.plan.is_by_hand() {
            return Err(PlayError::ByHand { missing });
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
        loop {
            let drawn = (self.plan.cells.len() as u64 * self.plan.blocks).min(manifest.blocks);
            let missing = study.missing(manifest, drawn);
            self.play_missing(study, manifest, missing, watch.as_deref_mut(), listener)?;
            let all = study.missing(manifest, drawn.min(manifest.blocks)).is_empty();
            if !all || self.plan.rounds_drawn() >= self.plan.rounds.len() {
                break;
            }
            read_standing(study, manifest, &self.measures, &self.plan, &mut played)?;
            self.plan.draw_round(&played);
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
        mut watch: Option<&mut (dyn Watching + '_)>,
        listener: &mut dyn FnMut(&Event),
    ) -> Result<(), PlayError> {
        let mut done = manifest.blocks_done;
        let (mut failed, mut stopped_at) = (None, None);
        let mut rates = Rates::new(&self.plan);
        let length = AtomicU64::new(1);
        let mut writer = PartWriter::new(study, &self.measures, manifest);
        let job = PlanJob::new(&self.plan, self.game, self.halt);
        let mut tasks = self.runs(missing, &length).map(Task::Blocks);
        let played = self.executor.run(&job, &mut tasks, &mut |task, answer| {
            let (mut span, mut rows, seconds) = match (task, answer) {
                (Task::Blocks(span), Answer::Rows { rows, seconds }) => (span, rows, seconds),
                // None of the blocks counts that were under way when it was asked to stop.
                (_, Answer::Stopped) => return ControlFlow::Break(()),
                (_, other) => {
                    failed = Some(other.out_of_place().into());
                    return ControlFlow::Break(());
                }
            };
            let a_block = seconds / (span.end - span.start) as f64;
            length.store(((RUN_S / a_block) as u64).clamp(1, LONGEST_RUN), Ordering::Relaxed);
            if let Some(keep) = watch.as_mut().and_then(|watch| watch.take(&rows)) {
                rows.truncate(keep);
                let a_block = self.plan.rows_a_block();
                span.end = span.start + keep as u64 / a_block;
                stopped_at = Some(span.end);
            }
            done += span.end - span.start;
            let so_far = rates.count(&rows).and_then(|(cell, rate)| {
                let latest = watch.as_ref().map_or(rate, |watch| watch.latest())?;
                Some((self.plan.cell_name(&self.plan.cells[cell]), latest))
            });
            let flow = writer.take(span, &mut rows);
            listener(&Event::Played { done, so_far });
            failed = flow.err().map(PlayError::from);
            if failed.is_some() || stopped_at.is_some() { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        });
        match failed {
            Some(error) => return Err(error),
            None => writer.flush()?,
        }
        played?;
        if let Some(blocks) = stopped_at {
            manifest.blocks = blocks;
        }
        Ok(())
    }

    /// Shows the stored blocks to a watch; after a gap blocks are played again, since looks come in order.
    fn watch_again(&self, study: &Study, manifest: &mut Manifest) -> Result<Option<Box<dyn Watching>>, LedgerError> {
        let Some(mut watch) = self.plan.design.as_kind().watch(&self.plan, self.game) else { return Ok(None) };
        let gap = study.missing(manifest, manifest.blocks).first().map_or(manifest.blocks, |gap| gap.start);
        study.cut(manifest, gap)?;
        study.mend(manifest, &self.measures)?;
        let mut stopped = false;
        let mut units = 0;
        visit_stretch(study, manifest, &self.plan, (&self.measures, None), 0..gap, |rows| {
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

    /// Cuts the missing spans into runs; where they are cut has no bearing on the rows.
    fn runs(&self, missing: Vec<Span>, length: &AtomicU64) -> impl Iterator<Item = Span> + Send {
        let mut left = missing.into_iter();
        let mut span = 0..0;
        let (cell, halt) = (self.plan.blocks, self.halt);
        std::iter::from_fn(move || {
            if halt.is_called() {
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
    last_event: Instant,
}

impl<'a> Rates<'a> {
    fn new(plan: &'a Plan) -> Self {
        Self {
            plan,
            cell: usize::MAX,
            so_far: BlockRates::new(plan.matches_a_block() as usize),
            last_event: Instant::now(),
        }
    }

    /// Counts the rows of a run; from time to time gives its cell and the rate so far.
    fn count(&mut self, rows: &Rows) -> Option<(usize, Option<Interval>)> {
        let cell = rows.rows.first().map_or(0, |row| row.cell as usize);
        if cell != self.cell {
            self.cell = cell;
            self.so_far = BlockRates::new(self.plan.matches_a_block() as usize);
        }
        let first = self.plan.cells[cell].entrants[0];
        rows.blocks().filter_map(|block| block.points(first)).for_each(|share| self.so_far.push(share));
        if self.last_event.elapsed() < EVENT_EVERY {
            return None;
        }
        self.last_event = Instant::now();
        Some((cell, self.so_far.interval(self.plan.ground.confidence)))
    }
}
