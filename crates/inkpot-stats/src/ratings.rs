//! Ratings of a field from who placed before whom.

use std::collections::BTreeMap;

use nalgebra::{DMatrix, DVector};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::Interval;
use crate::interval::t_quantile;

/// Rating points a natural unit of strength: 400 points are odds of ten to one.
pub const POINTS: f64 = 400.0 / std::f64::consts::LN_10;
/// Matches that each entrant is taken to have halved in all, spread evenly over the opponents it met.
pub const PRIOR_MATCHES: f64 = 1.0;
/// Standard deviation, in natural units, that groups which never met are taken to differ by.
const GROUP_SD: f64 = 400.0 / POINTS;
/// Blocks are pooled into so many clusters at most.
const MOST_CLUSTERS: usize = 512;
/// With hardly more blocks than parameters the correction for that ends here.
const MOST_CORRECTION: f64 = 2.0;
/// A residual is not taken to be a smaller part of its error than this.
const LEAST_LEFT: f64 = 0.25;
const MOST_STEPS: usize = 100;

/// Two seats of one match: who sat there, and how the first fared against the second.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Comparison {
    /// The block, from 0 up; matches of one block share their chance.
    pub block: usize,
    /// Entrant and seat.
    pub first: (usize, usize),
    /// Entrant and seat.
    pub second: (usize, usize),
    /// Points of the first against the second in halves: 2 placed before it, 1 beside it, 0 after it.
    pub halves: u8,
}

/// How large a field is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[expect(missing_docs, reason = "numbers of entrants, of seats of a match, and of blocks")]
pub struct FieldSize {
    pub entrants: usize,
    pub seats: usize,
    pub blocks: usize,
}

impl FieldSize {
    fn parameters(&self) -> usize {
        self.entrants + self.seats + 1
    }

    /// Where the tie parameter stands, after strengths and seats.
    fn tie(&self) -> usize {
        self.entrants + self.seats
    }

    fn clusters(&self) -> usize {
        self.blocks.clamp(1, MOST_CLUSTERS)
    }

    fn cluster(&self, block: usize) -> usize {
        block.min(self.blocks.saturating_sub(1)) * self.clusters() / self.blocks.max(1)
    }
}

/// Strengths of a field with their covariance.
///
/// Model: of two seats of a match, with strengths `s` (entrant plus seat), the first is placed before, beside or after
/// the second with odds `exp(s1) : v exp((s1 + s2) / 2) : exp(s2)` (Bradley & Terry 1952 with the ties of Davidson
/// 1970, `v` common to all). Matches of three and more are broken into their pairs: the pairs of a Plackett-Luce order
/// (Plackett 1975) follow Bradley & Terry with the same strengths, so breaking them in full is consistent (Azari
/// Soufiani, Chen, Parkes & Xia 2013), and the errors below allow for pairs of one match depending on each other.
///
/// Prior: each entrant has besides halved one match in all, spread evenly over those it met, so that an unbeaten one
/// stays finite. Groups that never met differ by a mean of 0 with standard deviation 400.
///
/// Fit: maximum likelihood by Newton's steps; the likelihood is concave. Errors: the sandwich estimator clustered by
/// block (Liang & Zeger 1986), each residual divided by one minus the share of it that its own block of its pairing
/// takes off in the fit (MacKinnon & White 1985), times n / (n - p) for p parameters fitted to n blocks of pairings, times
/// c / (c - 1) with Student's t on c - 1, where c is the number of clusters that the entrant played in; the halved match
/// counts as clusters of its own.
#[derive(Clone, Debug)]
pub struct Ratings {
    size: FieldSize,
    values: DVector<f64>,
    covariance: DMatrix<f64>,
    /// Clusters that each entrant played in.
    clusters: Vec<usize>,
    ties: bool,
    groups: usize,
}

/// How often the first was placed before, beside and after the second, by entrants and seats.
type Counts = BTreeMap<(usize, usize, usize, usize), [f64; 3]>;

impl Ratings {
    /// Fits a field; `comparisons` gives the same ones each time it is called. None when nobody met anybody.
    pub fn fit<I: Iterator<Item = Comparison>>(size: FieldSize, comparisons: impl Fn() -> I) -> Option<Self> {
        let mut counts = Counts::new();
        for seen in comparisons() {
            let slot = counts.entry((seen.first.0, seen.second.0, seen.first.1, seen.second.1)).or_default();
            slot[2 - usize::from(seen.halves.min(2))] += 1.0;
        }
        if counts.is_empty() {
            return None;
        }
        let problem = Problem::new(size, counts);
        let values = problem.climb();
        let bread = problem.information(&values).try_inverse()?;
        let mut clusters = Clusters::new(size);
        comparisons().for_each(|seen| clusters.add(&seen, &problem, &values, &bread));
        let total = clusters.scores.ncols().max(1);
        let mut meat = product(&clusters.scores, &clusters.scores.transpose()) * problem.small_sample();
        problem.prior_scatter(&values, &mut meat);
        let covariance = product(&product(&bread, &meat), &bread);
        let clusters = clusters.played_by(total);
        let groups = problem.groups.len();
        Some(Self { size, values, covariance, clusters, ties: problem.ties, groups })
    }

    /// Groups that never met each other; 1 if all are linked.
    pub fn groups(&self) -> usize {
        self.groups
    }

    /// Strength in natural units, less the field's mean.
    pub fn strength(&self, entrant: usize) -> f64 {
        self.values[entrant] - self.values.rows(0, self.size.entrants).mean()
    }

    /// Rating points above the mean of the field, or above an anchor; none with fewer than two clusters of blocks. The
    /// anchor itself is 0 by choice.
    pub fn rating(&self, entrant: usize, anchor: Option<usize>, confidence: f64) -> Option<Interval> {
        let mut contrast = DVector::zeros(self.size.parameters());
        contrast[entrant] += 1.0;
        match anchor {
            Some(anchor) => contrast[anchor] -= 1.0,
            None => contrast.rows_mut(0, self.size.entrants).add_scalar_mut(-1.0 / self.size.entrants as f64),
        }
        self.interval(&contrast, self.clusters[entrant], confidence)
    }

    /// Rating points of one above another.
    pub fn difference(&self, a: usize, b: usize, confidence: f64) -> Option<Interval> {
        let mut contrast = DVector::zeros(self.size.parameters());
        contrast[a] += 1.0;
        contrast[b] -= 1.0;
        self.interval(&contrast, self.clusters[a].min(self.clusters[b]), confidence)
    }

    /// Rating points that sitting in a seat is worth above the mean of the seats.
    pub fn seat(&self, seat: usize, confidence: f64) -> Option<Interval> {
        let mut contrast = DVector::zeros(self.size.parameters());
        contrast[self.size.entrants + seat] += 1.0;
        contrast.rows_mut(self.size.entrants, self.size.seats).add_scalar_mut(-1.0 / self.size.seats as f64);
        self.interval(&contrast, self.clusters.iter().copied().max()?, confidence)
    }

    /// Probability that one is stronger than another, given the data and no preference beforehand.
    pub fn stronger(&self, a: usize, b: usize) -> Option<f64> {
        let clusters = self.clusters[a].min(self.clusters[b]);
        let error = self.error_of_difference(a, b);
        if clusters < 2 || error <= 0.0 {
            return None;
        }
        let t = (self.values[a] - self.values[b]) / error;
        StudentsT::new(0.0, 1.0, clusters as f64 - 1.0).ok().map(|spread| spread.cdf(t))
    }

    /// Points share that the ratings expect of one against another, over all pairs of seats.
    pub fn expected(&self, a: usize, b: usize) -> f64 {
        let seats = self.size.seats;
        let pairs = (0..seats).flat_map(|i| (0..seats).filter(move |j| *j != i).map(move |j| (i, j)));
        let (mut sum, mut count) = (0.0, 0.0);
        for (i, j) in pairs {
            let [win, tie, _] = odds(&self.values, self.size, self.ties, (a, b, i, j));
            sum += win + tie / 2.0;
            count += 1.0;
        }
        if count > 0.0 { sum / count } else { f64::NAN }
    }

    fn error_of_difference(&self, a: usize, b: usize) -> f64 {
        let v = &self.covariance;
        let clusters = self.clusters[a].min(self.clusters[b]) as f64;
        ((v[(a, a)] + v[(b, b)] - 2.0 * v[(a, b)]).max(0.0) * clusters / (clusters - 1.0)).sqrt()
    }

    fn interval(&self, contrast: &DVector<f64>, clusters: usize, confidence: f64) -> Option<Interval> {
        if clusters < 2 {
            return None;
        }
        let c = clusters as f64;
        let value = contrast.dot(&self.values) * POINTS;
        let variance = contrast.dot(&(&self.covariance * contrast)).max(0.0) * c / (c - 1.0);
        let margin = t_quantile(f64::midpoint(1.0, confidence), c - 1.0) * variance.sqrt() * POINTS;
        Some(Interval { value, low: value - margin, high: value + margin })
    }
}

/// Probabilities that the first is placed before, beside and after the second.
fn odds(values: &DVector<f64>, size: FieldSize, ties: bool, key: (usize, usize, usize, usize)) -> [f64; 3] {
    let (a, b, i, j) = key;
    let apart = values[a] + values[size.entrants + i] - values[b] - values[size.entrants + j];
    let (before, after) = ((apart / 2.0).exp(), (-apart / 2.0).exp());
    let beside = if ties { values[size.tie()].exp() } else { 0.0 };
    let all = before + beside + after;
    [before / all, beside / all, after / all]
}

/// The likelihood to climb.
struct Problem {
    size: FieldSize,
    counts: Counts,
    /// Weight of the halved match by pair of entrants.
    prior: BTreeMap<(usize, usize), f64>,
    groups: Vec<Vec<usize>>,
    ties: bool,
}

impl Problem {
    fn new(size: FieldSize, counts: Counts) -> Self {
        let mut met = vec![std::collections::BTreeSet::new(); size.entrants];
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
        let ties = counts.values().any(|count| count[1] > 0.0);
        Self { size, counts, prior, groups: groups(&met), ties }
    }

    /// n / (n - p) for p parameters fitted to the blocks of all pairings, n in number.
    fn small_sample(&self) -> f64 {
        let matches: f64 = self.counts.values().flatten().sum();
        let blocks = matches / self.size.seats as f64;
        let fitted = (self.size.entrants + self.size.seats - 2 + usize::from(self.ties)) as f64;
        blocks / (blocks - fitted).max(blocks / MOST_CORRECTION)
    }

    /// The top, by Newton's steps that are halved while they do not go up.
    fn climb(&self) -> DVector<f64> {
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

    fn signs(&self, (a, b, i, j): (usize, usize, usize, usize)) -> [(usize, f64); 4] {
        let n = self.size.entrants;
        [(a, 1.0), (n + i, 1.0), (b, -1.0), (n + j, -1.0)]
    }

    /// Minus the second derivative.
    fn information(&self, values: &DVector<f64>) -> DMatrix<f64> {
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

    /// Adds what the prior is taken to vary by.
    fn prior_scatter(&self, values: &DVector<f64>, meat: &mut DMatrix<f64>) {
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
        let n = self.size.entrants;
        let seats: Vec<usize> = (n..n + self.size.seats).collect();
        self.groups.iter().chain(std::iter::once(&seats)).cloned().collect::<Vec<_>>().into_iter().map(move |members| {
            let mut pin = DVector::zeros(self.size.parameters());
            for &member in &members {
                pin[member] = 1.0 / members.len() as f64;
            }
            (pin, 1.0 / (GROUP_SD * GROUP_SD))
        })
    }
}

/// The product of two matrices by plain sums in a fixed order: tuned kernels differ in the last bits from one processor
/// to the next, and a summary shall not.
fn product(a: &DMatrix<f64>, b: &DMatrix<f64>) -> DMatrix<f64> {
    let mut all = DMatrix::zeros(a.nrows(), b.ncols());
    for (mut column, weights) in all.column_iter_mut().zip(b.column_iter()) {
        for (other, weight) in a.column_iter().zip(weights.iter()) {
            column.axpy(*weight, &other, 1.0);
        }
    }
    all
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
fn groups(met: &[std::collections::BTreeSet<usize>]) -> Vec<Vec<usize>> {
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

/// Sums of scores by cluster of blocks, a column each.
struct Clusters {
    size: FieldSize,
    scores: DMatrix<f64>,
    played: Vec<Vec<bool>>,
}

impl Clusters {
    fn new(size: FieldSize) -> Self {
        Self {
            size,
            scores: DMatrix::zeros(size.parameters(), size.clusters()),
            played: vec![vec![false; size.clusters()]; size.entrants],
        }
    }

    /// Adds a score, divided by what the fit has taken off it by following this pairing's block.
    fn add(&mut self, seen: &Comparison, problem: &Problem, values: &DVector<f64>, bread: &DMatrix<f64>) {
        let key = (seen.first.0, seen.second.0, seen.first.1, seen.second.1);
        let [win, tie, loss] = odds(values, self.size, problem.ties, key);
        let cluster = self.size.cluster(seen.block);
        let (a, b) = (seen.first.0, seen.second.0);
        let spread = (win + loss - (win - loss) * (win - loss)) / 4.0;
        let followed = spread * self.size.seats as f64 * (bread[(a, a)] + bread[(b, b)] - 2.0 * bread[(a, b)]);
        let along = (f64::from(seen.halves) - 1.0 - (win - loss)) / 2.0 / (1.0 - followed).max(LEAST_LEFT);
        for (index, sign) in problem.signs(key) {
            self.scores[(index, cluster)] += sign * along;
        }
        if problem.ties {
            self.scores[(self.size.tie(), cluster)] += f64::from(u8::from(seen.halves == 1)) - tie;
        }
        self.played[seen.first.0][cluster] = true;
        self.played[seen.second.0][cluster] = true;
    }

    fn played_by(&self, total: usize) -> Vec<usize> {
        self.played.iter().map(|played| played.iter().filter(|played| **played).count().min(total)).collect()
    }
}
