//! The search of a training: its repetitions side by side.

use std::sync::Mutex;

use inkpot_core::{GameEntry, Halt, Registry, Rows, Setting};

use super::asked::Train;
use super::gathered::Round;
use super::history;
use super::notes;
use super::repetition::{Repetition, Sitting};
use crate::kinds::found::{
    Field, How, LearnedOn, Look, Measured, MethodName, SearchFound, SearchProof, Seen, block_figures, restored, watched,
};
use crate::searching::{Ask, Results, SearchRound, Searching, Watched};
use crate::{CheckpointError, Ground, Plan, Problem, Seeks};

/// The search of a training.
struct TrainSearch<'a> {
    train: &'a Train,
    game: &'a dyn GameEntry,
    repetitions: Vec<Sitting<'a>>,
    /// The repetitions that learn in what was asked for last.
    learning: Vec<usize>,
    /// Plays of each repetition in what was asked for last.
    asked: Vec<usize>,
    /// Why it cannot go on.
    stuck: Mutex<Option<String>>,
}

impl TrainSearch<'_> {
    fn kept(&self) -> Vec<Repetition> {
        self.repetitions.iter().map(|own| own.lock().0.clone()).collect()
    }

    fn why_stuck(&self) -> Option<String> {
        self.stuck.lock().ok()?.clone()
    }
}

impl Searching for TrainSearch<'_> {
    fn next(&mut self) -> Ask {
        if let Some(why) = self.why_stuck() {
            return Ask::Stuck(why);
        }
        self.learning = (0..self.repetitions.len()).filter(|own| self.repetitions[*own].lock().0.learns()).collect();
        if !self.learning.is_empty() {
            return Ask::Work(self.learning.len());
        }
        let plays: Vec<Vec<_>> = self.repetitions.iter().map(|own| own.lock().0.plays(self.train, self.game)).collect();
        self.asked = plays.iter().map(Vec::len).collect();
        let all: Vec<_> = plays.into_iter().flatten().collect();
        if all.is_empty() { Ask::Finished } else { Ask::Play(all) }
    }

    fn figures(&self, _play: usize, rows: &[Rows]) -> Vec<f64> {
        block_figures(&self.train.aim, &[], rows, self.game.sheet())
    }

    fn work(&self, piece: usize, halt: &Halt) {
        let number = self.learning[piece];
        if let Err(why) = self.repetitions[number].learn(self.train, number, self.game, halt)
            && let Ok(mut stuck) = self.stuck.lock()
        {
            stuck.get_or_insert(why);
        }
    }

    fn take(&mut self, results: Results) {
        if !self.learning.is_empty() {
            return;
        }
        let mut results = results.into_iter();
        for (repetition, count) in self.repetitions.iter().zip(&self.asked) {
            let seen: Vec<Seen> =
                results.by_ref().take(*count).map(|blocks| Seen::of(&self.train.aim, &[], &blocks)).collect();
            if !seen.is_empty() {
                repetition.lock().0.take(self.train, seen, self.game);
            }
        }
    }

    fn is_stuck(&self) -> bool {
        self.why_stuck().is_some()
    }

    fn checkpoint(&self) -> String {
        serde_json::to_string(&self.kept()).expect("a search is plain data")
    }

    fn history(&self) -> String {
        history::write(self.train, &self.kept())
    }

    fn round(&self) -> SearchRound {
        let kept = || self.repetitions.iter().map(|own| own.lock());
        let steps: u64 = kept().map(|own| own.0.learner.steps()).sum();
        let rounds = kept().map(|own| own.0.rounds.len()).max().unwrap_or(0);
        let looks = kept().filter_map(|own| own.0.looks.all.last().map(|look| look.figures.outcome));
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
        let kept = self.kept();
        let looks: Vec<_> = kept.iter().map(|own| &own.looks).collect();
        let spread = |own: &Round| (own.steps as f64, [own.best, own.quartiles[2], own.quartiles[1], own.quartiles[0]]);
        let spreads = |own: usize| {
            let known = kept[own].rounds.iter().filter(|round| round.best.is_finite());
            known.map(spread).collect()
        };
        let spent = |own: usize, look: &Look| kept[own].rounds[look.pick.generation as usize - 1].steps as f64;
        watched(&self.train.aim, "reward", &looks, spent, spreads, self.game)
    }
}

impl Train {
    /// Every kind of match that is looked at.
    pub(super) fn must_be_possible(&self, game: &dyn GameEntry) -> Vec<Setting> {
        let genome = Repetition::new(self, 0).learner.genome(self);
        let on = |field: &Field| self.aim.settings(&genome, field, self.aim.ground.seed, game);
        let legs = (0..=self.legs.len()).flat_map(|leg| on(&self.looking_at(leg)));
        legs.chain(on(&self.aim.looking())).chain(self.aim.settings_held_back(&genome, game)).collect()
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
        self.aim.settings(&genome, &self.aim.looking(), self.aim.ground.seed, game)
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
            repetitions: repetitions.into_iter().map(Sitting::new).collect(),
            learning: Vec::new(),
            asked: Vec::new(),
            stuck: Mutex::new(None),
        }))
    }
}

impl Train {
    /// The plan that proves what the finished search of this checkpoint found. Errs when nothing was found that could
    /// be proved.
    pub fn prove(&self, checkpoint: &str, registry: &Registry) -> Result<(Plan, SearchProof), Vec<Problem>> {
        let repetitions: Vec<Repetition> =
            restored(&self.aim, checkpoint).map_err(|error: CheckpointError| vec![Problem::new("", error.0, "")])?;
        let how = How {
            method: MethodName::Training(self.method.name),
            fresh_blocks: true,
            learned_on: match () {
                () if self.self_play => LearnedOn::Rivals,
                // What it learned on last was not what it is proved on.
                () if !repetitions.iter().all(|own| own.course.is_over(self)) => LearnedOn::Elsewhere,
                () => self.aim.learned_on(),
            },
            notes: notes::of_search(self, &repetitions),
        };
        let ended: Vec<_> = repetitions.iter().map(|own| own.ended(self)).collect();
        let search = SearchFound::of(&self.aim, how, &ended);
        let search = search.ok_or_else(|| vec![Problem::new("", "nothing was found", "")])?;
        let champions: Vec<_> = repetitions.iter().map(Repetition::champion).collect();
        let seen = Measured { matches: self.aim.yardstick.matches, niches: Vec::new() };
        SearchProof::plan(&self.aim, search, &champions, None, seen, registry)
    }
}
