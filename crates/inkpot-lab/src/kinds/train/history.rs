//! What a training did, look by look.

use super::asked::Train;
use super::repetition::Repetition;
use crate::kinds::found::{Line, Shape, write as written};

/// Names of the columns beside the common ones.
fn others(train: &Train) -> Vec<String> {
    let terms = train.aim.terms.iter().map(|term| format!("term.{}", term.figure));
    let common = ["outcome", "decisions", "entropy", "explained", "moved", "loss", "positions", "leg", "leg_looked"]
        .map(String::from);
    terms.chain(common).chain(options(train).iter().map(|name| format!("share.{name}"))).collect()
}

/// Names of the options that it counts.
fn options(train: &Train) -> Vec<String> {
    match &train.aim.candidate.shape {
        Shape::Network { features, .. } if features.actions.is_discrete() => {
            features.actions.names().into_iter().map(String::from).collect()
        }
        _ => Vec::new(),
    }
}

/// The table: a line a look, with what was learned from until then.
pub(super) fn write<'a>(train: &'a Train, repetitions: impl Iterator<Item = &'a Repetition>) -> String {
    let known = |x: Option<f64>| x.unwrap_or(f64::NAN);
    let lines = repetitions.enumerate().flat_map(|(number, repetition)| {
        repetition.rounds.iter().zip(1..).map(move |(own, round)| {
            let figures = own.figures.terms.iter().chain([&own.figures.outcome]).copied();
            let positions = own.positions.map(|count| count as f64);
            let leg = repetition.course.of_round(round);
            let learned = [
                own.steps as f64,
                known(own.entropy),
                known(own.explained),
                known(own.moved),
                own.loss,
                known(positions),
                leg.map_or(train.legs.len(), |own| own.leg) as f64 + 1.0,
                leg.map_or(f64::NAN, |own| own.looked.value),
            ];
            let all = own.taken.iter().sum::<u64>() as f64;
            let shares = own.taken.iter().map(move |taken| *taken as f64 / all);
            Line {
                seed: train.aim.seed_of(number),
                round,
                matches: own.matches,
                steps: own.ticks,
                best: own.best,
                quartiles: [own.quartiles[0], own.quartiles[1], own.quartiles[2]],
                look: repetition.looks.of_generation(round),
                others: figures.chain(learned).chain(shares).collect(),
                words: &[],
            }
        })
    });
    written(&others(train), lines)
}
