//! How often the 95 % intervals hold the true value, by simulation. A few studies of a few cells are simulated in every
//! test run; all of them take minutes and are ignored by default:
//!
//! `cargo test --release -p inkpot-stats coverage:: -- --ignored --nocapture`
//!
//! prints the tables of `docs/statistics.md` and fails when a bound stated there is missed.

use std::thread;

use crate::made::points;
use inkpot_core::Chance;
use inkpot_stats::{BlockRates, BlockTable, Draws, Moments, Response, paired_difference, unpaired_difference};

/// How much is simulated.
#[derive(Clone, Copy)]
struct Size {
    studies: u32,
    blocks: &'static [usize],
    /// Of the cells every n-th is simulated.
    step: usize,
    /// Standard errors of a simulated coverage by which a bound may be missed: chance alone has to be left some room
    /// where little is simulated.
    errors: f64,
}

const FULL: Size = Size { studies: 10_000, blocks: &[5, 10, 20, 50, 100, 200, 500, 1000], step: 1, errors: 0.0 };
const SHORT: Size = Size { studies: 400, blocks: &[20, 50], step: 7, errors: 3.5 };

impl Size {
    /// The cells that are simulated.
    fn of<T>(self, cells: impl IntoIterator<Item = T>) -> Vec<T> {
        cells.into_iter().step_by(self.step).collect()
    }

    /// Room for chance in the mean coverage of this many cells.
    fn room(self, cells: usize) -> f64 {
        self.errors * (0.95 * 0.05 / (f64::from(self.studies) * cells as f64)).sqrt()
    }
}

const RATES: [f64; 9] = [0.02, 0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.9, 0.98];
const DRAWS: [f64; 3] = [0.0, 0.3, 0.8];
const CORRELATIONS: [f64; 5] = [-0.5, 0.0, 0.3, 0.6, 0.9];

/// A uniform number tied to `u`: the same with chance `correlation`, mirrored with minus that, else its own.
fn tied(u: f64, correlation: f64, chance: &mut Chance) -> f64 {
    let tie = chance.happens(correlation.abs());
    let luck = chance.unit();
    match (tie, correlation > 0.0) {
        (true, true) => u,
        (true, false) => 1.0 - u,
        (false, _) => luck,
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
fn judge(what: &str, blocks: usize, coverages: &[f64], size: Size) {
    let mean = coverages.iter().sum::<f64>() / coverages.len() as f64;
    let least = coverages.iter().copied().fold(f64::INFINITY, f64::min);
    let most = coverages.iter().copied().fold(0.0, f64::max);
    println!("| {what} | {blocks} | {:.1} % | {:.1} % | {:.1} % |", mean * 100.0, least * 100.0, most * 100.0);
    let (all, pointwise) = (size.room(coverages.len()), size.room(1));
    assert!(mean >= 0.945 - all, "{what}, {blocks} blocks: mean coverage {mean}");
    assert!(blocks < 50 || mean <= 0.975 + all, "{what}, {blocks} blocks: mean coverage {mean}");
    assert!(blocks < 20 || least >= 0.92 - pointwise, "{what}, {blocks} blocks: least coverage {least}");
}

#[test]
fn win_rate_intervals_cover_in_a_few_studies() {
    win_rates(SHORT);
}

#[test]
#[ignore = "minutes of simulation"]
fn win_rate_intervals_cover() {
    win_rates(FULL);
}

fn win_rates(size: Size) {
    for &blocks in size.blocks {
        let mut cells = Vec::new();
        for rate in RATES {
            for draws in DRAWS {
                cells.extend(CORRELATIONS.map(|correlation| (rate, draws, correlation)));
            }
        }
        let coverages = over(&size.of(cells), |(rate, draws, correlation), number| {
            let mut chance = Chance::from_seed(1000 * blocks as u64 + number);
            let held = (0..size.studies).filter(|_| {
                let mut rates = BlockRates::new(2);
                (0..blocks).for_each(|_| rates.push(block(rate, draws, correlation, &mut chance)));
                rates.interval(0.95).is_some_and(|interval| interval.holds(rate))
            });
            held.count() as f64 / f64::from(size.studies)
        });
        judge("win rate", blocks, &coverages, size);
    }
}

#[test]
fn paired_differences_cover_in_a_few_studies() {
    paired_differences(SHORT);
}

#[test]
#[ignore = "minutes of simulation"]
fn paired_differences_cover() {
    paired_differences(FULL);
}

fn paired_differences(size: Size) {
    for &blocks in size.blocks {
        let mut cells = Vec::new();
        for (first, second) in
            [(0.02, 0.02), (0.05, 0.1), (0.3, 0.3), (0.5, 0.5), (0.5, 0.6), (0.8, 0.6), (0.98, 0.9), (0.98, 0.98)]
        {
            for draws in [0.0, 0.3] {
                cells.extend([-0.3, 0.0, 0.5, 0.9].map(|shared| (first, second, draws, shared)));
            }
        }
        let coverages = over(&size.of(cells), |(first, second, draws, shared), number| {
            let mut chance = Chance::from_seed(7000 * blocks as u64 + number);
            let held = (0..size.studies).filter(|_| {
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
            held.count() as f64 / f64::from(size.studies)
        });
        judge("paired difference", blocks, &coverages, size);
    }
}

#[test]
fn differences_of_two_samples_cover_in_a_few_studies() {
    differences_of_two_samples(SHORT);
}

#[test]
#[ignore = "minutes of simulation"]
fn differences_of_two_samples_cover() {
    differences_of_two_samples(FULL);
}

/// Both rates, blocks of the second, and how alike the matches of a block are.
type Cell = (f64, f64, usize, f64);
/// Whether the interval of the difference of two samples holds this truth.
type Held = fn(&[f64], &[f64], f64) -> bool;

fn differences_of_two_samples(size: Size) {
    for &blocks in size.blocks {
        let mut cells = Vec::new();
        for (first, second) in [(0.02, 0.02), (0.05, 0.1), (0.3, 0.3), (0.5, 0.6), (0.8, 0.6), (0.98, 0.9)] {
            for other in [blocks, 3 * blocks] {
                cells.extend([0.0, 0.6].map(|tie| (first, second, other, tie)));
            }
        }
        let share = |held: Held, (first, second, other, tie): Cell, number: u64| {
            let mut chance = Chance::from_seed(13_000 * blocks as u64 + number);
            let held = (0..size.studies).filter(|_| {
                let mut sample = |rate: f64, blocks: usize| -> Vec<f64> {
                    (0..blocks).map(|_| block(rate, 0.2, tie, &mut chance)).collect()
                };
                let (a, b) = (sample(first, blocks), sample(second, other));
                held(&a, &b, first - second)
            });
            held.count() as f64 / f64::from(size.studies)
        };
        let samples = |a: &[f64], b: &[f64], truth: f64| {
            let moments = |shares: &[f64]| {
                let mut moments = Moments::default();
                for share in shares {
                    moments.push(*share);
                }
                moments
            };
            unpaired_difference(&moments(a), &moments(b), 0.95).is_some_and(|found| found.holds(truth))
        };
        let intervals = |a: &[f64], b: &[f64], truth: f64| {
            let interval = |shares: &[f64]| {
                let mut rates = BlockRates::new(2);
                for share in shares {
                    rates.push(*share);
                }
                rates.interval(0.95)
            };
            interval(a).zip(interval(b)).is_some_and(|(a, b)| a.minus(&b).holds(truth))
        };
        let cells = size.of(cells);
        let coverages = over(&cells, |cell, number| share(samples, cell, number));
        judge("difference of two samples", blocks, &coverages, size);
        let coverages = over(&cells, |cell, number| share(intervals, cell, number));
        judge("difference of two intervals", blocks, &coverages, size);
    }
}

#[test]
fn means_of_measures_cover_in_a_few_studies() {
    means_of_measures(SHORT);
}

#[test]
#[ignore = "minutes of simulation"]
fn means_of_measures_cover() {
    means_of_measures(FULL);
}

fn means_of_measures(size: Size) {
    // Shapes that measures of behaviour take: even, bell, counts, waiting times.
    type Shape = (&'static str, fn(&mut Chance) -> f64, f64);
    let shapes: [Shape; 4] = [
        ("even", Chance::unit, 0.5),
        ("bell", Chance::normal, 0.0),
        ("count", |chance| (0..6).filter(|_| chance.happens(0.3)).count() as f64, 1.8),
        ("waiting", |chance| -(1.0 - chance.unit()).ln(), 1.0),
    ];
    for &blocks in size.blocks {
        let coverages: Vec<f64> = shapes
            .iter()
            .map(|(_, draw, truth)| {
                let mut chance = Chance::from_seed(blocks as u64);
                let held = (0..size.studies).filter(|_| {
                    let mut moments = Moments::default();
                    (0..blocks).for_each(|_| moments.push(f64::midpoint(draw(&mut chance), draw(&mut chance))));
                    moments.interval(0.95).is_some_and(|interval| interval.holds(*truth))
                });
                held.count() as f64 / f64::from(size.studies)
            })
            .collect();
        let row: Vec<String> =
            shapes.iter().zip(&coverages).map(|((name, _, _), held)| format!("{name} {:.1} %", held * 100.0)).collect();
        println!("mean of a measure, {blocks} blocks: {}", row.join(", "));
        if blocks >= 20 {
            judge("mean of a measure", blocks, &coverages, size);
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
fn solved_knob_values_and_bands_cover_in_a_few_studies() {
    solved_knob_values_and_bands(SHORT);
}

#[test]
#[ignore = "minutes of simulation"]
fn solved_knob_values_and_bands_cover() {
    solved_knob_values_and_bands(FULL);
}

fn solved_knob_values_and_bands(size: Size) {
    let studies = size.studies / 10;
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
    for (index, &(curve, wanted, blocks, shared)) in cells.iter().enumerate().step_by(size.step.min(2)) {
        let numbers: Vec<u32> = (0..studies).collect();
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
            let ends = solved.solved.iter().map(|zero| (zero.low, zero.high)).chain(solved.possible);
            let held = ends
                .into_iter()
                .any(|(low, high)| low.is_none_or(|low| low <= answer) && high.is_none_or(|high| answer <= high));
            let middle = response.at(0.5).holds(truth(curve, 0.5));
            // Three yes-or-no answers in one number: solved value, band at the middle, fit accepted.
            f64::from(u8::from(held) + 2 * u8::from(middle) + 4 * u8::from(response.fit_p >= 0.01))
        });
        let share =
            |bit: u8| outcomes.iter().filter(|&&outcome| outcome as u8 & bit != 0).count() as f64 / f64::from(studies);
        println!(
            "| {blocks} | {wanted} | {:.1} % | {:.1} % | {:.1} % |",
            share(1) * 100.0,
            share(2) * 100.0,
            share(4) * 100.0
        );
        // A thousand studies: the standard error of a coverage is 0.7 points.
        let room = 10f64.sqrt() * size.room(1);
        let bounds = 0.92 - room..=0.985 + room;
        assert!(bounds.contains(&share(1)), "solved value, {blocks} blocks: {}", share(1));
        assert!(bounds.contains(&share(2)), "band, {blocks} blocks: {}", share(2));
        assert!(share(4) >= 0.97 - room, "a true curve is rejected too often: {}", share(4));
    }
}

#[test]
fn values_on_bent_curves_are_held_in_a_few_studies() {
    bent_curves(&[5, 9], &[100], 60);
}

#[test]
#[ignore = "minutes of simulation"]
fn values_on_bent_curves_are_held() {
    bent_curves(&[5, 7, 9, 13, 25], &[40, 100, 200, 400], 400);
}

/// A curve over 0 to 6, and the rate that is wanted of it.
type Bent = (&'static str, fn(f64) -> f64, f64);

/// Curves that no logistic curve describes: they fall at once and stay, rise and fall, climb in two steps, or are done
/// within a fraction of the range.
const BENT: [Bent; 5] = [
    ("knee", |x| 0.52 + 0.36 * (-x / 0.6).exp(), 0.7),
    ("hump", |x| 0.25 + 0.5 * (-((x - 2.2) / 1.4).powi(2)).exp(), 0.6),
    ("stairs", |x| 0.1 + 0.4 / (1.0 + (-4.0 * (x - 1.3)).exp()) + 0.4 / (1.0 + (-4.0 * (x - 4.4)).exp()), 0.7),
    ("steep", |x| 0.05 + 0.9 / (1.0 + (-6.0 * (x - 3.4)).exp()), 0.5),
    ("plain", |x| 1.0 / (1.0 + (-0.8 * (x - 2.7)).exp()), 0.55),
];

fn bent_curves(points: &[usize], blocks: &[usize], studies: u32) {
    let numbers: Vec<u32> = (0..studies).collect();
    for (name, curve, wanted) in BENT {
        let answers: Vec<f64> = (0..60_000)
            .map(|step| (f64::from(step) * 1e-4, f64::from(step + 1) * 1e-4))
            .filter(|(a, b)| (curve(*a) - wanted) * (curve(*b) - wanted) <= 0.0)
            .map(|(a, b)| f64::midpoint(a, b))
            .collect();
        for &count in points {
            let xs: Vec<f64> = (0..count).map(|i| 6.0 * i as f64 / (count - 1) as f64).collect();
            for &blocks in blocks {
                let outcomes = over(&numbers, |number, _| {
                    let mut chance = Chance::from_seed(u64::from(number) + 1_000_000);
                    let mut table = BlockTable::new(count, blocks);
                    for block in 0..blocks {
                        let base = [chance.unit(), chance.unit()];
                        for (column, &x) in xs.iter().enumerate() {
                            let share = base.map(|u| points_of(tied(u, 0.3, &mut chance), curve(x)));
                            table.add(column, block, f64::midpoint(share[0], share[1]));
                        }
                    }
                    let Ok(response) = Response::fit(&xs, &table, 2, 0.95, &mut Source(chance)) else { return 0.0 };
                    let solved = response.solve(wanted);
                    let ends: Vec<_> =
                        solved.solved.iter().map(|zero| (zero.low, zero.high)).chain(solved.possible).collect();
                    let holds = |answer: &f64| {
                        ends.iter().any(|(low, high)| {
                            low.is_none_or(|low| low <= *answer) && high.is_none_or(|high| *answer <= high)
                        })
                    };
                    let width: f64 = ends.iter().map(|(low, high)| high.unwrap_or(6.0) - low.unwrap_or(0.0)).sum();
                    f64::from(u8::from(answers.iter().all(holds))) + width.min(99.0) / 100.0
                });
                let held = outcomes.iter().filter(|outcome| **outcome >= 1.0).count() as f64 / f64::from(studies);
                let width = outcomes.iter().map(|outcome| 100.0 * outcome.fract()).sum::<f64>() / f64::from(studies);
                println!("| {name} | {count} | {blocks} | {:.1} % | {width:.2} |", 100.0 * held);
                assert!(held >= 0.10, "{name}, {count} points, {blocks} blocks: {held}");
            }
        }
    }
}

/// A match is won with this probability.
fn points_of(u: f64, p: f64) -> f64 {
    f64::from(u8::from(u < p))
}
