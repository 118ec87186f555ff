//! Points and lines in the plane, in metres; x points east and y north.

/// A point, or a way from one to another.
pub(crate) type Point = [f64; 2];

/// A straight piece of shore.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Line {
    pub(crate) from: Point,
    pub(crate) to: Point,
}

#[inline]
pub(crate) fn plus(a: Point, b: Point) -> Point {
    [a[0] + b[0], a[1] + b[1]]
}

#[inline]
pub(crate) fn minus(a: Point, b: Point) -> Point {
    [a[0] - b[0], a[1] - b[1]]
}

#[inline]
pub(crate) fn times(a: Point, by: f64) -> Point {
    [a[0] * by, a[1] * by]
}

#[inline]
pub(crate) fn dot(a: Point, b: Point) -> f64 {
    a[0] * b[0] + a[1] * b[1]
}

/// Positive where `b` lies to the left of `a`.
#[inline]
pub(crate) fn cross(a: Point, b: Point) -> f64 {
    a[0] * b[1] - a[1] * b[0]
}

#[inline]
pub(crate) fn length(a: Point) -> f64 {
    dot(a, a).sqrt()
}

#[inline]
pub(crate) fn distance(a: Point, b: Point) -> f64 {
    length(minus(a, b))
}

/// The unit vector of a compass course in degrees: 0 north, 90 east.
pub(crate) fn course(degrees: f64) -> Point {
    let (sin, cos) = libm::sincos(degrees.to_radians());
    [sin, cos]
}

impl Line {
    /// Whether the way from `a` to `b` meets it; touching counts.
    #[inline]
    pub(crate) fn meets(&self, a: Point, b: Point) -> bool {
        let (edge, way) = (minus(self.to, self.from), minus(b, a));
        let side = |of: Point, from: Point, to: Point| cross(of, minus(to, from));
        side(edge, self.from, a) * side(edge, self.from, b) <= 0.0
            && side(way, a, self.from) * side(way, a, self.to) <= 0.0
    }

    /// Distance from a point.
    pub(crate) fn distance(&self, to: Point) -> f64 {
        let edge = minus(self.to, self.from);
        let along = dot(minus(to, self.from), edge) / dot(edge, edge).max(f64::MIN_POSITIVE);
        distance(to, plus(self.from, times(edge, along.clamp(0.0, 1.0))))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_meet_where_they_cross_or_touch() {
        let line = Line { from: [0.0, 0.0], to: [10.0, 0.0] };
        for (a, b, meets) in [
            ([5.0, -1.0], [5.0, 1.0], true),
            ([5.0, 0.0], [5.0, 1.0], true),
            ([11.0, -1.0], [11.0, 1.0], false),
            ([5.0, 0.1], [5.0, 1.0], false),
            ([-1.0, 1.0], [11.0, 0.2], false),
        ] {
            assert_eq!(line.meets(a, b), meets, "{a:?} to {b:?}");
        }
    }

    #[test]
    fn the_distance_to_a_line_is_that_to_its_nearest_point() {
        let line = Line { from: [0.0, 0.0], to: [10.0, 0.0] };
        assert_eq!(line.distance([5.0, 3.0]), 3.0);
        assert_eq!(line.distance([13.0, 4.0]), 5.0);
    }

    #[test]
    fn a_course_is_read_off_the_compass() {
        for (degrees, way) in [(0.0, [0.0, 1.0]), (90.0, [1.0, 0.0]), (180.0, [0.0, -1.0])] {
            assert!(distance(course(degrees), way) < 1e-12, "{degrees}");
        }
    }
}
