//! Axes: round ticks over a range, and where a value stands.

/// A range of values laid over a range of pixels.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Axis {
    low: f64,
    high: f64,
    from: f64,
    to: f64,
    step: Option<f64>,
}

impl Axis {
    /// Values `low` to `high` from pixel `from` to pixel `to`; an empty range is widened.
    pub(crate) fn new((low, high): (f64, f64), (from, to): (f64, f64)) -> Self {
        let (low, high) = if high > low { (low, high) } else { (low - 0.5, low + 0.5) };
        Self { low, high, from, to, step: None }
    }

    /// The same, with the range opened to round ticks.
    pub(crate) fn round(range: (f64, f64), pixels: (f64, f64), about: usize) -> Self {
        let plain = Self::new(range, pixels);
        let step = plain.step(about);
        Self {
            low: (plain.low / step + 1e-9).floor() * step,
            high: (plain.high / step - 1e-9).ceil() * step,
            step: Some(step),
            ..plain
        }
    }

    /// Pixel of a value, kept within the axis.
    pub(crate) fn at(&self, x: f64) -> f64 {
        let part = ((x - self.low) / (self.high - self.low)).clamp(0.0, 1.0);
        self.from + part * (self.to - self.from)
    }

    /// About this many round values within the range (of a rounded axis: its own), with their labels.
    pub(crate) fn ticks(&self, about: usize) -> Vec<(f64, String)> {
        let step = self.step.unwrap_or_else(|| self.step(about));
        let places = (-step.log10().floor()).max(0.0) as usize;
        let first = (self.low / step - 1e-9).ceil() as i64;
        let last = (self.high / step + 1e-9).floor() as i64;
        (first..=last).map(|i| i as f64 * step).map(|x| (x, format!("{x:.places$}").replace("-0.0", "0.0"))).collect()
    }

    /// 1, 2 or 5 times a power of ten.
    fn step(&self, about: usize) -> f64 {
        let raw = (self.high - self.low) / about.max(1) as f64;
        let power = 10f64.powf(raw.log10().floor());
        let lead = [1.0, 2.0, 5.0, 10.0].into_iter().find(|lead| raw <= lead * power * 1.001).unwrap_or(10.0);
        lead * power
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ticks_are_round_and_inside() {
        let labels = |low, high, about| -> Vec<String> {
            Axis::new((low, high), (0.0, 1.0)).ticks(about).into_iter().map(|(_, label)| label).collect()
        };
        assert_eq!(labels(0.0, 1.0, 5), ["0.0", "0.2", "0.4", "0.6", "0.8", "1.0"]);
        assert_eq!(labels(8.0, 20.0, 6), ["8", "10", "12", "14", "16", "18", "20"]);
        assert_eq!(labels(0.013, 0.041, 3), ["0.02", "0.03", "0.04"]);
    }

    #[test]
    fn an_empty_range_still_has_a_place() {
        assert_eq!(Axis::new((3.0, 3.0), (0.0, 10.0)).at(3.0), 5.0);
    }
}
