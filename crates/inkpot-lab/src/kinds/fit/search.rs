//! The search of a fit: simulated people at points of a region that shrinks round by round.

use std::fmt::Write as _;

use inkpot_core::{GameEntry, Registry, Rows, Setting};
use inkpot_stats::Quadratic;
use nalgebra::DMatrix;
use serde::{Deserialize, Serialize};

use super::fitted::fitted;
use super::observed::Observed;
use super::people::{PersonSums, flat, means, person, sums, weight_of};
use super::surfaces::Surfaces;
use super::{Fit, FitError, FitProof};
use crate::checker::found_game;
use crate::kinds::tune::spread;
use crate::searching::{Ask, FIRST_PROBE_BLOCK, Results, SearchRound, SearchWork, Searching};
use crate::work::Play;
use crate::{CheckpointError, Ground, Plan, Problem, Seeks};

/// Region of each round, as a share of the ranges to each side, and matches at each of its points.
const ROUNDS: [(f64, u64); 4] = [(0.5, 80), (0.25, 200), (0.16, 400), (0.16, 1600)];
/// After the last rounds but one and two the weights are taken anew, where the search then stands.
const WEIGHED_AFTER: [usize; 2] = [2, 3];
/// Simulated people from whom the weights are taken.
const PEOPLE: u64 = 400;
/// Points of a round, in terms of the surface.
const POINTS_A_TERM: usize = 5;

/// The search of a fit.
pub(super) struct FitSearch<'a> {
    fit: &'a Fit,
    game: &'a dyn GameEntry,
    met: Vec<(usize, f64)>,
    observed: Observed,
    pub(super) state: State,
}

/// All that a search knows.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct State {
    /// The results of each round.
    rounds: Vec<Round>,
    /// The centre of the search, in shares of the ranges.
    pub(super) centre: Vec<f64>,
    /// The weights of the columns, row by row, as they were last taken; by the log's own spread at first.
    weight: Vec<f64>,
    /// The number of times they were taken.
    weighed: usize,
    /// Whether it had to end since nothing can be told.
    undetermined: bool,
}

/// The points of a round and the simulated column means there; none where no match has the column.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
struct Round {
    points: Vec<Vec<f64>>,
    means: Vec<Vec<Option<f64>>>,
}

/// The next step of a search.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Step {
    Look(usize),
    Weigh,
    End,
}

impl State {
    /// Whether it is one of a fit of this many knobs to this many columns.
    fn fits(&self, knobs: usize, columns: usize) -> bool {
        let round = |round: &Round| {
            round.points.len() == round.means.len()
                && round.points.iter().all(|point| point.len() == knobs)
                && round.means.iter().all(|means| means.len() == columns)
        };
        self.rounds.len() <= ROUNDS.len()
            && self.rounds.iter().all(round)
            && self.weighed <= WEIGHED_AFTER.len()
            && (self.centre.len(), self.weight.len()) == (knobs, columns * columns)
    }
}

impl<'a> FitSearch<'a> {
    /// At its beginning.
    pub(super) fn new(fit: &'a Fit, game: &'a dyn GameEntry) -> Result<Self, FitError> {
        let observed = Observed::of(&fit.log, fit.free.len(), game.sheet())?;
        let state = State {
            rounds: Vec::new(),
            centre: vec![0.5; fit.free.len()],
            weight: observed.plain_weight().transpose().as_slice().to_vec(),
            weighed: 0,
            undetermined: false,
        };
        Ok(Self { met: fit.met(), fit, game, observed, state })
    }

    fn step(&self) -> Step {
        let rounds = self.state.rounds.len();
        let due = WEIGHED_AFTER.iter().filter(|after| rounds >= **after).count();
        match rounds {
            _ if self.state.undetermined => Step::End,
            _ if self.state.weighed < due => Step::Weigh,
            rounds if rounds < ROUNDS.len() => Step::Look(rounds),
            _ => Step::End,
        }
    }

    /// Blocks at each point of a round.
    fn blocks(&self, round: usize) -> u64 {
        ROUNDS[round].1.div_ceil(self.fit.series())
    }

    /// Points of a round.
    fn points(&self) -> usize {
        POINTS_A_TERM * Quadratic::terms(self.fit.free.len())
    }

    /// Blocks of this many rounds and weighings.
    fn blocks_of(&self, rounds: usize, weighed: usize) -> u64 {
        let looked: u64 = (0..rounds).map(|round| self.points() as u64 * self.blocks(round)).sum();
        looked + weighed as u64 * PEOPLE
    }

    fn matches_of(&self, blocks: u64) -> u64 {
        blocks * self.fit.series() * self.met.len() as u64
    }

    /// Simulated matches so far.
    pub(super) fn simulated(&self) -> u64 {
        self.matches_of(self.blocks_of(self.state.rounds.len(), self.state.weighed))
    }

    /// The points of a round, in shares of the ranges.
    fn spread(&self, round: usize) -> Vec<Vec<f64>> {
        let radius = ROUNDS[round].0.min(0.5);
        let point = |i: usize| {
            let each = spread(i, self.fit.free.len()).into_iter().zip(&self.state.centre);
            // A region at an end of the range is moved inside, so that it keeps its size.
            each.map(|(u, c): (f64, &f64)| c.clamp(radius, 1.0 - radius) + radius * (2.0 * u - 1.0)).collect()
        };
        (0..self.points()).map(point).collect()
    }

    fn play(&self, point: &[f64], first_block: u64, blocks: u64) -> Play {
        let settings = self.met.iter().map(|(opponent, _)| self.fit.setting(point, *opponent, self.game)).collect();
        Play::new(settings, FIRST_PROBE_BLOCK + first_block, blocks)
    }

    fn weight(&self) -> DMatrix<f64> {
        let width = self.observed.figures.len();
        DMatrix::from_row_slice(width, width, &self.state.weight)
    }

    /// Fits the surfaces to the last round.
    fn surfaces(&self) -> Option<Surfaces> {
        let last = self.state.rounds.last()?;
        let filled = |means: &Vec<Option<f64>>| means.iter().map(|mean| mean.unwrap_or(f64::NAN)).collect();
        Surfaces::fit(&last.points, &last.means.iter().map(filled).collect::<Vec<_>>())
    }

    /// Learns from the people at every point of a round.
    fn looked(&mut self, round: usize, people: &[Vec<PersonSums>]) {
        let shown =
            |run: &Vec<PersonSums>| means(run).into_iter().map(|mean| mean.is_finite().then_some(mean)).collect();
        let points = self.spread(round);
        self.state.rounds.push(Round { points, means: people.iter().map(shown).collect() });
        match self.surfaces() {
            Some(surfaces) => {
                let (weight, centre) = (self.weight(), &self.state.centre);
                self.state.centre = surfaces.nearest(&self.observed, &weight, centre, ROUNDS[round].0);
            }
            None => self.state.undetermined = true,
        }
    }

    /// Takes the weights from the people where the search stands.
    fn weighed(&mut self, people: &[PersonSums]) {
        self.state.weighed += 1;
        match weight_of(people, self.observed.people) {
            Some(weight) => self.state.weight = weight.transpose().as_slice().to_vec(),
            None => self.state.undetermined = true,
        }
    }
}

impl Searching for FitSearch<'_> {
    fn next(&mut self) -> Ask {
        let first = self.blocks_of(self.state.rounds.len(), self.state.weighed);
        match self.step() {
            Step::Look(round) => {
                let blocks = self.blocks(round);
                let each = self.spread(round).into_iter().enumerate();
                Ask::Play(each.map(|(i, point)| self.play(&point, first + i as u64 * blocks, blocks)).collect())
            }
            Step::Weigh => Ask::Play(vec![self.play(&self.state.centre, first, PEOPLE)]),
            Step::End => Ask::Finished,
        }
    }

    fn take(&mut self, results: Results) {
        let people: Vec<Vec<PersonSums>> =
            results.iter().map(|blocks| blocks.iter().map(|figures| sums(figures)).collect()).collect();
        match self.step() {
            Step::Look(round) => self.looked(round, &people),
            Step::Weigh => self.weighed(&people[0]),
            Step::End => {}
        }
    }

    fn checkpoint(&self) -> String {
        serde_json::to_string(&self.state).expect("numbers, lists and names are always JSON")
    }

    fn history(&self) -> String {
        let knobs = self.fit.free.iter().map(|free| free.knob.clone());
        let heading: Vec<String> =
            std::iter::once("round".to_string()).chain(knobs).chain(self.fit.log.columns.iter().cloned()).collect();
        let mut text = heading.join(",") + "\n";
        for (index, round) in self.state.rounds.iter().enumerate() {
            for (point, means) in round.points.iter().zip(&round.means) {
                let _ = write!(text, "{}", index + 1);
                for (free, share) in self.fit.free.iter().zip(point) {
                    let _ = write!(text, ",{}", Fit::value(free, *share));
                }
                for mean in means {
                    text.push(',');
                    text.extend(mean.map(|mean| mean.to_string()));
                }
                text.push('\n');
            }
        }
        text
    }

    fn round(&self) -> SearchRound {
        let turned = self.fit.free.iter().zip(&self.state.centre);
        let each = turned.map(|(free, share)| format!("{} {:.3}", free.knob, Fit::value(free, *share)));
        SearchRound {
            rounds: self.state.rounds.len() as u64,
            unit: "matches",
            spent: self.simulated(),
            most: self.matches_of(self.blocks_of(ROUNDS.len(), WEIGHED_AFTER.len())),
            choice: each.collect::<Vec<_>>().join(", "),
        }
    }
}

/// Workers do what a search at its beginning knows.
impl SearchWork for FitSearch<'_> {
    fn figures(&self, _reading: usize, rows: &[Rows]) -> Vec<f64> {
        flat(&person(&self.met, &self.observed.figures, rows, self.game.sheet().ticks_per_second))
    }
}

impl Seeks for Fit {
    fn ground(&self) -> &Ground {
        &self.ground
    }

    fn proof_blocks(&self) -> u64 {
        self.proof.div_ceil(self.series()) * self.met().len() as u64
    }

    fn samples(&self, game: &dyn GameEntry) -> Vec<Setting> {
        let middle = vec![0.5; self.free.len()];
        (0..self.opponents.len()).map(|opponent| self.setting(&middle, opponent, game)).collect()
    }

    fn begin<'a>(
        &'a self,
        game: &'a dyn GameEntry,
        checkpoint: Option<&str>,
    ) -> Result<Box<dyn Searching + 'a>, CheckpointError> {
        Ok(Box::new(restored(self, game, checkpoint)?))
    }

    fn work<'a>(&'a self, game: &'a dyn GameEntry) -> Result<Box<dyn SearchWork + 'a>, CheckpointError> {
        Ok(Box::new(restored(self, game, None)?))
    }
}

impl Fit {
    /// Returns the plan of the proof for the finished search of this checkpoint. Errs if there is nothing to prove.
    pub fn prove(&self, checkpoint: &str, registry: &Registry) -> Result<(Plan, FitProof), Vec<Problem>> {
        let failed = |why: String| vec![Problem::new("", why, "docs/tune.md says what a log holds")];
        let game = found_game(registry, &self.ground.game)?;
        let search = restored(self, game, Some(checkpoint)).map_err(|error| failed(error.0))?;
        let surfaces = search.surfaces().filter(|_| !search.state.undetermined);
        let undetermined = || failed(FitError::Undetermined.to_string());
        let surfaces = surfaces.ok_or_else(undetermined)?;
        let found = fitted(self, &search.observed, &search.weight(), &surfaces, &search.state.centre);
        let found = found.ok_or_else(undetermined)?;
        FitProof::plan(self, super::Fitted { simulated: search.simulated(), ..found }, registry)
    }
}

fn restored<'a>(
    fit: &'a Fit,
    game: &'a dyn GameEntry,
    checkpoint: Option<&str>,
) -> Result<FitSearch<'a>, CheckpointError> {
    let mut search = FitSearch::new(fit, game).map_err(|error| CheckpointError(error.to_string()))?;
    if let Some(text) = checkpoint {
        search.state = serde_json::from_str(text).map_err(|error| CheckpointError(error.to_string()))?;
        if !search.state.fits(fit.free.len(), search.observed.figures.len()) {
            return Err(CheckpointError("it is of another fit".into()));
        }
    }
    Ok(search)
}
