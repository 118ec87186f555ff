//! One repetition of an evolution: what it plays next, and what it learns from that.

use inkpot_core::GameEntry;
use inkpot_learn::{Genome, Judged, Worth};
use serde::{Deserialize, Serialize};

use super::asked::Evolve;
use super::rivals::{Population, best_of};
use super::term::Figures;
use crate::figure_tally::interval_of;
use crate::searching::Play;

/// Blocks of looks at the yardstick begin here, and those of the last comparison: neither a generation nor a proof comes
/// so far.
const FIRST_LOOK_BLOCK: u64 = 1 << 40;
const FIRST_FINAL_BLOCK: u64 = 1 << 36;
/// Comparisons against a hall of fame begin here.
const FIRST_COMPARED_BLOCK: u64 = 1 << 38;
/// The best so far that are compared at the end.
const FINALISTS: usize = 5;

/// Why a repetition ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum StoppedBy {
    /// The yardstick's target was reached.
    Target,
    /// Nothing became better for long.
    Stagnation,
    /// All matches were played.
    Budget,
}

/// A candidate that was the best of its generation.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Pick {
    /// Its generation, from 1 up.
    pub(super) generation: u64,
    /// Matches that the repetition had played by then.
    pub(super) matches: u64,
    pub(super) genome: Genome,
    /// What it came to where it learned.
    pub(super) seen: Figures,
}

/// A look at the yardstick.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Look {
    pub(super) pick: Pick,
    /// What it came to on the yardstick.
    pub(super) figures: Figures,
    /// The interval of the yardstick's figure; none of too few blocks.
    pub(super) range: Option<[f64; 2]>,
}

/// What is kept of a generation.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Generation {
    /// Candidates that were tried by then, over all populations.
    pub(super) evaluations: u64,
    pub(super) matches: u64,
    pub(super) steps: u64,
    /// What the best was worth.
    pub(super) best: Worth,
    /// Quartiles of what all were worth, by the first number of it: low, median, high.
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
    pub(super) own: Population,
    /// The population that this one meets, where there are two.
    other: Option<Population>,
    pub(super) matches: u64,
    pub(super) steps: u64,
    pub(super) generations: Vec<Generation>,
    pub(super) looks: Vec<Look>,
    due: Option<Pick>,
    /// Where candidates learn against each other, the best of the generations since the last look: each was the best
    /// against a few rivals only.
    recent: Vec<Pick>,
    /// Those of them that are compared next against all of the hall of fame; the best of them is looked at.
    compared: Vec<Pick>,
    pub(super) stopped: Option<StoppedBy>,
    /// Which of the looks is the champion, once the best were compared.
    pub(super) champion: Option<usize>,
    /// Matches until a candidate first succeeded.
    pub(super) first_success: Option<u64>,
    /// Whether each term ever differed between candidates.
    pub(super) varied: Vec<bool>,
}

/// What the blocks of one play came to.
pub(super) struct Seen {
    pub(super) figures: Figures,
    traits: Vec<f64>,
    matches: u64,
    steps: u64,
    outcomes: Vec<f64>,
}

impl Seen {
    /// From the figures of each block, as the search reads them off its rows.
    pub(super) fn of(evolve: &Evolve, blocks: &[Vec<f64>]) -> Self {
        let (terms, niches) = (evolve.terms.len(), evolve.method.niches.len());
        let mean = |place: usize| {
            let there = || blocks.iter().map(|block| block[place]).filter(|x| x.is_finite());
            there().sum::<f64>() / there().count() as f64
        };
        let sum = |place: usize| blocks.iter().map(|block| block[place]).sum::<f64>() as u64;
        let traits = evolve.method.niches.iter().enumerate();
        Self {
            figures: Figures { terms: (0..terms).map(mean).collect(), outcome: mean(terms) },
            traits: traits.map(|(axis, niche)| niche.share(mean(terms + 1 + axis))).collect(),
            matches: sum(terms + 1 + niches),
            steps: sum(terms + 2 + niches),
            outcomes: blocks.iter().map(|block| block[terms]).collect(),
        }
    }
}

impl Repetition {
    /// At its beginning.
    pub(super) fn new(evolve: &Evolve, number: usize) -> Self {
        Self {
            own: Population::new(evolve, number, 0),
            other: (evolve.populations() == 2).then(|| Population::new(evolve, number, 1)),
            matches: 0,
            steps: 0,
            generations: Vec::new(),
            looks: Vec::new(),
            due: None,
            recent: Vec::new(),
            compared: Vec::new(),
            stopped: None,
            champion: None,
            first_success: None,
            varied: vec![false; evolve.terms.len()],
        }
    }

    /// The look at its champion; at the last that it looked at while it has none.
    ///
    /// # Panics
    /// Before anything was looked at.
    pub(super) fn champion_look(&self) -> &Look {
        &self.looks[self.champion.unwrap_or(self.looks.len() - 1)]
    }

    /// The first block of its last look.
    pub(super) fn last_look_block(&self, evolve: &Evolve) -> u64 {
        FIRST_LOOK_BLOCK + (self.looks.len() as u64).saturating_sub(1) * evolve.yardstick_blocks()
    }

    /// The looks that are compared at the end: the best by what they were worth on the yardstick.
    fn finalists(&self, evolve: &Evolve) -> Vec<usize> {
        let value = |look: &Look| evolve.worth_of(&look.figures);
        let mut order: Vec<usize> = (0..self.looks.len()).collect();
        order.sort_by(|&a, &b| value(&self.looks[b]).cmp(&value(&self.looks[a])).then(b.cmp(&a)));
        order.truncate(FINALISTS);
        order
    }

    /// The populations, each with the rivals that its candidates meet next.
    fn sides(&self, evolve: &Evolve, number: usize) -> Vec<(&Population, Vec<Genome>)> {
        let seed = evolve.seed_of(number);
        let met = |by: &Population| evolve.rivals.map_or_else(Vec::new, |rivals| by.met(&rivals, seed));
        match &self.other {
            None => vec![(&self.own, met(&self.own))],
            Some(other) => vec![(&self.own, met(other)), (other, met(&self.own))],
        }
    }

    /// What it plays next: a generation, a look at the best of the last one, or the best of all at the end. Nothing once
    /// it has a champion.
    pub(super) fn plays(&self, evolve: &Evolve, number: usize, game: &dyn GameEntry) -> Vec<Play> {
        let yardstick = evolve.looking();
        let look = |genome: &Genome, first_block: u64| Play {
            settings: evolve.settings(genome, &yardstick, evolve.ground.seed, game),
            first_block,
            blocks: evolve.yardstick_blocks(),
        };
        let mut plays = Vec::new();
        if self.stopped.is_none() {
            let first_block = if evolve.fresh_blocks { self.own.evolver.generation() * evolve.blocks } else { 0 };
            for (population, rivals) in self.sides(evolve, number) {
                let field = evolve.training(&rivals, game);
                plays.extend(population.evolver.ask().iter().map(|genome| Play {
                    settings: evolve.settings(genome, &field, evolve.seed_of(number), game),
                    first_block,
                    blocks: evolve.blocks,
                }));
            }
        }
        let before = self.looks.len() as u64;
        if let Some(pick) = &self.due {
            plays.push(look(&pick.genome, FIRST_LOOK_BLOCK + before * evolve.yardstick_blocks()));
        }
        if !self.compared.is_empty() {
            let field = evolve.training(self.other.as_ref().unwrap_or(&self.own).hall.all(), game);
            plays.extend(self.compared.iter().map(|pick| Play {
                settings: evolve.settings(&pick.genome, &field, evolve.seed_of(number), game),
                first_block: FIRST_COMPARED_BLOCK + before * evolve.blocks,
                blocks: evolve.blocks,
            }));
        }
        if plays.is_empty() && self.champion.is_none() {
            let finalists = self.finalists(evolve).into_iter();
            plays.extend(finalists.map(|own| look(&self.looks[own].pick.genome, FIRST_FINAL_BLOCK)));
        }
        plays
    }

    /// Learns what its plays came to, in their order. Errs where a candidate has no worth.
    pub(super) fn take(
        &mut self,
        evolve: &Evolve,
        number: usize,
        seen: Vec<Seen>,
        game: &dyn GameEntry,
    ) -> Result<(), String> {
        let mut seen = seen.into_iter();
        if self.stopped.is_none() {
            let asked = self.own.evolver.ask();
            let own: Vec<Seen> = seen.by_ref().take(asked.len()).collect();
            let others = self.other.as_ref().map_or(0, |other| other.evolver.asks());
            let other: Vec<Seen> = seen.by_ref().take(others).collect();
            self.learn(evolve, &asked, &own, &other)?;
            self.settle(evolve, seen, game);
            self.judge(evolve, number, &asked, &own);
        } else if self.due.is_some() || !self.compared.is_empty() {
            self.settle(evolve, seen, game);
        } else {
            let finalists = self.finalists(evolve).into_iter();
            let value = |seen: &Seen| evolve.worth_of(&seen.figures);
            // Of equals the first, which was worth more before.
            let each = finalists.zip(seen).map(|(own, seen)| (own, value(&seen)));
            let best = each.reduce(|best, next| if next.1 > best.1 { next } else { best });
            self.champion = best.map(|(own, _)| own);
        }
        Ok(())
    }

    /// Takes in a generation.
    fn learn(&mut self, evolve: &Evolve, asked: &[Genome], seen: &[Seen], other: &[Seen]) -> Result<(), String> {
        for (place, term) in evolve.terms.iter().enumerate() {
            let without = seen.iter().filter(|own| !own.figures.terms[place].is_finite()).count();
            if without > 0 && self.generations.is_empty() {
                return Err(format!(
                    "{without} of {} candidates have no value of the term `{}`: say by `missing` what counts for a \
                     match that has none",
                    seen.len(),
                    term.figure
                ));
            }
            let first = seen[0].figures.terms[place];
            self.varied[place] |= seen.iter().any(|own| own.figures.terms[place] != first);
        }
        let all = || seen.iter().chain(other);
        self.matches += all().map(|own| own.matches).sum::<u64>();
        self.steps += all().map(|own| own.steps).sum::<u64>();
        let judged = judged(evolve, seen);
        let best = best_of(&judged);
        let mut firsts: Vec<f64> = judged.iter().map(|own| own.worth.first()).collect();
        firsts.sort_by(f64::total_cmp);
        let at = |share: f64| firsts[((firsts.len() - 1) as f64 * share).round() as usize];
        let spread = self.own.evolver.spread();
        let before = self.generations.last().map_or(0, |last| last.evaluations);
        self.generations.push(Generation {
            evaluations: before + all().count() as u64,
            matches: self.matches,
            steps: self.steps,
            best: judged[best].worth.clone(),
            quartiles: [at(0.25), at(0.5), at(0.75)],
            figures: seen[best].figures.clone(),
            diversity: spread.diversity,
            groups: spread.groups,
            values: evolve.candidate.values(&asked[best]).iter().map(ToString::to_string).collect(),
        });
        // Against rivals somebody always wins.
        if evolve.rivals.is_none() {
            self.succeed(evolve, seen, self.matches);
        }
        self.own.tell(evolve, &judged);
        if let Some(population) = &mut self.other {
            population.tell(evolve, &self::judged(evolve, other));
        }
        Ok(())
    }

    /// Notes the first of these that succeeded, of a generation by which so many matches were played.
    fn succeed(&mut self, evolve: &Evolve, seen: &[Seen], matches: u64) {
        let succeeded = |own: &Seen| evolve.yardstick.succeeded(own.figures.outcome);
        if self.first_success.is_none() && seen.iter().any(succeeded) {
            self.first_success = Some(matches);
        }
    }

    /// Takes in the look that was due, and the comparison that says who is looked at next.
    fn settle(&mut self, evolve: &Evolve, mut seen: impl Iterator<Item = Seen>, game: &dyn GameEntry) {
        if let Some((pick, seen)) = self.due.take().zip(seen.next()) {
            self.look(evolve, pick, &seen, game);
        }
        let mut compared = std::mem::take(&mut self.compared);
        if !compared.is_empty() {
            let best = best_of(&judged(evolve, &seen.collect::<Vec<_>>()));
            self.due = Some(compared.swap_remove(best));
        }
    }

    /// Takes in a look at the yardstick; one that reaches the target ends the repetition.
    fn look(&mut self, evolve: &Evolve, pick: Pick, seen: &Seen, game: &dyn GameEntry) {
        let (yardstick, confidence) = (&evolve.yardstick, evolve.ground.confidence);
        let matches_a_block = evolve.yardstick_seats() as usize * yardstick.opponents.len().max(1);
        let range = interval_of(yardstick.of, game.sheet(), &seen.outcomes, matches_a_block, confidence);
        let range = range.map(|own| [own.low, own.high]);
        if yardstick.reached(seen.figures.outcome) && self.stopped.is_none() {
            self.stopped = Some(StoppedBy::Target);
        }
        if evolve.rivals.is_some() {
            self.succeed(evolve, std::slice::from_ref(seen), pick.matches);
        }
        self.looks.push(Look { pick, figures: seen.figures.clone(), range });
    }

    /// Whether it goes on after a generation, and whether the best of that is looked at.
    fn judge(&mut self, evolve: &Evolve, number: usize, asked: &[Genome], seen: &[Seen]) {
        let last = self.generations.len() as u64;
        let sides = self.sides(evolve, number).into_iter();
        let next: u64 = sides
            .map(|(own, rivals)| own.evolver.asks() as u64 * evolve.matches_a_candidate(rivals.len() as u64))
            .sum();
        if self.stopped.is_none() && self.matches + next > evolve.matches {
            self.stopped = Some(StoppedBy::Budget);
        }
        if self.stopped.is_none() && self.stands_still(evolve) {
            self.stopped = Some(StoppedBy::Stagnation);
        }
        let looks = self.stopped.is_some() || last == 1 || last.is_multiple_of(evolve.yardstick.every);
        if !looks && evolve.rivals.is_none() {
            return;
        }
        let best = best_of(&judged(evolve, seen));
        let pick = Pick {
            generation: last,
            matches: self.matches,
            genome: asked[best].clone(),
            seen: seen[best].figures.clone(),
        };
        if evolve.rivals.is_none() {
            self.due = Some(pick);
            return;
        }
        self.recent.push(pick);
        if looks {
            self.compared = std::mem::take(&mut self.recent);
        }
    }

    /// Whether the best of the last generations were worth no more, on average, than those of as many before: where they
    /// learned, or on the yardstick where they learn against each other.
    fn stands_still(&self, evolve: &Evolve) -> bool {
        let (count, patience) = (self.generations.len() as u64, evolve.stagnation);
        if count < 2 * patience {
            return false;
        }
        let looked = |look: &Look| evolve.worth_of(&look.figures);
        let worths: Vec<(u64, Worth)> = if evolve.rivals.is_some() {
            self.looks.iter().map(|look| (look.pick.generation, looked(look))).collect()
        } else {
            self.generations.iter().zip(1..).map(|(own, generation)| (generation, own.best.clone())).collect()
        };
        let since = |first: u64, last: u64| {
            let those = worths.iter().filter(|(generation, _)| (first + 1..=last).contains(generation));
            mean_worth(&those.map(|(_, worth)| worth).collect::<Vec<_>>())
        };
        let (before, last) = (since(count - 2 * patience, count - patience), since(count - patience, count));
        before.zip(last).is_some_and(|(before, last)| last <= before)
    }
}

/// The mean of these, number by number; none of none.
fn mean_worth(all: &[&Worth]) -> Option<Worth> {
    let mean = |place: usize| all.iter().map(|own| own.values()[place]).sum::<f64>() / all.len() as f64;
    let width = all.first()?.values().len();
    Some(Worth::in_turn((0..width).map(mean).collect()))
}

/// What candidates came to, for the method.
fn judged(evolve: &Evolve, seen: &[Seen]) -> Vec<Judged> {
    let value = |own: &Seen| evolve.worth_of(&own.figures);
    seen.iter().map(|own| Judged { worth: value(own), traits: own.traits.clone() }).collect()
}
