//! What should be known before a search is believed: the traps that searches are known for.

use inkpot_stats::Interval;

use super::asked::{Evolve, LearnedOn, Yardstick};
use super::candidate::Shape;
use super::looks::Look;
use super::repetition::Repetition;
use super::{EvolveFinding, SeedFound};

/// A search has lost its diversity below this share of what it began with.
const LOST: f64 = 0.02;
/// A knob this near to an end of its range, as a share of that, lies at it.
const AT_END: f64 = 0.01;
/// A share this near to what was proved holds.
const NEAR: f64 = 0.1;
/// Looks from which it can be told whether fitness and outcome go together.
const LOOKS: usize = 5;

/// What a repetition is known to have done, kept with the proof.
pub(super) fn of_search(evolve: &Evolve, repetitions: &[Repetition]) -> Vec<String> {
    let mut notes = Vec::new();
    for (number, own) in repetitions.iter().enumerate() {
        let seed = evolve.seed_of(number);
        notes.extend(apart(evolve, own).map(|what| format!("seed {seed}: {what}")));
        notes.extend(alike(own).map(|what| format!("seed {seed}: {what}")));
        notes.extend(fell_back(evolve, own).map(|what| format!("seed {seed}: {what}")));
    }
    for (place, term) in evolve.terms.iter().enumerate() {
        if repetitions.iter().all(|own| !own.varied[place]) {
            let figure = &term.figure;
            notes.push(format!("the term `{figure}` was the same for all candidates and steered nothing"));
        }
    }
    notes.extend(at_ends(evolve, repetitions));
    notes
}

/// Whether fitness rose over the looks and the outcome did not.
fn apart(evolve: &Evolve, own: &Repetition) -> Option<String> {
    let looks = &own.looks.all;
    let (first, last) = (looks.first()?, looks.last()?);
    let value = |look: &Look| evolve.worth_of(&look.figures);
    let rose = looks.len() >= LOOKS && value(last) > value(first);
    let outcome = |look: &Look| look.figures.outcome;
    let stayed = outcome(last) <= outcome(first);
    (rose && stayed).then(|| {
        format!(
            "the fitness rose on the yardstick from {:.3} to {:.3}, and `{}` did not, from {:.3} to {:.3}: the fitness \
             asks for something else",
            value(first).first(),
            value(last).first(),
            evolve.yardstick.figure,
            outcome(first),
            outcome(last)
        )
    })
}

/// Whether candidates that learn against each other forgot what they knew: the last look at the yardstick is worse than
/// an earlier one, beyond both intervals.
fn fell_back(evolve: &Evolve, own: &Repetition) -> Option<String> {
    evolve.rivals?;
    let Yardstick { figure, less, .. } = &evolve.yardstick;
    // The end of an interval that is least, and that which is most, where more is better.
    let ends = |look: &Look| look.range.map(|[low, high]| if *less { (-high, -low) } else { (low, high) });
    let (last, earlier) = own.looks.all.split_last()?;
    let best = earlier.iter().max_by(|a, b| {
        let low = |look: &Look| ends(look).map_or(f64::NEG_INFINITY, |own| own.0);
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
fn alike(own: &Repetition) -> Option<String> {
    let (first, last) = (own.generations.first()?.diversity, own.generations.last()?.diversity);
    (last < LOST * first).then(|| {
        format!(
            "the candidates have become alike ({:.1} % of the diversity at first): more mutation, or a larger population",
            100.0 * last / first
        )
    })
}

/// Knobs of champions that lie at an end of their ranges.
fn at_ends(evolve: &Evolve, repetitions: &[Repetition]) -> Vec<String> {
    let Shape::Knobs { free, .. } = &evolve.candidate.shape else { return Vec::new() };
    let champions = || repetitions.iter().filter_map(|own| Some(&own.looks.champion()?.pick.genome));
    let at_end = |place: usize| {
        let (low, high) = free[place].bounds();
        let share = |value: f64| (value - low) / (high - low);
        let values = champions().filter_map(|genome| evolve.candidate.values(genome)[place].number());
        values.map(share).filter(|share| *share < AT_END || *share > 1.0 - AT_END).count()
    };
    let numbers = (0..free.len()).filter(|place| matches!(free[*place].range, crate::FreeRange::Number { .. }));
    let note = |place: usize| {
        let (count, all) = (at_end(place), champions().count());
        let knob = &free[place].knob;
        (count > 0).then(|| format!("`{knob}` lies at an end of its range in {count} of {all} champions: widen it"))
    };
    numbers.filter_map(note).collect()
}

/// What the proof says of the search; `less` where less of the figure is wanted, `matches` those that what was seen of a
/// champion is of.
pub(super) fn of_proof(found: &EvolveFinding, less: bool, matches: u64) -> Vec<String> {
    let seeds = &found.search.seeds;
    let figure = &found.search.figure;
    let mut notes = found.search.notes.clone();
    // Against rivals nobody can be far better than the others for long.
    let comparable = found.search.learned_on != LearnedOn::Rivals;
    let far = |proved: Interval, seen: f64| {
        let width = proved.high - proved.low;
        let (apart, share) = (if less { proved.low - seen } else { seen - proved.high }, proved.value);
        // A share of few matches lies two standard deviations off by chance alone.
        let chance = if found.search.is_share { 2.0 * (share * (1.0 - share) / matches as f64).sqrt() } else { 0.0 };
        apart > width.max(chance)
    };
    let better = |own: &&SeedFound| comparable && own.proved.is_some_and(|proved| far(proved, own.seen));
    let fooled: Vec<&SeedFound> = seeds.iter().filter(better).collect();
    if let Some(worst) = fooled.iter().max_by(|a, b| a.excess().total_cmp(&b.excess())) {
        let proved = worst.proved.map_or(f64::NAN, |own| own.value);
        let (on, advice) = match (found.search.learned_on, found.search.fresh_blocks) {
            (LearnedOn::Elsewhere, _) => ("the yardstick", "let them learn on what the yardstick holds"),
            (_, true) => ("fresh blocks", "let them learn on more blocks"),
            (_, false) => ("fresh blocks", "let them learn on fresh blocks each generation"),
        };
        notes.push(format!(
            "{} of {} champions were far better where they learned than on {on}: the one of seed {} had `{figure}` {:.3} \
             there and has {proved:.3}; {advice}",
            fooled.len(),
            seeds.len(),
            worst.seed,
            worst.seen
        ));
    }
    let near = |own: &SeedFound| {
        let width = own.proved.map_or(f64::NAN, |proved| proved.high - proved.low);
        own.excess() <= if found.search.is_share { width.max(NEAR) } else { width }
    };
    if seeds.iter().all(near) && found.search.learned_on == LearnedOn::Yardstick {
        notes.push("the champions are about as good on fresh blocks as where they learned".into());
    }
    notes.extend(left_behind(seeds).map(|own| {
        let proved = own.proved.map_or(f64::NAN, |own| own.value);
        format!("seed {} did not follow the others: `{figure}` is {proved:.3}, and all others lie above it", own.seed)
    }));
    if seeds.len() == 1 {
        notes.push(
            "one repetition proves little: a search of another seed may find something else; use `seeds = 3`".into(),
        );
    }
    notes
}

/// The one seed whose interval lies below those of all others.
fn left_behind(seeds: &[SeedFound]) -> Option<&SeedFound> {
    let worst = seeds.iter().min_by(|a, b| a.value().total_cmp(&b.value()))?;
    let high = worst.proved?.high;
    let others = || seeds.iter().filter(|own| own.seed != worst.seed);
    let below = others().all(|own| own.proved.is_some_and(|proved| proved.low > high));
    (seeds.len() >= 3 && below).then_some(worst)
}
