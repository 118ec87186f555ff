//! Looks up and checks the subject.

use inkpot_core::{AgentSheet, FeatureSheet, Knob, KnobValue, Knobs};
use inkpot_learn::{Activation, Dense};

use super::super::candidate::{Candidate, DECIDE_EVERY, Shape};
use super::super::draft::{AimDraft, GeneDraft, SubjectDraft};
use super::super::method::{EvolutionName, MethodName, TrainingName};
use crate::checker::{Checker, unknown};
use crate::figure::Side;
use crate::kinds::tune::free_range;
use crate::{Across, Free, FreeDraft, FreeRange, Ground, Place, find_agent};

/// The agents whose weights or actions are sought whole.
const POLICY: &str = "policy";
const TAPE: &str = "tape";
/// Steps of a tape, where nothing is said.
const STEPS: u64 = 60;
const MOST_STEPS: u64 = 100_000;
const MOST_WIDTH: f64 = 1024.0;
const MOST_WEIGHTS: usize = 1_000_000;

/// The candidate of a subject; none where nothing can be said of it.
pub(super) fn candidate(
    checker: &mut Checker,
    draft: &AimDraft,
    method: Option<MethodName>,
    ground: &Ground,
) -> Option<Candidate> {
    let (game, subject) = (checker.game(), &draft.subject);
    let topology = method == Some(MethodName::Evolution(EvolutionName::Topology));
    let trains = match method {
        Some(MethodName::Training(training)) => Some(training),
        _ => None,
    };
    let Some((sheet, preset)) = find_agent(game, &subject.agent) else {
        no_agent(checker, &subject.agent);
        return None;
    };
    let features = game.features(&ground.rules);
    let stated = subject.knobs.layered(&preset, &sheet.knobs);
    idle_keys(checker, subject, sheet, features.is_some() && !topology);
    if topology && sheet.name != POLICY {
        let help = "use it with agent = \"policy\", or choose another method";
        checker.problem(Place::from("method").key("name"), "topology evolves networks, and this subject is none", help);
        return None;
    }
    if [POLICY, TAPE].contains(&sheet.name.as_str()) && !draft.free.is_empty() {
        let what = format!("the agent `{}` is sought whole", sheet.name);
        checker.problem(Place::item("free", 0), what, "leave [[free]] out, or set the knob in [subject]");
    }
    checked_knobs(checker, &stated, sheet, &draft.free);
    if let Some(training) = trains {
        learnable(checker, training, &sheet.name, features.is_some())?;
    }
    let shape = match (sheet.name.as_str(), features) {
        (POLICY, _) if trains.is_some_and(TrainingName::learns_positions) => Shape::Table,
        (POLICY, Some(features)) if topology => Shape::Graph { features },
        (POLICY, None) => {
            let help = "a network needs a game with features; a table is learned by kind = \"train\"";
            let what = format!("`{}` has no features", checker.game().sheet().name);
            checker.problem(Place::from("subject").key("agent"), what, help);
            return None;
        }
        (POLICY, Some(features)) => network(checker, subject, features, trains.is_some()),
        (TAPE, Some(features)) => tape(checker, subject, features),
        _ => free_knobs(checker, &draft.free, sheet),
    };
    let mut given = stated;
    if let Shape::Network { features, .. } = &shape
        && trains.is_some()
        && given.get(DECIDE_EVERY).is_none()
        && sheet.knobs.iter().any(|knob| knob.name == DECIDE_EVERY)
    {
        given.set(DECIDE_EVERY, KnobValue::Number(usual_pace(features, game.sheet().ticks_per_second)));
    }
    Some(Candidate { agent: subject.agent.clone(), kind: sheet.name.clone(), given, shape })
}

/// Ticks from one decision to the next of an agent that learns, where nothing is said: those of the game's features, or
/// about ten decisions a second.
fn usual_pace(features: &FeatureSheet, ticks_per_second: Option<f64>) -> f64 {
    match features.tempo {
        Some(tempo) => tempo.decide_every.into(),
        None => ticks_per_second.map_or(1.0, |ticks| (ticks / 10.0).round().max(1.0)),
    }
}

/// Reports an agent that the game does not have; for a policy or tape with its requirements.
fn no_agent(checker: &mut Checker, agent: &str) {
    let (game, at) = (checker.game(), Place::from("subject").key("agent"));
    let why = match agent {
        TAPE => "a tape needs a game in real time with features",
        POLICY => "a network needs a game with features",
        _ => {
            let known: Vec<String> = game.agents().iter().map(|sheet| sheet.name.clone()).collect();
            checker.report(unknown(&at, "agent", agent, &known));
            return;
        }
    };
    let turns = if game.sheet().ticks_per_second.is_none() { ", a game of turns," } else { "" };
    let what = format!("`{}`{turns} has no agent `{agent}`", game.sheet().name);
    checker.problem(at, what, format!("{why}; free the knobs of another agent by [[free]]"));
}

/// Reports keys of a subject that change nothing for this agent.
fn idle_keys(checker: &mut Checker, subject: &SubjectDraft, sheet: &AgentSheet, has_layers: bool) {
    let at = Place::from("subject");
    for (key, there) in [("layers", subject.layers.is_some()), ("activation", subject.activation.is_some())] {
        if there && !(has_layers && sheet.name == POLICY) {
            checker.problem(
                at.key(key),
                format!("`{key}` says nothing here"),
                "only a network of layers has it: agent = \"policy\", and another method than topology",
            );
        }
    }
    if subject.steps.is_some() && sheet.name != TAPE {
        checker.problem(at.key("steps"), "`steps` says nothing here", "only a tape has it: agent = \"tape\"");
    }
}

/// A network of layers; reports one that is too large.
fn network(checker: &mut Checker, subject: &SubjectDraft, features: FeatureSheet, trains: bool) -> Shape {
    let usual: &[f64] = if trains { &[64.0, 64.0] } else { &[16.0] };
    let layers = layers(checker, subject.layers.as_deref().unwrap_or(usual));
    let activation = activation(checker, subject.activation.as_deref());
    let ends = [features.observation.len(), features.actions.outputs()];
    let sizes: Vec<usize> = [ends[0]].into_iter().chain(layers.iter().copied()).chain([ends[1]]).collect();
    let weights = Dense::count(&sizes);
    if weights > MOST_WEIGHTS {
        let help = format!("make the layers smaller: at most {MOST_WEIGHTS} weights");
        let at = Place::from("subject").key("layers");
        checker.problem(at, format!("a network of {weights} weights is too large"), help);
    }
    Shape::Network { layers, activation, features }
}

/// A tape; reports a length that it cannot have.
fn tape(checker: &mut Checker, subject: &SubjectDraft, features: FeatureSheet) -> Shape {
    let steps = subject.steps.unwrap_or(STEPS);
    if !(1..=MOST_STEPS).contains(&steps) {
        let help = format!("it must be a whole number from 1 to {MOST_STEPS}");
        checker.problem(Place::from("subject").key("steps"), format!("`steps` cannot be {steps}"), help);
    }
    Shape::Tape { steps: steps.clamp(1, MOST_STEPS) as usize, actions: features.actions }
}

/// Whether a method can train this agent here; none where not, which is reported.
fn learnable(checker: &mut Checker, method: TrainingName, agent: &str, features: bool) -> Option<()> {
    let (word, game) = (method.name(), checker.game().sheet().name.clone());
    let (what, help) = if agent != "policy" {
        (format!("`{agent}` does not learn"), "use agent = \"policy\", or kind = \"evolve\" for the knobs of an agent")
    } else if method.learns_positions() && !checker.game().files_positions() {
        (
            format!("{word} learns single positions, and those of `{game}` cannot be filed"),
            "use name = \"ppo\" or \"dqn\"",
        )
    } else if !method.learns_positions() && !features {
        (format!("{word} trains a network, and `{game}` has no features"), "use name = \"q-learning\" or \"sarsa\"")
    } else {
        return Some(());
    };
    let at = if agent == "policy" { Place::from("method").key("name") } else { Place::from("subject").key("agent") };
    checker.problem(at, what, help);
    None
}

/// The knobs that are set: known, within their ranges, and not sought too.
fn checked_knobs(checker: &mut Checker, stated: &Knobs, sheet: &AgentSheet, free: &[GeneDraft]) {
    let at = Place::from("subject").key("knobs");
    // What is sought need not be given: the file above all.
    let known: Vec<Knob> = sheet.knobs.iter().filter(|knob| !knob.must_be_given()).cloned().collect();
    checker.knobs(&at, stated, &known);
    for (place, gene) in free.iter().enumerate() {
        if stated.get(&gene.free.knob).is_some() {
            let what = format!("`{}` is both set and free", gene.free.knob);
            checker.problem(Place::item("free", place).key("knob"), what, "leave one of the two out");
        }
    }
}

fn free_knobs(checker: &mut Checker, drafts: &[GeneDraft], sheet: &AgentSheet) -> Shape {
    let (mut free, mut log) = (Vec::new(), Vec::new());
    if drafts.is_empty() {
        let names: Vec<&str> = sheet.knobs.iter().map(|knob| knob.name.as_str()).collect();
        let help = format!("add [[free]] with `knob`, `from` and `to`; available: {}", names.join(", "));
        checker.problem("free", "no knob is free", help);
    }
    for (place, gene) in drafts.iter().enumerate() {
        let at = Place::item("free", place);
        let Some(knob) = sheet.knobs.iter().find(|knob| knob.name == gene.free.knob && !knob.must_be_given()) else {
            let known: Vec<String> = sheet.knobs.iter().map(|knob| knob.name.clone()).collect();
            checker.report(unknown(&at.key("knob"), "knob", &gene.free.knob, &known));
            continue;
        };
        if drafts[..place].iter().any(|other| other.free.knob == gene.free.knob) {
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

fn layers(checker: &mut Checker, sizes: &[f64]) -> Vec<usize> {
    let fine = |width: &f64| width.fract() == 0.0 && (1.0..=MOST_WIDTH).contains(width);
    if !sizes.iter().all(fine) || sizes.len() > 8 {
        let help = "it must be a list of up to 8 whole numbers from 1 to 1024, as in [32, 32]";
        checker.problem(Place::from("subject").key("layers"), "a network cannot have these layers", help);
        return vec![1];
    }
    sizes.iter().map(|width| *width as usize).collect()
}

fn activation(checker: &mut Checker, asked: Option<&str>) -> Activation {
    let Some(word) = asked else { return Activation::Tanh };
    let found = Activation::ALL.into_iter().find(|activation| activation.name() == word);
    found.unwrap_or_else(|| {
        let at = Place::from("subject").key("activation");
        checker.problem(at, format!("`activation` cannot be `{word}`"), "it must be one of: tanh, relu");
        Activation::Tanh
    })
}
