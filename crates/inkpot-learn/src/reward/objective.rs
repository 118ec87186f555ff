//! Objectives of a policy's updates: the clipped objective of PPO with its gradient, and the error of the value
//! estimate.

use super::policy::{Actions, HALF_LN_TWO_PI, log_chances, log_density};

/// Share of the variance of the targets that the values explain; none where they do not vary.
pub(super) fn explained(targets: &[f32], values: &[f32]) -> Option<f64> {
    let variance = |row: &mut dyn Iterator<Item = f64>| {
        let all: Vec<f64> = row.collect();
        let mean = all.iter().sum::<f64>() / all.len() as f64;
        all.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / all.len() as f64
    };
    let whole = variance(&mut targets.iter().map(|x| f64::from(*x)));
    let left = variance(&mut targets.iter().zip(values).map(|(a, b)| f64::from(a - b)));
    (whole > 1e-12).then(|| 1.0 - left / whole)
}

/// All samples of an update.
pub(super) struct Samples<'a> {
    pub(super) inputs: usize,
    pub(super) width: usize,
    pub(super) observed: &'a [f32],
    pub(super) decided: &'a [f32],
    pub(super) likely: &'a [f32],
    pub(super) gains: &'a [f32],
    pub(super) targets: &'a [f32],
}

/// Those of one step along the gradient.
#[derive(Default)]
pub(super) struct Drawn {
    pub(super) observed: Vec<f32>,
    pub(super) decided: Vec<f32>,
    pub(super) likely: Vec<f32>,
    /// On a common scale.
    pub(super) gains: Vec<f32>,
    pub(super) targets: Vec<f32>,
}

impl Drawn {
    pub(super) fn gather(&mut self, all: &Samples, batch: &[usize]) {
        let rows = |from: &[f32], width: usize, into: &mut Vec<f32>| {
            into.clear();
            for &index in batch {
                into.extend_from_slice(&from[index * width..(index + 1) * width]);
            }
        };
        rows(all.observed, all.inputs, &mut self.observed);
        rows(all.decided, all.width, &mut self.decided);
        rows(all.likely, 1, &mut self.likely);
        rows(all.gains, 1, &mut self.gains);
        rows(all.targets, 1, &mut self.targets);
        let count = self.gains.len() as f32;
        let mean = self.gains.iter().sum::<f32>() / count;
        let square = self.gains.iter().map(|x| (x - mean) * (x - mean)).sum::<f32>() / count;
        let factor = 1.0 / (square.sqrt() + 1e-8);
        self.gains.iter_mut().for_each(|x| *x = (*x - mean) * factor);
    }
}

/// Sums over the samples of an epoch.
#[derive(Default)]
pub(super) struct Sums {
    pub(super) entropy: f64,
    pub(super) moved: f64,
    pub(super) loss: f64,
}

/// Gradients of the loss by the networks' outputs.
#[derive(Default)]
pub(super) struct Slopes {
    pub(super) given: Vec<f32>,
}

impl Slopes {
    /// Computes the gradient of the clipped objective with entropy; `clip` limits the change of likelihoods, the last
    /// number weighs the entropy.
    #[expect(clippy::too_many_arguments, reason = "the parts of one formula")]
    pub(super) fn of_actor(
        &mut self,
        actions: Actions,
        given: &[f32],
        log_sd: &[f32],
        drawn: &Drawn,
        (clip, entropy_weight): (f32, f32),
        by_sd: &mut [f32],
        sums: &mut Sums,
    ) {
        let (outputs, width) = (actions.outputs(), actions.width());
        let share = 1.0 / drawn.gains.len() as f32;
        self.given.clear();
        for (sample, row) in given.chunks_exact(outputs).enumerate() {
            let decided = &drawn.decided[sample * width..(sample + 1) * width];
            let (gain, was) = (drawn.gains[sample], drawn.likely[sample]);
            let logs = if actions.options() > 0 { log_chances(row) } else { Vec::new() };
            let now = if actions.options() > 0 { logs[decided[0] as usize] } else { log_density(row, log_sd, decided) };
            let ratio = libm::expf(now - was);
            let clipped = if gain >= 0.0 { ratio > 1.0 + clip } else { ratio < 1.0 - clip };
            // The slope of the loss by the logarithm of the likelihood.
            let by_log = if clipped { 0.0 } else { -gain * ratio * share };
            sums.moved += f64::from(ratio - 1.0 - (now - was));
            if actions.options() > 0 {
                let entropy = -logs.iter().map(|log| libm::expf(*log) * log).sum::<f32>();
                sums.entropy += f64::from(entropy);
                self.given.extend(logs.iter().enumerate().map(|(option, log)| {
                    let chance = libm::expf(*log);
                    let taken = if option == decided[0] as usize { 1.0 } else { 0.0 };
                    by_log * (taken - chance) + entropy_weight * share * chance * (log + entropy)
                }));
            } else {
                for (value, ((mean, log), decided)) in row.iter().zip(log_sd).zip(decided).enumerate() {
                    let narrow = libm::expf(-log);
                    let off = (decided - mean) * narrow;
                    self.given.push(by_log * off * narrow);
                    by_sd[value] += by_log * (off * off - 1.0) - entropy_weight * share;
                    sums.entropy += f64::from(log + 0.5 + HALF_LN_TWO_PI);
                }
            }
        }
    }

    /// Computes the gradient of half the mean squared error of the values.
    pub(super) fn of_critic(&mut self, values: &[f32], targets: &[f32], sums: &mut Sums) {
        let share = 1.0 / targets.len() as f32;
        self.given.clear();
        self.given.extend(values.iter().zip(targets).map(|(value, target)| {
            let off = value - target;
            sums.loss += f64::from(0.5 * off * off);
            off * share
        }));
    }
}

#[cfg(test)]
mod tests {
    use inkpot_core::Chance;

    use super::*;

    /// The loss of an actor over its samples, written down once more in double precision.
    fn loss(actions: Actions, given: &[f64], log_sd: &[f64], drawn: &Drawn, clip: f64, weight: f64) -> f64 {
        let (outputs, width) = (actions.outputs(), actions.width());
        let samples = given.chunks(outputs).enumerate().map(|(sample, row)| {
            let decided = &drawn.decided[sample * width..(sample + 1) * width];
            let (log, entropy) = if actions.options() > 0 {
                let sum: f64 = row.iter().map(|x| x.exp()).sum();
                let logs: Vec<f64> = row.iter().map(|x| x - sum.ln()).collect();
                (logs[decided[0] as usize], -logs.iter().map(|x| x.exp() * x).sum::<f64>())
            } else {
                let of = |((mean, log), x): ((&f64, &f64), &f32)| {
                    let off = (f64::from(*x) - mean) / log.exp();
                    -0.5 * off * off - log - 0.5 * std::f64::consts::TAU.ln()
                };
                let each = log_sd.iter().map(|log| log + 0.5 + 0.5 * std::f64::consts::TAU.ln());
                (row.iter().zip(log_sd).zip(decided).map(of).sum(), each.sum())
            };
            let (gain, ratio) = (f64::from(drawn.gains[sample]), (log - f64::from(drawn.likely[sample])).exp());
            -(ratio * gain).min(ratio.clamp(1.0 - clip, 1.0 + clip) * gain) - weight * entropy
        });
        samples.sum::<f64>() / drawn.gains.len() as f64
    }

    #[test]
    fn the_slopes_of_the_objective_agree_with_finite_differences() {
        for actions in [Actions::Options(3), Actions::Values(2)] {
            let mut chance = Chance::from_seed(11);
            let samples = 40;
            let log_sd = vec![-0.4_f32; actions.outputs() - actions.options()];
            let outputs: Vec<f32> = (0..samples * actions.outputs()).map(|_| chance.normal() as f32).collect();
            let mut drawn = Drawn::default();
            for row in outputs.chunks(actions.outputs()) {
                let likely = actions.draw(row, &log_sd, &mut chance, &mut drawn.decided);
                drawn.likely.push(likely + (0.3 * chance.normal()) as f32);
                drawn.gains.push(chance.normal() as f32);
            }
            let (mut slopes, mut by_sd) = (Slopes::default(), vec![0.0; log_sd.len()]);
            slopes.of_actor(actions, &outputs, &log_sd, &drawn, (0.2, 0.05), &mut by_sd, &mut Sums::default());
            let wide = |row: &[f32]| row.iter().map(|x| f64::from(*x)).collect::<Vec<_>>();
            let (outputs, log_sd) = (wide(&outputs), wide(&log_sd));
            let moved = |row: &[f64], place: usize, by: f64| {
                let mut row = row.to_vec();
                row[place] += by;
                row
            };
            let step = 1e-5;
            for place in 0..outputs.len() {
                let at = |by: f64| loss(actions, &moved(&outputs, place, by), &log_sd, &drawn, 0.2, 0.05);
                let difference = (at(step) - at(-step)) / (2.0 * step);
                assert!((f64::from(slopes.given[place]) - difference).abs() < 1e-4, "{actions:?} {place}");
            }
            for (place, by_sd) in by_sd.iter().enumerate() {
                let at = |by: f64| loss(actions, &outputs, &moved(&log_sd, place, by), &drawn, 0.2, 0.05);
                let difference = (at(step) - at(-step)) / (2.0 * step);
                assert!((f64::from(*by_sd) - difference).abs() < 1e-4, "{actions:?} deviation {place}");
            }
        }
    }

    #[test]
    fn a_perfect_estimate_explains_all_and_a_constant_nothing() {
        assert_eq!(explained(&[1.0, 2.0, 3.0], &[1.0, 2.0, 3.0]), Some(1.0));
        assert_eq!(explained(&[1.0, 2.0, 3.0], &[5.0; 3]), Some(0.0));
        assert_eq!(explained(&[2.0; 3], &[1.0, 2.0, 3.0]), None);
    }
}
