//! Counts for the measures of a match of piste.

use super::rules::{TICK_S, TICKS_PER_SECOND};

/// Counts of one seat.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct SeatTally {
    pub(crate) lunges: u32,
    pub(crate) landed: u32,
    pub(crate) parries: u32,
    pub(crate) parried: u32,
    run_m: f64,
    reversals: u32,
    idle: u32,
    gap_sum: f64,
    heading: f64,
}

/// Speeds below this (m/s) have no direction: standing still is no reversal.
const STILL: f64 = 0.05;

impl SeatTally {
    /// Counts a tick of a seat's feet.
    #[inline]
    pub(crate) fn tick(&mut self, speed: f64, blade_free: bool, gap_m: f64) {
        self.run_m += speed.abs() * TICK_S;
        self.gap_sum += gap_m;
        if speed.abs() > STILL {
            if speed * self.heading < 0.0 {
                self.reversals += 1;
            }
            self.heading = speed.signum();
        } else if blade_free {
            self.idle += 1;
        }
    }
}

/// Counts of a match.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Tally {
    pub(crate) seats: [SeatTally; 2],
    pub(crate) doubles: u32,
    ticks: u32,
}

impl Tally {
    /// Counts a tick.
    #[inline]
    pub(crate) fn tick(&mut self) {
        self.ticks += 1;
    }

    /// The figures of a seat in the order of the sheet; `lead` is seat 0's touches minus seat 1's, at this tick.
    pub(crate) fn figures(&self, seat: usize, lead: i32, into: &mut Vec<f64>) {
        let ticks = f64::from(self.ticks);
        let tally = &self.seats[seat];
        let share = |part: u32, whole: u32| f64::from(part) / f64::from(whole);
        into.extend([
            f64::from(tally.lunges),
            share(tally.landed, tally.lunges),
            f64::from(tally.parries),
            share(tally.parried, tally.parries),
            tally.run_m,
            f64::from(tally.reversals) * TICKS_PER_SECOND / ticks,
            f64::from(tally.idle) / ticks,
            tally.gap_sum / ticks,
            ticks * TICK_S,
            f64::from(self.doubles),
            f64::from(lead.abs()),
        ]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn standing_still_is_idle_and_no_reversal() {
        let mut seat = SeatTally::default();
        for speed in [1.0, 0.0, 0.01, 1.0, -1.0, 0.0, 1.0] {
            seat.tick(speed, true, 2.0);
        }
        assert_eq!((seat.reversals, seat.idle), (2, 3));
    }
}
