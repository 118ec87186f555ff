//! The search of a training: its repetitions side by side.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use inkpot_core::{GameEntry, Halt, Registry, Rows, Setting};

use super::asked::Train;
use super::gathered::Round;
use super::history;
use super::lesson::Lesson;
use super::notes;
use super::repetition::Repetition;
use crate::kinds::found::{
    Evaluation, Field, How, LearnedOn, Look, Measured, MethodName, SearchFound, SearchProof, block_figures, restored,
    watched,
};
use crate::searching::{Ask, Results, SearchRound, SearchWork, Searching, Watched};
use crate::work::{Piece, State};
use crate::{CheckpointError, Ground, Plan, Problem, Seeks};

/// The search of a training.
struct TrainSearch<'a> {
    train: &'a Train,
    game: &'a dyn GameEntry,
    repetitions: Vec<Arc<Repetition>>,
    /// Number of plays of each repetition in the latest request.
    asked: Vec<usize>,
    /// Why it cannot go on.
    stuck: Option<String>,
}

impl Searching for TrainSearch<'_> {
    fn next(&mut self) -> Ask {
        if let Some(why) = &self.stuck {
            return Ask::Stuck(why.clone());
        }
        let learning = self.repetitions.iter().enumerate().filter(|(_, repetition)| repetition.learns());
        let pieces: Vec<_> =
            learning.map(|(number, learning)| Piece { number, state: State::of(learning.clone()) }).collect();
        if !pieces.is_empty() {
            return Ask::Work(pieces);
        }
        let plays: Vec<Vec<_>> = self
            .repetitions
            .iter()
            .enumerate()
            .map(|(number, held)| held.plays(self.train, number, self.game))
            .collect();
        self.asked = plays.iter().map(Vec::len).collect();
        let all: Vec<_> = plays.into_iter().flatten().collect();
        if all.is_empty() { Ask::Finished } else { Ask::Play(all) }
    }

    fn take(&mut self, results: Results) {
        let mut results = results.into_iter();
        for (repetition, count) in self.repetitions.iter_mut().zip(&self.asked) {
            let evaluations: Vec<Evaluation> =
                results.by_ref().take(*count).map(|blocks| Evaluation::of(&self.train.aim, &[], &blocks)).collect();
            if !evaluations.is_empty() {
                Arc::make_mut(repetition).take(self.train, evaluations, self.game);
            }
        }
    }

    fn take_piece(&mut self, number: usize, state: State) {
        match state.into_value() {
            Ok(repetition) => self.repetitions[number] = repetition,
            Err(why) => self.take_stuck(why),
        }
    }

    fn take_stuck(&mut self, why: String) {
        self.stuck.get_or_insert(why);
    }

    fn is_stuck(&self) -> bool {
        self.stuck.is_some()
    }

    fn checkpoint(&self) -> String {
        serde_json::to_string(&self.repetitions).expect("a search is plain data")
    }

    fn history(&self) -> String {
        history::write(self.train, self.repetitions.iter().map(Arc::as_ref))
    }

    fn round(&self) -> SearchRound {
        let all = || self.repetitions.iter();
        let steps: u64 = all().map(|repetition| repetition.learner.steps()).sum();
        let rounds = all().map(|repetition| repetition.rounds.len()).max().unwrap_or(0);
        let looks = all().filter_map(|repetition| repetition.looks.all.last().map(|look| look.figures.outcome));
        let outcome = looks.fold(f64::NEG_INFINITY, f64::max);
        let figure = &self.train.aim.yardstick.figure;
        SearchRound {
            rounds: rounds as u64,
            unit: "decisions",
            spent: steps,
            most: self.train.aim.seeds * self.train.steps,
            choice: if outcome.is_finite() {
                format!("look {rounds}: {figure} {outcome:.3}")
            } else {
                "before the first look".into()
            },
        }
    }

    fn watched(&self) -> Option<Watched> {
        let all = &self.repetitions;
        let looks: Vec<_> = all.iter().map(|repetition| &repetition.looks).collect();
        let spread = |round: &Round| {
            (round.steps as f64, [round.best, round.quartiles[2], round.quartiles[1], round.quartiles[0]])
        };
        let spreads = |number: usize| {
            let known = all[number].rounds.iter().filter(|round| round.best.is_finite());
            known.map(spread).collect()
        };
        let spent = |number: usize, look: &Look| all[number].rounds[look.pick.generation as usize - 1].steps as f64;
        watched(&self.train.aim, "reward", &looks, spent, spreads, self.game)
    }
}

/// The work of a training's workers.
struct TrainWork<'a> {
    train: &'a Train,
    game: &'a dyn GameEntry,
    /// The matches under way of each repetition, with the decisions by then, so that they need not be brought back.
    lessons: Mutex<BTreeMap<usize, (u64, Vec<Lesson<'a>>)>>,
}

impl<'a> TrainWork<'a> {
    /// The matches of a repetition that is so far, if they are here.
    fn stored_lessons(&self, number: usize, steps: u64) -> Option<Vec<Lesson<'a>>> {
        let mut lessons = self.lessons.lock().unwrap_or_else(PoisonError::into_inner);
        lessons.remove(&number).filter(|(by, _)| *by == steps).map(|(_, lessons)| lessons)
    }

    fn keep(&self, number: usize, steps: u64, lessons: Vec<Lesson<'a>>) {
        self.lessons.lock().unwrap_or_else(PoisonError::into_inner).insert(number, (steps, lessons));
    }
}

impl SearchWork for TrainWork<'_> {
    fn figures(&self, _reading: usize, rows: &[Rows]) -> Vec<f64> {
        block_figures(&self.train.aim, &[], rows, self.game.sheet())
    }

    fn go_on(&self, piece: &Piece, halt: &Halt) -> Result<State, String> {
        let Piece { number, state } = piece.clone();
        let held: Arc<Repetition> = state.into_value()?;
        let mut repetition = Arc::unwrap_or_clone(held);
        let lesson = self.stored_lessons(number, repetition.learner.steps());
        let mut lessons = lesson.unwrap_or_else(|| repetition.lessons(self.train, number, self.game));
        repetition.learn(self.train, &mut lessons, halt)?;
        self.keep(number, repetition.learner.steps(), lessons);
        Ok(State::of(Arc::new(repetition)))
    }
}

impl Train {
    /// Every kind of match that is looked at.
    pub(super) fn must_be_possible(&self, game: &dyn GameEntry) -> Vec<Setting> {
        let genome = Repetition::new(self, 0).learner.genome(self);
        let on = |field: &Field| self.aim.settings(&genome, field, self.aim.ground.seed, game);
        let legs = (0..=self.legs.len()).flat_map(|leg| on(&self.looking_at(leg)));
        legs.chain(on(&self.aim.looking())).chain(self.aim.settings_held_back(&genome, 0, game)).collect()
    }
}

impl Seeks for Train {
    fn ground(&self) -> &Ground {
        &self.aim.ground
    }

    fn proof_blocks(&self) -> u64 {
        self.aim.proof_blocks() * self.aim.seeds * self.aim.yardstick.opponents.len().max(1) as u64
    }

    fn samples(&self, game: &dyn GameEntry) -> Vec<Setting> {
        let genome = Repetition::new(self, 0).learner.genome(self);
        self.aim.settings_looking(&genome, 0, game)
    }

    fn begin<'a>(
        &'a self,
        game: &'a dyn GameEntry,
        checkpoint: Option<&str>,
    ) -> Result<Box<dyn Searching + 'a>, CheckpointError> {
        let repetitions = match checkpoint {
            None => (0..self.aim.seeds as usize).map(|number| Repetition::new(self, number)).collect(),
            Some(text) => restored(&self.aim, text)?,
        };
        Ok(Box::new(TrainSearch {
            train: self,
            game,
            repetitions: repetitions.into_iter().map(Arc::new).collect(),
            asked: Vec::new(),
            stuck: None,
        }))
    }

    fn work<'a>(&'a self, game: &'a dyn GameEntry) -> Result<Box<dyn SearchWork + 'a>, CheckpointError> {
        Ok(Box::new(TrainWork { train: self, game, lessons: Mutex::default() }))
    }
}

impl Train {
    /// Returns the plan of the proof for the finished search of this checkpoint. Errs if there is nothing to prove.
    pub fn prove(&self, checkpoint: &str, registry: &Registry) -> Result<(Plan, SearchProof), Vec<Problem>> {
        let repetitions: Vec<Repetition> =
            restored(&self.aim, checkpoint).map_err(|error: CheckpointError| vec![Problem::new("", error.0, "")])?;
        let game = registry.find(&self.aim.ground.game).ok();
        let ticks_per_second = game.and_then(|game| game.sheet().ticks_per_second);
        let how = How {
            method: MethodName::Training(self.method.name),
            fresh_blocks: true,
            learned_on: match () {
                () if self.self_play => LearnedOn::Rivals,
                // What it learned on last was not what it is proved on.
                () if !repetitions.iter().all(|repetition| repetition.course.is_over(self)) => LearnedOn::Elsewhere,
                () => self.aim.learned_on(),
            },
            sampled: repetitions.iter().map(|repetition| repetition.learner.sampled()).sum(),
            notes: notes::of_search(self, &repetitions, ticks_per_second),
        };
        let ended: Vec<_> = repetitions.iter().map(|repetition| repetition.ended(self)).collect();
        let search = SearchFound::of(&self.aim, how, &ended);
        let search = search.ok_or_else(|| vec![Problem::new("", "nothing was found", "")])?;
        let champions: Vec<_> = repetitions.iter().map(Repetition::champion).collect();
        let measured = Measured { matches: self.aim.yardstick.matches, niches: Vec::new() };
        SearchProof::plan(&self.aim, search, &champions, None, measured, registry)
    }
}
