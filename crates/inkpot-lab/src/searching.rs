//! One mechanism for all searches: a search requests plays, they are played, and it learns from the results, until it
//! has finished.
//!
//! The loop, stopping and the order of results are here; a search only proposes and learns, its workers read figures and
//! do its own work, and an executor has that done.

use std::ops::ControlFlow;
use std::sync::Arc;

use inkpot_core::{GameEntry, Halt, Rows, Setting};
use thiserror::Error;

use crate::Sitting;
use crate::stages::StageSet;
use crate::work::{Answer, Executor, Fell, Job, Piece, Play, State, Task, Worker};

/// Blocks of a proof begin here.
pub(crate) const FIRST_PROOF_BLOCK: u64 = 1 << 32;
/// Blocks of the probes of a search for knobs begin here: no batch, proof or look comes so far.
pub(crate) const FIRST_PROBE_BLOCK: u64 = 1 << 44;
/// Blocks that a worker is given at once.
const RUN: u64 = 8;

/// The next request of a search.
#[derive(Clone, Debug)]
pub enum Ask {
    /// These are to be played, and shown to it together.
    Play(Vec<Play>),
    /// These pieces of its own work are to be gone on with, apart from one another.
    Work(Vec<Piece>),
    /// It has finished.
    Finished,
    /// It cannot go on, for this reason.
    Stuck(String),
}

/// An error: the search ended before it had finished.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum SearchError {
    /// The work of a thread fell.
    #[error(transparent)]
    Fell(#[from] Fell),
    /// It cannot go on: the results contradict the request.
    #[error("{0}")]
    Stuck(String),
}

/// Results of each play, block by block: the figures that the search reads off a block.
pub type Results = Vec<Vec<Vec<f64>>>;

/// A search.
pub trait Searching {
    /// Returns the next request. Repeated before any answer, it returns the same.
    fn next(&mut self) -> Ask;

    /// Learns from all requested plays, in the order of the request.
    fn take(&mut self, results: Results);

    /// Takes the state of a piece of its work. Its part of the search does not depend on order or progress of pieces.
    fn take_piece(&mut self, _number: usize, _state: State) {}

    /// Takes in why a piece of its own work cannot be gone on with.
    fn take_stuck(&mut self, _why: String) {}

    /// All of its state: restored from this it goes on to the same end.
    fn checkpoint(&self) -> String;

    /// Returns the history as a table with a line a probe or round, for people and figures.
    fn history(&self) -> String;

    /// Whether it cannot go on; its latest state is then not saved.
    fn is_stuck(&self) -> bool {
        false
    }

    /// Returns the progress.
    fn round(&self) -> SearchRound;

    /// Returns the progress for a view; none if it has none.
    fn watched(&self) -> Option<Watched> {
        None
    }
}

/// The work of a search: functions of a state and of the search's basis.
pub trait SearchWork: Sync {
    /// The figures of one block of a play, given the rows of each of its settings; `reading` is that of the play.
    fn figures(&self, reading: usize, rows: &[Rows]) -> Vec<f64>;

    /// Goes on with a piece of the search's own work, as far as it is not asked to stop. Errs where that is not
    /// possible.
    fn go_on(&self, piece: &Piece, _halt: &Halt) -> Result<State, String> {
        Err(format!("there is no piece of work {}", piece.number))
    }
}

/// The job of a search.
pub struct SearchJob<'a> {
    work: Box<dyn SearchWork + 'a>,
    game: &'a dyn GameEntry,
    halt: &'a Halt,
    basis: String,
}

impl<'a> SearchJob<'a> {
    /// Builds the job of a search at this game; `basis` is its basis as text, and unfinished work stops once `halt` is
    /// called.
    pub fn new(work: Box<dyn SearchWork + 'a>, game: &'a dyn GameEntry, halt: &'a Halt, basis: String) -> Self {
        Self { work, game, halt, basis }
    }

    /// The figures of these blocks; none counts once it was asked to stop, as matches may have been given up.
    fn figures(&self, stages: &mut StageSet, reading: usize, blocks: std::ops::Range<u64>) -> Answer {
        let figures = blocks.map(|block| self.work.figures(reading, stages.play(block))).collect();
        if self.halt.is_called() { Answer::Stopped } else { Answer::Figures(figures) }
    }
}

impl Job for SearchJob<'_> {
    fn basis(&self) -> String {
        self.basis.clone()
    }

    fn worker(&self) -> Worker<'_> {
        // What is played is staged once, and not for every run of its blocks.
        let mut staged: Option<(Arc<Play>, StageSet)> = None;
        Box::new(move |task| match task {
            Task::Figures { play, blocks } => {
                let held = staged.take().filter(|(held, _)| Arc::ptr_eq(held, play));
                let anew = || (play.clone(), StageSet::of(&play.settings, self.game, self.halt));
                let (_, stages) = staged.insert(held.unwrap_or_else(anew));
                self.figures(stages, play.reading, blocks.clone())
            }
            Task::Piece(piece) => match self.work.go_on(piece, self.halt) {
                Ok(state) => Answer::State(state),
                Err(why) => Answer::Stuck(why),
            },
            Task::Blocks(_) => Answer::Stuck("a search has no blocks of a plan".into()),
        })
    }
}

/// The progress of a search, for a view.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Watched {
    /// The name of the compared figure: `fitness` or `reward`.
    pub fitness: &'static str,
    /// The figure that its best are looked at by.
    pub figure: String,
    /// Whether that is a share.
    pub is_share: bool,
    /// The value of it that is wanted.
    pub target: Option<f64>,
    /// For each repetition, the cost (in [`SearchRound::unit`]) and the figure at each look.
    pub looks: Vec<Vec<(f64, f64)>>,
    /// For the best repetition, by generation: the cost, and the fitness of the best candidate, the upper quartile, the
    /// median and the lower quartile.
    pub spread: Vec<(f64, [f64; 4])>,
    /// Figures of the champion at the last look, by name.
    pub champion: Vec<(String, f64)>,
    /// A match of that one: its setting and its block.
    pub latest: Option<(Setting, u64)>,
}

/// The round of a search: how far it has got.
#[derive(Clone, Debug, PartialEq)]
pub struct SearchRound {
    /// Rounds or probes so far.
    pub rounds: u64,
    /// The amount spent so far: matches, or decisions.
    pub spent: u64,
    /// The most that the budget allows.
    pub most: u64,
    /// The unit of that: `matches` or `decisions`.
    pub unit: &'static str,
    /// The present choice in words.
    pub choice: String,
}

/// Runs a search until it has finished, or until it is asked to stop.
///
/// `seen` is what was seen of the round under way: given that of an earlier sitting it goes on within the round, and
/// all of it stands there when it is stopped. `keep` is shown the search and `seen` after every round and every piece
/// of work, when that is empty, and many times within a round; what it cannot keep ends the search. Errs too when the
/// work of a thread falls.
pub fn search<S: Searching + ?Sized, E: From<SearchError>>(
    searching: &mut S,
    job: &dyn Job,
    executor: &dyn Executor,
    halt: &Halt,
    results: &mut Results,
    mut keep: impl FnMut(&S, &Results) -> Result<(), E>,
) -> Result<Sitting, E> {
    loop {
        let next = match searching.next() {
            Ask::Finished => return Ok(Sitting::Complete),
            Ask::Play(plays) if plays.is_empty() => return Ok(Sitting::Complete),
            Ask::Stuck(why) => return Err(SearchError::Stuck(why).into()),
            Ask::Play(plays) => {
                let round = Round::of(plays);
                if !round.is_begun_by(results) {
                    *results = vec![Vec::new(); round.plays.len()];
                }
                let left = round.left(results);
                round.play(left, (job, executor), halt, |index, figures| {
                    results[index].extend(figures);
                    keep(searching, results)
                })
            }
            Ask::Work(pieces) => {
                results.clear();
                work(pieces, (job, executor), halt, |number, done| {
                    match done {
                        Ok(state) => searching.take_piece(number, state),
                        Err(why) => searching.take_stuck(why),
                    }
                    keep(searching, results)
                })
            }
        };
        next.map_err(SearchError::from)??;
        if halt.is_called() {
            return Ok(Sitting::Interrupted);
        }
        if !results.is_empty() {
            searching.take(std::mem::take(results));
            keep(searching, results)?;
        }
    }
}

/// The job of a search, and its executor.
type Doing<'a> = (&'a dyn Job, &'a dyn Executor);

/// A round of plays.
struct Round {
    plays: Vec<Arc<Play>>,
}

/// Blocks of a play, by its place in the round.
struct Left {
    index: usize,
    blocks: std::ops::Range<u64>,
}

impl Round {
    fn of(plays: Vec<Play>) -> Self {
        Self { plays: plays.into_iter().map(Arc::new).collect() }
    }

    /// Whether this was seen of it, and not of another round.
    fn is_begun_by(&self, results: &Results) -> bool {
        let fits = |(figures, play): (&Vec<_>, &Arc<Play>)| figures.len() as u64 <= play.blocks;
        results.len() == self.plays.len() && results.iter().zip(&self.plays).all(fits)
    }

    /// Returns the work without results yet.
    fn left(&self, results: &Results) -> Vec<Left> {
        let runs = self.plays.iter().zip(results).enumerate().flat_map(|(index, (play, figures))| {
            let (first, end) = (play.first_block + figures.len() as u64, play.first_block + play.blocks);
            (first..end).step_by(RUN as usize).map(move |start| Left { index, blocks: start..(start + RUN).min(end) })
        });
        runs.collect()
    }

    /// Plays this much of it, and hands the results over in the order of the blocks, until a request to stop or an
    /// error of `take`, which it returns.
    fn play<E>(
        &self,
        left: Vec<Left>,
        (job, executor): Doing,
        halt: &Halt,
        mut take: impl FnMut(usize, Vec<Vec<f64>>) -> Result<(), E>,
    ) -> Result<Result<(), E>, Fell> {
        let places: Vec<usize> = left.iter().map(|run| run.index).collect();
        let mut places = places.into_iter();
        let task = |run: Left| Task::Figures { play: self.plays[run.index].clone(), blocks: run.blocks };
        let mut tasks = left.into_iter().take_while(|_| !halt.is_called()).map(task);
        let mut taken = Ok(Ok(()));
        executor.run(job, &mut tasks, &mut |_, answer| {
            taken = match (places.next(), answer) {
                (Some(index), Answer::Figures(figures)) => Ok(take(index, figures)),
                // What was played while it was asked to stop may have been given up.
                (_, Answer::Stopped) => return ControlFlow::Break(()),
                (_, other) => Err(other.out_of_place()),
            };
            if matches!(taken, Ok(Ok(()))) { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
        })?;
        taken
    }
}

/// Continues these pieces of a search's work, and hands over their states in order, until an error of `take`, which it
/// returns. It hands over the state of an unfinished piece too.
fn work<E>(
    pieces: Vec<Piece>,
    (job, executor): Doing,
    halt: &Halt,
    mut take: impl FnMut(usize, Result<State, String>) -> Result<(), E>,
) -> Result<Result<(), E>, Fell> {
    let mut numbers = pieces.iter().map(|piece| piece.number).collect::<Vec<_>>().into_iter();
    let mut tasks = pieces.into_iter().take_while(|_| !halt.is_called()).map(Task::Piece);
    let mut taken = Ok(Ok(()));
    executor.run(job, &mut tasks, &mut |_, answer| {
        taken = match (numbers.next(), answer) {
            (Some(number), Answer::State(state)) => Ok(take(number, Ok(state))),
            (Some(number), Answer::Stuck(why)) => Ok(take(number, Err(why))),
            (_, other) => Err(other.out_of_place()),
        };
        if matches!(taken, Ok(Ok(()))) { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
    })?;
    taken
}
