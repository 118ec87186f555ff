//! Figures of groups of cells, summed up as rows stream by: each group's figures are weighted means over its cells.

use inkpot_core::{GameEntry, GameSheet, Rows};
use inkpot_stats::{BlockRates, Interval, Moments, Scale};

use crate::Plan;
use crate::course::{Course, print_of};
use crate::figure::{Figure, figure_mean};
use crate::plan::OF_THE_CELL;

/// A cell in its group, with its weight there.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Weighted {
    pub(crate) group: usize,
    pub(crate) weight: f64,
}

/// Block means by cell and figure. The player of a cell is its first entrant.
pub(crate) struct FigureTally {
    cells: Vec<Weighted>,
    /// The figures of each group; none where the game no longer has it.
    figures: Vec<Vec<Option<Figure>>>,
    /// The place in the plan of each cell's player.
    players: Vec<usize>,
    blocks: Vec<Vec<Vec<f64>>>,
    courses: Vec<Course>,
    /// The scale of each group's figures.
    scales: Vec<Vec<Scale>>,
    matches_a_block: usize,
    ticks_per_second: Option<f64>,
    confidence: f64,
}

impl FigureTally {
    /// Builds an empty tally of a plan's cells, in their order.
    pub(crate) fn new(
        plan: &Plan,
        cells: Vec<Weighted>,
        figures: Vec<Vec<Option<Figure>>>,
        game: &dyn GameEntry,
    ) -> Self {
        let sheet = game.sheet();
        let scale = |figure: &Option<Figure>| figure.map_or(Scale::Any, |figure| figure.scale(sheet));
        Self {
            courses: plan.cells.iter().map(|cell| Course::of(plan.is_without_chance(cell, game))).collect(),
            scales: figures.iter().map(|figures| figures.iter().map(scale).collect()).collect(),
            blocks: cells.iter().map(|cell| vec![Vec::new(); figures[cell.group].len()]).collect(),
            players: plan.cells.iter().map(|cell| cell.entrants[0]).collect(),
            matches_a_block: plan.matches_a_block() as usize,
            confidence: plan.ground.confidence,
            ticks_per_second: sheet.ticks_per_second,
            cells,
            figures,
        }
    }

    /// Takes whole blocks.
    pub(crate) fn take(&mut self, rows: &Rows) {
        for block in rows.blocks() {
            let cell = block.cell();
            self.courses[cell].see(|| print_of(block));
            let player = self.players[cell];
            for (figure, means) in self.figures[self.cells[cell].group].iter().zip(&mut self.blocks[cell]) {
                let Some(figure) = figure else { continue };
                means.push(figure_mean(block.matches(), |played| {
                    figure.of(played, played.seat_of(player).expect(OF_THE_CELL), self.ticks_per_second)
                }));
            }
        }
    }

    /// The interval of a figure of a group: of one cell as in any study, of several that of the mean of the weighted
    /// block means.
    pub(crate) fn interval(&self, group: usize, figure: usize) -> Option<Interval> {
        let cells: Vec<usize> = (0..self.cells.len()).filter(|cell| self.cells[*cell].group == group).collect();
        let decided = cells.iter().all(|cell| self.courses[*cell].is_decided());
        if let ([only], true) = (cells.as_slice(), self.figures[group][figure]?.is_rate()) {
            return interval_of_rate(&self.blocks[*only][figure], self.matches_a_block, decided, self.confidence);
        }
        let mut moments = Moments::on(self.scales[group][figure]);
        let blocks = cells.iter().map(|cell| self.blocks[*cell][figure].len()).min().unwrap_or(0);
        for block in 0..blocks {
            let (mut sum, mut weight) = (0.0, 0.0);
            for cell in &cells {
                let (x, factor) = (self.blocks[*cell][figure][block], self.cells[*cell].weight);
                if x.is_finite() {
                    (sum, weight) = (sum + factor * x, weight + factor);
                }
            }
            moments.push(sum / weight);
        }
        if decided {
            moments.decide();
        }
        moments.interval(self.confidence)
    }
}

/// The interval of a share of matches, by its means over blocks.
fn interval_of_rate(blocks: &[f64], matches_a_block: usize, decided: bool, confidence: f64) -> Option<Interval> {
    let mut rates = BlockRates::new(matches_a_block);
    blocks.iter().filter(|x| x.is_finite()).for_each(|x| rates.push(*x));
    if decided {
        rates.decide();
    }
    rates.interval(confidence)
}

/// The interval of a figure, by its means over blocks that chance has drawn.
pub(crate) fn interval_of(
    figure: Figure,
    sheet: &GameSheet,
    blocks: &[f64],
    matches_a_block: usize,
    confidence: f64,
) -> Option<Interval> {
    if figure.is_rate() {
        return interval_of_rate(blocks, matches_a_block, false, confidence);
    }
    let mut moments = Moments::on(figure.scale(sheet));
    for x in blocks {
        moments.push(*x);
    }
    moments.interval(confidence)
}
