//! What an evolution came to, repetition by repetition.

use inkpot_core::Knobs;
use inkpot_learn::Genome;
use inkpot_stats::Interval;
use serde::{Deserialize, Serialize};

use super::asked::{Evolve, LearnedOn};
use super::looks::Look;
use super::repetition::Repetition;
use super::{MethodName, StoppedBy, notes};

/// The file that the champion is handed over in.
const CHAMPION: &str = "champion.toml";

/// What a search came to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SearchFound {
    /// The method.
    pub method: MethodName,
    /// Why the repetition of the champion ended.
    pub stopped_by: StoppedBy,
    /// The figure by which champions are proved.
    pub figure: String,
    /// Whether that is a share of matches.
    pub is_share: bool,
    /// Its value at which repetitions end.
    pub target: Option<f64>,
    /// Whether terms are compared one after the other.
    pub in_turn: bool,
    /// Whether each generation played blocks of its own.
    pub fresh_blocks: bool,
    /// Where what a champion seemed to be worth was measured.
    pub learned_on: LearnedOn,
    /// The repetitions.
    pub seeds: Vec<SeedFound>,
    /// The file of the champion: of the repetitions' champions that which did best in the search.
    pub champion: String,
    /// The seed of its repetition.
    pub champion_seed: u64,
    /// What was noticed of the search.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
}

/// What a repetition came to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SeedFound {
    /// Its seed.
    pub seed: u64,
    /// Matches that it played, looks at the yardstick left out.
    pub matches: u64,
    /// Ticks or turns of those.
    pub steps: u64,
    /// Its generations.
    pub generations: u64,
    /// Why it ended.
    pub stopped_by: StoppedBy,
    /// Matches until a candidate first reached the target, or a half of what can be had.
    pub first_success: Option<u64>,
    /// The figure of its champion where that learned; null where it has none.
    #[serde(with = "crate::gaps::one")]
    pub seen: f64,
    /// The same on fresh blocks, with its interval; none where there are too few blocks.
    pub proved: Option<Interval>,
    /// What its champion was worth where it learned, by the first number of it.
    pub fitness_seen: f64,
    /// The terms of its champion.
    pub terms: Vec<TermFound>,
    /// The free knobs of its champion.
    #[serde(default, skip_serializing_if = "Knobs::is_empty")]
    pub knobs: Knobs,
}

/// What a term of a champion came to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TermFound {
    /// The figure.
    pub figure: String,
    /// Its weight.
    pub weight: f64,
    /// Its value where the champion learned; null where it has none.
    #[serde(with = "crate::gaps::one")]
    pub seen: f64,
    /// The same on fresh blocks, with its interval; none where no match has it, or of too few blocks.
    pub proved: Option<Interval>,
}

impl SeedFound {
    /// What was proved, or seen where that is not known.
    pub(super) fn value(&self) -> f64 {
        self.proved.map_or(self.seen, |own| own.value)
    }

    /// How far what it had where it learned is from what it has on fresh blocks.
    pub(super) fn excess(&self) -> f64 {
        self.proved.map_or(0.0, |own| (self.seen - own.value).abs())
    }
}

impl SearchFound {
    /// Of these repetitions, before anything is proved; none of none.
    pub(super) fn of(evolve: &Evolve, repetitions: &[Repetition]) -> Option<Self> {
        let value = |look: &Look| evolve.worth_of(&look.figures);
        let each = repetitions.iter().enumerate();
        let (number, best) = each.reduce(|best, next| {
            if value(next.1.looks.champion_or_last()) > value(best.1.looks.champion_or_last()) { next } else { best }
        })?;
        let each = repetitions.iter().enumerate();
        Some(Self {
            method: evolve.method.name,
            stopped_by: best.stopped.unwrap_or(StoppedBy::Budget),
            figure: evolve.yardstick.figure.clone(),
            is_share: evolve.yardstick.is_share,
            target: evolve.yardstick.target,
            in_turn: evolve.in_turn,
            fresh_blocks: evolve.fresh_blocks,
            learned_on: evolve.learned_on(),
            seeds: each.map(|(number, own)| SeedFound::of(evolve, evolve.seed_of(number), own)).collect(),
            champion: CHAMPION.into(),
            champion_seed: evolve.seed_of(number),
            notes: notes::of_search(evolve, repetitions),
        })
    }
}

impl SeedFound {
    fn of(evolve: &Evolve, seed: u64, own: &Repetition) -> Self {
        let pick = &own.looks.champion_or_last().pick;
        let term = |(term, seen): (&super::Term, &f64)| TermFound {
            figure: term.figure.clone(),
            weight: term.weight,
            seen: *seen,
            proved: None,
        };
        Self {
            seed,
            matches: own.matches,
            steps: own.steps,
            generations: own.generations.len() as u64,
            stopped_by: own.stopped.unwrap_or(StoppedBy::Budget),
            first_success: own.first_success,
            seen: pick.seen.outcome,
            proved: None,
            fitness_seen: evolve.worth_of(&pick.seen).first(),
            terms: evolve.terms.iter().zip(&pick.seen.terms).map(term).collect(),
            knobs: freed(evolve, &pick.genome),
        }
    }
}

/// The free knobs of a genome by name.
fn freed(evolve: &Evolve, genome: &Genome) -> Knobs {
    match &evolve.candidate.shape {
        super::Shape::Knobs { free, .. } => {
            let values = evolve.candidate.values(genome);
            free.iter().map(|free| free.knob.clone()).zip(values).collect()
        }
        _ => Knobs::default(),
    }
}
