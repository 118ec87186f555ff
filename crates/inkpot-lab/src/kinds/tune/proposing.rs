//! Several free knobs or several targets: the next probes by drawing from the surrogates.
//!
//! Next probes are where draws from the surrogates, taken as the truth, have their least loss (Thompson 1933): places
//! that may be best are tried as often as they are likely to be. One probe of each round is at the present choice, so
//! that its figures are known best.

use inkpot_core::{Chance, Streams};

use super::choose::choose;
use super::models::{Models, loss_of};
use super::surface::spread;
use super::{Point, Probe, Probed, Sample, Target, Tune};
use crate::searching::FIRST_PROBE_BLOCK;

/// Probes of the first look: this many, and more for each knob; and blocks of each.
const FIRST: (usize, usize) = (6, 5);
const FIRST_BLOCKS: u64 = 16;
/// Draws of a round, each a probe, beside the one at the present choice.
const DRAWS: usize = 3;
/// Candidates of a draw.
const CANDIDATES: usize = 160;
/// Probes this near to the choice in each knob, as shares of the ranges, tell of it.
const NEXT_TO: f64 = 0.03;
/// The number of a round's probes that go over the range of one knob, as long as the choice is not known to meet its
/// targets.
const ACROSS: usize = 2;
/// Growth of a round relative to the matches played on the rung, in blocks within these numbers a probe.
const GROWTH: f64 = 0.25;
const LEAST_BLOCKS: u64 = 16;
const MOST_BLOCKS: u64 = 400;

/// The next probes of the rungs that are not settled; none when all are.
pub(crate) fn next_probes(tune: &Tune, history: &[Probed], round: u64) -> Vec<Probe> {
    let [first, least, most] =
        [FIRST_BLOCKS, LEAST_BLOCKS, MOST_BLOCKS].map(|blocks| (2 * blocks / tune.matches_a_block()).max(4));
    if history.is_empty() {
        let count = first_probes(tune);
        let look = |rung: usize| {
            let blocks = first.min(tune.budget / tune.matches_of(rung) / count);
            (0..count).map(move |i| {
                let point = tune.point_at(&spread(i as usize, tune.free.len()));
                Probe { rung, point, first_block: FIRST_PROBE_BLOCK + i * blocks, blocks }
            })
        };
        return (0..tune.rungs.len()).flat_map(look).collect();
    }
    let models = Models::fit(tune, history);
    let chosen = choose(tune, &models, history);
    let mut probes = Vec::new();
    let is_known =
        |rung: usize| settled(tune, &models, rung, &chosen[rung]) && confirmed(tune, history, rung, &chosen[rung]);
    let open: Vec<usize> = (0..tune.rungs.len()).filter(|rung| !is_known(*rung)).collect();
    // What rungs that are known leave of the budget goes to the others.
    let spent: u64 = (0..tune.rungs.len()).map(|rung| played(history, rung).0 * tune.matches_of(rung)).sum();
    let share = (tune.budget * tune.rungs.len() as u64).saturating_sub(spent) / open.len().max(1) as u64;
    for rung in open {
        let present = &chosen[rung];
        let (played, next_block) = played(history, rung);
        let left = share / tune.matches_of(rung);
        if left < least {
            continue;
        }
        let each = ((played as f64 * GROWTH) as u64 / (DRAWS as u64 + 1)).clamp(least, most);
        let seed = Streams::of_study(tune.ground.seed).draw(round * tune.rungs.len() as u64 + rung as u64);
        let mut points = vec![present.clone()];
        points.extend(drawn(tune, &models, rung, present, seed));
        if round > 1 && !confirmed(tune, history, rung, present) {
            let first = (round as usize - 2) * ACROSS;
            points.splice(
                points.len() - ACROSS.min(points.len() - 1)..,
                (first..first + ACROSS).map(|i| across(tune, present, i)),
            );
        }
        let mut block = next_block;
        for point in points {
            let blocks = each.min((next_block + left).saturating_sub(block));
            if blocks > 0 {
                probes.push(Probe { rung, point, first_block: block, blocks });
            }
            block += blocks;
        }
    }
    probes
}

fn first_probes(tune: &Tune) -> u64 {
    (FIRST.0 + FIRST.1 * tune.free.len()) as u64
}

/// Matches of the smallest first look at a rung: two blocks a probe, so that each tells how noisy it is.
pub(crate) fn least_budget(tune: &Tune, rung: usize) -> u64 {
    2 * first_probes(tune) * tune.matches_of(rung)
}

/// Blocks played on a rung, and the first that was not.
pub(crate) fn played(history: &[Probed], rung: usize) -> (u64, u64) {
    let probes = || history.iter().filter(|tried| tried.probe.rung == rung).map(|tried| &tried.probe);
    (
        probes().map(|probe| probe.blocks).sum(),
        probes().map(|t| t.first_block + t.blocks).max().unwrap_or(FIRST_PROBE_BLOCK),
    )
}

/// Whether the figures at the choice are known well enough, and lie within every target.
fn settled(tune: &Tune, models: &Models, rung: usize, point: &[f64]) -> bool {
    let estimates = models.at(tune, rung, point);
    let hard = tune.rungs[rung].targets.iter().zip(estimates).filter(|(target, _)| target.hard);
    hard.into_iter().all(|(target, (mean, variance))| {
        let within = target.within();
        let sd = variance.sqrt();
        sd <= tune.precision * within && mean - 2.0 * sd >= target.low() && mean + 2.0 * sd <= target.high()
    })
}

/// Whether matches played at the choice, or next to it, say that it meets every hard target of the rung by a standard
/// error: a surrogate may be wrong between the points that it was fitted to, and surest where it is.
fn confirmed(tune: &Tune, history: &[Probed], rung: usize, point: &[f64]) -> bool {
    let at = tune.shares_of(point);
    let is_near = |other: &[f64]| tune.shares_of(other).iter().zip(&at).all(|(a, b)| (a - b).abs() <= NEXT_TO);
    let here = || history.iter().filter(|tried| tried.probe.rung == rung && is_near(&tried.probe.point));
    let is_met = |(place, target): (usize, &Target)| {
        let (mut count, mut sum, mut squares) = (0.0, 0.0, 0.0);
        for Sample { count: blocks, mean, sd } in here().map(|tried| tried.samples[place]) {
            let blocks = blocks as f64;
            count += blocks;
            sum += blocks * mean;
            squares += (blocks - 1.0).max(0.0) * sd * sd;
        }
        let (mean, error) = (sum / count, (squares / count).sqrt() / count.sqrt());
        count > 1.0 && mean - error >= target.low() && mean + error <= target.high()
    };
    let hard = tune.rungs[rung].targets.iter().enumerate().filter(|(_, target)| target.hard);
    hard.into_iter().all(is_met)
}

/// A point that differs from the choice in one knob, which goes over its range: first to its ends, then ever more finely
/// between them. A surrogate that takes a knob for idle far from where it matters is never sure enough to look there.
fn across(tune: &Tune, present: &[f64], number: usize) -> Point {
    let (axis, step) = (number % tune.free.len(), number / tune.free.len());
    let mut shares = tune.shares_of(present);
    shares[axis] = match step {
        0 => 0.0,
        1 => 1.0,
        later => spread(later - 2, 1)[0],
    };
    tune.point_at(&shares)
}

/// The points of least loss of some draws of the surrogates.
fn drawn(tune: &Tune, models: &Models, rung: usize, chosen: &[f64], mut chance: Chance) -> Vec<Point> {
    let Models::Surfaces(surfaces) = models else { return Vec::new() };
    let targets = &tune.rungs[rung].targets;
    let at = tune.shares_of(chosen);
    (0..DRAWS)
        .map(|_| {
            let candidates: Vec<Point> = (0..CANDIDATES)
                .map(|i| {
                    // Half from everywhere, half from around the present choice.
                    let shares: Vec<f64> = at
                        .iter()
                        .map(|x| if i % 2 == 0 { chance.unit() } else { (x + 0.12 * chance.normal()).clamp(0.0, 1.0) })
                        .collect();
                    tune.shares_of(&tune.point_at(&shares))
                })
                .collect();
            let mut losses = vec![0.0; CANDIDATES];
            for (target, figure) in targets.iter().zip(&surfaces[rung].figures) {
                let Some(figure) = figure else { continue };
                let normals: Vec<f64> = (0..CANDIDATES).map(|_| chance.normal()).collect();
                for (loss, y) in losses.iter_mut().zip(figure.draw(&candidates, &normals)) {
                    *loss += loss_of(target, y, 0.0);
                }
            }
            let best = (0..CANDIDATES).min_by(|a, b| losses[*a].total_cmp(&losses[*b])).unwrap_or(0);
            tune.point_at(&candidates[best])
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_look_leaves_no_large_hole() {
        let points: Vec<Point> = (0..64).map(|i| spread(i, 2)).collect();
        for (x, y) in (0..100).map(|i| (f64::from(i % 10) / 9.0, f64::from(i / 10) / 9.0)) {
            let nearest = points.iter().map(|p| (p[0] - x).hypot(p[1] - y)).fold(f64::INFINITY, f64::min);
            assert!(nearest < 0.25, "nothing near {x}, {y}: {nearest}");
        }
    }
}
