//! Work that travels: what a worker is asked, what it answers, and who has it done.
//!
//! A [`Job`] is a plan that is played or a search; its [`Task`]s are functions of the task and of what the job rests on,
//! and of nothing else. Tasks and answers are plain values, which any self-describing format of serde can carry that keeps
//! numbers to the last bit, those that are none (NaN) too. An [`Executor`] has tasks done and gives answers in the order of
//! asking, so that a study comes out the same whoever did them: [`Threads`] here, processes and machines elsewhere.

mod in_order;
mod state;
mod threads;

use std::ops::{ControlFlow, Range};
use std::sync::Arc;

use inkpot_core::{Rows, Setting};
use inkpot_ledger::{ROW_FORMAT, Span, checksum};
use serde::{Deserialize, Serialize};

pub use in_order::Fell;
pub use state::State;
pub use threads::Threads;

/// A play of one job for the same reader: each of these settings on each of these blocks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Play {
    /// Settings that are played, on the same blocks each.
    pub settings: Vec<Setting>,
    /// Number of the first block.
    pub first_block: u64,
    /// This many blocks.
    pub blocks: u64,
    /// The number of the way in which the search reads figures; 0 where it has one.
    pub reading: usize,
}

impl Play {
    /// A play for a search that reads figures in one way.
    pub fn new(settings: Vec<Setting>, first_block: u64, blocks: u64) -> Self {
        Self { settings, first_block, blocks, reading: 0 }
    }
}

/// A part of a search's own work, from state to state.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Piece {
    /// The number of the piece.
    pub number: usize,
    /// The state that it has reached.
    pub state: State,
}

/// A task for a worker.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Task {
    /// To play these blocks of a plan.
    Blocks(Span),
    /// To play some of the blocks of a play, and read their figures.
    Figures {
        /// What is played.
        play: Arc<Play>,
        /// Numbers of the blocks.
        blocks: Range<u64>,
    },
    /// To go on with a piece of a search's own work.
    Piece(Piece),
}

/// A task as it is sent to a worker elsewhere.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Request {
    /// The hash of what it rests on, as [`basis_hash`] gives it: a worker that has another basis refuses it.
    pub basis: String,
    /// The task.
    pub task: Task,
}

/// The answer of a worker.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Answer {
    /// The rows of the blocks.
    Rows {
        /// In order of block, rotation and seat.
        rows: Rows,
        /// Seconds that it took to play them.
        seconds: f64,
    },
    /// The figures of each block.
    Figures(Vec<Vec<f64>>),
    /// How far the piece is now: as far as it came, where the worker was asked to stop.
    State(State),
    /// It cannot go on with the piece, for this reason.
    Stuck(String),
    /// It was asked to stop before it was done.
    Stopped,
}

impl Answer {
    /// What is wrong where it answers another task than was asked.
    pub(crate) fn out_of_place(&self) -> Fell {
        let what = match self {
            Self::Rows { .. } => "rows",
            Self::Figures(_) => "figures",
            Self::State(_) => "a state",
            Self::Stuck(why) => return Fell(format!("could not continue: {why}")),
            Self::Stopped => "nothing",
        };
        Fell(format!("answered with {what}, which was not asked"))
    }
}

/// Does tasks, one after the other. What it keeps from task to task has no bearing on its answers.
pub type Worker<'a> = Box<dyn FnMut(&Task) -> Answer + 'a>;

/// A plan that is played or a search, for whoever does its work.
pub trait Job: Sync {
    /// What its tasks rest on, as text: whoever reads it can make the same job elsewhere.
    fn basis(&self) -> String;

    /// A worker for one thread.
    fn worker(&self) -> Worker<'_>;
}

/// The hash of what work rests on, beside the format of rows: SHA-256, in hexadecimal digits. Answers of a worker with
/// another one are not of this job.
pub fn basis_hash(basis: &str) -> String {
    let version = env!("CARGO_PKG_VERSION");
    checksum(format!("{version} {ROW_FORMAT}\n{basis}").as_bytes())
}

/// Has tasks done.
pub trait Executor {
    /// Has all tasks of a job done, and hands each with its answer to `take`, on this thread and in the order of the
    /// tasks. Ends when the tasks end, or when `take` breaks. Errs when work fell that nobody can be blamed for; what
    /// was taken before stands.
    fn run(
        &self,
        job: &dyn Job,
        tasks: &mut (dyn Iterator<Item = Task> + Send),
        take: &mut dyn FnMut(Task, Answer) -> ControlFlow<()>,
    ) -> Result<(), Fell>;
}
