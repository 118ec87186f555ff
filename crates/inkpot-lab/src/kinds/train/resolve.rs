//! From the draft of a training to the training: names looked up, defaults filled, all problems at once.

use inkpot_core::Registry;

use super::asked::Train;
use super::draft::TrainDraft;
use super::{Training, TrainingName};
use crate::kinds::Seeks;
use crate::kinds::found::{Shape, Way, resolve_aim, whole};
use crate::resolve::Checker;
use crate::{Place, Problem, StudyKind};

const STEPS: u64 = 500_000;
/// Looks at the yardstick, where nothing is said.
const LOOKS: u64 = 20;

/// Checks the draft of a training against the registry. Errs with everything that is wrong with it.
pub fn resolve_train(draft: &TrainDraft, registry: &Registry) -> Result<Train, Vec<Problem>> {
    let mut checker = Checker::at(&draft.aim.game, registry)?;
    let steps = whole(&mut checker, &Place::default(), "steps", draft.steps.unwrap_or(STEPS), 1);
    let self_play = draft.self_play.unwrap_or(false);
    let way = Way { kind: StudyKind::Train, each_other: self_play, proof: None, every: (steps / LOOKS).max(1) };
    let aim = resolve_aim(&mut checker, &draft.aim, &way);
    let method = method(&mut checker, draft);
    let (Some(aim), Some(method)) = (aim, method) else {
        return Err(checker.found());
    };
    let train = Train { aim, method, self_play, steps };
    together(&mut checker, &train);
    let problems = checker.found();
    if problems.is_empty() { Ok(train) } else { Err(problems) }
}

/// The method; none where nothing can be said of it.
fn method(checker: &mut Checker, draft: &TrainDraft) -> Option<Training> {
    // A name that is none is reported with the aim.
    let word = draft.aim.method.name.as_deref().unwrap_or(TrainingName::Ppo.name());
    let name = TrainingName::ALL.into_iter().find(|own| own.name() == word)?;
    let before = checker.count();
    let knobs = checker.knobs(&"method".into(), &draft.aim.method.knobs, &name.knobs());
    (checker.count() == before).then_some(Training { name, knobs })
}

/// What fits together only as a whole.
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
    if train.aim.in_turn {
        checker.problem("in_turn", "a reward is one number", "leave `in_turn` out, and give the terms weights");
    }
    if train.aim.yardstick.every > train.steps {
        let help = format!("it must be a whole number from 1 to {}", train.steps);
        checker.problem(
            Place::from("yardstick").key("every"),
            format!("a look every {} steps never comes within {}", train.aim.yardstick.every, train.steps),
            help,
        );
    }
    if checker.count() == 0 {
        checker.stage_all(&train.samples(checker.game()));
        checker.lesson_all(&train.lessons(0));
    }
}
