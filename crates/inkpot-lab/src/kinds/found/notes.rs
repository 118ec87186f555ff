//! What should be known before a search is believed: the traps that searches are known for.

use inkpot_stats::Interval;

use super::aim::{Aim, LearnedOn};
use super::looks::{Look, Looks};
use super::{SearchFinding, SeedFound, StoppedBy};

/// A share this near to what was proved holds.
const NEAR: f64 = 0.1;
/// Looks from which it can be told whether fitness and outcome go together.
const LOOKS: usize = 5;

/// Whether what the terms are worth (called `worth`) rose over the looks, and the outcome did not, short of success.
pub(crate) fn apart(aim: &Aim, looks: &Looks, label: &str) -> Option<String> {
    let looks = &looks.all;
    let (first, last) = (looks.first()?, looks.last()?);
    let value = |look: &Look| aim.fitness_of(&look.figures);
    let rose = looks.len() >= LOOKS && value(last) > value(first);
    let outcome = |look: &Look| look.figures.outcome;
    let stayed = outcome(last) <= outcome(first) && !aim.yardstick.succeeded(outcome(last));
    (rose && stayed).then(|| {
        format!(
            "the {label} rose on the yardstick from {:.3} to {:.3}, and `{}` did not, from {:.3} to {:.3}: the {label} \
             asks for something else",
            value(first).first(),
            value(last).first(),
            aim.yardstick.figure,
            outcome(first),
            outcome(last)
        )
    })
}

/// What the proof says of the search; `less` where less of the figure is wanted, `matches` those that what was seen of a
/// champion is of.
pub(crate) fn of_proof(found: &SearchFinding, less: bool, matches: u64) -> Vec<String> {
    let seeds = &found.search.seeds;
    let figure = &found.search.figure;
    let mut notes = found.search.notes.clone();
    // Against rivals nobody can be far better than the others for long.
    let comparable = found.search.learned_on != LearnedOn::Rivals;
    let far = |proved: Interval, chosen_at: f64| {
        let width = proved.high - proved.low;
        let (apart, share) = (if less { proved.low - chosen_at } else { chosen_at - proved.high }, proved.value);
        // A share of few matches lies two standard deviations off by chance alone.
        let chance = if found.search.is_share { 2.0 * (share * (1.0 - share) / matches as f64).sqrt() } else { 0.0 };
        apart > width.max(chance)
    };
    let better =
        |seed_found: &&SeedFound| comparable && seed_found.proved.is_some_and(|proved| far(proved, seed_found.seen));
    let fooled: Vec<&SeedFound> = seeds.iter().filter(better).collect();
    if let Some(worst) = fooled.iter().max_by(|a, b| a.excess().total_cmp(&b.excess())) {
        let proved = worst.proved.map_or(f64::NAN, |proved| proved.value);
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
    let near = |seed_found: &SeedFound| {
        let width = seed_found.proved.map_or(f64::NAN, |proved| proved.high - proved.low);
        seed_found.excess() <= if found.search.is_share { width.max(NEAR) } else { width }
    };
    if seeds.iter().all(near) && found.search.learned_on == LearnedOn::Yardstick {
        notes.push("the champions are about as good on fresh blocks as where they learned".into());
    }
    notes.extend(elsewhere(found, less));
    notes.extend(left_behind(seeds).map(|found| {
        let proved = found.proved.map_or(f64::NAN, |proved| proved.value);
        format!("seed {} did not follow the others: `{figure}` is {proved:.3}, and all others lie above it", found.seed)
    }));
    if seeds.len() == 1 && found.search.stopped_by != StoppedBy::Solved {
        notes.push(
            "one repetition proves little: a search of another seed may find something else; use `seeds = 3`".into(),
        );
    }
    notes
}

/// Whether what was learned holds on levels that were held back.
fn elsewhere(found: &SearchFinding, less: bool) -> Option<String> {
    let both = |seed_found: &SeedFound| seed_found.proved.zip(seed_found.held_back);
    let pairs: Vec<(u64, Interval, Interval)> =
        found.search.seeds.iter().filter_map(|seed| both(seed).map(|(here, there)| (seed.seed, here, there))).collect();
    let gap = |here: &Interval, there: &Interval| if less { there.low - here.high } else { here.low - there.high };
    let worse = || pairs.iter().filter(|(_, here, there)| gap(here, there) > 0.0);
    let figure = &found.search.figure;
    if let Some((seed, here, there)) = worse().max_by(|a, b| gap(&a.1, &a.2).total_cmp(&gap(&b.1, &b.2))) {
        return Some(format!(
            "{} of {} champions are worse on the levels that were held back: the one of seed {seed} has `{figure}` {:.3} on the \
             yardstick and {:.3} there; let them learn on more levels",
            worse().count(),
            pairs.len(),
            here.value,
            there.value
        ));
    }
    let near = |(_, here, there): &(u64, Interval, Interval)| {
        here.value > 2.0 * NEAR && (here.value - there.value).abs() <= NEAR
    };
    (!pairs.is_empty() && found.search.is_share && pairs.iter().all(near))
        .then(|| "the champions are about as good on the levels that were held back".into())
}

/// The one seed whose interval lies below those of all others.
fn left_behind(seeds: &[SeedFound]) -> Option<&SeedFound> {
    let worst = seeds.iter().min_by(|a, b| a.value().total_cmp(&b.value()))?;
    let high = worst.proved?.high;
    let others = || seeds.iter().filter(|seed| seed.seed != worst.seed);
    let below = others().all(|seed| seed.proved.is_some_and(|proved| proved.low > high));
    (seeds.len() >= 3 && below).then_some(worst)
}
