//! The search: the next probes are a function of those played, so that it continues exactly after a stop.

use inkpot_core::{GameEntry, Registry, Rows, Setting};
use inkpot_stats::Solved;

use super::choose::{choose, choose_without};
use super::curve::{Next, Sizes, next_values, samples_of};
use super::found::{Found, FoundRung, Miss};
use super::history::{read_history, write_history};
use super::models::Models;
use super::probe::block_figures;
use super::{Point, Probe, Probed, Proof, Sheet, Target, Tune, proposing};
use crate::checker::found_game;
use crate::searching::{Ask, Results, SearchRound, SearchWork, Searching};
use crate::work::Play;
use crate::{CheckpointError, Ground, Made, Plan, Problem, Seeks};

/// The search of a tuning: the next probes are a function of those played.
pub struct TuneSearch<'a> {
    tune: &'a Tune,
    game: &'a dyn GameEntry,
    played: Vec<Probed>,
    asked: Vec<Probe>,
}

impl<'a> TuneSearch<'a> {
    /// Builds a search that continues from these probes.
    pub fn new(tune: &'a Tune, game: &'a dyn GameEntry, played: Vec<Probed>) -> Self {
        Self { tune, game, played, asked: Vec::new() }
    }

    /// The probes so far, in the order in which they were played.
    pub fn played(&self) -> &[Probed] {
        &self.played
    }

    fn next_round(&self) -> u64 {
        self.played.last().map_or(0, |last| last.round + 1)
    }
}

impl Seeks for Tune {
    fn ground(&self) -> &Ground {
        &self.ground
    }

    fn proof_blocks(&self) -> u64 {
        let players: u64 = self.rungs.iter().map(|rung| rung.players.len() as u64).sum();
        self.proof.div_ceil(self.matches_a_block()) * players
    }

    fn samples(&self, game: &dyn GameEntry) -> Vec<Setting> {
        let middle = self.point_at(&vec![0.5; self.free.len()]);
        (0..self.rungs.len()).flat_map(|rung| self.settings(rung, &middle, game)).collect()
    }

    fn begin<'a>(
        &'a self,
        game: &'a dyn GameEntry,
        checkpoint: Option<&str>,
    ) -> Result<Box<dyn Searching + 'a>, CheckpointError> {
        let played = checkpoint.map(|text| played(self, text)).transpose()?.unwrap_or_default();
        Ok(Box::new(TuneSearch::new(self, game, played)))
    }

    fn work<'a>(&'a self, game: &'a dyn GameEntry) -> Result<Box<dyn SearchWork + 'a>, CheckpointError> {
        Ok(Box::new(TuneWork { tune: self, game }))
    }
}

/// The work of a tuning's workers: the reading of a play is its rung.
struct TuneWork<'a> {
    tune: &'a Tune,
    game: &'a dyn GameEntry,
}

impl SearchWork for TuneWork<'_> {
    fn figures(&self, rung: usize, rows: &[Rows]) -> Vec<f64> {
        block_figures(self.tune, rung, rows, self.game.sheet())
    }
}

impl Tune {
    /// Returns the plan of the proof for the finished search of this checkpoint. Errs if there is nothing to prove.
    pub fn prove(&self, checkpoint: &str, made: &Made, registry: &Registry) -> Result<(Plan, Proof), Vec<Problem>> {
        let played = played(self, checkpoint).map_err(|error| vec![Problem::new("", error.0, "search anew")])?;
        let game = found_game(registry, &self.ground.game)?;
        let sheet = Sheet::of(self, &found(self, &played), made, game);
        Proof::plan(&sheet, &self.ground.game, self.ground.level.clone(), registry)
    }
}

/// Reads the played probes from a checkpoint.
fn played(tune: &Tune, checkpoint: &str) -> Result<Vec<Probed>, CheckpointError> {
    read_history(tune, checkpoint).map_err(|error| CheckpointError(error.to_string()))
}

impl Searching for TuneSearch<'_> {
    fn next(&mut self) -> Ask {
        self.asked = next_probes(self.tune, &self.played, self.next_round());
        if self.asked.is_empty() {
            return Ask::Finished;
        }
        let play = |probe: &Probe| Play {
            settings: self.tune.settings(probe.rung, &probe.point, self.game),
            first_block: probe.first_block,
            blocks: probe.blocks,
            reading: probe.rung,
        };
        Ask::Play(self.asked.iter().map(play).collect())
    }

    fn take(&mut self, results: Results) {
        let round = self.next_round();
        for (probe, blocks) in std::mem::take(&mut self.asked).into_iter().zip(results) {
            let targets = self.tune.rungs[probe.rung].targets.len();
            self.played.push(Probed::of(round, probe, targets, &blocks));
        }
    }

    /// The history says all, exact to the last bit.
    fn checkpoint(&self) -> String {
        self.history()
    }

    fn history(&self) -> String {
        write_history(self.tune, &self.played)
    }

    fn round(&self) -> SearchRound {
        let tune = self.tune;
        let points = choose(tune, &Models::fit(tune, &self.played), &self.played);
        let each =
            tune.rungs.iter().zip(&points).map(|(rung, point)| format!("{}: {}", rung.name, tune.point_text(point)));
        SearchRound {
            rounds: self.played.len() as u64,
            unit: "matches",
            spent: matches(tune, &self.played),
            most: tune.budget * tune.rungs.len() as u64,
            choice: each.collect::<Vec<_>>().join("; "),
        }
    }
}

/// Matches of a search.
pub(crate) fn matches(tune: &Tune, history: &[Probed]) -> u64 {
    history.iter().map(|tried| tried.probe.blocks * tune.matches_of(tried.probe.rung)).sum()
}

/// Returns the next probes; none once the search is over.
pub(crate) fn next_probes(tune: &Tune, history: &[Probed], round: u64) -> Vec<Probe> {
    if !tune.follows_a_curve() {
        return proposing::next_probes(tune, history, round);
    }
    let mut probes = Vec::new();
    let chosen = if history.is_empty() { Vec::new() } else { choose(tune, &Models::fit(tune, history), history) };
    for (rung, steps) in tune.rungs.iter().enumerate() {
        let (played, mut first_block) = proposing::played(history, rung);
        let left = (tune.budget / tune.matches_of(rung)).saturating_sub(played);
        let target = &steps.targets[0];
        let exact = tune.precision * target.within();
        let sizes = Sizes { matches_a_block: tune.matches_a_block(), blocks_left: left, exact };
        let near = chosen.get(rung).map(|point| point[0]);
        let samples = samples_of(history, rung, 0);
        let next = next_values(&tune.free[0], target, &samples, sizes, tune.ground.confidence, near);
        let Next::Play(values) = next else { continue };
        for (x, blocks) in values {
            let blocks = blocks.min(left);
            probes.push(Probe { rung, point: vec![x], first_block, blocks });
            first_block += blocks;
        }
    }
    probes.retain(|probe| probe.blocks > 0);
    probes
}

/// The result of a finished search.
pub fn found(tune: &Tune, history: &[Probed]) -> Found {
    let models = Models::fit(tune, history);
    let points: Vec<Point> = choose(tune, &models, history).iter().map(|point| tune.rounded(point)).collect();
    let rungs = points.iter().enumerate().map(|(rung, point)| {
        let (interval, others) = solutions(tune, &models, rung, point);
        FoundRung {
            point: point.clone(),
            interval,
            others,
            binds: binds(tune, point),
            misses: misses(tune, &models, history, rung, &points),
            matches: proposing::played(history, rung).0 * tune.matches_of(rung),
        }
    });
    Found { rungs: rungs.collect(), matches: matches(tune, history) }
}

/// The interval of a rung's value, where it is one that gives the wanted rate and not one that something else holds it
/// to, and the other values that give it. An end beyond the range is that of the range.
fn solutions(tune: &Tune, models: &Models, rung: usize, point: &[f64]) -> (Option<(f64, f64)>, Vec<Solved>) {
    let Models::Curves(curves) = models else { return (None, Vec::new()) };
    let Some(known) = &curves[rung] else { return (None, Vec::new()) };
    let (low, high) = tune.free[0].bounds();
    let ends = |solved: &Solved| (solved.low.unwrap_or(low), solved.high.unwrap_or(high));
    let Some(answer) = known.answer(Some(point[0])) else { return (None, Vec::new()) };
    let (from, to) = ends(answer);
    let range = (from..=to).contains(&point[0]).then_some((from, to));
    (range, known.solved.iter().filter(|other| *other != answer).copied().collect())
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

fn misses(tune: &Tune, models: &Models, history: &[Probed], rung: usize, points: &[Point]) -> Vec<Miss> {
    let targets = &tune.rungs[rung].targets;
    let off = |target: &Target, mean: f64| mean < target.low() || mean > target.high();
    let estimates = models.at(tune, rung, &points[rung]);
    let missed = targets.iter().enumerate().filter(|(place, target)| target.hard && off(target, estimates[*place].0));
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
fn free_of_order(tune: &Tune, models: &Models, history: &[Probed], rung: usize, place: usize) -> bool {
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
    mean >= target.low() && mean <= target.high()
}
