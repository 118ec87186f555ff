//! The rules of sowing as a game: turns, the end, and what generic agents ask of it.

use std::fmt;

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Keyed, Knob, Measured, Noted, Options, Seat,
    SeatSet, Verdict,
};
use serde::{Serialize, Serializer};

use super::board::{Board, Sown};
use super::note;
use super::tally::Tally;

/// Random openings tried before one is cut short that always ends the match.
const OPENINGS_TRIED: usize = 100;

/// A move: the pit to empty, counted in the mover's order of sowing from 1; the highest is next to its store.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(transparent)]
pub struct Pit(pub u8);

/// What a seat perceives: everything. Serialised as the position text.
#[derive(Clone, Copy, Debug)]
pub struct View(pub Board);

impl Default for View {
    fn default() -> Self {
        Self(Board::start(1, 0))
    }
}

impl Serialize for View {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&note::write(&self.0))
    }
}

/// A match of sowing.
#[derive(Clone, Copy, PartialEq)]
pub struct Sowing {
    board: Board,
    scores: [f64; 2],
    tally: Tally,
}

impl Sowing {
    /// The start, south (seat 0) to move.
    pub fn start(pits: u8, seeds: u8) -> Self {
        Self::at(Board::start(pits, seeds))
    }

    /// A match that goes on from this board.
    pub fn at(board: Board) -> Self {
        let mut game = Self { board, scores: [0.0; 2], tally: Tally::default() };
        game.count();
        game
    }

    /// The start after `plies` random moves. An opening that ends the match is drawn again; where every one does, the
    /// last is cut short before its end.
    pub fn opened(pits: u8, seeds: u8, plies: u32, chance: &mut Chance) -> Self {
        let mut board = Board::start(pits, seeds);
        for _ in 0..OPENINGS_TRIED {
            board = Board::start(pits, seeds);
            let mut left = plies;
            while left > 0 {
                let mut next = board;
                let options = (0..next.pits()).filter(|&pit| next.can(pit)).count();
                let pick = chance.below(options);
                let pit = (0..next.pits()).filter(|&pit| next.can(pit)).nth(pick).unwrap_or_default();
                next.sow(pit);
                if next.to_move().is_none() {
                    break;
                }
                board = next;
                left -= 1;
            }
            if left == 0 {
                break;
            }
        }
        Self::at(board)
    }

    /// The board.
    pub fn board(&self) -> &Board {
        &self.board
    }

    #[inline]
    fn count(&mut self) {
        self.scores = [f64::from(self.board.store(0)), f64::from(self.board.store(1))];
    }

    fn lead(&self) -> i32 {
        i32::from(self.board.store(0)) - i32::from(self.board.store(1))
    }

    /// The board and what came of it after the move of a pit that is an option.
    pub(crate) fn after(&self, pit: Pit) -> (Board, Sown) {
        let mut board = self.board;
        let sown = board.sow(usize::from(pit.0) - 1);
        (board, sown)
    }
}

impl fmt::Debug for Sowing {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "Sowing({})", note::write(&self.board))
    }
}

impl Game for Sowing {
    type Action = Pit;
    type View = View;

    #[inline]
    fn seats(&self) -> usize {
        2
    }

    #[inline]
    fn acting(&self) -> Acting<'_> {
        self.board.to_move().map_or(Acting::Nobody, Acting::One)
    }

    #[inline]
    fn view(&self, _seat: Seat, into: &mut View) {
        into.0 = self.board;
    }

    /// An illegal or missing choice counts as the first pit that holds seeds.
    #[inline]
    fn advance(&mut self, choices: &Choices<Pit>, _chance: &mut Chance) -> Advance {
        let Some(seat) = self.board.to_move() else { return Advance::Fine };
        let mut faults = SeatSet::default();
        let pit = match choices.get(seat) {
            Some(&Pit(pit)) if pit > 0 && self.board.can(usize::from(pit) - 1) => usize::from(pit) - 1,
            _ => {
                faults.insert(seat);
                (0..self.board.pits()).find(|&pit| self.board.can(pit)).unwrap_or_default()
            }
        };
        let options = self.board.row(seat).iter().map(|&seeds| u32::from(seeds > 0)).sum();
        let sown = self.board.sow(pit);
        self.count();
        self.tally.moved(seat, options, sown, self.lead());
        faults.into_advance()
    }

    #[inline]
    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        let over = self.board.to_move().is_none();
        over.then(|| Verdict::by_score(&self.scores, Ending::Decided("seeds".into())))
    }
}

impl Options for Sowing {
    #[inline]
    fn options(&self, _seat: Seat, into: &mut Vec<Pit>) {
        into.extend((0..self.board.pits()).filter(|&pit| self.board.can(pit)).map(|pit| Pit(pit as u8 + 1)));
    }

    #[inline]
    fn draw(&self, seat: Seat, chance: &mut Chance) -> Pit {
        let row = self.board.row(seat);
        let options = row.iter().filter(|&&seeds| seeds > 0).count();
        let mut left = chance.below(options);
        for (pit, &seeds) in row.iter().enumerate() {
            if seeds > 0 {
                if left == 0 {
                    return Pit(pit as u8 + 1);
                }
                left -= 1;
            }
        }
        Pit(1)
    }

    /// The nearest pit that holds seeds, nearer to the store first.
    fn repair(&self, seat: Seat, action: &Pit) -> Pit {
        let row = self.board.row(seat);
        let wanted = action.0.clamp(1, row.len() as u8);
        let distance = |pit: u8| (pit.abs_diff(wanted), pit < wanted);
        let filled = (1..=row.len() as u8).filter(|&pit| row[usize::from(pit) - 1] > 0);
        Pit(filled.min_by_key(|&pit| distance(pit)).unwrap_or(1))
    }
}

impl Imagine for Sowing {
    /// Nothing is hidden: a copy.
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(*self)
    }
}

impl Keyed for Sowing {
    type Key = Board;

    #[inline]
    fn key(&self) -> Board {
        self.board
    }
}

impl Noted for Sowing {
    fn note(&self) -> String {
        note::write(&self.board)
    }

    fn read_note(&self, text: &str) -> Result<Self, String> {
        note::read(text, self.board.pits()).map(Self::at)
    }
}

impl Appraise for Sowing {
    fn weights() -> Vec<Knob> {
        vec![
            Knob::real("hoard", -2.0..=2.0, 0.1).help("worth of a seed lying on the own side, against one in the store"),
            Knob::real("mobility", -2.0..=2.0, 0.0).help("worth of each more pit to choose from than the other has"),
            Knob::real("tempo", -4.0..=4.0, 0.0).help("worth of being the one to move"),
        ]
    }

    #[inline]
    fn appraise(&self, seat: Seat, weights: &[f64]) -> f64 {
        let mut value = self.scores[seat] - self.scores[1 - seat];
        let &[hoard, mobility, tempo] = weights else { return value };
        if hoard != 0.0 {
            let seeds = |side: usize| self.board.row(side).iter().map(|&seeds| i32::from(seeds)).sum::<i32>();
            value += hoard * f64::from(seeds(seat) - seeds(1 - seat));
        }
        if mobility != 0.0 {
            let options = |side: usize| self.board.row(side).iter().map(|&seeds| i32::from(seeds > 0)).sum::<i32>();
            value += mobility * f64::from(options(seat) - options(1 - seat));
        }
        if tempo != 0.0 {
            value += if self.board.to_move() == Some(seat) { tempo } else { -tempo };
        }
        value
    }

    /// The mover can end a sowing in its own store, or take seeds: the margin is about to move.
    fn unsettled(&self) -> bool {
        let Some(side) = self.board.to_move() else { return false };
        let before = i32::from(self.board.store(side));
        (0..self.board.pits()).filter(|&pit| self.board.can(pit)).any(|pit| {
            let mut after = self.board;
            let sown = after.sow(pit);
            sown.again || i32::from(after.store(side)) > before + 1
        })
    }
}

impl Measured for Sowing {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        self.tally.figures(seat, self.lead(), into);
    }
}
