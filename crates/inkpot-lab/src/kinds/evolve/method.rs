//! Methods of evolution, each with its knobs.

use inkpot_core::{Knob, Knobs};
use inkpot_learn::{
    Cma, CmaSettings, Covariance, Crossover, Evolver, Gene, Genetic, GeneticSettings, MapElites, MapElitesSettings,
    Nes, NesSettings, Selection, Space, Topology, TopologySettings,
};
use serde::{Deserialize, Serialize};

use crate::kinds::found::{EvolutionName, Niche};

/// The method of evolution, with its knobs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Method {
    /// The method.
    pub name: EvolutionName,
    /// Every knob of it.
    pub knobs: Knobs,
    /// The measures of a map of elites; none of the other methods.
    pub niches: Vec<Niche>,
}

/// Beyond this many genes only the diagonal of a covariance is evolved, unless it is asked for.
const MOST_FULL: usize = 400;
const TRUE: &str = "true";

impl EvolutionName {
    /// Its knobs, with the defaults for this space: weights of a network, which may be any number, are changed
    /// more than values that have a range.
    pub fn knobs(self, space: &Space) -> Vec<Knob> {
        let genes = space.len();
        let free = matches!(space.0.first(), Some(Gene::Free(_)));
        let usual = |share: f64, weight: f64| if free { weight } else { share };
        let population = |least: i64, default: usize| {
            Knob::whole("population", least..=100_000, default as i64)
                .unit("candidates")
                .help("candidates a generation")
        };
        let share = |name: &str, default: f64, help: &str| Knob::real(name, 0.0..=1.0, default).help(help);
        let flag = |name: &str, help: &str| Knob::choice(name, &["false", TRUE]).help(help);
        match self {
            Self::Genetic => vec![
                population(2, 64),
                Knob::choice("selection", &["tournament", "roulette", "truncation", "rank"])
                    .help("how parents are chosen"),
                Knob::whole("tournament_size", 1..=1000, 3)
                    .unit("candidates")
                    .only_with("selection", &["tournament"])
                    .help("of a selection by tournament: the best of this many is a parent"),
                Knob::real("truncation_share", 0.01..=1.0, 0.3)
                    .only_with("selection", &["truncation"])
                    .help("of a selection by truncation: parents are the best of this share"),
                Knob::real("rank_pressure", 1.0..=2.0, 1.7)
                    .only_with("selection", &["rank"])
                    .help("of a selection by rank: the best is a parent this many times as often as an average one"),
                Knob::choice("crossover", &["uniform", "one-point", "blend", "none"])
                    .help("how two parents make a child"),
                share("crossover_rate", 0.7, "share of the children that have two parents")
                    .only_with("crossover", &["uniform", "one-point", "blend"]),
                Knob::real("blend", 0.0..=2.0, 0.3)
                    .only_with("crossover", &["blend"])
                    .help("of a crossover by blending: how far a child may lie beyond its parents"),
                share(
                    "mutation_rate",
                    usual((3.0 / genes.max(1) as f64).clamp(0.05, 0.5), 0.2),
                    "probability that a gene is changed",
                ),
                Knob::real("mutation_strength", 0.0..=10.0, usual(0.2, 1.0))
                    .help("standard deviation of a change, as a share of the range, or of the usual size of a weight"),
                flag("adaptive", "whether each candidate has a mutation strength of its own, which is inherited"),
                Knob::whole("elites", 0..=100_000, 2).unit("candidates").help("the best that stay as they are"),
            ],
            Self::CmaEs => vec![
                population(4, CmaSettings::population_for(genes)),
                Knob::real("spread", 0.001..=10.0, usual(0.3, 1.0))
                    .help("standard deviation of a gene at first, as a share of its range"),
                Knob::choice(
                    "covariance",
                    if genes > MOST_FULL { &["diagonal", "full"] } else { &["full", "diagonal"] },
                )
                .help("which covariance is evolved; the whole one of many genes takes long"),
                flag("restarts", "whether it restarts with twice the population after it has converged"),
            ],
            Self::Nes => vec![
                population(2, 64),
                Knob::real("spread", 0.001..=10.0, usual(0.1, 0.5))
                    .help("standard deviation of a sample, as a share of the range of a gene"),
                Knob::real("rate", 0.0001..=10.0, usual(0.05, 0.2))
                    .help("step of the mean a generation, as a share of the range of a gene"),
            ],
            Self::Topology => vec![
                population(2, 150),
                flag("recurrent", "whether links may lead back, so that a network remembers"),
                share("add_node", 0.05, "probability that a child gets one more node"),
                share("add_link", 0.3, "probability that a child gets one more link"),
                share("mutation_rate", 0.8, "probability that the weights of a child are changed"),
                Knob::real("mutation_strength", 0.0..=10.0, 1.0)
                    .help("largest standard deviation of the change of a weight"),
                Knob::whole("species", 1..=1000, 12).unit("species").help("species that there should be, about"),
                Knob::real("pressure", 1.0..=8.0, 1.0)
                    .help("how many more children the best have: the power by which a rank counts"),
                Knob::real("weight_distance", 0.0..=10.0, 0.4)
                    .help("how far apart different weights set two networks, where a link that only one has counts 1"),
                flag("renew", "whether even the best give way where they do not become better: for worth without luck"),
            ],
            Self::MapElites => vec![
                population(1, 64),
                Knob::whole("first", 1..=1_000_000, 256)
                    .unit("candidates")
                    .help("candidates that are drawn at random at first"),
                Knob::real("mutation_strength", 0.0..=10.0, usual(0.1, 0.5))
                    .help("standard deviation of a change, as a share of the range"),
                Knob::real("line", 0.0..=2.0, 0.2)
                    .help("standard deviation of a step towards another elite, as a share of the way"),
                Knob::real("again", 0.0..=0.9, 0.5).help(
                    "share of the candidates that are elites which are tried again, since they may have been lucky",
                ),
            ],
        }
    }
}

impl Method {
    /// Candidates of its first generation.
    pub fn population(&self) -> u64 {
        let population = self.knobs.number("population") as u64;
        match self.name {
            // The mean beside the pairs.
            EvolutionName::Nes => population / 2 * 2 + 1,
            _ => population,
        }
    }

    /// Whether it changes anything at all from one generation to the next.
    pub(super) fn changes(&self) -> bool {
        let number = |name: &str| self.knobs.number(name);
        match self.name {
            EvolutionName::Genetic => {
                let crosses = self.knobs.word("crossover") != "none" && number("crossover_rate") > 0.0;
                crosses || (number("mutation_rate") > 0.0 && number("mutation_strength") > 0.0)
            }
            EvolutionName::Topology => {
                let weights = number("mutation_rate") > 0.0 && number("mutation_strength") > 0.0;
                weights || number("add_node") > 0.0 || number("add_link") > 0.0
            }
            EvolutionName::MapElites => number("mutation_strength") > 0.0 || number("line") > 0.0,
            EvolutionName::CmaEs | EvolutionName::Nes => true,
        }
    }

    fn is(&self, flag: &str) -> bool {
        self.knobs.word(flag) == TRUE
    }

    /// A search over this space, or over networks with these numbers of inputs and outputs, with this seed.
    pub(super) fn evolver(&self, space: Space, nodes: (usize, usize), seed: u64) -> Evolver {
        let number = |name: &str| self.knobs.number(name);
        let whole = |name: &str| number(name) as usize;
        match self.name {
            EvolutionName::Genetic => Evolver::Genetic(Genetic::new(space, self.genetic(), seed, &[])),
            EvolutionName::CmaEs => {
                let full = self.knobs.word("covariance") == "full";
                let settings = CmaSettings {
                    population: whole("population"),
                    spread: number("spread"),
                    covariance: if full { Covariance::Full } else { Covariance::Diagonal },
                    restarts: self.is("restarts"),
                };
                Evolver::CmaEs(Cma::new(space, settings, seed, None))
            }
            EvolutionName::Nes => {
                let population = whole("population") / 2 * 2;
                let settings = NesSettings { population, spread: number("spread"), rate: number("rate") };
                Evolver::Nes(Nes::new(space, settings, seed, None))
            }
            EvolutionName::Topology => {
                let settings = TopologySettings {
                    population: whole("population"),
                    inputs: nodes.0,
                    outputs: nodes.1,
                    recurrent: self.is("recurrent"),
                    add_node: number("add_node"),
                    add_link: number("add_link"),
                    mutation_rate: number("mutation_rate"),
                    mutation_strength: number("mutation_strength"),
                    species: whole("species"),
                    pressure: number("pressure"),
                    weight_distance: number("weight_distance"),
                    renew: self.is("renew"),
                };
                Evolver::Topology(Box::new(Topology::new(settings, seed)))
            }
            EvolutionName::MapElites => {
                let niches = [0, 1].map(|axis| self.niches.get(axis).map_or(1, |niche| niche.count));
                let settings = MapElitesSettings {
                    population: whole("population"),
                    niches,
                    first: whole("first"),
                    mutation_strength: number("mutation_strength"),
                    line: number("line"),
                    again: number("again"),
                };
                Evolver::MapElites(MapElites::new(space, settings, seed))
            }
        }
    }

    fn genetic(&self) -> GeneticSettings {
        let number = |name: &str| self.knobs.number(name);
        let crossover = match self.knobs.word("crossover") {
            "one-point" => Crossover::OnePoint,
            "blend" => Crossover::Blend(number("blend")),
            _ => Crossover::Uniform,
        };
        let crosses = self.knobs.word("crossover") != "none";
        GeneticSettings {
            population: number("population") as usize,
            selection: match self.knobs.word("selection") {
                "roulette" => Selection::Roulette,
                "truncation" => Selection::Truncation(number("truncation_share")),
                "rank" => Selection::Rank(number("rank_pressure")),
                _ => Selection::Tournament(number("tournament_size") as usize),
            },
            crossover,
            crossover_rate: if crosses { number("crossover_rate") } else { 0.0 },
            mutation_rate: number("mutation_rate"),
            mutation_strength: number("mutation_strength"),
            adaptive: self.is("adaptive"),
            elites: number("elites") as usize,
        }
    }
}
