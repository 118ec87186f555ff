//! Seatings: the entrant of each seat in the matches of a block.

use serde::{Deserialize, Serialize};

use crate::Chance;

/// Spreads the cast of a setting over the seats of the matches of a block.
///
/// The cast of a [`Setting`](crate::Setting) lists who sits down, one member a seat; an entrant that takes several
/// seats stands there several times. Whoever needs to know where somebody sits, or how many matches a block has, asks
/// its seating.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Seating {
    seats: usize,
    seatings: Seatings,
    rounds: usize,
}

/// The seatings that a block goes through.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Seatings {
    /// All cyclic shifts of the cast over the seats.
    Rotations,
    /// One seating, as the cast is listed.
    Fixed,
}

impl Seating {
    /// A block of one match for each rotation of the cast over this many seats.
    pub fn rotated(seats: usize) -> Self {
        Self { seats, seatings: Seatings::Rotations, rounds: 1 }
    }

    /// A block of one match in which everybody keeps their seat.
    pub fn fixed(seats: usize) -> Self {
        Self { seats, seatings: Seatings::Fixed, rounds: 1 }
    }

    /// A series: the block goes through its seatings this many times (at least once), each time in a new world.
    #[must_use]
    pub fn in_series(self, rounds: usize) -> Self {
        Self { rounds: rounds.max(1), ..self }
    }

    /// Seats of each match.
    pub fn seats(&self) -> usize {
        self.seats
    }

    /// The seatings that a block goes through.
    pub fn seatings(&self) -> Seatings {
        self.seatings
    }

    /// The number of times that a block goes through its seatings.
    pub fn rounds(&self) -> usize {
        self.rounds
    }

    /// Seatings of a round.
    fn a_round(&self) -> usize {
        match self.seatings {
            Seatings::Rotations => self.seats.max(1),
            Seatings::Fixed => 1,
        }
    }

    /// Matches of a block.
    pub fn matches_a_block(&self) -> usize {
        self.a_round() * self.rounds
    }

    /// The round to which a match of the block belongs; matches of one round share their world.
    pub fn round_of(&self, match_of_block: usize) -> usize {
        match_of_block / self.a_round()
    }

    /// Writes the seating of a match of the block: for each seat the place in the cast. Three and more are shuffled by
    /// the block's `order` first.
    pub fn seat(&self, match_of_block: usize, order: impl FnOnce() -> Chance, places: &mut Vec<usize>) {
        places.clear();
        places.extend(0..self.seats);
        if self.seats > 2 {
            order().shuffle(places);
        }
        places.rotate_left(match_of_block % self.a_round());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn places(seating: Seating) -> Vec<Vec<usize>> {
        let of_match = |number| {
            let mut places = Vec::new();
            seating.seat(number, || Chance::from_seed(7), &mut places);
            places
        };
        (0..seating.matches_a_block()).map(of_match).collect()
    }

    #[test]
    fn a_block_gives_everybody_every_seat_once_a_round() {
        for seats in 1..9 {
            let seating = Seating::rotated(seats).in_series(3);
            let all = places(seating);
            assert_eq!(all.len(), 3 * seats);
            for seat in 0..seats {
                for member in 0..seats {
                    let times = all.iter().filter(|places| places[seat] == member).count();
                    assert_eq!(times, 3, "member {member} in seat {seat} of {seats}");
                }
            }
        }
    }

    #[test]
    fn fixed_seats_are_one_match_and_two_keep_the_order_of_the_cast() {
        assert_eq!(places(Seating::fixed(2)), [[0, 1]]);
        assert_eq!(places(Seating::rotated(2)), [[0, 1], [1, 0]]);
    }

    #[test]
    fn matches_of_one_round_share_their_world() {
        let seating = Seating::rotated(3).in_series(2);
        let rounds: Vec<usize> = (0..6).map(|number| seating.round_of(number)).collect();
        assert_eq!(rounds, [0, 0, 0, 1, 1, 1]);
    }
}
