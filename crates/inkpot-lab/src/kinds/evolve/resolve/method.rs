//! Looks up and checks the method.

use inkpot_learn::Space;

use super::super::draft::{EvolveDraft, NicheDraft};
use super::super::method::Method;
use crate::checker::{Checker, unknown};
use crate::figure::{Figure, Side};
use crate::kinds::found::{Candidate, EvolutionName, Niche, Shape};
use crate::{FreeRange, Place};

/// Niches of a measure, where nothing is said.
const NICHES: u64 = 12;

/// The method; none where nothing can be said of it.
pub(super) fn method(checker: &mut Checker, draft: &EvolveDraft, candidate: Option<&Candidate>) -> Option<Method> {
    let at = Place::from("method");
    // A name that is none is reported with the aim.
    let word = draft.aim.method.name.as_deref().unwrap_or(EvolutionName::Genetic.name());
    let name = EvolutionName::ALL.into_iter().find(|name| name.name() == word)?;
    let sheet = name.knobs(&candidate.map_or_else(|| Space(Vec::new()), Candidate::space));
    let before = checker.count();
    let knobs = checker.knobs(&at, &draft.aim.method.knobs, &sheet);
    if checker.count() > before {
        return None;
    }
    let niches = niches(checker, name, &draft.niches);
    let method = Method { name, knobs, niches };
    if !method.changes() {
        let help = "give a `mutation_rate` and a `mutation_strength` above 0, or a crossover";
        checker.problem(&at, "with neither mutation nor crossover nothing ever changes", help);
    }
    if name == EvolutionName::Genetic {
        let (elites, population) = (method.knobs.number("elites"), method.knobs.number("population"));
        if elites >= population {
            let help = format!("it must be a whole number from 0 to {}", population - 1.0);
            checker.problem(
                at.key("elites"),
                format!("{elites} elites leave no room in a population of {population}"),
                help,
            );
        }
        if method.knobs.word("selection") == "roulette" && draft.aim.in_turn == Some(true) {
            let help = "choose selection = \"tournament\", or leave `in_turn` out";
            checker.problem(
                at.key("selection"),
                "a roulette needs a fitness of one number, and `in_turn` gives several",
                help,
            );
        }
    }
    let choices = candidate.is_some_and(|candidate| match &candidate.shape {
        Shape::Knobs { free, .. } => free.iter().any(|free| matches!(free.range, FreeRange::Words(_))),
        _ => false,
    });
    if choices && matches!(name, EvolutionName::CmaEs | EvolutionName::Nes) {
        let help = "set the choice in [subject], or use genetic or map-elites";
        checker.problem(at.key("name"), format!("{word} searches numbers, and a free knob is a choice"), help);
    }
    Some(method)
}

fn niches(checker: &mut Checker, name: EvolutionName, drafts: &[NicheDraft]) -> Vec<Niche> {
    let needed = if name == EvolutionName::MapElites { 2 } else { 0 };
    if drafts.len() != needed {
        let (what, help) = if needed == 2 {
            ("map-elites keeps elites apart by two measures", "add two [[niche]] with `measure`, `from` and `to`")
        } else {
            ("only map-elites has niches", "use name = \"map-elites\", or leave [[niche]] out")
        };
        checker.problem("niche", what, help);
        return Vec::new();
    }
    let mut found = Vec::new();
    for (place, knob) in drafts.iter().enumerate() {
        let at = Place::item("niche", place);
        let of = match Figure::find(&knob.measure, Side::Player, checker.game().sheet()) {
            Ok(of) => of,
            Err(known) => {
                checker.report(unknown(&at.key("measure"), "figure", &knob.measure, &known));
                continue;
            }
        };
        let (Some(low), Some(high)) = (knob.low, knob.high) else {
            checker.problem(
                &at,
                format!("the range of `{}` is not given", knob.measure),
                "give `from` and `to`, the first below the second",
            );
            continue;
        };
        let count = knob.count.unwrap_or(NICHES);
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
        found.push(Niche { measure: knob.measure.clone(), low, high, count: count.clamp(2, 200) as usize, of });
    }
    found
}
