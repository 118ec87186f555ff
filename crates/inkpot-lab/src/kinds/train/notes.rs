//! What should be known of a training before it is believed.

use super::asked::Train;
use super::learner::Learner;
use super::repetition::Repetition;
use crate::kinds::found::{Shape, apart, never_succeeded};

/// An option with a smaller share than this is hardly ever taken; where all others together have no more, it is always.
const NEVER: f64 = 0.001;
/// A value estimate that explains less of the returns than this explains nothing.
const NOTHING: f64 = 0.05;
/// Rounds at the end over which that is looked at.
const LAST: usize = 5;

/// What the repetitions are known to have done, kept with the proof.
pub(super) fn of_search(train: &Train, repetitions: &[Repetition]) -> Vec<String> {
    let mut notes = Vec::new();
    for (number, repetition) in repetitions.iter().enumerate() {
        let number = train.aim.number_of(number);
        let each = [
            repetition.diverged.map(|steps| {
                format!("learning diverged at step {steps} and was stopped; what was learned until then was kept: lower the `rate`")
            }),
            apart(&train.aim, &repetition.looks, "reward"),
            never_succeeded(&train.aim, &repetition.looks, "reward"),
            one_sided(train, repetition),
            explains_nothing(repetition),
            outside(train, &repetition.outside),
            not_passed(train, repetition),
            exact(train, repetition),
        ];
        notes.extend(each.into_iter().flatten().map(|what| format!("repetition {number}: {what}")));
    }
    notes
}

/// Figures of observations that lay outside their ranges.
fn outside(train: &Train, counts: &[u64]) -> Option<String> {
    let Shape::Network { features, .. } = &train.aim.candidate.shape else { return None };
    let figures = features.observation.iter().zip(counts).filter(|(_, count)| **count > 0);
    let each: Vec<String> = figures.map(|(figure, count)| format!("`{}` ({count})", figure.name)).collect();
    (!each.is_empty()).then(|| {
        format!(
            "these figures were observed outside -1 to 1, this often: {}; correct their ranges in the game's features",
            each.join(", ")
        )
    })
}

/// Whether the response is the best there is, or a lower bound.
fn exact(train: &Train, repetition: &Repetition) -> Option<String> {
    let Learner::Exact(exact) = &repetition.learner else { return None };
    let (sampled, positions, draws) = (exact.sampled, exact.asked, train.method.knobs.number("draws"));
    Some(if sampled == 0 {
        format!(
            "the opponent's chances are known at all of {positions} positions, so this response is exact: none wins more"
        )
    } else {
        format!(
            "the opponent does not say its chances at {sampled} of {positions} positions, and {draws} sampled choices stand for \
             them, so what this response wins is a lower bound: raise `draws` for a closer one"
        )
    })
}

/// The leg of the course that it did not pass.
fn not_passed(train: &Train, repetition: &Repetition) -> Option<String> {
    let (number, figure) = (repetition.course.leg(), &train.aim.yardstick.figure);
    let leg = train.legs.get(number)?;
    let last = repetition.course.last().map_or(f64::NAN, |look| look.looked.value);
    Some(format!(
        "it did not pass leg {} of {} (`{}`): `{figure}` was {last:.3} at the last look, and the pass mark is {}; what \
         comes after was never learned",
        number + 1,
        train.legs.len(),
        leg.level,
        leg.pass
    ))
}

/// Options that it hardly takes, or takes always.
fn one_sided(train: &Train, repetition: &Repetition) -> Option<String> {
    let Shape::Network { features, .. } = &train.aim.candidate.shape else { return None };
    let taken = &repetition.rounds.last()?.taken;
    let all = taken.iter().sum::<u64>() as f64;
    let shares: Vec<f64> = taken.iter().map(|count| *count as f64 / all).collect();
    let names = features.actions.names();
    let found = |is: &dyn Fn(f64) -> bool| -> Vec<String> {
        let each = names.iter().zip(&shares).filter(|(_, share)| is(**share));
        each.map(|(name, _)| format!("`{name}`")).collect()
    };
    let (never, always) = (found(&|share| share < NEVER), found(&|share| share > 1.0 - NEVER));
    if let Some(only) = always.first() {
        return Some(format!("it always takes {only}: nothing it observes changes what it does"));
    }
    (!never.is_empty()).then(|| format!("it hardly ever takes {}", never.join(", ")))
}

/// Whether the value estimate explained hardly anything of the returns at the end.
fn explains_nothing(repetition: &Repetition) -> Option<String> {
    let last = repetition.rounds.iter().rev().take(LAST).filter_map(|round| round.explained);
    let all: Vec<f64> = last.collect();
    let mean = all.iter().sum::<f64>() / all.len() as f64;
    (all.len() == LAST && mean < NOTHING).then(|| {
        format!(
            "its value estimate explains {:.0} % of the variance of the returns: rewards come too late or too seldom to be \
             foreseen",
            100.0 * mean.max(0.0)
        )
    })
}

#[cfg(test)]
mod tests {
    use super::super::{TrainDraft, resolve_train};
    use super::*;
    use crate::kinds::found::{AimDraft, SubjectDraft, TermDraft};

    #[test]
    fn a_figure_outside_its_range_is_named_with_how_often() {
        let aim = AimDraft {
            game: "regatta".into(),
            subject: SubjectDraft { agent: "policy".into(), ..SubjectDraft::default() },
            terms: vec![TermDraft { figure: "marks".into(), ..TermDraft::default() }],
            ..AimDraft::default()
        };
        let draft = TrainDraft { aim, ..TrainDraft::default() };
        let train = resolve_train(&draft, &inkpot_games::registry()).unwrap();
        assert_eq!(outside(&train, &[0; 15]), None);
        let message = outside(&train, &[0, 0, 7, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1]).unwrap();
        assert!(message.contains("`mark_m` (7), `ray_8` (1)"), "{message}");
    }
}
