//! Counts for the measures of a match of sowing. Small, since searches copy it with every state.

use super::board::Sown;

/// Counts of a match.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(crate) struct Tally {
    seats: [SeatTally; 2],
    plies: u16,
    lead_changes: u16,
    largest_swing: u16,
    leader: i8,
    /// The last move.
    pub(crate) last: Option<Sown>,
}

#[derive(Clone, Copy, Debug, Default, PartialEq)]
struct SeatTally {
    captures: u16,
    again: u16,
    decisions: u16,
    options: u32,
}

impl Tally {
    /// A seat with this many options made this move, after which seat 0 leads by `lead`.
    #[inline]
    pub(crate) fn moved(&mut self, seat: usize, options: u32, sown: Sown, lead: i32) {
        let tally = &mut self.seats[seat];
        tally.captures += u16::from(sown.captured > 0);
        tally.again += u16::from(sown.again);
        tally.decisions += 1;
        tally.options += options;
        self.plies += 1;
        self.last = Some(sown);
        self.largest_swing = self.largest_swing.max(u16::from(sown.gain));
        let leader = lead.signum() as i8;
        if leader != 0 {
            self.lead_changes += u16::from(leader == -self.leader);
            self.leader = leader;
        }
    }

    /// The figures of a seat in the order of the game's sheet.
    pub(crate) fn figures(&self, seat: usize, lead: i32, into: &mut Vec<f64>) {
        let tally = &self.seats[seat];
        into.extend([
            f64::from(tally.captures),
            f64::from(tally.again),
            f64::from(tally.options) / f64::from(tally.decisions),
            f64::from(self.plies),
            f64::from(self.lead_changes),
            f64::from(self.largest_swing),
            f64::from(lead.abs()),
        ]);
    }
}
