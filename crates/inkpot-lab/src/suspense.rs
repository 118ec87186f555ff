//! Suspense: how undecided matches are, over time, by a win-probability model fitted on the study.
//!
//! Matches of the first blocks of every cell keep how the lead went. At evenly spaced moments of each the chance that
//! the first entrant wins is modelled as `logit p = a + (b + c t) d`: `d` its lead there over the standard deviation of
//! leads, `t` the moment as a share of the cell's mean length (Clauset, Kogan & Redner 2015 find leads to be much of
//! what there is to know). Suspense of a match is the mean of `4 p (1 - p)` over its moments: 1 is an even chance
//! throughout, 0 decided from the start.

use std::f64::consts::FRAC_PI_2;

use inkpot_core::{Block, GameEntry, LEADS, lead_moment, read_leads};
use inkpot_ledger::{LedgerError, Manifest, Study};
use inkpot_stats::{Interval, Logit, jackknife};

use crate::Plan;
use crate::stored_rows::visit_rows;

/// Blocks of a cell whose leads are kept.
pub(crate) const KEPT: u64 = 100;
/// Fewer blocks than this say nothing.
const FEWEST: usize = 30;
/// Groups of blocks that are left out one by one, at most.
const GROUPS: usize = 50;
/// Newton's steps from the fit of all blocks to that of all but a few.
const STEPS: usize = 2;

/// The course of the lead in a match with this number: the first entrant's lead at the moments, whether it won, and the
/// length.
#[derive(Clone, Debug)]
struct Course {
    match_index: u64,
    ticks: f64,
    leads: [f64; LEADS],
    won: f64,
}

/// The courses of the lead in a cell's blocks.
#[derive(Clone, Debug, Default)]
pub(crate) struct Courses {
    blocks: Vec<Vec<Course>>,
}

impl Courses {
    /// Takes a block, of which `first` is the first entrant's place; one without leads says nothing, nor do void
    /// matches.
    pub(crate) fn take(&mut self, block: Block, first: usize) {
        let course = |played: inkpot_core::MatchRows| {
            let (seats, seat) = (played.seats(), played.seat_of(first)?);
            let mut leads = read_leads(seats[0].leads.as_deref()?)?;
            if seat > 0 {
                for lead in &mut leads {
                    *lead = -*lead;
                }
            }
            let row = &seats[seat];
            Some(Course { match_index: row.match_index, ticks: row.ticks as f64, leads, won: played.points(seat) })
        };
        let courses: Vec<Course> = block.matches().filter(|played| !played.is_void()).filter_map(course).collect();
        if !courses.is_empty() {
            self.blocks.push(courses);
        }
    }

    /// The mean suspense with its interval; none of fewer than thirty blocks, or where nobody ever leads.
    ///
    /// The model is fitted again with each group of blocks left out (the jackknife, Tukey 1958; Efron & Stein 1981), so
    /// that the interval carries its error and the value is free of most of its bias.
    pub(crate) fn suspense(&self, confidence: f64) -> Option<Interval> {
        if self.blocks.len() < FEWEST {
            return None;
        }
        let all: Vec<&[Course]> = self.blocks.iter().map(Vec::as_slice).collect();
        let fitted = Fitted::to(&all, None)?;
        let groups = self.blocks.len().min(GROUPS);
        let without = |group: usize| -> Option<f64> {
            let rest = all.iter().enumerate().filter(|(block, _)| block * groups / all.len() != group);
            let rest: Vec<&[Course]> = rest.map(|(_, block)| *block).collect();
            Fitted::to(&rest, Some(&fitted)).map(|fitted| fitted.mean(&rest))
        };
        // As an angle, which is spread more evenly around its value than a share near an end is.
        let angle = |share: f64| share.clamp(0.0, 1.0).sqrt().asin();
        let left_out = (0..groups).map(|group| without(group).map(angle)).collect::<Option<Vec<f64>>>()?;
        let estimate = jackknife(angle(fitted.mean(&all)), &left_out, confidence)?;
        let share = |angle: f64| angle.clamp(0.0, FRAC_PI_2).sin().powi(2);
        Some(Interval { value: share(estimate.value), low: share(estimate.low), high: share(estimate.high) })
    }
}

/// A model of the winner by the lead.
struct Fitted {
    model: Logit<3>,
    sd: f64,
    mean_ticks: f64,
}

impl Fitted {
    /// The model of these blocks, fitted from the start or from a fit of like data; none where nobody ever leads.
    fn to(blocks: &[&[Course]], near: Option<&Self>) -> Option<Self> {
        let all = || blocks.iter().copied().flatten();
        let matches = all().count().max(1) as f64;
        let mean_ticks = all().map(|course| course.ticks).sum::<f64>() / matches;
        let square: f64 = all().flat_map(|course| course.leads).map(|lead| lead * lead).sum();
        let sd = (square / (matches * LEADS as f64)).sqrt();
        if sd <= 0.0 {
            return None;
        }
        let row = |course: &Course, moment| (features(course, moment, sd, mean_ticks), course.won);
        let rows = all().flat_map(|course| (0..LEADS).map(move |moment| row(course, moment)));
        let model = match near {
            None => Logit::fit(rows)?,
            Some(near) => near.model.refit(rows, STEPS)?,
        };
        Some(Self { model, sd, mean_ticks })
    }

    /// Suspense of a match.
    fn of(&self, course: &Course) -> f64 {
        let at = (0..LEADS).map(|moment| {
            let p = self.model.at(&features(course, moment, self.sd, self.mean_ticks));
            4.0 * p * (1.0 - p)
        });
        at.sum::<f64>() / LEADS as f64
    }

    /// Mean suspense of blocks.
    fn mean(&self, blocks: &[&[Course]]) -> f64 {
        let of_block = |block: &&[Course]| block.iter().map(|course| self.of(course)).sum::<f64>() / block.len() as f64;
        blocks.iter().map(of_block).sum::<f64>() / blocks.len() as f64
    }
}

fn features(course: &Course, moment: usize, sd: f64, mean_ticks: f64) -> [f64; 3] {
    let (lead, time) = (course.leads[moment] / sd, lead_moment(moment) * course.ticks / mean_ticks);
    [1.0, lead, lead * time]
}

/// Suspense of the matches whose leads are kept, each by its cell, its number and the model of its cell.
pub fn suspense_of_matches(
    study: &Study,
    manifest: &Manifest,
    plan: &Plan,
    game: &dyn GameEntry,
) -> Result<Vec<(usize, u64, f64)>, LedgerError> {
    let mut cells: Vec<Courses> = plan.cells.iter().map(|_| Courses::default()).collect();
    visit_rows(study, manifest, plan, &game.measure_names(), |rows| {
        for block in rows.blocks() {
            let cell = block.cell();
            if let (Some(courses), Some(planned)) = (cells.get_mut(cell), plan.cells.get(cell)) {
                courses.take(block, planned.entrants[0]);
            }
        }
        Ok(())
    })?;
    let of_cell = |(cell, courses): (usize, &Courses)| -> Vec<(usize, u64, f64)> {
        let all: Vec<&[Course]> = courses.blocks.iter().map(Vec::as_slice).collect();
        let fitted = Fitted::to(&all, None).filter(|_| all.len() >= FEWEST);
        let of = |fitted: Fitted| {
            all.iter().copied().flatten().map(|course| (cell, course.match_index, fitted.of(course))).collect()
        };
        fitted.map(of).unwrap_or_default()
    };
    Ok(cells.iter().enumerate().flat_map(of_cell).collect())
}
