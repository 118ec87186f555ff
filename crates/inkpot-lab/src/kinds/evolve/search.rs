//! The search of an evolution: its repetitions side by side.

use inkpot_core::{GameEntry, MatchRows, Registry, Rows, Setting};

use super::EvolveProof;
use super::asked::Evolve;
use super::history;
use super::repetition::{Generation, Repetition};
use super::seen::Seen;
use crate::figure::figure_mean;
use crate::kinds::{CheckpointError, Made, Seeks};
use crate::searching::{Ask, Results, SearchRound, Searching, Watched};
use crate::{Ground, Plan, Problem};

/// The search of an evolution.
struct EvolveSearch<'a> {
    evolve: &'a Evolve,
    game: &'a dyn GameEntry,
    repetitions: Vec<Repetition>,
    /// Plays of each repetition in what was asked for last.
    asked: Vec<usize>,
    /// Why it cannot go on.
    stuck: Option<String>,
}

impl EvolveSearch<'_> {
    /// The mean of a figure over the matches of all settings.
    fn mean(rows: &[Rows], figure: impl Fn(MatchRows) -> f64) -> f64 {
        figure_mean(rows.iter().flat_map(Rows::matches), figure)
    }
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

    fn figures(&self, _play: usize, rows: &[Rows]) -> Vec<f64> {
        let Evolve { terms, yardstick, method, .. } = self.evolve;
        let sheet = self.game.sheet();
        let seat = |played: MatchRows| played.seat_of(0).unwrap_or(0);
        let mut all: Vec<f64> =
            terms.iter().map(|term| Self::mean(rows, |played| term.value(played, seat(played), sheet))).collect();
        all.push(Self::mean(rows, |played| yardstick.of.of(played, seat(played), sheet.ticks_per_second)));
        all.extend(
            method
                .niches
                .iter()
                .map(|niche| Self::mean(rows, |played| niche.of.of(played, seat(played), sheet.ticks_per_second))),
        );
        let matches = || rows.iter().flat_map(Rows::matches);
        all.push(matches().count() as f64);
        all.push(matches().map(|played| played.seats()[0].ticks as f64).sum());
        all
    }

    fn take(&mut self, results: Results) {
        let mut results = results.into_iter();
        for (number, (repetition, count)) in self.repetitions.iter_mut().zip(&self.asked).enumerate() {
            let seen: Vec<Seen> = results.by_ref().take(*count).map(|blocks| Seen::of(self.evolve, &blocks)).collect();
            if seen.is_empty() {
                continue;
            }
            if let Err(why) = repetition.take(self.evolve, number, seen, self.game) {
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
        let matches = self.repetitions.iter().map(|own| own.matches).sum();
        let generation = self.repetitions.iter().map(|own| own.generations.len()).max().unwrap_or(0);
        let best = self.repetitions.iter().filter_map(|own| own.generations.last()).map(|own| own.best.first());
        let best = best.fold(f64::NEG_INFINITY, f64::max);
        let looks = self.repetitions.iter().filter_map(|own| own.looks.all.last()).map(|own| own.figures.outcome);
        let outcome = looks.fold(f64::NEG_INFINITY, f64::max);
        let figure = &self.evolve.yardstick.figure;
        let seen = if outcome.is_finite() { format!(", {figure} {outcome:.3}") } else { String::new() };
        SearchRound {
            rounds: generation as u64,
            matches,
            most: self.evolve.seeds * self.evolve.matches,
            choice: if generation == 0 {
                "the first generation".into()
            } else {
                format!("generation {generation}: best {:.3}{seen}", (best * 1e3).round() / 1e3 + 0.0)
            },
        }
    }

    fn watched(&self) -> Option<Watched> {
        let Evolve { terms, yardstick, .. } = self.evolve;
        let points = |own: &Repetition| {
            own.looks.all.iter().map(|look| (look.pick.matches as f64, look.figures.outcome)).collect::<Vec<_>>()
        };
        let value = |own: &Repetition| own.looks.all.last().map(|look| self.evolve.worth_of(&look.figures));
        let best = self.repetitions.iter().reduce(|best, next| if value(next) > value(best) { next } else { best })?;
        let spread = |own: &Generation| {
            let [low, median, high] = own.quartiles;
            (own.matches as f64, [own.best.first(), high, median, low])
        };
        let figures = best.looks.all.last().map_or_else(Vec::new, |look| {
            let each = terms.iter().map(|term| term.figure.clone()).zip(look.figures.terms.iter().copied());
            let each = each.filter(|(name, _)| *name != yardstick.figure);
            std::iter::once((yardstick.figure.clone(), look.figures.outcome)).chain(each).collect()
        });
        let field = self.evolve.looking();
        let seed = self.evolve.ground.seed;
        let latest = best.looks.all.last().map(|look| {
            let setting = self.evolve.settings(&look.pick.genome, &field, seed, self.game).swap_remove(0);
            (setting, best.looks.last_block(self.evolve))
        });
        Some(Watched {
            figure: yardstick.figure.clone(),
            is_share: yardstick.is_share,
            target: yardstick.target,
            looks: self.repetitions.iter().map(points).collect(),
            spread: best.generations.iter().map(spread).collect(),
            champion: figures,
            latest,
        })
    }
}

impl Seeks for Evolve {
    fn ground(&self) -> &Ground {
        &self.ground
    }

    fn proof_blocks(&self) -> u64 {
        let niches = self.method.niches.iter().map(|niche| niche.count as u64);
        let elites = if self.method.niches.is_empty() { 0 } else { niches.product() };
        EvolveProof::blocks(self) * (self.seeds + elites) * self.yardstick.opponents.len().max(1) as u64
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
            None => (0..self.seeds as usize).map(|number| Repetition::new(self, number)).collect(),
            Some(text) => self.restored(text)?,
        };
        Ok(Box::new(EvolveSearch { evolve: self, game, repetitions, asked: Vec::new(), stuck: None }))
    }

    fn prove(&self, checkpoint: &str, _made: &Made, registry: &Registry) -> Result<Plan, Vec<Problem>> {
        let repetitions = self.restored(checkpoint).map_err(|error| vec![Problem::new("", error.0, "")])?;
        EvolveProof::plan(self, &repetitions, registry)
    }
}

impl Evolve {
    /// The repetitions of a checkpoint.
    pub(super) fn restored(&self, checkpoint: &str) -> Result<Vec<Repetition>, CheckpointError> {
        let wrong = |what: String| CheckpointError(format!("the checkpoint is not one of this search: {what}"));
        let repetitions: Vec<Repetition> =
            serde_json::from_str(checkpoint).map_err(|error| wrong(error.to_string()))?;
        if repetitions.len() as u64 == self.seeds {
            Ok(repetitions)
        } else {
            Err(wrong(format!("it has {} repetitions and not {}", repetitions.len(), self.seeds)))
        }
    }
}
