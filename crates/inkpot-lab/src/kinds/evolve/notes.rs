//! What should be known of an evolution before it is believed.

use super::asked::Evolve;
use super::repetition::Repetition;
use crate::kinds::found::{Look, Shape, Yardstick, apart, never_succeeded};

/// A search has lost its diversity below this share of what it began with.
const LOST: f64 = 0.02;
/// A knob this near to an end of its range, as a share of that, lies at it.
const AT_END: f64 = 0.01;

/// What a repetition is known to have done, kept with the proof.
pub(super) fn of_search(evolve: &Evolve, repetitions: &[Repetition]) -> Vec<String> {
    let mut notes = Vec::new();
    for (number, repetition) in repetitions.iter().enumerate() {
        let number = evolve.aim.number_of(number);
        for said in [apart, never_succeeded] {
            let what = said(&evolve.aim, &repetition.looks, "fitness");
            notes.extend(what.map(|what| format!("repetition {number}: {what}")));
        }
        notes.extend(alike(repetition).map(|what| format!("repetition {number}: {what}")));
        notes.extend(fell_back(evolve, repetition).map(|what| format!("repetition {number}: {what}")));
    }
    for (place, term) in evolve.aim.terms.iter().enumerate() {
        if repetitions.iter().all(|repetition| !repetition.varied[place]) {
            let figure = &term.figure;
            notes.push(format!("the term `{figure}` was the same for all candidates and steered nothing"));
        }
    }
    notes.extend(at_ends(evolve, repetitions));
    notes
}

/// Whether candidates that learn against each other forgot what they knew: the last look at the yardstick is worse than
/// an earlier one, beyond both intervals.
fn fell_back(evolve: &Evolve, repetition: &Repetition) -> Option<String> {
    evolve.rivals?;
    let Yardstick { figure, less, .. } = &evolve.aim.yardstick;
    // The end of an interval that is least, and that which is most, where more is better.
    let ends = |look: &Look| look.range.map(|[low, high]| if *less { (-high, -low) } else { (low, high) });
    let (last, earlier) = repetition.looks.all.split_last()?;
    let best = earlier.iter().max_by(|a, b| {
        let low = |look: &Look| ends(look).map_or(f64::NEG_INFINITY, |end| end.0);
        low(a).total_cmp(&low(b))
    })?;
    (ends(best)?.0 > ends(last)?.1).then(|| {
        format!(
            "`{figure}` fell back on the yardstick, from {:.3} in generation {} to {:.3} in generation {}; \
             more of the past among its rivals keeps what it knew",
            best.figures.outcome, best.pick.generation, last.figures.outcome, last.pick.generation
        )
    })
}

/// Whether the candidates have become alike.
fn alike(repetition: &Repetition) -> Option<String> {
    let (first, last) = (repetition.generations.first()?.diversity, repetition.generations.last()?.diversity);
    (last < LOST * first).then(|| {
        format!(
            "the candidates have become alike ({:.1} % of the diversity at first): more mutation, or a larger population",
            100.0 * last / first
        )
    })
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
            format!(
                "`{knob}` lies at an end of its range in {count} of {all} champions: widen it, if the knob itself goes further"
            )
        })
    };
    numbers.filter_map(note).collect()
}
