//! From the draft of a training to the training: names looked up, defaults filled, all problems at once.

use inkpot_core::Registry;

use super::asked::{Leg, Train};
use super::draft::{LegDraft, TrainDraft};
use super::method::{LearnedGame, Training};
use crate::checker::Checker;
use crate::counts::{count, counted};
use crate::kinds::found::{Aim, MethodFamily, Shape, TermDraft, TrainingName, Way, opponents, resolve_aim, whole};
use crate::{Place, Problem};

const STEPS: u64 = 500_000;
/// Looks at the yardstick, where nothing is said.
const LOOKS: u64 = 20;
/// The most numbers that the decisions kept by all repetitions may hold, 2 GiB of them.
const MOST_NUMBERS: u128 = 1 << 29;

/// Checks the draft of a training against the registry. Errs with everything that is wrong with it.
pub fn resolve_train(draft: &TrainDraft, registry: &Registry) -> Result<Train, Vec<Problem>> {
    let mut checker = Checker::at(&draft.aim.game, registry)?;
    let steps = whole(&mut checker, &Place::default(), "steps", draft.steps.unwrap_or(STEPS), 1);
    let self_play = draft.self_play.unwrap_or(false);
    let way = Way { family: MethodFamily::Training, each_other: self_play, proof: None, every: (steps / LOOKS).max(1) };
    let stated = draft;
    let mut draft = draft.clone();
    if draft.aim.method.name.as_deref() == Some(TrainingName::Exact.name()) {
        // There is no chance in it that another seed would change.
        draft.aim.seeds = draft.aim.seeds.or(Some(1));
    }
    let draft = &draft;
    let aim = resolve_aim(&mut checker, &draft.aim, &way);
    let learned = aim.as_ref().map(LearnedGame::of).unwrap_or_default();
    let method = method(&mut checker, draft, learned);
    let (Some(aim), Some(method)) = (aim, method) else {
        return Err(checker.found());
    };
    let each = draft.legs.iter().enumerate();
    let legs: Vec<_> =
        each.filter_map(|(number, asked_leg)| leg(&mut checker, number, asked_leg, draft, &aim)).collect();
    let mixed = draft.mixed.unwrap_or(false);
    if mixed && draft.legs.is_empty() {
        let help = "add [[leg]] with the level of each, or leave `mixed` out";
        checker.problem("mixed", "there is no leg to mix in", help);
    }
    let train = Train { aim, method, self_play, legs, mixed, steps };
    idle_keys(&mut checker, stated, &train);
    together(&mut checker, &train);
    let problems = checker.found();
    if problems.is_empty() { Ok(train) } else { Err(problems) }
}

/// The method; none where nothing can be said of it.
fn method(checker: &mut Checker, draft: &TrainDraft, learned: LearnedGame) -> Option<Training> {
    // A name that is none is reported with the aim.
    let word = draft.aim.method.name.as_deref().unwrap_or(TrainingName::Ppo.name());
    let name = TrainingName::ALL.into_iter().find(|name| name.name() == word)?;
    let before = checker.count();
    let knobs = checker.knobs(&"method".into(), &draft.aim.method.knobs, &name.knobs(learned));
    (checker.count() == before).then_some(Training { name, knobs })
}

/// Keys that are stated and that this method, or this game, never reads.
fn idle_keys(checker: &mut Checker, stated: &TrainDraft, train: &Train) {
    if let Shape::Network { features, .. } = &train.aim.candidate.shape
        && features.actions.is_discrete()
        && stated.aim.method.knobs.get("spread").is_some()
    {
        let what = "`spread` has no effect: it is the spread of continuous actions, and these are options";
        checker.problem(Place::from("method").key("spread"), what, "leave `spread` out");
    }
    if train.method.name != TrainingName::Exact {
        return;
    }
    let top = Place::default();
    let (term, yardstick) = (Place::item("term", 0), Place::from("yardstick"));
    let is_stated = |of: fn(&TermDraft) -> bool| stated.aim.terms.iter().any(of);
    let idle = [
        (&top, "seeds", stated.aim.seeds.is_some(), "it draws no chance, so one repetition says all"),
        (&top, "steps", stated.steps.is_some(), "it looks through every position, however many decisions that takes"),
        (&term, "weight", is_stated(|term| term.weight.is_some()), "there is one term"),
        (&term, "pays", is_stated(|term| term.pays.is_some()), "a win counts at the end of a match"),
        (&yardstick, "every", stated.aim.yardstick.every.is_some(), "there is nothing to look at before its end"),
    ];
    for (at, key, _, why) in idle.into_iter().filter(|(.., is_stated, _)| *is_stated) {
        checker.problem(at.key(key), format!("`{key}` has no effect with name = \"exact\": {why}"), "leave it out");
    }
}

/// Decisions that the repetitions keep at once have to fit into the memory.
fn fits(checker: &mut Checker, train: &Train) {
    let Shape::Network { features, .. } = &train.aim.candidate.shape else { return };
    let (key, decisions) = match train.method.name {
        TrainingName::Ppo => ("horizon", (train.method.environments() * train.method.ppo().horizon) as u128),
        TrainingName::Dqn => ("replay", (train.method.dqn().replay as u64).min(train.steps).into()),
        _ => return,
    };
    // An observation before it and one after, the action, the reward, its chance and how the match goes on.
    let numbers = 2 * features.observation.len() + features.actions.outputs() + 8;
    let total = decisions * numbers as u128 * u128::from(train.aim.seeds);
    if total > MOST_NUMBERS {
        let what = format!(
            "{} decisions of {numbers} numbers each, in {}, take {} GiB of memory",
            count(decisions as u64),
            counted(train.aim.seeds, "repetition", "repetitions"),
            (total * 4) >> 30
        );
        let help = format!("choose a smaller `{key}` or fewer `seeds`: {} GiB are allowed", (MOST_NUMBERS * 4) >> 30);
        checker.problem(Place::from("method").key(key), what, help);
    }
}

/// Checks the conditions of an exact search: one opponent, and points.
fn exact(checker: &mut Checker, train: &Train) {
    if train.self_play || !train.legs.is_empty() || train.aim.opponents.len() != 1 {
        checker.problem(
            Place::from("method").key("name"),
            "`exact` answers one opponent",
            "give it one [[opponent]], and neither `self_play` nor a [[leg]]",
        );
    }
    if !matches!(train.aim.terms.as_slice(), [only] if only.figure == "win_rate") {
        checker.problem(
            Place::item("term", 0),
            "`exact` maximises the win rate and nothing else",
            "give it one [[term]], with figure = \"win_rate\"",
        );
    }
}

/// A leg of the course; none where it cannot be laid.
fn leg(checker: &mut Checker, number: usize, leg: &LegDraft, draft: &TrainDraft, aim: &Aim) -> Option<Leg> {
    let (at, game, yardstick) = (Place::item("leg", number), checker.game(), &aim.yardstick);
    let figure = &yardstick.figure;
    let mixed = draft.mixed.unwrap_or(false);
    let help =
        format!("add `pass`, the value of `{figure}` at which the next leg begins, or `mixed = true` to the brief");
    match leg.pass {
        Some(_) if mixed => {
            let help = "leave it out: matches take turns on all legs";
            checker.problem(at.key("pass"), "no leg is passed where legs are mixed", help);
        }
        None if mixed => {}
        None => checker.problem(at.clone(), "the leg has no pass mark", help),
        Some(pass) if !pass.is_finite() || yardstick.is_share && !(0.0..=1.0).contains(&pass) => {
            checker.problem(at.key("pass"), format!("`{figure}` is never {pass}"), "a share lies from 0 to 1");
        }
        Some(_) => {}
    }
    let level = match &leg.level {
        Some(level) => checker.resolved_level(&at.key("level"), level)?,
        None => aim.ground.level.clone(),
    };
    if yardstick.held_back.contains(&level) {
        let help = "leave the leg out, or hold back another level";
        checker.problem(at.key("level"), "this level is held back, and must not be learned on", help);
    }
    let rules = checker.knobs(&at.key("rules"), &leg.rules.over(&draft.aim.rules), &game.sheet().rules);
    if let Shape::Network { features, .. } = &aim.candidate.shape
        && game.features(&rules).is_none_or(|known| known != *features)
    {
        let what = "these rules change what the agent observes or does";
        checker.problem(at.key("rules"), what, "keep such rules the same on every leg");
    }
    let named = opponents(checker, &leg.opponents, &at.key("opponent"));
    let alone = aim.opponents.is_empty() && !draft.self_play.unwrap_or(false);
    if alone && !named.is_empty() {
        let help = "leave these opponents out, or add [[opponent]] to the brief";
        checker.problem(at.key("opponent"), "the agent plays alone in this brief, so a leg has no opponents", help);
    }
    let opponents = if named.is_empty() { aim.opponents.clone() } else { named };
    (mixed || leg.pass.is_some()).then_some(Leg { level, rules, opponents, pass: leg.pass })
}

/// Checks conditions over several keys.
fn together(checker: &mut Checker, train: &Train) {
    let (name, game) = (train.method.name, checker.game().sheet().name.clone());
    if let Shape::Network { features, .. } = &train.aim.candidate.shape
        && name == TrainingName::Dqn
        && !features.actions.is_discrete()
    {
        let help = "use name = \"ppo\", or rules with which the actions are options";
        let what = format!("dqn chooses among options, and the actions of `{game}` are continuous");
        checker.problem(Place::from("method").key("name"), what, help);
    }
    if name == TrainingName::Exact {
        exact(checker, train);
    }
    fits(checker, train);
    if train.aim.in_turn {
        checker.problem("in_turn", "a reward is one number", "leave `in_turn` out, and give the terms weights");
    }
    if train.aim.yardstick.every > train.steps {
        let help = format!("it must be a whole number from 1 to {}", count(train.steps));
        checker.problem(
            Place::from("yardstick").key("every"),
            format!(
                "a look every {} never comes within {}",
                counted(train.aim.yardstick.every, "step", "steps"),
                count(train.steps)
            ),
            help,
        );
    }
    if checker.count() == 0 {
        checker.stage_all(&train.must_be_possible(checker.game()));
        let lessons: Vec<_> = (0..=train.legs.len()).flat_map(|leg| train.lessons(0, leg)).collect();
        checker.lesson_all(&lessons);
    }
}
