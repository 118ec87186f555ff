//! The work of a plan that is played: runs of its blocks.

use std::borrow::Cow;
use std::time::Instant;

use inkpot_core::{GameEntry, Halt, Rows};
use inkpot_ledger::Span;

use crate::stages::Stages;
use crate::study::{Basis, StudyPlan};
use crate::work::{Answer, Job, Task, Worker};

/// The job of a plan.
pub struct PlanJob<'a> {
    plan: &'a StudyPlan,
    game: &'a dyn GameEntry,
    measures: usize,
    halt: &'a Halt,
}

impl<'a> PlanJob<'a> {
    /// Builds the job of this plan's blocks; unfinished work stops once `halt` is called.
    pub fn new(plan: &'a StudyPlan, game: &'a dyn GameEntry, halt: &'a Halt) -> Self {
        Self { plan, game, measures: game.sheet().measures.len(), halt }
    }

    /// Plays the blocks of a run.
    fn play(&self, stages: &mut Stages, span: &Span) -> Answer {
        let start = Instant::now();
        let matches = self.plan.matches_a_block();
        let count = (span.end - span.start) * self.plan.rows_a_block();
        let mut rows = Rows::with_capacity(self.measures, count as usize);
        for block in span.clone() {
            if self.halt.is_called() {
                break;
            }
            let first = self.plan.spot(block * matches);
            let cell = first.cell as usize;
            stages.get(cell, || self.plan.setting(&self.plan.cells[cell])).play_block(first, &mut rows);
        }
        let seconds = start.elapsed().as_secs_f64();
        if self.halt.is_called() { Answer::Stopped } else { Answer::Rows { rows, seconds } }
    }
}

impl Job for PlanJob<'_> {
    fn basis(&self) -> String {
        Basis::Plan(Cow::Borrowed(self.plan)).text()
    }

    fn worker(&self) -> Worker<'_> {
        let mut stages = Stages::new(self.game, self.halt, self.plan.design.as_kind().interleaved());
        Box::new(move |task| match task {
            Task::Blocks(span) => self.play(&mut stages, span),
            Task::Figures { .. } | Task::Piece(_) => Answer::Stuck("a plan has blocks alone".into()),
        })
    }
}
