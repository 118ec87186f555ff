//! What is counted during a match of piste, for its measures.

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
    last_score: u32,
    lull: u32,
    lead_changes: u32,
    leader: i32,
    deepest: [i32; 2],
}

impl Tally {
    /// Counts a tick.
    #[inline]
    pub(crate) fn tick(&mut self) {
        self.ticks += 1;
        self.lull = self.lull.max(self.ticks - self.last_score);
    }

    /// Counts a change of score; `lead` is seat 0's touches minus seat 1's.
    pub(crate) fn scored(&mut self, lead: i32) {
        self.last_score = self.ticks;
        if lead.signum() != 0 {
            if self.leader != 0 && lead.signum() != self.leader {
                self.lead_changes += 1;
            }
            self.leader = lead.signum();
        }
        self.deepest[0] = self.deepest[0].max(-lead);
        self.deepest[1] = self.deepest[1].max(lead);
    }

    /// The figures of a seat in the order of the sheet; `lead` as in `scored`, at this tick.
    pub(crate) fn figures(&self, seat: usize, lead: i32, into: &mut Vec<f64>) {
        let ticks = f64::from(self.ticks);
        let own = &self.seats[seat];
        let share = |part: u32, whole: u32| f64::from(part) / f64::from(whole);
        let comeback = match lead.signum() {
            1 => self.deepest[0],
            -1 => self.deepest[1],
            _ => self.deepest[0].max(self.deepest[1]),
        };
        into.extend([
            f64::from(own.lunges),
            share(own.landed, own.lunges),
            f64::from(own.parries),
            share(own.parried, own.parries),
            own.run_m,
            f64::from(own.reversals) * TICKS_PER_SECOND / ticks,
            f64::from(own.idle) / ticks,
            own.gap_sum / ticks,
            ticks * TICK_S,
            f64::from(self.doubles),
            f64::from(self.lead_changes),
            f64::from(self.lull) * TICK_S,
            f64::from(lead.abs()),
            f64::from(comeback),
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

    #[test]
    fn comeback_is_the_winners_deepest_deficit_and_lulls_run_to_the_end() {
        let mut tally = Tally::default();
        for (ticks, lead) in [(60, -1), (60, -2), (60, -1), (60, 0), (60, 1)] {
            (0..ticks).for_each(|_| tally.tick());
            tally.scored(lead);
        }
        (0..120).for_each(|_| tally.tick());
        let mut figures = Vec::new();
        tally.figures(0, 1, &mut figures);
        let tail = &figures[8..];
        assert_eq!(tail, [7.0, 0.0, 1.0, 2.0, 1.0, 2.0]); // length, doubles, lead changes, lull, margin, comeback
    }
}
