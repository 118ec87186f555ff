//! One repetition of an evolution: its next plays, and its learning from them.

use inkpot_core::GameEntry;
use inkpot_learn::{Fitness, Genome};
use serde::{Deserialize, Serialize};

use super::asked::Evolve;
use super::rivals::Population;
use crate::kinds::found::{
    Comparison, Ended, Evaluation, Figures, Look, Looks, Pick, Purpose, StoppedBy, best_of, judged,
};
use crate::work::Play;

/// The record of a generation.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Generation {
    /// Candidates that were tried by then, over all populations.
    pub(super) evaluations: u64,
    pub(super) matches: u64,
    pub(super) steps: u64,
    /// The best fitness.
    pub(super) best: Fitness,
    /// Quartiles of all fitness values, by the first number: low, median, high.
    pub(super) quartiles: [f64; 3],
    /// The terms of the best, and its outcome where it learned.
    pub(super) figures: Figures,
    pub(super) diversity: f64,
    pub(super) groups: usize,
    /// The free knobs of the best, as they are written.
    pub(super) values: Vec<String>,
}

/// One repetition.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Repetition {
    #[serde(rename = "own")]
    pub(super) population: Population,
    /// The population that this one meets, where there are two.
    other: Option<Population>,
    pub(super) matches: u64,
    pub(super) steps: u64,
    pub(super) generations: Vec<Generation>,
    pub(super) looks: Looks,
    pub(super) stopped: Option<StoppedBy>,
    /// Whether each term ever differed between candidates.
    pub(super) varied: Vec<bool>,
}

impl Repetition {
    /// At its beginning.
    pub(super) fn new(evolve: &Evolve, number: usize) -> Self {
        Self {
            population: Population::new(evolve, number, 0),
            other: (evolve.populations() == 2).then(|| Population::new(evolve, number, 1)),
            matches: 0,
            steps: 0,
            generations: Vec::new(),
            looks: Looks::default(),
            stopped: None,
            varied: vec![false; evolve.aim.terms.len()],
        }
    }

    /// Returns the repetition as an ended one.
    pub(super) fn ended(&self) -> Ended<'_> {
        Ended {
            looks: &self.looks,
            matches: self.matches,
            steps: self.steps,
            decisions: None,
            rounds: self.generations.len() as u64,
            stopped: self.stopped,
            legs: Vec::new(),
        }
    }

    /// The populations, each with the rivals that its candidates meet next.
    fn sides(&self, evolve: &Evolve, number: usize) -> Vec<(&Population, Vec<Genome>)> {
        let seed = evolve.aim.stream(Purpose::Learning, number);
        let met = |by: &Population| evolve.rivals.map_or_else(Vec::new, |rivals| by.met(&rivals, seed));
        match &self.other {
            None => vec![(&self.population, met(&self.population))],
            Some(other) => vec![(&self.population, met(other)), (other, met(&self.population))],
        }
    }

    /// Returns the next plays: a generation, a look at the best of the last one, or the final comparison. Empty once it
    /// has a champion.
    pub(super) fn plays(&self, evolve: &Evolve, number: usize, game: &dyn GameEntry) -> Vec<Play> {
        if self.looks.is_confirming() {
            return self.looks.confirming_plays(&evolve.aim, number, game);
        }
        let mut plays = Vec::new();
        let seed = evolve.aim.stream(Purpose::Learning, number);
        if self.stopped.is_none() {
            let first_block =
                if evolve.fresh_blocks { self.population.evolver.generation() * evolve.blocks } else { 0 };
            for (population, rivals) in self.sides(evolve, number) {
                let field = evolve.aim.training(&rivals, game);
                plays.extend(population.evolver.ask().iter().map(|genome| {
                    let settings = evolve.aim.settings(genome, &field, seed, game);
                    Play::new(settings, first_block, evolve.blocks)
                }));
            }
        }
        let hall = self.other.as_ref().unwrap_or(&self.population).hall.all();
        let compared = Comparison { field: evolve.aim.training(hall, game), seed, blocks: evolve.blocks };
        plays.extend(self.looks.plays(&evolve.aim, number, &compared, game));
        if plays.is_empty() {
            plays = self.looks.last_plays(&evolve.aim, number, game);
        }
        plays
    }

    /// Learns from the results of its plays, in their order. Errs if a candidate has no fitness.
    pub(super) fn take(
        &mut self,
        evolve: &Evolve,
        number: usize,
        evaluations: Vec<Evaluation>,
        game: &dyn GameEntry,
    ) -> Result<(), String> {
        let mut evaluations = evaluations.into_iter();
        if self.looks.is_confirming() {
            if self.looks.confirm(&evolve.aim, evaluations.next(), game) {
                self.stopped.get_or_insert(StoppedBy::Target);
            }
        } else if self.stopped.is_none() {
            let genomes = self.population.evolver.ask();
            let answers: Vec<Evaluation> = evaluations.by_ref().take(genomes.len()).collect();
            let others = self.other.as_ref().map_or(0, |other| other.evolver.asks());
            let other: Vec<Evaluation> = evaluations.by_ref().take(others).collect();
            self.learn(evolve, &genomes, &answers, &other)?;
            self.looks.take(&evolve.aim, evaluations, game);
            self.judge(evolve, number, &genomes, &answers);
        } else if self.looks.are_due() {
            self.looks.take(&evolve.aim, evaluations, game);
        } else {
            self.looks.choose(&evolve.aim, evaluations, game);
        }
        Ok(())
    }

    /// Takes in a generation.
    fn learn(
        &mut self,
        evolve: &Evolve,
        genomes: &[Genome],
        measured: &[Evaluation],
        other: &[Evaluation],
    ) -> Result<(), String> {
        for (place, term) in evolve.aim.terms.iter().enumerate() {
            let without = measured.iter().filter(|evaluation| !evaluation.figures.terms[place].is_finite()).count();
            if without > 0 && self.generations.is_empty() {
                return Err(format!(
                    "{without} of {} candidates have no value of the term `{}`: say by `missing` what counts for a \
                     match that has none",
                    measured.len(),
                    term.figure
                ));
            }
            let first = measured[0].figures.terms[place];
            self.varied[place] |= measured.iter().any(|evaluation| evaluation.figures.terms[place] != first);
        }
        let all = || measured.iter().chain(other);
        self.matches += all().map(|side| side.matches).sum::<u64>();
        self.steps += all().map(|side| side.steps).sum::<u64>();
        let judgements = judged(&evolve.aim, measured);
        let best = best_of(&judgements);
        let mut firsts: Vec<f64> = judgements.iter().map(|judgement| judgement.fitness.first()).collect();
        firsts.sort_by(f64::total_cmp);
        let at = |share: f64| firsts[((firsts.len() - 1) as f64 * share).round() as usize];
        let spread = self.population.evolver.spread();
        let before = self.generations.last().map_or(0, |last| last.evaluations);
        self.generations.push(Generation {
            evaluations: before + all().count() as u64,
            matches: self.matches,
            steps: self.steps,
            best: judgements[best].fitness.clone(),
            quartiles: [at(0.25), at(0.5), at(0.75)],
            figures: measured[best].figures.clone(),
            diversity: spread.diversity,
            groups: spread.groups,
            values: evolve.aim.candidate.values(&genomes[best]).iter().map(ToString::to_string).collect(),
        });
        self.population.tell(evolve, &judgements);
        if let Some(population) = &mut self.other {
            population.tell(evolve, &judged(&evolve.aim, other));
        }
        Ok(())
    }

    /// Whether it goes on after a generation, and whether the best of that is looked at.
    fn judge(&mut self, evolve: &Evolve, number: usize, genomes: &[Genome], evaluations: &[Evaluation]) {
        let last = self.generations.len() as u64;
        let sides = self.sides(evolve, number).into_iter();
        let next: u64 = sides
            .map(|(side, rivals)| side.evolver.asks() as u64 * evolve.matches_a_candidate(rivals.len() as u64))
            .sum();
        if self.stopped.is_none() && self.matches + next > evolve.matches {
            self.stopped = Some(StoppedBy::Budget);
        }
        if self.stopped.is_none() && self.stands_still(evolve) {
            self.stopped = Some(StoppedBy::Stagnation);
        }
        let looks = self.stopped.is_some() || last == 1 || last.is_multiple_of(evolve.aim.yardstick.every);
        if !looks && evolve.rivals.is_none() {
            return;
        }
        let best = best_of(&judged(&evolve.aim, evaluations));
        let pick = Pick {
            generation: last,
            matches: self.matches,
            genome: genomes[best].clone(),
            seen: evaluations[best].figures.clone(),
        };
        self.looks.next(pick, looks, evolve.rivals.is_some());
    }

    /// Whether the best of the last generations were worth no more, on average, than those of as many before: where they
    /// learned, or on the yardstick where they learn against each other.
    fn stands_still(&self, evolve: &Evolve) -> bool {
        let (count, patience) = (self.generations.len() as u64, evolve.stagnation);
        if count < 2 * patience {
            return false;
        }
        let looked = |look: &Look| evolve.aim.fitness_of(&look.figures);
        let fitnesses: Vec<(u64, Fitness)> = if evolve.rivals.is_some() {
            self.looks.all.iter().map(|look| (look.pick.generation, looked(look))).collect()
        } else {
            self.generations.iter().zip(1..).map(|(round, generation)| (generation, round.best.clone())).collect()
        };
        let since = |first: u64, last: u64| {
            let those = fitnesses.iter().filter(|(generation, _)| (first + 1..=last).contains(generation));
            mean_fitness(&those.map(|(_, fitness)| fitness).collect::<Vec<_>>())
        };
        let (before, last) = (since(count - 2 * patience, count - patience), since(count - patience, count));
        before.zip(last).is_some_and(|(before, last)| last <= before)
    }
}

/// The mean of these, number by number; none of none.
fn mean_fitness(all: &[&Fitness]) -> Option<Fitness> {
    let mean = |place: usize| all.iter().map(|candidate| candidate.values()[place]).sum::<f64>() / all.len() as f64;
    let width = all.first()?.values().len();
    Some(Fitness::in_turn((0..width).map(mean).collect()))
}
