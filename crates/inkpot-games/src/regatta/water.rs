//! A level made ready to be sailed on: shores found by where a boat is, and the ways around them.

use super::chart::Chart;
use super::geometry::{Line, Point, course, cross, minus, plus};
use super::routes::Routes;
use super::rules::RAY_M;

/// Side of a cell of the index (m).
const CELL_M: f64 = 8.0;

/// A level made ready.
#[derive(Debug)]
pub(crate) struct Water {
    pub(crate) start: Point,
    /// The bow of a boat on the starting line.
    pub(crate) bow: Point,
    /// The direction from which the wind comes before shifts (degrees of the compass).
    pub(crate) wind_from: f64,
    pub(crate) marks: Vec<Point>,
    pub(crate) radius_m: f64,
    pub(crate) shores: Vec<Line>,
    near: Near,
    routes: Routes,
}

impl Water {
    /// Makes a chart ready. Errs where a mark cannot be reached.
    pub(crate) fn of(chart: &Chart) -> Result<Self, String> {
        let shores = chart.lines();
        let routes = Routes::of(chart, &shores);
        if !routes.left_m(&shores, chart.start, 0).is_finite() {
            return Err("a mark cannot be reached by water".into());
        }
        Ok(Self {
            start: chart.start,
            bow: course(chart.heading),
            wind_from: chart.wind_from,
            marks: chart.marks.clone(),
            radius_m: chart.radius_m,
            near: Near::of(&shores),
            shores,
            routes,
        })
    }

    /// Whether a shore stops a boat on its way, which is this long.
    #[inline]
    pub(crate) fn stops(&self, from: Point, to: Point, length_m: f64) -> bool {
        let cell = self.near.at(from);
        cell.clear_m <= length_m && cell.lines.iter().any(|line| line.meets(from, to))
    }

    /// Reports the distance to the nearest shore along each ray, at most [`RAY_M`]; `rays` are relative to the bow,
    /// ahead and to starboard.
    #[inline]
    pub(crate) fn look(&self, at: Point, bow: Point, rays: &[Point], mut report: impl FnMut(usize, f64)) {
        let cell = self.near.at(at);
        if cell.clear_m >= RAY_M {
            rays.iter().enumerate().for_each(|(ray, _)| report(ray, RAY_M));
            return;
        }
        for (ray, &[ahead, starboard]) in rays.iter().enumerate() {
            let way = [bow[0] * ahead + bow[1] * starboard, bow[1] * ahead - bow[0] * starboard];
            report(ray, cast(&cell.lines, at, way));
        }
    }

    /// Straight distance left to the last mark from here, mark by mark; none once there is no next.
    pub(crate) fn straight_left_m(&self, at: Point, mark: usize) -> f64 {
        let legs = self.marks[mark.min(self.marks.len())..].iter();
        legs.fold((0.0, at), |(sum, from), &to| (sum + super::geometry::distance(from, to), to)).0
    }

    /// Distance left to the last mark along the water, around every shore, mark by mark.
    pub(crate) fn water_left_m(&self, at: Point, mark: usize) -> f64 {
        self.routes.left_m(&self.shores, at, mark)
    }
}

/// Returns the length of a ray until it meets one of these lines, at most [`RAY_M`].
#[inline]
fn cast(lines: &[Line], at: Point, way: Point) -> f64 {
    let mut nearest = RAY_M;
    for line in lines {
        let (edge, off) = (minus(line.to, line.from), minus(line.from, at));
        let across = cross(way, edge);
        // By how much of the line, and how far along the ray, both times `across`.
        let (share, far) = (cross(off, way), cross(off, edge));
        let (share, far, across) = if across < 0.0 { (-share, -far, -across) } else { (share, far, across) };
        if share >= 0.0 && share <= across && far >= 0.0 && far < nearest * across {
            nearest = far / across;
        }
    }
    nearest
}

/// Shores by where a boat is: a grid of square cells.
#[derive(Debug)]
struct Near {
    low: Point,
    columns: usize,
    rows: usize,
    cells: Vec<Cell>,
    /// The cell for places outside of the grid.
    outside: Cell,
}

/// One cell: the shores that a boat in it may see.
#[derive(Clone, Debug, Default)]
struct Cell {
    /// No shore is nearer than this to any point of the cell (m).
    clear_m: f64,
    lines: Vec<Line>,
}

impl Near {
    fn of(shores: &[Line]) -> Self {
        let outside = Cell { clear_m: f64::INFINITY, lines: Vec::new() };
        let ends = || shores.iter().flat_map(|line| [line.from, line.to]);
        let edge = |axis: usize| {
            let (low, high) = ends().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), point| {
                (low.min(point[axis]), high.max(point[axis]))
            });
            (low - RAY_M - CELL_M, high + RAY_M + CELL_M)
        };
        if shores.is_empty() {
            return Self { low: [0.0; 2], columns: 0, rows: 0, cells: Vec::new(), outside };
        }
        let ((west, east), (south, north)) = (edge(0), edge(1));
        let count = |low: f64, high: f64| ((high - low) / CELL_M).ceil() as usize;
        let (columns, rows) = (count(west, east), count(south, north));
        let reach = CELL_M * std::f64::consts::FRAC_1_SQRT_2;
        let cell = |index: usize| {
            let (column, row) = (index % columns, index / columns);
            let middle = plus([west, south], [(column as f64 + 0.5) * CELL_M, (row as f64 + 0.5) * CELL_M]);
            let far = |line: &Line| line.distance(middle);
            let nearest = shores.iter().map(far).fold(f64::INFINITY, f64::min);
            let mut lines: Vec<Line> = shores.iter().filter(|line| far(line) <= RAY_M + reach).copied().collect();
            lines.sort_by(|a, b| far(a).total_cmp(&far(b)));
            Cell { clear_m: (nearest - reach).max(0.0), lines }
        };
        Self { low: [west, south], columns, rows, cells: (0..columns * rows).map(cell).collect(), outside }
    }

    #[inline]
    fn at(&self, point: Point) -> &Cell {
        let [x, y] = [0, 1].map(|axis| (point[axis] - self.low[axis]) * (1.0 / CELL_M));
        if x < 0.0 || y < 0.0 || x >= self.columns as f64 || y >= self.rows as f64 {
            return &self.outside;
        }
        &self.cells[y as usize * self.columns + x as usize]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::regatta::geometry::{length, times};
    use crate::regatta::levels;
    use inkpot_core::Chance;

    /// A ray followed in steps of a centimetre.
    fn stepped(lines: &[Line], at: Point, way: Point) -> f64 {
        let step = times(way, 0.01);
        let mut here = at;
        for count in 0..4_000 {
            let next = plus(here, step);
            if lines.iter().any(|line| line.meets(here, next)) {
                return f64::from(count) * 0.01;
            }
            here = next;
        }
        RAY_M
    }

    #[test]
    fn rays_end_where_a_walk_along_them_meets_a_shore() {
        let water = Water::of(&levels::harbour()).unwrap();
        let mut chance = Chance::from_seed(1);
        let rays: Vec<Point> = (0..9).map(|ray| course(f64::from(ray) * 40.0)).map(|[x, y]| [y, x]).collect();
        for _ in 0..40 {
            let at = [chance.between(-120.0, 160.0), chance.between(-60.0, 260.0)];
            let bow = course(chance.between(0.0, 360.0));
            water.look(at, bow, &rays, |ray, far| {
                let [ahead, starboard] = rays[ray];
                let way = [bow[0] * ahead + bow[1] * starboard, bow[1] * ahead - bow[0] * starboard];
                let walked = stepped(&water.shores, at, way);
                assert!((length(way) - 1.0).abs() < 1e-9);
                assert!((far - walked).abs() < 0.03, "ray {ray} from {at:?}: {far}, walked {walked}");
            });
        }
    }

    #[test]
    fn the_index_stops_a_boat_where_all_shores_together_do() {
        let water = Water::of(&levels::harbour()).unwrap();
        let mut chance = Chance::from_seed(2);
        let mut stopped = 0;
        for _ in 0..20_000 {
            let from = [chance.between(-120.0, 160.0), chance.between(-60.0, 260.0)];
            let to = plus(from, times(course(chance.between(0.0, 360.0)), 3.0));
            let all = water.shores.iter().any(|line| line.meets(from, to));
            assert_eq!(water.stops(from, to, 3.0), all, "{from:?} to {to:?}");
            stopped += u32::from(all);
        }
        assert!(stopped > 100, "{stopped}");
    }
}
