//! The rules of berths as a game: turns, the end, and capabilities.

use std::fmt;

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Keyed, Knob, Measured, Noted, Options, Seat,
    SeatSet, Verdict,
};
use serde::{Serialize, Serializer};

use super::basin::{Basin, Berthing, Mooring};
use super::note;
use super::tally::{Tally, lead};
use crate::opening::opened;
use crate::standin::Counting;

/// The value of a won match to a person who counts options: above any number of them.
pub(crate) const WON: f64 = 64.0;

/// The view of a seat: everything. Serialised as the position text.
#[derive(Clone, Copy, Debug)]
pub struct View(pub Basin);

impl Serialize for View {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&note::write(&self.0))
    }
}

/// A match of berths.
#[derive(Clone, Copy, PartialEq)]
pub struct Berths {
    basin: Basin,
    scores: [f64; 2],
    tally: Tally,
}

impl Berths {
    /// An empty basin, south (seat 0) to move.
    #[must_use]
    pub fn start(width: u8, length: u8) -> Self {
        Self::at(Basin::empty(width, length))
    }

    /// A match that goes on from this basin.
    #[must_use]
    pub fn at(basin: Basin) -> Self {
        Self { scores: scores(&basin), basin, tally: Tally::default() }
    }

    /// The match that begins at `start` after `plies` random moves. An opening that ends the match is drawn again;
    /// where every one does, the last is cut short before its end.
    #[must_use]
    pub fn opened(start: Basin, plies: u32, chance: &mut Chance) -> Self {
        Self::at(opened(start, plies, chance, |basin, chance| {
            let mut next = *basin;
            next.moor(draw(basin, chance)?);
            next.options(next.side()).next().is_some().then_some(next)
        }))
    }

    /// The basin.
    #[must_use]
    pub fn basin(&self) -> &Basin {
        &self.basin
    }

    /// The boats that a side has moored since the match began, each by its first berth.
    pub(super) fn moored(&self, side: usize) -> Berthing {
        self.tally.moored(side)
    }

    /// The basin after a move of the side to move.
    pub(crate) fn after(&self, mooring: Mooring) -> Basin {
        let mut basin = self.basin;
        basin.moor(mooring);
        basin
    }
}

/// 1 for the winner, once the side to move finds no room.
fn scores(basin: &Basin) -> [f64; 2] {
    let mut scores = [0.0; 2];
    if basin.options(basin.side()).size() == 0 {
        scores[1 - basin.side()] = 1.0;
    }
    scores
}

/// A random move of the side to move; none if it has no room.
#[inline]
fn draw(basin: &Basin, chance: &mut Chance) -> Option<Mooring> {
    let mut options = basin.options(basin.side());
    let size = options.size() as usize;
    if size == 0 { None } else { options.nth(chance.below(size)) }
}

impl fmt::Debug for Berths {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "Berths({})", note::write(&self.basin))
    }
}

impl Game for Berths {
    type Action = Mooring;
    type View = View;

    #[inline]
    fn seats(&self) -> usize {
        2
    }

    #[inline]
    fn acting(&self) -> Acting<'_> {
        self.mover().map_or(Acting::Nobody, Acting::One)
    }

    #[inline]
    fn view(&self, _seat: Seat) -> View {
        View(self.basin)
    }

    /// An illegal or missing choice counts as the first berth, row by row, with room for a boat.
    #[inline]
    fn advance(&mut self, choices: &Choices<Mooring>, _chance: &mut Chance) -> Advance {
        let seat = self.basin.side();
        let mut options = self.basin.options(seat);
        let mut faults = SeatSet::default();
        let mooring = choices.get(seat).copied().filter(|mooring| options.holds(*mooring)).or_else(|| {
            faults.insert(seat);
            options.next()
        });
        let Some(mooring) = mooring else { return Advance::Fine };
        let before = self.basin;
        self.basin.moor(mooring);
        self.scores = scores(&self.basin);
        self.tally.moved(&before, mooring, &self.basin);
        faults.into_advance()
    }

    #[inline]
    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        let over = self.mover().is_none();
        over.then(|| Verdict::by_score(&self.scores, Ending::Decided("room".into())))
    }
}

impl Options for Berths {
    #[inline]
    fn options(&self, seat: Seat, into: &mut Vec<Mooring>) {
        into.extend(self.basin.options(seat));
    }

    #[inline]
    fn draw(&self, _seat: Seat, chance: &mut Chance) -> Mooring {
        draw(&self.basin, chance).unwrap_or(Mooring::at(0, 0))
    }

    /// The nearest berth with room for a boat, the first of them row by row.
    fn repair(&self, seat: Seat, action: &Mooring) -> Mooring {
        let far = |mooring: &Mooring| mooring.column().abs_diff(action.column()) + mooring.row().abs_diff(action.row());
        self.basin.options(seat).min_by_key(far).unwrap_or(*action)
    }
}

impl Imagine for Berths {
    /// Returns a copy, since nothing is hidden.
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(*self)
    }
}

impl Counting for Berths {
    #[inline]
    fn moved(&self, mooring: &Mooring) -> Self {
        let basin = self.after(*mooring);
        Self { scores: scores(&basin), basin, ..*self }
    }

    #[inline]
    fn mover(&self) -> Option<Seat> {
        let side = self.basin.side();
        (self.basin.options(side).size() > 0).then_some(side)
    }

    #[inline]
    fn lead(&self, seat: Seat) -> f64 {
        match self.mover() {
            Some(_) => f64::from(lead(&self.basin, seat)),
            None => WON * inkpot_core::margin(&self.scores, seat),
        }
    }
}

impl Keyed for Berths {
    type Key = (u64, u8);

    #[inline]
    fn key(&self) -> (u64, u8) {
        self.basin.key()
    }

    /// Mirrored west and east, north and south, and both.
    fn symmetries(&self) -> usize {
        3
    }

    fn turned(&self, symmetry: usize) -> Self {
        let (across, down) = mirrors(symmetry);
        Self { basin: self.basin.mirrored(across, down), ..*self }
    }

    fn turn_action(&self, symmetry: usize, action: &Mooring) -> Mooring {
        let (across, down) = mirrors(symmetry);
        self.basin.mirrored_move(across, down, *action)
    }

    fn turn_back(&self, symmetry: usize, action: &Mooring) -> Mooring {
        self.turn_action(symmetry, action)
    }
}

/// Whether a symmetry mirrors west and east, and whether north and south.
fn mirrors(symmetry: usize) -> (bool, bool) {
    (symmetry & 1 != 0, symmetry & 2 != 0)
}

impl Noted for Berths {
    fn note(&self) -> String {
        note::write(&self.basin)
    }

    fn read_note(&self, text: &str) -> Result<Self, String> {
        note::read(text, &self.basin).map(Self::at)
    }
}

impl Berths {
    /// The weights of the value of a state.
    pub fn weights() -> Vec<Knob> {
        vec![
            Knob::real("room", -1.0..=1.0, 0.2).help("worth of each more option than the other has"),
            Knob::real("safety", -1.0..=1.0, 0.4).help("worth of each more safe option than the other has"),
            Knob::real("tempo", -1.0..=1.0, -0.1).help("worth of being the one to move"),
        ]
    }
}

impl Appraise for Berths {
    /// The weighted sum x as x / (1 + |x|), so that no number of options is worth a won match.
    #[inline]
    fn appraise(&self, seat: Seat, weights: &[f64]) -> f64 {
        let &[room, safety, tempo] = weights else { return 0.0 };
        let safe = |side| f64::from(self.basin.safe(side).size());
        let tempo = if self.basin.side() == seat { tempo } else { -tempo };
        let sum = room * f64::from(lead(&self.basin, seat)) + safety * (safe(seat) - safe(1 - seat)) + tempo;
        sum / (1.0 + sum.abs())
    }
}

impl Measured for Berths {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        self.tally.figures(seat, &self.basin, into);
    }
}
