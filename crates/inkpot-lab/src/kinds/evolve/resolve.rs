//! From the draft of an evolution to the evolution: names looked up, defaults filled, all problems at once.

use inkpot_core::{AgentSheet, Knob, Knobs, Registry, Wanted};
use inkpot_learn::{Activation, Dense, Space};
use inkpot_stats::Scale;

use super::asked::{Evolve, Yardstick};
use super::draft::{EvolveDraft, GeneDraft, NicheDraft, TermDraft};
use super::{Candidate, Method, MethodName, Niche, Shape, Term};
use crate::figure::{Figure, Side};
use crate::kinds::tune::free_range;
use crate::resolve::{Checker, Grounds, unknown};
use crate::{Across, Draft, Entrant, EntrantDraft, Free, FreeDraft, FreeRange, Ground, Place, Problem, find_agent};

const SEEDS: u64 = 3;
const MATCHES: u64 = 20_000;
const BLOCKS: u64 = 4;
const STAGNATION: u64 = 100;
const EVERY: u64 = 10;
const LOOK: u64 = 100;
const PROOF: u64 = 1_000;
const STEPS: u64 = 60;
const NICHES: u64 = 12;
const MOST: u64 = 1_000_000_000;
const MOST_WIDTH: f64 = 1024.0;
const MOST_WEIGHTS: usize = 1_000_000;

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
    seats(&mut checker, &opponents);
    let candidate = candidate(&mut checker, draft, &ground);
    let method = method(&mut checker, draft, candidate.as_ref());
    let terms = terms(&mut checker, &draft.terms);
    let yardstick = yardstick(&mut checker, draft, &ground, &opponents);
    let mut count = |key: &str, value: Option<u64>, default: u64, least: u64| {
        whole(&mut checker, &Place::default(), key, value.unwrap_or(default), least)
    };
    let (seeds, blocks) = (count("seeds", draft.seeds, SEEDS, 1), count("blocks", draft.blocks, BLOCKS, 1));
    let (matches, stagnation) =
        (count("matches", draft.matches, MATCHES, 1), count("stagnation", draft.stagnation, STAGNATION, 2));
    let proof = count("proof", draft.proof, PROOF, 40);
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

/// Whether the game can be played by one alone, or by two.
fn seats(checker: &mut Checker, opponents: &[Entrant]) {
    let (fewest, most, game) = (checker.fewest_seats(), checker.most_seats(), checker.game().sheet().name.clone());
    let seats = if opponents.is_empty() { 1 } else { 2 };
    if seats < fewest && fewest == 2 {
        let help = format!("add [[opponent]] with an `agent`; `inkpot agents {game}` shows what there is");
        checker.problem("", format!("`{game}` has two seats, and there is no opponent"), help);
    } else if seats < fewest || seats > most {
        let what = format!("`{game}` has {fewest} to {most} seats, and candidates play alone or against one");
        checker.problem("game", what, "choose a game of one seat or two");
    }
}

fn candidate(checker: &mut Checker, draft: &EvolveDraft, ground: &Ground) -> Option<Candidate> {
    let (game, asked) = (checker.game(), &draft.subject);
    let topology = draft.method.name.as_deref() == Some(MethodName::Topology.name());
    let at = Place::from("subject");
    let found = find_agent(game, &asked.agent);
    let features = game.features(&ground.rules);
    if let (None, "policy" | "tape") = (&found, asked.agent.as_str()) {
        let (own, name) = (&asked.agent, &game.sheet().name);
        let turns = if game.sheet().ticks_per_second.is_none() { ", a game of turns," } else { "" };
        let why = if own == "tape" {
            "a tape needs a game in real time with features"
        } else {
            "a network needs a game with features"
        };
        let help = format!("{why}; free the knobs of another agent by [[free]]");
        checker.problem(at.key("agent"), format!("`{name}`{turns} has no agent `{own}`"), help);
        return None;
    }
    let Some((sheet, preset)) = found else {
        let known: Vec<String> = game.agents().iter().map(|sheet| sheet.name.clone()).collect();
        checker.report(unknown(&at.key("agent"), "agent", &asked.agent, &known));
        return None;
    };
    let given = asked.knobs.layered(&preset, &sheet.knobs);
    let whole = ["policy", "tape"].contains(&sheet.name.as_str());
    for (key, there) in [("layers", asked.layers.is_some()), ("activation", asked.activation.is_some())] {
        if there && (sheet.name != "policy" || topology) {
            let what = format!("`{key}` says nothing here");
            checker.problem(
                at.key(key),
                what,
                "only a network of layers has it: agent = \"policy\", and another method than topology",
            );
        }
    }
    if asked.steps.is_some() && sheet.name != "tape" {
        checker.problem(at.key("steps"), "`steps` says nothing here", "only a tape has it: agent = \"tape\"");
    }
    if topology && sheet.name != "policy" {
        let help = "use it with agent = \"policy\", or choose another method";
        checker.problem("method.name", "topology evolves networks, and this subject is none", help);
        return None;
    }
    if whole && !draft.free.is_empty() {
        let what = format!("the agent `{}` is sought whole", sheet.name);
        checker.problem(Place::item("free", 0), what, "leave [[free]] out, or set the knob in [subject]");
    }
    checked_knobs(checker, &given, sheet, &draft.free);
    let shape = match (sheet.name.as_str(), features) {
        ("policy", Some(features)) if topology => Shape::Graph { features },
        ("policy", Some(features)) => {
            let layers = layers(checker, asked.layers.as_deref());
            let activation = activation(checker, asked.activation.as_deref());
            let ends = [features.observation.len(), features.actions.outputs()];
            let sizes: Vec<usize> = [ends[0]].into_iter().chain(layers.iter().copied()).chain([ends[1]]).collect();
            let weights = Dense::count(&sizes);
            if weights > MOST_WEIGHTS {
                let help = format!("make the layers smaller: at most {MOST_WEIGHTS} weights");
                checker.problem(at.key("layers"), format!("a network of {weights} weights is too large"), help);
            }
            Shape::Network { layers, activation, features }
        }
        ("tape", Some(features)) => {
            let steps = asked.steps.unwrap_or(STEPS);
            if !(1..=100_000).contains(&steps) {
                checker.problem(
                    at.key("steps"),
                    format!("`steps` cannot be {steps}"),
                    "it must be a whole number from 1 to 100000",
                );
            }
            Shape::Tape { steps: steps.clamp(1, 100_000) as usize, actions: features.actions }
        }
        _ => free_knobs(checker, &draft.free, sheet),
    };
    Some(Candidate { agent: asked.agent.clone(), kind: sheet.name.clone(), given, shape })
}

/// The knobs that are set: known, within their ranges, and not sought too.
fn checked_knobs(checker: &mut Checker, given: &Knobs, sheet: &AgentSheet, free: &[GeneDraft]) {
    let at = Place::from("subject").key("knobs");
    // What is sought need not be given: the file above all.
    let known: Vec<Knob> = sheet.knobs.iter().filter(|knob| !knob.must_be_given()).cloned().collect();
    checker.knobs(&at, given, &known);
    for (place, gene) in free.iter().enumerate() {
        if given.get(&gene.free.knob).is_some() {
            let what = format!("`{}` is both set and free", gene.free.knob);
            checker.problem(Place::item("free", place).key("knob"), what, "leave one of the two out");
        }
    }
}

fn free_knobs(checker: &mut Checker, asked: &[GeneDraft], sheet: &AgentSheet) -> Shape {
    let (mut free, mut log) = (Vec::new(), Vec::new());
    if asked.is_empty() {
        let names: Vec<&str> = sheet.knobs.iter().map(|knob| knob.name.as_str()).collect();
        let help = format!("add [[free]] with `knob`, `from` and `to`; available: {}", names.join(", "));
        checker.problem("free", "no knob is free", help);
    }
    for (place, gene) in asked.iter().enumerate() {
        let at = Place::item("free", place);
        let Some(knob) = sheet.knobs.iter().find(|knob| knob.name == gene.free.knob && !knob.must_be_given()) else {
            let known: Vec<String> = sheet.knobs.iter().map(|knob| knob.name.clone()).collect();
            checker.report(unknown(&at.key("knob"), "knob", &gene.free.knob, &known));
            continue;
        };
        if asked[..place].iter().any(|other| other.free.knob == gene.free.knob) {
            checker.problem(at.key("knob"), format!("`{}` is free twice", knob.name), "leave one of the two out");
        }
        let is_log = match gene.scale.as_deref() {
            None | Some("linear") => false,
            Some("log") => true,
            Some(other) => {
                checker.problem(
                    at.key("scale"),
                    format!("`scale` cannot be `{other}`"),
                    "it must be one of: linear, log",
                );
                false
            }
        };
        let FreeDraft { of, across, step, .. } = &gene.free;
        for (key, there) in [("of", of.is_some()), ("across", across.is_some()), ("step", step.is_some())] {
            if there {
                let what = format!("`{key}` says nothing in an evolution");
                checker.problem(at.key(key), what, "leave it out: only a tuning has it");
            }
        }
        let mut problems = Vec::new();
        let range = free_range(&mut problems, &at, &gene.free, knob);
        for problem in problems {
            checker.report(problem);
        }
        let Some(range) = range else { continue };
        if is_log && !matches!(range, FreeRange::Number { low, .. } if low > 0.0) {
            let help = "give a range above 0, or leave `scale` out";
            checker.problem(at.key("scale"), format!("`{}` has no logarithmic scale here", knob.name), help);
        }
        free.push(Free { of: Side::Player, knob: knob.name.clone(), range, across: Across::Any, step: None });
        log.push(is_log);
    }
    Shape::Knobs { free, log }
}

fn layers(checker: &mut Checker, asked: Option<&[f64]>) -> Vec<usize> {
    let asked = asked.unwrap_or(&[16.0]);
    let fine = |width: &f64| width.fract() == 0.0 && (1.0..=MOST_WIDTH).contains(width);
    if !asked.iter().all(fine) || asked.len() > 8 {
        let help = "it must be a list of up to 8 whole numbers from 1 to 1024, as in [32, 32]";
        checker.problem(Place::from("subject").key("layers"), "a network cannot have these layers", help);
        return vec![1];
    }
    asked.iter().map(|width| *width as usize).collect()
}

fn activation(checker: &mut Checker, asked: Option<&str>) -> Activation {
    let Some(word) = asked else { return Activation::Tanh };
    let found = Activation::ALL.into_iter().find(|own| own.name() == word);
    found.unwrap_or_else(|| {
        let at = Place::from("subject").key("activation");
        checker.problem(at, format!("`activation` cannot be `{word}`"), "it must be one of: tanh, relu");
        Activation::Tanh
    })
}

fn method(checker: &mut Checker, draft: &EvolveDraft, candidate: Option<&Candidate>) -> Option<Method> {
    let at = Place::from("method");
    let names = MethodName::ALL.map(MethodName::name);
    let word = draft.method.name.as_deref().unwrap_or(MethodName::Genetic.name());
    let Some(name) = MethodName::ALL.into_iter().find(|own| own.name() == word) else {
        checker.report(unknown(&at.key("name"), "method", word, &names.map(String::from)));
        return None;
    };
    let sheet = name.knobs(&candidate.map_or_else(|| Space(Vec::new()), Candidate::space));
    let before = checker.count();
    let knobs = checker.knobs(&at, &draft.method.knobs, &sheet);
    if checker.count() > before {
        return None;
    }
    let niches = niches(checker, name, &draft.niches);
    let method = Method { name, knobs, niches };
    if !method.changes() {
        let help = "give a `mutation_rate` and a `mutation_strength` above 0, or a crossover";
        checker.problem(&at, "with neither mutation nor crossover nothing ever changes", help);
    }
    if name == MethodName::Genetic {
        let (elites, population) = (method.knobs.number("elites"), method.knobs.number("population"));
        if elites >= population {
            let help = format!("it must be a whole number from 0 to {}", population - 1.0);
            checker.problem(
                at.key("elites"),
                format!("{elites} elites leave no room in a population of {population}"),
                help,
            );
        }
        if method.knobs.word("selection") == "roulette" && draft.in_turn == Some(true) {
            let help = "choose selection = \"tournament\", or leave `in_turn` out";
            checker.problem(
                at.key("selection"),
                "a roulette needs a fitness of one number, and `in_turn` gives several",
                help,
            );
        }
    }
    let choices = candidate.is_some_and(|own| match &own.shape {
        Shape::Knobs { free, .. } => free.iter().any(|free| matches!(free.range, FreeRange::Words(_))),
        _ => false,
    });
    if choices && matches!(name, MethodName::CmaEs | MethodName::Nes) {
        let help = "set the choice in [subject], or use genetic or map-elites";
        checker.problem(at.key("name"), format!("{word} searches numbers, and a free knob is a choice"), help);
    }
    Some(method)
}

fn niches(checker: &mut Checker, name: MethodName, asked: &[NicheDraft]) -> Vec<Niche> {
    let needed = if name == MethodName::MapElites { 2 } else { 0 };
    if asked.len() != needed {
        let (what, help) = if needed == 2 {
            ("map-elites keeps elites apart by two measures", "add two [[niche]] with `measure`, `from` and `to`")
        } else {
            ("only map-elites has niches", "use name = \"map-elites\", or leave [[niche]] out")
        };
        checker.problem("niche", what, help);
        return Vec::new();
    }
    let measures = &checker.game().sheet().measures;
    let mut found = Vec::new();
    for (place, own) in asked.iter().enumerate() {
        let at = Place::item("niche", place);
        let Some(index) = Niche::find(&own.measure, measures) else {
            let known: Vec<String> = measures.iter().map(|measure| measure.name.clone()).collect();
            checker.report(unknown(&at.key("measure"), "measure", &own.measure, &known));
            continue;
        };
        let (Some(low), Some(high)) = (own.low, own.high) else {
            checker.problem(
                &at,
                format!("the range of `{}` is not given", own.measure),
                "give `from` and `to`, the first below the second",
            );
            continue;
        };
        let count = own.count.unwrap_or(NICHES);
        if low >= high {
            checker.problem(&at, format!("`from` cannot be {low} and `to` {high}"), "give the lower end first");
        }
        if !(2..=200).contains(&count) {
            checker.problem(
                at.key("count"),
                format!("`count` cannot be {count}"),
                "it must be a whole number from 2 to 200",
            );
        }
        found.push(Niche { measure: own.measure.clone(), low, high, count: count.clamp(2, 200) as usize, index });
    }
    found
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
                "a weight of 0 makes a term of no account",
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

fn yardstick(checker: &mut Checker, draft: &EvolveDraft, ground: &Ground, opponents: &[Entrant]) -> Option<Yardstick> {
    let (asked, at, game) = (&draft.yardstick, Place::from("yardstick"), checker.game());
    let level = match &asked.level {
        Some(level) => checker.resolved_level(&at.key("level"), level)?,
        None => ground.level.clone(),
    };
    let rules = asked.rules.over(&draft.rules);
    let rules = checker.knobs(&at.key("rules"), &rules, &game.sheet().rules);
    let own = if asked.opponents.is_empty() {
        opponents.to_vec()
    } else {
        if opponents.is_empty() {
            checker.problem(
                at.key("opponent"),
                "candidates play alone, and so must they on the yardstick",
                "leave the opponents out",
            );
        }
        self::opponents(checker, &asked.opponents, &at.key("opponent"))
    };
    let success = game.sheet().measures.iter().find(|measure| measure.success).map(|measure| measure.name.clone());
    let alone = opponents.is_empty() && checker.fewest_seats() == 1;
    let usual = if alone { success } else { Some("win_rate".into()) };
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
