//! Pictures as columns of whole numbers: constant columns are stored once, moving ones in a few digits.

use std::collections::HashMap;

use serde::Serialize;

use crate::scene::{Paint, Shape};

/// Pictures, all in steps of one size.
#[derive(Clone, Debug, Default)]
pub(super) struct Reel {
    /// Units of the scene in a step; 0 until the first picture.
    step: f64,
    pictures: Vec<Picture>,
    texts: Vec<String>,
    places: HashMap<String, i64>,
}

/// One picture: which shapes there are, and their numbers one after the other.
#[derive(Clone, Debug, PartialEq)]
struct Picture {
    kinds: String,
    numbers: Vec<i64>,
}

/// The data that the page's script reads.
#[derive(Debug, Serialize)]
pub(super) struct Stored<'a> {
    /// Units of the scene in a step.
    step: f64,
    /// Texts that shapes refer to.
    texts: &'a [String],
    /// Stretches of pictures of the same shapes, in order.
    runs: Vec<Run<'a>>,
}

impl Stored<'_> {
    /// Units of the scene in a step.
    pub(super) fn step(&self) -> f64 {
        self.step
    }
}

/// Pictures of the same shapes.
#[derive(Debug, Serialize)]
struct Run<'a> {
    /// Number of pictures.
    count: usize,
    /// A letter for each shape; an area is followed by its number of corners and a full stop.
    kinds: &'a str,
    /// The numbers of each shape in turn.
    columns: Vec<Column>,
}

/// One number over a run.
#[derive(Debug, PartialEq, Serialize)]
#[serde(untagged)]
enum Column {
    /// The same all along.
    Still(i64),
    /// The first value, then by how much each differs from the one before it.
    Moving(Vec<i64>),
}

/// Steps across the wider side of a window, at least.
const FINE: f64 = 10_000.0;

/// The largest power of ten that divides a window finely enough.
fn step_of(window: [[f64; 2]; 2]) -> f64 {
    let wide = (0..2).map(|axis| window[1][axis] - window[0][axis]).fold(1e-9, f64::max);
    10_f64.powf((wide / FINE).log10().floor())
}

/// The number of a paint: those of seats from 4 on.
fn paint_number(paint: Paint) -> i64 {
    match paint {
        Paint::Ground => 0,
        Paint::Faint => 1,
        Paint::Signal => 2,
        Paint::Ink => 3,
        Paint::Seat(seat) => 4 + seat as i64,
    }
}

impl Reel {
    /// Adds a picture; the window belongs to it, and that of the first sets how fine all are.
    pub(super) fn push(&mut self, window: [[f64; 2]; 2], shapes: &[Shape]) {
        if self.step == 0.0 {
            self.step = step_of(window);
        }
        let mut kinds = String::new();
        let mut numbers = Vec::new();
        let step = self.step;
        let number = |value: f64| (value / step).round() as i64;
        numbers.extend(window.into_iter().flatten().map(number));
        for shape in shapes {
            match shape {
                Shape::Line { from, to, width, paint } => {
                    kinds.push('l');
                    numbers.extend([from[0], from[1], to[0], to[1], *width].map(number));
                    numbers.push(paint_number(*paint));
                }
                Shape::Rectangle { low, high, paint } => {
                    kinds.push('r');
                    numbers.extend([low[0], low[1], high[0], high[1]].map(number));
                    numbers.push(paint_number(*paint));
                }
                Shape::Circle { centre, radius, paint } | Shape::Ring { centre, radius, paint } => {
                    kinds.push(if matches!(shape, Shape::Circle { .. }) { 'c' } else { 'o' });
                    numbers.extend([centre[0], centre[1], *radius].map(number));
                    numbers.push(paint_number(*paint));
                }
                Shape::Area { corners, paint } => {
                    kinds.extend(["a", &corners.len().to_string(), "."]);
                    numbers.extend(corners.iter().flatten().copied().map(number));
                    numbers.push(paint_number(*paint));
                }
                Shape::Text { at, text, size, paint } => {
                    kinds.push('t');
                    numbers.extend([at[0], at[1], *size].map(number));
                    numbers.push(self.text(text));
                    numbers.push(paint_number(*paint));
                }
            }
        }
        self.pictures.push(Picture { kinds, numbers });
    }

    fn text(&mut self, text: &str) -> i64 {
        if let Some(place) = self.places.get(text) {
            return *place;
        }
        let place = self.texts.len() as i64;
        self.texts.push(text.into());
        self.places.insert(text.into(), place);
        place
    }

    /// These pictures, in order.
    pub(super) fn stored(&self, indices: &[usize]) -> Stored<'_> {
        let pictures: Vec<&Picture> = indices.iter().filter_map(|&at| self.pictures.get(at)).collect();
        let runs = pictures.chunk_by(|a, b| a.kinds == b.kinds).map(|run| {
            let column = |at: usize| {
                let values: Vec<i64> = run.iter().map(|picture| picture.numbers[at]).collect();
                column(&values)
            };
            Run { count: run.len(), kinds: &run[0].kinds, columns: (0..run[0].numbers.len()).map(column).collect() }
        });
        Stored { step: self.step, texts: &self.texts, runs: runs.collect() }
    }
}

/// A value over pictures.
fn column(values: &[i64]) -> Column {
    let (Some(&first), true) = (values.first(), values.windows(2).any(|pair| pair[0] != pair[1])) else {
        return Column::Still(values.first().copied().unwrap_or(0));
    };
    Column::Moving(std::iter::once(first).chain(values.windows(2).map(|pair| pair[1] - pair[0])).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    const WINDOW: [[f64; 2]; 2] = [[-1.0, 0.0], [15.0, 4.0]];

    fn circle(x: f64) -> Shape {
        Shape::Circle { centre: [x, 1.0], radius: 0.2, paint: Paint::Seat(1) }
    }

    #[test]
    fn what_stays_is_told_once_and_what_moves_by_how_much() {
        let mut reel = Reel::default();
        for x in [2.0, 2.05, 2.05, 1.9996] {
            reel.push(WINDOW, &[circle(x)]);
        }
        let json = serde_json::to_value(reel.stored(&[0, 1, 2, 3])).unwrap();
        assert_eq!(json["step"], 0.001);
        let run = &json["runs"][0];
        assert_eq!((&run["count"], &run["kinds"]), (&4.into(), &"c".into()));
        let columns = serde_json::json!([-1000, 0, 15000, 4000, [2000, 50, 0, -50], 1000, 200, 5]);
        assert_eq!(run["columns"], columns);
    }

    #[test]
    fn other_shapes_begin_another_run_and_left_out_pictures_are_gone() {
        let mut reel = Reel::default();
        let text = |text: &str| Shape::Text { at: [0.0; 2], text: text.into(), size: 1.0, paint: Paint::Ink };
        reel.push(WINDOW, &[circle(1.0)]);
        reel.push(WINDOW, &[circle(2.0)]);
        reel.push(WINDOW, &[circle(3.0), text("over")]);
        let json = serde_json::to_value(reel.stored(&[0, 2])).unwrap();
        let kinds: Vec<_> = json["runs"].as_array().unwrap().iter().map(|run| run["kinds"].clone()).collect();
        assert_eq!(kinds, ["c", "ct"]);
        assert_eq!(json["texts"], serde_json::json!(["over"]));
    }
}
