//! From the draft of an evolution to the evolution: names looked up, defaults filled, all problems at once.

mod method;
mod subject;

use inkpot_core::{Registry, Wanted};
use inkpot_stats::Scale;

use self::method::method;
use self::subject::candidate;
use super::asked::{Evolve, Yardstick};
use super::draft::{EvolveDraft, RivalsDraft, TermDraft};
use super::{MethodName, Rivals, Term};
use crate::figure::{Figure, Side};
use crate::resolve::{Checker, Grounds, unknown};
use crate::{Draft, Entrant, EntrantDraft, Ground, Place, Problem};

const SEEDS: u64 = 3;
const MATCHES: u64 = 20_000;
const BLOCKS: u64 = 4;
const STAGNATION: u64 = 100;
const CURRENT: u64 = 2;
const PAST: u64 = 4;
const HALL_OF_FAME: u64 = 50;
const EVERY: u64 = 10;
const LOOK: u64 = 100;
const PROOF: u64 = 1_000;
/// The same where every niche of a map is proved.
const MAP_PROOF: u64 = 200;
const MOST: u64 = 1_000_000_000;

/// Checks the draft of an evolution against the registry. Errs with everything that is wrong with it.
pub fn resolve_evolve(draft: &EvolveDraft, registry: &Registry) -> Result<Evolve, Vec<Problem>> {
    let mut checker = Checker::at(&draft.game, registry)?;
    let grounds = Grounds {
        level: draft.level.as_ref(),
        rules: &draft.rules,
        seed: draft.seed,
        series: None,
        confidence: draft.confidence,
    };
    let ground = checker.ground(&grounds);
    let opponents = opponents(&mut checker, &draft.opponents, &"opponent".into());
    let rivals = draft.rivals.map(|asked| rivals(&mut checker, asked, draft.method.name.as_deref()));
    let alone = opponents.is_empty() && rivals.is_none();
    seats(&mut checker, alone);
    let candidate = candidate(&mut checker, draft, &ground);
    let method = method(&mut checker, draft, candidate.as_ref());
    let terms = terms(&mut checker, &draft.terms);
    let yardstick = yardstick(&mut checker, draft, &ground, &opponents, alone);
    let mut count = |key: &str, value: Option<u64>, default: u64, least: u64| {
        whole(&mut checker, &Place::default(), key, value.unwrap_or(default), least)
    };
    let (seeds, blocks) = (count("seeds", draft.seeds, SEEDS, 1), count("blocks", draft.blocks, BLOCKS, 1));
    let (matches, stagnation) =
        (count("matches", draft.matches, MATCHES, 1), count("stagnation", draft.stagnation, STAGNATION, 2));
    let usual = if method.as_ref().is_some_and(|own| own.name == MethodName::MapElites) { MAP_PROOF } else { PROOF };
    let proof = count("proof", draft.proof, usual, 40);
    let (Some(candidate), Some(method), Some(yardstick)) = (candidate, method, yardstick) else {
        return Err(checker.found());
    };
    let evolve = Evolve {
        ground,
        candidate,
        method,
        in_turn: draft.in_turn.unwrap_or(false),
        terms,
        opponents,
        rivals,
        blocks,
        fresh_blocks: draft.fresh_blocks.unwrap_or(true),
        seeds,
        matches,
        stagnation,
        yardstick,
        proof,
    };
    together(&mut checker, &evolve);
    let problems = checker.found();
    if problems.is_empty() { Ok(evolve) } else { Err(problems) }
}

/// A whole number of at least this; told where it is not.
fn whole(checker: &mut Checker, at: &Place, key: &str, value: u64, least: u64) -> u64 {
    if !(least..=MOST).contains(&value) {
        let help = format!("it must be a whole number from {least} to {MOST}");
        checker.problem(at.key(key), format!("`{key}` cannot be {value}"), help);
    }
    value
}

/// Who is named in this list of the brief.
fn opponents(checker: &mut Checker, asked: &[EntrantDraft], list: &Place) -> Vec<Entrant> {
    let draft = Draft { entrants: asked.to_vec(), ..Draft::default() };
    let before = checker.count();
    let found = checker.entrants(&draft);
    checker.move_since(before, |place| {
        let index = place.item_of("entrant")?;
        Some(place.moved(&Place::item("entrant", index), &list.at(index)))
    });
    found
}

/// How candidates learn against each other.
fn rivals(checker: &mut Checker, asked: RivalsDraft, method: Option<&str>) -> Rivals {
    let at = Place::from("rivals");
    let mut count = |key: &str, value: Option<u64>, default: u64, least: u64| {
        whole(checker, &at, key, value.unwrap_or(default), least)
    };
    let found = Rivals {
        populations: count("populations", asked.populations, 1, 1),
        current: count("current", asked.current, CURRENT, 1),
        past: count("past", asked.past, PAST, 0),
        hall_of_fame: count("hall_of_fame", asked.hall_of_fame, HALL_OF_FAME, 2),
    };
    if found.populations > 2 {
        let what = format!("`populations` cannot be {}", found.populations);
        checker.problem(at.key("populations"), what, "it must be 1 or 2");
    }
    if method == Some(MethodName::MapElites.name()) {
        let help = "choose another method, or name every [[opponent]]";
        checker.problem(&at, "a map of elites cannot compare candidates that met different rivals", help);
    }
    found
}

/// Whether the game can be played by one alone, or by two.
fn seats(checker: &mut Checker, alone: bool) {
    let (fewest, most, game) = (checker.fewest_seats(), checker.most_seats(), checker.game().sheet().name.clone());
    let seats = if alone { 1 } else { 2 };
    if seats < fewest && fewest == 2 {
        let help = format!(
            "add [[opponent]] with an `agent`, or [rivals]; `inkpot agents {game}` shows what agents there are"
        );
        checker.problem("", format!("`{game}` has two seats, and there is no opponent"), help);
    } else if seats < fewest || seats > most {
        let what = format!("`{game}` has {fewest} to {most} seats, and candidates play alone or against one");
        checker.problem("game", what, "choose a game of one seat or two");
    }
}

fn terms(checker: &mut Checker, asked: &[TermDraft]) -> Vec<Term> {
    if asked.is_empty() {
        checker.problem(
            "term",
            "there is no term: nothing says what a candidate is worth",
            "add [[term]] with a `figure`",
        );
    }
    let sheet = checker.game().sheet();
    let mut found: Vec<Term> = Vec::new();
    for (place, own) in asked.iter().enumerate() {
        let at = Place::item("term", place);
        let of = match Figure::find(&own.figure, Side::Player, sheet) {
            Ok(of) => of,
            Err(known) => {
                checker.report(unknown(&at.key("figure"), "figure", &own.figure, &known));
                continue;
            }
        };
        let weight = own.weight.unwrap_or(1.0);
        if weight == 0.0 {
            checker.problem(
                at.key("weight"),
                "a term with a weight of 0 does not count",
                "leave the term out, or give it a weight",
            );
        }
        if found.iter().any(|other| other.figure == own.figure) {
            checker.problem(at.key("figure"), format!("`{}` is a term twice", own.figure), "leave one of the two out");
        }
        found.push(Term { figure: own.figure.clone(), weight, missing: own.missing, of });
    }
    found
}

fn yardstick(
    checker: &mut Checker,
    draft: &EvolveDraft,
    ground: &Ground,
    opponents: &[Entrant],
    alone: bool,
) -> Option<Yardstick> {
    let (asked, at, game) = (&draft.yardstick, Place::from("yardstick"), checker.game());
    let level = match &asked.level {
        Some(level) => checker.resolved_level(&at.key("level"), level)?,
        None => ground.level.clone(),
    };
    let rules = asked.rules.over(&draft.rules);
    let rules = checker.knobs(&at.key("rules"), &rules, &game.sheet().rules);
    let own = if asked.opponents.is_empty() {
        if opponents.is_empty() && !alone {
            checker.problem(
                &at,
                "rivals change from generation to generation, and what they are looked at by must not",
                "add [[yardstick.opponent]] with an `agent`",
            );
        }
        opponents.to_vec()
    } else {
        if alone {
            checker.problem(
                at.key("opponent"),
                "candidates play alone, and so must they on the yardstick",
                "leave the opponents out",
            );
        }
        self::opponents(checker, &asked.opponents, &at.key("opponent"))
    };
    let success = game.sheet().measures.iter().find(|measure| measure.success).map(|measure| measure.name.clone());
    let usual = if alone && checker.fewest_seats() == 1 { success } else { Some("win_rate".into()) };
    let Some(figure) = asked.figure.clone().or(usual) else {
        checker.problem(&at, "nothing says what it is looked at by", "add [yardstick] with a `figure`");
        return None;
    };
    let of = match Figure::find(&figure, Side::Player, game.sheet()) {
        Ok(of) => of,
        Err(known) => {
            checker.report(unknown(&at.key("figure"), "figure", &figure, &known));
            return None;
        }
    };
    let every = whole(checker, &at, "every", asked.every.unwrap_or(EVERY), 1);
    let matches = whole(checker, &at, "matches", asked.matches.unwrap_or(LOOK), 1);
    let measures = &game.sheet().measures;
    let less = measures.iter().any(|measure| measure.name == figure && measure.wanted == Wanted::Less);
    let is_share = of.scale(game.sheet()) == Scale::Share;
    Some(Yardstick { level, rules, opponents: own, figure, target: asked.target, every, matches, of, less, is_share })
}

/// What fits together only as a whole.
fn together(checker: &mut Checker, evolve: &Evolve) {
    let a_generation = evolve.matches_a_generation();
    if evolve.matches < 2 * a_generation {
        let what = format!("{} matches are fewer than two generations of {a_generation}", evolve.matches);
        checker.problem(
            "matches",
            what,
            format!("allow at least {}, or play fewer blocks with fewer candidates", 2 * a_generation),
        );
    }
    if evolve.in_turn && evolve.terms.len() < 2 {
        checker.problem(
            "in_turn",
            "there is one term only, and nothing to compare in turn",
            "add another [[term]], or leave `in_turn` out",
        );
    }
    if checker.count() == 0 {
        checker.stage_all(&super::EvolveProof::samples(evolve, checker.game()));
    }
}
