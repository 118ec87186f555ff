//! Resolves the draft of an aim: names looked up, defaults filled, all problems at once.

mod subject;

use inkpot_core::{Level, Wanted};
use inkpot_stats::Scale;

use super::aim::{Aim, Yardstick};
use super::draft::{AimDraft, TermDraft};
use super::method::{MethodFamily, MethodName};
use super::term::{Pays, Term};
use crate::checker::{Checker, Grounds, unknown};
use crate::figure::{Figure, Side};
use crate::{Draft, Entrant, EntrantDraft, Ground, Place};

const SEEDS: u64 = 3;
const MOST_SEEDS: u64 = 1_000;
const LOOK: u64 = 100;
const PROOF: u64 = 1_000;
const MOST: u64 = 1_000_000_000;

/// The parts of an aim that depend on the method.
pub(crate) struct Way {
    /// The family of its methods.
    pub(crate) family: MethodFamily,
    /// Whether candidates learn against each other.
    pub(crate) each_other: bool,
    /// Matches of the proof where nothing is said.
    pub(crate) proof: Option<u64>,
    /// Generations, or decisions, from one look to the next where nothing is said.
    pub(crate) every: u64,
}

/// The aim; none where nothing can be said of it. All that is wrong with it is reported.
pub(crate) fn resolve_aim(checker: &mut Checker, draft: &AimDraft, way: &Way) -> Option<Aim> {
    let grounds = Grounds {
        level: draft.level.as_ref(),
        rules: &draft.rules,
        seed: draft.seed,
        series: None,
        confidence: draft.confidence,
    };
    let ground = checker.ground(&grounds);
    let opponents = opponents(checker, &draft.opponents, &"opponent".into());
    let alone = opponents.is_empty() && !way.each_other;
    seats(checker, alone);
    let method = method_name(checker, draft, way.family);
    let candidate = subject::candidate(checker, draft, method, &ground);
    let terms = terms(checker, &draft.terms, way.family);
    let yardstick = yardstick(checker, draft, &ground, &opponents, way);
    let seeds = whole(checker, &Place::default(), "seeds", draft.seeds.unwrap_or(SEEDS), 1);
    if seeds > MOST_SEEDS {
        let help = format!("it must be a whole number from 1 to {MOST_SEEDS}");
        checker.problem("seeds", format!("`seeds` cannot be {seeds}"), help);
    }
    let usual = way.proof.unwrap_or(PROOF);
    let proof = whole(checker, &Place::default(), "proof", draft.proof.unwrap_or(usual), 40);
    let in_turn = draft.in_turn.unwrap_or(false);
    if in_turn && terms.len() < 2 {
        checker.problem(
            "in_turn",
            "there is one term only, and nothing to compare in turn",
            "add another [[term]], or leave `in_turn` out",
        );
    }
    method?;
    let chance = Some(Aim::root_of(ground.seed, way.family));
    Some(Aim { ground, candidate: candidate?, terms, in_turn, opponents, seeds, yardstick: yardstick?, proof, chance })
}

/// The method that is asked for, one of this kind of study; none where there is none of this name.
fn method_name(checker: &mut Checker, draft: &AimDraft, family: MethodFamily) -> Option<MethodName> {
    let known = family.methods();
    let usual = known.first()?;
    let word = draft.method.name.as_deref().unwrap_or(usual.name());
    let found = known.iter().copied().find(|method| method.name() == word);
    if found.is_none() {
        let at = Place::from("method").key("name");
        if family.other().methods().iter().any(|other| other.name() == word) {
            let (verb, other) = (family.verb(), family.other().verb());
            let help = format!(
                "use kind = \"{other}\", or one of: {}",
                known.iter().map(|method| method.name()).collect::<Vec<_>>().join(", ")
            );
            checker.problem(at, format!("`{word}` is a method of {other}, and this is kind = \"{verb}\""), help);
        } else {
            let names: Vec<String> = known.iter().map(|method| method.name().into()).collect();
            checker.report(unknown(&at, "method", word, &names));
        }
    }
    found
}

/// A whole number of at least this; told where it is not.
pub(crate) fn whole(checker: &mut Checker, at: &Place, key: &str, value: u64, least: u64) -> u64 {
    if !(least..=MOST).contains(&value) {
        let help = format!("it must be a whole number from {least} to {MOST}");
        checker.problem(at.key(key), format!("`{key}` cannot be {value}"), help);
    }
    value
}

/// Resolves the opponents in this list of the brief.
pub(crate) fn opponents(checker: &mut Checker, drafts: &[EntrantDraft], list: &Place) -> Vec<Entrant> {
    let draft = Draft { entrants: drafts.to_vec(), ..Draft::default() };
    let before = checker.count();
    let found = checker.entrants(&draft);
    checker.move_since(before, |place| {
        let index = place.item_of("entrant")?;
        Some(place.moved(&Place::item("entrant", index), &list.at(index)))
    });
    found
}

/// Whether the game can be played by one alone, or by two.
fn seats(checker: &mut Checker, alone: bool) {
    let ((fewest, most), game) = (checker.seat_range(), checker.game().sheet().name.clone());
    let seats = if alone { 1 } else { 2 };
    if seats < fewest && fewest == 2 {
        let help = format!("add [[opponent]] with an `agent`, or [rivals]; agents: {}", checker.agent_names());
        checker.problem("", format!("`{game}` has two seats, and there is no opponent"), help);
    } else if seats < fewest || seats > most {
        let what = format!("`{game}` has {fewest} to {most} seats, and candidates play alone or against one");
        checker.problem("game", what, "choose a game of one seat or two");
    }
}

fn terms(checker: &mut Checker, drafts: &[TermDraft], family: MethodFamily) -> Vec<Term> {
    if drafts.is_empty() {
        checker.problem("term", "there is no term, so candidates have no fitness", "add [[term]] with a `figure`");
    }
    let sheet = checker.game().sheet();
    let mut found: Vec<Term> = Vec::new();
    for (place, term) in drafts.iter().enumerate() {
        let at = Place::item("term", place);
        let of = match Figure::find(&term.figure, Side::Player, sheet) {
            Ok(of) => of,
            Err(known) => {
                checker.report(unknown(&at.key("figure"), "figure", &term.figure, &known));
                continue;
            }
        };
        let weight = term.weight.unwrap_or(1.0);
        if weight == 0.0 {
            checker.problem(
                at.key("weight"),
                "a term with a weight of 0 does not count",
                "leave the term out, or give it a weight",
            );
        }
        if found.iter().any(|other| other.figure == term.figure) {
            checker.problem(at.key("figure"), format!("`{}` is a term twice", term.figure), "leave one of the two out");
        }
        let pays = pays(checker, term, of, &at, family);
        found.push(Term { figure: term.figure.clone(), weight, missing: term.missing, pays, of });
    }
    found
}

/// Returns the default time of a term's pay: shares of matches at the end, other figures as they change.
fn pays(checker: &mut Checker, term: &TermDraft, of: Figure, at: &Place, family: MethodFamily) -> Pays {
    let usual = if of.is_rate() { Pays::End } else { Pays::Change };
    let Some(word) = term.pays.as_deref() else { return usual };
    let at = at.key("pays");
    if family != MethodFamily::Training {
        checker.problem(&at, "`pays` says nothing in an evolution", "leave it out: only a training has it");
        return usual;
    }
    let found = Pays::ALL.into_iter().find(|way| way.name() == word);
    found.unwrap_or_else(|| {
        checker.report(unknown(&at, "way to pay", word, &Pays::ALL.map(|way| way.name().to_string())));
        usual
    })
}

fn yardstick(
    checker: &mut Checker,
    draft: &AimDraft,
    ground: &Ground,
    opponents: &[Entrant],
    way: &Way,
) -> Option<Yardstick> {
    let alone = opponents.is_empty() && !way.each_other;
    let (yardstick, at, game) = (&draft.yardstick, Place::from("yardstick"), checker.game());
    let level = match &yardstick.level {
        Some(level) => checker.resolved_level(&at.key("level"), level)?,
        None => ground.level.clone(),
    };
    let rules = yardstick.rules.over(&draft.rules);
    let rules = checker.knobs(&at.key("rules"), &rules, &game.sheet().rules);
    let met = if yardstick.opponents.is_empty() {
        if opponents.is_empty() && !alone {
            checker.problem(
                &at,
                "rivals change while they learn, and what they are looked at by must not",
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
        self::opponents(checker, &yardstick.opponents, &at.key("opponent"))
    };
    let success = game.sheet().measures.iter().find(|measure| measure.success).map(|measure| measure.name.clone());
    let usual = if alone && checker.seat_range().0 == 1 { success } else { Some("win_rate".into()) };
    let Some(figure) = yardstick.figure.clone().or(usual) else {
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
    let each = yardstick.held_back.iter().enumerate();
    let resolved = each.map(|(place, level)| checker.resolved_level(&at.key("held_back").at(place), level));
    let held_back: Vec<Option<Level>> = resolved.collect();
    let held_back: Vec<Level> = held_back.into_iter().collect::<Option<_>>()?;
    if held_back.contains(&level) || held_back.contains(&ground.level) {
        checker.problem(
            at.key("held_back"),
            "a level that is learned or looked at on cannot be held back",
            "name other levels, or other settings of their generator, as in \"waters:seed=2\"",
        );
    }
    let every = whole(checker, &at, "every", yardstick.every.unwrap_or(way.every), 1);
    let matches = whole(checker, &at, "matches", yardstick.matches.unwrap_or(LOOK), 1);
    let measures = &game.sheet().measures;
    let less = measures.iter().any(|measure| measure.name == figure && measure.wanted == Wanted::Less);
    let is_share = of.scale(game.sheet()) == Scale::Share;
    let target = yardstick.target;
    if let Some(value) = target.filter(|value| is_share && !(0.0..=1.0).contains(value)) {
        let help = format!("write it as a share from 0 to 1, {} for {value} %", value / 100.0);
        checker.problem(at.key("target"), format!("`{figure}` is a share, and {value} is none"), help);
    }
    if is_share && target == Some(if less { 0.0 } else { 1.0 }) {
        let (never, help) = if less { ("never", "0.05") } else { ("always", "0.95") };
        let what =
            format!("no number of matches shows that `{figure}` holds {never}, so no search would reach this target");
        checker.problem(at.key("target"), what, format!("ask for a share that can be shown, as in target = {help}"));
    }
    Some(Yardstick { level, rules, opponents: met, held_back, figure, target, every, matches, of, less, is_share })
}
