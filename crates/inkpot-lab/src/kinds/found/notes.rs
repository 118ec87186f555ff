//! Notes on searches: the known traps.

use std::cmp::Ordering;

use inkpot_stats::{Interval, left_behind, normal_share};

use super::aim::{Aim, LearnedOn};
use super::looks::{Look, Looks};
use super::{SearchFinding, SearchFound, SeedFound, StoppedBy, TargetVerdict};
use crate::note::Note;

/// The largest deviation from a share at which the proof still agrees.
const NEAR: f64 = 0.1;
/// Looks from which a trend over them can be told.
const LOOKS: usize = 5;

/// Writes the note on terms (called by `label`) that rose over the looks of a repetition while the outcome fell: both
/// by the rank test of Kendall (1938), at a level that holds over all repetitions.
pub(crate) fn apart(aim: &Aim, looks: &Looks, label: &str) -> Option<String> {
    let looks = &looks.all;
    let (first, last) = (looks.first()?, looks.last()?);
    let fitness: Vec<f64> = looks.iter().map(|look| aim.fitness_of(&look.figures).first()).collect();
    let sign = if aim.yardstick.less { -1.0 } else { 1.0 };
    let outcomes: Vec<f64> = looks.iter().map(|look| sign * look.figures.outcome).collect();
    let level = (1.0 - aim.ground.confidence) / 2.0 / aim.seeds as f64;
    let is_sure = |trend: f64| normal_share(-trend) <= level;
    let apart = looks.len() >= LOOKS && is_sure(trend(&fitness)) && is_sure(-trend(&outcomes));
    let figure = &aim.yardstick.figure;
    apart.then(|| {
        format!(
            "the {label} rose from {:.3} to {:.3} on the yardstick while `{figure}` fell from {:.3} to {:.3}, so it rewards \
             something else; add a term for `{figure}`",
            fitness[0],
            fitness[fitness.len() - 1],
            first.figures.outcome,
            last.figures.outcome
        )
    })
}

/// Whether no look of a repetition had any success.
pub(crate) fn is_without_success(aim: &Aim, looks: &Looks) -> bool {
    let yardstick = &aim.yardstick;
    let never = looks.all.iter().all(|look| look.figures.outcome == 0.0);
    never && yardstick.is_share && !yardstick.less && !looks.all.is_empty()
}

/// Whether the outcome rose over the looks of a repetition, by the rank test of Kendall (1938).
pub(crate) fn has_risen(aim: &Aim, looks: &Looks) -> bool {
    let sign = if aim.yardstick.less { -1.0 } else { 1.0 };
    let outcomes: Vec<f64> = looks.all.iter().map(|look| sign * look.figures.outcome).collect();
    outcomes.len() >= LOOKS && normal_share(-trend(&outcomes)) <= (1.0 - aim.ground.confidence) / 2.0
}

/// The best of all looks and the last one, where the last is worse beyond both intervals.
pub(crate) fn fell_back<'a>(aim: &Aim, looks: &'a Looks) -> Option<(&'a Look, &'a Look)> {
    // The end of an interval that is least, and that which is most, where more is better.
    let ends = |look: &Look| look.range.map(|[low, high]| if aim.yardstick.less { (-high, -low) } else { (low, high) });
    let (last, earlier) = looks.all.split_last()?;
    let best = earlier.iter().max_by(|a, b| {
        let low = |look: &Look| ends(look).map_or(f64::NEG_INFINITY, |end| end.0);
        low(a).total_cmp(&low(b))
    })?;
    (ends(best)?.0 > ends(last)?.1).then_some((best, last))
}

/// Notes on one repetition, by its number.
pub(crate) fn of_repetition(
    number: u64,
    each: impl IntoIterator<Item = (Note, Option<String>)>,
) -> impl Iterator<Item = String> {
    each.into_iter().filter_map(move |(note, what)| Some(note.says(format!("repetition {number}: {}", what?))))
}

/// Writes the note on a repetition none of whose looks had any success.
pub(crate) fn never_succeeded(aim: &Aim, looks: &Looks, label: &str) -> Option<String> {
    let yardstick = &aim.yardstick;
    is_without_success(aim, looks).then(|| {
        format!(
            "`{}` was 0 at every look, so nothing shows that the {label} leads there. Give it more matches, an easier start, or a \
             {label} that pays on the way",
            yardstick.figure
        )
    })
}

/// The trend of numbers over time, in standard deviations of its chance (Kendall's statistic, made smaller by one for
/// continuity; ties count for neither side).
fn trend(of: &[f64]) -> f64 {
    let n = of.len() as f64;
    let pairs = (0..of.len()).flat_map(|later| (0..later).map(move |earlier| (earlier, later)));
    let sum: f64 = pairs
        .map(|(earlier, later)| match of[later].partial_cmp(&of[earlier]) {
            Some(Ordering::Greater) => 1.0,
            Some(Ordering::Less) => -1.0,
            _ => 0.0,
        })
        .sum();
    (sum.abs() - 1.0).max(0.0).copysign(sum) / (n * (n - 1.0) * (2.0 * n + 5.0) / 18.0).sqrt()
}

/// Compares the proof with the search: all notes on a proved search. `matches` is the number of matches behind a champion's
/// training figure.
pub(crate) fn of_proof(found: &SearchFinding, matches: u64, confidence: f64) -> Vec<String> {
    let (seeds, less) = (&found.search.seeds, found.search.less);
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
    let better = |seed_found: &&SeedFound| {
        comparable && seed_found.proved.is_some_and(|proved| far(proved, seed_found.training))
    };
    let fooled: Vec<&SeedFound> = seeds.iter().filter(better).collect();
    if let Some(worst) = fooled.iter().max_by(|a, b| a.excess().total_cmp(&b.excess())) {
        let proved = worst.proved.map_or(f64::NAN, |proved| proved.value);
        let (on, advice) = match (found.search.learned_on, found.search.fresh_blocks) {
            (LearnedOn::Elsewhere, _) => ("the yardstick", "train on what the yardstick holds"),
            (_, true) => ("fresh blocks", "train on more blocks"),
            (_, false) => ("fresh blocks", "train on fresh blocks each generation"),
        };
        notes.push(Note::Overfit.says(format!(
            "{} of {} champions were far better in training than on {on}: that of repetition {} had `{figure}` {:.3} in training and \
             has {proved:.3}. So {advice}",
            fooled.len(),
            seeds.len(),
            worst.seed,
            worst.training
        )));
    }
    let fooled_together = fooled.is_empty() && comparable && worse_together(&found.search, matches, confidence);
    if fooled_together {
        let mean = |of: &dyn Fn(&SeedFound) -> f64| seeds.iter().map(of).sum::<f64>() / seeds.len() as f64;
        notes.push(Note::Overfit.says(format!(
            "the champions had `{figure}` {:.3} on average in the few matches that chose them, and have {:.3} on fresh blocks; train \
             on more blocks",
            mean(&|seed| seed.training),
            mean(&|seed| seed.proved.map_or(f64::NAN, |proved| proved.value))
        )));
    }
    // All that the proof leaves open is near, and there is something to hold.
    let holds = |repetition: &SeedFound| {
        let near = |end: f64| (repetition.training - end).abs() <= NEAR;
        repetition.proved.is_some_and(|proved| near(proved.low) && near(proved.high) && proved.low > NEAR)
    };
    let on_yardstick = found.search.learned_on == LearnedOn::Yardstick;
    if found.search.is_share && on_yardstick && fooled.is_empty() && !fooled_together && seeds.iter().all(holds) {
        notes.push(Note::Holds.says(format!(
            "the champions perform on fresh blocks as they did in training, within {:.0} percentage points",
            100.0 * NEAR
        )));
    }
    notes.extend(contradicted(&found.search));
    notes.extend(elsewhere(found, less));
    let values: Vec<f64> = seeds.iter().map(SeedFound::value).collect();
    notes.extend(left_behind(&values, less, confidence).map(|place| {
        let side = if less { "above" } else { "below" };
        Note::Outlier.says(format!(
            "repetition {} has `{figure}` {:.3}, too far {side} the others for chance (Grubbs' test); watch its champion before you \
             trust the method",
            seeds[place].seed, values[place]
        ))
    }));
    if seeds.len() == 1 && found.search.stopped_by != StoppedBy::Solved {
        notes.push(Note::OneRepetition.says("another repetition may find something else; set `seeds = 3` or more"));
    }
    notes
}

/// Whether all champions' training figures together exceed their proofs by more than chance: each alone may, over few
/// matches.
fn worse_together(found: &SearchFound, matches: u64, confidence: f64) -> bool {
    if !found.is_share || matches == 0 {
        return false;
    }
    let sign = if found.less { -1.0 } else { 1.0 };
    let (mut gap, mut variance) = (0.0, 0.0);
    for seed in &found.seeds {
        let Some(proved) = seed.proved else { return false };
        gap += sign * (seed.training - proved.value);
        let proof = (proved.high - proved.low) / 4.0;
        variance += proved.value * (1.0 - proved.value) / matches as f64 + proof * proof;
    }
    variance > 0.0
        && normal_share(-gap / variance.sqrt()) <= (1.0 - confidence) / 2.0
        && gap > NEAR * found.seeds.len() as f64
}

/// Repetitions that ended by the target, and whose proof lies wholly short of it.
fn contradicted(found: &SearchFound) -> Option<String> {
    let ended = || found.seeds.iter().filter(|repetition| repetition.stopped_by == StoppedBy::Target);
    let missed = |repetition: &&SeedFound| found.verdict(repetition) == Some(TargetVerdict::Missed);
    let first = ended().find(missed)?;
    let (target, proved) = (found.target?, first.proved?);
    Some(Note::Missed.says(format!(
        "{} of {} repetitions stopped at the target of {target} and miss it on fresh blocks: repetition {} has `{}` {:.3} \
         ({:.3} to {:.3}). The blocks that confirmed it were lucky; raise `matches` under [yardstick]",
        ended().filter(missed).count(),
        ended().count(),
        first.seed,
        found.figure,
        proved.value,
        proved.low,
        proved.high
    )))
}

/// Writes the note on champions that are worse on levels held back.
fn elsewhere(found: &SearchFinding, less: bool) -> Option<String> {
    let both = |seed_found: &SeedFound| seed_found.proved.zip(seed_found.held_back);
    let pairs: Vec<(u64, Interval, Interval)> =
        found.search.seeds.iter().filter_map(|seed| both(seed).map(|(here, there)| (seed.seed, here, there))).collect();
    let gap = |here: &Interval, there: &Interval| if less { there.low - here.high } else { here.low - there.high };
    let worse = || pairs.iter().filter(|(_, here, there)| gap(here, there) > 0.0);
    let figure = &found.search.figure;
    if let Some((seed, here, there)) = worse().max_by(|a, b| gap(&a.1, &a.2).total_cmp(&gap(&b.1, &b.2))) {
        return Some(Note::HeldBack.says(format!(
            "{} of {} champions are worse on the levels held back: that of repetition {seed} has `{figure}` {:.3} on the yardstick \
             and {:.3} there; train on more levels",
            worse().count(),
            pairs.len(),
            here.value,
            there.value
        )));
    }
    let near = |(_, here, there): &(u64, Interval, Interval)| {
        here.value > 2.0 * NEAR && (here.value - there.value).abs() <= NEAR
    };
    (!pairs.is_empty() && found.search.is_share && pairs.iter().all(near)).then(|| {
        Note::Holds.says(format!(
            "the champions perform on the levels held back as on the yardstick, within {:.0} percentage points",
            100.0 * NEAR
        ))
    })
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
            reached: None,
            training: seen,
            proved: Some(interval(proved, 0.02)),
            held_back: None,
            legs: Vec::new(),
            training_fitness: seen,
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
            less: false,
            target: None,
            in_turn: false,
            fresh_blocks: false,
            learned_on: LearnedOn::Yardstick,
            over_repetitions: None,
            champion: "champion.toml".into(),
            champion_seed: 1,
            sampled: None,
            notes: Vec::new(),
            seeds,
        };
        SearchFinding { search, map: None }
    }

    fn says(found: &SearchFinding, what: &str) -> bool {
        of_proof(found, 1_000, 0.95).iter().any(|note| note.contains(what))
    }

    #[test]
    fn champions_far_better_in_training_are_named_by_the_worst() {
        let found = finding(vec![seed(1, 0.62, 0.6), seed(2, 0.9, 0.6), seed(3, 0.75, 0.6)]);
        assert!(says(
            &found,
            "overfit: 2 of 3 champions were far better in training than on fresh blocks: that of repetition 2"
        ));
        assert!(says(&found, "train on fresh blocks each generation"));
        let mut fresh = found.clone();
        fresh.search.fresh_blocks = true;
        assert!(says(&fresh, "So train on more blocks"));
        let mut elsewhere = found.clone();
        elsewhere.search.learned_on = LearnedOn::Elsewhere;
        assert!(says(&elsewhere, "in training than on the yardstick"));
        let mut rivals = found;
        rivals.search.learned_on = LearnedOn::Rivals;
        assert!(!says(&rivals, "far better"), "against rivals nobody is far better for long");
    }

    #[test]
    fn champions_that_each_had_a_lucky_handful_are_told_together() {
        // Two matches each: all won where they learned, half of them on fresh blocks.
        let lucky = finding(vec![seed(1, 1.0, 0.5), seed(2, 1.0, 0.45), seed(3, 1.0, 0.55)]);
        let is_noted = |found: &SearchFinding, matches: u64| {
            of_proof(found, matches, 0.95)
                .iter()
                .any(|note| note.contains("1.000 on average in the few matches that chose them"))
        };
        assert!(is_noted(&lucky, 2));
        let alone = finding(vec![seed(1, 1.0, 0.5)]);
        assert!(!is_noted(&alone, 2), "of one repetition, two matches won are luck enough");
        let near = finding(vec![seed(1, 1.0, 0.96), seed(2, 1.0, 0.95), seed(3, 1.0, 0.95)]);
        assert!(!is_noted(&near, 2));
    }

    #[test]
    fn what_was_seen_of_few_matches_may_lie_off_by_chance() {
        let found = finding(vec![seed(1, 0.7, 0.6), seed(2, 0.6, 0.6)]);
        let far = |matches: u64| of_proof(&found, matches, 0.95).iter().any(|note| note.contains("far better"));
        // Two standard deviations of a share of 0.6: 0.22 of 20 matches, 0.03 of 1,000; the interval ends 0.02 above.
        assert!(!far(20) && far(1_000));
    }

    #[test]
    fn where_less_is_wanted_a_champion_is_far_better_below() {
        let mut found = finding(vec![seed(1, 0.3, 0.6), seed(2, 0.6, 0.6)]);
        found.search.is_share = false;
        let mut far = |less: bool| {
            found.search.less = less;
            says(&found, "far better")
        };
        assert!(far(true) && !far(false));
    }

    #[test]
    fn champions_that_hold_are_said_to_hold() {
        let holds = |seen: f64, proved: f64| says(&finding(vec![seed(1, seen, proved)]), "perform on fresh blocks as");
        assert!(holds(0.62, 0.6) && holds(0.58, 0.6));
        // The interval reaches further than that, a champion is far better, or there is nothing to hold.
        assert!(!holds(0.69, 0.6) && !holds(0.8, 0.6) && !holds(0.05, 0.06));
        let mixed = finding(vec![seed(1, 0.62, 0.6), seed(2, 0.9, 0.6)]);
        assert!(says(&mixed, "far better") && !says(&mixed, "perform on fresh blocks as"));
    }

    #[test]
    fn a_stop_that_the_proof_contradicts_is_named() {
        let mut found = finding(vec![seed(1, 0.7, 0.7), seed(2, 0.7, 0.6), seed(3, 0.7, 0.6)]);
        found.search.target = Some(0.7);
        found.search.seeds[2].stopped_by = StoppedBy::Target;
        assert!(says(
            &found,
            "1 of 1 repetitions stopped at the target of 0.7 and miss it on fresh blocks: repetition 3"
        ));
        found.search.seeds[2].proved = Some(interval(0.69, 0.02));
        assert!(!says(&found, "miss it"), "the interval reaches the target");
        found.search.target = Some(0.5);
        found.search.less = true;
        assert!(says(&found, "miss it"), "where less is wanted, more falls short");
    }

    #[test]
    fn trends_are_those_of_kendall() {
        // Ten in order: 45 pairs, less one for continuity, over a deviation of sqrt(125).
        let rising: Vec<f64> = (0..10).map(f64::from).collect();
        assert!((trend(&rising) - 44.0 / 125f64.sqrt()).abs() < 1e-12);
        assert_eq!(trend(&[1.0, 1.0, 1.0]), 0.0);
        assert!(trend(&[3.0, 2.0, 1.0]) < 0.0);
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
        assert!(says(&held_back(0.5), "held-back: 2 of 2 champions are worse on the levels held back"));
        let near = held_back(0.57);
        assert!(!says(&near, "are worse") && says(&near, "perform on the levels held back as on the yardstick"));
        assert!(!says(&finding(vec![seed(1, 0.6, 0.6)]), "held back"));
    }

    #[test]
    fn an_outlier_is_named_from_five_repetitions_on() {
        let with = |values: &[f64]| finding(values.iter().zip(1..).map(|(&x, number)| seed(number, x, x)).collect());
        assert!(says(&with(&[0.6, 0.3, 0.62, 0.61, 0.6]), "outlier: repetition 2 has `win_rate` 0.300, too far below"));
        assert!(!says(&with(&[0.6, 0.57, 0.62, 0.61, 0.64]), "outlier"));
        assert!(!says(&with(&[0.6, 0.3, 0.62]), "outlier"), "of three the lowest is none");
    }

    #[test]
    fn one_repetition_proves_little_unless_it_looked_through_everything() {
        let mut found = finding(vec![seed(1, 0.6, 0.6)]);
        assert!(says(&found, "one-repetition: another"));
        found.search.stopped_by = StoppedBy::Solved;
        assert!(!says(&found, "one-repetition"));
        assert!(!says(&finding(vec![seed(1, 0.6, 0.6), seed(2, 0.6, 0.6)]), "one-repetition"));
    }
}
