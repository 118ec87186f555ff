//! What should be known before a search is believed: the traps that searches are known for.

use inkpot_stats::Interval;

use super::aim::{Aim, LearnedOn};
use super::looks::{Look, Looks};
use super::{SearchFinding, SeedFound, StoppedBy};

/// A share this near to what was proved holds.
const NEAR: f64 = 0.1;
/// Looks from which it can be told whether fitness and outcome go together.
const LOOKS: usize = 5;

/// Whether what the terms are worth (called by `label`) rose over the looks, and the outcome did not, short of success.
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

#[cfg(test)]
mod tests {
    use inkpot_core::Knobs;

    use super::*;
    use crate::kinds::found::{EvolutionName, MethodName, SearchFound};

    fn interval(value: f64, half: f64) -> Interval {
        Interval { value, low: value - half, high: value + half }
    }

    /// A repetition whose champion had `seen` in training and `proved` on fresh blocks.
    fn seed(seed: u64, seen: f64, proved: f64) -> SeedFound {
        SeedFound {
            seed,
            matches: 1_000,
            steps: 100_000,
            decisions: None,
            generations: 10,
            stopped_by: StoppedBy::Budget,
            first_success: None,
            seen,
            proved: Some(interval(proved, 0.02)),
            held_back: None,
            legs: Vec::new(),
            fitness_seen: seen,
            terms: Vec::new(),
            knobs: Knobs::default(),
        }
    }

    fn finding(seeds: Vec<SeedFound>) -> SearchFinding {
        let search = SearchFound {
            method: MethodName::Evolution(EvolutionName::Genetic),
            stopped_by: StoppedBy::Budget,
            figure: "win_rate".into(),
            is_share: true,
            target: None,
            in_turn: false,
            fresh_blocks: false,
            learned_on: LearnedOn::Yardstick,
            champion: "champion.toml".into(),
            champion_seed: 1,
            notes: Vec::new(),
            seeds,
        };
        SearchFinding { search, map: None }
    }

    fn says(found: &SearchFinding, what: &str) -> bool {
        of_proof(found, false, 1_000).iter().any(|note| note.contains(what))
    }

    #[test]
    fn champions_far_better_in_training_are_named_by_the_worst() {
        let found = finding(vec![seed(1, 0.62, 0.6), seed(2, 0.9, 0.6), seed(3, 0.75, 0.6)]);
        assert!(says(
            &found,
            "2 of 3 champions were far better where they learned than on fresh blocks: the one of seed 2"
        ));
        assert!(says(&found, "let them learn on fresh blocks each generation"));
        let mut fresh = found.clone();
        fresh.search.fresh_blocks = true;
        assert!(says(&fresh, "let them learn on more blocks"));
        let mut elsewhere = found.clone();
        elsewhere.search.learned_on = LearnedOn::Elsewhere;
        assert!(says(&elsewhere, "than on the yardstick"));
        let mut rivals = found;
        rivals.search.learned_on = LearnedOn::Rivals;
        assert!(!says(&rivals, "far better"), "against rivals nobody is far better for long");
    }

    #[test]
    fn what_was_seen_of_few_matches_may_lie_off_by_chance() {
        let found = finding(vec![seed(1, 0.7, 0.6), seed(2, 0.6, 0.6)]);
        let far = |matches: u64| of_proof(&found, false, matches).iter().any(|note| note.contains("far better"));
        // Two standard deviations of a share of 0.6: 0.22 of 20 matches, 0.03 of 1,000; the interval ends 0.02 above.
        assert!(!far(20) && far(1_000));
    }

    #[test]
    fn where_less_is_wanted_a_champion_is_far_better_below() {
        let mut found = finding(vec![seed(1, 0.3, 0.6), seed(2, 0.6, 0.6)]);
        found.search.is_share = false;
        let far = |less: bool| of_proof(&found, less, 1_000).iter().any(|note| note.contains("far better"));
        assert!(far(true) && !far(false));
    }

    #[test]
    fn champions_that_hold_are_said_to_hold() {
        assert!(says(&finding(vec![seed(1, 0.62, 0.6), seed(2, 0.58, 0.6)]), "about as good on fresh blocks"));
        assert!(!says(&finding(vec![seed(1, 0.8, 0.6), seed(2, 0.58, 0.6)]), "about as good on fresh blocks"));
    }

    #[test]
    fn levels_that_were_held_back_are_worse_only_beyond_the_intervals() {
        let held_back = |there: f64| {
            let mut found = finding(vec![seed(1, 0.6, 0.6), seed(2, 0.6, 0.6)]);
            for seed in &mut found.search.seeds {
                seed.held_back = Some(interval(there, 0.02));
            }
            found
        };
        assert!(says(&held_back(0.5), "2 of 2 champions are worse on the levels that were held back"));
        let near = held_back(0.57);
        assert!(!says(&near, "are worse") && says(&near, "about as good on the levels that were held back"));
        assert!(!says(&finding(vec![seed(1, 0.6, 0.6)]), "held back"));
    }

    #[test]
    fn one_seed_is_left_behind_only_below_the_intervals_of_all_others() {
        assert!(says(
            &finding(vec![seed(1, 0.6, 0.6), seed(2, 0.3, 0.3), seed(3, 0.62, 0.62)]),
            "seed 2 did not follow"
        ));
        assert!(!says(&finding(vec![seed(1, 0.6, 0.6), seed(2, 0.57, 0.57), seed(3, 0.62, 0.62)]), "did not follow"));
        assert!(!says(&finding(vec![seed(1, 0.6, 0.6), seed(2, 0.3, 0.3)]), "did not follow"), "two tell nothing");
    }

    #[test]
    fn one_repetition_proves_little_unless_it_looked_through_everything() {
        let mut found = finding(vec![seed(1, 0.6, 0.6)]);
        assert!(says(&found, "one repetition proves little"));
        found.search.stopped_by = StoppedBy::Solved;
        assert!(!says(&found, "proves little"));
        assert!(!says(&finding(vec![seed(1, 0.6, 0.6), seed(2, 0.6, 0.6)]), "proves little"));
    }
}
