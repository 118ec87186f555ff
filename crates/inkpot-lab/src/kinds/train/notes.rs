//! What should be known of a training before it is believed.

use super::asked::Train;
use super::repetition::Repetition;
use crate::kinds::found::{Shape, apart};

/// An option that is taken less often than this is never taken, one less seldom than the rest always.
const NEVER: f64 = 0.001;
/// A value estimate that explains less of the returns than this explains nothing.
const NOTHING: f64 = 0.05;
/// Rounds at the end over which that is looked at.
const LAST: usize = 5;

/// What the repetitions are known to have done, kept with the proof.
pub(super) fn of_search(train: &Train, repetitions: &[Repetition]) -> Vec<String> {
    let mut notes = Vec::new();
    for (number, own) in repetitions.iter().enumerate() {
        let seed = train.aim.seed_of(number);
        let each = [
            own.diverged.map(|steps| {
                format!("learning diverged at step {steps} and was stopped; what was learned until then was kept: lower the `rate`")
            }),
            apart(&train.aim, &own.looks, "reward"),
            one_sided(train, own),
            explains_nothing(own),
        ];
        notes.extend(each.into_iter().flatten().map(|what| format!("seed {seed}: {what}")));
    }
    notes
}

/// Options that it hardly takes, or takes always.
fn one_sided(train: &Train, own: &Repetition) -> Option<String> {
    let Shape::Network { features, .. } = &train.aim.candidate.shape else { return None };
    let taken = &own.rounds.last()?.taken;
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
fn explains_nothing(own: &Repetition) -> Option<String> {
    let last = own.rounds.iter().rev().take(LAST).filter_map(|round| round.explained);
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
