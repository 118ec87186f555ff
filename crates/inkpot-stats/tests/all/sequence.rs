//! Confidence sequences under repeated looks, by simulation.
//!
//! `cargo test --release -p inkpot-stats sequence:: -- --ignored --nocapture` prints the tables of
//! `docs/statistics.md` and fails when a bound stated there is missed.

use std::thread;

use crate::made::points;
use inkpot_core::Chance;
use inkpot_stats::{Sequence, fixed_blocks};

/// Points share of a block of two matches, each won, halved or lost; `tie` is the chance that the second match goes
/// like the first.
fn share(rate: f64, draws: f64, tie: f64, chance: &mut Chance) -> f64 {
    let first = points(chance.unit(), rate, draws);
    let second = if chance.happens(tie) { first } else { points(chance.unit(), rate, draws) };
    f64::midpoint(first, second)
}

/// What came of one comparison: blocks spent, and whether it was found better, worse, or equal within the band.
#[derive(Clone, Copy, PartialEq)]
struct Found {
    blocks: u64,
    verdict: char,
}

/// Plays until clear, looking after every block.
fn until_clear(cap: u64, band: Option<f64>, mut next: impl FnMut() -> f64) -> Found {
    let mut sequence = Sequence::default();
    for blocks in 1..=cap {
        sequence.push(next());
        let out = |m: f64| sequence.excludes(m, 0.95);
        if out(0.5) {
            return Found { blocks, verdict: if sequence.mean() > 0.5 { '>' } else { '<' } };
        }
        if band.is_some_and(|w| (sequence.mean() - 0.5).abs() < w && out(0.5 - w) && out(0.5 + w)) {
            return Found { blocks, verdict: '=' };
        }
    }
    Found { blocks: cap, verdict: '?' }
}

fn simulate(runs: u64, simulate_run: impl Fn(&mut Chance) -> Found + Sync, seed: u64) -> Vec<Found> {
    thread::scope(|scope| {
        let parts = [0, 1].map(|part| {
            let simulate_run = &simulate_run;
            scope.spawn(move || {
                let numbers = (0..runs).filter(|run| run % 2 == part);
                numbers.map(|run| simulate_run(&mut Chance::from_seed(seed + run))).collect::<Vec<_>>()
            })
        });
        parts.into_iter().flat_map(|part| part.join().unwrap_or_default()).collect()
    })
}

fn part(found: &[Found], verdict: char) -> f64 {
    found.iter().filter(|run| run.verdict == verdict).count() as f64 / found.len() as f64
}

#[test]
fn looking_after_every_block_claims_falsely_in_fewer_than_one_of_twenty() {
    let found = simulate(400, |chance| until_clear(400, None, || share(0.5, 0.2, 0.3, chance)), 1);
    assert!(part(&found, '?') >= 0.95, "{}", part(&found, '?'));
}

#[test]
fn a_clear_difference_is_found_on_the_right_side() {
    let found = simulate(200, |chance| until_clear(2000, Some(0.03), || share(0.6, 0.1, 0.0, chance)), 2);
    assert!(part(&found, '>') >= 0.99, "{}", part(&found, '>'));
}

#[test]
fn equal_ones_are_found_equal_within_the_band() {
    let found = simulate(100, |chance| until_clear(20_000, Some(0.05), || share(0.5, 0.1, 0.0, chance)), 3);
    assert!(part(&found, '=') >= 0.95, "{}", part(&found, '='));
}

#[test]
#[ignore = "minutes of simulation"]
fn false_claims_stay_below_five_percent() {
    const RUNS: u64 = 4000;
    const CAP: u64 = 5000;
    for (number, &(draws, tie)) in [(0.0, 0.0), (0.0, 0.9), (0.6, 0.0), (0.2, 0.3)].iter().enumerate() {
        let found =
            simulate(RUNS, |chance| until_clear(CAP, None, || share(0.5, draws, tie, chance)), 1 << (20 + number));
        let false_claims = 1.0 - part(&found, '?');
        println!("| 50 % | {draws} | {tie} | {CAP} | {:.2} % |", false_claims * 100.0);
        assert!(false_claims <= 0.05, "{false_claims}");
    }
    // At the edge of the band, `equal` is a false claim and so is `worse`.
    let found = simulate(RUNS, |chance| until_clear(CAP, Some(0.03), || share(0.53, 0.0, 0.0, chance)), 1 << 30);
    let false_claims = part(&found, '=') + part(&found, '<');
    println!("| 53 %, band 3 | 0 | 0 | {CAP} | {:.2} % |", false_claims * 100.0);
    assert!(false_claims <= 0.05, "{false_claims}");
}

#[test]
fn stopping_early_is_hardly_ever_wrong_in_a_few_runs() {
    stopping_early(60, 3);
}

#[test]
#[ignore = "minutes of simulation"]
fn what_stopping_early_costs() {
    stopping_early(2000, 0);
}

/// This many comparisons of each kind but the first few, which take longest.
fn stopping_early(runs: u64, skipped: usize) {
    const CAP: u64 = 50_000;
    let kinds = [
        (0.5, Some(0.03)),
        (0.5, Some(0.05)),
        (0.52, None),
        (0.55, None),
        (0.55, Some(0.03)),
        (0.6, None),
        (0.6, Some(0.03)),
        (0.7, None),
    ];
    for (rate, band) in kinds.into_iter().skip(skipped) {
        let found =
            simulate(runs, |chance| until_clear(CAP, band, || share(rate, 0.0, 0.0, chance)), (rate * 1e9) as u64);
        let mut blocks: Vec<u64> = found.iter().map(|run| run.blocks).collect();
        blocks.sort_unstable();
        let mean = blocks.iter().sum::<u64>() as f64 / runs as f64;
        // Two independent matches a block.
        let sd = (rate * (1.0 - rate) / 2.0f64).sqrt();
        let distance = if rate == 0.5 { band.unwrap_or(f64::NAN) } else { rate - 0.5 };
        let fixed = [0.9, 0.99].map(|power| fixed_blocks(sd, distance, 0.95, power));
        let band = band.map_or("none".into(), |band| format!("{:.0} points", band * 100.0));
        println!(
            "| {:.0} % | {band} | {:.1} % | {:.1} % | {:.1} % | {mean:.0} | {} | {} | {} | {} |",
            rate * 100.0,
            part(&found, '>') * 100.0,
            part(&found, '=') * 100.0,
            part(&found, '<') * 100.0,
            blocks[blocks.len() / 2],
            blocks[blocks.len() * 95 / 100],
            fixed[0],
            fixed[1],
        );
        assert!(part(&found, '<') <= 0.05);
    }
}
