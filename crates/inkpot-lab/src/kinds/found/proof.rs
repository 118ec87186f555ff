//! The proof of a search: the champion of every repetition on blocks that no search saw.

use inkpot_core::{GameEntry, Knobs, Registry, Rows};
use inkpot_learn::Genome;
use serde::{Deserialize, Serialize};

use super::{Aim, SearchFound, Term, notes};
use crate::figure::Figure;
use crate::figure_tally::{FigureTally, Weighted};
use crate::kinds::evolve::{MapFound, named};
use crate::kinds::{Finding, Kind, Reading, Sums};
use crate::resolve::Checker;
use crate::searching::FIRST_PROOF_BLOCK;
use crate::{Cell, Design, Draft, EntrantDraft, Plan, Problem, StudyKind, Summary, resolve as resolve_study};

/// What a plan proves of a search.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SearchProof {
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

/// What a search found beside what every study does.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SearchFinding {
    /// The search, with what was proved.
    pub search: SearchFound,
    /// The niches of a map of elites, with what was proved of the elite of each.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub map: Option<MapFound>,
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
    pub(in crate::kinds) fn plan(
        aim: &Aim,
        search: SearchFound,
        champions: &[Genome],
        map: Option<(MapFound, Vec<Knobs>)>,
        seen: Measured,
        registry: &Registry,
    ) -> Result<Plan, Vec<Problem>> {
        let nothing = || vec![Problem::new("", "nothing was found", "")];
        let best = search.seeds.iter().position(|own| own.seed == search.champion_seed).ok_or_else(nothing)?;
        let (map, elites) = map.unzip();
        let entrant = |name: String, knobs: Knobs| EntrantDraft {
            name: Some(name),
            agent: aim.candidate.agent.clone(),
            knobs,
            vary: Vec::new(),
        };
        // Files are called after the repetition, so that they can lie side by side.
        let champions = search.seeds.iter().zip(champions).map(|(found, genome)| {
            let weights = format!("champion-{}.{}", found.seed, aim.candidate.ending());
            entrant(format!("seed {}", found.seed), named(&aim.candidate.turned(genome), &weights))
        });
        let niches = map.iter().flat_map(|map| &map.niches);
        let elites = niches.zip(elites.into_iter().flatten()).map(|(niche, knobs)| entrant(niche.name(), knobs));
        let own: Vec<EntrantDraft> = champions.chain(elites).collect();
        let count = own.len();
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
            matches: Some(aim.proof),
            confidence: Some(aim.ground.confidence),
            rules: aim.yardstick.rules.clone(),
            entrants: own.into_iter().chain(others).collect(),
            ..Draft::default()
        };
        let mut plan = resolve_study(&draft, registry)?;
        let opponents = aim.yardstick.opponents.len();
        plan.blocks = aim.proof_blocks();
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
        plan.design = Self {
            search,
            terms: aim.terms.clone(),
            in_turn: aim.in_turn,
            of: aim.yardstick.of,
            less: aim.yardstick.less,
            seen_matches: seen.matches,
            opponents,
            map,
            map_of: seen.niches,
            agent: aim.candidate.agent.clone(),
            given: plan.entrants[best].given.without_bytes(),
        }
        .design();
        Ok(plan)
    }
}

/// What was measured of candidates while they learned.
pub(in crate::kinds) struct Measured {
    /// Matches that what was seen of a champion is of.
    pub(in crate::kinds) matches: u64,
    /// Figures of the measures over which a map lies.
    pub(in crate::kinds) niches: Vec<Figure>,
}

impl SearchProof {
    fn design(self) -> Design {
        if self.search.method.kind() == StudyKind::Train {
            Design::Train(Box::new(self))
        } else {
            Design::Evolve(Box::new(self))
        }
    }
}

impl Kind for SearchProof {
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
        Box::new(SearchReading { proof: self, tally: FigureTally::new(plan, cells, figures, game.sheet()) })
    }

    fn notes(&self, summary: &Summary, _plan: &Plan, _game: &dyn GameEntry) -> Vec<String> {
        let (Finding::Evolve(found) | Finding::Train(found)) = &summary.finding else { return Vec::new() };
        notes::of_proof(found, self.less, self.seen_matches)
    }
}

/// What was measured of the champions, read off the rows.
struct SearchReading<'a> {
    proof: &'a SearchProof,
    tally: FigureTally,
}

impl Reading for SearchReading<'_> {
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
        let kind = search.method.kind();
        let found = SearchFinding { search, map };
        if kind == StudyKind::Train { Finding::Train(found) } else { Finding::Evolve(found) }
    }
}
