//! Chooses the values of all rungs together: least expected loss under the constraints between rungs.

use super::models::Models;
use super::surface::spread;
use super::{Across, Point, Probed, Tune};

/// Candidates of a rung over the whole range, and around the best.
const EVERYWHERE: usize = 240;
const AROUND: usize = 60;
/// Values of the shared knobs that are tried: those of the best candidates, and others from everywhere.
const SHARED: usize = 30;
const SHARED_EVERYWHERE: usize = 30;
/// Candidates of a rung at each shared value: the best, and others over the whole range, since the best other knobs
/// depend on the shared ones.
const AT_SHARED: usize = 40;
/// A point for every rung.
pub(crate) fn choose(tune: &Tune, models: &Models, history: &[Probed]) -> Vec<Point> {
    choose_without(tune, models, history, None)
}

/// The same with a target of one rung left out of account.
pub(crate) fn choose_without(
    tune: &Tune,
    models: &Models,
    history: &[Probed],
    ignored: Option<(usize, usize)>,
) -> Vec<Point> {
    let left_out = |rung: usize| ignored.filter(|(place, _)| *place == rung).map(|(_, target)| target);
    let mut best = Vec::new();
    // A second look has candidates around what the first chose.
    for look in 0..3 {
        let candidates: Vec<Vec<Point>> = (0..tune.rungs.len())
            .map(|rung| candidates(tune, models, history, rung, best.get(rung), look, left_out(rung)))
            .collect();
        best = joint(tune, models, &candidates, &left_out);
    }
    best
}

fn candidates(
    tune: &Tune,
    models: &Models,
    history: &[Probed],
    rung: usize,
    chosen: Option<&Point>,
    look: i32,
    ignored: Option<usize>,
) -> Vec<Point> {
    let dimensions = tune.free.len();
    let everywhere = (0..EVERYWHERE).map(|i| tune.point_at(&spread(i, dimensions)));
    let tried = history.iter().filter(|tried| tried.probe.rung == rung).map(|tried| tried.probe.point.clone());
    let mut all: Vec<Point> = everywhere.chain(tried).collect();
    for corner in [0.0, 1.0] {
        all.push(tune.point_at(&vec![corner; dimensions]));
    }
    if let Models::Curves(curves) = models {
        let solved = curves[rung].iter().flat_map(|known| &known.solved);
        all.extend(solved.map(|solved| vec![tune.free[0].held(solved.value)]));
        all.extend((0..=200).map(|i| tune.point_at(&[f64::from(i) / 200.0])));
    }
    if let Some(chosen) = chosen {
        let (at, radius) = (tune.shares_of(chosen), 0.12 * 0.3f64.powi(look - 1));
        all.extend((0..AROUND).map(|i| {
            let moved: Vec<f64> = spread(i, dimensions)
                .iter()
                .zip(&at)
                .map(|(u, x)| (x + radius * (2.0 * u - 1.0)).clamp(0.0, 1.0))
                .collect();
            tune.point_at(&moved)
        }));
        all.push(chosen.clone());
    }
    // The best of them are enough; those that keep the order of the rungs are among all.
    let mut scored: Vec<(f64, Point)> =
        all.into_iter().map(|point| (models.loss(tune, rung, &point, ignored), point)).collect();
    scored.sort_by(|a, b| a.0.total_cmp(&b.0));
    scored.dedup_by(|a, b| a.1 == b.1);
    let keep = EVERYWHERE;
    let stride = (scored.len() / 40).max(1);
    let candidates = scored.iter().enumerate().filter(|(i, _)| *i < keep || i % stride == 0);
    candidates.map(|(_, (_, point))| point.clone()).collect()
}

/// The path of least loss through the candidates of all rungs, one each, that every constraint allows; where none
/// does, constraints that cannot be kept are dropped from that rung on.
fn joint(
    tune: &Tune,
    models: &Models,
    candidates: &[Vec<Point>],
    left_out: &dyn Fn(usize) -> Option<usize>,
) -> Vec<Point> {
    let shared: Vec<usize> = (0..tune.free.len()).filter(|axis| tune.free[*axis].across == Across::Shared).collect();
    if shared.is_empty() {
        return path(tune, models, candidates, left_out).1;
    }
    let mut pool: Vec<Vec<f64>> = Vec::new();
    for i in 0..SHARED {
        for points in candidates {
            let Some(point) = points.get(i / candidates.len().max(1)) else { continue };
            let values: Vec<f64> = shared.iter().map(|axis| point[*axis]).collect();
            if !pool.contains(&values) && pool.len() < SHARED {
                pool.push(values);
            }
        }
    }
    let everywhere = |count: usize| (0..count).map(|i| tune.point_at(&spread(i, tune.free.len())));
    pool.extend(everywhere(SHARED_EVERYWHERE).map(|point| shared.iter().map(|axis| point[*axis]).collect()));
    let each = pool.iter().map(|values| {
        let held = |mut point: Point| {
            shared.iter().zip(values).for_each(|(axis, value)| point[*axis] = *value);
            point
        };
        let at_shared = |ranked: &Vec<Point>| -> Vec<Point> {
            ranked.iter().take(AT_SHARED).cloned().chain(everywhere(AT_SHARED)).map(held).collect()
        };
        path(tune, models, &candidates.iter().map(at_shared).collect::<Vec<_>>(), left_out)
    });
    each.min_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, points)| points).unwrap_or_default()
}

fn path(
    tune: &Tune,
    models: &Models,
    candidates: &[Vec<Point>],
    left_out: &dyn Fn(usize) -> Option<usize>,
) -> (f64, Vec<Point>) {
    let cost: Vec<Vec<f64>> = candidates
        .iter()
        .enumerate()
        .map(|(rung, points)| points.iter().map(|point| models.loss(tune, rung, point, left_out(rung))).collect())
        .collect();
    let mut total = cost[0].clone();
    let mut from: Vec<Vec<usize>> = vec![Vec::new()];
    for rung in 1..candidates.len() {
        let step = |j: usize| {
            let before = candidates[rung - 1].iter().enumerate();
            let open = before.filter(|(_, earlier)| allowed(tune, earlier, &candidates[rung][j]));
            let best = open.map(|(i, _)| (total[i], i)).min_by(|a, b| a.0.total_cmp(&b.0));
            best.unwrap_or((1e12, 0))
        };
        let (next, back): (Vec<f64>, Vec<usize>) =
            (0..candidates[rung].len()).map(|j| (step(j), cost[rung][j])).map(|((c, i), total)| (c + total, i)).unzip();
        total = next;
        from.push(back);
    }
    let mut at = (0..total.len()).min_by(|a, b| total[*a].total_cmp(&total[*b])).unwrap_or(0);
    let whole = total[at];
    let mut points = Vec::new();
    for rung in (0..candidates.len()).rev() {
        points.push(candidates[rung][at].clone());
        if rung > 0 {
            at = from[rung][at];
        }
    }
    points.reverse();
    (whole, points)
}

/// Whether a rung may follow another with these values.
fn allowed(tune: &Tune, before: &[f64], after: &[f64]) -> bool {
    tune.free.iter().zip(before.iter().zip(after)).all(|(free, (from, to))| {
        free.across.allows(*from, *to) && free.step.is_none_or(|step| (to - from).abs() <= step + 1e-9)
    })
}
