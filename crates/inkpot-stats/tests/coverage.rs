//! How often the 95 % intervals hold the true value, by simulation. Long, so ignored by default:
//!
//! `cargo test --release -p inkpot-stats --test coverage -- --ignored --nocapture`
//!
//! prints the tables of `docs/statistics.md` and fails when a bound stated there is missed.

mod made;

use std::thread;

use inkpot_core::Chance;
use inkpot_stats::{BlockRates, BlockTable, Draws, Moments, Response, paired_difference, unpaired_difference};
use made::points;

const STUDIES: u32 = 10_000;
const BLOCKS: [usize; 8] = [5, 10, 20, 50, 100, 200, 500, 1000];
const RATES: [f64; 9] = [0.02, 0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.9, 0.98];
const DRAWS: [f64; 3] = [0.0, 0.3, 0.8];
const CORRELATIONS: [f64; 5] = [-0.5, 0.0, 0.3, 0.6, 0.9];

/// A uniform number tied to `u`: the same with chance `correlation`, mirrored with minus that, else its own.
fn tied(u: f64, correlation: f64, chance: &mut Chance) -> f64 {
    let tie = chance.happens(correlation.abs());
    let own = chance.unit();
    match (tie, correlation > 0.0) {
        (true, true) => u,
        (true, false) => 1.0 - u,
        (false, _) => own,
    }
}

fn block(rate: f64, draws: f64, correlation: f64, chance: &mut Chance) -> f64 {
    let first = chance.unit();
    let second = tied(first, correlation, chance);
    f64::midpoint(points(first, rate, draws), points(second, rate, draws))
}

/// Runs `cell` on every item over two threads and gives the coverages in order.
fn over<T: Copy + Send + Sync>(items: &[T], cell: impl Fn(T, u64) -> f64 + Sync) -> Vec<f64> {
    let mut found = vec![0.0; items.len()];
    let half = items.len().div_ceil(2);
    thread::scope(|scope| {
        for (part, (items, found)) in items.chunks(half).zip(found.chunks_mut(half)).enumerate() {
            let cell = &cell;
            scope.spawn(move || {
                for (index, (item, found)) in items.iter().zip(found).enumerate() {
                    *found = cell(*item, (part * half + index) as u64);
                }
            });
        }
    });
    found
}

/// Prints mean, least and largest coverage of one number of blocks and checks the bounds.
fn judge(what: &str, blocks: usize, coverages: &[f64]) {
    let mean = coverages.iter().sum::<f64>() / coverages.len() as f64;
    let least = coverages.iter().copied().fold(f64::INFINITY, f64::min);
    let most = coverages.iter().copied().fold(0.0, f64::max);
    println!("| {what} | {blocks} | {:.1} % | {:.1} % | {:.1} % |", mean * 100.0, least * 100.0, most * 100.0);
    assert!(mean >= 0.945, "{what}, {blocks} blocks: mean coverage {mean}");
    assert!(blocks < 50 || mean <= 0.975, "{what}, {blocks} blocks: mean coverage {mean}");
    assert!(blocks < 20 || least >= 0.92, "{what}, {blocks} blocks: least coverage {least}");
}

#[test]
#[ignore = "minutes of simulation"]
fn win_rate_intervals_cover() {
    for blocks in BLOCKS {
        let mut cells = Vec::new();
        for rate in RATES {
            for draws in DRAWS {
                cells.extend(CORRELATIONS.map(|correlation| (rate, draws, correlation)));
            }
        }
        let coverages = over(&cells, |(rate, draws, correlation), number| {
            let mut chance = Chance::from_seed(1000 * blocks as u64 + number);
            let held = (0..STUDIES).filter(|_| {
                let mut rates = BlockRates::new(2);
                (0..blocks).for_each(|_| rates.push(block(rate, draws, correlation, &mut chance)));
                rates.interval(0.95).is_some_and(|interval| interval.holds(rate))
            });
            held.count() as f64 / f64::from(STUDIES)
        });
        judge("win rate", blocks, &coverages);
    }
}

#[test]
#[ignore = "minutes of simulation"]
fn paired_differences_cover() {
    for blocks in BLOCKS {
        let mut cells = Vec::new();
        for (first, second) in
            [(0.02, 0.02), (0.05, 0.1), (0.3, 0.3), (0.5, 0.5), (0.5, 0.6), (0.8, 0.6), (0.98, 0.9), (0.98, 0.98)]
        {
            for draws in [0.0, 0.3] {
                cells.extend([-0.3, 0.0, 0.5, 0.9].map(|shared| (first, second, draws, shared)));
            }
        }
        let coverages = over(&cells, |(first, second, draws, shared), number| {
            let mut chance = Chance::from_seed(7000 * blocks as u64 + number);
            let held = (0..STUDIES).filter(|_| {
                let pairs = (0..blocks).map(|_| {
                    let u = [chance.unit(), chance.unit()];
                    let v = u.map(|u| tied(u, shared, &mut chance));
                    let share =
                        |us: [f64; 2], rate| f64::midpoint(points(us[0], rate, draws), points(us[1], rate, draws));
                    (share(u, first), share(v, second))
                });
                let pairs: Vec<_> = pairs.collect();
                paired_difference(pairs, 0.95).is_some_and(|found| found.difference.holds(first - second))
            });
            held.count() as f64 / f64::from(STUDIES)
        });
        judge("paired difference", blocks, &coverages);
    }
}

#[test]
#[ignore = "minutes of simulation"]
fn differences_of_two_samples_cover() {
    for blocks in BLOCKS {
        let mut cells = Vec::new();
        for (first, second) in [(0.02, 0.02), (0.05, 0.1), (0.3, 0.3), (0.5, 0.6), (0.8, 0.6), (0.98, 0.9)] {
            for other in [blocks, 3 * blocks] {
                cells.extend([0.0, 0.6].map(|tie| (first, second, other, tie)));
            }
        }
        let coverages = over(&cells, |(first, second, other, tie), number| {
            let mut chance = Chance::from_seed(13_000 * blocks as u64 + number);
            let held = (0..STUDIES).filter(|_| {
                let mut sample = |rate: f64, blocks: usize| {
                    let mut moments = Moments::default();
                    (0..blocks).for_each(|_| moments.push(block(rate, 0.2, tie, &mut chance)));
                    moments
                };
                let (a, b) = (sample(first, blocks), sample(second, other));
                unpaired_difference(&a, &b, 0.95).is_some_and(|found| found.holds(first - second))
            });
            held.count() as f64 / f64::from(STUDIES)
        });
        judge("difference of two samples", blocks, &coverages);
    }
}

#[test]
#[ignore = "minutes of simulation"]
fn means_of_measures_cover() {
    // Shapes that measures of behaviour take: even, bell, counts, waiting times.
    type Shape = (&'static str, fn(&mut Chance) -> f64, f64);
    let shapes: [Shape; 4] = [
        ("even", Chance::unit, 0.5),
        ("bell", Chance::normal, 0.0),
        ("count", |chance| (0..6).filter(|_| chance.happens(0.3)).count() as f64, 1.8),
        ("waiting", |chance| -(1.0 - chance.unit()).ln(), 1.0),
    ];
    for blocks in BLOCKS {
        let coverages: Vec<f64> = shapes
            .iter()
            .map(|(_, draw, truth)| {
                let mut chance = Chance::from_seed(blocks as u64);
                let held = (0..STUDIES).filter(|_| {
                    let mut moments = Moments::default();
                    (0..blocks).for_each(|_| moments.push(f64::midpoint(draw(&mut chance), draw(&mut chance))));
                    moments.interval(0.95).is_some_and(|interval| interval.holds(*truth))
                });
                held.count() as f64 / f64::from(STUDIES)
            })
            .collect();
        let row: Vec<String> =
            shapes.iter().zip(&coverages).map(|((name, _, _), held)| format!("{name} {:.1} %", held * 100.0)).collect();
        println!("mean of a measure, {blocks} blocks: {}", row.join(", "));
        if blocks >= 20 {
            judge("mean of a measure", blocks, &coverages);
        }
    }
}

struct Source(Chance);

impl Draws for Source {
    fn below(&mut self, n: usize) -> usize {
        self.0.below(n)
    }
}

#[test]
#[ignore = "minutes of simulation"]
fn solved_knob_values_and_bands_cover() {
    const STUDIES: u32 = 1000;
    let xs: Vec<f64> = (0..11).map(|i| f64::from(i) / 10.0).collect();
    // (floor, ceiling, midpoint, slope), wanted rate, blocks, how strongly points share their chance
    let truth = |(floor, ceiling, midpoint, slope): (f64, f64, f64, f64), x: f64| {
        floor + (ceiling - floor) / (1.0 + (-slope * (x - midpoint)).exp())
    };
    let steep = (0.02, 0.96, 0.45, -8.0);
    let gentle = (0.0, 1.0, 0.4, -5.0);
    let cells = [
        (gentle, 0.55, 20, 0.3),
        (gentle, 0.55, 50, 0.3),
        (gentle, 0.55, 200, 0.3),
        (steep, 0.3, 50, 0.3),
        (steep, 0.8, 200, 0.6),
        (gentle, 0.5, 1000, 0.3),
    ];
    for (index, &(curve, wanted, blocks, shared)) in cells.iter().enumerate() {
        let numbers: Vec<u32> = (0..STUDIES).collect();
        let answer = {
            let (floor, ceiling, midpoint, slope) = curve;
            midpoint + f64::ln((wanted - floor) / (ceiling - wanted)) / slope
        };
        let outcomes = over(&numbers, |number, _| {
            let mut chance = Chance::from_seed(u64::from(number) + 100_000 * index as u64);
            let mut table = BlockTable::new(xs.len(), blocks);
            for block in 0..blocks {
                let base = [chance.unit(), chance.unit()];
                for (column, &x) in xs.iter().enumerate() {
                    let p = truth(curve, x);
                    let share = base.map(|u| points(tied(u, shared, &mut chance), p, 0.1));
                    table.add(column, block, f64::midpoint(share[0], share[1]));
                }
            }
            let Ok(response) = Response::fit(&xs, &table, 2, 0.95, &mut Source(chance)) else { return 0.0 };
            let solved = response.solve(wanted);
            let held = solved
                .is_some_and(|s| s.low.is_none_or(|low| low <= answer) && s.high.is_none_or(|high| answer <= high));
            let middle = response.at(0.5).holds(truth(curve, 0.5));
            // Three yes-or-no answers in one number: solved value, band at the middle, fit accepted.
            f64::from(u8::from(held) + 2 * u8::from(middle) + 4 * u8::from(response.fit_p >= 0.01))
        });
        let share =
            |bit: u8| outcomes.iter().filter(|&&outcome| outcome as u8 & bit != 0).count() as f64 / f64::from(STUDIES);
        println!(
            "| {blocks} | {wanted} | {:.1} % | {:.1} % | {:.1} % |",
            share(1) * 100.0,
            share(2) * 100.0,
            share(4) * 100.0
        );
        // A thousand studies: the standard error of a coverage is 0.7 points.
        assert!((0.92..=0.985).contains(&share(1)), "solved value, {blocks} blocks: {}", share(1));
        assert!((0.92..=0.985).contains(&share(2)), "band, {blocks} blocks: {}", share(2));
        assert!(share(4) >= 0.97, "a true curve is rejected too often: {}", share(4));
    }
}
