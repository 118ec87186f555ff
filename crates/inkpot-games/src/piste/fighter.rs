//! One fencer's body: feet, blade, and the clock of the blade.

use serde::Serialize;

use super::rules::{
    BUSY_SHARE, GUARD, GUARD_RECOVERY, PARRIED_RECOVERY, PisteRules, RECOVERY, SPEED_STEP, THRUST, TICK_S,
};

/// The phase of the blade.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Phase {
    /// Free: may lunge or parry.
    #[default]
    Free,
    /// Winding up for a thrust; the other sees it.
    WindUp,
    /// The point is out.
    Thrust,
    /// Coming back from a thrust.
    Recovery,
    /// On guard: a thrust that meets it is parried.
    Guard,
    /// Coming back from a guard.
    GuardRecovery,
}

/// One fencer; positions grow in the fencer's own forward direction, from the own end of the strip.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Fighter {
    /// Metres from the own end of the strip.
    pub(crate) place_m: f64,
    /// Forward speed (m/s).
    pub(crate) speed: f64,
    pub(crate) phase: Phase,
    /// Ticks left of the phase.
    pub(crate) left: u16,
    /// Whether this thrust has met a body or a guard.
    pub(crate) spent: bool,
    /// Ticks since the own guard last met a thrust; `u16::MAX` if it did not since the start.
    pub(crate) since_parry: u16,
}

impl Fighter {
    pub(crate) fn at_start(place_m: f64) -> Self {
        Self { place_m, since_parry: u16::MAX, ..Self::default() }
    }

    /// Moves the feet by one tick of `throttle` (-1 to 1).
    #[inline]
    pub(crate) fn walk(&mut self, throttle: f64, rules: &PisteRules) {
        let share = if self.phase == Phase::Free { 1.0 } else { BUSY_SHARE };
        let wanted = throttle * rules.top_speed * share;
        self.speed += (wanted - self.speed).clamp(-SPEED_STEP, SPEED_STEP);
        self.place_m += self.speed * TICK_S;
    }

    /// Starts a phase of this many ticks.
    pub(crate) fn enter(&mut self, phase: Phase, ticks: u16) {
        self.phase = phase;
        self.left = ticks;
        self.spent = false;
    }

    /// Lets a tick pass for the blade. Runs before orders, so a phase of n ticks is seen for n ticks.
    #[inline]
    pub(crate) fn pass(&mut self) {
        self.since_parry = self.since_parry.saturating_add(1);
        if self.phase == Phase::Free {
            return;
        }
        self.left = self.left.saturating_sub(1);
        if self.left > 0 {
            return;
        }
        match self.phase {
            Phase::WindUp => self.enter(Phase::Thrust, THRUST),
            Phase::Thrust => self.enter(Phase::Recovery, RECOVERY),
            Phase::Guard => self.enter(Phase::GuardRecovery, GUARD_RECOVERY),
            Phase::Free | Phase::Recovery | Phase::GuardRecovery => self.enter(Phase::Free, 0),
        }
    }

    /// The thrust met a guard: a long way back.
    pub(crate) fn be_parried(&mut self) {
        self.enter(Phase::Recovery, PARRIED_RECOVERY);
    }

    /// The guard met a thrust: it closes at once, so that there is time to riposte.
    pub(crate) fn have_parried(&mut self) {
        self.enter(Phase::GuardRecovery, GUARD_RECOVERY);
        self.since_parry = 0;
    }

    pub(crate) fn guard(&mut self) {
        self.enter(Phase::Guard, GUARD);
    }

    pub(crate) fn lunge(&mut self, rules: &PisteRules) {
        if rules.wind_up == 0 {
            self.enter(Phase::Thrust, THRUST);
        } else {
            self.enter(Phase::WindUp, rules.wind_up);
        }
    }
}
