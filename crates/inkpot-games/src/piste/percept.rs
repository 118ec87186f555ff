//! A fencer's perception: late, blurred, sometimes absent.

use inkpot_core::Chance;

use super::fighter::Phase;
use super::game::View;

/// The longest delay that can be remembered, in ticks.
pub(crate) const LONGEST_DELAY: usize = 63;
/// Eyes settle anew every this many ticks: blur and delay change only then.
const FIXATION: u32 = 6;
/// The share of a fixation's blur that stays in the next.
const BLUR_KEPT: f64 = 0.6;

/// The quality of a fencer's perception.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Senses {
    /// Mean delay (ticks).
    pub(crate) delay: f64,
    /// Standard deviation of the delay from fixation to fixation (ticks).
    pub(crate) delay_sd: f64,
    /// Standard deviation of perceived distance (m).
    pub(crate) blur_m: f64,
    /// Chance that attention lapses at a tick.
    pub(crate) lapse: f64,
    /// Length of a lapse (ticks).
    pub(crate) lapse_ticks: u32,
}

/// The other fencer as seen some ticks ago.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Glimpse {
    pub(crate) gap_m: f64,
    pub(crate) other_speed: f64,
    pub(crate) other_phase: Phase,
}

/// A memory of the last ticks, read with delay and blur.
pub(crate) struct Eyes {
    senses: Senses,
    memory: [Glimpse; LONGEST_DELAY + 1],
    now: usize,
    seen: usize,
    phrase: u32,
    blur: f64,
    delay: usize,
    fixation_left: u32,
    lapse_left: u32,
}

impl Eyes {
    pub(crate) fn new(senses: Senses) -> Self {
        Self {
            senses,
            memory: [Glimpse::default(); LONGEST_DELAY + 1],
            now: 0,
            seen: 0,
            phrase: 0,
            blur: 0.0,
            delay: 0,
            fixation_left: 0,
            lapse_left: 0,
        }
    }

    /// The delay that somebody expects of their own eyes (ticks).
    pub(crate) fn delay_ticks(&self) -> f64 {
        self.senses.delay
    }

    /// Takes in a view; returns the perception at this tick, or nothing while attention lapses.
    #[inline]
    pub(crate) fn look(&mut self, view: &View, chance: &mut Chance) -> Option<Glimpse> {
        let glimpse = Glimpse { gap_m: view.gap_m, other_speed: view.other_speed, other_phase: view.other_phase };
        self.now += 1;
        if view.phrase != self.phrase {
            // Everybody hears the call to the start lines, and knows where those are.
            self.phrase = view.phrase;
            self.memory.fill(glimpse);
            self.seen = self.now;
        }
        self.memory[self.now & LONGEST_DELAY] = glimpse;
        self.settle(chance);
        if self.lapsing(chance) {
            return None;
        }
        // A longer delay slows what is seen down; it never runs backwards.
        self.seen = self.seen.max(self.now.saturating_sub(self.delay));
        let mut glimpse = self.memory[self.seen & LONGEST_DELAY];
        glimpse.gap_m += self.blur;
        Some(glimpse)
    }

    fn settle(&mut self, chance: &mut Chance) {
        if self.fixation_left > 0 {
            self.fixation_left -= 1;
            return;
        }
        self.fixation_left = FIXATION - 1;
        let fresh = (1.0 - BLUR_KEPT * BLUR_KEPT).sqrt();
        self.blur = BLUR_KEPT * self.blur + fresh * self.senses.blur_m * chance.normal();
        let delay = self.senses.delay + self.senses.delay_sd * chance.normal();
        self.delay = delay.round().clamp(0.0, LONGEST_DELAY as f64) as usize;
    }

    fn lapsing(&mut self, chance: &mut Chance) -> bool {
        if self.lapse_left > 0 {
            self.lapse_left -= 1;
            return true;
        }
        if self.senses.lapse > 0.0 && chance.happens(self.senses.lapse) {
            self.lapse_left = self.senses.lapse_ticks;
            return true;
        }
        false
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sharp_eyes_see_the_gap_of_delay_ticks_ago() {
        let mut eyes = Eyes::new(Senses { delay: 5.0, ..Senses::default() });
        let mut chance = Chance::from_seed(1);
        for tick in 0..100 {
            let view = View { gap_m: f64::from(tick), phrase: 1, ..View::default() };
            let glimpse = eyes.look(&view, &mut chance).expect("no lapses");
            assert_eq!(glimpse.gap_m, f64::from((tick - 5).max(0)));
        }
    }

    #[test]
    fn a_new_phrase_is_seen_at_once() {
        let mut eyes = Eyes::new(Senses { delay: 30.0, ..Senses::default() });
        let mut chance = Chance::from_seed(1);
        for phrase in 1..4 {
            for _ in 0..40 {
                let view = View { gap_m: f64::from(phrase), phrase, ..View::default() };
                assert_eq!(eyes.look(&view, &mut chance).map(|glimpse| glimpse.gap_m), Some(f64::from(phrase)));
            }
        }
    }

    #[test]
    fn blur_has_the_standard_deviation_asked_for() {
        let mut eyes = Eyes::new(Senses { blur_m: 0.3, ..Senses::default() });
        let mut chance = Chance::from_seed(5);
        let n = 60_000;
        let square: f64 = (0..n)
            .map(|_| {
                eyes.look(&View { phrase: 1, ..View::default() }, &mut chance)
                    .map_or(0.0, |glimpse| glimpse.gap_m.powi(2))
            })
            .sum::<f64>()
            / f64::from(n);
        assert!((square.sqrt() - 0.3).abs() < 0.015, "sd {}", square.sqrt());
    }
}
