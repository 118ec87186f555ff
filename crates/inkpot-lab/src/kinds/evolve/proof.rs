//! The proof of an evolution: the champion of every repetition on blocks that no search saw.

use inkpot_core::{GameEntry, KnobValue, Knobs, Registry, Rows, Setting};
use inkpot_learn::Genome;
use inkpot_stats::Interval;
use serde::{Deserialize, Serialize};

use super::asked::{Evolve, LearnedOn};
use super::repetition::Repetition;
use super::term::worth;
use super::{MethodName, StoppedBy, Term, notes};
use crate::figure::Figure;
use crate::figure_tally::{FigureTally, Weighted};
use crate::kinds::{Finding, Kind, Reading, Seeks, Sums};
use crate::resolve::Checker;
use crate::searching::FIRST_PROOF_BLOCK;
use crate::{Cell, Design, Draft, EntrantDraft, Plan, Problem, Summary, resolve as resolve_study};

/// The file that the champion is handed over in.
const CHAMPION: &str = "champion.toml";

/// What a plan proves of an evolution.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct EvolveProof {
    /// What the search came to, before it was proved.
    search: SearchFound,
    terms: Vec<Term>,
    in_turn: bool,
    /// The yardstick's figure.
    of: Figure,
    /// Opponents of each champion.
    opponents: usize,
    /// Agent of the champion as asked for.
    pub agent: String,
    /// What is set of its knobs, files by their names.
    pub given: Knobs,
}

/// What an evolution found beside what every study does.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct EvolveFinding {
    /// The search, with what was proved.
    pub search: SearchFound,
}

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

    /// By how much it was better where it learned than on fresh blocks.
    pub(super) fn excess(&self) -> f64 {
        self.proved.map_or(0.0, |own| self.seen - own.value)
    }
}

impl EvolveProof {
    /// Blocks of the proof of one champion against one opponent.
    pub(super) fn blocks(evolve: &Evolve) -> u64 {
        evolve.proof.div_ceil(evolve.yardstick_seats())
    }

    /// Settings that have to be possible before anything is played.
    pub(super) fn samples(evolve: &Evolve, game: &dyn GameEntry) -> Vec<Setting> {
        let genome = Repetition::new(evolve, 0).own.evolver.ask().swap_remove(0);
        let looked = evolve.settings(&genome, &evolve.looking(), evolve.ground.seed, game);
        evolve.samples(game).into_iter().chain(looked).collect()
    }

    /// The plan that proves the champions of these repetitions.
    pub(super) fn plan(evolve: &Evolve, repetitions: &[Repetition], registry: &Registry) -> Result<Plan, Vec<Problem>> {
        let champions = repetitions.iter().enumerate().map(|(number, own)| {
            let look = &own.looks[own.champion.unwrap_or(own.looks.len() - 1)];
            (number, own, look)
        });
        let champions: Vec<_> = champions.collect();
        let entrant = |seed: u64, genome: &Genome| EntrantDraft {
            name: Some(format!("seed {seed}")),
            agent: evolve.candidate.agent.clone(),
            knobs: named_after(&evolve.candidate.turned(genome), seed),
            vary: Vec::new(),
        };
        let own = champions.iter().map(|(number, _, look)| entrant(evolve.seed_of(*number), &look.pick.genome));
        let others = evolve.yardstick.opponents.iter().map(|other| EntrantDraft {
            name: Some(other.name.clone()),
            agent: other.agent.clone(),
            knobs: other.given.clone(),
            vary: Vec::new(),
        });
        let draft = Draft {
            game: evolve.ground.game.clone(),
            level: Some(evolve.yardstick.level.clone()),
            seed: Some(evolve.ground.seed),
            matches: Some(evolve.proof),
            confidence: Some(evolve.ground.confidence),
            rules: evolve.yardstick.rules.clone(),
            entrants: own.chain(others).collect(),
            ..Draft::default()
        };
        let mut plan = resolve_study(&draft, registry)?;
        let (count, opponents) = (champions.len(), evolve.yardstick.opponents.len());
        plan.blocks = Self::blocks(evolve);
        plan.cells = (0..count)
            .flat_map(|own| match opponents {
                0 => vec![Cell::of(vec![own], FIRST_PROOF_BLOCK)],
                _ => (0..opponents)
                    .map(|other| Cell {
                        pairing: other as u64,
                        ..Cell::of(vec![own, count + other], FIRST_PROOF_BLOCK)
                    })
                    .collect(),
            })
            .collect();
        plan.rounds = vec![plan.cells.len()];
        let value = |look: &super::repetition::Look| worth(&evolve.terms, &look.figures.terms, evolve.in_turn);
        let best = champions.iter().reduce(|best, next| if value(next.2) > value(best.2) { next } else { best });
        let Some((best, best_own, _)) = best else { return Err(vec![Problem::new("", "nothing was found", "")]) };
        let seeds = champions.iter().map(|(number, own, look)| SeedFound {
            seed: evolve.seed_of(*number),
            matches: own.matches,
            steps: own.steps,
            generations: own.generations.len() as u64,
            stopped_by: own.stopped.unwrap_or(StoppedBy::Budget),
            first_success: own.first_success,
            seen: look.pick.seen.outcome,
            proved: None,
            fitness_seen: worth(&evolve.terms, &look.pick.seen.terms, evolve.in_turn).first(),
            terms: evolve
                .terms
                .iter()
                .zip(&look.pick.seen.terms)
                .map(|(term, seen)| TermFound {
                    figure: term.figure.clone(),
                    weight: term.weight,
                    seen: *seen,
                    proved: None,
                })
                .collect(),
            knobs: freed(evolve, &look.pick.genome),
        });
        let search = SearchFound {
            method: evolve.method.name,
            stopped_by: best_own.stopped.unwrap_or(StoppedBy::Budget),
            figure: evolve.yardstick.figure.clone(),
            is_share: evolve.yardstick.is_share,
            target: evolve.yardstick.target,
            in_turn: evolve.in_turn,
            fresh_blocks: evolve.fresh_blocks,
            learned_on: evolve.learned_on(),
            seeds: seeds.collect(),
            champion: CHAMPION.into(),
            champion_seed: evolve.seed_of(*best),
            notes: notes::of_search(evolve, repetitions),
        };
        plan.design = Design::Evolve(Box::new(Self {
            search,
            terms: evolve.terms.clone(),
            in_turn: evolve.in_turn,
            of: evolve.yardstick.of,
            opponents,
            agent: evolve.candidate.agent.clone(),
            given: plan.entrants[*best].given.without_bytes(),
        }));
        Ok(plan)
    }
}

/// Files are called after the repetition, so that they can lie side by side.
fn named_after(knobs: &Knobs, seed: u64) -> Knobs {
    let named = |value: &KnobValue| match value {
        KnobValue::File { bytes, .. } => {
            KnobValue::File { file: format!("champion-{seed}.safetensors"), bytes: bytes.clone() }
        }
        other => other.clone(),
    };
    knobs.iter().map(|(name, value)| (name.to_string(), named(value))).collect()
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

impl Kind for EvolveProof {
    /// A proof is laid out with its search.
    fn lay_out(&self, _plan: &mut Plan, _checker: &mut Checker) {}

    fn reading<'a>(&'a self, plan: &'a Plan, game: &'a dyn GameEntry) -> Box<dyn Reading + 'a> {
        let a_champion = self.opponents.max(1);
        let cells = (0..plan.cells.len()).map(|cell| Weighted { group: cell / a_champion, weight: 1.0 }).collect();
        let own: Vec<Option<Figure>> = self.terms.iter().map(|term| Some(term.of)).chain([Some(self.of)]).collect();
        let figures = vec![own; self.search.seeds.len()];
        Box::new(EvolveReading { proof: self, tally: FigureTally::new(plan, cells, figures, game.sheet()) })
    }

    fn notes(&self, summary: &Summary, _plan: &Plan, _game: &dyn GameEntry) -> Vec<String> {
        let Finding::Evolve(found) = &summary.finding else { return Vec::new() };
        notes::of_proof(found)
    }
}

/// What was measured of the champions, read off the rows.
struct EvolveReading<'a> {
    proof: &'a EvolveProof,
    tally: FigureTally,
}

impl Reading for EvolveReading<'_> {
    fn take(&mut self, rows: &Rows) {
        self.tally.take(rows);
    }

    fn finish(self: Box<Self>, _sums: &mut Sums) -> Finding {
        let mut search = self.proof.search.clone();
        for (group, seed) in search.seeds.iter_mut().enumerate() {
            let count = seed.terms.len();
            for (place, term) in seed.terms.iter_mut().enumerate() {
                term.proved = self.tally.interval(group, place);
            }
            seed.proved = self.tally.interval(group, count);
        }
        Finding::Evolve(EvolveFinding { search })
    }
}
