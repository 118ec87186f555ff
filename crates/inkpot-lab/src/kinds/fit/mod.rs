//! Fitting a stand-in to logged matches of people: simulate and compare.
//!
//! The log's column means are compared with those of simulated matches: knob values at which they agree best are
//! found on quadratic surfaces of the simulated means, in a region that shrinks round by round (indirect inference;
//! Gourieroux, Monfort & Renault 1993). The weights are the inverse of the covariance that the means of as many
//! simulated people have (weights taken from the log itself would fit its luck); the intervals carry the log's own
//! spread, taken over people since matches of one person are alike, and that of the simulation.

mod observed;
mod simulation;
mod surfaces;

use inkpot_core::GameEntry;
use inkpot_stats::Quadratic;
use nalgebra::DMatrix;
use serde::Serialize;
use thiserror::Error;

use self::observed::Observed;
use self::simulation::{Simulation, means, weight_of};
use self::surfaces::Surfaces;
use crate::figure::{COMMON_FIGURES, Figure};
use crate::kinds::tune::spread;
use crate::{Entrant, Free, Ground};

/// Region of each round, as a share of the ranges to each side, and matches at each of its points.
const ROUNDS: [(f64, u64); 4] = [(0.5, 80), (0.25, 200), (0.16, 400), (0.16, 1600)];
/// Simulated people from whom the weights are taken.
const PEOPLE: u64 = 400;
/// Points of a round, in terms of the surface.
const POINTS_A_TERM: usize = 5;

/// A fit that is asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct FitPlan {
    /// Where and how matches are played.
    pub ground: Ground,
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
        simulated += points as u64 * blocks * series * simulation.met_count();
        let people = simulation.people(&runs, blocks);
        let means: Vec<Vec<f64>> = people.iter().map(|run| means(run)).collect();
        let surfaces = Surfaces::fit(&runs, &means).ok_or(FitError::Undetermined)?;
        centre = surfaces.nearest(&observed, &weight, &centre, radius);
        if round + 2 == ROUNDS.len() || round + 3 == ROUNDS.len() {
            let run = simulation.people(&[(centre.clone(), block)], PEOPLE).remove(0);
            (block, simulated) = (block + PEOPLE, simulated + PEOPLE * series * simulation.met_count());
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
    let t = inkpot_stats::student_quantile(f64::midpoint(1.0, plan.ground.confidence), observed.people as f64 - 1.0);
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
