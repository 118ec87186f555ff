//! Work that travels: requests to a worker, its answers, and executors.
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
        /// The play.
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
    /// The hash of its basis, by [`basis_hash`]: a worker with another basis refuses it.
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
    /// The state of the piece: unfinished, if the worker was asked to stop.
    State(State),
    /// It cannot go on with the piece, for this reason.
    Stuck(String),
    /// It was asked to stop before it was done.
    Stopped,
}

impl Answer {
    /// Returns the error of an answer to another task.
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

/// Does tasks, one after the other. State kept from task to task has no effect on its answers.
pub type Worker<'a> = Box<dyn FnMut(&Task) -> Answer + 'a>;

/// A job: the blocks of a plan, or the work of a search.
pub trait Job: Sync {
    /// Returns the basis of its tasks as text, from which any process can build the same job.
    fn basis(&self) -> String;

    /// A worker for one thread.
    fn worker(&self) -> Worker<'_>;
}

/// Returns the hash of a basis and the format of rows: SHA-256, in hexadecimal digits. An answer with another hash does
/// not belong to the job.
pub fn basis_hash(basis: &str) -> String {
    let version = env!("CARGO_PKG_VERSION");
    checksum(format!("{version} {ROW_FORMAT}\n{basis}").as_bytes())
}

/// Has tasks done.
pub trait Executor {
    /// Runs all tasks of a job, and hands each with its answer to `take`, on this thread and in order. Ends with the
    /// tasks, or when `take` breaks. Errs if work fell without anybody's fault; results taken before stand.
    fn run(
        &self,
        job: &dyn Job,
        tasks: &mut (dyn Iterator<Item = Task> + Send),
        take: &mut dyn FnMut(Task, Answer) -> ControlFlow<()>,
    ) -> Result<(), Fell>;
}
