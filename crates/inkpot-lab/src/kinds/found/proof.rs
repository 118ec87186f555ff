//! The proof of a search: the champion of every repetition on blocks that no search saw.

use inkpot_core::{GameEntry, Knobs, Registry, Rows};
use inkpot_learn::Genome;
use serde::{Deserialize, Serialize};

use super::aim::Aim;
use super::finding::SearchFinding;
use super::map::{MapFound, named};
use super::notes;
use super::report::SearchFound;
use super::term::Term;
use crate::checker::Checker;
use crate::figure::Figure;
use crate::figure_tally::{FigureTally, Weighted};
use crate::kind::{About, Finds, Kind, Reading, Sums};
use crate::kinds::batch::Batch;
use crate::searching::FIRST_PROOF_BLOCK;
use crate::{Cell, Draft, EntrantDraft, Plan, Problem};

/// The proof of a search, as a plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SearchProof {
    /// The result of the search, before its proof.
    search: SearchFound,
    terms: Vec<Term>,
    in_turn: bool,
    /// The yardstick's figure.
    of: Figure,
    /// Whether less of it is wanted.
    #[serde(default)]
    less: bool,
    /// Matches behind a champion's training figure.
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
    /// Knobs that are set, files by their names.
    pub given: Knobs,
}

impl SearchProof {
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

    /// The plan that proves these champions, one a repetition, with the elites of a map, if there is one.
    pub(crate) fn plan(
        aim: &Aim,
        search: SearchFound,
        champions: &[Genome],
        map: Option<(MapFound, Vec<Knobs>)>,
        measured: Measured,
        registry: &Registry,
    ) -> Result<(Plan, Self), Vec<Problem>> {
        let nothing = || vec![Problem::new("", "nothing was found", "")];
        let best = search.seeds.iter().position(|seed| seed.seed == search.champion_seed).ok_or_else(nothing)?;
        let (map, elites) = map.unzip();
        let entrant = |name: String, knobs: Knobs| EntrantDraft {
            name: Some(name),
            agent: aim.candidate.agent.clone(),
            knobs,
            vary: Vec::new(),
        };
        let label = if aim.chance.is_some() { "repetition" } else { "seed" };
        // Files are called after the repetition, so that they can lie side by side.
        let champions = search.seeds.iter().zip(champions).map(|(found, genome)| {
            let weights = format!("champion-{}.{}", found.seed, aim.candidate.ending());
            entrant(format!("{label} {}", found.seed), named(&aim.candidate.turned(genome), &weights))
        });
        let niches = map.iter().flat_map(|map| &map.niches);
        let elites = niches.zip(elites.into_iter().flatten()).map(|(niche, knobs)| entrant(niche.name(), knobs));
        let champions: Vec<EntrantDraft> = champions.chain(elites).collect();
        let count = champions.len();
        let others = aim.yardstick.opponents.iter().map(|other| EntrantDraft {
            name: Some(other.name.clone()),
            agent: other.agent.clone(),
            knobs: other.given.clone(),
            vary: Vec::new(),
        });
        let draft = Draft {
            game: aim.ground.game.clone(),
            level: Some(aim.yardstick.level.clone()),
            seed: Some(aim.ground.seed),
            seats: Some(aim.yardstick_seating().seats() as u64),
            matches: Some(aim.proof),
            confidence: Some(aim.ground.confidence),
            rules: aim.yardstick.rules.clone(),
            entrants: champions.into_iter().chain(others).collect(),
            ..Draft::default()
        };
        let mut plan = Batch::planned(&draft, registry)?;
        let opponents = aim.yardstick.opponents.len();
        plan.blocks = aim.proof_blocks();
        // Champions are compared as results of independent repetitions: each is proved on worlds of its own.
        let first_block = |place: usize| FIRST_PROOF_BLOCK + aim.chance.map_or(0, |_| place as u64 * plan.blocks);
        plan.cells = (0..count)
            .flat_map(|place| match opponents {
                0 => vec![Cell::of(vec![place], first_block(place))],
                _ => (0..opponents)
                    .map(|other| Cell {
                        pairing: other as u64,
                        ..Cell::of(vec![place, count + other], first_block(place))
                    })
                    .collect(),
            })
            .collect();
        plan.rounds = vec![plan.cells.len()];
        let proof = Self {
            search,
            terms: aim.terms.clone(),
            in_turn: aim.in_turn,
            of: aim.yardstick.of,
            less: aim.yardstick.less,
            seen_matches: measured.matches,
            opponents,
            map,
            map_of: measured.niches,
            agent: aim.candidate.agent.clone(),
            given: plan.entrants[best].given.without_bytes(),
        };
        Ok((plan, proof))
    }
}

/// The measured data of candidates in training.
pub(crate) struct Measured {
    /// Matches behind a champion's training figure.
    pub(crate) matches: u64,
    /// Figures of the measures over which a map lies.
    pub(crate) niches: Vec<Figure>,
}

impl Kind for SearchProof {
    /// A proof is laid out with its search.
    fn lay_out(&self, _plan: &mut Plan, _checker: &mut Checker) {}

    fn notes_one_sided(&self) -> bool {
        self.search.method.trains()
    }
}

impl Finds for SearchProof {
    type Finding = SearchFinding;

    fn reading<'a>(&'a self, plan: &'a Plan, game: &'a dyn GameEntry) -> Box<dyn Reading<SearchFinding> + 'a> {
        let a_champion = self.opponents.max(1);
        let cells = (0..plan.cells.len()).map(|cell| Weighted { group: cell / a_champion, weight: 1.0 }).collect();
        let columns: Vec<Option<Figure>> = self.terms.iter().map(|term| Some(term.of)).chain([Some(self.of)]).collect();
        let mut figures = vec![columns; self.search.seeds.len()];
        let elite: Vec<Option<Figure>> =
            std::iter::once(self.of).chain(self.map_of.iter().copied()).map(Some).collect();
        figures.extend(self.map.iter().flat_map(|map| &map.niches).map(|_| elite.clone()));
        Box::new(SearchReading {
            proof: self,
            confidence: plan.ground.confidence,
            tally: FigureTally::new(plan, cells, figures, game),
        })
    }

    fn notes(&self, found: &SearchFinding, about: &About) -> Vec<String> {
        notes::of_proof(found, self.seen_matches, about.plan.ground.confidence)
    }
}

/// The reading of the champions' rows.
struct SearchReading<'a> {
    proof: &'a SearchProof,
    confidence: f64,
    tally: FigureTally,
}

impl Reading<SearchFinding> for SearchReading<'_> {
    fn take(&mut self, rows: &Rows) {
        self.tally.take(rows);
    }

    fn finish(self: Box<Self>, _sums: &mut Sums) -> SearchFinding {
        let mut search = SearchFound { less: self.proof.less, ..self.proof.search.clone() };
        for (group, seed) in search.seeds.iter_mut().enumerate() {
            let count = seed.terms.len();
            for (place, term) in seed.terms.iter_mut().enumerate() {
                term.proved = self.tally.interval(group, place);
            }
            seed.proved = self.tally.interval(group, count);
        }
        search.over_repetitions = search.summed_up(self.confidence);
        let mut map = self.proof.map.clone();
        for (place, niche) in map.iter_mut().flat_map(|map| &mut map.niches).enumerate() {
            let group = search.seeds.len() + place;
            niche.proved = self.tally.interval(group, 0);
            niche.measured = [1, 2].map(|figure| self.tally.interval(group, figure));
        }
        SearchFinding { search, map }
    }
}
