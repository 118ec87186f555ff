//! Repetitions of a search: each as a line, and over all the median with a band between the quartiles.

use crate::axis::Axis;
use crate::canvas::Canvas;
use crate::palette::{Rgb, tint};

/// Each repetition: cost and figure, in order.
pub(crate) struct Repetitions<'a>(pub(crate) &'a [Vec<(f64, f64)>]);

impl Repetitions<'_> {
    /// Quartiles over the repetitions.
    pub(crate) fn quartiles(&self) -> Vec<(f64, [f64; 3])> {
        quartiles(self.0)
    }

    /// Draws the band between the quartiles and every repetition, and over them the median `width` wide.
    pub(crate) fn draw(&self, canvas: &mut Canvas, x: &Axis, y: &Axis, colour: Rgb, width: f64) {
        self.draw_spread(canvas, x, y, colour);
        self.draw_median(canvas, x, y, colour, width);
    }

    /// One of the quartiles as a line.
    fn quartile(&self, x: &Axis, y: &Axis, which: usize) -> Vec<(f64, f64)> {
        self.quartiles().iter().map(|(spent, quartile)| (x.at(*spent), y.at(quartile[which]))).collect()
    }

    /// Draws the band between the quartiles and every repetition.
    pub(crate) fn draw_spread(&self, canvas: &mut Canvas, x: &Axis, y: &Axis, colour: Rgb) {
        let (mut area, high) = (self.quartile(x, y, 0), self.quartile(x, y, 2));
        if self.0.len() < 2 || area.len() < 2 {
            return;
        }
        area.extend(high.into_iter().rev());
        canvas.area(area, tint(colour, 0.18));
        for points in self.0.iter().filter(|points| points.len() > 1) {
            let points = points.iter().map(|point| (x.at(point.0), y.at(point.1))).collect();
            canvas.path(points, tint(colour, 0.45), 1.2);
        }
    }

    /// Draws the median, `width` wide.
    pub(crate) fn draw_median(&self, canvas: &mut Canvas, x: &Axis, y: &Axis, colour: Rgb, width: f64) {
        match self.quartile(x, y, 1).as_slice() {
            [] => {}
            [only] => canvas.disc(*only, 4.0, colour),
            median => canvas.path(median.to_vec(), colour, width),
        }
    }
}

/// Quartiles over repetitions wherever one of them has a point: spent, low, median, high. Between two points a repetition lies on
/// the line that joins them; one that has ended keeps its last value.
pub fn quartiles(repetitions: &[Vec<(f64, f64)>]) -> Vec<(f64, [f64; 3])> {
    let begun = repetitions.iter().filter_map(|points| points.first()).map(|point| point.0);
    let first = begun.fold(f64::NEG_INFINITY, f64::max);
    let mut places: Vec<f64> = repetitions.iter().flatten().map(|point| point.0).collect();
    places.sort_by(f64::total_cmp);
    places.dedup();
    let at = |place: f64| {
        let mut values: Vec<f64> = repetitions.iter().filter_map(|points| on_the_way(points, place)).collect();
        values.sort_by(f64::total_cmp);
        [0.25, 0.5, 0.75].map(|share| quantile(&values, share))
    };
    places.into_iter().filter(|place| *place >= first).map(|place| (place, at(place))).collect()
}

/// The figure of a repetition when this was spent; none before its first point.
fn on_the_way(points: &[(f64, f64)], place: f64) -> Option<f64> {
    let after = points.partition_point(|point| point.0 <= place);
    let before = points.get(after.checked_sub(1)?)?;
    Some(match points.get(after) {
        Some(next) => before.1 + (next.1 - before.1) * (place - before.0) / (next.0 - before.0),
        None => before.1,
    })
}

/// A quantile of sorted values, between two of them where it lies there.
fn quantile(sorted: &[f64], share: f64) -> f64 {
    let at = share * (sorted.len() as f64 - 1.0);
    let (below, above) = (at.floor() as usize, at.ceil() as usize);
    sorted[below] + (at - at.floor()) * (sorted[above] - sorted[below])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_repetition_that_has_ended_keeps_its_last_value() {
        let repetitions = [vec![(10.0, 0.0), (20.0, 1.0)], vec![(10.0, 0.5), (20.0, 0.5), (30.0, 0.8)]];
        let quartiles = Repetitions(&repetitions).quartiles();
        let medians: Vec<(f64, f64)> = quartiles.into_iter().map(|(spent, quartile)| (spent, quartile[1])).collect();
        assert_eq!(medians, [(10.0, 0.25), (20.0, 0.75), (30.0, 0.9)]);
    }

    #[test]
    fn points_of_one_that_lie_between_those_of_another_make_no_steps() {
        let repetitions = [vec![(0.0, 0.0), (10.0, 1.0)], vec![(0.0, 0.0), (5.0, 0.5), (10.0, 1.0)]];
        let medians = quartiles(&repetitions).into_iter().map(|(spent, [_, median, _])| (spent, median));
        assert!(medians.eq([(0.0, 0.0), (5.0, 0.5), (10.0, 1.0)]));
    }
}
