//! The search over several knobs against a rival on the shipped games: CMA-ES (Hansen & Ostermeier 2001) with all
//! individuals of a generation on the same blocks. Both have the same matches; fresh ones measure each choice.

use inkpot_core::{Chance, GameEntry, Halt};
use inkpot_stats::Moments;
use nalgebra::{DMatrix, DVector, SymmetricEigen};

use super::super::models::loss_of;
use super::super::probe::block_figures;
use super::super::{FreeDraft, Point, TargetDraft, Tune, TuneSearch, found};
use super::made::{aim, free, ladder, range, rung};
use crate::searching::{Ask, Results, SearchError, SearchJob, SearchRound, Searching, search};
use crate::stages::StageSet;
use crate::work::{Play, Threads};
use crate::{Seeks, Sitting};

const FRESH: u64 = 4000;

fn task(game: &str, opponent: &str, player: &str, free: Vec<FreeDraft>, targets: Vec<TargetDraft>, seed: u64) -> Tune {
    ladder(game, opponent, free, vec![rung("rung", player, targets)], 4000, seed)
}

fn tasks(seed: u64) -> Vec<(&'static str, Tune)> {
    let rate = |value: f64| aim("win_rate", value, 0.04);
    vec![
        (
            "piste: win rate, length, jitter",
            task(
                "piste",
                "fencer",
                "regular",
                vec![free("reaction", 8.0, 24.0), free("aggression", 0.2, 2.0), free("dead_zone", 0.0, 0.6)],
                vec![
                    rate(0.5),
                    range("length_s", Some(26.0), Some(34.0)),
                    TargetDraft { side: Some("opponent".into()), ..range("reversals_per_s", None, Some(1.3)) },
                ],
                seed,
            ),
        ),
        (
            "sowing: win rate, score margin",
            task(
                "sowing",
                "minimax",
                "careful",
                vec![free("depth", 1.0, 6.0), free("slip", 0.0, 0.6), free("temper", 0.0, 4.0)],
                vec![rate(0.4), range("score_margin", Some(-3.0), Some(0.0))],
                seed,
            ),
        ),
    ]
}

/// Returns the loss of a point from the means of its figures.
fn loss(tune: &Tune, means: &[f64]) -> f64 {
    tune.rungs[0].targets.iter().zip(means).map(|(target, mean)| loss_of(target, *mean, 0.0)).sum()
}

/// Loss and whether all targets are met, of a point measured on fresh blocks.
fn judged(tune: &Tune, game: &dyn GameEntry, point: &Point, fresh: u64) -> (f64, bool) {
    let mut stages = StageSet::of(&tune.settings(0, point, game), game, &Halt::never());
    let blocks: Vec<_> =
        (0..fresh).map(|block| block_figures(tune, 0, stages.play((1 << 40) + block), game.sheet())).collect();
    let means = means(&blocks);
    let met =
        tune.rungs[0].targets.iter().zip(&means).all(|(target, mean)| (target.low()..=target.high()).contains(mean));
    (loss(tune, &means), met)
}

/// The mean of every figure over blocks.
fn means(blocks: &[Vec<f64>]) -> Vec<f64> {
    let of = |place: usize| {
        let mut moments = Moments::default();
        for figures in blocks {
            moments.push(figures[place]);
        }
        moments.mean().unwrap_or(f64::NAN)
    };
    (0..blocks[0].len()).map(of).collect()
}

fn by_surrogate(tune: &Tune, game: &dyn GameEntry) -> Point {
    let searched = run(TuneSearch::new(tune, game, Vec::new()), tune, game);
    found(tune, searched.played()).rungs[0].point.clone()
}

fn by_evolution(tune: &Tune, game: &dyn GameEntry, blocks: u64, seed: u64) -> Point {
    let evolved = run(Evolution::new(tune, game, blocks, seed), tune, game);
    tune.point_at(evolved.mean.as_slice())
}

fn run<S: Searching>(mut searching: S, tune: &Tune, game: &dyn GameEntry) -> S {
    let halt = Halt::never();
    let job = SearchJob::new(tune.work(game).unwrap(), game, &halt, String::new());
    let keep = |_: &S, _: &Results| Ok::<(), SearchError>(());
    let ended = search(&mut searching, &job, &Threads(2), &halt, &mut Results::new(), keep);
    assert_eq!(ended, Ok(Sitting::Complete));
    searching
}

/// The rival: weighted recombination, rank-one and rank-mu updates, cumulative step sizes, with the usual settings.
struct Evolution<'a> {
    tune: &'a Tune,
    game: &'a dyn GameEntry,
    blocks: u64,
    usual: Usual,
    generation: u64,
    chance: Chance,
    mean: DVector<f64>,
    sigma: f64,
    covariance: DMatrix<f64>,
    p_sigma: DVector<f64>,
    p_c: DVector<f64>,
    /// The steps of this generation, before they are scaled by sigma.
    steps: Vec<DVector<f64>>,
}

/// The usual settings of the strategy for a number of knobs.
struct Usual {
    lambda: usize,
    weights: Vec<f64>,
    mu_eff: f64,
    c_sigma: f64,
    d_sigma: f64,
    c_c: f64,
    c_1: f64,
    c_mu: f64,
    /// The expected length of a normal step.
    chi: f64,
}

impl Usual {
    fn of(knobs: usize) -> Self {
        let n = knobs as f64;
        let lambda = 4 + (3.0 * n.ln()).floor() as usize;
        let mu = lambda / 2;
        let raw: Vec<f64> = (0..mu).map(|i| (mu as f64 + 0.5).ln() - ((i + 1) as f64).ln()).collect();
        let total: f64 = raw.iter().sum();
        let weights: Vec<f64> = raw.iter().map(|w| w / total).collect();
        let mu_eff = 1.0 / weights.iter().map(|w| w * w).sum::<f64>();
        let c_sigma = (mu_eff + 2.0) / (n + mu_eff + 5.0);
        let c_1 = 2.0 / ((n + 1.3).powi(2) + mu_eff);
        Self {
            lambda,
            weights,
            mu_eff,
            c_sigma,
            d_sigma: 1.0 + c_sigma + 2.0 * (((mu_eff - 1.0) / (n + 1.0)).sqrt() - 1.0).max(0.0),
            c_c: (4.0 + mu_eff / n) / (n + 4.0 + 2.0 * mu_eff / n),
            c_1,
            c_mu: (1.0 - c_1).min(2.0 * (mu_eff - 2.0 + 1.0 / mu_eff) / ((n + 2.0).powi(2) + mu_eff)),
            chi: n.sqrt() * (1.0 - 1.0 / (4.0 * n) + 1.0 / (21.0 * n * n)),
        }
    }
}

impl<'a> Evolution<'a> {
    fn new(tune: &'a Tune, game: &'a dyn GameEntry, blocks: u64, seed: u64) -> Self {
        let n = tune.free.len();
        let mut first = Self {
            tune,
            game,
            blocks,
            usual: Usual::of(n),
            generation: 0,
            chance: Chance::from_seed(seed),
            mean: DVector::from_element(n, 0.5),
            sigma: 0.25,
            covariance: DMatrix::identity(n, n),
            p_sigma: DVector::zeros(n),
            p_c: DVector::zeros(n),
            steps: Vec::new(),
        };
        first.draw();
        first
    }

    /// The axes of the covariance and their lengths.
    fn axes(&self) -> (DMatrix<f64>, DVector<f64>) {
        let eigen = SymmetricEigen::new(self.covariance.clone());
        (eigen.eigenvectors, eigen.eigenvalues.map(|x: f64| x.max(1e-12).sqrt()))
    }

    fn draw(&mut self) {
        let (axes, lengths) = self.axes();
        let scaled = axes * DMatrix::from_diagonal(&lengths);
        let n = self.mean.len();
        let chance = &mut self.chance;
        self.steps = (0..self.usual.lambda).map(|_| &scaled * DVector::from_fn(n, |_, _| chance.normal())).collect();
    }

    /// The point of a step, in shares of the ranges; it may lie outside of them.
    fn at(&self, step: &DVector<f64>) -> DVector<f64> {
        &self.mean + step * self.sigma
    }

    fn matches(&self, generations: u64) -> u64 {
        generations * 2 * self.blocks * self.usual.lambda as u64
    }
}

impl Searching for Evolution<'_> {
    fn next(&mut self) -> Ask {
        if self.matches(self.generation + 1) > self.tune.budget {
            return Ask::Finished;
        }
        // The same blocks for all of a generation.
        let play = |step| {
            let inside: Vec<f64> = self.at(step).iter().map(|x| x.clamp(0.0, 1.0)).collect();
            let settings = self.tune.settings(0, &self.tune.point_at(&inside), self.game);
            Play::new(settings, self.generation * self.blocks, self.blocks)
        };
        Ask::Play(self.steps.iter().map(play).collect())
    }

    fn take(&mut self, results: Results) {
        let cost = |(step, blocks): (&DVector<f64>, &Vec<Vec<f64>>)| {
            // Leaving the box costs as much as it leaves it by.
            let outside: f64 = self.at(step).iter().map(|x| (x - x.clamp(0.0, 1.0)).powi(2)).sum();
            loss(self.tune, &means(blocks)) + 10.0 * outside
        };
        let mut ranked: Vec<(f64, &DVector<f64>)> =
            self.steps.iter().zip(&results).map(|tried| (cost(tried), tried.0)).collect();
        ranked.sort_by(|a, b| a.0.total_cmp(&b.0));

        let n = self.mean.len();
        let Usual { mu_eff, c_sigma, c_c, c_1, c_mu, chi, .. } = self.usual;
        let (mut step, mut rank_mu) = (DVector::zeros(n), DMatrix::zeros(n, n));
        for (weight, (_, rank_share)) in self.usual.weights.iter().zip(ranked) {
            step += rank_share * *weight;
            rank_mu += rank_share * rank_share.transpose() * *weight;
        }
        self.mean = self.at(&step).map(|x| x.clamp(0.0, 1.0));
        let (axes, lengths) = self.axes();
        let whitened = &axes * DMatrix::from_diagonal(&lengths.map(|x| 1.0 / x)) * axes.transpose() * &step;
        self.p_sigma = &self.p_sigma * (1.0 - c_sigma) + whitened * (c_sigma * (2.0 - c_sigma) * mu_eff).sqrt();
        let norm = self.p_sigma.norm();
        let fair = (1.0 - (1.0 - c_sigma).powi(2 * (self.generation as i32 + 1))).sqrt();
        let h = if norm / fair < (1.4 + 2.0 / (n as f64 + 1.0)) * chi { 1.0 } else { 0.0 };
        self.p_c = &self.p_c * (1.0 - c_c) + &step * (h * (c_c * (2.0 - c_c) * mu_eff).sqrt());
        self.covariance =
            &self.covariance * (1.0 - c_1 - c_mu) + &self.p_c * self.p_c.transpose() * c_1 + rank_mu * c_mu;
        self.sigma *= ((c_sigma / self.usual.d_sigma) * (norm / chi - 1.0)).exp().clamp(0.3, 3.0);
        self.generation += 1;
        self.draw();
    }

    /// Never stopped.
    fn checkpoint(&self) -> String {
        String::new()
    }

    fn history(&self) -> String {
        String::new()
    }

    fn round(&self) -> SearchRound {
        SearchRound {
            rounds: self.generation,
            unit: "matches",
            spent: self.matches(self.generation),
            most: self.tune.budget,
            choice: String::new(),
        }
    }
}

#[test]
fn both_rivals_keep_to_the_budget_and_end_nearer_than_they_began() {
    let registry = inkpot_games::registry();
    let (_, mut tune) = tasks(1).swap_remove(0);
    tune.budget = 1200;
    let game = registry.find(&tune.ground.game).expect("a house game");
    let middle = judged(&tune, game, &tune.point_at(&[0.5; 3]), 400).0;

    let searched = run(TuneSearch::new(&tune, game, Vec::new()), &tune, game);
    let evolved = run(Evolution::new(&tune, game, 10, 1), &tune, game);
    assert!(searched.round().spent <= tune.budget, "{:?}", searched.round());
    // Another generation of seven points on ten blocks would not fit.
    assert_eq!(evolved.round().spent, 1200 / 140 * 140);

    let point = &found(&tune, searched.played()).rungs[0].point;
    let by_surrogate = judged(&tune, game, point, 400).0;
    let by_evolution = judged(&tune, game, &tune.point_at(evolved.mean.as_slice()), 400).0;
    assert!(by_surrogate < middle && by_evolution < middle, "{by_surrogate}, {by_evolution}, at first {middle}");
}

#[test]
#[ignore = "a measurement of some minutes; run in release"]
fn the_surrogate_finds_better_knobs_than_evolution_for_the_same_matches() {
    let registry = inkpot_games::registry();
    let runs = 10;
    for place in 0..2 {
        let mut losses = vec![Vec::new(); 4];
        let mut met = [0; 4];
        let mut name = "";
        for seed in 1..=runs {
            let (label, tune) = tasks(seed).swap_remove(place);
            name = label;
            let game = registry.find(&tune.ground.game).expect("a house game");
            let mut points = vec![by_surrogate(&tune, game)];
            points.extend([10, 20, 40].map(|blocks| by_evolution(&tune, game, blocks, seed)));
            for (i, point) in points.iter().enumerate() {
                let (loss, judgement) = judged(&tune, game, point, FRESH);
                losses[i].push(loss);
                met[i] += usize::from(judgement);
            }
        }
        let medians: Vec<f64> = losses
            .iter_mut()
            .map(|x| {
                x.sort_by(f64::total_cmp);
                x[x.len() / 2]
            })
            .collect();
        println!(
            "{name}: surrogate {:.3} ({} of {runs} met); evolution with 10, 20, 40 blocks {:.3}, {:.3}, {:.3} ({:?} met)",
            medians[0],
            met[0],
            medians[1],
            medians[2],
            medians[3],
            &met[1..]
        );
        assert!(medians[0] <= medians[1..].iter().copied().fold(f64::INFINITY, f64::min), "{name}: {medians:?}");
    }
}
