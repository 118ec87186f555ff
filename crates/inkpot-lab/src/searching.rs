//! One mechanism for everything that searches: it says what to play next, that is played, and it learns from what was
//! seen, until it has finished.
//!
//! The loop, the threads, stopping and the order of results are here; a search only proposes and learns. Several
//! searches run side by side, each with chance of its own, and wait for one another round by round.

use std::ops::ControlFlow;

use inkpot_core::{GameEntry, Halt, Rows, Setting};
use thiserror::Error;

use crate::Sitting;
use crate::in_order::{Fell, in_order};
use crate::stages::StageSet;

/// Blocks of a proof begin here: no search comes so far.
pub(crate) const FIRST_PROOF_BLOCK: u64 = 1 << 32;
/// Blocks that a thread is given at once.
const RUN: u64 = 8;

/// Something a search wants to see: each of these settings on each of these blocks.
#[derive(Clone, Debug, PartialEq)]
pub struct Play {
    /// What is played; the same blocks of all.
    pub settings: Vec<Setting>,
    /// Number of the first block.
    pub first_block: u64,
    /// This many blocks.
    pub blocks: u64,
}

/// What a search says next.
#[derive(Clone, Debug, PartialEq)]
pub enum Ask {
    /// These are to be played, and shown to it together.
    Play(Vec<Play>),
    /// It has this many pieces of work of its own, apart from one another.
    Work(usize),
    /// It has finished.
    Finished,
    /// It cannot go on, for this reason.
    Stuck(String),
}

/// Why a search ended before it had finished.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum SearchError {
    /// The work of a thread fell.
    #[error(transparent)]
    Fell(#[from] Fell),
    /// It cannot go on: what it was asked for makes no sense with what was seen.
    #[error("{0}")]
    Stuck(String),
}

/// What was seen of each play, block by block: the figures that the search reads off a block.
pub type Results = Vec<Vec<Vec<f64>>>;

/// A search.
pub trait Searching: Sync {
    /// What to play next. Asked again before anything is shown, it says the same.
    fn next(&mut self) -> Ask;

    /// The figures of one block of a play that it asked for, given the rows of each of its settings. Called from
    /// several threads at once.
    fn figures(&self, play: usize, rows: &[Rows]) -> Vec<f64>;

    /// Does a piece of its own work, as far as it is not asked to stop. What is done is part of the search, whatever the
    /// order and however far it came. Called from several threads at once, for each piece of what it asked for last.
    fn work(&self, _piece: usize, _halt: &Halt) {}

    /// Learns from all that it asked for, in the order in which it asked, whatever the threads.
    fn take(&mut self, results: Results);

    /// All of its state: restored from this it goes on to the same end.
    fn checkpoint(&self) -> String;

    /// What it did so far as a table with a line a probe or round, for people and figures.
    fn history(&self) -> String;

    /// Whether it cannot go on; then nothing of what it did last is worth saving.
    fn is_stuck(&self) -> bool {
        false
    }

    /// How far it has got.
    fn round(&self) -> SearchRound;

    /// How it gets on, for whoever watches it; none where it does not say.
    fn watched(&self) -> Option<Watched> {
        None
    }
}

/// How a search gets on.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Watched {
    /// What its candidates are worth, in a word: `fitness` or `reward`.
    pub worth: &'static str,
    /// The figure that its best are looked at by.
    pub figure: String,
    /// Whether that is a share.
    pub is_share: bool,
    /// The value of it that is wanted.
    pub target: Option<f64>,
    /// Of each repetition: what it had spent, as [`SearchRound::unit`] says, and the figure at each look.
    pub looks: Vec<Vec<(f64, f64)>>,
    /// Of the repetition that stands best, by generation: what it had spent, and what its best candidate, the upper quartile,
    /// the median and the lower quartile were worth.
    pub spread: Vec<(f64, [f64; 4])>,
    /// What the best that it looked at last came to there, by name.
    pub champion: Vec<(String, f64)>,
    /// A match of that one: its setting and its block.
    pub latest: Option<(Setting, u64)>,
}

/// How far a search has got.
#[derive(Clone, Debug, PartialEq)]
pub struct SearchRound {
    /// Rounds or probes so far.
    pub rounds: u64,
    /// What was spent so far: matches, or decisions.
    pub spent: u64,
    /// As much as the budget allows.
    pub most: u64,
    /// What that is, in words: `matches` or `decisions`.
    pub unit: &'static str,
    /// The present choice in words.
    pub choice: String,
}

/// Runs searches side by side until all have finished, or until it is asked to stop.
///
/// `seen` is what was seen of the round under way: given that of an earlier sitting it goes on within the round, and all
/// of it stands there when it is stopped. `keep` is shown the searches and `seen` after every round, when that is empty,
/// and many times within one; what it cannot keep ends them. Errs too when the work of a thread falls.
pub fn search<S: Searching + ?Sized, E: From<SearchError>>(
    searches: &mut [Box<S>],
    game: &dyn GameEntry,
    threads: usize,
    halt: &Halt,
    seen: &mut Results,
    mut keep: impl FnMut(&[Box<S>], &Results) -> Result<(), E>,
) -> Result<Sitting, E> {
    loop {
        let round = Round::begun(searches)?;
        if round.asked.is_empty() {
            return Ok(Sitting::Complete);
        }
        if !round.is_begun_by(seen) {
            *seen = vec![Vec::new(); round.asked.len()];
        }
        let left = round.left(seen);
        let kept = round.play(searches, &left, game, threads, halt, |index, blocks| {
            seen[index].extend(blocks);
            keep(searches, seen)
        });
        kept.map_err(SearchError::from)??;
        if halt.is_called() {
            return Ok(Sitting::Interrupted);
        }
        let mut results = std::mem::take(seen);
        for (own, searching) in searches.iter_mut().enumerate() {
            let count = round.asked.iter().filter(|(whose, ..)| *whose == own).count();
            if count > 0 {
                let rest = results.split_off(count);
                searching.take(std::mem::replace(&mut results, rest));
            }
        }
        keep(searches, seen)?;
    }
}

/// A round: what is done, each with whose it is and its number among that one's.
struct Round {
    asked: Vec<(usize, usize, Task)>,
}

/// What is done in a round.
enum Task {
    Play(Play),
    Work,
}

impl Task {
    /// Where its blocks begin, and how many there are.
    fn blocks(&self) -> (u64, u64) {
        match self {
            Self::Play(play) => (play.first_block, play.blocks),
            Self::Work => (0, 1),
        }
    }
}

/// Blocks of one play, from the first up to before the last, by its place in the round.
type Blocks = (usize, u64, u64);

impl Round {
    /// What these searches ask for; nothing once all have finished.
    fn begun<S: Searching + ?Sized>(searches: &mut [Box<S>]) -> Result<Self, SearchError> {
        let mut asked = Vec::new();
        for (own, searching) in searches.iter_mut().enumerate() {
            match searching.next() {
                Ask::Play(plays) => {
                    asked.extend(plays.into_iter().enumerate().map(|(number, play)| (own, number, Task::Play(play))));
                }
                Ask::Work(pieces) => asked.extend((0..pieces).map(|piece| (own, piece, Task::Work))),
                Ask::Finished => {}
                Ask::Stuck(why) => return Err(SearchError::Stuck(why)),
            }
        }
        Ok(Self { asked })
    }

    /// Whether this was seen of it, and not of another round. Work is kept by the search itself, and shows nothing.
    fn is_begun_by(&self, seen: &Results) -> bool {
        let fits = |(own, (_, _, task)): (&Vec<_>, &(_, _, Task))| match task {
            Task::Play(play) => own.len() as u64 <= play.blocks,
            Task::Work => own.is_empty(),
        };
        seen.len() == self.asked.len() && seen.iter().zip(&self.asked).all(fits)
    }

    /// What was not seen of it yet.
    fn left(&self, seen: &Results) -> Vec<Blocks> {
        let runs = self.asked.iter().zip(seen).enumerate().flat_map(|(index, ((_, _, task), seen))| {
            let (start, count) = task.blocks();
            let (first, end) = (start + seen.len() as u64, start + count);
            (first..end).step_by(RUN as usize).map(move |start| (index, start, (start + RUN).min(end)))
        });
        runs.collect()
    }

    /// Plays this much of it, and hands over what was seen in the order of the blocks, until it is asked to stop or `take`
    /// errs, which it gives.
    fn play<S: Searching + ?Sized, E>(
        &self,
        searches: &[Box<S>],
        left: &[Blocks],
        game: &dyn GameEntry,
        threads: usize,
        halt: &Halt,
        mut take: impl FnMut(usize, Vec<Vec<f64>>) -> Result<(), E>,
    ) -> Result<Result<(), E>, Fell> {
        let mut taken = Ok(());
        in_order(
            threads,
            left.iter().take_while(|_| !halt.is_called()),
            || None,
            |kept: &mut Option<(usize, StageSet)>, &&(index, start, end)| {
                let (own, number, task) = &self.asked[index];
                let Task::Play(play) = task else {
                    searches[*own].work(*number, halt);
                    return Vec::new();
                };
                if kept.as_ref().is_none_or(|(held, _)| *held != index) {
                    *kept = Some((index, StageSet::of(&play.settings, game, halt)));
                }
                let figures = |(_, stages): &mut (usize, StageSet)| {
                    let block = |block| searches[*own].figures(*number, stages.play(block));
                    (start..end).map(block).collect::<Vec<_>>()
                };
                kept.as_mut().map(figures).unwrap_or_default()
            },
            |&(index, ..), blocks| {
                // What was played while it was asked to stop may have been given up.
                if halt.is_called() {
                    return ControlFlow::Break(());
                }
                taken = take(index, blocks);
                if taken.is_ok() { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
            },
        )?;
        Ok(taken)
    }
}
