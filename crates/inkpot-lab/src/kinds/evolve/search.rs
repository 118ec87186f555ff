//! The search of an evolution: its repetitions side by side.

use inkpot_core::{GameEntry, Registry, Rows, Setting};

use super::asked::Evolve;
use super::repetition::{Generation, Repetition};
use super::{history, notes};
use crate::kinds::found::{
    Evaluation, How, LearnedOn, Look, MapFound, Measured, MethodName, SearchFound, SearchProof, block_figures,
    restored, watched,
};

use crate::searching::{Ask, Results, SearchRound, SearchWork, Searching, Watched};
use crate::{CheckpointError, Ground, Plan, Problem, Seeks};

/// The search of an evolution.
struct EvolveSearch<'a> {
    evolve: &'a Evolve,
    game: &'a dyn GameEntry,
    repetitions: Vec<Repetition>,
    /// Number of plays of each repetition in the latest request.
    asked: Vec<usize>,
    /// Why it cannot go on.
    stuck: Option<String>,
}

impl Searching for EvolveSearch<'_> {
    fn next(&mut self) -> Ask {
        if let Some(why) = &self.stuck {
            return Ask::Stuck(why.clone());
        }
        let plays: Vec<Vec<_>> = self
            .repetitions
            .iter()
            .enumerate()
            .map(|(number, repetition)| repetition.plays(self.evolve, number, self.game))
            .collect();
        self.asked = plays.iter().map(Vec::len).collect();
        let all: Vec<_> = plays.into_iter().flatten().collect();
        if all.is_empty() { Ask::Finished } else { Ask::Play(all) }
    }

    fn take(&mut self, results: Results) {
        let mut results = results.into_iter();
        for (number, (repetition, count)) in self.repetitions.iter_mut().zip(&self.asked).enumerate() {
            let evaluations: Vec<Evaluation> = results
                .by_ref()
                .take(*count)
                .map(|blocks| Evaluation::of(&self.evolve.aim, &self.evolve.method.niches, &blocks))
                .collect();
            if evaluations.is_empty() {
                continue;
            }
            if let Err(why) = repetition.take(self.evolve, number, evaluations, self.game) {
                self.stuck = Some(why);
            }
        }
    }

    fn is_stuck(&self) -> bool {
        self.stuck.is_some()
    }

    fn checkpoint(&self) -> String {
        serde_json::to_string(&self.repetitions).expect("a search is plain data")
    }

    fn history(&self) -> String {
        history::write(self.evolve, &self.repetitions)
    }

    fn round(&self) -> SearchRound {
        let matches = self.repetitions.iter().map(|repetition| repetition.matches).sum();
        let generation = self.repetitions.iter().map(|repetition| repetition.generations.len()).max().unwrap_or(0);
        let best = self
            .repetitions
            .iter()
            .filter_map(|repetition| repetition.generations.last())
            .map(|generation| generation.best.first());
        let best = best.fold(f64::NEG_INFINITY, f64::max);
        let looks = self.repetitions.iter().filter_map(|look| look.looks.all.last()).map(|look| look.figures.outcome);
        let outcome = looks.fold(f64::NEG_INFINITY, f64::max);
        let figure = &self.evolve.aim.yardstick.figure;
        let latest = if outcome.is_finite() { format!(", {figure} {outcome:.3}") } else { String::new() };
        SearchRound {
            rounds: generation as u64,
            unit: "matches",
            spent: matches,
            most: self.evolve.aim.seeds * self.evolve.matches,
            choice: if generation == 0 {
                "the first generation".into()
            } else {
                format!("generation {generation}: best {:.3}{latest}", (best * 1e3).round() / 1e3 + 0.0)
            },
        }
    }

    fn watched(&self) -> Option<Watched> {
        let spread = |generation: &Generation| {
            let [low, median, high] = generation.quartiles;
            (generation.matches as f64, [generation.best.first(), high, median, low])
        };
        let looks: Vec<_> = self.repetitions.iter().map(|repetition| &repetition.looks).collect();
        let spreads = |number: usize| self.repetitions[number].generations.iter().map(spread).collect();
        let spent = |_: usize, look: &Look| look.pick.matches as f64;
        watched(&self.evolve.aim, "fitness", &looks, spent, spreads, self.game)
    }
}

/// The work of an evolution's workers.
struct EvolveWork<'a> {
    evolve: &'a Evolve,
    game: &'a dyn GameEntry,
}

impl SearchWork for EvolveWork<'_> {
    fn figures(&self, _reading: usize, rows: &[Rows]) -> Vec<f64> {
        block_figures(&self.evolve.aim, &self.evolve.method.niches, rows, self.game.sheet())
    }
}

impl Seeks for Evolve {
    fn ground(&self) -> &Ground {
        &self.aim.ground
    }

    fn proof_blocks(&self) -> u64 {
        let niches = self.method.niches.iter().map(|niche| niche.count as u64);
        let elites = if self.method.niches.is_empty() { 0 } else { niches.product() };
        self.aim.proof_blocks() * (self.aim.seeds + elites) * self.aim.yardstick.opponents.len().max(1) as u64
    }

    fn samples(&self, game: &dyn GameEntry) -> Vec<Setting> {
        let first = Repetition::new(self, 0).plays(self, 0, game).into_iter().next();
        first.map_or_else(Vec::new, |play| play.settings)
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
        Ok(Box::new(EvolveSearch { evolve: self, game, repetitions, asked: Vec::new(), stuck: None }))
    }

    fn work<'a>(&'a self, game: &'a dyn GameEntry) -> Result<Box<dyn SearchWork + 'a>, CheckpointError> {
        Ok(Box::new(EvolveWork { evolve: self, game }))
    }
}

impl Evolve {
    /// Returns the plan of the proof for the finished search of this checkpoint. Errs if there is nothing to prove.
    pub fn prove(&self, checkpoint: &str, registry: &Registry) -> Result<(Plan, SearchProof), Vec<Problem>> {
        let repetitions: Vec<Repetition> =
            restored(&self.aim, checkpoint).map_err(|error: CheckpointError| vec![Problem::new("", error.0, "")])?;
        self.proved(&repetitions, registry)
    }
}

impl Evolve {
    /// The plan that proves the champions of these repetitions.
    fn proved(&self, repetitions: &[Repetition], registry: &Registry) -> Result<(Plan, SearchProof), Vec<Problem>> {
        let how = How {
            method: MethodName::Evolution(self.method.name),
            fresh_blocks: self.fresh_blocks,
            learned_on: if self.rivals.is_some() { LearnedOn::Rivals } else { self.aim.learned_on() },
            sampled: None,
            notes: notes::of_search(self, repetitions),
        };
        let search = SearchFound::of(&self.aim, how, &repetitions.iter().map(Repetition::ended).collect::<Vec<_>>());
        let search = search.ok_or_else(|| vec![Problem::new("", "nothing was found", "")])?;
        let best = search.seeds.iter().position(|seed| seed.seed == search.champion_seed).unwrap_or(0);
        let champions: Vec<_> =
            repetitions.iter().map(|repetition| repetition.looks.champion_or_last().pick.genome.clone()).collect();
        let map = MapFound::of(self, repetitions, best);
        let niches = self.method.niches.iter().map(|niche| niche.of).collect();
        let measured = Measured { matches: self.matches_a_candidate(0), niches };
        SearchProof::plan(&self.aim, search, &champions, map, measured, registry)
    }

    /// Settings that have to be possible before anything is played.
    pub(super) fn must_be_possible(&self, game: &dyn GameEntry) -> Vec<Setting> {
        let genome = Repetition::new(self, 0).population.evolver.ask().swap_remove(0);
        let looked = self.aim.settings_looking(&genome, 0, game);
        let held_back = self.aim.settings_held_back(&genome, 0, game);
        self.samples(game).into_iter().chain(looked).chain(held_back).collect()
    }
}
