//! Plain shapes in units of their own, and a still of them.

use crate::Drawing;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, HEIGHT, PADDING, TOP, WIDTH, Words, framed};
use crate::palette::{AXIS, CATEGORIES, GRID, INK, Rgb, SECOND, tint};

/// The role of a shape.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[expect(missing_docs, reason = "the ground, what matters least, a seat's own, a warning, lettering")]
pub enum Paint {
    Ground,
    Faint,
    Seat(usize),
    Signal,
    Ink,
}

/// One shape; x grows to the right and y upwards.
#[derive(Clone, Debug, PartialEq)]
#[expect(
    missing_docs,
    reason = "plain coordinates, and sizes in the same units; a circle is filled, a ring is not; the size of a text is the height of \
              its letters"
)]
pub enum Shape {
    Line { from: [f64; 2], to: [f64; 2], width: f64, paint: Paint },
    Rectangle { low: [f64; 2], high: [f64; 2], paint: Paint },
    Circle { centre: [f64; 2], radius: f64, paint: Paint },
    Ring { centre: [f64; 2], radius: f64, paint: Paint },
    Area { corners: Vec<[f64; 2]>, paint: Paint },
    Text { at: [f64; 2], text: String, size: f64, paint: Paint },
}

/// A still: shapes in a window, with words around them.
#[derive(Clone, Debug, PartialEq)]
pub struct Still {
    /// The words.
    pub words: Words,
    /// Lower left and upper right corner of the window.
    pub window: [[f64; 2]; 2],
    /// The shapes, in the order of drawing.
    pub shapes: Vec<Shape>,
}

/// The category of each seat, and that of a signal.
const SEATS: [usize; 5] = [0, 1, 2, 4, 5];
const SIGNAL: usize = 3;
/// Sides of a circle as it is drawn.
const SIDES: usize = 64;
/// Letters are about this share of the size of their type.
const LETTERS: f64 = 0.72;

/// The map from scene units to pixels.
pub(crate) struct Map {
    pub(crate) low: [f64; 2],
    pub(crate) origin: (f64, f64),
    pub(crate) scale: f64,
}

impl Map {
    pub(crate) fn at(&self, point: [f64; 2]) -> (f64, f64) {
        let [x, y] = [0, 1].map(|axis| (point[axis] - self.low[axis]) * self.scale);
        (self.origin.0 + x, self.origin.1 - y)
    }
}

fn colour(paint: Paint) -> Rgb {
    match paint {
        Paint::Ground => tint(AXIS, 0.45),
        Paint::Faint => tint(SECOND, 0.35),
        Paint::Seat(seat) => CATEGORIES[SEATS[seat % SEATS.len()]].0,
        Paint::Signal => CATEGORIES[SIGNAL].0,
        Paint::Ink => INK,
    }
}

impl Still {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let [low, high] = self.window;
        let size = [0, 1].map(|axis| (high[axis] - low[axis]).max(1e-9));
        let room = (WIDTH - 2.0 * PADDING, HEIGHT - BOTTOM - TOP + 40.0);
        let scale = (room.0 / size[0]).min(room.1 / size[1]);
        let left = PADDING + (room.0 - size[0] * scale) / 2.0;
        let base = TOP - 30.0 + f64::midpoint(room.1, size[1] * scale);
        let map = Map { low, origin: (left, base), scale };
        let edge = [low, [high[0], low[1]], high, [low[0], high[1]], low];
        canvas.path(edge.map(|point| map.at(point)).to_vec(), GRID, 1.0);
        for shape in &self.shapes {
            shape.draw(&mut canvas, &map);
        }
        canvas.finish()
    }
}

impl Shape {
    fn draw(&self, canvas: &mut Canvas, map: &Map) {
        let around = |centre: [f64; 2], radius: f64| {
            let corner = |side: usize| {
                let angle = std::f64::consts::TAU * side as f64 / SIDES as f64;
                map.at([centre[0] + radius * angle.cos(), centre[1] + radius * angle.sin()])
            };
            (0..=SIDES).map(corner).collect::<Vec<_>>()
        };
        match self {
            Self::Line { from, to, width, paint } => {
                canvas.line(map.at(*from), map.at(*to), colour(*paint), (width * map.scale).max(1.0));
            }
            Self::Rectangle { low, high, paint } => {
                let (from, to) = (map.at(*low), map.at(*high));
                canvas.rectangle((from.0, to.1), (to.0, from.1), colour(*paint));
            }
            Self::Circle { centre, radius, paint } if *radius > 0.0 => {
                canvas.area(around(*centre, *radius), colour(*paint));
            }
            Self::Circle { .. } => {}
            Self::Ring { centre, radius, paint } => canvas.path(around(*centre, *radius), colour(*paint), 1.8),
            Self::Area { corners, paint } => {
                canvas.area(corners.iter().map(|corner| map.at(*corner)).collect(), colour(*paint));
            }
            Self::Text { at, text, size, paint } => {
                let (x, y) = map.at(*at);
                let size = (size * map.scale / LETTERS).clamp(9.0, 60.0);
                let kind = Type::new(size, colour(*paint)).bold();
                canvas.text((x, y + size * LETTERS / 2.0), text, kind, Anchor::Middle);
            }
        }
    }
}
