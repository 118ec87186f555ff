//! The rows of one block, and of one match of it, with their meaning.

use crate::{Outcome, Row, Rows, Seat, points_share};

/// The rows of one block of a cell: its matches one after the other.
#[derive(Clone, Copy, Debug)]
pub struct Block<'a> {
    rows: &'a [Row],
    measures: &'a [f64],
    width: usize,
}

/// The rows of one match, one a seat in order of seat.
#[derive(Clone, Copy, Debug)]
pub struct MatchRows<'a> {
    rows: &'a [Row],
    measures: &'a [f64],
    width: usize,
}

impl Rows {
    /// The rows block by block of each cell, in the order in which they lie.
    pub fn blocks(&self) -> impl Iterator<Item = Block<'_>> {
        let width = self.width;
        chunked(&self.rows, &self.measures, width, |a, b| (a.cell, a.block) == (b.cell, b.block))
            .map(move |(rows, measures)| Block { rows, measures, width })
    }

    /// The rows match by match.
    pub fn matches(&self) -> impl Iterator<Item = MatchRows<'_>> {
        matches(&self.rows, &self.measures, self.width)
    }
}

fn matches<'a>(rows: &'a [Row], measures: &'a [f64], width: usize) -> impl Iterator<Item = MatchRows<'a>> {
    chunked(rows, measures, width, |a, b| a.match_index == b.match_index).map(move |(rows, measures)| MatchRows {
        rows,
        measures,
        width,
    })
}

/// Neighbouring rows that belong together, each with its measures, `width` a row.
fn chunked<'a>(
    rows: &'a [Row],
    measures: &'a [f64],
    width: usize,
    together: impl FnMut(&Row, &Row) -> bool,
) -> impl Iterator<Item = (&'a [Row], &'a [f64])> {
    let mut at = 0;
    rows.chunk_by(together).map(move |rows| {
        let from = at * width;
        at += rows.len();
        (rows, &measures[from..at * width])
    })
}

impl<'a> Block<'a> {
    /// Pairing or point of the study.
    pub fn cell(&self) -> usize {
        self.rows[0].cell as usize
    }

    /// Number of the block.
    pub fn number(&self) -> u64 {
        self.rows[0].block
    }

    /// All rows.
    pub fn rows(&self) -> &'a [Row] {
        self.rows
    }

    /// The measures of a row, by its place in the block.
    pub fn measures(&self, row: usize) -> &'a [f64] {
        &self.measures[row * self.width..(row + 1) * self.width]
    }

    /// Its matches in order.
    pub fn matches(&self) -> impl Iterator<Item = MatchRows<'a>> {
        matches(self.rows, self.measures, self.width)
    }

    /// Whether a match of it counts for nobody.
    pub fn has_void(&self) -> bool {
        self.rows.iter().any(|row| row.outcome == Outcome::Void)
    }

    /// Mean points share of an entrant over the matches that count; none where it had none.
    pub fn points(&self, entrant: usize) -> Option<f64> {
        let (mut sum, mut matches) = (0.0, 0.0);
        for played in self.matches().filter(|played| !played.is_void()) {
            if let Some(seat) = played.seat_of(entrant) {
                sum += played.points(seat);
                matches += 1.0;
            }
        }
        (matches > 0.0).then(|| sum / matches)
    }
}

impl<'a> MatchRows<'a> {
    /// The rows, one a seat in order of seat.
    pub fn seats(&self) -> &'a [Row] {
        self.rows
    }

    /// The measures of a seat.
    pub fn measures(&self, seat: Seat) -> &'a [f64] {
        &self.measures[seat * self.width..(seat + 1) * self.width]
    }

    /// Whether the match counts for nobody.
    pub fn is_void(&self) -> bool {
        self.rows[0].outcome == Outcome::Void
    }

    /// The seat of an entrant.
    pub fn seat_of(&self, entrant: usize) -> Option<Seat> {
        self.rows.iter().position(|row| usize::from(row.entrant) == entrant)
    }

    /// Points share of a seat: the share of opponents placed behind it, ties half (for two seats: win 1, draw 1/2,
    /// loss 0). A lone seat has 0.
    pub fn points(&self, seat: Seat) -> f64 {
        points_share(self.rows.iter().map(|row| row.placement), seat, self.rows[seat].placement)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Two blocks of two matches between entrants 4 and 7; the second match of the second block is void.
    fn rows() -> Rows {
        let mut rows = Rows::new(1);
        for (index, (block, placements)) in [(0, [1, 2]), (0, [1, 1]), (1, [2, 1]), (1, [0, 0])].into_iter().enumerate()
        {
            for seat in 0..2u16 {
                let placement = placements[usize::from(seat)];
                rows.rows.push(Row {
                    block,
                    match_index: index as u64,
                    seat,
                    // They change seats within a block.
                    entrant: if (seat + index as u16).is_multiple_of(2) { 4 } else { 7 },
                    placement,
                    outcome: if placement == 0 { Outcome::Void } else { Outcome::of(placement, &placements) },
                    ..Row::blank()
                });
                rows.measures.push(rows.measures.len() as f64);
            }
        }
        rows
    }

    #[test]
    fn a_block_gives_the_points_of_its_entrants_and_leaves_out_what_is_void() {
        let rows = rows();
        let blocks: Vec<Block> = rows.blocks().collect();
        assert_eq!(blocks.len(), 2);
        // Entrant 4 wins the first match and draws the second.
        assert_eq!((blocks[0].points(4), blocks[0].points(7)), (Some(0.75), Some(0.25)));
        assert_eq!((blocks[1].points(4), blocks[1].points(7)), (Some(0.0), Some(1.0)));
        assert_eq!((blocks[0].points(9), blocks[0].has_void(), blocks[1].has_void()), (None, false, true));
        let second = blocks[1].matches().next().unwrap();
        assert_eq!((second.seat_of(7), second.measures(1), blocks[1].measures(3)), (Some(1), &[5.0][..], &[7.0][..]));
    }
}
