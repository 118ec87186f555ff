//! The game seam: rules that can be simulated headless.

use std::borrow::Cow;
use std::convert::Infallible;

use crate::{Chance, points_share};

/// A player's place in a match: `0, 1, ...`.
pub type Seat = usize;

/// Rules, headless. A copy is a fork of the whole future.
pub trait Game: Send {
    /// A choice of one seat at one tick.
    type Action: Clone + PartialEq + Send;
    /// The perception of one seat.
    type View;

    /// The number of seats of this match.
    fn seats(&self) -> usize;
    /// Returns the seats that decide now; `Nobody` once the match is over.
    fn acting(&self) -> Acting<'_>;
    /// Returns the perception of `seat`. Called only by readers, and best inlined: unread parts are then never
    /// computed.
    fn view(&self, seat: Seat) -> Self::View;
    /// One tick or turn. An illegal or missing choice is a fault and counts as the game's documented null action.
    fn advance(&mut self, choices: &Choices<Self::Action>, chance: &mut Chance) -> Advance;
    /// The score by seat, readable at any tick: a finite number for each.
    fn scores(&self) -> &[f64];
    /// Whether `seat` may know the score of `of` now; by default all scores are open.
    fn knows_score(&self, _seat: Seat, _of: Seat) -> bool {
        true
    }
    /// Why the scores changed last, in a word of the game (`lunge`, `edge`), asked at the tick at which they did; none
    /// where the game does not say. Courses, pages and counts of scores name it.
    fn scored_by(&self) -> Option<Cow<'static, str>> {
        None
    }
    /// Why the game cannot go on, if something went wrong at any call since the last tick: it is asked before and after
    /// each, and the match is then void. Only a game that is played elsewhere has reason to say more than none.
    #[inline(always)]
    fn fault(&self) -> Option<String> {
        None
    }
    /// Returns the result, once nobody acts.
    fn verdict(&self) -> Option<Verdict>;
}

/// The seats that decide at this tick.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Acting<'a> {
    /// One seat moves.
    One(Seat),
    /// Every seat decides at once.
    All,
    /// Some seats decide at once.
    These(&'a [Seat]),
    /// The match is over.
    Nobody,
}

impl Acting<'_> {
    /// Calls `f` for every acting seat in order of seat.
    #[inline(always)]
    pub fn for_each(self, seats: usize, mut f: impl FnMut(Seat)) {
        let Ok(()) = self.try_for_each(seats, |seat| {
            f(seat);
            Ok::<(), Infallible>(())
        });
    }

    /// Calls `f` for every acting seat in order of seat until one errs.
    #[inline(always)]
    pub fn try_for_each<E>(self, seats: usize, mut f: impl FnMut(Seat) -> Result<(), E>) -> Result<(), E> {
        match self {
            Acting::One(seat) => f(seat),
            Acting::All => (0..seats).try_for_each(f),
            Acting::These(these) => these.iter().copied().try_for_each(f),
            Acting::Nobody => Ok(()),
        }
    }
}

/// The choices of one tick, by seat.
#[derive(Clone, Debug)]
pub struct Choices<A> {
    /// Values of earlier ticks stay where they are: only those of seats in `given` count.
    slots: Vec<Option<A>>,
    given: SeatSet,
}

impl<A> Choices<A> {
    /// No choices yet, for this many seats.
    pub fn none(seats: usize) -> Self {
        Self { slots: (0..seats).map(|_| None).collect(), given: SeatSet::default() }
    }

    /// No choices yet, for this many seats, in the memory of these.
    #[must_use]
    pub fn for_seats(mut self, seats: usize) -> Self {
        self.slots.clear();
        self.slots.resize_with(seats, || None);
        self.clear();
        self
    }

    /// The choice of a seat, if it made one.
    #[inline]
    pub fn get(&self, seat: Seat) -> Option<&A> {
        if self.given.contains(seat) { self.slots.get(seat)?.as_ref() } else { None }
    }

    /// Sets the choice of a seat; a seat that does not exist is ignored.
    #[inline]
    pub fn set(&mut self, seat: Seat, action: A) {
        if let Some(slot) = self.slots.get_mut(seat) {
            *slot = Some(action);
            self.given.insert(seat);
        }
    }

    /// Asks `decide` for the choice of a seat, if it has none.
    #[inline(always)]
    pub(crate) fn fill<E>(&mut self, seat: Seat, decide: impl FnOnce() -> Result<A, E>) -> Result<(), E> {
        if !self.given.contains(seat) {
            self.set(seat, decide()?);
        }
        Ok(())
    }

    /// Forgets all choices.
    #[inline]
    pub fn clear(&mut self) {
        self.given = SeatSet::default();
    }
}

/// The result of a tick.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Advance {
    /// Every choice was legal.
    Fine,
    /// These seats made an illegal choice, or none where one was due.
    Faults(SeatSet),
    /// The game itself cannot go on, with the reason.
    Fell(String),
}

/// The most seats that a match can have.
pub const MOST_SEATS: usize = 64;

/// A set of seats, `0..MOST_SEATS`.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct SeatSet(u64);

impl SeatSet {
    /// Adds a seat; none from [`MOST_SEATS`] on.
    pub fn insert(&mut self, seat: Seat) {
        if seat < MOST_SEATS {
            self.0 |= 1 << seat;
        }
    }

    /// Whether there is none.
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Whether the seat is in it.
    pub fn contains(self, seat: Seat) -> bool {
        seat < MOST_SEATS && self.0 & (1 << seat) != 0
    }

    /// Whether all of them are below this one.
    pub(crate) fn are_below(self, seats: usize) -> bool {
        seats >= MOST_SEATS || self.0 >> seats == 0
    }

    /// `Fine` when empty, else the faults of these seats.
    #[inline]
    pub fn into_advance(self) -> Advance {
        if self.is_empty() { Advance::Fine } else { Advance::Faults(self) }
    }
}

impl FromIterator<Seat> for SeatSet {
    fn from_iter<I: IntoIterator<Item = Seat>>(seats: I) -> Self {
        let mut all = Self::default();
        for seat in seats {
            all.insert(seat);
        }
        all
    }
}

/// The outcome of a match, by placement.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Verdict {
    /// Place by seat, 1 is best; equal places are ties.
    pub placement: Vec<u16>,
    /// The reason for its end.
    pub ending: Ending,
}

impl Verdict {
    /// Places by score, higher is better, equal scores tie ("1224" ranking).
    pub fn by_score(scores: &[f64], ending: Ending) -> Self {
        let placement =
            scores.iter().map(|score| 1 + scores.iter().filter(|other| *other > score).count() as u16).collect();
        Self { placement, ending }
    }
}

impl Verdict {
    /// Errs where it is no outcome of a match with these scores: places that do not exist, nobody first, scores that
    /// are no numbers.
    pub(crate) fn check(&self, scores: &[f64]) -> Result<(), String> {
        let (places, seats) = (&self.placement, scores.len());
        if places.len() != seats || places.iter().any(|&place| place == 0 || usize::from(place) > seats) {
            return Err(format!("its verdict gives the places {places:?} to {seats} seats"));
        }
        if !places.contains(&1) {
            return Err(format!("its verdict gives nobody the first place: {places:?}"));
        }
        if scores.iter().any(|score| !score.is_finite()) {
            return Err(format!("its scores are {scores:?} for {seats} seats"));
        }
        Ok(())
    }

    /// Points share by seat: the share of opponents placed behind it, ties half.
    pub fn points(&self) -> impl Iterator<Item = f64> + '_ {
        let places = self.placement.iter().copied();
        self.placement.iter().enumerate().map(move |(seat, placed)| points_share(places.clone(), seat, *placed))
    }
}

/// The reason why a match ended.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Ending {
    /// The rules decided it; the word gives the reason (`touches`, `home`).
    Decided(Cow<'static, str>),
    /// It was cut short; the word gives the reason (`time`, `tick limit`).
    CutShort(Cow<'static, str>),
}

impl Ending {
    /// Returns the word of the reason.
    pub fn word(&self) -> &Cow<'static, str> {
        match self {
            Ending::Decided(word) | Ending::CutShort(word) => word,
        }
    }

    /// Whether it was cut short.
    pub fn cut_short(&self) -> bool {
        matches!(self, Ending::CutShort(_))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_by_score_share_ties() {
        let place = |scores: &[f64]| Verdict::by_score(scores, Ending::Decided("x".into())).placement;
        assert_eq!(place(&[3.0, 5.0]), [2, 1]);
        assert_eq!(place(&[4.0, 4.0]), [1, 1]);
        assert_eq!(place(&[1.0, 9.0, 9.0, 2.0]), [4, 1, 1, 3]);
    }
}
