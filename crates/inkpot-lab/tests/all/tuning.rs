//! The search for one knob, on simulated players whose curve is known: how often the knob's interval holds, and what
//! the search costs against an even grid, the usual way and the least that any design needs.

use inkpot_core::Chance;
use inkpot_lab::{Free, FreeRange, Next, ProbeCurve, Sample, Side, Sizes, Target, next_values};
use inkpot_stats::LapseLogistic;

const TARGET: f64 = 0.7;
const WITHIN: f64 = 0.03;
const EXACT: f64 = 0.3 * WITHIN;
const SIZES: Sizes = Sizes { matches_a_block: 2, blocks_left: 1_000_000, exact: EXACT };

fn knob() -> Free {
    Free {
        of: Side::Opponent,
        knob: "skill".into(),
        range: FreeRange::Number { low: 0.0, high: 1.0, whole: false },
        across: inkpot_lab::Across::Any,
        step: None,
    }
}

/// A player whose win rate falls along a curve, from person to person a little different.
struct Simulated {
    curve: LapseLogistic,
    person_sd: f64,
}

impl Simulated {
    fn drawn(chance: &mut Chance) -> Self {
        let curve = LapseLogistic {
            floor: chance.between(0.0, 0.06),
            ceiling: chance.between(0.9, 1.0),
            midpoint: chance.between(0.35, 0.75),
            slope: -chance.between(3.0, 10.0),
        };
        Self { curve, person_sd: chance.between(0.0, 0.15) }
    }

    fn play(&self, x: f64, blocks: u64, chance: &mut Chance) -> Sample {
        let p = self.curve.at(x);
        let mut shares = Vec::new();
        for _ in 0..blocks {
            // A person is better or worse by the same amount, as often: the mean stays on the curve.
            let side = if chance.happens(0.5) { 1.0 } else { -1.0 };
            let answer = p + side * self.person_sd.min(p).min(1.0 - p);
            let won = (0..2).filter(|_| chance.happens(answer)).count();
            shares.push(won as f64 / 2.0);
        }
        let mean = shares.iter().sum::<f64>() / blocks as f64;
        let squares = shares.iter().map(|share| (share - mean).powi(2)).sum::<f64>();
        Sample { count: blocks, mean, sd: (squares / (blocks as f64 - 1.0)).sqrt() }
    }
}

/// What a search found: the curve, and the blocks it took.
fn sequential(player: &Simulated, chance: &mut Chance) -> (ProbeCurve, u64) {
    let (free, target) = (knob(), Target::rate(TARGET, WITHIN));
    let mut samples = Vec::new();
    while let Next::Play(values) = next_values(&free, &target, &samples, SIZES, 0.95, None) {
        for (x, blocks) in values {
            samples.push((x, player.play(x, blocks, chance)));
        }
    }
    let blocks = samples.iter().map(|(_, sample)| sample.count).sum();
    (ProbeCurve::fit(&free, &samples, TARGET, 0.95).expect("something was played"), blocks)
}

/// Blocks that the same estimator needs on an even grid of 19 values for the same exactness.
fn even_grid(player: &Simulated, chance: &mut Chance) -> u64 {
    let mut samples = Vec::new();
    for round in 1..10_000u64 {
        for i in 0..19 {
            let x = f64::from(i) / 18.0;
            samples.push((x, player.play(x, 10, chance)));
        }
        if round % 5 == 0 {
            let known = ProbeCurve::fit(&knob(), &merged(&samples), TARGET, 0.95);
            let exact = |known: ProbeCurve| Some(known.curve.share_sd(known.answer(None)?.value) <= EXACT);
            if known.and_then(exact) == Some(true) {
                return round * 190;
            }
        }
    }
    u64::MAX
}

/// Probes at one value put together.
fn merged(samples: &[(f64, Sample)]) -> Vec<(f64, Sample)> {
    (0..19)
        .map(|i| {
            let answers: Vec<&Sample> = samples.iter().skip(i).step_by(19).map(|(_, sample)| sample).collect();
            let count: u64 = answers.iter().map(|sample| sample.count).sum();
            let mean = answers.iter().map(|sample| sample.mean * sample.count as f64).sum::<f64>() / count as f64;
            let squares: f64 = answers
                .iter()
                .map(|sample| {
                    (sample.count as f64 - 1.0) * sample.sd.powi(2) + sample.count as f64 * (sample.mean - mean).powi(2)
                })
                .sum();
            (samples[i].0, Sample { count, mean, sd: (squares / (count as f64 - 1.0)).sqrt() })
        })
        .collect()
}

fn median(values: &mut [f64]) -> f64 {
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

#[test]
fn the_knobs_interval_holds_the_true_value_of_a_few_players() {
    // Of 60, three missed are expected, and eight hardly ever.
    intervals_hold(60, 52..=60);
}

#[test]
#[ignore = "a simulation of about a minute; run in release"]
fn the_knobs_interval_holds_the_true_value() {
    intervals_hold(1000, 930..=970);
}

/// The search on this many players; this many of its intervals hold the true value.
fn intervals_hold(players: u32, expected: std::ops::RangeInclusive<usize>) {
    let mut chance = Chance::from_seed(20_261_123);
    let (mut held, mut off) = (0, Vec::new());
    for _ in 0..players {
        let player = Simulated::drawn(&mut chance);
        let (known, _) = sequential(&player, &mut chance);
        let truth = player.curve.solve(TARGET).expect("every simulated player can win so often");
        let answer = known.answer(None).expect("the curve takes the target");
        let below = answer.low.is_none_or(|low| low <= truth);
        held += usize::from(below && answer.high.is_none_or(|high| truth <= high));
        off.push((player.curve.at(answer.value) - TARGET).powi(2));
    }
    let rms = (off.iter().sum::<f64>() / off.len() as f64).sqrt();
    println!("held {held} of {players}; the win rate at the value found is off by {:.2} points (rms)", 100.0 * rms);
    assert!(expected.contains(&held), "{held} of {players}");
}

#[test]
fn the_search_costs_little_over_the_least_with_a_few_players() {
    cost_of_searching(3);
}

#[test]
#[ignore = "a simulation of about a minute; run in release"]
fn the_search_costs_a_fraction_of_an_even_grid_and_little_over_the_least() {
    cost_of_searching(20);
}

/// What searching costs against other designs, as medians over this many players.
fn cost_of_searching(players: usize) {
    let (mut grid, mut least, mut usual) = (Vec::new(), Vec::new(), Vec::new());
    for number in 0..players as u64 {
        let mut chance = Chance::from_seed(7 + number);
        let player = Simulated::drawn(&mut chance);
        let (known, blocks) = sequential(&player, &mut chance);
        let value = known.answer(None).expect("the curve takes the target").value;
        let matches = known.block_worth * blocks as f64;
        grid.push(blocks as f64 / even_grid(&player, &mut chance) as f64);
        // The inverse of Fisher's information of one match at the value: no design needs fewer for this error.
        least.push(matches / (TARGET * (1.0 - TARGET) / known.curve.share_sd(value).powi(2)));
        // Each of 21 values to +-2 points: as many matches as a rate of its own needs.
        let needed: f64 = (0..21)
            .map(|i| {
                let p = player.curve.at(f64::from(i) / 20.0);
                p * (1.0 - p) * (1.96f64 / 0.02).powi(2)
            })
            .sum();
        usual.push(matches / needed);
    }
    println!(
        "of an even grid {:.3}, of the least {:.3}, of the usual way {:.3} (medians of {players})",
        median(&mut grid),
        median(&mut least),
        median(&mut usual)
    );
    assert!(median(&mut usual) <= 0.15 && median(&mut least) < 1.5 && median(&mut grid) < 0.4);
}
