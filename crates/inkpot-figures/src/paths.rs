//! Paths on a level, over those of a population.

use crate::Drawing;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed};
use crate::palette::{AXIS, INDIGO, INK, ORANGE, Rgb, SECOND, tint};
use crate::scene::Map;

/// Ways over a level, in the units of the level; y grows upwards.
#[derive(Clone, Debug, PartialEq)]
pub struct Paths {
    /// The words.
    pub words: Words,
    /// Lower left and upper right corner of the least visible window.
    pub window: [[f64; 2]; 2],
    /// Shapes of the level.
    pub level: Vec<PathsShape>,
    /// The name of the walker.
    pub name: String,
    /// The ways.
    pub ways: Vec<Vec<[f64; 2]>>,
    /// The name of the others at these places.
    pub others: String,
    /// Each place where one of them was at a moment.
    pub visits: Vec<[f64; 2]>,
}

/// Something that stands on a level.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "plain coordinates, and sizes in the units of the level")]
pub enum PathsShape {
    Line { from: [f64; 2], to: [f64; 2] },
    Faint { from: [f64; 2], to: [f64; 2] },
    Area { low: [f64; 2], high: [f64; 2] },
    Circle { centre: [f64; 2], radius: f64 },
    Text { at: [f64; 2], text: String },
}

/// Cells along the longer side.
const CELLS: f64 = 90.0;
/// Steps of the scale of colours.
const STEPS: usize = 40;

/// Returns the colour of a cell with this share of the fullest one.
fn heat(share: f64) -> Rgb {
    tint(ORANGE, 0.12 + 0.78 * share.sqrt())
}

impl Paths {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let [low, high] = self.shown();
        let size = [0, 1].map(|axis| (high[axis] - low[axis]).max(1e-9));
        let room = (WIDTH - 2.0 * PADDING, HEIGHT - BOTTOM - TOP - 24.0);
        let scale = (room.0 / size[0]).min(room.1 / size[1]);
        let left = PADDING + ((room.0 - size[0] * scale) / 2.0).min(240.0);
        let map = Map { low, origin: (left, TOP - 8.0 + size[1] * scale), scale };
        self.heated(&mut canvas, &map, size);
        for shape in &self.level {
            shape.draw(&mut canvas, &map);
        }
        // Whoever goes far beyond the level goes along its edge here.
        let at = |point: &[f64; 2]| map.at([0, 1].map(|axis| point[axis].clamp(low[axis], high[axis])));
        for way in self.ways.iter().filter(|way| way.len() > 1) {
            canvas.path(way.iter().map(at).collect(), INDIGO, 1.8);
        }
        for end in self.ways.iter().filter_map(|way| way.last()) {
            canvas.disc(at(end), 4.0, INDIGO);
        }
        self.key(&mut canvas, map.origin.1 + 26.0, left);
        canvas.finish()
    }

    /// The window, opened to the ways, five times as large at most, and to most of where the others were, three times.
    fn shown(&self) -> [[f64; 2]; 2] {
        let [mut low, mut high] = self.window;
        for axis in 0..2 {
            let size = high[axis] - low[axis];
            let held = |value: f64, sizes: f64| value.clamp(low[axis] - sizes * size, high[axis] + sizes * size);
            let mut visited: Vec<f64> = self.visits.iter().map(|point| point[axis]).collect();
            visited.sort_by(f64::total_cmp);
            let at = |share: f64| visited.get((visited.len() as f64 * share) as usize).copied();
            let ways = self.ways.iter().flatten().map(|point| held(point[axis], 2.0));
            let most = [at(0.02), at(0.98)].into_iter().flatten().map(|value| held(value, 1.0));
            let all: Vec<f64> = ways.chain(most).collect();
            let margin = 0.03 * size;
            for value in all {
                low[axis] = low[axis].min(value - margin);
                high[axis] = high[axis].max(value + margin);
            }
        }
        [low, high]
    }

    /// Draws the paths of the population: the fuller a cell, the stronger its colour.
    fn heated(&self, canvas: &mut Canvas, map: &Map, size: [f64; 2]) {
        let cell = size[0].max(size[1]) / CELLS;
        let counts = size.map(|side| (side / cell).ceil() as usize);
        let mut visits = vec![0_u32; counts[0] * counts[1]];
        for point in &self.visits {
            let place = [0, 1].map(|axis| ((point[axis] - map.low[axis]) / cell).floor());
            if (0..2).all(|axis| place[axis] >= 0.0 && (place[axis] as usize) < counts[axis]) {
                visits[place[1] as usize * counts[0] + place[0] as usize] += 1;
            }
        }
        // The few fullest cells, where all begin or are stuck, have the strongest colour alike.
        let mut filled: Vec<u32> = visits.iter().copied().filter(|count| *count > 0).collect();
        filled.sort_unstable();
        let most = filled.get(filled.len() * 98 / 100).copied().unwrap_or(1);
        for (place, count) in visits.iter().enumerate().filter(|(_, count)| **count > 0) {
            let [x, y] = [place % counts[0], place / counts[0]].map(|index| index as f64 * cell);
            let corner = [map.low[0] + x, map.low[1] + y];
            let (from, to) = (map.at(corner), map.at([corner[0] + cell, corner[1] + cell]));
            canvas.rectangle(
                (from.0, to.1),
                (to.0 + 0.3, from.1 + 0.3),
                heat((f64::from(*count) / f64::from(most)).min(1.0)),
            );
        }
    }

    /// Draws the legend.
    fn key(&self, canvas: &mut Canvas, y: f64, left: f64) {
        let bold = Type::new(LABEL, INDIGO).bold();
        canvas.line((left, y - 5.0), (left + 30.0, y - 5.0), INDIGO, 2.4);
        canvas.text((left + 40.0, y), &self.name, bold, Anchor::Start);
        let at = left + 40.0 + canvas.measure(&self.name, bold) + 44.0;
        for step in 0..STEPS {
            let x = at + 2.0 * step as f64;
            canvas.rectangle((x, y - 11.0), (x + 2.3, y), heat(step as f64 / STEPS as f64));
        }
        let end = at + 2.0 * STEPS as f64 + 10.0;
        canvas.text((end, y), &self.others, Type::new(LABEL, SECOND), Anchor::Start);
    }
}

impl PathsShape {
    fn draw(&self, canvas: &mut Canvas, map: &Map) {
        match self {
            Self::Line { from, to } => canvas.line(map.at(*from), map.at(*to), INK, 2.0),
            Self::Faint { from, to } => canvas.line(map.at(*from), map.at(*to), tint(AXIS, 0.7), 1.2),
            Self::Area { low, high } => {
                let (from, to) = (map.at(*low), map.at(*high));
                canvas.rectangle((from.0, to.1), (to.0, from.1), tint(AXIS, 0.35));
            }
            Self::Circle { centre, radius } => {
                let corner = |step: usize| {
                    let angle = std::f64::consts::TAU * step as f64 / 48.0;
                    map.at([centre[0] + radius * angle.cos(), centre[1] + radius * angle.sin()])
                };
                canvas.path((0..=48).map(corner).collect(), SECOND, 1.6);
            }
            Self::Text { at, text } => {
                let (x, y) = map.at(*at);
                canvas.text((x, y + 5.0), text, Type::new(LABEL, INK).bold(), Anchor::Middle);
            }
        }
    }
}
