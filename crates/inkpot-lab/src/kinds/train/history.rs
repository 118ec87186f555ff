//! The history of a training, look by look.

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

/// Writes the table: a line a look, with the learning until then.
pub(super) fn write<'a>(train: &'a Train, repetitions: impl Iterator<Item = &'a Repetition>) -> String {
    let known = |x: Option<f64>| x.unwrap_or(f64::NAN);
    let lines = repetitions.enumerate().flat_map(|(number, repetition)| {
        repetition.rounds.iter().zip(1..).map(move |(summary, round)| {
            let figures = summary.figures.terms.iter().chain([&summary.figures.outcome]).copied();
            let positions = summary.positions.map(|count| count as f64);
            let leg = repetition.course.of_round(round);
            let learned = [
                summary.steps as f64,
                known(summary.entropy),
                known(summary.explained),
                known(summary.moved),
                summary.loss,
                known(positions),
                leg.map_or(if train.mixed { 0 } else { train.legs.len() }, |leg| leg.leg) as f64 + 1.0,
                leg.map_or(f64::NAN, |leg| leg.looked.value),
            ];
            let all = summary.taken.iter().sum::<u64>() as f64;
            let shares = summary.taken.iter().map(move |taken| *taken as f64 / all);
            Line {
                seed: train.aim.number_of(number),
                round,
                matches: summary.matches,
                steps: summary.ticks,
                best: summary.best,
                quartiles: [summary.quartiles[0], summary.quartiles[1], summary.quartiles[2]],
                look: repetition.looks.of_generation(round),
                others: figures.chain(learned).chain(shares).collect(),
                words: &[],
            }
        })
    });
    written(&others(train), lines)
}
