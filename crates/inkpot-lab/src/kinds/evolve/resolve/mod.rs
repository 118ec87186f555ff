//! From the draft of an evolution to the evolution: names looked up, defaults filled, all problems at once.

mod method;

use inkpot_core::Registry;

use self::method::method;
use super::asked::Evolve;
use super::asked::Rivals;
use super::draft::{EvolveDraft, RivalsDraft};
use crate::checker::Checker;
use crate::counts::{count, counted};
use crate::kinds::found::{EvolutionName, MethodFamily, Way, resolve_aim, whole};
use crate::{Place, Problem};

const MATCHES: u64 = 20_000;
pub(crate) const BLOCKS: u64 = 4;
/// Generations from one look at the yardstick to the next.
const EVERY: u64 = 10;
const STAGNATION: u64 = 100;
const CURRENT: u64 = 2;
const PAST: u64 = 4;
const HALL_OF_FAME: u64 = 50;
/// The most numbers that all populations of a search may hold, 2 GiB of them.
const MOST_NUMBERS: u128 = 1 << 28;
/// The same where every niche of a map is proved.
const MAP_PROOF: u64 = 200;

/// Checks the draft of an evolution against the registry. Errs with everything that is wrong with it.
pub fn resolve_evolve(draft: &EvolveDraft, registry: &Registry) -> Result<Evolve, Vec<Problem>> {
    let mut checker = Checker::at(&draft.aim.game, registry)?;
    let asked = draft.aim.method.name.as_deref();
    let rivals = draft.rivals.map(|asked_rivals| self::rivals(&mut checker, asked_rivals, asked));
    let way = Way {
        family: MethodFamily::Evolution,
        each_other: rivals.is_some(),
        every: EVERY,
        proof: (asked == Some(EvolutionName::MapElites.name())).then_some(MAP_PROOF),
    };
    let aim = resolve_aim(&mut checker, &draft.aim, &way);
    let method = method(&mut checker, draft, aim.as_ref().map(|aim| &aim.candidate));
    let mut count = |key: &str, value: Option<u64>, default: u64, least: u64| {
        whole(&mut checker, &Place::default(), key, value.unwrap_or(default), least)
    };
    let blocks = count("blocks", draft.blocks, BLOCKS, 1);
    let (matches, stagnation) =
        (count("matches", draft.matches, MATCHES, 1), count("stagnation", draft.stagnation, STAGNATION, 2));
    let (Some(aim), Some(method)) = (aim, method) else {
        return Err(checker.found());
    };
    let fresh_blocks = draft.fresh_blocks.unwrap_or(true);
    let evolve = Evolve { aim, method, rivals, blocks, fresh_blocks, matches, stagnation };
    together(&mut checker, &evolve);
    let problems = checker.found();
    if problems.is_empty() { Ok(evolve) } else { Err(problems) }
}

/// Resolves the rivals of candidates.
fn rivals(checker: &mut Checker, rivals: RivalsDraft, method: Option<&str>) -> Rivals {
    let at = Place::from("rivals");
    let mut count = |key: &str, value: Option<u64>, default: u64, least: u64| {
        whole(checker, &at, key, value.unwrap_or(default), least)
    };
    let found = Rivals {
        populations: count("populations", rivals.populations, 1, 1),
        current: count("current", rivals.current, CURRENT, 1),
        past: count("past", rivals.past, PAST, 0),
        hall_of_fame: count("hall_of_fame", rivals.hall_of_fame, HALL_OF_FAME, 2),
    };
    if found.populations > 2 {
        let what = format!("`populations` cannot be {}", found.populations);
        checker.problem(at.key("populations"), what, "it must be 1 or 2");
    }
    if method == Some(EvolutionName::MapElites.name()) {
        let help = "choose another method, or name every [[opponent]]";
        checker.problem(&at, "a map of elites cannot compare candidates that met different rivals", help);
    }
    found
}

/// Checks conditions over several keys.
fn together(checker: &mut Checker, evolve: &Evolve) {
    let a_generation = evolve.matches_a_generation();
    if evolve.matches < 2 * a_generation {
        let what = format!(
            "{} fewer than two generations of {}",
            counted(evolve.matches, "match is", "matches are"),
            count(a_generation)
        );
        checker.problem(
            "matches",
            what,
            format!("allow at least {}, or play fewer blocks with fewer candidates", count(2 * a_generation)),
        );
    }
    fits(checker, evolve);
    if checker.count() == 0 {
        checker.stage_all(&evolve.must_be_possible(checker.game()));
    }
}

/// Whether the populations of all repetitions fit into memory.
fn fits(checker: &mut Checker, evolve: &Evolve) {
    let genes = evolve.aim.candidate.space().len() as u128;
    let candidates = u128::from(evolve.method.population() * evolve.populations());
    // The covariance of CMA-ES has a number for each pair of genes.
    let pairs = if evolve.method.name == EvolutionName::CmaEs { genes * genes } else { 0 };
    let numbers = u128::from(evolve.aim.seeds) * (candidates * genes + pairs);
    if numbers > MOST_NUMBERS {
        let what = format!(
            "{} of {}, in {}, take {} GiB of memory",
            counted(candidates as u64, "candidate", "candidates"),
            counted(genes as u64, "gene", "genes"),
            counted(evolve.aim.seeds, "repetition", "repetitions"),
            (numbers * 8) >> 30
        );
        let help = "choose a smaller population, smaller layers or fewer `seeds`: 2 GiB are allowed";
        checker.problem(Place::from("method").key("population"), what, help);
    }
}
