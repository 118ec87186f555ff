//! Counts for the measures of a boat.

use super::rules::TICK_S;

/// Counts of one boat.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Tally {
    ticks: u32,
    irons: u32,
    pub(crate) groundings: u32,
    tacks: u32,
    pub(crate) sailed_m: f64,
    /// Whether the wind last came over the port side.
    port: Option<bool>,
}

impl Tally {
    /// Counts a tick: whether the boat makes no way against the wind, whether it points upwind at all, and whether the
    /// wind comes over its port side.
    #[inline]
    pub(crate) fn tick(&mut self, irons: bool, upwind: bool, port: bool) {
        self.ticks += 1;
        self.irons += u32::from(irons);
        self.tacks += u32::from(upwind && self.port.is_some_and(|before| before != port));
        self.port = Some(port);
    }

    pub(crate) fn tacks(&self) -> f64 {
        f64::from(self.tacks)
    }

    /// Share of its time in irons; none before the first tick.
    pub(crate) fn irons_share(&self) -> f64 {
        f64::from(self.irons) / f64::from(self.ticks)
    }

    /// Its time on the water (s).
    pub(crate) fn time_s(&self) -> f64 {
        f64::from(self.ticks) * TICK_S
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_tack_is_the_bow_through_the_wind_and_a_gybe_is_none() {
        let mut tally = Tally::default();
        for (upwind, port) in [(true, true), (true, true), (true, false), (false, true), (true, true)] {
            tally.tick(false, upwind, port);
        }
        assert_eq!(tally.tacks(), 1.0);
    }
}
