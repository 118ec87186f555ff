//! A game's scene in the cells of a terminal.

use inkpot_core::{Paint, Scene, Shape};
use ratatui::Frame;
use ratatui::layout::Rect;
use ratatui::style::{Color, Style};
use ratatui::symbols::Marker;
use ratatui::widgets::canvas::{Canvas, Circle, Context, Line, Points, Rectangle};

/// A drawn scene.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Drawn {
    pub(crate) color: bool,
    pub(crate) marker: Marker,
}

impl Drawn {
    /// Draws a scene, and a seat's perception over it.
    pub(crate) fn draw(self, frame: &mut Frame, area: Rect, scene: &Scene, over: &[Shape]) {
        let (x, y) = bounds(scene, area);
        let cell = (x[1] - x[0]) / f64::from(area.width.max(1));
        let canvas = Canvas::default().marker(self.marker).x_bounds(x).y_bounds(y);
        let canvas = canvas.paint(|context| {
            // What belongs to seats is drawn last: where two meet in a cell, the last one gives its colour.
            let (back, front): (Vec<&Shape>, Vec<&Shape>) = scene.shapes.iter().partition(|shape| is_back(shape));
            for shape in back.into_iter().chain(over) {
                self.shape(context, shape, cell);
            }
            context.layer();
            for shape in front {
                self.shape(context, shape, cell);
            }
        });
        frame.render_widget(canvas, area);
    }

    fn ink(self, paint: Paint) -> Color {
        match paint {
            _ if !self.color => Color::Reset,
            Paint::Ground => Color::Gray,
            Paint::Faint => Color::DarkGray,
            Paint::Seat(0) => Color::LightBlue,
            Paint::Seat(1) => Color::Yellow,
            Paint::Seat(2) => Color::LightGreen,
            Paint::Seat(3) => Color::LightMagenta,
            Paint::Seat(_) => Color::LightCyan,
            Paint::Signal => Color::LightRed,
            Paint::Ink => Color::Reset,
        }
    }

    /// A shape, where a cell is so wide.
    fn shape(self, context: &mut Context, shape: &Shape, cell: f64) {
        let line =
            |from: [f64; 2], to: [f64; 2], color: Color| Line { x1: from[0], y1: from[1], x2: to[0], y2: to[1], color };
        match shape {
            Shape::Line { from, to, paint, .. } => context.draw(&line(*from, *to, self.ink(*paint))),
            Shape::Rectangle { low, high, paint } => context.draw(&Rectangle {
                x: low[0],
                y: low[1],
                width: high[0] - low[0],
                height: high[1] - low[1],
                color: self.ink(*paint),
            }),
            Shape::Circle { radius, .. } if *radius <= 0.0 => {}
            Shape::Circle { centre, radius, paint } | Shape::Ring { centre, radius, paint } => {
                let color = self.ink(*paint);
                if *radius < 0.6 * cell {
                    context.draw(&Points::new(&[(centre[0], centre[1])], color));
                } else {
                    context.draw(&Circle { x: centre[0], y: centre[1], radius: *radius, color });
                }
            }
            Shape::Area { corners, paint } => {
                for (from, to) in corners.iter().zip(corners.iter().cycle().skip(1)) {
                    context.draw(&line(*from, *to, self.ink(*paint)));
                }
            }
            Shape::Text { at, text, paint, .. } => {
                let left = at[0] - cell * (text.chars().count().saturating_sub(1)) as f64 / 2.0;
                let text = ratatui::text::Line::styled(text.clone(), Style::new().fg(self.ink(*paint)));
                context.print(left, at[1], text);
            }
        }
    }
}

/// Whether a shape is part of the level.
fn is_back(shape: &Shape) -> bool {
    let paint = match shape {
        Shape::Line { paint, .. }
        | Shape::Rectangle { paint, .. }
        | Shape::Circle { paint, .. }
        | Shape::Ring { paint, .. }
        | Shape::Area { paint, .. }
        | Shape::Text { paint, .. } => paint,
    };
    matches!(paint, Paint::Ground | Paint::Faint)
}

/// The window of a scene, opened so that its units are as long upwards as across: a cell is about twice as high as wide.
fn bounds(scene: &Scene, room: Rect) -> ([f64; 2], [f64; 2]) {
    let cells = [f64::from(room.width.max(1)), 2.0 * f64::from(room.height.max(1))];
    let size = [0, 1].map(|axis| (scene.high[axis] - scene.low[axis]).max(1e-9));
    let unit = (size[0] / cells[0]).max(size[1] / cells[1]);
    let around = |axis: usize| {
        let (middle, half) = (f64::midpoint(scene.low[axis], scene.high[axis]), unit * cells[axis] / 2.0);
        [middle - half, middle + half]
    };
    (around(0), around(1))
}
