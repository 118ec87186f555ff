//! Decision times: counts in narrow classes, from which percentiles of any number of times follow.

/// Classes an octave: a class is 9 % wide.
const AN_OCTAVE: f64 = 8.0;
/// The first class begins at 2^-4 microseconds, the last ends at 2^28 (268 s).
const FIRST: f64 = -4.0;
const CLASSES: usize = 256;

/// Times of decisions in microseconds, counted in logarithmic classes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DecisionTimes {
    counts: [u32; CLASSES],
}

impl Default for DecisionTimes {
    fn default() -> Self {
        Self { counts: [0; CLASSES] }
    }
}

impl DecisionTimes {
    /// Counts one decision that took this many microseconds.
    pub fn add(&mut self, us: f64) {
        let class = ((us.max(f64::MIN_POSITIVE).log2() - FIRST) * AN_OCTAVE).clamp(0.0, CLASSES as f64 - 1.0);
        self.counts[class as usize] += 1;
    }

    /// Decisions counted.
    pub fn count(&self) -> u64 {
        self.counts.iter().map(|&count| u64::from(count)).sum()
    }

    /// The time in microseconds that a share `p` of the decisions stays within, good to the width of a class; none
    /// without decisions.
    pub fn quantile(&self, p: f64) -> Option<f64> {
        let total = self.count();
        let rank = (p * total as f64).ceil().max(1.0) as u64;
        let mut seen = 0;
        let class = self.counts.iter().position(|&count| {
            seen += u64::from(count);
            total > 0 && seen >= rank
        })?;
        Some(((class as f64 + 0.5) / AN_OCTAVE + FIRST).exp2())
    }

    /// The counts as bytes: a class and its count (four bytes, low first) for each that is not empty.
    pub fn to_bytes(&self) -> Vec<u8> {
        let filled = self.counts.iter().enumerate().filter(|(_, count)| **count > 0);
        filled.flat_map(|(class, count)| std::iter::once(class as u8).chain(count.to_le_bytes())).collect()
    }

    /// Adds times written by `to_bytes`; bytes beyond whole classes are ignored.
    pub fn absorb(&mut self, bytes: &[u8]) {
        for class in bytes.chunks_exact(5) {
            let count = u32::from_le_bytes([class[1], class[2], class[3], class[4]]);
            let slot = &mut self.counts[usize::from(class[0])];
            *slot = slot.saturating_add(count);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn quantiles_are_good_to_the_width_of_a_class() {
        let mut times = DecisionTimes::default();
        for us in 1..=1000 {
            times.add(f64::from(us));
        }
        for (p, expected) in [(0.5, 500.0), (0.95, 950.0), (0.99, 990.0)] {
            let got: f64 = times.quantile(p).unwrap();
            assert!((got / expected - 1.0).abs() < 0.09, "{p}: {got}");
        }
        assert_eq!(DecisionTimes::default().quantile(0.5), None);
    }

    #[test]
    fn bytes_carry_the_counts_and_extremes_stay_in_range() {
        let mut times = DecisionTimes::default();
        for us in [0.0, -1.0, 1e300, f64::NAN, 3.5] {
            times.add(us);
        }
        let mut twice = times.clone();
        twice.absorb(&times.to_bytes());
        assert_eq!((times.count(), twice.count()), (5, 10));
        assert_eq!(twice.quantile(0.5), times.quantile(0.5));
    }
}
