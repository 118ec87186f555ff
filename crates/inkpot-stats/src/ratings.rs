//! Ratings of a field from placements.

use nalgebra::{DMatrix, DVector};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::Interval;
use crate::field::{FieldSize, POINTS};
use crate::interval::t_quantile;
use crate::likelihood::{Counts, Likelihood, odds};

/// A residual is not taken to be a smaller part of its error than this.
const LEAST_LEFT: f64 = 0.25;

/// Two seats of one match: their entrants, and the first's result against the second.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Meeting {
    /// The block, from 0 up; matches of one block share their chance.
    pub block: usize,
    /// Entrant and seat.
    pub first: (usize, usize),
    /// Entrant and seat.
    pub second: (usize, usize),
    /// Points of the first against the second in halves: 2 placed before it, 1 beside it, 0 after it.
    pub halves: u8,
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
/// stays finite, and each seat has halved one against the others. Groups that never met differ by a mean of 0 with
/// standard deviation 400.
///
/// Fit: maximum likelihood by Newton's steps; the likelihood is concave. Errors: the sandwich estimator clustered by
/// block (Liang & Zeger 1986), each residual divided by one minus the share of it that its own block of its pairing
/// takes off in the fit (MacKinnon & White 1985), times n / (n - p) for p parameters fitted to n blocks of pairings,
/// times c / (c - 1) with Student's t on c - 1, where c is the number of clusters that the entrant played in; the
/// halved match counts as clusters of its own.
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

impl Ratings {
    /// Fits a field; `meetings` gives the same ones each time it is called. None when nobody met anybody.
    pub fn fit<I: Iterator<Item = Meeting>>(size: FieldSize, meetings: impl Fn() -> I) -> Option<Self> {
        let mut counts = Counts::new();
        for meeting in meetings() {
            let slot =
                counts.entry((meeting.first.0, meeting.second.0, meeting.first.1, meeting.second.1)).or_default();
            slot[2 - usize::from(meeting.halves.min(2))] += 1.0;
        }
        if counts.is_empty() {
            return None;
        }
        let problem = Likelihood::new(size, counts);
        let values = problem.climb();
        let bread = problem.information(&values).try_inverse()?;
        let mut clusters = Clusters::new(size);
        meetings().for_each(|meeting| clusters.add(&meeting, &problem, &values, &bread));
        let mut meat = product(&clusters.scores, &clusters.scores.transpose()) * problem.small_sample();
        problem.prior_scatter(&values, &mut meat);
        let covariance = product(&product(&bread, &meat), &bread);
        let clusters = clusters.played();
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
        contrast[self.size.seat(seat)] += 1.0;
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

    /// Adds a score, divided by one minus its block's leverage.
    fn add(&mut self, meeting: &Meeting, problem: &Likelihood, values: &DVector<f64>, bread: &DMatrix<f64>) {
        let key = (meeting.first.0, meeting.second.0, meeting.first.1, meeting.second.1);
        let [win, tie, loss] = odds(values, self.size, problem.ties, key);
        let cluster = self.size.cluster(meeting.block);
        let (a, b) = (meeting.first.0, meeting.second.0);
        let spread = (win + loss - (win - loss) * (win - loss)) / 4.0;
        let followed = spread * self.size.seats as f64 * (bread[(a, a)] + bread[(b, b)] - 2.0 * bread[(a, b)]);
        let along = (f64::from(meeting.halves) - 1.0 - (win - loss)) / 2.0 / (1.0 - followed).max(LEAST_LEFT);
        for (index, sign) in problem.signs(key) {
            self.scores[(index, cluster)] += sign * along;
        }
        if problem.ties {
            self.scores[(self.size.tie(), cluster)] += f64::from(u8::from(meeting.halves == 1)) - tie;
        }
        self.played[meeting.first.0][cluster] = true;
        self.played[meeting.second.0][cluster] = true;
    }

    /// Clusters that each entrant played in.
    fn played(&self) -> Vec<usize> {
        self.played.iter().map(|played| played.iter().filter(|played| **played).count()).collect()
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
