//! Notes on an evolution.

use super::asked::Evolve;
use super::repetition::Repetition;
use crate::kinds::found::{EvolutionName, Shape, apart, fell_back, never_succeeded, of_repetition};
use crate::note::Note;

/// The share of the initial diversity below which a search has lost it.
const LOST: f64 = 0.02;
/// A knob this near to an end of its range, as a share of that, lies at it.
const AT_END: f64 = 0.01;

/// Returns the notes on the repetitions, which are stored with the proof.
pub(super) fn of_search(evolve: &Evolve, repetitions: &[Repetition]) -> Vec<String> {
    let mut notes = Vec::new();
    for (number, repetition) in repetitions.iter().enumerate() {
        let number = evolve.aim.number_of(number);
        let each = [
            (Note::WrongFitness, apart(&evolve.aim, &repetition.looks, "fitness")),
            (Note::NoSuccess, never_succeeded(&evolve.aim, &repetition.looks, "fitness")),
            (Note::Diversity, alike(evolve, repetition)),
            (Note::Forgot, forgot(evolve, repetition)),
        ];
        notes.extend(of_repetition(number, each));
    }
    for (place, term) in evolve.aim.terms.iter().enumerate() {
        if repetitions.iter().all(|repetition| !repetition.varied[place]) {
            let figure = &term.figure;
            notes.push(
                Note::IdleTerm
                    .says(format!("the term `{figure}` was the same for all candidates, so it steered nothing")),
            );
        }
    }
    notes.extend(at_ends(evolve, repetitions));
    notes
}

/// Writes the note on candidates that forgot against rivals: the last look at the yardstick is worse than an earlier
/// one, beyond both intervals.
fn forgot(evolve: &Evolve, repetition: &Repetition) -> Option<String> {
    evolve.rivals?;
    let (best, last) = fell_back(&evolve.aim, &repetition.looks)?;
    Some(format!(
        "`{}` fell on the yardstick, from {:.3} in generation {} to {:.3} in generation {}; keep more of the past among its \
         rivals",
        evolve.aim.yardstick.figure,
        best.figures.outcome,
        best.pick.generation,
        last.figures.outcome,
        last.pick.generation
    ))
}

/// Writes the note on candidates that have become alike, with the method's remedy.
fn alike(evolve: &Evolve, repetition: &Repetition) -> Option<String> {
    let (first, last) = (repetition.generations.first()?.diversity, repetition.generations.last()?.diversity);
    let share = format!("{:.1} % of the diversity at first", 100.0 * last / first);
    let advice = match evolve.method.name {
        // It narrows by itself where it has found what there is.
        EvolutionName::CmaEs if evolve.method.knobs.word("restarts") == "true" => return None,
        EvolutionName::CmaEs => {
            "the search settled ({share}); set `restarts = true` to restart with a larger population"
        }
        EvolutionName::Nes => "the search settled ({share}); set a larger `spread` to look further at first",
        _ => "the candidates became alike ({share}); mutate more, or use a larger population",
    };
    (last < LOST * first).then(|| advice.replace("{share}", &share))
}

/// Knobs of champions that lie at an end of their ranges.
fn at_ends(evolve: &Evolve, repetitions: &[Repetition]) -> Vec<String> {
    let Shape::Knobs { free, .. } = &evolve.aim.candidate.shape else { return Vec::new() };
    let champions = || repetitions.iter().filter_map(|repetition| Some(&repetition.looks.champion()?.pick.genome));
    let at_end = |place: usize| {
        let (low, high) = free[place].bounds();
        let share = |value: f64| (value - low) / (high - low);
        let values = champions().filter_map(|genome| evolve.aim.candidate.values(genome)[place].number());
        values.map(share).filter(|share| *share < AT_END || *share > 1.0 - AT_END).count()
    };
    let numbers = (0..free.len()).filter(|place| matches!(free[*place].range, crate::FreeRange::Number { .. }));
    let note = |place: usize| {
        let (count, all) = (at_end(place), champions().count());
        let knob = &free[place].knob;
        (count > 0).then(|| {
            Note::AtEnd.says(format!(
                "`{knob}` lies at an end of its range in {count} of {all} champions; widen the range if the knob goes further"
            ))
        })
    };
    numbers.filter_map(note).collect()
}
