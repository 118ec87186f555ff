//! The rules of sowing as a game: turns, the end, and capabilities.

use std::borrow::Cow;
use std::fmt;

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Keyed, Knob, Measured, Noted, Options, Seat,
    SeatSet, Verdict,
};
use serde::{Deserialize, Serialize, Serializer};

use super::board::{Board, Sown};
use super::note;
use super::tally::Tally;
use crate::opening::opened;
use crate::standin::Counting;

/// A move: the pit to empty, counted in the mover's order of sowing from 1; the highest is next to its store.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Pit(pub u8);

/// The view of a seat: everything. Serialised as the position text.
#[derive(Clone, Copy, Debug)]
pub struct View(pub Board);

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

    /// The match that begins at `start` after `plies` random moves. An opening that ends the match is drawn again;
    /// where every one does, the last is cut short before its end.
    pub fn opened(start: Board, plies: u32, chance: &mut Chance) -> Self {
        Self::at(opened(start, plies, chance, |board, chance| {
            let mut next = *board;
            next.sow(draw(board, chance));
            next.to_move().is_some().then_some(next)
        }))
    }

    /// The board.
    pub fn board(&self) -> &Board {
        &self.board
    }

    #[inline]
    fn count(&mut self) {
        self.scores = [f64::from(self.board.store(0)), f64::from(self.board.store(1))];
    }

    fn margin(&self) -> i32 {
        i32::from(self.board.store(0)) - i32::from(self.board.store(1))
    }

    /// Returns the board and the effect after emptying a legal pit.
    pub(crate) fn after(&self, pit: Pit) -> (Board, Sown) {
        let mut board = self.board;
        let sown = board.sow(usize::from(pit.0) - 1);
        (board, sown)
    }
}

/// A random pit of the side to move of a board that is not over.
#[inline]
fn draw(board: &Board, chance: &mut Chance) -> usize {
    let mut filled = board.filled(board.to_move().unwrap_or_default());
    let pick = chance.below(filled.size() as usize);
    filled.nth(pick).unwrap_or_default()
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
    fn view(&self, _seat: Seat) -> View {
        View(self.board)
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
                self.board.filled(seat).next().unwrap_or_default()
            }
        };
        let options = self.board.filled(seat).size();
        let sown = self.board.sow(pit);
        self.count();
        self.tally.moved(seat, options, sown, self.margin());
        faults.into_advance()
    }

    #[inline]
    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn scored_by(&self) -> Option<Cow<'static, str>> {
        let sown = self.tally.last?;
        Some(match self.board.to_move() {
            _ if sown.captured > 0 => "capture".into(),
            None => "sweep".into(),
            Some(_) => "sowing".into(),
        })
    }

    fn verdict(&self) -> Option<Verdict> {
        let over = self.board.to_move().is_none();
        over.then(|| Verdict::by_score(&self.scores, Ending::Decided("seeds".into())))
    }
}

impl Options for Sowing {
    #[inline]
    fn options(&self, seat: Seat, into: &mut Vec<Pit>) {
        for pit in self.board.filled(seat) {
            into.push(Pit(pit as u8 + 1));
        }
    }

    #[inline]
    fn draw(&self, _seat: Seat, chance: &mut Chance) -> Pit {
        Pit(draw(&self.board, chance) as u8 + 1)
    }

    /// The nearest pit that holds seeds, nearer to the store first.
    fn repair(&self, seat: Seat, action: &Pit) -> Pit {
        let wanted = usize::from(action.0.max(1)) - 1;
        let nearest = self.board.filled(seat).min_by_key(|&pit| (pit.abs_diff(wanted), pit < wanted));
        Pit(nearest.map_or(1, |pit| pit as u8 + 1))
    }
}

impl Imagine for Sowing {
    /// Returns a copy, since nothing is hidden.
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(*self)
    }
}

impl Counting for Sowing {
    #[inline]
    fn moved(&self, pit: &Pit) -> Self {
        let mut next = Self { board: self.after(*pit).0, ..*self };
        next.count();
        next
    }

    #[inline]
    fn mover(&self) -> Option<Seat> {
        self.board.to_move()
    }

    #[inline]
    fn lead(&self, seat: Seat) -> f64 {
        self.scores[seat] - self.scores[1 - seat]
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

impl Sowing {
    /// The weights of the value of a state.
    pub fn weights() -> Vec<Knob> {
        vec![
            Knob::real("hoard", -2.0..=2.0, 0.1).help("worth of a seed on its own side, relative to one in its store"),
            Knob::real("mobility", -2.0..=2.0, 0.0).help("worth of each more pit to choose from than the other has"),
            Knob::real("tempo", -4.0..=4.0, 0.0).help("worth of being the one to move"),
        ]
    }
}

impl Appraise for Sowing {
    #[inline]
    fn appraise(&self, seat: Seat, weights: &[f64]) -> f64 {
        let mut value = self.scores[seat] - self.scores[1 - seat];
        let &[hoard, mobility, tempo] = weights else { return value };
        if hoard != 0.0 {
            let seeds = |side: usize| f64::from(self.board.held(side));
            value += hoard * (seeds(seat) - seeds(1 - seat));
        }
        if mobility != 0.0 {
            let options = |side: usize| f64::from(self.board.filled(side).size());
            value += mobility * (options(seat) - options(1 - seat));
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
        self.board.filled(side).any(|pit| {
            let mut after = self.board;
            let sown = after.sow(pit);
            sown.again || i32::from(after.store(side)) > before + 1
        })
    }
}

impl Measured for Sowing {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        self.tally.figures(seat, self.margin(), into);
    }
}
