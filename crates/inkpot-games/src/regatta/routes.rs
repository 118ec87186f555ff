//! Distances along the water: the shortest ways around the shores, computed once a level.
//!
//! A shortest way among obstacles of straight sides bends at their corners only (Lozano-Pérez & Wesley 1979), so it is
//! enough to know the distance from every corner to every mark (Dijkstra 1959 on the graph of corners that see each
//! other); from anywhere else the way leads straight to the mark or to a corner in sight.

use super::chart::Chart;
use super::geometry::{Line, Point, distance, length, minus, plus, times};

/// Corners are passed at this distance (m).
const BERTH_M: f64 = 0.3;

/// Ways from everywhere to the marks.
#[derive(Debug)]
pub(crate) struct Routes {
    marks: Vec<Point>,
    corners: Vec<Point>,
    /// For each mark, distance from every corner (m).
    from_corner: Vec<Vec<f64>>,
    /// For each mark, distance from it to the last one, mark by mark (m).
    after: Vec<f64>,
}

fn in_sight(shores: &[Line], a: Point, b: Point) -> bool {
    !shores.iter().any(|line| line.meets(a, b))
}

impl Routes {
    pub(crate) fn of(chart: &Chart, shores: &[Line]) -> Self {
        let corners: Vec<Point> = chart.shores.iter().flat_map(|shore| passed(shore)).collect();
        let sight = |a: Point, b: Point| if in_sight(shores, a, b) { distance(a, b) } else { f64::INFINITY };
        let between: Vec<Vec<f64>> = corners.iter().map(|&a| corners.iter().map(|&b| sight(a, b)).collect()).collect();
        let to_mark = |&mark: &Point| spread(&between, corners.iter().map(|&corner| sight(corner, mark)).collect());
        let from_corner: Vec<Vec<f64>> = chart.marks.iter().map(to_mark).collect();
        let mut routes = Self { marks: chart.marks.clone(), corners, from_corner, after: vec![0.0; chart.marks.len()] };
        for mark in (0..routes.marks.len().saturating_sub(1)).rev() {
            let leg = routes.to_mark_m(shores, routes.marks[mark], mark + 1);
            routes.after[mark] = leg + routes.after[mark + 1];
        }
        routes
    }

    /// Distance left (m) from a point to the last mark by way of this one and all after it; none once there is no
    /// next, infinite where there is no way.
    pub(crate) fn left_m(&self, shores: &[Line], at: Point, mark: usize) -> f64 {
        if mark >= self.marks.len() { 0.0 } else { self.to_mark_m(shores, at, mark) + self.after[mark] }
    }

    fn to_mark_m(&self, shores: &[Line], at: Point, mark: usize) -> f64 {
        if in_sight(shores, at, self.marks[mark]) {
            return distance(at, self.marks[mark]);
        }
        let mut least = f64::INFINITY;
        for (&corner, &rest) in self.corners.iter().zip(&self.from_corner[mark]) {
            let whole = distance(at, corner) + rest;
            if whole < least && in_sight(shores, at, corner) {
                least = whole;
            }
        }
        least
    }
}

/// The shortest distances over a graph, given those by one edge.
fn spread(between: &[Vec<f64>], direct: Vec<f64>) -> Vec<f64> {
    let mut far = direct;
    let mut open: Vec<usize> = (0..far.len()).collect();
    while let Some(place) =
        open.iter().enumerate().min_by(|a, b| far[*a.1].total_cmp(&far[*b.1])).map(|corner| corner.0)
    {
        let nearest = open.swap_remove(place);
        for &other in &open {
            far[other] = far[other].min(far[nearest] + between[nearest][other]);
        }
    }
    far
}

/// The points at which the corners of a shore are passed: a little off each, on the side where the shore bends away.
fn passed(corners: &[Point]) -> Vec<Point> {
    let last = corners.len().saturating_sub(1);
    let closed = corners.len() > 2 && corners[0] == corners[last];
    let way = |from: Point, to: Point| times(minus(to, from), 1.0 / distance(from, to).max(f64::MIN_POSITIVE));
    let off = |index: usize| {
        let before = if index > 0 { Some(corners[index - 1]) } else { closed.then(|| corners[last - 1]) };
        let after = corners.get(index + 1).copied();
        let corner = corners[index];
        let out = [before, after].into_iter().flatten().map(|other| way(other, corner)).fold([0.0; 2], plus);
        let long = length(out);
        // A corner that does not bend is passed by nobody.
        (long > 1e-6).then(|| plus(corner, times(out, BERTH_M / long)))
    };
    let count = if closed { last } else { corners.len() };
    (0..count).filter_map(off).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::regatta::water::Water;

    fn cup() -> Chart {
        let corners = [[-40.0, 70.0], [-40.0, 110.0], [40.0, 110.0], [40.0, 70.0]];
        Chart::open([0.0, 0.0], 0.0, &[[0.0, 160.0]]).shore(&corners)
    }

    #[test]
    fn the_way_around_a_shore_bends_at_its_corners() {
        let water = Water::of(&cup()).unwrap();
        let out = |x: f64, y: f64| (x * x + y * y).sqrt();
        // From the start by a lower corner, and along the side; from within the cup back out first.
        let cases = [
            ([0.0, 0.0], out(40.0, 70.0) + 40.0 + out(40.0, 50.0)),
            ([0.0, 100.0], out(40.0, 30.0) + 40.0 + out(40.0, 50.0)),
            ([60.0, 150.0], out(60.0, 10.0)),
        ];
        for (at, expected) in cases {
            let left = water.water_left_m(at, 0);
            assert!((left - expected).abs() < 2.0, "{at:?}: {left}, expected {expected}");
        }
        assert_eq!(water.straight_left_m([0.0, 100.0], 0), 60.0);
        assert_eq!((water.water_left_m([0.0, 0.0], 1), water.straight_left_m([0.0, 0.0], 1)), (0.0, 0.0));
    }

    #[test]
    fn legs_from_mark_to_mark_add_up() {
        let mut chart = cup();
        chart.marks = vec![[0.0, 160.0], [0.0, 90.0]];
        let water = Water::of(&chart).unwrap();
        let first = water.water_left_m([0.0, 0.0], 0);
        let (second, alone) = (water.water_left_m([0.0, 160.0], 1), water.water_left_m([0.0, 160.0], 0));
        assert!((alone - second).abs() < 1e-9);
        chart.marks.pop();
        let only = Water::of(&chart).unwrap().water_left_m([0.0, 0.0], 0);
        assert!((first - only - second).abs() < 1e-9);
    }

    #[test]
    fn a_mark_behind_closed_shores_is_refused() {
        let ring = [[-5.0, -5.0], [5.0, -5.0], [5.0, 5.0], [-5.0, 5.0], [-5.0, -5.0]];
        assert!(Water::of(&Chart::open([50.0, 0.0], 0.0, &[[0.0, 0.0]]).shore(&ring)).is_err());
    }
}
