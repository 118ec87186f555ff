//! The proof of an evolution: the champion of every repetition on blocks that no search saw.

use inkpot_core::{GameEntry, Knobs, Registry, Rows, Setting};
use serde::{Deserialize, Serialize};

use super::asked::Evolve;
use super::map::named;
use super::repetition::Repetition;
use super::{MapFound, SearchFound, Term, notes};
use crate::figure::Figure;
use crate::figure_tally::{FigureTally, Weighted};
use crate::kinds::{Finding, Kind, Reading, Seeks, Sums};
use crate::resolve::Checker;
use crate::searching::FIRST_PROOF_BLOCK;
use crate::{Cell, Design, Draft, EntrantDraft, Plan, Problem, Summary, resolve as resolve_study};

/// What a plan proves of an evolution.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct EvolveProof {
    /// What the search came to, before it was proved.
    search: SearchFound,
    terms: Vec<Term>,
    in_turn: bool,
    /// The yardstick's figure.
    of: Figure,
    /// Whether less of it is wanted.
    #[serde(default)]
    less: bool,
    /// Matches that what was seen of a champion is of.
    #[serde(default)]
    seen_matches: u64,
    /// Opponents of each champion.
    opponents: usize,
    /// The map of the champion's repetition, if it has one.
    #[serde(default)]
    map: Option<MapFound>,
    /// Figures of the measures over which its niches lie.
    #[serde(default)]
    map_of: Vec<Figure>,
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
    /// The niches of a map of elites, with what was proved of the elite of each.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub map: Option<MapFound>,
}

impl EvolveProof {
    /// The elites of the map that is proved with the champions; none of other methods.
    pub fn map(&self) -> Option<&MapFound> {
        self.map.as_ref()
    }

    /// The figure by which champions are proved.
    pub fn figure(&self) -> &str {
        &self.search.figure
    }

    /// Whether that is a share of matches.
    pub fn is_share(&self) -> bool {
        self.search.is_share
    }

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
        let nothing = || vec![Problem::new("", "nothing was found", "")];
        let search = SearchFound::of(evolve, repetitions).ok_or_else(nothing)?;
        let best = search.seeds.iter().position(|own| own.seed == search.champion_seed).ok_or_else(nothing)?;
        let (map, elites) = MapFound::of(evolve, repetitions, best).unzip();
        let entrant = |name: String, knobs: Knobs| EntrantDraft {
            name: Some(name),
            agent: evolve.candidate.agent.clone(),
            knobs,
            vary: Vec::new(),
        };
        // Files are called after the repetition, so that they can lie side by side.
        let champions = search.seeds.iter().zip(repetitions).map(|(found, own)| {
            let weights = format!("champion-{}.safetensors", found.seed);
            let genome = &own.looks.champion_or_last().pick.genome;
            entrant(format!("seed {}", found.seed), named(&evolve.candidate.turned(genome), &weights))
        });
        let niches = map.iter().flat_map(|map| &map.niches);
        let elites = niches.zip(elites.into_iter().flatten()).map(|(niche, knobs)| entrant(niche.name(), knobs));
        let own: Vec<EntrantDraft> = champions.chain(elites).collect();
        let count = own.len();
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
            entrants: own.into_iter().chain(others).collect(),
            ..Draft::default()
        };
        let mut plan = resolve_study(&draft, registry)?;
        let opponents = evolve.yardstick.opponents.len();
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
        plan.design = Design::Evolve(Box::new(Self {
            search,
            terms: evolve.terms.clone(),
            in_turn: evolve.in_turn,
            of: evolve.yardstick.of,
            less: evolve.yardstick.less,
            seen_matches: evolve.matches_a_candidate(0),
            opponents,
            map,
            map_of: evolve.method.niches.iter().map(|niche| niche.of).collect(),
            agent: evolve.candidate.agent.clone(),
            given: plan.entrants[best].given.without_bytes(),
        }));
        Ok(plan)
    }
}

impl Kind for EvolveProof {
    /// A proof is laid out with its search.
    fn lay_out(&self, _plan: &mut Plan, _checker: &mut Checker) {}

    fn reading<'a>(&'a self, plan: &'a Plan, game: &'a dyn GameEntry) -> Box<dyn Reading + 'a> {
        let a_champion = self.opponents.max(1);
        let cells = (0..plan.cells.len()).map(|cell| Weighted { group: cell / a_champion, weight: 1.0 }).collect();
        let own: Vec<Option<Figure>> = self.terms.iter().map(|term| Some(term.of)).chain([Some(self.of)]).collect();
        let mut figures = vec![own; self.search.seeds.len()];
        let elite: Vec<Option<Figure>> =
            std::iter::once(self.of).chain(self.map_of.iter().copied()).map(Some).collect();
        figures.extend(self.map.iter().flat_map(|map| &map.niches).map(|_| elite.clone()));
        Box::new(EvolveReading { proof: self, tally: FigureTally::new(plan, cells, figures, game.sheet()) })
    }

    fn notes(&self, summary: &Summary, _plan: &Plan, _game: &dyn GameEntry) -> Vec<String> {
        let Finding::Evolve(found) = &summary.finding else { return Vec::new() };
        notes::of_proof(found, self.less, self.seen_matches)
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
        let mut map = self.proof.map.clone();
        for (place, niche) in map.iter_mut().flat_map(|map| &mut map.niches).enumerate() {
            let group = search.seeds.len() + place;
            niche.proved = self.tally.interval(group, 0);
            niche.measured = [1, 2].map(|figure| self.tally.interval(group, figure));
        }
        Finding::Evolve(EvolveFinding { search, map })
    }
}
