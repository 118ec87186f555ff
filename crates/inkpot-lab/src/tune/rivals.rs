//! The search over several knobs against a rival, on the shipped games: the covariance matrix adaptation evolution
//! strategy (Hansen & Ostermeier 2001) with all individuals of a generation on the same blocks. Both have the same
//! matches; what each chose is then measured on fresh ones.

use std::sync::atomic::AtomicBool;

use inkpot_core::{Chance, GameEntry};
use nalgebra::{DMatrix, DVector, SymmetricEigen};

use super::choose::loss_of;
use super::made::{aim, free, ladder, range, rung};
use super::trial::play;
use super::{FreeDraft, Point, TargetDraft, Trial, Tune, found, search};

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

/// Loss and whether all targets are met, of a point measured on fresh blocks.
fn judged(tune: &Tune, game: &dyn GameEntry, point: &Point) -> (f64, bool) {
    let trial = Trial { rung: 0, point: point.clone(), first_block: 1 << 40, blocks: FRESH };
    let stop = AtomicBool::new(false);
    let tried = play(tune, &[trial], 0, game, 2, &stop).expect("nobody stops it").remove(0);
    let targets = &tune.rungs[0].targets;
    let loss = targets.iter().zip(&tried.seen).map(|(target, seen)| loss_of(target, seen.mean, 0.0)).sum();
    let met = targets.iter().zip(&tried.seen).all(|(target, seen)| (target.low..=target.high).contains(&seen.mean));
    (loss, met)
}

fn by_surrogate(tune: &Tune, game: &dyn GameEntry) -> Point {
    let stop = AtomicBool::new(false);
    let ended = search(tune, game, 2, &stop, Vec::new(), |_, _| Ok::<(), ()>(()));
    let history = ended.ok().flatten().expect("nobody stops it");
    found(tune, &history).rungs[0].point.clone()
}

/// The rival: weighted recombination, rank-one and rank-mu updates, cumulative step sizes, with the usual settings.
fn by_evolution(tune: &Tune, game: &dyn GameEntry, blocks: u64, seed: u64) -> Point {
    let n = tune.free.len();
    let nf = n as f64;
    let lambda = 4 + (3.0 * nf.ln()).floor() as usize;
    let mu = lambda / 2;
    let raw: Vec<f64> = (0..mu).map(|i| (mu as f64 + 0.5).ln() - ((i + 1) as f64).ln()).collect();
    let total: f64 = raw.iter().sum();
    let weights: Vec<f64> = raw.iter().map(|w| w / total).collect();
    let mu_eff = 1.0 / weights.iter().map(|w| w * w).sum::<f64>();
    let c_sigma = (mu_eff + 2.0) / (nf + mu_eff + 5.0);
    let d_sigma = 1.0 + c_sigma + 2.0 * (((mu_eff - 1.0) / (nf + 1.0)).sqrt() - 1.0).max(0.0);
    let c_c = (4.0 + mu_eff / nf) / (nf + 4.0 + 2.0 * mu_eff / nf);
    let c_1 = 2.0 / ((nf + 1.3).powi(2) + mu_eff);
    let c_mu = (1.0 - c_1).min(2.0 * (mu_eff - 2.0 + 1.0 / mu_eff) / ((nf + 2.0).powi(2) + mu_eff));
    let chi = nf.sqrt() * (1.0 - 1.0 / (4.0 * nf) + 1.0 / (21.0 * nf * nf));
    let (mut mean, mut sigma) = (DVector::from_element(n, 0.5), 0.25);
    let (mut covariance, mut p_sigma, mut p_c) = (DMatrix::identity(n, n), DVector::zeros(n), DVector::zeros(n));
    let mut chance = Chance::from_seed(seed);
    let generations = tune.budget / (2 * blocks * lambda as u64);
    for generation in 0..generations {
        let eigen = SymmetricEigen::new(covariance.clone());
        let roots = eigen.eigenvalues.map(|x: f64| x.max(1e-12).sqrt());
        let scaled = &eigen.eigenvectors * DMatrix::from_diagonal(&roots);
        let steps: Vec<DVector<f64>> =
            (0..lambda).map(|_| &scaled * DVector::from_fn(n, |_, _| chance.normal())).collect();
        let trials: Vec<Trial> = steps
            .iter()
            .map(|step| {
                let shares: Vec<f64> = (&mean + step * sigma).iter().map(|x| x.clamp(0.0, 1.0)).collect();
                // The same blocks for all of a generation.
                Trial { rung: 0, point: tune.point_at(&shares), first_block: generation * blocks, blocks }
            })
            .collect();
        let tried = play(tune, &trials, generation, game, 2, &AtomicBool::new(false)).expect("nobody stops it");
        let targets = &tune.rungs[0].targets;
        let mut ranked: Vec<(f64, usize)> = tried
            .iter()
            .enumerate()
            .map(|(i, own)| {
                let fits = targets.iter().zip(&own.seen).map(|(target, seen)| loss_of(target, seen.mean, 0.0));
                // Leaving the box costs as much as it leaves it by.
                let outside: f64 = (&mean + &steps[i] * sigma).iter().map(|x| (x - x.clamp(0.0, 1.0)).powi(2)).sum();
                (fits.sum::<f64>() + 10.0 * outside, i)
            })
            .collect();
        ranked.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut step = DVector::zeros(n);
        let mut rank_mu = DMatrix::zeros(n, n);
        for (weight, (_, i)) in weights.iter().zip(&ranked) {
            step += &steps[*i] * *weight;
            rank_mu += &steps[*i] * steps[*i].transpose() * *weight;
        }
        mean = (&mean + &step * sigma).map(|x| x.clamp(0.0, 1.0));
        let whitened = &eigen.eigenvectors
            * DMatrix::from_diagonal(&roots.map(|x| 1.0 / x))
            * eigen.eigenvectors.transpose()
            * &step;
        p_sigma = p_sigma * (1.0 - c_sigma) + whitened * (c_sigma * (2.0 - c_sigma) * mu_eff).sqrt();
        let norm = p_sigma.norm();
        let fair = (1.0 - (1.0 - c_sigma).powi(2 * (generation as i32 + 1))).sqrt();
        let h = if norm / fair < (1.4 + 2.0 / (nf + 1.0)) * chi { 1.0 } else { 0.0 };
        p_c = p_c * (1.0 - c_c) + &step * (h * (c_c * (2.0 - c_c) * mu_eff).sqrt());
        covariance = &covariance * (1.0 - c_1 - c_mu) + &p_c * p_c.transpose() * c_1 + rank_mu * c_mu;
        sigma *= ((c_sigma / d_sigma) * (norm / chi - 1.0)).exp().clamp(0.3, 3.0);
    }
    tune.point_at(mean.as_slice())
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
            let game = registry.game(&tune.game).expect("a house game");
            let mut points = vec![by_surrogate(&tune, game)];
            points.extend([10, 20, 40].map(|blocks| by_evolution(&tune, game, blocks, seed)));
            for (i, point) in points.iter().enumerate() {
                let (loss, own) = judged(&tune, game, point);
                losses[i].push(loss);
                met[i] += usize::from(own);
            }
        }
        let medians: Vec<f64> = losses
            .iter_mut()
            .map(|own| {
                own.sort_by(f64::total_cmp);
                own[own.len() / 2]
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
