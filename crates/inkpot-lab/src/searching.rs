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
    /// The figure that its best are looked at by.
    pub figure: String,
    /// Whether that is a share.
    pub is_share: bool,
    /// The value of it that is wanted.
    pub target: Option<f64>,
    /// Of each repetition: its matches and the figure at each look.
    pub looks: Vec<Vec<(f64, f64)>>,
    /// Of the repetition that stands best, by generation: its matches, and what its best candidate, the upper quartile,
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
    /// Matches so far.
    pub matches: u64,
    /// Matches that the budget allows.
    pub most: u64,
    /// The present choice in words.
    pub choice: String,
}

/// Runs searches side by side until all have finished, or until it is asked to stop: the round under way is then lost.
/// `keep` is shown them after every round, and what it cannot keep ends them. Errs too when the work of a thread falls.
pub fn search<S: Searching + ?Sized, E: From<SearchError>>(
    searches: &mut [Box<S>],
    game: &dyn GameEntry,
    threads: usize,
    halt: &Halt,
    mut keep: impl FnMut(&[Box<S>]) -> Result<(), E>,
) -> Result<Sitting, E> {
    loop {
        let mut asked: Vec<(usize, usize, Play)> = Vec::new();
        for (own, searching) in searches.iter_mut().enumerate() {
            match searching.next() {
                Ask::Play(plays) => {
                    asked.extend(plays.into_iter().enumerate().map(|(number, play)| (own, number, play)));
                }
                Ask::Finished => {}
                Ask::Stuck(why) => return Err(SearchError::Stuck(why).into()),
            }
        }
        if asked.is_empty() {
            return Ok(Sitting::Complete);
        }
        let played = play(searches, &asked, game, threads, halt).map_err(SearchError::from)?;
        let Some(mut results) = played else { return Ok(Sitting::Interrupted) };
        for (own, searching) in searches.iter_mut().enumerate() {
            let count = asked.iter().filter(|(whose, ..)| *whose == own).count();
            if count > 0 {
                let rest = results.split_off(count);
                searching.take(std::mem::replace(&mut results, rest));
            }
        }
        keep(searches)?;
    }
}

/// Plays all that was asked for; none once it was asked to stop.
fn play<S: Searching + ?Sized>(
    searches: &[Box<S>],
    asked: &[(usize, usize, Play)],
    game: &dyn GameEntry,
    threads: usize,
    halt: &Halt,
) -> Result<Option<Results>, Fell> {
    let tasks = asked.iter().enumerate().flat_map(|(index, (_, _, play))| {
        let end = play.first_block + play.blocks;
        (play.first_block..end).step_by(RUN as usize).map(move |start| (index, start, (start + RUN).min(end)))
    });
    let mut results: Results = asked.iter().map(|_| Vec::new()).collect();
    in_order(
        threads,
        tasks.take_while(|_| !halt.is_called()),
        || None,
        |kept: &mut Option<(usize, StageSet)>, &(index, start, end)| {
            let (own, number, play) = &asked[index];
            if kept.as_ref().is_none_or(|(held, _)| *held != index) {
                *kept = Some((index, StageSet::of(&play.settings, game, halt)));
            }
            let figures = |(_, stages): &mut (usize, StageSet)| {
                let block = |block| searches[*own].figures(*number, stages.play(block));
                (start..end).map(block).collect::<Vec<_>>()
            };
            kept.as_mut().map(figures).unwrap_or_default()
        },
        |(index, ..), blocks| {
            results[index].extend(blocks);
            if halt.is_called() { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        },
    )?;
    let whole = results.iter().zip(asked).all(|(seen, (_, _, play))| seen.len() as u64 == play.blocks);
    Ok((whole && !halt.is_called()).then_some(results))
}
