//! The history of an evolution, generation by generation.

use super::asked::Evolve;
use super::repetition::Repetition;
use crate::kinds::found::{EVALUATIONS, Line, Shape, write as written};

/// Names of the columns beside the common ones.
fn others(evolve: &Evolve) -> Vec<String> {
    let knobs = match &evolve.aim.candidate.shape {
        Shape::Knobs { free, .. } => free.iter().map(|free| format!("knob.{}", free.knob)).collect(),
        _ => Vec::new(),
    };
    let terms = evolve.aim.terms.iter().map(|term| format!("term.{}", term.figure));
    terms.chain(["outcome", "diversity", "groups", EVALUATIONS].map(String::from)).chain(knobs).collect()
}

/// The table.
pub(super) fn write(evolve: &Evolve, repetitions: &[Repetition]) -> String {
    let lines = repetitions.iter().enumerate().flat_map(|(number, repetition)| {
        repetition.generations.iter().zip(1..).map(move |(generation, round)| {
            let figures = generation.figures.terms.iter().chain([&generation.figures.outcome]).copied();
            let spread = [generation.diversity, generation.groups as f64, generation.evaluations as f64];
            Line {
                seed: evolve.aim.number_of(number),
                round,
                matches: generation.matches,
                steps: generation.steps,
                best: generation.best.first(),
                quartiles: generation.quartiles,
                look: repetition.looks.of_generation(round),
                others: figures.chain(spread).collect(),
                words: &generation.values,
            }
        })
    });
    written(&others(evolve), lines)
}
