//! Waters drawn from a seed: islands and moles, and marks between them that can all be reached.

use inkpot_core::Chance;

use super::chart::Chart;
use super::geometry::{Line, Point, course, distance, plus, times};
use super::water::Water;

/// Half the side of the square in which marks and shores lie (m).
const HALF_M: f64 = 110.0;
/// The least distance of shores from start and marks (m).
const ROOM_M: f64 = 18.0;
/// The least distance from mark to mark (m).
const LEG_M: f64 = 60.0;
/// Draws of a thing that finds no room before the water is drawn again.
const TRIES: usize = 200;

/// The numbers of marks and shores.
#[derive(Clone, Copy, Debug)]
pub(crate) struct ChartSize {
    pub(crate) marks: usize,
    pub(crate) shores: usize,
}

/// The water of this number of this seed.
pub(crate) fn water(seed: u64, number: u64, size: ChartSize) -> Water {
    let mut chance = Chance::from_seed(seed.wrapping_mul(1_000_003).wrapping_add(number));
    loop {
        if let Some(water) = chart(size, &mut chance).and_then(|chart| Water::of(&chart).ok()) {
            return water;
        }
    }
}

fn anywhere(chance: &mut Chance) -> Point {
    [chance.between(-HALF_M, HALF_M), chance.between(-HALF_M, HALF_M)]
}

/// A chart; none where something found no room.
fn chart(size: ChartSize, chance: &mut Chance) -> Option<Chart> {
    let mut stops = vec![anywhere(chance)];
    for _ in 0..size.marks {
        let before = stops[stops.len() - 1];
        let fits = |point: &Point| distance(*point, before) >= LEG_M;
        stops.push((0..TRIES).map(|_| anywhere(chance)).find(fits)?);
    }
    let heading = chance.between(0.0, 360.0);
    let mut chart = Chart::open(stops[0], heading, &stops[1..]);
    for _ in 0..size.shores {
        let fits = |shore: &Vec<Point>| {
            let mut lines = shore.windows(2).map(|pair| Line { from: pair[0], to: pair[1] });
            lines.all(|line| stops.iter().all(|stop| line.distance(*stop) >= ROOM_M))
        };
        let drawn = (0..TRIES).map(|_| shore(chance)).find(fits)?;
        chart = chart.shore(&drawn);
    }
    Some(chart)
}

/// A mole of two arms, or an island of three to five corners.
fn shore(chance: &mut Chance) -> Vec<Point> {
    let middle = anywhere(chance);
    let turn = chance.between(0.0, 360.0);
    let out = |degrees: f64, far: f64| plus(middle, times(course(turn + degrees), far));
    if chance.happens(0.5) {
        let (bend, size) = (chance.between(60.0, 180.0), chance.between(15.0, 40.0));
        return vec![out(0.0, size), middle, out(bend, size)];
    }
    let corners = 3 + chance.below(3);
    let each = 360.0 / corners as f64;
    let mut island: Vec<Point> =
        (0..corners).map(|corner| out(corner as f64 * each, chance.between(8.0, 30.0))).collect();
    island.push(island[0]);
    island
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_mark_of_every_water_can_be_reached_and_no_two_are_alike() {
        let size = ChartSize { marks: 3, shores: 6 };
        let mut seen = Vec::new();
        for number in 0..60 {
            let water = water(7, number, size);
            let (straight, along) = (water.straight_left_m(water.start, 0), water.water_left_m(water.start, 0));
            assert!(along.is_finite() && along >= straight - 1e-9, "{along} along, {straight} straight");
            assert_eq!((water.marks.len(), water.shores.len() >= 12), (3, true));
            assert!(!seen.contains(&water.marks));
            seen.push(water.marks);
        }
    }
}
