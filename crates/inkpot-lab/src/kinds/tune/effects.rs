//! Whether modifiers do anything: each is taken away, and the rung is played on the same blocks with and without it.

use inkpot_core::{GameEntry, Halt};
use inkpot_stats::{Moments, paired_difference};

use super::probe::block_figures;
use super::{Side, Tune};
use crate::stages::StageSet;

/// The effect of taking a modifier away.
#[derive(Clone, Debug, PartialEq)]
pub struct Effect {
    /// The rung.
    pub rung: String,
    /// Whose knob it changes.
    pub side: Side,
    /// The knob.
    pub knob: String,
    /// Whether any match went otherwise.
    pub any: bool,
    /// Targets whose figure clearly moved.
    pub moved: Vec<String>,
}

impl Tune {
    /// Plays every rung with and without each of its modifiers, this many blocks each, the free knobs in the middle of
    /// their ranges. A target counts as moved by its paired difference, at the confidence of the tuning and corrected
    /// for their number (Bonferroni): that of two shares, or the mean of any other figure's differences.
    pub fn effects(&self, game: &dyn GameEntry, blocks: u64) -> Vec<Effect> {
        let middle = self.point_at(&vec![0.5; self.free.len()]);
        let mut effects = Vec::new();
        for (place, rung) in self.rungs.iter().enumerate() {
            let play = |tune: &Tune| -> Vec<Vec<f64>> {
                let mut stages = StageSet::of(&tune.settings(place, &middle, game), game, &Halt::never());
                (0..blocks).map(|block| block_figures(tune, place, stages.play(block), game.sheet())).collect()
            };
            let modified = [Side::Opponent, Side::Player, Side::Rules]
                .into_iter()
                .flat_map(|side| rung.modifiers.of(side).iter().map(move |(knob, _)| (side, knob.clone())));
            let whole = if modified.clone().next().is_some() { play(self) } else { continue };
            for (side, knob) in modified {
                let mut without = self.clone();
                without.rungs[place].modifiers.of_mut(side).retain(|(name, _)| *name != knob);
                let other = play(&without);
                let confidence = 1.0 - (1.0 - self.ground.confidence) / rung.targets.len() as f64;
                let moved = rung.targets.iter().enumerate().filter(|(i, target)| {
                    let pairs = whole.iter().zip(&other).map(|(a, b)| (a[*i], b[*i]));
                    let pairs = pairs.filter(|(a, b)| a.is_finite() && b.is_finite());
                    let difference = if target.is_rate() {
                        paired_difference(pairs, confidence).map(|found| found.difference)
                    } else {
                        let mut moments = Moments::default();
                        pairs.for_each(|(a, b)| moments.push(a - b));
                        moments.interval(confidence)
                    };
                    difference.is_some_and(|interval| !interval.holds(0.0))
                });
                effects.push(Effect {
                    rung: rung.name.clone(),
                    side,
                    any: whole.iter().flatten().zip(other.iter().flatten()).any(|(a, b)| a.to_bits() != b.to_bits()),
                    moved: moved.map(|(_, target)| target.full_name()).collect(),
                    knob,
                });
            }
        }
        effects
    }
}
