//! The search: what to play next is a function of what was played, so that a search goes on exactly where it stopped.

use std::sync::atomic::AtomicBool;

use inkpot_core::GameEntry;

use super::choose::{Models, choose, choose_without, is_curve};
use super::curve::{Next, Sizes, next_values, seen_of};
use super::trial::play;
use super::{Point, Target, Trial, Tried, Tune, surface};

/// Tells what a search does.
#[derive(Clone, Debug, PartialEq)]
pub struct SearchRound {
    /// Matches so far.
    pub matches: u64,
    /// Matches that the budget allows.
    pub most: u64,
    /// The present choice, rung by rung, in words.
    pub choice: String,
}

/// What a search came to.
#[derive(Clone, Debug, PartialEq)]
pub struct Found {
    /// Each rung's values, with what is known of them.
    pub rungs: Vec<FoundRung>,
    /// Matches played.
    pub matches: u64,
}

/// The values of a rung.
#[derive(Clone, Debug, PartialEq)]
pub struct FoundRung {
    /// The values of the free knobs.
    pub point: Point,
    /// Interval of the one free knob, where a curve was followed: the value that gives the wanted rate.
    pub interval: Option<(f64, f64)>,
    /// Free knobs that lie at an end of their range.
    pub binds: Vec<String>,
    /// Hard targets that are out of reach by what was seen, each with what stands against it.
    pub misses: Vec<Miss>,
    /// Matches of the search on this rung.
    pub matches: u64,
}

/// A target that seems out of reach.
#[derive(Clone, Debug, PartialEq)]
pub struct Miss {
    /// The target.
    pub target: String,
    /// Targets without which it could be met.
    pub fights: Vec<String>,
    /// Whether it could be met if rungs were free of each other.
    pub order: bool,
}

/// Plays a search to its end, from what was played already; `keep` is shown the whole history after every round. None
/// when it was asked to stop.
pub fn search<E>(
    tune: &Tune,
    game: &dyn GameEntry,
    threads: usize,
    stop: &AtomicBool,
    mut history: Vec<Tried>,
    mut keep: impl FnMut(&[Tried], &SearchRound) -> Result<(), E>,
) -> Result<Option<Vec<Tried>>, E> {
    loop {
        let round = history.last().map_or(0, |tried| tried.round + 1);
        let trials = next_trials(tune, &history, round);
        if trials.is_empty() {
            return Ok(Some(history));
        }
        let Some(tried) = play(tune, &trials, round, game, threads, stop) else { return Ok(None) };
        history.extend(tried);
        let points = choose(tune, &Models::fit(tune, &history), &history);
        let each = tune.rungs.iter().zip(&points).map(|(rung, point)| format!("{}: {}", rung.name, tune.told(point)));
        let told = SearchRound {
            matches: matches(tune, &history),
            most: tune.budget * tune.rungs.len() as u64,
            choice: each.collect::<Vec<_>>().join("; "),
        };
        keep(&history, &told)?;
    }
}

/// Matches of a search.
pub(crate) fn matches(tune: &Tune, history: &[Tried]) -> u64 {
    history.iter().map(|tried| tried.trial.blocks * tune.matches_of(tried.trial.rung)).sum()
}

/// What to play next; nothing once the search is over.
pub(crate) fn next_trials(tune: &Tune, history: &[Tried], round: u64) -> Vec<Trial> {
    if !is_curve(tune) {
        return surface::next_trials(tune, history, round);
    }
    let mut trials = Vec::new();
    for (rung, own) in tune.rungs.iter().enumerate() {
        let (played, mut first_block) = surface::played(history, rung);
        let left = (tune.budget / tune.matches_of(rung)).saturating_sub(played);
        let target = &own.targets[0];
        let exact = tune.precision * target.within();
        let sizes = Sizes { matches_a_block: tune.matches_a_block(), blocks_left: left, exact };
        let Next::Play(values) = next_values(&tune.free[0], target, &seen_of(history, rung, 0), sizes) else {
            continue;
        };
        for (x, blocks) in values {
            let blocks = blocks.min(left);
            trials.push(Trial { rung, point: vec![x], first_block, blocks });
            first_block += blocks;
        }
    }
    trials.retain(|trial| trial.blocks > 0);
    trials
}

/// What a finished search came to.
pub fn found(tune: &Tune, history: &[Tried]) -> Found {
    let models = Models::fit(tune, history);
    let points: Vec<Point> = choose(tune, &models, history).iter().map(|point| tune.rounded(point)).collect();
    let rungs = points.iter().enumerate().map(|(rung, point)| FoundRung {
        point: point.clone(),
        interval: interval(tune, &models, rung),
        binds: binds(tune, point),
        misses: misses(tune, &models, history, rung, &points),
        matches: surface::played(history, rung).0 * tune.matches_of(rung),
    });
    Found { rungs: rungs.collect(), matches: matches(tune, history) }
}

fn interval(tune: &Tune, models: &Models, rung: usize) -> Option<(f64, f64)> {
    let Models::Curves(curves) = models else { return None };
    let found = curves[rung].as_ref()?.threshold?;
    let (low, high) = tune.free[0].bounds();
    (low..=high).contains(&found.value).then(|| found.interval(tune.confidence))
}

fn binds(tune: &Tune, point: &[f64]) -> Vec<String> {
    let each = tune.free.iter().zip(point);
    let ends = each.filter_map(|(free, x)| {
        let (low, high) = free.bounds();
        let near = 0.01 * (high - low);
        if matches!(free.range, super::FreeRange::Words(_)) {
            None
        } else if x - low <= near {
            Some(format!("{} is at its lowest, {low}", free.name()))
        } else if high - x <= near {
            Some(format!("{} is at its highest, {high}", free.name()))
        } else {
            None
        }
    });
    ends.collect()
}

fn misses(tune: &Tune, models: &Models, history: &[Tried], rung: usize, points: &[Point]) -> Vec<Miss> {
    let targets = &tune.rungs[rung].targets;
    let off = |target: &Target, mean: f64| mean < target.low || mean > target.high;
    let seen = models.at(tune, rung, &points[rung]);
    let missed = targets.iter().enumerate().filter(|(place, target)| target.hard && off(target, seen[*place].0));
    missed
        .map(|(place, target)| {
            let others = (0..targets.len()).filter(|other| *other != place);
            let fights = others.filter(|other| {
                let freed = choose_without(tune, models, history, Some((rung, *other)));
                !off(target, models.at(tune, rung, &freed[rung])[place].0)
            });
            Miss {
                target: target.full_name(),
                fights: fights.map(|other| targets[other].full_name()).collect(),
                order: free_of_order(tune, models, history, rung, place),
            }
        })
        .collect()
}

/// Whether a target could be met if its rung were alone.
fn free_of_order(tune: &Tune, models: &Models, history: &[Tried], rung: usize, place: usize) -> bool {
    let bound = tune.free.iter().any(|free| free.across != super::Across::Any || free.step.is_some());
    if !bound {
        return false;
    }
    let mut alone = tune.clone();
    for free in &mut alone.free {
        (free.across, free.step) = (super::Across::Any, None);
    }
    let point = &choose(&alone, models, history)[rung];
    let target = &tune.rungs[rung].targets[place];
    let mean = models.at(tune, rung, point)[place].0;
    mean >= target.low && mean <= target.high
}
