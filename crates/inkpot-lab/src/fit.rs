//! Fitting a stand-in to logged matches of people: simulate and compare.
//!
//! The log's column means are compared with those of simulated matches: knob values at which they agree best are
//! found on quadratic surfaces of the simulated means, in a region that shrinks round by round (indirect inference;
//! Gourieroux, Monfort & Renault 1993). The weights are the inverse of the covariance that the means of as many
//! simulated people have (weights taken from the log itself would fit its luck); the intervals carry the log's own
//! spread, taken over people since matches of one person are alike, and that of the simulation.

use std::ops::ControlFlow;

use inkpot_core::{Casting, GameEntry, Knobs, Outcome, Rows, Setting, Spot, Stage};
use inkpot_stats::{Moments, Quadratic};
use nalgebra::{DMatrix, DVector};
use serde::Serialize;
use thiserror::Error;

use crate::in_order::in_order;
use crate::tune::{COMMON_FIGURES, Figure, spread};
use crate::{Entrant, Free};

/// Region of each round, as a share of the ranges to each side, and matches at each of its points.
const ROUNDS: [(f64, u64); 4] = [(0.5, 80), (0.25, 200), (0.16, 400), (0.16, 1600)];
/// Simulated people from whom the weights are taken.
const PEOPLE: u64 = 400;
/// Points of a round, in terms of the surface.
const POINTS_A_TERM: usize = 5;
/// Candidates of the least distance.
const CANDIDATES: usize = 4000;
/// Added to the diagonal of the covariance, as a share of it, so that columns that say the same do no harm.
const RIDGE: f64 = 0.01;

/// A fit that is asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct FitPlan {
    /// Name of the level.
    pub level: String,
    /// Every rules knob.
    pub rules: Knobs,
    /// Seed of all chance.
    pub seed: u64,
    /// Confidence of the intervals.
    pub confidence: f64,
    /// The stand-in, before its knobs are turned.
    pub standin: Entrant,
    /// The knobs that are fitted, all numbers.
    pub free: Vec<Free>,
    /// Whom the people played.
    pub opponents: Vec<Entrant>,
}

/// Logged matches of people.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct HumanLog {
    /// The columns that are compared, as figures of the game.
    pub columns: Vec<String>,
    /// The matches.
    pub matches: Vec<LoggedMatch>,
}

/// A logged match.
#[derive(Clone, Debug, PartialEq)]
pub struct LoggedMatch {
    /// Who played.
    pub player: String,
    /// Against which of the opponents.
    pub opponent: usize,
    /// The columns' values, NaN where there is none.
    pub values: Vec<f64>,
}

/// Why a fit cannot be made.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum FitError {
    /// Fewer columns than knobs.
    #[error("{columns} columns cannot tell {knobs} knobs apart: log more of what the game measures, or free fewer")]
    #[expect(missing_docs, reason = "columns that can be compared, and free knobs")]
    FewColumns { columns: usize, knobs: usize },
    /// Too few people or matches.
    #[error("the log has {people} people: at least five are needed for intervals")]
    #[expect(missing_docs, reason = "people in the log")]
    FewPeople { people: usize },
    /// A column that says nothing.
    #[error("the column `{column}` is the same in every match: leave it out")]
    #[expect(missing_docs, reason = "the column")]
    Constant { column: String },
    /// The surfaces cannot be told apart.
    #[error("the knobs cannot be told apart by this log: free fewer, or log more of what the game measures")]
    Undetermined,
    /// A column that is no figure of the game.
    #[error("the column `{column}` is no figure of the game; there are: {}", known.join(", "))]
    #[expect(missing_docs, reason = "the column, and all figures")]
    NoFigure { column: String, known: Vec<String> },
}

/// What a fit came to.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Fitted {
    /// The knobs with their intervals.
    pub knobs: Vec<FittedKnob>,
    /// The columns: logged and simulated means.
    pub columns: Vec<FittedColumn>,
    /// P-value of the remaining distance: small when no values of these knobs play like the log.
    pub misfit_p: f64,
    /// People, logged matches, simulated matches.
    pub people: usize,
    /// Logged matches.
    pub logged: usize,
    /// Simulated matches.
    pub simulated: u64,
}

/// A fitted knob.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[expect(missing_docs, reason = "the knob, its value with the interval, and whether it lies at an end of its range")]
pub struct FittedKnob {
    pub knob: String,
    pub value: f64,
    pub low: f64,
    pub high: f64,
    pub at_end: bool,
}

/// A column that was compared.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[expect(missing_docs, reason = "the column, its logged mean with standard error, and the fitted stand-in's mean")]
pub struct FittedColumn {
    pub column: String,
    pub logged: f64,
    pub logged_se: f64,
    pub simulated: f64,
}

/// Fits a stand-in's knobs to a log; `tell` hears of each round.
pub fn fit_standin(
    plan: &FitPlan,
    log: &HumanLog,
    game: &dyn GameEntry,
    threads: usize,
    mut tell: impl FnMut(usize, usize),
) -> Result<Fitted, FitError> {
    let figures = figures(log, game)?;
    let observed = Observed::of(log)?;
    let (columns, knobs) = (figures.len(), plan.free.len());
    if columns < knobs {
        return Err(FitError::FewColumns { columns, knobs });
    }
    let series = observed.matches_each(log);
    let mut weight = observed.plain_weight();
    let shares = opponent_shares(plan, log);
    let simulation = Simulation { plan, figures: &figures, shares: &shares, series, game, threads };
    let points = POINTS_A_TERM * Quadratic::terms(knobs);
    let mut centre = vec![0.5; knobs];
    let mut last: Option<Surfaces> = None;
    let (mut block, mut simulated) = (0, 0);
    for (round, (radius, matches)) in ROUNDS.into_iter().enumerate() {
        tell(round, ROUNDS.len());
        let blocks = matches.div_ceil(series);
        let xs: Vec<Vec<f64>> = (0..points)
            .map(|i| {
                let each = spread(i, knobs).into_iter().zip(&centre);
                // A region at an end of the range is moved inside, so that it keeps its size.
                each.map(|(u, c): (f64, &f64)| {
                    c.clamp(radius.min(0.5), 1.0 - radius.min(0.5)) + radius * (2.0 * u - 1.0)
                })
                .collect()
            })
            .collect();
        let runs: Vec<(Vec<f64>, u64)> =
            xs.into_iter().enumerate().map(|(i, x)| (x, block + i as u64 * blocks)).collect();
        block += points as u64 * blocks;
        simulated += points as u64 * blocks * series * simulation.met();
        let people = simulation.people(&runs, blocks);
        let means: Vec<Vec<f64>> = people.iter().map(|run| means(run)).collect();
        let surfaces = Surfaces::fit(&runs, &means).ok_or(FitError::Undetermined)?;
        centre = surfaces.nearest(&observed, &weight, &centre, radius);
        if round + 2 == ROUNDS.len() || round + 3 == ROUNDS.len() {
            let run = simulation.people(&[(centre.clone(), block)], PEOPLE).remove(0);
            (block, simulated) = (block + PEOPLE, simulated + PEOPLE * series * simulation.met());
            weight = weight_of(&run, observed.people).ok_or(FitError::Undetermined)?;
        }
        last = Some(surfaces);
    }
    let surfaces = last.ok_or(FitError::Undetermined)?;
    conclude(plan, log, &observed, &weight, &surfaces, &centre, simulated)
}

fn figures(log: &HumanLog, game: &dyn GameEntry) -> Result<Vec<Figure>, FitError> {
    let find = |column: &String| {
        let (name, side) = match column.as_str() {
            "won" => ("win_rate", crate::Side::Player),
            "score_against" => ("score", crate::Side::Opponent),
            other => (other, crate::Side::Player),
        };
        Figure::find(name, side, game.sheet()).map_err(|known| {
            let own = ["won", "score", "score_against", "length"].map(String::from);
            let measures = known.into_iter().skip(COMMON_FIGURES);
            FitError::NoFigure { column: column.clone(), known: own.into_iter().chain(measures).collect() }
        })
    };
    log.columns.iter().map(find).collect()
}

/// How often each opponent was met.
fn opponent_shares(plan: &FitPlan, log: &HumanLog) -> Vec<f64> {
    let count = |place: usize| log.matches.iter().filter(|own| own.opponent == place).count() as f64;
    (0..plan.opponents.len()).map(|place| count(place) / log.matches.len().max(1) as f64).collect()
}

/// The log's means and their covariance over people.
struct Observed {
    people: usize,
    means: DVector<f64>,
    covariance: DMatrix<f64>,
}

impl Observed {
    fn of(log: &HumanLog) -> Result<Self, FitError> {
        let width = log.columns.len();
        let mut names: Vec<&str> = log.matches.iter().map(|own| own.player.as_str()).collect();
        names.sort_unstable();
        names.dedup();
        let people = names.len();
        if people < 5 {
            return Err(FitError::FewPeople { people });
        }
        let mut means = DVector::zeros(width);
        let mut counts = vec![0.0; width];
        for (column, count) in counts.iter_mut().enumerate() {
            let mut all = Moments::default();
            log.matches.iter().for_each(|own| all.push(own.values[column]));
            *count = all.count() as f64;
            if all.sd().is_none_or(|sd| sd == 0.0) {
                return Err(FitError::Constant { column: log.columns[column].clone() });
            }
            means[column] = all.mean().unwrap_or(0.0);
        }
        // Sums of a person's deviations: the cluster-robust covariance of means.
        let mut covariance = DMatrix::zeros(width, width);
        for name in &names {
            let mut sums = DVector::zeros(width);
            for own in log.matches.iter().filter(|own| own.player == *name) {
                for column in 0..width {
                    if own.values[column].is_finite() {
                        sums[column] += (own.values[column] - means[column]) / counts[column];
                    }
                }
            }
            covariance.ger(1.0, &sums, &sums, 1.0);
        }
        let n = people as f64;
        covariance *= n / (n - 1.0);
        Ok(Self { people, means, covariance })
    }

    /// Matches of a person, on average, in whole rotations.
    fn matches_each(&self, log: &HumanLog) -> u64 {
        let mean = log.matches.len() as f64 / self.people as f64;
        (2.0 * (mean / 2.0).round()).max(2.0) as u64
    }

    /// One weight a column: what its standard error says.
    fn plain_weight(&self) -> DMatrix<f64> {
        DMatrix::from_diagonal(&self.covariance.diagonal().map(|variance| 1.0 / variance))
    }
}

/// One simulated person: sum and count of every column over the matches.
type PersonSums = Vec<(f64, f64)>;

/// The means of every column over all people.
fn means(run: &[PersonSums]) -> Vec<f64> {
    let width = run.first().map_or(0, Vec::len);
    let total = |column: usize| run.iter().fold((0.0, 0.0), |sum, own| (sum.0 + own[column].0, sum.1 + own[column].1));
    (0..width).map(total).map(|(sum, count)| sum / count).collect()
}

/// The inverse of the covariance of column means over so many people like those simulated, with a ridge.
fn weight_of(run: &[PersonSums], people: usize) -> Option<DMatrix<f64>> {
    let (means, n) = (means(run), run.len() as f64);
    let width = means.len();
    let counts: Vec<f64> = (0..width).map(|column| run.iter().map(|own| own[column].1).sum::<f64>() / n).collect();
    let mut covariance = DMatrix::zeros(width, width);
    for own in run {
        let off = DVector::from_fn(width, |i, _| (own[i].0 - own[i].1 * means[i]) / counts[i]);
        covariance.ger(1.0 / (n - 1.0) / people as f64, &off, &off, 1.0);
    }
    for i in 0..width {
        covariance[(i, i)] *= 1.0 + RIDGE;
    }
    covariance.cholesky().map(|factor| factor.inverse())
}

/// The simulated means of every column as functions of the knobs.
struct Surfaces(Vec<Quadratic>);

impl Surfaces {
    fn fit(runs: &[(Vec<f64>, u64)], means: &[Vec<f64>]) -> Option<Self> {
        let width = means.first()?.len();
        let each = (0..width).map(|column| {
            let usable = runs.iter().zip(means).filter(|(_, means)| means[column].is_finite());
            let (xs, ys): (Vec<Vec<f64>>, Vec<f64>) = usable.map(|((x, _), means)| (x.clone(), means[column])).unzip();
            Quadratic::fit(&xs, &ys)
        });
        each.collect::<Option<Vec<_>>>().map(Self)
    }

    fn off(&self, observed: &Observed, x: &[f64]) -> DVector<f64> {
        DVector::from_iterator(self.0.len(), self.0.iter().enumerate().map(|(i, own)| own.at(x) - observed.means[i]))
    }

    fn distance(&self, observed: &Observed, weight: &DMatrix<f64>, x: &[f64]) -> f64 {
        let off = self.off(observed, x);
        off.dot(&weight.tr_mul(&off))
    }

    /// The point of the region that is nearest to the log.
    fn nearest(&self, observed: &Observed, weight: &DMatrix<f64>, centre: &[f64], radius: f64) -> Vec<f64> {
        let mut best = (self.distance(observed, weight, centre), centre.to_vec());
        let mut reach = 1.2 * radius;
        for _ in 0..6 {
            let middle = best.1.clone();
            for i in 0..CANDIDATES {
                let x: Vec<f64> = spread(i, centre.len())
                    .iter()
                    .zip(&middle)
                    .map(|(u, c)| (c + reach * (2.0 * u - 1.0)).clamp(0.0, 1.0))
                    .collect();
                let distance = self.distance(observed, weight, &x);
                if distance < best.0 {
                    best = (distance, x);
                }
            }
            reach *= 0.3;
        }
        best.1
    }
}

/// What simulated people play.
struct Simulation<'a> {
    plan: &'a FitPlan,
    figures: &'a [Figure],
    /// How often each opponent was met.
    shares: &'a [f64],
    /// Matches of each person.
    series: u64,
    game: &'a dyn GameEntry,
    threads: usize,
}

impl Simulation<'_> {
    /// Opponents that were met at all.
    fn met(&self) -> u64 {
        self.shares.iter().filter(|share| **share > 0.0).count() as u64
    }

    /// So many people at each point, from the block given with it on.
    fn people(&self, runs: &[(Vec<f64>, u64)], people: u64) -> Vec<Vec<PersonSums>> {
        let mut all = Vec::with_capacity(runs.len());
        in_order(
            self.threads,
            runs.iter(),
            |(x, first_block)| {
                let stages: Vec<Box<dyn Stage>> = (0..self.plan.opponents.len())
                    .map(|opponent| {
                        let setting = setting(self.plan, x, opponent, self.series, self.game);
                        self.game.stage(&setting).expect("a fit names agents of its game")
                    })
                    .collect();
                (*first_block..first_block + people).map(|block| self.person(&stages, block)).collect()
            },
            |_, own| {
                all.push(own);
                ControlFlow::Continue(())
            },
        );
        all
    }

    /// One person against every opponent, each counted as often as it was met.
    fn person(&self, stages: &[Box<dyn Stage>], block: u64) -> PersonSums {
        let sheet = self.game.sheet();
        let mut sums = vec![(0.0, 0.0); self.figures.len()];
        let mut rows = Rows::new(sheet.measures.len());
        for (stage, share) in stages.iter().zip(self.shares).filter(|(_, share)| **share > 0.0) {
            rows.clear();
            for rotation in 0..stage.rotations() {
                stage.play(Spot { cell: 0, block, rotation, match_index: rotation as u64 }, &mut rows);
            }
            for (start, seats) in rows.matches().filter(|(_, seats)| seats[0].outcome != Outcome::Void) {
                let own = seats.iter().position(|row| row.entrant == 0).unwrap_or(0);
                for (figure, sum) in self.figures.iter().zip(&mut sums) {
                    let x = figure.of(seats, own, |seat| rows.measures_of(start + seat), sheet.ticks_per_second);
                    if x.is_finite() {
                        *sum = (sum.0 + share * x, sum.1 + share);
                    }
                }
            }
        }
        sums
    }
}

fn setting(plan: &FitPlan, shares: &[f64], opponent: usize, series: u64, game: &dyn GameEntry) -> Setting {
    let free: Knobs = plan
        .free
        .iter()
        .zip(shares)
        .map(|(free, share)| (free.knob.clone(), free.value(value(free, *share))))
        .collect();
    let sheet = game.agents().iter().find(|sheet| sheet.name == plan.standin.kind);
    let given = free.over(&plan.standin.given);
    let knobs = sheet.and_then(|sheet| given.resolve(&sheet.knobs).ok()).unwrap_or_else(|| plan.standin.knobs.clone());
    let other = &plan.opponents[opponent];
    Setting {
        rules: plan.rules.clone(),
        level: plan.level.clone(),
        cast: vec![
            Casting { entrant: 0, kind: plan.standin.kind.clone(), knobs },
            Casting { entrant: 1, kind: other.kind.clone(), knobs: other.knobs.clone() },
        ],
        series: (series / 2) as u32,
        study_seed: plan.seed,
    }
}

fn value(free: &Free, share: f64) -> f64 {
    let (low, high) = free.bounds();
    free.held(low + share * (high - low))
}

fn conclude(
    plan: &FitPlan,
    log: &HumanLog,
    observed: &Observed,
    weight: &DMatrix<f64>,
    surfaces: &Surfaces,
    at: &[f64],
    simulated: u64,
) -> Result<Fitted, FitError> {
    let (columns, knobs) = (surfaces.0.len(), at.len());
    let slopes: Vec<Vec<f64>> = surfaces.0.iter().map(|own| own.slopes(at)).collect();
    let jacobian = DMatrix::from_fn(columns, knobs, |i, j| slopes[i][j]);
    let weighted = weight * &jacobian;
    let bread = jacobian.tr_mul(&weighted).cholesky().ok_or(FitError::Undetermined)?.inverse();
    // Both the log and the simulation are uncertain.
    let mut noise = observed.covariance.clone();
    for (i, own) in surfaces.0.iter().enumerate() {
        noise[(i, i)] += own.variance_at(at);
    }
    let covariance = &bread * weighted.tr_mul(&(&noise * &weighted)) * &bread;
    let t = inkpot_stats::student_quantile(f64::midpoint(1.0, plan.confidence), observed.people as f64 - 1.0);
    let fitted = plan.free.iter().zip(at).enumerate().map(|(i, (free, share))| {
        let (low, high) = free.bounds();
        let margin = t * covariance[(i, i)].max(0.0).sqrt() * (high - low);
        let own = low + share * (high - low);
        FittedKnob {
            knob: free.knob.clone(),
            value: own,
            low: (own - margin).max(low),
            high: (own + margin).min(high),
            at_end: *share < 0.01 || *share > 0.99,
        }
    });
    let off = surfaces.off(observed, at);
    let ridged = noise.cholesky().ok_or(FitError::Undetermined)?;
    let distance = off.dot(&ridged.solve(&off));
    Ok(Fitted {
        knobs: fitted.collect(),
        columns: (0..columns)
            .map(|i| FittedColumn {
                column: log.columns[i].clone(),
                logged: observed.means[i],
                logged_se: observed.covariance[(i, i)].sqrt(),
                simulated: surfaces.0[i].at(at),
            })
            .collect(),
        misfit_p: if columns > knobs { inkpot_stats::chi_square_above(distance, columns - knobs) } else { f64::NAN },
        people: observed.people,
        logged: log.matches.len(),
        simulated,
    })
}
