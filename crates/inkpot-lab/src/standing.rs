//! Standings of a study's tables, read from the stored rows: a next round is drawn from these alone.

use inkpot_core::Block;
use inkpot_ledger::{Columns, LedgerError, Manifest, Span, Study};

use crate::Plan;
use crate::stored_rows::visit_stretch;

/// A played table: its entrants, and the result of each.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Played {
    pub(crate) entrants: Vec<usize>,
    /// Mean points share.
    pub(crate) points: Vec<f64>,
    /// Blocks in which it had the most points, alone.
    pub(crate) blocks_won: Vec<f64>,
    pub(crate) score: Vec<f64>,
}

impl Played {
    /// Returns the share of the others with fewer points, ties counting half.
    pub(crate) fn won(&self, index: usize) -> f64 {
        let points = self.points[index];
        let against = |other: &f64| if points > *other { 1.0 } else { f64::from(u8::from(points == *other)) / 2.0 };
        let all = self.points.iter().map(against).sum::<f64>() - 0.5;
        all / self.points.len().saturating_sub(1).max(1) as f64
    }

    /// Returns the winner of a knockout's table: most blocks won, then most points, then most score, then the better
    /// seed.
    pub(crate) fn winner(&self) -> usize {
        let rank_key = |index: &usize| (self.blocks_won[*index], self.points[*index], self.score[*index]);
        let better = |a: &usize, b: &usize| {
            rank_key(b)
                .partial_cmp(&rank_key(a))
                .unwrap_or(std::cmp::Ordering::Equal)
                .then(self.entrants[*a].cmp(&self.entrants[*b]))
        };
        (0..self.entrants.len()).min_by(better).map_or(0, |index| self.entrants[index])
    }

    /// Whether nothing but the seed told them apart.
    pub(crate) fn by_seed(&self) -> bool {
        let rank_key = |index: usize| (self.blocks_won[index], self.points[index], self.score[index]);
        let winner = self.winner();
        let Some(won) = self.entrants.iter().position(|entrant| *entrant == winner) else { return false };
        (0..self.entrants.len()).any(|other| other != won && rank_key(other) == rank_key(won))
    }
}

/// Adds the tables that are drawn and played to those known already.
pub(crate) fn read(
    study: &Study,
    manifest: &Manifest,
    measures: &[String],
    plan: &Plan,
    known: &mut Vec<Played>,
) -> Result<(), LedgerError> {
    let first = known.len();
    let mut tables: Vec<TableSums> = plan.cells[first..].iter().map(|cell| TableSums::new(&cell.entrants)).collect();
    let stretch: Span = first as u64 * plan.blocks..plan.cells.len() as u64 * plan.blocks;
    let only = Columns {
        fields: vec!["cell", "block", "match", "entrant", "score", "outcome", "placement"],
        measures: Vec::new(),
    };
    visit_stretch(study, manifest, plan, (measures, Some(&only)), stretch, |rows| {
        for block in rows.blocks() {
            if let Some(table) = block.cell().checked_sub(first).and_then(|index| tables.get_mut(index)) {
                table.take(block);
            }
        }
        Ok(())
    })?;
    known.extend(tables.into_iter().map(TableSums::played));
    Ok(())
}

/// The sums of one table.
struct TableSums {
    entrants: Vec<usize>,
    points: Vec<f64>,
    blocks_won: Vec<f64>,
    score: Vec<f64>,
    matches: f64,
}

impl TableSums {
    fn new(entrants: &[usize]) -> Self {
        let none = vec![0.0; entrants.len()];
        Self { entrants: entrants.to_vec(), points: none.clone(), blocks_won: none.clone(), score: none, matches: 0.0 }
    }

    /// Counts a block; a void match counts for nobody.
    fn take(&mut self, block: Block) {
        let mut gained = vec![0.0; self.entrants.len()];
        let mut scores = gained.clone();
        for played in block.matches().filter(|played| !played.is_void()) {
            self.matches += 1.0;
            for (seat, row) in played.seats().iter().enumerate() {
                if let Some(who) = self.entrants.iter().position(|entrant| *entrant == usize::from(row.entrant)) {
                    gained[who] += played.points(seat);
                    scores[who] += row.score;
                }
            }
        }
        let most = gained.iter().copied().fold(0.0, f64::max);
        if gained.iter().filter(|points| **points == most).count() == 1 {
            gained
                .iter()
                .zip(&mut self.blocks_won)
                .filter(|(points, _)| **points == most)
                .for_each(|(_, won)| *won += 1.0);
        }
        scores.iter().zip(&mut self.score).for_each(|(score, sum)| *sum += score);
        gained.iter().zip(&mut self.points).for_each(|(share, sum)| *sum += share);
    }

    fn played(self) -> Played {
        let matches = self.matches.max(1.0);
        let points = self.points.iter().map(|sum| if self.matches > 0.0 { sum / matches } else { 0.5 }).collect();
        Played { entrants: self.entrants, points, blocks_won: self.blocks_won, score: self.score }
    }
}
