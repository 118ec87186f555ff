//! A curve through the points of a sweep that presumes no shape, and where it takes a wanted value.

use nalgebra::{DMatrix, Matrix3, Vector3};
use serde::{Deserialize, Serialize};

use crate::Interval;
use crate::interval::t_quantile;

/// A piece spans the range of the points over this, three points at least.
const PIECES: f64 = 4.0;
/// Matches that each point is taken to have halved besides, so that one where all was won or lost stays finite.
const PRIOR_MATCHES: f64 = 0.5;
/// A mean is not believed to vary less than so much of what independent matches would.
pub(crate) const LEAST_DESIGN_EFFECT: f64 = 0.3;
const MOST_STEPS: usize = 60;
/// Places between two points at which the band is looked at.
const STEPS: usize = 64;

/// What was measured: rising values, the mean share at each with the matches it is of, and the covariance of the means.
#[derive(Clone, Debug)]
#[expect(missing_docs, reason = "the fields are named after what they hold")]
pub struct Measured<'a> {
    pub xs: &'a [f64],
    pub means: &'a [f64],
    pub matches: &'a [f64],
    pub covariance: &'a DMatrix<f64>,
    /// Independent blocks behind the covariance.
    pub blocks: f64,
}

/// A curve of shares that presumes no shape: between two points it blends two parabolas in the logit, each fitted by
/// maximum likelihood to the five points nearest to one of the two (local likelihood, Tibshirani & Hastie 1987).
///
/// Its band is pointwise: the covariance of the means by the delta method, Student's t over blocks. Places of points are
/// counted by their order, so that a row like 1, 2, 4, 8 is as even as 1, 2, 3, 4.
#[derive(Clone, Debug)]
pub struct LocalCurve {
    xs: Vec<f64>,
    pieces: Vec<Piece>,
    covariance: DMatrix<f64>,
    margin: f64,
}

/// A parabola in the logit.
#[derive(Clone, Debug)]
struct Piece {
    start: usize,
    /// The point where it stands alone.
    centre: f64,
    values: Vector3<f64>,
    /// How each coefficient moves with the mean at each of its points.
    follows: Vec<Vector3<f64>>,
}

impl LocalCurve {
    /// Fits it; none with fewer than four points.
    pub fn fit(measured: &Measured, confidence: f64) -> Option<Self> {
        let points = measured.xs.len();
        if points < 4 {
            return None;
        }
        let half = ((points as f64 - 1.0) / (2.0 * PIECES)).round().max(1.0) as usize;
        let window = (2 * half + 1).min(points);
        let piece =
            |centre: usize| Piece::fit(measured, centre, centre.saturating_sub(half).min(points - window), window);
        let pieces: Vec<Piece> = (1..points - 1).map(piece).collect();
        let mut covariance = measured.covariance.clone();
        let mut curve = Self { xs: measured.xs.to_vec(), pieces, covariance: DMatrix::zeros(0, 0), margin: 0.0 };
        for at in 0..points {
            let p = share(curve.logit(at as f64));
            let least = LEAST_DESIGN_EFFECT * p * (1.0 - p) / measured.matches[at];
            covariance[(at, at)] = covariance[(at, at)].max(least);
        }
        curve.covariance = covariance;
        curve.margin = t_quantile(f64::midpoint(1.0, confidence), measured.blocks - 1.0);
        Some(curve)
    }

    /// The curve at a value between the first and the last, with its pointwise band.
    pub fn at(&self, x: f64) -> Interval {
        let place = self.place(x);
        let (logit, error) = (self.logit(place), self.margin * self.error(place));
        Interval { value: share(logit), low: share(logit - error), high: share(logit + error) }
    }

    /// Where a value lies among the points.
    fn place(&self, x: f64) -> f64 {
        let right = self.xs.partition_point(|known| *known < x).clamp(1, self.xs.len() - 1);
        let (a, b) = (self.xs[right - 1], self.xs[right]);
        (right - 1) as f64 + ((x - a) / (b - a)).clamp(0.0, 1.0)
    }

    /// The value at a place.
    fn x(&self, place: f64) -> f64 {
        let left = (place as usize).min(self.xs.len() - 2);
        self.xs[left] + (place - left as f64) * (self.xs[left + 1] - self.xs[left])
    }

    /// The pieces at a place with their weights.
    fn blend(&self, place: f64) -> [(&Piece, f64); 2] {
        let last = self.pieces.len() - 1;
        let from = (place - self.pieces[0].centre).clamp(0.0, last as f64);
        let left = (from as usize).min(last);
        let right = (left + 1).min(last);
        let part = from - left as f64;
        [(&self.pieces[left], 1.0 - part), (&self.pieces[right], part)]
    }

    fn logit(&self, place: f64) -> f64 {
        self.blend(place).iter().map(|(piece, weight)| weight * piece.terms(place).dot(&piece.values)).sum()
    }

    fn error(&self, place: f64) -> f64 {
        let mut moves = vec![0.0; self.xs.len()];
        for (piece, weight) in self.blend(place) {
            let terms = piece.terms(place);
            for (point, follows) in piece.follows.iter().enumerate() {
                moves[piece.start + point] += weight * terms.dot(follows);
            }
        }
        let mut variance = 0.0;
        for (i, a) in moves.iter().enumerate() {
            for (j, b) in moves.iter().enumerate() {
                variance += a * b * self.covariance[(i, j)];
            }
        }
        variance.max(0.0).sqrt()
    }

    /// Where the curve takes a wanted share, and where by its band it may.
    pub fn solve(&self, wanted: f64) -> Crossings {
        let target = (wanted / (1.0 - wanted)).ln();
        let off = |place: f64| self.logit(place) - target;
        let outside = |place: f64| off(place).abs() - self.margin * self.error(place);
        let mut looks = vec![Look { place: 0.0, crosses: off(0.0) == 0.0 }];
        for step in 1..=(self.xs.len() - 1) * STEPS {
            let (before, now) = ((step - 1) as f64 / STEPS as f64, step as f64 / STEPS as f64);
            if off(before) * off(now) < 0.0 {
                looks.push(Look { place: between(&off, before, now), crosses: true });
            }
            looks.push(Look { place: now, crosses: off(now) == 0.0 });
        }
        let mut crossings = Crossings::default();
        let mut stretch: Option<Stretch> = None;
        let mut before = f64::NEG_INFINITY;
        for Look { place, crosses } in looks {
            let inside = crosses || outside(place) <= 0.0;
            let edge = || if before.is_finite() { between(&outside, before, place) } else { before };
            match (&mut stretch, inside) {
                (None, true) => stretch = Some(Stretch { from: edge(), at: Vec::new() }),
                (Some(open), false) => {
                    self.close(&mut crossings, open, edge());
                    stretch = None;
                }
                _ => {}
            }
            if let Some(open) = stretch.as_mut().filter(|_| crosses) {
                open.at.push(place);
            }
            before = place;
        }
        if let Some(open) = stretch {
            self.close(&mut crossings, &open, f64::INFINITY);
        }
        crossings
    }

    /// How near the band comes to leaving a wanted share out everywhere, or to telling the ends apart where the curve takes
    /// it: the distance of the curve from it in margins, 1 where it would just do.
    pub(crate) fn nearness(&self, wanted: f64) -> f64 {
        let target = (wanted / (1.0 - wanted)).ln();
        let steps = (self.xs.len() - 1) * STEPS;
        let offs: Vec<f64> = (0..=steps).map(|step| self.logit(step as f64 / STEPS as f64) - target).collect();
        let near = |step: usize| offs[step].abs() / (self.margin * self.error(step as f64 / STEPS as f64));
        if offs.iter().any(|off| off.signum() != offs[0].signum()) {
            return near(0).max(near(steps));
        }
        (0..=steps).map(near).fold(f64::INFINITY, f64::min)
    }

    /// Ends a stretch in which the band holds the target.
    fn close(&self, crossings: &mut Crossings, open: &Stretch, to: f64) {
        let end = |place: f64| place.is_finite().then(|| self.x(place));
        let (low, high) = (end(open.from), end(to));
        // Where noise takes the curve across and back within the band there is one solution, or none; one on either side
        // where it goes beyond and comes back.
        let kept = match open.at.as_slice() {
            [] => {
                crossings.possible.push((low, high));
                Vec::new()
            }
            odd if odd.len() % 2 == 1 => vec![odd[odd.len() / 2]],
            even => vec![even[0], even[even.len() - 1]],
        };
        crossings.solved.extend(kept.into_iter().map(|place| Solved { value: self.x(place), low, high }));
    }
}

/// A place that is looked at, and whether the curve is at the target there.
struct Look {
    place: f64,
    crosses: bool,
}

/// Places one after the other at which the band holds the target, and those at which the curve is at it.
struct Stretch {
    from: f64,
    at: Vec<f64>,
}

/// Where a function that changes its sign between two places is 0.
fn between(f: &impl Fn(f64) -> f64, a: f64, b: f64) -> f64 {
    let (mut a, mut b) = (a, b);
    let rises = f(b) > 0.0;
    for _ in 0..50 {
        let middle = f64::midpoint(a, b);
        if (f(middle) > 0.0) == rises {
            b = middle;
        } else {
            a = middle;
        }
    }
    f64::midpoint(a, b)
}

impl Piece {
    fn fit(measured: &Measured, centre: usize, start: usize, window: usize) -> Self {
        let centre = centre as f64;
        let mut piece = Self { start, centre, values: Vector3::zeros(), follows: Vec::new() };
        let weights: Vec<f64> = (start..start + window).map(|at| measured.matches[at] + PRIOR_MATCHES).collect();
        let shares: Vec<f64> = (start..start + window)
            .zip(&weights)
            .map(|(at, weight)| (measured.means[at] * measured.matches[at] + PRIOR_MATCHES / 2.0) / weight)
            .collect();
        let terms: Vec<Vector3<f64>> = (start..start + window).map(|at| piece.terms(at as f64)).collect();
        let height = |values: &Vector3<f64>| -> f64 {
            let each = terms.iter().zip(&weights).zip(&shares);
            each.map(|((terms, weight), share)| {
                let logit = terms.dot(values);
                weight * (share * logit - softplus(logit))
            })
            .sum()
        };
        let derivatives = |values: &Vector3<f64>| {
            let (mut gradient, mut information) = (Vector3::zeros(), Matrix3::zeros());
            for ((terms, weight), seen) in terms.iter().zip(&weights).zip(&shares) {
                let p = share(terms.dot(values));
                gradient += terms * (weight * (seen - p));
                information += terms * terms.transpose() * (weight * p * (1.0 - p));
            }
            (gradient, information)
        };
        let mut reached = height(&piece.values);
        for _ in 0..MOST_STEPS {
            let (gradient, information) = derivatives(&piece.values);
            let Some(inverse) = information.try_inverse() else { break };
            let mut step = inverse * gradient;
            while height(&(piece.values + step)) < reached && step.amax() > 1e-12 {
                step /= 2.0;
            }
            piece.values += step;
            reached = height(&piece.values);
            if step.amax() < 1e-10 {
                break;
            }
        }
        let inverse = derivatives(&piece.values).1.try_inverse().unwrap_or_else(Matrix3::zeros);
        let matches = &measured.matches[start..start + window];
        piece.follows = terms.iter().zip(matches).map(|(terms, matches)| inverse * terms * *matches).collect();
        piece
    }

    fn terms(&self, place: f64) -> Vector3<f64> {
        let from = place - self.centre;
        Vector3::new(1.0, from, from * from)
    }
}

fn share(logit: f64) -> f64 {
    1.0 / (1.0 + (-logit).exp())
}

/// log(1 + e^x).
fn softplus(x: f64) -> f64 {
    x.max(0.0) + (-x.abs()).exp().ln_1p()
}

/// Where a curve takes a wanted share. An end that is none lies outside the values that were measured.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Crossings {
    /// Each value at which it does, with its interval: the values around it whose band holds the share.
    pub solved: Vec<Solved>,
    /// Stretches that the band does not exclude, though the curve does not take the share there.
    pub possible: Vec<(Option<f64>, Option<f64>)>,
}

/// A knob value that gives a wanted rate.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Solved {
    /// The value.
    pub value: f64,
    /// Lower end; none if it lies outside the values that were measured.
    pub low: Option<f64>,
    /// Upper end; none if it lies outside the values that were measured.
    pub high: Option<f64>,
}
