//! A chart: where the shores and the marks are, before anything is computed from it.

use super::geometry::{Line, Point};

/// The contents of a level.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Chart {
    /// The middle of the starting line.
    pub(crate) start: Point,
    /// The course on which they lie there, in degrees of the compass.
    pub(crate) heading: f64,
    /// The wind's direction before shifts, in degrees of the compass.
    pub(crate) wind_from: f64,
    /// Shores, corner by corner; one that ends where it began is an island.
    pub(crate) shores: Vec<Vec<Point>>,
    /// The marks in the order in which they are rounded.
    pub(crate) marks: Vec<Point>,
    /// A boat this near (m) has rounded a mark.
    pub(crate) radius_m: f64,
}

impl Chart {
    /// Open water: a start, marks, and no shore.
    pub(crate) fn open(start: Point, heading: f64, marks: &[Point]) -> Self {
        Self { start, heading, wind_from: 0.0, shores: Vec::new(), marks: marks.to_vec(), radius_m: 6.0 }
    }

    /// With one more shore.
    pub(crate) fn shore(mut self, corners: &[Point]) -> Self {
        self.shores.push(corners.to_vec());
        self
    }

    /// All straight pieces of shore.
    pub(crate) fn lines(&self) -> Vec<Line> {
        let pieces = self.shores.iter().flat_map(|corners| corners.windows(2));
        pieces.map(|pair| Line { from: pair[0], to: pair[1] }).collect()
    }
}
