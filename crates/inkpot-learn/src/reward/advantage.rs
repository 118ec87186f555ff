//! Advantages of decisions over the value estimate.

/// The decisions of one environment, one after the other.
#[derive(Clone, Copy, Debug)]
pub struct Segment<'a> {
    /// The reward of each decision.
    pub rewards: &'a [f32],
    /// The value that was expected before each.
    pub values: &'a [f32],
    /// The value that was expected after each: 0 where the episode was over with it.
    pub after: &'a [f32],
    /// Whether the episode ended with it, over or cut short.
    pub ended: &'a [bool],
}

/// Generalised advantage estimates (Schulman et al. 2016): sums of `reward + discount x value after - value before`
/// from each decision to the end of its episode or of the segment, each a factor of `discount x trace` less than the
/// one before.
pub fn advantages(segment: &Segment, discount: f64, trace: f64, into: &mut Vec<f32>) {
    let first = into.len();
    let count = segment.rewards.len();
    into.resize(first + count, 0.0);
    let mut sum = 0.0_f64;
    for place in (0..count).rev() {
        let at_place = |row: &[f32]| f64::from(row[place]);
        let surprise = at_place(segment.rewards) + discount * at_place(segment.after) - at_place(segment.values);
        let follows = if segment.ended[place] { 0.0 } else { discount * trace * sum };
        sum = surprise + follows;
        into[first + place] = sum as f32;
    }
}

#[cfg(test)]
mod tests {
    use inkpot_core::Chance;
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn they_are_the_direct_sums(
            count in 1usize..40, seed in 0u64..1000, discount in 0.0f64..=1.0, trace in 0.0f64..=1.0,
        ) {
            let mut chance = Chance::from_seed(seed);
            let mut row = || (0..count).map(|_| chance.normal() as f32).collect::<Vec<_>>();
            let (rewards, values, after) = (row(), row(), row());
            let ended: Vec<bool> = (0..count).map(|_| chance.happens(0.2)).collect();
            let mut estimates = Vec::new();
            advantages(&Segment { rewards: &rewards, values: &values, after: &after, ended: &ended }, discount, trace, &mut estimates);
            for (from, estimate) in estimates.iter().enumerate() {
                let mut sum = 0.0;
                for place in from..count {
                    let surprise =
                        f64::from(rewards[place]) + discount * f64::from(after[place]) - f64::from(values[place]);
                    sum += (discount * trace).powi((place - from) as i32) * surprise;
                    if ended[place] {
                        break;
                    }
                }
                prop_assert!((f64::from(*estimate) - sum).abs() < 1e-4, "{estimate} {sum}");
            }
        }
    }

    /// With a trace of 1 it is the discounted return less what was expected.
    #[test]
    fn the_whole_trace_gives_the_return() {
        let segment = Segment {
            rewards: &[1.0, 2.0, 3.0],
            values: &[0.5, 0.25, 0.0],
            after: &[0.25, 0.0, 0.0],
            ended: &[false, false, true],
        };
        let mut estimates = Vec::new();
        advantages(&segment, 0.5, 1.0, &mut estimates);
        assert_eq!(estimates, [1.0 + 1.0 + 0.75 - 0.5, 2.0 + 1.5 - 0.25, 3.0]);
    }
}
