//! A curve through the points of a sweep that presumes no shape, and where it takes a wanted value.

use nalgebra::{DMatrix, Matrix3, Vector3};
use serde::{Deserialize, Serialize};

use crate::Interval;
use crate::interval::t_quantile;

/// A piece spans the range of the points over this, three points at least.
const PIECES: f64 = 8.0;
/// Matches that each point is taken to have halved besides, so that one where all was won or lost stays finite.
const PRIOR_MATCHES: f64 = 0.5;
/// Holds a parabola through fewer than three places to the flattest: too weak to be seen wherever there are more.
const RIDGE: f64 = 1e-6;
const MOST_STEPS: usize = 60;
/// Places between two points at which the band is looked at.
const STEPS: usize = 64;
/// A fit that misses a mean with a smaller probability than this is not believed: it costs little to smooth less.
const MISFIT: f64 = 0.3;
/// Standard errors of a bend that count as chance: more would leave out true bends.
const CHANCE: f64 = 0.5;

/// Returns the least design effect of a mean: few blocks can look more even than they are, so 0.6 at twenty, and 0.3 at
/// many.
pub(crate) fn least_design_effect(blocks: f64) -> f64 {
    0.3 + 6.0 / blocks
}

/// Measured shares: the mean share at each value, with the matches it is of, and the covariance of the means. The
/// curve is drawn from node to node; nodes rise, and no value lies outside them.
#[derive(Clone, Debug)]
#[expect(missing_docs, reason = "the fields are named after what they hold")]
pub struct Measured<'a> {
    pub nodes: &'a [f64],
    pub xs: &'a [f64],
    pub means: &'a [f64],
    pub matches: &'a [f64],
    pub covariance: &'a DMatrix<f64>,
    /// Independent blocks behind the covariance.
    pub blocks: f64,
}

/// A curve of shares without a presumed shape: between two nodes it blends two parabolas in the logit, each fitted by
/// maximum likelihood around one of the two (local likelihood, Tibshirani & Hastie 1987): as far as its neighbours, or,
/// of many nodes, a sixteenth of them to either side. So few points are joined and many are smoothed.
///
/// Smoothing ends where it shows: while any parabola misses a mean beyond chance, all are fitted to fewer nodes.
///
/// Its band is pointwise and has two parts: the covariance of the means by the delta method, with Student's t over
/// blocks; and what the curve may do between two nodes, where nothing was measured. Of the latter a curve that bends one
/// way lies between its chord and the lines through the two nodes on either side; how much it bends is read off the
/// parabolas, less their standard errors, and where only one side is known the line from there bounds it. So more matches
/// at the same nodes make the first part smaller and never the second. Places between nodes are counted by their order, so
/// that a row like 1, 2, 4, 8 is as even as 1, 2, 3, 4.
#[derive(Clone, Debug)]
pub struct LocalCurve {
    nodes: Vec<f64>,
    /// Places where something was measured, rising.
    places: Vec<f64>,
    pieces: Vec<Piece>,
    /// Covariance of the coefficients of each piece, and of those of each with those of the next.
    covariances: Vec<Matrix3<f64>>,
    next: Vec<Matrix3<f64>>,
    margin: f64,
}

/// A parabola in the logit.
#[derive(Clone, Debug)]
struct Piece {
    /// The place where it stands alone.
    centre: f64,
    values: Vector3<f64>,
    /// The change of the coefficients with the mean of each fitted point.
    follows: Vec<(usize, Vector3<f64>)>,
}

impl LocalCurve {
    /// Fits it; none with fewer than two nodes, or a node without a point.
    pub fn fit(measured: &Measured, confidence: f64) -> Option<Self> {
        let nodes = measured.nodes;
        if nodes.len() < 2 || !nodes.iter().all(|node| measured.xs.contains(node)) {
            return None;
        }
        let places: Vec<f64> = measured.xs.iter().map(|x| place(nodes, *x)).collect();
        let last = nodes.len() as f64 - 1.0;
        let fitted = |half: f64| -> Vec<Piece> {
            let piece = |centre: f64| {
                // At an end it is as wide as elsewhere.
                let middle = if last > 2.0 * half { centre.clamp(half, last - half) } else { last / 2.0 };
                Piece::fit(measured, &places, centre, (middle, half))
            };
            match nodes.len() {
                2 => vec![piece(0.5)],
                count => (1..count - 1).map(|centre| piece(centre as f64)).collect(),
            }
        };
        let widest = (last / (2.0 * PIECES)).round().max(1.0) as usize;
        let mut halves = (1..=widest).rev().map(|half| half as f64);
        // Three nodes have a parabola each: at the narrowest nothing is missed.
        let pieces = halves.find_map(|half| {
            let pieces = fitted(half);
            let fits = half == 1.0 || !pieces.iter().any(|piece| piece.misses(measured, &places, pieces.len()));
            fits.then_some(pieces)
        })?;
        let mut rising = places.clone();
        rising.sort_by(f64::total_cmp);
        rising.dedup();
        let mut curve = Self {
            nodes: nodes.to_vec(),
            places: rising,
            pieces,
            covariances: Vec::new(),
            next: Vec::new(),
            margin: t_quantile(f64::midpoint(1.0, confidence), measured.blocks - 1.0),
        };
        let mut covariance = measured.covariance.clone();
        for (point, place) in places.iter().enumerate() {
            let p = share(curve.logit(*place));
            let least = least_design_effect(measured.blocks) * p * (1.0 - p) / measured.matches[point];
            covariance[(point, point)] = covariance[(point, point)].max(least);
        }
        curve.covariances = curve.pieces.iter().map(|piece| piece.covariance(piece, &covariance)).collect();
        curve.next = curve.pieces.windows(2).map(|pair| pair[0].covariance(&pair[1], &covariance)).collect();
        Some(curve)
    }

    /// The curve at a value between the first and the last, with its pointwise band.
    pub fn at(&self, x: f64) -> Interval {
        let place = self.place(x);
        let (logit, [below, above]) = (self.logit(place), self.reach(place));
        Interval { value: share(logit), low: share(logit - below), high: share(logit + above) }
    }

    /// Returns the nodes around a solved value whose interval the gap between them widens by half: there more nodes
    /// tell more than more matches. None where chance dominates.
    pub fn gap_around(&self, wanted: f64, solved: &Solved) -> Option<[f64; 2]> {
        let ends = [self.nodes[0], self.nodes[self.nodes.len() - 1]];
        let stretch = |solved: &Solved| [solved.low.unwrap_or(ends[0]), solved.high.unwrap_or(ends[1])];
        let width = |[low, high]: [f64; 2]| high - low;
        let by_chance = self.solve_within(wanted, &|place| [self.margin * self.error(place); 2]);
        let same = by_chance.solved.iter().find(|other| other.value == solved.value)?;
        let [low, high] = stretch(solved);
        (width([low, high]) > 1.5 * width(stretch(same))).then(|| {
            let before = self.nodes.iter().rev().find(|node| **node <= low).copied();
            let after = self.nodes.iter().find(|node| **node >= high).copied();
            [before.unwrap_or(ends[0]), after.unwrap_or(ends[1])]
        })
    }

    /// Standard error of the share at a value.
    pub fn share_sd(&self, x: f64) -> f64 {
        let place = self.place(x);
        let p = share(self.logit(place));
        self.error(place) * p * (1.0 - p)
    }

    /// Steepness at a value, in share per knob unit.
    pub fn slope(&self, x: f64) -> f64 {
        let reach = (self.nodes[self.nodes.len() - 1] - self.nodes[0]) * 1e-4;
        let (a, b) = (self.x(self.place(x - reach)), self.x(self.place(x + reach)));
        let at = |x: f64| share(self.logit(self.place(x)));
        (at(b) - at(a)) / (b - a)
    }

    fn place(&self, x: f64) -> f64 {
        place(&self.nodes, x)
    }

    /// The value at a place.
    fn x(&self, place: f64) -> f64 {
        let left = (place as usize).min(self.nodes.len() - 2);
        self.nodes[left] + (place - left as f64) * (self.nodes[left + 1] - self.nodes[left])
    }

    /// The piece before a place, the one after it, and the weight of the latter.
    fn blend(&self, place: f64) -> (usize, usize, f64) {
        let last = self.pieces.len() - 1;
        let from = (place - self.pieces[0].centre).clamp(0.0, last as f64);
        let left = (from as usize).min(last);
        (left, (left + 1).min(last), from - left as f64)
    }

    fn logit(&self, place: f64) -> f64 {
        let (left, right, part) = self.blend(place);
        let at = |piece: usize| self.pieces[piece].terms(place).dot(&self.pieces[piece].values);
        (1.0 - part) * at(left) + part * at(right)
    }

    fn error(&self, place: f64) -> f64 {
        let (left, right, part) = self.blend(place);
        let (a, b) = (self.pieces[left].terms(place) * (1.0 - part), self.pieces[right].terms(place) * part);
        let both = if left == right { 0.0 } else { 2.0 * a.dot(&(self.next[left] * b)) };
        let variance = a.dot(&(self.covariances[left] * a)) + b.dot(&(self.covariances[right] * b)) + both;
        variance.max(0.0).sqrt()
    }

    /// Returns the band's reach below the curve at a place, and above.
    fn reach(&self, place: f64) -> [f64; 2] {
        let error = self.margin * self.error(place);
        self.gap(place).map(|gap| gap + error)
    }

    /// Returns the possible distance of a curve through the same points below this one between two of them, and above:
    /// to the chord, and to the lines continued from either side.
    fn gap(&self, place: f64) -> [f64; 2] {
        let after = self.places.partition_point(|known| *known < place);
        let (Some(&from), Some(&to)) =
            (after.checked_sub(1).map(|before| &self.places[before]), self.places.get(after))
        else {
            return [0.0; 2];
        };
        if place == to || self.nodes.len() < 3 {
            return [0.0; 2];
        }
        let (width, part) = (to - from, (place - from) / (to - from));
        // How far the line from either side lies beyond the chord, less what may be chance.
        let beyond = |node: usize, part: f64| {
            let known = (1..self.nodes.len() - 1).contains(&node);
            known.then(|| {
                let (bend, error) = self.bend(node);
                -part * width * bend.signum() * (bend.abs() - CHANCE * error).max(0.0)
            })
        };
        let left = (place as usize).min(self.nodes.len() - 2);
        let (low, high) = match (beyond(left, part), beyond(left + 1, 1.0 - part)) {
            // Both sides bend one way: the curve lies within the nearer line.
            (Some(a), Some(b)) if a * b > 0.0 => {
                let nearer = if a.abs() < b.abs() { a } else { b };
                (nearer.min(0.0), nearer.max(0.0))
            }
            (a, b) => {
                let (a, b) = (a.unwrap_or(0.0), b.unwrap_or(0.0));
                (a.min(b).min(0.0), a.max(b).max(0.0))
            }
        };
        let off = (1.0 - part) * self.logit(from) + part * self.logit(to) - self.logit(place);
        [(-(off + low)).max(0.0), (off + high).max(0.0)]
    }

    /// Returns the curve's bend at an inner node, as a second difference over its neighbours, with its standard error.
    fn bend(&self, node: usize) -> (f64, f64) {
        (2.0 * self.pieces[node - 1].values[2], 2.0 * self.covariances[node - 1][(2, 2)].max(0.0).sqrt())
    }

    /// The values where the curve takes a wanted share, and where by its band it may.
    pub fn solve(&self, wanted: f64) -> Crossings {
        self.solve_within(wanted, &|place| self.reach(place))
    }

    /// The same where the band reaches so far below the curve at a place, and above.
    fn solve_within(&self, wanted: f64, reach: &dyn Fn(f64) -> [f64; 2]) -> Crossings {
        let target = (wanted / (1.0 - wanted)).ln();
        let off = |place: f64| self.logit(place) - target;
        let outside = |place: f64| {
            let (off, [below, above]) = (off(place), reach(place));
            if off > 0.0 { off - below } else { -off - above }
        };
        let mut looks = vec![Look { place: 0.0, crosses: off(0.0) == 0.0 }];
        for step in 1..=(self.nodes.len() - 1) * STEPS {
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

    /// Returns how nearly the band excludes a wanted share everywhere, or separates the ends where the curve takes it:
    /// the distance of the curve in margins, 1 at the limit.
    pub(crate) fn nearness(&self, wanted: f64) -> f64 {
        let away = self.away(wanted);
        let (first, last) = (away[0].1, away[away.len() - 1].1);
        if away.iter().any(|(_, off)| off.signum() != first.signum()) {
            return first.abs().max(last.abs()) / self.margin;
        }
        away.iter().map(|(_, off)| off.abs()).fold(f64::INFINITY, f64::min) / self.margin
    }

    /// The value at which the curve may take a wanted share before all others: where it is off by the fewest errors.
    pub fn likeliest(&self, wanted: f64) -> f64 {
        let away = self.away(wanted).into_iter();
        away.min_by(|a, b| a.1.abs().total_cmp(&b.1.abs())).map_or(self.nodes[0], |(place, _)| self.x(place))
    }

    /// Returns the curve's distance from a wanted share, in errors, place by place.
    fn away(&self, wanted: f64) -> Vec<(f64, f64)> {
        let target = (wanted / (1.0 - wanted)).ln();
        let places = (0..=(self.nodes.len() - 1) * STEPS).map(|step| step as f64 / STEPS as f64);
        places.map(|place| (place, (self.logit(place) - target) / self.error(place))).collect()
    }

    /// Ends a stretch in which the band holds the target.
    fn close(&self, crossings: &mut Crossings, open: &Stretch, to: f64) {
        let end = |place: f64| place.is_finite().then(|| self.x(place));
        let (low, high) = (end(open.from), end(to));
        // Where noise takes the curve across and back within the band there is one solution, or none; one on either
        // side where it goes beyond and comes back.
        let support = match open.at.as_slice() {
            [] => {
                crossings.possible.push((low, high));
                Vec::new()
            }
            odd if odd.len() % 2 == 1 => vec![odd[odd.len() / 2]],
            even => vec![even[0], even[even.len() - 1]],
        };
        crossings.solved.extend(support.into_iter().map(|place| Solved { value: self.x(place), low, high }));
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

/// Returns a value's place among nodes: 0 at the first, 1 at the second.
fn place(nodes: &[f64], x: f64) -> f64 {
    let right = nodes.partition_point(|known| *known < x).clamp(1, nodes.len() - 1);
    let (a, b) = (nodes[right - 1], nodes[right]);
    (right - 1) as f64 + ((x - a) / (b - a)).clamp(0.0, 1.0)
}

/// Finds the zero of a function that changes its sign between two places.
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
    /// A piece that stands alone at a place, fitted to the points at most so far from a middle.
    fn fit(measured: &Measured, places: &[f64], centre: f64, (middle, half): (f64, f64)) -> Self {
        let mut piece = Self { centre, values: Vector3::zeros(), follows: Vec::new() };
        let units: Vec<usize> =
            (0..places.len()).filter(|point| (places[*point] - middle).abs() <= half + 1e-9).collect();
        let weights: Vec<f64> = units.iter().map(|point| measured.matches[*point] + PRIOR_MATCHES).collect();
        let shares: Vec<f64> = units
            .iter()
            .zip(&weights)
            .map(|(&at, weight)| (measured.means[at] * measured.matches[at] + PRIOR_MATCHES / 2.0) / weight)
            .collect();
        let terms: Vec<Vector3<f64>> = units.iter().map(|point| piece.terms(places[*point])).collect();
        let height = |values: &Vector3<f64>| -> f64 {
            let each = terms.iter().zip(&weights).zip(&shares);
            each.map(|((terms, weight), share)| {
                let logit = terms.dot(values);
                weight * (share * logit - softplus(logit))
            })
            .sum::<f64>()
                - RIDGE / 2.0 * values.norm_squared()
        };
        let derivatives = |values: &Vector3<f64>| {
            let (mut gradient, mut information) = (-RIDGE * values, RIDGE * Matrix3::identity());
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
        let follows = units.iter().zip(&terms).map(|(&at, terms)| (at, inverse * terms * measured.matches[at]));
        piece.follows = follows.collect();
        piece
    }

    /// Whether it misses any of its means by more than chance lets it, at a level that holds over this many pieces.
    fn misses(&self, measured: &Measured, places: &[f64], pieces: usize) -> bool {
        let tests = (self.follows.len() * pieces) as f64;
        let most = t_quantile(1.0 - MISFIT / 2.0 / tests, measured.blocks - 1.0);
        self.follows.iter().any(|(point, _)| {
            let terms = self.terms(places[*point]);
            let p = share(terms.dot(&self.values));
            // How the residual moves with each mean.
            let moves = |other: usize, follows: &Vector3<f64>| {
                f64::from(u8::from(other == *point)) - p * (1.0 - p) * terms.dot(follows)
            };
            let each = || self.follows.iter().map(|(other, follows)| (*other, moves(*other, follows)));
            let variance: f64 =
                each().flat_map(|(i, a)| each().map(move |(j, b)| a * b * measured.covariance[(i, j)])).sum();
            let least = least_design_effect(measured.blocks) * p * (1.0 - p) / measured.matches[*point];
            (measured.means[*point] - p).abs() > most * variance.max(least * 1e-3).sqrt() + 1e-9
        })
    }

    /// Covariance of its coefficients with those of another, from that of the means.
    fn covariance(&self, other: &Self, means: &DMatrix<f64>) -> Matrix3<f64> {
        let mut all = Matrix3::zeros();
        for (i, follows) in &self.follows {
            for (j, others) in &other.follows {
                all += follows * others.transpose() * means[(*i, *j)];
            }
        }
        all
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

/// The values where a curve takes a wanted share. An end that is none lies outside the values that were measured.
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
