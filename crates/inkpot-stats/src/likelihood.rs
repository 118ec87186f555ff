//! The likelihood of ratings and its top.

use std::collections::{BTreeMap, BTreeSet};

use nalgebra::{DMatrix, DVector};

use crate::field::{FieldSize, POINTS, PRIOR_MATCHES};

/// Standard deviation, in natural units, that groups which never met are taken to differ by.
const GROUP_SD: f64 = 400.0 / POINTS;
const MOST_STEPS: usize = 100;
/// With hardly more blocks than parameters the correction for that ends here.
const MOST_CORRECTION: f64 = 2.0;

/// Counts of the first placed before, beside and after the second, by entrants and seats.
pub(crate) type Counts = BTreeMap<(usize, usize, usize, usize), [f64; 3]>;

/// Probabilities that the first is placed before, beside and after the second.
pub(crate) fn odds(values: &DVector<f64>, size: FieldSize, ties: bool, key: (usize, usize, usize, usize)) -> [f64; 3] {
    let (a, b, i, j) = key;
    let apart = values[a] + values[size.seat(i)] - values[b] - values[size.seat(j)];
    let (before, after) = ((apart / 2.0).exp(), (-apart / 2.0).exp());
    let beside = if ties { values[size.tie()].exp() } else { 0.0 };
    let all = before + beside + after;
    [before / all, beside / all, after / all]
}

/// The likelihood to climb.
pub(crate) struct Likelihood {
    size: FieldSize,
    counts: Counts,
    /// Weight of the halved match by pair of parameters: of entrants, and of seats.
    prior: BTreeMap<(usize, usize), f64>,
    pub(crate) groups: Vec<Vec<usize>>,
    pub(crate) ties: bool,
}

impl Likelihood {
    pub(crate) fn new(size: FieldSize, counts: Counts) -> Self {
        let mut met = vec![BTreeSet::new(); size.entrants];
        for &(a, b, _, _) in counts.keys() {
            met[a].insert(b);
            met[b].insert(a);
        }
        let mut prior = BTreeMap::new();
        for (a, opponents) in met.iter().enumerate() {
            for &b in opponents {
                *prior.entry((a.min(b), a.max(b))).or_default() += PRIOR_MATCHES / opponents.len() as f64;
            }
        }
        for i in 0..size.seats {
            for j in i + 1..size.seats {
                prior.insert((size.seat(i), size.seat(j)), 2.0 * PRIOR_MATCHES / (size.seats - 1) as f64);
            }
        }
        let ties = counts.values().any(|count| count[1] > 0.0);
        Self { size, counts, prior, groups: groups(&met), ties }
    }

    /// n / (n - p) for p parameters fitted to the blocks of all pairings, n in number.
    pub(crate) fn small_sample(&self) -> f64 {
        let matches: f64 = self.counts.values().flatten().sum();
        let blocks = matches / self.size.seats as f64;
        let fitted = (self.size.entrants + self.size.seats - 2 + usize::from(self.ties)) as f64;
        blocks / (blocks - fitted).max(blocks / MOST_CORRECTION)
    }

    /// The top, by Newton's steps that are halved while they do not go up.
    pub(crate) fn climb(&self) -> DVector<f64> {
        let mut values = DVector::zeros(self.size.parameters());
        let mut height = self.height(&values);
        for _ in 0..MOST_STEPS {
            let Some(factors) = self.information(&values).cholesky() else { break };
            let mut step = factors.solve(&self.gradient(&values));
            let mut next = &values + &step;
            let mut reached = self.height(&next);
            while reached < height && step.amax() > 1e-13 {
                step /= 2.0;
                next = &values + &step;
                reached = self.height(&next);
            }
            (values, height) = (next, reached);
            if step.amax() < 1e-12 {
                break;
            }
        }
        values
    }

    /// Logarithm of the likelihood and the prior.
    fn height(&self, values: &DVector<f64>) -> f64 {
        let mut height = 0.0;
        for (&key, count) in &self.counts {
            let odds = odds(values, self.size, self.ties, key);
            height += count.iter().zip(odds).filter(|(n, _)| **n > 0.0).map(|(n, p)| n * p.ln()).sum::<f64>();
        }
        for (&(a, b), weight) in &self.prior {
            let won = logistic(values[a] - values[b]);
            height += weight / 2.0 * (won * (1.0 - won)).ln();
        }
        height - self.pins().map(|(pin, tau)| pin.dot(values).powi(2) * tau / 2.0).sum::<f64>()
    }

    fn gradient(&self, values: &DVector<f64>) -> DVector<f64> {
        let mut gradient = DVector::zeros(self.size.parameters());
        for (&key, count) in &self.counts {
            let total: f64 = count.iter().sum();
            let [win, tie, loss] = odds(values, self.size, self.ties, key);
            let along = (count[0] - count[2] - total * (win - loss)) / 2.0;
            self.push(&mut gradient, key, along, count[1] - total * tie);
        }
        for (&(a, b), weight) in &self.prior {
            let over = weight * (0.5 - logistic(values[a] - values[b]));
            gradient[a] += over;
            gradient[b] -= over;
        }
        for (pin, tau) in self.pins() {
            gradient -= &pin * (pin.dot(values) * tau);
        }
        gradient
    }

    /// Adds a score along the difference of two seats, and along ties.
    fn push(&self, score: &mut DVector<f64>, key: (usize, usize, usize, usize), along: f64, ties: f64) {
        for (index, sign) in self.signs(key) {
            score[index] += sign * along;
        }
        if self.ties {
            score[self.size.tie()] += ties;
        }
    }

    pub(crate) fn signs(&self, (a, b, i, j): (usize, usize, usize, usize)) -> [(usize, f64); 4] {
        [(a, 1.0), (self.size.seat(i), 1.0), (b, -1.0), (self.size.seat(j), -1.0)]
    }

    /// Minus the second derivative.
    pub(crate) fn information(&self, values: &DVector<f64>) -> DMatrix<f64> {
        let mut all = DMatrix::zeros(self.size.parameters(), self.size.parameters());
        let t = self.size.tie();
        for (&key, count) in &self.counts {
            let total: f64 = count.iter().sum();
            let [win, tie, loss] = odds(values, self.size, self.ties, key);
            let mean = (win - loss) / 2.0;
            let spread = (win + loss) / 4.0 - mean * mean;
            for (p, sign) in self.signs(key) {
                for (q, other) in self.signs(key) {
                    all[(p, q)] += total * spread * sign * other;
                }
                if self.ties {
                    all[(p, t)] -= total * mean * tie * sign;
                    all[(t, p)] -= total * mean * tie * sign;
                }
            }
            all[(t, t)] += total * tie * (1.0 - tie);
        }
        if !self.ties {
            all[(t, t)] = 1.0;
        }
        for (&(a, b), weight) in &self.prior {
            let won = logistic(values[a] - values[b]);
            add_pair(&mut all, a, b, weight * won * (1.0 - won));
        }
        for (pin, tau) in self.pins() {
            all += &pin * pin.transpose() * tau;
        }
        all
    }

    /// Adds the variance of the prior.
    pub(crate) fn prior_scatter(&self, values: &DVector<f64>, meat: &mut DMatrix<f64>) {
        for (&(a, b), weight) in &self.prior {
            let won = logistic(values[a] - values[b]);
            add_pair(meat, a, b, weight * (won * won + (1.0 - won) * (1.0 - won)) / 2.0);
        }
        for (pin, tau) in self.pins() {
            *meat += &pin * pin.transpose() * tau;
        }
    }

    /// Means that are held near 0: of each group of entrants, and of the seats. Where the data say nothing of them,
    /// which is always so of the seats and of a field that is linked, this only makes the answer one.
    fn pins(&self) -> impl Iterator<Item = (DVector<f64>, f64)> {
        let seats: Vec<usize> = (0..self.size.seats).map(|seat| self.size.seat(seat)).collect();
        self.groups.iter().chain(std::iter::once(&seats)).cloned().collect::<Vec<_>>().into_iter().map(move |members| {
            let mut pin = DVector::zeros(self.size.parameters());
            for &member in &members {
                pin[member] = 1.0 / members.len() as f64;
            }
            (pin, 1.0 / (GROUP_SD * GROUP_SD))
        })
    }
}

fn logistic(x: f64) -> f64 {
    1.0 / (1.0 + (-x).exp())
}

fn add_pair(matrix: &mut DMatrix<f64>, a: usize, b: usize, weight: f64) {
    matrix[(a, a)] += weight;
    matrix[(b, b)] += weight;
    matrix[(a, b)] -= weight;
    matrix[(b, a)] -= weight;
}

/// Entrants that are linked by having met, directly or through others.
fn groups(met: &[BTreeSet<usize>]) -> Vec<Vec<usize>> {
    let mut seen = vec![false; met.len()];
    let mut groups = Vec::new();
    for start in 0..met.len() {
        let mut waiting = vec![start];
        let mut group = Vec::new();
        while let Some(next) = waiting.pop() {
            if !std::mem::replace(&mut seen[next], true) {
                group.push(next);
                waiting.extend(&met[next]);
            }
        }
        if !group.is_empty() {
            groups.push(group);
        }
    }
    groups
}
