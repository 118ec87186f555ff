//! Test functions in ten dimensions: evaluations until 1e-8 is reached.

use inkpot_learn::{Cma, CmaSettings, Covariance, Evolver, Gene, Genome, Judged, Space};

const GENES: usize = 10;
const TARGET: f64 = 1e-8;

fn sphere(x: &[f64]) -> f64 {
    x.iter().map(|x| x * x).sum()
}

/// Condition one million.
fn ellipsoid(x: &[f64]) -> f64 {
    let steps = x.len() as f64 - 1.0;
    x.iter().enumerate().map(|(i, x)| 10.0_f64.powf(6.0 * i as f64 / steps) * x * x).sum()
}

fn rosenbrock(x: &[f64]) -> f64 {
    x.windows(2).map(|pair| 100.0 * (pair[0] * pair[0] - pair[1]).powi(2) + (1.0 - pair[0]).powi(2)).sum()
}

/// Evaluations until the target is reached, from this start with this first step.
fn evaluations(function: fn(&[f64]) -> f64, start: f64, spread: f64, covariance: Covariance, seed: u64) -> u64 {
    let settings = CmaSettings { population: CmaSettings::population_for(GENES), spread, covariance, restarts: false };
    let space = Space(vec![Gene::Free(1.0); GENES]);
    let mut search = Evolver::CmaEs(Cma::new(space, settings, seed, Some(&[start; GENES])));
    let mut spent = 0;
    while spent < 100_000 {
        let mut judged = Vec::new();
        for genome in search.ask() {
            let Genome::Numbers(x) = genome else { unreachable!("it searches numbers") };
            spent += 1;
            let value = function(&x);
            if value < TARGET {
                return spent;
            }
            judged.push(Judged::of(-value));
        }
        search.tell(&judged);
    }
    spent
}

fn median(function: fn(&[f64]) -> f64, start: f64, spread: f64, covariance: Covariance) -> u64 {
    let mut all: Vec<u64> = (0..51).map(|seed| evaluations(function, start, spread, covariance, seed)).collect();
    all.sort_unstable();
    all[25]
}

#[test]
fn covariance_is_learned_as_fast_as_the_tutorial_says() {
    for (name, function, start, spread, most) in [
        ("sphere", sphere as fn(&[f64]) -> f64, 1.0, 0.3, 1_900),
        ("ellipsoid", ellipsoid, 1.0, 0.3, 6_500),
        ("rosenbrock", rosenbrock, 0.0, 0.3, 6_500),
    ] {
        let median = median(function, start, spread, Covariance::Full);
        println!("{name}: {median}");
        assert!(median <= most, "{name}: {median}");
    }
}

#[test]
fn the_diagonal_alone_is_learned_faster_where_it_is_enough() {
    let [full, diagonal] =
        [Covariance::Full, Covariance::Diagonal].map(|covariance| median(ellipsoid, 1.0, 0.3, covariance));
    println!("ellipsoid: {full} whole, {diagonal} by the diagonal");
    assert!(diagonal < full, "{diagonal} by the diagonal, {full} whole");
}
