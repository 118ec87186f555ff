//! Tests of a training on its brief and its matches, without learning.

use inkpot_core::{GameEntry, Halt, Intent, Knobs, Level, Registry};
use inkpot_learn::Environment;

use super::course::Course;
use super::lesson::{Lesson, Past};
use super::repetition::Repetition;
use super::{LegDraft, Train, TrainDraft, resolve_train};
use crate::kinds::found::{AimDraft, Evaluation, MethodDraft, SubjectDraft, TermDraft, YardstickDraft};

/// A boat that learns by PPO to have little water left.
fn draft() -> TrainDraft {
    let aim = AimDraft {
        game: "regatta".into(),
        level: Some(Level::named("reach", Knobs::default())),
        subject: SubjectDraft { agent: "policy".into(), layers: Some(vec![4.0]), ..SubjectDraft::default() },
        method: MethodDraft { name: Some("ppo".into()), knobs: Knobs::default().with("environments", 2.0) },
        terms: vec![TermDraft { figure: "water_left_m".into(), weight: Some(-0.1), ..TermDraft::default() }],
        seeds: Some(2),
        yardstick: YardstickDraft { matches: Some(2), ..YardstickDraft::default() },
        ..AimDraft::default()
    };
    TrainDraft { aim, steps: Some(1_000), ..TrainDraft::default() }
}

fn train(change: impl FnOnce(&mut TrainDraft)) -> (Train, Registry) {
    let (mut draft, registry) = (draft(), inkpot_games::registry());
    change(&mut draft);
    let train = resolve_train(&draft, &registry).unwrap_or_else(|problems| panic!("{problems:?}"));
    (train, registry)
}

fn game<'a>(train: &Train, registry: &'a Registry) -> &'a dyn GameEntry {
    registry.find(&train.aim.ground.game).expect("a house game")
}

/// Steers straight on until the match is over; returns the pay of each decision.
fn rewards(train: &Train, registry: &Registry, actions: usize) -> Vec<f64> {
    let mut lesson = Lesson::new(train, 0, game(train, registry));
    assert!(lesson.begin(0), "a boat can decide before it has arrived");
    let straight = vec![0.0; actions];
    let mut rewards = Vec::new();
    loop {
        let step = lesson.step(Intent::Values(&straight));
        rewards.push(step.reward);
        if step.end.is_some() {
            return rewards;
        }
        assert!(rewards.len() < 100_000, "matches end");
    }
}

fn outputs(train: &Train, registry: &Registry) -> usize {
    let features = game(train, registry).features(&train.aim.ground.rules).expect("boats have features");
    features.actions.outputs()
}

#[test]
fn a_term_that_pays_by_change_pays_in_all_what_has_changed() {
    let (change, registry) = train(|_| {});
    let (end, _) = train(|draft| draft.aim.terms[0].pays = Some("end".into()));
    let actions = outputs(&change, &registry);
    let (by_change, at_end) = (rewards(&change, &registry, actions), rewards(&end, &registry, actions));
    assert_eq!(by_change.len(), at_end.len(), "how it is paid changes no match");
    let (last, before) = at_end.split_last().expect("a decision");
    assert!(before.iter().all(|reward| *reward == 0.0), "nothing is paid before the end");
    // The sum of changes leaves out what there was at first: minus 0.1 a metre of water.
    let all = by_change.iter().sum::<f64>() - 0.1 * water_at_first(&change, &registry);
    assert!((all - last).abs() < 1e-6 * last.abs().max(1.0), "{all} against {last}");
}

#[test]
fn a_potential_gives_back_at_the_end_what_it_has_paid() {
    let (shape, registry) = train(|draft| {
        draft.aim.terms[0].pays = Some("shape".into());
        draft.aim.method.knobs = Knobs::default().with("discount", 1.0);
    });
    let (change, _) = train(|_| {});
    let actions = outputs(&shape, &registry);
    let rewards = rewards(&shape, &registry, actions);
    let all: f64 = rewards.iter().sum();
    // Without a discount the sum is minus the potential at the start, whatever the boat did: 0.1 a metre of water.
    let start = 0.1 * water_at_first(&change, &registry);
    assert!((all - start).abs() < 1e-6 * start.abs().max(1.0), "{all} against {start}");
}

fn water_at_first(train: &Train, registry: &Registry) -> f64 {
    let game = game(train, registry);
    let mut lessons = game.lessons(&train.lessons(0, 0)[0]).expect("it was checked");
    lessons.begin(inkpot_core::Spot::default());
    let mut rows = inkpot_core::Rows::new(game.sheet().measures.len());
    lessons.rows(&mut rows);
    let place = game.sheet().measures.iter().position(|measure| measure.name == "water_left_m").expect("a measure");
    rows.measures_of(0)[place]
}

#[test]
fn news_of_a_lesson_are_given_once() {
    let (train, registry) = train(|_| {});
    let mut lesson = Lesson::new(&train, 0, game(&train, &registry));
    lesson.begin(0);
    let mut figures = Vec::new();
    lesson.observe(&mut figures);
    let actions = vec![0.0; outputs(&train, &registry)];
    while lesson.step(Intent::Values(&actions)).end.is_none() {}
    let (first, second) = (lesson.take_news(), lesson.take_news());
    assert_eq!(first.ended.len(), 1);
    assert!(first.ticks > 0 && first.outside.len() == figures.len());
    assert!(second.ended.is_empty() && second.ticks == 0 && second.outside.is_empty());
    assert_eq!(lesson.fell(), None);
}

#[test]
fn a_match_that_was_under_way_begins_again_on_the_leg_on_which_it_began() {
    let (train, registry) = train(|draft| {
        draft.aim.level = Some(Level::named("channel", Knobs::default()));
        draft.legs = vec![LegDraft {
            level: Some(Level::named("reach", Knobs::default())),
            pass: Some(0.5),
            ..LegDraft::default()
        }];
    });
    let game = game(&train, &registry);
    let observed = |leg: usize, again: bool| {
        let mut lesson = Lesson::new(&train, 0, game);
        lesson.begin(0);
        let under_way = lesson.under_way();
        lesson.go_on(leg, &std::sync::Arc::new(Past::default()));
        lesson.begin_again(again.then_some(under_way));
        lesson.begin(0);
        let mut figures = Vec::new();
        lesson.observe(&mut figures);
        figures
    };
    assert_eq!(observed(1, true), observed(0, false), "the match under way is still one of the first leg");
    assert_ne!(observed(1, false), observed(0, false), "the next is one of the channel");
}

#[test]
fn a_course_moves_on_by_the_pass_mark_and_keeps_what_each_leg_came_to() {
    let leg = |level: &str, pass: f64| LegDraft {
        level: Some(Level::named(level, Knobs::default())),
        pass: Some(pass),
        ..LegDraft::default()
    };
    let (train, registry) = train(|draft| {
        draft.aim.level = Some(Level::named("channel", Knobs::default()));
        draft.legs = vec![leg("reach", 0.5), leg("triangle", 0.9)];
    });
    let game = game(&train, &registry);
    let looked = |value: f64| Evaluation::of(&train.aim, &[], &[vec![0.0, value, 1.0, 10.0]]);
    let mut course = Course::default();
    for (value, steps, leg) in [(0.4, 100, 0), (0.5, 200, 1), (0.6, 300, 1), (1.0, 400, 2)] {
        course.take(&train, &looked(value), steps, game);
        assert_eq!(course.leg(), leg, "after {value}");
    }
    assert!(course.is_over(&train));
    course.take(&train, &looked(0.0), 500, game);
    assert_eq!(course.leg(), 2, "who has passed all stays there");
    assert!(course.of_round(5).is_none() && course.of_round(4).is_some());
    let found = course.found(&train);
    assert_eq!(found.iter().map(|leg| leg.passed).collect::<Vec<_>>(), [Some(200), Some(400)]);
    assert_eq!(found.iter().map(|leg| leg.pass).collect::<Vec<_>>(), [0.5, 0.9]);
}

#[test]
fn mixed_legs_take_turns_and_each_has_its_blocks_in_order() {
    let legs: Vec<LegDraft> = ["triangle", "channel"]
        .map(|level| LegDraft { level: Some(Level::named(level, Knobs::default())), ..LegDraft::default() })
        .into();
    let (mixed, registry) = train(|draft| {
        draft.legs.clone_from(&legs);
        draft.mixed = Some(true);
    });
    let game = game(&mixed, &registry);
    let observed = |lesson: &mut Lesson, episode: u64| {
        lesson.begin(episode);
        let mut figures = Vec::new();
        lesson.observe(&mut figures);
        figures
    };
    let mut turns = Lesson::new(&mixed, 0, game);
    // Out of order, since a lesson is laid out once and found again.
    let seen: Vec<_> = [0, 4, 2, 1, 3, 5].map(|episode| (episode, observed(&mut turns, episode))).into();
    for (episode, figures) in seen {
        let level = mixed
            .legs
            .get(episode as usize % 3)
            .map_or_else(|| mixed.aim.ground.level.clone(), |leg| leg.level.clone());
        let (alone, registry) = train(|draft| draft.aim.level = Some(level));
        let mut lesson = Lesson::new(&alone, 0, self::game(&alone, &registry));
        assert_eq!(figures, observed(&mut lesson, episode / 3), "match {episode}");
    }
}

#[test]
fn a_state_that_was_written_and_read_learns_the_same() {
    let (train, registry) = train(|_| {});
    let game = game(&train, &registry);
    let written = |repetition: &Repetition| serde_json::to_string(repetition).expect("a state is plain data");
    let start = Repetition::new(&train, 1);
    let read: Repetition = serde_json::from_str(&written(&start)).expect("it is read back");
    let learned = |mut repetition: Repetition| {
        let mut lessons = repetition.lessons(&train, 1, game);
        repetition.learn(&train, &mut lessons, &Halt::never()).expect("matches can be played");
        written(&repetition)
    };
    let whole = learned(start);
    assert_eq!(learned(read), whole);
    assert_ne!(whole, written(&Repetition::new(&train, 1)), "something was learned");
}

#[test]
fn what_cannot_be_learned_is_refused_with_its_place() {
    type Change = fn(&mut TrainDraft);
    let cases: [(&str, &str, Change); 10] = [
        ("subject.agent", "`tacker` does not learn", |draft| draft.aim.subject.agent = "tacker".into()),
        ("method.name", "learns single positions", |draft| draft.aim.method.name = Some("sarsa".into())),
        ("method.name", "`ppoo`", |draft| draft.aim.method.name = Some("ppoo".into())),
        ("method", "`horizon`", |draft| draft.aim.method.knobs = Knobs::default().with("horizon", 0.0)),
        ("term[0].pays", "`monthly`", |draft| draft.aim.terms[0].pays = Some("monthly".into())),
        ("subject.layers", "too large", |draft| draft.aim.subject.layers = Some(vec![1024.0; 3])),
        ("leg[0]", "", |draft| draft.legs = vec![LegDraft::default()]),
        ("mixed", "no leg", |draft| draft.mixed = Some(true)),
        ("leg[0].pass", "mixed", |draft| {
            draft.mixed = Some(true);
            draft.legs = vec![LegDraft { pass: Some(0.5), ..LegDraft::default() }];
        }),
        ("steps", "`steps`", |draft| draft.steps = Some(0)),
    ];
    for (place, what, change) in cases {
        let mut draft = draft();
        change(&mut draft);
        let problems = resolve_train(&draft, &inkpot_games::registry()).expect_err(place);
        let all: Vec<String> = problems.iter().map(|problem| format!("{}: {}", problem.at, problem.what)).collect();
        let found = problems.iter().any(|problem| {
            problem.at.to_string().starts_with(place.split('[').next().unwrap_or_default())
                && problem.what.contains(what)
                && !problem.help.is_empty()
        });
        assert!(found, "{place}: {what} is not among {all:?}");
    }
}
